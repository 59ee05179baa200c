package mechanism

import "github.com/go-gl/mathgl/mgl64"

// Footfall is how much higher a foot stands, or a wheel, than at rest, arcs between two places apart: what a body settles on. In metres, at size 1 and as the
// global control has it at rest.
type Footfall struct{ Rise float64 }

// OfferFootfall offers what a body settles on, in the present mechanism's name, by where it stands at rest. It returns the index in Frame.Footfalls.
func (b *Bench) OfferFootfall(rest mgl64.Vec3) int {
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
