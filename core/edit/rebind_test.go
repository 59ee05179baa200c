package edit_test

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mesh"
	"myriapod/core/rig"
	"myriapod/core/skin"
)

func weightsIn(t require.TestingT, memory edit.Memory, d *rig.Document) (*rig.Binding, *skin.Weights) {
	b := d.BindingOf(d.Parts[0].ID)
	w, err := memory.Weights(b.Weights, len(b.Joints))
	require.NoError(t, err)
	return b, w
}

// boundSleeve is a sleeve bound to its joints by heat.
func boundSleeve(t require.TestingT) (d *rig.Document, c *edit.Context, memory edit.Memory, part string, joints []string) {
	d, c = sleeve(t)
	memory, part = c.Surfaces.(edit.Memory), d.Parts[0].ID
	for _, j := range d.Joints {
		joints = append(joints, j.ID)
	}
	return take(t, c, memory, d, &edit.Bind{Parts: []string{part}, Joints: joints, Method: "heat"}), c, memory, part, joints
}

// TestWhatWasPaintedOutlivesANewBinding paints, lays another joint into the chain, and binds anew: what was painted stays to the vertex, the rest is as the method has it.
func TestWhatWasPaintedOutlivesANewBinding(t *testing.T) {
	d, c, memory, part, joints := boundSleeve(t)
	_, plain := weightsIn(t, memory, d)
	d = take(t, c, memory, d, &edit.PaintWeights{Part: part, Joint: joints[3], Brush: skin.Brush{Stroke: skin.More, Reach: 0.4, Strength: 0.8}, Dabs: []mesh.Spot{{Face: 600, Shares: [3]float64{1, 0, 0}}}})
	_, painted := weightsIn(t, memory, d)
	changed := skin.Unlike(painted, plain, 1e-3)
	require.NotEmpty(t, changed)

	d = take(t, c, memory, d, &edit.InsertJoint{Before: joints[2]})
	all := []string{}
	for _, j := range d.Joints {
		all = append(all, j.ID)
	}
	again := take(t, c, memory, d, &edit.Bind{Parts: []string{part}, Joints: all, Method: "heat"})
	_, bare := weightsIn(t, memory, again)
	kept := take(t, c, memory, d, &edit.Bind{Parts: []string{part}, Joints: all, Method: "heat", Keep: true})
	binding, w := weightsIn(t, memory, kept)
	place := map[string]int{}
	for i, id := range binding.Joints {
		place[id] = i
	}
	isPainted := map[int]bool{}
	for _, v := range changed {
		isPainted[v] = true
		for i, joint := range joints {
			assert.InDelta(t, painted.Of(v, i), w.Of(v, place[joint]), 1e-6)
		}
	}
	for v := range w.VertexCount() {
		if !isPainted[v] {
			require.LessOrEqual(t, w.Apart(bare, v), 1e-6)
		}
	}
	require.NotNil(t, binding.Last)

	// Between the new binding and the last: the skin of a mix is the mix of both skins.
	half := take(t, c, memory, again, &edit.MixBindings{Part: part, Share: 0.5})
	posed := func(d *rig.Document) []float32 {
		e, body, err := evaluate.Open(d, kinds.All(), memory)
		require.NoError(t, err)
		e.Evaluate()
		body.Deform(e)
		return body.Parts[0].Positions
	}
	a, m := posed(again), posed(half)
	for i := range a {
		require.InDelta(t, a[i], m[i], 1e-5, "at rest nothing moves")
	}
	refuseIn(t, c, again, &edit.MixBindings{Part: part, Share: 2}, "between 0 and 1")
	first := take(t, c, memory, d, &edit.Unbind{Parts: []string{part}})
	first = take(t, c, memory, first, &edit.Bind{Parts: []string{part}, Joints: all, Method: "nearest"})
	refuseIn(t, c, first, &edit.MixBindings{Part: part, Share: 0.5}, "was not bound before")
}

func TestWeightsGoThroughATableAndBack(t *testing.T) {
	d, c, memory, part, _ := boundSleeve(t)
	binding, w := weightsIn(t, memory, d)
	var table bytes.Buffer
	require.NoError(t, edit.WeightsTable(c, d, part, &table))
	bare := take(t, c, memory, d, &edit.Unbind{Parts: []string{part}})
	back := take(t, c, memory, bare, &edit.LoadWeights{Part: part, Table: table.String()})
	now, read := weightsIn(t, memory, back)
	for v := range w.VertexCount() {
		for i, joint := range now.Joints {
			for k, other := range binding.Joints {
				if joint == other {
					require.InDelta(t, w.Of(v, k), read.Of(v, i), 1e-6)
				}
			}
		}
	}
	lines := strings.SplitAfter(table.String(), "\n")
	for want, text := range map[string]string{
		"vertex 0 has no line": lines[0],
		"no joint called":      "0,nobody,1\n",
		"no vertex":            "99999,arm_L_1,1\n",
		"no weight from 0":     "0,arm_L_1,2\n",
		"no weight":            "0,arm_L_1,NaN\n",
		"cannot be read":       "0,arm_L_1\n",
	} {
		refuseIn(t, c, d, &edit.LoadWeights{Part: part, Table: text}, want)
	}
}

func TestWeightsAreFilledLimitedAndCopied(t *testing.T) {
	d, c, memory, part, joints := boundSleeve(t)
	filled := take(t, c, memory, d, &edit.FillWeights{Part: part, Joint: joints[0], Vertices: []int{5, 400}, Brush: skin.Brush{Stroke: skin.Towards, Strength: 1, Value: 0.25}})
	_, w := weightsIn(t, memory, filled)
	assert.InDelta(t, 0.25, w.Of(5, 0), 1e-6)
	assert.InDelta(t, 0.25, w.Of(400, 0), 1e-6)
	require.NoError(t, w.Validate(4))
	whole := take(t, c, memory, d, &edit.FillWeights{Part: part, Joint: joints[1], Brush: skin.Brush{Stroke: skin.Towards, Strength: 1, Value: 1}})
	_, w = weightsIn(t, memory, whole)
	for v := range w.VertexCount() {
		require.InDelta(t, 1, w.Of(v, 1), 1e-6)
	}
	refuseIn(t, c, whole, &edit.FillWeights{Part: part, Joint: joints[1], Brush: skin.Brush{Stroke: skin.More, Strength: 1}}, "nothing changes")
	refuseIn(t, c, d, &edit.FillWeights{Part: part, Joint: joints[1], Vertices: []int{-1}, Brush: skin.Brush{Stroke: skin.More, Strength: 1}}, "no vertex")
	limited := take(t, c, memory, d, &edit.LimitWeights{Parts: []string{part}, Most: 1})
	_, w = weightsIn(t, memory, limited)
	for v := range w.VertexCount() {
		require.Equal(t, float32(1), w.Values[4*v])
	}
	refuseIn(t, c, limited, &edit.LimitWeights{Parts: []string{part}, Most: 1}, "all stay")
	refuseIn(t, c, d, &edit.LimitWeights{Parts: []string{part}, Most: 9}, "1 to 4")

	twin := take(t, c, memory, d, &edit.AddParts{From: "y", Parts: []edit.NewPart{{Name: "cuff", Mesh: d.Parts[0].Mesh, Vertices: d.Parts[0].Vertices, Colour: "#888888"}}})
	for _, byOrder := range []bool{true, false} {
		copied := take(t, c, memory, twin, &edit.CopyWeights{From: part, To: []string{twin.Parts[1].ID}, ByOrder: byOrder})
		_, from := weightsIn(t, memory, copied)
		to, err := memory.Weights(copied.BindingOf(twin.Parts[1].ID).Weights, 4)
		require.NoError(t, err)
		assert.Empty(t, skin.Unlike(from, to, 1e-5))
	}
	refuseIn(t, c, twin, &edit.CopyWeights{From: part, To: []string{part}}, "its own weights already")
	refuseIn(t, c, twin, &edit.CopyWeights{From: part}, "no part to copy to")
	refuseIn(t, c, twin, &edit.CopyWeights{From: twin.Parts[1].ID, To: []string{part}}, "bind it first")
}
