package glb_test

import (
	"fmt"
	"runtime"
	"strings"
	"testing"

	"github.com/qmuntal/gltf"
	"github.com/qmuntal/gltf/modeler"
	"github.com/stretchr/testify/assert"

	"myriapod/core/interchange/glb"
)

// Files that ask for far more than they hold are refused before it is spent.
func TestWhatAsksForTooMuchIsRefusedFirst(t *testing.T) {
	sparse := func(count, indices, values int) func(*gltf.Document) {
		return func(d *gltf.Document) {
			d.Accessors[0].Sparse = &gltf.Sparse{
				Count:   count,
				Indices: gltf.SparseIndices{BufferView: 0, ByteOffset: indices, ComponentType: gltf.ComponentUint},
				Values:  gltf.SparseValues{BufferView: 0, ByteOffset: values},
			}
		}
	}
	type spoiled struct {
		want   string
		change func(*gltf.Document)
	}
	for _, s := range []spoiled{
		{"gives 2000000000 of its 3 elements anew", sparse(2_000_000_000, 0, 0)},
		{"counts below zero", func(d *gltf.Document) { d.Accessors[0].ByteOffset = -8 }},
		{"gives -1 of its 3", sparse(-1, 0, 0)},
		{"whose numbers it does not find", sparse(1, 1<<62, 0)},
		{"new elements that it does not find", sparse(1, 0, 1<<62)},
		{"gives element 1065353216 of 3 anew", sparse(1, 12, 0)},
		{"nothing to read them from", func(d *gltf.Document) { d.Accessors[0].BufferView, d.Accessors[0].Count = nil, 20_000_000 }},
		{"reaches past its buffer view", func(d *gltf.Document) { d.Accessors[0].ByteOffset = 1<<63 - 8 }},
		{"reaches past its buffer view", func(d *gltf.Document) { d.BufferViews[0].ByteStride = 1<<63 - 8 }},
		{"buffer view 0 reaches past", func(d *gltf.Document) { d.BufferViews[0].ByteOffset = 1<<63 - 8 }},
		{"more in memory than a file of its size", func(d *gltf.Document) {
			d.Accessors[0].BufferView, d.Accessors[0].Count = nil, 80_000
			for i := range 200 { // one mesh in many places
				d.Nodes = append(d.Nodes, &gltf.Node{Mesh: gltf.Index(0)})
				d.Scenes[0].Nodes = append(d.Scenes[0].Nodes, 2+i)
			}
		}},
		{"more in memory than a file of its size", func(d *gltf.Document) {
			d.Accessors[0].BufferView, d.Accessors[0].Count = nil, 80_000
			for range 1000 { // one morph target many times
				d.Meshes[0].Primitives[0].Targets = append(d.Meshes[0].Primitives[0].Targets, gltf.PrimitiveAttributes{gltf.POSITION: 0})
			}
		}},
		{"more in memory than a file of its size", func(d *gltf.Document) {
			times, turns := make([]float32, 900), make([][3]float32, 900)
			for i := range times {
				times[i] = float32(i)
			}
			at, to := modeler.WriteAccessor(d, gltf.TargetNone, times), modeler.WriteAccessor(d, gltf.TargetNone, turns)
			a := &gltf.Animation{Samplers: []*gltf.AnimationSampler{{Input: at, Output: to}}}
			for range 2000 { // one sampler in many channels
				a.Channels = append(a.Channels, &gltf.AnimationChannel{Target: gltf.AnimationChannelTarget{Node: gltf.Index(0), Path: gltf.TRSTranslation}})
			}
			d.Animations = []*gltf.Animation{a}
		}},
	} {
		var before, after runtime.MemStats
		file := triangle(t, s.change)
		runtime.ReadMemStats(&before)
		_, err := glb.Read(file, nil)
		runtime.ReadMemStats(&after)
		assert.ErrorContains(t, err, s.want)
		assert.Less(t, after.TotalAlloc-before.TotalAlloc, uint64(300<<20), s.want)
	}
	_, err := glb.Read([]byte(`{"asset":{"version":"2.0"},"nodes":[`+strings.Repeat("{},", 500_000)+`{}]}`), nil)
	assert.ErrorContains(t, err, "read at once")
	for _, length := range []int{-1, 1 << 40, 1<<32 + 8} {
		_, err = glb.Read(text(fmt.Sprintf(`{"asset":{"version":"2.0"},"buffers":[{"byteLength":%d}]}`, length)), nil)
		assert.ErrorContains(t, err, "bytes and has 0")
	}
}

// text is a binary file of JSON alone.
func text(json string) []byte {
	for len(json)%4 != 0 {
		json += " "
	}
	n, all := len(json), len(json)+20
	head := []byte{'g', 'l', 'T', 'F', 2, 0, 0, 0, byte(all), byte(all >> 8), 0, 0, byte(n), byte(n >> 8), 0, 0, 'J', 'S', 'O', 'N'}
	return append(head, json...)
}
