package mesh

import (
	"slices"

	"github.com/go-gl/mathgl/mgl64"
)

// Subset returns the faces given as a mesh of their own, and which vertex of m each of its vertices was.
func (m *Mesh) Subset(faces []int) (part *Mesh, from []int) {
	part = &Mesh{}
	at := map[uint32]uint32{}
	for _, face := range faces {
		for _, index := range m.Triangles[3*face : 3*face+3] {
			now, known := at[index]
			if !known {
				now = uint32(len(from))
				at[index] = now
				from = append(from, int(index))
				part.Positions = append(part.Positions, m.Positions[3*index:3*index+3]...)
				part.Normals = append(part.Normals, m.Normals[3*index:3*index+3]...)
				if len(m.TexCoords) > 0 {
					part.TexCoords = append(part.TexCoords, m.TexCoords[2*index:2*index+2]...)
				}
				if len(m.Colours) > 0 {
					part.Colours = append(part.Colours, m.Colours[4*index:4*index+4]...)
				}
			}
			part.Triangles = append(part.Triangles, now)
		}
	}
	return part, from
}

// Others lists the faces that are not among those given.
func (m *Mesh) Others(faces []int) []int {
	chosen := make([]bool, m.FaceCount())
	for _, face := range faces {
		chosen[face] = true
	}
	var others []int
	for face, is := range chosen {
		if !is {
			others = append(others, face)
		}
	}
	return others
}

// Join returns all meshes as one. Texture coordinates and colours are kept where all have them.
func Join(meshes []*Mesh) *Mesh {
	whole := &Mesh{}
	coords := !slices.ContainsFunc(meshes, func(m *Mesh) bool { return len(m.TexCoords) == 0 })
	colours := !slices.ContainsFunc(meshes, func(m *Mesh) bool { return len(m.Colours) == 0 })
	for _, m := range meshes {
		base := uint32(whole.VertexCount())
		whole.Positions = append(whole.Positions, m.Positions...)
		whole.Normals = append(whole.Normals, m.Normals...)
		if coords {
			whole.TexCoords = append(whole.TexCoords, m.TexCoords...)
		}
		if colours {
			whole.Colours = append(whole.Colours, m.Colours...)
		}
		for _, index := range m.Triangles {
			whole.Triangles = append(whole.Triangles, base+index)
		}
	}
	return whole
}

// Flip returns m with the faces given turned round. Where all faces of a vertex turn its normal turns, else normals are computed anew.
func (m *Mesh) Flip(faces []int) *Mesh {
	flipped := &Mesh{Positions: m.Positions, TexCoords: m.TexCoords, Colours: m.Colours, Triangles: slices.Clone(m.Triangles), Normals: slices.Clone(m.Normals)}
	for _, face := range faces {
		flipped.Triangles[3*face+1], flipped.Triangles[3*face+2] = flipped.Triangles[3*face+2], flipped.Triangles[3*face+1]
	}
	if len(faces) == m.FaceCount() {
		for i := range flipped.Normals {
			flipped.Normals[i] = -flipped.Normals[i]
		}
		return flipped
	}
	flipped.ComputeNormals()
	return flipped
}

// Moved returns m with every vertex and normal moved.
func (m *Mesh) Moved(place, normal func(mgl64.Vec3) mgl64.Vec3) *Mesh {
	return &Mesh{TexCoords: m.TexCoords, Colours: m.Colours, Triangles: m.Triangles, Positions: changed(m.Positions, place), Normals: changed(m.Normals, normal)}
}

// changed is every three numbers of a flat list as change has them.
func changed(from []float32, change func(mgl64.Vec3) mgl64.Vec3) []float32 {
	to := make([]float32, len(from))
	for i := 0; i+2 < len(from); i += 3 {
		v := change(mgl64.Vec3{float64(from[i]), float64(from[i+1]), float64(from[i+2])})
		to[i], to[i+1], to[i+2] = float32(v[0]), float32(v[1]), float32(v[2])
	}
	return to
}
