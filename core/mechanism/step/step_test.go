package step_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/mechanism/ground"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mechanism/limb"
	"myriapod/core/mechanism/step"
	"myriapod/core/motion"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// What these tests begin with.
var (
	context = rigtest.Context
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

// crawler has a body of five segments with a pair of legs each, made from one leg, which walk along a keyed path that turns.
func crawler(t require.TestingT, parameters parameter.Set, land ...parameter.Set) *rig.Document {
	d := rig.New("x")
	apply := func(e edit.Edit) {
		result, err := edit.Apply(context(), d, e)
		require.NoError(t, err)
		if result.Drift != nil {
			require.LessOrEqual(t, result.Drift.Joints, 1e-9)
		}
		d = result.Document
	}
	lay := &edit.LayChain{Pattern: "body_#"}
	for i := range 6 {
		lay.Positions = append(lay.Positions, mgl64.Vec3{0, 0.5, 1 - 0.4*float64(i)})
	}
	apply(lay)
	apply(&edit.LayChain{Positions: []mgl64.Vec3{{0.1, 0.5, 1}, {0.35, 0.65, 1}, {0.5, 0.3, 1.05}, {0.55, 0, 1}}, Pattern: "leg_L1_#", Parent: id(t, d, "body_1")})
	apply(&edit.AddRepeat{Name: "sides", Rule: rig.Mirror, Sources: []string{id(t, d, "leg_L1_1")}})
	apply(&edit.AddRepeat{
		Name: "along", Rule: rig.Series, Sources: []string{id(t, d, "leg_L1_1"), d.Repeats[0].ID + ".1/" + id(t, d, "leg_L1_1")},
		Stations: []string{id(t, d, "body_2"), id(t, d, "body_3"), id(t, d, "body_4"), id(t, d, "body_5")},
	})
	apply(&edit.AddMechanism{Mechanism: limb.Name, Name: "reach_L1", Joints: []string{id(t, d, "leg_L1_1"), id(t, d, "leg_L1_4")}, Options: parameter.Set{"pole": parameter.OfToggle(false)}})
	apply(&edit.AddMechanism{Mechanism: step.Name, Name: "step_L1", Host: id(t, d, "reach_L1"), Parameters: parameters})
	for _, given := range land {
		apply(&edit.AddMechanism{Mechanism: ground.Name, Name: "ground", Parameters: given})
	}
	apply(&edit.AddClip{Name: "walk", End: 240})
	root := d.ControlNamed(rig.RootName).ID
	set := &edit.SetKeys{Clip: d.Clips[0].ID}
	for frame, pose := range map[float64][3]float64{0: {0, 0, 0}, 120: {0.4, 2.2, 0.5}, 240: {2, 3.6, 1.2}} {
		for k, channel := range []rig.Channel{rig.MoveX, rig.MoveZ, rig.RotateY} {
			set.Keys = append(set.Keys, edit.KeyValue{KeyPlace: edit.KeyPlace{Control: root, Channel: channel, Frame: frame}, Value: pose[k], Ease: rig.Smooth})
		}
	}
	apply(set)
	return d
}

type walker struct {
	*evaluate.Evaluator
	d    *rig.Document
	feet []int
}

func open(t require.TestingT, d *rig.Document) *walker {
	e, _, err := evaluate.Open(d, kinds.All(), edit.Memory{})
	require.NoError(t, err)
	e.SetClip(motion.Prepare(d.Clips[0]))
	w := &walker{Evaluator: e, d: e.Plan.Document}
	for _, m := range e.Plan.Document.Mechanisms {
		if m.Kind == limb.Name {
			w.feet = append(w.feet, e.Plan.JointIndex[m.Joints[len(m.Joints)-1]])
		}
	}
	return w
}

func (w *walker) at(frame float64) []mgl64.Vec3 {
	w.SetFrame(frame)
	w.Evaluate()
	places := make([]mgl64.Vec3, len(w.feet))
	for i, foot := range w.feet {
		places[i] = w.Frame.Joints[foot].Position
	}
	return places
}

// edge is how near to the beginning and the end of its standing a foot is not looked at: the way of the body is summed up anew here, and not to the
// last digit.
const edge = 0.02

// beats works out by itself where each leg is in its step, so many times a frame: from what the body is seen to cover, and where the leg hangs.
func (w *walker) beats(rate int) [][]float64 {
	root := w.d.ControlNamed(rig.RootName)
	index := w.Plan.ControlIndex[root.ID]
	wide := 0.0 // half the body's lesser extent
	for _, j := range w.d.Joints {
		wide = math.Max(wide, math.Abs(j.Position[0]))
	}
	var list [][]float64
	for _, m := range w.d.Mechanisms {
		if m.Kind != step.Name {
			continue
		}
		joints := w.d.Mechanism(m.Host).Joints
		phase := -(w.d.Joint(joints[len(joints)-1]).Position[2] - root.Position[2]) / m.Parameters.Number("wave")
		if w.d.Joint(joints[0]).Position[0] < 0 {
			phase += 0.5
		}
		covered, beats := 0.0, []float64{phase}
		var place, ahead mgl64.Vec3
		for k := range 240*rate + 1 {
			w.at(float64(k) / float64(rate))
			now := w.Frame.Controls[index]
			facing := now.Rotation.Rotate(geometry.Forward)
			if k > 0 {
				covered += math.Hypot(now.Position[0]-place[0], now.Position[2]-place[2]) + wide*math.Acos(math.Min(1, facing.Dot(ahead)))
				beats = append(beats, phase+covered/m.Parameters.Number("stride"))
			}
			place, ahead = now.Position, facing
		}
		list = append(list, beats)
	}
	return list
}

// Along the whole path, turning and over a slope, feet that stand do not slide at all, and every leg steps.
func TestFeetThatStandDoNotSlide(t *testing.T) {
	d := crawler(t, parameter.Set{
		"stride": parameter.OfNumber(0.3), "wave": parameter.OfNumber(1.2), "duty": parameter.OfNumber(0.7),
	}, parameter.Set{"shape": parameter.OfChoice("slope"), "rise": parameter.OfNumber(0.15), "run": parameter.OfNumber(1.5), "begin": parameter.OfNumber(1.5)})
	w := open(t, d)
	require.Len(t, w.feet, 10)
	const rate = 4
	beats := w.beats(rate)
	slip, stands, steps, moved := 0.0, make([]int, 10), make([]int, 10), 0.0
	before, first := w.at(0), w.at(0)
	stood := make([]bool, 10)
	for k := 1; k <= 240*rate; k++ {
		now := w.at(float64(k) / rate)
		for i := range now {
			into := beats[i][k] - math.Floor(beats[i][k])
			standing := into > edge && into < 0.7-edge
			if standing && stood[i] {
				slip = math.Max(slip, now[i].Sub(before[i]).Len())
				stands[i]++
			} else if stood[i] {
				steps[i]++
			}
			if standing || into > 0.7+edge && into < 1-edge {
				assert.Equal(t, standing, w.Frame.Goals[i].Stands, "leg %d at %d", i, k)
			}
			stood[i] = standing
			moved = math.Max(moved, now[i].Sub(first[i]).Len())
			land := 0.15 * math.Max(0, math.Min(1, (now[i][2]-1.5)/1.5))
			assert.GreaterOrEqual(t, now[i][1], land-0.02, "no foot goes through the ground")
		}
		before = now
	}
	t.Logf("slip while standing %.2g m; steps %v", slip, steps)
	assert.LessOrEqual(t, slip, 1e-9)
	assert.Greater(t, moved, 3.0)
	for i := range steps {
		assert.Greater(t, steps[i], 8, "leg %d", i)
		assert.Greater(t, stands[i], 240*rate/2, "leg %d stands most of the time", i)
	}
}

// Legs that are nearly straight come into their soft reach. Where that lets a standing foot slide, the frame says so at its leg.
func TestAFootThatSlidesIsToldOf(t *testing.T) {
	d := crawler(t, parameter.Set{"stride": parameter.OfNumber(0.5), "wave": parameter.OfNumber(1.2), "duty": parameter.OfNumber(0.7)})
	for i := range d.Mechanisms {
		if d.Mechanisms[i].Kind == limb.Name {
			d.Mechanisms[i].Parameters["soft"] = parameter.OfNumber(0.3)
		}
	}
	w := open(t, d)
	reach := w.d.LengthOf(w.d.Mechanisms[0].Joints)
	before, stood := w.at(0), make([]bool, len(w.feet))
	slides, holds := 0, 0
	said := map[string]bool{}
	for k := 1; k <= 240*4; k++ {
		now := w.at(float64(k) / 4)
		told := map[string]bool{}
		for _, finding := range w.Findings() {
			told[finding.Subject] = true
		}
		limbs := 0
		for _, m := range w.d.Mechanisms {
			if m.Kind != limb.Name {
				continue
			}
			i := limbs
			limbs++
			slip := now[i].Sub(before[i]).Len()
			switch {
			case !stood[i] || !w.Frame.Goals[i].Stands:
			case slip > 1e-9*reach:
				slides++
				assert.True(t, told[m.ID] || said[m.ID], "%s slides by %g at %d", m.Name, slip, k)
			default:
				holds++
			}
			stood[i] = w.Frame.Goals[i].Stands
		}
		before, said = now, told
	}
	assert.Greater(t, slides, 100)
	assert.Greater(t, holds, 100)
	t.Logf("%d looks at a foot that slides, all told of, and %d at one that holds", slides, holds)
}

// What a gait is called moves no foot, and neither does where the world's origin is: a turn on the spot takes as many steps anywhere.
func TestAGaitGoesByTheBodyAlone(t *testing.T) {
	parameters := parameter.Set{"stride": parameter.OfNumber(0.3), "wave": parameter.OfNumber(1.2)}
	d := crawler(t, parameters)
	want := open(t, d)
	renamed, err := edit.Apply(context(), d, &edit.Rename{ID: id(t, d, "step_L1"), Name: "trot_R7"})
	require.NoError(t, err)
	got := open(t, renamed.Document)
	for frame := 0.0; frame < 240; frame += 7 {
		require.Equal(t, want.at(frame), got.at(frame))
	}
	lifts := func(x float64) (count int) {
		d := crawler(t, parameters)
		root := d.ControlNamed(rig.RootName).ID
		for i := range d.Clips[0].Tracks {
			track := &d.Clips[0].Tracks[i]
			for k := range track.Keys {
				if track.Control == root && track.Channel != rig.RotateY {
					track.Keys[k].Value = map[rig.Channel]float64{rig.MoveX: x}[track.Channel]
				}
			}
		}
		w, stood := open(t, d), false
		for k := range 240 * 4 {
			w.at(float64(k) / 4)
			if stands := w.Frame.Goals[0].Stands; stood && !stands {
				count++
				stood = false
			} else if stands {
				stood = true
			}
		}
		return count
	}
	here := lifts(0)
	assert.Positive(t, here)
	assert.Equal(t, here, lifts(10))
	assert.Equal(t, here, lifts(1000))
}

func TestAWalkScrubsAsItPlays(t *testing.T) {
	d := crawler(t, parameter.Set{"wave": parameter.OfNumber(1.2)})
	a, b := open(t, d), open(t, d)
	for frame := 0.0; frame <= 150; frame++ {
		a.at(frame)
	}
	for _, frame := range []float64{240, 12, 199, 3, 150} {
		b.at(frame)
	}
	assert.Equal(t, a.Frame.Joints, b.Frame.Joints)
	frame := 0
	assert.Zero(t, testing.AllocsPerRun(50, func() { frame++; a.SetFrame(float64(frame)); a.Evaluate() }))
}

func TestTheBeatGoesByPlaceAndSide(t *testing.T) {
	w := open(t, crawler(t, parameter.Set{"stride": parameter.OfNumber(0.3), "sides": parameter.OfNumber(0.5), "duty": parameter.OfNumber(0.5)}))
	raised := func(frame float64) (left, right int) {
		w.at(frame)
		for _, foot := range w.feet {
			if w.Frame.Joints[foot].Position[1] > 1e-6 {
				if rig.SideOf(w.d.Joints[foot].Name) == rig.Left {
					left++
				} else {
					right++
				}
			}
		}
		return left, right
	}
	for frame := 40.5; frame < 200; frame += 7 {
		left, right := raised(frame)
		assert.Equal(t, 5, left+right, "alternating: one side goes while the other stands")
		assert.True(t, left == 0 || right == 0)
	}
	all := open(t, crawler(t, parameter.Set{"stride": parameter.OfNumber(0.3), "sides": parameter.OfNumber(0), "wave": parameter.OfNumber(1.6)}))
	counts := map[int]bool{}
	for frame := 40.0; frame < 200; frame += 3 {
		all.at(frame)
		up := 0
		for _, foot := range all.feet {
			if all.Frame.Joints[foot].Position[1] > 1e-6 {
				up++
			}
		}
		counts[up] = true
		assert.Less(t, up, 10, "in a wave never all at once")
	}
	assert.Greater(t, len(counts), 1)
}

// On the spot the body stays and the feet go back under it; a foot's own place stays on top of the gait.
func TestWalkingOnTheSpot(t *testing.T) {
	d := crawler(t, parameter.Set{"speed": parameter.OfNumber(0.5), "stride": parameter.OfNumber(0.4)})
	d.Clips[0].Tracks = nil
	w := open(t, d)
	low, high := math.Inf(1), math.Inf(-1)
	for frame := 0.0; frame < 120; frame++ {
		z := w.at(frame)[0][2]
		low, high = math.Min(low, z), math.Max(high, z)
	}
	assert.InDelta(t, 1, (low+high)/2, 0.06, "about where it stands at rest")
	assert.InDelta(t, 0.4*0.65, high-low, 0.1, "by what it covers while it stands")
	before := w.at(50)[0]
	target := w.Plan.ControlIndex[w.d.Mechanism(id(t, w.d, "reach_L1")).Controls[0]]
	require.NoError(t, w.SetChannel(target, rig.MoveY, 0.1))
	w.Evaluate()
	assert.InDelta(t, 0, w.Frame.Joints[w.feet[0]].Position.Sub(before.Add(mgl64.Vec3{0, 0.1, 0})).Len(), 1e-9)
}

// The handle of a walking foot is shown at the foot, and a hand that takes it to a place takes the foot there.
func TestHandlesGoAlong(t *testing.T) {
	w := open(t, crawler(t, parameter.Set{"stride": parameter.OfNumber(0.3)}))
	w.at(150)
	target := w.Plan.ControlIndex[w.d.Mechanism(id(t, w.d, "reach_L1")).Controls[0]]
	foot := w.Frame.Joints[w.feet[0]].Position
	assert.InDelta(t, 0, w.ControlAt(target).Position.Sub(foot).Len(), 1e-9)
	assert.Greater(t, foot.Sub(w.Frame.Controls[target].Position).Len(), 1.0, "by itself it would be far behind")
	place := foot.Add(mgl64.Vec3{0.02, 0.06, 0.03})
	require.NoError(t, w.PullTo(target, place))
	w.Evaluate()
	assert.InDelta(t, 0, w.Frame.Joints[w.feet[0]].Position.Sub(place).Len(), 1e-9)
}

func TestTheGroundRisesAsItIsSaid(t *testing.T) {
	for _, shape := range []string{"flat", "slope", "steps"} {
		d := crawler(t, parameter.Set{"stride": parameter.OfNumber(0.02), "lift": parameter.OfNumber(0), "tilt": parameter.OfNumber(0)}, parameter.Set{
			"shape": parameter.OfChoice(shape),
			"rise":  parameter.OfNumber(0.2), "run": parameter.OfNumber(1), "begin": parameter.OfNumber(1.2),
		})
		w := open(t, d)
		for frame := 0.0; frame < 240; frame += 5 {
			w.at(frame)
			for _, goal := range w.Frame.Goals {
				along := (goal.At.Position[2] - 1.2) / 1
				want := map[string]float64{"slope": 0.2 * math.Max(0, math.Min(1, along)), "steps": 0.2 * math.Max(0, math.Ceil(along))}[shape]
				if d := math.Abs(along - math.Round(along)); d > 0.05 {
					assert.InDelta(t, want, goal.At.Position[1], 0.011, "%s at %g", shape, goal.At.Position[2])
				}
			}
		}
	}
}

func TestWhatCannotWalkIsTold(t *testing.T) {
	d := crawler(t, nil)
	for want, e := range map[string]edit.Edit{
		`no mechanism "nothing"`:     &edit.AddMechanism{Mechanism: step.Name, Name: "x", Host: "nothing"},
		"phase lies between 0 and 1": &edit.SetParameters{Mechanism: d.Mechanisms[1].ID, Values: parameter.Set{"phase": parameter.OfNumber(1.5)}},
		"stride lies between 1e-06":  &edit.SetParameters{Mechanism: d.Mechanisms[1].ID, Values: parameter.Set{"stride": parameter.OfNumber(0)}},
		"tilt lies between":          &edit.SetParameters{Mechanism: d.Mechanisms[1].ID, Values: parameter.Set{"tilt": parameter.OfNumber(math.NaN())}},
	} {
		_, err := edit.Apply(context(), d, e)
		assert.ErrorContains(t, err, want)
	}
	w := open(t, crawler(t, parameter.Set{"speed": parameter.OfNumber(-100), "stride": parameter.OfNumber(0.001)}, parameter.Set{"shape": parameter.OfChoice("steps"), "rise": parameter.OfNumber(1000)}))
	for _, frame := range []float64{-1e6, 0, 100, 1e6} {
		w.at(frame)
		for i, joint := range w.Frame.Joints {
			assert.True(t, geometry.FiniteVector(joint.Position), fmt.Sprint(i))
		}
	}
}
