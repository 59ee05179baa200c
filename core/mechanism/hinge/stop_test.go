package hinge_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/mechanism/hinge"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// A handle that is brought past its stop and limited there has its stop there, and one that is brought less far as well; the plan tells where they are.
func TestStopsAreSetWhereTheHandleStands(t *testing.T) {
	d := rigtest.Apply(t, rig.New("x"), &edit.LayChain{Positions: []mgl64.Vec3{{0, 1, 0}, {0, 1, 1}}, Pattern: "door_#"})
	for _, c := range []struct {
		kind    string
		channel rig.Channel
		unit    float64
	}{{hinge.Name, rig.RotateY, 180 / math.Pi}, {hinge.SlideName, rig.MoveY, 1}} {
		built := rigtest.Apply(t, d, &edit.AddMechanism{Mechanism: c.kind, Name: "door", Joints: []string{d.Joints[1].ID}})
		handle := built.Mechanisms[0].Controls[0]
		set := rigtest.Apply(t, built,
			&edit.LimitHere{Controls: []string{handle}, Values: map[rig.Channel]float64{c.channel: 2.5}},
			&edit.LimitHere{Controls: []string{handle}, Values: map[rig.Channel]float64{c.channel: -0.25}})
		assert.InDelta(t, 2.5*c.unit, set.Mechanisms[0].Parameters.Number("forth"), 1e-9, c.kind)
		assert.InDelta(t, -0.25*c.unit, set.Mechanisms[0].Parameters.Number("back"), 1e-9, c.kind)
		assert.Nil(t, set.Control(handle).Channels[c.channel].Max, "the stop is the mechanism's, and no limit of the channel")
		e := rigtest.Open(t, set)
		require.Len(t, e.Plan.Stops, 1)
		stop := e.Plan.Stops[0]
		assert.Equal(t, handle, stop.Control)
		assert.InDelta(t, -0.25, stop.Low, 1e-12)
		assert.InDelta(t, 2.5, stop.High, 1e-12)
		require.NoError(t, e.SetChannel(e.Plan.ControlIndex[handle], c.channel, 9))
		e.Evaluate()
		require.Len(t, e.Findings(), 1)
	}
}
