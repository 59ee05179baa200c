package mesh

import (
	"bytes"
	"encoding/binary"
	"fmt"
)

// storedMagic begins a stored mesh: four counts follow as uint32 (positions, normals, texture coordinates, triangle
// indices), then the arrays in that order, all little-endian. The page reads the same bytes.
const storedMagic = "MYM1"

// Encode returns m as bytes for storage; equal meshes give equal bytes.
func (m *Mesh) Encode() []byte {
	var out bytes.Buffer
	out.WriteString(storedMagic)
	counts := []uint32{uint32(len(m.Positions)), uint32(len(m.Normals)), uint32(len(m.TexCoords)), uint32(len(m.Triangles))}
	for _, part := range []any{counts, m.Positions, m.Normals, m.TexCoords, m.Triangles} {
		_ = binary.Write(&out, binary.LittleEndian, part) // a bytes.Buffer takes every fixed-size value
	}
	return out.Bytes()
}

// Decode reads what Encode wrote and validates it.
func Decode(data []byte) (*Mesh, error) {
	var counts [4]uint32
	header := len(storedMagic) + 16
	if len(data) < header || string(data[:4]) != storedMagic {
		return nil, fmt.Errorf("stored mesh: it does not begin with %s", storedMagic)
	}
	reader := bytes.NewReader(data[4:])
	_ = binary.Read(reader, binary.LittleEndian, &counts) // the length was checked above
	total := uint64(counts[0]) + uint64(counts[1]) + uint64(counts[2]) + uint64(counts[3])
	if uint64(len(data)-header) != 4*total {
		return nil, fmt.Errorf("stored mesh: %d bytes do not hold %d numbers", len(data)-header, total)
	}
	m := &Mesh{
		Positions: make([]float32, counts[0]), Normals: make([]float32, counts[1]),
		TexCoords: make([]float32, counts[2]), Triangles: make([]uint32, counts[3]),
	}
	for _, part := range []any{m.Positions, m.Normals, m.TexCoords, m.Triangles} {
		if err := binary.Read(reader, binary.LittleEndian, part); err != nil {
			return nil, fmt.Errorf("stored mesh: %w", err)
		}
	}
	if err := m.Validate(); err != nil {
		return nil, fmt.Errorf("stored mesh: %w", err)
	}
	return m, nil
}
