package mesh_test

import (
	"slices"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/mesh"
)

func pipe() *mesh.Mesh {
	return sweep(func(v float64) mgl64.Vec3 { return mgl64.Vec3{0, 2 * v, 0} }, 0.3, 21, 12, true)
}

func TestARingRunsAroundAndMiddlesAreFound(t *testing.T) {
	m := pipe()
	top := mesh.NewTopology(m)
	ring, closed, ok := top.Ring(12*7, 12*7+1)
	require.True(t, ok)
	assert.True(t, closed)
	slices.Sort(ring)
	for k := range 12 {
		assert.Equal(t, 12*7+k, ring[k])
	}
	assert.InDelta(t, 0, m.RingCentre(ring).Sub(mgl64.Vec3{0, 0.7, 0}).Len(), 1e-6)
	along, closed, ok := top.Ring(12*7, 12*8)
	require.True(t, ok)
	assert.False(t, closed, "a line along the pipe ends at its caps")
	assert.Len(t, along, 21)
	_, _, ok = top.Ring(0, 100)
	assert.False(t, ok, "what is no edge has no ring")
	assert.InDelta(t, 0, m.Centre().Sub(mgl64.Vec3{0, 1, 0}).Len(), 1e-6)
	middle, ok := top.CentreOf([]int{0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11})
	assert.True(t, ok)
	assert.InDelta(t, 0, middle.Len(), 1e-6)
}

// Growing and then shrinking gives at least what one began with; shrinking never adds.
func TestGrowAndShrink(t *testing.T) {
	m := pipe()
	top := mesh.NewTopology(m)
	rapid.Check(t, func(t *rapid.T) {
		picked := rapid.SliceOfNDistinct(rapid.IntRange(0, m.VertexCount()-1), 1, 20, rapid.ID[int]).Draw(t, "vertices")
		slices.Sort(picked)
		grown := top.GrowVertices(picked)
		assert.Subset(t, grown, picked)
		assert.Subset(t, top.ShrinkVertices(grown), picked)
		assert.Subset(t, picked, top.ShrinkVertices(picked))
		faces := top.FacesAt(picked)
		assert.Subset(t, top.GrowFaces(faces), faces)
		assert.Subset(t, faces, top.ShrinkFaces(faces))
	})
}

func TestTurnedFacesAreFoundAndTurnedBack(t *testing.T) {
	m := pipe()
	require.Empty(t, mesh.NewTopology(m).Turned())
	rapid.Check(t, func(t *rapid.T) {
		turned := rapid.SliceOfNDistinct(rapid.IntRange(0, m.FaceCount()-1), 1, 200, rapid.ID[int]).Draw(t, "faces")
		slices.Sort(turned)
		spoilt := m.Flip(turned)
		assert.Equal(t, turned, mesh.NewTopology(spoilt).Turned())
		assert.Equal(t, m.Triangles, spoilt.Flip(turned).Triangles)
	})
	inside := m.Flip(m.Others(nil))
	assert.Len(t, mesh.NewTopology(inside).Turned(), m.FaceCount(), "a closed surface turned inside out is turned whole")
	assert.InDelta(t, -m.Normals[0], inside.Normals[0], 1e-6)
}

func TestPiecesAreParted(t *testing.T) {
	two := mesh.Join([]*mesh.Mesh{pipe(), pipe().Moved(func(p mgl64.Vec3) mgl64.Vec3 { return p.Add(mgl64.Vec3{5, 0, 0}) }, func(n mgl64.Vec3) mgl64.Vec3 { return n })})
	top := mesh.NewTopology(two)
	pieces := top.Pieces()
	require.Len(t, pieces, 2)
	piece, from := two.Subset(pieces[1])
	require.NoError(t, piece.Validate())
	assert.Equal(t, pipe().VertexCount(), piece.VertexCount())
	for i, v := range from {
		assert.Equal(t, two.Vertex(v), piece.Vertex(i))
	}
	assert.Equal(t, pieces[1], top.PieceOf(pieces[1][3]))
	assert.True(t, two.Contains(mgl64.Vec3{5, 1, 0}))
	assert.False(t, two.Contains(mgl64.Vec3{2.5, 1, 0}))
}

func TestAWindowSeesTheFrontAlone(t *testing.T) {
	m := pipe()
	view := mgl64.Ortho(-1, 1, -1, 3, -10, 10) // from +Z
	w := mesh.Window{View: view, Left: -1, Bottom: -1, Right: 1, Top: 1}
	front := mesh.Inside(w, []*mesh.Mesh{m})[0]
	for _, v := range front {
		assert.Greater(t, m.Vertex(v)[2], -0.06, "vertex %d lies behind", v)
	}
	w.Through = true
	assert.Len(t, mesh.Inside(w, []*mesh.Mesh{m})[0], m.VertexCount())
	w.Right = -0.5
	assert.Empty(t, mesh.Inside(w, []*mesh.Mesh{m})[0])
}

func TestStoredDeltasAreChecked(t *testing.T) {
	d := &mesh.Deltas{Positions: []float32{1, 2, 3, 4, 5, 6}, Normals: []float32{0, 0, 1, 0, 0, 1}}
	back, err := mesh.DecodeDeltas(d.Encode(), 2)
	require.NoError(t, err)
	assert.Equal(t, d, back)
	_, err = mesh.DecodeDeltas(d.Encode(), 3)
	require.ErrorContains(t, err, "moves 2 vertices in place of 3")
	_, err = mesh.DecodeDeltas([]byte("MYD1"), 2)
	require.Error(t, err)
}

// However many faces meet at one vertex, or are one face many times, finding the loose pieces takes a time that grows with the mesh alone.
func TestManyFacesAtOneVertex(t *testing.T) {
	const count = 200_000
	fan, same := &mesh.Mesh{Positions: []float32{0, 1, 0}}, &mesh.Mesh{Positions: []float32{0, 0, 0, 1, 0, 0, 0, 1, 0}}
	for i := range count {
		fan.Positions = append(fan.Positions, float32(i%1000), 0, float32(i/1000))
		same.Triangles = append(same.Triangles, 0, 1, 2)
		if i > 0 {
			fan.Triangles = append(fan.Triangles, 0, uint32(i), uint32(i+1))
		}
	}
	for _, m := range []*mesh.Mesh{fan, same} {
		topology := mesh.NewTopology(m)
		pieces := topology.Pieces()
		require.Len(t, pieces, 1)
		assert.Len(t, pieces[0], m.FaceCount())
		assert.Len(t, topology.GrowFaces([]int{0}), m.FaceCount())
		assert.Len(t, topology.ShrinkFaces(pieces[0]), m.FaceCount())
	}
}
