// Package glb reads and writes glTF 2.0, binary or as self-contained text, and checks what was written by reading it back.
package glb

import (
	"fmt"
	"slices"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/qmuntal/gltf"

	"myriapod/core/interchange/model"
)

// Read reads a glTF file: its surfaces, placed as its scene places them, one part for each primitive, with the looks, skeleton, skin, morph targets
// and animations that it has. Files that it names are read by beside.
func Read(data []byte, beside model.Beside) (*model.Model, error) {
	beside = beside.OrNothing()
	document, held, err := decode(data, beside)
	if err != nil {
		return nil, err
	}
	r := &reader{
		document: document, beside: beside, purse: newPurse(held), visiting: make([]bool, len(document.Nodes)), partsOf: map[int][]int{}, images: map[int][]byte{},
	}
	r.noteExtensions()
	roots, err := r.roots()
	if err != nil {
		return nil, err
	}
	r.placed = make([]placed, len(document.Nodes))
	for i := range r.placed {
		r.placed[i] = placed{world: mgl64.Ident4(), parent: -1}
	}
	for _, root := range roots {
		if err := r.place(root, -1, mgl64.Ident4()); err != nil {
			return nil, err
		}
	}
	if err := r.placeSkins(); err != nil {
		return nil, err
	}
	if err := r.skeleton(); err != nil {
		return nil, err
	}
	for _, node := range r.scene {
		if err := r.node(node); err != nil {
			return nil, err
		}
	}
	if len(document.Scenes) > 1 {
		r.note("The file has %d scenes; the one that it names as its own, or else the first, came in.", len(document.Scenes))
	}
	return &r.model, r.animations()
}

// maxElements bounds one accessor, so that a small file cannot ask for all the memory.
const maxElements = 6 * model.MaxVertices

type reader struct {
	document *gltf.Document
	beside   model.Beside
	images   map[int][]byte // read so far
	purse    *purse
	visiting []bool
	depth    int
	placed   []placed      // by node
	scene    []int         // nodes of the scene, parents before children
	joints   []int         // by node: its joint in the model, -1 for none
	partsOf  map[int][]int // by node: its parts in the model
	model    model.Model
}

// placed is where a node of the scene stands.
type placed struct {
	world  mgl64.Mat4
	parent int
	inside bool // in the scene
}

// roots lists the nodes of the scene; without scenes, those that are no node's child.
func (r *reader) roots() ([]int, error) {
	if len(r.document.Scenes) > 0 {
		scene := 0
		if r.document.Scene != nil {
			scene = *r.document.Scene
		}
		if scene < 0 || scene >= len(r.document.Scenes) || r.document.Scenes[scene] == nil {
			return nil, fmt.Errorf("the file names scene %d of %d", scene, len(r.document.Scenes))
		}
		return r.document.Scenes[scene].Nodes, nil
	}
	child := make([]bool, len(r.document.Nodes))
	for _, node := range r.document.Nodes {
		if node == nil {
			continue
		}
		for _, i := range node.Children {
			if i >= 0 && i < len(child) {
				child[i] = true
			}
		}
	}
	var roots []int
	for i, isChild := range child {
		if !isChild {
			roots = append(roots, i)
		}
	}
	return roots, nil
}

const maxDepth = 512

// place finds where a node and those below it stand.
func (r *reader) place(index, parent int, above mgl64.Mat4) error {
	if index < 0 || index >= len(r.document.Nodes) || r.document.Nodes[index] == nil {
		return fmt.Errorf("the scene names node %d of %d", index, len(r.document.Nodes))
	}
	node := r.document.Nodes[index]
	if r.visiting[index] || r.depth > maxDepth {
		return fmt.Errorf("node %d (%s) is among its own children, or nested deeper than %d", index, node.Name, maxDepth)
	}
	if r.placed[index].inside {
		return fmt.Errorf("node %d (%s) is a child of two nodes; export the file again", index, node.Name)
	}
	r.visiting[index] = true
	r.depth++
	defer func() { r.visiting[index] = false; r.depth-- }()
	world := above.Mul4(localMatrix(node))
	r.placed[index] = placed{world: world, parent: parent, inside: true}
	r.scene = append(r.scene, index)
	for _, child := range node.Children {
		if err := r.place(child, index, world); err != nil {
			return err
		}
	}
	return nil
}

// placeSkins places joints that skins name and that hang on nothing in the scene.
func (r *reader) placeSkins() error {
	above := make([]int, len(r.document.Nodes))
	for i := range above {
		above[i] = -1
	}
	for i, node := range r.document.Nodes {
		if node == nil {
			return fmt.Errorf("node %d is empty", i)
		}
		for _, child := range node.Children {
			if child >= 0 && child < len(above) {
				above[child] = i
			}
		}
	}
	for _, node := range slices.Clone(r.scene) {
		skin := r.document.Nodes[node].Skin
		if skin == nil || *skin < 0 || *skin >= len(r.document.Skins) || r.document.Skins[*skin] == nil {
			continue
		}
		for _, joint := range r.document.Skins[*skin].Joints {
			if joint < 0 || joint >= len(r.placed) || r.placed[joint].inside {
				continue
			}
			top := joint
			for steps := 0; above[top] >= 0 && steps < maxDepth; steps++ {
				top = above[top]
			}
			if err := r.place(top, -1, mgl64.Ident4()); err != nil {
				return err
			}
		}
	}
	return nil
}

// node reads the surfaces of a node.
func (r *reader) node(index int) error {
	node := r.document.Nodes[index]
	if node.Mesh == nil {
		return nil
	}
	first := len(r.model.Parts)
	if err := r.mesh(*node.Mesh, index); err != nil {
		return err
	}
	for i := first; i < len(r.model.Parts); i++ {
		r.partsOf[index] = append(r.partsOf[index], i)
	}
	return nil
}

func localMatrix(node *gltf.Node) mgl64.Mat4 {
	if m := node.MatrixOrDefault(); m != gltf.DefaultMatrix {
		return mgl64.Mat4(m)
	}
	t, q, s := node.TranslationOrDefault(), node.RotationOrDefault(), node.ScaleOrDefault()
	rotation := mgl64.Quat{W: q[3], V: mgl64.Vec3{q[0], q[1], q[2]}}.Normalize().Mat4()
	return mgl64.Translate3D(t[0], t[1], t[2]).Mul4(rotation).Mul4(mgl64.Scale3D(s[0], s[1], s[2]))
}

// hasSurface tells whether a primitive is of triangles, with places for their corners.
func hasSurface(p *gltf.Primitive) bool {
	if p == nil {
		return false
	}
	_, placed := p.Attributes[gltf.POSITION]
	return placed && (p.Mode == gltf.PrimitiveTriangles || p.Mode == gltf.PrimitiveTriangleStrip || p.Mode == gltf.PrimitiveTriangleFan)
}

func (r *reader) mesh(index, nodeIndex int) error {
	nodeName, place := r.document.Nodes[nodeIndex].Name, r.placed[nodeIndex].world
	if index < 0 || index >= len(r.document.Meshes) || r.document.Meshes[index] == nil {
		return fmt.Errorf("node %s names mesh %d of %d", nodeName, index, len(r.document.Meshes))
	}
	source := r.document.Meshes[index]
	name := nodeName
	if name == "" {
		name = source.Name
	}
	for i, primitive := range source.Primitives {
		if !hasSurface(primitive) {
			r.note("The mesh %s has points or lines; of those without a surface only the place came in.", name)
			continue
		}
		if len(r.model.Parts) >= model.MaxParts {
			return fmt.Errorf("there are more than %d parts; join some", model.MaxParts)
		}
		part, err := r.part(primitive, nodeIndex, place)
		if err != nil {
			return fmt.Errorf("mesh %s, primitive %d: %w", name, i, err)
		}
		if len(part.Mesh.Triangles) == 0 {
			continue
		}
		partName := name
		if material := r.materialOf(primitive); len(source.Primitives) > 1 && material != nil && material.Name != "" {
			partName += "_" + material.Name
		}
		part.Name = partName
		if part.Colour, part.Look, err = r.look(primitive); err != nil {
			return fmt.Errorf("mesh %s, primitive %d: %w", name, i, err)
		}
		r.morphNames(&part, source)
		r.model.Parts = append(r.model.Parts, part)
	}
	return nil
}
