// Package rigtest is what tests of the core begin with: edits applied to documents without a model, and documents opened at rest.
package rigtest

import (
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/rig"
)

// Still is how far, in metres and radians, anything may move at rest by an edit that builds.
const Still = 1e-9

// Context is a context of edits with all kinds and no heavy data.
func Context() *edit.Context { return &edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}} }

// Apply applies edits one after the other. None may be refused, and nothing may move by those that build.
func Apply(t require.TestingT, d *rig.Document, edits ...edit.Edit) *rig.Document {
	for _, e := range edits {
		result, err := edit.Apply(Context(), d, e)
		require.NoError(t, err, edit.KindOf(e))
		if result.Drift != nil {
			require.LessOrEqual(t, max(result.Drift.Joints, result.Drift.Turns), Still, "nothing moves by %s", edit.KindOf(e))
		}
		d = result.Document
	}
	return d
}

// Refuse applies an edit that must be refused with the words given.
func Refuse(t require.TestingT, d *rig.Document, e edit.Edit, want string) {
	_, err := edit.Apply(Context(), d, e)
	require.ErrorContains(t, err, want)
}

// Open opens a document and evaluates it at rest.
func Open(t require.TestingT, d *rig.Document) *evaluate.Evaluator {
	e, _, err := evaluate.Open(d, kinds.All(), edit.Memory{})
	require.NoError(t, err)
	e.Evaluate()
	return e
}
