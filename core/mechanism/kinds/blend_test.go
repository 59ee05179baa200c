package kinds_test

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/match"
	"myriapod/core/rig"
)

// blended builds a rig of two ways of moving one chain, with a dial between them, and returns what turns the dial.
func blended(t *testing.T, name string, random *rand.Rand, joints int) (e *evaluate.Evaluator, turn func(float64)) {
	d, _ := build(t, wander(random, joints, 0.4), rigs[name])
	e = open(t, d)
	at := slices.IndexFunc(d.Controls, func(c rig.Control) bool { return c.Dial(edit.BlendDial) != nil })
	return e, func(value float64) {
		require.NoError(t, e.SetChannel(at, edit.BlendDial, value))
		e.Evaluate()
	}
}

// From 0 to 1 in a thousand steps no joint turns by more than twice the even share of its whole turn.
func TestABlendIsEven(t *testing.T) {
	for _, name := range []string{"FK blended on spline", "spline blended on FK", "ribbon blended on wave"} {
		random := rand.New(rand.NewPCG(3, 9))
		worst := 0.0
		for range 10 {
			e, turn := blended(t, name, random, 12)
			pose(t, e, random, 0.3, 2)
			turn(1)
			last := slices.Clone(e.Frame.Joints)
			turn(0)
			first := slices.Clone(e.Frame.Joints)
			before := first
			for step := 1; step <= 1000; step++ {
				turn(float64(step) / 1000)
				for i, joint := range e.Frame.Joints {
					even := angle(first[i].Rotation, last[i].Rotation) / 1000
					if share := angle(before[i].Rotation, joint.Rotation); share > 1e-7 {
						worst = math.Max(worst, share/even)
					}
				}
				before = slices.Clone(e.Frame.Joints)
			}
			for i := range last {
				assert.InDelta(t, 0, angle(before[i].Rotation, last[i].Rotation), 1e-9, "it arrives")
			}
		}
		assert.LessOrEqual(t, worst, 2.0, name)
		t.Logf("%s: greatest step %.4f of the even share", name, worst)
	}
}

// away measures how far the joints of a mechanism are from where they were.
func away(e *evaluate.Evaluator, m rig.Mechanism, was []geometry.Transform) (left match.Left) {
	for i, now := range match.Seen(e, m) {
		left.Moves = math.Max(left.Moves, now.Position.Sub(was[i].Position).Len())
		left.Turns = math.Max(left.Turns, angle(now.Rotation, was[i].Rotation))
	}
	return left
}

// FK takes over from a spline chain without being seen. Its bones keep their length, and so do the spline's without stretch.
func TestFKMatchesASplineExactly(t *testing.T) {
	random := rand.New(rand.NewPCG(5, 2))
	var worst match.Left
	for range 20 {
		e, turn := blended(t, "FK blended on spline", random, 14)
		fk := e.Plan.Document.Mechanisms[1]
		pose(t, e, random, 0.2, 1)
		turn(0)
		was := match.Seen(e, fk)
		values, told, err := match.Take(e, nil, fk.ID)
		require.NoError(t, err)
		seen := away(e, fk, was)
		assert.InDelta(t, seen.Moves, told.Moves, 1e-12)
		assert.InDelta(t, seen.Turns, told.Turns, 1e-12)
		worst.Moves, worst.Turns = math.Max(worst.Moves, seen.Moves), math.Max(worst.Turns, seen.Turns)
		assertHolds(t, e, values, fk, was, told)
	}
	assert.LessOrEqual(t, worst.Turns, 1e-6)
	assert.LessOrEqual(t, worst.Moves, 1e-6)
	t.Logf("FK from a spline: %.2g m, %.2g rad", worst.Moves, worst.Turns)
}

// assertHolds checks that the values found make the same pose in a rig that begins at rest.
func assertHolds(t *testing.T, e *evaluate.Evaluator, values []match.Value, m rig.Mechanism, was []geometry.Transform, told match.Left) {
	t.Helper()
	channels := slices.Clone(e.Frame.Values)
	e.Zero()
	for i, control := range e.Plan.Document.Controls { // what the match did not touch is as it was
		for _, channel := range control.AllChannels() {
			require.NoError(t, e.SetChannel(i, channel, channels[e.Slot(i, channel)]))
		}
	}
	for _, v := range values {
		require.NoError(t, e.SetChannel(e.Plan.ControlIndex[v.Control], v.Channel, v.Value))
	}
	held := away(e, m, was)
	assert.InDelta(t, told.Moves, held.Moves, 1e-9)
	assert.InDelta(t, told.Turns, held.Turns, 1e-9)
}

// A chain along a curve of a few controls cannot follow every FK pose. What is left is told as it is, and less than without the search.
func TestASplineComesAsNearAsItTells(t *testing.T) {
	for _, name := range []string{"spline blended on FK", "ribbon blended on wave"} {
		random := rand.New(rand.NewPCG(8, 2))
		var worst match.Left
		for range 10 {
			e, turn := blended(t, name, random, 16)
			spline := e.Plan.Document.Mechanisms[len(e.Plan.Document.Mechanisms)-1]
			pose(t, e, random, 0, 0.12)
			turn(0)
			was := match.Seen(e, spline)
			turn(1)
			unsolved := away(e, spline, was)
			turn(0)
			values, told, err := match.Take(e, nil, spline.ID)
			require.NoError(t, err)
			seen := away(e, spline, was)
			assert.InDelta(t, seen.Moves, told.Moves, 1e-12, "what is told is what is measured")
			assert.InDelta(t, seen.Turns, told.Turns, 1e-12)
			assert.Less(t, told.Moves, unsolved.Moves)
			worst.Moves, worst.Turns = math.Max(worst.Moves, told.Moves/1.5), math.Max(worst.Turns, told.Turns)
			assertHolds(t, e, values, spline, was, told)
		}
		assert.Less(t, worst.Moves, 0.04, "of the chain's length")
		t.Logf("%s: %.2g of the chain's length, %.2g rad at worst", name, worst.Moves, worst.Turns)
	}
}

func TestMatchingSaysWhyItCannotBe(t *testing.T) {
	d, _ := build(t, wander(rand.New(rand.NewPCG(1, 2)), 9, 0.3), rigs["FK blended on spline"])
	spline, fk := d.Mechanisms[0], d.Mechanisms[1]
	off, _ := apply(t, d, &edit.SwitchMechanism{Mechanism: fk.ID})
	_, _, err := match.Take(open(t, off), nil, fk.ID)
	assert.ErrorContains(t, err, "is off; switch it on first")
	_, _, err = match.Take(open(t, d), nil, "nothing")
	assert.ErrorContains(t, err, "has no controls")
	half, _ := apply(t, d, &edit.DriveParameter{Mechanism: fk.ID, Key: "influence"})
	_, _, err = match.Take(open(t, half), nil, fk.ID)
	assert.ErrorContains(t, err, "drive it by a dial from 0 to 1")
	_, _, err = match.Take(open(t, d), nil, spline.ID)
	assert.NoError(t, err, "the one below takes charge when the dial lets it")
}

// The shares that Trace tells of the two that are blended add up, and each is what is left of it when it is switched to by its dial.
func TestTraceTellsTheSharesOfABlend(t *testing.T) {
	random := rand.New(rand.NewPCG(6, 6))
	e, turn := blended(t, "FK blended on spline", random, 12)
	d := e.Plan.Document
	pose(t, e, random, 0.2, 1)
	turn(1)
	fk := slices.Clone(e.Frame.Joints)
	turn(0)
	spline := slices.Clone(e.Frame.Joints)
	for _, value := range []float64{0, 0.3, 0.8, 1} {
		turn(value)
		drivers, err := e.Trace(d.Joints[5].ID)
		require.NoError(t, err)
		shares := map[string]float64{}
		for _, driver := range drivers {
			if driver.Kind == evaluate.ByMechanism {
				shares[driver.ID] = driver.Share
			}
		}
		assert.InDelta(t, value, shares[d.Mechanisms[1].ID], 1e-12)
		assert.InDelta(t, 1-value, shares[d.Mechanisms[0].ID], 1e-12)
		mixed := geometry.Slerp(spline[5].Rotation, fk[5].Rotation, shares[d.Mechanisms[1].ID])
		assert.InDelta(t, 0, angle(mixed, e.Frame.Joints[5].Rotation), 1e-9, "the joint is turned by so much of either")
	}
}
