package mechanism

import (
	"fmt"
	"slices"

	"myriapod/core/geometry"
	"myriapod/core/rig"
)

// Does is what a mechanism does with the things in a role.
type Does string

// What mechanisms do.
const (
	Moves     Does = "moves"      // joints it places, controls whose homes it carries
	Answers   Does = "answers to" // its own controls
	LooksAt   Does = "looks at"   // joints and controls that it reads and leaves alone
	DrawsFrom Does = "draws"      // parts it draws or deforms
)

// Role is a named place in a mechanism for so many things. Building asks for each that it does not make itself; files, repeats and findings speak of it by name.
// The lists of a mechanism in the document hold the roles one after the other. Where several roles of a list leave open how many they take, the mechanism tells
// how many stand in each (rig.Mechanism.Counts).
type Role struct {
	Name     string `json:"name"` // in files and edits
	Title    string `json:"title"`
	Help     string `json:"help"`
	Does     Does   `json:"does"`
	Joints   bool   `json:"joints"` // what can stand in it
	Controls bool   `json:"controls"`
	Parts    bool   `json:"parts"`
	Least    int    `json:"least"`
	Most     int    `json:"most"`         // 0 for any number
	Chain    bool   `json:"chain"`        // joints that follow each other down one chain; the two ends are enough
	Made     bool   `json:"made"`         // building makes it
	As       string `json:"as,omitempty"` // it takes as many as that role
}

// ChainRole is the role of joints that follow each other down a chain.
func ChainRole(least int, help string) Role {
	return Role{Name: "chain", Title: "Chain", Help: help, Does: Moves, Joints: true, Least: least, Chain: true}
}

// HandleRole is the role of controls that building makes.
func HandleRole(name, title string, least, most int) Role {
	return Role{Name: name, Title: title, Does: Answers, Controls: true, Least: least, Most: most, Made: true}
}

// Asked lists the roles that building asks for.
func (d Declaration) Asked() []Role {
	return slices.DeleteFunc(slices.Clone(d.Roles), func(r Role) bool { return r.Made })
}

// Answers tells whether a mechanism of the kind has controls of its own.
func (d Declaration) Answers() bool {
	return slices.ContainsFunc(d.Roles, func(r Role) bool { return r.Does == Answers && (r.Least > 0 || r.As != "") })
}

// listOf is the list of a mechanism that a role's things stand in.
func listOf(m *rig.Mechanism, r Role) []string {
	switch r.Does {
	case Moves:
		return append(slices.Clone(m.Joints), m.Homes...)
	case Answers:
		return m.Controls
	case LooksAt:
		return m.Takes
	}
	return m.Parts
}

// RolesOf tells who stands in which role of a mechanism; it is an error that names the role when they are too few or too many.
func (d Declaration) RolesOf(m rig.Mechanism) (map[string][]string, error) {
	filled := map[string][]string{}
	for _, does := range []Does{Moves, LooksAt, DrawsFrom, Answers} {
		var roles []Role
		for _, r := range d.Roles {
			if r.Does == does {
				roles = append(roles, r)
			}
		}
		list := listOf(&m, Role{Does: does})
		if len(roles) == 0 {
			if len(list) > 0 {
				return nil, fmt.Errorf("a %s has no role for %d things that it %s; leave them out", d.Kind, len(list), does)
			}
			continue
		}
		counts, err := shareOut(roles, len(list), filled, m.Counts)
		if err != nil {
			return nil, err
		}
		for i, r := range roles {
			filled[r.Name], list = list[:counts[i]], list[counts[i]:]
		}
	}
	return filled, nil
}

// shareOut tells how many things of a list stand in each role, of which told says those that leave it open.
func shareOut(roles []Role, there int, filled map[string][]string, told map[string]int) ([]int, error) {
	counts, left := make([]int, len(roles)), there
	for i, r := range roles {
		if counts[i] = max(r.Least, told[r.Name]); r.As != "" {
			counts[i] = len(filled[r.As])
		}
		left -= counts[i]
	}
	for i, r := range roles {
		if r.As == "" && left > 0 {
			more := left
			if r.Most > 0 {
				more = min(left, r.Most-counts[i])
			}
			counts[i] += more
			left -= more
		}
	}
	if left == 0 {
		return counts, nil
	}
	what, least := roles[0].Name, 0
	for i, r := range roles {
		if i > 0 {
			what += " and " + r.Name
		}
		least += counts[i]
	}
	if left < 0 {
		return nil, fmt.Errorf("%s: %d or more are needed, and %d are there; add some, or build it anew", what, least, there)
	}
	return nil, fmt.Errorf("%s: there is room for %d, and %d are there; leave some out", what, there-left, there)
}

// Fill puts things into the roles that building asks for. It refuses, by the name of the role, what the kind does not know, what cannot stand there, and
// what stands in two.
func (d Declaration) Fill(document *rig.Document, m *rig.Mechanism, roles map[string][]string) error {
	stands := map[string]string{}
	for name := range roles {
		if !slices.ContainsFunc(d.Roles, func(r Role) bool { return r.Name == name && !r.Made }) {
			return fmt.Errorf("%q is no role that a %s asks for; it asks for %v", name, d.Title, namesOf(d.Asked()))
		}
	}
	for _, r := range d.Asked() {
		ids := roles[r.Name]
		if len(ids) < r.Least && !(r.Chain && len(ids) == 2) {
			return fmt.Errorf("%s: it needs %d or more, and %d are chosen; choose more", r.Title, r.Least, len(ids))
		}
		if r.Most > 0 && len(ids) > r.Most {
			return fmt.Errorf("%s: there is room for %d, and %d are chosen; leave some out", r.Title, r.Most, len(ids))
		}
		for _, id := range ids {
			if other, twice := stands[id]; twice {
				return fmt.Errorf("%s stands in the role %s already and cannot be %s as well; choose something else for one of them", document.NameOf(id), other, r.Title)
			}
			stands[id] = r.Title
			if err := r.put(document, m, id); err != nil {
				return err
			}
		}
	}
	d.Count(m, roles)
	return nil
}

// Count notes how many things stand in each of the roles of a list that leave it open, where there are several such.
func (d Declaration) Count(m *rig.Mechanism, roles map[string][]string) {
	for _, r := range d.Asked() {
		others := slices.ContainsFunc(d.Asked(), func(o Role) bool { return o.Name != r.Name && o.Does == r.Does && o.open() })
		if !r.open() || !others || len(roles[r.Name]) == 0 {
			continue
		}
		if m.Counts == nil {
			m.Counts = map[string]int{}
		}
		m.Counts[r.Name] = len(roles[r.Name])
	}
}

// open tells whether a role leaves open how many it takes.
func (r Role) open() bool { return r.As == "" && (r.Most == 0 || r.Most > r.Least) }

// put puts one thing where the role has it.
func (r Role) put(document *rig.Document, m *rig.Mechanism, id string) error {
	joint, control, part := document.Joint(id) != nil, document.Control(id) != nil, document.Part(id) != nil
	switch {
	case !joint && !control && !part:
		return fmt.Errorf("%s: there is nothing %q here; it may have been removed meanwhile", r.Title, id)
	case joint && !r.Joints || control && !r.Controls || part && !r.Parts:
		return fmt.Errorf("%s: %s cannot stand there; choose %s", r.Title, document.NameOf(id), r.takes())
	case r.Does == Moves && control:
		m.Homes = append(m.Homes, id)
	case r.Does == Moves:
		m.Joints = append(m.Joints, id)
	case r.Does == LooksAt:
		m.Takes = append(m.Takes, id)
	default:
		m.Parts = append(m.Parts, id)
	}
	return nil
}

func (r Role) takes() string {
	switch {
	case r.Joints && r.Controls:
		return "a joint or a control"
	case r.Joints:
		return "a joint"
	case r.Controls:
		return "a control"
	}
	return "a part"
}

func namesOf(roles []Role) (names []string) {
	for _, r := range roles {
		names = append(names, r.Name)
	}
	return names
}

// Role returns what stands in a role of the present mechanism: joints and controls by index.
func (b *Bench) Role(name string) []Resource {
	list := make([]Resource, 0, len(b.roles[name]))
	for _, id := range b.roles[name] {
		if r, _, ok := b.Space(id); ok {
			list = append(list, r)
		}
	}
	return list
}

// RestOf returns where a joint or control stands at rest.
func (b *Bench) RestOf(r Resource) geometry.Transform {
	if r.Kind == Control {
		return b.Document.Controls[r.Index].Home()
	}
	return b.Rest(r.Index)
}
