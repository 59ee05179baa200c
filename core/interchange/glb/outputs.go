package glb

import (
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/qmuntal/gltf"
	"github.com/qmuntal/gltf/modeler"

	"myriapod/core/evaluate"
	"myriapod/core/mechanism"
)

// maxShapes bounds the vertices of deformed parts in all frames of an export: each frame is a morph target.
const maxShapes = 12_000_000

// checkShapes counts what the deformed parts of an export come to.
func (j *Job) checkShapes(frames int) error {
	vertices := 0
	for i := range j.Body.Parts {
		if p := &j.Body.Parts[i]; p.Deformed() {
			vertices += p.Rest.VertexCount()
		}
	}
	if vertices > 0 && frames > maxShapes/vertices {
		return fmt.Errorf("%d frames of %d vertices that no skin can say are more than fit one file; export fewer than %d frames at once", frames, vertices, maxShapes/vertices+1)
	}
	return nil
}

// shapes is how far the vertices of deformed parts stand from where they are at rest, by part: frame after frame.
type shapes map[int][][]float32

func (s shapes) add(j *Job) {
	for i := range j.Body.Parts {
		p := &j.Body.Parts[i]
		if !p.Deformed() {
			continue
		}
		away := make([]float32, len(p.Positions))
		for k := range away {
			away[k] = p.Positions[k] - p.Rest.Positions[k]
		}
		s[i] = append(s[i], away)
	}
}

// deformed gives a surface a morph target for each frame. Without frames it stands as it is at rest.
func (w *writer) deformed(surface *gltf.Mesh, part int) {
	if w.baked == nil {
		return
	}
	for _, away := range w.baked.shapes[part] {
		surface.Primitives[0].Targets = append(surface.Primitives[0].Targets, gltf.PrimitiveAttributes{gltf.POSITION: modeler.WritePosition(w.document, triples(away))})
		surface.Weights = append(surface.Weights, 0)
	}
}

// oneAfterTheOther is the amounts of the morph targets of a deformed part: in each frame its own.
func oneAfterTheOther(frames int) []float32 {
	list := make([]float32, frames*frames)
	for i := range frames {
		list[i*frames+i] = 1
	}
	return list
}

// instances adds a node for each instance, with the mesh of its part.
func (w *writer) instances() {
	mesh := 0
	for _, drawn := range w.job.Body.Drawn() {
		if drawn.Set < 0 {
			continue
		}
		if drawn.At == 0 {
			mesh = w.atRest(drawn.Part)
		}
		node := &gltf.Node{Name: drawn.Name, Mesh: gltf.Index(mesh)}
		if w.baked == nil {
			placeNode(node, instanceAt(w.job.Evaluator, drawn))
		} else {
			placeNode(node, w.baked.instances[0][drawn.Set][drawn.At])
		}
		w.instanceNodes = append(w.instanceNodes, w.add(node))
		w.document.Scenes[0].Nodes = append(w.document.Scenes[0].Nodes, w.instanceNodes[len(w.instanceNodes)-1])
	}
}

// atRest returns a mesh of a part's surface at rest, without skin and morph targets, over the same vertices. All instances of the part share it.
func (w *writer) atRest(part int) int {
	if mesh, made := w.rests[part]; made {
		return mesh
	}
	surface := w.surfaces[part]
	whole := surface.Primitives[0]
	plain := &gltf.Primitive{Attributes: gltf.PrimitiveAttributes{}, Indices: whole.Indices, Material: whole.Material}
	for name, accessor := range whole.Attributes {
		if name != gltf.JOINTS_0 && name != gltf.WEIGHTS_0 {
			plain.Attributes[name] = accessor
		}
	}
	w.document.Meshes = append(w.document.Meshes, &gltf.Mesh{Name: surface.Name, Primitives: []*gltf.Primitive{plain}})
	if w.rests == nil {
		w.rests = map[int]int{}
	}
	w.rests[part] = len(w.document.Meshes) - 1
	return w.rests[part]
}

// instanceAt is where an instance is drawn in the world, its size included.
func instanceAt(e *evaluate.Evaluator, d evaluate.Drawn) mechanism.Instance {
	at := e.Frame.Instances[d.Set][d.At]
	at.Place.Position = e.Frame.Scaled(at.Place.Position)
	at.Scale = at.Scale.Mul(e.Frame.Size)
	return at
}

func placeNode(node *gltf.Node, at mechanism.Instance) {
	node.Translation, node.Rotation, node.Scale = at.Place.Position, rotationIn(at.Place.Rotation), at.Scale
}

// bakeInstances keeps where all instances are drawn in the present frame.
func bakeInstances(e *evaluate.Evaluator) [][]mechanism.Instance {
	sets := make([][]mechanism.Instance, len(e.Frame.Instances))
	for set := range sets {
		for k := range e.Frame.Instances[set] {
			sets[set] = append(sets[set], instanceAt(e, evaluate.Drawn{Set: set, At: k}))
		}
	}
	return sets
}

// animateInstances hands over the motion of the instances' nodes.
func (w *writer) animateInstances(channel func(node int, path gltf.TRSProperty, data any)) {
	next := 0
	for _, drawn := range w.job.Body.Drawn() {
		if drawn.Set < 0 {
			continue
		}
		var places, scales [][3]float32
		var turns [][4]float32
		before := w.baked.instances[0][drawn.Set][drawn.At]
		moved, turned, sized := false, false, false
		last := before.Place.Rotation
		for _, frame := range w.baked.instances {
			at := frame[drawn.Set][drawn.At]
			q := at.Place.Rotation.Normalize()
			if q.Dot(last) < 0 {
				q = q.Scale(-1)
			}
			last = q
			moved = moved || at.Place.Position.Sub(before.Place.Position).Len() > moves
			turned = turned || math.Abs(q.Dot(before.Place.Rotation)) < 1-moves*moves || q.Sub(before.Place.Rotation).Len() > moves
			sized = sized || at.Scale.Sub(before.Scale).Len() > moves
			places = append(places, single(at.Place.Position))
			scales = append(scales, single(at.Scale))
			turns = append(turns, [4]float32{float32(q.V[0]), float32(q.V[1]), float32(q.V[2]), float32(q.W)})
		}
		node := w.instanceNodes[next]
		next++
		if moved {
			channel(node, gltf.TRSTranslation, places)
		}
		if turned {
			channel(node, gltf.TRSRotation, turns)
		}
		if sized {
			channel(node, gltf.TRSScale, scales)
		}
	}
}

func single(v mgl64.Vec3) [3]float32 {
	return [3]float32{float32(v[0]), float32(v[1]), float32(v[2])}
}
