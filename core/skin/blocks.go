package skin

import (
	"encoding/binary"
	"encoding/hex"
	"fmt"
)

// blockOf is how many vertices are stored together, so that a change stores only the blocks that it is in.
const blockOf = 256

const blocksMagic = "MYWB"

// EncodeBlocks stores a table in blocks: keep stores each and returns its content hash in hexadecimal, and what is returned is the list of them, which stands for the table: magic, the vertex
// count as uint32, the length of a hash in bytes as uint32, and the hashes.
func (w *Weights) EncodeBlocks(keep func([]byte) string) []byte {
	out := binary.LittleEndian.AppendUint32([]byte(blocksMagic), uint32(w.VertexCount()))
	for from := 0; from < w.VertexCount(); from += blockOf {
		to := min(from+blockOf, w.VertexCount())
		part := &Weights{Joints: w.Joints[Influences*from : Influences*to], Values: w.Values[Influences*from : Influences*to]}
		hash, err := hex.DecodeString(keep(part.Encode()))
		if err != nil {
			panic(err) // content hashes are hexadecimal
		}
		if from == 0 {
			out = binary.LittleEndian.AppendUint32(out, uint32(len(hash)))
		}
		out = append(out, hash...)
	}
	return out
}

// Whole returns a stored table as Encode writes it, whether it is stored in blocks or not. blob reads stored data by its content hash.
func Whole(data []byte, blob func(hash string) ([]byte, error)) ([]byte, error) {
	if len(data) < 4 || string(data[:4]) != blocksMagic {
		return data, nil
	}
	if len(data) < 12 {
		return nil, fmt.Errorf("stored weights: the list of blocks is cut off")
	}
	count, long := int(binary.LittleEndian.Uint32(data[4:])), int(binary.LittleEndian.Uint32(data[8:]))
	blocks := (count + blockOf - 1) / blockOf
	if long < 1 || long > 128 || len(data)-12 != blocks*long {
		return nil, fmt.Errorf("stored weights: %d bytes do not list the blocks of %d vertices", len(data), count)
	}
	whole := NewWeights(0)
	for i := range blocks {
		part, err := blob(hex.EncodeToString(data[12+i*long : 12+(i+1)*long]))
		if err != nil {
			return nil, err
		}
		table, err := decode(part)
		if err != nil {
			return nil, err
		}
		whole.Joints, whole.Values = append(whole.Joints, table.Joints...), append(whole.Values, table.Values...)
	}
	if whole.VertexCount() != count {
		return nil, fmt.Errorf("stored weights: the blocks hold %d vertices, not %d", whole.VertexCount(), count)
	}
	return whole.Encode(), nil
}

// ReadWeights reads a stored table and checks it against the number of joints of its binding.
func ReadWeights(data []byte, joints int, blob func(hash string) ([]byte, error)) (*Weights, error) {
	whole, err := Whole(data, blob)
	if err != nil {
		return nil, err
	}
	return DecodeWeights(whole, joints)
}
