package glb

import (
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/qmuntal/gltf"
	"github.com/qmuntal/gltf/modeler"

	"myriapod/core/evaluate"
	"myriapod/core/interchange/model"
)

// Report is what reading an export back and comparing it with the rig has shown.
type Report struct {
	Frames   int     `json:"frames"`
	Vertices int     `json:"vertices"`
	Greatest float64 `json:"greatest"` // distance between any vertex of the file and of the rig, metres
	Share    float64 `json:"share"`    // the same as a share of the model's size
	Part     string  `json:"part"`     // where the greatest distance is
	Frame    int     `json:"frame"`
	// Shapes is how many keyed morph targets stand in for what joints and the rig's own morph targets cannot say, of how many parts, and ShapesGreatest the greatest distance among those parts.
	Shapes         int     `json:"shapes"`
	ShapesParts    int     `json:"shapesParts"`
	ShapesGreatest float64 `json:"shapesGreatest"`
}

// Verify reads a file that Write made with the same job, moves it by nothing but what the file says, and compares every vertex in
// every frame with the rig.
func (j *Job) Verify(data []byte) (Report, error) {
	document, _, err := decode(data, model.Beside(nil).OrNothing())
	if err != nil {
		return Report{}, fmt.Errorf("the export could not be read back: %w", err)
	}
	p, err := newPlayer(document, j.Body, j.grounds())
	if err != nil {
		return Report{}, fmt.Errorf("the export could not be read back: %w", err)
	}
	frames := Range{}
	if j.Frames != nil {
		frames = *j.Frames
	}
	j.begin()
	report := Report{Frames: frames.To - frames.From + 1}
	for i, drawn := range j.Body.Drawn() {
		part := &j.Body.Parts[drawn.Part]
		report.Vertices += part.Rest.VertexCount()
		if drawn.Set < 0 && part.Deformed() {
			report.Shapes += len(p.parts[i].targets)
			report.ShapesParts++
		}
	}
	for frame := frames.From; frame <= frames.To; frame++ {
		if !j.progress(0.3 + 0.7*float64(frame-frames.From)/float64(report.Frames)) {
			return Report{}, ErrStopped
		}
		j.Evaluator.SetFrame(float64(frame))
		j.Evaluator.Evaluate()
		j.Body.Deform(j.Evaluator)
		p.pose(frame - frames.From)
		for i, drawn := range j.Body.Drawn() {
			p.parts[i].deform(p.world)
			drawn.World(j.Evaluator, j.Body, p.parts[i].want)
			d := evaluate.GreatestDistance(p.parts[i].want, p.parts[i].out)
			if drawn.Set < 0 && j.Body.Parts[drawn.Part].Deformed() {
				report.ShapesGreatest = math.Max(report.ShapesGreatest, d)
			}
			if d > report.Greatest {
				report.Greatest, report.Part, report.Frame = d, drawn.Name, frame
			}
		}
	}
	if size := j.Body.Size(); size > 0 {
		report.Share = report.Greatest / size
	}
	if math.IsNaN(report.Greatest) {
		return report, fmt.Errorf("the export moves to places that are not finite")
	}
	return report, nil
}

// player moves a glTF file as any reader would, independently of the writer.
type player struct {
	document *gltf.Document
	parents  []int
	world    []mgl64.Mat4
	moves    map[int]*track
	parts    []playedPart
}

type track struct {
	places, scales [][3]float32
	turns          [][4]float32
	morphs         []float32
}

type playedPart struct {
	positions [][3]float32
	joints    [][4]uint16
	weights   [][4]float32
	inverses  []mgl64.Mat4
	nodes     []int
	out, want []float32
	node      int            // the part's own
	targets   [][][3]float32 // of its morph targets
	values    []float64      // how much of each is mixed in
}

func newPlayer(document *gltf.Document, body *evaluate.Body, grounds int) (*player, error) {
	p := &player{document: document, parents: make([]int, len(document.Nodes)), world: make([]mgl64.Mat4, len(document.Nodes)), moves: map[int]*track{}}
	for i := range p.parents {
		p.parents[i] = -1
	}
	for i, node := range document.Nodes {
		for _, child := range node.Children {
			p.parents[child] = i
		}
	}
	if err := p.readMotion(); err != nil {
		return nil, err
	}
	for i, node := range document.Nodes {
		if node.Mesh == nil {
			continue
		}
		part, err := p.readPart(node)
		if err != nil {
			return nil, err
		}
		part.node = i
		p.parts = append(p.parts, part)
	}
	if want := len(body.Drawn()) + grounds; len(p.parts) != want {
		return nil, fmt.Errorf("it has %d parts in place of %d", len(p.parts), want)
	}
	for i, drawn := range body.Drawn() {
		if want := body.Parts[drawn.Part].Rest.VertexCount(); len(p.parts[i].positions) != want {
			return nil, fmt.Errorf("its part %d has %d vertices in place of %d", i, len(p.parts[i].positions), want)
		}
	}
	return p, nil
}

func (p *player) readMotion() error {
	for _, animation := range p.document.Animations {
		for _, channel := range animation.Channels {
			data, err := modeler.ReadAccessor(p.document, p.document.Accessors[animation.Samplers[channel.Sampler].Output], nil)
			if err != nil {
				return err
			}
			node := *channel.Target.Node
			if p.moves[node] == nil {
				p.moves[node] = &track{}
			}
			switch channel.Target.Path {
			case gltf.TRSTranslation:
				p.moves[node].places = append([][3]float32(nil), data.([][3]float32)...)
			case gltf.TRSScale:
				p.moves[node].scales = append([][3]float32(nil), data.([][3]float32)...)
			case gltf.TRSRotation:
				p.moves[node].turns = append([][4]float32(nil), data.([][4]float32)...)
			case gltf.TRSWeights:
				p.moves[node].morphs = append([]float32(nil), data.([]float32)...)
			}
		}
	}
	return nil
}

func (p *player) readPart(node *gltf.Node) (part playedPart, err error) {
	attributes := p.document.Meshes[*node.Mesh].Primitives[0].Attributes
	if part.positions, err = modeler.ReadPosition(p.document, p.document.Accessors[attributes[gltf.POSITION]], nil); err != nil {
		return part, err
	}
	part.out, part.want = make([]float32, 3*len(part.positions)), make([]float32, 3*len(part.positions))
	part.values = append(part.values, p.document.Meshes[*node.Mesh].Weights...)
	for _, target := range p.document.Meshes[*node.Mesh].Primitives[0].Targets {
		data, err := modeler.ReadAccessor(p.document, p.document.Accessors[target[gltf.POSITION]], nil)
		if err != nil {
			return part, err
		}
		part.targets = append(part.targets, append([][3]float32(nil), data.([][3]float32)...))
	}
	if node.Skin == nil {
		return part, nil
	}
	if part.joints, err = modeler.ReadJoints(p.document, p.document.Accessors[attributes[gltf.JOINTS_0]], nil); err != nil {
		return part, err
	}
	if part.weights, err = modeler.ReadWeights(p.document, p.document.Accessors[attributes[gltf.WEIGHTS_0]], nil); err != nil {
		return part, err
	}
	skin := p.document.Skins[*node.Skin]
	inverses, err := modeler.ReadInverseBindMatrices(p.document, p.document.Accessors[*skin.InverseBindMatrices], nil)
	if err != nil {
		return part, err
	}
	part.nodes = skin.Joints
	for _, m := range inverses {
		var inverse mgl64.Mat4
		for column := range 4 {
			for row := range 4 {
				inverse[4*column+row] = float64(m[row][column])
			}
		}
		part.inverses = append(part.inverses, inverse)
	}
	return part, nil
}

// pose brings every node to the key of a frame.
func (p *player) pose(frame int) {
	for i := range p.world {
		p.world[i] = mgl64.Mat4{}
	}
	for i := range p.world {
		p.place(i, frame)
	}
	for i := range p.parts {
		part := &p.parts[i]
		if t := p.moves[part.node]; t != nil && t.morphs != nil {
			for k := range part.values {
				part.values[k] = float64(t.morphs[frame*len(part.values)+k])
			}
		}
	}
}

func (p *player) place(i, frame int) mgl64.Mat4 {
	if p.world[i] != (mgl64.Mat4{}) {
		return p.world[i]
	}
	node := *p.document.Nodes[i]
	if t := p.moves[i]; t != nil {
		if t.places != nil {
			node.Translation = [3]float64{float64(t.places[frame][0]), float64(t.places[frame][1]), float64(t.places[frame][2])}
		}
		if t.scales != nil {
			node.Scale = [3]float64{float64(t.scales[frame][0]), float64(t.scales[frame][1]), float64(t.scales[frame][2])}
		}
		if t.turns != nil {
			q := t.turns[frame]
			node.Rotation = [4]float64{float64(q[0]), float64(q[1]), float64(q[2]), float64(q[3])}
		}
	}
	p.world[i] = localMatrix(&node)
	if parent := p.parents[i]; parent >= 0 {
		p.world[i] = p.place(parent, frame).Mul4(p.world[i])
	}
	return p.world[i]
}

func (part *playedPart) deform(world []mgl64.Mat4) {
	matrices := make([]mgl64.Mat4, len(part.nodes))
	for i, node := range part.nodes {
		matrices[i] = world[node].Mul4(part.inverses[i])
	}
	for i, v := range part.positions {
		rest := mgl64.Vec4{float64(v[0]), float64(v[1]), float64(v[2]), 1}
		for k, value := range part.values {
			for axis := range 3 {
				rest[axis] += value * float64(part.targets[k][i][axis])
			}
		}
		now := world[part.node].Mul4x1(rest)
		if part.nodes != nil {
			now = mgl64.Vec4{}
			for k, weight := range part.weights[i] {
				if weight != 0 {
					now = now.Add(matrices[part.joints[i][k]].Mul4x1(rest).Mul(float64(weight)))
				}
			}
		}
		part.out[3*i], part.out[3*i+1], part.out[3*i+2] = float32(now[0]), float32(now[1]), float32(now[2])
	}
}
