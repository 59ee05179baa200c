package rig

import "slices"

// collection is one of the lists of a document.
type collection struct {
	name   string // in files
	target Target // how references name it; 0 for what nothing refers to
	each   func(d *Document, visit func(i int, e Entity) bool) bool
	detach func(d *Document)
	drop   func(d *Document, gone func(id string) bool)
}

// collections are all lists of a document.
var collections = []collection{
	collectionOf("parts", ToPart, func(d *Document) *[]Part { return &d.Parts }),
	collectionOf("joints", ToJoint, func(d *Document) *[]Joint { return &d.Joints }),
	collectionOf("controls", ToControl, func(d *Document) *[]Control { return &d.Controls }),
	collectionOf("mechanisms", ToMechanism, func(d *Document) *[]Mechanism { return &d.Mechanisms }),
	collectionOf("bindings", 0, func(d *Document) *[]Binding { return &d.Bindings }),
	collectionOf("clips", 0, func(d *Document) *[]Clip { return &d.Clips }),
	collectionOf("repeats", 0, func(d *Document) *[]Repeat { return &d.Repeats }),
	collectionOf("drivers", ToDriver, func(d *Document) *[]Driver { return &d.Drivers }),
	collectionOf("measures", ToMeasure, func(d *Document) *[]Measure { return &d.Measures }),
	collectionOf("groups", 0, func(d *Document) *[]Group { return &d.Groups }),
}

func collectionOf[T any, E interface {
	*T
	Entity
}](name string, target Target, list func(*Document) *[]T) collection {
	return collection{
		name: name, target: target,
		each: func(d *Document, visit func(i int, e Entity) bool) bool {
			items := *list(d)
			for i := range items {
				if !visit(i, E(&items[i])) {
					return false
				}
			}
			return true
		},
		detach: func(d *Document) {
			items := list(d)
			*items = slices.Clone(*items)
			for i := range *items {
				E(&(*items)[i]).detach()
			}
		},
		drop: func(d *Document, gone func(id string) bool) {
			items := list(d)
			*items = slices.DeleteFunc(*items, func(item T) bool {
				id, _ := E(&item).Identity()
				return gone(*id)
			})
		},
	}
}

// Each calls visit with everything in the document that has an ID, list after list, until it returns false: the list's name in files, the place there,
// and the thing itself.
func (d *Document) Each(visit func(list string, i int, e Entity) bool) {
	for _, c := range collections {
		if !c.each(d, func(i int, e Entity) bool { return visit(c.name, i, e) }) {
			return
		}
	}
}

// Drop takes everything out of the document whose ID is gone. What refers to it is left as it is.
func (d *Document) Drop(gone func(id string) bool) {
	for _, c := range collections {
		c.drop(d, gone)
	}
}

// Clone returns a copy of d that shares nothing that an edit may change. Outlines, dials, keys and profiles are replaced whole by
// edits, never written into, so they are shared.
func (d *Document) Clone() *Document {
	c := *d
	for _, collection := range collections {
		collection.detach(&c)
	}
	return &c
}

// targets is, by ID, which list everything stands in.
func (d *Document) targets() map[string]Target {
	all := make(map[string]Target, len(d.Joints)+len(d.Controls)+len(d.Mechanisms)+len(d.Parts))
	for _, c := range collections {
		c.each(d, func(_ int, e Entity) bool {
			id, _ := e.Identity()
			all[*id] = c.target
			return true
		})
	}
	return all
}
