package kinds_test

import (
	"hash/fnv"
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
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/motion"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// seedOf is where the random numbers of a family begin: the same whichever other families there are.
func seedOf(family string) uint64 {
	hash := fnv.New32a()
	_, _ = hash.Write([]byte(family)) // it never fails
	return 100 * uint64(hash.Sum32())
}

// everywhere runs a test on every family and shape, in an order that is always the same. make builds the rig on a stage, the same each time.
func everywhere(t *testing.T, test func(t *testing.T, seed uint64, make func(stage) *evaluate.Evaluator)) {
	all := families()
	for _, name := range slices.Sorted(maps.Keys(all)) {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			for i, shape := range slices.Sorted(maps.Keys(shapes)) {
				seed := seedOf(name) + uint64(i)
				test(t, seed, func(s stage) *evaluate.Evaluator {
					e := open(t, drive(t, all[name](t, rand.New(rand.NewPCG(seed, 1)), shapes[shape], s)))
					if clips := e.Plan.Document.Clips; len(clips) > 0 {
						e.SetClip(motion.Prepare(clips[0]))
					}
					return e
				})
			}
		})
	}
}

// A rig a thousand times as large, or as small, goes the same way a thousand times as large, to the bit.
func TestEverythingScales(t *testing.T) {
	everywhere(t, func(t *testing.T, seed uint64, make func(stage) *evaluate.Evaluator) {
		at := mgl64.Vec3{0.25, 3, -7}
		one := pathOf(make(stage{1, at}), rand.New(rand.NewPCG(seed, 2)), 1, seed%2 == 0)
		for _, size := range []float64{1024, 1.0 / 1024} {
			other := pathOf(make(stage{size, at.Mul(size)}), rand.New(rand.NewPCG(seed, 2)), size, seed%2 == 0)
			for k := range 40 {
				want, got := one.look(float64(k)/40), other.look(float64(k)/40)
				for i := range want.joints {
					require.Equal(t, want.joints[i].Position.Mul(size), got.joints[i].Position, "joint %d at %d, size %g", i, k, size)
					require.Equal(t, want.joints[i].Rotation, got.joints[i].Rotation, "joint %d at %d, size %g", i, k, size)
				}
				require.Equal(t, want.findings, got.findings)
			}
		}
	})
}

// A rig that stands a kilometre away moves as it does at home, as exactly as its numbers can say, and its feet lift at the same times.
func TestNothingHangsOnTheOrigin(t *testing.T) {
	everywhere(t, func(t *testing.T, seed uint64, make func(stage) *evaluate.Evaluator) {
		away := mgl64.Vec3{601.7, 0, -803.3}
		one, other := make(stage{1, mgl64.Vec3{}}), make(stage{1, away})
		a, b := gentle(one, seed), gentle(other, seed)
		for k := range 40 {
			want, got := a.look(float64(k)/40), b.look(float64(k)/40)
			for i := range want.joints {
				require.InDelta(t, 0, got.joints[i].Position.Sub(away).Sub(want.joints[i].Position).Len(), 1e-12*(a.size+1000), "joint %d at %d", i, k)
			}
			for i := range one.Frame.Goals {
				require.Equal(t, one.Frame.Goals[i].Stands, other.Frame.Goals[i].Stands, "foot %d at %d", i, k)
			}
		}
	})
}

// gentle is a path of small moves and turns, all dials at rest.
func gentle(e *evaluate.Evaluator, seed uint64) *path {
	p := pathOf(e, rand.New(rand.NewPCG(seed, 3)), 0.1, true)
	for i := range p.swings {
		s := &p.swings[i]
		control, channel := p.owner(s.slot)
		if channel.Index() < 0 {
			s.middle, s.waves = e.Plan.Document.Controls[control].RestValue(channel), [2][2]float64{}
		}
		if channel.Turns() {
			for w := range s.waves {
				s.waves[w][0] *= 0.03
			}
		}
	}
	return p
}

// A frame is the same, findings included, wherever the rig comes from.
func TestAFrameRemembersNothing(t *testing.T) {
	everywhere(t, func(t *testing.T, seed uint64, make func(stage) *evaluate.Evaluator) {
		s := stage{1, mgl64.Vec3{}}
		random := rand.New(rand.NewPCG(seed, 4))
		long := pathOf(make(s), rand.New(rand.NewPCG(seed, 2)), 1, false)
		for range 12 {
			share := random.Float64()
			got := long.look(share)
			fresh := pathOf(make(s), rand.New(rand.NewPCG(seed, 2)), 1, false)
			want := fresh.look(share)
			require.Equal(t, want.joints, got.joints)
			require.Equal(t, want.findings, got.findings)
			require.Equal(t, fresh.e.Frame.Scales, long.e.Frame.Scales)
		}
	})
}

// What a task may raise is lowered before it runs, so every finding needs one task, and no more, that raises it.
func TestEveryFindingIsSomeTasks(t *testing.T) {
	everywhere(t, func(t *testing.T, _ uint64, make func(stage) *evaluate.Evaluator) {
		p := make(stage{1, mgl64.Vec3{}}).Plan
		raisers := map[int]int{}
		for _, task := range p.Tasks {
			for _, finding := range task.Raises {
				raisers[finding]++
			}
		}
		for i, finding := range p.Findings {
			assert.Equal(t, 1, raisers[i], finding.Text)
		}
	})
}

// restless is a kind that moves and turns its joint when it is built, as none may.
type restless struct{ move, turn float64 }

func (restless) Declare() mechanism.Declaration {
	return mechanism.Declaration{Kind: "restless", Title: "Restless", Stand: mechanism.OnJoints, Parameters: parameter.Declared{mechanism.Influence()}, Roles: []mechanism.Role{mechanism.ChainRole(1, "")}}
}

func (restless) Build(site *mechanism.Site) error { site.Root(); return nil }

func (r restless) Prepare(b *mechanism.Bench) error {
	joints, err := b.JointIndices()
	b.Add(mechanism.Task{
		Writes: []mechanism.Resource{{Kind: mechanism.Joint, Index: joints[0]}},
		Run: func(f *mechanism.Frame) {
			at := b.Document.Joints[joints[0]].Rest()
			at.Position[0] += r.move
			at.Rotation = mgl64.QuatRotate(r.turn, mgl64.Vec3{0, 0, 1}).Mul(at.Rotation)
			f.Joints[joints[0]], f.Scales[joints[0]] = at, mgl64.Vec3{1, 1, 1}
		},
	})
	return err
}

func TestTheDriftMeterSeesWhatMoves(t *testing.T) {
	d, _ := apply(t, rig.New("x"), &edit.LayChain{Positions: []mgl64.Vec3{{0, 1, 0}, {0, 2, 0}}, Pattern: "j_#"})
	for _, r := range []restless{{}, {move: 0.02}, {turn: 0.3}, {0.02, -0.3}} {
		context := &edit.Context{Kinds: mechanism.NewRegistry(append([]mechanism.Kind{r}, kinds.All().Kinds...), kinds.All().Drivers, kinds.All().Measures), Surfaces: edit.Memory{}}
		result, err := edit.Apply(context, d, &edit.AddMechanism{Mechanism: "restless", Name: "r", Joints: []string{d.Joints[0].ID}})
		require.NoError(t, err)
		want := r.move
		if r.turn != 0 { // the joint that hangs on it goes along, a metre away
			tip := mgl64.Vec3{-math.Sin(r.turn) + r.move, math.Cos(r.turn) - 1, 0}
			want = math.Max(r.move, tip.Len())
		}
		assert.InDelta(t, want, result.Drift.Joints, 1e-12)
		assert.InDelta(t, math.Abs(r.turn), result.Drift.Turns, 1e-12)
	}
}
