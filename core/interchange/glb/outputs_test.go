package glb_test

import (
	"errors"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/demo"
	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/interchange/glb"
	"myriapod/core/mechanism/kindtest"
	"myriapod/core/mesh"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/skin"
)

// fair is Quillwick with twenty of one of its parts going round its head, and another part that bulges in the way given.
func fair(t testing.TB, when string) *glb.Job {
	specimen, err := demo.Find("quillwick")
	require.NoError(t, err)
	_, steps, err := specimen.Make(kindtest.Kinds())
	require.NoError(t, err)
	d := steps[len(steps)-1].Next
	root := d.ControlNamed(rig.RootName).ID
	apply := func(e edit.Edit) {
		result, err := edit.Apply(&edit.Context{Kinds: kindtest.Kinds(), Surfaces: demo.Memory(steps)}, d, e)
		require.NoError(t, err)
		if result.Drift != nil {
			require.LessOrEqual(t, result.Drift.Vertices, 1e-6)
		}
		d = result.Document
	}
	apply(&edit.AddMechanism{Mechanism: "carousel", Name: "ring", Roles: map[string][]string{"hub": {d.Joints[3].ID}, "horse": {d.Parts[1].ID}}})
	apply(&edit.AddMechanism{Mechanism: "bulge", Name: "swell", Roles: map[string][]string{"part": {d.Parts[0].ID}}, Parameters: parameter.Set{"when": parameter.OfChoice(when)}})
	last := len(d.Mechanisms) - 1
	apply(&edit.DriveParameter{Mechanism: d.Mechanisms[last-1].ID, Key: "turns", Control: root, Dial: "turns"})
	apply(&edit.DriveParameter{Mechanism: d.Mechanisms[last].ID, Key: "amount", Control: root, Dial: "swell"})
	keys := &edit.SetKeys{Clip: d.Clips[0].ID}
	for frame, value := range map[float64]float64{0: 0, 20: 0.3, 48: -0.1} {
		for _, dial := range []rig.Channel{"turns", "swell"} {
			keys.Keys = append(keys.Keys, edit.KeyValue{KeyPlace: edit.KeyPlace{Control: root, Channel: dial, Frame: frame}, Value: value, Ease: rig.Smooth})
		}
	}
	apply(keys)
	e, body, err := evaluate.Open(d, kindtest.Kinds(), demo.Memory(steps))
	require.NoError(t, err)
	return &glb.Job{Evaluator: e, Body: body, Clip: &d.Clips[0], Frames: &glb.Range{From: 0, To: 48}}
}

// What swells over the skin is no more than so far from where it was, by hand; a frame before the skin swells along the rest's normals.
func TestStagesWorkInTheirOrder(t *testing.T) {
	for _, when := range []string{"before", "after"} {
		job := fair(t, when)
		e, body := job.Evaluator, job.Body
		control := e.Plan.ControlIndex[e.Plan.Document.ControlNamed(rig.RootName).ID]
		e.SetStill(true)
		look := func(amount float64) []float32 {
			require.NoError(t, e.SetChannel(control, "swell", amount))
			e.Evaluate()
			body.Deform(e)
			return append([]float32(nil), body.Parts[0].Positions...)
		}
		plain, swollen := look(0), look(0.2)
		rest, normals := body.Parts[0].Rest.Positions, body.Parts[0].Rest.Normals
		for i := range plain {
			want := float64(plain[i]) + 0.2*(1+math.Sin(20*float64(rest[i/3*3+2])))*float64(normals[i])
			require.InDelta(t, want, float64(swollen[i]), 1e-4, when)
		}
	}
}

// A part without faces, and too many instances, are refused in words.
func TestWhatCannotBeDrawnIsRefused(t *testing.T) {
	job, memory := fair(t, "after"), memoryOf(t)
	d := job.Evaluator.Plan.Document
	context := &edit.Context{Kinds: kindtest.Kinds(), Surfaces: edit.Memory{}}
	ring := slices.IndexFunc(d.Mechanisms, func(m rig.Mechanism) bool { return m.Name == "ring" })
	_, err := edit.Apply(context, d, &edit.SetParameters{Mechanism: d.Mechanisms[ring].ID, Values: parameter.Set{"count": parameter.OfNumber(1e8)}})
	assert.ErrorContains(t, err, "drawn 100000000 times, and 20000 is the most")
	_, err = evaluate.NewBody(job.Evaluator, faceless{job.Body, d.Parts[1].Mesh, memory})
	assert.ErrorContains(t, err, "ring draws the part")
	assert.ErrorContains(t, err, "which has no faces; choose one that has some")
}

// faceless is surfaces of which one has lost its faces.
type faceless struct {
	body    *evaluate.Body
	hash    string
	weights evaluate.Surfaces
}

func (f faceless) Mesh(hash string) (*mesh.Mesh, error) {
	for i := range f.body.Parts {
		if p := &f.body.Parts[i]; p.Part.Mesh == hash {
			surface := *p.Rest
			if hash == f.hash {
				surface.Triangles = nil
			}
			return &surface, nil
		}
	}
	return nil, errors.New("no such surface")
}

func (f faceless) Weights(hash string, joints int) (*skin.Weights, error) {
	return f.weights.Weights(hash, joints)
}

func (f faceless) Blob(string) ([]byte, error) { return nil, errors.New("no such data") }

func (f faceless) Deltas(hash string, vertices int) (*mesh.Deltas, error) {
	return f.weights.Deltas(hash, vertices)
}

func memoryOf(t testing.TB) edit.Memory {
	specimen, err := demo.Find("quillwick")
	require.NoError(t, err)
	_, steps, err := specimen.Make(kindtest.Kinds())
	require.NoError(t, err)
	return demo.Memory(steps)
}
