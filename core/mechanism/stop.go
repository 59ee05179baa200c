package mechanism

import (
	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/rig"
)

// Stop is how far a channel of a control goes to each side before what it moves goes no farther, in metres or radians; it can be infinite.
type Stop struct {
	Control string      `json:"control"`
	Channel rig.Channel `json:"channel"`
	Low     float64     `json:"low"`
	High    float64     `json:"high"`
}

// Stop notes how far a channel goes, to be shown at the control.
func (b *Bench) Stop(stop Stop) { b.Stops = append(b.Stops, stop) }

// Puller is how a control is dragged that is held at a place on something that another number moves: Reach returns the value of that number, in Slot, with which the place
// comes nearest to a place in the world, at size 1. What its mechanism reads is up to date when it is called.
type Puller struct {
	Control int
	Slot    int
	Reach   func(f *Frame, to mgl64.Vec3) float64
}

// Pull has a control be dragged so.
func (b *Bench) Pull(p Puller) { b.Pullers = append(b.Pullers, p) }
