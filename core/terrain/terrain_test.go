package terrain_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/geometry"
	"myriapod/core/mesh"
	"myriapod/core/terrain"
)

// bumpy is a sheet of random heights on an uneven grid, with a hole, a terrace with an upright wall, and an underside that counts for nothing.
func bumpy(random *rand.Rand, count int) *mesh.Mesh {
	m := &mesh.Mesh{}
	add := func(p mgl64.Vec3) uint32 {
		m.Positions = append(m.Positions, float32(p[0]), float32(p[1]), float32(p[2]))
		return uint32(len(m.Positions)/3 - 1)
	}
	for i := range count + 1 {
		for k := range count + 1 {
			jog := func() float64 { return 0.3 * (random.Float64() - 0.5) }
			add(mgl64.Vec3{float64(i) + jog(), 0.4 * random.Float64(), float64(k) + jog()})
		}
	}
	at := func(i, k int) uint32 { return uint32(i*(count+1) + k) }
	for i := range count {
		for k := range count {
			if i == count/2 && k == count/2 {
				continue
			}
			m.Triangles = append(m.Triangles, at(i, k), at(i, k+1), at(i+1, k), at(i+1, k), at(i, k+1), at(i+1, k+1))
		}
	}
	a, b, c, d := add(mgl64.Vec3{1, 1, 1}), add(mgl64.Vec3{1, 1, 2}), add(mgl64.Vec3{2, 1, 1}), add(mgl64.Vec3{1, 0, 1})
	m.Triangles = append(m.Triangles, a, b, c, a, d, b, a, c, d)
	return m
}

// highest is the highest face that looks up over a place, by looking at all of them along a ray.
func highest(m *mesh.Mesh, x, z float64) (height float64, there bool) {
	height = math.Inf(-1)
	for _, hit := range m.Hits(mesh.Ray{Origin: mgl64.Vec3{x, 100, z}, Direction: mgl64.Vec3{0, -1, 0}}) {
		if hit.Enters {
			return 100 - hit.Distance, true
		}
	}
	return height, false
}

func TestAFieldIsTheSurfaceSeenFromAbove(t *testing.T) {
	random := rand.New(rand.NewPCG(1, 2))
	m := bumpy(random, 12)
	f, err := terrain.NewField(m)
	require.NoError(t, err)
	assert.Positive(t, f.Walls())
	over, beside := 0, 0
	for range 20000 {
		x, z := -1+14*random.Float64(), -1+14*random.Float64()
		want, there := highest(m, x, z)
		got, is := f.Height(x, z)
		require.Equal(t, there, is, "at %g %g", x, z)
		if there {
			over++
			require.InDelta(t, want, got, 1e-9)
			n := f.Normal(x, z)
			require.Positive(t, n[1])
			require.InDelta(t, 1, n.Len(), 1e-12)
			continue
		}
		beside++
		require.Equal(t, geometry.Up, f.Normal(x, z))
		nearest, height := math.Inf(1), 0.0 // of all places on all edges
		for i := range m.FaceCount() {
			a, b, c := m.Corner(i)
			if b.Sub(a).Cross(c.Sub(a))[1] < 1e-6 {
				continue
			}
			for _, e := range [][2]mgl64.Vec3{{a, b}, {b, c}, {c, a}} {
				for s := 0.0; s <= 1; s += 1.0 / 256 {
					p := e[0].Add(e[1].Sub(e[0]).Mul(s))
					if d := math.Hypot(p[0]-x, p[2]-z); d < nearest {
						nearest, height = d, p[1]
					}
				}
			}
			if beside > 200 {
				break
			}
		}
		if beside <= 200 {
			require.InDelta(t, height, got, 0.02)
		}
	}
	assert.Greater(t, over, 10000)
	assert.Greater(t, beside, 1000)
}

// The highest on a way is no less than what stands at any place of it, and is reached, as nearly as one looks.
func TestTheHighestOnAWay(t *testing.T) {
	random := rand.New(rand.NewPCG(3, 4))
	field, err := terrain.NewField(bumpy(random, 12))
	require.NoError(t, err)
	grounds := []terrain.Ground{
		{Shape: terrain.Surface, Field: field, Level: 0.3},
		{Shape: terrain.Slope, Rise: -0.7, Run: 3, Begin: 2, Heading: 0.6, Level: 1},
		{Shape: terrain.Steps, Rise: 0.3, Run: 0.8, Begin: 1, Count: 5, Heading: -2},
		{Shape: terrain.Flat, Level: -2},
	}
	for _, g := range grounds {
		for range 400 {
			from := mgl64.Vec3{14*random.Float64() - 1, 9, 14*random.Float64() - 1}
			to := from.Add(mgl64.Vec3{random.Float64() - 0.5, -3, random.Float64() - 0.5})
			got, most := g.Highest(from, to), math.Inf(-1)
			for k := range 2001 {
				if p := from.Add(to.Sub(from).Mul(float64(k) / 2000)); g.There(p) || k == 0 || k == 2000 {
					most = math.Max(most, g.Height(p))
				}
			}
			require.GreaterOrEqual(t, got, most-1e-9, g.Shape)
			require.LessOrEqual(t, got, most+0.01+0.7*math.Abs(g.Rise), g.Shape)
		}
	}
}

func TestShapesOfTheGround(t *testing.T) {
	ahead := func(z float64) mgl64.Vec3 { return mgl64.Vec3{3, -7, z} }
	slope := terrain.Ground{Shape: terrain.Slope, Rise: 1, Run: 2, Begin: 1, Level: 0.5}
	for z, want := range map[float64]float64{-5: 0.5, 1: 0.5, 2: 1, 3: 1.5, 50: 1.5} {
		assert.InDelta(t, want, slope.Height(ahead(z)), 1e-12)
	}
	assert.InDelta(t, 0, slope.Normal(ahead(2)).Sub(mgl64.Vec3{0, 2, -1}.Normalize()).Len(), 1e-12)
	assert.Equal(t, geometry.Up, slope.Normal(ahead(0)))
	steps := terrain.Ground{Shape: terrain.Steps, Rise: 0.2, Run: 0.5, Count: 3, Origin: mgl64.Vec3{0, 0, 1}}
	for z, want := range map[float64]float64{0.9: 0, 1.01: 0.2, 1.5: 0.2, 1.51: 0.4, 2.2: 0.6, 9: 0.6} {
		assert.InDelta(t, want, steps.Height(ahead(z)), 1e-12, "%g", z)
	}
	left := terrain.Ground{Shape: terrain.Slope, Rise: 1, Run: 1, Heading: math.Pi / 2}
	assert.InDelta(t, 0.25, left.Height(mgl64.Vec3{0.25, 0, 99}), 1e-12)
	_, err := terrain.NewField(&mesh.Mesh{Positions: []float32{0, 0, 0, 1, 0, 0, 0, 0, 1}, Triangles: []uint32{0, 1, 2}})
	assert.ErrorIs(t, err, terrain.ErrNothing)
}

// Faces as large as the whole among many small ones do not fill all cells.
func TestManyLargeFacesTakeLittleRoom(t *testing.T) {
	m := &mesh.Mesh{}
	random := rand.New(rand.NewPCG(5, 6))
	for i := range 3000 {
		for _, p := range []mgl64.Vec3{{0, 0, 0}, {0, 0, 1}, {1, 0, 0}} {
			m.Positions = append(m.Positions, float32(p[0]+0.1*random.Float64()), float32(i), float32(p[2]+0.1*random.Float64()))
			m.Triangles = append(m.Triangles, uint32(len(m.Triangles)))
		}
	}
	f, err := terrain.NewField(m)
	require.NoError(t, err)
	height, there := f.Height(0.3, 0.3)
	assert.True(t, there)
	assert.Equal(t, 2999.0, height)
}

// A hub stands as high as the highest that any place of the ground under the wheel holds it, and rises as steeply as it does a little ahead.
func TestHubsStandOnTheGroundDilated(t *testing.T) {
	random := rand.New(rand.NewPCG(8, 9))
	field, err := terrain.NewField(bumpy(random, 12))
	require.NoError(t, err)
	for _, g := range []terrain.Ground{
		{Shape: terrain.Surface, Field: field, Level: 0.3},
		{Shape: terrain.Slope, Rise: -0.7, Run: 3, Begin: 2, Heading: 0.6, Level: 1},
		{Shape: terrain.Slope, Rise: 1.7, Run: 2, Begin: 4, Heading: -1},
		{Shape: terrain.Steps, Rise: 0.3, Run: 0.8, Begin: 1, Count: 5, Heading: -2},
		{Shape: terrain.Steps, Rise: -0.2, Run: 0.5, Begin: 1, Count: 9, Heading: 0.3},
		{Shape: terrain.Flat, Level: -2},
	} {
		steep := 0
		for range 300 {
			at := mgl64.Vec3{1.5 + 9*random.Float64(), 7, 1.5 + 9*random.Float64()}
			turn := 7 * random.Float64()
			ahead, radius := mgl64.Vec3{math.Sin(turn), 0, math.Cos(turn)}, 0.2+0.8*random.Float64()
			height, slope := g.Hub(at, ahead, radius)
			most := math.Inf(-1)
			const count = 4001
			for k := range count {
				u := radius * (2*float64(k)/(count-1) - 1)
				if p := at.Add(ahead.Mul(u)); g.There(p) {
					most = math.Max(most, g.Height(p)+math.Sqrt(math.Max(0, radius*radius-u*u)))
				}
			}
			require.InDelta(t, most, height, 2e-3, "%s at %v", g.Shape, at)
			require.GreaterOrEqual(t, height, most-1e-7, "%s at %v", g.Shape, at)
			const little = 1e-6
			before, _ := g.Hub(at.Sub(ahead.Mul(little)), ahead, radius)
			after, _ := g.Hub(at.Add(ahead.Mul(little)), ahead, radius)
			if math.Abs((after-before)/(2*little)-slope) > 1e-2*math.Max(1, slope*slope) {
				steep++ // a corner of the way lies between the two
			}
		}
		assert.LessOrEqual(t, steep, 3, g.Shape)
	}
}
