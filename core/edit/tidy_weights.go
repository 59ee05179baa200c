package edit

import (
	"errors"
	"fmt"
	"slices"

	"myriapod/core/rig"
	"myriapod/core/skin"
)

// PruneWeights drops weights that hardly count from parts.
type PruneWeights struct {
	Parts []string `json:"parts"`
	Least float64  `json:"least"` // what is less goes, 0 to 0.5
}

// Title implements Edit.
func (e *PruneWeights) Title(d *rig.Document) string {
	return fmt.Sprintf("Drop weights under %.3g", e.Least)
}

// Touches implements Edit.
func (e *PruneWeights) Touches(*rig.Document) []string { return e.Parts }

// Apply implements Edit.
func (e *PruneWeights) Apply(c *Context, d *rig.Document) error {
	if !(e.Least > 0 && e.Least <= 0.5) {
		return fmt.Errorf("weights under 0 to 0.5 can be dropped, not under %g", e.Least)
	}
	if len(e.Parts) == 0 {
		return errors.New("no part is chosen; choose the parts whose weights are to be tidied")
	}
	dropped := 0
	for _, id := range e.Parts {
		binding, w, err := boundWeights(c, d, id)
		if err != nil {
			return err
		}
		n := w.Prune(e.Least)
		if dropped += n; n > 0 {
			binding.Weights = c.Keep(w.EncodeBlocks(c.Keep))
		}
	}
	if dropped == 0 {
		return fmt.Errorf("no weight is less than %g; all stay", e.Least)
	}
	c.tell("%d weights were dropped.", dropped)
	return nil
}

// boundWeights returns a copy of the weights of a part, to be changed.
func boundWeights(c *Context, d *rig.Document, id string) (*rig.Binding, *skin.Weights, error) {
	part := d.Part(id)
	if part == nil {
		return nil, nil, missing("part", id)
	}
	binding := d.BindingOf(id)
	if binding == nil {
		return nil, nil, fmt.Errorf("%s is not bound to anything yet; bind it first", part.Name)
	}
	before, err := c.surfaces().Weights(binding.Weights, len(binding.Joints))
	if err != nil {
		return nil, nil, err
	}
	return binding, &skin.Weights{Joints: slices.Clone(before.Joints), Values: slices.Clone(before.Values)}, nil
}

// MirrorWeights gives one side of a part the weights of the other, with the joints of its own side. From is the side that they are taken from.
type MirrorWeights struct {
	Part string   `json:"part"`
	From rig.Side `json:"from"`
}

// Title implements Edit.
func (e *MirrorWeights) Title(d *rig.Document) string {
	return fmt.Sprintf("Mirror the weights of %s from %s", d.NameOf(e.Part), e.From)
}

// Touches implements Edit.
func (e *MirrorWeights) Touches(*rig.Document) []string { return []string{e.Part} }

// Apply implements Edit.
func (e *MirrorWeights) Apply(c *Context, d *rig.Document) error {
	if e.From != rig.Left && e.From != rig.Right {
		return fmt.Errorf("weights are mirrored from the left (L) or the right (R), not from %q", e.From)
	}
	binding, w, err := boundWeights(c, d, e.Part)
	if err != nil {
		return err
	}
	_, surface, err := partAndSurface(c, d, e.Part)
	if err != nil {
		return err
	}
	joints := slices.Clone(binding.Joints)
	images := make([]int, len(joints))
	for i, id := range binding.Joints {
		other := imageOf(d, id)
		at := slices.Index(joints, other)
		if at < 0 {
			at = len(joints)
			joints = append(joints, other)
		}
		images[i] = at
	}
	changed, farthest := w.Mirror(surface, e.From == rig.Left, func(joint int) int { return images[joint] })
	if changed == 0 {
		return fmt.Errorf("both sides of %s are alike already", d.NameOf(e.Part))
	}
	binding.Joints, binding.Weights = joints, c.Keep(w.EncodeBlocks(c.Keep))
	c.tell("%d vertices take the weights of the other side; the farthest mirror image lies %.2g of the part's size beside a vertex.", changed, farthest/surface.Bounds().Size())
	return nil
}
