package rig

import (
	"fmt"
	"slices"
)

// TakeID returns a fresh ID with the prefix given and uses it up.
func (d *Document) TakeID(prefix string) string {
	id := fmt.Sprintf("%s%d", prefix, d.NextID)
	d.NextID++
	return id
}

func find[T any](list []T, match func(*T) bool) *T {
	for i := range list {
		if match(&list[i]) {
			return &list[i]
		}
	}
	return nil
}

// Part returns the part with the ID, or nil.
func (d *Document) Part(id string) *Part {
	return find(d.Parts, func(p *Part) bool { return p.ID == id })
}

// Joint returns the joint with the ID, or nil.
func (d *Document) Joint(id string) *Joint {
	return find(d.Joints, func(j *Joint) bool { return j.ID == id })
}

// Control returns the control with the ID, or nil.
func (d *Document) Control(id string) *Control {
	return find(d.Controls, func(c *Control) bool { return c.ID == id })
}

// ControlNamed returns the control with the name, or nil.
func (d *Document) ControlNamed(name string) *Control {
	return find(d.Controls, func(c *Control) bool { return c.Name == name })
}

// Mechanism returns the mechanism with the ID, or nil.
func (d *Document) Mechanism(id string) *Mechanism {
	return find(d.Mechanisms, func(m *Mechanism) bool { return m.ID == id })
}

// BindingOf returns the binding of a part, or nil.
func (d *Document) BindingOf(part string) *Binding {
	return find(d.Bindings, func(b *Binding) bool { return b.Part == part })
}

// Clip returns the clip with the ID, or nil.
func (d *Document) Clip(id string) *Clip {
	return find(d.Clips, func(c *Clip) bool { return c.ID == id })
}

// ClipNamed returns the clip with the name, or nil.
func (d *Document) ClipNamed(name string) *Clip {
	return find(d.Clips, func(c *Clip) bool { return c.Name == name })
}

// ChildrenOf returns the joints whose parent is id, in document order.
func (d *Document) ChildrenOf(id string) []string {
	var children []string
	for _, j := range d.Joints {
		if j.Parent == id {
			children = append(children, j.ID)
		}
	}
	return children
}

// Under returns a joint and all that hang on it, each after its parent.
func (d *Document) Under(id string) []string {
	under := []string{id}
	for i := 0; i < len(under) && i < len(d.Joints); i++ {
		under = append(under, d.ChildrenOf(under[i])...)
	}
	return under
}

// LengthOf returns the length of the bones from each joint listed to the next.
func (d *Document) LengthOf(joints []string) (length float64) {
	for i := 1; i < len(joints); i++ {
		length += d.Joint(joints[i]).Position.Sub(d.Joint(joints[i-1]).Position).Len()
	}
	return length
}

// NameOf returns the name of whatever has the ID, for messages to people; the ID itself when nothing has it.
func (d *Document) NameOf(id string) string {
	found := id
	d.EachNamed(func(other, name string) bool {
		if other == id {
			found = name
		}
		return other != id
	})
	return found
}

// UniqueName returns want, or want with the first number behind it that makes it unique among the names given.
func UniqueName(want string, taken func(string) bool) string {
	name := want
	for n := 2; taken(name); n++ {
		name = fmt.Sprintf("%s_%d", want, n)
	}
	return name
}

// HasName tells whether a joint, control, mechanism, part, clip or repeat bears the name. Names are unique over the whole rig.
func (d *Document) HasName(name string) bool {
	named := false
	d.EachNamed(func(_, n string) bool { named = n == name; return !named })
	return named
}

// EachNamed calls visit with the ID and name of everything named, until it returns false.
func (d *Document) EachNamed(visit func(id, name string) bool) {
	d.Each(func(_ string, _ int, e Entity) bool {
		id, name := e.Identity()
		return name == nil || visit(*id, *name)
	})
}

// placeOf is where in the file a thing stands.
func (d *Document) placeOf(wanted string) (place string) {
	d.Each(func(list string, i int, e Entity) bool {
		if id, _ := e.Identity(); *id == wanted {
			place = fmt.Sprintf("%s[%d]", list, i)
		}
		return place == ""
	})
	return place
}

// DropTracks takes the keys of a control's channel out of every clip.
func (d *Document) DropTracks(control string, channel Channel) {
	for i := range d.Clips {
		d.Clips[i].Tracks = slices.DeleteFunc(d.Clips[i].Tracks, func(t Track) bool { return t.Control == control && t.Channel == channel })
	}
}
