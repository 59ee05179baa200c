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

// Up to each change the cup lies in its holder as it did frames before, and there it still is when the next one has it, to a billionth of the size.
func TestAtEachChangeItIsWhereItWas(t *testing.T) {
	d := bearer(t)
	handle := d.Mechanisms[2].Controls[0]
	d = rigtest.Apply(t, d, key(d, handle, prop.HolderDial, rig.Stepped, [2]float64{0, 0}, [2]float64{20, 1}, [2]float64{45, 0}, [2]float64{70, 2}))
	for i, control := range []string{d.Mechanisms[0].Controls[0], d.Mechanisms[0].Controls[1], d.Mechanisms[1].Controls[0]} {
		d = rigtest.Apply(t, d, key(d, control, rig.RotateX, rig.Smooth, [2]float64{0, 0.2}, [2]float64{31, 1.1 - float64(i)}, [2]float64{100, 0.7}))
	}
	for _, moved := range []float64{0, 1.3} { // whatever is keyed before
		d = rigtest.Apply(t, d, key(d, d.Mechanisms[1].Controls[0], rig.MoveY, rig.Smooth, [2]float64{3, moved}, [2]float64{11, 0.4}))
		e := open(t, d)
		at := func(frame float64, holder int) (holds, cup mgl64.Mat4) {
			e.SetFrame(frame)
			e.Evaluate()
			one := mgl64.Vec3{1, 1, 1}
			return e.Frame.Joints[holder].Matrix(one), e.Frame.Joints[4].Matrix(one)
		}
		for _, change := range [][3]float64{{13, 20, 2}, {33, 45, 3}, {58, 70, 2}} {
			holder := int(change[2])
			before, cup := at(change[0], holder)
			now, there := at(change[1], holder)
			want := now.Mul4(before.Inv()).Mul4(cup)
			assert.InDelta(t, 0, want.Col(3).Sub(there.Col(3)).Len(), 1e-9, "at %g", change[1])
			assert.InDelta(t, 0, want.Col(0).Sub(there.Col(0)).Len(), 1e-9)
		}
	}
}

func TestGivingKeysWhoHoldsIt(t *testing.T) {
	d := bearer(t)
	clip, held := d.Clips[0].ID, d.Mechanisms[2].ID
	d = rigtest.Apply(t, d, &edit.Give{Mechanism: held, To: d.Joints[3].ID, Clip: clip, Frame: 30}, &edit.Give{Mechanism: held, Clip: clip, Frame: 60})
	list := open(t, d).Frame.Held[0]
	require.Len(t, list, 3)
	assert.Equal(t, []int{0, 1, 2}, []int{list[0].Holder, list[1].Holder, list[2].Holder})
	assert.InDelta(t, 30, list[1].From*d.FPS, 1e-6)
	rigtest.Refuse(t, d, &edit.Give{Mechanism: held, To: d.Joints[0].ID, Clip: clip, Frame: 70}, "held by others")
	rigtest.Refuse(t, d, &edit.Give{Mechanism: d.Mechanisms[0].ID, Clip: clip, Frame: 70}, "choose a prop")
	e := open(t, d)
	e.SetFrame(40)
	e.Evaluate()
	was := e.Frame.Joints[4].Position
	require.NoError(t, e.SetChannel(e.Plan.ControlIndex[d.Mechanisms[2].Controls[0]], prop.HolderDial, 0))
	e.Evaluate()
	assert.Equal(t, was, e.Frame.Joints[4].Position, "in the hand alone it stays with who holds it, and that is told")
	require.Len(t, e.Findings(), 1)
	assert.Contains(t, e.Findings()[0].Text, "press Give")
}

func TestAHandThatReachesForWhatItHoldsIsALoopThatIsNamed(t *testing.T) {
	d := rigtest.Apply(t, rig.New("x"), &edit.LayChain{Positions: []mgl64.Vec3{{0, 1, 0}, {0, 1.5, 0.3}, {0, 1.9, 0}}, Pattern: "arm_#"}, &edit.LayChain{Positions: []mgl64.Vec3{{0, 2, 0.1}}, Pattern: "cup"})
	d = rigtest.Apply(t, d, &edit.AddMechanism{Mechanism: "limb", Name: "reach", Joints: []string{d.Joints[0].ID, d.Joints[2].ID}})
	d = rigtest.Apply(t, d, &edit.AddMechanism{Mechanism: prop.Name, Name: "held", Roles: map[string][]string{"prop": {d.Joints[3].ID}, "holders": {d.Joints[2].ID}}})
	_, err := edit.Apply(rigtest.Context(), d, &edit.HangControls{Controls: d.Mechanisms[0].Controls[:1], Space: d.Joints[3].ID})
	require.Error(t, err)
	for _, named := range []string{"reach_target", "reach", "held"} {
		assert.Contains(t, err.Error(), named)
	}
}
