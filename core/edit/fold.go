package edit

import (
	"fmt"
	"reflect"
	"slices"

	"myriapod/core/parameter"
	"myriapod/core/repeat"
	"myriapod/core/rig"
)

// folding takes a document that was edited with its copies in view back to one without them.
type folding struct {
	seen   *repeat.Expansion
	work   *rig.Document
	only   bool
	each   bool                  // every copy keeps what it has, also where the edit changed its source alone
	before map[string]rig.Entity // by ID, as the edit found it
	own    map[string]bool
	parent map[string]string // by joint, as the edit left it
}

func newFolding(seen *repeat.Expansion, work *rig.Document, only bool) *folding {
	f := &folding{seen: seen, work: work, only: only, before: map[string]rig.Entity{}, own: map[string]bool{}, parent: map[string]string{}}
	seen.Document.Each(func(_ string, _ int, e rig.Entity) bool {
		id, _ := e.Identity()
		f.before[*id] = e
		return true
	})
	work.Each(func(_ string, _ int, e rig.Entity) bool {
		id, _ := e.Identity()
		f.own[*id] = f.before[*id] != nil && !reflect.DeepEqual(f.before[*id], e)
		return true
	})
	for _, j := range work.Joints {
		f.parent[j.ID] = j.Parent
	}
	return f
}

// copied returns the origin of a thing that is a copy still: its repeat is there after the edit.
func (f *folding) copied(id string) (repeat.Origin, bool) {
	origin, ok := f.seen.Origins[id]
	return origin, ok && f.work.Repeat(origin.Repeat) != nil
}

// changedCopy returns of a copy that the edit changed where it comes from, how it was, and its source. ok is false for anything else, and where the source went
// in the same edit.
func changedCopy[T any](f *folding, id string, find func(string) *T) (origin repeat.Origin, was, source *T, ok bool) {
	if origin, ok = f.copied(id); !ok || !f.own[id] && !(f.each && f.own[origin.Of]) {
		return origin, nil, nil, false
	}
	source = find(origin.Of)
	return origin, any(f.before[id]).(*T), source, source != nil
}

func (f *folding) fold() (*rig.Document, error) {
	if !f.only {
		if err := f.homeNew(); err != nil {
			return nil, err
		}
	}
	if err := f.removals(); err != nil {
		return nil, err
	}
	// Copies of copies stand behind what they copy: backwards, each hands its change on before its source is looked at.
	for i := len(f.work.Joints) - 1; i >= 0; i-- {
		if err := f.joint(i); err != nil {
			return nil, err
		}
	}
	for i := len(f.work.Controls) - 1; i >= 0; i-- {
		if err := f.control(i); err != nil {
			return nil, err
		}
	}
	for i := len(f.work.Mechanisms) - 1; i >= 0; i-- {
		if err := f.mechanism(i); err != nil {
			return nil, err
		}
	}
	for i := len(f.work.Drivers) - 1; i >= 0; i-- {
		if err := f.driver(i); err != nil {
			return nil, err
		}
	}
	for i := range f.work.Measures {
		f.measure(i)
	}
	for i := range f.work.Groups {
		f.group(&f.work.Groups[i])
	}
	gone := func(id string) bool { _, ok := f.copied(id); return ok }
	f.work.Drop(gone)
	for i := range f.work.Repeats {
		r := &f.work.Repeats[i]
		r.Differences = slices.DeleteFunc(r.Differences, rig.Difference.Empty)
	}
	return f.work, nil
}

// difference returns what a copy keeps of its own, to be added to.
func (f *folding) difference(o repeat.Origin) *rig.Difference {
	r := f.work.Repeat(o.Repeat)
	for i := range r.Differences {
		if r.Differences[i].Copy == o.Copy && r.Differences[i].Of == o.Of {
			return &r.Differences[i]
		}
	}
	r.Differences = append(r.Differences, rig.Difference{Copy: o.Copy, Of: o.Of})
	return &r.Differences[len(r.Differences)-1]
}

// back follows a reference from a copy to what it means in the source.
func (f *folding) back(o repeat.Origin, id string) string {
	if other, ok := f.copied(id); ok && other.Repeat == o.Repeat && other.Copy == o.Copy {
		return other.Of
	}
	return id
}

func (f *folding) backAll(o repeat.Origin, ids []string) []string {
	list := make([]string, len(ids))
	for i, id := range ids {
		list[i] = f.back(o, id)
	}
	return list
}

func (f *folding) joint(i int) error {
	now := f.work.Joints[i]
	origin, was, source, ok := changedCopy(f, now.ID, f.work.Joint)
	if !ok {
		return nil
	}
	f.named(origin, was.Name, now.Name)
	moved, turned := now.Position != was.Position, now.Rotation != was.Rotation
	if f.only {
		d := f.difference(origin)
		if now.Label != was.Label {
			d.Label = &now.Label
		}
		if moved {
			d.Offset = ref(origin.PlaceBack(now.Position).Sub(source.Position))
		}
		if turned {
			d.Turn = ref(rig.QuaternionOf(origin.Rotation(source.Rotation).Quat().Conjugate().Mul(now.Rotation.Quat()).Normalize()))
		}
		if now.Parent != was.Parent {
			d.Parent = &now.Parent
		}
		if now.Order != was.Order {
			d.Order = now.Order
		}
		return nil
	}
	if f.own[source.ID] {
		return nil // the source was changed by the same edit, and the copies follow it
	}
	kept := f.difference(origin)
	if now.Label != was.Label {
		source.Label = now.Label
	}
	if moved {
		source.Position = origin.PlaceBack(now.Position)
		if kept.Offset != nil {
			source.Position = source.Position.Sub(*kept.Offset)
		}
	}
	if turned {
		q := now.Rotation.Quat()
		if kept.Turn != nil {
			q = q.Mul(kept.Turn.Quat().Conjugate())
		}
		source.Rotation = origin.RotationBack(rig.QuaternionOf(q.Normalize()))
	}
	if now.Parent != was.Parent {
		source.Parent = f.back(origin, now.Parent)
	}
	if now.Order != was.Order {
		source.Order = now.Order
	}
	f.own[source.ID] = true
	return nil
}

func ref[T any](value T) *T { return &value }

// named keeps a copy's new name as its own: names of copies come from a pattern, which one name cannot change.
func (f *folding) named(o repeat.Origin, was, now string) {
	if was != now {
		f.difference(o).Name = now
	}
}

func (f *folding) mechanism(i int) error {
	now := f.work.Mechanisms[i]
	origin, was, source, ok := changedCopy(f, now.ID, f.work.Mechanism)
	if !ok {
		return nil
	}
	f.named(origin, was.Name, now.Name)
	if !f.only && f.own[source.ID] {
		return nil
	}
	d := &rig.Difference{}
	if f.only {
		d = f.difference(origin)
	}
	f.parameters(d, now.Parameters, was.Parameters, source.Parameters)
	f.switched(d, now.On, was.On, &source.On)
	if !slices.Equal(now.Controls, was.Controls) || !slices.Equal(now.Places, was.Places) {
		if f.only {
			return fmt.Errorf("the controls of %s come from its source; change them there, or detach the repeat", now.Name)
		}
		source.Controls, source.Places = f.backAll(origin, now.Controls), now.Places
	}
	if !slices.Equal(now.Joints, was.Joints) {
		if f.only {
			return fmt.Errorf("the joints of %s come from its source; change them there, or detach the repeat", now.Name)
		}
		source.Joints = f.backAll(origin, now.Joints)
	}
	f.own[source.ID] = true
	return nil
}

// parameters takes changed parameters of a copy to the source, or keeps them in a difference.
func (f *folding) parameters(d *rig.Difference, now, was, source parameter.Set) {
	for key, value := range now {
		if reflect.DeepEqual(value, was[key]) && !(f.each && !reflect.DeepEqual(value, source[key])) {
			continue
		}
		if !f.only {
			source[key] = value
			continue
		}
		d.Parameters = d.Parameters.Clone()
		d.Parameters[key] = value
	}
}

// switched is as parameters, for whether a copy is on.
func (f *folding) switched(d *rig.Difference, now, was bool, source *bool) {
	switch {
	case now == was:
	case f.only:
		d.On = &now
	default:
		*source = now
	}
}

func (f *folding) driver(i int) error {
	now := f.work.Drivers[i]
	origin, was, source, ok := changedCopy(f, now.ID, f.work.Driver)
	if !ok {
		return nil
	}
	if !f.only && f.own[source.ID] {
		return nil
	}
	d := &rig.Difference{}
	if f.only {
		d = f.difference(origin)
	}
	f.parameters(d, now.Parameters, was.Parameters, source.Parameters)
	f.switched(d, now.On, was.On, &source.On)
	if now.Drives != was.Drives || !slices.Equal(now.By, was.By) {
		if f.only {
			return fmt.Errorf("what the drivers of %s read comes from their source; change them there, or detach the repeat", f.seen.Document.NameOfValue(was.Drives))
		}
		source.Drives, source.By = now.Drives, now.By
		source.Refer(func(r rig.Reference) string { return f.back(origin, r.ID) })
	}
	f.own[source.ID] = true
	return nil
}

// group takes out of a group the copies that stand in it by their sources, and with a copy that was taken out its source.
func (f *folding) group(g *rig.Group) {
	if was, ok := f.before[g.ID].(*rig.Group); ok {
		for _, id := range was.Members {
			if slices.Contains(g.Members, id) {
				continue
			}
			for origin, copied := f.copied(id); copied; origin, copied = f.copied(origin.Of) {
				g.Members = slices.DeleteFunc(g.Members, func(m string) bool { return m == origin.Of })
			}
		}
	}
	g.Members = f.seen.WithoutImplied(g.Members, func(id string) bool { _, copied := f.copied(id); return copied })
}

// measure keeps a copy's new name; nothing else of a measure changes.
func (f *folding) measure(i int) {
	now := f.work.Measures[i]
	if origin, ok := f.copied(now.ID); ok && f.own[now.ID] {
		f.named(origin, f.before[now.ID].(*rig.Measure).Name, now.Name)
	}
}
