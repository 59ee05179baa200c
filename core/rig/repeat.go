package rig

import (
	"fmt"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/parameter"
)

// Rule is how a repeat makes its copies.
type Rule string

// The rules of repeats.
const (
	Mirror Rule = "mirror" // one copy beyond a plane
	Ring   Rule = "ring"   // copies turned about an axis
	Series Rule = "series" // a copy at each of the stations, carried there as the sources stand at theirs
)

// Repeat makes live copies of joints and of all that stands on them. Sources are the tops of what is repeated: each with all
// joints below it, with the mechanisms whose joints are all among these, and with their controls. A source may itself be a copy
// that an earlier repeat makes, so repeats nest.
type Repeat struct {
	ID          string       `json:"id"`
	Name        string       `json:"name"`
	Rule        Rule         `json:"rule"`
	Sources     []string     `json:"sources"`
	Point       mgl64.Vec3   `json:"point"`     // on the mirror's plane or the ring's axis, world at rest; unused in a series
	Direction   mgl64.Vec3   `json:"direction"` // of the mirror's normal or the ring's axis, any length over 0
	Count       int          `json:"count"`     // of a ring: how many there are in all, with the sources
	Stations    []string     `json:"stations"`  // of a series: the joints that the copies hang on, in order
	Replace     string       `json:"replace"`   // text in the sources' names that Pattern takes the place of; empty for the whole name
	Pattern     string       `json:"pattern"`   // * is the source's name, each run of # the counter; empty in a mirror for the other side's name
	Differences []Difference `json:"differences"`
	Stand       Stand        `json:"stand,omitempty"`  // of a series
	Ground      bool         `json:"ground,omitempty"` // of a series: each copy is set as low as the source stands
	Draws       bool         `json:"draws,omitempty"`  // the copies are drawn with the parts that are fixed to the sources' joints
}

// Stand is how the copies of a series stand at their stations.
type Stand string

// The ways to stand.
const (
	AsStation Stand = ""        // turned as the station is against what the source stands at
	Upright   Stand = "upright" // turned about the vertical alone
)

// Difference is what one copy keeps of its own against its source. What is left out follows the source.
type Difference struct {
	Copy       int            `json:"copy"`                 // 1 is the first copy
	Of         string         `json:"of"`                   // ID of the thing in the sources
	Name       string         `json:"name,omitempty"`       //
	Label      *string        `json:"label,omitempty"`      //
	Offset     *mgl64.Vec3    `json:"offset,omitempty"`     // of the place, in metres, as the source would have to be moved for it
	Turn       *Quaternion    `json:"turn,omitempty"`       // of the orientation, after the source's, in the thing's own axes
	Order      geometry.Order `json:"order,omitempty"`      //
	Parent     *string        `json:"parent,omitempty"`     // of a joint
	Space      *string        `json:"space,omitempty"`      // of a control
	On         *bool          `json:"on,omitempty"`         // of a mechanism
	Parameters parameter.Set  `json:"parameters,omitempty"` // of a mechanism, those that differ
	Removed    bool           `json:"removed,omitempty"`    // the copy does without it

	// Of a control.
	Shape    Shape                    `json:"shape,omitempty"`
	Outline  []mgl64.Vec3             `json:"outline,omitempty"` // in the copy's own frame
	Colour   *string                  `json:"colour,omitempty"`  // empty for the colour of its side
	Pivot    *mgl64.Vec3              `json:"pivot,omitempty"`   // its own place at 0
	Start    *Placement               `json:"start,omitempty"`
	Spaces   []string                 `json:"spaces,omitzero"`
	Channels map[Channel]ChannelState `json:"channels,omitempty"` // of those that differ
	Dials    []Dial                   `json:"dials,omitempty"`    // that differ, or that it has more
	Without  []Channel                `json:"without,omitempty"`  // dials that it does without
}

// Empty tells whether d holds no difference.
func (d Difference) Empty() bool {
	return d.Name == "" && d.Label == nil && d.Offset == nil && d.Turn == nil && d.Order == "" && d.Parent == nil && d.Space == nil &&
		d.On == nil && len(d.Parameters) == 0 && !d.Removed && d.emptyOfControl()
}

func (d Difference) emptyOfControl() bool {
	return d.Shape == "" && d.Outline == nil && d.Colour == nil && d.Pivot == nil && d.Start == nil && d.Spaces == nil &&
		len(d.Channels)+len(d.Dials)+len(d.Without) == 0
}

// Copies returns how many copies a repeat makes beside its sources.
func (r Repeat) Copies() int {
	switch r.Rule {
	case Mirror:
		return 1
	case Ring:
		return r.Count - 1
	}
	return len(r.Stations)
}

// Repeat returns the repeat with the ID, or nil.
func (d *Document) Repeat(id string) *Repeat {
	return find(d.Repeats, func(r *Repeat) bool { return r.ID == id })
}

func (d *Document) checkRepeats() error {
	for i, r := range d.Repeats {
		place := fmt.Sprintf("repeats[%d]", i)
		if err := r.Check(place); err != nil {
			return err
		}
	}
	return nil
}

// Check tells what is wrong with a repeat by itself; place opens the message.
func (r Repeat) Check(place string) error {
	if len(r.Sources) == 0 {
		return fmt.Errorf("%s.sources: is empty; a repeat has one source or more", place)
	}
	if len(r.Sources) > MaxCopies {
		return fmt.Errorf("%s.sources: %d are more than the %d that a repeat may have; hang them on one joint", place, len(r.Sources), MaxCopies)
	}
	if err := checkPlace(place+".point", r.Point[:]...); err != nil {
		return err
	}
	if err := checkPlace(place+".direction", r.Direction[:]...); err != nil {
		return err
	}
	switch r.Rule {
	case Mirror, Ring:
		if r.Direction.Len() < 1e-9 {
			return fmt.Errorf("%s.direction: has no length; give it one", place)
		}
		if r.Rule == Ring && (r.Count < 2 || r.Count > MaxCopies) {
			return fmt.Errorf("%s.count: a ring has 2 to %d, not %d", place, MaxCopies, r.Count)
		}
	case Series:
		if len(r.Stations) == 0 || len(r.Stations) > MaxCopies {
			return fmt.Errorf("%s.stations: a series has 1 to %d stations, not %d", place, MaxCopies, len(r.Stations))
		}
	default:
		return fmt.Errorf("%s.rule: is one of mirror, ring, series, not %q", place, r.Rule)
	}
	if r.Stand != AsStation && r.Stand != Upright {
		return fmt.Errorf("%s.stand: is upright, or left out, not %q", place, r.Stand)
	}
	for k, difference := range r.Differences {
		if difference.Copy < 1 || difference.Copy > r.Copies() {
			return fmt.Errorf("%s.differences[%d].copy: there is no copy %d of %d", place, k, difference.Copy, r.Copies())
		}
		if difference.Offset != nil {
			if err := checkPlace(fmt.Sprintf("%s.differences[%d].offset", place, k), difference.Offset[:]...); err != nil {
				return err
			}
		}
		if difference.Turn != nil {
			if err := checkRotation(fmt.Sprintf("%s.differences[%d].turn", place, k), *difference.Turn); err != nil {
				return err
			}
		}
	}
	return nil
}
