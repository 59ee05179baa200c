// Package glb reads and writes glTF 2.0, binary or as self-contained text, and checks what was written by reading it back.
package glb

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/qmuntal/gltf"

	"myriapod/core/interchange/model"
	"myriapod/core/textsize"
)

// Read reads a glTF file: its surfaces, placed as its scene places them, one part for each primitive, with the skeleton, skin, morph targets
// and animations that it has. Files beside it are not read: buffers must be inside.
func Read(data []byte) (*model.Model, error) {
	document, err := decode(data)
	if err != nil {
		return nil, err
	}
	r := &reader{document: document, purse: newPurse(len(data)), visiting: make([]bool, len(document.Nodes)), partsOf: map[int][]int{}}
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
	if err := r.skeleton(); err != nil {
		return nil, err
	}
	for _, node := range r.order {
		if err := r.node(node); err != nil {
			return nil, err
		}
	}
	return &r.model, r.animations()
}

// decode reads the file with all its buffers and checks every size it claims against what is there.
func decode(data []byte) (*gltf.Document, error) {
	text := data
	if bytes.HasPrefix(data, []byte("glTF")) {
		if err := checkChunks(data); err != nil {
			return nil, err
		}
		text = data[20 : 20+binary.LittleEndian.Uint32(data[12:])]
	}
	if err := textsize.Check(text, mostText); err != nil {
		return nil, err
	}
	document := new(gltf.Document)
	if err := json.NewDecoder(bytes.NewReader(text)).Decode(document); err != nil {
		return nil, fmt.Errorf("the file is damaged or not glTF: %w", err)
	}
	if err := checkLengths(document, len(data)); err != nil {
		return nil, err
	}
	document = new(gltf.Document) // once more, with its buffers
	if err := gltf.NewDecoder(bytes.NewReader(data)).Decode(document); err != nil {
		return nil, fmt.Errorf("the file is damaged or not glTF: %w", err)
	}
	shorten(document)
	if !strings.HasPrefix(document.Asset.Version, "2.") {
		return nil, fmt.Errorf("glTF version %q is not read; export it as 2.0", document.Asset.Version)
	}
	for _, extension := range document.ExtensionsRequired {
		if !slices.Contains(readExtensions, extension) {
			return nil, fmt.Errorf("the file needs the extension %s, which is not read; export it without", extension)
		}
	}
	return document, checkBuffers(document, len(data))
}

// readExtensions are those that a file may require: they change nothing that is read here, or are read by the decoder.
var readExtensions = []string{"KHR_materials_unlit", "KHR_texture_transform", "KHR_mesh_quantization"}

// checkChunks compares the lengths that a binary file tells of itself with the bytes there are.
func checkChunks(data []byte) error {
	if len(data) < 20 {
		return errors.New("the file is cut short; export or copy it again")
	}
	if total := binary.LittleEndian.Uint32(data[8:]); int64(total) != int64(len(data)) {
		return fmt.Errorf("the file says it has %d bytes and has %d; export or copy it again", total, len(data))
	}
	for at := 12; at < len(data); {
		if len(data)-at < 8 {
			return errors.New("the file ends inside a chunk; export or copy it again")
		}
		length := int64(binary.LittleEndian.Uint32(data[at:]))
		if length > int64(len(data)-at-8) {
			return fmt.Errorf("a chunk says it has %d bytes and %d are left; export or copy the file again", length, len(data)-at-8)
		}
		at += 8 + int(length)
	}
	return nil
}

func checkBuffers(document *gltf.Document, file int) error {
	for i, buffer := range document.Buffers {
		if buffer == nil {
			return fmt.Errorf("buffer %d is empty", i)
		}
		if buffer.URI != "" && !buffer.IsEmbeddedResource() {
			return fmt.Errorf("buffer %d lies in another file, %s; export the model as one .glb file", i, buffer.URI)
		}
		if len(buffer.Data) < buffer.ByteLength {
			return fmt.Errorf("buffer %d says it has %d bytes and has %d", i, buffer.ByteLength, len(buffer.Data))
		}
	}
	for i, view := range document.BufferViews {
		if view == nil || view.Buffer < 0 || view.Buffer >= len(document.Buffers) {
			return fmt.Errorf("buffer view %d points at no buffer", i)
		}
		if view.ByteLength < 0 || view.ByteStride < 0 || !within(view.ByteOffset, view.ByteLength, 1, 1, len(document.Buffers[view.Buffer].Data)) {
			return fmt.Errorf("buffer view %d reaches past its buffer", i)
		}
	}
	for i, accessor := range document.Accessors {
		if err := checkAccessor(document, accessor, file); err != nil {
			return fmt.Errorf("accessor %d %w", i, err)
		}
	}
	giveZeros(document)
	return nil
}

// giveZeros gives accessors without a buffer view one of zeros to read, as glTF means them. The reader would hand out what it last read elsewhere.
func giveZeros(document *gltf.Document) {
	longest := 0
	for _, a := range document.Accessors {
		if a.BufferView == nil {
			longest = max(longest, a.Count*gltf.SizeOfElement(a.ComponentType, a.Type))
			a.BufferView, a.ByteOffset = gltf.Index(len(document.BufferViews)), 0
		}
	}
	if longest > 0 {
		document.Buffers = append(document.Buffers, &gltf.Buffer{ByteLength: longest, Data: make([]byte, longest)})
		document.BufferViews = append(document.BufferViews, &gltf.BufferView{Buffer: len(document.Buffers) - 1, ByteLength: longest})
	}
}

// maxElements bounds one accessor, so that a small file cannot ask for all the memory.
const maxElements = 6 * model.MaxVertices

type reader struct {
	document *gltf.Document
	purse    *purse
	visiting []bool
	depth    int
	placed   []placed      // by node
	order    []int         // nodes of the scene, parents before children
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
	r.order = append(r.order, index)
	for _, child := range node.Children {
		if err := r.place(child, index, world); err != nil {
			return err
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
		if primitive == nil || primitive.Mode != gltf.PrimitiveTriangles {
			continue // points and lines have no surface
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
		part.Name, part.Colour = partName, r.colour(primitive)
		r.morphNames(&part, source)
		r.model.Parts = append(r.model.Parts, part)
	}
	return nil
}
