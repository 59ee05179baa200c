package rig

import (
	"errors"
	"fmt"
	"math"
	"unicode/utf8"

	"myriapod/core/geometry"
)

// Validate tells the first thing wrong with a document by itself, with its place in the file: unknown version, missing or
// repeated IDs and names, references to nothing, loops of parents, numbers that are not finite. What the mechanisms make
// of it is checked when it is planned.
func (d *Document) Validate() error {
	if d.Format != Format {
		return fmt.Errorf("format: this is %q, not %q", d.Format, Format)
	}
	if d.Version != Version {
		return fmt.Errorf("version: %d is not known; this program reads versions 1 to %d", d.Version, Version)
	}
	if !geometry.Finite(d.FPS) || d.FPS < 1 || d.FPS > 1000 {
		return fmt.Errorf("fps: lies between 1 and 1000, not at %g", d.FPS)
	}
	checks := []func() error{
		d.CheckSizes, d.checkIDs, d.checkNames, d.checkReferences, d.checkParts, d.checkJoints, d.checkControls, d.checkMechanisms, d.checkBindings, d.checkClips, d.checkRepeats, d.checkDrivers, d.checkGroups,
	}
	for _, check := range checks {
		if err := check(); err != nil {
			return err
		}
	}
	return nil
}

func (d *Document) checkIDs() (err error) {
	seen := map[string]bool{}
	d.Each(func(list string, i int, e Entity) bool {
		id, _ := e.Identity()
		switch {
		case *id == "":
			err = fmt.Errorf("%s[%d].id: is missing", list, i)
		case len(*id) > MaxID:
			err = fmt.Errorf("%s[%d].id: is longer than %d bytes; shorten it, or nest repeats less deeply", list, i, MaxID)
		case seen[*id]:
			err = fmt.Errorf("%s[%d].id: %q stands at %s.id already", list, i, *id, d.placeOf(*id))
		}
		seen[*id] = true
		return err == nil
	})
	return err
}

// checkReferences tells of the first reference that leads nowhere, or to something of another sort.
func (d *Document) checkReferences() (err error) {
	targets := d.targets()
	d.Each(func(list string, i int, e Entity) bool {
		e.Refer(func(r Reference) string {
			if err == nil && !r.Copied && targets[r.ID]&r.To == 0 {
				err = fmt.Errorf("%s[%d].%s: there is no %s %q", list, i, r.Place(), r.To, r.ID)
			}
			return r.ID
		})
		return err == nil
	})
	return err
}

func (d *Document) checkNames() (err error) {
	if err := CheckName(d.Name); err != nil {
		return fmt.Errorf("name: %w", err)
	}
	seen := map[string]string{}
	d.Each(func(list string, i int, e Entity) bool {
		id, name := e.Identity()
		if name == nil {
			return true
		}
		if err = CheckName(*name); err != nil {
			err = fmt.Errorf("%s[%d].name: %w", list, i, err)
			return false
		}
		key := *name
		if !plain(key) {
			key = TidyName(key)
		}
		if other, ok := seen[key]; ok {
			err = fmt.Errorf("%s[%d].name: %q is taken by %s; give one of them another name", list, i, *name, d.placeOf(other))
			return false
		}
		seen[key] = *id
		return true
	})
	return err
}

// CheckName tells what is wrong with a name: empty, too long, or with characters that no line of text shows or that turn its direction.
func CheckName(name string) error {
	if name == "" {
		return fmt.Errorf("a name is missing; give it one")
	}
	if utf8.RuneCountInString(name) > MaxName {
		return fmt.Errorf("the name is longer than %d characters; shorten it", MaxName)
	}
	for _, r := range name {
		if r == utf8.RuneError || unseen(r) {
			return fmt.Errorf("the name %+q has a character that cannot be shown; leave it out", name)
		}
	}
	if TidyName(name) == "" {
		return fmt.Errorf("the name is of spaces alone; give it letters")
	}
	return nil
}

func (d *Document) checkParts() error {
	for i, p := range d.Parts {
		switch p.Sight {
		case Shown, Ghost, Hidden:
		default:
			return fmt.Errorf("parts[%d].sight: is one of shown, ghost, hidden, not %q", i, p.Sight)
		}
		if err := checkColour(fmt.Sprintf("parts[%d]", i), p.Colour); err != nil {
			return err
		}
		for k, morph := range p.Morphs {
			if p.Morph(morph.Name) != k {
				return fmt.Errorf("parts[%d].morphs[%d].name: %q stands twice; give one of them another name", i, k, morph.Name)
			}
			if err := checkPlace(fmt.Sprintf("parts[%d].morphs[%d].value", i, k), morph.Value); err != nil {
				return err
			}
		}
	}
	return nil
}

func checkColour(place, colour string) error {
	var r, g, b uint8
	if n, _ := fmt.Sscanf(colour, "#%02x%02x%02x", &r, &g, &b); n != 3 || len(colour) != 7 {
		return fmt.Errorf("%s.colour: is written #rrggbb, not %q", place, colour)
	}
	return nil
}

func checkPlace(place string, numbers ...float64) error {
	for _, n := range numbers {
		if !geometry.Finite(n) || math.Abs(n) > MaxCoordinate {
			return fmt.Errorf("%s: numbers are finite and within %g m, not %g", place, MaxCoordinate, n)
		}
	}
	return nil
}

func checkRotation(place string, q Quaternion) error {
	if !geometry.Finite(q[:]...) {
		return fmt.Errorf("%s: numbers are finite", place)
	}
	if length := math.Sqrt(q[0]*q[0] + q[1]*q[1] + q[2]*q[2] + q[3]*q[3]); math.Abs(length-1) > 1e-6 {
		return fmt.Errorf("%s: a rotation x, y, z, w has the length 1, not %g", place, length)
	}
	return nil
}

func (d *Document) checkJoints() error {
	parents := make(map[string]string, len(d.Joints))
	for i, j := range d.Joints {
		if err := checkPlace(fmt.Sprintf("joints[%d].position", i), j.Position[:]...); err != nil {
			return err
		}
		if err := checkRotation(fmt.Sprintf("joints[%d].rotation", i), j.Rotation); err != nil {
			return err
		}
		parents[j.ID] = j.Parent
		if j.Order != "" && !j.Order.Valid() {
			return fmt.Errorf("joints[%d].order: is one of %v, not %q", i, geometry.Orders, j.Order)
		}
	}
	return d.checkParentLoops(parents)
}

// checkParentLoops walks up from every joint once; a joint met twice on one walk closes a loop.
func (d *Document) checkParentLoops(parents map[string]string) error {
	walked := make(map[string]int, len(parents))
	for i, j := range d.Joints {
		for id := j.ID; id != "" && walked[id] == 0; id = parents[id] {
			walked[id] = i + 1
			if up := parents[id]; up != "" && walked[up] == i+1 {
				return fmt.Errorf("joints: %q is among its own parents; take one of them off", d.NameOf(up))
			}
		}
	}
	return nil
}

func (d *Document) checkControls() error {
	for i, c := range d.Controls {
		if err := c.check(fmt.Sprintf("controls[%d]", i)); err != nil {
			return err
		}
	}
	return nil
}

func (d *Document) checkMechanisms() error {
	earlier := map[string]bool{}
	for i, m := range d.Mechanisms {
		place := fmt.Sprintf("mechanisms[%d]", i)
		if m.Host != "" && !earlier[m.Host] {
			return fmt.Errorf("%s.host: %s stands later in the list; put it before what works on it", place, d.NameOf(m.Host))
		}
		earlier[m.ID] = true
		for role, count := range m.Counts {
			if count < 0 || count > MaxJoints {
				return fmt.Errorf("%s.counts.%s: so many things, %d, cannot stand in it", place, role, count)
			}
		}
		if err := errors.Join(m.checkPlaces(place), m.checkSizes(place)); err != nil {
			return err
		}
	}
	return nil
}

// checkSizes checks the lengths that were measured of a mechanism's joints.
func (m Mechanism) checkSizes(place string) error {
	if len(m.Sizes) > 0 && len(m.Sizes) != len(m.Joints) {
		return fmt.Errorf("%s.sizes: %d joints have %d sizes; give one for each, or none", place, len(m.Joints), len(m.Sizes))
	}
	for i, size := range m.Sizes {
		if !(size >= 0 && size <= MaxCoordinate) {
			return fmt.Errorf("%s.sizes[%d]: a size is a length of 0 to %g m, not %g", place, i, MaxCoordinate, size)
		}
	}
	return nil
}

// checkPlaces checks where along the chain the controls of a mechanism stand.
func (m Mechanism) checkPlaces(place string) error {
	if len(m.Places) == 0 {
		return nil
	}
	if len(m.Places) != len(m.Controls) {
		return fmt.Errorf("%s.places: %d controls have %d places; give one for each", place, len(m.Controls), len(m.Places))
	}
	for i, at := range m.Places {
		if !(at >= 0 && at <= 1) || i > 0 && at <= m.Places[i-1] {
			return fmt.Errorf("%s.places[%d]: places rise from 0 to 1 without repeating, and %g does not", place, i, at)
		}
	}
	return nil
}

func (d *Document) checkBindings() error {
	bound := map[string]bool{}
	for i, b := range d.Bindings {
		place := fmt.Sprintf("bindings[%d]", i)
		if bound[b.Part] {
			return fmt.Errorf("%s.part: %q is bound already", place, d.NameOf(b.Part))
		}
		bound[b.Part] = true
		if len(b.Joints) == 0 {
			return fmt.Errorf("%s.joints: is empty; a part is bound to one joint or more", place)
		}
		if !(b.Dual >= 0 && b.Dual <= 1) {
			return fmt.Errorf("%s.dual: %g is not within 0 to 1", place, b.Dual)
		}
	}
	return nil
}
