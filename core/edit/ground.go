package edit

import (
	"errors"
	"math"

	"myriapod/core/parameter"
	"myriapod/core/plan"
	"myriapod/core/rig"
)

// SetGroundUnder brings the ground to under the feet: it is raised or lowered until the first of them touches it at rest.
type SetGroundUnder struct{}

// Title implements Edit.
func (*SetGroundUnder) Title(*rig.Document) string { return "Set the ground under the feet" }

// Touches implements Edit.
func (*SetGroundUnder) Touches(d *rig.Document) []string {
	if ground := groundOf(d); ground != nil {
		return []string{ground.ID}
	}
	return nil
}

func groundOf(d *rig.Document) *rig.Mechanism {
	for i := range d.Mechanisms {
		if d.Mechanisms[i].Kind == rig.GroundKind {
			return &d.Mechanisms[i]
		}
	}
	return nil
}

// Apply implements Edit.
func (*SetGroundUnder) Apply(c *Context, d *rig.Document) error {
	ground := groundOf(d)
	if ground == nil {
		return errors.New("there is no ground yet; add one")
	}
	planned, err := plan.Build(d, c.Kinds, c.surfaces())
	if err != nil {
		return err
	}
	if len(planned.Standing) == 0 || !ground.On {
		return errors.New("no foot steps on it yet: have limbs step, and switch the ground on, or set its level by a number")
	}
	gap := math.Inf(1)
	for _, standing := range planned.Standing {
		gap = math.Min(gap, standing.Gap)
	}
	ground.Parameters = ground.Parameters.Clone()
	ground.Parameters["level"] = parameter.OfNumber(ground.Parameters.Number("level") + gap)
	c.tell("The ground lies %.4g m higher now, where the first of %d feet touches it.", gap, len(planned.Standing))
	return nil
}
