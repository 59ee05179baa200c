package glb

import (
	"fmt"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/qmuntal/gltf"

	"myriapod/core/geometry"
	"myriapod/core/interchange/model"
	"myriapod/core/mesh"
	"myriapod/core/skin"
)

func (r *reader) note(format string, values ...any) {
	if text := fmt.Sprintf(format, values...); !slices.Contains(r.model.Notes, text) {
		r.model.Notes = append(r.model.Notes, text)
	}
}

// skeleton makes joints of the nodes that move something: those that skins name, those that animations move, those that place points or lines, and
// those on the way between them. Their scale is taken into the surfaces; joints have none.
func (r *reader) skeleton() error {
	moving := make([]bool, len(r.document.Nodes))
	for i, skin := range r.document.Skins {
		if skin == nil {
			return fmt.Errorf("skin %d is empty", i)
		}
		for _, node := range skin.Joints {
			if node < 0 || node >= len(moving) {
				return fmt.Errorf("skin %d names node %d of %d", i, node, len(moving))
			}
			moving[node] = r.placed[node].inside
		}
	}
	for _, animation := range r.document.Animations {
		for _, channel := range channelsOf(animation) {
			if node := channel.Target.Node; node != nil && *node >= 0 && *node < len(moving) && channel.Target.Path != gltf.TRSWeights {
				moving[*node] = r.placed[*node].inside
			}
		}
	}
	for _, node := range r.scene { // what has no surface still has a place
		if at := r.document.Nodes[node].Mesh; at != nil && *at >= 0 && *at < len(r.document.Meshes) && r.document.Meshes[*at] != nil {
			moving[node] = moving[node] || !slices.ContainsFunc(r.document.Meshes[*at].Primitives, hasSurface)
		}
	}
	r.between(moving)
	r.joints = make([]int, len(moving))
	for i := range r.joints {
		r.joints[i] = -1
	}
	for _, node := range r.scene {
		if !moving[node] {
			continue
		}
		rest, err := r.rigid(node, r.placed[node].world)
		if err != nil {
			return err
		}
		r.joints[node] = len(r.model.Joints)
		r.model.Joints = append(r.model.Joints, model.Joint{Name: r.document.Nodes[node].Name, Parent: r.jointAbove(node), Rest: rest})
	}
	return nil
}

func channelsOf(animation *gltf.Animation) []*gltf.AnimationChannel {
	if animation == nil {
		return nil
	}
	return slices.DeleteFunc(slices.Clone(animation.Channels), func(c *gltf.AnimationChannel) bool { return c == nil })
}

// between marks the nodes that lie between two moving ones, so that chains are whole.
func (r *reader) between(moving []bool) {
	for _, node := range r.scene {
		if !moving[node] {
			continue
		}
		for at := r.placed[node].parent; at >= 0; at = r.placed[at].parent {
			if moving[at] {
				for between := r.placed[node].parent; between != at; between = r.placed[between].parent {
					moving[between] = true
				}
				break
			}
		}
	}
}

// jointAbove is the joint of the nearest node above that is one, or -1.
func (r *reader) jointAbove(node int) int {
	for at := r.placed[node].parent; at >= 0; at = r.placed[at].parent {
		if r.joints[at] >= 0 {
			return r.joints[at]
		}
	}
	return -1
}

// rigid takes the scale out of a matrix. An axis scaled to nothing is found again across the others.
func (r *reader) rigid(node int, m mgl64.Mat4) (geometry.Transform, error) {
	axes := [3]mgl64.Vec3{m.Col(0).Vec3(), m.Col(1).Vec3(), m.Col(2).Vec3()}
	place := m.Col(3).Vec3()
	if !geometry.FiniteVector(place) || !geometry.FiniteVector(axes[0]) || !geometry.FiniteVector(axes[1]) || !geometry.FiniteVector(axes[2]) {
		return geometry.Transform{}, fmt.Errorf("node %d (%s) is not at a finite place", node, r.document.Nodes[node].Name)
	}
	name := r.document.Nodes[node].Name
	if axes[0].Len() < 1e-9 || axes[1].Len() < 1e-9 || axes[2].Len() < 1e-9 {
		r.note("The node %s is scaled to nothing; its joint is taken as unscaled.", name)
	} else if axes[0].Cross(axes[1]).Dot(axes[2]) < 0 {
		r.note("The node %s is mirrored; its joint is taken as it would be without.", name)
	}
	main := geometry.Unit(axes[1], geometry.MainAxis)
	return geometry.Transform{Position: place, Rotation: geometry.FromAxes(main, geometry.Unit(axes[2], geometry.SecondAxis))}, nil
}

// part reads a primitive of a node with its skin and morph targets.
func (r *reader) part(p *gltf.Primitive, node int, world mgl64.Mat4) (part model.Part, err error) {
	place := func(int) mgl64.Mat4 { return world }
	mirrored := world.Mat3().Det() < 0
	if r.document.Nodes[node].Skin != nil {
		accessor, err := r.accessor(p.Attributes[gltf.POSITION])
		if err != nil {
			return part, err
		}
		part.Skin, place, err = r.skinOf(p, *r.document.Nodes[node].Skin, accessor.Count)
		if err != nil {
			return part, err
		}
		mirrored = place(0).Mat3().Det() < 0
	}
	if part.Mesh, err = r.primitive(p, place, mirrored); err != nil {
		return part, err
	}
	if math.Abs(world.Mat3().Det()) < 1e-30 && part.Skin == nil {
		r.note("The node %s is scaled to nothing, so its part is flat; give it a scale where it was made.", r.document.Nodes[node].Name)
	}
	if part.Skin == nil {
		if joint := max(r.joints[node], -1); joint >= 0 || r.jointAbove(node) >= 0 {
			if joint < 0 {
				joint = r.jointAbove(node)
			}
			part.Skin = &model.Skin{Joints: []int{joint}, Weights: rigidWeights(part.Mesh.VertexCount())}
		}
	}
	part.Morphs, err = r.morphs(p, part.Mesh, place)
	return part, err
}

// rigidWeights gives every vertex to the one joint.
func rigidWeights(vertices int) *skin.Weights {
	weights := skin.NewWeights(vertices)
	for i := range vertices {
		weights.Values[skin.Influences*i] = 1
	}
	return weights
}

// morphs reads the morph targets of a primitive, turned with its vertices.
func (r *reader) morphs(p *gltf.Primitive, surface *mesh.Mesh, place func(int) mgl64.Mat4) ([]model.Morph, error) {
	var list []model.Morph
	for i, target := range p.Targets {
		deltas := &mesh.Deltas{}
		for name, into := range map[string]*[]float32{gltf.POSITION: &deltas.Positions, gltf.NORMAL: &deltas.Normals} {
			at, ok := target[name]
			if !ok {
				continue
			}
			moved, err := r.deltas(at, surface.VertexCount(), place)
			if err != nil {
				return nil, fmt.Errorf("morph target %d: %w", i, err)
			}
			*into = moved
		}
		if deltas.Positions == nil {
			if err := r.purse.spend(surface.VertexCount(), perDelta); err != nil {
				return nil, err
			}
			deltas.Positions = make([]float32, len(surface.Positions))
		}
		list = append(list, model.Morph{Name: fmt.Sprintf("shape_%d", i+1), Deltas: deltas})
	}
	return list, nil
}

func (r *reader) deltas(at, vertices int, place func(int) mgl64.Mat4) ([]float32, error) {
	accessor, err := r.accessor(at)
	if err != nil {
		return nil, err
	}
	if err := r.purse.spend(accessor.Count, perDelta); err != nil {
		return nil, err
	}
	list, err := r.floats(at, 3)
	if err != nil || len(list) != 3*vertices {
		return nil, fmt.Errorf("it does not move the %d vertices of its surface by three numbers each", vertices)
	}
	moved := make([]float32, 0, 3*vertices)
	for i := range vertices {
		v := place(i).Mat3().Mul3x1(vector(list, i))
		if !geometry.FiniteVector(v) || v.Len() > math.MaxFloat32/2 {
			return nil, fmt.Errorf("vertex %d moves by what is not finite", i)
		}
		moved = append(moved, float32(v[0]), float32(v[1]), float32(v[2]))
	}
	return moved, nil
}

// morphNames gives a part's morph targets the names and the values that the mesh has for them.
func (r *reader) morphNames(part *model.Part, source *gltf.Mesh) {
	var names []any
	if extras, ok := source.Extras.(map[string]any); ok {
		names, _ = extras["targetNames"].([]any)
	}
	used := map[string]bool{}
	for i := range part.Morphs {
		if i < len(names) {
			if name, ok := names[i].(string); ok && name != "" && !used[name] && len(name) <= 100 {
				part.Morphs[i].Name = name
			}
		}
		used[part.Morphs[i].Name] = true
		if i < len(source.Weights) && geometry.Finite(source.Weights[i]) {
			part.Morphs[i].Value = math.Max(-100, math.Min(100, source.Weights[i]))
		}
	}
}

// rotationIn is a rotation as a file takes it: rounding must not make a number larger than 1.
func rotationIn(q mgl64.Quat) [4]float64 {
	list := [4]float64{q.V[0], q.V[1], q.V[2], q.W}
	for k := range list {
		list[k] = math.Max(-1, math.Min(1, list[k]))
	}
	return list
}
