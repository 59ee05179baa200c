package edit

import (
	"errors"
	"fmt"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

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
