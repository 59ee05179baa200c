package edit

import (
	"fmt"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/rig"
)

// AddControl adds handles that belong to no mechanism: to hang others on, to hold something, or to bear dials. One is added at each joint or control of At,
// and hangs on it; without any, one at Position. Seen upright it turns about the axes of the world, else as what it stands at does.
type AddControl struct {
	Name     string     `json:"name"`         // of several a pattern: # is the counter
	At       []string   `json:"at,omitempty"` // joints and controls
	Space    string     `json:"space,omitempty"`
	Free     bool       `json:"free,omitempty"` // hangs on nothing, wherever it stands
	Upright  bool       `json:"upright,omitempty"`
	Position mgl64.Vec3 `json:"position"`
	Shape    rig.Shape  `json:"shape"`
	Reach    float64    `json:"reach,omitempty"` // metres; 0 for as large as suits the place
}

// Title implements Edit.
func (e *AddControl) Title(d *rig.Document) string {
	switch len(e.At) {
	case 0:
		return "Add the control " + e.Name
	case 1:
		return fmt.Sprintf("Add the control %s at %s", e.Name, d.NameOf(e.At[0]))
	}
	return fmt.Sprintf("Add %d controls %s", len(e.At), e.Name)
}

// Touches implements Edit.
func (e *AddControl) Touches(*rig.Document) []string {
	if e.Space == "" {
		return e.At
	}
	return append([]string{e.Space}, e.At...)
}

// Apply implements Edit.
func (e *AddControl) Apply(c *Context, d *rig.Document) error {
	if e.Space != "" && d.Control(e.Space) == nil && d.Joint(e.Space) == nil {
		return missing("control or joint", e.Space)
	}
	if e.Reach < 0 || e.Reach > rig.MaxCoordinate || e.Reach != e.Reach {
		return fmt.Errorf("a control reaches more than 0 m, not %g m", e.Reach)
	}
	if len(e.At) == 0 {
		return e.add(c, d, e.Name, geometry.Transform{Position: e.Position, Rotation: mgl64.QuatIdent()}, e.Space, rig.DefaultOrder)
	}
	names := Names(e.Name, len(e.At))
	for i, id := range e.At {
		stand, order, ok := standOf(d, id)
		if !ok {
			return missing("joint or control", id)
		}
		if e.Upright {
			stand.Rotation = mgl64.QuatIdent()
		}
		space := id
		if e.Free || e.Space != "" {
			space = e.Space
		}
		if err := e.add(c, d, names[i], stand, space, order); err != nil {
			return err
		}
	}
	return nil
}

// standOf is how a joint or control stands at rest, and in which order it is turned.
func standOf(d *rig.Document, id string) (geometry.Transform, geometry.Order, bool) {
	if j := d.Joint(id); j != nil {
		order := j.Order
		if order == "" {
			order = rig.DefaultOrder
		}
		return j.Rest(), order, true
	}
	if control := d.Control(id); control != nil {
		return control.Home(), control.Order, true
	}
	return geometry.Transform{}, "", false
}

func (e *AddControl) add(c *Context, d *rig.Document, name string, stand geometry.Transform, space string, order geometry.Order) error {
	control := rig.Control{
		ID: d.TakeID("c"), Name: freeName(c, d, name), Space: space, Position: stand.Position, Rotation: rig.QuaternionOf(stand.Rotation),
		Order: order, Shape: e.Shape, Outline: []mgl64.Vec3{},
	}
	shape := &ShapeControls{Controls: []string{control.ID}, Shape: e.Shape}
	if e.Reach > 0 { // what is asked for is what a shape that fits nothing is as large as
		control.Outline = []mgl64.Vec3{{e.Reach, 0, 0}}
	}
	d.Controls = append(d.Controls, control)
	return shape.Apply(c, d)
}
