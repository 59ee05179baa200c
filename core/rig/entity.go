package rig

import (
	"fmt"
	"maps"
	"slices"
	"strings"
)

// Entity is one thing in a document that has an ID. Whatever goes over all of them (to clone, check, name, repeat or fold) knows them by this alone, so a
// new list of things is declared in collections and nowhere else.
type Entity interface {
	// Identity points at the ID, and at the name; name is nil for what has none of its own.
	Identity() (id, name *string)
	// Refer calls visit with every reference to another thing, and has it refer to what visit returns. What is shared with other documents is copied
	// before it is written into.
	Refer(visit func(Reference) string)
	// detach gives the thing its own copies of what edits write into.
	detach()
}

// Target is a set of lists that a reference can lead into.
type Target uint16

// The targets of references.
const (
	ToJoint Target = 1 << iota
	ToControl
	ToMechanism
	ToPart
	ToDriver
	ToMeasure
)

// ToMember is what may stand in a group.
const ToMember = ToControl | ToJoint | ToPart | ToMechanism | ToMeasure

// words names the targets in messages.
var words = []struct {
	target Target
	word   string
}{{ToControl, "control"}, {ToJoint, "joint"}, {ToMechanism, "mechanism"}, {ToPart, "part"}, {ToDriver, "driver"}, {ToMeasure, "measure"}}

func (t Target) String() string {
	var list []string
	for _, w := range words {
		if t&w.target != 0 {
			list = append(list, w.word)
		}
	}
	return strings.Join(list, " or ")
}

// Reference is one reference of an entity: where it stands there, and the ID of what it leads to.
type Reference struct {
	Field    string
	Index    int // in a list, -1 for none
	Of       string
	To       Target
	ID       string
	Optional bool // may be empty
	Copied   bool // may lead to a copy that a repeat has still to make
}

// Place is where the reference stands in the entity, for messages.
func (r Reference) Place() string {
	if r.Index < 0 {
		return r.Field
	}
	if r.Of != "" {
		return fmt.Sprintf("%s[%d].%s", r.Field, r.Index, r.Of)
	}
	return fmt.Sprintf("%s[%d]", r.Field, r.Index)
}

// refer visits one reference.
func refer(id *string, r Reference, visit func(Reference) string) {
	if r.ID = *id; r.ID == "" && r.Optional {
		return
	}
	if to := visit(r); to != *id {
		*id = to
	}
}

// referAll visits the references of a list.
func referAll(ids *[]string, r Reference, visit func(Reference) string) {
	own := false
	for i, id := range *ids {
		if r.ID, r.Index = id, i; id == "" && r.Optional {
			continue
		}
		to := visit(r)
		if to == id {
			continue
		}
		if !own {
			*ids, own = slices.Clone(*ids), true
		}
		(*ids)[i] = to
	}
}

// referEach visits a reference of each item of a list.
func referEach[T any](items *[]T, id func(*T) *string, r Reference, visit func(Reference) string) {
	own := false
	for i := range *items {
		r.ID, r.Index = *id(&(*items)[i]), i
		to := visit(r)
		if to == r.ID {
			continue
		}
		if !own {
			*items, own = slices.Clone(*items), true
		}
		*id(&(*items)[i]) = to
	}
}

// Identity implements Entity.
func (p *Part) Identity() (id, name *string) { return &p.ID, &p.Name }

// Refer implements Entity.
func (p *Part) Refer(func(Reference) string) {}

func (p *Part) detach() {}

// Identity implements Entity.
func (j *Joint) Identity() (id, name *string) { return &j.ID, &j.Name }

// Refer implements Entity.
func (j *Joint) Refer(visit func(Reference) string) {
	refer(&j.Parent, Reference{Field: "parent", Index: -1, To: ToJoint, Optional: true}, visit)
}

func (j *Joint) detach() {}

// Identity implements Entity.
func (c *Control) Identity() (id, name *string) { return &c.ID, &c.Name }

// Refer implements Entity.
func (c *Control) Refer(visit func(Reference) string) {
	refer(&c.Space, Reference{Field: "space", Index: -1, To: ToControl | ToJoint, Optional: true}, visit)
	referAll(&c.Spaces, Reference{Field: "spaces", To: ToControl | ToJoint, Optional: true}, visit)
}

func (c *Control) detach() { c.Channels = maps.Clone(c.Channels) }

// Identity implements Entity.
func (m *Mechanism) Identity() (id, name *string) { return &m.ID, &m.Name }

// Refer implements Entity.
func (m *Mechanism) Refer(visit func(Reference) string) {
	refer(&m.Host, Reference{Field: "host", Index: -1, To: ToMechanism, Optional: true}, visit)
	referAll(&m.Joints, Reference{Field: "joints", To: ToJoint}, visit)
	referAll(&m.Controls, Reference{Field: "controls", To: ToControl}, visit)
	referAll(&m.Homes, Reference{Field: "homes", To: ToControl}, visit)
	referAll(&m.Takes, Reference{Field: "takes", To: ToJoint | ToControl}, visit)
	referAll(&m.Parts, Reference{Field: "parts", To: ToPart}, visit)
}

func (m *Mechanism) detach() {
	m.Parameters, m.Counts = m.Parameters.Clone(), maps.Clone(m.Counts)
}

// Identity implements Entity.
func (b *Binding) Identity() (id, name *string) { return &b.ID, nil }

// Refer implements Entity.
func (b *Binding) Refer(visit func(Reference) string) {
	refer(&b.Part, Reference{Field: "part", Index: -1, To: ToPart}, visit)
	referAll(&b.Joints, Reference{Field: "joints", To: ToJoint}, visit)
}

func (b *Binding) detach() {}

// Identity implements Entity.
func (c *Clip) Identity() (id, name *string) { return &c.ID, &c.Name }

// Refer implements Entity.
func (c *Clip) Refer(visit func(Reference) string) {
	referEach(&c.Tracks, func(t *Track) *string { return &t.Control }, Reference{Field: "tracks", Of: "control", To: ToControl}, visit)
	referEach(&c.JointTracks, func(t *JointTrack) *string { return &t.Joint }, Reference{Field: "jointTracks", Of: "joint", To: ToJoint}, visit)
	referEach(&c.MorphTracks, func(t *MorphTrack) *string { return &t.Part }, Reference{Field: "morphTracks", Of: "part", To: ToPart}, visit)
}

func (c *Clip) detach() {
	c.Tracks, c.JointTracks, c.MorphTracks = slices.Clone(c.Tracks), slices.Clone(c.JointTracks), slices.Clone(c.MorphTracks)
}

// Identity implements Entity.
func (r *Repeat) Identity() (id, name *string) { return &r.ID, &r.Name }

// Refer implements Entity. What differences are of, and lead to, is followed by the copies that they make.
func (r *Repeat) Refer(visit func(Reference) string) {
	referAll(&r.Sources, Reference{Field: "sources", To: ToJoint, Copied: true}, visit)
	referAll(&r.Stations, Reference{Field: "stations", To: ToJoint, Copied: true}, visit)
}

func (r *Repeat) detach() { r.Differences = slices.Clone(r.Differences) }
