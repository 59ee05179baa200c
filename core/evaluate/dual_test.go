package evaluate_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/demo"
	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/motion"
	"myriapod/core/rig"
)

// TestDualQuaternionsNearlyAgreeWithABlendThatHardlyTurns plays the eel at twice its size by both methods: with joints that turn little against each other they are nearly the same, at rest
// they are the same, and nothing is allocated.
func TestDualQuaternionsNearlyAgreeWithABlendThatHardlyTurns(t *testing.T) {
	specimen, err := demo.Find("quillwick")
	require.NoError(t, err)
	_, steps, err := specimen.Make(kinds.All())
	require.NoError(t, err)
	linear, memory := steps[len(steps)-1].Next, demo.Memory(steps)
	result, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: memory}, linear, &edit.ChangeSkin{Parts: []string{linear.Parts[0].ID}, Dual: 1})
	require.NoError(t, err)
	bodies := []*evaluate.Body{}
	for _, d := range []*rig.Document{linear, result.Document} {
		e, body, err := evaluate.Open(d, kinds.All(), memory)
		require.NoError(t, err)
		assert.LessOrEqual(t, evaluate.RestDrift(e, body).Vertices, 1e-6*body.Size())
		e.SetStill(false)
		require.NoError(t, e.SetChannel(e.Plan.ControlIndex[d.ControlNamed(rig.GlobalName).ID], rig.ScaleDial, 2))
		e.SetClip(motion.Prepare(d.Clips[0]))
		e.SetFrame(17)
		e.Evaluate()
		body.Deform(e)
		bodies = append(bodies, body)
		assert.Zero(t, testing.AllocsPerRun(5, func() { body.Deform(e) }))
	}
	apart := evaluate.GreatestDistance(bodies[0].Parts[0].Positions, bodies[1].Parts[0].Positions)
	assert.Less(t, apart, 5e-3*bodies[0].Size())
	assert.Greater(t, apart, 1e-6*bodies[0].Size(), "they are two methods")
	_, err = edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: memory}, linear, &edit.ChangeSkin{Parts: []string{linear.Parts[0].ID}, Dual: 2})
	require.ErrorContains(t, err, "not within 0 to 1")
}
