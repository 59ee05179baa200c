package demo

import (
	"math/rand/v2"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/findings"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mechanism/limb"
	"myriapod/core/mechanism/step"
	"myriapod/core/mesh"
	"myriapod/core/motion"
	"myriapod/core/parameter"
	"myriapod/core/plan"
	"myriapod/core/repeat"
	"myriapod/core/rig"
)

func TestQuillwickIsWholeAndStandsStillWhenBuilt(t *testing.T) {
	specimen, err := Find("quillwick")
	require.NoError(t, err)
	_, steps, err := specimen.Make(kinds.All())
	require.NoError(t, err)
	document := steps[len(steps)-1].Next
	assert.Len(t, document.Joints, quillwickJoints+quillwickFinJoints)
	total := 0
	for _, part := range document.Parts {
		total += part.Vertices
	}
	assert.GreaterOrEqual(t, document.Parts[0].Vertices, 5000)
	t.Logf("quillwick: %d vertices in %d parts", total, len(document.Parts))

	planned, err := plan.Build(document, kinds.All(), nil)
	require.NoError(t, err)
	evaluator := evaluate.New(planned)
	body, err := evaluate.NewBody(evaluator, Memory(steps))
	require.NoError(t, err)
	drift := evaluate.RestDrift(evaluator, body)
	t.Logf("quillwick: rest drift of joints %.3g m, of vertices %.3g m", drift.Joints, drift.Vertices)
	assert.LessOrEqual(t, drift.Joints, 1e-9*quillwickLength)
	assert.LessOrEqual(t, drift.Vertices, 1e-6*body.Size())

	evaluator.SetStill(false)
	evaluator.SetTime(0.4)
	evaluator.Evaluate()
	head, tail := evaluator.Frame.Joints[0], evaluator.Frame.Joints[27]
	assert.InDelta(t, 0, head.Position.Sub(document.Joints[0].Position).Len(), 1e-9, "the head stays attached")
	assert.Greater(t, tail.Position.Sub(document.Joints[27].Position).Len(), 0.02, "the tail swims")
}

// A closed surface has every edge once in each direction, and all its faces look outward.
func TestBodiesAreWatertight(t *testing.T) {
	for _, specimen := range Specimens() {
		vertices := 0
		for _, p := range specimen.pieces() {
			require.NoError(t, p.surface.Validate(), p.name)
			vertices += p.surface.VertexCount()
			edges := map[[2][3]float32]int{} // by place: vertices are parted where an edge is sharp
			at := func(corner uint32) [3]float32 { return [3]float32(p.surface.Positions[3*corner : 3*corner+3]) }
			for i := range len(p.surface.Triangles) / 3 {
				for k := range 3 {
					edges[[2][3]float32{at(p.surface.Triangles[3*i+k]), at(p.surface.Triangles[3*i+(k+1)%3])}]++
				}
			}
			for e, n := range edges {
				require.Equal(t, n, edges[[2][3]float32{e[1], e[0]}], "%s: edge %v is open", p.name, e)
			}
			assert.Empty(t, mesh.NewTopology(p.surface).Turned(), p.name)
		}
		t.Logf("%s: %d vertices", specimen.Name, vertices)
	}
}

// Copies are in the middle of their parts, and nothing in a demo asks for attention.
func TestCopiesStandInTheirParts(t *testing.T) {
	for name, want := range map[string]struct {
		joints int
		inside map[string]string
	}{
		"sedge":     {3 + 6*12, map[string]string{"tendril_4_07": "stem_4", "tendril_6_03": "stem_6"}},
		"brindle":   {brindleSpine + brindleNeck + brindleTail + 2 + 2 + 1 + 1 + 2*3*brindleStilt, map[string]string{"spine_05": "body", "neck_06": "body", "leg_R2_2": "leg_R2"}},
		"quillwick": {quillwickJoints + 2*quillwickFinJoints, map[string]string{"fin_R_3": "fin_R"}},
		"tallow":    {tallowSegments + 1 + 2 + 44*tallowJoints + 2*feelerJoints + 6*3, map[string]string{"leg_R17_4": "leg_R17", "leg_L22_6": "leg_L22", "feeler_R_08": "feeler_R"}},
	} {
		specimen, err := Find(name)
		require.NoError(t, err)
		_, steps, err := specimen.Make(kinds.All())
		require.NoError(t, err)
		seen, err := repeat.Expand(steps[len(steps)-1].Next)
		require.NoError(t, err)
		assert.Len(t, seen.Document.Joints, want.joints, name)
		assert.Empty(t, findings.Of(seen), name)
		for joint, part := range want.inside {
			surface, err := Memory(steps).Mesh(seen.Document.Part(named(seen.Document, part)).Mesh)
			require.NoError(t, err)
			assert.True(t, surface.Contains(seen.Document.Joint(named(seen.Document, joint)).Position), "%s stands in %s", joint, part)
		}
		e, body, err := evaluate.Open(steps[len(steps)-1].Next, kinds.All(), Memory(steps))
		require.NoError(t, err)
		drift := evaluate.RestDrift(e, body)
		assert.LessOrEqual(t, drift.Joints, 1e-9)
		assert.LessOrEqual(t, drift.Vertices, 1e-6*body.Size())
	}
}

// Where Old Brindle's families meet there is no gap, whatever the pose: the first joints of neck and tail stand on the ends of the spine.
func TestTheFamiliesOfBrindleNeverPart(t *testing.T) {
	specimen, err := Find("brindle")
	require.NoError(t, err)
	_, steps, err := specimen.Make(kinds.All())
	require.NoError(t, err)
	e, _, err := evaluate.Open(steps[len(steps)-1].Next, kinds.All(), Memory(steps))
	require.NoError(t, err)
	joint := func(name string) mgl64.Vec3 {
		return e.Frame.Joints[e.Plan.JointIndex[named(e.Plan.Document, name)]].Position
	}
	random := rand.New(rand.NewPCG(4, 8))
	greatest, moved := 0.0, 0.0
	chest := joint("spine_09")
	for range 1000 {
		for c, control := range e.Plan.Document.Controls {
			for _, channel := range control.AllChannels() {
				value := random.NormFloat64() * 0.4
				if dial := control.Dial(channel); dial != nil {
					value = dial.Min + (dial.Max-dial.Min)*random.Float64()
				}
				require.NoError(t, e.SetChannel(c, channel, value))
			}
		}
		e.SetTime(20 * random.Float64())
		e.Evaluate()
		greatest = max(greatest, joint("neck_01").Sub(joint("spine_09")).Len(), joint("tail_01").Sub(joint("spine_01")).Len())
		moved = max(moved, joint("spine_09").Sub(chest).Len())
	}
	t.Logf("brindle: greatest gap %.3g m while the chest moved up to %.3g m", greatest, moved)
	assert.LessOrEqual(t, greatest, 1e-9)
	assert.Greater(t, moved, 0.2, "the pose changes where they meet")
}

func TestEveryDemoEditSurvivesWritingAndReading(t *testing.T) {
	for _, specimen := range Specimens() {
		_, steps, err := specimen.Make(kinds.All())
		require.NoError(t, err)
		for _, step := range steps {
			data, err := edit.Encode(step.Edit)
			require.NoError(t, err)
			back, err := edit.Decode(data)
			require.NoError(t, err)
			assert.Equal(t, step.Edit, back)
		}
	}
}

// opened is a whole specimen, opened in one of its clips.
func opened(t testing.TB, name, clip string) (*evaluate.Evaluator, *evaluate.Body, *rig.Document) {
	specimen, err := Find(name)
	require.NoError(t, err)
	_, steps, err := specimen.Make(kinds.All())
	require.NoError(t, err)
	d := steps[len(steps)-1].Next
	e, body, err := evaluate.Open(d, kinds.All(), Memory(steps))
	require.NoError(t, err)
	e.SetClip(motion.Prepare(*d.ClipNamed(clip)))
	return e, body, d
}

// On its whole way over the ramp, turning included, no foot of Tallow slides while it stands, and every leg reaches its foot.
func TestTallowsFeetDoNotSlide(t *testing.T) {
	e, _, _ := opened(t, "tallow", "over_the_ramp")
	assert.GreaterOrEqual(t, len(e.Plan.Document.Joints), 600)
	var tips []int
	for _, m := range e.Plan.Document.Mechanisms {
		if m.Kind == limb.Name {
			tips = append(tips, e.Plan.JointIndex[m.Joints[len(m.Joints)-1]])
		}
	}
	require.Len(t, tips, 44)
	const rate = 4 // looks a frame
	before, slip, standing, steps := make([]mgl64.Vec3, 44), 0.0, make([]int, 44), make([]int, 44)
	stood := make([]bool, 44)
	for k := range 192*rate + 1 {
		e.SetFrame(float64(k) / rate)
		e.Evaluate()
		assert.Empty(t, e.Findings(), "frame %g", float64(k)/rate)
		for i, tip := range tips {
			now, stands := e.Frame.Joints[tip].Position, e.Frame.Goals[i].Stands // limbs and their goals are in one order
			if step := now.Sub(before[i]).Len(); k > 0 && stands && stood[i] {
				slip = max(slip, step)
				standing[i]++
			} else if !stands {
				steps[i]++
			}
			before[i], stood[i] = now, stands
		}
	}
	t.Logf("tallow: greatest slip of a standing foot %.2g m", slip)
	assert.LessOrEqual(t, slip, 1e-9)
	for i := range tips {
		assert.Greater(t, standing[i], 192*rate/3, "leg %d stands", i)
		assert.Greater(t, steps[i], 192*rate/8, "leg %d walks", i)
	}
	frame := 0.0
	assert.Zero(t, testing.AllocsPerRun(20, func() { frame++; e.SetFrame(frame); e.Evaluate() }))
}

// A leg that keeps something of its own keeps it: a difference on one copy does not touch the others.
func TestOneLegOfTallowIsDifferent(t *testing.T) {
	specimen, err := Find("tallow")
	require.NoError(t, err)
	_, steps, err := specimen.Make(kinds.All())
	require.NoError(t, err)
	seen, err := repeat.Expand(steps[len(steps)-1].Next)
	require.NoError(t, err)
	one := named(seen.Document, "step_R09")
	context := &edit.Context{Kinds: kinds.All(), Surfaces: Memory(steps)}
	result, err := edit.Apply(context, steps[len(steps)-1].Next, &edit.OnCopy{
		Edit: edit.Written{Edit: &edit.SetParameters{Mechanism: one, Values: parameter.Set{"lift": parameter.OfNumber(0.3)}}},
	})
	require.NoError(t, err)
	after, err := repeat.Expand(result.Document)
	require.NoError(t, err)
	for _, m := range after.Document.Mechanisms {
		if m.Kind == step.Name {
			assert.Equal(t, map[bool]float64{true: 0.3, false: 0.1}[m.ID == one], m.Parameters.Number("lift"), m.Name)
		}
	}
}

// BenchmarkTallow evaluates and skins a frame of the whole walk, and plans anew after an edit of one leg. Wanted: evaluation, skin and
// encoding together under a third of a frame at 60 Hz, 5.56 ms; the plan under 50 ms.
func BenchmarkTallow(b *testing.B) {
	e, body, _ := opened(b, "tallow", "over_the_ramp")
	b.Run("evaluation", func(b *testing.B) {
		b.ReportAllocs()
		for i := 0; b.Loop(); i++ {
			e.SetFrame(float64(i % 192))
			e.Evaluate()
		}
	})
	b.Run("skin", func(b *testing.B) {
		for b.Loop() {
			body.Deform(e)
		}
	})
	b.Run("plan", func(b *testing.B) {
		document := e.Plan.Document
		for b.Loop() {
			_, err := plan.BuildExpanded(repeat.Plain(document), kinds.All(), nil, nil)
			require.NoError(b, err)
		}
	})
}

// TestGantrysHingesAreFoundOnItsParts looks whether the axes that were found are those of turntable, door and bucket pin, and whether the crane's head stays level however far it is lifted.
func TestGantrysHingesAreFoundOnItsParts(t *testing.T) {
	specimen, err := Find("gantry")
	require.NoError(t, err)
	_, steps, err := specimen.Make(kinds.All())
	require.NoError(t, err)
	d := steps[len(steps)-1].Next
	for handle, axis := range map[string]mgl64.Vec3{"cab_turn_handle": {0, 1, 0}, "door_swing_handle": {0, 1, 0}, "bucket_bars_handle": {1, 0, 0}, "crane_handle": {1, 0, 0}} {
		way := d.ControlNamed(handle).Rotation.Quat().Rotate(mgl64.Vec3{0, 1, 0})
		assert.InDelta(t, 0, way.Sub(axis).Len(), 1e-4, handle)
	}
	e, _, err := evaluate.Open(d, kinds.All(), Memory(steps))
	require.NoError(t, err)
	place := map[string]int{}
	for i, j := range d.Joints {
		place[j.Name] = i
	}
	for _, turn := range []float64{-0.3, 0.2, 0.45} {
		require.NoError(t, e.SetChannel(e.Plan.ControlIndex[d.ControlNamed("crane_handle").ID], rig.RotateY, turn))
		e.Evaluate()
		head := e.Frame.Joints[place["nose"]]
		assert.InDelta(t, 0, head.Rotation.Rotate(d.Joints[place["nose"]].Rest().Rotation.Conjugate().Rotate(mgl64.Vec3{0, 1, 0})).Sub(mgl64.Vec3{0, 1, 0}).Len(), 1e-9, "the head stays level")
		assert.InDelta(t, 0, e.Frame.Joints[place["nose_end"]].Position.Sub(e.Frame.Joints[place["tie_end"]].Position).Len(), 1e-12)
	}
}
