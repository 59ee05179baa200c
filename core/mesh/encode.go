package mesh

import (
	"bytes"
	"encoding/binary"
	"fmt"
)

// A stored mesh begins with plainMagic, and four counts as uint32 (positions, normals, texture coordinates, triangle indices); one whose vertices have
// colours with colouredMagic and a fifth count for these. The arrays follow in that order, all little-endian. The page reads the same bytes.
const (
	plainMagic    = "MYM1"
	colouredMagic = "MYM2"
)

// Encode returns m as bytes for storage; equal meshes give equal bytes.
func (m *Mesh) Encode() []byte {
	var out bytes.Buffer
	magic := plainMagic
	counts := []uint32{uint32(len(m.Positions)), uint32(len(m.Normals)), uint32(len(m.TexCoords)), uint32(len(m.Triangles))}
	if len(m.Colours) > 0 {
		magic, counts = colouredMagic, append(counts, uint32(len(m.Colours)))
	}
	out.WriteString(magic)
	for _, part := range []any{counts, m.Positions, m.Normals, m.TexCoords, m.Triangles, m.Colours} {
		_ = binary.Write(&out, binary.LittleEndian, part) // a bytes.Buffer takes every fixed-size value
	}
	return out.Bytes()
}

// countsOf reads the head of a stored mesh: the five counts, and where the arrays begin.
func countsOf(data []byte) (counts [5]uint32, from int, err error) {
	kept := 0
	switch {
	case bytes.HasPrefix(data, []byte(plainMagic)):
		kept = 4
	case bytes.HasPrefix(data, []byte(colouredMagic)):
		kept = 5
	}
	from = 4 + 4*kept
	if kept == 0 || len(data) < from {
		return counts, 0, fmt.Errorf("stored mesh: it does not begin with %s or %s", plainMagic, colouredMagic)
	}
	for i := range kept {
		counts[i] = binary.LittleEndian.Uint32(data[4+4*i:])
	}
	return counts, from, nil
}

// Decode reads what Encode wrote and validates it.
func Decode(data []byte) (*Mesh, error) {
	counts, from, err := countsOf(data)
	if err != nil {
		return nil, err
	}
	total := uint64(0)
	for _, count := range counts {
		total += uint64(count)
	}
	if uint64(len(data)-from) != 4*total {
		return nil, fmt.Errorf("stored mesh: %d bytes do not hold %d numbers", len(data)-from, total)
	}
	m := &Mesh{
		Positions: make([]float32, counts[0]), Normals: make([]float32, counts[1]),
		TexCoords: make([]float32, counts[2]), Triangles: make([]uint32, counts[3]), Colours: make([]float32, counts[4]),
	}
	reader := bytes.NewReader(data[from:])
	for _, part := range []any{m.Positions, m.Normals, m.TexCoords, m.Triangles, m.Colours} {
		if err := binary.Read(reader, binary.LittleEndian, part); err != nil {
			return nil, fmt.Errorf("stored mesh: %w", err)
		}
	}
	if err := m.Validate(); err != nil {
		return nil, fmt.Errorf("stored mesh: %w", err)
	}
	return m, nil
}
