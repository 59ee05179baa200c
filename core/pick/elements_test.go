package pick_test

import (
	"math"
	"slices"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/mesh"
	"myriapod/core/pick"
)

const (
	around = 8 // vertices of a ring of the pipe
	along  = 6 // its rings, one metre apart from the ground up
)

// pipe is an open tube of quadrangles, half a metre wide, upright.
func pipe() *mesh.Mesh {
	m := &mesh.Mesh{}
	for ring := range along {
		for i := range around {
			angle := 2 * math.Pi * float64(i) / around
			m.Positions = append(m.Positions, float32(0.25*math.Cos(angle)), float32(ring), float32(-0.25*math.Sin(angle)))
		}
	}
	for ring := range along - 1 {
		for i := range around {
			a, b := uint32(ring*around+i), uint32(ring*around+(i+1)%around)
			m.Triangles = append(m.Triangles, a, b, a+around, b, b+around, a+around)
		}
	}
	m.ComputeNormals()
	return m
}

func surface(id string, m *mesh.Mesh) pick.Surface {
	return pick.Surface{ID: id, Name: id, Mesh: m, Topology: mesh.NewTopology(m)}
}

// scene has a pipe, and a part that is two loose boxes beside it.
func scene() []pick.Surface {
	boxes := mesh.Join([]*mesh.Mesh{box(mgl64.Vec3{3, 0, 0}, 1), box(mgl64.Vec3{6, 0, 0}, 1)})
	return []pick.Surface{surface("pipe", pipe()), surface("boxes", boxes)}
}

func do(t require.TestingT, act pick.Act, kind pick.Kind, of map[string][]int) pick.Picked {
	picked, err := pick.Do(act, pick.Elements{Kind: kind, Of: of}, scene(), mesh.Window{})
	require.NoError(t, err)
	return picked
}

func ring(at int) []int {
	vertices := make([]int, around)
	for i := range vertices {
		vertices[i] = at*around + i
	}
	return vertices
}

func TestARingIsPickedFromOneEdge(t *testing.T) {
	picked := do(t, pick.Ring, pick.Edges, map[string][]int{"pipe": {17, 18}})
	assert.True(t, picked.Closed)
	assert.Equal(t, around, picked.Count)
	vertices := slices.Clone(picked.Elements.Of["pipe"])
	slices.Sort(vertices)
	assert.Equal(t, ring(2), slices.Compact(vertices))
	require.NotNil(t, picked.Centre)
	assert.InDelta(t, 0, picked.Centre.Sub(mgl64.Vec3{0, 2, 0}).Len(), 1e-6, "its centre is the middle of the ring")
	lengthwise := do(t, pick.Ring, pick.Edges, map[string][]int{"pipe": {1, 1 + around}})
	assert.False(t, lengthwise.Closed, "along an open pipe it does not close")
	assert.Equal(t, along-1, lengthwise.Count)
}

func TestGrowingTakesTheNeighboursAndShrinkingGivesThemBack(t *testing.T) {
	grown := do(t, pick.Grow, pick.Vertices, map[string][]int{"pipe": ring(2)})
	assert.Equal(t, slices.Concat(ring(1), ring(2), ring(3)), grown.Elements.Of["pipe"])
	back := do(t, pick.Shrink, pick.Vertices, grown.Elements.Of)
	assert.Equal(t, ring(2), back.Elements.Of["pipe"])
	edges := do(t, pick.Grow, pick.Edges, map[string][]int{"pipe": {17, 18}})
	assert.Greater(t, edges.Count, 6)
	assert.Zero(t, len(edges.Elements.Of["pipe"])%2)
}

// Whatever is picked: growing loses nothing, shrinking adds nothing, a piece is whole, and nothing is picked twice.
func TestActsOnRandomPicks(t *testing.T) {
	surfaces := scene()
	rapid.Check(t, func(t *rapid.T) {
		id := rapid.SampledFrom([]string{"pipe", "boxes"}).Draw(t, "part")
		kind := rapid.SampledFrom([]pick.Kind{pick.Vertices, pick.Faces}).Draw(t, "kind")
		m := surfaces[slices.IndexFunc(surfaces, func(s pick.Surface) bool { return s.ID == id })].Mesh
		limit := m.VertexCount()
		if kind == pick.Faces {
			limit = m.FaceCount()
		}
		start := rapid.SliceOfNDistinct(rapid.IntRange(0, limit-1), 1, 12, rapid.ID).Draw(t, "picked")
		of := map[string][]int{id: start}
		grown := do(t, pick.Grow, kind, of).Elements.Of[id]
		piece := do(t, pick.Piece, kind, of).Elements.Of[id]
		assert.Subset(t, grown, start)
		assert.Subset(t, piece, grown, "neighbours are of the same piece")
		if shrunk := do(t, pick.Shrink, kind, of).Elements.Of[id]; len(shrunk) > 0 {
			assert.Subset(t, start, shrunk)
		}
		assert.Equal(t, piece, do(t, pick.Grow, kind, map[string][]int{id: piece}).Elements.Of[id], "a whole piece has no neighbours")
		for _, list := range [][]int{grown, piece} {
			sorted := slices.Clone(list)
			slices.Sort(sorted)
			assert.Equal(t, len(list), len(slices.Compact(sorted)))
		}
		whole := do(t, pick.Whole, kind, of)
		assert.Len(t, whole.Elements.Of[id], limit)
	})
}

func TestALoosePieceIsOneOfTheBoxes(t *testing.T) {
	picked := do(t, pick.Piece, pick.Faces, map[string][]int{"boxes": {13}})
	assert.Equal(t, 12, picked.Count)
	assert.InDelta(t, 6, picked.Centre[0], 1e-6)
	byVertex := do(t, pick.Piece, pick.Vertices, map[string][]int{"boxes": {2}})
	assert.Equal(t, 8, byVertex.Count)
	assert.InDelta(t, 3, byVertex.Centre[0], 1e-6)
}

func TestTurnedFacesAreFound(t *testing.T) {
	surfaces := scene()
	turned := surface("pipe", surfaces[0].Mesh.Flip([]int{4, 30}))
	picked, err := pick.Do(pick.Turned, pick.Elements{Kind: pick.Faces, Of: map[string][]int{"pipe": nil}}, []pick.Surface{turned}, mesh.Window{})
	require.NoError(t, err)
	assert.Equal(t, []int{4, 30}, picked.Elements.Of["pipe"])
	assert.Empty(t, do(t, pick.Turned, pick.Faces, map[string][]int{"pipe": nil}).Elements.Of["pipe"])
}

func TestAWindowPicksOfAllParts(t *testing.T) {
	view := mgl64.Ortho(-10, 10, -10, 10, -10, 10)
	for kind, want := range map[pick.Kind]int{pick.Vertices: 16, pick.Faces: 24} {
		w := mesh.Window{View: view, Left: 0.2, Bottom: -1, Right: 1, Top: 1, Through: true}
		picked, err := pick.Do(pick.Window, pick.Elements{Kind: kind}, scene(), w)
		require.NoError(t, err)
		assert.Equal(t, want, picked.Count, "the two boxes, not the pipe: %s", kind)
		assert.NotContains(t, picked.Elements.Of, "pipe")
		w.Right = 0.1
		picked, err = pick.Do(pick.Window, pick.Elements{Kind: kind}, scene(), w)
		require.NoError(t, err)
		assert.Zero(t, picked.Count)
		assert.Nil(t, picked.Centre)
	}
}

func TestPicksThatCannotBeAreRefused(t *testing.T) {
	for want, bad := range map[string]struct {
		act  pick.Act
		kind pick.Kind
		of   map[string][]int
	}{
		`there is no act "melt"`:                   {"melt", pick.Faces, nil},
		"elements are vertices, edges or faces":    {pick.Grow, "knots", nil},
		`there is no part "hat" to pick from`:      {pick.Grow, pick.Faces, map[string][]int{"hat": {0}}},
		"pipe has no element 48 of 48":             {pick.Grow, pick.Vertices, map[string][]int{"pipe": {48}}},
		"pipe has no element -1 of 80":             {pick.Grow, pick.Faces, map[string][]int{"pipe": {-1}}},
		"edges are pairs of vertices":              {pick.Grow, pick.Edges, map[string][]int{"pipe": {1, 2, 3}}},
		"no edge is picked":                        {pick.Ring, pick.Edges, nil},
		"no ring goes through this edge; pick one": {pick.Ring, pick.Edges, map[string][]int{"pipe": {0, around*3 + 4}}},
	} {
		_, err := pick.Do(bad.act, pick.Elements{Kind: bad.kind, Of: bad.of}, scene(), mesh.Window{})
		assert.ErrorContains(t, err, want)
	}
}
