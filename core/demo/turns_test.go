package demo

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/motion"
	"myriapod/core/rig"
)

// TestAnotherRateMovesNoFin changes the rate of Quillwick's paddling in the middle of its clip: no fin moves then, nor do the mirrored copies of it.
func TestAnotherRateMovesNoFin(t *testing.T) {
	specimen, err := Find("quillwick")
	require.NoError(t, err)
	_, steps, err := specimen.Make(kinds.All())
	require.NoError(t, err)
	d := steps[len(steps)-1].Next
	const seconds = 1.7
	places := func(d *rig.Document, at float64) map[string]float64 {
		e, _, err := evaluate.Open(d, kinds.All(), Memory(steps))
		require.NoError(t, err)
		e.SetClip(motion.Prepare(d.Clips[0]))
		e.SetTime(at)
		e.Evaluate()
		found := map[string]float64{}
		for i, c := range e.Plan.Document.Controls {
			found[c.Name] = e.Frame.Channel(i, rig.RotateX)
		}
		return found
	}
	root := d.ControlNamed(rig.RootName)
	dial := *root.Dial("paddle_rate")
	dial.Default = 4.3
	result, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: Memory(steps)}, d, &edit.ChangeDial{Control: root.ID, Name: dial.Name, Dial: dial, Time: seconds, Clip: d.Clips[0].ID})
	require.NoError(t, err)
	before, after := places(d, seconds), places(result.Document, seconds)
	later, faster := places(d, seconds+0.1), places(result.Document, seconds+0.1)
	for _, name := range []string{"fin_L_fan_fk_1", "fin_L_fan_fk_3", "fin_R_fan_fk_1", "fin_R_fan_fk_3"} {
		require.Contains(t, before, name)
		assert.InDelta(t, before[name], after[name], 1e-9, name)
		assert.NotEqual(t, later[name], faster[name], "and then it goes faster")
	}
}
