// Package repeat expands live repeats: it puts the copies that a document's repeats ask for beside their sources, with IDs and
// names of their own that are always the same.
package repeat

import (
	"fmt"
	"slices"
	"strings"

	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Origin tells where a copied thing comes from.
type Origin struct {
	Repeat  string `json:"repeat"`
	Copy    int    `json:"copy"`    // 1 is the first copy
	Of      string `json:"of"`      // what it copies, which may be a copy itself
	Differs bool   `json:"differs"` // it keeps something of its own

	motion motion
}

// Expansion is a document with all copies in it. The document still has its repeats; expanding it again would copy twice.
type Expansion struct {
	Source   *rig.Document // without them, as it is kept
	Document *rig.Document
	Origins  map[string]Origin // by the ID of the copy
}

// CopyID is the ID of a copy: the same whenever the document is expanded.
func CopyID(repeat string, copied int, of string) string {
	return fmt.Sprintf("%s.%d/%s", repeat, copied, of)
}

// SourceOf returns what a copy is a copy of, by its ID. ok is false for what is no copy.
func SourceOf(id string) (of string, ok bool) {
	_, of, ok = strings.Cut(id, "/")
	return of, ok
}

// Plain is the expansion of a document without repeats: itself.
func Plain(d *rig.Document) *Expansion {
	return &Expansion{Source: d, Document: d, Origins: map[string]Origin{}}
}

// Expand returns d with its copies. d is left as it is; without repeats it is returned itself. Errors name the repeat and what it
// lacks.
func Expand(d *rig.Document) (*Expansion, error) {
	if len(d.Repeats) == 0 {
		return Plain(d), nil
	}
	if err := d.CheckSizes(); err != nil {
		return nil, err
	}
	x := &Expansion{Source: d, Document: d.Clone(), Origins: map[string]Origin{}}
	for i := range x.Document.Drivers {
		x.Document.Drivers[i].Nth = nil
	}
	for _, r := range d.Repeats {
		if err := x.repeat(r); err != nil {
			return nil, fmt.Errorf("repeat %s: %w", r.Name, err)
		}
	}
	x.groups()
	return x, nil
}

// Base returns the first source of a thing: itself when it is no copy.
func (x *Expansion) Base(id string) string {
	for {
		origin, ok := x.Origins[id]
		if !ok {
			return id
		}
		id = origin.Of
	}
}

// subtree is what a repeat copies.
type subtree struct {
	rig.Standing
	joints []rig.Joint // parents before their children
	inside map[string]bool
	tops   map[string]bool
}

func (x *Expansion) subtree(r rig.Repeat) (*subtree, error) {
	d := x.Document
	s := &subtree{inside: map[string]bool{}, tops: map[string]bool{}}
	byID := make(map[string]int, len(d.Joints))
	children := map[string][]int{}
	for i, j := range d.Joints {
		byID[j.ID] = i
		children[j.Parent] = append(children[j.Parent], i)
	}
	for _, id := range r.Sources {
		at, ok := byID[id]
		if !ok {
			return nil, fmt.Errorf("there is no joint %q to repeat; it may be a copy of this very repeat or of a later one", id)
		}
		s.tops[id] = true
		s.inside[id] = true
		s.joints = append(s.joints, d.Joints[at])
	}
	for i := 0; i < len(s.joints); i++ {
		for _, child := range children[s.joints[i].ID] {
			if id := d.Joints[child].ID; !s.inside[id] {
				s.inside[id] = true
				s.joints = append(s.joints, d.Joints[child])
			} else if s.tops[id] {
				return nil, fmt.Errorf("%s is among the sources and below another of them, %s; choose one of the two", d.NameOf(id), s.joints[i].Name)
			}
		}
	}
	s.standing(d)
	return s, nil
}

// standing gathers the mechanisms that stand on the joints alone, their controls, what measures the joints or these, and what drives any of it.
func (s *subtree) standing(d *rig.Document) {
	inside := func(id string) bool { return s.inside[id] }
	for _, m := range d.Mechanisms {
		on := len(m.Joints) > 0 && !slices.ContainsFunc(m.Joints, func(id string) bool { return !inside(id) })
		carried := len(m.Homes) > 0 && !slices.ContainsFunc(m.Homes, func(id string) bool { return !inside(id) })
		if on || len(m.Joints) == 0 && (inside(m.Host) || carried) {
			s.inside[m.ID] = true
			s.Mechanisms = append(s.Mechanisms, m)
			for _, id := range m.Controls {
				s.inside[id] = true
			}
		}
	}
	s.dialBearers(d)
	for _, c := range d.Controls {
		if inside(c.ID) {
			s.Controls = append(s.Controls, c)
		}
	}
	for _, m := range d.Measures {
		if slices.ContainsFunc(m.Of, inside) {
			s.inside[m.ID] = true
			s.Measures = append(s.Measures, m)
		}
	}
	for again := true; again; { // a driver may drive another's influence, which may stand before it
		again = false
		for _, driver := range d.Drivers {
			if inside(driver.Drives.Of) && !inside(driver.ID) {
				s.inside[driver.ID] = true
				again = true
			}
		}
	}
	for _, driver := range d.Drivers {
		if inside(driver.ID) {
			s.Drivers = append(s.Drivers, driver)
		}
	}
}

// dialBearers adds the controls that are there for their dials alone, where these drive only what is repeated: each copy has its own.
func (s *subtree) dialBearers(d *rig.Document) {
	bearers := map[string]bool{}
	for _, driver := range d.Drivers {
		for _, by := range driver.By {
			if s.inside[driver.Drives.Of] && d.Control(by.Of) != nil {
				bearers[by.Of] = true
			}
		}
	}
	for _, c := range d.Controls { // what carries others, or the whole, is shared
		if c.Name == rig.RootName || c.Name == rig.GlobalName {
			bearers[c.ID] = false
		}
		bearers[c.Space] = false
	}
	for _, m := range d.Mechanisms {
		for _, id := range m.Controls {
			bearers[id] = false
		}
	}
	for _, driver := range d.Drivers {
		for _, by := range driver.By {
			if !s.inside[driver.Drives.Of] {
				bearers[by.Of] = false
			}
		}
	}
	for id, alone := range bearers {
		if alone {
			s.inside[id] = true
		}
	}
}

func (x *Expansion) repeat(r rig.Repeat) error {
	if err := r.Check("it"); err != nil {
		return err
	}
	s, err := x.subtree(r)
	if err != nil {
		return err
	}
	if err := x.checkCopies(r, s); err != nil {
		return err
	}
	differences := map[string]rig.Difference{}
	for _, difference := range r.Differences {
		differences[CopyID(r.ID, difference.Copy, difference.Of)] = difference
	}
	x.numberSources(r, s)
	for n := 1; n <= r.Copies(); n++ {
		c := &copying{x: x, r: r, n: n, s: s, differences: differences}
		if err := c.aim(); err != nil {
			return err
		}
		c.joints()
		c.controls()
		c.mechanisms()
		c.measures()
		c.drivers()
	}
	return nil
}

// copying is the making of one copy.
type copying struct {
	x           *Expansion
	r           rig.Repeat
	n           int
	s           *subtree
	motion      motion
	station     string            // what the tops hang on in a series
	stands      map[string]string // in a series: what the tops hang on, and the station in its place
	differences map[string]rig.Difference
	gone        map[string]string // joints that this copy does without, and what their children hang on
}

func (c *copying) aim() error {
	switch c.r.Rule {
	case rig.Mirror:
		c.motion = mirrorMotion(c.r)
	case rig.Ring:
		c.motion = ringMotion(c.r, c.n)
	case rig.Series:
		return c.aimAtStation()
	}
	return nil
}

func (c *copying) aimAtStation() error {
	d := c.x.Document
	id := c.r.Stations[c.n-1]
	station := d.Joint(id)
	if station == nil {
		return fmt.Errorf("there is no joint %q for copy %d to hang on; choose other stations", id, c.n)
	}
	if c.s.inside[id] {
		return fmt.Errorf("the station %s is part of what is repeated; choose stations outside of it", station.Name)
	}
	first := c.s.joints[0]
	carrier := d.Joint(first.Parent)
	if carrier == nil {
		return fmt.Errorf("%s hangs on no joint, so a series cannot tell how it is to stand at the others; hang it on the chain first", first.Name)
	}
	if carrier.ID == id {
		return fmt.Errorf("the source %s stands at %s itself; take that joint out of the stations", first.Name, station.Name)
	}
	c.station, c.stands = id, map[string]string{carrier.ID: id}
	c.motion = seriesMotion(c.r, station.Rest(), carrier.Rest(), c.s.joints)
	return nil
}

func (c *copying) id(of string) string { return CopyID(c.r.ID, c.n, of) }

// mapped is what a reference of the source refers to in the copy.
func (c *copying) mapped(id string) string {
	if c.s.inside[id] {
		return c.id(id)
	}
	if station, ok := c.stands[id]; ok {
		return station
	}
	return id
}

// follow has what is copied refer to what belongs to the copy.
func (c *copying) follow(r rig.Reference) string { return c.mapped(r.ID) }

// begin records where a copied thing comes from and returns what it keeps of its own.
func (c *copying) begin(of string) (id string, difference rig.Difference) {
	id = c.id(of)
	difference, differs := c.differences[id]
	c.x.Origins[id] = Origin{Repeat: c.r.ID, Copy: c.n, Of: of, Differs: differs, motion: c.motion}
	return id, difference
}

func (c *copying) joints() {
	c.gone = map[string]string{}
	for _, source := range c.s.joints {
		id, difference := c.begin(source.ID)
		j := source
		j.ID, j.Name = id, Named(c.r, source.Name, c.n)
		switch {
		case c.s.inside[source.Parent] && !c.s.tops[source.ID]:
			j.Parent = c.id(source.Parent)
		case c.station != "":
			j.Parent = c.station
		}
		if on, ok := c.gone[j.Parent]; ok {
			j.Parent = on
		}
		position := source.Position
		if difference.Offset != nil {
			position = position.Add(*difference.Offset)
		}
		j.Position = c.motion.place(position)
		j.Rotation = c.motion.quaternion(source.Rotation)
		if difference.Turn != nil {
			j.Rotation = rig.QuaternionOf(j.Rotation.Quat().Mul(difference.Turn.Quat()).Normalize())
		}
		name(difference, &j.Name, &j.Label)
		if difference.Parent != nil {
			j.Parent = *difference.Parent
		}
		if difference.Order != "" {
			j.Order = difference.Order
		}
		if difference.Removed {
			c.gone[id] = j.Parent
			continue
		}
		c.x.Document.Joints = append(c.x.Document.Joints, j)
	}
}

func name(difference rig.Difference, name, label *string) {
	if difference.Name != "" {
		*name = difference.Name
	}
	if difference.Label != nil {
		*label = *difference.Label
	}
}

func (c *copying) controls() {
	for _, source := range c.s.Controls {
		id, difference := c.begin(source.ID)
		control := source
		control.ID, control.Name = id, Named(c.r, source.Name, c.n)
		if source.Label != "" {
			control.Label = Named(c.r, source.Label, c.n)
		}
		control.Refer(c.follow)
		position := source.Position
		if difference.Offset != nil {
			position = position.Add(*difference.Offset)
		}
		control.Position = c.motion.place(position)
		control.Rotation = c.motion.quaternion(source.Rotation)
		if difference.Turn != nil {
			control.Rotation = rig.QuaternionOf(control.Rotation.Quat().Mul(difference.Turn.Quat()).Normalize())
		}
		control.Outline = c.motion.outline(source.Outline)
		control.Mirrored = source.Mirrored != c.motion.mirrored
		name(difference, &control.Name, &control.Label)
		if difference.Space != nil {
			control.Space = *difference.Space
		}
		if difference.Order != "" {
			control.Order = difference.Order
		}
		ownOfControl(&control, difference)
		if !difference.Removed {
			c.x.Document.Controls = append(c.x.Document.Controls, control)
		}
	}
}

func (c *copying) mechanisms() {
	for _, source := range c.s.Mechanisms {
		id, difference := c.begin(source.ID)
		m := source
		m.ID, m.Name = id, Named(c.r, source.Name, c.n)
		m.Refer(c.follow)
		m.Mirrored = source.Mirrored != c.motion.mirrored
		m.Parameters = own(source.Parameters, difference)
		name(difference, &m.Name, new(string))
		if difference.On != nil {
			m.On = *difference.On
		}
		if !difference.Removed {
			c.x.Document.Mechanisms = append(c.x.Document.Mechanisms, m)
		}
	}
}

// own is the parameters of a copy.
func own(source parameter.Set, difference rig.Difference) parameter.Set {
	set := source.Clone()
	for key, value := range difference.Parameters {
		set[key] = value
	}
	return set
}
