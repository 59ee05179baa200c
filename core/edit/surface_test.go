package edit_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/interchange/model"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mesh"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// prism is a closed pipe of six sides along Y, standing at x.
func prism(x float64) *mesh.Mesh {
	const around, rings = 6, 9
	m := &mesh.Mesh{}
	for r := range rings {
		for k := range around {
			sine, cosine := math.Sincos(2 * math.Pi * float64(k) / around)
			m.Positions = append(m.Positions, float32(x+0.1*sine), float32(r)/(rings-1), float32(0.1*cosine))
		}
	}
	at := func(r, k int) uint32 { return uint32(r*around + k%around) }
	for r := range rings - 1 {
		for k := range around {
			m.Triangles = append(m.Triangles, at(r, k), at(r, k+1), at(r+1, k), at(r+1, k), at(r, k+1), at(r+1, k+1))
		}
	}
	for k := 1; k < around-1; k++ {
		m.Triangles = append(m.Triangles, at(0, 0), at(0, k+1), at(0, k), at(rings-1, 0), at(rings-1, k), at(rings-1, k+1))
	}
	m.ComputeNormals()
	return m
}

// bench is a document with two prisms in one part and one in another, with what an edit needs.
func withParts(t *testing.T) (*rig.Document, *edit.Context) {
	memory := edit.Memory{}
	c := &edit.Context{Kinds: kinds.All(), Surfaces: memory, Blobs: memory}
	m := &model.Model{Parts: []model.Part{
		{Name: "pair", Colour: "#808080", Mesh: mesh.Join([]*mesh.Mesh{prism(0), prism(1)})}, {Name: "single", Colour: "#909090", Mesh: prism(2)},
	}}
	result, err := edit.Apply(c, rig.New("parts"), edit.AddModel("parts.obj", m, 24, memory))
	require.NoError(t, err)
	return result.Document, c
}

func with(t *testing.T, c *edit.Context, d *rig.Document, e edit.Edit) *rig.Document {
	t.Helper()
	result, err := edit.Apply(c, d, e)
	require.NoError(t, err)
	return result.Document
}

func TestPartsSplitMergeAndKeepTheirWeights(t *testing.T) {
	d, c := withParts(t)
	pair, single := d.Parts[0].ID, d.Parts[1].ID
	d = with(t, c, d, &edit.LayChain{Positions: []mgl64.Vec3{{0.5, 0, 0}, {0.5, 0.5, 0}, {0.5, 1, 0}}, Pattern: "s_#"})
	d = with(t, c, d, &edit.Bind{Parts: []string{pair, single}, Joints: ids(d), Blend: 1})
	split := with(t, c, d, &edit.SplitPieces{Part: pair})
	require.Len(t, split.Parts, 3)
	assert.Equal(t, "pair_2", split.Parts[1].Name)
	assert.Equal(t, split.Parts[0].Vertices, split.Parts[1].Vertices)
	assert.Len(t, split.Bindings, 3, "each piece keeps its weights")
	merged := with(t, c, split, &edit.MergeParts{Parts: []string{pair, split.Parts[1].ID}, Name: "again"})
	require.Len(t, merged.Parts, 2)
	surfaces := c.Surfaces.(edit.Memory)
	before, err := surfaces.Weights(d.BindingOf(pair).Weights, 3)
	require.NoError(t, err)
	after, err := surfaces.Weights(merged.BindingOf(pair).Weights, 3)
	require.NoError(t, err)
	assert.Equal(t, before.VertexCount(), after.VertexCount())
	e, body, err := evaluate.Open(merged, kinds.All(), surfaces)
	require.NoError(t, err)
	assert.LessOrEqual(t, evaluate.RestDrift(e, body).Vertices, 1e-6)

	off := with(t, c, d, &edit.SplitPart{Part: single, Faces: []int{3, 1, 2, 2}, Name: "flap"})
	assert.Equal(t, "flap", off.Parts[2].Name)
	_, err = edit.Apply(c, d, &edit.SplitPart{Part: single, Faces: []int{9999}, Name: "x"})
	require.ErrorContains(t, err, "there is no face 9999")
	_, err = edit.Apply(c, d, &edit.SplitPieces{Part: single})
	require.ErrorContains(t, err, "all one piece")
	loose := with(t, c, d, &edit.Unbind{Parts: []string{single}})
	_, err = edit.Apply(c, loose, &edit.MergeParts{Parts: []string{pair, single}})
	require.ErrorContains(t, err, "bind or unbind them all first")
}

// Whole parts, or picked faces, go with one joint alone; the rest of the part stays bound as it was.
func TestRigidPartsBelongToOneJoint(t *testing.T) {
	d, c := withParts(t)
	pair, single := d.Parts[0].ID, d.Parts[1].ID
	d = with(t, c, d, &edit.LayChain{Positions: []mgl64.Vec3{{0.5, 0, 0}, {0.5, 0.5, 0}, {0.5, 1, 0}}, Pattern: "s_#"})
	d = with(t, c, d, &edit.LayChain{Positions: []mgl64.Vec3{{2, 0, 0}}, Pattern: "hook"})
	hook := d.Joints[3].ID
	whole := with(t, c, d, &edit.BindRigid{Parts: []string{pair, single}, Joint: hook})
	for _, b := range whole.Bindings {
		assert.Equal(t, []string{hook}, b.Joints)
	}
	_, err := edit.Apply(c, d, &edit.BindRigid{Parts: []string{single}, Joint: hook, Faces: []int{0}})
	require.ErrorContains(t, err, "is not bound yet")
	var remarks []string
	c.Tell = func(text string) { remarks = append(remarks, text) }
	d = with(t, c, d, &edit.Bind{Parts: []string{pair, single}, Joints: ids(d)[:3], Blend: 1})
	assert.Empty(t, remarks)
	with(t, c, d, &edit.Bind{Parts: []string{single}, Joints: ids(d)[:3], Blend: 0.5})
	assert.Empty(t, remarks, "the same joints")
	with(t, c, d, &edit.Bind{Parts: []string{pair, single}, Joints: ids(d)[:2], Blend: 1})
	assert.Equal(t, []string{d.NameOf(pair) + ", " + d.NameOf(single) + " hung on other joints before; undo brings that back."}, remarks)
	c.Tell = nil
	some := with(t, c, d, &edit.BindRigid{Parts: []string{single}, Joint: hook, Faces: []int{0, 1}})
	binding := some.BindingOf(single)
	assert.Equal(t, edit.Given, binding.Method)
	surfaces := c.Surfaces.(edit.Memory)
	surface, err := surfaces.Mesh(some.Part(single).Mesh)
	require.NoError(t, err)
	before, err := surfaces.Weights(d.BindingOf(single).Weights, 3)
	require.NoError(t, err)
	after, err := surfaces.Weights(binding.Weights, 4)
	require.NoError(t, err)
	rigid := 0
	for vertex := range surface.VertexCount() {
		if after.Joints[4*vertex] == 3 && after.Values[4*vertex] == 1 {
			rigid++
			continue
		}
		assert.Equal(t, before.Values[4*vertex:4*vertex+4], after.Values[4*vertex:4*vertex+4], "vertex %d is as it was", vertex)
	}
	assert.GreaterOrEqual(t, rigid, 4)
	assert.Less(t, rigid, surface.VertexCount())
	_, err = edit.Apply(c, d, &edit.BindRigid{Parts: []string{single}, Joint: "gone"})
	require.ErrorContains(t, err, `no joint "gone"`)
	_, err = edit.Apply(c, d, &edit.BindRigid{Parts: []string{pair, single}, Joint: hook, Faces: []int{0}})
	require.ErrorContains(t, err, "one part at a time")
}

// One part is bound, and all that are named like it go to the joints that are named so.
func TestPartsThatAreNamedAlikeAreBoundAlike(t *testing.T) {
	d, c := withParts(t)
	d = with(t, c, d, &edit.Rename{ID: d.Parts[0].ID, Name: "leg_L1"})
	d = with(t, c, d, &edit.Rename{ID: d.Parts[1].ID, Name: "leg_R2"})
	d = with(t, c, d, &edit.LayChain{Positions: []mgl64.Vec3{{0, 0, 0}, {0, 1, 0}}, Pattern: "leg_L1_#"})
	bare := with(t, c, d, &edit.Bind{Parts: []string{d.Parts[0].ID}, Joints: ids(d), Blend: 1, Alike: true})
	assert.Len(t, bare.Bindings, 1, "nothing is named so yet")
	d = with(t, c, d, &edit.LayChain{Positions: []mgl64.Vec3{{1, 0, 0}, {1, 1, 0}}, Pattern: "leg_R2_#"})
	bind := &edit.Bind{Parts: []string{d.Parts[0].ID}, Joints: ids(d)[:2], Blend: 1, Alike: true}
	both := with(t, c, d, bind)
	require.Len(t, both.Bindings, 2)
	assert.Equal(t, ids(d)[2:], both.BindingOf(d.Parts[1].ID).Joints)
	assert.Contains(t, bind.Touches(d), d.Parts[1].ID)
}

func TestFacesAreFlippedAndTurnedOut(t *testing.T) {
	d, c := withParts(t)
	single := d.Parts[1].ID
	flipped := with(t, c, d, &edit.FlipFaces{Parts: []string{single}, Faces: []int{0, 5, 9}})
	assert.Equal(t, 3, flipped.Part(single).Turned)
	out := with(t, c, flipped, &edit.TurnFacesOut{Parts: []string{single}})
	assert.Zero(t, out.Part(single).Turned)
	inside := with(t, c, d, &edit.FlipFaces{Parts: []string{single}})
	assert.Positive(t, inside.Part(single).Turned)
	_, err := edit.Apply(c, d, &edit.FlipFaces{})
	require.ErrorContains(t, err, "choose the part")
}

func TestAModelIsFittedWithItsSkeleton(t *testing.T) {
	d, c := withParts(t)
	d = with(t, c, d, &edit.LayChain{Positions: []mgl64.Vec3{{0, 0, 0}, {0, 1, 0.2}}, Pattern: "s_#"})
	fitted := with(t, c, d, &edit.FitModel{Scale: 0.5, Up: "z"})
	assert.InDelta(t, 0, fitted.Joints[1].Position.Sub(mgl64.Vec3{0, 0.1, -0.5}).Len(), 1e-12)
	surface, err := c.Surfaces.Mesh(fitted.Parts[1].Mesh)
	require.NoError(t, err)
	assert.InDelta(t, -0.5, surface.Bounds().Min[2], 1e-6)
	set := with(t, c, d, &edit.FitModel{Scale: 2, Up: "y", Faces: "-x", Ground: true, Move: mgl64.Vec3{0, 0, 3}})
	box := mesh.EmptyBounds()
	for _, part := range set.Parts {
		surface, err := c.Surfaces.Mesh(part.Mesh)
		require.NoError(t, err)
		box.Add(surface.Bounds().Min)
		box.Add(surface.Bounds().Max)
	}
	assert.InDelta(t, 0, box.Min[1], 1e-6, "it stands on the ground")
	assert.InDelta(t, 0, box.Min[0]+box.Max[0], 1e-5)
	assert.InDelta(t, 6, box.Min[2]+box.Max[2], 1e-5)
	was, now := d.Joints[1].Position.Sub(d.Joints[0].Position), set.Joints[1].Position.Sub(set.Joints[0].Position)
	assert.InDelta(t, 0, now.Sub(mgl64.Vec3{2 * was[2], 2 * was[1], -2 * was[0]}).Len(), 1e-12, "what looked along -x looks along z")
	alone := with(t, c, d, &edit.FitModel{Parts: []string{d.Parts[1].ID}, Scale: 1, Up: "y", Move: mgl64.Vec3{0, 1, 0}})
	assert.Equal(t, d.Joints, alone.Joints)
	assert.Equal(t, d.Parts[0], alone.Parts[0])
	assert.NotEqual(t, d.Parts[1].Mesh, alone.Parts[1].Mesh)
	for _, e := range []*edit.FitModel{{Scale: 1, Up: "y", Faces: "y"}, {Scale: 1, Up: "y", Move: mgl64.Vec3{math.Inf(1)}}, {Scale: 0, Up: "y"}, {Scale: math.Inf(1), Up: "y"}, {Scale: 1, Up: "w"}} {
		_, err := edit.Apply(c, d, e)
		require.Error(t, err)
	}
	three := with(t, c, d, &edit.LayChain{Positions: []mgl64.Vec3{{0, 2, 0}}, Pattern: "s_3", Parent: d.Joints[1].ID})
	rigged := with(t, c, three, &edit.AddMechanism{Mechanism: "spline-chain", Name: "m", Joints: ids(three), Options: parameter.Set{"controls": parameter.OfNumber(3)}})
	_, err = edit.Apply(c, rigged, &edit.FitModel{Scale: 2, Up: "y"})
	require.ErrorContains(t, err, "the model is rigged")
}

func TestATubeIsTracedFromItsPart(t *testing.T) {
	d, c := withParts(t)
	traced := with(t, c, d, &edit.TraceTube{Part: d.Parts[1].ID, Count: 5})
	require.Len(t, traced.Joints, 5)
	for i, j := range traced.Joints {
		assert.InDelta(t, 0, j.Position.Sub(mgl64.Vec3{2, float64(i) / 4, 0}).Len(), 0.01)
	}
	assert.Equal(t, "single_01", traced.Joints[0].Name)
	_, err := edit.Apply(c, d, &edit.TraceTube{Part: d.Parts[0].ID, Count: 5})
	require.ErrorContains(t, err, "2 loose pieces")
	_, err = edit.Apply(c, d, &edit.TraceTube{Part: d.Parts[1].ID, Count: 1})
	require.ErrorContains(t, err, "2 to 1000 joints")
	part := with(t, c, d, &edit.RenameMany{IDs: []string{d.Parts[1].ID}, Search: "single", Replace: "hose"})
	named := with(t, c, with(t, c, part, &edit.TraceTube{Part: d.Parts[1].ID, Count: 3}), &edit.NameJoints{Joints: []string{traced.Joints[0].ID}, Pattern: "{part}_{side}"})
	assert.Equal(t, "hose_L", named.Joints[0].Name)
}
