package kinds_test

import (
	"fmt"
	"maps"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/ground"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/rig"
)

// each runs a test on every rig, in an order that is always the same.
func each(t *testing.T, test func(t *testing.T, layers []layer, random *rand.Rand)) {
	for i, name := range slices.Sorted(maps.Keys(rigs)) {
		t.Run(name, func(t *testing.T) { test(t, rigs[name], rand.New(rand.NewPCG(7, uint64(i)))) })
	}
}

func TestNothingMovesByBuilding(t *testing.T) {
	each(t, func(t *testing.T, layers []layer, random *rand.Rand) {
		worst := 0.0
		for range 40 {
			places := wander(random, 6+random.IntN(30), 0.8)
			_, drift := build(t, places, layers)
			worst = math.Max(worst, drift/chainLength(places))
		}
		assert.LessOrEqual(t, worst, 1e-9)
		t.Logf("greatest drift %.2g of the chain's length", worst)
	})
}

func TestEveryDeclarationIsWhole(t *testing.T) {
	for _, declared := range kinds.All().Declarations() {
		assert.NotEmpty(t, declared.Title)
		assert.NotEmpty(t, declared.Summary, declared.Kind)
		_, ok := declared.Parameters.Find(mechanism.InfluenceKey)
		assert.True(t, ok || declared.Kind == ground.Name, "%s can be switched by a dial", declared.Kind)
		kind, _, err := kinds.All().Find(declared.Kind)
		require.NoError(t, err)
		_, arranges := kind.(mechanism.Arranger)
		assert.Equal(t, arranges, declared.Arranges)
		_, pins := kind.(mechanism.Pinner)
		assert.Equal(t, pins, declared.Pins)
		_, extends := kind.(mechanism.Extender)
		assert.Equal(t, extends, declared.Extends)
	}
	_, _, err := kinds.All().Find("treadmill")
	assert.ErrorContains(t, err, `no mechanism of the kind "treadmill"`)
}

func influenceOf(m rig.Mechanism) rig.Address {
	return rig.Address{Of: m.ID, Key: mechanism.InfluenceKey}
}

// A mechanism that is off, by its switch or by a dial at nothing, does nothing; on again, it does what it did, to the bit.
func TestOffAndOnLeavesNoTrace(t *testing.T) {
	each(t, func(t *testing.T, layers []layer, random *rand.Rand) {
		d, _ := build(t, wander(random, 20, 0.5), layers)
		for _, m := range d.Mechanisms {
			if _, driven := d.LinkedTo(influenceOf(m)); !driven {
				d, _ = apply(t, d, &edit.DriveParameter{Mechanism: m.ID, Key: mechanism.InfluenceKey, Control: d.ControlNamed(rig.RootName).ID, Dial: rig.Channel("on_" + m.ID)})
			}
		}
		last := d.Mechanisms[len(d.Mechanisms)-1]
		by, _ := d.LinkedTo(influenceOf(last))
		e := open(t, d)
		control := e.Plan.ControlIndex[by.Of]
		pose(t, e, random, 0.2, 1)
		e.SetTime(1.3)
		set := func(value float64) []geometry.Transform {
			require.NoError(t, e.SetChannel(control, rig.Channel(by.Key), value))
			e.Evaluate()
			return slices.Clone(e.Frame.Joints)
		}
		on := set(1)
		off := set(0)
		assert.NotEqual(t, on, off)
		assert.Equal(t, on, set(1), "by its dial")

		switched, drift := apply(t, d, &edit.SwitchMechanism{Mechanism: last.ID, On: false})
		assert.LessOrEqual(t, drift, 1e-9)
		offEvaluator := open(t, switched)
		for i := range e.Plan.Document.Controls {
			for _, channel := range e.Plan.Document.Controls[i].AllChannels() {
				require.NoError(t, offEvaluator.SetChannel(i, channel, e.Frame.Values[e.Slot(i, channel)]))
			}
		}
		offEvaluator.SetTime(1.3)
		offEvaluator.Evaluate()
		for i := range off {
			assert.InDelta(t, 0, off[i].Position.Sub(offEvaluator.Frame.Joints[i].Position).Len(), 1e-9, "a dial at nothing is as the switch: joint %d", i)
			assert.InDelta(t, 0, angle(off[i].Rotation, offEvaluator.Frame.Joints[i].Rotation), 1e-8)
		}
		again, drift := apply(t, switched, &edit.SwitchMechanism{Mechanism: last.ID, On: true})
		assert.LessOrEqual(t, drift, 1e-9)
		assert.Equal(t, d.Mechanisms, again.Mechanisms)
	})
}

func TestTakingItOffMovesNothing(t *testing.T) {
	each(t, func(t *testing.T, layers []layer, random *rand.Rand) {
		d, _ := build(t, wander(random, 16, 0.5), layers)
		for len(d.Mechanisms) > 0 {
			var drift float64
			d, drift = apply(t, d, &edit.RemoveMechanism{Mechanism: d.Mechanisms[len(d.Mechanisms)-1].ID})
			assert.LessOrEqual(t, drift, 1e-9)
		}
		assert.Len(t, d.Controls, 2, "only the global control and the root are left")
	})
}

func TestNothingNonFiniteEverComesOut(t *testing.T) {
	each(t, func(t *testing.T, layers []layer, random *rand.Rand) {
		for range 20 {
			d, _ := build(t, wander(random, 6+random.IntN(12), 1.2), layers)
			e := open(t, d)
			for range 10 {
				pose(t, e, random, []float64{0.01, 1, 1000}[random.IntN(3)], []float64{0.1, 7, 300}[random.IntN(3)])
				for i, control := range d.Controls {
					for _, dial := range control.Dials {
						require.NoError(t, e.SetChannel(i, dial.Name, dial.Min+(dial.Max-dial.Min)*random.Float64()))
					}
				}
				e.SetTime(1e4 * random.Float64())
				e.Evaluate()
				for i, joint := range e.Frame.Joints {
					require.True(t, geometry.FiniteVector(joint.Position) && geometry.FiniteVector(e.Frame.Scales[i]), "joint %d", i)
					require.InDelta(t, 1, joint.Rotation.Len(), 1e-9)
				}
			}
		}
	})
}

// The global control's scale makes everything larger alike, as seen from where it stands.
func TestTheGlobalControlScalesAndMovesEverything(t *testing.T) {
	each(t, func(t *testing.T, layers []layer, random *rand.Rand) {
		d, _ := build(t, wander(random, 14, 0.5), layers)
		e := open(t, d)
		global := e.Plan.ControlIndex[d.ControlNamed(rig.GlobalName).ID]
		pose(t, e, random, 0.1, 0.6)
		for _, channel := range rig.Channels {
			require.NoError(t, e.SetChannel(global, channel, 0))
		}
		e.Evaluate()
		before, centre := places(e), e.ControlAt(global).Position
		require.NoError(t, e.SetChannel(global, rig.ScaleDial, 2.5))
		e.Evaluate()
		for i, p := range places(e) {
			assert.InDelta(t, 0, p.Sub(centre.Add(before[i].Sub(centre).Mul(2.5))).Len(), 1e-12, "joint %d", i)
			assert.InDelta(t, 2.5, e.JointMatrix(i).Col(2).Vec3().Len()/math.Max(1e-9, e.Frame.Scales[i][2]), 1e-9)
		}
		require.NoError(t, e.SetChannel(global, rig.ScaleDial, 1))
		require.NoError(t, e.SetChannel(global, rig.MoveX, 3))
		e.Evaluate()
		for i, p := range places(e) {
			assert.InDelta(t, 0, p.Sub(before[i].Add(mgl64.Vec3{3, 0, 0})).Len(), 1e-9, "joint %d", i)
		}
	})
}

// places are the joints' places as they are shown.
func places(e *evaluate.Evaluator) []mgl64.Vec3 {
	list := make([]mgl64.Vec3, len(e.Frame.Joints))
	for i := range list {
		list[i] = e.JointAt(i).Position
	}
	return list
}

func TestTheSameBitsFromEitherSideAndNoAllocation(t *testing.T) {
	each(t, func(t *testing.T, layers []layer, random *rand.Rand) {
		d, _ := build(t, wander(random, 30, 0.4), layers)
		a, b := open(t, d), open(t, d)
		move := func(e *evaluate.Evaluator, i int) {
			for c := range d.Controls {
				_ = e.SetChannel(c, rig.RotateX, 0.1*math.Sin(float64(i+c)))
				for _, dial := range d.Controls[c].Dials {
					_ = e.SetChannel(c, dial.Name, dial.Min+(dial.Max-dial.Min)*(0.5+0.5*math.Sin(float64(i))))
				}
			}
			e.SetTime(float64(i) / 24)
			e.Evaluate()
		}
		for i := range 40 {
			move(a, i)
		}
		for i := 60; i >= 39; i-- {
			move(b, i)
		}
		assert.Equal(t, a.Frame.Joints, b.Frame.Joints)
		frame := 0
		assert.Zero(t, testing.AllocsPerRun(100, func() { frame++; move(a, frame) }))
	})
}

// BenchmarkPose moves one control and the time of every rig, for growing numbers of joints: the cost per joint must not grow.
func BenchmarkPose(b *testing.B) {
	for _, name := range slices.Sorted(maps.Keys(rigs)) {
		for _, joints := range []int{20, 80, 320} {
			b.Run(fmt.Sprintf("%s/joints=%d", name, joints), func(b *testing.B) {
				random := rand.New(rand.NewPCG(1, 1))
				d, _ := build(b, wander(random, joints, 0.1), rigs[name])
				e := open(b, d)
				for i, control := range d.Controls {
					if control.Dial(edit.BlendDial) != nil {
						_ = e.SetChannel(i, edit.BlendDial, 0.5)
					}
				}
				b.ReportAllocs()
				for i := 0; b.Loop(); i++ {
					_ = e.SetChannel(2, rig.RotateX, 0.1*math.Sin(float64(i)/9))
					e.SetTime(float64(i) / 60)
					e.Evaluate()
				}
				b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N)/float64(joints), "ns/joint")
			})
		}
	}
}
