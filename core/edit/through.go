package edit

import (
	"encoding/json"
	"fmt"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/repeat"
	"myriapod/core/rig"
)

// OnCopy has an edit change only the copies it names: what they have of their own is kept as differences. Without it an edit of a copy
// is an edit of the source, and all copies follow.
type OnCopy struct {
	Edit Written `json:"edit"`
}

// Written is an edit inside another.
type Written struct{ Edit }

// MarshalJSON implements json.Marshaler.
func (w Written) MarshalJSON() ([]byte, error) { return Encode(w.Edit) }

// UnmarshalJSON implements json.Unmarshaler.
func (w *Written) UnmarshalJSON(data []byte) (err error) {
	var inner struct {
		Kind string `json:"kind"`
	}
	if err := json.Unmarshal(data, &inner); err != nil {
		return err
	}
	if inner.Kind == KindOf(&OnCopy{}) { // before what is in it is read, which might hold another, and so on
		return fmt.Errorf("an edit on copies holds a plain edit")
	}
	w.Edit, err = Decode(data)
	return err
}

// Title implements Edit.
func (e *OnCopy) Title(d *rig.Document) string { return e.Edit.Title(d) + ", this copy only" }

// Touches implements Edit.
func (e *OnCopy) Touches(d *rig.Document) []string { return e.Edit.Touches(d) }

// Apply implements Edit.
func (e *OnCopy) Apply(c *Context, d *rig.Document) error { return e.Edit.Apply(c, d) }

// plainly returns the edit itself, and whether it is for the copies alone.
func plainly(e Edit) (plain Edit, only bool) {
	if on, ok := e.(*OnCopy); ok {
		return on.Edit.Edit, true
	}
	return e, false
}

// Change gives the document that e makes of before, without planning it. An edit sees the document with all copies in it; what it
// changes of them is taken back to the sources, or kept as differences when it is for the copies alone.
func Change(c *Context, before *rig.Document, e Edit) (*rig.Document, error) {
	seen, err := repeat.Expand(before)
	if err != nil {
		return nil, err
	}
	return changed(c, seen, e)
}

func changed(c *Context, seen *repeat.Expansion, e Edit) (*rig.Document, error) {
	e, only := plainly(e)
	_, each := e.(ofEach)
	work := seen.Document.Clone()
	if err := e.Apply(c, work); err != nil {
		return nil, err
	}
	if err := settleValues(c, seen.Document, work); err != nil {
		return nil, err
	}
	settleGroups(seen.Document, work)
	work.TidyNames()
	if len(seen.Origins) == 0 {
		return work, nil
	}
	f := newFolding(seen, work, only || each)
	f.each = each
	return f.fold()
}

// Describe returns an edit's title, and the IDs of what it touches, as seen on the document it is made on, with its copies. A copy stands for its
// source as well, and for its repeat.
func Describe(seen *repeat.Expansion, e Edit) (title string, touches []string) {
	title = e.Title(seen.Document)
	known := map[string]bool{}
	add := func(id string) {
		if !known[id] {
			known[id] = true
			touches = append(touches, id)
		}
	}
	for _, id := range e.Touches(seen.Document) {
		add(id)
		for {
			origin, ok := seen.Origins[id]
			if !ok {
				break
			}
			add(origin.Repeat)
			add(origin.Of)
			id = origin.Of
		}
	}
	return title, touches
}

// carryFrames takes the planes and axes of repeats along when all that carries their sources moves.
func carryFrames(d *rig.Document, moved map[string]bool, by mgl64.Vec3) {
	for i := range d.Repeats {
		r := &d.Repeats[i]
		carried := len(r.Sources) > 0
		for _, id := range r.Sources {
			j := d.Joint(id)
			carried = carried && j != nil && moved[j.Parent]
		}
		if carried {
			r.Point = r.Point.Add(by)
		}
	}
}
