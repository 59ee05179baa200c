package mesh_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/geometry"
	"myriapod/core/mesh"
)

// sweep is a tube of a radius around a curve, with its ends open or closed flat.
func sweep(curve func(float64) mgl64.Vec3, radius float64, rings, around int, capped bool) *mesh.Mesh {
	m := &mesh.Mesh{}
	add := func(p mgl64.Vec3) {
		m.Positions = append(m.Positions, float32(p[0]), float32(p[1]), float32(p[2]))
	}
	second := geometry.Up
	for r := range rings {
		v := float64(r) / float64(rings-1)
		tangent := curve(v + 1e-5).Sub(curve(v - 1e-5)).Normalize()
		second = geometry.Across(second, tangent)
		side := tangent.Cross(second)
		for k := range around {
			sine, cosine := math.Sincos(2 * math.Pi * float64(k) / float64(around))
			add(curve(v).Add(second.Mul(radius * cosine)).Add(side.Mul(radius * sine)))
		}
	}
	at := func(r, k int) uint32 { return uint32(r*around + k%around) }
	for r := range rings - 1 {
		for k := range around {
			m.Triangles = append(m.Triangles, at(r, k), at(r, k+1), at(r+1, k), at(r+1, k), at(r, k+1), at(r+1, k+1))
		}
	}
	if capped {
		add(curve(0))
		add(curve(1))
		first, last := uint32(rings*around), uint32(rings*around+1)
		for k := range around {
			m.Triangles = append(m.Triangles, first, at(0, k+1), at(0, k), last, at(rings-1, k), at(rings-1, k+1))
		}
	}
	m.ComputeNormals()
	return m
}

func fromCurve(curve func(float64) mgl64.Vec3, p mgl64.Vec3) float64 {
	nearest, at := math.Inf(1), 0.0
	for width := 1.0; width > 1e-7; width /= 100 { // ever closer around the nearest
		middle := at
		for i := -200; i <= 200; i++ {
			v := math.Min(1, math.Max(0, middle+width*float64(i)/200))
			if d := curve(v).Sub(p).Len(); d < nearest {
				nearest, at = d, v
			}
		}
	}
	return nearest
}

func TestATracedTubeIsCentred(t *testing.T) {
	straight := func(v float64) mgl64.Vec3 { return mgl64.Vec3{0.3, 1 + 2*v, -1 + v} }
	bow := func(v float64) mgl64.Vec3 { return mgl64.Vec3{math.Cos(2.5 * v), math.Sin(2.5 * v), 0} }
	curl := func(v float64) mgl64.Vec3 {
		return mgl64.Vec3{0.5 * math.Cos(14*v), 1.6 * v, 0.5 * math.Sin(14*v)}
	}
	spiral := func(v float64) mgl64.Vec3 {
		r := 0.25 + 0.5*v
		return mgl64.Vec3{r * math.Cos(11*v), 0.1, r * math.Sin(11*v)}
	}
	for name, c := range map[string]struct {
		curve  func(float64) mgl64.Vec3
		radius float64
		rings  int
	}{
		"straight": {straight, 0.06, 60}, "bow": {bow, 0.08, 80}, "curl": {curl, 0.1, 260}, "spiral": {spiral, 0.05, 240},
	} {
		for _, capped := range []bool{true, false} {
			m := sweep(c.curve, c.radius, c.rings, 24, capped)
			places, err := mesh.TraceTube(m, 17)
			require.NoError(t, err, name)
			require.Len(t, places, 17)
			worst := 0.0
			for i, p := range places {
				off := fromCurve(c.curve, p) / c.radius
				worst = math.Max(worst, off)
				assert.LessOrEqual(t, off, 0.02, "%s, capped %v: joint %d", name, capped, i)
			}
			ends := math.Min(places[0].Sub(c.curve(0)).Len()+places[16].Sub(c.curve(1)).Len(), places[0].Sub(c.curve(1)).Len()+places[16].Sub(c.curve(0)).Len())
			assert.LessOrEqual(t, ends/c.radius, 0.1, "%s: the ends are reached", name)
			t.Logf("%s, capped %v: joints within %.2f%% of the radius of the true line, ends within %.2f%%", name, capped, 100*worst, 100*ends/c.radius)
		}
	}
}

func TestWhatIsNoTubeIsRefused(t *testing.T) {
	line := func(v float64) mgl64.Vec3 { return mgl64.Vec3{0, 2 * v, 0} }
	fork := mesh.Join([]*mesh.Mesh{sweep(line, 0.1, 30, 16, true), sweep(func(v float64) mgl64.Vec3 { return mgl64.Vec3{3, 2 * v, 0} }, 0.1, 30, 16, true)})
	_, err := mesh.TraceTube(fork, 5)
	require.ErrorIs(t, err, mesh.ErrNotATube)
	assert.ErrorContains(t, err, "2 loose pieces")
	ring := sweep(func(v float64) mgl64.Vec3 {
		v = math.Mod(v, 1)
		return mgl64.Vec3{math.Cos(2 * math.Pi * v), 0, math.Sin(2 * math.Pi * v)}
	}, 0.1, 61, 16, false)
	_, err = mesh.TraceTube(ring, 5)
	assert.ErrorIs(t, err, mesh.ErrNotATube)
	_, err = mesh.TraceTube(sweep(func(v float64) mgl64.Vec3 { return mgl64.Vec3{0, 0.1 * v, 0} }, 1, 12, 16, true), 5)
	assert.ErrorIs(t, err, mesh.ErrNotATube)
	_, err = mesh.TraceTube(&mesh.Mesh{Positions: []float32{0, 0, 0, 1, 0, 0, 0, 1, 0}, Normals: make([]float32, 9), Triangles: []uint32{0, 1, 2}}, 5)
	assert.ErrorIs(t, err, mesh.ErrNotATube)
}
