package edit

import (
	"errors"
	"fmt"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/repeat"
	"myriapod/core/rig"
)

// AddRepeat makes live copies of joints and of what stands on them. Without a direction a mirror has the plane across the creature and
// a ring the upright axis; without a point they go through what carries the first source. Without a pattern and a text to
// replace, the copies are named by counting on in their sources' names, or with the other side's name in a mirror.
type AddRepeat struct {
	Name      string     `json:"name"`
	Rule      rig.Rule   `json:"rule"`
	Sources   []string   `json:"sources"`
	Point     mgl64.Vec3 `json:"point,omitzero"`
	Direction mgl64.Vec3 `json:"direction,omitzero"`
	Count     int        `json:"count,omitempty"`
	Stations  []string   `json:"stations,omitempty"`
	Like      string     `json:"like,omitempty"` // of a series without stations: the joints whose names fit, but what is repeated and what it hangs on
	Replace   string     `json:"replace,omitempty"`
	Pattern   string     `json:"pattern,omitempty"`
	Through   bool       `json:"through,omitempty"` // the point is given; without it the carrier's place is taken
	Stand     rig.Stand  `json:"stand,omitempty"`   // of a series
	Ground    bool       `json:"ground,omitempty"`  // of a series
	Draws     bool       `json:"draws,omitempty"`   // the copies are drawn with the parts fixed to the sources' joints
}

func (*AddRepeat) builds() {}

// Title implements Edit.
func (e *AddRepeat) Title(d *rig.Document) string {
	what := "several"
	if len(e.Sources) == 1 {
		what = d.NameOf(e.Sources[0])
	}
	switch e.Rule {
	case rig.Mirror:
		return "Mirror " + what
	case rig.Ring:
		return fmt.Sprintf("Ring %s, %d in all", what, e.Count)
	}
	return fmt.Sprintf("Repeat %s at %d joints", what, len(e.Stations))
}

// Touches implements Edit.
func (e *AddRepeat) Touches(*rig.Document) []string {
	return append(slices.Clone(e.Sources), e.Stations...)
}

// Apply implements Edit.
func (e *AddRepeat) Apply(_ *Context, d *rig.Document) error {
	if len(e.Sources) == 0 {
		return errors.New("no joint is chosen; choose the top joints of what shall be repeated")
	}
	stations, err := e.stations(d)
	if err != nil {
		return err
	}
	for _, id := range slices.Concat(e.Sources, stations) {
		if d.Joint(id) == nil {
			return missing("joint", id)
		}
	}
	r := rig.Repeat{
		ID: d.TakeID("r"), Name: e.Name, Rule: e.Rule, Sources: slices.Clone(e.Sources), Point: e.Point, Direction: e.Direction,
		Count: e.Count, Stations: slices.Clone(stations), Replace: e.Replace, Pattern: e.Pattern, Differences: []rig.Difference{}, Stand: e.Stand, Ground: e.Ground, Draws: e.Draws,
	}
	if r.Stations == nil {
		r.Stations = []string{}
	}
	if r.Name == "" {
		r.Name = rig.UniqueName(fmt.Sprintf("%s_of_%s", r.Rule, d.NameOf(r.Sources[0])), d.HasName)
	}
	e.place(d, &r)
	if r.Replace == "" && r.Pattern == "" {
		nameCopies(d, &r)
	}
	d.Repeats = append(d.Repeats, r)
	return checkMeeting(d, r)
}

// nameCopies gives a repeat the first naming by which its copies are called as nothing else is: the next numbers, or the other side; the names with a
// counter; and so on.
func nameCopies(d *rig.Document, r *rig.Repeat) {
	word, counter := "mirrored", ""
	if r.Rule != rig.Mirror {
		r.Replace, r.Pattern = repeat.DefaultNaming(namesBelow(d, r.Sources))
		word, counter = "copy", "_##"
	}
	for n := 0; n < 100; n++ {
		expansion, err := alone(d, *r)
		if err == nil || expansion == nil { // free, or wrong otherwise than by its names
			return
		}
		r.Replace = ""
		switch {
		case n == 0 && counter != "":
			r.Pattern = "*" + counter
		case n <= 1:
			r.Pattern = "*_" + word + counter
		default:
			r.Pattern = fmt.Sprintf("*_%s%d%s", word, n, counter)
		}
	}
}

// stations lists the joints that the copies of a series are to hang on.
func (e *AddRepeat) stations(d *rig.Document) ([]string, error) {
	if e.Rule != rig.Series || e.Like == "" || len(e.Stations) > 0 {
		return e.Stations, nil
	}
	like, err := jointsLike(d, e.Like)
	if err != nil {
		return nil, err
	}
	taken := map[string]bool{}
	for _, source := range e.Sources {
		for _, id := range below(d, source) {
			taken[id] = true
		}
		if j := d.Joint(source); j != nil {
			taken[j.Parent] = true
		}
	}
	like = slices.DeleteFunc(like, func(id string) bool { return taken[id] })
	if len(like) == 0 {
		return nil, fmt.Errorf("no other joint is called %q; * and ? are wildcards", e.Like)
	}
	return like, nil
}

// alone expands one repeat in a document that has the other repeats' copies in it already.
func alone(d *rig.Document, r rig.Repeat) (*repeat.Expansion, error) {
	with := d.Clone()
	with.Repeats = []rig.Repeat{r}
	expansion, err := repeat.Expand(with)
	if err != nil {
		return nil, err
	}
	return expansion, expansion.CheckNames()
}

func (e *AddRepeat) place(d *rig.Document, r *rig.Repeat) {
	if r.Direction.Len() == 0 {
		r.Direction = mgl64.Vec3{1, 0, 0}
		if r.Rule == rig.Ring {
			r.Direction = mgl64.Vec3{0, 1, 0}
		}
	}
	if e.Through || r.Point != (mgl64.Vec3{}) {
		return
	}
	if carrier := d.Joint(d.Joint(r.Sources[0]).Parent); carrier != nil {
		r.Point = carrier.Position
	}
}

func namesBelow(d *rig.Document, tops []string) []string {
	var names []string
	for _, top := range tops {
		for _, id := range below(d, top) {
			names = append(names, d.NameOf(id))
		}
	}
	return names
}

// checkMeeting refuses a repeat whose copies stand where their sources stand.
func checkMeeting(d *rig.Document, r rig.Repeat) error {
	expansion, err := alone(d, r)
	if expansion == nil {
		return err
	}
	copied, source, meets := expansion.Meeting(r.ID)
	if !meets {
		return err
	}
	where := "on the axis"
	if r.Rule == rig.Mirror {
		where = "on the mirror's plane"
	}
	return fmt.Errorf("%s stands %s, so its copy %s would stand in the same place; repeat what stands beside it, or move the plane or axis", source.Name, where, copied.Name)
}

// ChangeRepeat changes how a repeat makes its copies. What is left out stays.
type ChangeRepeat struct {
	Repeat    string      `json:"repeat"`
	Point     *mgl64.Vec3 `json:"point,omitempty"`
	Direction *mgl64.Vec3 `json:"direction,omitempty"`
	Count     int         `json:"count,omitempty"`
	Stations  []string    `json:"stations,omitempty"`
	Replace   *string     `json:"replace,omitempty"`
	Pattern   *string     `json:"pattern,omitempty"`
	Stand     *rig.Stand  `json:"stand,omitempty"`
	Ground    *bool       `json:"ground,omitempty"`
	Draws     *bool       `json:"draws,omitempty"`
}

// Title implements Edit.
func (e *ChangeRepeat) Title(d *rig.Document) string {
	return "Change the repeat " + d.NameOf(e.Repeat)
}

// Touches implements Edit.
func (e *ChangeRepeat) Touches(*rig.Document) []string {
	return append([]string{e.Repeat}, e.Stations...)
}

// Apply implements Edit.
func (e *ChangeRepeat) Apply(_ *Context, d *rig.Document) error {
	r := d.Repeat(e.Repeat)
	if r == nil {
		return missing("repeat", e.Repeat)
	}
	before := r.Copies()
	if e.Point != nil {
		r.Point = *e.Point
	}
	if e.Direction != nil {
		r.Direction = *e.Direction
	}
	if e.Count != 0 {
		r.Count = e.Count
	}
	if e.Stations != nil {
		r.Stations = slices.Clone(e.Stations)
	}
	if e.Replace != nil {
		r.Replace = *e.Replace
	}
	if e.Pattern != nil {
		r.Pattern = *e.Pattern
	}
	if e.Stand != nil {
		r.Stand = *e.Stand
	}
	if e.Ground != nil {
		r.Ground = *e.Ground
	}
	if e.Draws != nil {
		r.Draws = *e.Draws
	}
	for n := r.Copies() + 1; n <= before; n++ {
		if err := freeOfUse(d, *r, n); err != nil {
			return err
		}
	}
	r.Differences = slices.DeleteFunc(r.Differences, func(x rig.Difference) bool { return x.Copy > r.Copies() })
	return nil
}

// ofCopy lists the IDs of one copy of a repeat in a document with the copies in it.
func ofCopy(d *rig.Document, r rig.Repeat, n int) map[string]bool {
	prefix := repeat.CopyID(r.ID, n, "")
	ids := map[string]bool{}
	d.EachNamed(func(id, _ string) bool {
		if len(id) > len(prefix) && id[:len(prefix)] == prefix {
			ids[id] = true
		}
		return true
	})
	return ids
}

// freeOfUse refuses the going of a copy that something else uses, and takes its keys away.
func freeOfUse(d *rig.Document, r rig.Repeat, n int) error {
	ids := ofCopy(d, r, n)
	own := func(id string) bool { return ids[id] }
	for _, b := range d.Bindings {
		if slices.ContainsFunc(b.Joints, own) {
			return fmt.Errorf("copy %d of %s carries the skin of %s; unbind that part first", n, r.Name, d.NameOf(b.Part))
		}
	}
	for _, other := range d.Repeats {
		if other.ID != r.ID && slices.ContainsFunc(slices.Concat(other.Sources, other.Stations), own) {
			return fmt.Errorf("copy %d of %s is used by the repeat %s; remove that one first", n, r.Name, other.Name)
		}
	}
	for _, j := range d.Joints {
		if own(j.Parent) && !own(j.ID) && !isCopy(d, j.ID) {
			return fmt.Errorf("%s hangs on copy %d of %s; hang it elsewhere first", j.Name, n, r.Name)
		}
	}
	for _, c := range d.Controls {
		if own(c.Space) && !own(c.ID) {
			return fmt.Errorf("the control %s hangs on copy %d of %s; remove it first", c.Name, n, r.Name)
		}
	}
	for _, m := range d.Mechanisms {
		if !own(m.ID) && (own(m.Host) || slices.ContainsFunc(m.Joints, own)) {
			return fmt.Errorf("%s stands on copy %d of %s; remove that mechanism first", m.Name, n, r.Name)
		}
	}
	for i := range d.Clips {
		d.Clips[i].Tracks = slices.DeleteFunc(d.Clips[i].Tracks, func(t rig.Track) bool { return own(t.Control) })
	}
	return nil
}

// isCopy tells whether an ID is that of a copy of a repeat that is there.
func isCopy(d *rig.Document, id string) bool {
	return slices.ContainsFunc(d.Repeats, func(r rig.Repeat) bool {
		return len(id) > len(r.ID) && id[:len(r.ID)] == r.ID && id[len(r.ID)] == '.'
	})
}

// RemoveRepeat takes the copies away. The sources stay.
type RemoveRepeat struct {
	Repeat string `json:"repeat"`
}

// Title implements Edit.
func (e *RemoveRepeat) Title(d *rig.Document) string {
	return "Remove the repeat " + d.NameOf(e.Repeat)
}

// Touches implements Edit.
func (e *RemoveRepeat) Touches(*rig.Document) []string { return []string{e.Repeat} }

// Apply implements Edit.
func (e *RemoveRepeat) Apply(_ *Context, d *rig.Document) error {
	r := d.Repeat(e.Repeat)
	if r == nil {
		return missing("repeat", e.Repeat)
	}
	for n := 1; n <= r.Copies(); n++ {
		if err := freeOfUse(d, *r, n); err != nil {
			return err
		}
		ids := ofCopy(d, *r, n)
		d.Joints = slices.DeleteFunc(d.Joints, func(j rig.Joint) bool { return ids[j.ID] })
		d.Controls = slices.DeleteFunc(d.Controls, func(c rig.Control) bool { return ids[c.ID] })
		d.Mechanisms = slices.DeleteFunc(d.Mechanisms, func(m rig.Mechanism) bool { return ids[m.ID] })
	}
	d.Repeats = slices.DeleteFunc(d.Repeats, func(r rig.Repeat) bool { return r.ID == e.Repeat })
	return nil
}

// DetachRepeat makes the copies plain: they stay as they are and follow their sources no more.
type DetachRepeat struct {
	Repeat string `json:"repeat"`
}

func (*DetachRepeat) builds() {}

// Title implements Edit.
func (e *DetachRepeat) Title(d *rig.Document) string {
	return "Detach the copies of " + d.NameOf(e.Repeat)
}

// Touches implements Edit.
func (e *DetachRepeat) Touches(*rig.Document) []string { return []string{e.Repeat} }

// Apply implements Edit.
func (e *DetachRepeat) Apply(_ *Context, d *rig.Document) error {
	if d.Repeat(e.Repeat) == nil {
		return missing("repeat", e.Repeat)
	}
	d.Repeats = slices.DeleteFunc(d.Repeats, func(r rig.Repeat) bool { return r.ID == e.Repeat })
	return nil
}

// DropDifference has a copied thing follow its source again in all that it kept of its own.
type DropDifference struct {
	Repeat string `json:"repeat"`
	Copy   int    `json:"copy"`
	Of     string `json:"of"`
}

// Title implements Edit.
func (e *DropDifference) Title(d *rig.Document) string {
	return fmt.Sprintf("Let copy %d of %s follow again", e.Copy, d.NameOf(e.Of))
}

// Touches implements Edit.
func (e *DropDifference) Touches(*rig.Document) []string {
	return []string{e.Repeat, e.Of, repeat.CopyID(e.Repeat, e.Copy, e.Of)}
}

// Apply implements Edit.
func (e *DropDifference) Apply(_ *Context, d *rig.Document) error {
	r := d.Repeat(e.Repeat)
	if r == nil {
		return missing("repeat", e.Repeat)
	}
	count := len(r.Differences)
	r.Differences = slices.DeleteFunc(r.Differences, func(x rig.Difference) bool { return x.Copy == e.Copy && x.Of == e.Of })
	if len(r.Differences) == count {
		return fmt.Errorf("copy %d of %s keeps nothing of its own", e.Copy, d.NameOf(e.Of))
	}
	return nil
}
