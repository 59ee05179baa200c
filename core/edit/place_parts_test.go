package edit_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mesh"
	"myriapod/core/rig"
)

// lump is a part of scattered faces.
func lump(random *rand.Rand) *mesh.Mesh {
	m := &mesh.Mesh{}
	for range 30 {
		for range 3 {
			m.Positions = append(m.Positions, float32(random.NormFloat64()))
		}
	}
	for k := range uint32(28) {
		m.Triangles = append(m.Triangles, k, k+1, k+2)
	}
	m.ComputeNormals()
	return m
}

// Distances within a part grow by its scale and its middle comes to where it is set, however it is turned.
func TestPartsArePlaced(t *testing.T) {
	random := rand.New(rand.NewPCG(6, 6))
	for range 20 {
		was := lump(random)
		data := was.Encode()
		c := &edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}, Blobs: map[string][]byte{edit.Hash(data): data}}
		d := with(t, c, rig.New("x"), &edit.AddParts{Parts: []edit.NewPart{{Name: "lump", Mesh: edit.Hash(data), Vertices: was.VertexCount(), Colour: "#808080"}}})
		d = with(t, c, d, &edit.LayChain{Positions: []mgl64.Vec3{{random.NormFloat64(), 2, 1}}, Pattern: "hook"})
		place := &edit.PlaceParts{Parts: []string{d.Parts[0].ID}, Turn: mgl64.Vec3{random.NormFloat64(), random.NormFloat64(), random.NormFloat64()}, Scale: math.Exp(random.NormFloat64()), Onto: d.Joints[0].ID, Move: mgl64.Vec3{0, 0.5, 0}}
		moved := with(t, c, d, place)
		now, err := mesh.Decode(c.Blobs[moved.Parts[0].Mesh])
		require.NoError(t, err)
		box := was.Bounds()
		middle := box.Min.Add(box.Max).Mul(0.5)
		to := d.Joints[0].Position.Add(mgl64.Vec3{0, 0.5, 0})
		for i := range was.VertexCount() {
			assert.InDelta(t, place.Scale*was.Vertex(i).Sub(middle).Len(), now.Vertex(i).Sub(to).Len(), 1e-5*(1+place.Scale*4))
			assert.InDelta(t, place.Scale*was.Vertex(i).Sub(was.Vertex(0)).Len(), now.Vertex(i).Sub(now.Vertex(0)).Len(), 1e-5*(1+place.Scale*4))
		}
		bound := with(t, c, moved, &edit.BindRigid{Parts: []string{d.Parts[0].ID}, Joint: d.Joints[0].ID})
		_, err = edit.Apply(c, bound, place)
		assert.ErrorContains(t, err, "unbind it before")
		place.Scale = math.NaN()
		_, err = edit.Apply(c, d, place)
		assert.ErrorContains(t, err, "finite numbers")
		place.Scale, place.Onto = 1, "gone"
		_, err = edit.Apply(c, d, place)
		assert.ErrorContains(t, err, "choose another")
	}
}
