package mechanism

import (
	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
)

// Hanging is how a joint stands where nothing moves it: along with what it hangs on, as at rest, and from there as the clip's keys of its own have it.
type Hanging struct {
	joint   int
	carrier Resource
	hung    bool
	local   geometry.Transform // against its carrier at rest
	keyed   bool               // some clip has keys of its own
}

// HangingOf returns how a joint stands where nothing moves it, and what a task reads that asks for it.
func (b *Bench) HangingOf(joint int) (Hanging, []Resource) {
	carrier, rest, hung := b.CarrierOf(joint)
	h := Hanging{joint, carrier, hung, rest.Inverse().Then(b.Rest(joint)), b.keyed[joint]}
	var reads []Resource
	if h.hung {
		reads = append(reads, carrier)
	}
	if h.keyed {
		reads = append(reads, Resource{Kind: PoseOf, Index: joint})
	}
	return h, reads
}

// In returns the place and the own scale in a frame.
func (h *Hanging) In(f *Frame) (geometry.Transform, mgl64.Vec3) {
	if h.hung {
		return h.On(f, f.At(h.carrier))
	}
	return h.posed(f, h.local)
}

// On returns the place and the own scale where the carrier stands at a place.
func (h *Hanging) On(f *Frame, carrier geometry.Transform) (geometry.Transform, mgl64.Vec3) {
	return h.posed(f, carrier.Then(h.local))
}

func (h *Hanging) posed(f *Frame, at geometry.Transform) (geometry.Transform, mgl64.Vec3) {
	if !h.keyed {
		return at, mgl64.Vec3{1, 1, 1}
	}
	pose := &f.Poses[h.joint]
	return at.Then(pose.Offset), pose.Girth
}
