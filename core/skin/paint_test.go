package skin

import (
	"fmt"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/mesh"
)

// TestStrokesKeepWeightsWhole paints random strokes with random locks: weights stay whole, within the limit, and locked ones as they were.
func TestStrokesKeepWeightsWhole(t *testing.T) {
	m := pipe(1, 4, 30, 14, false)
	const joints = 7
	rapid.Check(t, func(t *rapid.T) {
		w := NewWeights(m.VertexCount())
		for v := range m.VertexCount() {
			values := make([]float64, joints)
			for k := range values {
				values[k] = rapid.Float64Range(0, 1).Draw(t, "weight")
			}
			w.Set(v, []int{0, 1, 2, 3, 4, 5, 6}, values)
			if v > 40 { // the rest is alike: drawing takes most of the time
				copy(w.Joints[Influences*v:], w.Joints[Influences*(v%40):Influences*(v%40+1)])
				copy(w.Values[Influences*v:], w.Values[Influences*(v%40):Influences*(v%40+1)])
			}
		}
		var locked []int
		for joint := range joints {
			if rapid.IntRange(0, 3).Draw(t, "lock") == 0 {
				locked = append(locked, joint)
			}
		}
		p := NewPainter(m, joints, locked)
		before := &Weights{slices.Clone(w.Joints), slices.Clone(w.Values)}
		for range 6 {
			joint := rapid.IntRange(0, joints-1).Draw(t, "joint")
			b := Brush{rapid.SampledFrom(Strokes).Draw(t, "stroke"), rapid.Float64Range(0.1, 5).Draw(t, "reach"), rapid.Float64Range(0, 1).Draw(t, "strength"), rapid.Float64Range(0, 1).Draw(t, "value"), rapid.Bool().Draw(t, "through")}
			require.NoError(t, b.Check())
			spot := mesh.Spot{Face: rapid.IntRange(0, m.FaceCount()-1).Draw(t, "face"), Shares: [3]float64{0.2, 0.3, 0.5}}
			was := &Weights{slices.Clone(w.Joints), slices.Clone(w.Values)}
			changed := p.Dab(w, joint, spot, b)
			require.NoError(t, w.Validate(joints))
			for v := range m.VertexCount() {
				if !slices.Contains(changed, v) {
					require.Equal(t, was.Values[Influences*v:Influences*(v+1)], w.Values[Influences*v:Influences*(v+1)])
				}
				for _, joint := range locked {
					require.InDelta(t, before.Of(v, joint), w.Of(v, joint), 1e-5, "a locked joint keeps its weights")
				}
			}
		}
	})
}

// TestABrushDoesWhatItsStrokeSays looks at one dab of full strength in the middle, and beside the brush.
func TestABrushDoesWhatItsStrokeSays(t *testing.T) {
	m := pipe(1, 4, 41, 24, false)
	half := func() *Weights {
		w := NewWeights(m.VertexCount())
		for v := range m.VertexCount() {
			w.Set(v, []int{0, 1}, []float64{0.5, 0.5})
		}
		return w
	}
	spot := mesh.Spot{Face: 900, Shares: [3]float64{1, 0, 0}}
	middle := int(m.Triangles[3*900])
	for stroke, want := range map[Stroke]float64{More: 0.9, Less: 0.1, Towards: 0.5 + 0.4*(0.8-0.5), Multiply: 0.5 * (1 + 0.4*(0.8-1)), Even: 0.5, Firm: 0.5} {
		w := half()
		changed := NewPainter(m, 2, nil).Dab(w, 0, spot, Brush{stroke, 0.9, 0.4, 0.8, false})
		assert.InDelta(t, want, w.Of(middle, 0), 1e-6, stroke)
		for _, v := range changed {
			assert.Less(t, m.Vertex(v).Sub(m.Vertex(middle)).Len(), 0.9, "a way over the surface is never shorter than straight")
		}
	}
	w := half()
	w.Set(middle, []int{0, 1}, []float64{0.9, 0.1})
	NewPainter(m, 2, nil).Dab(w, 0, spot, Brush{Firm, 0.01, 1, 0, false})
	assert.InDelta(t, 0.81*(3-1.8), w.Of(middle, 0), 1e-6)
	NewPainter(m, 2, nil).Dab(w, 0, spot, Brush{Even, 0.01, 1, 0, false})
	assert.InDelta(t, 0.5, w.Of(middle, 0), 1e-6)
	alone := NewWeights(m.VertexCount())
	for v := range m.VertexCount() {
		alone.Values[Influences*v] = 1
	}
	assert.Empty(t, NewPainter(m, 2, nil).Dab(alone, 0, spot, Brush{Less, 0.9, 1, 0, false}), "there is nobody to take it")
	assert.Empty(t, NewPainter(m, 2, []int{0}).Dab(half(), 0, spot, Brush{More, 0.9, 1, 0, false}), "it is locked")
	for _, b := range []Brush{{"x", 1, 1, 0, false}, {More, 0, 1, 0, false}, {More, math.Inf(1), 1, 0, false}, {More, 1, 2, 0, false}, {Towards, 1, 1, 2, false}, {More, math.NaN(), 1, 0, false}} {
		assert.Error(t, b.Check())
	}
}

// TestAStrokeStoresOnlyItsBlocks paints 200 strokes of a small brush and counts what is stored.
func TestAStrokeStoresOnlyItsBlocks(t *testing.T) {
	m := pipe(1, 20, 500, 100, false)
	w := NewWeights(m.VertexCount())
	for v := range m.VertexCount() {
		w.Set(v, []int{0, 1}, []float64{0.5, 0.5})
	}
	stored, bytes := map[string][]byte{}, 0
	keep := func(data []byte) string {
		hash := fmt.Sprintf("%064x", fnv(data))
		if _, known := stored[hash]; !known {
			stored[hash] = slices.Clone(data)
			bytes += len(data)
		}
		return hash
	}
	first := w.EncodeBlocks(keep)
	bytes = 0
	p := NewPainter(m, 2, nil)
	for i := range 200 {
		for k := range 10 {
			p.Dab(w, i%2, mesh.Spot{Face: (i*487 + 2*k) % m.FaceCount(), Shares: [3]float64{1, 0, 0}}, Brush{More, 0.15, 0.3, 0, false})
		}
		bytes += len(w.EncodeBlocks(keep))
	}
	t.Logf("200 strokes on %d vertices take %d KB", m.VertexCount(), bytes/1024)
	assert.Less(t, bytes, 5<<20)
	blob := func(hash string) ([]byte, error) { return stored[hash], nil }
	again, err := ReadWeights(w.EncodeBlocks(keep), 2, blob)
	require.NoError(t, err)
	assert.Equal(t, w, again)
	_, err = ReadWeights(first[:len(first)-1], 2, blob)
	require.ErrorContains(t, err, "do not list the blocks")
	_, err = ReadWeights(first, 2, func(string) ([]byte, error) { return []byte("MYW1"), nil })
	require.Error(t, err)
}

func fnv(data []byte) (h uint64) {
	h = 14695981039346656037
	for _, b := range data {
		h = (h ^ uint64(b)) * 1099511628211
	}
	return h
}

// BenchmarkDab is one dab of a brush over a few hundred of 50,000 vertices.
func BenchmarkDab(b *testing.B) {
	m := pipe(1, 20, 500, 100, false)
	w := NewWeights(m.VertexCount())
	for v := range m.VertexCount() {
		w.Set(v, []int{0, 1}, []float64{0.5, 0.5})
	}
	p := NewPainter(m, 2, nil)
	for b.Loop() {
		p.Dab(w, 0, mesh.Spot{Face: 50_000, Shares: [3]float64{1, 0, 0}}, Brush{Even, 0.8, 0.3, 0, false})
	}
}
