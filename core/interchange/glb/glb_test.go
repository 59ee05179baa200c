package glb_test

import (
	"encoding/json"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/demo"
	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/interchange/glb"
	"myriapod/core/interchange/model"
	"myriapod/core/mechanism/ground"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mesh"
	"myriapod/core/motion"
	"myriapod/core/parameter"
	"myriapod/core/plan"
	"myriapod/core/rig"
	"myriapod/core/skin"
)

var specimens = map[string][]demo.Made{}

// made makes a demo specimen once for all tests; what is made is only read.
func made(t testing.TB, name string) []demo.Made {
	if steps, ok := specimens[name]; ok {
		return steps
	}
	specimen, err := demo.Find(name)
	require.NoError(t, err)
	_, steps, err := specimen.Make(kinds.All())
	require.NoError(t, err)
	specimens[name] = steps
	return steps
}

// quillwick returns an export job of the demo specimen; change may alter its document.
func quillwick(t testing.TB, change edit.Edit) *glb.Job { return exported(t, "quillwick", "", change) }

// exported returns an export job of a demo specimen, in one of its clips; the first where none is named.
func exported(t testing.TB, name, clipped string, change edit.Edit) *glb.Job {
	steps := made(t, name)
	document := steps[len(steps)-1].Next
	if change != nil {
		result, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: demo.Memory(steps)}, document, change)
		require.NoError(t, err)
		document = result.Document
	}
	planned, err := plan.Build(document, kinds.All(), demo.Memory(steps))
	require.NoError(t, err)
	e := evaluate.New(planned)
	body, err := evaluate.NewBody(e, demo.Memory(steps))
	require.NoError(t, err)
	clip := document.Clips[0]
	if named := document.ClipNamed(clipped); named != nil {
		clip = *named
	}
	return &glb.Job{Evaluator: e, Body: body, Clip: &clip, Frames: &glb.Range{From: 0, To: 48}}
}

// stretched makes the chain stretch, so that own scales are exported.
var stretched = &edit.SetParameters{Values: parameter.Set{"stretch": parameter.OfNumber(1)}}

// handed has a ground go along.
var handed = &edit.AddMechanism{Mechanism: ground.Name, Name: "ramp", Parameters: parameter.Set{"shape": parameter.OfChoice("slope"), "handed": parameter.OfToggle(true)}}

func jobs(t *testing.T) map[string]*glb.Job {
	plain := quillwick(t, nil)
	stretched.Mechanism = plain.Evaluator.Plan.Document.Mechanisms[0].ID
	still := quillwick(t, nil)
	still.Frames, still.Clip = nil, nil
	machine := exported(t, "gantry", "work", nil)
	machine.Frames.To = 24 // it has ten times as many vertices
	var twisted []string   // one with a morph target among them
	for _, p := range plain.Evaluator.Plan.Document.Parts {
		if p.Name == "strap" || p.Name == "lid_L" {
			twisted = append(twisted, p.ID)
		}
	}
	return map[string]*glb.Job{"plain": plain, "by dual quaternions": quillwick(t, &edit.ChangeSkin{Parts: twisted, Dual: 1}), "with own scale": quillwick(t, stretched), "with a ground": quillwick(t, handed), "rest": still, "a machine at work": machine, "with a morph target": shaped(t), "with instances and a bulge": fair(t, "after"), "with a bulge before the skin": fair(t, "before")}
}

func export(t *testing.T, job *glb.Job) (file string, data []byte) {
	data, err := job.Write()
	require.NoError(t, err)
	file = filepath.Join(t.TempDir(), "export.glb")
	require.NoError(t, os.WriteFile(file, data, 0o644))
	return file, data
}

// node runs one of the page's check scripts and decodes what it prints.
func node(t *testing.T, into any, script string, arguments ...string) {
	command := exec.Command("node", append([]string{filepath.Join("..", "..", "..", "web", "checks", script)}, arguments...)...)
	var complaints strings.Builder
	command.Stderr = &complaints
	out, err := command.Output()
	require.NoError(t, err, complaints.String())
	require.NoError(t, json.Unmarshal(out, into), string(out[:min(len(out), 500)]))
}

// lastOf is the last frame of a job, or of those that the claims go over.
func lastOf(job *glb.Job) int {
	if job.Frames == nil {
		return 48
	}
	return min(48, job.Frames.To)
}

func TestTheValidatorFindsNothing(t *testing.T) {
	for name, job := range jobs(t) {
		file, _ := export(t, job)
		var report struct {
			NumErrors, NumWarnings, NumInfos int
			Messages                         []any
		}
		node(t, &report, "validate.mjs", file)
		t.Logf("%s: %d errors, %d warnings, %d infos", name, report.NumErrors, report.NumWarnings, report.NumInfos)
		assert.Zero(t, report.NumErrors+report.NumWarnings, "%s: %v", name, report.Messages)
	}
}

func TestThreeSkinsTheExportAsTheCoreDoes(t *testing.T) {
	for name, job := range jobs(t) {
		file, _ := export(t, job)
		frames := []int{0, 1, 13, 24, 37, 48}
		if job.Frames == nil {
			frames = []int{0}
			job.Evaluator.SetStill(true)
		} else if job.Frames.To < 48 {
			frames = frames[:4]
		}
		arguments := []string{file}
		for _, frame := range frames {
			arguments = append(arguments, fmt.Sprintf("%.9f", float64(frame)/24))
		}
		var played struct {
			Frames []struct {
				Parts []struct {
					Name     string
					Vertices [][3]float64
				}
			}
		}
		node(t, &played, "skin-with-three.mjs", arguments...)
		worst := 0.0
		for i, frame := range frames {
			job.Evaluator.SetFrame(float64(frame))
			job.Evaluator.Evaluate()
			job.Body.Deform(job.Evaluator)
			byName := map[string][][3]float64{}
			for _, part := range played.Frames[i].Parts {
				byName[part.Name] = part.Vertices
			}
			for _, drawn := range job.Body.Drawn() {
				vertices, want := byName[drawn.Name], make([]float32, len(job.Body.Parts[drawn.Part].Rest.Positions))
				drawn.World(job.Evaluator, job.Body, want)
				require.Len(t, vertices, len(want)/3, drawn.Name)
				for v, p := range vertices {
					for axis := range 3 {
						worst = math.Max(worst, math.Abs(p[axis]-float64(want[3*v+axis])))
					}
				}
			}
		}
		share := worst / job.Body.Size()
		t.Logf("%s: three.js differs by %.2g of the model's size", name, share)
		assert.LessOrEqual(t, share, 1e-5, name)
	}
}

func TestReadingBackFindsEveryVertexInItsPlace(t *testing.T) {
	for name, job := range jobs(t) {
		_, data := export(t, job)
		report, err := job.Verify(data)
		require.NoError(t, err)
		assert.LessOrEqual(t, report.Share, 1e-5, name)
		assert.Positive(t, report.Vertices)
		if report.ShapesParts > 0 {
			assert.Equal(t, report.Frames*report.ShapesParts, report.Shapes, "one for each frame of what the box deforms")
		}
		assert.Equal(t, name == "by dual quaternions" || strings.Contains(name, "bulge"), report.ShapesParts > 0, name)
		t.Logf("%s: %+v", name, report)
	}
}

// A file that moves otherwise than the rig must be found out.
func TestReadingBackFindsADifference(t *testing.T) {
	_, data := export(t, quillwick(t, nil))
	other := quillwick(t, &edit.SetParameters{Mechanism: swim(t), Values: parameter.Set{"amplitude": parameter.OfNumber(0.2)}})
	report, err := other.Verify(data)
	require.NoError(t, err)
	assert.Greater(t, report.Greatest, 1e-3)
}

func swim(t *testing.T) string {
	d := quillwick(t, nil).Evaluator.Plan.Document
	return d.Mechanisms[slices.IndexFunc(d.Mechanisms, func(m rig.Mechanism) bool { return m.Name == "swim" })].ID
}

func TestExportsCanBeStoppedAndBounded(t *testing.T) {
	job := quillwick(t, nil)
	job.Progress = func(share float64) bool { return share < 0.1 }
	_, err := job.Write()
	require.ErrorIs(t, err, glb.ErrStopped)
	job = quillwick(t, nil)
	job.Frames = &glb.Range{From: 10, To: 9}
	_, err = job.Write()
	require.ErrorContains(t, err, "rising order")
}

// What is exported and read again is the same rig without its mechanisms: parts, joints, weights, and the motion baked.
func TestImportOfAnExportKeepsPartsJointsWeightsAndMotion(t *testing.T) {
	for name, job := range jobs(t) {
		_, data := export(t, job)
		if name == "with a morph target" {
			continue // the next test's
		}
		read, err := glb.Read(data, nil)
		require.NoError(t, err)
		drawn := job.Body.Drawn()
		if name == "with a ground" {
			ramp := read.Parts[len(drawn)]
			assert.Equal(t, "ramp", ramp.Name)
			assert.Equal(t, 12, ramp.Mesh.VertexCount(), "level, the ramp, and level")
			read.Parts = read.Parts[:len(drawn)]
		}
		require.Len(t, read.Parts, len(drawn))
		for i, part := range read.Parts {
			of := &job.Body.Parts[drawn[i].Part]
			assert.Equal(t, drawn[i].Name, part.Name)
			assert.Equal(t, of.Part.Colour, part.Colour)
			if drawn[i].Set < 0 { // instances come where they stand
				assert.Equal(t, of.Rest.Triangles, part.Mesh.Triangles)
				assert.InDelta(t, 0, evaluate.GreatestDistance(of.Rest.Positions, part.Mesh.Positions), 1e-6)
			}
		}
		memory := edit.Memory{}
		add := edit.AddModel("again.glb", read, 24, memory)
		result, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: memory, Blobs: memory}, rig.New("again"), add)
		require.NoError(t, err)
		again := result.Document
		bound := len(drawn) // what a stage deforms comes as shapes and hangs on no joint
		document := job.Evaluator.Plan.Document
		for i := range job.Body.Parts {
			of := job.Body.Parts[i].Part.ID
			if job.Body.Parts[i].Deformed() || document.BindingOf(of) == nil && !job.Evaluator.Plan.Replaced(of) {
				bound--
			}
		}
		assert.Len(t, again.Bindings, bound)
		e, body, err := evaluate.Open(again, kinds.All(), memory)
		require.NoError(t, err)
		if name == "rest" {
			assert.Empty(t, again.Clips)
			continue
		}
		require.Len(t, again.Clips, 1)
		clip := again.Clips[0]
		e.SetClip(motion.Prepare(clip))
		worst := 0.0
		for frame := 0; frame <= lastOf(job); frame += 12 {
			e.SetFrame(float64(frame))
			e.Evaluate()
			body.Deform(e)
			job.Evaluator.SetFrame(float64(frame))
			job.Evaluator.Evaluate()
			job.Body.Deform(job.Evaluator)
			for i := range drawn {
				was := make([]float32, len(body.Parts[i].Positions))
				drawn[i].World(job.Evaluator, job.Body, was)
				worst = math.Max(worst, evaluate.GreatestDistance(body.Parts[i].Positions, was))
			}
		}
		t.Logf("%s: played after import, %.2g of the model's size from the rig", name, worst/job.Body.Size())
		assert.LessOrEqual(t, worst/job.Body.Size(), 1e-5, name)

		// Orienting joints anew changes neither the skin at rest nor the clip.
		ids := []string{}
		for _, j := range again.Joints {
			ids = append(ids, j.ID)
		}
		turned, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: memory}, again, &edit.OrientJoints{Joints: ids, Aim: true, Second: edit.Toward, Direction: mgl64.Vec3{1, 0.2, 0}, Roll: 1})
		require.NoError(t, err)
		assert.LessOrEqual(t, turned.Drift.Vertices, 1e-6*job.Body.Size())
		other, otherBody, err := evaluate.Open(turned.Document, kinds.All(), memory)
		require.NoError(t, err)
		other.SetClip(motion.Prepare(turned.Document.Clips[0]))
		other.SetFrame(48)
		other.Evaluate()
		otherBody.Deform(other)
		if name == "plain" { // own scale goes by the old axes and is turned with them
			for i := range body.Parts {
				assert.InDelta(t, 0, evaluate.GreatestDistance(body.Parts[i].Positions, otherBody.Parts[i].Positions), 1e-5)
			}
		}
	}
}

// shaped is a bar of two joints with a morph target, animated, as a file from elsewhere.
func shaped(t *testing.T) *glb.Job {
	memory := edit.Memory{}
	bar := &mesh.Mesh{}
	for i := range 11 {
		y := float32(i) / 10
		bar.Positions = append(bar.Positions, -0.1, y, 0, 0.1, y, 0, 0, y, 0.1)
		if i > 0 {
			a := uint32(3 * (i - 1))
			for k := range uint32(3) {
				n := (k + 1) % 3
				bar.Triangles = append(bar.Triangles, a+k, a+3+k, a+n, a+n, a+3+k, a+3+n)
			}
		}
	}
	bar.ComputeNormals()
	deltas := &mesh.Deltas{Positions: make([]float32, len(bar.Positions))}
	for i := 2; i < len(deltas.Positions); i += 3 {
		deltas.Positions[i] = 0.2
	}
	m := &model.Model{
		Joints: []model.Joint{
			{Name: "low", Parent: -1, Rest: geometry.Identity()},
			{Name: "high", Parent: 0, Rest: geometry.Transform{Position: mgl64.Vec3{0, 0.5, 0}, Rotation: mgl64.QuatIdent()}},
		},
		Parts: []model.Part{{Name: "bar", Colour: "#808080", Mesh: bar, Morphs: []model.Morph{{Name: "swell", Deltas: deltas, Value: 0.25}}}},
		Clips: []model.Clip{{
			Name: "nod", Length: 1,
			Joints: []model.JointTrack{{Joint: 1, Property: rig.JointTurn, Keys: []rig.JointKey{
				{Frame: 0, Value: [4]float64{0, 0, 0, 1}, Ease: rig.Linear}, {Frame: 1, Value: rig.QuaternionOf(mgl64.QuatRotate(1, mgl64.Vec3{1, 0, 0})), Ease: rig.Linear},
			}}},
			Morphs: []model.MorphTrack{{Part: 0, Morph: 0, Keys: []rig.Key{{Frame: 0, Value: 0, Ease: rig.Linear}, {Frame: 1, Value: 1, Ease: rig.Linear}}}},
		}},
	}
	weights := skin.NewWeights(bar.VertexCount())
	for i := range bar.VertexCount() {
		high := math.Min(1, math.Max(0, 4*float64(bar.Positions[3*i+1])-1.5))
		weights.Set(i, []int{0, 1}, []float64{1 - high, high})
	}
	m.Parts[0].Skin = &model.Skin{Joints: []int{0, 1}, Weights: weights}
	result, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: memory, Blobs: memory}, rig.New("nodding bar"), edit.AddModel("bar", m, 24, memory))
	require.NoError(t, err)
	e, body, err := evaluate.Open(result.Document, kinds.All(), memory)
	require.NoError(t, err)
	return &glb.Job{Evaluator: e, Body: body, Clip: &result.Document.Clips[0], Frames: &glb.Range{From: 0, To: 24}}
}

func TestMorphTargetsAndJointMotionGoOutAndComeBack(t *testing.T) {
	job := shaped(t)
	_, data := export(t, job)
	report, err := job.Verify(data)
	require.NoError(t, err)
	assert.LessOrEqual(t, report.Share, 1e-5)
	assert.Greater(t, job.Body.Parts[0].Positions[3*30+2], float32(0.1), "the morph target is mixed in")
	read, err := glb.Read(data, nil)
	require.NoError(t, err)
	require.Len(t, read.Parts[0].Morphs, 1)
	assert.Equal(t, "swell", read.Parts[0].Morphs[0].Name)
	assert.InDelta(t, 0.25, read.Parts[0].Morphs[0].Value, 1e-9)
	require.Len(t, read.Clips, 1)
	require.Len(t, read.Clips[0].Morphs, 1)
	assert.InDelta(t, 0.5, read.Clips[0].Morphs[0].Keys[12].Value, 1e-6)
	assert.Equal(t, "high", read.Joints[1].Name)
	assert.Equal(t, 0, read.Joints[1].Parent)
}
