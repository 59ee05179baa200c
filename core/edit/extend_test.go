package edit_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/rig"
)

// legged is a leg of six joints whose limb pulls the first four, on a hip, and its mirror image.
func legged(t *testing.T) *rig.Document {
	d := apply(t, rig.New("x"), &edit.LayChain{Positions: []mgl64.Vec3{{0, 2, 0}}, Pattern: "hip"})
	d = apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{{0.3, 1.9, 0}, {0.5, 1.2, 0.2}, {0.5, 0.6, -0.1}, {0.5, 0.2, 0.1}, {0.5, 0.05, 0.3}}, Pattern: "leg_L_#", Parent: d.Joints[0].ID})
	d = apply(t, d, &edit.AddMechanism{Mechanism: "limb", Name: "step_L", Joints: []string{d.Joints[1].ID, d.Joints[2].ID, d.Joints[3].ID}})
	return apply(t, d, &edit.AddRepeat{Name: "sides", Rule: rig.Mirror, Sources: []string{d.Joints[1].ID}, Point: mgl64.Vec3{}})
}

// How many joints a limb pulls is changed later, on the source or on a copy: at rest nothing moves, and its target pulls the joint where it ends.
func TestALimbEndsAtAnotherJoint(t *testing.T) {
	for last := 3; last <= 5; last++ {
		d := legged(t)
		rest := opened(t, d).Frame.Joints
		s := seen(t, d).Document
		mechanism, to := d.Mechanisms[0].ID, d.Joints[last].ID
		if last == 4 { // by way of the copy
			mechanism, to = s.Mechanisms[1].ID, s.Joints[5+last].ID
		}
		d = apply(t, d, &edit.ExtendChain{Mechanism: mechanism, Last: to})
		assert.Len(t, d.Mechanisms[0].Joints, last)
		e := opened(t, d)
		for i := range rest {
			assert.InDelta(t, 0, e.Frame.Joints[i].Position.Sub(rest[i].Position).Len(), 1e-9)
		}
		target := e.Plan.ControlIndex[d.Mechanisms[0].Controls[0]]
		require.NoError(t, e.SetChannel(target, rig.MoveY, 0.15))
		e.Evaluate()
		at := e.Plan.JointIndex[d.Joints[last].ID]
		assert.InDelta(t, 0, e.Frame.Joints[at].Position.Sub(d.Joints[last].Position.Add(mgl64.Vec3{0, 0.15, 0})).Len(), 1e-6)
	}
	d := legged(t)
	refuse(t, d, &edit.ExtendChain{Mechanism: d.Mechanisms[0].ID, Last: d.Joints[0].ID}, "does not hang below")
	refuse(t, d, &edit.ExtendChain{Mechanism: d.Mechanisms[0].ID, Last: d.Joints[2].ID}, "3 joints or more")
	footed := apply(t, d, &edit.AddMechanism{Mechanism: "step", Name: "gait", Host: d.Mechanisms[0].ID})
	refuse(t, footed, &edit.ExtendChain{Mechanism: d.Mechanisms[0].ID, Last: d.Joints[4].ID}, "remove it first")
}

// A chain that is turned round stands where it stood, begins at its other end, and twice turned is as it was; what hung on it stays in its place.
func TestAChainIsTurnedRound(t *testing.T) {
	places := []mgl64.Vec3{{0, 0, 0}, {0, 0.2, 1}, {0.1, 0.1, 2}, {0, 0, 3}}
	d := apply(t, rig.New("x"), &edit.LayChain{Positions: places, Pattern: "hose_#"})
	chain := ids(d)
	d = apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{{0, 1, 1}}, Pattern: "tap", Parent: chain[1]})
	turned := apply(t, d, &edit.ReverseChain{Joints: chain})
	for i, id := range chain {
		assert.Equal(t, places[3-i], turned.Joint(id).Position)
		main := turned.Joint(id).Rotation.Quat().Rotate(mgl64.Vec3{0, 1, 0})
		if i < 3 {
			assert.InDelta(t, 1, main.Dot(places[2-i].Sub(places[3-i]).Normalize()), 1e-9, "it aims at the next")
		}
	}
	tap := turned.Joints[4]
	assert.Equal(t, chain[2], tap.Parent)
	assert.Equal(t, mgl64.Vec3{0, 1, 1}, tap.Position)
	assert.Equal(t, d.Joints, apply(t, turned, &edit.ReverseChain{Joints: chain}).Joints)
	built := apply(t, d, &edit.AddMechanism{Mechanism: "fk-chain", Name: "m", Joints: chain})
	refuse(t, built, &edit.ReverseChain{Joints: chain}, "remove that mechanism first")
	refuse(t, d, &edit.ReverseChain{Joints: []string{chain[0], chain[2]}}, "choose one chain")
}

// A shape is moved, turned about its middle and sized in its own frame; nothing that it does changes.
func TestAShapeIsSetByHand(t *testing.T) {
	d := apply(t, rig.New("x"), &edit.AddControl{Name: "hold", Shape: rig.Square, Reach: 1})
	was := d.Controls[0]
	quarter := rig.QuaternionOf(mgl64.QuatRotate(math.Pi/2, mgl64.Vec3{0, 0, 1}))
	d = apply(t, d, &edit.ShapeControls{Controls: []string{was.ID}, Size: 2, Move: mgl64.Vec3{0, 3, 0}, Turn: &quarter})
	now := d.Controls[0]
	for i, p := range was.Outline {
		assert.InDelta(t, 0, now.Outline[i].Sub(mgl64.Vec3{-2 * p[1], 2*p[0] + 3, 2 * p[2]}).Len(), 1e-9)
	}
	assert.Equal(t, was.Position, now.Position)
	refuse(t, d, &edit.ShapeControls{Controls: []string{was.ID}, Move: mgl64.Vec3{math.Inf(1)}}, "is made")
}
