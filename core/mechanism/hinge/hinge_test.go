package hinge_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/hinge"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mesh"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

func drawPlace(t *rapid.T, name string) (p mgl64.Vec3) {
	for k := range 3 {
		p[k] = rapid.Float64Range(-3, 3).Draw(t, name)
	}
	return p
}

// TestAHingeTurnsAboutItsAxisBetweenItsStops turns joints by the handle and the dial, carried by a joint that is moved: what lies on the axis stays, the angle is that of handle and dial within the stops, and a stop
// that holds says so.
func TestAHingeTurnsAboutItsAxisBetweenItsStops(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := rigtest.Apply(t, rig.New("x"), &edit.LayChain{Positions: []mgl64.Vec3{{0, 0, 0}, drawPlace(t, "first").Add(mgl64.Vec3{0, 5, 0}), drawPlace(t, "second").Add(mgl64.Vec3{0, 9, 0})}, Pattern: "j_#"})
		axis := rapid.SampledFrom([]string{"the joint's main axis", "the joint's X axis", "upright"}).Draw(t, "axis")
		low, high := -rapid.Float64Range(0, 400).Draw(t, "low"), rapid.Float64Range(1, 400).Draw(t, "high")
		d = rigtest.Apply(t, d, &edit.AddMechanism{
			Mechanism: hinge.Name, Name: "door", Joints: []string{d.Joints[1].ID}, Options: parameter.Set{"axis": parameter.OfChoice(axis)},
			Parameters: parameter.Set{"back": parameter.OfNumber(low), "forth": parameter.OfNumber(high)},
		})
		e := rigtest.Open(t, d)
		handle := e.Plan.ControlIndex[d.Mechanisms[0].Controls[0]]
		rest, home := d.Joints[1].Rest(), d.Controls[handle].Home()
		turn, open := rapid.Float64Range(-9, 9).Draw(t, "turn"), rapid.Float64Range(0, 1).Draw(t, "open")
		require.NoError(t, e.SetChannel(handle, rig.RotateY, turn))
		require.NoError(t, e.SetChannel(handle, hinge.OpenDial, open))
		root := e.Plan.ControlIndex[d.ControlNamed(rig.RootName).ID]
		require.NoError(t, e.SetChannel(root, rig.MoveX, 2))
		require.NoError(t, e.SetChannel(root, rig.RotateZ, 1))
		e.Evaluate()
		const degree = math.Pi / 180
		asked := turn + open*high*degree
		want := math.Max(low*degree, math.Min(high*degree, asked))
		carried := e.Frame.Joints[0].Then(d.Joints[0].Rest().Inverse())
		way := home.Rotation.Rotate(mgl64.Vec3{0, 1, 0})
		for _, along := range []float64{-1, 0, 2.5} {
			on := home.Position.Add(way.Mul(along))
			moved := e.Frame.Joints[1].Apply(rest.Inverse().Apply(on))
			assert.InDelta(t, 0, moved.Sub(carried.Apply(on)).Len(), 1e-9, "what lies on the axis stays on it")
		}
		off := home.Position.Add(home.Rotation.Rotate(mgl64.Vec3{1, 0, 0}))
		moved := carried.Inverse().Apply(e.Frame.Joints[1].Apply(rest.Inverse().Apply(off)))
		turned := home.Position.Add(mgl64.QuatRotate(want, way).Rotate(off.Sub(home.Position)))
		assert.InDelta(t, 0, moved.Sub(turned).Len(), 1e-9)
		held := false
		for _, f := range e.Findings() {
			held = held || f.Subject == d.Mechanisms[0].ID
		}
		if math.Abs(asked-want) > 1e-6 || math.Abs(asked-want) == 0 && math.Abs(asked-high*degree) > 1e-6 && math.Abs(asked-low*degree) > 1e-6 {
			assert.Equal(t, math.Abs(asked-want) > 1e-6, held, "a stop that holds says so")
		}
	})
}

// TestATelescopeSharesItsWay slides a chain of stages out: each goes as far on the one before, all of them together as far as the handle says.
func TestATelescopeSharesItsWay(t *testing.T) {
	places := []mgl64.Vec3{{0, 0, 0}, {0, 0.2, 0}, {0, 0.4, 0}, {0, 0.6, 0}}
	d := rigtest.Apply(t, rig.New("x"), &edit.LayChain{Positions: places, Pattern: "stage_#"})
	ids := []string{d.Joints[1].ID, d.Joints[2].ID, d.Joints[3].ID}
	d = rigtest.Apply(t, d, &edit.AddMechanism{Mechanism: hinge.SlideName, Name: "mast", Joints: ids, Options: parameter.Set{"axis": parameter.OfChoice("upright")}, Parameters: parameter.Set{"forth": parameter.OfNumber(0.9)}})
	e := rigtest.Open(t, d)
	handle := e.Plan.ControlIndex[d.Mechanisms[0].Controls[0]]
	for _, open := range []float64{0, 0.4, 1} {
		require.NoError(t, e.SetChannel(handle, hinge.OpenDial, open))
		e.Evaluate()
		for i := range 3 {
			assert.InDelta(t, places[i+1][1]+0.9*open*float64(i+1)/3, e.Frame.Joints[i+1].Position[1], 1e-12)
		}
	}
}

// TestAFoldingGateStaysInItsPlane turns every second panel back by twice as much: all panels of the gate lie to both sides of one line.
func TestAFoldingGateStaysInItsPlane(t *testing.T) {
	d := rigtest.Apply(t, rig.New("x"), &edit.LayChain{Positions: []mgl64.Vec3{{0, 0, 0}, {1, 0, 0}, {2, 0, 0}, {3, 0, 0}, {4, 0, 0}}, Pattern: "panel_#"})
	ids := []string{}
	for _, j := range d.Joints[:4] {
		ids = append(ids, j.ID)
	}
	d = rigtest.Apply(t, d, &edit.AddMechanism{Mechanism: hinge.Name, Name: "gate", Joints: ids, Options: parameter.Set{"axis": parameter.OfChoice("upright")}, Parameters: parameter.Set{"several": parameter.OfChoice("turn about")}})
	e := rigtest.Open(t, d)
	require.NoError(t, e.SetChannel(e.Plan.ControlIndex[d.Mechanisms[0].Controls[0]], rig.RotateY, 0.7))
	e.Evaluate()
	for i := range 5 {
		p := e.Frame.Joints[i].Position
		assert.InDelta(t, float64(i)*math.Cos(0.7), p[0], 1e-9)
		assert.InDelta(t, -float64(i%2)*math.Sin(0.7), p[2], 1e-9)
	}
}

// TestTheAxisIsFoundOnThePart builds a hinge on a plate with a round hole and straight edges, turned and scaled anyhow: beside the hole it is the hole's axis, at an edge that edge.
func TestTheAxisIsFoundOnThePart(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		turn := mgl64.QuatRotate(rapid.Float64Range(-3, 3).Draw(t, "angle"), drawPlace(t, "axis").Add(mgl64.Vec3{0, 7, 0}).Normalize())
		size := rapid.Float64Range(0.01, 100).Draw(t, "size")
		like := func(p mgl64.Vec3) mgl64.Vec3 { return turn.Rotate(p).Mul(size) }
		m := plate(rapid.SampledFrom([]int{12, 20, 28, 36}).Draw(t, "around"), like) // with corners to its outline
		data := m.Encode()
		memory := edit.Memory{edit.Hash(data): data}
		c := &edit.Context{Kinds: kinds.All(), Surfaces: memory}
		apply := func(d *rig.Document, e edit.Edit) *rig.Document {
			result, err := edit.Apply(c, d, e)
			require.NoError(t, err)
			return result.Document
		}
		d := apply(rig.New("x"), &edit.AddParts{From: "x", Parts: []edit.NewPart{{Name: "plate", Mesh: edit.Hash(data), Vertices: m.VertexCount(), Colour: "#888888"}}})
		hole := rapid.Bool().Draw(t, "hole")
		at := like(mgl64.Vec3{0.02, 0.01, 0.05})
		if !hole {
			at = like(mgl64.Vec3{1.99, 0.3, 0.08})
		}
		d = apply(d, &edit.LayChain{Positions: []mgl64.Vec3{at}, Pattern: "pin"})
		d = apply(d, &edit.AddMechanism{Mechanism: hinge.Name, Name: "door", Joints: []string{d.Joints[0].ID}})
		home := d.Control(d.Mechanisms[0].Controls[0]).Home()
		way := turn.Conjugate().Rotate(home.Rotation.Rotate(mgl64.Vec3{0, 1, 0}))
		place := turn.Conjugate().Rotate(home.Position).Mul(1 / size)
		if hole {
			assert.InDelta(t, 1, math.Abs(way[2]), 1e-4, "%v", way)
			assert.InDelta(t, 0, math.Hypot(place[0], place[1]), 1e-3)
		} else {
			assert.InDelta(t, 1, math.Abs(way[1]), 1e-4, "%v", way)
			assert.InDelta(t, 2, place[0], 1e-3)
		}
		e, body, err := evaluate.Open(d, kinds.All(), memory)
		require.NoError(t, err)
		assert.False(t, evaluate.RestDrift(e, body).Moved)
	})
}

// plate is a plate from -2 to 2, 4 long along Y, with a round hole through it along Z in its middle.
func plate(around int, like func(mgl64.Vec3) mgl64.Vec3) *mesh.Mesh {
	m := &mesh.Mesh{}
	add := func(p mgl64.Vec3) uint32 {
		p = like(p)
		m.Positions = append(m.Positions, float32(p[0]), float32(p[1]), float32(p[2]))
		return uint32(m.VertexCount() - 1)
	}
	var rings [4][]uint32 // hole and outline, below and above
	for k := range around {
		sine, cosine := math.Sincos(2 * math.Pi * (float64(k) + 0.5) / float64(around))
		far := 1 / math.Max(math.Abs(sine)/2, math.Abs(cosine)/2)
		for z := range 2 {
			rings[z] = append(rings[z], add(mgl64.Vec3{0.3 * cosine, 0.3 * sine, 0.1 * float64(z)}))
			rings[2+z] = append(rings[2+z], add(mgl64.Vec3{far * cosine, far * sine, 0.1 * float64(z)}))
		}
	}
	for k := range around {
		n := (k + 1) % around
		quad := func(a, b, c, d uint32) { m.Triangles = append(m.Triangles, a, b, c, a, c, d) }
		quad(rings[0][k], rings[0][n], rings[1][n], rings[1][k])
		quad(rings[2][n], rings[2][k], rings[3][k], rings[3][n])
		quad(rings[1][k], rings[1][n], rings[3][n], rings[3][k])
		quad(rings[0][n], rings[0][k], rings[2][k], rings[2][n])
	}
	m.ComputeNormals()
	return m
}
