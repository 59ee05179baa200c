// Package mechanism says what a mechanism is: how a kind declares itself, builds itself into a document, and prepares
// itself from the rest pose for evaluation. Each kind lives in one folder below and is named by one line in kinds.
package mechanism

import (
	"fmt"

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

// Pinner is a kind whose chain has ends that can be pinned.
type Pinner interface {
	// Pin returns the parameters with which an end, the last or the first, stays at its control or is free.
	Pin(last, pinned bool) parameter.Set
}

// Dismantler is a kind that leaves something to be put back when a mechanism of it is taken off.
type Dismantler interface {
	// Dismantle undoes in the document what Build did to others' things.
	Dismantle(*rig.Document, rig.Mechanism)
}

// Stand is what a mechanism is built on.
type Stand string

// What mechanisms are built on.
const (
	OnChain     Stand = "chain"     // joints, each the parent of the next
	OnJoints    Stand = "joints"    // joints, each by itself
	OnMechanism Stand = "mechanism" // another mechanism, its host
)

// Declaration describes a kind for documents, edits and the interface.
type Declaration struct {
	Kind       string             `json:"kind"`
	Title      string             `json:"title"`
	Summary    string             `json:"summary"`
	Stand      Stand              `json:"stand"`
	Least      int                `json:"least"`    // how many joints it needs
	Hosts      []string           `json:"hosts"`    // kinds that can be its host
	Arranges   bool               `json:"arranges"` // it is an Arranger
	Pins       bool               `json:"pins"`     // it is a Pinner
	Options    parameter.Declared `json:"options"`  // asked once, when it is built
	Parameters parameter.Declared `json:"parameters"`
}

// Registry is the known kinds in the order the interface offers them.
type Registry []Kind

// Find returns the kind by its name in documents.
func (r Registry) Find(name string) (Kind, error) {
	for _, k := range r {
		if k.Declare().Kind == name {
			return k, nil
		}
	}
	return nil, fmt.Errorf("there is no mechanism of the kind %q", name)
}

// Declarations returns the declaration of every kind.
func (r Registry) Declarations() []Declaration {
	list := make([]Declaration, len(r))
	for i, k := range r {
		list[i] = k.Declare()
	}
	return list
}
