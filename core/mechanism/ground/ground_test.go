package ground_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/interchange/rigfile"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/ground"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mechanism/limb"
	"myriapod/core/mechanism/step"
	"myriapod/core/mesh"
	"myriapod/core/motion"
	"myriapod/core/parameter"
	"myriapod/core/plan"
	"myriapod/core/rig"
	"myriapod/core/terrain"
)

// strider is a body on one leg that walks two metres ahead, with parts of the model beside it.
type strider struct {
	memory edit.Memory
	d      *rig.Document
	said   string
}

func (s *strider) apply(t require.TestingT, e edit.Edit) {
	result, err := edit.Apply(s.context(), s.d, e)
	require.NoError(t, err)
	s.d = result.Document
}

func (s *strider) context() *edit.Context {
	return &edit.Context{Kinds: kinds.All(), Surfaces: s.memory, Blobs: s.memory, Tell: func(text string) { s.said += text }}
}

func (s *strider) refuse(t require.TestingT, e edit.Edit, want string) {
	_, err := edit.Apply(s.context(), s.d, e)
	require.ErrorContains(t, err, want)
}

// slab is a flat piece from one corner to the other, with sides; hole leaves the middle third of it out.
func slab(low, high mgl64.Vec3, hole bool) *mesh.Mesh {
	m := &mesh.Mesh{}
	quad := func(a, b, c, d mgl64.Vec3) {
		first := uint32(len(m.Positions) / 3)
		for _, p := range []mgl64.Vec3{a, b, c, d} {
			m.Positions = append(m.Positions, float32(p[0]), float32(p[1]), float32(p[2]))
		}
		m.Triangles = append(m.Triangles, first, first+1, first+2, first, first+2, first+3)
	}
	top := func(z0, z1 float64) {
		quad(mgl64.Vec3{low[0], high[1], z0}, mgl64.Vec3{low[0], high[1], z1}, mgl64.Vec3{high[0], high[1], z1}, mgl64.Vec3{high[0], high[1], z0})
	}
	if third := (high[2] - low[2]) / 3; hole {
		top(low[2], low[2]+third)
		top(high[2]-third, high[2])
	} else {
		top(low[2], high[2])
	}
	quad(mgl64.Vec3{low[0], low[1], low[2]}, mgl64.Vec3{low[0], high[1], low[2]}, mgl64.Vec3{high[0], high[1], low[2]}, mgl64.Vec3{high[0], low[1], low[2]})
	m.ComputeNormals()
	return m
}

func newStrider(t require.TestingT, parts map[string]*mesh.Mesh) *strider {
	s := &strider{memory: edit.Memory{}, d: rig.New("x")}
	add := &edit.AddParts{From: "x"}
	for name, m := range parts {
		data := m.Encode()
		s.memory[edit.Hash(data)] = data
		add.Parts = append(add.Parts, edit.NewPart{Name: name, Mesh: edit.Hash(data), Vertices: m.VertexCount(), Colour: "#777777"})
	}
	s.apply(t, add)
	s.apply(t, &edit.LayChain{Positions: []mgl64.Vec3{{0, 0.9, 0}}, Pattern: "body"})
	s.apply(t, &edit.LayChain{Positions: []mgl64.Vec3{{0.2, 0.9, 0}, {0.25, 0.5, 0.1}, {0.2, 0, 0}}, Pattern: "leg_#", Parent: s.d.Joints[0].ID})
	s.apply(t, &edit.AddMechanism{Mechanism: limb.Name, Name: "reach", Joints: []string{s.d.Joints[1].ID, s.d.Joints[3].ID}, Options: parameter.Set{"pole": parameter.OfToggle(false)}})
	s.apply(t, &edit.AddMechanism{Mechanism: step.Name, Name: "step", Host: s.d.Mechanisms[0].ID})
	s.apply(t, &edit.AddClip{Name: "walk", End: 96})
	root := s.d.ControlNamed(rig.RootName).ID
	s.apply(t, &edit.SetKeys{Clip: s.d.Clips[0].ID, Keys: []edit.KeyValue{
		{KeyPlace: edit.KeyPlace{Control: root, Channel: rig.MoveZ, Frame: 0}, Ease: rig.Linear}, {KeyPlace: edit.KeyPlace{Control: root, Channel: rig.MoveZ, Frame: 96}, Value: 2, Ease: rig.Linear},
	}})
	return s
}

func (s *strider) part(t require.TestingT, name string) map[string][]string {
	for _, p := range s.d.Parts {
		if p.Name == name {
			return map[string][]string{"part": {p.ID}}
		}
	}
	require.Fail(t, name)
	return nil
}

func (s *strider) told(t require.TestingT) (told map[string]bool) {
	e, _, err := evaluate.Open(s.d, kinds.All(), s.memory)
	require.NoError(t, err)
	e.SetClip(motion.Prepare(s.d.Clips[0]))
	told = map[string]bool{}
	for frame := range 97 {
		e.SetFrame(float64(frame))
		e.Evaluate()
		for _, f := range e.Findings() {
			told[f.Text] = true
		}
	}
	return told
}

// What is wrong with a ground is told with what to do: walls when it is made, holes in the frame in which a foot stands over one, and what can be none at all.
func TestWhatIsWrongWithAGroundIsTold(t *testing.T) {
	s := newStrider(t, map[string]*mesh.Mesh{
		"floor": slab(mgl64.Vec3{-2, -0.2, -2}, mgl64.Vec3{2, 0, 4}, false), "pit": slab(mgl64.Vec3{-2, -0.2, -2}, mgl64.Vec3{2, 0, 4}, true),
		"ceiling": {Positions: []float32{0, 3, 0, 1, 3, 0, 0, 3, 1}, Triangles: []uint32{0, 1, 2}, Normals: []float32{0, -1, 0, 0, -1, 0, 0, -1, 0}},
	})
	s.refuse(t, &edit.SetGroundUnder{}, "there is no ground yet")
	s.refuse(t, &edit.AddMechanism{Mechanism: ground.Name, Name: "g", Roles: s.part(t, "ceiling")}, "ceiling cannot be the ground: no face of it looks up")
	s.refuse(t, &edit.AddMechanism{Mechanism: ground.Name, Name: "g", Parameters: parameter.Set{"shape": parameter.OfChoice("part")}}, "has none; choose another shape")
	before := s.d
	s.apply(t, &edit.AddMechanism{Mechanism: ground.Name, Name: "g", Roles: s.part(t, "floor")})
	assert.Contains(t, s.said, "2 faces of floor stand upright")
	assert.Empty(t, s.told(t))
	s.refuse(t, &edit.AddMechanism{Mechanism: ground.Name, Name: "h"}, "there is a ground already, g")
	s.d = before
	s.apply(t, &edit.AddMechanism{Mechanism: ground.Name, Name: "g", Roles: s.part(t, "pit")})
	told := s.told(t)
	assert.True(t, told["There is no ground under the foot of reach here, and it goes by the nearest that there is; have the ground reach farther, close its hole, or lead the body another way."], "%v", told)
}

// The ground is brought to under the feet by one edit, and a foot that steps stands on it wherever it was.
func TestTheGroundIsSetUnderTheFeet(t *testing.T) {
	s := newStrider(t, map[string]*mesh.Mesh{"floor": slab(mgl64.Vec3{-2, -1.2, -2}, mgl64.Vec3{2, -1, 4}, false)})
	s.apply(t, &edit.AddMechanism{Mechanism: ground.Name, Name: "g", Parameters: parameter.Set{"level": parameter.OfNumber(0.3)}})
	s.apply(t, &edit.SetGroundUnder{})
	assert.InDelta(t, 0, s.d.Mechanisms[2].Parameters.Number("level"), 1e-12)
	s.apply(t, &edit.RemoveMechanism{Mechanism: s.d.Mechanisms[2].ID})
	s.apply(t, &edit.AddMechanism{Mechanism: ground.Name, Name: "g", Roles: s.part(t, "floor"), Parameters: parameter.Set{"level": parameter.OfNumber(1.4)}})
	s.apply(t, &edit.SetGroundUnder{})
	assert.InDelta(t, 1, s.d.Mechanisms[2].Parameters.Number("level"), 1e-12)
}

// What is seen of a ground covers the specimen and where it rises, and every vertex of it lies on the ground.
func TestWhatIsSeenOfTheGround(t *testing.T) {
	for _, shape := range []string{"flat", "slope", "steps"} {
		s := newStrider(t, nil)
		s.apply(t, &edit.AddMechanism{Mechanism: ground.Name, Name: "g", Parameters: parameter.Set{
			"shape": parameter.OfChoice(shape), "rise": parameter.OfNumber(0.2), "run": parameter.OfNumber(0.4), "begin": parameter.OfNumber(0.5), "heading": parameter.OfNumber(30),
		}})
		planned, err := plan.Build(s.d, kinds.All(), s.memory)
		require.NoError(t, err)
		all := func(*mechanism.Ground) bool { return true }
		seen := planned.GroundSurface(all)
		require.NotNil(t, seen, shape)
		require.Nil(t, planned.GroundSurface(func(g *mechanism.Ground) bool { return g.Handed }))
		rises := 0
		for i := range seen.VertexCount() {
			p := seen.Vertex(i)
			low, high := planned.Ground.Terrain.Height(p.Sub(mgl64.Vec3{0.5e-3, 0, 0.87e-3})), planned.Ground.Terrain.Height(p.Add(mgl64.Vec3{0.5e-3, 0, 0.87e-3}))
			assert.GreaterOrEqual(t, p[1], min(low, high)-1e-3)
			assert.LessOrEqual(t, p[1], max(low, high)+1e-3)
			if p[1] > 0.01 {
				rises++
			}
		}
		assert.Equal(t, shape != "flat", rises > 0)
	}
}

// A rig of version 2, in which each step had the ground among its own parameters, is read as one with a ground, from a file and from the store.
func TestOldRigsHaveTheirGround(t *testing.T) {
	s := newStrider(t, nil)
	old := s.d.Clone()
	old.Version = 2
	walk := &old.Mechanisms[1]
	walk.Parameters = walk.Parameters.Clone()
	for key, value := range map[string]float64{"rise": 0.25, "run": 0.5, "begin": 1} {
		walk.Parameters[key] = parameter.OfNumber(value)
	}
	walk.Parameters["ground"] = parameter.OfChoice(string(terrain.Steps))
	data, err := rigfile.Write(s.d, s.memory)
	require.NoError(t, err)
	var file map[string]any
	require.NoError(t, json.Unmarshal(data, &file))
	file["version"] = 2
	parameters, err := json.Marshal(walk.Parameters)
	require.NoError(t, err)
	file["mechanisms"].([]any)[1].(map[string]any)["parameters"] = json.RawMessage(parameters)
	data, err = json.Marshal(file)
	require.NoError(t, err)
	read, _, err := rigfile.Read(data, kinds.All())
	require.NoError(t, err)
	kept := old.Clone()
	kept.Modernise()
	require.NoError(t, edit.Validate(kept))
	for _, d := range []*rig.Document{read, kept} {
		assert.Equal(t, rig.Version, d.Version)
		require.Len(t, d.Mechanisms, 3)
		planned, err := plan.Build(d, kinds.All(), edit.Memory{})
		require.NoError(t, err)
		g := planned.Ground.Terrain
		assert.Equal(t, terrain.Steps, g.Shape)
		from := d.ControlNamed(rig.GlobalName).Position
		for ahead, want := range map[float64]float64{0.9: 0, 1.1: 0.25, 1.6: 0.5, 40: 0.25 * 78} {
			assert.InDelta(t, from[1]+want, g.Height(from.Add(mgl64.Vec3{0, 0, ahead})), 1e-9)
		}
		for key := range d.Mechanisms[1].Parameters {
			assert.False(t, strings.Contains("ground rise run begin", key), key)
		}
	}
}
