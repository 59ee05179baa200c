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
	// Complete is called when all mechanisms are prepared, and returns what the writer reads of them beside Reads; nil for nothing.
	Complete func(b *Bench) []Resource
}

// CarryHome has a writer work on a control's home.
func (b *Bench) CarryHome(control int, w HomeWriter) { b.Homes[control] = append(b.Homes[control], w) }

// Carry has a writer take a control along, its own motion included. What it does must not hang on that motion, so that hands can bring the control to a place.
func (b *Bench) Carry(control int, w HomeWriter) {
	b.Carriers[control] = append(b.Carriers[control], w)
}

// Below is how a joint stands below the present mechanism: as those before it have it, or where nothing moves it.
type Below struct {
	hangs Hanging
	moved bool
	joint int
}

// Below returns how a joint stands below the present mechanism, and what a task reads that asks for it.
func (b *Bench) Below(joint int) (Below, []Resource) {
	if b.written[joint] {
		return Below{moved: true, joint: joint}, []Resource{{Kind: Joint, Index: joint}}
	}
	hangs, reads := b.HangingOf(joint)
	return Below{hangs: hangs, joint: joint}, reads
}

// In returns the place and the own scale in a frame.
func (s *Below) In(f *Frame) (geometry.Transform, mgl64.Vec3) {
	if s.moved {
		return f.Joints[s.joint], f.Scales[s.joint]
	}
	return s.hangs.In(f)
}
