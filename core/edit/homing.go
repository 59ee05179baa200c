package edit

import (
	"fmt"
	"slices"

	"myriapod/core/rig"
)

// homeNew takes what an edit made in a copy home to the source, so that every copy gets it: joints that hang in a copy, and
// mechanisms, with their controls, that stand on one.
func (f *folding) homeNew() error {
	for again := true; again; {
		again = false
		for i := range f.work.Mechanisms {
			if m := &f.work.Mechanisms[i]; f.before[m.ID] == nil && f.homeMechanism(m) {
				again = true
			}
		}
		for i := range f.work.Joints {
			if j := &f.work.Joints[i]; f.before[j.ID] == nil && f.homeJoint(j) {
				again = true
			}
		}
		for i := range f.work.Measures {
			if m := &f.work.Measures[i]; f.before[m.ID] == nil && len(m.Of) > 0 && f.homeReferences(m, m.Of[0]) {
				again = true
			}
		}
		for i := range f.work.Drivers {
			if x := &f.work.Drivers[i]; f.before[x.ID] == nil && f.homeReferences(x, x.Drives.Of) {
				again = true
			}
		}
	}
	return nil
}

// homeReferences takes what stands on a copy home to the source of that.
func (f *folding) homeReferences(e rig.Entity, on string) bool {
	origin, ok := f.copied(on)
	if ok {
		e.Refer(func(r rig.Reference) string { return f.back(origin, r.ID) })
	}
	return ok
}

func (f *folding) homeJoint(j *rig.Joint) bool {
	origin, ok := f.copied(f.parent[j.ID])
	if !ok {
		return false
	}
	j.Position, j.Rotation = origin.PlaceBack(j.Position), origin.RotationBack(j.Rotation)
	j.Parent = origin.Of
	for i := range f.work.Joints { // what was made below it comes along
		if below := &f.work.Joints[i]; f.before[below.ID] == nil && f.hangsOn(below.ID, j.ID) {
			below.Position, below.Rotation = origin.PlaceBack(below.Position), origin.RotationBack(below.Rotation)
		}
	}
	f.parent[j.ID] = origin.Of
	return true
}

// hangsOn tells whether a new joint hangs, over other new joints, on another.
func (f *folding) hangsOn(id, on string) bool {
	for at := f.parent[id]; at != "" && f.before[at] == nil; at = f.parent[at] {
		if at == on {
			return true
		}
	}
	return false
}

func (f *folding) homeMechanism(m *rig.Mechanism) bool {
	at := m.Host
	if len(m.Joints) > 0 {
		at = m.Joints[0]
	}
	origin, ok := f.copied(at)
	if !ok {
		return false
	}
	m.Refer(func(r rig.Reference) string { return f.back(origin, r.ID) })
	m.Mirrored = m.Mirrored != origin.Mirrors()
	own := slices.Clone(m.Controls)
	for _, driver := range f.work.Drivers {
		for _, by := range driver.By {
			if driver.Drives.Of == m.ID {
				own = append(own, by.Of)
			}
		}
	}
	for i := range f.work.Controls {
		c := &f.work.Controls[i]
		if f.before[c.ID] == nil && slices.Contains(own, c.ID) {
			onCarrier := c.Space == f.parent[at]
			*c = f.controlBack(origin, *c)
			if onCarrier { // what carries the copy answers to what carries the source
				c.Space = f.parent[origin.Of]
			}
		}
	}
	return true
}

// removals finds the copies that the edit took away: their sources go too, or they alone do without.
func (f *folding) removals() error {
	left := map[string]bool{}
	f.work.Each(func(_ string, _ int, e rig.Entity) bool {
		id, _ := e.Identity()
		left[*id] = true
		return true
	})
	remove := map[string]bool{}
	for _, id := range f.order() {
		origin, ok := f.copied(id)
		if !ok || left[id] {
			continue
		}
		if f.only {
			f.difference(origin).Removed = true
			continue
		}
		if r := f.work.Repeat(origin.Repeat); slices.Contains(r.Sources, origin.Of) {
			return fmt.Errorf("%s is the source of the repeat %s; remove the repeat first, or take this copy only", f.work.NameOf(origin.Of), r.Name)
		}
		if left[origin.Of] {
			remove[origin.Of] = true
			left[origin.Of] = false
		}
	}
	f.drop(remove)
	return nil
}

// order lists the IDs of all copies, copies of copies first.
func (f *folding) order() []string {
	var list []string
	f.seen.Document.Each(func(_ string, _ int, e rig.Entity) bool {
		id, _ := e.Identity()
		list = append(list, *id)
		return true
	})
	slices.Reverse(list)
	return list
}

func (f *folding) drop(remove map[string]bool) {
	if len(remove) == 0 {
		return
	}
	for _, j := range f.work.Joints { // what hung on a removed joint hangs on its parent
		if !remove[j.ID] {
			continue
		}
		for i := range f.work.Joints {
			if f.work.Joints[i].Parent == j.ID {
				f.work.Joints[i].Parent = j.Parent
				f.own[f.work.Joints[i].ID] = true
			}
		}
	}
	f.work.Drop(func(id string) bool { return remove[id] })
}
