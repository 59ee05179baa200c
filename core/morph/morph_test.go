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

// bowl is the part of a sphere between two heights, as angles above the horizon, symmetric about x = 0; with open rims.
func bowl(radius, from, to float64, rings, around int) *mesh.Mesh {
	m := &mesh.Mesh{}
	for r := range rings + 1 {
		up := from + (to-from)*float64(r)/float64(rings)
		for k := range around {
			turn := 2 * math.Pi * (float64(k) + 0.5) / float64(around)
			p := mgl64.Vec3{math.Sin(turn) * math.Cos(up), math.Sin(up), math.Cos(turn) * math.Cos(up)}.Mul(radius)
			m.Positions = append(m.Positions, float32(p[0]), float32(p[1]), float32(p[2]))
		}
	}
	at := func(r, k int) uint32 { return uint32(r*around + k%around) }
	for r := range rings {
		for k := range around {
			m.Triangles = append(m.Triangles, at(r, k), at(r, k+1), at(r+1, k), at(r+1, k), at(r, k+1), at(r+1, k+1))
		}
	}
	m.ComputeNormals()
	return m
}

func vector(list []float32, i int) mgl64.Vec3 {
	return mgl64.Vec3{float64(list[3*i]), float64(list[3*i+1]), float64(list[3*i+2])}
}

func drawVector(t *rapid.T, most float64, name string) (v mgl64.Vec3) {
	for k := range 3 {
		v[k] = rapid.Float64Range(-most, most).Draw(t, name)
	}
	return v
}

func TestWhatAHandDoesToWhatItHolds(t *testing.T) {
	const radius = 2.0
	m := bowl(radius, -1.2, 1.2, 30, 40)
	w := mesh.NewWalk(m)
	rapid.Check(t, func(t *rapid.T) {
		spot := mesh.Spot{Face: rapid.IntRange(0, m.FaceCount()-1).Draw(t, "face"), Shares: [3]float64{0.2, 0.3, 0.5}}
		reach := rapid.Float64Range(0.3, 1.5).Draw(t, "reach")
		grip := morph.GripAt(w, spot, reach)
		require.NotEmpty(t, grip.Vertices)
		moved := m.Positions
		shape := morph.Shape{Walk: w, Place: func(v int) mgl64.Vec3 { return vector(moved, v) }, Still: m.Vertex}
		h := morph.Hand{
			At: w.Place(spot), By: drawVector(t, 1, "by"), Facing: drawVector(t, 1, "facing"), Angle: rapid.Float64Range(-3, 3).Draw(t, "angle"),
			Factor: rapid.Float64Range(0.1, 5).Draw(t, "factor"), Amount: rapid.Float64Range(0, 0.5).Draw(t, "amount"),
		}
		for i, by := range shape.Do(morph.Move, grip, h) {
			assert.LessOrEqual(t, by.Len(), h.By.Len()+1e-12)
			assert.InDelta(t, grip.Shares[i]*h.By.Len(), by.Len(), 1e-9, "less and less towards the edge")
		}
		for i, by := range shape.Do(morph.Turn, grip, h) {
			off := m.Vertex(grip.Vertices[i]).Sub(h.At)
			assert.InDelta(t, off.Len(), off.Add(by).Len(), 1e-9)
		}
		for i, by := range shape.Do(morph.Scale, grip, h) {
			off := m.Vertex(grip.Vertices[i]).Sub(h.At)
			want := off.Len() * math.Pow(h.Factor, grip.Shares[i])
			assert.InDelta(t, want, off.Add(by).Len(), 1e-9*math.Max(1, want))
		}
		for i, by := range shape.Do(morph.Push, grip, h) {
			p := m.Vertex(grip.Vertices[i])
			assert.Greater(t, by.Dot(p), -1e-9, "out of the ball")
			assert.InDelta(t, h.Amount*grip.Shares[i], by.Len(), 1e-9)
		}
		slid := shape.Do(morph.Slide, grip, h)
		for i := 0; i < len(slid); i += 1 + len(slid)/8 { // each is looked for among all faces
			assert.Less(t, offSurface(m, m.Vertex(grip.Vertices[i]).Add(slid[i])), 1e-6*radius, "what slides stays on the surface")
		}
		pushed := append([]float32{}, m.Positions...)
		for i, by := range shape.Do(morph.Push, grip, morph.Hand{Amount: 0.3}) {
			for k := range 3 {
				pushed[3*grip.Vertices[i]+k] += float32(by[k])
			}
		}
		moved = pushed
		for i, by := range shape.Do(morph.Restore, grip, morph.Hand{Amount: 1 / math.Max(1e-3, grip.Shares[0])}) {
			v := grip.Vertices[i]
			before := vector(pushed, v).Sub(m.Vertex(v))
			assert.Less(t, before.Add(by).Len(), before.Len()+1e-9, "it comes back, by as much as the hand is strong there")
		}
	})
}

// offSurface is how far a place lies from the nearest of all faces, by planes and edges.
func offSurface(m *mesh.Mesh, p mgl64.Vec3) float64 {
	nearest := math.Inf(1)
	for face := range m.FaceCount() {
		a, b, c := m.Corner(face)
		n := b.Sub(a).Cross(c.Sub(a)).Normalize()
		q := p.Sub(n.Mul(p.Sub(a).Dot(n)))
		inside := true
		for _, e := range [][2]mgl64.Vec3{{a, b}, {b, c}, {c, a}} {
			inside = inside && e[1].Sub(e[0]).Cross(q.Sub(e[0])).Dot(n) >= 0
			nearest = math.Min(nearest, mesh.NearestOnStretch(p, e[0], e[1]).Sub(p).Len())
		}
		if inside {
			nearest = math.Min(nearest, math.Abs(p.Sub(a).Dot(n)))
		}
	}
	return nearest
}

func TestSmoothingMakesTheFormEven(t *testing.T) {
	m := bowl(1, -1.2, 1.2, 20, 30)
	w := mesh.NewWalk(m)
	rough := append([]float32{}, m.Positions...)
	rough[3*310] *= 1.3
	shape := morph.Shape{Walk: w, Place: func(v int) mgl64.Vec3 { return vector(rough, v) }, Still: m.Vertex}
	by := shape.Do(morph.Smooth, morph.GripOf(w, []int{310}, 0.01), morph.Hand{Amount: 1})
	around, count := mgl64.Vec3{}, 0.0
	w.Neighbours(310, func(v int) { around, count = around.Add(vector(rough, v)), count+1 })
	assert.InDelta(t, 0, vector(rough, 310).Add(by[0]).Sub(around.Mul(1/count)).Len(), 1e-7)
}

func TestGripsHoldWhatIsPickedWholly(t *testing.T) {
	m := bowl(1, -1.2, 1.2, 20, 30)
	w := mesh.NewWalk(m)
	bare := morph.GripOf(w, []int{300, 301}, 0)
	assert.ElementsMatch(t, []int{300, 301}, bare.Vertices)
	wide := morph.GripOf(w, []int{300, 301}, 0.5)
	for i, v := range wide.Vertices {
		if v == 300 || v == 301 {
			assert.Equal(t, 1.0, wide.Shares[i])
		} else {
			assert.Less(t, wide.Shares[i], 1.0)
		}
	}
	assert.Greater(t, len(wide.Vertices), 20)
}

func TestSidesAreTheWholeTogetherAndMirrorImagesComeBack(t *testing.T) {
	m := bowl(1, -1.2, 1.2, 12, 20)
	w := mesh.NewWalk(m)
	images, farthest := w.Images()
	require.Less(t, farthest, 1e-6)
	image := make([]int, m.VertexCount())
	for v, spot := range images {
		for k, corner := range w.Corners(spot) {
			if spot.Shares[k] > 0.999 {
				image[v] = corner
			}
		}
	}
	rapid.Check(t, func(t *rapid.T) {
		by := make([]float32, len(m.Positions))
		for i := range by {
			by[i] = float32(rapid.Float64Range(-1, 1).Draw(t, "by"))
		}
		blend := rapid.SampledFrom([]float64{0, 0.1, 0.7, 3}).Draw(t, "blend")
		left, right := morph.Sides(m, by, blend)
		for i := range by {
			assert.InDelta(t, by[i], left[i]+right[i], 1e-7)
			if x := m.Vertex(i / 3)[0]; x > blend {
				assert.Zero(t, right[i])
			} else if x < -blend {
				assert.Zero(t, left[i])
			}
		}
		mirrored := morph.Mirrored(w, by, images)
		assert.InDeltaSlice(t, by, morph.Mirrored(w, mirrored, images), 1e-5)
		for v, other := range image {
			assert.InDelta(t, -by[3*other], mirrored[3*v], 1e-5)
		}
		v := rapid.IntRange(0, m.VertexCount()-1).Draw(t, "vertex")
		grip := morph.GripOf(mesh.NewWalk(m), []int{v}, rapid.Float64Range(0.05, 2).Draw(t, "reach"))
		moves := make([]mgl64.Vec3, len(grip.Vertices))
		for i := range moves {
			moves[i] = drawVector(t, 1, "move").Mul(grip.Shares[i])
		}
		both, moved := morph.BothSides(w, grip, moves, images)
		to := map[int]mgl64.Vec3{}
		for i, v := range both.Vertices {
			to[v] = moved[i]
		}
		for v, by := range to {
			other := to[image[v]]
			assert.InDelta(t, 0, by.Sub(mgl64.Vec3{-other[0], other[1], other[2]}).Len(), 1e-5, "both sides go alike")
		}
	})
}

func TestNormalsOfAShapeAreThoseOfTheSurfaceAsItIsThere(t *testing.T) {
	m := bowl(1, -1.2, 1.2, 20, 30)
	w := mesh.NewWalk(m)
	rapid.Check(t, func(t *rapid.T) {
		grip := morph.GripOf(w, []int{rapid.IntRange(0, m.VertexCount()-1).Draw(t, "vertex")}, 0.6)
		by, move := make([]float32, len(m.Positions)), drawVector(t, 0.3, "move")
		for i, v := range grip.Vertices {
			for k := range 3 {
				by[3*v+k] = float32(move[k] * grip.Shares[i])
			}
		}
		d := morph.Deltas(w, m, by)
		moved := &mesh.Mesh{Positions: append([]float32{}, m.Positions...), Normals: append([]float32{}, m.Normals...), Triangles: m.Triangles}
		d.Mix(1, moved)
		anew := &mesh.Mesh{Positions: moved.Positions, Triangles: m.Triangles}
		anew.ComputeNormals()
		for v := range m.VertexCount() {
			assert.InDelta(t, 0, vector(anew.Normals, v).Sub(vector(moved.Normals, v)).Len(), 1e-4)
		}
	})
}
