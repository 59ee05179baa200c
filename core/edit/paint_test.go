package edit_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mesh"
	"myriapod/core/rig"
	"myriapod/core/skin"
)

// sleeve is a tube about Z on four joints, with a button that sits on it, and heavy data in memory.
func sleeve(t require.TestingT) (*rig.Document, *edit.Context) {
	m := &mesh.Mesh{}
	tubeAlong(m, mgl64.Vec3{}, 0.3, 3, 40, 20)
	tubeAlong(m, mgl64.Vec3{0.3, 0, 2}, 0.04, 0.04, 4, 6)
	m.ComputeNormals()
	memory := edit.Memory{}
	data := m.Encode()
	memory[edit.Hash(data)] = data
	c := &edit.Context{Kinds: kinds.All(), Surfaces: memory}
	d := rig.New("sleeve")
	for _, e := range []edit.Edit{
		&edit.AddParts{From: "x", Parts: []edit.NewPart{{Name: "sleeve", Mesh: edit.Hash(data), Vertices: m.VertexCount(), Colour: "#888888"}}},
		&edit.LayChain{Positions: []mgl64.Vec3{{0, 0, 0}, {0, 0, 1}, {0, 0, 2}, {0, 0, 3}}, Pattern: "arm_L_#"},
	} {
		d = take(t, c, memory, d, e)
	}
	return d, c
}

func tubeAlong(m *mesh.Mesh, from mgl64.Vec3, radius, length float64, rings, around int) {
	base := uint32(m.VertexCount())
	for r := range rings {
		for k := range around {
			turn := mgl64.QuatRotate(6.283185307179586*float64(k)/float64(around), mgl64.Vec3{0, 0, 1})
			p := from.Add(turn.Rotate(mgl64.Vec3{radius, 0, length * float64(r) / float64(rings-1)}))
			m.Positions = append(m.Positions, float32(p[0]), float32(p[1]), float32(p[2]))
		}
	}
	at := func(r, k int) uint32 { return base + uint32(r*around+k%around) }
	for r := range rings - 1 {
		for k := range around {
			m.Triangles = append(m.Triangles, at(r, k), at(r, k+1), at(r+1, k), at(r+1, k), at(r, k+1), at(r+1, k+1))
		}
	}
}

// take applies an edit, and keeps the heavy data that it makes.
func take(t require.TestingT, c *edit.Context, memory edit.Memory, d *rig.Document, e edit.Edit) *rig.Document {
	c.Blobs = nil
	result, err := edit.Apply(c, d, e)
	require.NoError(t, err)
	for hash, data := range c.Blobs {
		memory[hash] = data
	}
	return result.Document
}

func TestASleeveIsBoundAndPainted(t *testing.T) {
	d, c := sleeve(t)
	memory := c.Surfaces.(edit.Memory)
	joints := []string{}
	for _, j := range d.Joints {
		joints = append(joints, j.ID)
	}
	part := d.Parts[0].ID
	for _, method := range []string{"heat", "distance", "nearest", "along chain", ""} {
		blend := 0.0
		if method == "" {
			blend = skin.MostBlend
		}
		bound := take(t, c, memory, d, &edit.Bind{Parts: []string{part}, Joints: joints, Method: method, Blend: blend})
		w, err := memory.Weights(bound.Bindings[0].Weights, 4)
		require.NoError(t, err)
		for v := 800; v < w.VertexCount() && (method == "heat" || method == "distance"); v++ { // the button's
			assert.Equal(t, w.Values[4*800:4*801], w.Values[4*v:4*v+4], "the button goes as a whole")
		}
		e, body, err := evaluate.Open(bound, kinds.All(), memory)
		require.NoError(t, err)
		assert.LessOrEqual(t, evaluate.RestDrift(e, body).Vertices, 1e-6)
	}
	_, err := edit.Apply(c, d, &edit.Bind{Parts: []string{part}, Joints: joints, Method: "magic"})
	require.ErrorContains(t, err, "magic")

	stroke := &edit.PaintWeights{Part: part, Joint: joints[1], Brush: skin.Brush{Stroke: skin.More, Reach: 0.3, Strength: 0.5}, Dabs: []mesh.Spot{{Face: 700, Shares: [3]float64{1, 0, 0}}}}
	refuseIn(t, c, d, stroke, "bind it first")
	d = take(t, c, memory, d, &edit.Bind{Parts: []string{part}, Joints: joints[:2], Method: "heat"})
	before, err := memory.Weights(d.Bindings[0].Weights, 2)
	require.NoError(t, err)
	stroke.Joint = joints[3] // which had no part in it
	painted := take(t, c, memory, d, stroke)
	assert.Len(t, painted.Bindings[0].Joints, 3)
	after, err := memory.Weights(painted.Bindings[0].Weights, 3)
	require.NoError(t, err)
	vertex := 0
	for v := range after.VertexCount() {
		if after.Of(v, 2) > after.Of(vertex, 2) {
			vertex = v
		}
	}
	assert.InDelta(t, 0.5, after.Of(vertex, 2), 1e-6)
	assert.InDelta(t, before.Of(vertex, 0)/2, after.Of(vertex, 0), 1e-6, "the others give in their proportion")

	for want, change := range map[string]func(*edit.PaintWeights){
		"a dab lies beside":          func(e *edit.PaintWeights) { e.Dabs = []mesh.Spot{{Face: 1e6}} },
		"1 to 5000 dabs":             func(e *edit.PaintWeights) { e.Dabs = nil },
		"is locked and keeps":        func(e *edit.PaintWeights) { e.Locked = []string{joints[1]} },
		"there is no stroke":         func(e *edit.PaintWeights) { e.Brush.Stroke = "smear" },
		"the stroke changes nothing": func(e *edit.PaintWeights) { e.Locked = joints[:1]; e.Brush.Stroke = skin.Less; e.Dabs[0].Face = 0 },
		"no joint":                   func(e *edit.PaintWeights) { e.Joint = "nobody" },
		"no part":                    func(e *edit.PaintWeights) { e.Part = "nothing" },
	} {
		bad := *stroke
		bad.Joint, bad.Dabs = joints[1], []mesh.Spot{{Face: 700, Shares: [3]float64{1, 0, 0}}}
		change(&bad)
		refuseIn(t, c, d, &bad, want)
	}
}

func refuseIn(t require.TestingT, c *edit.Context, d *rig.Document, e edit.Edit, want string) {
	_, err := edit.Apply(c, d, e)
	require.ErrorContains(t, err, want)
}

// TestWeightsAreMirroredAndPruned paints one side of a sleeve across the middle, and mirrors it: vertices at mirrored places then have mirrored weights.
func TestWeightsAreMirroredAndPruned(t *testing.T) {
	d, c := sleeve(t)
	memory := c.Surfaces.(edit.Memory)
	part, joints := d.Parts[0].ID, []string{}
	for _, j := range d.Joints {
		joints = append(joints, j.ID)
	}
	d = take(t, c, memory, d, &edit.Rename{ID: joints[3], Name: "arm_R_3"})
	d = take(t, c, memory, d, &edit.Bind{Parts: []string{part}, Joints: joints, Method: "heat"})
	d = take(t, c, memory, d, &edit.PaintWeights{Part: part, Joint: joints[2], Brush: skin.Brush{Stroke: skin.More, Reach: 0.4, Strength: 0.7}, Dabs: []mesh.Spot{{Face: 600, Shares: [3]float64{1, 0, 0}}}})
	surface, err := memory.Mesh(d.Parts[0].Mesh)
	require.NoError(t, err)
	spot := surface.Vertex(int(surface.Triangles[3*600]))
	from := rig.Left
	if spot[0] < 0 {
		from = rig.Right
	}
	mirrored := take(t, c, memory, d, &edit.MirrorWeights{Part: part, From: from})
	before, err := memory.Weights(d.Bindings[0].Weights, len(d.Bindings[0].Joints))
	require.NoError(t, err)
	after, err := memory.Weights(mirrored.Bindings[0].Weights, len(mirrored.Bindings[0].Joints))
	require.NoError(t, err)
	image := map[int]int{0: 0, 1: 1, 2: 3, 3: 2} // arm_L_3 and arm_R_3
	compared := 0
	for v := range 800 { // of the sleeve itself, which is symmetric
		p := surface.Vertex(v)
		if (from == rig.Left) == (p[0] > 0) || math.Abs(p[0]) < 0.01 {
			continue
		}
		for u := range 800 {
			q := surface.Vertex(u)
			if q.Sub(mgl64.Vec3{-p[0], p[1], p[2]}).Len() < 1e-5 {
				compared++
				for joint, other := range image {
					assert.InDelta(t, before.Of(u, joint), after.Of(v, other), 1e-6)
				}
			}
		}
	}
	assert.Greater(t, compared, 300)
	refuseIn(t, c, mirrored, &edit.MirrorWeights{Part: part, From: from}, "alike already")
	refuseIn(t, c, d, &edit.MirrorWeights{Part: part, From: "up"}, "from the left")

	pruned := take(t, c, memory, d, &edit.PruneWeights{Parts: []string{part}, Least: 0.1})
	after, err = memory.Weights(pruned.Bindings[0].Weights, len(pruned.Bindings[0].Joints))
	require.NoError(t, err)
	require.NoError(t, after.Validate(4))
	for i, value := range after.Values {
		assert.True(t, value == 0 || value >= 0.1 || i%4 == 0, "what is little is gone")
	}
	refuseIn(t, c, pruned, &edit.PruneWeights{Parts: []string{part}, Least: 0.05}, "no weight is less")
	refuseIn(t, c, d, &edit.PruneWeights{Parts: []string{part}, Least: 2}, "can be dropped")
}
