package limb_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/match"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mechanism/limb"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// try lays a limb below a body joint through places and builds on it.
func try(places []mgl64.Vec3, options, parameters parameter.Set) (*rig.Document, float64, error) {
	c := &edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}
	d := rig.New("x")
	joints := []string{}
	for _, e := range []edit.Edit{
		&edit.LayChain{Positions: []mgl64.Vec3{places[0].Add(mgl64.Vec3{0, 0.3, 0})}, Pattern: "body"},
		&edit.LayChain{Positions: places, Pattern: "leg_##", Parent: "j1"},
	} {
		result, err := edit.Apply(c, d, e)
		if err != nil {
			return nil, 0, err
		}
		d = result.Document
	}
	for _, j := range d.Joints[1:] {
		joints = append(joints, j.ID)
	}
	result, err := edit.Apply(c, d, &edit.AddMechanism{Mechanism: limb.Name, Name: "leg", Joints: joints, Options: options, Parameters: parameters})
	if err != nil {
		return nil, 0, err
	}
	return result.Document, result.Drift.Joints, nil
}

func build(t require.TestingT, places []mgl64.Vec3, options, parameters parameter.Set) *rig.Document {
	d, _, err := try(places, options, parameters)
	require.NoError(t, err)
	return d
}

// leg is a leg in a plane, of two to eight bones, its knees to the front by turns and once bent in earnest.
func leg(bones int) []mgl64.Vec3 {
	places := []mgl64.Vec3{{0.3, 1, 0}}
	for i := range bones {
		lean := 0.5 - 1.1*float64(i)/float64(bones-1) + 0.15*math.Sin(float64(3*i))
		places = append(places, places[i].Add(mgl64.Vec3{0, -math.Cos(lean), math.Sin(lean)}.Mul(1/float64(bones))))
	}
	return places
}

func reach(places []mgl64.Vec3) (sum float64) {
	for i := 1; i < len(places); i++ {
		sum += places[i].Sub(places[i-1]).Len()
	}
	return sum
}

type stand struct {
	*evaluate.Evaluator
	t            require.TestingT
	target, pole int
	first, last  int
	home         geometry.Transform
}

func open(t require.TestingT, d *rig.Document) *stand {
	e, _, err := evaluate.Open(d, kinds.All(), edit.Memory{})
	require.NoError(t, err)
	m := d.Mechanisms[0]
	s := &stand{Evaluator: e, t: t, target: e.Plan.ControlIndex[m.Controls[0]], pole: -1, first: 1, last: len(d.Joints) - 1}
	if len(m.Controls) > 1 {
		s.pole = e.Plan.ControlIndex[m.Controls[1]]
	}
	s.home = d.Controls[s.target].Home()
	return s
}

// at puts the target at a place.
func (s *stand) at(place mgl64.Vec3) {
	require.NoError(s.t, s.Bring(s.target, geometry.Transform{Position: place, Rotation: s.home.Rotation}))
	s.Evaluate()
}

func (s *stand) place(joint int) mgl64.Vec3 { return s.Frame.Joints[joint].Position }

func TestNothingMovesWhenALimbIsBuilt(t *testing.T) {
	worst := 0.0
	rapid.Check(t, func(t *rapid.T) {
		number := rapid.Float64Range(-1, 1)
		places := []mgl64.Vec3{{number.Draw(t, "x"), 1, number.Draw(t, "z")}}
		direction := mgl64.Vec3{0, -1, 0}
		for range rapid.IntRange(2, 8).Draw(t, "bones") {
			turn := geometry.Order("XYZ").Rotation(mgl64.Vec3{0.4 * number.Draw(t, "a"), 0.4 * number.Draw(t, "b"), 0.4 * number.Draw(t, "c")})
			direction = turn.Rotate(direction)
			places = append(places, places[len(places)-1].Add(direction.Mul(0.3+0.2*number.Draw(t, "length"))))
		}
		parameters := parameter.Set{
			"soft": parameter.OfNumber(0.5 * math.Abs(number.Draw(t, "soft"))), "stretch": parameter.OfNumber(1), "hinge": parameter.OfToggle(rapid.Bool().Draw(t, "hinge")),
			"tip": parameter.OfChoice(rapid.SampledFrom([]string{"as the target", "with the last bone", "as the ground"}).Draw(t, "tip")),
		}
		_, drift, err := try(places, parameter.Set{"pole": parameter.OfToggle(rapid.Bool().Draw(t, "pole")), "bend": parameter.OfChoice("forward")}, parameters)
		if err != nil {
			t.Skip(err.Error())
		}
		worst = math.Max(worst, drift/reach(places))
		assert.LessOrEqual(t, drift, 1e-9*reach(places))
	})
	t.Logf("greatest rest drift %.2g of the limb's length", worst)
}

func TestTheTipIsOnTheTargetAndBonesKeepTheirLength(t *testing.T) {
	for bones := 2; bones <= 8; bones++ {
		places := leg(bones)
		length := reach(places)
		s := open(t, build(t, places, nil, parameter.Set{"soft": parameter.OfNumber(0)}))
		off, stretched := 0.0, 0.0
		rapid.Check(t, func(t *rapid.T) {
			way := rapid.Float64Range(-1, 1)
			direction := geometry.Unit(mgl64.Vec3{way.Draw(t, "x"), way.Draw(t, "y"), way.Draw(t, "z")}, geometry.Forward)
			target := places[0].Add(direction.Mul(length * rapid.Float64Range(0.55, 0.97).Draw(t, "far")))
			s.at(target)
			off = math.Max(off, s.place(s.last).Sub(target).Len()/length)
			for i := s.first; i < s.last; i++ {
				bone := places[i].Sub(places[i-1]).Len()
				stretched = math.Max(stretched, math.Abs(s.place(i+1).Sub(s.place(i)).Len()/bone-1))
			}
		})
		assert.LessOrEqual(t, off, 1e-9, "%d bones", bones)
		assert.LessOrEqual(t, stretched, 1e-9)
		t.Logf("%d bones: tip off by %.2g of the length, bones by %.2g", bones, off, stretched)
	}
}

// travel moves the target along a path in so many steps and returns the greatest turn of a joint in one of them.
func (s *stand) travel(steps int, path func(share float64) mgl64.Vec3) (greatest float64) {
	before := make([]mgl64.Quat, s.last+1)
	for k := 0; k <= steps; k++ {
		s.at(path(float64(k) / float64(steps)))
		for i := s.first; i < s.last; i++ {
			between := before[i].Conjugate().Mul(s.Frame.Joints[i].Rotation)
			if k > 0 {
				greatest = math.Max(greatest, 2*math.Atan2(between.V.Len(), math.Abs(between.W)))
			}
			before[i] = s.Frame.Joints[i].Rotation
		}
	}
	return greatest
}

// Through the edge of reach and beyond, around the root, above it and behind it: halving the step halves the greatest turn.
func TestNothingSnapsOrFlips(t *testing.T) {
	for bones := 2; bones <= 5; bones++ {
		for _, pole := range []bool{true, false} {
			places := leg(bones)
			s := open(t, build(t, places, parameter.Set{"pole": parameter.OfToggle(pole)}, parameter.Set{"soft": parameter.OfNumber(0.05)}))
			root, length := places[0], reach(places)
			around := func(axis, from mgl64.Vec3) func(float64) mgl64.Vec3 {
				return func(share float64) mgl64.Vec3 {
					return root.Add(mgl64.QuatRotate(2*math.Pi*share, axis).Rotate(from).Mul(0.8 * length))
				}
			}
			for name, path := range map[string]func(float64) mgl64.Vec3{
				"straight out and beyond": func(share float64) mgl64.Vec3 {
					return root.Add(mgl64.Vec3{0.02, -1, 0.1}.Mul(length * (0.6 + 0.9*share)))
				},
				"around the root, level": around(geometry.Up, mgl64.Vec3{1, -0.3, 0}),
				"over it, sideways":      around(geometry.Forward, mgl64.Vec3{0, -1, -0.25}),
				"behind it and over":     around(mgl64.Vec3{1, 0, 0}, mgl64.Vec3{0.3, -1, 0}),
			} {
				coarse, fine := s.travel(400, path), s.travel(800, path)
				assert.Less(t, coarse, 0.5, "%d bones, pole %v, %s", bones, pole, name)
				assert.Less(t, fine, 0.62*coarse, "%d bones, pole %v, %s", bones, pole, name)
			}
		}
	}
}

func TestALimbStretchesAsFarAsItMay(t *testing.T) {
	places := leg(3)
	length := reach(places)
	far := places[0].Add(mgl64.Vec3{0, -1.6 * length, 0})
	for stretch, want := range map[float64]float64{0: 1, 1: 1.6} {
		s := open(t, build(t, places, nil, parameter.Set{"stretch": parameter.OfNumber(stretch)}))
		s.at(far)
		assert.InDelta(t, want*length, s.place(s.last).Sub(places[0]).Len(), 1e-9+0.02*(1-stretch), "stretch %g", stretch)
		if stretch == 1 {
			assert.InDelta(t, math.Pow(1.6, -0.5), s.Frame.Scales[1][0], 0.01, "it thins")
			assert.Empty(t, s.Findings())
		} else {
			require.NotEmpty(t, s.Findings())
			assert.Contains(t, s.Findings()[0].Text, "does not reach its target")
			aim := geometry.Unit(s.place(s.last).Sub(places[0]), geometry.Up)
			assert.InDelta(t, 1, aim.Dot(far.Sub(places[0]).Normalize()), 1e-9, "it points at it")
		}
	}
	s := open(t, build(t, places, nil, parameter.Set{"stretch": parameter.OfNumber(1), "longest": parameter.OfNumber(1.25)}))
	s.at(far)
	assert.InDelta(t, 1.25*length, s.place(s.last).Sub(places[0]).Len(), 0.03)
}

func TestThePoleSaysWhereTheKneeIs(t *testing.T) {
	s := open(t, build(t, leg(2), nil, nil))
	knee := func() mgl64.Vec3 { s.Evaluate(); return s.place(2) }
	assert.Greater(t, knee()[2], 0.1, "to the front")
	require.NoError(t, s.Bring(s.pole, geometry.Transform{Position: mgl64.Vec3{2, 0.5, 0}, Rotation: mgl64.QuatIdent()}))
	s.Evaluate()
	assert.Greater(t, knee()[0], 0.3+0.1, "outward")
	assert.InDelta(t, 0, knee()[2], 0.05)
	require.NoError(t, s.SetChannel(s.pole, rig.MoveX, 0))
	pinned := open(t, build(t, leg(4), nil, parameter.Set{"pin": parameter.OfNumber(1)}))
	pinned.at(leg(4)[4].Add(mgl64.Vec3{0, 0.1, 0.1}))
	pole, nearest := pinned.Frame.Controls[pinned.pole].Position, math.Inf(1)
	for i := pinned.first + 1; i < pinned.last; i++ {
		nearest = math.Min(nearest, pinned.place(i).Sub(pole).Len())
	}
	assert.InDelta(t, 0, nearest, 1e-9, "the knee is held at the pole")
	assert.InDelta(t, 0, pinned.place(pinned.last).Sub(leg(4)[4].Add(mgl64.Vec3{0, 0.1, 0.1})).Len(), 1e-9, "and the tip at the target")
}

// Beyond the limits of its bend a limb goes no further, and says so.
func TestABendKeepsToItsLimits(t *testing.T) {
	places := leg(3)
	s := open(t, build(t, places, nil, parameter.Set{"least": parameter.OfNumber(0.8), "most": parameter.OfNumber(1.2), "soft": parameter.OfNumber(0)}))
	turn := func(i int) float64 {
		a, b := s.place(i).Sub(s.place(i-1)).Normalize(), s.place(i+1).Sub(s.place(i)).Normalize()
		return math.Acos(math.Min(1, a.Dot(b)))
	}
	rest := turn(2)
	for target, want := range map[mgl64.Vec3]float64{
		places[0].Add(mgl64.Vec3{0, -reach(places), 0}):       0.8,
		places[0].Add(mgl64.Vec3{0, -0.3 * reach(places), 0}): 1.2,
	} {
		s.at(target)
		assert.InDelta(t, want, turn(2)/rest, 1e-9)
		assert.NotEmpty(t, s.Findings())
	}
	s.at(places[3])
	assert.Empty(t, s.Findings())
}

// In line with the limb a pole says nothing: the body does, evenly.
func TestAPoleOnTheLineOfTheLimbIsTold(t *testing.T) {
	places := leg(2)
	s := open(t, build(t, places, nil, nil))
	require.NoError(t, s.Bring(s.pole, geometry.Transform{Position: places[0].Add(places[2].Sub(places[0]).Mul(2)), Rotation: mgl64.QuatIdent()}))
	s.Evaluate()
	s.Evaluate()
	require.NotEmpty(t, s.Findings())
	assert.Contains(t, s.Findings()[0].Text, "in line with the limb")
	assert.Greater(t, s.place(2)[2], 0.1, "it bends as the body has it")
}

func TestAHingeTurnsAboutTheUprightAxisOnly(t *testing.T) {
	places := []mgl64.Vec3{{0.1, 0.5, 0}, {0.3, 0.55, 0}, {0.6, 0.8, 0}, {0.9, 0.3, 0}, {0.95, 0, 0}}
	s := open(t, build(t, places, nil, parameter.Set{"hinge": parameter.OfToggle(true), "soft": parameter.OfNumber(0)}))
	for _, angle := range []float64{-1, -0.3, 0.4, 1.2} {
		turned := mgl64.QuatRotate(angle, geometry.Up)
		target := places[0].Add(turned.Rotate(places[4].Sub(places[0]).Mul(0.9)))
		s.at(target)
		assert.InDelta(t, 0, s.place(s.last).Sub(target).Len(), 1e-9)
		hinge := s.Frame.Joints[1].Rotation.Mul(s.Plan.Document.Joints[1].Rest().Rotation.Conjugate())
		assert.InDelta(t, 0, math.Hypot(hinge.V[0], hinge.V[2]), 1e-9, "it turns about the upright axis alone")
		for i := 1; i < s.last; i++ {
			out := turned.Conjugate().Rotate(s.place(i).Sub(places[0]))
			assert.InDelta(t, 0, out[2], 1e-9, "joint %d stays in the limb's plane", i)
		}
	}
}

func TestAHingeKeepsWithinItsSwing(t *testing.T) {
	places := []mgl64.Vec3{{0.1, 0.5, 0}, {0.3, 0.55, 0}, {0.6, 0.8, 0}, {0.9, 0.3, 0}, {0.95, 0, 0}}
	s := open(t, build(t, places, nil, parameter.Set{"hinge": parameter.OfToggle(true), "swing": parameter.OfNumber(20), "soft": parameter.OfNumber(0)}))
	target := places[0].Add(mgl64.QuatRotate(1, geometry.Up).Rotate(places[4].Sub(places[0]).Mul(0.9)))
	s.at(target)
	hinge := s.Frame.Joints[1].Rotation.Mul(s.Plan.Document.Joints[1].Rest().Rotation.Conjugate())
	assert.InDelta(t, 20, 2*math.Atan2(hinge.V[1], hinge.W)*180/math.Pi, 1e-9)
	assert.InDelta(t, 0, s.place(s.last).Sub(target).Len(), 1e-9, "the others still bring the tip to its target")
}

func TestTheTipTurnsAsAsked(t *testing.T) {
	for tip, want := range map[string]float64{"as the target": 0.5, "as the ground": 0} {
		s := open(t, build(t, leg(3), nil, parameter.Set{"tip": parameter.OfChoice(tip)}))
		require.NoError(t, s.SetChannel(s.target, rig.RotateY, 0.5))
		require.NoError(t, s.SetChannel(s.target, rig.MoveZ, 0.2))
		s.Evaluate()
		between := s.Plan.Document.Joints[s.last].Rest().Rotation.Conjugate().Mul(s.Frame.Joints[s.last].Rotation)
		assert.InDelta(t, want, 2*math.Atan2(between.V.Len(), math.Abs(between.W)), 1e-9, tip)
	}
}

// Feet stay where they are while the body moves, and go along with everything.
func TestTheFootStaysAndTheGlobalControlTakesItAlong(t *testing.T) {
	d := build(t, leg(3), nil, nil)
	s := open(t, d)
	foot := s.place(s.last)
	root := s.Plan.ControlIndex[d.ControlNamed(rig.RootName).ID]
	require.NoError(t, s.SetChannel(root, rig.MoveY, -0.2))
	require.NoError(t, s.SetChannel(root, rig.RotateY, 0.3))
	s.Evaluate()
	assert.InDelta(t, 0, s.place(s.last).Sub(foot).Len(), 1e-9)
	require.NoError(t, s.SetChannel(s.Plan.ControlIndex[d.ControlNamed(rig.GlobalName).ID], rig.MoveX, 4))
	s.Evaluate()
	assert.InDelta(t, 0, s.place(s.last).Sub(foot.Add(mgl64.Vec3{4, 0, 0})).Len(), 1e-9)
}

func TestLimbsThatCannotBeAreRefused(t *testing.T) {
	for want, places := range map[string][]mgl64.Vec3{
		"leg_02 stands on leg_01":   {{0, 1, 0}, {0, 1, 0}, {0, 0, 0}},
		"doubles back at leg_02":    {{0, 1, 0}, {0, 0, 0}, {0, 1, 0.001}},
		"does not say which way":    {{0, 1, 0}, {0, 0.5, 0}, {0, 0, 0}},
		"chain of 3 joints or more": {{0, 1, 0}, {0, 0.5, 0}},
		"it curls over itself":      {{0, 0, 0}, {0, 0, 1}, {0, 1, 1}, {0, 1, 0.1}, {0, 0.2, 0.1}, {0, 0.2, 0.8}, {0, 0.8, 0.8}},
	} {
		_, _, err := try(places, nil, nil)
		assert.ErrorContains(t, err, want)
	}
	_, _, err := try([]mgl64.Vec3{{0, 1, 0}, {0, 0.5, 0}, {0, 0, 0}}, parameter.Set{"pole": parameter.OfToggle(false), "bend": parameter.OfChoice("forward")}, nil)
	assert.ErrorContains(t, err, "only a pole can say")
	s := open(t, build(t, []mgl64.Vec3{{0, 1, 0}, {0, 0.5, 0}, {0, 0, 0}}, parameter.Set{"bend": parameter.OfChoice("back")}, parameter.Set{"soft": parameter.OfNumber(0)}))
	s.at(mgl64.Vec3{0, 0.3, 0})
	assert.Less(t, s.place(2)[2], -0.1, "a straight limb bends where it was told")
	assert.InDelta(t, 0.3, s.place(3)[1], 1e-9)
}

func TestTheSameBitsAndNoAllocation(t *testing.T) {
	s := open(t, build(t, leg(5), nil, parameter.Set{"stretch": parameter.OfNumber(0.5), "pin": parameter.OfNumber(0.2)}))
	move := func(i int) {
		_ = s.SetChannel(s.target, rig.MoveY, 0.3*math.Sin(float64(i)))
		s.Evaluate()
	}
	move(3)
	once := append([]geometry.Transform{}, s.Frame.Joints...)
	frame := 0
	assert.Zero(t, testing.AllocsPerRun(200, func() { frame++; move(frame) }))
	move(3)
	assert.Equal(t, once, s.Frame.Joints)
}

func BenchmarkLimb(b *testing.B) {
	for _, bones := range []int{2, 3, 6} {
		b.Run(fmt.Sprintf("bones=%d", bones), func(b *testing.B) {
			s := open(b, build(b, leg(bones), nil, nil))
			b.ReportAllocs()
			for i := 0; b.Loop(); i++ {
				_ = s.SetChannel(s.target, rig.MoveY, 0.1*math.Sin(float64(i)/9))
				s.Evaluate()
			}
		})
	}
}

// FK hands over to the limb without being seen: for two bones exactly.
func TestALimbMatchesFKExactly(t *testing.T) {
	d := build(t, leg(2), nil, parameter.Set{"soft": parameter.OfNumber(0)})
	c := &edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}
	result, err := edit.Apply(c, d, &edit.AddMechanism{Mechanism: "fk-chain", Name: "turns", Joints: d.Mechanisms[0].Joints, Blend: true})
	require.NoError(t, err)
	d = result.Document
	rapid.Check(t, func(t *rapid.T) {
		e, _, err := evaluate.Open(d, kinds.All(), edit.Memory{})
		require.NoError(t, err)
		for i, control := range d.Controls {
			if control.Dial(edit.BlendDial) != nil {
				require.NoError(t, e.SetChannel(i, edit.BlendDial, 1))
			}
		}
		number := rapid.Float64Range(-0.5, 0.5)
		fk := d.Mechanisms[1].Controls
		require.NoError(t, e.SetChannel(e.Plan.ControlIndex[fk[0]], rig.RotateX, number.Draw(t, "hip x")))
		require.NoError(t, e.SetChannel(e.Plan.ControlIndex[fk[0]], rig.RotateZ, number.Draw(t, "hip z")))
		require.NoError(t, e.SetChannel(e.Plan.ControlIndex[fk[1]], rig.RotateX, number.Draw(t, "knee")))
		require.NoError(t, e.SetChannel(e.Plan.ControlIndex[fk[2]], rig.RotateY, number.Draw(t, "ankle")))
		was := match.Seen(e, d.Mechanisms[0])
		_, left, err := match.Take(e, nil, d.Mechanisms[0].ID)
		require.NoError(t, err)
		for i, now := range match.Seen(e, d.Mechanisms[0]) {
			assert.LessOrEqual(t, now.Position.Sub(was[i].Position).Len(), left.Moves+1e-12)
		}
		assert.LessOrEqual(t, left.Moves, 1e-6)
		assert.LessOrEqual(t, left.Turns, 1e-5)
	})
}

// Whatever becomes of the joints later, and wherever target and pole go, everything that comes out is finite.
func TestNothingNonFiniteComesOutOfASpoiledLimb(t *testing.T) {
	d := build(t, leg(4), nil, parameter.Set{"stretch": parameter.OfNumber(1), "pin": parameter.OfNumber(0.5)})
	places := func(list ...mgl64.Vec3) []mgl64.Vec3 { return list }
	for name, spoiled := range map[string][]mgl64.Vec3{
		"all on one spot":    places(mgl64.Vec3{}, mgl64.Vec3{}, mgl64.Vec3{}, mgl64.Vec3{}, mgl64.Vec3{}),
		"straight":           places(mgl64.Vec3{0, 4, 0}, mgl64.Vec3{0, 3, 0}, mgl64.Vec3{0, 2, 0}, mgl64.Vec3{0, 1, 0}, mgl64.Vec3{0, 0, 0}),
		"doubled back":       places(mgl64.Vec3{}, mgl64.Vec3{0, 1, 0}, mgl64.Vec3{}, mgl64.Vec3{0, 1, 0}, mgl64.Vec3{}),
		"a bone of length 0": places(mgl64.Vec3{0, 2, 0}, mgl64.Vec3{0, 1, 0.3}, mgl64.Vec3{0, 1, 0.3}, mgl64.Vec3{0, 0.5, 0}, mgl64.Vec3{}),
	} {
		for _, hinge := range []bool{false, true} {
			e := d.Clone()
			e.Mechanisms[0].Parameters["hinge"] = parameter.OfToggle(hinge)
			for i, place := range spoiled {
				e.Joints[i+1].Position = place
			}
			s := open(t, e)
			for _, target := range []mgl64.Vec3{{}, {0, 0.5, 0}, spoiled[0], spoiled[4], {1e5, -1e5, 3}, {0, 1e-300, 0}} {
				s.at(target)
				require.NoError(t, s.PullTo(s.pole, target))
				s.Evaluate()
				for i, joint := range s.Frame.Joints {
					assert.True(t, geometry.FiniteVector(joint.Position) && geometry.FiniteVector(joint.Rotation.V) && geometry.Finite(joint.Rotation.W) && geometry.FiniteVector(s.Frame.Scales[i]), "%s, joint %d", name, i)
				}
			}
		}
	}
}
