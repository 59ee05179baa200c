package splinechain_test

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
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mechanism/splinechain"
	"myriapod/core/mechanism/wave"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// What these tests begin with.
var (
	evaluator = rigtest.Open
)

// build lays a chain through places and builds a spline chain on it.
func build(t require.TestingT, places []mgl64.Vec3, controls int, parameters parameter.Set) *rig.Document {
	d := rig.New("test")
	context := &edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}
	laid, err := edit.Apply(context, d, &edit.LayChain{Positions: places, Pattern: "spine_##"})
	require.NoError(t, err)
	joints := []string{}
	for _, j := range laid.Document.Joints {
		joints = append(joints, j.ID)
	}
	built, err := edit.Apply(context, laid.Document, &edit.AddMechanism{
		Mechanism: splinechain.Name, Name: "spine", Joints: joints,
		Options: parameter.Set{"controls": parameter.OfNumber(float64(controls))}, Parameters: parameters,
	})
	require.NoError(t, err)
	return built.Document
}

// wander is a random chain that never stands still: each bone turns from the one before.
func wander(t *rapid.T, least, most int) []mgl64.Vec3 {
	count := rapid.IntRange(least, most).Draw(t, "joints")
	length := rapid.Float64Range(0.05, 3).Draw(t, "bone")
	bend := rapid.Float64Range(0, 0.9).Draw(t, "bend")
	turn := rapid.Float64Range(-1, 1)
	places := []mgl64.Vec3{{turn.Draw(t, "x"), turn.Draw(t, "y"), turn.Draw(t, "z")}}
	direction := mgl64.Vec3{0, 0, 1}
	for i := 1; i < count; i++ {
		q := geometry.Order("XYZ").Rotation(mgl64.Vec3{bend * turn.Draw(t, "a"), bend * turn.Draw(t, "b"), bend * turn.Draw(t, "c")})
		direction = q.Rotate(direction)
		places = append(places, places[i-1].Add(direction.Mul(length*rapid.Float64Range(0.5, 1.5).Draw(t, "share"))))
	}
	return places
}

func chainLength(places []mgl64.Vec3) float64 {
	sum := 0.0
	for i := 1; i < len(places); i++ {
		sum += places[i].Sub(places[i-1]).Len()
	}
	return sum
}

// straight is a plain chain of count joints, a metre long in all.
func straight(count int) []mgl64.Vec3 {
	places := make([]mgl64.Vec3, count)
	for i := range places {
		places[i] = mgl64.Vec3{0, 0.3, float64(i) / float64(count-1)}
	}
	return places
}

func TestNothingMovesWhenAChainIsBuilt(t *testing.T) {
	worst := 0.0
	rapid.Check(t, func(t *rapid.T) {
		places := wander(t, 3, 60)
		controls := rapid.IntRange(3, min(12, len(places))).Draw(t, "controls")
		d := build(t, places, controls, parameter.Set{"stretch": parameter.OfNumber(rapid.Float64Range(0, 1).Draw(t, "stretch"))})
		e := evaluator(t, d)
		for i, joint := range d.Joints {
			share := e.Frame.Joints[i].Position.Sub(joint.Position).Len() / chainLength(places)
			worst = math.Max(worst, share)
			require.LessOrEqual(t, share, 1e-9, "joint %d", i)
			turned := e.Frame.Joints[i].Rotation.Mul(joint.Rotation.Quat().Conjugate())
			require.LessOrEqual(t, turned.V.Len(), 1e-8, "joint %d turned", i)
			require.InDelta(t, 1, e.Frame.Scales[i][0], 1e-8)
		}
	})
	t.Logf("greatest rest drift: %.2g of the chain's length", worst)
}

// place puts every control anywhere within reach metres, turned anyhow.
func place(t *rapid.T, e *evaluate.Evaluator, reach float64) {
	move, turn := rapid.Float64Range(-reach, reach), rapid.Float64Range(-10, 10)
	for i := range e.Plan.Document.Controls {
		for _, channel := range rig.Channels {
			value := move
			if channel.Turns() {
				value = turn
			}
			require.NoError(t, e.SetChannel(i, channel, value.Draw(t, string(channel))))
		}
	}
	e.Evaluate()
}

func TestBonesKeepTheirLengthWithoutStretch(t *testing.T) {
	worst := 0.0
	rapid.Check(t, func(t *rapid.T) {
		places := wander(t, 3, 40)
		e := evaluator(t, build(t, places, rapid.IntRange(3, min(8, len(places))).Draw(t, "controls"), nil))
		place(t, e, chainLength(places)*rapid.SampledFrom([]float64{0.05, 0.3, 1, 10, 1000}).Draw(t, "reach"))
		for i := 1; i < len(places); i++ {
			rest := places[i].Sub(places[i-1]).Len()
			now := e.Frame.Joints[i].Position.Sub(e.Frame.Joints[i-1].Position).Len()
			error := math.Abs(now-rest) / rest
			worst = math.Max(worst, error)
			require.LessOrEqual(t, error, 1e-6, "bone %d", i)
		}
	})
	t.Logf("greatest relative error of a bone's length: %.2g", worst)
}

func TestVolumeIsKept(t *testing.T) {
	worst := 0.0
	rapid.Check(t, func(t *rapid.T) {
		places := wander(t, 3, 30)
		d := build(t, places, rapid.IntRange(3, min(6, len(places))).Draw(t, "controls"), parameter.Set{"stretch": parameter.OfNumber(1), "volume": parameter.OfNumber(1)})
		e := evaluator(t, d)
		place(t, e, 0.7*chainLength(places))
		for i := 1; i < len(places); i++ {
			length := e.Frame.Joints[i].Position.Sub(e.Frame.Joints[i-1].Position).Len() / places[i].Sub(places[i-1]).Len()
			s := e.Frame.Scales[i-1]
			error := math.Abs(s[0]*s[2]*length - 1)
			worst = math.Max(worst, error)
			require.LessOrEqual(t, error, 1e-6, "bone %d", i)
			require.Equal(t, 1.0, s[1], "own scale only fattens or thins")
		}
	})
	t.Logf("greatest change of a bone's volume: %.2g", worst)
}

func TestNothingIsEverNonFinite(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		places := wander(t, 3, 20)
		d := build(t, places, rapid.IntRange(3, min(6, len(places))).Draw(t, "controls"), parameter.Set{
			"stretch": parameter.OfNumber(rapid.SampledFrom([]float64{0, 0.5, 1}).Draw(t, "stretch")),
		})
		e := evaluator(t, d)
		switch rapid.IntRange(0, 3).Draw(t, "case") {
		case 0: // all on one spot
			for i, control := range d.Controls {
				home := control.Home().Rotation.Conjugate().Rotate(control.Position.Mul(-1))
				for k := range 3 {
					require.NoError(t, e.SetChannel(i, rig.Channels[k], home[k]))
				}
			}
		case 1: // reversed: each where its counterpart was
			for i, control := range d.Controls {
				other := d.Controls[len(d.Controls)-1-i]
				move := control.Home().Rotation.Conjugate().Rotate(other.Position.Sub(control.Position))
				for k := range 3 {
					require.NoError(t, e.SetChannel(i, rig.Channels[k], move[k]))
				}
				require.NoError(t, e.SetChannel(i, rig.RotateX, math.Pi))
			}
		case 2: // a kilometre away
			for i := range d.Controls {
				require.NoError(t, e.SetChannel(i, rig.MoveX, 1000*float64(i%2)))
			}
		case 3:
			place(t, e, 2000)
		}
		e.Evaluate()
		for i, joint := range e.Frame.Joints {
			require.True(t, geometry.FiniteVector(joint.Position) && geometry.FiniteVector(joint.Rotation.V) && geometry.Finite(joint.Rotation.W), "joint %d: %v", i, joint)
			require.True(t, geometry.FiniteVector(e.Frame.Scales[i]), "scale %d", i)
			require.InDelta(t, 1, joint.Rotation.Len(), 1e-9)
		}
	})
}

func TestCollapsedControlsRaiseAFinding(t *testing.T) {
	d := build(t, straight(12), 5, nil)
	e := evaluator(t, d)
	require.Empty(t, e.Findings())
	for i := range 5 { // fold the end back onto the beginning
		require.NoError(t, e.SetChannel(i+2, rig.MoveY, []float64{0, -0.25, -0.5, -0.75, -1}[i]))
	}
	e.Evaluate()
	require.NotEmpty(t, e.Findings())
	assert.Equal(t, d.Mechanisms[0].ID, e.Findings()[0].Subject)
}

// Two full turns each way in steps of a degree, on random gentle bends: no joint may turn by much more than the step.
func TestTwistRunsThroughTurnsWithoutAFlip(t *testing.T) {
	worst := 0.0
	step := math.Pi / 180
	rapid.Check(t, func(t *rapid.T) {
		d := build(t, straight(24), 5, nil)
		e := evaluator(t, d)
		bend := rapid.Float64Range(-0.22, 0.22)
		for i := range d.Controls {
			for _, channel := range []rig.Channel{rig.MoveX, rig.MoveZ} {
				require.NoError(t, e.SetChannel(i, channel, bend.Draw(t, "bend")))
			}
		}
		last := len(d.Controls) - 1
		before := make([]mgl64.Quat, len(d.Joints))
		for degree := -720; degree <= 720; degree++ {
			require.NoError(t, e.SetChannel(last, rig.RotateY, float64(degree)*step))
			e.Evaluate()
			for i, joint := range e.Frame.Joints {
				if degree > -720 {
					angle := 2 * math.Acos(math.Min(1, math.Abs(joint.Rotation.Dot(before[i]))))
					worst = math.Max(worst, angle/step)
					if angle > 3*step {
						require.LessOrEqual(t, angle, 3*step, "joint %d at %d°", i, degree)
					}
				}
				before[i] = joint.Rotation
			}
		}
	})
	t.Logf("greatest turn of a joint: %.3f of the step", worst)
}

func TestTwistIsSpreadEvenlyAndByItsProfile(t *testing.T) {
	turnAt := func(d *rig.Document, joint int, degrees float64) float64 {
		e := evaluator(t, d)
		require.NoError(t, e.SetChannel(len(d.Controls)-1, rig.RotateY, degrees*math.Pi/180))
		e.Evaluate()
		second := e.Frame.Joints[joint].Rotation.Rotate(geometry.SecondAxis)
		rest := d.Joints[joint].Rest().Rotation.Rotate(geometry.SecondAxis)
		return geometry.SignedAngle(rest, second, mgl64.Vec3{0, 0, 1}) * 180 / math.Pi
	}
	even := build(t, straight(21), 4, nil)
	assert.InDelta(t, 50, turnAt(even, 10, 100), 1e-6)
	assert.InDelta(t, 25, turnAt(even, 5, 100), 1e-6)
	late := build(t, straight(21), 4, parameter.Set{"twistProfile": parameter.OfProfile(parameter.Point{0, 0}, parameter.Point{0.5, 0}, parameter.Point{1, 1})})
	assert.InDelta(t, 0, turnAt(late, 10, 100), 1e-6)
	assert.InDelta(t, 50, turnAt(late, 15, 100), 1e-6)
}

func TestStretchSpreadsTheJointsAndItsLimitsHold(t *testing.T) {
	pull := func(parameters parameter.Set, by float64) float64 {
		d := build(t, straight(11), 3, parameters)
		e := evaluator(t, d)
		for i := range d.Controls[2:] { // the global control and the root stay
			require.NoError(t, e.SetChannel(i+2, rig.MoveY, by*float64(i)/2))
		}
		e.Evaluate()
		return e.Frame.Joints[10].Position[2]
	}
	number := parameter.OfNumber
	assert.InDelta(t, 1, pull(nil, 1), 1e-9, "without stretch the length stays")
	assert.InDelta(t, 2, pull(parameter.Set{"stretch": number(1)}, 1), 1e-9)
	assert.InDelta(t, 1.5, pull(parameter.Set{"stretch": number(0.5)}, 1), 1e-6)
	assert.InDelta(t, 1.25, pull(parameter.Set{"stretch": number(1), "longest": number(1.25)}, 1), 1e-6)
}

func TestUnscaledFormLeavesScaleAlone(t *testing.T) {
	d := build(t, straight(9), 3, parameter.Set{"stretch": parameter.OfNumber(1), "form": parameter.OfChoice("unscaled")})
	e := evaluator(t, d)
	require.NoError(t, e.SetChannel(3, rig.MoveY, 0.5))
	e.Evaluate()
	for i := range d.Joints {
		assert.Equal(t, mgl64.Vec3{1, 1, 1}, e.Frame.Scales[i])
	}
}

func TestTheCurvePassesThroughItsControls(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		places := wander(t, 8, 30)
		e := evaluator(t, build(t, places, rapid.IntRange(3, 8).Draw(t, "controls"), parameter.Set{"stretch": parameter.OfNumber(1)}))
		place(t, e, 0.3*chainLength(places))
		line := e.Frame.Curves[0].Ruler
		for i := 2; i < len(e.Frame.Controls); i++ { // 0 and 1 carry the whole
			nearest := math.Inf(1)
			for k := range 4001 {
				at, _ := line.Line.At(float64(k) / 4000)
				nearest = math.Min(nearest, at.Sub(e.Frame.Controls[i].Position).Len())
			}
			require.Less(t, nearest, 2e-3*line.Total()+1e-9, "control %d", i)
		}
	})
}

func TestRefusalsSayWhatToDo(t *testing.T) {
	context := &edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}
	laid, err := edit.Apply(context, rig.New("test"), &edit.LayChain{Positions: straight(4), Pattern: "a_#"})
	require.NoError(t, err)
	ids := []string{}
	for _, j := range laid.Document.Joints {
		ids = append(ids, j.ID)
	}
	for want, e := range map[string]*edit.AddMechanism{
		"chain of 3 joints or more": {Mechanism: splinechain.Name, Name: "x", Joints: ids[:2]},
		"too many for 4 joints":     {Mechanism: splinechain.Name, Name: "x", Joints: ids, Options: parameter.Set{"controls": parameter.OfNumber(10)}},
		"does not hang on":          {Mechanism: splinechain.Name, Name: "x", Joints: []string{ids[0], ids[2], ids[3]}},
		"no joint":                  {Mechanism: splinechain.Name, Name: "x", Joints: []string{"gone", ids[2], ids[3]}},
		"whole number, not 3.5":     {Mechanism: splinechain.Name, Name: "x", Joints: ids, Options: parameter.Set{"controls": parameter.OfNumber(3.5)}},
		"between 3 and 64":          {Mechanism: splinechain.Name, Name: "x", Joints: ids, Options: parameter.Set{"controls": parameter.OfNumber(2)}},
	} {
		_, err := edit.Apply(context, laid.Document, e)
		assert.ErrorContains(t, err, want)
	}
}

func withWave(t require.TestingT, d *rig.Document, parameters parameter.Set) *rig.Document {
	result, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}, d,
		&edit.AddMechanism{Mechanism: wave.Name, Name: "wave", Host: d.Mechanisms[0].ID, Parameters: parameters})
	require.NoError(t, err)
	require.LessOrEqual(t, result.Drift.Joints, 1e-9)
	return result.Document
}

func TestTheSameBitsTwiceAndNoAllocation(t *testing.T) {
	d := withWave(t, build(t, straight(40), 6, parameter.Set{"stretch": parameter.OfNumber(0.4)}), nil)
	a, b := evaluator(t, d), evaluator(t, d)
	move := func(e *evaluate.Evaluator, i int) {
		_ = e.SetChannel(2, rig.MoveX, 0.1*math.Sin(float64(i)))
		e.SetTime(float64(i) / 24)
		e.Evaluate()
	}
	for i := range 50 {
		move(a, i)
	}
	for i := 49; i >= 0; i-- { // b comes to each frame from the other side
		move(b, i)
	}
	for i := range 50 {
		move(b, i)
	}
	assert.Equal(t, a.Frame.Joints, b.Frame.Joints)
	frame := 0
	assert.Zero(t, testing.AllocsPerRun(200, func() { frame++; move(a, frame) }))
}

// BenchmarkChain moves one control and the time of a chain with a wave, for growing numbers of joints: the cost per joint must
// not grow.
func BenchmarkChain(b *testing.B) {
	for _, joints := range []int{10, 40, 160, 640} {
		b.Run(fmt.Sprintf("joints=%d", joints), func(b *testing.B) {
			e := evaluator(b, withWave(b, build(b, straight(joints), 6, parameter.Set{"stretch": parameter.OfNumber(0.3)}), nil))
			b.ReportAllocs()
			for i := 0; b.Loop(); i++ {
				_ = e.SetChannel(3, rig.MoveX, 0.1*math.Sin(float64(i)/9))
				e.SetTime(float64(i) / 60)
				e.Evaluate()
			}
			b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N)/float64(joints), "ns/joint")
		})
	}
}
