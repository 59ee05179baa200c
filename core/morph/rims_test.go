package morph_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/mesh"
	"myriapod/core/morph"
)

// lids is an upper and a lower lid over a ball, of a number of places across each, and their rims. Like turns and scales it all.
func lids(upper, lower int, radius float64, like func(mgl64.Vec3) mgl64.Vec3) (m *mesh.Mesh, one, other []int) {
	m = &mesh.Mesh{}
	const rings = 8
	for side, count := range []int{upper, lower} {
		base := m.VertexCount()
		sign := 1 - 2*float64(side)
		for r := range rings + 1 {
			up := sign * (1.2 - 0.75*float64(r)/rings) // the rims lie 0.45 over and under the middle
			for k := range count + 1 {
				across := -0.9 + 1.8*float64(k)/float64(count)
				p := like(mgl64.Vec3{math.Cos(up) * math.Sin(across), math.Sin(up), math.Cos(up) * math.Cos(across)}.Mul(radius))
				m.Positions = append(m.Positions, float32(p[0]), float32(p[1]), float32(p[2]))
				if r == rings {
					if side == 0 {
						one = append(one, base+r*(count+1)+k)
					} else {
						other = append(other, base+r*(count+1)+k)
					}
				}
			}
		}
		at := func(r, k int) uint32 { return uint32(base + r*(count+1) + k) }
		for r := range rings {
			for k := range count {
				m.Triangles = append(m.Triangles, at(r, k), at(r+1, k), at(r, k+1), at(r, k+1), at(r+1, k), at(r+1, k+1))
			}
		}
	}
	m.ComputeNormals()
	return m, one, other
}

// TestRimsMeetOverTheBallBehindThem closes lids of any size, anywhere, at any share: the rims come together, and nothing goes through the ball on any part of the way that is theirs.
func TestRimsMeetOverTheBallBehindThem(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		turn := mgl64.QuatRotate(rapid.Float64Range(-3, 3).Draw(t, "angle"), drawVector(t, 1, "axis").Add(mgl64.Vec3{0, 2, 0}).Normalize())
		radius, middle := rapid.Float64Range(0.01, 100).Draw(t, "radius"), drawVector(t, 3, "middle")
		like := func(p mgl64.Vec3) mgl64.Vec3 { return turn.Rotate(p).Add(middle.Mul(radius)) }
		upper, lower := rapid.IntRange(6, 30).Draw(t, "upper"), rapid.IntRange(6, 30).Draw(t, "lower")
		m, one, other := lids(upper, lower, radius, like)
		share := rapid.Float64Range(0, 1).Draw(t, "share")
		by, gap, err := morph.Rims{One: rapid.Permutation(one).Draw(t, "one"), Other: other, Share: share, Reach: 0.6 * radius}.Close(mesh.NewWalk(m), m)
		require.NoError(t, err)
		coarse := 1.8 / float64(min(upper, lower))
		assert.LessOrEqual(t, gap, (coarse*coarse/4+1e-4)*radius, "no more than what chords of both rims lie off the line")
		if upper == lower {
			assert.LessOrEqual(t, gap, 1e-5*radius)
		}
		for v := range m.VertexCount() {
			p := m.Vertex(v).Add(vector(by, v))
			assert.InDelta(t, radius, p.Sub(like(mgl64.Vec3{})).Len(), 0.02*radius, "everything slides over the ball")
		}
		for k, v := range one {
			p := m.Vertex(v).Add(vector(by, v))
			up := turn.Conjugate().Rotate(p.Sub(middle.Mul(radius)))
			want := 0.45 - 0.9*share
			assert.InDelta(t, want, math.Atan2(up[1], math.Hypot(up[0], up[2])), 0.25, "rim %d", k)
		}
	})
}

func TestRimsThatCannotCloseAreRefused(t *testing.T) {
	m, one, other := lids(10, 10, 1, func(p mgl64.Vec3) mgl64.Vec3 { return p })
	for want, r := range map[string]morph.Rims{
		"in both rims":      {One: one, Other: append([]int{one[0]}, other...), Share: 0.5},
		"two places":        {One: one[:1], Other: other, Share: 0.5},
		"at a share of 0":   {One: one, Other: other, Share: 2},
		"no vertex":         {One: []int{1e6}, Other: other, Share: 0.5},
		"within 0 metres":   {One: one, Other: other, Share: 0.5, Reach: math.NaN()},
		"pick more of its ": {Other: other, Share: 0.5},
	} {
		_, _, err := r.Close(mesh.NewWalk(m), m)
		require.ErrorContains(t, err, want)
	}
	flat := bowl(1, -1e-3, 1e-3, 2, 40) // hardly a ball: rims go straight
	by, _, err := morph.Rims{One: []int{0, 1, 2}, Other: []int{80, 81, 82}, Share: 0.5}.Close(mesh.NewWalk(flat), flat)
	require.NoError(t, err)
	for _, n := range by {
		assert.False(t, n != n)
	}
}

// TestASecondModelIsFoundAgainHoweverItIsNumbered shuffles vertices and faces, parts seams, and moves half of the surface away.
func TestASecondModelIsFoundAgainHoweverItIsNumbered(t *testing.T) {
	m := bowl(1, -1.2, 1.2, 10, 16)
	rapid.Check(t, func(t *rapid.T) {
		move := drawVector(t, 5, "move")
		seam := rapid.IntRange(0, m.FaceCount()-1).Draw(t, "seam")
		second := &mesh.Mesh{}
		order := rapid.Permutation(indices(m.VertexCount())).Draw(t, "vertices")
		to := make([]uint32, m.VertexCount())
		want := make([]mgl64.Vec3, m.VertexCount())
		for i, v := range order {
			to[v] = uint32(i)
			p := m.Vertex(v)
			if p[1] > 0 {
				want[v] = move.Mul(p[1])
			}
			p = p.Add(want[v])
			second.Positions = append(second.Positions, float32(p[0]), float32(p[1]), float32(p[2]))
		}
		for i, face := range rapid.Permutation(indices(m.FaceCount())).Draw(t, "faces") {
			for k := range 3 {
				corner := to[m.Triangles[3*face+(k+i)%3]]
				if face == seam { // its corners are its own, in the same places
					second.Positions = append(second.Positions, second.Positions[3*corner:3*corner+3]...)
					corner = uint32(second.VertexCount() - 1)
				}
				second.Triangles = append(second.Triangles, corner)
			}
		}
		second.ComputeNormals()
		by, missed, err := morph.FromSecond(m, second)
		require.NoError(t, err)
		assert.Zero(t, missed)
		for v := range want {
			assert.InDelta(t, 0, want[v].Sub(vector(by, v)).Len(), 1e-5)
		}
	})
	_, _, err := morph.FromSecond(m, bowl(1, -1.2, 1.2, 11, 17))
	require.ErrorContains(t, err, "leave its faces as they are")
}

func indices(count int) []int {
	list := make([]int, count)
	for i := range list {
		list[i] = i
	}
	return list
}
