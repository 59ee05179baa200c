package rig

import (
	"fmt"
	"path"
	"slices"
	"strings"
)

// Group is things that are named, coloured, shown and locked together. A thing may stand in several; the strictest state of all of them holds. Copies that
// repeats make stand in the groups of their sources.
type Group struct {
	ID      string   `json:"id"`
	Name    string   `json:"name"`
	Members []string `json:"members"` // controls, joints, parts, mechanisms and measures
	// Colour is that of the members' controls and joints that have none of their own; empty for none.
	Colour    string `json:"colour,omitempty"`
	Sight     Sight  `json:"sight"`
	Locked    bool   `json:"locked,omitempty"`    // nobody changes or poses what is in it
	Backstage bool   `json:"backstage,omitempty"` // for riggers: animators do not see it
}

// Identity implements Entity.
func (g *Group) Identity() (id, name *string) { return &g.ID, &g.Name }

// Refer implements Entity.
func (g *Group) Refer(visit func(Reference) string) {
	referAll(&g.Members, Reference{Field: "members", To: ToMember}, visit)
}

func (g *Group) detach() { g.Members = slices.Clone(g.Members) }

// Group returns the group with the ID, or nil.
func (d *Document) Group(id string) *Group {
	return find(d.Groups, func(g *Group) bool { return g.ID == id })
}

// State is how a thing may be seen and touched, by all the groups that it stands in and by itself.
type State struct {
	Sight     Sight    `json:"sight"`
	Locked    bool     `json:"locked,omitempty"`
	Backstage bool     `json:"backstage,omitempty"`
	Colour    string   `json:"colour,omitempty"` // of the first of its groups that has one
	Groups    []string `json:"groups,omitempty"` // IDs
}

// strictness orders sights from what shows most to what shows least.
var strictness = map[Sight]int{Shown: 0, Ghost: 1, Hidden: 2}

// Stricter returns the one of two sights that shows less.
func Stricter(a, b Sight) Sight {
	if strictness[a] >= strictness[b] {
		return a
	}
	return b
}

// States returns the state of everything that stands in a group, by ID. What is left out is shown and free.
func (d *Document) States() map[string]State {
	states := map[string]State{}
	for _, g := range d.Groups {
		for _, id := range g.Members {
			s, known := states[id]
			if !known {
				s.Sight = Shown
			}
			s.Sight = Stricter(s.Sight, g.Sight)
			s.Locked, s.Backstage = s.Locked || g.Locked, s.Backstage || g.Backstage
			if s.Colour == "" {
				s.Colour = g.Colour
			}
			s.Groups = append(s.Groups, g.ID)
			states[id] = s
		}
	}
	return states
}

// LockedBy returns the first group that locks a thing, or nil.
func (d *Document) LockedBy(id string) *Group {
	return find(d.Groups, func(g *Group) bool { return g.Locked && slices.Contains(g.Members, id) })
}

func (d *Document) checkGroups() error {
	for i, g := range d.Groups {
		place := fmt.Sprintf("groups[%d]", i)
		switch g.Sight {
		case Shown, Ghost, Hidden:
		default:
			return fmt.Errorf("%s.sight: is one of shown, ghost, hidden, not %q", place, g.Sight)
		}
		if g.Colour != "" {
			if err := checkColour(place, g.Colour); err != nil {
				return err
			}
		}
		seen := make(map[string]bool, len(g.Members))
		for k, id := range g.Members {
			if seen[id] {
				return fmt.Errorf("%s.members[%d]: %q stands in it twice; leave one out", place, k, id)
			}
			seen[id] = true
		}
	}
	return nil
}

// Like returns what tells whether a name fits a pattern, whatever the case of its letters: * and ? are wildcards, and without them any part of the name fits.
func Like(pattern string) (func(name string) bool, error) {
	wanted := strings.ToLower(strings.TrimSpace(pattern))
	if !strings.ContainsAny(wanted, "*?") {
		return func(name string) bool { return strings.Contains(strings.ToLower(name), wanted) }, nil
	}
	wanted = strings.NewReplacer("[", `\[`, `\`, `\\`).Replace(wanted)
	if _, err := path.Match(wanted, ""); err != nil {
		return nil, fmt.Errorf("the pattern %q cannot be read; write * and ? for wildcards", pattern)
	}
	return func(name string) bool {
		fits, _ := path.Match(wanted, strings.ToLower(name)) // the pattern was tried above
		return fits
	}, nil
}
