package mechanism

import "github.com/go-gl/mathgl/mgl64"

// Turning is something that turns about an axis that it carries, by any number of turns: what meshes with it turns with it.
type Turning struct {
	Index  int        // in Frame.Turnings, in radians about Axis
	Origin mgl64.Vec3 // of the axis at rest
	Axis   mgl64.Vec3 // at rest; a unit vector
	Radius float64    // of its rim, 0 where it is not known
}

// OfferTurning offers how far a joint is turned by the present mechanism, which writes it as TurningOf, and returns the index in Frame.Turnings.
func (b *Bench) OfferTurning(joint string, t Turning) int {
	if b.turnings == nil {
		b.turnings = map[string]Turning{}
	}
	t.Index = b.Turnings
	b.Turnings++
	b.turnings[joint] = t
	return t.Index
}

// TurningOf returns how a joint is turned by a mechanism before the present one. ok is false where none offers that.
func (b *Bench) TurningOf(joint string) (t Turning, ok bool) {
	t, ok = b.turnings[joint]
	return t, ok
}
