package mechanism

import "github.com/go-gl/mathgl/mgl64"

// Puller is how a control is dragged that is held at a place on something that another number moves: Reach returns the value of that number, in Slot, with which the place
// comes nearest to a place in the world, at size 1. What its mechanism reads is up to date when it is called.
type Puller struct {
	Control int
	Slot    int
	Reach   func(f *Frame, to mgl64.Vec3) float64
}

// Pull has a control be dragged so.
func (b *Bench) Pull(p Puller) { b.Pullers = append(b.Pullers, p) }
