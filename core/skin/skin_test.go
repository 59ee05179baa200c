package skin_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/mesh"
	"myriapod/core/skin"
)

func bones(count int) []skin.Bone {
	list := make([]skin.Bone, count)
	for i := range list {
		list[i] = skin.Bone{From: mgl64.Vec3{0, float64(i), 0}, To: mgl64.Vec3{0, float64(i + 1), 0}, Next: i + 1, Before: i - 1}
	}
	list[count-1].Next, list[count-1].To = -1, list[count-1].From
	return list
}

func cloud(count int, seed uint64) *mesh.Mesh {
	random := rand.New(rand.NewPCG(seed, 1))
	m := &mesh.Mesh{}
	for range 3 * count {
		m.Positions = append(m.Positions, float32(random.Float64()*9))
		m.Normals = append(m.Normals, 0.5773503)
	}
	return m
}

func proceed(float64) bool { return true }

func TestWeightsAlongAChainSumToOneAndChangeSmoothly(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		blend := rapid.Float64Range(skin.LeastBlend, skin.MostBlend).Draw(t, "blend")
		line := &mesh.Mesh{}
		const steps = 900
		for i := range steps {
			line.Positions = append(line.Positions, 0.3, float32(i)*9/steps, 0)
		}
		w, err := skin.BindAlong(line, bones(10), blend, proceed)
		require.NoError(t, err)
		require.NoError(t, w.Validate(10))
		before := map[uint16]float32{}
		for v := range steps {
			now := map[uint16]float32{}
			for k := range skin.Influences {
				now[w.Joints[4*v+k]] += w.Values[4*v+k]
			}
			for joint, value := range now {
				if v > 0 {
					assert.InDelta(t, before[joint], value, 0.12, "vertex %d, joint %d", v, joint)
				}
			}
			before = now
		}
	})
}

// A neck goes on from the last joint of a spine, at its place, and a tail begins where the spine begins and goes the other way: along all
// three the weights change as smoothly as along one.
func TestWeightsRunOnFromChainToChain(t *testing.T) {
	bone := func(from, to float64, before, next int) skin.Bone {
		return skin.Bone{From: mgl64.Vec3{0, 0, from}, To: mgl64.Vec3{0, 0, to}, Before: before, Next: next}
	}
	list := []skin.Bone{
		bone(0, 1, 4, 1), bone(1, 2, 0, 2), bone(2, 2, 1, 3), // the spine, its last joint without a bone of its own
		bone(2, 3, 2, 7),                                           // the neck
		bone(0, -1, 0, 5), bone(-1, -2, 4, 6), bone(-2, -2, 5, -1), // the tail
		bone(3, 3, 3, -1),
	}
	line := &mesh.Mesh{}
	const steps = 900
	for i := range steps {
		line.Positions = append(line.Positions, 0.1, 0.1, -2.5+6*float32(i)/steps)
	}
	for _, blend := range []float64{0.2, 1, 1.5} {
		w, err := skin.BindAlong(line, list, blend, proceed)
		require.NoError(t, err)
		require.NoError(t, w.Validate(len(list)))
		before, sum := map[uint16]float32{}, map[uint16]float32{}
		for v := range steps {
			now := map[uint16]float32{}
			for k := range skin.Influences {
				now[w.Joints[4*v+k]] += w.Values[4*v+k]
			}
			for joint := range list {
				if v > 0 {
					assert.InDelta(t, before[uint16(joint)], now[uint16(joint)], 0.06, "blend %g, vertex %d, joint %d", blend, v, joint)
				}
				sum[uint16(joint)] += now[uint16(joint)]
			}
			before = now
		}
		assert.Zero(t, sum[2], "a bone without length has no share")
		assert.Positive(t, sum[4])
		assert.Positive(t, sum[3])
	}
}

func TestTheStrongestFourAreKept(t *testing.T) {
	w := skin.NewWeights(1)
	w.Set(0, []int{5, 6, 7, 8, 9}, []float64{1, 4, 0, 3, 2})
	assert.Equal(t, []uint16{6, 8, 9, 5}, w.Joints)
	assert.InDelta(t, 0.4, w.Values[0], 1e-6)
	w.Set(0, []int{3}, []float64{0})
	assert.Equal(t, []float32{1, 0, 0, 0}, w.Values)
}

func TestStoredWeightsComeBackAndDamageIsTold(t *testing.T) {
	w, err := skin.BindAlong(cloud(50, 1), bones(9), 1.5, proceed)
	require.NoError(t, err)
	data := w.Encode()
	back, err := skin.DecodeWeights(data, 9)
	require.NoError(t, err)
	assert.Equal(t, w, back)
	_, err = skin.DecodeWeights(data, 3)
	require.ErrorContains(t, err, "of 3")
	_, err = skin.DecodeWeights(data[:len(data)-2], 9)
	require.Error(t, err)
	_, err = skin.BindAlong(cloud(5, 1), nil, 1, proceed)
	require.ErrorContains(t, err, "no joints to bind to")
}

// The kernel against the plain sum in double precision.
func TestDeformIsTheWeightedSum(t *testing.T) {
	const joints = 12
	m := cloud(20_000, 3)
	w, err := skin.BindAlong(m, bones(joints), 1.5, proceed)
	require.NoError(t, err)
	palette := make([]skin.Matrix, joints)
	exact := make([]mgl64.Mat4, joints)
	for i := range palette {
		exact[i] = mgl64.Translate3D(float64(i), 0.3, 0).Mul4(mgl64.HomogRotate3D(0.2*float64(i), mgl64.Vec3{0.6, 0, 0.8})).Mul4(mgl64.Scale3D(1.2, 1, 0.9))
		palette[i].SetMatrix(exact[i], mgl64.Ident4())
	}
	positions, normals := make([]float32, len(m.Positions)), make([]float32, len(m.Positions))
	surfaces := []skin.Surface{{Weights: w, Palette: palette, Positions: m.Positions, Normals: m.Normals, Out: positions, OutNormals: normals}}
	skin.Deform(surfaces)
	for v := range m.VertexCount() {
		var want mgl64.Vec3
		for k := range skin.Influences {
			want = want.Add(mgl64.TransformCoordinate(m.Vertex(v), exact[w.Joints[4*v+k]]).Mul(float64(w.Values[4*v+k])))
		}
		got := mgl64.Vec3{float64(positions[3*v]), float64(positions[3*v+1]), float64(positions[3*v+2])}
		require.InDelta(t, 0, got.Sub(want).Len(), 2e-5)
		n := math.Hypot(math.Hypot(float64(normals[3*v]), float64(normals[3*v+1])), float64(normals[3*v+2]))
		require.InDelta(t, 1, n, 1e-5)
	}
	assert.Zero(t, testing.AllocsPerRun(20, func() { skin.Deform(surfaces) }))
}

// BenchmarkDeform skins 50,000 vertices of four influences by 64 joints; scripts/bench runs the same in C beside it.
func BenchmarkDeform(b *testing.B) {
	const count, joints = 50_000, 64
	m := cloud(count, 7)
	w := skin.NewWeights(count)
	for v := range count {
		w.Set(v, []int{v % joints, (v + 1) % joints, (v + 2) % joints, (v + 3) % joints}, []float64{0.4, 0.3, 0.2, 0.1})
	}
	palette := make([]skin.Matrix, joints)
	for i := range palette {
		palette[i].SetMatrix(mgl64.HomogRotate3DY(float64(i)/9), mgl64.Ident4())
	}
	positions, normals := make([]float32, 3*count), make([]float32, 3*count)
	surfaces := []skin.Surface{{Weights: w, Palette: palette, Positions: m.Positions, Normals: m.Normals, Out: positions, OutNormals: normals}}
	b.ReportAllocs()
	for b.Loop() {
		skin.Deform(surfaces)
	}
	b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N)/count, "ns/vertex")
}

// Normals of a stretched surface stand upright on its stretched triangles, whatever the joint does to it, mirroring included.
func TestNormalsStandUprightOnWhatIsStretched(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		number := rapid.Float64Range(-1, 1)
		corner := func() mgl64.Vec3 { return mgl64.Vec3{number.Draw(t, "x"), number.Draw(t, "y"), number.Draw(t, "z")} }
		triangle := [3]mgl64.Vec3{corner(), corner(), corner()}
		upright := triangle[1].Sub(triangle[0]).Cross(triangle[2].Sub(triangle[0]))
		if upright.Len() < 0.05 {
			return
		}
		girth := func() float64 {
			return rapid.SampledFrom([]float64{-1, 1}).Draw(t, "sign") * rapid.Float64Range(0.2, 4).Draw(t, "girth")
		}
		turn := mgl64.QuatRotate(3*number.Draw(t, "angle"), mgl64.Vec3{0.6, 0.8, 0}).Mat4()
		palette := make([]skin.Matrix, 2)
		for k := range palette {
			palette[k].SetMatrix(turn.Mul4(mgl64.Scale3D(girth(), girth(), girth())), mgl64.Ident4())
		}
		weights := &skin.Weights{}
		m := &mesh.Mesh{}
		share := float32(rapid.Float64Range(0.5, 1).Draw(t, "share"))
		for _, p := range triangle {
			normal := upright.Normalize()
			m.Positions = append(m.Positions, float32(p[0]), float32(p[1]), float32(p[2]))
			m.Normals = append(m.Normals, float32(normal[0]), float32(normal[1]), float32(normal[2]))
			weights.Joints, weights.Values = append(weights.Joints, 0, 1, 0, 0), append(weights.Values, share, 1-share, 0, 0)
		}
		out, normals := make([]float32, 9), make([]float32, 9)
		skin.Deform([]skin.Surface{{Weights: weights, Palette: palette, Positions: m.Positions, Normals: m.Normals, Out: out, OutNormals: normals}})
		at := func(list []float32, i int) mgl64.Vec3 {
			return mgl64.Vec3{float64(list[3*i]), float64(list[3*i+1]), float64(list[3*i+2])}
		}
		now := at(out, 1).Sub(at(out, 0)).Cross(at(out, 2).Sub(at(out, 0)))
		if now.Len() < 0.02 {
			return
		}
		require.InDelta(t, 1, now.Normalize().Dot(at(normals, 0)), 2e-4)
	})
}

// TestNothingStepsAcrossABend goes round the inside of a sharp bend, where one bone takes over from another far along both.
func TestNothingStepsAcrossABend(t *testing.T) {
	bent := []skin.Bone{
		{From: mgl64.Vec3{-3, 0, 0}, To: mgl64.Vec3{-1.5, 0, 0}, Next: 1, Before: -1},
		{From: mgl64.Vec3{-1.5, 0, 0}, To: mgl64.Vec3{}, Next: 2, Before: 0},
		{From: mgl64.Vec3{}, To: mgl64.Vec3{0, -1.5, 0}, Next: 3, Before: 1},
		{From: mgl64.Vec3{0, -1.5, 0}, To: mgl64.Vec3{0, -3, 0}, Next: -1, Before: 2},
	}
	const steps = 4000
	way := &mesh.Mesh{}
	for i := range steps {
		sine, cosine := math.Sincos(math.Pi / 2 * (1 + float64(i)/steps))
		way.Positions = append(way.Positions, float32(1.9*cosine), float32(-1.9*sine+0*cosine), 0)
	}
	w, err := skin.BindAlong(way, bent, 1, proceed)
	require.NoError(t, err)
	for v := 1; v < steps; v++ {
		now, before := map[uint16]float32{}, map[uint16]float32{}
		for k := range skin.Influences {
			now[w.Joints[4*v+k]] += w.Values[4*v+k]
			before[w.Joints[4*v-4+k]] += w.Values[4*v-4+k]
		}
		for joint, value := range now {
			require.InDelta(t, before[joint], value, 0.01, "vertex %d", v)
		}
	}
}
