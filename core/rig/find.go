package rig

import (
	"fmt"
	"maps"
	"slices"

	"myriapod/core/parameter"
)

// Clone returns a copy of d that shares nothing that an edit may change. Outlines, dials, keys and profiles are replaced whole by
// edits, never written into, so they are shared.
func (d *Document) Clone() *Document {
	c := *d
	c.Parts = slices.Clone(d.Parts)
	c.Joints = slices.Clone(d.Joints)
	c.Controls = slices.Clone(d.Controls)
	for i := range c.Controls {
		c.Controls[i].Channels = maps.Clone(c.Controls[i].Channels)
	}
	c.Mechanisms = slices.Clone(d.Mechanisms)
	for i := range c.Mechanisms {
		set := make(parameter.Set, len(d.Mechanisms[i].Parameters))
		for key, value := range d.Mechanisms[i].Parameters {
			set[key] = value
		}
		c.Mechanisms[i].Parameters = set
		c.Mechanisms[i].Dials = maps.Clone(d.Mechanisms[i].Dials)
	}
	c.Bindings = slices.Clone(d.Bindings)
	c.Clips = slices.Clone(d.Clips)
	for i := range c.Clips {
		c.Clips[i].Tracks = slices.Clone(d.Clips[i].Tracks)
		c.Clips[i].JointTracks = slices.Clone(d.Clips[i].JointTracks)
		c.Clips[i].MorphTracks = slices.Clone(d.Clips[i].MorphTracks)
	}
	c.Repeats = slices.Clone(d.Repeats)
	for i := range c.Repeats {
		c.Repeats[i].Differences = slices.Clone(d.Repeats[i].Differences)
	}
	return &c
}

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

// LengthOf returns the length of the bones from each joint listed to the next.
func (d *Document) LengthOf(joints []string) (length float64) {
	for i := 1; i < len(joints); i++ {
		length += d.Joint(joints[i]).Position.Sub(d.Joint(joints[i-1]).Position).Len()
	}
	return length
}

// NameOf returns the name of whatever has the ID, for messages to people; the ID itself when nothing has it.
func (d *Document) NameOf(id string) string {
	if j := d.Joint(id); j != nil {
		return j.Name
	}
	if c := d.Control(id); c != nil {
		return c.Name
	}
	if m := d.Mechanism(id); m != nil {
		return m.Name
	}
	if p := d.Part(id); p != nil {
		return p.Name
	}
	if c := d.Clip(id); c != nil {
		return c.Name
	}
	if r := d.Repeat(id); r != nil {
		return r.Name
	}
	return id
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
	d.eachNamed(func(_ string, _ int, id, name string) bool { return visit(id, name) })
}

// placeOf is where in the file a named thing stands.
func (d *Document) placeOf(wanted string) (place string) {
	d.eachNamed(func(list string, i int, id, _ string) bool {
		if id == wanted {
			place = fmt.Sprintf("%s[%d]", list, i)
		}
		return place == ""
	})
	return place
}

func (d *Document) eachNamed(visit func(list string, i int, id, name string) bool) {
	for i, j := range d.Joints {
		if !visit("joints", i, j.ID, j.Name) {
			return
		}
	}
	for i, c := range d.Controls {
		if !visit("controls", i, c.ID, c.Name) {
			return
		}
	}
	for i, m := range d.Mechanisms {
		if !visit("mechanisms", i, m.ID, m.Name) {
			return
		}
	}
	for i, p := range d.Parts {
		if !visit("parts", i, p.ID, p.Name) {
			return
		}
	}
	for i, c := range d.Clips {
		if !visit("clips", i, c.ID, c.Name) {
			return
		}
	}
	for i, r := range d.Repeats {
		if !visit("repeats", i, r.ID, r.Name) {
			return
		}
	}
}
