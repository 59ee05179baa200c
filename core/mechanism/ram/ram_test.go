package ram_test

import (
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/edit"
	"myriapod/core/mechanism/fkchain"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mechanism/ram"
	"myriapod/core/mesh"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// arm is a boom that turns on a mast by a handle, with the eyes of a ram between mast and boom.
func arm(t require.TestingT) *rig.Document {
	d := rigtest.Apply(t, rig.New("x"), &edit.LayChain{Positions: []mgl64.Vec3{{0, 0, 0}, {0, 1, 0}, {3, 1.5, 0}}, Pattern: "arm_#"})
	d = rigtest.Apply(t, d, &edit.AddMechanism{Mechanism: fkchain.Name, Name: "arm", Joints: []string{d.Joints[0].ID, d.Joints[1].ID, d.Joints[2].ID}})
	d = rigtest.Apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{{0.3, 0.2, 0}}, Pattern: "barrel", Parent: d.Joints[0].ID}, &edit.LayChain{Positions: []mgl64.Vec3{{1.5, 1.1, 0}}, Pattern: "rod", Parent: d.Joints[1].ID})
	return d
}

func build(d *rig.Document) *edit.AddMechanism {
	return &edit.AddMechanism{Mechanism: ram.Name, Name: "ram", Roles: map[string][]string{"barrel": {d.Joints[3].ID}, "rod": {d.Joints[4].ID}}}
}

// TestBarrelAndRodKeepAimingAtEachOther turns the boom anywhere: the eyes stay where they are fixed, what pointed from one to the other at rest still does, and lengths past the ends are told.
func TestBarrelAndRodKeepAimingAtEachOther(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := arm(t)
		add := build(d)
		add.Parameters = parameter.Set{"shortest": parameter.OfNumber(1.2), "longest": parameter.OfNumber(1.9)}
		d = rigtest.Apply(t, d, add)
		e := rigtest.Open(t, d)
		for i := range d.Controls {
			if d.Controls[i].Name != rig.GlobalName && d.Controls[i].Name != rig.RootName {
				for _, channel := range []rig.Channel{rig.RotateX, rig.RotateY, rig.RotateZ} {
					require.NoError(t, e.SetChannel(i, channel, rapid.Float64Range(-1, 1).Draw(t, "turn")))
				}
			}
		}
		e.Evaluate()
		j := e.Frame.Joints
		between := j[4].Position.Sub(j[3].Position)
		rest := d.Joints[4].Position.Sub(d.Joints[3].Position)
		for _, i := range []int{3, 4} {
			way := j[i].Rotation.Rotate(d.Joints[i].Rest().Rotation.Conjugate().Rotate(rest.Normalize()))
			assert.InDelta(t, 0, way.Sub(between.Normalize()).Len(), 1e-9)
			on := d.Joints[i].Parent
			for k := range d.Joints {
				if d.Joints[k].ID == on {
					fixed := j[k].Apply(d.Joints[k].Rest().Inverse().Apply(d.Joints[i].Position))
					assert.InDelta(t, 0, fixed.Sub(j[i].Position).Len(), 1e-9, "the eye stays where it is fixed")
				}
			}
		}
		told := len(e.Findings()) > 0
		assert.Equal(t, between.Len() < 1.2 || between.Len() > 1.9, told)
	})
}

// TestTravelIsMeasuredFromTheParts binds a barrel of 1 and a rod of 1.1 to eyes that are 1.5 apart.
func TestTravelIsMeasuredFromTheParts(t *testing.T) {
	way := mgl64.Vec3{1.2, 0.9, 0}.Normalize()
	stick := func(from mgl64.Vec3, long float64) *mesh.Mesh {
		to := from.Add(way.Mul(long))
		m := &mesh.Mesh{Positions: []float32{float32(from[0]), float32(from[1]), 0, float32(to[0]), float32(to[1]), 0, float32(from[0]), float32(from[1]), 0.1}, Triangles: []uint32{0, 1, 2}}
		m.ComputeNormals()
		return m
	}
	d := arm(t)
	memory := edit.Memory{}
	c := &edit.Context{Kinds: kinds.All(), Surfaces: memory}
	parts := []edit.NewPart{}
	for name, m := range map[string]*mesh.Mesh{"a_barrel": stick(mgl64.Vec3{0.3, 0.2, 0}, 1), "b_rod": stick(mgl64.Vec3{1.5, 1.1, 0}.Sub(way.Mul(1.1)), 1.1)} {
		data := m.Encode()
		memory[edit.Hash(data)] = data
		parts = append(parts, edit.NewPart{Name: name, Mesh: edit.Hash(data), Vertices: 3, Colour: "#888888"})
	}
	apply := func(e edit.Edit) {
		result, err := edit.Apply(c, d, e)
		require.NoError(t, err)
		for hash, data := range c.Blobs {
			memory[hash] = data
		}
		d = result.Document
	}
	apply(&edit.AddParts{From: "x", Parts: parts})
	for _, p := range d.Parts {
		joint := d.Joints[3].ID
		if p.Name == "b_rod" {
			joint = d.Joints[4].ID
		}
		apply(&edit.BindRigid{Parts: []string{p.ID}, Joint: joint})
	}
	apply(build(d))
	made := d.Mechanisms[len(d.Mechanisms)-1]
	assert.InDelta(t, 1.1, made.Parameters["shortest"].Number, 1e-5)
	assert.InDelta(t, 2.1-0.05, made.Parameters["longest"].Number, 1e-5)
}

func TestWhatIsNoRamIsRefused(t *testing.T) {
	d := arm(t)
	same := build(d)
	same.Roles = map[string][]string{"barrel": {d.Joints[3].ID}, "rod": {d.Joints[1].ID}}
	rigtest.Refuse(t, d, same, "hang on the same")
	other := d.Clone()
	other.Joints[4].Parent = other.Joints[3].ID
	rigtest.Refuse(t, other, build(other), "hang on each other")
	near := d.Clone()
	near.Joints[4].Position = near.Joints[3].Position
	rigtest.Refuse(t, near, build(near), "stand in one place")
}
