package kinds_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/fkover"
	"myriapod/core/mechanism/limb"
	"myriapod/core/mechanism/splinechain"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// sweep takes one channel from one value to another in many steps and returns the greatest turn, and the greatest way as a share of the size, that any joint
// goes in a step, and whether the finding was raised.
func sweep(t *testing.T, e *evaluate.Evaluator, control string, channel rig.Channel, from, to float64) (turn, way float64, told bool) {
	const steps = 4000
	index := e.Plan.ControlIndex[e.Plan.Document.ControlNamed(control).ID]
	p := &path{e: e, size: sizeOf(e.Plan.Document)}
	var before look
	for i := range steps + 1 {
		require.NoError(t, e.SetChannel(index, channel, from+(to-from)*float64(i)/steps))
		e.Evaluate()
		now := look{joints: append(before.joints[:0:0], e.Frame.Joints...)}
		if i > 0 {
			moves, turns, _ := p.step(before, now)
			turn, way = math.Max(turn, turns), math.Max(way, moves)
		}
		before = now
		told = told || len(e.Findings()) > 0
	}
	return turn, way, told
}

// Right through the lines where a rule of the thumb turns over, nothing does.
func TestRightThroughWhatUsedToTurnOver(t *testing.T) {
	lay := func(places ...mgl64.Vec3) (*rig.Document, []string) {
		d, _ := apply(t, rig.New("x"), &edit.LayChain{Positions: places, Pattern: "j_#"})
		ids := []string{}
		for _, j := range d.Joints {
			ids = append(ids, j.ID)
		}
		return d, ids
	}
	t.Run("a pole through the line of its limb", func(t *testing.T) {
		d, ids := lay(mgl64.Vec3{0, 1, 0}, mgl64.Vec3{0, 0.5, 0.1}, mgl64.Vec3{0, 0, 0})
		d, _ = apply(t, d, &edit.AddMechanism{Mechanism: limb.Name, Name: "leg", Joints: ids})
		e := open(t, d)
		pole := d.ControlNamed("leg_pole")
		require.NoError(t, e.SetChannel(e.Plan.ControlIndex[pole.ID], rig.MoveZ, -pole.Position[2]))
		turn, _, told := sweep(t, e, "leg_pole", rig.MoveX, -0.3, 0.3)
		assert.Less(t, turn, 0.02)
		assert.True(t, told, "near the line the body says which way it bends")
	})
	t.Run("a pole through the line in the very plane of its limb", func(t *testing.T) {
		d, ids := lay(mgl64.Vec3{0, 1, 0}, mgl64.Vec3{0, 0.5, 0.1}, mgl64.Vec3{0, 0, 0})
		d, _ = apply(t, d, &edit.AddMechanism{Mechanism: limb.Name, Name: "leg", Joints: ids})
		z := d.ControlNamed("leg_pole").Position[2]
		turn, _, told := sweep(t, open(t, d), "leg_pole", rig.MoveZ, -0.9*z, -1.1*z)
		assert.Less(t, turn, 0.02, "the knee goes round, not over")
		assert.True(t, told)
	})
	t.Run("a pole that rests near the line, out to where it alone says", func(t *testing.T) {
		d, ids := lay(mgl64.Vec3{0, 1, 0}, mgl64.Vec3{0.02, 0.5, 0.1}, mgl64.Vec3{0, 0, 0})
		d, _ = apply(t, d, &edit.AddMechanism{Mechanism: limb.Name, Name: "leg", Joints: ids})
		pole := *d.ControlNamed("leg_pole")
		pole.Position = mgl64.Vec3{0, 0.5, 0.02}
		for i := range d.Controls {
			if d.Controls[i].ID == pole.ID {
				d.Controls[i].Position = pole.Position
			}
		}
		e := open(t, d)
		e.Evaluate()
		assert.True(t, e.Frame.Joints[1].Position.ApproxEqualThreshold(d.Joints[1].Position, 1e-12), "at rest it rests")
		turn, _, _ := sweep(t, e, "leg_pole", rig.MoveZ, 0, 0.3)
		assert.Less(t, turn, 0.01)
	})
	t.Run("a target past a pinned knee", func(t *testing.T) {
		d, ids := lay(mgl64.Vec3{0, 0, 0}, mgl64.Vec3{0, -1, 0.2}, mgl64.Vec3{0, -1.8, -0.4}, mgl64.Vec3{0, -2.4, -0.1}, mgl64.Vec3{0, -3, 0.2})
		d, _ = apply(t, d, &edit.AddMechanism{Mechanism: limb.Name, Name: "leg", Joints: ids, Parameters: parameter.Set{"pin": parameter.OfNumber(1)}})
		turn, way, _ := sweep(t, open(t, d), "leg_target", rig.MoveY, -2, 2)
		assert.Less(t, turn, 0.1)
		assert.Less(t, way, 0.02)
	})
	t.Run("what carries the controls of a chain turned through many turns", func(t *testing.T) {
		places := make([]mgl64.Vec3, 12)
		for i := range places {
			places[i] = mgl64.Vec3{0.3 * math.Sin(float64(i)/4), 0.1 * float64(i), 0}
		}
		d, ids := lay(places...)
		d, _ = apply(t, d, &edit.AddMechanism{Mechanism: splinechain.Name, Name: "tail", Joints: ids})
		d, _ = apply(t, d, &edit.AddMechanism{Mechanism: fkover.Name, Name: "over", Host: d.Mechanisms[0].ID})
		for _, carrier := range []string{"over_1", "over_2", "over_4", "root"} {
			turn, _, told := sweep(t, open(t, d), carrier, rig.RotateY, -4*math.Pi, 4*math.Pi)
			assert.Less(t, turn, 3*8*math.Pi/4000, carrier)
			assert.False(t, told, carrier)
		}
		e := open(t, d)
		require.NoError(t, e.SetChannel(e.Plan.ControlIndex[d.ControlNamed("over_4").ID], rig.RotateY, 4*math.Pi))
		e.Evaluate()
		assert.InDelta(t, 4*math.Pi, e.Frame.Joints[11].Turned, 1e-9, "two whole turns are handed on to the last joint")
		assert.InDelta(t, 0, e.Frame.Joints[0].Turned, 1e-9)
	})
	t.Run("an end bent through half a turn", func(t *testing.T) {
		places := make([]mgl64.Vec3, 12)
		for i := range places {
			places[i] = mgl64.Vec3{0, 0.1 * float64(i), 0.02 * float64(i%2)}
		}
		d, ids := lay(places...)
		d, _ = apply(t, d, &edit.AddMechanism{Mechanism: splinechain.Name, Name: "tail", Joints: ids})
		for _, channel := range []rig.Channel{rig.RotateX, rig.RotateY} { // in the plane it lies in, and about itself
			turn, _, told := sweep(t, open(t, d), "tail_ctl_5", channel, -2*math.Pi, 2*math.Pi)
			assert.Less(t, turn, 0.1, channel)
			assert.False(t, told, channel)
		}
	})
}
