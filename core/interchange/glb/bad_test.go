package glb_test

import (
	"bytes"
	"encoding/binary"
	"math"
	"strings"
	"testing"

	"github.com/qmuntal/gltf"
	"github.com/qmuntal/gltf/modeler"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/interchange/glb"
	"myriapod/core/interchange/model"
)

// triangle is a small file, which change may spoil before it is written.
func triangle(t testing.TB, change func(*gltf.Document)) []byte {
	d := gltf.NewDocument()
	d.Meshes = []*gltf.Mesh{{Name: "body", Primitives: []*gltf.Primitive{{
		Attributes: gltf.PrimitiveAttributes{
			gltf.POSITION: modeler.WritePosition(d, [][3]float32{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}}),
			gltf.NORMAL:   modeler.WriteNormal(d, [][3]float32{{0, 0, 1}, {0, 0, 1}, {0, 0, 1}}),
		},
		Indices: gltf.Index(modeler.WriteIndices(d, []uint16{0, 1, 2})),
	}}}}
	d.Nodes = []*gltf.Node{{Name: "body", Mesh: gltf.Index(0), Scale: [3]float64{2, 2, 2}}, {Name: "top", Children: []int{0}, Translation: [3]float64{0, 3, 0}}}
	d.Scenes[0].Nodes = []int{1}
	if change != nil {
		change(d)
	}
	var out bytes.Buffer
	encoder := gltf.NewEncoder(&out)
	encoder.AsBinary = true
	require.NoError(t, encoder.Encode(d))
	return out.Bytes()
}

func TestNodesPlaceTheirMeshes(t *testing.T) {
	read, err := glb.Read(triangle(t, nil), nil)
	require.NoError(t, err)
	assert.Equal(t, []float32{0, 3, 0, 2, 3, 0, 0, 5, 0}, read.Parts[0].Mesh.Positions)
	mirrored, err := glb.Read(triangle(t, func(d *gltf.Document) { d.Nodes[0].Scale = [3]float64{-1, 1, 1} }), nil)
	require.NoError(t, err)
	assert.Equal(t, []uint32{0, 2, 1}, mirrored.Parts[0].Mesh.Triangles, "a mirrored node turns its faces round")
	flat, err := glb.Read(triangle(t, func(d *gltf.Document) { d.Nodes[0].Scale = [3]float64{0, 1, 1} }), nil)
	require.NoError(t, err)
	require.NoError(t, flat.Parts[0].Mesh.Validate())
}

// Elements that nothing gives are zeros, and never what another file left behind.
func TestWhatNothingGivesIsZero(t *testing.T) {
	full := triangle(t, func(d *gltf.Document) {
		d.Accessors[0].BufferView = gltf.Index(modeler.WriteBufferView(d, gltf.TargetNone, [][3]float32{{7, 8, 9}, {4, 5, 6}, {1, 2, 3}}))
	})
	half := triangle(t, func(d *gltf.Document) {
		views := []int{modeler.WriteBufferView(d, gltf.TargetNone, []uint32{1}), modeler.WriteBufferView(d, gltf.TargetNone, [][3]float32{{1, 0, 0}})}
		d.Accessors[0].BufferView = nil
		d.Accessors[0].Sparse = &gltf.Sparse{
			Count: 1, Indices: gltf.SparseIndices{BufferView: views[0], ComponentType: gltf.ComponentUint}, Values: gltf.SparseValues{BufferView: views[1]},
		}
	})
	for range 20 {
		_, err := glb.Read(full, nil)
		require.NoError(t, err)
		read, err := glb.Read(half, nil)
		require.NoError(t, err)
		require.Equal(t, []float32{0, 3, 0, 2, 3, 0, 0, 3, 0}, read.Parts[0].Mesh.Positions)
	}
}

func TestLyingFilesAreRefused(t *testing.T) {
	spoiled := map[string]func(*gltf.Document){
		"accessor 0 reaches past":         func(d *gltf.Document) { d.Accessors[0].Count = 1000 },
		"thin the model out":              func(d *gltf.Document) { d.Accessors[0].Count = math.MaxInt32 },
		"counts below zero":               func(d *gltf.Document) { d.Accessors[0].Count = -1 },
		"reaches past its buffer view":    func(d *gltf.Document) { d.Accessors[0].ByteOffset = 1 << 30 },
		"points at no buffer view":        func(d *gltf.Document) { d.Accessors[0].BufferView = gltf.Index(99) },
		"buffer view 0 reaches past":      func(d *gltf.Document) { d.BufferViews[0].ByteLength = 1 << 30 },
		"buffer view 0 points at no":      func(d *gltf.Document) { d.BufferViews[0].Buffer = 7 },
		"among its own children":          func(d *gltf.Document) { d.Nodes[0].Children = []int{1} },
		"names node 42 of 2":              func(d *gltf.Document) { d.Nodes[0].Children = []int{42} },
		"names mesh 9 of 1":               func(d *gltf.Document) { d.Nodes[0].Mesh = gltf.Index(9) },
		"names accessor 77":               func(d *gltf.Document) { d.Meshes[0].Primitives[0].Indices = gltf.Index(77) },
		"names scene 3 of 1":              func(d *gltf.Document) { d.Scene = gltf.Index(3) },
		"needs the extension X_unknown":   func(d *gltf.Document) { d.ExtensionsRequired = []string{"X_unknown"} },
		"export it as glTF 2.0":           func(d *gltf.Document) { d.Asset.Version = "1.0" },
		"vertex 1 is not at a finite":     func(d *gltf.Document) { poison(d, float32(math.NaN())) },
		"vertex 1 is not at a finite pla": func(d *gltf.Document) { poison(d, float32(math.Inf(1))) },
		"points at vertex 500 of 3":       func(d *gltf.Document) { binary.LittleEndian.PutUint16(indices(d), 500) },
	}
	for want, change := range spoiled {
		_, err := glb.Read(triangle(t, change), nil)
		assert.ErrorContains(t, err, want)
	}
}

// poison puts a number into the second vertex.
func poison(d *gltf.Document, n float32) {
	view := d.BufferViews[*d.Accessors[0].BufferView]
	binary.LittleEndian.PutUint32(d.Buffers[0].Data[view.ByteOffset+d.Accessors[0].ByteOffset+12:], math.Float32bits(n))
}

func indices(d *gltf.Document) []byte {
	accessor := d.Accessors[*d.Meshes[0].Primitives[0].Indices]
	return d.Buffers[0].Data[d.BufferViews[*accessor.BufferView].ByteOffset+accessor.ByteOffset:]
}

func TestCutAndDamagedFilesAreRefused(t *testing.T) {
	whole := triangle(t, nil)
	for _, length := range []int{4, 12, 19, 30, len(whole) / 2, len(whole) - 1} {
		_, err := glb.Read(whole[:length], nil)
		assert.Error(t, err, "the first %d bytes", length)
	}
	lying := bytes.Clone(whole)
	binary.LittleEndian.PutUint32(lying[12:], 1<<31)
	_, err := glb.Read(lying, nil)
	require.ErrorContains(t, err, "a chunk says it has")
	_, err = glb.Read([]byte(`{"asset":{"version":"2.0"},"buffers":[{"uri":"beside.bin","byteLength":4}]}`), nil)
	require.ErrorContains(t, err, "beside.bin was not brought")
	_, err = glb.Read([]byte(strings.Repeat("[", 100_000)), nil)
	require.Error(t, err)
}

func FuzzRead(f *testing.F) {
	f.Add(triangle(f, nil))
	f.Add(triangle(f, func(d *gltf.Document) { d.Nodes[0].Children = []int{1} }))
	f.Add([]byte(`{"asset":{"version":"2.0"},"scenes":[{"nodes":[0]}],"nodes":[{"mesh":0}],"meshes":[{"primitives":[{"attributes":{"POSITION":0}}]}],"accessors":[{"count":3,"type":"VEC3","componentType":5126}]}`))
	f.Add([]byte(`{"asset":{"version":"2.0"},"scenes":[{"nodes":[0]}],"nodes":[{"mesh":0}],"meshes":[{"primitives":[{"attributes":{"POSITION":0}}]}],"buffers":[{"uri":"data:application/octet-stream;base64,AAAAAAAAAAAAAAAAAAAAAAAAAAA=","byteLength":20}],"bufferViews":[{"buffer":0,"byteLength":4},{"buffer":0,"byteOffset":4,"byteLength":12}],"accessors":[{"count":3,"type":"VEC3","componentType":5126,"sparse":{"count":1,"indices":{"bufferView":0,"componentType":5125},"values":{"bufferView":1}}}]}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		read, err := glb.Read(data, nil)
		if err != nil || model.Check(read) != nil {
			return
		}
		for _, p := range read.Parts {
			if err := p.Mesh.Validate(); err != nil {
				t.Fatalf("an accepted part is not valid: %v", err)
			}
		}
	})
}
