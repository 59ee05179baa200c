package edit

import (
	"errors"
	"fmt"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/mesh"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// ShapeControls changes what controls look like. Nothing that they do changes.
type ShapeControls struct {
	Controls []string  `json:"controls"`
	Shape    rig.Shape `json:"shape,omitempty"` // empty to keep the shape
	Size     float64   `json:"size,omitempty"`  // times the size it has, or that fits; 0 for 1
	Along    float64   `json:"along,omitempty"` // how far it is set along the control's main axis, metres
	// Move and Turn set the outline elsewhere in the control's own frame: turned about its middle, then moved, metres.
	Move mgl64.Vec3      `json:"move,omitzero"`
	Turn *rig.Quaternion `json:"turn,omitempty"`
}

// Title implements Edit.
func (e *ShapeControls) Title(d *rig.Document) string {
	if e.Shape != "" {
		return fmt.Sprintf("Shape %s as %s", controlsNamed(d, e.Controls), e.Shape)
	}
	return "Size " + controlsNamed(d, e.Controls)
}

// Touches implements Edit.
func (e *ShapeControls) Touches(*rig.Document) []string { return e.Controls }

// MaxShapeSize bounds how much larger or smaller an outline is made at once.
const MaxShapeSize = 100

// Apply implements Edit.
func (e *ShapeControls) Apply(c *Context, d *rig.Document) error {
	size := e.Size
	if size == 0 {
		size = 1
	}
	if !(size >= 1/float64(MaxShapeSize) && size <= MaxShapeSize) || !geometry.Finite(e.Along) || !geometry.FiniteVector(e.Move) || e.Move.Len() > rig.MaxCoordinate {
		return fmt.Errorf("a shape is made %g to %d times as large, not %g times", 1/float64(MaxShapeSize), MaxShapeSize, size)
	}
	turn := mgl64.QuatIdent()
	if e.Turn != nil {
		if turn = e.Turn.Quat(); !geometry.Finite(turn.W, turn.V[0], turn.V[1], turn.V[2]) {
			return errors.New("a shape is turned by a quaternion x, y, z, w with a length")
		}
	}
	if e.Shape != "" && !slices.Contains(rig.Shapes, e.Shape) {
		return fmt.Errorf("there is no shape %q; there are %v", e.Shape, rig.Shapes)
	}
	site, err := newSite(c, d, &rig.Mechanism{}, nil)
	if err != nil {
		return err
	}
	return eachControl(d, e.Controls, func(control *rig.Control) error {
		outline := control.Outline
		if e.Shape != "" {
			outline = e.outline(site, *control)
			control.Shape = e.Shape
		}
		middle := mgl64.Vec3{}
		for _, p := range outline {
			middle = middle.Add(p.Mul(1 / float64(len(outline))))
		}
		shaped := make([]mgl64.Vec3, len(outline))
		for i, p := range outline {
			shaped[i] = middle.Add(turn.Rotate(p.Sub(middle)).Mul(size)).Add(e.Move)
			if e.Shape == "" {
				shaped[i] = shaped[i].Add(geometry.MainAxis.Mul(e.Along))
			}
		}
		control.Outline = shaped
		return nil
	})
}

// outline makes the outline of the shape for a control: fitted to the body where the shape is one that fits, else as large as it was.
func (e *ShapeControls) outline(site *mechanism.Site, control rig.Control) []mgl64.Vec3 {
	reach := 0.0
	for _, p := range control.Outline {
		reach = max(reach, p.Len())
	}
	if reach == 0 {
		reach = 0.06 * site.Size
	}
	along := geometry.MainAxis.Mul(e.Along)
	home := control.Home()
	at := home.Then(geometry.Transform{Position: along, Rotation: mgl64.QuatIdent()})
	var outline []mgl64.Vec3
	switch e.Shape {
	case rig.Collar, rig.Crescent:
		outline = site.Section(at)
	case rig.Sole:
		outline = site.Sole(at, reach)
	}
	if outline == nil {
		outline = mechanism.Outline(e.Shape, reach)
	}
	if e.Shape == rig.Crescent {
		outline = mechanism.Behind(outline, forward(home))
	}
	moved := make([]mgl64.Vec3, len(outline))
	for i, p := range outline {
		moved[i] = p.Add(along)
		if control.Mirrored {
			moved[i][0] = -moved[i][0]
		}
	}
	return moved
}

// forward is where the face is as a control sees it: the creature's forward, or upward for a control whose main axis runs that way.
func forward(home geometry.Transform) mgl64.Vec3 {
	ahead := home.Rotation.Conjugate().Rotate(geometry.Forward)
	if ahead[1] > 0.9 || ahead[1] < -0.9 {
		ahead = home.Rotation.Conjugate().Rotate(geometry.Up.Mul(-1))
	}
	return ahead
}

// ColourControls gives controls a colour, or that of their side when it is empty.
type ColourControls struct {
	Controls []string `json:"controls"`
	Colour   string   `json:"colour"` // "#rrggbb"
}

// Title implements Edit.
func (e *ColourControls) Title(d *rig.Document) string {
	return "Colour " + controlsNamed(d, e.Controls)
}

// Touches implements Edit.
func (e *ColourControls) Touches(*rig.Document) []string { return e.Controls }

// Apply implements Edit.
func (e *ColourControls) Apply(_ *Context, d *rig.Document) error {
	return eachControl(d, e.Controls, func(control *rig.Control) error {
		control.Colour = e.Colour
		return nil
	})
}

// DeleteControls takes away controls that belong to no mechanism, with their keys. One that something else uses is refused.
type DeleteControls struct {
	Controls []string `json:"controls"`
}

func (*DeleteControls) builds() {}

// Title implements Edit.
func (e *DeleteControls) Title(d *rig.Document) string {
	return "Delete " + controlsNamed(d, e.Controls)
}

// Touches implements Edit.
func (e *DeleteControls) Touches(*rig.Document) []string { return e.Controls }

// Apply implements Edit.
func (e *DeleteControls) Apply(_ *Context, d *rig.Document) error {
	for _, id := range e.Controls {
		control := d.Control(id)
		if control == nil {
			return missing("control", id)
		}
		if (control.Name == rig.RootName || control.Name == rig.GlobalName) && len(d.Mechanisms) > 0 {
			return fmt.Errorf("%s carries the whole specimen; it goes with the last mechanism at the earliest", control.Name)
		}
	}
	if len(e.Controls) == 0 {
		return errors.New("no control is chosen; choose one or more")
	}
	return dropControls(d, e.Controls)
}

// newSite is where a mechanism is built into a document, or changed in it.
func newSite(c *Context, d *rig.Document, built *rig.Mechanism, options parameter.Set) (*mechanism.Site, error) {
	surfaces := make([]*mesh.Mesh, 0, len(d.Parts))
	box := mesh.EmptyBounds()
	for _, part := range d.Parts {
		surface, err := c.surfaces().Mesh(part.Mesh)
		if err != nil {
			return nil, err
		}
		surfaces = append(surfaces, surface)
		bounds := surface.Bounds()
		box.Add(bounds.Min)
		box.Add(bounds.Max)
	}
	for _, joint := range d.Joints {
		box.Add(joint.Position)
	}
	site := &mechanism.Site{Document: d, Mechanism: built, Options: options, Size: 1}
	site.Box = func(parts []string) mesh.Bounds {
		around := mesh.EmptyBounds()
		for i, part := range d.Parts {
			if bounds := surfaces[i].Bounds(); slices.Contains(parts, part.ID) && !bounds.Empty() {
				around.Add(bounds.Min)
				around.Add(bounds.Max)
			}
		}
		return around
	}
	site.Surface = func(part string) (*mesh.Mesh, error) {
		i := slices.IndexFunc(d.Parts, func(p rig.Part) bool { return p.ID == part })
		if i < 0 {
			return nil, missing("part", part)
		}
		return surfaces[i], nil
	}
	site.Say = c.tell
	if !c.trial {
		measureParts(site, d, surfaces)
	}
	site.Section = func(at geometry.Transform) []mgl64.Vec3 {
		return mesh.Section(surfaces, at, mechanism.OutlinePoints, collarMargin)
	}
	site.Sole = func(at geometry.Transform, reach float64) []mgl64.Vec3 {
		return mesh.Sole(surfaces, at, reach, collarMargin)
	}
	if !box.Empty() {
		if size := box.Size(); size > 0 {
			site.Size = size
		}
		site.Middle = box.Min.Add(box.Max).Mul(0.5)
		site.Ground = mgl64.Vec3{site.Middle[0], box.Min[1], site.Middle[2]}
	}
	return site, nil
}

// measureParts has a site tell what the parts of joints turn about, and how far they reach.
func measureParts(site *mechanism.Site, d *rig.Document, surfaces []*mesh.Mesh) {
	of := func(joint string) (own []*mesh.Mesh) {
		for i, part := range d.Parts {
			if binding := d.BindingOf(part.ID); binding != nil && slices.Contains(binding.Joints, joint) {
				own = append(own, surfaces[i])
			}
		}
		return own
	}
	site.Axis = func(joint string) (origin, way mgl64.Vec3, ok bool) {
		at, own := d.Joint(joint), of(joint)
		if at == nil {
			return origin, way, false
		}
		if own == nil { // nothing is bound yet: what the joint stands in or beside
			for _, surface := range surfaces {
				if surface.Bounds().Beside(at.Position, besideShare) {
					own = append(own, surface)
				}
			}
		}
		return mesh.AxisNear(at.Position, own)
	}
	site.Extent = func(joint string, origin, way mgl64.Vec3) (least, most float64, ok bool) {
		return mesh.Extent(of(joint), origin, way)
	}
}

// besideShare is how far from a part's box a joint may stand to be beside it, as a share of the box's size.
const besideShare = 0.05

// collarMargin is how far a collar stands off the body, as a share of the body's girth there.
const collarMargin = 0.18
