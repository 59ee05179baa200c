package mechanism

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/rig"
)

// OutlinePoints is how many points a fitted outline has.
const OutlinePoints = 40

// Outline returns the outline of a plain shape that reaches as far as reach, in metres, from the middle, across the main axis; the
// pennant points along the second axis. A shape that is fitted to the body gets a hoop.
func Outline(shape rig.Shape, reach float64) []mgl64.Vec3 {
	switch shape {
	case rig.Pennant:
		return scaled(pennant, reach)
	case rig.Square:
		return scaled([]mgl64.Vec3{{1, 0, 1}, {1, 0, -1}, {-1, 0, -1}, {-1, 0, 1}}, reach/math.Sqrt2)
	case rig.Lozenge:
		return scaled([]mgl64.Vec3{{0, 0, 1}, {0, 1, 0}, {0, 0, -1}, {0, -1, 0}, {0, 0, 1}, {1, 0, 0}, {0, 0, -1}, {-1, 0, 0}}, reach)
	case rig.Cross:
		return scaled(cross, reach)
	}
	return hoop(reach)
}

// pennant is a swallow-tailed flag lying flat that points forward.
var pennant = []mgl64.Vec3{{0, 0, 0.75}, {0.3, 0, -0.25}, {0.105, 0, -0.1}, {-0.105, 0, -0.1}, {-0.3, 0, -0.25}}

var cross = []mgl64.Vec3{
	{0.3, 0, 1},
	{0.3, 0, 0.3},
	{1, 0, 0.3},
	{1, 0, -0.3},
	{0.3, 0, -0.3},
	{0.3, 0, -1},
	{-0.3, 0, -1},
	{-0.3, 0, -0.3},
	{-1, 0, -0.3},
	{-1, 0, 0.3},
	{-0.3, 0, 0.3},
	{-0.3, 0, 1},
}

func scaled(points []mgl64.Vec3, by float64) []mgl64.Vec3 {
	list := make([]mgl64.Vec3, len(points))
	for i, p := range points {
		list[i] = p.Mul(by)
	}
	return list
}

func hoop(radius float64) []mgl64.Vec3 {
	points := make([]mgl64.Vec3, OutlinePoints)
	for i := range points {
		sine, cosine := math.Sincos(2 * math.Pi * float64(i) / OutlinePoints)
		points[i] = mgl64.Vec3{radius * sine, 0, radius * cosine}
	}
	return points
}

// Behind returns the half of an outline that lies behind its middle, away from forward (a direction in the outline's own frame): a crescent,
// there and back, whose inner edge keeps a tenth off. It leaves free what the outline would run across in front.
func Behind(outline []mgl64.Vec3, forward mgl64.Vec3) []mgl64.Vec3 {
	if len(outline) < 3 {
		return outline
	}
	middle := mgl64.Vec3{}
	for _, p := range outline {
		middle = middle.Add(p.Mul(1 / float64(len(outline))))
	}
	front := 0
	for i, p := range outline {
		if p.Sub(middle).Dot(forward) > outline[front].Sub(middle).Dot(forward) {
			front = i
		}
	}
	var outer, inner []mgl64.Vec3
	for k := range outline { // from the front once round, so that what is behind is one run
		p := outline[(front+k)%len(outline)]
		if p.Sub(middle).Dot(forward) <= 0 {
			outer = append(outer, p)
			inner = append([]mgl64.Vec3{middle.Add(p.Sub(middle).Mul(0.9))}, inner...)
		}
	}
	return append(outer, inner...)
}
