package repeat

import (
	"slices"
	"strings"

	"myriapod/core/rig"
)

// groups puts copies into the groups that their sources stand in. Copies that are no longer made are in none.
func (x *Expansion) groups() {
	d := x.Document
	if len(d.Groups) == 0 {
		return
	}
	there := map[string]bool{}
	d.Each(func(_ string, _ int, e rig.Entity) bool {
		id, _ := e.Identity()
		there[*id] = true
		return true
	})
	for i := range d.Groups {
		g := &d.Groups[i]
		in := make(map[string]bool, len(g.Members))
		for _, id := range g.Members {
			in[id] = true
		}
		g.Members = slices.DeleteFunc(g.Members, func(id string) bool { return !there[id] && IsCopy(d, id) })
		d.Each(func(_ string, _ int, e rig.Entity) bool {
			id, _ := e.Identity()
			if !in[*id] && x.copyOfOne(*id, in) {
				in[*id] = true
				g.Members = append(g.Members, *id)
			}
			return true
		})
	}
}

// IsCopy tells whether an ID is such as a repeat of the document gives to copies.
func IsCopy(d *rig.Document, id string) bool {
	return slices.ContainsFunc(d.Repeats, func(r rig.Repeat) bool { return strings.HasPrefix(id, r.ID+".") && strings.Contains(id, "/") })
}

// copyOfOne tells whether a thing is a copy, or a copy of a copy, of something in a set.
func (x *Expansion) copyOfOne(id string, in map[string]bool) bool {
	for {
		origin, ok := x.Origins[id]
		if !ok {
			return false
		}
		if in[origin.Of] {
			return true
		}
		id = origin.Of
	}
}

// WithoutImplied returns the members of a group without the copies that stand in it because their sources do. Only what copied says is a copy counts as one.
func (x *Expansion) WithoutImplied(members []string, copied func(id string) bool) []string {
	in := make(map[string]bool, len(members))
	for _, id := range members {
		in[id] = true
	}
	return slices.DeleteFunc(members, func(id string) bool { return copied(id) && x.copyOfOne(id, in) })
}
