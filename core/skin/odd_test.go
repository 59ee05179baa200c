package skin

import (
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/mesh"
)

// strip is a flat strip of squares along x, of two joints that hand over to each other smoothly.
func strip(count int) (*mesh.Mesh, *Weights) {
	m := &mesh.Mesh{}
	for i := range count + 1 {
		for k := range 4 {
			m.Positions = append(m.Positions, float32(i)/float32(count), float32(k)*0.02, 0)
		}
	}
	for i := range count {
		for k := range 3 {
			a := uint32(4*i + k)
			m.Triangles = append(m.Triangles, a, a+4, a+1, a+1, a+4, a+5)
		}
	}
	m.ComputeNormals()
	w := NewWeights(m.VertexCount())
	for v := range m.VertexCount() {
		x := float64(m.Positions[3*v])
		w.Set(v, []int{0, 1}, []float64{1 - x, x})
	}
	return m, w
}

func TestOddWeightsAreFoundAndNoOthers(t *testing.T) {
	m, w := strip(40)
	clean := w.Odd(m, 2)
	assert.Empty(t, clean.Islands)
	assert.Empty(t, clean.Many)
	assert.Empty(t, clean.Steps)
	assert.Empty(t, clean.Faint)
	rapid.Check(t, func(t *rapid.T) {
		m, w := strip(40)
		v := rapid.IntRange(8, m.VertexCount()-9).Draw(t, "vertex")
		w.Set(v, []int{2}, []float64{1}) // of a joint that nothing else goes with, then one that goes with the far end
		w.Set(0, []int{2}, []float64{1})
		w.Set(1, []int{2}, []float64{1})
		w.Set(2, []int{2}, []float64{1})
		w.Set(3, []int{2}, []float64{1})
		w.Set(4, []int{2}, []float64{1})
		w.Set(5, []int{2}, []float64{1})
		odd := w.Odd(m, 2)
		assert.Contains(t, odd.Steps, v)
		if v > 12 { // apart from the patch at the end
			assert.Equal(t, []int{v}, odd.Islands)
		}
		far := rapid.IntRange(16, m.VertexCount()-9).Draw(t, "other")
		w.Set(far, []int{0, 1, 3}, []float64{0.5, 0.495, 0.005})
		odd = w.Odd(m, 2)
		assert.Contains(t, odd.Faint, far)
		assert.Contains(t, odd.Many, far)
	})
}

func TestALimitLeavesTheStrongestWithoutAStep(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		values := make([]float64, Influences)
		for i := range values {
			values[i] = rapid.Float64Range(0, 1).Draw(t, "weight")
		}
		values[0] += 0.01
		most := rapid.IntRange(1, 3).Draw(t, "most")
		of := func(by float64) *Weights {
			w := NewWeights(1)
			moved := slices.Clone(values)
			moved[3] += by
			w.Set(0, []int{0, 1, 2, 3}, moved)
			w.Limit(most)
			return w
		}
		w, near := of(0), of(1e-7)
		require.NoError(t, w.Validate(4))
		count, sorted := 0, slices.Clone(values)
		slices.Sort(sorted)
		for k, value := range w.Values {
			if value > 0 {
				count++
				assert.GreaterOrEqual(t, values[w.Joints[k]], sorted[Influences-most]-1e-6, "the strongest stay")
			}
		}
		assert.LessOrEqual(t, count, most)
		spread := sorted[3] - sorted[Influences-1-most]
		for joint := range 4 { // two tables of weights that hardly differ are cut to ones that hardly differ
			if spread > 0.05 && most > 1 {
				assert.InDelta(t, w.Of(0, joint), near.Of(0, joint), 1e-4)
			}
		}
	})
}

func TestWeightsAreCopiedToAnotherSurface(t *testing.T) {
	fine, w := strip(40)
	coarse, _ := strip(13)
	copied, farthest := BySurface(coarse, fine, w)
	assert.Less(t, farthest, 1e-6)
	for v := range coarse.VertexCount() {
		x := float64(coarse.Positions[3*v])
		want := x
		if x > 0 && x < 1 {
			want = x
		}
		assert.InDelta(t, want, copied.Of(v, 1), 1e-5)
	}
	same, _ := BySurface(fine, fine, w)
	assert.Empty(t, Unlike(same, w, 1e-6))
}

func TestMixedWeightsAreBetweenBoth(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		tables := make([]*Weights, 2)
		for i := range tables {
			tables[i] = NewWeights(1)
			tables[i].Set(0, []int{2 * i, 2*i + 1}, []float64{rapid.Float64Range(0.1, 1).Draw(t, "a"), rapid.Float64Range(0.1, 1).Draw(t, "b")})
		}
		share := rapid.Float64Range(0, 1).Draw(t, "share")
		mixed := Mixed(tables[0], tables[1], share)
		for joint := range 4 { // no more than four in all: nothing is cut
			assert.InDelta(t, (1-share)*tables[0].Of(0, joint)+share*tables[1].Of(0, joint), mixed.Of(0, joint), 1e-6)
		}
		assert.InDelta(t, 0, Mixed(tables[0], tables[1], 0).Apart(tables[0], 0), 1e-6)
		assert.InDelta(t, 1, tables[0].Apart(tables[1], 0), 1e-6)
	})
}

func TestJointsOfATableAreToldAnew(t *testing.T) {
	w := NewWeights(2)
	w.Set(0, []int{0, 1}, []float64{0.75, 0.25})
	w.Set(1, []int{1}, []float64{1})
	told, lost := w.Retold([]int{3, -1})
	assert.Equal(t, []int{1}, lost)
	assert.InDelta(t, 1, told.Of(0, 3), 1e-6)
	all, at := Joined([]string{"a", "b"}, []string{"c", "a"})
	assert.Equal(t, []string{"a", "b", "c"}, all)
	assert.Equal(t, []int{2, 0}, at)
	assert.False(t, math.IsNaN(told.Of(1, 0)))
}
