// Package evaluate runs a plan: channels and time in, joint and control transforms and deformed vertices out. After the
// first frame nothing is allocated, and a change runs only the tasks that depend on it.
package evaluate

import (
	"fmt"
	"math"
	"strings"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/motion"
	"myriapod/core/plan"
	"myriapod/core/rig"
)

// MaxMove bounds what a hand or clip may say of a value that is no angle; it keeps every result finite. Angles are bounded by mechanism.MostValue alone.
const MaxMove = 1e6

// MaxMorph is how much of a morph target is mixed in at most.
const MaxMorph = mechanism.MaxMorph

// Evaluator evaluates one plan, which others may evaluate at the same time. It is not safe for concurrent use itself.
type Evaluator struct {
	Plan  *plan.Plan
	Frame *mechanism.Frame
	dirty []bool
	clip  *motion.Clip
	rest  []float64 // inputs at rest, by slot
	idle  idleness
	// By track, joint track and morph track of the clip: the slot or the joint; -1 for none.
	slots, joints, morphs []int
	wanted                []float64        // scratch of PoseAt, by slot
	poses                 []mechanism.Pose // scratch of PoseAt, by joint
	steps                 *steps           // along the clip; nil until it is needed
	hand                  *hand            // nil where none holds anything
	reached               map[int][]bool   // by control: the tasks that it hangs on
	held                  []Held           // what hands hold all along
	turnedBy              []Held           // what hands hold that rates go by now
	totalled              bool             // what comes together along the clip is known
	forgot                bool             // the memory of steppers is not that of the present time
}

// New returns an evaluator at rest; its first Evaluate runs everything.
func New(p *plan.Plan) *Evaluator {
	e := &Evaluator{Plan: p, Frame: p.NewFrame(), dirty: make([]bool, len(p.Tasks)), rest: p.Layout.Resting(), forgot: true}
	e.wanted, e.poses = make([]float64, len(e.rest)), make([]mechanism.Pose, len(e.Frame.Poses))
	e.idle = newIdleness(p)
	for i := range e.dirty {
		e.dirty[i] = true
	}
	return e
}

func (e *Evaluator) touch(task int) {
	if e.dirty[task] {
		return
	}
	e.dirty[task] = true
	for _, i := range e.Plan.Rewrites[task] {
		e.touch(i)
	}
	for _, i := range e.Plan.Dependents[task] {
		e.touch(i)
	}
}

// SetStill stills or frees all motion that time drives.
func (e *Evaluator) SetStill(still bool) {
	if e.Frame.Still != still {
		e.Frame.Still = still
		e.touchClocked()
	}
}

// SetAtHome has every control stand at its home wherever it starts, for the rest pose, or frees them again.
func (e *Evaluator) SetAtHome(home bool) {
	if e.Frame.AtHome == home {
		return
	}
	e.Frame.AtHome = home
	for control := range e.Plan.Document.Controls {
		for _, resource := range mechanism.ChannelsOf(control) {
			e.touchReaders(resource.Index)
		}
	}
}

func (e *Evaluator) touchClocked() {
	for _, task := range e.Plan.Clocked {
		e.touch(task)
	}
}

// SetClip has the clip drive its channels from now on; nil for none. Tracks of controls that are not there are passed over.
func (e *Evaluator) SetClip(clip *motion.Clip) {
	clear(e.Frame.Rolls) // of the clip before
	clear(e.Frame.Held)
	e.totals(clip)
	e.ways(clip)
	journey := e.journey(clip)
	e.rolls(clip, journey)
	e.holdings(clip, journey)
	e.follow(clip, journey)
}

// follow has a clip drive what it moves, whose way is known.
func (e *Evaluator) follow(clip *motion.Clip, journey *mechanism.Journey) {
	e.clip, e.slots, e.joints, e.morphs = clip, nil, nil, nil
	e.steps, e.hand, e.forgot = nil, nil, true
	e.Frame.Journey = journey
	e.touchClocked()
	if clip == nil {
		return
	}
	for _, track := range clip.Joints {
		joint, ok := e.Plan.JointIndex[track.Joint]
		if !ok {
			joint = -1
		}
		e.joints = append(e.joints, joint)
	}
	for _, track := range clip.Morphs {
		e.morphs = append(e.morphs, e.find(rig.Address{Of: track.Part, Key: track.Morph}))
	}
	for _, track := range clip.Tracks {
		e.slots = append(e.slots, e.find(rig.Address{Of: track.Control, Key: string(track.Channel)}))
	}
}

// SetTime moves to a time in seconds: what the clip moves takes its values there, and what the clock drives runs again. A time
// that is not finite counts as 0.
func (e *Evaluator) SetTime(seconds float64) {
	seconds = sensible(seconds)
	if e.clip != nil {
		e.readClip(seconds, e.set, e.setPose, e.Frame.Poses)
	}
	e.setClock(seconds)
}

// sensible is a time that evaluation takes.
func sensible(seconds float64) float64 {
	if !geometry.Finite(seconds) || math.Abs(seconds) > 1e7 {
		return 0
	}
	return seconds
}

func (e *Evaluator) setClock(seconds float64) {
	if e.Frame.Time != seconds {
		e.Frame.Time, e.forgot = seconds, true
		e.touchClocked()
	}
}

// SetFrame moves to a frame of the document's rate.
func (e *Evaluator) SetFrame(frame float64) { e.SetTime(frame / e.Plan.Document.FPS) }

// Evaluate brings the frame up to date.
func (e *Evaluator) Evaluate() {
	if len(e.Plan.Totals) > 0 && !e.totalled {
		e.totals(e.clip)
	}
	e.remember()
	e.run(nil)
}

// run runs the tasks that have to be, of those that are needed; nil for all.
func (e *Evaluator) run(needed []bool) {
	for i, dirty := range e.dirty {
		if dirty && (needed == nil || needed[i]) {
			for _, finding := range e.Plan.Tasks[i].Raises {
				e.Frame.Findings[finding] = false
			}
			e.Plan.Tasks[i].Run(e.Frame)
			e.dirty[i] = false
		}
	}
}

// JointMatrix returns the world matrix of a joint, own scale and the size of everything included.
func (e *Evaluator) JointMatrix(joint int) mgl64.Mat4 {
	f := e.Frame
	return e.JointAt(joint).Matrix(f.Scales[joint].Mul(f.Size))
}

// JointAt returns where a joint stands in the world, the size of everything reckoned with.
func (e *Evaluator) JointAt(joint int) geometry.Transform {
	at := e.Frame.Joints[joint]
	return geometry.Transform{Position: e.Frame.Scaled(at.Position), Rotation: at.Rotation}
}

// ControlAt returns where a control stands in the world, the size of everything reckoned with.
func (e *Evaluator) ControlAt(control int) geometry.Transform {
	at := e.Frame.Shown(control)
	return geometry.Transform{Position: e.Frame.Scaled(at.Position), Rotation: at.Rotation}
}

// Findings lists what the present frame raises, with how much there is of it where that is said.
func (e *Evaluator) Findings() []mechanism.Finding {
	found := []mechanism.Finding{}
	for i, raised := range e.Frame.Findings {
		if raised {
			finding := e.Plan.Findings[i]
			finding.Text = strings.ReplaceAll(finding.Text, "{}", fmt.Sprintf("%.2g", e.Frame.Amounts[i]))
			found = append(found, finding)
		}
	}
	return found
}
