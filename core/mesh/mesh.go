// Package mesh holds triangle surfaces: their form in memory and in storage, normals, ray casts, volume centres and
// cross-sections.
package mesh

import (
	"errors"
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"
)

// Mesh is a triangle surface in metres, in single precision as graphics and files have it. Positions and Normals are flat
// x, y, z; TexCoords flat u, v or empty; Colours flat red, green, blue, alpha in linear light from 0 to 1, or empty; Triangles are vertex indices,
// three each, counter-clockwise seen from outside.
type Mesh struct {
	Positions []float32
	Normals   []float32
	TexCoords []float32
	Colours   []float32
	Triangles []uint32
}

// VertexCount returns the number of vertices.
func (m *Mesh) VertexCount() int { return len(m.Positions) / 3 }

// Vertex returns vertex i in double precision.
func (m *Mesh) Vertex(i int) mgl64.Vec3 {
	return mgl64.Vec3{float64(m.Positions[3*i]), float64(m.Positions[3*i+1]), float64(m.Positions[3*i+2])}
}

// Corner returns the three corners of triangle i.
func (m *Mesh) Corner(i int) (a, b, c mgl64.Vec3) {
	return m.Vertex(int(m.Triangles[3*i])), m.Vertex(int(m.Triangles[3*i+1])), m.Vertex(int(m.Triangles[3*i+2]))
}

// Validate tells what is wrong with m: array lengths that do not fit together, indices that point past the vertices, or
// numbers that are not finite.
func (m *Mesh) Validate() error {
	if len(m.Positions)%3 != 0 || len(m.Triangles)%3 != 0 {
		return errors.New("positions and triangles must come in threes")
	}
	if len(m.Positions) == 0 || len(m.Triangles) == 0 {
		return errors.New("there are no triangles in it")
	}
	if len(m.Normals) != len(m.Positions) {
		return fmt.Errorf("%d normals do not fit %d vertices", len(m.Normals)/3, m.VertexCount())
	}
	if len(m.TexCoords) != 0 && len(m.TexCoords) != 2*m.VertexCount() {
		return fmt.Errorf("%d texture coordinates do not fit %d vertices", len(m.TexCoords)/2, m.VertexCount())
	}
	if len(m.Colours) != 0 && len(m.Colours) != 4*m.VertexCount() {
		return fmt.Errorf("%d colours do not fit %d vertices", len(m.Colours)/4, m.VertexCount())
	}
	for i, index := range m.Triangles {
		if int(index) >= m.VertexCount() {
			return fmt.Errorf("triangle %d points at vertex %d of %d", i/3, index, m.VertexCount())
		}
	}
	for _, numbers := range [][]float32{m.Positions, m.Normals, m.TexCoords, m.Colours} {
		for i, n := range numbers {
			if n != n || math.IsInf(float64(n), 0) {
				return fmt.Errorf("number %d is not finite", i)
			}
		}
	}
	return nil
}

// Bounds is an axis-aligned box; Min over Max when it holds nothing.
type Bounds struct{ Min, Max mgl64.Vec3 }

// EmptyBounds returns the box that holds nothing.
func EmptyBounds() Bounds {
	inf := math.Inf(1)
	return Bounds{Min: mgl64.Vec3{inf, inf, inf}, Max: mgl64.Vec3{-inf, -inf, -inf}}
}

// Add grows the box to hold p.
func (b *Bounds) Add(p mgl64.Vec3) {
	for k := range 3 {
		b.Min[k] = math.Min(b.Min[k], p[k])
		b.Max[k] = math.Max(b.Max[k], p[k])
	}
}

// Empty tells whether the box holds nothing.
func (b Bounds) Empty() bool { return b.Min[0] > b.Max[0] }

// Size returns the length of the box's diagonal, 0 when it is empty.
func (b Bounds) Size() float64 {
	if b.Empty() {
		return 0
	}
	return b.Max.Sub(b.Min).Len()
}

// Beside tells whether a place is in the box, or no farther from it than a share of its size.
func (b Bounds) Beside(p mgl64.Vec3, share float64) bool {
	for k := range 3 {
		if off := share * b.Size(); p[k] < b.Min[k]-off || p[k] > b.Max[k]+off {
			return false
		}
	}
	return true
}

// Bounds returns the box around all vertices.
func (m *Mesh) Bounds() Bounds {
	box := EmptyBounds()
	for i := range m.VertexCount() {
		box.Add(m.Vertex(i))
	}
	return box
}

// ComputeNormals fills Normals from the triangles, each weighted by its corner's angle (Thürmer and Wüthrich 1998,
// Computing vertex normals from polygonal facets). A vertex without area points up.
func (m *Mesh) ComputeNormals() {
	sums := make([]mgl64.Vec3, m.VertexCount())
	for i := range len(m.Triangles) / 3 {
		p := [3]mgl64.Vec3{}
		p[0], p[1], p[2] = m.Corner(i)
		normal := p[1].Sub(p[0]).Cross(p[2].Sub(p[0]))
		if !(normal.Len() > 0) {
			continue
		}
		normal = normal.Normalize()
		for k := range 3 {
			sums[m.Triangles[3*i+k]] = sums[m.Triangles[3*i+k]].Add(normal.Mul(cornerAngle(p[k], p[(k+1)%3], p[(k+2)%3])))
		}
	}
	m.Normals = make([]float32, len(m.Positions))
	for i, n := range sums {
		if !(n.Len() > 0) {
			n = mgl64.Vec3{0, 1, 0}
		}
		n = n.Normalize()
		m.Normals[3*i], m.Normals[3*i+1], m.Normals[3*i+2] = float32(n[0]), float32(n[1]), float32(n[2])
	}
}

func cornerAngle(at, b, c mgl64.Vec3) float64 {
	u, v := b.Sub(at), c.Sub(at)
	return math.Atan2(u.Cross(v).Len(), u.Dot(v))
}
