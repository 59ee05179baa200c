package mechanism

import (
	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
)

// Hanging is how a joint stands where nothing moves it: along with what it hangs on, as at rest.
type Hanging struct {
	carrier Resource
	hung    bool
	local   geometry.Transform // against its carrier at rest
}

// HangingOf returns how a joint stands where nothing moves it, and what a task reads that asks for it.
func (b *Bench) HangingOf(joint int) (Hanging, []Resource) {
	carrier, rest, hung := b.CarrierOf(joint)
	stand := Hanging{carrier, hung, rest.Inverse().Then(b.Rest(joint))}
	if hung {
		return stand, []Resource{carrier}
	}
	return stand, nil
}

// In returns the place and the own scale in a frame.
func (s *Hanging) In(f *Frame) (geometry.Transform, mgl64.Vec3) {
	if s.hung {
		return s.On(f.At(s.carrier))
	}
	return s.local, mgl64.Vec3{1, 1, 1}
}

// On returns the place and the own scale where the carrier stands at a place.
func (s *Hanging) On(carrier geometry.Transform) (geometry.Transform, mgl64.Vec3) {
	return carrier.Then(s.local), mgl64.Vec3{1, 1, 1}
}
