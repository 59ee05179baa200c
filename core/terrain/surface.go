package terrain

import (
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/mesh"
)

// mostSteps is how many steps a surface shows.
const mostSteps = 400

// Surface returns what is to be seen of the ground around a box: all of the box and margin metres about it, and on to where the ground rises no more, as far as
// most metres ahead of the box. A part of the model is seen as it is, and gives nil.
func (g *Ground) Surface(box mesh.Bounds, margin, most float64) *mesh.Mesh {
	if g.Shape == Surface || box.Empty() {
		return nil
	}
	sine, cosine := math.Sincos(g.Heading)
	low, high := mgl64.Vec2{math.Inf(1), math.Inf(1)}, mgl64.Vec2{math.Inf(-1), math.Inf(-1)} // aside and ahead of the origin
	for _, x := range []float64{box.Min[0], box.Max[0]} {
		for _, z := range []float64{box.Min[2], box.Max[2]} {
			x, z := x-g.Origin[0], z-g.Origin[2]
			for k, v := range []float64{x*cosine - z*sine, x*sine + z*cosine} {
				low[k], high[k] = math.Min(low[k], v-margin), math.Max(high[k], v+margin)
			}
		}
	}
	ends := g.edges()
	if len(ends) > 0 {
		high[1] = math.Max(high[1], math.Min(ends[len(ends)-1]+3*margin, high[1]+most))
	}
	s := sheet{g: g, low: low[0], high: high[0], sine: sine, cosine: cosine}
	s.line(low[1], g.heightAhead(low[1]))
	for _, edge := range ends {
		if edge > low[1] && edge < high[1] {
			s.line(edge, g.heightAhead(edge))
			if g.Shape == Steps {
				s.line(edge, g.heightAhead(math.Nextafter(edge, math.Inf(1))+1e-9*g.Run))
			}
		}
	}
	s.line(high[1], g.heightAhead(high[1]))
	return s.whole()
}

// edges lists how far ahead of the origin the ground changes.
func (g *Ground) edges() (list []float64) {
	switch g.Shape {
	case Slope:
		return []float64{g.Begin, g.Begin + g.Run}
	case Steps:
		for k := range int(math.Min(g.Count, mostSteps)) {
			list = append(list, g.Begin+float64(k)*g.Run)
		}
	}
	return list
}

// heightAhead is how high the ground is so far ahead of the origin.
func (g *Ground) heightAhead(ahead float64) float64 {
	sine, cosine := math.Sincos(g.Heading)
	return g.Height(g.Origin.Add(mgl64.Vec3{ahead * sine, 0, ahead * cosine}))
}

// sheet is strips across the way ahead, each from one line to the next.
type sheet struct {
	g            *Ground
	low, high    float64
	sine, cosine float64
	lines        [][2]mgl64.Vec3
}

func (s *sheet) line(ahead, height float64) {
	at := func(aside float64) mgl64.Vec3 {
		return mgl64.Vec3{s.g.Origin[0] + aside*s.cosine + ahead*s.sine, height, s.g.Origin[2] - aside*s.sine + ahead*s.cosine}
	}
	s.lines = append(s.lines, [2]mgl64.Vec3{at(s.low), at(s.high)})
}

func (s *sheet) whole() *mesh.Mesh {
	m := &mesh.Mesh{}
	for k := 1; k < len(s.lines); k++ {
		first := uint32(len(m.Positions) / 3)
		for _, p := range slices.Concat(s.lines[k-1][:], s.lines[k][:]) { // strips share no vertices, so that edges are seen
			m.Positions = append(m.Positions, float32(p[0]), float32(p[1]), float32(p[2]))
		}
		m.Triangles = append(m.Triangles, first, first+2, first+1, first+1, first+2, first+3)
	}
	m.ComputeNormals()
	return m
}
