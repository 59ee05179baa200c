package edit_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/driver"
	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/rig"
)

// shapeOf reads how far a morph target moves each vertex.
func shapeOf(t require.TestingT, memory edit.Memory, d *rig.Document, morph string) []float32 {
	part := d.Parts[0]
	at := part.Morph(morph)
	require.GreaterOrEqual(t, at, 0, morph)
	deltas, err := memory.Deltas(part.Morphs[at].Deltas, part.Vertices)
	require.NoError(t, err)
	return deltas.Positions
}

func TestMorphTargetsAreMadeOfEachOther(t *testing.T) {
	d, c := sleeve(t)
	memory := c.Surfaces.(edit.Memory)
	part := d.Parts[0].ID
	result, err := edit.Apply(c, d, &edit.AddMorph{Part: part, Name: "bulge"})
	require.NoError(t, err)
	require.NotNil(t, result.Drift, "nothing moves by it, and that is measured")
	assert.Zero(t, result.Drift.Vertices)
	d = take(t, c, memory, d, &edit.AddMorph{Part: part, Name: "bulge"})
	for _, n := range shapeOf(t, memory, d, "bulge") {
		require.Zero(t, n)
	}
	stroke := &edit.ReshapeMorph{Part: part, Morph: "bulge", Vertices: []int{100, 101}, By: [][3]float32{{0.1, 0, 0}, {0.2, 0.1, 0}}}
	d = take(t, c, memory, d, stroke)
	again := take(t, c, memory, d, stroke)
	assert.InDelta(t, 0.4, shapeOf(t, memory, again, "bulge")[303], 1e-6, "strokes add up")

	mirrored := take(t, c, memory, d, &edit.MirrorMorph{Part: part, Morph: "bulge", Name: "bulge_other"})
	unnamed := take(t, c, memory, d, &edit.MirrorMorph{Part: part, Morph: "bulge"})
	assert.Equal(t, shapeOf(t, memory, mirrored, "bulge_other"), shapeOf(t, memory, unnamed, "bulge_mirrored"))
	sided := take(t, c, memory, take(t, c, memory, d, &edit.RenameMorph{Part: part, Morph: "bulge", Name: "bulge_L"}), &edit.MirrorMorph{Part: part, Morph: "bulge_L"})
	assert.Equal(t, shapeOf(t, memory, mirrored, "bulge_other"), shapeOf(t, memory, sided, "bulge_R"))
	left, right := 0, 0
	surface, err := memory.Mesh(d.Parts[0].Mesh)
	require.NoError(t, err)
	whole, other := shapeOf(t, memory, mirrored, "bulge"), shapeOf(t, memory, mirrored, "bulge_other")
	for v := range surface.VertexCount() {
		if whole[3*v] != 0 && surface.Vertex(v)[0] > 0 {
			left++
		}
		if other[3*v] != 0 && surface.Vertex(v)[0] < 0 {
			right++
		}
	}
	assert.Equal(t, left, right)

	split := take(t, c, memory, d, &edit.SplitMorph{Part: part, Morph: "bulge", Blend: 0.1})
	require.Len(t, split.Parts[0].Morphs, 2)
	l, r := shapeOf(t, memory, split, "bulge_L"), shapeOf(t, memory, split, "bulge_R")
	for i := range whole {
		assert.InDelta(t, whole[i], l[i]+r[i], 1e-7)
	}

	renamed := take(t, c, memory, d, &edit.AddMorph{Part: part, Name: "smile"})
	renamed = take(t, c, memory, renamed, &edit.AddMorph{Part: part, Name: "both", Corrects: []string{"bulge", "smile"}})
	renamed = take(t, c, memory, renamed, &edit.RenameMorph{Part: part, Morph: "bulge", Name: "swell"})
	require.Len(t, renamed.Drivers, 1)
	assert.Equal(t, driver.FormulaKind, renamed.Drivers[0].Kind)
	assert.Equal(t, []rig.Address{{Of: part, Key: "swell"}, {Of: part, Key: "smile"}}, renamed.Drivers[0].By, "what hangs on it stays with it")
	e, _, err := evaluate.Open(renamed, kinds.All(), memory)
	require.NoError(t, err)
	require.NoError(t, e.SetMorph(part, "swell", 0.5))
	require.NoError(t, e.SetMorph(part, "smile", 0.8))
	e.Evaluate()
	slot, _ := e.Plan.Layout.Find(rig.Address{Of: part, Key: "both"})
	assert.InDelta(t, 0.4, e.Frame.Values[slot], 1e-12, "as much as both are at once")
	refuseIn(t, c, renamed, &edit.RemoveMorph{Part: part, Morph: "smile"}, "free that first")
	gone := take(t, c, memory, renamed, &edit.RemoveMorph{Part: part, Morph: "both"})
	assert.Empty(t, gone.Drivers)
	assert.Len(t, gone.Parts[0].Morphs, 2)
}

func TestAMorphTargetIsTakenFromASecondModel(t *testing.T) {
	d, c := sleeve(t)
	memory := c.Surfaces.(edit.Memory)
	surface, err := memory.Mesh(d.Parts[0].Mesh)
	require.NoError(t, err)
	moved := *surface
	moved.Positions = slices.Clone(surface.Positions)
	moved.Positions[300] += 0.5
	data := moved.Encode()
	memory[edit.Hash(data)] = data
	few := *surface
	few.Triangles = few.Triangles[:300]
	other := few.Encode()
	memory[edit.Hash(other)] = other
	d = take(t, c, memory, d, &edit.AddParts{From: "y", Parts: []edit.NewPart{
		{Name: "second", Mesh: edit.Hash(data), Vertices: moved.VertexCount(), Colour: "#888888"}, {Name: "torn", Mesh: edit.Hash(other), Vertices: few.VertexCount(), Colour: "#888888"},
	}})
	made := take(t, c, memory, d, &edit.AddMorph{Part: d.Parts[0].ID, Name: "taken", Second: d.Parts[1].ID})
	by := shapeOf(t, memory, made, "taken")
	assert.InDelta(t, 0.5, by[300], 1e-6)
	by[300] = 0
	for _, n := range by {
		require.Zero(t, n)
	}
	refuseIn(t, c, d, &edit.AddMorph{Part: d.Parts[0].ID, Name: "taken", Second: d.Parts[2].ID}, "leave its faces as they are")
	refuseIn(t, c, d, &edit.AddMorph{Part: d.Parts[0].ID, Name: "taken", Second: d.Parts[0].ID}, "no second model of itself")
	refuseIn(t, c, made, &edit.AddMorph{Part: d.Parts[0].ID, Name: "taken"}, "choose another name")
	refuseIn(t, c, made, &edit.AddMorph{Part: d.Parts[0].ID, Name: "one", Corrects: []string{"taken"}}, "two morph targets or more")
	refuseIn(t, c, made, &edit.AddMorph{Part: d.Parts[0].ID, Name: "one", Corrects: []string{"taken", "unmade"}}, "no morph target")
	refuseIn(t, c, made, &edit.ReshapeMorph{Part: d.Parts[0].ID, Morph: "taken"}, "take hold")
	refuseIn(t, c, made, &edit.ReshapeMorph{Part: d.Parts[0].ID, Morph: "taken", Vertices: []int{1e7}, By: [][3]float32{{}}}, "no vertex")
	refuseIn(t, c, made, &edit.SplitMorph{Part: d.Parts[0].ID, Morph: "taken", Blend: -1}, "within 0 metres")
	refuseIn(t, c, made, &edit.CloseRims{Part: d.Parts[0].ID, Morph: "taken", One: []int{1, 2, 3}, Other: []int{3, 4, 5}}, "in both rims")
	refuseIn(t, c, made, &edit.RenameMorph{Part: d.Parts[0].ID, Morph: "taken", Name: ""}, "name")
}

// TestRimsOfASleeveMeet closes two rings of a tube onto each other.
func TestRimsOfASleeveMeet(t *testing.T) {
	d, c := sleeve(t)
	memory := c.Surfaces.(edit.Memory)
	part := d.Parts[0].ID
	d = take(t, c, memory, d, &edit.AddMorph{Part: part, Name: "shut"})
	one, other := []int{}, []int{}
	for k := range 10 { // half of two rings
		one, other = append(one, 20*10+k), append(other, 20*14+k)
	}
	told := []string{}
	c.Tell = func(text string) { told = append(told, text) }
	d = take(t, c, memory, d, &edit.CloseRims{Part: part, Morph: "shut", One: one, Other: other, Share: 0.25, Reach: 0.05})
	require.Len(t, told, 1)
	surface, err := memory.Mesh(d.Parts[0].Mesh)
	require.NoError(t, err)
	by := shapeOf(t, memory, d, "shut")
	for k := range one {
		a, b := surface.Vertex(one[k]), surface.Vertex(other[k])
		for axis := range 3 {
			assert.InDelta(t, a[axis]+float64(by[3*one[k]+axis]), b[axis]+float64(by[3*other[k]+axis]), 1e-5)
		}
	}
}
