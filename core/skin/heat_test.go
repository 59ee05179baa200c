package skin

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/mat"
	"pgregory.net/rapid"

	"myriapod/core/mesh"
)

func goOn(float64) bool { return true }

// pipe is an open tube about Y, from -half to half, of so many rings and sides; turned has the other diagonal of every quadrangle.
func pipe(radius, half float64, rings, around int, turned bool) *mesh.Mesh {
	m := &mesh.Mesh{}
	for r := range rings {
		for k := range around {
			sine, cosine := math.Sincos(2 * math.Pi * float64(k) / float64(around))
			m.Positions = append(m.Positions, float32(radius*cosine), float32(half*(2*float64(r)/float64(rings-1)-1)), float32(radius*sine))
		}
	}
	at := func(r, k int) uint32 { return uint32(r*around + k%around) }
	for r := range rings - 1 {
		for k := range around {
			a, b, c, d := at(r, k), at(r, k+1), at(r+1, k), at(r+1, k+1)
			if turned {
				m.Triangles = append(m.Triangles, a, c, d, a, d, b)
			} else {
				m.Triangles = append(m.Triangles, a, c, b, b, c, d)
			}
		}
	}
	m.ComputeNormals()
	return m
}

// twoBones meet in the middle of a pipe.
func twoBones(half float64) []Segment {
	return []Segment{{0, mgl64.Vec3{0, -half, 0}, mgl64.Vec3{}}, {1, mgl64.Vec3{}, mgl64.Vec3{0, half, 0}}}
}

func weightOf(w *Weights, vertex, joint int) (sum float64) {
	for k := range Influences {
		if int(w.Joints[Influences*vertex+k]) == joint {
			sum += float64(w.Values[Influences*vertex+k])
		}
	}
	return sum
}

// TestHeatIsSolvedAsADenseSolutionIs solves the equations of random surfaces, broken ones among them, by the Cholesky factor of the whole matrix.
func TestHeatIsSolvedAsADenseSolutionIs(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		random := rand.New(rand.NewPCG(rapid.Uint64().Draw(t, "seed"), 1))
		m := &mesh.Mesh{}
		for range 3 * rapid.IntRange(3, 40).Draw(t, "vertices") {
			m.Positions = append(m.Positions, float32(random.NormFloat64()))
		}
		for range 3 * rapid.IntRange(1, 90).Draw(t, "faces") {
			m.Triangles = append(m.Triangles, uint32(random.IntN(m.VertexCount())))
		}
		m.ComputeNormals()
		l := mesh.NewLaplacian(m)
		if l.Places == 0 {
			return
		}
		ground := make([]float64, l.Places)
		b, want, w := make([]column, l.Places), make([]column, l.Places), make([]column, l.Places)
		dense := mat.NewSymDense(l.Places, nil)
		for i := range ground {
			ground[i] = l.Area[i] * math.Exp(3*random.NormFloat64())
			dense.SetSym(i, i, dense.At(i, i)+ground[i])
			for k := l.Start[i]; k < l.Start[i+1]; k++ {
				require.GreaterOrEqual(t, l.Flow[k], 0.0)
				dense.SetSym(i, i, dense.At(i, i)+l.Flow[k])
				dense.SetSym(i, l.Other[k], -l.Flow[k])
			}
			for k := range lanes {
				b[i][k] = ground[i] * random.Float64()
			}
		}
		var whole mat.Cholesky
		require.True(t, whole.Factorize(dense), "it is positive definite")
		for k := range lanes {
			right, x := mat.NewVecDense(l.Places, nil), mat.NewVecDense(l.Places, nil)
			for i := range b {
				right.SetVec(i, b[i][k])
			}
			require.NoError(t, whole.SolveVecTo(x, right))
			for i := range want {
				want[i][k] = x.AtVec(i)
			}
		}
		newSystem(l, ground).solve(b, w)
		for i := range w {
			for k := range lanes {
				require.InDelta(t, want[i][k], w[i][k], 1e-8)
				require.True(t, w[i][k] > -1e-9 && w[i][k] < 1+1e-9, "heat stays within what was given")
			}
		}
	})
}

// TestHeatGoesOverAsTheClosedSolutionDoes has one half of a long pipe warm, and the other cold: the heat along it is a sinh over a cosh.
func TestHeatGoesOverAsTheClosedSolutionDoes(t *testing.T) {
	const radius, half, rings = 1.0, 6.0, 241
	m := pipe(radius, half, rings, 48, false)
	l := mesh.NewLaplacian(m)
	ground, b, w := make([]float64, l.Places), make([]column, l.Places), make([]column, l.Places)
	for vertex, place := range l.PlaceOf {
		ground[place] = l.Area[place] / (radius * radius)
		switch y := m.Vertex(vertex)[1]; {
		case math.Abs(y) < 1e-6:
			b[place][0] = ground[place] / 2
		case y > 0:
			b[place][0] = ground[place]
		}
	}
	newSystem(l, ground).solve(b, w)
	for vertex, place := range l.PlaceOf {
		y := m.Vertex(vertex)[1]
		want := 0.5 * math.Cosh(half-math.Abs(y)) / math.Cosh(half) // of the side that it is not on
		if y > 0 {
			want = 1 - want
		}
		require.InDelta(t, want, w[place][0], 0.01*math.Max(0.1, want), "at %g", y)
	}
}

func TestWeightsOfATubeGoOverEvenly(t *testing.T) {
	const half = 4.0
	m := pipe(1, half, 81, 32, false)
	w, err := BindHeat(m, twoBones(half), 2, goOn)
	require.NoError(t, err)
	require.NoError(t, w.Validate(2))
	for k := range 32 {
		for r := range 81 {
			vertex := r*32 + k
			if r > 0 {
				assert.GreaterOrEqual(t, weightOf(w, vertex, 1), weightOf(w, vertex-32, 1)-1e-7, "it rises along the tube")
			}
			assert.InDelta(t, weightOf(w, vertex, 1), weightOf(w, (80-r)*32+k, 0), 1e-6, "both halves are alike")
		}
	}
	other, err := BindHeat(pipe(1, half, 81, 32, true), twoBones(half), 2, goOn)
	require.NoError(t, err)
	coarse, err := BindHeat(pipe(1, half, 41, 32, false), twoBones(half), 2, goOn)
	require.NoError(t, err)
	for vertex := range m.VertexCount() {
		assert.InDelta(t, weightOf(w, vertex, 1), weightOf(other, vertex, 1), 0.02, "two triangulations")
	}
	assert.GreaterOrEqual(t, greatestStep(pipe(1, half, 41, 32, false), coarse)/greatestStep(m, w), 1.7, "half the edge, about half the step")
}

// greatestStep is the greatest difference of a weight over an edge.
func greatestStep(m *mesh.Mesh, w *Weights) (greatest float64) {
	for i, a := range m.Triangles {
		b := m.Triangles[i/3*3+(i+1)%3]
		for k := range Influences {
			joint := int(w.Joints[Influences*int(a)+k])
			greatest = math.Max(greatest, math.Abs(weightOf(w, int(a), joint)-weightOf(w, int(b), joint)))
		}
	}
	return greatest
}

// TestWhateverIsBoundIsFinite binds what hardly is a surface.
func TestWhateverIsBoundIsFinite(t *testing.T) {
	one := &mesh.Mesh{Positions: []float32{0, 0, 0, 1, 0, 0, 0, 1, 0}, Triangles: []uint32{0, 1, 2}}
	flat := &mesh.Mesh{Positions: []float32{0, 0, 0, 1, 0, 0, 2, 0, 0, 5, 5, 5}, Triangles: []uint32{0, 1, 2, 0, 0, 1}}
	point := &mesh.Mesh{Positions: []float32{1, 1, 1, 1, 1, 1, 1, 1, 1}, Triangles: []uint32{0, 1, 2}}
	bare := &mesh.Mesh{Positions: []float32{0, 0, 0, 9, 9, 9}}
	fan := &mesh.Mesh{Positions: []float32{0, 0, 0, 0, 1, 0, 1, 0, 0, -1, 0, 0, 0, 0, 1, 0, 0, -1}, Triangles: []uint32{0, 1, 2, 0, 1, 3, 0, 1, 4, 0, 1, 5}}
	for _, m := range []*mesh.Mesh{one, flat, point, bare, fan} {
		m.ComputeNormals()
		for _, segments := range [][]Segment{twoBones(1), {{0, mgl64.Vec3{}, mgl64.Vec3{}}, {1, mgl64.Vec3{}, mgl64.Vec3{}}}, {{1, mgl64.Vec3{1e6, 0, 0}, mgl64.Vec3{1e6, 1, 0}}}} {
			w, err := BindHeat(m, segments, 2, goOn)
			require.NoError(t, err)
			require.NoError(t, w.Validate(2))
		}
	}
	_, err := BindHeat(one, nil, 0, goOn)
	require.ErrorContains(t, err, "choose at least one")
	_, err = BindHeat(one, twoBones(1), 2, func(float64) bool { return false })
	require.ErrorIs(t, err, ErrStopped)
}

// BenchmarkBindHeat binds 50,000 vertices to 65 joints, and to 603.
func BenchmarkBindHeat(b *testing.B) {
	for name, joints := range map[string]int{"65": 65, "603": 603} {
		b.Run(name, func(b *testing.B) {
			m := pipe(1, 40, 500, 100, false)
			segments := make([]Segment, joints)
			for i := range segments {
				at := func(k int) mgl64.Vec3 { return mgl64.Vec3{0, -40 + 80*float64(k)/float64(joints), 0} }
				segments[i] = Segment{i, at(i), at(i + 1)}
			}
			b.ReportAllocs()
			for b.Loop() {
				_, _ = BindHeat(m, segments, joints, goOn)
			}
		})
	}
}
