package evaluate

import (
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/mechanism"
	"myriapod/core/mesh"
	"myriapod/core/plan"
	"myriapod/core/rig"
	"myriapod/core/skin"
)

// Surfaces gives the heavy data of a document by content hash.
type Surfaces interface {
	Mesh(hash string) (*mesh.Mesh, error)
	Weights(hash string, joints int) (*skin.Weights, error)
	Deltas(hash string, vertices int) (*mesh.Deltas, error)
	// Blob returns heavy data of any kind as it is kept.
	Blob(hash string) ([]byte, error)
}

// Body is the parts of a document ready to be deformed by an evaluator. It holds the memory for the result.
type Body struct {
	Parts    []BodyPart
	drawn    []Drawn
	heavy    Surfaces
	surfaces []skin.Surface // scratch
}

// Open plans a document and returns an evaluator for it and its body, ready to be deformed.
func Open(document *rig.Document, kinds mechanism.Registry, surfaces Surfaces) (*Evaluator, *Body, error) {
	planned, err := plan.Build(document, kinds, surfaces)
	if err != nil {
		return nil, nil, err
	}
	evaluator := New(planned)
	body, err := NewBody(evaluator, surfaces)
	return evaluator, body, err
}

// BodyPart is one part: its rest surface and, after Deform, where it is now. Weights is nil for a part that is not bound; it stays
// at rest.
type BodyPart struct {
	Part          rig.Part
	Rest          *mesh.Mesh
	Weights       *skin.Weights
	Positions     []float32
	Normals       []float32
	joints        []int
	inverses      []mgl64.Mat4
	palette       []skin.Matrix
	Morphs        []*mesh.Deltas
	slot          int        // where the part's morph targets begin in Frame.Values
	shaped        *mesh.Mesh // the rest surface as the skin is given it: morph targets mixed in, and shaped before it
	before, after []mechanism.Stage
	dual          float64 // how much of its skin goes by dual quaternions
	dualBy        skin.Shares
	motions       []skin.Motion
}

// NewBody reads the surfaces of an evaluator's document.
func NewBody(e *Evaluator, surfaces Surfaces) (*Body, error) {
	body := &Body{heavy: surfaces}
	for _, part := range e.Plan.Document.Parts {
		p, err := newBodyPart(e, surfaces, part, e.Plan.Document.BindingOf(part.ID))
		if err != nil {
			return nil, fmt.Errorf("part %s: %w", part.Name, err)
		}
		body.Parts = append(body.Parts, p)
	}
	return body, body.listDrawn(e)
}

// Heavy returns heavy data that the document names by its content hash, as it is kept: how parts look.
func (b *Body) Heavy(hash string) ([]byte, error) { return b.heavy.Blob(hash) }

// NewBodyPart readies one part as it would go with another binding than its own; with none it stays at rest but for what does not ask for one.
func NewBodyPart(e *Evaluator, surfaces Surfaces, part rig.Part, binding *rig.Binding) (*BodyPart, error) {
	p, err := newBodyPart(e, surfaces, part, binding)
	return &p, err
}

func newBodyPart(e *Evaluator, surfaces Surfaces, part rig.Part, binding *rig.Binding) (BodyPart, error) {
	surface, err := surfaces.Mesh(part.Mesh)
	if err != nil {
		return BodyPart{}, err
	}
	p := BodyPart{
		Part: part, Rest: surface,
		Positions: append([]float32(nil), surface.Positions...), Normals: append([]float32(nil), surface.Normals...),
	}
	for _, morph := range part.Morphs {
		deltas, err := surfaces.Deltas(morph.Deltas, surface.VertexCount())
		if err != nil {
			return BodyPart{}, err
		}
		p.Morphs = append(p.Morphs, deltas)
	}
	p.slot, p.shaped = e.Plan.Layout.MorphsOf(part), surface
	for _, stage := range mechanism.StagesOf(e.Plan.Stages, part) {
		if stage.When == mechanism.BeforeSkin {
			p.before = append(p.before, stage)
		} else {
			p.after = append(p.after, stage)
		}
	}
	if binding != nil {
		p.dual = binding.Dual
		if binding.DualBy != "" {
			data, err := surfaces.Blob(binding.DualBy)
			if err != nil {
				return BodyPart{}, err
			}
			if p.dualBy, err = skin.DecodeShares(data, surface.VertexCount()); err != nil {
				return BodyPart{}, err
			}
		}
	}
	if len(p.Morphs)+len(p.before) > 0 || p.Deformed() {
		p.shaped = &mesh.Mesh{Positions: make([]float32, len(surface.Positions)), Normals: make([]float32, len(surface.Normals))}
	}
	if binding == nil {
		return p, nil
	}
	p.Weights, err = surfaces.Weights(binding.Weights, len(binding.Joints))
	if err != nil {
		return BodyPart{}, err
	}
	if p.Weights.VertexCount() != surface.VertexCount() {
		return BodyPart{}, fmt.Errorf("weights for %d vertices do not fit its %d; bind it again", p.Weights.VertexCount(), surface.VertexCount())
	}
	for _, id := range binding.Joints {
		joint := e.Plan.JointIndex[id]
		p.joints = append(p.joints, joint)
		p.inverses = append(p.inverses, e.Plan.Document.Joints[joint].Rest().Inverse().Matrix(mgl64.Vec3{1, 1, 1}))
	}
	p.palette, p.motions = make([]skin.Matrix, len(p.joints)), make([]skin.Motion, len(p.joints))
	return p, nil
}

// Palette brings a part's skinning matrices up to the evaluator's frame and returns them, one for each joint of its binding;
// nil for a part that is not bound.
func (p *BodyPart) Palette(e *Evaluator) []skin.Matrix {
	for i, joint := range p.joints {
		p.palette[i].SetMatrix(e.JointMatrix(joint), p.inverses[i])
	}
	return p.palette
}

// Deform brings every part to the evaluator's present frame.
func (b *Body) Deform(e *Evaluator) { b.deform(e, func(*BodyPart) bool { return true }) }

// DeformMore brings to the evaluator's present frame the parts whose vertices are more than joints and morph targets can say.
func (b *Body) DeformMore(e *Evaluator) { b.deform(e, (*BodyPart).Deformed) }

// deform takes parts through their stages: morph targets, before the skin, skin, after it.
func (b *Body) deform(e *Evaluator, wanted func(*BodyPart) bool) {
	b.surfaces = b.surfaces[:0]
	for i := range b.Parts {
		p := &b.Parts[i]
		if !wanted(p) {
			continue
		}
		if len(p.Morphs) > 0 || p.Deformed() {
			p.shape(e)
		}
		if p.Weights != nil {
			b.surfaces = append(b.surfaces, p.skinned(e))
		}
	}
	skin.Deform(b.surfaces)
	for i := range b.Parts {
		if p := &b.Parts[i]; wanted(p) {
			p.finish(e)
		}
	}
}

// twist has as much of the skin as the binding says go by dual quaternions.
func (p *BodyPart) twist(e *Evaluator) {
	if p.dual == 0 || p.Weights == nil {
		return
	}
	f := e.Frame
	for i, joint := range p.joints {
		p.motions[i].Set(f.Joints[joint], e.Plan.Document.Joints[joint].Rest(), f.Scales[joint])
	}
	surface := skin.Surface{Weights: p.Weights, Positions: p.shaped.Positions, Normals: p.shaped.Normals, Out: p.Positions, OutNormals: p.Normals, Dual: p.dualBy}
	skin.DeformDual(p.motions, &surface, p.dual, f.Size, f.Centre)
}

// shape mixes the morph targets into the rest surface, as much of each as the frame has it. An unbound part ends there.
func (p *BodyPart) shape(e *Evaluator) {
	copy(p.shaped.Positions, p.Rest.Positions)
	copy(p.shaped.Normals, p.Rest.Normals)
	for k, deltas := range p.Morphs {
		deltas.Mix(float32(e.Frame.Values[p.slot+k]), p.shaped)
	}
	p.ready(e)
}

// ready has what works before the skin work on the shaped surface.
func (p *BodyPart) ready(e *Evaluator) {
	work(p.before, e.Frame, mechanism.Surface{Rest: p.Rest, Positions: p.shaped.Positions, Normals: p.shaped.Normals})
	if p.Weights == nil {
		copy(p.Positions, p.shaped.Positions)
		copy(p.Normals, p.shaped.Normals)
	}
}

// finish has what works after the skin work on it.
func (p *BodyPart) finish(e *Evaluator) {
	p.twist(e)
	work(p.after, e.Frame, mechanism.Surface{Rest: p.Rest, Positions: p.Positions, Normals: p.Normals})
}

// skinned is a bound part as the skin is given it.
func (p *BodyPart) skinned(e *Evaluator) skin.Surface {
	return skin.Surface{
		Weights: p.Weights, Palette: p.Palette(e), Positions: p.shaped.Positions, Normals: p.shaped.Normals, Out: p.Positions, OutNormals: p.Normals,
	}
}

// Deform brings one part to the evaluator's present frame.
func (p *BodyPart) Deform(e *Evaluator) {
	if len(p.Morphs) > 0 || p.Deformed() {
		p.shape(e)
	}
	if p.Weights != nil {
		skin.Deform([]skin.Surface{p.skinned(e)})
	}
	p.finish(e)
}

// Through brings a part with morph targets to the evaluator's present frame as if these gave it the positions, flat x, y, z, in place of what they give.
func (p *BodyPart) Through(e *Evaluator, positions []float32) {
	copy(p.shaped.Positions, positions)
	copy(p.shaped.Normals, p.Rest.Normals)
	p.ready(e)
	if p.Weights != nil {
		skin.Deform([]skin.Surface{p.skinned(e)})
	}
	p.finish(e)
}

// Amount is how much of one of a part's morph targets the frame has.
func (p *BodyPart) Amount(e *Evaluator, morph int) float64 { return e.Frame.Values[p.slot+morph] }

// Size returns the diagonal of the box around all parts at rest.
func (b *Body) Size() float64 {
	box := mesh.EmptyBounds()
	for i := range b.Parts {
		part := b.Parts[i].Rest.Bounds()
		box.Add(part.Min)
		box.Add(part.Max)
	}
	return box.Size()
}

// Drift is how far things stand from where they were at rest: joints and vertices in metres, turns of joints in radians.
type Drift struct {
	Joints   float64 `json:"joints"`
	Turns    float64 `json:"turns"`
	Vertices float64 `json:"vertices"`
	Moved    bool    `json:"moved"` // more than numbers of the specimen's size are rounded by
}

// What stands further from rest has been moved: as shares of the specimen's size, and in radians. Vertices are kept in single precision.
const (
	movedJoints   = 1e-7
	movedTurns    = 2e-5
	movedVertices = 1e-6
)

// RestDrift measures how far a document's joints and vertices stand, with every channel at zero and motion stilled, from
// their rest places. It changes the evaluator's frame.
func RestDrift(e *Evaluator, body *Body) Drift {
	e.SetClip(nil)
	e.Zero()
	e.SetStill(true)
	e.SetAtHome(true)
	e.Evaluate()
	e.SetAtHome(false)
	var drift Drift
	for i, joint := range e.Plan.Document.Joints {
		moves, turns := apart(joint.Rest(), e.Frame.Joints[i])
		drift.Joints, drift.Turns = math.Max(drift.Joints, moves), math.Max(drift.Turns, turns)
	}
	size := sizeOf(e.Plan.Document)
	if body != nil {
		size = math.Max(size, body.Size())
	}
	drift.Moved = drift.Joints > movedJoints*size || drift.Turns > movedTurns
	if body == nil {
		return drift
	}
	body.Deform(e)
	for i := range body.Parts {
		drift.Vertices = math.Max(drift.Vertices, GreatestDistance(body.Parts[i].Rest.Positions, body.Parts[i].Positions))
	}
	drift.Moved = drift.Moved || drift.Vertices > movedVertices*size
	return drift
}

// GreatestDistance returns the greatest distance between corresponding points of two flat lists of equal length.
func GreatestDistance(a, b []float32) float64 {
	greatest := 0.0
	for i := 0; i+2 < len(a); i += 3 {
		x, y, z := float64(a[i]-b[i]), float64(a[i+1]-b[i+1]), float64(a[i+2]-b[i+2])
		greatest = math.Max(greatest, x*x+y*y+z*z)
	}
	return math.Sqrt(greatest)
}

// sizeOf is the diagonal of the box around all joints at rest.
func sizeOf(d *rig.Document) float64 {
	box := mesh.EmptyBounds()
	for _, j := range d.Joints {
		box.Add(j.Position)
	}
	return box.Size()
}
