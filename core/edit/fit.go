package edit

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mesh"
	"myriapod/core/rig"
)

// FitModel brings a model to its size, stand and place: scaled, turned so that the axis that was up where it was made is up here and the one that it faced
// looks ahead (+Z), moved, and set on the ground. The whole model goes before it is rigged, with the joints and motion that came with it; parts alone
// go at any time while nothing holds them.
type FitModel struct {
	Parts  []string   `json:"parts,omitempty"`  // empty for the whole model
	Scale  float64    `json:"scale"`            //
	Up     string     `json:"up"`               // "y", "z" or "x": which axis of the model is up
	Faces  string     `json:"faces,omitempty"`  // "z", "-z", "x" or "-x": where it looks once it stands upright; "z" when empty
	Turn   float64    `json:"turn,omitempty"`   // about the vertical, after that, radians
	Move   mgl64.Vec3 `json:"move"`             // metres, last of all
	Ground bool       `json:"ground,omitempty"` // its lowest point comes to the ground, the middle of its foot to the origin, before it is moved
}

// Title implements Edit.
func (e *FitModel) Title(d *rig.Document) string {
	what := "the model"
	if len(e.Parts) == 1 {
		what = d.NameOf(e.Parts[0])
	} else if len(e.Parts) > 1 {
		what = fmt.Sprintf("%d parts", len(e.Parts))
	}
	title := fmt.Sprintf("Fit %s: scale %g, %s up", what, e.Scale, e.Up)
	if e.Ground {
		title += ", on the ground"
	}
	return title
}

// Touches implements Edit.
func (e *FitModel) Touches(d *rig.Document) []string {
	if len(e.Parts) > 0 {
		return e.Parts
	}
	list := []string{"specimen"}
	for _, p := range d.Parts {
		list = append(list, p.ID)
	}
	for _, j := range d.Joints {
		list = append(list, j.ID)
	}
	return list
}

var (
	// upTurns are the turns that bring an axis up, and facings those about the vertical that bring one ahead.
	upTurns = map[string]mgl64.Quat{
		"y": mgl64.QuatIdent(),
		"z": mgl64.QuatRotate(-math.Pi/2, mgl64.Vec3{1, 0, 0}),
		"x": mgl64.QuatRotate(math.Pi/2, mgl64.Vec3{0, 0, 1}),
	}
	facings = map[string]float64{"": 0, "z": 0, "-z": math.Pi, "x": -math.Pi / 2, "-x": math.Pi / 2}
)

// fit is how everything goes: turned, scaled and then moved.
type fit struct {
	turn  mgl64.Quat
	scale float64
	move  mgl64.Vec3
}

func (f fit) place(p mgl64.Vec3) mgl64.Vec3 { return f.along(p).Add(f.move) }

func (f fit) along(v mgl64.Vec3) mgl64.Vec3 { return f.turn.Rotate(v).Mul(f.scale) }

func (e *FitModel) fit() (f fit, err error) {
	up, ok := upTurns[e.Up]
	if !ok {
		return f, fmt.Errorf("the axis that is up is x, y or z, not %q", e.Up)
	}
	facing, ok := facings[e.Faces]
	if !ok {
		return f, fmt.Errorf("a model faces z, -z, x or -x, not %q", e.Faces)
	}
	if !geometry.Finite(e.Scale) || e.Scale < 1e-6 || e.Scale > 1e6 {
		return f, fmt.Errorf("the scale lies between a millionth and a million, not at %g", e.Scale)
	}
	if !geometry.FiniteVector(e.Move) || e.Move.Len() > rig.MaxCoordinate || !geometry.Finite(e.Turn) {
		return f, fmt.Errorf("a model is moved by less than %g m, and turned by a finite angle", rig.MaxCoordinate)
	}
	return fit{turn: mgl64.QuatRotate(facing+e.Turn, geometry.Up).Mul(up).Normalize(), scale: e.Scale}, nil
}

// parts lists what goes, or tells why it may not.
func (e *FitModel) parts(d *rig.Document) (list []string, err error) {
	if len(e.Parts) == 0 {
		if len(d.Controls) > 0 {
			return nil, errors.New("the model is rigged; take its mechanisms off before it is fitted, or choose parts that are not bound yet")
		}
		for _, p := range d.Parts {
			list = append(list, p.ID)
		}
		return list, nil
	}
	for _, id := range e.Parts {
		part := d.Part(id)
		if part == nil {
			return nil, missing("part", id)
		}
		if d.BindingOf(id) != nil {
			return nil, fmt.Errorf("%s is bound to joints; unbind it before it is moved, or move the joints", part.Name)
		}
	}
	return e.Parts, nil
}

// Apply implements Edit.
func (e *FitModel) Apply(c *Context, d *rig.Document) error {
	f, err := e.fit()
	if err != nil {
		return err
	}
	list, err := e.parts(d)
	if err != nil {
		return err
	}
	if e.Ground {
		foot, err := footOf(c, d, list, f)
		if err != nil {
			return err
		}
		f.move = foot.Mul(-1)
	}
	f.move = f.move.Add(e.Move)
	for _, id := range list {
		if err := f.part(c, d, id); err != nil {
			return err
		}
	}
	if len(e.Parts) == 0 {
		f.skeleton(d)
	}
	return nil
}

// footOf is the middle of where parts would stand: under the middle of their box.
func footOf(c *Context, d *rig.Document, parts []string, f fit) (mgl64.Vec3, error) {
	box := mesh.EmptyBounds()
	for _, id := range parts {
		_, surface, err := partAndSurface(c, d, id)
		if err != nil {
			return mgl64.Vec3{}, err
		}
		for i := range surface.VertexCount() {
			box.Add(f.place(surface.Vertex(i)))
		}
	}
	if box.Empty() {
		return mgl64.Vec3{}, errors.New("there is no model to set on the ground; bring one in first")
	}
	middle := box.Min.Add(box.Max).Mul(0.5)
	return mgl64.Vec3{middle[0], box.Min[1], middle[2]}, nil
}

// part takes a part along, with its morph targets.
func (f fit) part(c *Context, d *rig.Document, id string) error {
	part, surface, err := partAndSurface(c, d, id)
	if err != nil {
		return err
	}
	part.Morphs = slices.Clone(part.Morphs)
	for i := range part.Morphs {
		deltas, err := c.surfaces().Deltas(part.Morphs[i].Deltas, surface.VertexCount())
		if err != nil {
			return err
		}
		part.Morphs[i].Deltas = c.Keep(deltas.Turned(f.along, f.turn.Rotate).Encode())
	}
	take(c, part, surface.Moved(f.place, f.turn.Rotate))
	return nil
}

// skeleton takes along what came with the model: joints, repeats and the motion of joints.
func (f fit) skeleton(d *rig.Document) {
	for i := range d.Joints {
		j := &d.Joints[i]
		j.Position = f.place(j.Position)
		j.Rotation = rig.QuaternionOf(f.turn.Mul(j.Rotation.Quat()).Normalize())
	}
	for i := range d.Repeats {
		r := &d.Repeats[i]
		r.Point, r.Direction = f.place(r.Point), f.turn.Rotate(r.Direction)
		for k := range r.Differences {
			if offset := r.Differences[k].Offset; offset != nil {
				r.Differences[k].Offset = ref(f.along(*offset))
			}
		}
	}
	for i := range d.Clips {
		scaleMoves(&d.Clips[i], f.scale)
	}
}
