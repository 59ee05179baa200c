package edit

import (
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/mesh"
	"myriapod/core/rig"
)

// atJoint is how near to a joint a control's home counts as standing there, as a share of the skeleton's size.
const atJoint = 1e-5

// carrying finds which controls go along when joints are moved at rest.
type carrying struct {
	d     *rig.Document
	moves map[string]mgl64.Vec3 // by joint
	was   map[string]mgl64.Vec3 // where joints stood, by ID
	near  float64
}

func newCarrying(d *rig.Document, moves map[string]mgl64.Vec3) *carrying {
	c := &carrying{d: d, moves: moves, was: make(map[string]mgl64.Vec3, len(d.Joints))}
	box := mesh.EmptyBounds()
	for _, j := range d.Joints {
		c.was[j.ID] = j.Position
		box.Add(j.Position)
	}
	c.near = atJoint * box.Size()
	return c
}

// carry moves the controls that go along: what stands at a joint that moves, or hangs on it or on such a control, and all controls of a mechanism whose joints
// all go the same way. Those of mechanisms with a joint that moves that do not go along are told of.
func (k *carrying) carry(c *Context) {
	goes := map[string]mgl64.Vec3{}
	owners := map[string][]*rig.Mechanism{}
	for i := range k.d.Mechanisms {
		m := &k.d.Mechanisms[i]
		for _, id := range m.Controls {
			owners[id] = append(owners[id], m)
		}
	}
	for i := range k.d.Controls {
		if by, ok := k.along(&k.d.Controls[i], owners[k.d.Controls[i].ID]); ok {
			goes[k.d.Controls[i].ID] = by
		}
	}
	k.hanging(goes, owners)
	var behind []string
	for i := range k.d.Controls {
		control := &k.d.Controls[i]
		if by, ok := goes[control.ID]; ok {
			control.Position = control.Position.Add(by)
		} else if slices.ContainsFunc(owners[control.ID], k.touched) {
			behind = append(behind, control.ID)
		}
	}
	if len(behind) > 0 {
		c.tell("Left where it was, for not all that it moves went the same way: %s. Move it by making a place its home, or arrange the controls anew.", controlsNamed(k.d, behind))
	}
}

// along is how far a control goes by itself: with the joint that it stands at, or with all joints of what it moves.
func (k *carrying) along(control *rig.Control, owners []*rig.Mechanism) (mgl64.Vec3, bool) {
	for _, m := range owners {
		for _, id := range m.Joints {
			if by, ok := k.moves[id]; ok && k.was[id].Sub(control.Position).Len() <= k.near {
				return by, true
			}
		}
	}
	for _, m := range owners {
		if by, ok := k.whole(m); ok {
			return by, true
		}
	}
	return mgl64.Vec3{}, false
}

// whole is how far all joints of a mechanism go, where they go the same way.
func (k *carrying) whole(m *rig.Mechanism) (by mgl64.Vec3, ok bool) {
	for i, id := range m.Joints {
		move, moves := k.moves[id]
		if !moves || i > 0 && move.Sub(by).Len() > k.near {
			return by, false
		}
		by = move
	}
	return by, len(m.Joints) > 0
}

func (k *carrying) touched(m *rig.Mechanism) bool {
	return slices.ContainsFunc(m.Joints, func(id string) bool { _, moves := k.moves[id]; return moves })
}

// hanging takes along what belongs to no mechanism and hangs on what goes.
func (k *carrying) hanging(goes map[string]mgl64.Vec3, owners map[string][]*rig.Mechanism) {
	for again := true; again; {
		again = false
		for _, control := range k.d.Controls {
			if _, known := goes[control.ID]; known || len(owners[control.ID]) > 0 || control.Space == "" {
				continue
			}
			by, ok := k.moves[control.Space]
			if !ok {
				by, ok = goes[control.Space]
			}
			if ok {
				goes[control.ID], again = by, true
			}
		}
	}
}
