package glb

import (
	"errors"
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/qmuntal/gltf"
	"github.com/qmuntal/gltf/modeler"

	"myriapod/core/mesh"
)

func (r *reader) accessor(index int) (*gltf.Accessor, error) {
	if index < 0 || index >= len(r.document.Accessors) {
		return nil, fmt.Errorf("it names accessor %d of %d", index, len(r.document.Accessors))
	}
	return r.document.Accessors[index], nil
}

// primitive reads a surface. Each vertex is placed by the matrix that place gives for it.
func (r *reader) primitive(p *gltf.Primitive, place func(vertex int) mgl64.Mat4, mirrored bool) (*mesh.Mesh, error) {
	at, ok := p.Attributes[gltf.POSITION]
	if !ok {
		return nil, errors.New("it has no positions")
	}
	accessor, err := r.accessor(at)
	if err != nil {
		return nil, err
	}
	if err := r.purse.spendVertices(accessor.Count); err != nil {
		return nil, err
	}
	positions, err := modeler.ReadPosition(r.document, accessor, nil)
	if err != nil {
		return nil, err
	}
	surface := &mesh.Mesh{Positions: make([]float32, 0, 3*len(positions))}
	for i, v := range positions {
		p := mgl64.TransformCoordinate(mgl64.Vec3{float64(v[0]), float64(v[1]), float64(v[2])}, place(i))
		for _, n := range p {
			if math.IsNaN(n) || math.IsInf(n, 0) || math.Abs(n) > math.MaxFloat32 {
				return nil, fmt.Errorf("vertex %d is not at a finite place", i)
			}
			surface.Positions = append(surface.Positions, float32(n))
		}
	}
	if surface.Triangles, err = r.triangles(p, len(positions)); err != nil {
		return nil, err
	}
	if mirrored { // a mirrored node turns its faces round
		for i := 0; i+2 < len(surface.Triangles); i += 3 {
			surface.Triangles[i+1], surface.Triangles[i+2] = surface.Triangles[i+2], surface.Triangles[i+1]
		}
	}
	return surface, r.dress(p, surface, place)
}

func (r *reader) triangles(p *gltf.Primitive, vertices int) ([]uint32, error) {
	if p.Indices == nil {
		indices := make([]uint32, vertices-vertices%3)
		for i := range indices {
			indices[i] = uint32(i)
		}
		return indices, nil
	}
	accessor, err := r.accessor(*p.Indices)
	if err != nil {
		return nil, err
	}
	if err := r.purse.spend(accessor.Count, perIndex); err != nil {
		return nil, err
	}
	indices, err := modeler.ReadIndices(r.document, accessor, nil)
	if err != nil {
		return nil, err
	}
	for i, index := range indices {
		if int(index) >= vertices {
			return nil, fmt.Errorf("triangle %d points at vertex %d of %d", i/3, index, vertices)
		}
	}
	return indices[:len(indices)-len(indices)%3], nil
}

// dress adds normals and texture coordinates: the file's where they are whole and finite, else computed or none.
func (r *reader) dress(p *gltf.Primitive, surface *mesh.Mesh, place func(int) mgl64.Mat4) error {
	if at, ok := p.Attributes[gltf.TEXCOORD_0]; ok {
		accessor, err := r.accessor(at)
		if err != nil {
			return err
		}
		if err := r.purse.spend(accessor.Count, perIndex); err != nil {
			return err
		}
		coords, err := modeler.ReadTextureCoord(r.document, accessor, nil)
		if err != nil {
			return err
		}
		if len(coords) == surface.VertexCount() && finitePairs(coords) {
			for _, c := range coords {
				surface.TexCoords = append(surface.TexCoords, c[0], c[1])
			}
		}
	}
	surface.ComputeNormals()
	at, ok := p.Attributes[gltf.NORMAL]
	if !ok {
		return nil
	}
	accessor, err := r.accessor(at)
	if err != nil {
		return err
	}
	if err := r.purse.spend(accessor.Count, perIndex); err != nil {
		return err
	}
	normals, err := modeler.ReadNormal(r.document, accessor, nil)
	if err != nil || len(normals) != surface.VertexCount() {
		return err
	}
	for i, n := range normals {
		linear := place(i).Mat3()
		if math.Abs(linear.Det()) < 1e-30 {
			continue
		}
		turn := linear.Inv().Transpose()
		v := turn.Mul3x1(mgl64.Vec3{float64(n[0]), float64(n[1]), float64(n[2])})
		if length := v.Len(); length > 1e-12 && !math.IsInf(length, 0) {
			v = v.Normalize()
			surface.Normals[3*i], surface.Normals[3*i+1], surface.Normals[3*i+2] = float32(v[0]), float32(v[1]), float32(v[2])
		}
	}
	return nil
}

func finitePairs(pairs [][2]float32) bool {
	for _, p := range pairs {
		if sum := float64(p[0]) + float64(p[1]); math.IsNaN(sum) || math.IsInf(sum, 0) {
			return false
		}
	}
	return true
}
