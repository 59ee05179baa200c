package evaluate_test

import (
	"math/rand/v2"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/mechanism/fkchain"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mesh"
	"myriapod/core/rig"
)

// What is fixed to a joint is drawn at its copies as the copies move: mirror images, turned ones, and copies of copies, posed at random. What is right is made of the part's own vertices.
func TestRepeatsDrawTheirParts(t *testing.T) {
	random := rand.New(rand.NewPCG(9, 2))
	tooth := &mesh.Mesh{Positions: []float32{0.5, 0.1, 0.2, 0.9, 0.3, 0.1, 0.7, 0.8, 0.4, 0.6, 0.2, 0.9}, Triangles: []uint32{0, 1, 2, 0, 2, 3, 0, 3, 1, 1, 3, 2}}
	tooth.ComputeNormals()
	data := tooth.Encode()
	c := &edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}, Blobs: map[string][]byte{edit.Hash(data): data}}
	d := rig.New("x")
	apply := func(e edit.Edit) {
		result, err := edit.Apply(c, d, e)
		require.NoError(t, err)
		d = result.Document
	}
	apply(&edit.AddParts{Parts: []edit.NewPart{{Name: "tooth", Mesh: edit.Hash(data), Vertices: 4, Colour: "#808080"}}})
	apply(&edit.LayChain{Positions: []mgl64.Vec3{{0, 0, 0}}, Pattern: "body"})
	apply(&edit.LayChain{Positions: []mgl64.Vec3{{0.6, 0.3, 0.3}, {0.9, 0.5, 0.4}}, Pattern: "leg_L#", Parent: d.Joints[0].ID})
	apply(&edit.BindRigid{Parts: []string{d.Parts[0].ID}, Joint: d.Joints[1].ID})
	apply(&edit.AddMechanism{Mechanism: fkchain.Name, Name: "leg", Joints: []string{d.Joints[1].ID, d.Joints[2].ID}})
	apply(&edit.AddRepeat{Name: "sides", Rule: rig.Mirror, Sources: []string{d.Joints[1].ID}, Direction: mgl64.Vec3{1, 0, 0}, Draws: true})
	apply(&edit.AddRepeat{Name: "round", Rule: rig.Ring, Sources: []string{d.Joints[1].ID, d.Repeats[0].ID + ".1/" + d.Joints[1].ID}, Direction: mgl64.Vec3{0, 1, 0}, Count: 4, Draws: true})
	memory := edit.Memory(c.Blobs)
	e, body, err := evaluate.Open(d, kinds.All(), memory)
	require.NoError(t, err)
	control, source := d.Mechanisms[0].Controls[0], e.Plan.JointIndex[d.Joints[1].ID]
	for range 20 {
		for k, channel := range rig.Channels[:6] {
			value := random.NormFloat64()
			if k < 3 {
				value *= 0.3
			}
			for i, other := range e.Plan.Document.Controls { // mirrored controls answer equal values with mirrored motion
				if other.ID == control || e.Plan.Origins[other.ID].Of == control || e.Plan.Origins[e.Plan.Origins[other.ID].Of].Of == control {
					require.NoError(t, e.SetChannel(i, channel, value))
				}
			}
		}
		e.Evaluate()
		body.Deform(e)
		motion := e.Frame.Joints[source].Then(d.Joints[1].Rest().Inverse())
		mirrored, turned := 0, 0
		for _, drawn := range body.Drawn() {
			at := make([]float32, 12)
			drawn.World(e, body, at)
			if drawn.Set < 0 {
				continue
			}
			best := 1e9
			for quarter := range 4 {
				for _, side := range []float64{1, -1} {
					away := 0.0
					for v := range 4 {
						want := motion.Apply(tooth.Vertex(v))
						want = mgl64.QuatRotate(float64(quarter)*1.5707963267948966, geometry.Up).Rotate(mgl64.Vec3{side * want[0], want[1], want[2]})
						away += want.Sub(mgl64.Vec3{float64(at[3*v]), float64(at[3*v+1]), float64(at[3*v+2])}).Len()
					}
					if away < best {
						best = away
					}
				}
			}
			assert.Less(t, best, 1e-5)
			if e.Frame.Instances[drawn.Set][drawn.At].Scale[0] < 0 {
				mirrored++
			} else {
				turned++
			}
		}
		assert.Equal(t, [2]int{4, 3}, [2]int{mirrored, turned})
	}
}
