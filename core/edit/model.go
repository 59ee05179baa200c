package edit

import (
	"fmt"

	"myriapod/core/rig"
)

// free returns a name of those that are free, and tells when it is not the one wanted.
func (c *Context) free(names *rig.Names, wanted string) string {
	name := names.Free(wanted)
	if name != wanted {
		c.tell("The name %s is taken, so this one is called %s.", wanted, name)
	}
	return name
}

// freeName returns a name that is free: the one wanted, or with a number behind it, which is told.
func freeName(c *Context, d *rig.Document, wanted string) string {
	name := rig.UniqueName(wanted, d.HasName)
	if name != wanted {
		c.tell("The name %s is taken, so this one is called %s.", wanted, name)
	}
	return name
}

// ChangePart changes how a part is shown and picked. What is left out stays.
type ChangePart struct {
	Part   string    `json:"part"`
	Sight  rig.Sight `json:"sight,omitempty"`
	Locked *bool     `json:"locked,omitempty"`
	Colour string    `json:"colour,omitempty"`
}

// Title implements Edit.
func (e *ChangePart) Title(d *rig.Document) string { return "Change part " + d.NameOf(e.Part) }

// Touches implements Edit.
func (e *ChangePart) Touches(*rig.Document) []string { return []string{e.Part} }

// Apply implements Edit.
func (e *ChangePart) Apply(_ *Context, d *rig.Document) error {
	part := d.Part(e.Part)
	if part == nil {
		return missing("part", e.Part)
	}
	if e.Sight != "" {
		part.Sight = e.Sight
	}
	if e.Locked != nil {
		part.Locked = *e.Locked
	}
	if e.Colour != "" {
		part.Colour = e.Colour
	}
	return nil
}

// Rename gives a part, joint, control, mechanism, clip or repeat another name. A name that is taken is refused.
type Rename struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// Title implements Edit.
func (e *Rename) Title(d *rig.Document) string {
	return fmt.Sprintf("Rename %s to %s", d.NameOf(e.ID), e.Name)
}

// Touches implements Edit.
func (e *Rename) Touches(*rig.Document) []string { return []string{e.ID} }

// Apply implements Edit.
func (e *Rename) Apply(_ *Context, d *rig.Document) error { return rename(d, e.ID, e.Name) }

// ChangeSpecimen changes what belongs to the whole specimen. What is left out stays.
type ChangeSpecimen struct {
	Name string  `json:"name,omitempty"`
	FPS  float64 `json:"fps,omitempty"`
}

// Title implements Edit.
func (e *ChangeSpecimen) Title(*rig.Document) string {
	if e.Name != "" {
		return "Name the specimen " + e.Name
	}
	return fmt.Sprintf("Play at %g frames a second", e.FPS)
}

// Touches implements Edit.
func (e *ChangeSpecimen) Touches(*rig.Document) []string { return []string{"specimen"} }

// Apply implements Edit.
func (e *ChangeSpecimen) Apply(_ *Context, d *rig.Document) error {
	if e.Name != "" {
		d.Name = e.Name
	}
	if e.FPS != 0 {
		d.FPS = e.FPS
	}
	return nil
}
