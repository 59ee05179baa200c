package splinechain

import (
	"fmt"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
)

// chain is a spline chain prepared for evaluation.
type chain struct {
	settings
	curve    int
	controls []int
	hands    []float64 // by control: -1 where it is a mirrored copy
	joints   []int
	rest     []geometry.Transform
	line     *line

	// Measured on the rest pose.
	bones        []float64 // rest length from joint i to i+1
	shares       []float64 // place of joint i along the curve, 0 to 1
	gaps         []float64 // rest arc length from joint i to i+1
	offsets      []mgl64.Vec3
	turns        []mgl64.Quat // from the bone's frame to the joint's orientation
	twistShares  []float64
	volumePowers []float64
	controlShare []float64
	restAngle    float64

	// Scratch of one evaluation.
	spread     []mgl64.Vec3 // the joints spread over the whole curve
	lengths    []float64
	riders     []rider
	twists     []float64
	turnsAbout []struct{ sine, cosine float64 } // of the twists

	folded, collapsed, opposed int // findings
}

// rider is a joint's place on the curve: the parameter u with its arc length, and past the end the distance beyond.
type rider struct {
	u, arc, beyond float64
	place          mgl64.Vec3 // of the joint, kept offset included
}

// Prepare implements mechanism.Kind.
func (Kind) Prepare(b *mechanism.Bench) error {
	controls, err := b.ControlIndices()
	if err != nil {
		return err
	}
	joints, err := b.JointIndices()
	if err != nil {
		return err
	}
	if len(controls) < leastControls || len(joints) < leastJoints {
		return fmt.Errorf("a spline chain has %d controls and %d joints or more, not %d and %d", leastControls, leastJoints, len(controls), len(joints))
	}
	c := newChain(b, controls, joints)
	ruler, err := fit(c.rest, len(controls))
	if err != nil {
		return err
	}
	if c.line, err = tie(b, ruler, controls); err != nil {
		return err
	}
	c.lay(b)
	return nil
}

func newChain(b *mechanism.Bench, controls, joints []int) *chain {
	n := len(joints)
	c := &chain{
		settings: read(b.Settings), controls: controls, joints: joints,
		rest: make([]geometry.Transform, n), bones: make([]float64, n-1), shares: make([]float64, n), gaps: make([]float64, n-1), offsets: make([]mgl64.Vec3, n),
		turns: make([]mgl64.Quat, n), twistShares: make([]float64, n), volumePowers: make([]float64, n), controlShare: make([]float64, len(controls)),
		spread: make([]mgl64.Vec3, n), lengths: make([]float64, n-1), riders: make([]rider, n), twists: make([]float64, n),
		turnsAbout: make([]struct{ sine, cosine float64 }, n),
	}
	c.twist *= b.Mechanism.Hand()
	for _, control := range controls {
		c.hands = append(c.hands, b.Document.Controls[control].Hand())
	}
	for i, joint := range joints {
		c.rest[i] = b.Rest(joint)
	}
	for i := range c.bones {
		c.bones[i] = c.rest[i+1].Position.Sub(c.rest[i].Position).Len()
	}
	name := b.Mechanism.Name
	c.folded = b.Finding(fmt.Sprintf("The curve of %s folds tighter than its bones are long; spread its controls apart or lay more joints.", name))
	c.collapsed = b.Finding(fmt.Sprintf("The curve of %s stands still in one spot; move its controls apart.", name))
	c.opposed = b.Finding(fmt.Sprintf("The ends of %s are turned half round against each other; its twist may change side.", name))
	return c
}

func (c *chain) lay(b *mechanism.Bench) {
	c.curve = b.Offer(mechanism.NewCurve(pointCount(len(c.controls))))
	carry := mechanism.Task{Run: c.carry, Writes: []mechanism.Resource{{Kind: mechanism.CurveOf, Index: c.curve}}}
	place := mechanism.Task{Run: c.place, Calibrate: c.calibrate, Reads: []mechanism.Resource{{Kind: mechanism.CurveOf, Index: c.curve}}}
	for _, control := range c.controls {
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

// carry brings the curve along with its controls.
func (c *chain) carry(f *mechanism.Frame) {
	curve := f.Curves[c.curve]
	c.line.carry(f, curve.Base.Points)
	first := f.Controls[c.controls[0]].Rotation
	curve.Carry(first.Rotate(geometry.MainAxis), first.Rotate(geometry.SecondAxis))
}
