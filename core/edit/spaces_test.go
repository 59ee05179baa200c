package edit_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/rig"
)

// A control that hangs on another goes where that one goes, and stands where it stood at rest.
func TestControlsHangElsewhereWithoutMoving(t *testing.T) {
	d := worm(t)
	root, first, last := d.ControlNamed("root"), d.Controls[2], d.Controls[len(d.Controls)-1]
	result, err := edit.Apply(context(), d, &edit.HangControls{Controls: []string{last.ID}, Space: first.ID})
	require.NoError(t, err)
	require.NotNil(t, result.Drift)
	assert.Less(t, result.Drift.Joints, 1e-9)
	hung := result.Document
	assert.Equal(t, last.Position, hung.Control(last.ID).Position)
	e, _, err := evaluate.Open(hung, kinds.All(), edit.Memory{})
	require.NoError(t, err)
	require.NoError(t, e.SetChannel(e.Plan.ControlIndex[first.ID], rig.MoveX, 2))
	e.Evaluate()
	at := e.Frame.Controls[e.Plan.ControlIndex[last.ID]].Position
	assert.InDelta(t, 2, at.Sub(last.Position).Len(), 1e-9, "it goes along")
	free := apply(t, hung, &edit.HangControls{Controls: []string{first.ID, last.ID}})
	assert.Empty(t, free.Control(last.ID).Space)
	e, _, err = evaluate.Open(free, kinds.All(), edit.Memory{})
	require.NoError(t, err)
	require.NoError(t, e.SetChannel(e.Plan.ControlIndex[root.ID], rig.MoveX, 2))
	e.Evaluate()
	at = e.Frame.Controls[e.Plan.ControlIndex[last.ID]].Position
	assert.InDelta(t, 0, at.Sub(last.Position).Len(), 1e-9, "the world does not go along")
}

func TestSpacesThatLoopAreRefusedByName(t *testing.T) {
	d := worm(t)
	first, last := d.Controls[2], d.Controls[len(d.Controls)-1]
	hang := func(space string, controls ...string) *edit.HangControls {
		return &edit.HangControls{Controls: controls, Space: space}
	}
	refuse(t, d, hang(first.ID), "no control is chosen")
	refuse(t, d, hang(first.ID, first.ID), "cannot hang on itself")
	refuse(t, d, hang("gone", first.ID), "gone")
	refuse(t, d, hang(first.ID, "gone"), "gone")
	d = apply(t, d, hang(first.ID, last.ID))
	refuse(t, d, hang(last.ID, first.ID), first.Name)
	refuse(t, d, hang(d.Joints[2].ID, first.ID), "in a loop") // into the chain that it carries
}

func TestKeysOfControlsThatHangElsewhereAreTold(t *testing.T) {
	d := worm(t)
	first, last := d.Controls[2], d.Controls[len(d.Controls)-1]
	key := func(channel rig.Channel) *edit.SetKeys {
		return &edit.SetKeys{Clip: d.Clips[0].ID, Keys: []edit.KeyValue{{KeyPlace: edit.KeyPlace{Control: last.ID, Channel: channel, Frame: 3}, Value: 1, Ease: rig.Smooth}}}
	}
	keyed := apply(t, d, key(rig.RotateX))
	c, told := context(), []string{}
	c.Tell = func(text string) { told = append(told, text) }
	_, err := edit.Apply(c, keyed, &edit.HangControls{Controls: []string{last.ID}, Space: first.ID})
	require.NoError(t, err)
	assert.Equal(t, []string{"The keys of " + last.Name + " in creep keep their numbers; they now count from " + first.Name + "."}, told)
	order := &edit.OrderControls{Controls: []string{last.ID}, Order: "ZXY"}
	assert.Equal(t, order.Order, apply(t, keyed, order).Control(last.ID).Order, "about one axis every order is the same")
	refuse(t, apply(t, keyed, key(rig.RotateZ)), order, "about several axes")
	refuse(t, d, &edit.OrderControls{Controls: []string{last.ID}, Order: "XXY"}, "order")
	assert.Equal(t, "Rotate "+last.Name+" in the order ZXY", order.Title(d))
	assert.Equal(t, "Hang "+last.Name+" on the world", (&edit.HangControls{Controls: []string{last.ID}}).Title(d))
}
