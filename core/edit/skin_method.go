package edit

import (
	"fmt"

	"myriapod/core/rig"
)

// ChangeSkin sets how the skin of parts follows its joints: as a linear blend, or by dual quaternions, which keep the girth of what is twisted, or both in part.
type ChangeSkin struct {
	Parts []string `json:"parts"`
	Dual  float64  `json:"dual"` // how much goes by dual quaternions, 0 to 1
}

// Title implements Edit.
func (e *ChangeSkin) Title(d *rig.Document) string {
	what := fmt.Sprintf("%d parts", len(e.Parts))
	if len(e.Parts) == 1 {
		what = d.NameOf(e.Parts[0])
	}
	return fmt.Sprintf("Skin %s by dual quaternions, %.3g %%", what, 100*e.Dual)
}

// Touches implements Edit.
func (e *ChangeSkin) Touches(*rig.Document) []string { return e.Parts }

// Apply implements Edit.
func (e *ChangeSkin) Apply(_ *Context, d *rig.Document) error {
	for _, id := range e.Parts {
		binding := d.BindingOf(id)
		switch {
		case d.Part(id) == nil:
			return missing("part", id)
		case binding == nil:
			return fmt.Errorf("%s is not bound to anything yet; bind it first", d.NameOf(id))
		}
		binding.Dual = e.Dual
	}
	return nil
}
