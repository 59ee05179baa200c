package glb

import (
	"encoding/binary"
	"errors"
	"fmt"
	"strings"

	"github.com/qmuntal/gltf"

	"myriapod/core/interchange/model"
	"myriapod/core/rig"
	"myriapod/core/textsize"
)

// What reading a file may cost before it is refused. A glTF file tells how much there is of everything, and a few bytes can tell of more than any
// memory holds: so all of it is counted first.
const (
	baseBytes     = 64 << 20 // what any file may come to in memory
	bytesForEach  = 3        // and for each byte of the file
	perVertex     = 80       // bytes in memory: places, normals, texture coordinates, and what they are read into
	perBound      = 150      // of a vertex that joints hold
	perDelta      = 40       // of a vertex in a morph target
	perIndex      = 8
	perKey        = 120
	perJointInUse = 8
)

// shorten cuts names that are longer than any name may be, so that messages stay readable.
func shorten(document *gltf.Document) {
	cut := func(name *string) {
		if len(*name) > rig.MaxName {
			*name = strings.ToValidUTF8((*name)[:rig.MaxName], "")
		}
	}
	for _, node := range document.Nodes {
		if node != nil {
			cut(&node.Name)
		}
	}
	for _, mesh := range document.Meshes {
		if mesh != nil {
			cut(&mesh.Name)
		}
	}
	for _, material := range document.Materials {
		if material != nil {
			cut(&material.Name)
		}
	}
	for _, animation := range document.Animations {
		if animation != nil {
			cut(&animation.Name)
		}
	}
}

// within tells whether count elements of a size, each stride after the one before, lie in a length from an offset on. None of it overflows,
// whatever the numbers.
func within(offset, count, size, stride, length int) bool {
	switch {
	case offset < 0 || count < 0 || size <= 0 || stride < size || offset > length:
		return false
	case count == 0:
		return true
	case size > length-offset:
		return false
	}
	return count-1 <= (length-offset-size)/stride
}

// checkAccessor checks every number that an accessor tells against the views there are. file is the file's length.
func checkAccessor(document *gltf.Document, a *gltf.Accessor, file int) error {
	if a == nil || a.Count < 0 || a.ByteOffset < 0 {
		return errors.New("is empty or counts below zero")
	}
	if a.Count > maxElements {
		return fmt.Errorf("has %d elements, more than %d; thin the model out", a.Count, maxElements)
	}
	size, err := sizeOf(a.ComponentType, a.Type)
	if err != nil {
		return err
	}
	if a.BufferView == nil {
		if a.Count > (1<<20+4*file)/size {
			return fmt.Errorf("has %d elements and nothing to read them from", a.Count)
		}
	} else if err := inView(document, *a.BufferView, a.ByteOffset, a.Count, size, true); err != nil {
		return err
	}
	return checkSparse(document, a, size)
}

func sizeOf(component gltf.ComponentType, kind gltf.AccessorType) (int, error) {
	if component < gltf.ComponentFloat || component > gltf.ComponentUint || kind < gltf.AccessorScalar || kind > gltf.AccessorMat4 {
		return 0, errors.New("is of a type that is not known")
	}
	return gltf.SizeOfElement(component, kind), nil
}

// inView checks that elements lie in a view of a buffer.
func inView(document *gltf.Document, view, offset, count, size int, strided bool) error {
	if view < 0 || view >= len(document.BufferViews) {
		return errors.New("points at no buffer view")
	}
	v := document.BufferViews[view]
	stride := size
	if strided && v.ByteStride > size {
		stride = v.ByteStride
	}
	if !within(offset, count, size, stride, v.ByteLength) {
		return errors.New("reaches past its buffer view")
	}
	return nil
}

// checkSparse checks the elements that an accessor gives anew: how many, where they lie, and which they are.
func checkSparse(document *gltf.Document, a *gltf.Accessor, size int) error {
	s := a.Sparse
	if s == nil {
		return nil
	}
	if s.Count < 0 || s.Count > a.Count {
		return fmt.Errorf("gives %d of its %d elements anew", s.Count, a.Count)
	}
	wide := map[gltf.ComponentType]int{gltf.ComponentUbyte: 1, gltf.ComponentUshort: 2, gltf.ComponentUint: 4}[s.Indices.ComponentType]
	if wide == 0 {
		return errors.New("counts its new elements by numbers that are none")
	}
	if err := inView(document, s.Indices.BufferView, s.Indices.ByteOffset, s.Count, wide, false); err != nil {
		return fmt.Errorf("has new elements whose numbers it does not find: it %w", err)
	}
	if err := inView(document, s.Values.BufferView, s.Values.ByteOffset, s.Count, size, false); err != nil {
		return fmt.Errorf("has new elements that it does not find: it %w", err)
	}
	v := document.BufferViews[s.Indices.BufferView]
	numbers := document.Buffers[v.Buffer].Data[v.ByteOffset+s.Indices.ByteOffset:]
	for i := range s.Count {
		if at := number(numbers[wide*i:], wide); at >= uint64(a.Count) {
			return fmt.Errorf("gives element %d of %d anew", at, a.Count)
		}
	}
	return nil
}

func number(data []byte, wide int) uint64 {
	switch wide {
	case 1:
		return uint64(data[0])
	case 2:
		return uint64(binary.LittleEndian.Uint16(data))
	}
	return uint64(binary.LittleEndian.Uint32(data))
}

// mostText is what the JSON text of a file may hold.
var mostText = textsize.Limit{Objects: 400_000, Entries: 4_000_000}

// purse is what may still be spent on a file.
type purse struct {
	bytes, vertices, keys int
}

func newPurse(file int) *purse {
	return &purse{bytes: baseBytes + bytesForEach*file, vertices: model.MaxVertices, keys: rig.MaxKeys}
}

// spend takes so many things of so many bytes each out of the purse, or refuses.
func (p *purse) spend(count, each int) error {
	if count < 0 || count > p.bytes/each {
		return errors.New("the model comes to more in memory than a file of its size may; let it share less, or bring it in pieces")
	}
	p.bytes -= count * each
	return nil
}

func (p *purse) spendVertices(count int) error {
	if count > p.vertices {
		return fmt.Errorf("there are more than the %d vertices that a model may have; thin it out", model.MaxVertices)
	}
	p.vertices -= count
	return p.spend(count, perVertex)
}

func (p *purse) spendKeys(count int) error {
	if count > p.keys {
		return fmt.Errorf("there are more than the %d keys that a rig may have; export fewer clips, or sample them less often", rig.MaxKeys)
	}
	p.keys -= count
	return p.spend(count, perKey)
}
