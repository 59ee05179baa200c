package prop_test

import (
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/fkchain"
	"myriapod/core/mechanism/prop"
	"myriapod/core/motion"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// bearer is an arm of FK, a hook beside it, and a cup that arm, hook and world can hold.
func bearer(t require.TestingT) *rig.Document {
	d := rigtest.Apply(t, rig.New("x"),
		&edit.LayChain{Positions: []mgl64.Vec3{{0, 1, 0}, {0, 1.5, 0.2}, {0.2, 1.9, 0.5}}, Pattern: "arm_#"},
		&edit.LayChain{Positions: []mgl64.Vec3{{1, 1, 0}}, Pattern: "hook"}, &edit.LayChain{Positions: []mgl64.Vec3{{0.25, 2, 0.55}}, Pattern: "cup"})
	ids := []string{d.Joints[0].ID, d.Joints[1].ID, d.Joints[2].ID}
	d = rigtest.Apply(t, d, &edit.AddMechanism{Mechanism: fkchain.Name, Name: "arm", Joints: ids})
	d = rigtest.Apply(t, d, &edit.AddMechanism{Mechanism: fkchain.Name, Name: "hooked", Joints: []string{d.Joints[3].ID}})
	d = rigtest.Apply(t, d, &edit.AddMechanism{Mechanism: prop.Name, Name: "held", Roles: map[string][]string{"prop": {d.Joints[4].ID}, "holders": {d.Joints[2].ID, d.Joints[3].ID}}})
	return rigtest.Apply(t, d, &edit.AddClip{Name: "serve", End: 100})
}

func key(d *rig.Document, control string, channel rig.Channel, ease rig.Ease, keys ...[2]float64) *edit.SetKeys {
	set := &edit.SetKeys{Clip: d.Clips[0].ID}
	for _, k := range keys {
		set.Keys = append(set.Keys, edit.KeyValue{KeyPlace: edit.KeyPlace{Control: control, Channel: channel, Frame: k[0]}, Value: k[1], Ease: ease})
	}
	return set
}

func open(t require.TestingT, d *rig.Document) *evaluate.Evaluator {
	e := rigtest.Open(t, d)
	e.SetClip(motion.Prepare(d.Clips[0]))
	return e
}

// At every change the cup is where it was just before, whatever is keyed of arm and hook and whenever; between changes it goes with who holds it, or stands in the world.
func TestAPropChangesHandsWithoutAJump(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := bearer(t)
		handle := d.Mechanisms[2].Controls[0]
		d = rigtest.Apply(t, d, key(d, handle, prop.HolderDial, rig.Stepped, [2]float64{0, 0}, [2]float64{20, 1}, [2]float64{45, 2}, [2]float64{61.5, 0}, [2]float64{80, 1}))
		for i, control := range []string{d.Mechanisms[0].Controls[0], d.Mechanisms[0].Controls[1], d.Mechanisms[1].Controls[0]} {
			for _, channel := range []rig.Channel{rig.RotateX, rig.RotateZ, rig.MoveY} {
				draw := func() float64 { return rapid.Float64Range(-1, 1).Draw(t, "key") }
				d = rigtest.Apply(t, d, key(d, control, channel, rig.Smooth, [2]float64{0, draw()}, [2]float64{30 + float64(i), draw()}, [2]float64{100, draw()}))
			}
		}
		e := open(t, d)
		cup := func(frame float64) mgl64.Vec3 {
			e.SetFrame(frame)
			e.Evaluate()
			return e.Frame.Joints[4].Apply(mgl64.Vec3{0.1, 0.2, 0.3})
		}
		for _, change := range []float64{20, 45, 61.5, 80} {
			before, after := cup(change-1e-9), cup(change)
			assert.InDelta(t, 0, after.Sub(before).Len(), 1e-7, "at %g", change)
		}
		assert.Equal(t, cup(46), cup(61), "set down it stands")
		e.SetFrame(30)
		e.Evaluate()
		in := e.Frame.Joints[3].Inverse().Then(e.Frame.Joints[4])
		e.SetFrame(40)
		e.Evaluate()
		assert.InDelta(t, 0, e.Frame.Joints[3].Inverse().Then(e.Frame.Joints[4]).Position.Sub(in.Position).Len(), 1e-12, "it lies in the hook as it did")
		assert.Empty(t, e.Findings())
	})
}

// A number that goes evenly from one holder to another hands over half way; keys of the arm before a change move the cup, and make no jump; without a clip it is told.
func TestWhereItChangesHands(t *testing.T) {
	d := bearer(t)
	handle := d.Mechanisms[2].Controls[0]
	d = rigtest.Apply(t, d, key(d, handle, prop.HolderDial, rig.Linear, [2]float64{10, 0}, [2]float64{50, 2}),
		key(d, d.Mechanisms[0].Controls[1], rig.RotateX, rig.Smooth, [2]float64{0, 0}, [2]float64{40, 1.2}))
	e := open(t, d)
	held := e.Frame.Held[0]
	require.Len(t, held, 3)
	fps := d.FPS
	assert.InDelta(t, 20, held[1].From*fps, 1e-6)
	assert.InDelta(t, 40, held[2].From*fps, 1e-6)
	e.SetClip(nil)
	require.NoError(t, e.SetChannel(e.Plan.ControlIndex[handle], prop.HolderDial, 0.4995))
	e.Evaluate()
	require.Len(t, e.Findings(), 1)
	assert.Contains(t, e.Findings()[0].Text, "changes hands with a jump")
	rigtest.Refuse(t, d, &edit.DeleteJoints{Joints: []string{d.Joints[3].ID}}, "hook is moved by hooked")
	lone := rigtest.Apply(t, d, &edit.RemoveMechanism{Mechanism: d.Mechanisms[1].ID})
	rigtest.Refuse(t, lone, &edit.DeleteJoints{Joints: []string{lone.Joints[3].ID}}, "held looks at hook; remove that mechanism first")
}

// The handle of what is held is shown at it and moves it, on top of who holds it.
func TestAHandleOnTopOfTheHolder(t *testing.T) {
	d := bearer(t)
	e := rigtest.Open(t, d)
	handle := e.Plan.ControlIndex[d.Mechanisms[2].Controls[0]]
	require.NoError(t, e.SetChannel(e.Plan.ControlIndex[d.Mechanisms[0].Controls[1]], rig.RotateX, 0.8))
	e.Evaluate()
	assert.InDelta(t, 0, e.ControlAt(handle).Position.Sub(e.Frame.Joints[4].Position).Len(), 1e-12)
	to := e.Frame.Joints[4].Position.Add(mgl64.Vec3{0.1, -0.2, 0.05})
	require.NoError(t, e.PullTo(handle, to))
	e.Evaluate()
	assert.InDelta(t, 0, e.Frame.Joints[4].Position.Sub(to).Len(), 1e-9)
}
