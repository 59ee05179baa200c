package terrain

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"
)

// Hub returns how high the hub of a wheel of a radius stands over a place on the ground, and how steeply it rises ahead: the ground dilated by the wheel, in the plane
// of the wheel alone, ahead being a level unit vector. At the edge of a step the wheel rolls over the edge.
//
// Method: the offset curve of the ground's profile (Minkowski sum with a disc), each straight piece of which is highest in closed form.
func (g *Ground) Hub(at, ahead mgl64.Vec3, radius float64) (height, slope float64) {
	best := lifted{height: math.Inf(-1)}
	switch g.Shape {
	case Slope:
		g.straight(at, ahead, radius, []float64{0, 1}, &best)
	case Steps:
		g.straight(at, ahead, radius, g.risers(at, ahead, radius), &best)
	case Surface:
		g.Field.pieces(mgl64.Vec2{at[0], at[2]}, mgl64.Vec2{ahead[0], ahead[2]}, radius, func(from, to, low, high float64) {
			best.take(from, to, g.Level+low, g.Level+high, radius)
		})
	}
	if math.IsInf(best.height, -1) { // level, or no ground at all: as it is under the hub
		level := g.Height(at)
		best.take(-radius, radius, level, level, radius)
	}
	return best.height, best.at / math.Sqrt(math.Max(1e-12, 1-best.at*best.at/(radius*radius))) / radius
}

// lifted is the highest that a wheel is held, and how far ahead of its hub it is held there.
type lifted struct{ height, at float64 }

// take has a straight piece of the ground hold the wheel, from one place to another ahead of its hub, with the heights there.
func (b *lifted) take(from, to, low, high, radius float64) {
	from, low, to, high = clipped(from, to, low, high, radius)
	if from > to {
		return
	}
	slope := 0.0
	if to > from {
		slope = (high - low) / (to - from)
	}
	at := math.Max(from, math.Min(to, radius*slope/math.Sqrt(1+slope*slope)))
	if height := low + slope*(at-from) + math.Sqrt(math.Max(0, (radius-at)*(radius+at))); height > b.height {
		*b = lifted{height, at}
	}
}

// clipped is the piece of a piece that lies under the wheel.
func clipped(from, to, low, high, radius float64) (float64, float64, float64, float64) {
	at := func(x float64) float64 {
		if to == from {
			return math.Max(low, high)
		}
		return low + (high-low)*(x-from)/(to-from)
	}
	a, b := math.Max(from, -radius), math.Min(to, radius)
	if a > b {
		return 1, 0, 0, 0
	}
	return a, at(a), b, at(b)
}

// risers lists where steps rise under a wheel, in runs.
func (g *Ground) risers(at, ahead mgl64.Vec3, radius float64) (list []float64) {
	here, reach := g.along(at), radius*math.Abs(g.pace(ahead))
	first, last := math.Max(0, math.Floor(here-reach)), math.Min(g.Count-1, math.Ceil(here+reach))
	for k := first; k <= last; k++ {
		list = append(list, k)
	}
	return list
}

// pace is how many runs one goes ahead by a metre.
func (g *Ground) pace(ahead mgl64.Vec3) float64 {
	sine, cosine := math.Sincos(g.Heading)
	return (ahead[0]*sine + ahead[2]*cosine) / g.Run
}

// straight takes the pieces of a ground that changes where so many runs lie behind.
func (g *Ground) straight(at, ahead mgl64.Vec3, radius float64, changes []float64, best *lifted) {
	pace, here := g.pace(ahead), g.along(at)
	ends := []float64{-radius}
	if pace != 0 {
		for _, change := range changes {
			if x := (change - here) / pace; x > -radius && x < radius {
				ends = append(ends, x)
			}
		}
	}
	ends = append(ends, radius)
	if pace < 0 { // they come from ahead
		for i, k := 1, len(ends)-2; i < k; i, k = i+1, k-1 {
			ends[i], ends[k] = ends[k], ends[i]
		}
	}
	for k := 1; k < len(ends); k++ {
		from, to := ends[k-1], ends[k]
		a, b := at.Add(ahead.Mul(from+(to-from)*1e-9)), at.Add(ahead.Mul(to-(to-from)*1e-9)) // within the piece: a riser stands at its end
		best.take(from, to, g.Height(a), g.Height(b), radius)
	}
}

// pieces visits the straight pieces of the surface under a wheel, as far ahead of a place as they go, with their heights.
func (f *Field) pieces(at, ahead mgl64.Vec2, radius float64, visit func(from, to, low, high float64)) {
	from, to := at.Sub(ahead.Mul(radius)), at.Add(ahead.Mul(radius))
	x0, x1 := f.column(0, math.Min(from[0], to[0])), f.column(0, math.Max(from[0], to[0]))
	z0, z1 := f.column(1, math.Min(from[1], to[1])), f.column(1, math.Max(from[1], to[1]))
	for z := z0; z <= z1; z++ {
		for x := x0; x <= x1; x++ {
			for _, i := range f.facesOf(x, z) {
				face := &f.faces[i]
				if begin, end, ok := face.clip(from, to); ok {
					low, _ := face.at(from.Add(to.Sub(from).Mul(begin)))
					high, _ := face.at(from.Add(to.Sub(from).Mul(end)))
					visit((2*begin-1)*radius, (2*end-1)*radius, low, high)
				}
			}
		}
	}
}
