// Package hub is what kinds share whose wheels stand on the ground: how high a hub is held there, and how a body settles on it.
package hub

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/ground"
	"myriapod/core/terrain"
)

// Hub is the hub of a wheel on the ground, as if the global control stood at rest.
type Hub struct {
	Ground *terrain.Ground // nil for none
	Radius float64         // to where the wheel, or what lies round it, touches the ground
	Rest   mgl64.Vec3      // where it is at rest
	Ahead  mgl64.Vec3      // the level way that it goes there
	Gap    float64         // how far over the ground, dilated by the wheel, it is at rest
}

// New returns the hub of a wheel that stands at rest in a place, on the bench's ground.
func New(b *mechanism.Bench, radius float64, rest, ahead mgl64.Vec3) (*Hub, error) {
	on, err := ground.Of(b)
	if err != nil {
		return nil, err
	}
	h := &Hub{Ground: on, Radius: radius, Rest: rest, Ahead: ahead}
	if on != nil {
		h.Gap = rest[1] - h.Level(rest, ahead)
	}
	return h, nil
}

// Level is how high the hub stands over a place, going ahead.
func (h *Hub) Level(at, ahead mgl64.Vec3) float64 {
	height, _ := h.Ground.Hub(at, ahead, h.Radius)
	return height
}

// Lift is how far a suspension takes the hub up that goes so far up and down, and how steeply its way rises. end tells that it goes no farther.
func (h *Hub) Lift(at, ahead mgl64.Vec3, travel float64) (lift, slope float64, end bool) {
	height, slope := h.Ground.Hub(at, ahead, h.Radius)
	if travel == 0 {
		return 0, slope, false
	}
	wanted := height + h.Gap - at[1]
	lift = math.Max(-travel, math.Min(travel, wanted))
	return lift, slope, lift != wanted
}

// Settles has bodies settle on the hub: where the clip has the body take it, the ground is so much higher than at rest.
func (h *Hub) Settles(b *mechanism.Bench) {
	fall := b.OfferFootfall(mechanism.Standing{At: h.Rest, Gap: h.Gap})
	b.AddWhole(mechanism.Task{
		Reads: []mechanism.Resource{{Kind: mechanism.Clock}, {Kind: mechanism.Ahead}}, Writes: []mechanism.Resource{{Kind: mechanism.FootfallOf, Index: fall}},
		Run: func(f *mechanism.Frame) {
			f.Footfalls[fall] = mechanism.Footfall{}
			if h.Ground == nil || f.Still || f.Journey == nil {
				return
			}
			body := f.Journey.Body(f.Time)
			turn := mgl64.QuatRotate(mechanism.Heading(body.Rotation), geometry.Up)
			f.Footfalls[fall].Rise = h.Level(body.Apply(h.Rest), turn.Rotate(h.Ahead)) - h.Level(h.Rest, h.Ahead)
		},
	})
}
