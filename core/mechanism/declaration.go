package mechanism

import (
	"myriapod/core/formula"
	"myriapod/core/parameter"
)

// Stand is what a mechanism is built on.
type Stand string

// What mechanisms are built on.
const (
	OnChain     Stand = "chain"     // joints, each the parent of the next
	OnJoints    Stand = "joints"    // joints, each by itself
	OnMechanism Stand = "mechanism" // another mechanism, its host
	OnPicks     Stand = "picks"     // what is picked into its roles
)

// Declaration describes a kind for documents, edits and the interface.
type Declaration struct {
	Kind       string             `json:"kind"`
	Title      string             `json:"title"`
	Summary    string             `json:"summary"`
	Stand      Stand              `json:"stand"`
	Roles      []Role             `json:"roles"`
	Hosts      []string           `json:"hosts"`              // kinds that can be its host
	Arranges   bool               `json:"arranges"`           // it is an Arranger
	Pins       bool               `json:"pins"`               // it is a Pinner
	Gives      bool               `json:"gives"`              // it is a Giver
	Extends    bool               `json:"extends"`            // it is an Extender
	Called     string             `json:"called"`             // its title within a sentence; NewRegistry fills it in
	Whole      bool               `json:"whole"`              // it is of the whole specimen: it can be built with nothing chosen
	Laid       bool               `json:"laid"`               // it is built on places that are laid by clicks
	Each       bool               `json:"each"`               // of several that are chosen each gets one of its own
	Waves      bool               `json:"waves"`              // the body map draws it as a wave
	Patterns   []Pattern          `json:"patterns,omitempty"` // that several of the kind can go by together; of a Patterned kind
	Sketch     string             `json:"sketch"`             // a small picture: the data of an SVG path, in a field of 60 by 24
	Options    parameter.Declared `json:"options"`            // asked once, when it is built
	Parameters parameter.Declared `json:"parameters"`
}

// Pattern is an order in which several mechanisms of a kind work together, by the trade's name.
type Pattern struct {
	Name  string `json:"name"`
	Title string `json:"title"`
	Help  string `json:"help"`
}

// DriverDeclaration describes a kind of driver.
type DriverDeclaration struct {
	Kind    string `json:"kind"`
	Title   string `json:"title"`
	Summary string `json:"summary"`
	// Least and Most are how many values it reads.
	Least      int                `json:"least"`
	Most       int                `json:"most"`
	Parameters parameter.Declared `json:"parameters"` // the influence among them
	// Words are those of the language in which a Written kind is written, for help and completion.
	Words []formula.Word `json:"words,omitempty"`
}

// MeasureDeclaration describes a kind of measure.
type MeasureDeclaration struct {
	Kind    string `json:"kind"`
	Title   string `json:"title"`
	Summary string `json:"summary"`
	Unit    string `json:"unit"`
	Things  int    `json:"things"` // how many joints and controls it is of
	Joint   bool   `json:"joint"`  // it can be of joints
	Control bool   `json:"control"`
	Axis    bool   `json:"axis"` // it is about an axis
}
