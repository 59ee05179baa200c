package splinechain_test

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/evaluate"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// lying are chains of a given number of joints at rest, in bones of about 1.
var lying = map[string]func(k, joints float64) mgl64.Vec3{
	"straight": func(k, _ float64) mgl64.Vec3 { return mgl64.Vec3{0, k, 0} },
	"bent": func(k, joints float64) mgl64.Vec3 {
		return mgl64.Vec3{joints / 2 * math.Sin(2*k/joints), 0.1 * k, joints / 2 * (1 - math.Cos(2*k/joints))}
	},
	"hairpin": func(k, joints float64) mgl64.Vec3 {
		half := (joints - 1) / 2
		return mgl64.Vec3{2 * math.Tanh((k-half)/1.5), half - math.Abs(k-half), 0.02 * k}
	},
	"curled": func(k, _ float64) mgl64.Vec3 {
		return mgl64.Vec3{2 * math.Cos(k/2), 0.2 * k, 2 * math.Sin(k/2)}
	},
}

// bend moves every control by up to so many spacings, and turns it a little.
func bend(t *testing.T, e *evaluate.Evaluator, random *rand.Rand, reach float64) {
	for i, control := range e.Plan.Document.Controls {
		if control.Name == rig.GlobalName || control.Name == rig.RootName {
			continue
		}
		for _, channel := range rig.Channels {
			most := reach
			if channel.Turns() {
				most = 0.6
			}
			require.NoError(t, e.SetChannel(i, channel, most*(2*random.Float64()-1)))
		}
	}
	e.Evaluate()
}

// off is how far a joint stands from the curve, or from its end's tangent, found by looking along both closely.
func off(e *evaluate.Evaluator, joint mgl64.Vec3) float64 {
	ruler := e.Frame.Curves[0].Ruler
	nearest := math.Inf(1)
	var before mgl64.Vec3
	const looks = 4000
	for k := range looks + 1 {
		at, _ := ruler.Line.At(float64(k) / looks)
		if k > 0 {
			nearest = math.Min(nearest, apart(joint, before, at))
		}
		before = at
	}
	end, frame := ruler.End()
	return math.Min(nearest, apart(joint, end, end.Add(frame.Tangent.Mul(100))))
}

// apart is how far a place is from the piece of a line between two others.
func apart(p, a, b mgl64.Vec3) float64 {
	way := b.Sub(a)
	share := 0.0
	if square := way.Dot(way); square > 0 {
		share = math.Max(0, math.Min(1, p.Sub(a).Dot(way)/square))
	}
	return p.Sub(a.Add(way.Mul(share))).Len()
}

// The joints of a chain without stretch stay on its curve though nothing is searched for: the worst joint of a pose stands 0.05 bones off at
// the median, and 0.15 where the curve turns no tighter than a bone can follow.
func TestJointsStayOnTheCurve(t *testing.T) {
	for name, at := range lying {
		t.Run(name, func(t *testing.T) {
			random := rand.New(rand.NewPCG(4, 4))
			var worst []float64
			for range 12 {
				joints := 14 + random.IntN(20)
				places := make([]mgl64.Vec3, joints)
				for i := range places {
					places[i] = at(float64(i), float64(joints))
				}
				e := evaluator(t, build(t, places, 5, nil))
				rest := 0.0 // the fit leaves some of them off the curve at rest already
				for _, j := range e.Frame.Joints {
					rest = math.Max(rest, off(e, j.Position))
				}
				for range 6 {
					bend(t, e, random, 0.4*float64(joints-1)/4)
					if len(e.Findings()) > 0 {
						continue // it folds more tightly than its bones, and says so
					}
					most := 0.0
					for _, j := range e.Frame.Joints {
						most = math.Max(most, off(e, j.Position)-rest)
					}
					worst = append(worst, most)
				}
			}
			slices.Sort(worst)
			require.Greater(t, len(worst), 20)
			t.Logf("%d poses: median %.3f, 9 of 10 %.3f, worst %.3f bones off", len(worst), worst[len(worst)/2], worst[len(worst)*9/10], worst[len(worst)-1])
			assert.LessOrEqual(t, worst[len(worst)/2], 0.05)
			assert.LessOrEqual(t, worst[len(worst)-1], 0.15)
		})
	}
}

// A curled chain whose controls are laid out straight lies on the straight line.
func TestACurledChainLaidStraightLiesStraight(t *testing.T) {
	places := make([]mgl64.Vec3, 30)
	for i := range places {
		places[i] = lying["curled"](float64(i), 30)
	}
	d := build(t, places, 7, nil)
	e := evaluator(t, d)
	m := d.Mechanisms[0]
	rest := 0.0
	for _, j := range e.Frame.Joints {
		rest = math.Max(rest, off(e, j.Position))
	}
	for k, id := range m.Controls {
		control := e.Plan.ControlIndex[id]
		to := e.Frame.Controls[control]
		to.Position = mgl64.Vec3{0, 0, 29 * float64(k) / 6}
		to.Rotation = mgl64.QuatBetweenVectors(to.Rotation.Rotate(mgl64.Vec3{0, 1, 0}), mgl64.Vec3{0, 0, 1}).Mul(to.Rotation)
		require.NoError(t, e.Bring(control, to))
		e.Evaluate()
	}
	worst := 0.0
	for _, j := range e.Frame.Joints {
		worst = math.Max(worst, off(e, j.Position)-rest)
	}
	t.Logf("worst joint %.3f bones off, beyond %.3f at rest", worst, rest)
	assert.LessOrEqual(t, worst, 0.15)
}

// With stretch 1 and limits that are not met the last joint is at the last control.
func TestWithWholeStretchTheLastJointIsAtTheLastControl(t *testing.T) {
	for name, at := range lying {
		random := rand.New(rand.NewPCG(5, 5))
		worst := 0.0
		for range 200 {
			joints := 5 + random.IntN(20)
			places := make([]mgl64.Vec3, joints)
			for i := range places {
				places[i] = at(float64(i), float64(joints))
			}
			d := build(t, places, 4, parameter.Set{"stretch": parameter.OfNumber(1), "longest": parameter.OfNumber(10), "shortest": parameter.OfNumber(0.05)})
			e := evaluator(t, d)
			last := e.Plan.ControlIndex[d.Mechanisms[0].Controls[3]]
			local := e.Frame.Controls[last].Inverse().Apply(e.Frame.Joints[joints-1].Position)
			bend(t, e, random, 0.5*float64(joints-1)/3)
			within := true
			for i := 1; i < joints; i++ {
				share := e.Frame.Joints[i].Position.Sub(e.Frame.Joints[i-1].Position).Len() / places[i].Sub(places[i-1]).Len()
				within = within && share > 0.051 && share < 9.99
			}
			if within {
				worst = math.Max(worst, e.Frame.Controls[last].Apply(local).Sub(e.Frame.Joints[joints-1].Position).Len()/chainLength(places))
			}
		}
		assert.LessOrEqual(t, worst, 1e-9, name)
		t.Logf("%s: %.2g of the length", name, worst)
	}
}
