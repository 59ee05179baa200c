package rig

import (
	"fmt"
	"maps"
	"math"
	"slices"
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
		return fmt.Errorf("version: %d is not known; this program reads version %d", d.Version, Version)
	}
	if !geometry.Finite(d.FPS) || d.FPS < 1 || d.FPS > 1000 {
		return fmt.Errorf("fps: lies between 1 and 1000, not at %g", d.FPS)
	}
	checks := []func() error{
		d.CheckSizes, d.checkIDs, d.checkNames, d.checkParts, d.checkJoints, d.checkControls, d.checkMechanisms, d.checkBindings, d.checkClips, d.checkRepeats,
	}
	for _, check := range checks {
		if err := check(); err != nil {
			return err
		}
	}
	return nil
}

func (d *Document) checkIDs() error {
	seen := map[string]string{}
	add := func(list string, i int, id string) error {
		place := fmt.Sprintf("%s[%d].id", list, i)
		if id == "" {
			return fmt.Errorf("%s: is missing", place)
		}
		if len(id) > MaxID {
			return fmt.Errorf("%s: is longer than %d bytes; shorten it, or nest repeats less deeply", place, MaxID)
		}
		if other, ok := seen[id]; ok {
			return fmt.Errorf("%s: %q stands at %s already", place, id, other)
		}
		seen[id] = place
		return nil
	}
	for i, p := range d.Parts {
		if err := add("parts", i, p.ID); err != nil {
			return err
		}
	}
	for i, j := range d.Joints {
		if err := add("joints", i, j.ID); err != nil {
			return err
		}
	}
	for i, c := range d.Controls {
		if err := add("controls", i, c.ID); err != nil {
			return err
		}
	}
	for i, m := range d.Mechanisms {
		if err := add("mechanisms", i, m.ID); err != nil {
			return err
		}
	}
	for i, b := range d.Bindings {
		if err := add("bindings", i, b.ID); err != nil {
			return err
		}
	}
	for i, c := range d.Clips {
		if err := add("clips", i, c.ID); err != nil {
			return err
		}
	}
	for i, r := range d.Repeats {
		if err := add("repeats", i, r.ID); err != nil {
			return err
		}
	}
	return nil
}

func (d *Document) checkNames() (err error) {
	if err := CheckName(d.Name); err != nil {
		return fmt.Errorf("name: %w", err)
	}
	seen := map[string]string{}
	d.eachNamed(func(list string, i int, id, name string) bool {
		if err = CheckName(name); err != nil {
			err = fmt.Errorf("%s[%d].name: %w", list, i, err)
			return false
		}
		key := name
		if !plain(name) {
			key = TidyName(name)
		}
		if other, ok := seen[key]; ok {
			err = fmt.Errorf("%s[%d].name: %q is taken by %s; give one of them another name", list, i, name, d.placeOf(other))
			return false
		}
		seen[key] = id
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
	for i, j := range d.Joints {
		if _, ok := parents[j.Parent]; !ok && j.Parent != "" {
			return fmt.Errorf("joints[%d].parent: there is no joint %q", i, j.Parent)
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

// carriers is the set of IDs that things can hang on: joints and controls.
func (d *Document) carriers() (joints, controls map[string]bool) {
	joints, controls = make(map[string]bool, len(d.Joints)), make(map[string]bool, len(d.Controls))
	for _, j := range d.Joints {
		joints[j.ID] = true
	}
	for _, c := range d.Controls {
		controls[c.ID] = true
	}
	return joints, controls
}

func (d *Document) checkControls() error {
	joints, controls := d.carriers()
	for i, c := range d.Controls {
		place := fmt.Sprintf("controls[%d]", i)
		for _, space := range append([]string{c.Space}, c.Spaces...) {
			if space != "" && !controls[space] && !joints[space] {
				return fmt.Errorf("%s.space: there is no control or joint %q", place, space)
			}
		}
		if err := c.check(place); err != nil {
			return err
		}
	}
	return nil
}

func (d *Document) checkMechanisms() error {
	joints, controls := d.carriers()
	earlier := map[string]bool{}
	for i, m := range d.Mechanisms {
		place := fmt.Sprintf("mechanisms[%d]", i)
		for k, id := range m.Joints {
			if !joints[id] {
				return fmt.Errorf("%s.joints[%d]: there is no joint %q", place, k, id)
			}
		}
		for k, id := range m.Controls {
			if !controls[id] {
				return fmt.Errorf("%s.controls[%d]: there is no control %q", place, k, id)
			}
		}
		if m.Host != "" && d.Mechanism(m.Host) == nil {
			return fmt.Errorf("%s.host: there is no mechanism %q", place, m.Host)
		}
		if m.Host != "" && !earlier[m.Host] {
			return fmt.Errorf("%s.host: %s stands later in the list; put it before what works on it", place, d.NameOf(m.Host))
		}
		earlier[m.ID] = true
		if err := d.checkDialsOf(place, m); err != nil {
			return err
		}
	}
	return nil
}

// checkDialsOf checks what drives a mechanism's parameters, and the places of its controls.
func (d *Document) checkDialsOf(place string, m Mechanism) error {
	for _, key := range slices.Sorted(maps.Keys(m.Dials)) {
		ref := m.Dials[key]
		control := d.Control(ref.Control)
		if control == nil || control.Dial(ref.Dial) == nil {
			return fmt.Errorf("%s.dials.%s: there is no dial %q on %q", place, key, ref.Dial, d.NameOf(ref.Control))
		}
	}
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
	joints, _ := d.carriers()
	for i, b := range d.Bindings {
		place := fmt.Sprintf("bindings[%d]", i)
		if d.Part(b.Part) == nil {
			return fmt.Errorf("%s.part: there is no part %q", place, b.Part)
		}
		if bound[b.Part] {
			return fmt.Errorf("%s.part: %q is bound already", place, d.NameOf(b.Part))
		}
		bound[b.Part] = true
		if len(b.Joints) == 0 {
			return fmt.Errorf("%s.joints: is empty; a part is bound to one joint or more", place)
		}
		for k, id := range b.Joints {
			if !joints[id] {
				return fmt.Errorf("%s.joints[%d]: there is no joint %q", place, k, id)
			}
		}
	}
	return nil
}
