package follow_test

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
	"myriapod/core/interchange/rigfile"
	"myriapod/core/mechanism/fkchain"
	"myriapod/core/mechanism/follow"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// What these tests begin with.
var (
	context = rigtest.Context
	apply   = rigtest.Apply
)

func id(t require.TestingT, d *rig.Document, name string) (found string) {
	d.EachNamed(func(id, n string) bool {
		if n == name {
			found = id
		}
		return found == ""
	})
	require.NotEmpty(t, found, name)
	return found
}

// bird is a spine of four joints under FK, a neck of two on its end, a hand, and a hat that stands by itself.
func bird(t require.TestingT) *rig.Document {
	d := apply(t, rig.New("x"),
		&edit.LayChain{Positions: []mgl64.Vec3{{0, 1, 0}, {0, 1.5, 0.1}, {0, 2, 0.3}, {0, 2.4, 0.3}}, Pattern: "spine_#"},
		&edit.LayChain{Positions: []mgl64.Vec3{{3, 1, 0}, {3, 0.5, 0}}, Pattern: "hand_#"},
		&edit.LayChain{Positions: []mgl64.Vec3{{0, 4, 0}, {0, 4.4, 0.2}}, Pattern: "hat_#"},
	)
	d = apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{{0, 2.6, 0.4}, {0, 2.9, 0.6}}, Pattern: "neck_#", Parent: id(t, d, "spine_4")})
	for name, ends := range map[string][]string{"spine": {"spine_1", "spine_4"}, "hand": {"hand_1", "hand_2"}} {
		joints := []string{id(t, d, ends[0]), id(t, d, ends[1])}
		d = apply(t, d, &edit.AddMechanism{Mechanism: fkchain.Name, Name: name, Joints: joints, Options: parameter.Set{"end": parameter.OfToggle(true)}})
	}
	return d
}

func following(t require.TestingT, d *rig.Document, follower string, parameters parameter.Set, sources ...string) *rig.Document {
	roles := map[string][]string{"follower": {id(t, d, follower)}}
	for _, source := range sources {
		roles["sources"] = append(roles["sources"], id(t, d, source))
	}
	return apply(t, d, &edit.AddMechanism{Mechanism: follow.Name, Name: "along", Roles: roles, Parameters: parameters})
}

type stage struct {
	*evaluate.Evaluator
	t require.TestingT
}

func open(t require.TestingT, d *rig.Document) stage {
	e, _, err := evaluate.Open(d, kinds.All(), edit.Memory{})
	require.NoError(t, err)
	e.Evaluate()
	return stage{e, t}
}

func (s stage) set(control string, channel rig.Channel, value float64) {
	require.NoError(s.t, s.SetChannel(s.Plan.ControlIndex[id(s.t, s.Plan.Document, control)], channel, value))
	s.Evaluate()
}

func (s stage) joint(name string) geometry.Transform {
	return s.Frame.Joints[s.Plan.JointIndex[id(s.t, s.Plan.Document, name)]]
}

func (s stage) rest(name string) geometry.Transform {
	return s.Plan.Document.Joint(id(s.t, s.Plan.Document, name)).Rest()
}

// pose takes every FK control somewhere.
func (s stage) pose(t *rapid.T) {
	for i := range s.Plan.Document.Controls {
		for _, channel := range rig.Channels {
			require.NoError(t, s.SetChannel(i, channel, rapid.Float64Range(-0.8, 0.8).Draw(t, "channel")))
		}
	}
	s.Evaluate()
}

// What follows with all of it goes along rigidly, and keeps its offset, whatever carries the source.
func TestWhatFollowsKeepsItsOffset(t *testing.T) {
	s := open(t, following(t, bird(t), "hat_1", nil, "spine_4"))
	rapid.Check(t, func(t *rapid.T) {
		s.pose(t)
		carried := s.joint("spine_4").Then(s.rest("spine_4").Inverse())
		for _, name := range []string{"hat_1", "hat_2"} {
			want := carried.Then(s.rest(name))
			require.InDelta(t, 0, want.Position.Sub(s.joint(name).Position).Len(), 1e-12)
			require.InDelta(t, 1, math.Abs(want.Rotation.Dot(s.joint(name).Rotation)), 1e-12)
		}
	})
}

// A neck that takes the turn alone keeps its length while the head follows, or stays.
func TestANeckThatOnlyTurnsKeepsItsLength(t *testing.T) {
	s := open(t, following(t, bird(t), "neck_1", parameter.Set{"place": parameter.OfNumber(0)}, "global"))
	rapid.Check(t, func(t *rapid.T) {
		s.pose(t)
		bone := s.joint("neck_2").Position.Sub(s.joint("neck_1").Position).Len()
		require.InDelta(t, s.rest("neck_2").Position.Sub(s.rest("neck_1").Position).Len(), bone, 1e-12)
		carried := s.joint("spine_4").Then(s.rest("spine_4").Inverse()).Then(s.rest("neck_1"))
		require.InDelta(t, 0, carried.Position.Sub(s.joint("neck_1").Position).Len(), 1e-12, "it stays on the spine")
		global := s.Frame.Controls[s.Plan.ControlIndex[s.Plan.Document.ControlNamed("global").ID]]
		want := global.Rotation.Mul(s.rest("neck_1").Rotation)
		require.InDelta(t, 1, math.Abs(want.Dot(s.joint("neck_1").Rotation)), 1e-12, "and looks as the whole does")
	})
}

// Of a place only the axes that are wanted are taken, and so much of them, as worked out by hand.
func TestOnlyTheAxesThatAreWanted(t *testing.T) {
	no := parameter.OfToggle(false)
	s := open(t, following(t, bird(t), "hat_1", parameter.Set{"moveX": no, "turn": parameter.OfNumber(0), "place": parameter.OfNumber(0.25)}, "hand_1"))
	s.set("hand_fk_1", rig.MoveX, 1)
	assert.Equal(t, s.rest("hat_1").Position, s.joint("hat_1").Position)
	local := s.Plan.Document.ControlNamed("hand_fk_1").Home().Rotation
	s.set("hand_fk_1", rig.MoveX, 0)
	s.set("hand_fk_1", rig.MoveY, 2)
	way := local.Rotate(mgl64.Vec3{0, 2, 0})
	way[0] = 0
	assert.InDelta(t, 0, s.rest("hat_1").Position.Add(way.Mul(0.25)).Sub(s.joint("hat_1").Position).Len(), 1e-12)
	twisting := open(t, following(t, bird(t), "hat_1", parameter.Set{"turnX": no, "turnZ": no, "axes": parameter.OfChoice("its own"), "place": parameter.OfNumber(0)}, "hand_1"))
	twisting.set("hand_fk_1", rig.RotateX, 0.7)
	turned := twisting.joint("hat_1").Rotation.Mul(twisting.rest("hat_1").Rotation.Conjugate())
	axis := twisting.rest("hat_1").Rotation.Rotate(geometry.MainAxis)
	assert.InDelta(t, 0, turned.V.Cross(axis).Len(), 1e-12, "it turns about its own main axis alone")
}

// Two whole turns of a source are two whole turns of what follows.
func TestWholeTurnsAreHandedOn(t *testing.T) {
	s := open(t, following(t, bird(t), "hat_1", parameter.Set{"turn": parameter.OfNumber(0.5)}, "hand_fk_1"))
	s.set("hand_fk_1", rig.RotateY, 4*math.Pi)
	assert.InDelta(t, 2*math.Pi, s.joint("hat_1").Turned, 1e-9)
}

// A switch from one source to another is not seen, where a control follows.
func TestASwitchKeepsThePlace(t *testing.T) {
	d := bird(t)
	d = apply(t, d, &edit.AddControl{Name: "prop", Position: mgl64.Vec3{1, 1, 1}, Shape: rig.Cross, Reach: 0.2})
	d = following(t, d, "prop", nil, "hand_2", "spine_4", "global")
	s := open(t, d)
	prop := s.Plan.ControlIndex[id(t, d, "prop")]
	require.Equal(t, 2.0, d.Controls[prop].Dial(follow.FollowsDial).Max)
	rapid.Check(t, func(t *rapid.T) {
		s.pose(t)
		stood := s.ControlAt(prop)
		number := float64(rapid.IntRange(0, 2).Draw(t, "number"))
		require.NoError(t, s.Keep(prop, func() error { return s.SetChannel(prop, follow.FollowsDial, number) }))
		now := s.ControlAt(prop)
		require.InDelta(t, 0, now.Position.Sub(stood.Position).Len(), 1e-9)
		require.InDelta(t, 1, math.Abs(now.Rotation.Dot(stood.Rotation)), 1e-9)
		require.Equal(t, number, s.Frame.Values[s.Slot(prop, follow.FollowsDial)])
	})
}

// Roles are asked for by name, and what cannot stand in one is told by it.
func TestRolesAreToldByName(t *testing.T) {
	d := bird(t)
	hat, hand := id(t, d, "hat_1"), id(t, d, "hand_1")
	for want, roles := range map[string]map[string][]string{
		"What follows: it needs 1 or more, and 0 are chosen":                                  {"sources": {hand}},
		"What it follows: it needs 1 or more":                                                 {"follower": {hat}},
		"hat_1 stands in the role What follows already and cannot be What it follows as well": {"follower": {hat}, "sources": {hat}},
		`"leader" is no role that a Follow asks for; it asks for [follower sources]`:          {"follower": {hat}, "sources": {hand}, "leader": {hand}},
		"What follows: there is room for 1, and 2 are chosen":                                 {"follower": {hat, hand}, "sources": {hand}},
		`What it follows: there is nothing "gone" here`:                                       {"follower": {hat}, "sources": {"gone"}},
		"wait for each other in a loop":                                                       {"follower": {id(t, d, "global")}, "sources": {id(t, d, "spine_4")}},
	} {
		_, err := edit.Apply(context(), d, &edit.AddMechanism{Mechanism: follow.Name, Name: "x", Roles: roles})
		assert.ErrorContains(t, err, want)
	}
	built := following(t, d, "hat_1", nil, "hand_1")
	_, err := edit.Apply(context(), built, &edit.RemoveMechanism{Mechanism: id(t, built, "hand")})
	require.NoError(t, err, "it looks at the joint, whoever moves that")
	neck := following(t, d, "hat_1", nil, "neck_2")
	_, err = edit.Apply(context(), neck, &edit.DeleteJoints{Joints: []string{id(t, neck, "neck_2")}})
	require.ErrorContains(t, err, "along looks at neck_2; remove that mechanism first")
}

// A follow is mirrored with what it stands on, is written to a rig file and read back, and goes without a trace.
func TestFollowsAreRepeatedAndWritten(t *testing.T) {
	d := bird(t)
	d = apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{{0.5, 2, 0}, {0.9, 2, 0}}, Pattern: "wing_L_#", Parent: id(t, d, "spine_3")})
	d = following(t, d, "wing_L_1", parameter.Set{"place": parameter.OfNumber(0)}, "spine_1")
	d = apply(t, d, &edit.AddRepeat{Name: "wings", Rule: rig.Mirror, Sources: []string{id(t, d, "wing_L_1")}, Direction: mgl64.Vec3{1, 0, 0}})
	s := open(t, d)
	s.set("spine_fk_1", rig.RotateX, 0.4)
	left, right := s.joint("wing_L_2"), s.joint("wing_R_2")
	assert.InDelta(t, 0, mgl64.Vec3{-left.Position[0], left.Position[1], left.Position[2]}.Sub(right.Position).Len(), 1e-9)
	data, err := rigfile.Write(d, edit.Memory{})
	require.NoError(t, err)
	read, _, err := rigfile.Read(data, kinds.All())
	require.NoError(t, err)
	assert.Equal(t, d, read)

	control := apply(t, bird(t), &edit.AddControl{Name: "prop", Position: mgl64.Vec3{1, 1, 1}, Shape: rig.Cross, Reach: 0.2})
	with := following(t, control, "prop", nil, "hand_2", "spine_4")
	without := apply(t, with, &edit.RemoveMechanism{Mechanism: id(t, with, "along")})
	without.NextID = control.NextID
	assert.Empty(t, without.ControlNamed("prop").Dials)
	assert.Equal(t, control.Mechanisms, without.Mechanisms)
	assert.Empty(t, without.Drivers)
}
