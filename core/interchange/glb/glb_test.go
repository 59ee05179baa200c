package glb_test

import (
	"encoding/json"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/demo"
	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/interchange/glb"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/parameter"
	"myriapod/core/plan"
)

// quillwick returns an export job of the demo specimen; change may alter its document.
func quillwick(t testing.TB, change edit.Edit) *glb.Job {
	specimen, err := demo.Find("quillwick")
	require.NoError(t, err)
	_, steps, err := specimen.Make(kinds.All())
	require.NoError(t, err)
	document := steps[len(steps)-1].Next
	if change != nil {
		result, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: demo.Memory(steps)}, document, change)
		require.NoError(t, err)
		document = result.Document
	}
	planned, err := plan.Build(document, kinds.All())
	require.NoError(t, err)
	e := evaluate.New(planned)
	body, err := evaluate.NewBody(e, demo.Memory(steps))
	require.NoError(t, err)
	clip := document.Clips[0]
	return &glb.Job{Evaluator: e, Body: body, Clip: &clip, Frames: &glb.Range{From: 0, To: 48}}
}

// stretched makes the chain stretch, so that own scales are exported.
var stretched = &edit.SetParameters{Values: parameter.Set{"stretch": parameter.OfNumber(1)}}

func jobs(t *testing.T) map[string]*glb.Job {
	plain := quillwick(t, nil)
	stretched.Mechanism = plain.Evaluator.Plan.Document.Mechanisms[0].ID
	still := quillwick(t, nil)
	still.Frames, still.Clip = nil, nil
	return map[string]*glb.Job{"plain": plain, "with own scale": quillwick(t, stretched), "rest": still}
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
			for _, part := range job.Body.Parts {
				vertices := byName[part.Part.Name]
				require.Len(t, vertices, part.Rest.VertexCount(), part.Part.Name)
				for v, p := range vertices {
					for axis := range 3 {
						worst = math.Max(worst, math.Abs(p[axis]-float64(part.Positions[3*v+axis])))
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
		assert.Equal(t, 11496, report.Vertices)
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
	return quillwick(t, nil).Evaluator.Plan.Document.Mechanisms[1].ID
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

func TestImportOfAnExportGivesItsParts(t *testing.T) {
	job := quillwick(t, nil)
	_, data := export(t, job)
	parts, err := glb.Read(data)
	require.NoError(t, err)
	require.Len(t, parts, 9)
	for i, part := range parts {
		assert.Equal(t, job.Body.Parts[i].Part.Name, part.Name)
		assert.Equal(t, job.Body.Parts[i].Part.Colour, part.Colour)
		assert.Equal(t, job.Body.Parts[i].Rest.Positions, part.Mesh.Positions)
		assert.Equal(t, job.Body.Parts[i].Rest.Triangles, part.Mesh.Triangles)
	}
}
