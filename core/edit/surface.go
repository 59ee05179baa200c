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

// FlipFaces turns faces of parts round: the picked ones of one part, or all of several.
type FlipFaces struct {
	Parts []string `json:"parts"`
	Faces []int    `json:"faces,omitempty"`
}

// Title implements Edit.
func (e *FlipFaces) Title(d *rig.Document) string {
	if len(e.Parts) == 1 {
		return "Flip faces of " + d.NameOf(e.Parts[0])
	}
	return fmt.Sprintf("Flip %d parts", len(e.Parts))
}

// Touches implements Edit.
func (e *FlipFaces) Touches(*rig.Document) []string { return e.Parts }

// Apply implements Edit.
func (e *FlipFaces) Apply(c *Context, d *rig.Document) error {
	if len(e.Parts) == 0 || len(e.Parts) > 1 && len(e.Faces) > 0 {
		return errors.New("choose the part whose faces shall be flipped")
	}
	for _, id := range e.Parts {
		part, surface, err := partAndSurface(c, d, id)
		if err != nil {
			return err
		}
		faces := e.Faces
		if len(faces) == 0 {
			faces = surface.Others(nil)
		}
		if err := checkFaces(surface, faces); err != nil {
			return err
		}
		take(c, part, surface.Flip(faces))
	}
	return nil
}

// TurnFacesOut turns the faces round that look the other way than their piece does.
type TurnFacesOut struct {
	Parts []string `json:"parts"`
}

// Title implements Edit.
func (e *TurnFacesOut) Title(d *rig.Document) string {
	if len(e.Parts) == 1 {
		return "Turn faces of " + d.NameOf(e.Parts[0]) + " out"
	}
	return fmt.Sprintf("Turn faces of %d parts out", len(e.Parts))
}

// Touches implements Edit.
func (e *TurnFacesOut) Touches(*rig.Document) []string { return e.Parts }

// Apply implements Edit.
func (e *TurnFacesOut) Apply(c *Context, d *rig.Document) error {
	for _, id := range e.Parts {
		part, surface, err := partAndSurface(c, d, id)
		if err != nil {
			return err
		}
		if turned := mesh.NewTopology(surface).Turned(); len(turned) > 0 {
			take(c, part, surface.Flip(turned))
		}
	}
	return nil
}

// FitModel brings a model to the right size and stand before it is rigged: scaled by a factor, and turned so that the axis that was up
// where it was made is up here. What was imported with it, joints and their motion, comes along.
type FitModel struct {
	Scale float64 `json:"scale"`
	Up    string  `json:"up"` // "y", "z" or "x": which axis of the model is up
}

// Title implements Edit.
func (e *FitModel) Title(*rig.Document) string {
	return fmt.Sprintf("Fit the model: scale %g, %s up", e.Scale, e.Up)
}

// Touches implements Edit.
func (e *FitModel) Touches(d *rig.Document) []string {
	list := []string{"specimen"}
	for _, p := range d.Parts {
		list = append(list, p.ID)
	}
	for _, j := range d.Joints {
		list = append(list, j.ID)
	}
	return list
}

// upTurns are the turns that bring an axis up.
var upTurns = map[string]mgl64.Quat{
	"y": mgl64.QuatIdent(),
	"z": mgl64.QuatRotate(-math.Pi/2, mgl64.Vec3{1, 0, 0}),
	"x": mgl64.QuatRotate(math.Pi/2, mgl64.Vec3{0, 0, 1}),
}

// Apply implements Edit.
func (e *FitModel) Apply(c *Context, d *rig.Document) error {
	turn, ok := upTurns[e.Up]
	if !ok {
		return fmt.Errorf("the axis that is up is x, y or z, not %q", e.Up)
	}
	if !geometry.Finite(e.Scale) || e.Scale < 1e-6 || e.Scale > 1e6 {
		return fmt.Errorf("the scale lies between a millionth and a million, not at %g", e.Scale)
	}
	if len(d.Controls) > 0 {
		return errors.New("the model is rigged; take its mechanisms off before it is scaled or turned")
	}
	for i := range d.Parts {
		part, surface, err := partAndSurface(c, d, d.Parts[i].ID)
		if err != nil {
			return err
		}
		if len(part.Morphs) > 0 {
			return fmt.Errorf("%s has morph targets, which do not come along yet; scale the model where it was made", part.Name)
		}
		take(c, part, surface.Moved(func(p mgl64.Vec3) mgl64.Vec3 { return turn.Rotate(p).Mul(e.Scale) }, turn.Rotate))
	}
	for i := range d.Joints {
		j := &d.Joints[i]
		j.Position = turn.Rotate(j.Position).Mul(e.Scale)
		j.Rotation = rig.QuaternionOf(turn.Mul(j.Rotation.Quat()).Normalize())
	}
	for i := range d.Repeats {
		r := &d.Repeats[i]
		r.Point, r.Direction = turn.Rotate(r.Point).Mul(e.Scale), turn.Rotate(r.Direction)
		for k := range r.Differences {
			if offset := r.Differences[k].Offset; offset != nil {
				r.Differences[k].Offset = ref(turn.Rotate(*offset).Mul(e.Scale))
			}
		}
	}
	for i := range d.Clips {
		scaleMoves(&d.Clips[i], e.Scale)
	}
	return nil
}

// TraceTube lays a chain through the middle of a tube: a part, or picked faces of it.
type TraceTube struct {
	Part    string `json:"part"`
	Faces   []int  `json:"faces,omitempty"`
	Count   int    `json:"count"`
	Pattern string `json:"pattern"`
	Parent  string `json:"parent,omitempty"`
	Reverse bool   `json:"reverse,omitempty"` // the chain runs from the other end
}

// Title implements Edit.
func (e *TraceTube) Title(d *rig.Document) string { return "Trace " + d.NameOf(e.Part) }

// Touches implements Edit.
func (e *TraceTube) Touches(*rig.Document) []string {
	if e.Parent == "" {
		return []string{e.Part}
	}
	return []string{e.Part, e.Parent}
}

// Apply implements Edit.
func (e *TraceTube) Apply(c *Context, d *rig.Document) error {
	part, surface, err := partAndSurface(c, d, e.Part)
	if err != nil {
		return err
	}
	if e.Count < 2 || e.Count > 1000 {
		return fmt.Errorf("a traced chain has 2 to 1000 joints, not %d", e.Count)
	}
	if len(e.Faces) > 0 {
		if err := checkFaces(surface, e.Faces); err != nil {
			return err
		}
		surface, _ = surface.Subset(e.Faces)
	}
	places, err := mesh.TraceTube(surface, e.Count)
	if err != nil {
		return fmt.Errorf("%s: %w", part.Name, err)
	}
	if e.Reverse != startsFurther(d, places, e.Parent) {
		slices.Reverse(places)
	}
	pattern := e.Pattern
	if pattern == "" {
		pattern = part.Name + "_##"
	}
	return (&LayChain{Positions: places, Pattern: pattern, Parent: e.Parent}).Apply(c, d)
}

// startsFurther tells whether a chain would begin at the wrong end: the one further from its parent, or the higher one without.
func startsFurther(d *rig.Document, places []mgl64.Vec3, parent string) bool {
	first, last := places[0], places[len(places)-1]
	if j := d.Joint(parent); j != nil {
		return first.Sub(j.Position).Len() > last.Sub(j.Position).Len()
	}
	return first[1] > last[1]
}
