package mechanism

import (
	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/terrain"
)

// Footfall is how much higher a foot stands, or a wheel, than at rest, arcs between two places apart: what a body settles on. In metres, at size 1 and as the
// global control has it at rest.
type Footfall struct{ Rise float64 }

// Standing is what a body settles on at rest: where it stands, and how far over the ground, in metres.
type Standing struct {
	At  mgl64.Vec3
	Gap float64
}

// OfferFootfall offers what a body settles on, in the present mechanism's name. It returns the index in Frame.Footfalls.
func (b *Bench) OfferFootfall(rest Standing) int {
	b.Footfalls = append(b.Footfalls, rest)
	return len(b.Footfalls) - 1
}

// FootfallsOf lists all that is offered, as resources.
func (b *Bench) FootfallsOf() []Resource {
	list := make([]Resource, len(b.Footfalls))
	for i := range list {
		list[i] = Resource{Kind: FootfallOf, Index: i}
	}
	return list
}

// Ground is what a specimen stands on, as it is shown and written.
type Ground struct {
	Owner   string // the mechanism whose it is
	Terrain *terrain.Ground
	Drawn   bool // on the stage and in pictures
	Handed  bool // in models that are written
}
