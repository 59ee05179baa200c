package edit

import (
	"fmt"
	"slices"

	"myriapod/core/mesh"
	"myriapod/core/rig"
	"myriapod/core/skin"
)

// PaintDual is one stroke of a brush over a part that paints how much of its dual quaternions holds there; the rest is linear. A part that goes by none of them yet goes by all of them from the first stroke on,
// where nothing is painted by none.
type PaintDual struct {
	Part    string      `json:"part"`
	Brush   skin.Brush  `json:"brush"`
	Dabs    []mesh.Spot `json:"dabs"`
	Presses []float64   `json:"presses,omitempty"` // as of PaintWeights
}

// Title implements Edit.
func (e *PaintDual) Title(d *rig.Document) string {
	return fmt.Sprintf("Paint %s of dual quaternions on %s", e.Brush.Stroke, d.NameOf(e.Part))
}

// Touches implements Edit.
func (e *PaintDual) Touches(*rig.Document) []string { return []string{e.Part} }

// Apply implements Edit.
func (e *PaintDual) Apply(c *Context, d *rig.Document) error {
	if err := checkDabs(e.Dabs, e.Presses); err != nil {
		return err
	}
	p, err := NewDualPainting(c, d, e)
	if err != nil {
		return err
	}
	changed, err := dabAll(e.Dabs, e.Presses, p.Surface, d.NameOf(e.Part), p.Dab)
	if err != nil {
		return err
	}
	if changed == 0 {
		return fmt.Errorf("the stroke changes nothing: all under it has as much as it can; paint the other way")
	}
	binding := d.BindingOf(e.Part)
	if binding.Dual == 0 {
		binding.Dual = 1
	}
	binding.DualBy = c.Keep(p.Shares.Encode())
	return nil
}

// DualPainting is the shares of dual quaternions of a part under a brush.
type DualPainting struct {
	Surface *mesh.Mesh
	Shares  skin.Shares

	painter *skin.Painter
	brush   skin.Brush
}

// NewDualPainting readies the part that a stroke is on; its dabs do not count.
func NewDualPainting(c *Context, d *rig.Document, e *PaintDual) (*DualPainting, error) {
	if err := e.Brush.Check(); err != nil {
		return nil, err
	}
	part, surface, err := partAndSurface(c, d, e.Part)
	if err != nil {
		return nil, err
	}
	binding := d.BindingOf(part.ID)
	if binding == nil {
		return nil, fmt.Errorf("%s is not bound to anything yet; bind it first", part.Name)
	}
	p := &DualPainting{Surface: surface, painter: skin.NewPainter(surface, 0, nil), brush: e.Brush, Shares: skin.NewShares(surface.VertexCount())}
	switch {
	case binding.Dual == 0:
		clear(p.Shares)
	case binding.DualBy != "":
		data, err := c.surfaces().Blob(binding.DualBy)
		if err != nil {
			return nil, err
		}
		kept, err := skin.DecodeShares(data, surface.VertexCount())
		if err != nil {
			return nil, err
		}
		p.Shares = slices.Clone(kept)
	}
	return p, nil
}

// Dab puts the brush on a spot, pressed 0 to 1, and returns the vertices that change by it.
func (p *DualPainting) Dab(at mesh.Spot, press float64) []int {
	brush := p.brush
	brush.Strength *= press
	return p.painter.DabShares(p.Shares, at, brush)
}
