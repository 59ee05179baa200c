package mesh

import (
	"bytes"
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

const deltasMagic = "MYD1"

// Encode returns the deltas as bytes for storage: magic, the counts of both lists as uint32, and the lists, little-endian.
func (d *Deltas) Encode() []byte {
	var out bytes.Buffer
	out.WriteString(deltasMagic)
	for _, part := range []any{uint32(len(d.Positions)), uint32(len(d.Normals)), d.Positions, d.Normals} {
		_ = binary.Write(&out, binary.LittleEndian, part) // a bytes.Buffer takes every fixed-size value
	}
	return out.Bytes()
}

// DecodeDeltas reads what Encode wrote and checks it against the number of vertices.
func DecodeDeltas(data []byte, vertices int) (*Deltas, error) {
	if len(data) < 12 || string(data[:4]) != deltasMagic {
		return nil, fmt.Errorf("stored morph target: it does not begin with %s", deltasMagic)
	}
	positions, normals := int(binary.LittleEndian.Uint32(data[4:])), int(binary.LittleEndian.Uint32(data[8:]))
	if len(data)-12 != 4*(positions+normals) || positions != 3*vertices || normals != 0 && normals != positions {
		return nil, fmt.Errorf("stored morph target: it moves %d vertices in place of %d", positions/3, vertices)
	}
	d := &Deltas{Positions: make([]float32, positions), Normals: make([]float32, normals)}
	reader := bytes.NewReader(data[12:])
	for _, part := range [][]float32{d.Positions, d.Normals} {
		if err := binary.Read(reader, binary.LittleEndian, part); err != nil {
			return nil, fmt.Errorf("stored morph target: %w", err)
		}
		for _, n := range part {
			if n != n || math.IsInf(float64(n), 0) {
				return nil, fmt.Errorf("stored morph target: a number in it is not finite")
			}
		}
	}
	return d, nil
}
