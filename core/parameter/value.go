package parameter

import (
	"encoding/json"
	"fmt"
	"strings"
)

// Point is a corner of a profile: its place At, from 0 at the first joint to 1 at the last, and its Value there.
type Point [2]float64

// Value is the value of a parameter. In JSON it is a number, true or false, a string, or a list of [at, value] pairs.
type Value struct {
	Number  float64
	On      bool
	Choice  string
	Profile []Point
	Type    Type
}

// OfNumber returns a number value.
func OfNumber(n float64) Value { return Value{Type: Number, Number: n} }

// OfToggle returns an on-or-off value.
func OfToggle(on bool) Value { return Value{Type: Toggle, On: on} }

// OfChoice returns a choice value.
func OfChoice(choice string) Value { return Value{Type: Choice, Choice: choice} }

// OfProfile returns a profile value.
func OfProfile(points ...Point) Value { return Value{Type: Profile, Profile: points} }

// MarshalJSON writes the plain JSON value.
func (v Value) MarshalJSON() ([]byte, error) {
	switch v.Type {
	case Number:
		return json.Marshal(v.Number)
	case Toggle:
		return json.Marshal(v.On)
	case Choice:
		return json.Marshal(v.Choice)
	case Profile:
		return json.Marshal(v.Profile)
	}
	return nil, fmt.Errorf("a parameter value without a type cannot be written")
}

// UnmarshalJSON takes a number, a boolean, a string or a list of pairs.
func (v *Value) UnmarshalJSON(data []byte) error {
	text := strings.TrimSpace(string(data))
	switch {
	case text == "true" || text == "false":
		*v = OfToggle(text == "true")
		return nil
	case strings.HasPrefix(text, `"`):
		v.Type = Choice
		return json.Unmarshal(data, &v.Choice)
	case strings.HasPrefix(text, "["):
		return v.unmarshalProfile(data)
	}
	v.Type = Number
	if err := json.Unmarshal(data, &v.Number); err != nil {
		return fmt.Errorf("a parameter is a number, true or false, a string, or a list of [at, value] pairs, not %.40s", text)
	}
	return nil
}

func (v *Value) unmarshalProfile(data []byte) error {
	var pairs [][]float64
	if err := json.Unmarshal(data, &pairs); err != nil {
		return fmt.Errorf("a profile is a list of [at, value] pairs: %w", err)
	}
	v.Type = Profile
	v.Profile = make([]Point, len(pairs))
	for i, pair := range pairs {
		if len(pair) != 2 {
			return fmt.Errorf("profile point %d has %d numbers; it takes two, [at, value]", i, len(pair))
		}
		v.Profile[i] = Point{pair[0], pair[1]}
	}
	return nil
}
