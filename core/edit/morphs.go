package edit

import (
	"errors"
	"fmt"
	"slices"

	"myriapod/core/driver"
	"myriapod/core/mesh"
	"myriapod/core/morph"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// morphed is a part whose morph targets are changed, with its surface.
type morphed struct {
	part    *rig.Part
	surface *mesh.Mesh
	c       *Context
}

// morphsOf readies the morph targets of a part to be changed.
func morphsOf(c *Context, d *rig.Document, id string) (*morphed, error) {
	part, surface, err := partAndSurface(c, d, id)
	if err != nil {
		return nil, err
	}
	part.Morphs = slices.Clone(part.Morphs)
	return &morphed{part, surface, c}, nil
}

// place is where a morph target stands in the list.
func (m *morphed) place(name string) (int, error) {
	at := m.part.Morph(name)
	if at < 0 {
		return 0, fmt.Errorf("%s has no morph target %q; it may have been removed meanwhile", m.part.Name, name)
	}
	return at, nil
}

// read returns how far a morph target moves each vertex, to be looked at only.
func (m *morphed) read(name string) ([]float32, error) {
	at, err := m.place(name)
	if err != nil {
		return nil, err
	}
	deltas, err := m.c.surfaces().Deltas(m.part.Morphs[at].Deltas, m.surface.VertexCount())
	if err != nil {
		return nil, err
	}
	return deltas.Positions, nil
}

// shapeOf readies the morph targets of a part to be changed, and reads how far one of them moves each vertex.
func shapeOf(c *Context, d *rig.Document, part, name string) (m *morphed, by []float32, err error) {
	if m, err = morphsOf(c, d, part); err == nil {
		by, err = m.read(name)
	}
	return m, by, err
}

// write gives a morph target its shape, and makes it where there is none of the name.
func (m *morphed) write(name string, by []float32) error {
	for _, n := range by {
		if n-n != 0 {
			return fmt.Errorf("the shape %s would have places that are not finite; nothing was changed", name)
		}
	}
	at := m.part.Morph(name)
	if at < 0 {
		if err := rig.CheckName(name); err != nil {
			return err
		}
		at = len(m.part.Morphs)
		m.part.Morphs = append(m.part.Morphs, rig.Morph{Name: name})
	}
	deltas := morph.Deltas(mesh.NewWalk(m.surface), m.surface, by)
	m.part.Morphs[at].Deltas = m.c.Keep(deltas.Encode())
	return nil
}

// fresh tells of a name that is taken.
func (m *morphed) fresh(name string) error {
	if m.part.Morph(name) >= 0 {
		return fmt.Errorf("%s has a morph target %q already; choose another name", m.part.Name, name)
	}
	return nil
}

// AddMorph gives a part another shape. It is as the part is until it is shaped; or it is that of a second model of the part, which is another part of the specimen; or, for several morph targets that it
// corrects, it is mixed in by as much as all of them are at once.
type AddMorph struct {
	Part     string   `json:"part"`
	Name     string   `json:"name"`
	Second   string   `json:"second,omitempty"`
	Corrects []string `json:"corrects,omitempty"`
}

func (*AddMorph) builds() {}

// Title implements Edit.
func (e *AddMorph) Title(d *rig.Document) string {
	return fmt.Sprintf("Add the morph target %s to %s", e.Name, d.NameOf(e.Part))
}

// Touches implements Edit.
func (e *AddMorph) Touches(*rig.Document) []string {
	if e.Second != "" {
		return []string{e.Part, e.Second}
	}
	return []string{e.Part}
}

// Apply implements Edit.
func (e *AddMorph) Apply(c *Context, d *rig.Document) error {
	m, err := morphsOf(c, d, e.Part)
	if err != nil {
		return err
	}
	if err := m.fresh(e.Name); err != nil {
		return err
	}
	by := make([]float32, len(m.surface.Positions))
	if e.Second != "" {
		if by, err = e.second(c, d, m); err != nil {
			return err
		}
	}
	if err := m.write(e.Name, by); err != nil {
		return err
	}
	return e.correct(c, d, m)
}

// second is the shape that a second model has.
func (e *AddMorph) second(c *Context, d *rig.Document, m *morphed) ([]float32, error) {
	if e.Second == e.Part {
		return nil, errors.New("a part is no second model of itself; choose another")
	}
	second, surface, err := partAndSurface(c, d, e.Second)
	if err != nil {
		return nil, err
	}
	by, missed, err := morph.FromSecond(m.surface, surface)
	if err != nil {
		return nil, fmt.Errorf("%s does not go with %s: %w", second.Name, m.part.Name, err)
	}
	if missed > 0 {
		c.tell("%d vertices of %s were not found in %s, and go as those around them do.", missed, m.part.Name, second.Name)
	}
	return by, nil
}

func (e *AddMorph) correct(c *Context, d *rig.Document, m *morphed) error {
	if len(e.Corrects) == 0 {
		return nil
	}
	if len(e.Corrects) == 1 {
		return errors.New("a corrective is for two morph targets or more at once; choose another one")
	}
	text, by := "", []rig.Address{}
	for i, name := range e.Corrects {
		if _, err := m.place(name); err != nil {
			return err
		}
		if i > 0 {
			text += " * "
		}
		text += fmt.Sprintf("_%d", i)
		by = append(by, rig.Address{Of: e.Part, Key: name})
	}
	add := AddDriver{
		Driver: driver.FormulaKind, Drives: rig.Address{Of: e.Part, Key: e.Name}, By: by,
		Parameters: parameter.Set{driver.FormulaText: parameter.OfChoice(text)},
	}
	return add.Apply(c, d)
}

// RemoveMorph takes a morph target away, with its keys. One that something hangs on is refused.
type RemoveMorph struct {
	Part  string `json:"part"`
	Morph string `json:"morph"`
}

// Title implements Edit.
func (e *RemoveMorph) Title(d *rig.Document) string {
	return fmt.Sprintf("Remove the morph target %s of %s", e.Morph, d.NameOf(e.Part))
}

// Touches implements Edit.
func (e *RemoveMorph) Touches(*rig.Document) []string { return []string{e.Part} }

// Apply implements Edit.
func (e *RemoveMorph) Apply(c *Context, d *rig.Document) error {
	m, err := morphsOf(c, d, e.Part)
	if err != nil {
		return err
	}
	at, err := m.place(e.Morph)
	if err != nil {
		return err
	}
	m.part.Morphs = slices.Delete(m.part.Morphs, at, at+1)
	for i := range d.Clips {
		clip := &d.Clips[i]
		before := len(clip.MorphTracks)
		clip.MorphTracks = slices.DeleteFunc(clip.MorphTracks, func(t rig.MorphTrack) bool { return t.Part == e.Part && t.Morph == e.Morph })
		if len(clip.MorphTracks) < before {
			c.tell("The keys of %s of %s in %s went with it.", e.Morph, m.part.Name, clip.Name)
		}
	}
	return nil
}

// RenameMorph gives a morph target another name. What drives it and hangs on it stays with it.
type RenameMorph struct {
	Part  string `json:"part"`
	Morph string `json:"morph"`
	Name  string `json:"name"`
}

// Title implements Edit.
func (e *RenameMorph) Title(d *rig.Document) string {
	return fmt.Sprintf("Rename the morph target %s of %s to %s", e.Morph, d.NameOf(e.Part), e.Name)
}

// Touches implements Edit.
func (e *RenameMorph) Touches(*rig.Document) []string { return []string{e.Part} }

// Apply implements Edit.
func (e *RenameMorph) Apply(c *Context, d *rig.Document) error {
	m, err := morphsOf(c, d, e.Part)
	if err != nil {
		return err
	}
	at, err := m.place(e.Morph)
	if err != nil {
		return err
	}
	if err := errors.Join(m.fresh(e.Name), rig.CheckName(e.Name)); err != nil {
		return err
	}
	m.part.Morphs[at].Name = e.Name
	readdress(d, rig.Address{Of: e.Part, Key: e.Morph}, rig.Address{Of: e.Part, Key: e.Name})
	for i := range d.Clips {
		for k := range d.Clips[i].MorphTracks {
			if t := &d.Clips[i].MorphTracks[k]; t.Part == e.Part && t.Morph == e.Morph {
				t.Morph = e.Name
			}
		}
	}
	return nil
}
