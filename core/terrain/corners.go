package terrain

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"
)

// Corners visits the places where the ground changes along a level way through a place, as far ahead and back as reach, with their heights: what is laid over it may bend there. One may come more than
// once.
func (g *Ground) Corners(at, ahead mgl64.Vec3, reach float64, visit func(x, height float64)) {
	if g.Shape == Surface {
		g.Field.pieces(mgl64.Vec2{at[0], at[2]}, mgl64.Vec2{ahead[0], ahead[2]}, reach, func(from, to, low, high float64) {
			visit(from, g.Level+low)
			visit(to, g.Level+high)
		})
		return
	}
	pace, here := g.pace(ahead), g.along(at)
	if pace == 0 || math.IsNaN(pace) {
		return
	}
	change := func(runs float64) {
		x := (runs - here) / pace
		if math.Abs(x) > reach {
			return
		}
		before, after := at.Add(ahead.Mul(x-reach*1e-9)), at.Add(ahead.Mul(x+reach*1e-9))
		visit(x, math.Max(g.Height(before), g.Height(after)))
	}
	switch g.Shape {
	case Slope:
		change(0)
		change(1)
	case Steps:
		span := reach * math.Abs(pace)
		for k := math.Max(0, math.Floor(here-span)); k <= math.Min(g.Count-1, math.Ceil(here+span)); k++ {
			change(k)
		}
	}
}
