package mechanism

import (
	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/curve"
	"myriapod/core/formula"
	"myriapod/core/geometry"
	"myriapod/core/rig"
)

// Frame is the state that tasks read and write: flat arrays, laid out once by the plan. Inputs and Values hold every number that can be driven (see
// Layout): what hand, clip or default say, and what comes of it. Transforms are in the world.
type Frame struct {
	Time    float64          // seconds
	Journey *Journey         // where the clip takes the body; nil without a clip
	Held    [][]Held         // who holds what along the clip; nil where there is none
	Rolls   []*Rolled        // of what rolls; nil where there is no clip
	Ways    []*Way           // of the controls that are measured along the clip; nil without one
	Totals  []*formula.Total // what comes together by rates along the clip (Bench.Total); nil where that is not worked out
	Still   bool             // motion driven by time is stilled, for the rest pose
	AtHome  bool             // controls stand at home wherever they start, for the rest pose
	Inputs  []float64
	Values  []float64
	// Size is the uniform scale that the global control gives, and Centre what it scales about. Everything is evaluated at size 1;
	// what is shown, or written out, is scaled.
	Size     float64
	Centre   mgl64.Vec3
	Controls []geometry.Transform
	// Carried is, by control, the motion that a mechanism takes it along by, in the world: a gait the target of a foot. Controls is
	// without it; what is shown, and where a hand takes hold of it, is with it.
	Carried   []geometry.Transform
	Joints    []geometry.Transform
	Poses     []Pose       // by joint: how a clip moves it, where it moves joints
	Scales    []mgl64.Vec3 // own scale of each joint, in its local axes; never inherited
	Curves    []*Curve
	Turnings  []float64    // how far what meshes is turned, in radians
	Footfalls []Footfall   // what a body settles on
	Goals     []Goal       // where limbs are to reach, as controls have it and others shape it
	Instances [][]Instance // by set: where a part is drawn beside itself
	Findings  []bool       // by the index that Bench.Finding gave
	Amounts   []float64    // by the same: how much there is of it, for those that say so

	// Memory is what steppers remember; Step is how many seconds they go on by, 0 where they only show it, and Fresh tells that it is the first step of all.
	Memory []float64
	Step   float64
	Fresh  bool

	scratch []any // by the index in Scratch
}

// Goal is where a limb is to reach. Stands tells that its foot stands on the ground, so that it must not slide.
type Goal struct {
	At     geometry.Transform
	Stands bool
}

// Channel returns one of the channels that every control has.
func (f *Frame) Channel(control int, channel rig.Channel) float64 {
	return f.Values[control*rig.ChannelCount+channel.Index()]
}

// Shown returns where a control is as a mechanism carries it along, at size 1.
func (f *Frame) Shown(control int) geometry.Transform {
	return f.Carried[control].Then(f.Controls[control])
}

// Scaled returns where a place is shown: scaled about the global control.
func (f *Frame) Scaled(place mgl64.Vec3) mgl64.Vec3 {
	if f.Size == 1 {
		return place
	}
	return f.Centre.Add(place.Sub(f.Centre).Mul(f.Size))
}

// Unscaled returns the place that is shown at a place: Scaled undone.
func (f *Frame) Unscaled(place mgl64.Vec3) mgl64.Vec3 {
	return f.Centre.Add(place.Sub(f.Centre).Mul(1 / f.Size))
}

// ResourceKind is what a task can read or write.
type ResourceKind uint8

// The kinds of resources.
const (
	ValueOf     ResourceKind = iota // a value; one that nothing drives is only read
	Control                         // the world transform of a control
	Joint                           // the world transform and own scale of a joint
	CurveOf                         // a curve
	InstancesOf                     // a set of instances
	GoalOf                          // a goal
	Clock                           // the time; only read
	PoseOf                          // how a clip moves a joint; only read
	Ahead                           // where the body was and will be (Frame.Journey), or from 1 on what is measured along the clip (Frame.Ways); only read
	FootfallOf                      // what a body settles on
	HeldBy                          // who holds something along the clip (Frame.Held); only read
	TurningOf                       // how far something is turned
	RollOf                          // how far something rolls along the clip (Frame.Rolls); only read
	TotalOf                         // what comes together by a rate along the clip (Frame.Totals); only read
)

// Pose is a joint's motion away from its rest, in its own axes, and its own scale.
type Pose struct {
	Offset geometry.Transform
	Girth  mgl64.Vec3
}

// AtRest is the pose that moves nothing.
func AtRest() Pose { return Pose{Offset: geometry.Identity(), Girth: mgl64.Vec3{1, 1, 1}} }

// Resource names one thing that tasks read or write.
type Resource struct {
	Kind  ResourceKind
	Index int
}

// Task is one step of evaluation. A task that reads and writes one resource works on what stands there from the tasks before
// it in document order; one that only reads sees the final state.
//
// # What Run owes
//
// It writes all that Writes and Carries name, each time, and nothing else; it reads what Reads names and nothing else, time, memory and what lies ahead among
// it. What it writes is finite for any finite input, goes on evenly wherever the input does, and is the same to the bit whatever ran before: it may run twice
// for a frame, or not at all where nothing that it reads changed. It allocates nothing, and keeps what it works out in the frame (Scratch), never in the task, as
// several frames run it at once. Lengths and tolerances are shares of what was measured at rest.
//
// # Who lowers a finding
//
// The evaluator, for all in Raises, each time before the task runs. A task only ever raises, in the frame in which the thing happens.
//
// # What comes by itself
//
// Influence: joints that a task places are mixed with what stood there below, as much as the influence of its mechanism says (Bench.Add); a task that writes
// something else, or knows better, asks for InfluenceOf and lays itself by AddWhole. Mirroring: a copy's joints, controls and numbers are given as if they had been
// laid by hand, with rests that are mirror images; only a turn or swing about an axis of the mechanism's own is to be multiplied with Mechanism.Hand or
// Control.Hand. Scale: everything runs at size 1, and is scaled when it is shown.
//
// # Memory
//
// A task that says Steps keeps numbers from step to step, in Frame.Memory alone, and moves on while Frame.Step is above 0; see Memory. A frame hangs then on
// document, clip, time and what hands hold, and not on the way there. Snapshots and checkpoints are taken by the evaluator.
type Task struct {
	Subject   string // ID of the mechanism, control or joint it works for
	Reads     []Resource
	Writes    []Resource
	Raises    []int // the findings that it may raise; they are lowered before it runs, so it only ever raises them
	Carries   []int // controls whose Frame.Carried it writes
	Steps     bool  // it has memory, see Memory
	Run       func(*Frame)
	Calibrate func(*Frame) // run once on the rest pose instead of Run, to measure what must be kept; nil for Run
}

// Finding is something worth a rigger's attention at a part. Where its text says {}, that is how much there is of it in the frame (Frame.Amounts).
type Finding struct {
	Subject string `json:"subject"`
	Text    string `json:"text"`
}

// Curve is a line that controls carry, shapers bend and joints ride on. The plan has one for each to begin with, and every frame its own.
type Curve struct {
	Base  *curve.BSpline // the points as the controls carry them
	Ruler *curve.Ruler   // measures the line as the last shaper left it

	parts      int
	refinement *curve.Refinement
}

// NewCurve returns a curve of so many carried points.
func NewCurve(points int) *Curve {
	return &Curve{Base: curve.New(make([]mgl64.Vec3, points)), parts: 1}
}

// Require asks, before evaluation begins, that each piece of the line be cut in so many parts at least, so that a shaper can
// bend it finely.
func (c *Curve) Require(parts int) { c.parts = max(c.parts, parts) }

// Settle lays out the line when all requirements are known.
func (c *Curve) Settle() {
	refinement, line := c.Base.Refine(c.parts)
	c.refinement = refinement
	c.Ruler = curve.NewRuler(line)
}

// Fresh returns a settled curve of the same make with memory of its own.
func (c *Curve) Fresh() *Curve {
	fresh := &Curve{Base: c.Base.Clone(), parts: c.parts}
	fresh.Settle()
	return fresh
}

// Carry brings the carried points to the line and measures it (see curve.Ruler.Measure).
func (c *Curve) Carry(start, normal, end mgl64.Vec3) {
	c.refinement.Apply(c.Base, c.Ruler.Line)
	c.Ruler.Measure(start, normal, end)
}

// Again measures the line after a shaper moved its points. The frames start as they did before.
func (c *Curve) Again() {
	_, first := c.Ruler.FrameAt(0)
	_, last := c.Ruler.End()
	c.Ruler.Measure(first.Tangent, first.Normal, last.Tangent)
}
