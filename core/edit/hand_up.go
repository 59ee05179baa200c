package edit

import (
	"errors"
	"fmt"
	"slices"

	"myriapod/core/rig"
	"myriapod/core/skin"
)

// HandUpWeights has the skin hang on the parents of joints in the place of the joints: what weight each has goes to the joint that it hangs on. Nothing
// moves by it. It mends skins that hang on joints of their own beside those that a mechanism moves, where no girth reaches them.
type HandUpWeights struct {
	Joints []string `json:"joints"`
}

func (*HandUpWeights) builds() {}

// Title implements Edit.
func (e *HandUpWeights) Title(d *rig.Document) string {
	if len(e.Joints) == 1 {
		return fmt.Sprintf("Hand the skin of %s up to its parent", d.NameOf(e.Joints[0]))
	}
	return fmt.Sprintf("Hand the skin of %d joints up to their parents", len(e.Joints))
}

// Touches implements Edit.
func (e *HandUpWeights) Touches(d *rig.Document) []string {
	touched := slices.Clone(e.Joints)
	for _, b := range d.Bindings {
		if slices.ContainsFunc(b.Joints, func(id string) bool { return slices.Contains(e.Joints, id) }) {
			touched = append(touched, b.Part)
		}
	}
	return touched
}

// Apply implements Edit.
func (e *HandUpWeights) Apply(c *Context, d *rig.Document) error {
	if len(e.Joints) == 0 {
		return errors.New("no joint is chosen; choose those whose skin is to hang on their parents")
	}
	up := map[string]string{}
	for _, id := range e.Joints {
		joint := d.Joint(id)
		if joint == nil {
			return missing("joint", id)
		}
		if joint.Parent == "" {
			return fmt.Errorf("%s hangs on nothing, so there is no joint to hand its skin to", joint.Name)
		}
		up[id] = joint.Parent
	}
	changed := 0
	for i := range d.Bindings {
		b := &d.Bindings[i]
		if !slices.ContainsFunc(b.Joints, func(id string) bool { return up[id] != "" }) {
			continue
		}
		if err := handUp(c, d, b, up); err != nil {
			return err
		}
		changed++
	}
	if changed == 0 {
		return errors.New("no skin hangs on what is chosen")
	}
	return nil
}

// handUp rewrites one binding. A parent that is handed up itself hands on to its own.
func handUp(c *Context, d *rig.Document, b *rig.Binding, up map[string]string) error {
	weights, err := c.surfaces().Weights(b.Weights, len(b.Joints))
	if err != nil {
		return err
	}
	var joints []string
	places := make([]int, len(b.Joints))
	for i, id := range b.Joints {
		for up[id] != "" {
			id = up[id]
		}
		if places[i] = slices.Index(joints, id); places[i] < 0 {
			places[i] = len(joints)
			joints = append(joints, id)
		}
	}
	merged := skin.NewWeights(weights.VertexCount())
	for v := range weights.VertexCount() {
		var ids []int
		var values []float64
		for k := range skin.Influences {
			value := float64(weights.Values[skin.Influences*v+k])
			if value == 0 {
				continue
			}
			place := places[weights.Joints[skin.Influences*v+k]]
			if at := slices.Index(ids, place); at >= 0 {
				values[at] += value
				continue
			}
			ids, values = append(ids, place), append(values, value)
		}
		merged.Set(v, ids, values)
	}
	b.Joints, b.Weights, b.Made, b.Last = joints, c.Keep(merged.Encode()), "", nil
	return nil
}
