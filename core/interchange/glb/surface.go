package glb

import (
	"errors"
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/qmuntal/gltf"

	"myriapod/core/mesh"
)

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
	positions, err := r.floats(at, 3)
	if err != nil {
		return nil, err
	}
	surface := &mesh.Mesh{Positions: make([]float32, 0, len(positions))}
	for i := range accessor.Count {
		p := mgl64.TransformCoordinate(vector(positions, i), place(i))
		for _, n := range p {
			if math.IsNaN(n) || math.IsInf(n, 0) || math.Abs(n) > math.MaxFloat32 {
				return nil, fmt.Errorf("vertex %d is not at a finite place", i)
			}
			surface.Positions = append(surface.Positions, float32(n))
		}
	}
	if surface.Triangles, err = r.triangles(p, accessor.Count); err != nil {
		return nil, err
	}
	if mirrored { // a mirrored node turns its faces round
		for i := 0; i+2 < len(surface.Triangles); i += 3 {
			surface.Triangles[i+1], surface.Triangles[i+2] = surface.Triangles[i+2], surface.Triangles[i+1]
		}
	}
	return surface, r.dress(p, surface, place)
}

// vector is element i of a flat list of threes.
func vector(list []float32, i int) mgl64.Vec3 {
	return mgl64.Vec3{float64(list[3*i]), float64(list[3*i+1]), float64(list[3*i+2])}
}

func (r *reader) triangles(p *gltf.Primitive, vertices int) ([]uint32, error) {
	corners, err := r.corners(p, vertices)
	if err != nil {
		return nil, err
	}
	switch p.Mode {
	case gltf.PrimitiveTriangleStrip, gltf.PrimitiveTriangleFan:
		if err := r.purse.spend(3*len(corners), perIndex); err != nil {
			return nil, err
		}
		return unrolled(corners, p.Mode == gltf.PrimitiveTriangleFan), nil
	}
	return corners[:len(corners)-len(corners)%3], nil
}

// corners lists the vertices of a primitive in the order in which it draws them.
func (r *reader) corners(p *gltf.Primitive, vertices int) ([]uint32, error) {
	if p.Indices == nil {
		corners := make([]uint32, vertices)
		for i := range corners {
			corners[i] = uint32(i)
		}
		return corners, nil
	}
	accessor, err := r.accessor(*p.Indices)
	if err != nil {
		return nil, err
	}
	if err := r.purse.spend(accessor.Count, perIndex); err != nil {
		return nil, err
	}
	corners, err := r.wholes(*p.Indices, 1)
	if err != nil {
		return nil, err
	}
	for i, index := range corners {
		if int(index) >= vertices {
			return nil, fmt.Errorf("triangle %d points at vertex %d of %d", i/3, index, vertices)
		}
	}
	return corners, nil
}

// unrolled makes triangles of a strip or fan. Every other one of a strip is turned round, so that all look the same way; those with a corner twice, by
// which strips are led on, have no area and are left out.
func unrolled(corners []uint32, fan bool) []uint32 {
	var triangles []uint32
	for i := 2; i < len(corners); i++ {
		a, b, c := corners[i-2], corners[i-1], corners[i]
		switch {
		case fan:
			a = corners[0]
		case i%2 == 1:
			a, b = b, a
		}
		if a != b && b != c && a != c {
			triangles = append(triangles, a, b, c)
		}
	}
	return triangles
}

// dress adds normals, texture coordinates and colours: the file's where they are whole and finite, else computed or none.
func (r *reader) dress(p *gltf.Primitive, surface *mesh.Mesh, place func(int) mgl64.Mat4) error {
	coords, _, err := r.attribute(p, fmt.Sprintf("TEXCOORD_%d", r.coordsOf(p)), surface.VertexCount(), 2)
	if err != nil {
		return err
	}
	surface.TexCoords = coords
	if err := r.colours(p, surface); err != nil {
		return err
	}
	surface.ComputeNormals()
	normals, has, err := r.attribute(p, gltf.NORMAL, surface.VertexCount(), 3)
	if err != nil || !has {
		return err
	}
	for i := range surface.VertexCount() {
		linear := place(i).Mat3()
		if math.Abs(linear.Det()) < 1e-30 {
			continue
		}
		v := linear.Inv().Transpose().Mul3x1(vector(normals, i))
		if length := v.Len(); length > 1e-12 && !math.IsInf(length, 0) {
			v = v.Normalize()
			surface.Normals[3*i], surface.Normals[3*i+1], surface.Normals[3*i+2] = float32(v[0]), float32(v[1]), float32(v[2])
		}
	}
	return nil
}

// attribute reads numbers of the vertices of a primitive; none where it has none, or where they are not whole and finite.
func (r *reader) attribute(p *gltf.Primitive, name string, vertices, width int) (list []float32, has bool, err error) {
	at, has := p.Attributes[name]
	if !has {
		return nil, false, nil
	}
	accessor, err := r.accessor(at)
	if err != nil {
		return nil, false, err
	}
	if err := r.purse.spend(accessor.Count, 4*width); err != nil {
		return nil, false, err
	}
	if list, err = r.floats(at, width); err != nil {
		return nil, false, fmt.Errorf("%s: %w", name, err)
	}
	if len(list) != width*vertices || !finite(list) {
		r.note("Some %s do not fit their vertices; they are left out.", name)
		return nil, false, nil
	}
	return list, true, nil
}

// colours reads the colours of the vertices, with or without alpha.
func (r *reader) colours(p *gltf.Primitive, surface *mesh.Mesh) error {
	at, has := p.Attributes[gltf.COLOR_0]
	if !has {
		return nil
	}
	accessor, err := r.accessor(at)
	if err != nil {
		return err
	}
	width := componentsOf[accessor.Type]
	if width != 3 && width != 4 {
		return nil
	}
	list, has, err := r.attribute(p, gltf.COLOR_0, surface.VertexCount(), width)
	if err != nil || !has {
		return err
	}
	if err := r.purse.spend(surface.VertexCount(), 16); err != nil {
		return err
	}
	for i := 0; i < len(list); i += width {
		colour := [4]float32{0, 0, 0, 1}
		copy(colour[:], list[i:i+width])
		for k := range colour {
			colour[k] = min(max(colour[k], 0), 1)
		}
		surface.Colours = append(surface.Colours, colour[:]...)
	}
	return nil
}

func finite(list []float32) bool {
	for _, n := range list {
		if n-n != 0 {
			return false
		}
	}
	return true
}
