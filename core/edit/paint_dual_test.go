package edit_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/interchange/rigfile"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mesh"
	"myriapod/core/rig"
	"myriapod/core/skin"
)

// TestDualQuaternionsHoldWhereTheyArePainted paints half of a twisted sleeve: where nothing was painted it is as the linear blend has it, where all was as dual quaternions have it, and a rig file keeps it.
func TestDualQuaternionsHoldWhereTheyArePainted(t *testing.T) {
	d, c := sleeve(t)
	memory := c.Surfaces.(edit.Memory)
	part, joints := d.Parts[0].ID, []string{}
	for _, j := range d.Joints {
		joints = append(joints, j.ID)
	}
	d = take(t, c, memory, d, &edit.AddMechanism{Mechanism: "fk-chain", Name: "arm", Joints: joints})
	d = take(t, c, memory, d, &edit.Bind{Parts: []string{part}, Joints: joints, Method: "heat"})
	dual := take(t, c, memory, d, &edit.ChangeSkin{Parts: []string{part}, Dual: 1})
	dabs := []mesh.Spot{}
	for range 6 {
		for face := 600; face < 640; face += 4 {
			dabs = append(dabs, mesh.Spot{Face: face, Shares: [3]float64{1, 0, 0}})
		}
	}
	stroke := &edit.PaintDual{Part: part, Brush: skin.Brush{Stroke: skin.More, Reach: 0.5, Strength: 1}, Dabs: dabs}
	painted := take(t, c, memory, d, stroke)
	assert.Equal(t, 1.0, painted.Bindings[0].Dual)
	shares, err := skin.DecodeShares(memory[painted.Bindings[0].DualBy], d.Parts[0].Vertices)
	require.NoError(t, err)
	posed := func(d *rig.Document, memory edit.Memory) []float32 {
		e, body, err := evaluate.Open(d, kinds.All(), memory)
		require.NoError(t, err)
		for i := range e.Plan.Document.Controls {
			if i > 1 {
				require.NoError(t, e.SetChannel(i, rig.RotateY, 0.8))
			}
		}
		e.Evaluate()
		body.Deform(e)
		return body.Parts[0].Positions
	}
	linear, whole, mixed := posed(d, memory), posed(dual, memory), posed(painted, memory)
	none, all, apart := 0, 0, 0.0
	for v, share := range shares {
		for k := 3 * v; k < 3*v+3; k++ {
			apart = math.Max(apart, math.Abs(float64(linear[k]-whole[k])))
			require.InDelta(t, linear[k]+share*(whole[k]-linear[k]), mixed[k], 1e-5)
		}
		if share == 0 {
			none++
		}
		if share > 0.99 {
			all++
		}
	}
	require.Greater(t, apart, 0.01, "they are two methods")
	require.Greater(t, none, 50)
	require.Greater(t, all, 50)
	written, err := rigfile.Write(painted, memory)
	require.NoError(t, err)
	back, backMemory, err := rigfile.Read(written, kinds.All())
	require.NoError(t, err)
	assert.Equal(t, mixed, posed(back, edit.Memory(backMemory)))

	refuseIn(t, c, painted, &edit.PaintDual{Part: part, Brush: stroke.Brush}, "1 to 5000 dabs")
	refuseIn(t, c, painted, &edit.PaintDual{Part: part, Brush: stroke.Brush, Dabs: dabs[:1], Presses: []float64{2}}, "presses 0 to 1")
	refuseIn(t, c, d, &edit.PaintDual{Part: part, Brush: skin.Brush{Stroke: skin.Less, Reach: 0.5, Strength: 1}, Dabs: dabs[:1]}, "changes nothing")
	bare := take(t, c, memory, d, &edit.Unbind{Parts: []string{part}})
	refuseIn(t, c, bare, stroke, "bind it first")
	_, err = skin.DecodeShares([]byte("MYS1\x01\x00\x00\x00\x00\x00\x80\x40"), 1)
	require.ErrorContains(t, err, "not within 0 to 1")
}
