package edit

import (
	"fmt"
	"slices"

	"myriapod/core/mesh"
	"myriapod/core/rig"
	"myriapod/core/skin"
)

// MaxDabs is how many dabs one stroke of a brush may have.
const MaxDabs = 5000

// PaintWeights is one stroke of a brush over a part: dabs that change how much of it goes with a joint. Mirrored paints the joint of the other side on the other half of the part as well.
type PaintWeights struct {
	Part   string      `json:"part"`
	Joint  string      `json:"joint"`
	Brush  skin.Brush  `json:"brush"`
	Dabs   []mesh.Spot `json:"dabs"`
	Locked []string    `json:"locked,omitempty"` // joints that keep their weights
	// Presses is how hard each dab presses, 0 to 1, where the device says so; all press alike without.
	Presses  []float64 `json:"presses,omitempty"`
	Mirrored bool      `json:"mirrored,omitempty"`
}

// Title implements Edit.
func (e *PaintWeights) Title(d *rig.Document) string {
	return fmt.Sprintf("Paint %s of %s on %s", e.Brush.Stroke, d.NameOf(e.Joint), d.NameOf(e.Part))
}

// Touches implements Edit.
func (e *PaintWeights) Touches(*rig.Document) []string { return []string{e.Part} }

// Apply implements Edit.
func (e *PaintWeights) Apply(c *Context, d *rig.Document) error {
	if err := checkDabs(e.Dabs, e.Presses); err != nil {
		return err
	}
	p, err := NewPainting(c, d, e)
	if err != nil {
		return err
	}
	changed, err := dabAll(e.Dabs, e.Presses, p.Surface, d.NameOf(e.Part), p.Dab)
	if err != nil {
		return err
	}
	if changed == 0 {
		return fmt.Errorf("the stroke changes nothing: all under it goes with %s as far as it can, or what it would change is locked; unlock another joint, or paint another", d.NameOf(e.Joint))
	}
	binding := d.BindingOf(e.Part)
	binding.Joints = p.Joints
	binding.Weights = c.Keep(p.Weights.EncodeBlocks(c.Keep))
	return nil
}

// checkDabs tells what is wrong with the dabs of a stroke.
func checkDabs(dabs []mesh.Spot, presses []float64) error {
	if len(dabs) == 0 || len(dabs) > MaxDabs {
		return fmt.Errorf("a stroke has 1 to %d dabs, not %d; lift the brush now and then", MaxDabs, len(dabs))
	}
	if len(presses) != 0 && len(presses) != len(dabs) {
		return fmt.Errorf("%d presses do not fit %d dabs; leave them out, or give one for each", len(presses), len(dabs))
	}
	for _, press := range presses {
		if !(press >= 0 && press <= 1) {
			return fmt.Errorf("a dab presses 0 to 1, not %g", press)
		}
	}
	return nil
}

// dabAll puts a brush on all spots of a stroke, and returns how many changes of vertices come of it.
func dabAll(dabs []mesh.Spot, presses []float64, surface *mesh.Mesh, part string, dab func(mesh.Spot, float64) []int) (changed int, err error) {
	for i, at := range dabs {
		if !at.Check(surface.FaceCount()) {
			return 0, fmt.Errorf("a dab lies beside %s; its model may have been changed meanwhile", part)
		}
		press := 1.0
		if len(presses) > 0 {
			press = presses[i]
		}
		changed += len(dab(at, press))
	}
	return changed, nil
}

// Painting is the weights of a part under a brush.
type Painting struct {
	Surface *mesh.Mesh
	Weights *skin.Weights
	Joints  []string // of the binding; the painted ones come last where they had no part in it

	painter      *skin.Painter
	walk         *mesh.Walk
	brush        skin.Brush
	joint, image int // indices into Joints; image is -1 where nothing is mirrored
}

// NewPainting readies the part that a stroke is on; its dabs do not count.
func NewPainting(c *Context, d *rig.Document, e *PaintWeights) (*Painting, error) {
	if err := e.Brush.Check(); err != nil {
		return nil, err
	}
	part, surface, err := partAndSurface(c, d, e.Part)
	if err != nil {
		return nil, err
	}
	binding, weights, err := boundWeights(c, d, part.ID)
	if err != nil {
		return nil, err
	}
	p := &Painting{Surface: surface, Weights: weights, brush: e.Brush, Joints: slices.Clone(binding.Joints), image: -1}
	if p.joint, err = p.index(d, e.Joint); err != nil {
		return nil, err
	}
	if e.Mirrored {
		if p.image, err = p.index(d, imageOf(d, e.Joint)); err != nil {
			return nil, err
		}
		p.walk = mesh.NewWalk(surface)
	}
	var locked []int
	for _, id := range e.Locked {
		if at := slices.Index(p.Joints, id); at >= 0 {
			locked = append(locked, at)
		}
	}
	if slices.Contains(locked, p.joint) {
		return nil, fmt.Errorf("%s is locked and keeps its weights; unlock it to paint it, or choose another joint", d.NameOf(e.Joint))
	}
	p.painter = skin.NewPainter(surface, len(p.Joints), locked)
	return p, nil
}

// index is the place of a joint among those of the binding, which it joins where it was none of them.
func (p *Painting) index(d *rig.Document, joint string) (int, error) {
	if d.Joint(joint) == nil {
		return 0, missing("joint", joint)
	}
	at := slices.Index(p.Joints, joint)
	if at < 0 {
		at = len(p.Joints)
		p.Joints = append(p.Joints, joint)
	}
	return at, nil
}

// imageOf is the joint of the other side by its name, or the joint itself.
func imageOf(d *rig.Document, joint string) string {
	if other, sided := rig.OtherSide(d.NameOf(joint)); sided {
		for _, j := range d.Joints {
			if j.Name == other {
				return j.ID
			}
		}
	}
	return joint
}

// Dab puts the brush on a spot, pressed 0 to 1, and returns the vertices that change by it.
func (p *Painting) Dab(at mesh.Spot, press float64) []int {
	brush := p.brush
	brush.Strength *= press
	changed := p.painter.Dab(p.Weights, p.joint, at, brush)
	if p.image < 0 {
		return changed
	}
	if image, ok := p.walk.Image(at, p.brush.Reach); ok {
		changed = append(changed, p.painter.Dab(p.Weights, p.image, image, brush)...)
	}
	return changed
}
