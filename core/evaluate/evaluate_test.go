package evaluate_test

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
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/motion"
	"myriapod/core/plan"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// What these tests begin with.
var (
	open = rigtest.Open
)

// creature has a spline chain of eight joints with a branch of two on its fourth, and a joint that stands by itself.
func creature(t require.TestingT) *rig.Document {
	c := &edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}
	d := rig.New("creature")
	apply := func(e edit.Edit) {
		result, err := edit.Apply(c, d, e)
		require.NoError(t, err)
		d = result.Document
	}
	places := make([]mgl64.Vec3, 8)
	ids := make([]string, 8)
	for i := range places {
		places[i] = mgl64.Vec3{0, 1, float64(i) / 2}
	}
	apply(&edit.LayChain{Positions: places, Pattern: "spine_##"})
	for i := range ids {
		ids[i] = d.Joints[i].ID
	}
	apply(&edit.LayChain{Positions: []mgl64.Vec3{{1, 1, 1.5}, {2, 1, 1.5}}, Pattern: "leg_#", Parent: ids[3]})
	apply(&edit.LayChain{Positions: []mgl64.Vec3{{9, 0, 0}}, Pattern: "post"})
	apply(&edit.AddMechanism{Mechanism: "spline-chain", Name: "spine", Joints: ids})
	return d
}

func TestWhatNothingMovesGoesAlongWithItsParentOrTheRoot(t *testing.T) {
	d := creature(t)
	e := open(t, d)
	root := e.Plan.ControlIndex[d.ControlNamed("root").ID]
	require.NoError(t, e.SetChannel(root, rig.MoveX, 3))
	e.Evaluate()
	for i, joint := range d.Joints {
		assert.InDelta(t, 0, e.Frame.Joints[i].Position.Sub(joint.Position.Add(mgl64.Vec3{3, 0, 0})).Len(), 1e-12, joint.Name)
	}
	require.NoError(t, e.SetChannel(root, rig.MoveX, 0))
	require.NoError(t, e.SetChannel(3, rig.MoveX, 0.4)) // a collar of the spine
	e.Evaluate()
	hip, leg := e.Frame.Joints[3], e.Frame.Joints[8]
	want := d.Joints[3].Rest().Inverse().Apply(d.Joints[8].Position)
	assert.InDelta(t, 0, hip.Inverse().Apply(leg.Position).Sub(want).Len(), 1e-12, "a branch keeps its place on the joint that carries it")
	assert.Equal(t, d.Joints[10].Position, e.Frame.Joints[10].Position, "what stands by itself is not touched")
}

// The whole creature turned and moved by its root is the same creature, turned and moved.
func TestTheRootCarriesEveryPoseRigidly(t *testing.T) {
	d := creature(t)
	rapid.Check(t, func(t *rapid.T) {
		posed, carried := open(t, d), open(t, d)
		number := rapid.Float64Range(-0.4, 0.4)
		for i := 1; i < len(d.Controls); i++ {
			for _, channel := range rig.Channels {
				value := number.Draw(t, string(channel))
				require.NoError(t, posed.SetChannel(i, channel, value))
				require.NoError(t, carried.SetChannel(i, channel, value))
			}
		}
		for _, channel := range rig.Channels {
			require.NoError(t, carried.SetChannel(0, channel, rapid.Float64Range(-3, 3).Draw(t, "root "+string(channel))))
		}
		posed.Evaluate()
		carried.Evaluate()
		motion := carried.Frame.Controls[0].Then(posed.Frame.Controls[0].Inverse())
		for i := range d.Joints {
			want := motion.Then(posed.Frame.Joints[i])
			require.InDelta(t, 0, want.Position.Sub(carried.Frame.Joints[i].Position).Len(), 1e-9, d.Joints[i].Name)
			require.InDelta(t, 1, math.Abs(want.Rotation.Dot(carried.Frame.Joints[i].Rotation)), 1e-9, d.Joints[i].Name)
		}
	})
}

// A change runs only what depends on it, and leaves the same bits as evaluating everything anew.
func TestAChangeRunsOnlyWhatDependsOnIt(t *testing.T) {
	d := creature(t)
	e := open(t, d)
	ran := map[string]int{}
	for i, task := range e.Plan.Tasks {
		run := task.Run
		e.Plan.Tasks[i].Run = func(f *mechanism.Frame) {
			ran[d.NameOf(task.Subject)]++
			run(f)
		}
	}
	require.NoError(t, e.SetChannel(3, rig.MoveX, 0.2))
	e.Evaluate()
	assert.Equal(t, map[string]int{"spine_ctl_2": 1, "spine": 2, "leg_1": 1, "leg_2": 1}, ran)
	require.NoError(t, e.SetChannel(3, rig.MoveX, 0.2))
	e.SetTime(5)
	e.Evaluate()
	assert.Equal(t, 2, ran["spine"], "the same value again, and a time that nothing reads, run nothing")
	fresh := open(t, d)
	require.NoError(t, fresh.SetChannel(3, rig.MoveX, 0.2))
	fresh.Evaluate()
	assert.Equal(t, fresh.Frame.Joints, e.Frame.Joints)
}

func TestAClipDrivesItsChannelsAndLetsThemGo(t *testing.T) {
	d := creature(t)
	root := d.ControlNamed("root").ID
	e := open(t, d)
	e.SetClip(motion.Prepare(rig.Clip{End: 24, Tracks: []rig.Track{
		{Control: root, Channel: rig.MoveY, Keys: []rig.Key{{Frame: 0, Value: 0, Ease: rig.Linear}, {Frame: 24, Value: 2, Ease: rig.Linear}}},
		{Control: "gone", Channel: rig.MoveY, Keys: []rig.Key{{Frame: 0, Value: 7}}},
	}}))
	e.SetFrame(12)
	e.Evaluate()
	assert.InDelta(t, 1, e.Frame.Controls[1].Position[1]-d.Controls[1].Position[1], 1e-12)
	e.SetClip(nil)
	e.Zero()
	e.SetFrame(13)
	e.Evaluate()
	assert.Equal(t, d.Controls[1].Position, e.Frame.Controls[1].Position)
}

func TestValuesThatCannotBeAreRefused(t *testing.T) {
	e := open(t, creature(t))
	for _, value := range []float64{math.NaN(), math.Inf(1), 1e7} {
		assert.ErrorContains(t, e.SetChannel(0, rig.MoveX, value), "global.moveX")
	}
	require.Error(t, e.SetChannel(0, rig.RotateX, math.Inf(-1)))
	require.NoError(t, e.SetChannel(0, rig.RotateX, 1e9), "turns have no limit of size")
	e.SetTime(math.NaN())
	e.Evaluate()
	assert.Zero(t, e.Frame.Time)
	for _, joint := range e.Frame.Joints {
		assert.True(t, geometry.FiniteVector(joint.Position))
	}
}

// Planning the same document gives the same order of tasks, however maps are walked.
func TestPlanningIsDeterministic(t *testing.T) {
	d := creature(t)
	subjects := func() (list []string) {
		p, err := plan.Build(d, kinds.All(), nil)
		require.NoError(t, err)
		for _, task := range p.Tasks {
			list = append(list, task.Subject)
		}
		return list
	}
	first := subjects()
	for range 20 {
		assert.Equal(t, first, subjects())
	}
}

func TestSwitchedOffMechanismsLeaveTheRestPose(t *testing.T) {
	d := creature(t)
	d.Mechanisms[0].On = false
	e := open(t, d)
	require.NoError(t, e.SetChannel(3, rig.MoveX, 5))
	e.Evaluate()
	for i, joint := range d.Joints {
		assert.InDelta(t, 0, e.Frame.Joints[i].Position.Sub(joint.Position).Len(), 1e-12)
	}
	d.Mechanisms[0].Kind = "unknown"
	_, err := plan.Build(d, kinds.All(), nil)
	require.ErrorContains(t, err, `there is no mechanism of the kind "unknown"`)
}

func TestDistancesBetweenLists(t *testing.T) {
	assert.Zero(t, evaluate.GreatestDistance(nil, nil))
	assert.InDelta(t, 5, evaluate.GreatestDistance([]float32{0, 0, 0, 1, 1, 1}, []float32{3, 4, 0, 1, 1, 2}), 1e-12)
}
