package edit

import (
	"fmt"
	"slices"

	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// LayPattern has mechanisms of a kind that work together, such as the steps of legs, go by one of the kind's patterns. What it sets stays theirs: every copy of
// a repeat has its own.
type LayPattern struct {
	Mechanism string   `json:"mechanism"`    // their kind
	Of        []string `json:"of,omitempty"` // which of them; empty for all
	Pattern   string   `json:"pattern"`      // its name
}

func (*LayPattern) eachItsOwn() {}

// ofEach is an edit that sets something else on every copy of a repeat, and so keeps it as their own.
type ofEach interface{ eachItsOwn() }

// Title implements Edit.
func (e *LayPattern) Title(*rig.Document) string {
	return fmt.Sprintf("Have every %s go by the pattern %s", e.Mechanism, e.Pattern)
}

// Touches implements Edit.
func (e *LayPattern) Touches(d *rig.Document) (touched []string) {
	for _, m := range e.all(d) {
		touched = append(touched, m.ID)
	}
	return touched
}

// all lists the mechanisms that are meant.
func (e *LayPattern) all(d *rig.Document) (list []*rig.Mechanism) {
	for i := range d.Mechanisms {
		if m := &d.Mechanisms[i]; m.Kind == e.Mechanism && (len(e.Of) == 0 || slices.Contains(e.Of, m.ID)) {
			list = append(list, m)
		}
	}
	return list
}

// Apply implements Edit.
func (e *LayPattern) Apply(c *Context, d *rig.Document) error {
	kind, declaration, err := c.Kinds.Find(e.Mechanism)
	if err != nil {
		return err
	}
	patterned, ok := kind.(mechanism.Patterned)
	if !ok {
		return fmt.Errorf("a %s goes by no pattern", declaration.Title)
	}
	all := e.all(d)
	if len(all) == 0 {
		return fmt.Errorf("there is no %s yet that could go by it; build one first", declaration.Title)
	}
	return patterned.LayPattern(d, all, e.Pattern)
}
