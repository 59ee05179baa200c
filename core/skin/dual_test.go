package skin

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/geometry"
	"myriapod/core/mesh"
)

// deformed takes a pipe on two bones to where its second bone is turned about its own place, by both methods.
func deformed(t require.TestingT, m *mesh.Mesh, w *Weights, now geometry.Transform, girth mgl64.Vec3, dual float64) (positions, normals []float32) {
	rest := geometry.Identity()
	s := Surface{Weights: w, Positions: m.Positions, Normals: m.Normals, Out: make([]float32, len(m.Positions)), OutNormals: make([]float32, len(m.Normals)), Palette: make([]Matrix, 2)}
	s.Palette[0].SetMatrix(mgl64.Ident4(), mgl64.Ident4())
	s.Palette[1].SetMatrix(now.Matrix(girth), rest.Matrix(mgl64.Vec3{1, 1, 1}).Inv())
	deformRange(&s, 0, w.VertexCount())
	motions := make([]Motion, 2)
	motions[0].Set(rest, rest, mgl64.Vec3{1, 1, 1})
	motions[1].Set(now, rest, girth)
	if dual > 0 {
		DeformDual(motions, &s, dual, 1, mgl64.Vec3{})
	}
	return s.Out, s.OutNormals
}

// volumeOf is what a pipe holds, closed by the fans of its end rings.
func volumeOf(m *mesh.Mesh, positions []float32, rings, around int) (sum float64) {
	moved := &mesh.Mesh{Positions: positions, Triangles: m.Triangles}
	for i := range m.FaceCount() {
		a, b, c := moved.Corner(i)
		sum += a.Dot(b.Cross(c)) / 6
	}
	for _, ring := range []int{0, rings - 1} {
		middle := mgl64.Vec3{}
		for k := range around {
			middle = middle.Add(moved.Vertex(ring*around + k).Mul(1 / float64(around)))
		}
		for k := range around {
			a, b := moved.Vertex(ring*around+k), moved.Vertex(ring*around+(k+1)%around)
			if ring == 0 {
				a, b = b, a
			}
			sum -= middle.Dot(a.Cross(b)) / 6
		}
	}
	return math.Abs(sum)
}

func TestATwistedTubeKeepsItsGirthByDualQuaternions(t *testing.T) {
	const rings, around = 81, 32
	m := pipe(1, 4, rings, around, false)
	w, err := BindHeat(m, twoBones(4), 2, goOn)
	require.NoError(t, err)
	rest := volumeOf(m, m.Positions, rings, around)
	for _, c := range []struct {
		name  string
		axis  mgl64.Vec3
		angle float64
		least float64
	}{{"bent by 90 degrees", mgl64.Vec3{1, 0, 0}, math.Pi / 2, 0.8}, {"twisted by 179 degrees", mgl64.Vec3{0, 1, 0}, 179 * math.Pi / 180, 0.99}} {
		now := geometry.Transform{Rotation: mgl64.QuatRotate(c.angle, c.axis)}
		linear, _ := deformed(t, m, w, now, mgl64.Vec3{1, 1, 1}, 0)
		dual, _ := deformed(t, m, w, now, mgl64.Vec3{1, 1, 1}, 1)
		slowly, _ := deformed(t, m, w, now, mgl64.Vec3{1, 1, 1}, 1-1e-9) // not in single precision
		for i := range dual {
			require.InDelta(t, slowly[i], dual[i], 5e-6)
		}
		kept, lost := volumeOf(m, dual, rings, around)/rest, volumeOf(m, linear, rings, around)/rest
		t.Logf("a tube %s keeps %.3f of its volume by dual quaternions, %.3f linearly", c.name, kept, lost)
		assert.Greater(t, kept, c.least)
		assert.Greater(t, kept, lost)
	}
}

// TestWhatGoesWithOneJointIsTheSameByBothMethods: rigid, own scale and all; and the rest is the rest.
func TestWhatGoesWithOneJointIsTheSameByBothMethods(t *testing.T) {
	m := pipe(1, 4, 9, 8, false)
	rapid.Check(t, func(t *rapid.T) {
		draw := func(reach float64) float64 { return rapid.Float64Range(-reach, reach).Draw(t, "number") }
		w := NewWeights(m.VertexCount())
		for v := range m.VertexCount() {
			w.Set(v, []int{v % 2}, []float64{1})
		}
		now := geometry.Transform{Position: mgl64.Vec3{draw(5), draw(5), draw(5)}, Rotation: mgl64.QuatRotate(draw(6), mgl64.Vec3{draw(1), draw(1), 1.1}.Normalize())}
		girth := mgl64.Vec3{1 + draw(0.8), 1 + draw(0.8), 1 + draw(0.8)}
		if rapid.Bool().Draw(t, "plain") {
			girth = mgl64.Vec3{1, 1, 1}
		}
		linear, a := deformed(t, m, w, now, girth, 0)
		dual, b := deformed(t, m, w, now, girth, 1)
		half, _ := deformed(t, m, w, now, girth, 0.5)
		for i := range linear {
			require.InDelta(t, linear[i], dual[i], 2e-5)
			require.InDelta(t, linear[i], half[i], 2e-5)
			require.InDelta(t, a[i], b[i], 2e-5)
		}
		still, _ := deformed(t, m, w, geometry.Identity(), mgl64.Vec3{1, 1, 1}, 1)
		require.Equal(t, m.Positions, still, "nothing moves at rest")
	})
}

// BenchmarkDual is 50,000 vertices by dual quaternions on one thread; BenchmarkLinear the same by a linear blend.
func BenchmarkDual(b *testing.B)   { both(b, true) }
func BenchmarkLinear(b *testing.B) { both(b, false) }

func both(b *testing.B, dual bool) {
	m := pipe(1, 40, 500, 100, false)
	w := NewWeights(m.VertexCount())
	motions, palette := make([]Motion, 65), make([]Matrix, 65)
	for i := range motions {
		now := geometry.Transform{Rotation: mgl64.QuatRotate(0.02*float64(i), mgl64.Vec3{1, 0.3, 0}.Normalize())}
		motions[i].Set(now, geometry.Identity(), mgl64.Vec3{1, 1, 1})
		palette[i].SetMatrix(now.Matrix(mgl64.Vec3{1, 1, 1}), mgl64.Ident4())
	}
	for v := range m.VertexCount() {
		k := v * 61 / m.VertexCount()
		w.Set(v, []int{k, k + 1, k + 2, k + 3}, []float64{0.4, 0.3, 0.2, 0.1})
	}
	s := Surface{Weights: w, Palette: palette, Positions: m.Positions, Normals: m.Normals, Out: make([]float32, len(m.Positions)), OutNormals: make([]float32, len(m.Normals))}
	for b.Loop() {
		if dual {
			DeformDual(motions, &s, 1, 1, mgl64.Vec3{})
		} else {
			deformRange(&s, 0, w.VertexCount())
		}
	}
}
