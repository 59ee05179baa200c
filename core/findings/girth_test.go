package findings_test

import (
	"fmt"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/findings"
	"myriapod/core/interchange/model"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mesh"
	"myriapod/core/parameter"
	"myriapod/core/repeat"
	"myriapod/core/rig"
	"myriapod/core/skin"
)

// scaled is a chain of five with a joint of its own for the skin at each, as some files have it, and a skin on those alone.
func scaled(t *testing.T) (*rig.Document, edit.Memory) {
	blobs := edit.Memory{}
	whole := &model.Model{}
	surface := &mesh.Mesh{}
	for i := range 5 {
		z := float32(i)
		surface.Positions = append(surface.Positions, 0.2, 0, z, -0.2, 0, z, 0, 0.3, z)
	}
	for i := range uint32(4) {
		for k := range uint32(3) {
			a, b := 3*i+k, 3*i+(k+1)%3
			surface.Triangles = append(surface.Triangles, a, b, a+3, b, b+3, a+3)
		}
	}
	surface.ComputeNormals()
	weights := skin.NewWeights(15)
	table := &model.Skin{Weights: weights}
	for i := range 5 {
		d := &edit.LayChain{Positions: []mgl64.Vec3{{0, 0, 0}, {0, 0, 1}}}
		rest := edit.Orient(d.Positions)[0]
		joint := model.Joint{Name: fmt.Sprintf("s_%d", i+1), Parent: 2 * (i - 1)}
		if i == 0 {
			joint.Parent = -1
		}
		joint.Rest.Position, joint.Rest.Rotation = mgl64.Vec3{0, 0, float64(i)}, rest
		leaf := joint
		leaf.Name, leaf.Parent = fmt.Sprintf("s_%d_scale", i+1), 2*i
		whole.Joints = append(whole.Joints, joint, leaf)
		table.Joints = append(table.Joints, 2*i+1)
		for k := range 3 {
			weights.Set(3*i+k, []int{i}, []float64{1})
		}
	}
	whole.Parts = []model.Part{{Name: "hide", Colour: "#aabbcc", Mesh: surface, Skin: table}}
	c := &edit.Context{Kinds: kinds.All(), Surfaces: blobs, Blobs: blobs}
	result, err := edit.Apply(c, rig.New("x"), edit.AddModel("x", whole, 24, blobs))
	require.NoError(t, err)
	var chain []string
	for _, j := range result.Document.Joints {
		if len(j.Name) == 3 {
			chain = append(chain, j.ID)
		}
	}
	result, err = edit.Apply(c, result.Document, &edit.AddMechanism{Mechanism: "spline-chain", Name: "back", Joints: chain, Options: parameter.Set{"controls": parameter.OfNumber(3)}, Parameters: parameter.Set{"stretch": parameter.OfNumber(1)}})
	require.NoError(t, err)
	return result.Document, blobs
}

// thickness is how wide the skin is at the middle when the last control is pulled away.
func thickness(t *testing.T, d *rig.Document, blobs edit.Memory) float64 {
	e, body, err := evaluate.Open(d, kinds.All(), blobs)
	require.NoError(t, err)
	last := e.Plan.ControlIndex[d.Mechanisms[0].Controls[2]]
	require.NoError(t, e.SetChannel(last, rig.MoveZ, 2))
	e.Evaluate()
	body.Deform(e)
	p := body.Parts[0].Positions
	return float64(p[18] - p[21])
}

func TestVolumeThatNoSkinFeelsIsToldAndMended(t *testing.T) {
	d, blobs := scaled(t)
	x, err := repeat.Expand(d)
	require.NoError(t, err)
	list := findings.Of(x)
	require.Len(t, list, 1)
	assert.Equal(t, findings.Skin, list[0].Step)
	assert.Contains(t, list[0].Text, "Keep volume of back does nothing: the skin hangs on 5 joints below its own, such as s_1_scale")
	assert.InDelta(t, 0.4, thickness(t, d, blobs), 1e-4, "so it is")
	action, err := edit.Decode(list[0].Mend.Edit)
	require.NoError(t, err)
	result, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: blobs, Blobs: blobs}, d, action)
	require.NoError(t, err)
	assert.Less(t, result.Drift.Vertices, 1e-6)
	x, err = repeat.Expand(result.Document)
	require.NoError(t, err)
	assert.Empty(t, findings.Of(x))
	assert.Less(t, thickness(t, result.Document, blobs), 0.37, "and now it keeps its volume")
}
