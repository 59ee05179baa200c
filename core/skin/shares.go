package skin

import (
	"encoding/binary"
	"fmt"
	"math"

	"myriapod/core/mesh"
)

// Shares is a number from 0 to 1 for each vertex of a part.
type Shares []float32

// NewShares returns shares of 1.
func NewShares(vertices int) Shares {
	s := make(Shares, vertices)
	for i := range s {
		s[i] = 1
	}
	return s
}

const sharesMagic = "MYS1"

// Encode returns shares as bytes for storage: magic, their count as uint32, and they as float32, little-endian.
func (s Shares) Encode() []byte {
	out := binary.LittleEndian.AppendUint32([]byte(sharesMagic), uint32(len(s)))
	for _, share := range s {
		out = binary.LittleEndian.AppendUint32(out, math.Float32bits(share))
	}
	return out
}

// DecodeShares reads what Encode wrote and checks it against the number of vertices.
func DecodeShares(data []byte, vertices int) (Shares, error) {
	if len(data) < 8 || string(data[:4]) != sharesMagic {
		return nil, fmt.Errorf("stored shares: they do not begin with %s", sharesMagic)
	}
	if count := int(binary.LittleEndian.Uint32(data[4:])); count != vertices || len(data)-8 != 4*vertices {
		return nil, fmt.Errorf("stored shares: they are of %d vertices in place of %d", count, vertices)
	}
	s := make(Shares, vertices)
	for i := range s {
		s[i] = math.Float32frombits(binary.LittleEndian.Uint32(data[8+4*i:]))
		if !(s[i] >= 0 && s[i] <= 1) {
			return nil, fmt.Errorf("stored shares: that of vertex %d is %g, and not within 0 to 1", i, s[i])
		}
	}
	return s, nil
}

// DabShares changes shares around a spot, less and less towards the brush's edge, and returns the vertices that were changed.
func (p *Painter) DabShares(s Shares, at mesh.Spot, b Brush) (changed []int) {
	p.reach(at, b)
	for i, vertex := range p.near {
		p.wanted = append(p.wanted, p.wantOf(float64(s[vertex]), p.share[i], b, func() (sum float64, count int) {
			p.walk.Neighbours(vertex, func(other int) { sum, count = sum+float64(s[other]), count+1 })
			return sum, count
		}))
	}
	for i, vertex := range p.near {
		if wanted := float32(math.Max(0, math.Min(1, p.wanted[i]))); wanted != s[vertex] {
			s[vertex] = wanted
			changed = append(changed, vertex)
		}
	}
	return changed
}
