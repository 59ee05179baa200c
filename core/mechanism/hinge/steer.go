package hinge

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
)

// baseOf is how far behind the joints that turn the farthest of all wheels stands that are built already; half the specimen where there is none behind or ahead.
func baseOf(site *mechanism.Site) float64 {
	d, steers := site.Document, map[string]bool{}
	at := 0.0
	for _, id := range site.Mechanism.Joints {
		for _, below := range d.Under(id) {
			steers[below] = true
		}
		at += d.Joint(id).Position[2] / float64(len(site.Mechanism.Joints))
	}
	base := 0.0
	for _, j := range d.Joints {
		lone := len(d.ChildrenOf(j.ID)) == 0 && !steers[j.ID]
		if away := at - j.Position[2]; lone && math.Abs(away) > math.Abs(base) {
			base = away
		}
	}
	if base == 0 {
		return 0.5 * site.Size
	}
	return base
}

// steer lays out a wheel that steers: how far to the left of the middle of all it stands.
func (s *stage) steer(b *mechanism.Bench, joints []int) {
	axis := s.rest.Rotation.Rotate(geometry.MainAxis)
	left := geometry.Unit(axis.Cross(geometry.Forward), mgl64.Vec3{1, 0, 0})
	middle := mgl64.Vec3{}
	for _, joint := range joints {
		middle = middle.Add(b.Rest(joint).Position.Mul(1 / float64(len(joints))))
	}
	s.base = b.Settings.Number("base")
	s.aside = b.Rest(s.joint).Position.Sub(middle).Dot(left)
}

// steered is how far one wheel turns where a wheel in the middle of all would turn so far: all of them roll about one place on the line of the axle that does not steer.
//
// Source: Ackermann 1818 (patent), as in Jazar 2008, Vehicle dynamics, chapter 7.
func (s *stage) steered(value float64) float64 {
	if s.base == 0 {
		return value
	}
	sine, cosine := math.Sincos(value)
	return math.Atan2(math.Abs(s.base)*sine, math.Abs(s.base)*cosine-math.Copysign(1, s.base)*s.aside*sine)
}
