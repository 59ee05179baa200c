// Package mechanism says what a mechanism is: how a kind declares itself, builds itself into a document, and prepares
// itself from the rest pose for evaluation. Each kind lives in one folder below and is named by one line in kinds.
package mechanism

import (
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Kind is one kind of mechanism.
type Kind interface {
	// Declare returns what the kind is called and takes. It is constant.
	Declare() Declaration
	// Build adds to the site's document what a new mechanism of this kind needs (its controls) and fills in the site's
	// mechanism. It returns an error, in words for the rigger, when it cannot stand there. Building moves nothing.
	Build(*Site) error
	// Prepare reads the mechanism from the bench's document and lays its tasks on the bench.
	Prepare(*Bench) error
}

// Adjuster is a kind that answers a change of some parameters with a change of others, so that nothing jumps: a wave keeps
// its phase when its rate changes. time is the moment of the change in seconds. It returns changes with what it adds; keys that
// changes already has are left as they are.
type Adjuster interface {
	Adjust(present, changes parameter.Set, time float64) parameter.Set
}

// Arranger is a kind whose controls can be added to, thinned out and moved along its chain later, while the rest pose stays.
type Arranger interface {
	// Arrange gives the site's mechanism the controls listed, an empty ID for a new one, at places from 0 to 1 along the chain.
	Arrange(site *Site, controls []string, places []float64) error
}

// Suitor is a kind that tells how well what is chosen suits it, so that the likeliest is offered first.
type Suitor interface {
	// Suits returns how likely the kind is what somebody wants who has chosen these things, from 0 to 1. They can stand in its first role.
	Suits(d *rig.Document, chosen []string) float64
}

// Extender is a kind whose chain can end at another joint later, while the rest pose stays.
type Extender interface {
	// Extend fits the controls of the site's mechanism, whose joints are the new ones already, to where its chain ends now.
	Extend(site *Site) error
}

// Pinner is a kind whose chain has ends that can be pinned.
type Pinner interface {
	// Pin returns the parameters with which an end, the last or the first, stays at its control or is free.
	Pin(last, pinned bool) parameter.Set
}

// Stopper is a kind whose handle goes between stops that are parameters.
type Stopper interface {
	// StopAt returns the parameters with which it stops where a channel of its handle stands, in metres or radians from rest; nil where that channel moves nothing.
	StopAt(channel rig.Channel, value float64) parameter.Set
}

// Patterned is a kind of which several mechanisms can work together by a pattern that its declaration lists.
type Patterned interface {
	// LayPattern sets the parameters of all of them by a pattern. It goes by where they stand, never by what they are called.
	LayPattern(d *rig.Document, all []*rig.Mechanism, pattern string) error
}

// Giver is a kind whose thing is given from one holder to another by a channel that is keyed.
type Giver interface {
	// Give returns the channel, of which control of the mechanism, that says who holds it, and what it says for a holder; the empty ID for the world.
	Give(m rig.Mechanism, holder string) (control string, channel rig.Channel, value float64, err error)
}

// Dismantler is a kind that leaves something to be put back when a mechanism of it is taken off.
type Dismantler interface {
	// Dismantle undoes in the document what Build did to others' things.
	Dismantle(*rig.Document, rig.Mechanism)
}
