package glb

import (
	"encoding/binary"
	"errors"
	"fmt"
	"math"

	"github.com/qmuntal/gltf"
)

func (r *reader) accessor(index int) (*gltf.Accessor, error) {
	if index < 0 || index >= len(r.document.Accessors) {
		return nil, fmt.Errorf("it names accessor %d of %d", index, len(r.document.Accessors))
	}
	return r.document.Accessors[index], nil
}

// componentsOf is how many numbers an element of each type has; those of matrices lie in columns that may be padded, which only MAT4 never are.
var componentsOf = map[gltf.AccessorType]int{
	gltf.AccessorScalar: 1, gltf.AccessorVec2: 2, gltf.AccessorVec3: 3, gltf.AccessorVec4: 4, gltf.AccessorMat4: 16,
}

// sizes is the bytes of a number of each type.
var sizes = map[gltf.ComponentType]int{
	gltf.ComponentByte: 1, gltf.ComponentUbyte: 1, gltf.ComponentShort: 2, gltf.ComponentUshort: 2, gltf.ComponentUint: 4, gltf.ComponentFloat: 4,
}

// elements calls visit with the bytes of every element of an accessor, in order, and then with those that it gives anew. What nothing gives is zero, and
// not visited. All lengths were checked when the file was decoded.
func (r *reader) elements(a *gltf.Accessor, visit func(element int, data []byte)) {
	size := gltf.SizeOfElement(a.ComponentType, a.Type)
	if a.BufferView != nil {
		view := r.document.BufferViews[*a.BufferView]
		data := r.view(*a.BufferView)
		stride := max(size, view.ByteStride)
		for i := range a.Count {
			at := a.ByteOffset + i*stride
			visit(i, data[at:at+size])
		}
	}
	if s := a.Sparse; s != nil {
		wide := sizes[s.Indices.ComponentType]
		numbers, values := r.view(s.Indices.BufferView)[s.Indices.ByteOffset:], r.view(s.Values.BufferView)[s.Values.ByteOffset:]
		for i := range s.Count {
			visit(int(number(numbers[wide*i:], wide)), values[size*i:size*i+size])
		}
	}
}

// view returns the bytes of a buffer view.
func (r *reader) view(index int) []byte {
	v := r.document.BufferViews[index]
	return r.document.Buffers[v.Buffer].Data[v.ByteOffset : v.ByteOffset+v.ByteLength]
}

// floats reads an accessor as so many numbers an element, flat, whatever type they are stored as: whole numbers that say they are normalised stand for
// -1 to 1, or 0 to 1 without a sign (glTF 2.0, 3.6.2.2).
func (r *reader) floats(at, width int) ([]float32, error) {
	a, err := r.accessor(at)
	if err != nil {
		return nil, err
	}
	if componentsOf[a.Type] != width {
		return nil, fmt.Errorf("its accessor %d does not have %d numbers an element", at, width)
	}
	list := make([]float32, a.Count*width)
	wide := sizes[a.ComponentType]
	r.elements(a, func(element int, data []byte) {
		for k := range width {
			list[element*width+k] = float(data[wide*k:], a.ComponentType, a.Normalized)
		}
	})
	return list, nil
}

func float(data []byte, kind gltf.ComponentType, normalised bool) float32 {
	value, most := 0.0, 0.0
	switch kind {
	case gltf.ComponentFloat:
		return math.Float32frombits(binary.LittleEndian.Uint32(data))
	case gltf.ComponentByte:
		value, most = float64(int8(data[0])), math.MaxInt8
	case gltf.ComponentUbyte:
		value, most = float64(data[0]), math.MaxUint8
	case gltf.ComponentShort:
		value, most = float64(int16(binary.LittleEndian.Uint16(data))), math.MaxInt16
	case gltf.ComponentUshort:
		value, most = float64(binary.LittleEndian.Uint16(data)), math.MaxUint16
	case gltf.ComponentUint:
		value, most = float64(binary.LittleEndian.Uint32(data)), math.MaxUint32
	}
	if normalised {
		value = math.Max(value/most, -1)
	}
	return float32(value)
}

// wholes reads an accessor as so many whole numbers an element, flat.
func (r *reader) wholes(at, width int) ([]uint32, error) {
	a, err := r.accessor(at)
	if err != nil {
		return nil, err
	}
	if componentsOf[a.Type] != width {
		return nil, fmt.Errorf("its accessor %d does not have %d numbers an element", at, width)
	}
	wide := sizes[a.ComponentType]
	switch a.ComponentType {
	case gltf.ComponentUbyte, gltf.ComponentUshort, gltf.ComponentUint:
	default:
		return nil, errors.New("it counts by numbers that have a sign or a fraction")
	}
	list := make([]uint32, a.Count*width)
	r.elements(a, func(element int, data []byte) {
		for k := range width {
			list[element*width+k] = uint32(number(data[wide*k:], wide))
		}
	})
	return list, nil
}
