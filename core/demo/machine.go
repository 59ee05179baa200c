package demo

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mesh"
)

// Machine parts are prisms: outlines that are drawn out along an axis, with bevelled rims and sharp edges.

// crease is the angle, in radians, from which an edge of a machine part looks sharp.
const crease = 0.6

// prism draws a convex outline, counter-clockwise in the plane across the frame's main axis (its Z and X), out along that axis from low to high, with its rims bevelled.
func prism(outline []mgl64.Vec2, low, high, bevel float64, at geometry.Transform) *mesh.Mesh {
	middle := mgl64.Vec2{}
	for _, p := range outline {
		middle = middle.Add(p.Mul(1 / float64(len(outline))))
	}
	inset := func(p mgl64.Vec2) mgl64.Vec2 {
		off := p.Sub(middle)
		return middle.Add(off.Mul(math.Max(0, 1-bevel/off.Len())))
	}
	m := &mesh.Mesh{}
	add := func(p mgl64.Vec2, along float64) uint32 {
		place := at.Apply(mgl64.Vec3{p[1], along, p[0]})
		m.Positions = append(m.Positions, float32(place[0]), float32(place[1]), float32(place[2]))
		return uint32(m.VertexCount() - 1)
	}
	rings := [][]uint32{}
	for _, ring := range []struct {
		inner bool
		along float64
	}{{true, low}, {false, low + bevel}, {false, high - bevel}, {true, high}} {
		list := []uint32{}
		for _, p := range outline {
			if ring.inner {
				p = inset(p)
			}
			list = append(list, add(p, ring.along))
		}
		rings = append(rings, list)
	}
	n := len(outline)
	for r := range len(rings) - 1 {
		for k := range n {
			a, b, c, d := rings[r][k], rings[r][(k+1)%n], rings[r+1][k], rings[r+1][(k+1)%n]
			m.Triangles = append(m.Triangles, a, b, c, c, b, d)
		}
	}
	below, above := add(middle, low), add(middle, high)
	for k := range n {
		m.Triangles = append(m.Triangles, below, rings[0][(k+1)%n], rings[0][k], above, rings[3][k], rings[3][(k+1)%n])
	}
	return creased(orient(m))
}

// creased parts the vertices of a surface where it has sharp edges, so that it looks so.
func creased(m *mesh.Mesh) *mesh.Mesh {
	faces := map[uint32][]int{}
	normals := make([]mgl64.Vec3, m.FaceCount())
	for face := range normals {
		a, b, c := m.Corner(face)
		normals[face] = b.Sub(a).Cross(c.Sub(a)) // larger faces count more
		for k := range 3 {
			faces[m.Triangles[3*face+k]] = append(faces[m.Triangles[3*face+k]], face)
		}
	}
	out := &mesh.Mesh{}
	type corner struct {
		vertex uint32
		normal [3]float32
	}
	known := map[corner]uint32{}
	for face, normal := range normals {
		for k := range 3 {
			v := m.Triangles[3*face+k]
			sum := mgl64.Vec3{}
			for _, other := range faces[v] {
				n := normals[other]
				if math.Atan2(normal.Cross(n).Len(), normal.Dot(n)) < crease {
					sum = sum.Add(n)
				}
			}
			sum = geometry.Unit(sum, geometry.Up)
			key := corner{v, [3]float32{float32(sum[0]), float32(sum[1]), float32(sum[2])}}
			at, there := known[key]
			if !there {
				at = uint32(out.VertexCount())
				known[key] = at
				out.Positions = append(out.Positions, m.Positions[3*v:3*v+3]...)
				out.Normals = append(out.Normals, key.normal[:]...)
			}
			out.Triangles = append(out.Triangles, at)
		}
	}
	return out
}

// disc is a round outline.
func disc(middle mgl64.Vec2, radius float64, around int) (outline []mgl64.Vec2) {
	for k := range around {
		sine, cosine := math.Sincos(2 * math.Pi * float64(k) / float64(around))
		outline = append(outline, middle.Add(mgl64.Vec2{radius * cosine, radius * sine}))
	}
	return outline
}

// slab is a rectangle with rounded corners.
func slab(low, high mgl64.Vec2, round float64) (outline []mgl64.Vec2) {
	for corner, middle := range []mgl64.Vec2{{high[0] - round, high[1] - round}, {low[0] + round, high[1] - round}, {low[0] + round, low[1] + round}, {high[0] - round, low[1] + round}} {
		for k := range 4 {
			sine, cosine := math.Sincos(math.Pi / 2 * (float64(corner) + float64(k)/3))
			outline = append(outline, middle.Add(mgl64.Vec2{round * cosine, round * sine}))
		}
	}
	return outline
}

// bar is an outline with round ends about two places.
func bar(a, b mgl64.Vec2, radiusA, radiusB float64) (outline []mgl64.Vec2) {
	way := b.Sub(a).Normalize()
	heading := math.Atan2(way[1], way[0])
	for _, end := range []struct {
		at     mgl64.Vec2
		radius float64
		from   float64
	}{{b, radiusB, heading - math.Pi/2}, {a, radiusA, heading + math.Pi/2}} {
		for k := range 9 {
			sine, cosine := math.Sincos(end.from + math.Pi*float64(k)/8)
			outline = append(outline, end.at.Add(mgl64.Vec2{end.radius * cosine, end.radius * sine}))
		}
	}
	return outline
}

// across is a frame whose main axis runs to the left, +X: outlines in it are of height and way ahead.
func acrossAt(x float64) geometry.Transform {
	return geometry.Transform{Position: mgl64.Vec3{x, 0, 0}, Rotation: geometry.FromAxes(mgl64.Vec3{1, 0, 0}, geometry.Up)}
}

// rod is a cylinder between two places.
func rod(a, b mgl64.Vec3, radius, bevel float64) *mesh.Mesh {
	way := b.Sub(a)
	at := geometry.Transform{Position: a, Rotation: geometry.FromAxes(way.Normalize(), geometry.Across(geometry.Up, way.Normalize()))}
	return prism(disc(mgl64.Vec2{}, radius, 24), 0, way.Len(), bevel, at)
}
