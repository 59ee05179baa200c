package aim_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/mechanism/aim"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// What these tests begin with.
var (
	open = rigtest.Open
)

// face is a head with two eyes that aim, and a pupil below the left one.
func face(t require.TestingT, parameters parameter.Set) *rig.Document {
	d := rig.New("x")
	for _, e := range []edit.Edit{
		&edit.LayChain{Positions: []mgl64.Vec3{{0, 1, 0}}, Pattern: "head"},
		&edit.LayChain{Positions: []mgl64.Vec3{{0.1, 1.1, 0.1}, {0.1, 1.1, 0.15}}, Pattern: "eye_L_#", Parent: "j1"},
		&edit.LayChain{Positions: []mgl64.Vec3{{-0.1, 1.1, 0.1}, {-0.1, 1.1, 0.15}}, Pattern: "eye_R_#", Parent: "j1"},
		&edit.AddMechanism{Mechanism: aim.Name, Name: "gaze", Joints: []string{"j2", "j4"}, Options: parameter.Set{"distance": parameter.OfNumber(2)}, Parameters: parameters},
	} {
		result, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}, d, e)
		require.NoError(t, err)
		if result.Drift != nil {
			require.LessOrEqual(t, result.Drift.Joints, 1e-12)
		}
		d = result.Document
	}
	return d
}

func set(t require.TestingT, e *evaluate.Evaluator, control string, channel rig.Channel, value float64) {
	require.NoError(t, e.SetChannel(e.Plan.ControlIndex[e.Plan.Document.ControlNamed(control).ID], channel, value))
	e.Evaluate()
}

// looks is where a joint looks now: what faced its target at rest.
func looks(e *evaluate.Evaluator, joint int) mgl64.Vec3 {
	return e.Frame.Joints[joint].Rotation.Mul(e.Plan.Document.Joints[joint].Rest().Rotation.Conjugate()).Rotate(geometry.Forward)
}

func TestEyesLookAtTheirTargetsWhereverTheyAre(t *testing.T) {
	d := face(t, nil)
	rapid.Check(t, func(t *rapid.T) {
		e := open(t, d)
		number := rapid.Float64Range(-3, 3)
		for _, control := range []string{"gaze_bar", "gaze_1", "gaze_2", "root"} {
			for _, channel := range rig.Channels {
				set(t, e, control, channel, number.Draw(t, control))
			}
		}
		for i, joint := range []int{1, 3} {
			target := e.Frame.Controls[e.Plan.ControlIndex[d.Mechanisms[0].Controls[i+1]]].Position
			way := geometry.Unit(target.Sub(e.Frame.Joints[joint].Position), geometry.Up)
			assert.InDelta(t, 1, way.Dot(looks(e, joint)), 1e-9)
		}
	})
}

// Round and round, and over the top, the eye turns by no more than its target goes round: up does not flip.
func TestUpDoesNotFlip(t *testing.T) {
	d := face(t, nil)
	e := open(t, d)
	target := e.Plan.ControlIndex[d.Mechanisms[0].Controls[1]]
	eye := d.Joints[1].Position
	const steps = 721 // odd, so that it never stands right behind, where no way is the shortest
	for name, axis := range map[string]mgl64.Vec3{"level": {0, 1, 0}, "over the top": {1, 0, 0}, "aslant": mgl64.Vec3{1, 0.6, 0}.Normalize()} {
		var before mgl64.Quat
		worst := 0.0
		for k := range steps + 1 {
			place := eye.Add(mgl64.QuatRotate(2*math.Pi*float64(k)/steps, axis).Rotate(mgl64.Vec3{0, 0, 2}))
			require.NoError(t, e.PullTo(target, place))
			e.Evaluate()
			now := e.Frame.Joints[1].Rotation
			if k > 0 {
				between := before.Conjugate().Mul(now)
				worst = math.Max(worst, 2*math.Atan2(between.V.Len(), math.Abs(between.W)))
			}
			before = now
		}
		assert.Less(t, worst, 2.5*2*math.Pi/steps, name)
	}
}

func TestTheConeHoldsAndATurretTurnsAboutUpOnly(t *testing.T) {
	e := open(t, face(t, parameter.Set{"cone": parameter.OfNumber(30)}))
	set(t, e, "gaze_bar", rig.MoveX, 5)
	assert.InDelta(t, 30, math.Acos(looks(e, 1)[2])*180/math.Pi, 1e-9)
	pupil := e.Frame.Joints[2].Position.Sub(e.Frame.Joints[1].Position)
	assert.InDelta(t, 0.05*math.Sin(math.Pi/6), pupil[0], 1e-9, "what hangs below goes along")
	turret := open(t, face(t, parameter.Set{"turns": parameter.OfChoice("about the upright axis")}))
	set(t, turret, "gaze_bar", rig.MoveX, 1)
	set(t, turret, "gaze_bar", rig.MoveY, 3)
	way := looks(turret, 1)
	assert.InDelta(t, 0, way[1], 1e-12)
	assert.Greater(t, way[0], 0.3)
}

func TestTheBarHangsOnTheHeadWhenItIsSwitched(t *testing.T) {
	d := face(t, nil)
	bar := d.ControlNamed("gaze_bar")
	assert.Equal(t, []string{"j1"}, bar.Spaces)
	_, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}, d, &edit.AddMechanism{Mechanism: aim.Name, Name: "x"})
	assert.ErrorContains(t, err, "What aims: it needs 1 or more")
	e := open(t, d)
	frame := 0
	assert.Zero(t, testing.AllocsPerRun(100, func() {
		frame++
		_ = e.SetChannel(2, rig.MoveX, math.Sin(float64(frame)))
		e.Evaluate()
	}))
}
