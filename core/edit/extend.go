package edit

import (
	"errors"
	"fmt"
	"slices"

	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// ExtendChain has a mechanism on a chain end at another joint: further on or further back. The rest pose stays.
type ExtendChain struct {
	Mechanism string `json:"mechanism"`
	Last      string `json:"last"` // a joint below its first
}

func (*ExtendChain) builds() {}

// Title implements Edit.
func (e *ExtendChain) Title(d *rig.Document) string {
	return fmt.Sprintf("Let %s end at %s", d.NameOf(e.Mechanism), d.NameOf(e.Last))
}

// Touches implements Edit.
func (e *ExtendChain) Touches(*rig.Document) []string { return []string{e.Mechanism, e.Last} }

// Apply implements Edit.
func (e *ExtendChain) Apply(c *Context, d *rig.Document) error {
	m, kind, err := mechanismOf(c, d, e.Mechanism)
	if err != nil {
		return err
	}
	extender, ok := kind.(mechanism.Extender)
	if !ok {
		return fmt.Errorf("%s, a %s, ends where it was built; remove it and build it anew", m.Name, kind.Declare().Title)
	}
	for _, guest := range d.Mechanisms {
		if guest.Host == m.ID {
			return fmt.Errorf("%s works on the end of %s; remove it first, and build it anew after that", guest.Name, m.Name)
		}
	}
	joints, err := chainTo(d, m.Joints[0], e.Last)
	if err != nil {
		return err
	}
	extended := *m
	extended.Joints = joints
	site, err := newSite(c, d, &extended, nil)
	if err != nil {
		return err
	}
	if err := extender.Extend(site); err != nil {
		return fmt.Errorf("%s cannot end at %s: %w", m.Name, d.NameOf(e.Last), err)
	}
	*d.Mechanism(e.Mechanism) = extended
	for _, clip := range d.Clips {
		if slices.ContainsFunc(clip.Tracks, func(t rig.Track) bool { return slices.Contains(extended.Controls, t.Control) }) {
			c.tell("The keys of %s in %s keep their numbers, and move where it ends now.", m.Name, clip.Name)
		}
	}
	return nil
}

// chainTo is the joints from one down to another below it.
func chainTo(d *rig.Document, first, last string) ([]string, error) {
	var chain []string
	for at := last; ; {
		joint := d.Joint(at)
		if joint == nil {
			return nil, missing("joint", last)
		}
		chain = append(chain, at)
		if at == first {
			break
		}
		if joint.Parent == "" {
			return nil, fmt.Errorf("%s does not hang below %s; choose a joint that does", d.NameOf(last), d.NameOf(first))
		}
		at = joint.Parent
	}
	slices.Reverse(chain)
	return chain, nil
}

// ReverseChain turns a chain round: it begins where it ended. The joints keep their names in order from its new beginning; what hangs on one of them stays
// where it is, on the joint that comes to stand there. Mechanisms and bindings on it must be taken off first.
type ReverseChain struct {
	Joints []string `json:"joints"`
}

// Title implements Edit.
func (e *ReverseChain) Title(d *rig.Document) string {
	if len(e.Joints) == 0 {
		return "Turn a chain round"
	}
	return "Turn round the chain of " + d.NameOf(e.Joints[0])
}

// Touches implements Edit.
func (e *ReverseChain) Touches(*rig.Document) []string { return e.Joints }

// Apply implements Edit.
func (e *ReverseChain) Apply(_ *Context, d *rig.Document) error {
	if len(e.Joints) < 2 {
		return errors.New("a chain has two joints or more; choose it whole")
	}
	places, err := freeChain(d, e.Joints)
	if err != nil {
		return err
	}
	slices.Reverse(places)
	there := map[string]string{} // by joint: which comes to stand in its place
	for i, id := range e.Joints {
		there[id] = e.Joints[len(e.Joints)-1-i]
	}
	for i := range d.Joints {
		j := &d.Joints[i]
		if other, ok := there[j.Parent]; ok && !slices.Contains(e.Joints, j.ID) {
			j.Parent = other
		}
	}
	for i, turn := range Orient(places) {
		joint := d.Joint(e.Joints[i])
		joint.Position, joint.Rotation = places[i], rig.QuaternionOf(turn)
	}
	return nil
}
