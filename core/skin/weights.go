// Package skin attaches surfaces to joints: tables of influences, their computation, and linear-blend deformation.
package skin

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"math"
)

// Influences is how many joints may move one vertex.
const Influences = 4

// Weights is the table of influences of one part: for each vertex four joints, as indices into the binding's list, and
// their weights, which sum to one. An unused place has weight 0 and joint 0.
type Weights struct {
	Joints []uint16
	Values []float32
}

// NewWeights returns an empty table for so many vertices.
func NewWeights(vertices int) *Weights {
	return &Weights{Joints: make([]uint16, Influences*vertices), Values: make([]float32, Influences*vertices)}
}

// VertexCount returns the number of vertices the table is for.
func (w *Weights) VertexCount() int { return len(w.Joints) / Influences }

// Set writes the influences of one vertex, the strongest four of them, scaled to sum to one. With no positive weight the vertex
// goes to the first joint given.
func (w *Weights) Set(vertex int, joints []int, values []float64) {
	place := vertex * Influences
	for k := range Influences {
		w.Joints[place+k], w.Values[place+k] = 0, 0
	}
	taken := make([]bool, len(joints))
	sum := 0.0
	for k := range Influences {
		best := -1
		for i, value := range values {
			if !taken[i] && value > 0 && (best < 0 || value > values[best]) {
				best = i
			}
		}
		if best < 0 {
			break
		}
		taken[best] = true
		sum += values[best]
		w.Joints[place+k], w.Values[place+k] = uint16(joints[best]), float32(values[best])
	}
	if sum == 0 {
		w.Joints[place], w.Values[place] = uint16(joints[0]), 1
		return
	}
	w.normalise(place, sum)
}

// normalise scales the four weights and gives the rounding left over to the strongest, so that they sum to one in float32.
func (w *Weights) normalise(place int, sum float64) {
	rest := float32(1)
	for k := 1; k < Influences; k++ {
		w.Values[place+k] = float32(float64(w.Values[place+k]) / sum)
		rest -= w.Values[place+k]
	}
	w.Values[place] = rest
}

const storedMagic = "MYW1"

// Encode returns the table as bytes for storage: magic, vertex count as uint32, joints as uint16, values as float32, all
// little-endian.
func (w *Weights) Encode() []byte {
	var out bytes.Buffer
	out.WriteString(storedMagic)
	for _, part := range []any{uint32(w.VertexCount()), w.Joints, w.Values} {
		_ = binary.Write(&out, binary.LittleEndian, part) // a bytes.Buffer takes every fixed-size value
	}
	return out.Bytes()
}

// DecodeWeights reads what Encode wrote and checks it against the number of joints of its binding.
func DecodeWeights(data []byte, joints int) (*Weights, error) {
	w, err := decode(data)
	if err != nil {
		return nil, err
	}
	return w, w.Validate(joints)
}

func decode(data []byte) (*Weights, error) {
	if len(data) < 8 || string(data[:4]) != storedMagic {
		return nil, fmt.Errorf("stored weights: they do not begin with %s", storedMagic)
	}
	count := int(binary.LittleEndian.Uint32(data[4:]))
	if len(data)-8 != count*Influences*6 {
		return nil, fmt.Errorf("stored weights: %d bytes do not hold %d vertices", len(data)-8, count)
	}
	w := NewWeights(count)
	reader := bytes.NewReader(data[8:])
	for _, part := range []any{w.Joints, w.Values} {
		if err := binary.Read(reader, binary.LittleEndian, part); err != nil {
			return nil, fmt.Errorf("stored weights: %w", err)
		}
	}
	return w, nil
}

// Validate tells what is wrong with the table: joints past the binding's list, or weights that are not finite, are negative, or do
// not sum to one (to 1e-4).
func (w *Weights) Validate(joints int) error {
	for vertex := range w.VertexCount() {
		sum := 0.0
		for k := range Influences {
			value := float64(w.Values[vertex*Influences+k])
			if math.IsNaN(value) || value < 0 {
				return fmt.Errorf("vertex %d has a weight of %g; weights are 0 or more", vertex, value)
			}
			if int(w.Joints[vertex*Influences+k]) >= joints {
				return fmt.Errorf("vertex %d goes with joint %d of %d", vertex, w.Joints[vertex*Influences+k], joints)
			}
			sum += value
		}
		if math.Abs(sum-1) > 1e-4 {
			return fmt.Errorf("the weights of vertex %d sum to %g, not to 1", vertex, sum)
		}
	}
	return nil
}

// Subset returns the table of the vertices given.
func (w *Weights) Subset(vertices []int) *Weights {
	part := NewWeights(len(vertices))
	for i, v := range vertices {
		copy(part.Joints[Influences*i:], w.Joints[Influences*v:Influences*(v+1)])
		copy(part.Values[Influences*i:], w.Values[Influences*v:Influences*(v+1)])
	}
	return part
}

// JoinWeights returns several tables as one; places says, for each table, where its joints stand in the joint list of the whole.
func JoinWeights(tables []*Weights, places [][]int) *Weights {
	whole := &Weights{}
	for i, table := range tables {
		for k, joint := range table.Joints {
			at := uint16(0) // of an unused place
			if table.Values[k] > 0 {
				at = uint16(places[i][joint])
			}
			whole.Joints = append(whole.Joints, at)
		}
		whole.Values = append(whole.Values, table.Values...)
	}
	return whole
}
