package edit

import (
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"myriapod/core/repeat"
	"myriapod/core/rig"
)

// grouper is an edit that may change the state of what is locked.
type grouper interface{ groups() }

// AddGroup puts things into a new group: those named, and all whose names fit one of the patterns.
type AddGroup struct {
	Name      string    `json:"name"`
	Members   []string  `json:"members,omitempty"`
	Like      []string  `json:"like,omitempty"` // patterns of names; * and ? are wildcards
	Of        []string  `json:"of,omitempty"`   // what the patterns are of: "control", "joint", "part", "mechanism", "measure"; empty for all
	Colour    string    `json:"colour,omitempty"`
	Sight     rig.Sight `json:"sight,omitempty"`
	Locked    bool      `json:"locked,omitempty"`
	Backstage bool      `json:"backstage,omitempty"`
}

func (*AddGroup) groups() {}

// Title implements Edit.
func (e *AddGroup) Title(*rig.Document) string { return "Group " + e.Name }

// Touches implements Edit.
func (e *AddGroup) Touches(*rig.Document) []string { return e.Members }

// Apply implements Edit.
func (e *AddGroup) Apply(c *Context, d *rig.Document) error {
	members, err := membersOf(d, e.Members, e.Like, e.Of)
	if err != nil {
		return err
	}
	group := rig.Group{
		ID: d.TakeID("g"), Name: freeName(c, d, e.Name), Members: members, Colour: e.Colour, Sight: e.Sight, Locked: e.Locked, Backstage: e.Backstage,
	}
	if group.Sight == "" {
		group.Sight = rig.Shown
	}
	d.Groups = append(d.Groups, group)
	return nil
}

// membersOf lists what is named, then what fits a pattern, each once.
func membersOf(d *rig.Document, ids, patterns, of []string) ([]string, error) {
	members := []string{}
	known := map[string]bool{}
	add := func(id string) {
		if !known[id] {
			known[id] = true
			members = append(members, id)
		}
	}
	can := map[string]bool{}
	eachMember(d, func(id, _, _ string) { can[id] = true })
	for _, id := range ids {
		if !can[id] {
			return nil, missing("control, joint, part, mechanism or measure", id)
		}
		add(id)
	}
	for _, pattern := range patterns {
		fits, err := rig.Like(pattern)
		if err != nil {
			return nil, err
		}
		found := false
		eachMember(d, func(id, name, what string) {
			if fits(name) && (len(of) == 0 || slices.Contains(of, what)) {
				add(id)
				found = true
			}
		})
		if !found {
			return nil, fmt.Errorf("no %s is called %q; * and ? are wildcards", anyOf(of), pattern)
		}
	}
	return members, nil
}

func anyOf(of []string) string {
	if len(of) == 0 {
		return "control, joint, part, mechanism or measure"
	}
	return strings.Join(of, " or ")
}

// eachMember calls visit with everything that may stand in a group.
func eachMember(d *rig.Document, visit func(id, name, what string)) {
	d.Each(func(list string, _ int, e rig.Entity) bool {
		id, name := e.Identity()
		switch list {
		case "controls", "joints", "parts", "mechanisms", "measures":
			visit(*id, *name, strings.TrimSuffix(list, "s"))
		}
		return true
	})
}

// ChangeGroup changes a group. What is left out stays. What is taken out goes with its copies, and copies with their source.
type ChangeGroup struct {
	Group     string     `json:"group"`
	Add       []string   `json:"add,omitempty"`
	Like      []string   `json:"like,omitempty"` // adds all whose names fit
	Of        []string   `json:"of,omitempty"`
	Remove    []string   `json:"remove,omitempty"`
	Colour    *string    `json:"colour,omitempty"`
	Sight     *rig.Sight `json:"sight,omitempty"`
	Locked    *bool      `json:"locked,omitempty"`
	Backstage *bool      `json:"backstage,omitempty"`
}

func (*ChangeGroup) groups() {}

// Title implements Edit.
func (e *ChangeGroup) Title(d *rig.Document) string {
	name := d.NameOf(e.Group)
	switch {
	case len(e.Add)+len(e.Like) > 0:
		return "Add to the group " + name
	case len(e.Remove) > 0:
		return "Take out of the group " + name
	case e.Locked != nil && *e.Locked:
		return "Lock the group " + name
	case e.Locked != nil:
		return "Unlock the group " + name
	case e.Sight != nil:
		return fmt.Sprintf("Show the group %s as %s", name, *e.Sight)
	}
	return "Change the group " + name
}

// Touches implements Edit.
func (e *ChangeGroup) Touches(*rig.Document) []string {
	return append(append([]string{e.Group}, e.Add...), e.Remove...)
}

// Apply implements Edit.
func (e *ChangeGroup) Apply(_ *Context, d *rig.Document) error {
	group := d.Group(e.Group)
	if group == nil {
		return missing("group", e.Group)
	}
	added, err := membersOf(d, e.Add, e.Like, e.Of)
	if err != nil {
		return err
	}
	for _, id := range added {
		if !slices.Contains(group.Members, id) {
			group.Members = append(group.Members, id)
		}
	}
	group.Members = slices.DeleteFunc(group.Members, func(id string) bool { return slices.Contains(e.Remove, id) })
	if e.Colour != nil {
		group.Colour = *e.Colour
	}
	if e.Sight != nil {
		group.Sight = *e.Sight
	}
	if e.Locked != nil {
		group.Locked = *e.Locked
	}
	if e.Backstage != nil {
		group.Backstage = *e.Backstage
	}
	return nil
}

// RemoveGroups takes groups away. What was in them stays.
type RemoveGroups struct {
	Groups []string `json:"groups"`
}

func (*RemoveGroups) groups() {}

// Title implements Edit.
func (e *RemoveGroups) Title(d *rig.Document) string {
	if len(e.Groups) == 1 {
		return "Ungroup " + d.NameOf(e.Groups[0])
	}
	return fmt.Sprintf("Ungroup %d groups", len(e.Groups))
}

// Touches implements Edit.
func (e *RemoveGroups) Touches(*rig.Document) []string { return e.Groups }

// Apply implements Edit.
func (e *RemoveGroups) Apply(_ *Context, d *rig.Document) error {
	if len(e.Groups) == 0 {
		return errors.New("no group is chosen; choose one or more")
	}
	for _, id := range e.Groups {
		if d.Group(id) == nil {
			return missing("group", id)
		}
	}
	d.Groups = slices.DeleteFunc(d.Groups, func(g rig.Group) bool { return slices.Contains(e.Groups, g.ID) })
	return nil
}

// settleGroups takes out of groups what an edit took out of the rig.
func settleGroups(before, after *rig.Document) {
	if len(after.Groups) == 0 {
		return
	}
	there := map[string]bool{}
	after.Each(func(_ string, _ int, e rig.Entity) bool {
		id, _ := e.Identity()
		there[*id] = true
		return true
	})
	was := map[string]bool{}
	before.Each(func(_ string, _ int, e rig.Entity) bool {
		id, _ := e.Identity()
		was[*id] = true
		return true
	})
	for i := range after.Groups {
		g := &after.Groups[i]
		g.Members = slices.DeleteFunc(g.Members, func(id string) bool { return was[id] && !there[id] })
	}
}

// Locked is the refusal of an edit that would change what a group locks.
type Locked struct{ Name, Group string }

func (l *Locked) Error() string {
	return fmt.Sprintf("%s is locked by the group %s; unlock that group first", l.Name, l.Group)
}

// checkLocks refuses an edit by which anything would change, keys included, that a group locks.
func checkLocks(seen, next *repeat.Expansion, e Edit) error {
	before, after := seen.Document, next.Document
	if plain, _ := plainly(e); reflect.TypeOf(plain).Implements(reflect.TypeFor[grouper]()) {
		return nil
	}
	locked := map[string]bool{}
	for id, state := range before.States() {
		if state.Locked {
			locked[id] = true
		}
	}
	if len(locked) == 0 {
		return nil
	}
	now := map[string]rig.Entity{}
	after.Each(func(_ string, _ int, e rig.Entity) bool {
		id, _ := e.Identity()
		now[*id] = e
		return true
	})
	var changed string
	before.Each(func(_ string, _ int, e rig.Entity) bool {
		id, _ := e.Identity()
		if locked[*id] && !reflect.DeepEqual(now[*id], e) {
			changed = *id
		}
		return changed == ""
	})
	if changed == "" {
		changed = keysChanged(before, after, locked)
	}
	if changed == "" {
		return nil
	}
	return &Locked{before.NameOf(changed), before.LockedBy(changed).Name}
}

// keysChanged returns the first locked control, joint or part whose keys an edit would change in a clip that stays; empty for none.
func keysChanged(before, after *rig.Document, locked map[string]bool) string {
	for i := range before.Clips {
		was, now := &before.Clips[i], after.Clip(before.Clips[i].ID)
		if now == nil {
			continue
		}
		for id := range locked {
			if !reflect.DeepEqual(keysOf(was, id), keysOf(now, id)) {
				return id
			}
		}
	}
	return ""
}

// keysOf is all that a clip moves of a thing.
func keysOf(clip *rig.Clip, id string) (tracks []any) {
	for _, t := range clip.Tracks {
		if t.Control == id {
			tracks = append(tracks, t)
		}
	}
	for _, t := range clip.JointTracks {
		if t.Joint == id {
			tracks = append(tracks, t)
		}
	}
	for _, t := range clip.MorphTracks {
		if t.Part == id {
			tracks = append(tracks, t)
		}
	}
	return tracks
}
