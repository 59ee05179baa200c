package rig

import (
	"fmt"
	"unicode/utf8"
)

// Limits of one document, its copies included; beyond them an edit or a file is refused with the place and the limit. docs/format.md tells them.
const (
	MaxParts       = 16_384
	MaxJoints      = 20_000
	MaxControls    = 10_000
	MaxMechanisms  = 10_000
	MaxClips       = 1000
	MaxRepeats     = 200
	MaxDrivers     = 50_000
	MaxMeasures    = 10_000
	MaxTracks      = 100_000   // of all clips
	MaxKeys        = 1_000_000 // of all tracks of any kind
	MaxReferences  = 1_000_000 // from mechanisms and bindings to joints and controls, from drivers to what they read, from measures to what they measure
	MaxMorphs      = 10_000    // of all parts
	MaxDifferences = 100_000   // of all copies
	MaxGroups      = 1000
	MaxMembers     = 200_000   // of all groups
	MaxOutlines    = 1_000_000 // points of all controls
	MaxName        = 120       // characters of a name, label, pattern or unit
	MaxID          = 600       // bytes; copies of copies have long ones
	MaxOutline     = 4096      // points of one control
	MaxProfile     = 256       // points of one profile
	MaxSpaces      = 64        // of one control
	MaxDials       = 64        // of one control
	MaxCopies      = 1000      // of one repeat
	MaxNested      = 8         // repeats of copies of copies
	MaxFrame       = 10_000_000
	MaxLength      = 1_000_000 // frames of one clip
	MaxPreRoll     = 600       // seconds
	MaxCoordinate  = 1e6       // metres from the origin, along each axis
)

// Sizes counts what a document holds.
type Sizes struct {
	Joints, Controls, Mechanisms, Drivers, Measures, References, Outlines int
}

// Add adds so many times what other holds. Numbers beyond any limit stay there, so that nothing overflows.
func (s Sizes) Add(other Sizes, times int) Sizes {
	grown := func(a, b int) int {
		const most = 1 << 40
		if times > 0 && b > most/times {
			return most
		}
		return min(a+b*times, most)
	}
	return Sizes{
		grown(s.Joints, other.Joints), grown(s.Controls, other.Controls), grown(s.Mechanisms, other.Mechanisms),
		grown(s.Drivers, other.Drivers), grown(s.Measures, other.Measures), grown(s.References, other.References), grown(s.Outlines, other.Outlines),
	}
}

// Standing is what stands on joints: what a repeat copies beside them.
type Standing struct {
	Controls   []Control
	Mechanisms []Mechanism
	Drivers    []Driver
	Measures   []Measure
}

// SizesOf counts joints, and what stands on them with all that it holds.
func SizesOf(joints int, on Standing) Sizes {
	s := Sizes{Joints: joints, Controls: len(on.Controls), Mechanisms: len(on.Mechanisms), Drivers: len(on.Drivers), Measures: len(on.Measures)}
	for i := range on.Controls {
		s.Outlines += len(on.Controls[i].Outline)
	}
	for i := range on.Mechanisms {
		s.References += len(on.Mechanisms[i].Joints) + len(on.Mechanisms[i].Controls) + len(on.Mechanisms[i].Homes) + len(on.Mechanisms[i].Takes) + len(on.Mechanisms[i].Parts)
	}
	for i := range on.Drivers {
		s.References += len(on.Drivers[i].By)
	}
	for i := range on.Measures {
		s.References += len(on.Measures[i].Of)
	}
	return s
}

// Standing is all that stands on the document's joints.
func (d *Document) Standing() Standing {
	return Standing{d.Controls, d.Mechanisms, d.Drivers, d.Measures}
}

// Check refuses what is more than a document may hold.
func (s Sizes) Check() error {
	return checkCounts([]count{
		{"joints", s.Joints, MaxJoints},
		{"controls", s.Controls, MaxControls},
		{"mechanisms", s.Mechanisms, MaxMechanisms},
		{"drivers", s.Drivers, MaxDrivers},
		{"measures", s.Measures, MaxMeasures},
		{"mechanisms: references to joints and controls", s.References, MaxReferences},
		{"controls: points of outlines", s.Outlines, MaxOutlines},
	})
}

type count struct {
	place       string
	there, most int
}

func checkCounts(counts []count) error {
	for _, c := range counts {
		if c.there > c.most {
			return fmt.Errorf("%s: %d are more than the %d that a rig may have", c.place, c.there, c.most)
		}
	}
	return nil
}

// CheckSizes refuses a document that holds more of anything than it may. It costs no more than to look through it once.
func (d *Document) CheckSizes() error {
	s := SizesOf(len(d.Joints), d.Standing())
	for i := range d.Bindings {
		s.References += len(d.Bindings[i].Joints)
	}
	if err := s.Check(); err != nil {
		return err
	}
	keys, tracks, morphs, differences := 0, 0, 0, 0
	for i := range d.Clips {
		clip := &d.Clips[i]
		tracks += len(clip.Tracks) + len(clip.JointTracks) + len(clip.MorphTracks)
		for k := range clip.Tracks {
			keys += len(clip.Tracks[k].Keys)
		}
		for k := range clip.JointTracks {
			keys += len(clip.JointTracks[k].Keys)
		}
		for k := range clip.MorphTracks {
			keys += len(clip.MorphTracks[k].Keys)
		}
	}
	for i := range d.Parts {
		morphs += len(d.Parts[i].Morphs)
	}
	members := 0
	for i := range d.Groups {
		members += len(d.Groups[i].Members)
	}
	for i := range d.Repeats {
		differences += len(d.Repeats[i].Differences)
	}
	if err := checkCounts([]count{
		{"parts", len(d.Parts), MaxParts},
		{"bindings", len(d.Bindings), MaxParts},
		{"clips", len(d.Clips), MaxClips},
		{"repeats", len(d.Repeats), MaxRepeats},
		{"clips: tracks", tracks, MaxTracks},
		{"clips: keys", keys, MaxKeys},
		{"parts: morph targets", morphs, MaxMorphs},
		{"repeats: differences", differences, MaxDifferences},
		{"groups", len(d.Groups), MaxGroups},
		{"groups: members", members, MaxMembers},
	}); err != nil {
		return err
	}
	return d.checkEach()
}

// checkEach refuses single things that hold too much, and texts that are too long.
func (d *Document) checkEach() error {
	for i := range d.Controls {
		c := &d.Controls[i]
		place := fmt.Sprintf("controls[%d]", i)
		if err := checkCounts([]count{
			{place + ".outline: points", len(c.Outline), MaxOutline}, {place + ".spaces", len(c.Spaces), MaxSpaces}, {place + ".dials", len(c.Dials), MaxDials},
		}); err != nil {
			return err
		}
		if err := checkText(place+".label", c.Label); err != nil {
			return err
		}
		for k := range c.Dials {
			if err := checkText(fmt.Sprintf("%s.dials[%d].unit", place, k), c.Dials[k].Unit); err != nil {
				return err
			}
		}
	}
	for i := range d.Joints {
		if err := checkText(fmt.Sprintf("joints[%d].label", i), d.Joints[i].Label); err != nil {
			return err
		}
	}
	for i := range d.Repeats {
		r := &d.Repeats[i]
		for field, text := range map[string]string{"pattern": r.Pattern, "replace": r.Replace} {
			if err := checkText(fmt.Sprintf("repeats[%d].%s", i, field), text); err != nil {
				return err
			}
		}
	}
	for i := range d.Mechanisms {
		for key, value := range d.Mechanisms[i].Parameters {
			if len(value.Profile) > MaxProfile {
				return fmt.Errorf("mechanisms[%d].parameters.%s: %d points are more than the %d that a profile may have", i, key, len(value.Profile), MaxProfile)
			}
		}
	}
	return nil
}

func checkText(place, text string) error {
	if len(text) > 4*MaxName || utf8.RuneCountInString(text) > MaxName {
		return fmt.Errorf("%s: is longer than %d characters; shorten it", place, MaxName)
	}
	return nil
}
