package wheel_test

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/ground"
	"myriapod/core/mechanism/settle"
	"myriapod/core/mechanism/wheel"
	"myriapod/core/motion"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

const radius = 0.3

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

// cart is a body on four wheels, of which the front pair hangs on joints that steer, and a clip that takes it ahead, round a bend, back and ahead again.
func cart(t require.TestingT, land parameter.Set, travel float64) *rig.Document {
	d := rigtest.Apply(t, rig.New("x"), &edit.LayChain{Positions: []mgl64.Vec3{{0, 0.6, 0}}, Pattern: "body"})
	for i, at := range []mgl64.Vec3{{0.5, radius, 0.8}, {-0.5, radius, 0.8}, {0.5, radius, -0.8}, {-0.5, radius, -0.8}} {
		d = rigtest.Apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{at}, Pattern: fmt.Sprintf("hub_%d", i+1), Parent: d.Joints[0].ID})
		d = rigtest.Apply(t, d, &edit.AddMechanism{
			Mechanism: wheel.Name, Name: fmt.Sprintf("wheel_%d", i+1), Joints: []string{id(t, d, fmt.Sprintf("hub_%d", i+1))}, Options: parameter.Set{"axis": parameter.OfChoice("across the body")},
			Parameters: parameter.Set{"radius": parameter.OfNumber(radius), "travel": parameter.OfNumber(travel)},
		})
	}
	if land != nil {
		d = rigtest.Apply(t, d, &edit.AddMechanism{Mechanism: ground.Name, Name: "ground", Parameters: land}, &edit.AddMechanism{Mechanism: settle.Name, Name: "settle"})
	}
	d = rigtest.Apply(t, d, &edit.AddClip{Name: "drive", End: 240})
	root := d.ControlNamed(rig.RootName).ID
	set := &edit.SetKeys{Clip: d.Clips[0].ID}
	for frame, pose := range map[float64][3]float64{0: {0, 0, 0}, 60: {0.1, 2.5, 0.1}, 120: {0.9, 5, 0.6}, 170: {0.4, 3.8, 0.3}, 240: {1.6, 7, 0.5}} {
		for k, channel := range []rig.Channel{rig.MoveX, rig.MoveZ, rig.RotateY} {
			set.Keys = append(set.Keys, edit.KeyValue{KeyPlace: edit.KeyPlace{Control: root, Channel: channel, Frame: frame}, Value: pose[k], Ease: rig.Smooth})
		}
	}
	return rigtest.Apply(t, d, set)
}

func open(t require.TestingT, d *rig.Document) *evaluate.Evaluator {
	e := rigtest.Open(t, d)
	e.SetClip(motion.Prepare(d.Clips[0]))
	return e
}

// seen is where a hub is, which way its axle points, and how far the wheel is turned about it beside what carries it.
func seen(e *evaluate.Evaluator, joint int) (place, axle mgl64.Vec3, turn float64) {
	at := e.Frame.Joints[joint]
	body := e.Frame.Joints[0]
	own := body.Rotation.Conjugate().Mul(at.Rotation)
	return at.Position, body.Rotation.Rotate(mgl64.Vec3{1, 0, 0}), 2 * math.Atan2(own.V[0], own.W)
}

// The way of every hub in the plane of its wheel, sampled sixteen times as finely as the wheel was worked out, is what its rim rolls: on the level, on a slope, over
// steps, in bends, backwards, and after the wheel has turned many times.
func TestWheelsDoNotSlip(t *testing.T) {
	set := func(shape string, rise, run float64) parameter.Set {
		return parameter.Set{"shape": parameter.OfChoice(shape), "rise": parameter.OfNumber(rise), "run": parameter.OfNumber(run), "begin": parameter.OfNumber(1.6), "count": parameter.OfNumber(3), "level": parameter.OfNumber(0)}
	}
	for name, c := range map[string]struct {
		land   parameter.Set
		travel float64
		most   float64 // of the way; where that has corners, they are cut by what is measured here
	}{
		"no ground": {nil, 0, 1e-6}, "level": {set("flat", 0, 1), 0.2, 1e-6}, "slope": {set("slope", 0.8, 3), 0.5, 2e-5}, "steps": {set("steps", 0.12, 0.9), 0.6, 2e-5},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			d := cart(t, c.land, c.travel)
			e := open(t, d)
			const rate = 128
			slip, way, turns := [4]float64{}, [4]float64{}, [4]float64{}
			var before, axles [4]mgl64.Vec3
			var last [4]float64
			for k := 0; k <= 240*rate; k++ {
				e.SetFrame(float64(k) / rate)
				e.Evaluate()
				for i := range 4 {
					place, axle, turn := seen(e, i+1)
					if k > 0 {
						moved := place.Sub(before[i])
						axle := axle.Add(axles[i]).Normalize() // as it points between the two
						moved = moved.Sub(axle.Mul(moved.Dot(axle)))
						by := math.Copysign(moved.Len(), moved.Dot(axle.Cross(mgl64.Vec3{0, 1, 0})))
						if c.land == nil {
							by = moved.Dot(axle.Cross(mgl64.Vec3{0, 1, 0}).Normalize())
						}
						step := math.Remainder(turn-last[i], 2*math.Pi)
						slip[i] += by - radius*step
						way[i] += math.Abs(by)
						turns[i] += step
					}
					before[i], axles[i], last[i] = place, axle, turn
				}
			}
			for i := range 4 {
				assert.Greater(t, way[i], 7.0)
				assert.LessOrEqual(t, math.Abs(slip[i]), c.most*way[i], "wheel %d", i+1)
			}
			t.Logf("of the way, they slip by %.2g, and turn %.2f times", math.Abs(slip[0])/way[0], turns[0]/(2*math.Pi))
			require.Empty(t, e.Findings())
		})
	}
}

// Under a hand that takes the body on, a wheel rolls on from where the clip has it; without a clip it rolls as well; and a frame is the same wherever it comes from.
func TestAWheelRollsUnderAHand(t *testing.T) {
	d := cart(t, nil, 0)
	e := open(t, d)
	root := e.Plan.ControlIndex[d.ControlNamed(rig.RootName).ID]
	e.SetFrame(0)
	e.Evaluate()
	_, _, before := seen(e, 1)
	assert.InDelta(t, 0, before, 1e-9)
	require.NoError(t, e.SetChannel(root, rig.MoveZ, 0.2))
	e.Evaluate()
	_, _, after := seen(e, 1)
	assert.InDelta(t, 0.2/radius, after, 1e-9)
	e.SetClip(nil)
	require.NoError(t, e.SetChannel(root, rig.MoveZ, -0.5))
	e.Evaluate()
	_, _, back := seen(e, 1)
	assert.InDelta(t, -0.5/radius, back, 1e-9)

	a, b := open(t, d), open(t, d)
	for frame := 0.0; frame <= 200; frame++ {
		a.SetFrame(frame)
		a.Evaluate()
	}
	b.SetFrame(200)
	b.Evaluate()
	assert.Equal(t, a.Frame.Joints, b.Frame.Joints)
	frame := 0.0
	assert.Zero(t, testing.AllocsPerRun(20, func() { frame++; a.SetFrame(frame); a.Evaluate() }))
}

// Over steps the hubs follow the ground as far as their suspension lets them, and say so where it does not; the body settles on its wheels.
func TestSuspensionsFollowTheGround(t *testing.T) {
	land := parameter.Set{"shape": parameter.OfChoice("steps"), "rise": parameter.OfNumber(0.1), "run": parameter.OfNumber(0.7), "begin": parameter.OfNumber(1.5), "count": parameter.OfNumber(4), "level": parameter.OfNumber(0)}
	for travel, told := range map[float64]bool{0.5: false, 0.01: true} {
		d := cart(t, land, travel)
		e := open(t, d)
		said, from := false, d.ControlNamed(rig.GlobalName).Position[2]
		for frame := 0.0; frame <= 240; frame += 3 {
			e.SetFrame(frame)
			e.Evaluate()
			for _, finding := range e.Findings() {
				said = said || strings.Contains(finding.Text, "suspension")
			}
			for i := 1; i <= 4 && !told; i++ {
				p := e.Frame.Joints[i].Position
				most := 0.0 // the highest that an edge or a tread holds the wheel
				axle := e.Frame.Joints[0].Rotation.Rotate(mgl64.Vec3{1, 0, 0})
				ahead := axle.Cross(mgl64.Vec3{0, 1, 0}).Normalize()
				for k := -1000; k <= 1000; k++ {
					u := radius * float64(k) / 1000
					z := p[2] + u*ahead[2]
					level := 0.1 * math.Max(0, math.Min(4, math.Ceil((z-from-1.5)/0.7)))
					most = math.Max(most, level+math.Sqrt(radius*radius-u*u))
				}
				assert.InDelta(t, most, p[1], 3e-3, "wheel %d at %g", i, frame)
			}
		}
		assert.Equal(t, told, said)
	}
}

func TestWhatIsNoWheelIsTold(t *testing.T) {
	d := rigtest.Apply(t, rig.New("x"), &edit.LayChain{Positions: []mgl64.Vec3{{0, 1, 0}, {0, 1, 1}}, Pattern: "arm_#"})
	rigtest.Refuse(t, d, &edit.AddMechanism{Mechanism: wheel.Name, Name: "w", Joints: []string{d.Joints[1].ID}}, "nothing round is found at arm_2")
	rigtest.Refuse(t, d, &edit.AddMechanism{Mechanism: wheel.Name, Name: "w", Joints: []string{d.Joints[1].ID}, Options: parameter.Set{"axis": parameter.OfChoice("across the body")}}, "no part goes with arm_2")
}

// Of several joints that are chosen each gets a wheel of its own, called by it.
func TestSeveralJointsGetAWheelEach(t *testing.T) {
	d := rigtest.Apply(t, rig.New("x"), &edit.LayChain{Positions: []mgl64.Vec3{{0, 1, 0}}, Pattern: "cart"})
	d = rigtest.Apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{{1, 0.3, 0}}, Pattern: "hub_L", Parent: d.Joints[0].ID}, &edit.LayChain{Positions: []mgl64.Vec3{{-1, 0.3, 0}}, Pattern: "hub_R", Parent: d.Joints[0].ID})
	d = rigtest.Apply(t, d, &edit.AddMechanism{
		Mechanism: wheel.Name, Name: "wheels", Joints: []string{d.Joints[1].ID, d.Joints[2].ID}, Options: parameter.Set{"axis": parameter.OfChoice("across the body")},
		Parameters: parameter.Set{"radius": parameter.OfNumber(0.3)},
	})
	require.Len(t, d.Mechanisms, 2)
	assert.Equal(t, []string{"hub_L_wheel", "hub_R_wheel"}, []string{d.Mechanisms[0].Name, d.Mechanisms[1].Name})
	assert.Equal(t, []string{d.Joints[2].ID}, d.Mechanisms[1].Joints)
}

// A wheel that the clip takes across its way tells how fast it slips, and one that goes along it tells nothing.
func TestSlippingSidewaysIsToldByHowMuch(t *testing.T) {
	d := cart(t, nil, 0)
	root := d.ControlNamed(rig.RootName).ID
	set := &edit.SetKeys{Clip: d.Clips[0].ID}
	for _, frame := range []float64{0, 240} {
		set.Keys = append(set.Keys, edit.KeyValue{KeyPlace: edit.KeyPlace{Control: root, Channel: rig.MoveX, Frame: frame}, Value: frame / 120, Ease: rig.Linear})
	}
	d.Clips[0].Tracks = []rig.Track{}
	e := open(t, rigtest.Apply(t, d, set))
	e.SetFrame(120)
	e.Evaluate()
	require.Len(t, e.Findings(), 4)
	assert.Contains(t, e.Findings()[0].Text, fmt.Sprintf("slips sideways by %.2g m a second", 2/(240/d.FPS)))
}
