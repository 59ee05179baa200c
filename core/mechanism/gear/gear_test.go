package gear_test

import (
	"fmt"
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/gear"
	"myriapod/core/mechanism/hinge"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mesh"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
	"myriapod/core/skin"
)

const mainAxis = "the joint's main axis"

// train is a shaft that a handle turns for ever, and gears that turn each other, with so many teeth.
func train(t require.TestingT, teeth ...float64) *rig.Document {
	d := rigtest.Apply(t, rig.New("x"), &edit.LayChain{Positions: []mgl64.Vec3{{0, 1, 0}}, Pattern: "frame"})
	for i := range teeth {
		d = rigtest.Apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{{float64(i), 1.2, 0}}, Pattern: fmt.Sprintf("g_%d", i+1), Parent: d.Joints[0].ID})
	}
	d = rigtest.Apply(t, d, &edit.AddMechanism{
		Mechanism: hinge.Name, Name: "drive", Joints: []string{d.Joints[1].ID}, Options: parameter.Set{"axis": parameter.OfChoice(mainAxis)},
		Parameters: parameter.Set{"back": parameter.OfNumber(-36000), "forth": parameter.OfNumber(36000)},
	})
	for i := 1; i < len(teeth); i++ {
		d = rigtest.Apply(t, d, &edit.AddMechanism{
			Mechanism: gear.Name, Name: fmt.Sprintf("gear_%d", i+1), Options: parameter.Set{"axis": parameter.OfChoice(mainAxis)},
			Roles:      map[string][]string{"gear": {d.Joints[i+1].ID}, "by": {d.Joints[i].ID}},
			Parameters: parameter.Set{"teeth": parameter.OfNumber(teeth[i]), "others": parameter.OfNumber(teeth[i-1])},
		})
	}
	return d
}

// angle is how far a joint is turned about the upright axis, within a turn.
func angle(e *evaluate.Evaluator, joint int) float64 {
	q := e.Frame.Joints[joint].Rotation.Mul(e.Plan.Document.Joints[joint].Rest().Rotation.Conjugate())
	return 2 * math.Atan2(q.V[1], q.W)
}

// After a hundred turns, or ten thousand through a gear that steps up, every gear stands where its teeth have it; neighbours turn against each other.
func TestGearTrainsAreExact(t *testing.T) {
	teeth := []float64{100, 20, 4, 1, 17, 31}
	d := train(t, teeth...)
	e := rigtest.Open(t, d)
	handle := e.Plan.ControlIndex[d.Mechanisms[0].Controls[0]]
	for _, turned := range []float64{0.3, -2, 2*math.Pi*99 + 1} {
		require.NoError(t, e.SetChannel(handle, rig.RotateY, turned))
		e.Evaluate()
		sign := 1.0
		for i, count := range teeth {
			want := sign * turned * teeth[0] / count
			assert.InDelta(t, 0, math.Remainder(angle(e, i+1)-want, 2*math.Pi), 1e-9, "gear %d of %g teeth at %g", i+1, count, turned)
			sign = -sign
		}
	}
}

func TestHowGearsAreJoined(t *testing.T) {
	for joined, want := range map[string]float64{"teeth that mesh": -2.5, "teeth, one within the other": 2.5, "a belt or a chain": 2.5, "a shaft": 1} {
		d := train(t, 50, 20)
		d = rigtest.Apply(t, d, &edit.SetParameters{Mechanism: d.Mechanisms[1].ID, Values: parameter.Set{"joined": parameter.OfChoice(joined)}})
		e := rigtest.Open(t, d)
		require.NoError(t, e.SetChannel(e.Plan.ControlIndex[d.Mechanisms[0].Controls[0]], rig.RotateY, 0.4))
		e.Evaluate()
		assert.InDelta(t, 0.4*want, angle(e, 2), 1e-12, joined)
	}
	d := train(t, 50, 20)
	d = rigtest.Apply(t, d, &edit.SetParameters{Mechanism: d.Mechanisms[1].ID, Values: parameter.Set{"joined": parameter.OfChoice("a belt or a chain"), "share": parameter.OfNumber(0.5)}})
	e := rigtest.Open(t, d)
	require.NoError(t, e.SetChannel(e.Plan.ControlIndex[d.Mechanisms[0].Controls[0]], rig.RotateY, 0.4))
	e.Evaluate()
	assert.InDelta(t, 0.5, angle(e, 2), 1e-12, "a belt that slips")
}

// Radii are measured on the parts, and gears that do not meet are told of.
func TestRadiiAreMeasured(t *testing.T) {
	disc := func(x, radius float64) *mesh.Mesh {
		m := &mesh.Mesh{}
		const around = 48
		for k := range around {
			a := 2 * math.Pi * float64(k) / around
			for _, y := range []float64{1.1, 1.3} {
				m.Positions = append(m.Positions, float32(x+radius*math.Cos(a)), float32(y), float32(radius*math.Sin(a)))
			}
		}
		for k := range uint32(around) {
			a, b := 2*k, 2*((k+1)%around)
			m.Triangles = append(m.Triangles, a, a+1, b, b, a+1, b+1)
		}
		m.ComputeNormals()
		return m
	}
	memory := edit.Memory{}
	d := train(t, 1)
	apply := func(e edit.Edit) error {
		result, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: memory, Blobs: memory}, d, e)
		if err == nil {
			d = result.Document
		}
		return err
	}
	add := &edit.AddParts{From: "x"}
	for i, at := range [][2]float64{{0, 0.6}, {0.8, 0.2}, {3, 0.3}} {
		m := disc(at[0], at[1])
		data := m.Encode()
		memory[edit.Hash(data)] = data
		add.Parts = append(add.Parts, edit.NewPart{Name: fmt.Sprintf("disc_%d", i+1), Mesh: edit.Hash(data), Vertices: m.VertexCount(), Colour: "#777777"})
	}
	require.NoError(t, apply(add))
	for i, x := range []float64{0.8, 3} {
		require.NoError(t, apply(&edit.LayChain{Positions: []mgl64.Vec3{{x, 1.2, 0}}, Pattern: fmt.Sprintf("small_%d", i+1), Parent: d.Joints[0].ID}))
	}
	for i, joint := range []int{1, 2, 3} {
		require.NoError(t, apply(&edit.Bind{Parts: []string{d.Parts[i].ID}, Joints: []string{d.Joints[joint].ID}, Method: string(skin.Nearest)}))
	}
	build := func(joint int) error {
		return apply(&edit.AddMechanism{Mechanism: gear.Name, Name: "gear", Options: parameter.Set{"axis": parameter.OfChoice(mainAxis)}, Roles: map[string][]string{"gear": {d.Joints[joint].ID}, "by": {d.Joints[1].ID}}})
	}
	require.ErrorContains(t, build(3), "do not meet: their axes lie 3 m apart, and their radii come to 0.9 m")
	require.NoError(t, build(2))
	made := d.Mechanisms[len(d.Mechanisms)-1].Parameters
	assert.InDelta(t, 3, made.Number("others")/made.Number("teeth"), 0.02)
}

func TestWhatIsNoGearIsTold(t *testing.T) {
	d := train(t, 10, 20)
	loose := rigtest.Apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{{5, 1, 0}, {6, 1, 0}}, Pattern: "loose_#"})
	n := len(loose.Joints)
	axis := parameter.Set{"axis": parameter.OfChoice(mainAxis)}
	teeth := parameter.Set{"teeth": parameter.OfNumber(1), "others": parameter.OfNumber(2)}
	rigtest.Refuse(t, loose, &edit.AddMechanism{Mechanism: gear.Name, Name: "g", Options: axis, Parameters: teeth, Roles: map[string][]string{"gear": {loose.Joints[n-1].ID}, "by": {loose.Joints[0].ID}}}, "frame turns nothing by itself")
	rigtest.Refuse(t, loose, &edit.AddMechanism{Mechanism: gear.Name, Name: "g", Options: axis, Parameters: teeth, Roles: map[string][]string{"gear": {loose.Joints[n-1].ID}, "by": {loose.Joints[n-2].ID}}}, "goes with loose_1 as it is")
	rigtest.Refuse(t, d, &edit.SetParameters{Mechanism: d.Mechanisms[1].ID, Values: parameter.Set{"teeth": parameter.OfNumber(0)}}, "it has no teeth")
}
