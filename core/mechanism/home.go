package mechanism

import (
	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
)

// HomeWriter takes the home of a control elsewhere: Place returns where it is from where it would be. Several work one on top of the other, in the order of
// the document.
type HomeWriter struct {
	Place  func(f *Frame, home geometry.Transform) geometry.Transform
	Reads  []Resource
	Raises []int
}

// CarryHome has a writer work on a control's home.
func (b *Bench) CarryHome(control int, w HomeWriter) { b.Homes[control] = append(b.Homes[control], w) }

// Below is how a joint stands below the present mechanism: as those before it have it, or as it goes along with what it hangs on.
type Below struct {
	base
	joint int
}

// Below returns how a joint stands below the present mechanism, and what a task reads that asks for it.
func (b *Bench) Below(joint int) (Below, []Resource) {
	below := Below{base: base{parent: -1, moved: b.written[joint]}, joint: joint}
	if below.moved {
		return below, []Resource{{Kind: Joint, Index: joint}}
	}
	var rest geometry.Transform
	below.carrier, rest, below.hung = b.CarrierOf(joint)
	below.local = rest.Inverse().Then(b.Rest(joint))
	if below.hung {
		return below, []Resource{below.carrier}
	}
	return below, nil
}

// In returns the place and the own scale in a frame.
func (s Below) In(f *Frame) (geometry.Transform, mgl64.Vec3) {
	switch {
	case s.moved:
		return f.Joints[s.joint], f.Scales[s.joint]
	case s.hung:
		return f.At(s.carrier).Then(s.local), mgl64.Vec3{1, 1, 1}
	}
	return s.local, mgl64.Vec3{1, 1, 1}
}
