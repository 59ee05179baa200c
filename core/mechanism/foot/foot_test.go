package foot_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/interchange/rigfile"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/foot"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mechanism/limb"
	"myriapod/core/mechanism/step"
	"myriapod/core/motion"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// walker is a body with a left leg of hip, knee, ankle, and a foot of ball and toe; mirrored to the right when asked.
func walker(t require.TestingT, mirrored bool) *rig.Document {
	d := rig.New("x")
	apply := func(e edit.Edit) {
		result, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}, d, e)
		require.NoError(t, err)
		if result.Drift != nil {
			require.LessOrEqual(t, result.Drift.Joints, 1e-9)
		}
		d = result.Document
	}
	id := func(name string) (found string) {
		d.EachNamed(func(id, n string) bool {
			if n == name {
				found = id
			}
			return found == ""
		})
		return found
	}
	apply(&edit.LayChain{Positions: []mgl64.Vec3{{0, 1, 0}}, Pattern: "body"})
	apply(&edit.LayChain{Positions: []mgl64.Vec3{{0.2, 0.9, 0}, {0.2, 0.5, 0.1}, {0.2, 0.1, 0}, {0.22, 0.03, 0.12}, {0.23, 0.02, 0.2}}, Pattern: "leg_L_#", Parent: id("body")})
	if mirrored {
		apply(&edit.AddRepeat{Name: "legs", Rule: rig.Mirror, Sources: []string{id("leg_L_1")}})
	}
	apply(&edit.AddMechanism{Mechanism: limb.Name, Name: "leg_L", Joints: []string{id("leg_L_1"), id("leg_L_3")}})
	apply(&edit.AddMechanism{Mechanism: foot.Name, Name: "foot_L", Host: id("leg_L"), Parameters: parameter.Set{"bend": parameter.OfNumber(40), "left": parameter.OfNumber(0.07)}})
	return d
}

type standing struct {
	*evaluate.Evaluator
	t require.TestingT
}

func open(t require.TestingT, d *rig.Document) standing {
	e, _, err := evaluate.Open(d, kinds.All(), edit.Memory{})
	require.NoError(t, err)
	e.Evaluate()
	return standing{e, t}
}

func (s standing) joint(name string) int {
	for i, j := range s.Plan.Document.Joints {
		if j.Name == name {
			return i
		}
	}
	require.FailNow(s.t, "no "+name)
	return -1
}

func (s standing) place(name string) mgl64.Vec3 { return s.Frame.Joints[s.joint(name)].Position }

// set turns a dial of a target.
func (s standing) set(control string, dial rig.Channel, degrees float64) {
	for i, c := range s.Plan.Document.Controls {
		if c.Name == control {
			require.NoError(s.t, s.SetChannel(i, dial, degrees))
			s.Evaluate()
			return
		}
	}
	require.FailNow(s.t, "no control "+control)
}

func TestTheToesStayPlantedWhileTheHeelLifts(t *testing.T) {
	s := open(t, walker(t, false))
	ball, toe, ankle := s.Frame.Joints[s.joint("leg_L_4")], s.Frame.Joints[s.joint("leg_L_5")], s.place("leg_L_3")
	for _, degrees := range []float64{10, 25, 40} {
		s.set("leg_L_target", "roll", degrees)
		assert.InDelta(t, 0, s.Frame.Joints[s.joint("leg_L_4")].Position.Sub(ball.Position).Len(), 1e-9, "the ball stays")
		assert.InDelta(t, 0, s.Frame.Joints[s.joint("leg_L_5")].Position.Sub(toe.Position).Len(), 1e-9, "the toe stays")
		assert.InDelta(t, 1, math.Abs(s.Frame.Joints[s.joint("leg_L_4")].Rotation.Dot(ball.Rotation)), 1e-12)
		assert.Greater(t, s.place("leg_L_3")[1], ankle[1]+0.01, "the heel lifts")
	}
	s.set("leg_L_target", "roll", 70)
	assert.Greater(t, s.place("leg_L_4")[1], ball.Position[1]+0.01, "beyond that it goes over the tip")
	s.set("leg_L_target", "roll", -30)
	assert.Greater(t, s.place("leg_L_5")[1], toe.Position[1]+0.05, "backward over the heel the toes lift")
	assert.Less(t, s.place("leg_L_3")[2], ankle[2], "and the ankle goes back")
}

// A gait that turns the foot turns its toes as well, whichever was built first.
func TestToesGoAlongWithAGait(t *testing.T) {
	d := walker(t, false)
	context := &edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}
	result, err := edit.Apply(context, d, &edit.AddMechanism{Mechanism: step.Name, Name: "step_L", Host: d.Mechanisms[0].ID})
	require.NoError(t, err)
	result, err = edit.Apply(context, result.Document, &edit.AddClip{Name: "turn", End: 48})
	require.NoError(t, err)
	d = result.Document
	set := &edit.SetKeys{Clip: d.Clips[0].ID}
	for frame, turn := range map[float64]float64{0: 0, 24: 1, 48: 1.4} {
		set.Keys = append(set.Keys, edit.KeyValue{KeyPlace: edit.KeyPlace{Control: d.ControlNamed(rig.RootName).ID, Channel: rig.RotateY, Frame: frame}, Value: turn, Ease: rig.Smooth})
	}
	result, err = edit.Apply(context, d, set)
	require.NoError(t, err)
	s := open(t, result.Document)
	s.SetClip(motion.Prepare(result.Document.Clips[0]))
	s.SetFrame(48)
	s.set("leg_L_target", "roll", 20)
	ankle, ball := s.joint("leg_L_3"), s.joint("leg_L_4")
	rest := func(i int) mgl64.Quat { return s.Plan.Document.Joints[i].Rest().Rotation }
	heading := func(i int) float64 { return mechanism.Heading(s.Frame.Joints[i].Rotation.Mul(rest(i).Conjugate())) }
	assert.Greater(t, heading(ball), 0.5)
	assert.InDelta(t, heading(ankle), heading(ball), 0.1, "the toes point where the foot points")
	toes := s.Frame.Joints[ball].Rotation.Mul(rest(ball).Conjugate())
	assert.InDelta(t, 0, math.Hypot(toes.V[0], toes.V[2]), 1e-9, "and lie flat")
}

// Whatever a roll goes over stays on the ground where it is.
func TestEachPivotStaysOnTheGround(t *testing.T) {
	d := walker(t, false)
	s := open(t, d)
	m := d.Mechanisms[1]
	number := m.Parameters.Number
	assert.Equal(t, 0.07, number("left"), "what is given goes before what is measured")
	assert.InDelta(t, 0.08, number("drop"), 1e-9, "down to the lowest toe")
	heading := number("heading") * math.Pi / 180
	ankle := d.Joints[s.joint("leg_L_3")].Rest()
	ground := func(across, along float64) mgl64.Vec3 {
		return mgl64.QuatRotate(heading, mgl64.Vec3{0, 1, 0}).Rotate(mgl64.Vec3{across, 0, along}).Add(mgl64.Vec3{ankle.Position[0], ankle.Position[1] - number("drop"), ankle.Position[2]})
	}
	for _, pivot := range []struct {
		dial    rig.Channel
		degrees float64
		place   mgl64.Vec3
	}{
		{"heel", -25, ground(0, -number("behind"))},
		{"tip", 25, ground(0, number("ahead"))},
		{"side", 20, ground(-number("right"), 0)},
		{"side", -20, ground(number("left"), 0)},
	} {
		s.set("leg_L_target", pivot.dial, pivot.degrees)
		at := ankle.Inverse().Apply(pivot.place) // as the ankle sees it
		moved := s.Frame.Joints[s.joint("leg_L_3")].Apply(at)
		assert.InDelta(t, 0, moved.Sub(pivot.place).Len(), 1e-9, "%s %g", pivot.dial, pivot.degrees)
		assert.Greater(t, s.place("leg_L_3").Sub(ankle.Position).Len(), 0.005)
		s.set("leg_L_target", pivot.dial, 0)
	}
}

func TestAMirroredFootRollsAsTheMirrorImage(t *testing.T) {
	s := open(t, walker(t, true))
	for _, dial := range []rig.Channel{"roll", "heel", "ball", "tip", "side"} {
		for _, degrees := range []float64{-15, 20} {
			s.set("leg_L_target", dial, degrees)
			s.set("leg_R_target", dial, degrees)
			for _, k := range []string{"2", "3", "4", "5"} {
				left, right := s.place("leg_L_"+k), s.place("leg_R_"+k)
				assert.InDelta(t, 0, right.Sub(mgl64.Vec3{-left[0], left[1], left[2]}).Len(), 1e-9, "%s by %s %g", k, dial, degrees)
			}
			s.set("leg_L_target", dial, 0)
			s.set("leg_R_target", dial, 0)
		}
	}
}

func TestAFootWithToesIsWrittenAndReadBack(t *testing.T) {
	d := walker(t, false)
	written, err := rigfile.Write(d, edit.Memory{})
	require.NoError(t, err)
	back, _, err := rigfile.Read(written, kinds.All())
	require.NoError(t, err)
	assert.Equal(t, d.Mechanisms, back.Mechanisms)
	assert.Equal(t, d.Controls, back.Controls)
}

func TestAFootComesAndGoesWithItsDials(t *testing.T) {
	d := walker(t, false)
	context := &edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}
	_, err := edit.Apply(context, d, &edit.AddMechanism{Mechanism: foot.Name, Name: "again", Host: d.Mechanisms[0].ID})
	require.ErrorContains(t, err, "has the foot foot_L already")
	_, err = edit.Apply(context, d, &edit.RemoveMechanism{Mechanism: d.Mechanisms[0].ID})
	require.ErrorContains(t, err, "foot_L works on leg_L; remove foot_L first")
	result, err := edit.Apply(context, d, &edit.RemoveMechanism{Mechanism: d.Mechanisms[1].ID})
	require.NoError(t, err)
	assert.Empty(t, result.Document.ControlNamed("leg_L_target").Dials)
	assert.LessOrEqual(t, result.Drift.Joints, 1e-9)
	frame := 0
	s := open(t, d)
	assert.Zero(t, testing.AllocsPerRun(100, func() {
		frame++
		_ = s.SetChannel(2, "roll", float64(frame%50))
		s.Evaluate()
	}))
}
