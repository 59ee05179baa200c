// Package parameter describes the settings of a mechanism so that one declaration serves all: the document stores its
// values, edits are checked against it, and the interface draws its card from it.
package parameter

import (
	"fmt"
	"math"
	"slices"
	"strings"
)

// Type is what kind of value a parameter takes.
type Type string

// The types of parameters.
const (
	Number  Type = "number"  // a number within Min and Max
	Toggle  Type = "toggle"  // on or off
	Choice  Type = "choice"  // one of Choices
	Profile Type = "profile" // a curve over the length of a chain
	Points  Type = "points"  // a curve through any rising numbers; a value of it is written like a profile
	Text    Type = "text"    // words of a language of the kind's own; a value of it is written like a choice
)

// Declaration is one parameter: its name in files and commands (Key), what a person reads (Title, Help, Unit), what it may be
// and what it is when nobody said.
type Declaration struct {
	Key     string   `json:"key"`
	Title   string   `json:"title"`
	Help    string   `json:"help"`
	Type    Type     `json:"type"`
	Unit    string   `json:"unit,omitempty"` // "m", "°", "×", "/s", "/m" or none
	Min     float64  `json:"min"`
	Max     float64  `json:"max"`
	Whole   bool     `json:"whole,omitempty"` // whole numbers only
	Dial    bool     `json:"dial,omitempty"`  // a dial of a control can give the number
	Choices []string `json:"choices,omitempty"`
	Default Value    `json:"default"`
}

// Check tells what is wrong with v as a value of d.
func (d Declaration) Check(v Value) error {
	if v.Type != d.Type && v.Type != writtenAs[d.Type] {
		return fmt.Errorf("%s takes a %s", d.Key, d.Type)
	}
	switch d.Type {
	case Number:
		return d.checkNumber(v.Number)
	case Choice:
		if !slices.Contains(d.Choices, v.Choice) {
			return fmt.Errorf("%s is one of %s, not %q", d.Key, strings.Join(d.Choices, ", "), v.Choice)
		}
	case Text:
		if len(v.Choice) > MaxText {
			return fmt.Errorf("%s has at most %d characters", d.Key, MaxText)
		}
	case Profile:
		return d.checkProfile(v.Profile)
	case Points:
		return d.checkPoints(v.Profile)
	}
	return nil
}

// writtenAs tells of types whose values are written like those of another.
var writtenAs = map[Type]Type{Text: Choice, Points: Profile}

// MaxPoints bounds the points of one curve, and mostPoint their numbers.
const (
	MaxPoints = 200
	mostPoint = 1e9
)

func (d Declaration) checkPoints(points []Point) error {
	if len(points) < 1 || len(points) > MaxPoints {
		return fmt.Errorf("%s has 1 to %d points, not %d", d.Key, MaxPoints, len(points))
	}
	for i, p := range points {
		if !(math.Abs(p[0]) <= mostPoint && math.Abs(p[1]) <= mostPoint) {
			return fmt.Errorf("%s: point %d is [%g, %g]; numbers lie within %g either way", d.Key, i, p[0], p[1], float64(mostPoint))
		}
		if i > 0 && p[0] <= points[i-1][0] {
			return fmt.Errorf("%s: point %d stands at %g and the one before it at %g; points rise, and no two stand at one place", d.Key, i, p[0], points[i-1][0])
		}
	}
	return nil
}

// MaxText bounds a text, in bytes.
const MaxText = 8000

func (d Declaration) checkNumber(n float64) error {
	if math.IsNaN(n) || n < d.Min || n > d.Max {
		return fmt.Errorf("%s lies between %g and %g, not at %g", d.Key, d.Min, d.Max, n)
	}
	if d.Whole && n != math.Trunc(n) {
		return fmt.Errorf("%s is a whole number, not %g", d.Key, n)
	}
	return nil
}

// MaxProfilePoints bounds the corners of one profile.
const MaxProfilePoints = 32

func (d Declaration) checkProfile(points []Point) error {
	if len(points) < 1 || len(points) > MaxProfilePoints {
		return fmt.Errorf("%s has 1 to %d points, not %d", d.Key, MaxProfilePoints, len(points))
	}
	before := math.Inf(-1)
	for i, p := range points {
		if !(p[0] >= 0 && p[0] <= 1) || p[0] <= before {
			return fmt.Errorf("%s: point %d stands at %g; points rise from 0 to 1 without repeating", d.Key, i, p[0])
		}
		if err := d.checkNumber(p[1]); err != nil {
			return err
		}
		before = p[0]
	}
	return nil
}

// Set is the values of one mechanism by key. A key left out has its default.
type Set map[string]Value

// Clone returns a copy; a nil set gives an empty one. Profiles are shared, as they are replaced whole.
func (s Set) Clone() Set {
	clone := make(Set, len(s)+1)
	for key, value := range s {
		clone[key] = value
	}
	return clone
}

// Declared is the list of a kind's parameters.
type Declared []Declaration

// Find returns the declaration of key.
func (list Declared) Find(key string) (Declaration, bool) {
	for _, d := range list {
		if d.Key == key {
			return d, true
		}
	}
	return Declaration{}, false
}

// Check tells what is wrong with a set of values: an unknown key, or a value that its declaration refuses.
func (list Declared) Check(values Set) error {
	keys := make([]string, 0, len(values))
	for key := range values {
		keys = append(keys, key)
	}
	slices.Sort(keys)
	for _, key := range keys {
		d, ok := list.Find(key)
		if !ok {
			return fmt.Errorf("there is no parameter %q; known are %s", key, strings.Join(list.keys(), ", "))
		}
		if err := d.Check(values[key]); err != nil {
			return err
		}
	}
	return nil
}

func (list Declared) keys() []string {
	keys := make([]string, len(list))
	for i, d := range list {
		keys[i] = d.Key
	}
	return keys
}

// Complete returns values with the default of every key left out.
func (list Declared) Complete(values Set) Set {
	complete := make(Set, len(list))
	for _, d := range list {
		complete[d.Key] = d.Default
		if v, ok := values[d.Key]; ok {
			complete[d.Key] = v
		}
	}
	return complete
}

// Number returns the number of a complete set; a key that is not there is a programming error and gives 0.
func (s Set) Number(key string) float64 { return s[key].Number }

// On returns whether a toggle of a complete set is on.
func (s Set) On(key string) bool { return s[key].On }

// Choice returns the choice, or the text, of a complete set.
func (s Set) Choice(key string) string { return s[key].Choice }

// Curve returns the profile of a complete set.
func (s Set) Curve(key string) Curve { return s[key].Profile }

// Curve is a profile to be read: straight between its points and level outside them.
type Curve []Point

// At returns the profile's value at a place from 0 to 1.
func (c Curve) At(place float64) float64 {
	if len(c) == 0 {
		return 0
	}
	if place <= c[0][0] {
		return c[0][1]
	}
	for i := 1; i < len(c); i++ {
		if place <= c[i][0] {
			share := (place - c[i-1][0]) / (c[i][0] - c[i-1][0])
			return c[i-1][1] + share*(c[i][1]-c[i-1][1])
		}
	}
	return c[len(c)-1][1]
}
