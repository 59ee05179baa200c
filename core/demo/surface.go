// Package demo makes the specimens of the Saltmarsh Ferry Line: bodies from formulas, and rigs built on them with the same edits
// that a rigger makes.
package demo

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mesh"
)

// grid builds a closed surface of rings: point gives the place for ring share v and angle share a, both 0 to 1, and the two
// poles close the ends.
func grid(rings, around int, point func(v, a float64) mgl64.Vec3, first, last mgl64.Vec3) *mesh.Mesh {
	m := &mesh.Mesh{}
	add := func(p mgl64.Vec3) {
		m.Positions = append(m.Positions, float32(p[0]), float32(p[1]), float32(p[2]))
	}
	add(first)
	for r := range rings {
		for k := range around {
			add(point(float64(r)/float64(rings-1), float64(k)/float64(around)))
		}
	}
	add(last)
	vertex := func(r, k int) uint32 { return uint32(1 + r*around + k%around) }
	end := uint32(1 + rings*around)
	for k := range around {
		m.Triangles = append(m.Triangles, 0, vertex(0, k), vertex(0, k+1))
		for r := range rings - 1 {
			a, b, c, d := vertex(r, k), vertex(r, k+1), vertex(r+1, k), vertex(r+1, k+1)
			m.Triangles = append(m.Triangles, a, c, b, b, c, d)
		}
		m.Triangles = append(m.Triangles, end, vertex(rings-1, k+1), vertex(rings-1, k))
	}
	m.ComputeNormals()
	return m
}

// towards is the morph target that makes one surface another of the same vertices.
func towards(from, to *mesh.Mesh) *mesh.Deltas {
	d := &mesh.Deltas{Positions: make([]float32, len(from.Positions)), Normals: make([]float32, len(from.Normals))}
	for i := range d.Positions {
		d.Positions[i] = to.Positions[i] - from.Positions[i]
		d.Normals[i] = to.Normals[i] - from.Normals[i]
	}
	return d
}

// joined is several surfaces as one.
func joined(list ...*mesh.Mesh) *mesh.Mesh {
	m := &mesh.Mesh{}
	for _, s := range list {
		base := uint32(m.VertexCount())
		m.Positions, m.Normals = append(m.Positions, s.Positions...), append(m.Normals, s.Normals...)
		for _, v := range s.Triangles {
			m.Triangles = append(m.Triangles, base+v)
		}
	}
	return m
}

// orient turns a closed surface right side out.
func orient(m *mesh.Mesh) *mesh.Mesh {
	volume := 0.0
	for i := range len(m.Triangles) / 3 {
		a, b, c := m.Corner(i)
		volume += a.Dot(b.Cross(c))
	}
	if volume < 0 {
		for i := 0; i < len(m.Triangles); i += 3 {
			m.Triangles[i+1], m.Triangles[i+2] = m.Triangles[i+2], m.Triangles[i+1]
		}
	}
	m.ComputeNormals()
	return m
}

// ball is an ellipsoid; power over 2 squares it off.
func ball(centre, radii mgl64.Vec3, power float64, rings, around int) *mesh.Mesh {
	bend := func(x float64) float64 { return math.Copysign(math.Pow(math.Abs(x), 2/power), x) }
	point := func(v, a float64) mgl64.Vec3 {
		polar := math.Pi * (v*float64(rings-1) + 1) / float64(rings+1)
		ring := bend(math.Sin(polar))
		return centre.Add(mgl64.Vec3{
			radii[0] * ring * bend(math.Cos(2*math.Pi*a)), radii[1] * bend(math.Cos(polar)), radii[2] * ring * bend(math.Sin(2*math.Pi*a)),
		})
	}
	return orient(grid(rings, around, point, centre.Add(mgl64.Vec3{0, radii[1], 0}), centre.Sub(mgl64.Vec3{0, radii[1], 0})))
}

// blade is a thin closed sheet: it stands on the line root, reaches out along reach, and is thickness thick in the middle of its
// root, thinning to its rim.
func blade(root, reach func(v float64) mgl64.Vec3, thickness float64, along, across int) *mesh.Mesh {
	around := 2 * across
	point := func(v, a float64) mgl64.Vec3 {
		out := 1 - math.Abs(2*a-1) // from the root along one face to the rim and back along the other
		side := 1.0
		if a > 0.5 {
			side = -1
		}
		r := reach(v)
		slope := root(math.Min(1, v+1e-3)).Sub(root(math.Max(0, v-1e-3)))
		normal := geometry.Across(geometry.Unit(slope, geometry.Forward).Cross(geometry.Unit(r, geometry.Up)), geometry.Unit(r, geometry.Up))
		thin := thickness * (1 - out) * math.Sqrt(math.Max(0, 4*v*(1-v))+0.02)
		if a == 0 || a == 0.5 {
			thin *= 0.2
		}
		return root(v).Add(r.Mul(out)).Add(normal.Mul(side * thin / 2))
	}
	return orient(grid(along, around, point, root(0), root(1)))
}

// sweep is a closed tube along a curve from share 0 to 1, with a radius at each share. Its ends are rounded off: the radius falls to
// nothing there.
func sweep(curve func(v float64) mgl64.Vec3, radius func(v float64) float64, rings, around int) *mesh.Mesh {
	frames := make([]mgl64.Mat3, rings)
	second := mgl64.Vec3{0, 1, 0}
	share := func(r int) float64 { // rings stand closer together at the ends, where the outline turns
		v := float64(r) / float64(rings-1)
		return 0.5 - 0.5*math.Cos(math.Pi*(0.06+0.88*v))/math.Cos(math.Pi*0.06)
	}
	for r := range rings {
		v := share(r)
		tangent := geometry.Unit(curve(v+1e-4).Sub(curve(v-1e-4)), geometry.Up)
		second = geometry.Across(second, tangent)
		frames[r] = mgl64.Mat3FromCols(tangent.Cross(second), tangent, second)
	}
	point := func(v, a float64) mgl64.Vec3 {
		r := int(math.Round(v * float64(rings-1)))
		at := share(r)
		sine, cosine := math.Sincos(2 * math.Pi * a)
		end := math.Min(at, 1-at) / 0.02
		round := math.Sqrt(math.Max(0, 1-math.Pow(math.Max(0, 1-end), 2)))
		reach := radius(at) * math.Max(0.12, round)
		return curve(at).Add(frames[r].Mul3x1(mgl64.Vec3{reach * sine, 0, reach * cosine}))
	}
	return orient(grid(rings, around, point, curve(0), curve(1)))
}

// sheet is a closed cloth of two faces, -1 and 1, over the square of shares v and w, sewn together along its hem.
func sheet(along, across int, point func(v, w, face float64) mgl64.Vec3) *mesh.Mesh {
	m := &mesh.Mesh{}
	for _, face := range []float64{-1, 1} {
		for r := range along {
			for k := range across {
				p := point(float64(r)/float64(along-1), float64(k)/float64(across-1), face)
				m.Positions = append(m.Positions, float32(p[0]), float32(p[1]), float32(p[2]))
			}
		}
	}
	vertex := func(face, r, k int) uint32 { return uint32((face*along+r)*across + k) }
	quad := func(a, b, c, d uint32) { m.Triangles = append(m.Triangles, a, b, c, c, b, d) }
	for r := range along - 1 {
		for k := range across - 1 {
			quad(vertex(0, r, k), vertex(0, r, k+1), vertex(0, r+1, k), vertex(0, r+1, k+1))
			quad(vertex(1, r, k), vertex(1, r+1, k), vertex(1, r, k+1), vertex(1, r+1, k+1))
		}
		quad(vertex(0, r, 0), vertex(0, r+1, 0), vertex(1, r, 0), vertex(1, r+1, 0))
		quad(vertex(0, r+1, across-1), vertex(0, r, across-1), vertex(1, r+1, across-1), vertex(1, r, across-1))
	}
	for k := range across - 1 {
		quad(vertex(0, 0, k+1), vertex(0, 0, k), vertex(1, 0, k+1), vertex(1, 0, k))
		quad(vertex(0, along-1, k), vertex(0, along-1, k+1), vertex(1, along-1, k), vertex(1, along-1, k+1))
	}
	return orient(m)
}

// placed carries a surface from one frame to another.
func placed(m *mesh.Mesh, motion geometry.Transform) *mesh.Mesh {
	return m.Moved(motion.Apply, motion.Rotation.Rotate)
}

// mirrored is a surface's image at the plane x = 0.
func mirrored(m *mesh.Mesh) *mesh.Mesh {
	flip := func(v mgl64.Vec3) mgl64.Vec3 { return mgl64.Vec3{-v[0], v[1], v[2]} }
	image := m.Moved(flip, flip)
	return orient(&mesh.Mesh{Positions: image.Positions, Triangles: append([]uint32(nil), image.Triangles...)})
}
