package edit

import (
	"errors"
	"fmt"
	"slices"

	"myriapod/core/rig"
	"myriapod/core/skin"
)

// painted is the share by which a vertex must go with other joints than its binding made it for that to count as painted.
const painted = 1e-3

// follow has a new binding of a part follow on the one before: it can be compared with it, its skin goes by the same method, and what was painted stays where that is asked for.
func (e *Bind) follow(c *Context, d *rig.Document, now *rig.Binding, made *skin.Weights) error {
	before := d.BindingOf(now.Part)
	if before == nil {
		return nil
	}
	now.Dual, now.DualBy = before.Dual, before.DualBy
	now.Last = &rig.LastBinding{Joints: before.Joints, Method: before.Method, Weights: before.Weights}
	if !e.Keep || before.Made == "" || before.Made == before.Weights {
		return nil
	}
	was, err := c.surfaces().Weights(before.Weights, len(before.Joints))
	if err != nil {
		return err
	}
	plain, err := c.surfaces().Weights(before.Made, len(before.Joints))
	if err != nil {
		return err
	}
	if was.VertexCount() != made.VertexCount() || was.VertexCount() != plain.VertexCount() {
		c.tell("%s has other vertices than when it was painted; what was painted is left to undo.", d.NameOf(now.Part))
		return nil
	}
	at := make([]int, len(before.Joints))
	for i, joint := range before.Joints {
		at[i] = slices.Index(now.Joints, joint)
	}
	told, lost := was.Retold(at)
	next := &skin.Weights{Joints: slices.Clone(made.Joints), Values: slices.Clone(made.Values)}
	kept := 0
	for _, v := range skin.Unlike(was, plain, painted) {
		if _, gone := slices.BinarySearch(lost, v); !gone {
			copy(next.Joints[skin.Influences*v:], told.Joints[skin.Influences*v:skin.Influences*(v+1)])
			copy(next.Values[skin.Influences*v:], told.Values[skin.Influences*v:skin.Influences*(v+1)])
			kept++
		}
	}
	now.Weights = c.Keep(next.EncodeBlocks(c.Keep))
	c.tell("%d vertices of %s that were painted keep what they have.", kept, d.NameOf(now.Part))
	return nil
}

// MixBindings has a part go with what it goes with now, and with what it went with before it was bound anew, by a share of the latter.
type MixBindings struct {
	Part  string  `json:"part"`
	Share float64 `json:"share"` // 0 for the present binding, 1 for the last one
}

// Title implements Edit.
func (e *MixBindings) Title(d *rig.Document) string {
	return fmt.Sprintf("Mix %.0f %% of its last binding into %s", 100*e.Share, d.NameOf(e.Part))
}

// Touches implements Edit.
func (e *MixBindings) Touches(*rig.Document) []string { return []string{e.Part} }

// Apply implements Edit.
func (e *MixBindings) Apply(c *Context, d *rig.Document) error {
	if !(e.Share >= 0 && e.Share <= 1) {
		return fmt.Errorf("a share lies between 0 and 1, not at %g", e.Share)
	}
	now, last, joints, err := BothBindings(c, d, e.Part)
	if err != nil {
		return err
	}
	binding := d.BindingOf(e.Part)
	binding.Joints, binding.Weights = joints, c.Keep(skin.Mixed(now, last, e.Share).EncodeBlocks(c.Keep))
	return nil
}

// BothBindings returns the weights of a part, and those that it had before it was bound anew, with their joints in one list.
func BothBindings(c *Context, d *rig.Document, id string) (now, last *skin.Weights, joints []string, err error) {
	binding, now, err := boundWeights(c, d, id)
	if err != nil {
		return nil, nil, nil, err
	}
	if binding.Last == nil {
		return nil, nil, nil, fmt.Errorf("%s was not bound before its present binding; there is nothing to compare it with", d.NameOf(id))
	}
	for _, joint := range binding.Last.Joints {
		if d.Joint(joint) == nil {
			return nil, nil, nil, errors.New("joints that it went with are gone; there is nothing to compare it with any more")
		}
	}
	before, err := c.surfaces().Weights(binding.Last.Weights, len(binding.Last.Joints))
	if err != nil {
		return nil, nil, nil, err
	}
	if before.VertexCount() != now.VertexCount() {
		return nil, nil, nil, errors.New("the part had other vertices; there is nothing to compare it with any more")
	}
	joints, at := skin.Joined(binding.Joints, binding.Last.Joints)
	last, _ = before.Retold(at)
	return now, last, joints, nil
}
