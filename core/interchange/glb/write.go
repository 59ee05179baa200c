package glb

import (
	"bytes"
	"errors"
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/qmuntal/gltf"
	"github.com/qmuntal/gltf/modeler"

	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/motion"
	"myriapod/core/rig"
)

// Range is the frames of an export, both included.
type Range struct{ From, To int }

// MaxFrames bounds the frames of one export, and maxSamples the poses of joints and morph targets in all of them.
const (
	MaxFrames  = 100_000
	maxSamples = 6_000_000
)

// ErrStopped tells that the caller stopped the work.
var ErrStopped = errors.New("the export was stopped; no file was written")

// Job is an export: what is written, and who is told of its progress. Progress may stop it by returning false.
type Job struct {
	Evaluator *evaluate.Evaluator
	Body      *evaluate.Body
	Clip      *rig.Clip // nil for none
	Frames    *Range    // nil for no motion
	Progress  func(share float64) bool
}

// Write returns the rig as a GLB file: skeleton, skinned parts, and the frames baked as one animation with a key a frame.
// Where a joint has an own scale in any frame, the skin hangs on a node of its own below each joint, so that the scale is not
// inherited. Nodes of parts come first in the scene, then the skeleton under one node.
func (j *Job) Write() ([]byte, error) {
	baked, err := j.bake()
	if err != nil {
		return nil, err
	}
	if baked == nil {
		j.begin()
		j.Evaluator.Evaluate()
	}
	w := &writer{document: gltf.NewDocument(), job: j, baked: baked, skins: map[string]int{}, images: map[string]int{}}
	w.document.Asset.Generator = "Myriapod"
	w.skeleton()
	for i := range j.Body.Parts {
		if err := w.part(i); err != nil {
			return nil, err
		}
	}
	w.instances()
	w.ground()
	if baked != nil {
		w.animation()
	}
	w.groups()
	for _, buffer := range w.document.Buffers {
		buffer.ByteLength = len(buffer.Data)
	}
	var out bytes.Buffer
	encoder := gltf.NewEncoder(&out)
	encoder.AsBinary = true
	if err := encoder.Encode(w.document); err != nil {
		return nil, fmt.Errorf("the file could not be written: %w", err)
	}
	return out.Bytes(), nil
}

func (j *Job) begin() {
	j.Evaluator.Zero()
	j.Evaluator.SetStill(j.Frames == nil)
	j.Evaluator.SetAtHome(j.Frames == nil)
	j.Evaluator.SetClip(nil)
	if j.Clip != nil {
		j.Evaluator.SetClip(motion.Prepare(*j.Clip))
	}
}

func (j *Job) progress(share float64) bool { return j.Progress == nil || j.Progress(share) }

// relative returns a joint's transform in its parent's frame, with places given by where.
func relative(e *evaluate.Evaluator, joint int, where func(int) geometry.Transform, world geometry.Transform) geometry.Transform {
	parent, ok := e.Plan.JointIndex[e.Plan.Document.Joints[joint].Parent]
	if !ok {
		return world
	}
	return where(parent).Inverse().Then(world)
}

type writer struct {
	top           int // node that carries the skeleton, and its size
	document      *gltf.Document
	names         *rig.Names // that nodes have
	job           *Job
	baked         *baked
	joints        []int        // node of each joint
	carriers      []int        // node that carries the skin of each joint
	parts         []int        // node of each part
	surfaces      []*gltf.Mesh // of each part
	rests         map[int]int  // by part: its mesh without skin, that its instances share
	instanceNodes []int        // in the order of Body.Drawn
	skins         map[string]int
	images        map[string]int // by content hash
}

func (w *writer) add(node *gltf.Node) int {
	w.document.Nodes = append(w.document.Nodes, node)
	return len(w.document.Nodes) - 1
}

func (w *writer) skeleton() {
	joints := w.job.Evaluator.Plan.Document.Joints
	w.joints, w.carriers = make([]int, len(joints)), make([]int, len(joints))
	if len(joints) == 0 {
		return
	}
	w.names = w.job.Evaluator.Plan.Document.TakenNames()
	top := w.add(&gltf.Node{Name: w.names.Free(w.job.Evaluator.Plan.Document.Name)})
	w.top = top
	w.document.Scenes[0].Nodes = append(w.document.Scenes[0].Nodes, top)
	rest := func(k int) geometry.Transform { return joints[k].Rest() }
	for i, joint := range joints {
		local := relative(w.job.Evaluator, i, rest, joint.Rest())
		w.joints[i] = w.add(&gltf.Node{
			Name: joint.Name, Translation: local.Position,
			Rotation: rotationIn(local.Rotation),
		})
	}
	for i, joint := range joints {
		parent := top
		if k, ok := w.job.Evaluator.Plan.JointIndex[joint.Parent]; ok {
			parent = w.joints[k]
		}
		w.document.Nodes[parent].Children = append(w.document.Nodes[parent].Children, w.joints[i])
		w.carriers[i] = w.joints[i]
		if w.baked != nil && w.baked.scaled {
			w.carriers[i] = w.add(&gltf.Node{Name: w.names.Free(joint.Name + "_girth")})
			w.document.Nodes[w.joints[i]].Children = append(w.document.Nodes[w.joints[i]].Children, w.carriers[i])
		}
	}
}

func triples(flat []float32) [][3]float32 {
	list := make([][3]float32, len(flat)/3)
	for i := range list {
		list[i] = [3]float32(flat[3*i : 3*i+3])
	}
	return list
}

func (w *writer) part(i int) error {
	p := &w.job.Body.Parts[i]
	attributes := gltf.PrimitiveAttributes{
		gltf.POSITION: modeler.WritePosition(w.document, triples(p.Rest.Positions)),
		gltf.NORMAL:   modeler.WriteNormal(w.document, triples(p.Rest.Normals)),
	}
	if len(p.Rest.TexCoords) > 0 {
		coords := make([][2]float32, len(p.Rest.TexCoords)/2)
		for i := range coords {
			coords[i] = [2]float32(p.Rest.TexCoords[2*i : 2*i+2])
		}
		attributes[gltf.TEXCOORD_0] = modeler.WriteTextureCoord(w.document, coords)
	}
	if len(p.Rest.Colours) > 0 {
		attributes[gltf.COLOR_0] = w.colours(p.Rest.Colours)
	}
	node := &gltf.Node{Name: p.Part.Name}
	replaced := w.job.Evaluator.Plan.Replaced(p.Part.ID)
	if p.Weights != nil && !p.Deformed() && !replaced {
		attributes[gltf.JOINTS_0], attributes[gltf.WEIGHTS_0] = w.influences(p)
		node.Skin = gltf.Index(w.skin(w.job.Evaluator.Plan.Document.BindingOf(p.Part.ID)))
	}
	material, err := w.material(p.Part)
	if err != nil {
		return err
	}
	surface := &gltf.Mesh{Name: p.Part.Name, Primitives: []*gltf.Primitive{{
		Attributes: attributes, Indices: gltf.Index(modeler.WriteIndices(w.document, p.Rest.Triangles)), Material: gltf.Index(material),
	}}}
	w.surfaces = append(w.surfaces, surface)
	if !replaced {
		if p.Deformed() {
			w.deformed(surface, i)
		} else {
			w.morphs(surface, p)
		}
		w.document.Meshes = append(w.document.Meshes, surface)
		node.Mesh = gltf.Index(len(w.document.Meshes) - 1)
	}
	w.parts = append(w.parts, w.add(node))
	w.document.Scenes[0].Nodes = append(w.document.Scenes[0].Nodes, w.parts[len(w.parts)-1])
	return nil
}

// colours writes the colours of vertices as they came, in linear light.
func (w *writer) colours(flat []float32) int {
	list := make([][4]float32, len(flat)/4)
	for i := range list {
		list[i] = [4]float32(flat[4*i : 4*i+4])
	}
	return modeler.WriteAccessor(w.document, gltf.TargetArrayBuffer, list)
}

// morphs adds a part's morph targets to its surface, with their names as most readers look for them.
func (w *writer) morphs(surface *gltf.Mesh, p *evaluate.BodyPart) {
	names := []string{}
	for i, deltas := range p.Morphs {
		target := gltf.PrimitiveAttributes{gltf.POSITION: modeler.WritePosition(w.document, triples(deltas.Positions))}
		if len(deltas.Normals) > 0 {
			target[gltf.NORMAL] = modeler.WriteNormal(w.document, triples(deltas.Normals))
		}
		surface.Primitives[0].Targets = append(surface.Primitives[0].Targets, target)
		surface.Weights = append(surface.Weights, p.Part.Morphs[i].Value)
		names = append(names, p.Part.Morphs[i].Name)
	}
	if len(names) > 0 {
		surface.Extras = map[string]any{"targetNames": names}
	}
}

func (w *writer) influences(p *evaluate.BodyPart) (joints, values int) {
	count := p.Weights.VertexCount()
	j, v := make([][4]uint16, count), make([][4]float32, count)
	for i := range count {
		j[i], v[i] = [4]uint16(p.Weights.Joints[4*i:4*i+4]), [4]float32(p.Weights.Values[4*i:4*i+4])
		for k := range v[i] {
			if v[i][k] == 0 { // an unused place names joint 0
				j[i][k] = 0
			}
		}
	}
	return modeler.WriteJoints(w.document, j), modeler.WriteWeights(w.document, v)
}

// skin returns the skin of a binding's joints; bindings to the same joints share one.
func (w *writer) skin(binding *rig.Binding) int {
	key := fmt.Sprint(binding.Joints)
	if at, ok := w.skins[key]; ok {
		return at
	}
	skin := &gltf.Skin{}
	inverses := make([][4][4]float32, len(binding.Joints)) // the library takes rows
	for i, id := range binding.Joints {
		joint := w.job.Evaluator.Plan.JointIndex[id]
		skin.Joints = append(skin.Joints, w.carriers[joint])
		inverse := w.job.Evaluator.Plan.Document.Joints[joint].Rest().Inverse().Matrix(mgl64.Vec3{1, 1, 1})
		for column := range 4 {
			for row := range 4 {
				inverses[i][row][column] = float32(inverse[4*column+row])
			}
		}
	}
	skin.InverseBindMatrices = gltf.Index(modeler.WriteAccessor(w.document, gltf.TargetNone, inverses))
	w.document.Skins = append(w.document.Skins, skin)
	w.skins[key] = len(w.document.Skins) - 1
	return w.skins[key]
}

// moves is how little a channel may change, in its own unit, to be left out of the animation.
const moves = 1e-9

func (w *writer) animation() {
	frames := len(w.baked.local)
	times := make([]float32, frames)
	for i := range times {
		times[i] = float32(float64(i) / w.job.Evaluator.Plan.Document.FPS)
	}
	name := "motion"
	if w.job.Clip != nil {
		name = w.job.Clip.Name
	}
	animation := &gltf.Animation{Name: name}
	input := modeler.WriteAccessor(w.document, gltf.TargetNone, times)
	w.document.Accessors[input].Min, w.document.Accessors[input].Max = []float64{float64(times[0])}, []float64{float64(times[frames-1])}
	channel := func(node int, path gltf.TRSProperty, data any) {
		output := modeler.WriteAccessor(w.document, gltf.TargetNone, data)
		animation.Samplers = append(animation.Samplers, &gltf.AnimationSampler{Input: input, Output: output, Interpolation: gltf.InterpolationLinear})
		animation.Channels = append(animation.Channels, &gltf.AnimationChannel{
			Sampler: len(animation.Samplers) - 1, Target: gltf.AnimationChannelTarget{Node: gltf.Index(node), Path: path},
		})
	}
	if places, scales, moved := w.baked.size(); moved {
		channel(w.top, gltf.TRSTranslation, places)
		channel(w.top, gltf.TRSScale, scales)
	}
	for joint, node := range w.joints {
		rest := w.document.Nodes[node]
		if places, moved := w.places(joint, rest.Translation); moved {
			channel(node, gltf.TRSTranslation, places)
		}
		if turns, moved := w.turns(joint, rest.Rotation); moved {
			channel(node, gltf.TRSRotation, turns)
		}
		if scales, moved := w.scales(joint); moved {
			channel(w.carriers[joint], gltf.TRSScale, scales)
		}
	}
	w.animateInstances(channel)
	for i, node := range w.parts {
		if w.document.Nodes[node].Mesh == nil {
			continue
		}
		if w.job.Body.Parts[i].Deformed() {
			channel(node, gltf.TRSWeights, oneAfterTheOther(frames))
			continue
		}
		if values, moved := w.morphValues(&w.job.Body.Parts[i]); moved {
			channel(node, gltf.TRSWeights, values)
		}
	}
	if len(animation.Channels) > 0 {
		w.document.Animations = append(w.document.Animations, animation)
	}
}

// size is the motion of the node that carries the skeleton, where the global control scales it.
func (b *baked) size() (places, scales [][3]float32, moved bool) {
	for _, s := range b.sizes {
		moved = moved || s.size != 1
		places = append(places, [3]float32{float32(s.shift[0]), float32(s.shift[1]), float32(s.shift[2])})
		scales = append(scales, [3]float32{float32(s.size), float32(s.size), float32(s.size)})
	}
	return places, scales, moved
}

func (w *writer) places(joint int, rest [3]float64) (list [][3]float32, moved bool) {
	for _, frame := range w.baked.local {
		p := frame[joint].Position
		moved = moved || p.Sub(mgl64.Vec3(rest)).Len() > moves
		list = append(list, [3]float32{float32(p[0]), float32(p[1]), float32(p[2])})
	}
	return list, moved
}

// turns lists rotations, each with the sign that is nearer to the one before, so that players take the short way.
func (w *writer) turns(joint int, rest [4]float64) (list [][4]float32, moved bool) {
	before := mgl64.Quat{W: rest[3], V: mgl64.Vec3{rest[0], rest[1], rest[2]}}
	for _, frame := range w.baked.local {
		q := frame[joint].Rotation.Normalize()
		if q.Dot(before) < 0 {
			q = q.Scale(-1)
		}
		moved = moved || math.Abs(q.Dot(before)) < 1-moves*moves || q.Sub(before).Len() > moves
		list = append(list, [4]float32{float32(q.V[0]), float32(q.V[1]), float32(q.V[2]), float32(q.W)})
		before = q
	}
	return list, moved
}

func (w *writer) scales(joint int) (list [][3]float32, moved bool) {
	for _, frame := range w.baked.scale {
		s := frame[joint]
		moved = moved || s.Sub(mgl64.Vec3{1, 1, 1}).Len() > moves
		list = append(list, [3]float32{float32(s[0]), float32(s[1]), float32(s[2])})
	}
	return list, moved
}

// morphValues lists how much of each morph target of a part is mixed in, frame after frame.
func (w *writer) morphValues(p *evaluate.BodyPart) (list []float32, moved bool) {
	layout := &w.job.Evaluator.Plan.Layout
	from, _ := layout.Morphs()
	slot := layout.MorphsOf(p.Part) - from
	for _, frame := range w.baked.morphs {
		for k, morph := range p.Part.Morphs {
			moved = moved || math.Abs(frame[slot+k]-morph.Value) > moves
			list = append(list, float32(frame[slot+k]))
		}
	}
	return list, moved
}
