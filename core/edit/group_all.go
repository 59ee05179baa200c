package edit

import (
	"errors"

	"myriapod/core/repeat"
	"myriapod/core/rig"
)

// GroupByMechanism gives the controls of every mechanism a group: with those of what works on it, and of what is laid over the same joints. What stands in a
// group already stays where it is.
type GroupByMechanism struct{}

func (*GroupByMechanism) groups() {}

// Title implements Edit.
func (e *GroupByMechanism) Title(*rig.Document) string { return "Group the controls by mechanism" }

// Touches implements Edit.
func (e *GroupByMechanism) Touches(d *rig.Document) (ids []string) {
	for _, m := range d.Mechanisms {
		ids = append(ids, m.ID)
	}
	return ids
}

// Apply implements Edit.
func (e *GroupByMechanism) Apply(c *Context, d *rig.Document) error {
	grouped := map[string]bool{}
	for _, g := range d.Groups {
		for _, id := range g.Members {
			grouped[id] = true
		}
	}
	family := map[string]string{} // by mechanism and joint: the mechanism that its controls are grouped with
	members, order := map[string][]string{}, []string{}
	for _, m := range d.Mechanisms {
		if repeat.IsCopy(d, m.ID) { // its controls go with those of its source
			continue
		}
		head := m.ID
		if of, ok := family[m.Host]; ok {
			head = of
		}
		for _, joint := range m.Joints {
			if of, ok := family[joint]; ok && m.Host == "" {
				head = of
			}
		}
		family[m.ID] = head
		for _, joint := range m.Joints {
			if family[joint] == "" {
				family[joint] = head
			}
		}
		for _, id := range m.Controls {
			if grouped[id] {
				continue
			}
			grouped[id] = true
			if len(members[head]) == 0 {
				order = append(order, head)
			}
			members[head] = append(members[head], id)
		}
	}
	if len(order) == 0 {
		return errors.New("every control of a mechanism stands in a group already; build a mechanism first, or ungroup some")
	}
	for _, head := range order {
		d.Groups = append(d.Groups, rig.Group{
			ID: d.TakeID("g"), Name: rig.UniqueName(d.NameOf(head)+"_controls", d.HasName), Members: members[head], Sight: rig.Shown,
		})
	}
	c.tell("%d groups were made, one for each chain.", len(order))
	return nil
}
