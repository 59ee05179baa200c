// Package follow is following: a joint, or the home of a control, takes place, turn and girth from one or several others, as much of each and along the
// axes that are wanted. What it keeps is its offset at rest, and its whole turns.
package follow

import (
	"fmt"

	"myriapod/core/mechanism"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "follow"

// Kind is following.
type Kind struct{}

// MostSources is how many sources one follower has at most.
const MostSources = 8

// FollowsDial is the dial of a control that chooses which of several sources it follows: 0 for the first.
const FollowsDial rig.Channel = "follows"

// The frames whose axes are meant, and how several sources share.
const (
	inWorld  = "the world"
	inParent = "what it hangs on"
	inOwn    = "its own"

	byNumber = "one, by its number"
	byWeight = "all, by their weights"
)

// The axes that are taken, by the beginning of their keys.
const (
	moves  = "move"
	turns  = "turn"
	girths = "girth"
)

var axes = [3]string{"X", "Y", "Z"}

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: Name, Title: "Follow", Stand: mechanism.OnPicks, Hosts: []string{},
		Sketch:  "M6 6h12v12h-12zM22 12h14m-4-4l4 4l-4 4M40 4h16v16h-16z",
		Summary: "A joint or control goes along with one or several others: place, turn and girth, as much of each as is wanted. For heads that stay level, props, helpers and eyes.",
		Roles: []mechanism.Role{
			{Name: "follower", Title: "What follows", Help: "The joint that is placed, or the control whose home is carried.", Does: mechanism.Moves, Joints: true, Controls: true, Least: 1, Most: 1},
			{Name: "sources", Title: "What it follows", Help: "The joints and controls that it goes along with.", Does: mechanism.LooksAt, Joints: true, Controls: true, Least: 1, Most: MostSources},
		},
		Options: parameter.Declared{}, Parameters: parameters(),
	}
}

func parameters() parameter.Declared {
	share := func(key, title, help string, by float64) parameter.Declaration {
		return parameter.Declaration{Key: key, Title: title, Type: parameter.Number, Min: 0, Max: 1, Default: parameter.OfNumber(by), Dial: true, Help: help}
	}
	list := parameter.Declared{
		share("place", "Place", "How much of the way it goes along. 0 leaves it where it hangs: a neck keeps its length.", 1),
		share("turn", "Turn", "How much of the turn it takes.", 1),
		share("girth", "Girth", "How much of the sources' own scale it takes.", 0),
		{
			Key: "axes", Title: "Axes of", Type: parameter.Choice, Choices: []string{inWorld, inParent, inOwn}, Default: parameter.OfChoice(inWorld),
			Help: "Along and about whose axes it moves and turns, where it does not take all of them. Those of the world go along with the global control.",
		},
		{
			Key: "sources", Title: "Several sources", Type: parameter.Choice, Choices: []string{byNumber, byWeight}, Default: parameter.OfChoice(byNumber),
			Help: "Whether it follows one of its sources at a time, or all of them by their weights.",
		},
		{
			Key: "source", Title: "Follows number", Type: parameter.Number, Min: 0, Max: MostSources - 1, Default: parameter.OfNumber(0), Dial: true,
			Help: "Which source it follows, 0 for the first; between two numbers it stands between the two.",
		},
	}
	for i := range MostSources {
		list = append(list, share(weightKey(i), fmt.Sprintf("Weight of source %d", i), "How much this source counts, beside the others.", 1))
	}
	for _, what := range []struct{ key, title string }{{moves, "Moves along"}, {turns, "Turns about"}, {girths, "Takes the girth along"}} {
		for _, axis := range axes {
			list = append(list, parameter.Declaration{
				Key: what.key + axis, Title: fmt.Sprintf("%s %s", what.title, axis), Type: parameter.Toggle, Default: parameter.OfToggle(true),
				Help: "Of the axes chosen above; the girth is always along its own.",
			})
		}
	}
	return append(list, mechanism.Influence())
}

func weightKey(source int) string { return fmt.Sprintf("weight%d", source) }

// Suits implements mechanism.Suitor: a single control is most often to follow something.
func (Kind) Suits(d *rig.Document, chosen []string) float64 {
	if len(chosen) == 1 && d.Control(chosen[0]) != nil {
		return 0.6
	}
	return 0.2
}

// Build implements mechanism.Kind. A control with several sources gets a dial that chooses among them.
func (Kind) Build(site *mechanism.Site) error {
	m := site.Mechanism
	if len(m.Homes) == 0 || len(m.Takes) < 2 {
		return nil
	}
	d := site.Document
	control := d.Control(m.Homes[0])
	dial := rig.Dial{Name: FollowsDial, Max: float64(len(m.Takes) - 1)}
	if control.ChannelIndex(dial.Name) >= 0 {
		return nil // another follow has it; this one's number is driven as the rigger says
	}
	control.Dials = append(append([]rig.Dial{}, control.Dials...), dial)
	d.Drivers = append(d.Drivers, rig.Driver{
		ID: d.TakeID("v"), Kind: rig.LinkKind, Drives: rig.Address{Of: m.ID, Key: "source"}, By: []rig.Address{control.Of(FollowsDial)}, On: true, Parameters: parameter.Set{},
	})
	return nil
}

// Dismantle implements mechanism.Dismantler: the dial that chose among the sources goes.
func (Kind) Dismantle(d *rig.Document, m rig.Mechanism) {
	by, linked := d.LinkedTo(rig.Address{Of: m.ID, Key: "source"})
	if !linked || len(m.Homes) == 0 || by.Of != m.Homes[0] || by.Key != string(FollowsDial) {
		return
	}
	control := d.Control(by.Of)
	var kept []rig.Dial
	for _, dial := range control.Dials {
		if dial.Name != FollowsDial {
			kept = append(kept, dial)
		}
	}
	control.Dials = kept
	delete(control.Channels, FollowsDial)
	d.DropTracks(control.ID, FollowsDial)
}
