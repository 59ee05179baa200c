package along

import (
	"fmt"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/curve"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
)

// Turner says how the joints of a chain turn about its curve. Each frame has its own.
type Turner interface {
	// Carry is called when the curve has been carried to its controls, before anything shapes it.
	Carry(*mechanism.Frame)
	// Begin is called when the curve stands, before the first Turn of a frame.
	Begin(*mechanism.Frame, *curve.Ruler)
	// Turn returns the angle from the carried frame to joint i, which rides at the parameter u, where that frame is.
	Turn(f *mechanism.Frame, i int, u float64, carried curve.Frame) float64
	// Rest measures joint i, which rides at u in the rest pose, and returns its angle there.
	Rest(f *mechanism.Frame, ruler *curve.Ruler, i int, u float64, carried curve.Frame) float64
	// Raises lists the findings that Begin and Turn may raise.
	Raises() []int
	// Widen returns how much wider joint i is than at rest, on its first and on its third axis; it rides at u.
	Widen(i int, u float64) (x, z float64)
}

// Reads is what the two tasks of a chain read beside its controls: the one that carries the curve, and the one that places the joints.
type Reads struct{ Carry, Place []mechanism.Resource }

// Chain is a chain along a curve prepared for evaluation.
type Chain struct {
	settings
	Controls []int
	Places   []float64 // of the controls, as shares of the curve's length
	Line     *Line
	curve    int
	joints   []int
	rest     []geometry.Transform

	// Measured on the rest pose.
	bones   []float64 // rest length from joint i to i+1
	Shares  []float64 // place of joint i along the curve, 0 to 1
	gaps    []float64 // rest arc length from joint i to i+1
	offsets []mgl64.Vec3
	turns   []mgl64.Quat // from the bone's frame to the joint's orientation
	powers  []float64    // of the volume, before its strength
	settle  float64      // the length over which what goes past the end comes to be straight: a mean bone

	folded, collapsed, strained int // findings

	riding mechanism.Scratch[riding]
}

// riding is a chain in one frame.
type riding struct {
	*Chain
	turner  Turner
	riders  []rider
	places  []mgl64.Vec3 // of the joints
	lengths []float64    // of the bones
	wanted  []mgl64.Vec3 // of the line
}

func (c *Chain) ridden(turner Turner) *riding {
	n := len(c.joints)
	return &riding{Chain: c, turner: turner, riders: make([]rider, n), places: make([]mgl64.Vec3, n), lengths: make([]float64, n-1), wanted: c.Line.Wanted()}
}

// in runs something on the chain in a frame.
func (c *Chain) in(do func(*riding, *mechanism.Frame)) func(*mechanism.Frame) {
	return func(f *mechanism.Frame) { do(c.riding.In(f), f) }
}

// Prepare lays the tasks of the bench's mechanism on the bench: one that carries its curve, one that places its joints. prepareTurner
// may ask the chain about its controls and joints; it returns what makes the turner of a frame, and what else that reads.
func Prepare(b *mechanism.Bench, prepareTurner func(*Chain) (func() Turner, Reads)) error {
	controls, err := b.ControlIndices()
	if err != nil {
		return err
	}
	joints, err := b.JointIndices()
	if err != nil {
		return err
	}
	if len(controls) < LeastControls || len(joints) < LeastJoints {
		return fmt.Errorf("it has %d controls and %d joints or more, not %d and %d", LeastControls, LeastJoints, len(controls), len(joints))
	}
	c, reaches, reads := newChain(b, controls, joints)
	ruler, err := Fit(c.rest, len(controls))
	if err != nil {
		return err
	}
	if c.Line, err = Tie(b, ruler, controls, c.Places, reaches); err != nil {
		return err
	}
	makeTurner, more := prepareTurner(c)
	c.riding = mechanism.ScratchOf(b, func() *riding { return c.ridden(makeTurner()) })
	c.lay(b, makeTurner().Raises(), Reads{append(reads.Carry, more.Carry...), append(reads.Place, more.Place...)})
	return nil
}

func newChain(b *mechanism.Bench, controls, joints []int) (*Chain, [2]mechanism.Number, Reads) {
	n := len(joints)
	settings, reaches, reads := read(b)
	c := &Chain{
		settings: settings, Controls: controls, Places: Places(b.Mechanism), joints: joints,
		rest: make([]geometry.Transform, n), bones: make([]float64, n-1), Shares: make([]float64, n), gaps: make([]float64, n-1), offsets: make([]mgl64.Vec3, n),
		turns: make([]mgl64.Quat, n), powers: make([]float64, n),
	}
	for i, joint := range joints {
		c.rest[i] = b.Rest(joint)
	}
	for i := range c.bones {
		c.bones[i] = c.rest[i+1].Position.Sub(c.rest[i].Position).Len()
		c.settle += c.bones[i] / float64(len(c.bones))
	}
	name := b.Mechanism.Name
	c.folded = b.Finding(fmt.Sprintf("The curve of %s folds tighter than its bones are long; spread its controls apart or lay more joints.", name))
	c.collapsed = b.Finding(fmt.Sprintf("The curve of %s stands still in one spot; move its controls apart.", name))
	c.strained = b.Finding(fmt.Sprintf("%s stretches beyond its limits to stay at its last control; bring that nearer.", name))
	return c, reaches, reads
}

func (c *Chain) lay(b *mechanism.Bench, raises []int, reads Reads) {
	c.curve = b.Offer(mechanism.NewCurve(pointCount(len(c.Controls))))
	carry := mechanism.Task{Run: c.in((*riding).carry), Reads: reads.Carry, Writes: []mechanism.Resource{{Kind: mechanism.CurveOf, Index: c.curve}}}
	place := mechanism.Task{Run: c.in((*riding).place), Calibrate: c.in((*riding).calibrate), Raises: append(raises, c.folded, c.collapsed, c.strained), Reads: append([]mechanism.Resource{{Kind: mechanism.CurveOf, Index: c.curve}}, reads.Place...)}
	for _, control := range c.Controls {
		resource := mechanism.Resource{Kind: mechanism.Control, Index: control}
		carry.Reads = append(carry.Reads, resource)
		place.Reads = append(place.Reads, resource)
	}
	for _, joint := range c.joints {
		place.Writes = append(place.Writes, mechanism.Resource{Kind: mechanism.Joint, Index: joint})
	}
	b.Add(carry)
	b.Add(place)
}

// Joints returns how many joints ride.
func (c *Chain) Joints() int { return len(c.joints) }

// RestOf returns how joint i stands at rest.
func (c *Chain) RestOf(i int) geometry.Transform { return c.rest[i] }

// carry brings the curve along with its controls.
func (c *riding) carry(f *mechanism.Frame) {
	curve := f.Curves[c.curve]
	c.Line.Carry(f, curve.Base.Points, c.wanted)
	curve.Carry(c.Line.First(f), f.Controls[c.Controls[0]].Rotation.Rotate(geometry.SecondAxis), c.Line.Last(f))
	c.turner.Carry(f)
}
