package mesh

import (
	"encoding/binary"
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"
)

// Deltas is how far a morph target moves each vertex and its normal, x, y, z flat. Normals may be empty.
type Deltas struct {
	Positions []float32
	Normals   []float32
}

// Mix adds a share of the deltas to a surface with as many vertices. Normals are left at the length they come to.
func (d *Deltas) Mix(share float32, m *Mesh) {
	if share == 0 {
		return
	}
	for i, delta := range d.Positions {
		m.Positions[i] += share * delta
	}
	for i, delta := range d.Normals {
		m.Normals[i] += share * delta
	}
}

// Turned returns the deltas as another frame has them: along takes how far vertices move, normal how their normals do.
func (d *Deltas) Turned(along, normal func(mgl64.Vec3) mgl64.Vec3) *Deltas {
	return &Deltas{Positions: changed(d.Positions, along), Normals: changed(d.Normals, normal)}
}

const (
	deltasMagic = "MYD1" // of all vertices
	someMagic   = "MYD2" // of those that move
)

// Encode returns the deltas as bytes for storage, little-endian. Where most vertices move: MYD1, the counts of both lists as uint32, and the lists. Where few do: MYD2, the count of
// all vertices, of those that move and of those whose normals are given, as uint32, which ones move, and their lists.
func (d *Deltas) Encode() []byte {
	moving := d.moving()
	if 2*len(moving) >= len(d.Positions)/3 {
		return encoded(deltasMagic, []uint32{uint32(len(d.Positions)), uint32(len(d.Normals))}, d.Positions, d.Normals)
	}
	head := []uint32{uint32(len(d.Positions) / 3), uint32(len(moving)), 0}
	some := &Deltas{}
	for _, v := range moving {
		some.Positions = append(some.Positions, d.Positions[3*v:3*v+3]...)
		if len(d.Normals) > 0 {
			some.Normals = append(some.Normals, d.Normals[3*v:3*v+3]...)
		}
	}
	head[2] = uint32(len(some.Normals) / 3)
	if len(d.Normals) > 0 && len(moving) == 0 {
		head[2] = allNormals
	}
	return encoded(someMagic, append(head, moving...), some.Positions, some.Normals)
}

// allNormals stands for the count of normals where normals are given and nothing moves.
const allNormals = math.MaxUint32

// moving lists the vertices that are moved, or whose normals are.
func (d *Deltas) moving() (list []uint32) {
	for v := range len(d.Positions) / 3 {
		p, n := d.Positions[3*v:3*v+3], []float32{0, 0, 0}
		if len(d.Normals) > 0 {
			n = d.Normals[3*v : 3*v+3]
		}
		if p[0] != 0 || p[1] != 0 || p[2] != 0 || n[0] != 0 || n[1] != 0 || n[2] != 0 {
			list = append(list, uint32(v))
		}
	}
	return list
}

func encoded(magic string, head []uint32, lists ...[]float32) []byte {
	out := []byte(magic)
	for _, n := range head {
		out = binary.LittleEndian.AppendUint32(out, n)
	}
	for _, list := range lists {
		for _, n := range list {
			out = binary.LittleEndian.AppendUint32(out, math.Float32bits(n))
		}
	}
	return out
}

// DecodeDeltas reads what Encode wrote and checks it against the number of vertices.
func DecodeDeltas(data []byte, vertices int) (*Deltas, error) {
	if len(data) < 12 || string(data[:4]) != deltasMagic && string(data[:4]) != someMagic {
		return nil, fmt.Errorf("stored morph target: it does not begin with %s or %s", deltasMagic, someMagic)
	}
	words := make([]uint32, len(data)/4-1)
	for i := range words {
		words[i] = binary.LittleEndian.Uint32(data[4+4*i:])
	}
	if string(data[:4]) == someMagic {
		return decodeSome(words, vertices)
	}
	positions, normals := int(words[0]), int(words[1])
	if len(data)-12 != 4*(positions+normals) || positions != 3*vertices || normals != 0 && normals != positions {
		return nil, fmt.Errorf("stored morph target: it moves %d vertices in place of %d", positions/3, vertices)
	}
	d := &Deltas{Positions: make([]float32, positions), Normals: make([]float32, normals)}
	words = words[2:]
	for _, list := range [][]float32{d.Positions, d.Normals} {
		for i := range list {
			list[i] = math.Float32frombits(words[i])
		}
		words = words[len(list):]
	}
	return d, d.finite()
}

func decodeSome(words []uint32, vertices int) (*Deltas, error) {
	if len(words) < 3 || int(words[0]) != vertices {
		return nil, fmt.Errorf("stored morph target: it moves %d vertices in place of %d", words[0], vertices)
	}
	moving, normals := int(words[1]), int(words[2])
	d := &Deltas{Positions: make([]float32, 3*vertices)}
	if normals > 0 {
		d.Normals = make([]float32, 3*vertices)
	}
	if normals == allNormals {
		normals = 0
	}
	if moving > vertices || normals != 0 && normals != moving || len(words) != 3+4*moving+3*normals {
		return nil, fmt.Errorf("stored morph target: its lists do not fit the %d vertices that it moves", moving)
	}
	which, numbers := words[3:3+moving], words[3+moving:]
	for i, v := range which {
		if int(v) >= vertices {
			return nil, fmt.Errorf("stored morph target: it moves vertex %d of %d", v, vertices)
		}
		for k := range 3 {
			d.Positions[3*int(v)+k] = math.Float32frombits(numbers[3*i+k])
			if normals > 0 {
				d.Normals[3*int(v)+k] = math.Float32frombits(numbers[3*(moving+i)+k])
			}
		}
	}
	return d, d.finite()
}

func (d *Deltas) finite() error {
	for _, list := range [][]float32{d.Positions, d.Normals} {
		for _, n := range list {
			if n != n || math.IsInf(float64(n), 0) {
				return fmt.Errorf("stored morph target: a number in it is not finite")
			}
		}
	}
	return nil
}
