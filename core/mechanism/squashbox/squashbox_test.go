package squashbox_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mechanism/squashbox"
	"myriapod/core/mesh"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// block is a closed, finely divided box from 0 to its size.
func block(size mgl64.Vec3, count int) *mesh.Mesh {
	m := &mesh.Mesh{}
	known := map[[3]int]uint32{}
	at := func(p [3]int) uint32 {
		if v, ok := known[p]; ok {
			return v
		}
		known[p] = uint32(m.VertexCount())
		for k := range 3 {
			m.Positions = append(m.Positions, float32(size[k]*float64(p[k])/float64(count)))
		}
		return known[p]
	}
	for axis := range 3 {
		for end := range 2 {
			for i := range count {
				for j := range count {
					corner := func(a, b int) uint32 {
						p := [3]int{}
						p[axis], p[(axis+1)%3], p[(axis+2)%3] = end*count, i+a, j+b
						return at(p)
					}
					a, b, c, d := corner(0, 0), corner(1, 0), corner(1, 1), corner(0, 1)
					if end == 1 {
						m.Triangles = append(m.Triangles, a, b, c, a, c, d)
					} else {
						m.Triangles = append(m.Triangles, a, c, b, a, d, c)
					}
				}
			}
		}
	}
	m.ComputeNormals()
	return m
}

func volume(m *mesh.Mesh, positions []float32) (sum float64) {
	moved := &mesh.Mesh{Positions: positions, Triangles: m.Triangles}
	for i := range m.FaceCount() {
		a, b, c := moved.Corner(i)
		sum += a.Dot(b.Cross(c)) / 6
	}
	return sum
}

// boxed is a block in a squash box.
func boxed(t require.TestingT, m *mesh.Mesh, options, parameters parameter.Set) (*evaluate.Evaluator, *evaluate.Body) {
	data := m.Encode()
	memory := edit.Memory{edit.Hash(data): data}
	c := &edit.Context{Kinds: kinds.All(), Surfaces: memory}
	d := rig.New("block")
	for _, next := range []func() edit.Edit{
		func() edit.Edit {
			return &edit.AddParts{From: "x", Parts: []edit.NewPart{{Name: "block", Mesh: edit.Hash(data), Vertices: m.VertexCount(), Colour: "#888888"}}}
		},
		func() edit.Edit {
			return &edit.AddMechanism{Mechanism: squashbox.Name, Name: "squash", Roles: map[string][]string{"parts": {d.Parts[0].ID}}, Options: options, Parameters: parameters}
		},
	} {
		result, err := edit.Apply(c, d, next())
		require.NoError(t, err)
		if result.Drift != nil {
			require.Zero(t, result.Drift.Vertices, "nothing moves by building")
		}
		d = result.Document
	}
	e, body, err := evaluate.Open(d, kinds.All(), memory)
	require.NoError(t, err)
	return e, body
}

func pose(t require.TestingT, e *evaluate.Evaluator, name string, values map[rig.Channel]float64) {
	i := e.Plan.ControlIndex[e.Plan.Document.ControlNamed(name).ID]
	for channel, value := range values {
		require.NoError(t, e.SetChannel(i, channel, value))
	}
}

func TestSquashedItKeepsItsVolume(t *testing.T) {
	m := block(mgl64.Vec3{1, 2, 0.6}, 8)
	rapid.Check(t, func(t *rapid.T) {
		axis := rapid.IntRange(0, 2).Draw(t, "axis")
		points := parameter.OfNumber(float64(rapid.IntRange(2, 9).Draw(t, "points")))
		when := rapid.SampledFrom([]string{"before the skin", "after the skin"}).Draw(t, "when")
		e, body := boxed(t, m, parameter.Set{"axis": parameter.OfChoice([]string{"across", "upright", "ahead"}[axis])}, parameter.Set{
			"points": points, "within": parameter.OfChoice(rapid.SampledFrom([]string{"smooth", "linear"}).Draw(t, "within")), "when": parameter.OfChoice(when),
		})
		height := []float64{1, 2, 0.6}[axis]
		share := rapid.Float64Range(0.3, 2).Draw(t, "stretch")
		way := rig.Channels[1] // along a handle's main axis, which is the box's
		pose(t, e, "squash_top", map[rig.Channel]float64{way: height * (share - 1)})
		if when == "before the skin" { // what no joint carries stays where it is, and the box would go on without it
			pose(t, e, rig.RootName, map[rig.Channel]float64{rig.MoveX: rapid.Float64Range(-3, 3).Draw(t, "x"), rig.RotateY: rapid.Float64Range(-3, 3).Draw(t, "turn")})
		}
		e.Evaluate()
		body.Deform(e)
		require.InEpsilon(t, volume(m, m.Positions), volume(m, body.Parts[0].Positions), 1e-4)
		want := map[int]float64{}
		for k, size := range []float64{1, 2, 0.6} {
			want[k] = size / math.Sqrt(share)
		}
		want[axis] = height * share
		if when == "before the skin" { // it is not carried, as nothing is bound
			box := mesh.EmptyBounds()
			for i := range m.VertexCount() {
				box.Add((&mesh.Mesh{Positions: body.Parts[0].Positions}).Vertex(i))
			}
			for k := range 3 {
				assert.InDelta(t, want[k], box.Max[k]-box.Min[k], 1e-5)
			}
		}
	})
}

// TestItGoesOnEvenlyAndNormalsStandUpright bends and twists at random: no vertex jumps for a small step, all is finite, and normals are those of the surface.
func TestItGoesOnEvenlyAndNormalsStandUpright(t *testing.T) {
	m := block(mgl64.Vec3{1, 2, 0.6}, 24)
	e, body := boxed(t, m, nil, nil)
	rapid.Check(t, func(t *rapid.T) {
		draw := func(reach float64) float64 { return rapid.Float64Range(-reach, reach).Draw(t, "value") }
		at := func(name string, by float64) {
			values := map[rig.Channel]float64{}
			for _, channel := range rig.Channels {
				reach := 0.4
				if channel.Turns() {
					reach = 0.9
				}
				if channel == rig.RotateY {
					reach = 9
				}
				values[channel] = reach * math.Sin(by+float64(channel.Index()))
			}
			pose(t, e, name, values)
		}
		a, b := draw(3), draw(3)
		var before []float32
		for _, step := range []float64{0, 1e-6} {
			at("squash_top", a+step)
			at("squash_middle", b+step)
			e.Evaluate()
			body.Deform(e)
			if before != nil {
				assert.Less(t, evaluate.GreatestDistance(before, body.Parts[0].Positions), 1e-3)
			}
			before = append([]float32(nil), body.Parts[0].Positions...)
		}
		moved := &mesh.Mesh{Positions: body.Parts[0].Positions, Triangles: m.Triangles}
		moved.ComputeNormals()
		agree := 0
		for i := range m.VertexCount() {
			n := mgl64.Vec3{float64(body.Parts[0].Normals[3*i]), float64(body.Parts[0].Normals[3*i+1]), float64(body.Parts[0].Normals[3*i+2])}
			require.InDelta(t, 1, n.Len(), 1e-4)
			own := mgl64.Vec3{float64(moved.Normals[3*i]), float64(moved.Normals[3*i+1]), float64(moved.Normals[3*i+2])}
			if n.Dot(own) > 0.9 {
				agree++
			}
		}
		assert.Greater(t, float64(agree)/float64(m.VertexCount()), 0.8)
	})
}

func TestAFlatPartIsToldOf(t *testing.T) {
	sheet := &mesh.Mesh{Positions: []float32{0, 1, 0, 1, 1, 0, 0, 1, 1}, Triangles: []uint32{0, 1, 2}}
	sheet.ComputeNormals()
	data := sheet.Encode()
	memory := edit.Memory{edit.Hash(data): data}
	c := &edit.Context{Kinds: kinds.All(), Surfaces: memory}
	result, err := edit.Apply(c, rig.New("x"), &edit.AddParts{From: "x", Parts: []edit.NewPart{{Name: "sheet", Mesh: edit.Hash(data), Vertices: 3, Colour: "#888888"}}})
	require.NoError(t, err)
	_, err = edit.Apply(c, result.Document, &edit.AddMechanism{Mechanism: squashbox.Name, Name: "squash", Roles: map[string][]string{"parts": {result.Document.Parts[0].ID}}})
	require.ErrorContains(t, err, "flat that way")
}
