// Package rig holds the document: what the rigger decided, as plain data with stable IDs. It knows nothing of how the
// decisions are carried out.
package rig

import (
	"maps"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/parameter"
)

// Format and Version open every document; a reader refuses what it does not know.
const (
	Format  = "myriapod-rig"
	Version = 3
)

// Document is one specimen's rig. Lists are in the order the rigger made; no meaning hangs on it but that a mechanism later in
// the list works on top of those before it.
type Document struct {
	Format     string      `json:"format"`
	Version    int         `json:"version"`
	Name       string      `json:"name"`
	FPS        float64     `json:"fps"`
	NextID     int         `json:"nextId"`
	Parts      []Part      `json:"parts"`
	Joints     []Joint     `json:"joints"`
	Controls   []Control   `json:"controls"`
	Mechanisms []Mechanism `json:"mechanisms"`
	Bindings   []Binding   `json:"bindings"`
	Clips      []Clip      `json:"clips"`
	Repeats    []Repeat    `json:"repeats"`
	// Drivers of one number stand in the order in which they work.
	Drivers  []Driver  `json:"drivers"`
	Measures []Measure `json:"measures"`
	Groups   []Group   `json:"groups"`
}

// New returns an empty document.
func New(name string) *Document {
	return &Document{
		Format: Format, Version: Version, Name: name, FPS: 24, NextID: 1,
		Parts: []Part{}, Joints: []Joint{}, Controls: []Control{}, Mechanisms: []Mechanism{}, Bindings: []Binding{}, Clips: []Clip{},
		Repeats: []Repeat{}, Drivers: []Driver{}, Measures: []Measure{}, Groups: []Group{},
	}
}

// Sight is how a thing is shown.
type Sight string

// The ways to show a thing.
const (
	Shown  Sight = "shown"
	Ghost  Sight = "ghost"
	Hidden Sight = "hidden"
)

// Part is a named piece of the model. Mesh is the content hash of its surface, which is kept beside the document.
type Part struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Mesh     string `json:"mesh"`
	Vertices int    `json:"vertices"`
	Colour   string `json:"colour"` // "#rrggbb"
	Sight    Sight  `json:"sight"`
	Locked   bool   `json:"locked"`           // not pickable
	Turned   int    `json:"turned,omitempty"` // faces that look the other way than their piece does
	// Look is how the part looks beside its colour, for whom the rig is handed to.
	Look *Look `json:"look,omitempty"`
	// Morphs are the part's other shapes, mixed in before the skin moves it.
	Morphs []Morph `json:"morphs,omitempty"`
}

// Look is a material that came with a part: Material is the content hash of what it says, Images those of its images.
type Look struct {
	Material string   `json:"material"`
	Images   []string `json:"images,omitempty"`
}

// Morph is a morph target: Deltas is the content hash of how far each vertex moves, Value how much of it is mixed in at rest.
type Morph struct {
	Name   string  `json:"name"`
	Deltas string  `json:"deltas"`
	Value  float64 `json:"value"`
}

// Quaternion is x, y, z, w.
type Quaternion [4]float64

// Quat returns q for computing.
func (q Quaternion) Quat() mgl64.Quat {
	return mgl64.Quat{W: q[3], V: mgl64.Vec3{q[0], q[1], q[2]}}.Normalize()
}

// QuaternionOf returns a computed rotation in document form.
func QuaternionOf(q mgl64.Quat) Quaternion { return Quaternion{q.V[0], q.V[1], q.V[2], q.W} }

// Joint is a joint at rest: place and orientation in the world, so that re-parenting moves nothing.
type Joint struct {
	ID       string     `json:"id"`
	Name     string     `json:"name"`
	Label    string     `json:"label,omitempty"` // what animators read
	Parent   string     `json:"parent,omitempty"`
	Position mgl64.Vec3 `json:"position"` // metres, world
	Rotation Quaternion `json:"rotation"` // world
	// Order is the order of application of its rotations, where it is turned by three angles; DefaultOrder when empty.
	Order geometry.Order `json:"order,omitempty"`
}

// DefaultOrder is the rotation order of joints and controls that were given none.
const DefaultOrder geometry.Order = "YXZ"

// Rest returns the joint's rest transform in the world.
func (j Joint) Rest() geometry.Transform {
	return geometry.Transform{Position: j.Position, Rotation: j.Rotation.Quat()}
}

// Mechanism is one built mechanism: its kind, the joints that it moves, the controls that it answers to, and for one that works on another (a wave on a
// spline chain) its Host. Homes are controls of others whose homes it carries, Takes what it looks at, Parts what it draws or deforms. Its kind says who of
// each list stands in which role.
type Mechanism struct {
	ID         string        `json:"id"`
	Kind       string        `json:"kind"`
	Name       string        `json:"name"`
	On         bool          `json:"on"`
	Host       string        `json:"host,omitempty"`
	Joints     []string      `json:"joints"`
	Controls   []string      `json:"controls"`
	Homes      []string      `json:"homes,omitempty"`
	Takes      []string      `json:"takes,omitempty"`
	Parts      []string      `json:"parts,omitempty"`
	Parameters parameter.Set `json:"parameters"`
	// Dials is how version 1 had dials drive parameters: by the parameter's key. Modernise makes drivers of them.
	Dials map[string]DialRef `json:"dials,omitempty"`
	// Places is where along the chain the controls stand, as shares of its length from 0 to 1; empty when they are spread evenly.
	Places []float64 `json:"places,omitempty"`
	// Sizes is a length of each joint that was measured when it was built, in metres; empty where none is. Of a track they are the radii of its wheels.
	Sizes []float64 `json:"sizes,omitempty"`
	// Counts is how many things stand in each role that leaves that open, where a list has several such.
	Counts map[string]int `json:"counts,omitempty"`
	// Mirrored tells that the mechanism is a mirrored copy: its turns and swings are the mirror images of its source's.
	Mirrored bool `json:"mirrored,omitempty"`
}

// Links returns the drivers that the dials of version 1 are now.
func (m Mechanism) Links() []Driver {
	links := make([]Driver, 0, len(m.Dials))
	for _, key := range slices.Sorted(maps.Keys(m.Dials)) {
		ref := m.Dials[key]
		links = append(links, Driver{
			ID: m.ID + "." + key, Kind: LinkKind, Drives: Address{m.ID, key}, By: []Address{{ref.Control, string(ref.Dial)}}, On: true, Parameters: parameter.Set{},
		})
	}
	return links
}

// Hand is -1 for a mirrored mechanism and 1 for any other: the sign of a turn about an axis that was mirrored.
func (m Mechanism) Hand() float64 { return hand(m.Mirrored) }

func hand(mirrored bool) float64 {
	if mirrored {
		return -1
	}
	return 1
}

// Binding attaches a part to joints. Weights is the content hash of the table of influences.
type Binding struct {
	ID      string   `json:"id"`
	Part    string   `json:"part"`
	Joints  []string `json:"joints"`
	Method  string   `json:"method"`
	Blend   float64  `json:"blend"` // how far weights spread, in bones
	Weights string   `json:"weights"`
	// Dual is how much of the skin goes by dual quaternions, 0 to 1, so that it keeps its girth where it is twisted; the rest is linear.
	Dual float64 `json:"dual,omitempty"`
	// DualBy is the content hash of the shares of Dual that were painted, by vertex; empty where all of it holds everywhere.
	DualBy string `json:"dualBy,omitempty"`
	// Made is the table as the method made it, so that what was painted since is known; empty for one that came with a model.
	Made string `json:"made,omitempty"`
	// Last is the binding that this one took the place of, to be compared with.
	Last *LastBinding `json:"last,omitempty"`
}

// LastBinding is what a part went with before it was bound anew.
type LastBinding struct {
	Joints  []string `json:"joints"`
	Method  string   `json:"method"`
	Weights string   `json:"weights"`
}

// Clip is a stretch of motion between two frames, both played.
type Clip struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Start int    `json:"start"`
	End   int    `json:"end"`
	Loop  bool   `json:"loop"`
	// PreRoll is how many seconds before the first frame what has memory begins, to have settled there.
	PreRoll float64 `json:"preRoll,omitempty"`
	Tracks  []Track `json:"tracks"`
	// JointTracks move joints that no mechanism moves, away from where their parents carry them.
	JointTracks []JointTrack `json:"jointTracks,omitempty"`
	MorphTracks []MorphTrack `json:"morphTracks,omitempty"`
}

// JointProperty is what of a joint a track moves.
type JointProperty string

// What tracks of joints move, each against the joint's rest in its own axes.
const (
	JointMove  JointProperty = "move"  // x, y, z in metres
	JointTurn  JointProperty = "turn"  // quaternion x, y, z, w
	JointGirth JointProperty = "girth" // own scale x, y, z
)

// JointTrack is the keys of one property of one joint, in rising order of frame.
type JointTrack struct {
	Joint    string        `json:"joint"`
	Property JointProperty `json:"property"`
	Keys     []JointKey    `json:"keys"`
}

// JointKey is a property's value at a frame: three or, for a turn, four numbers. Ease leads to the next; smooth counts as linear.
type JointKey struct {
	Frame float64    `json:"frame"`
	Value [4]float64 `json:"value"`
	Ease  Ease       `json:"ease"`
}

// MorphTrack is the keys of one morph target of a part.
type MorphTrack struct {
	Part  string `json:"part"`
	Morph string `json:"morph"`
	Keys  []Key  `json:"keys"`
}

// Track is the keys of one channel of one control, in rising order of frame.
type Track struct {
	Control string  `json:"control"`
	Channel Channel `json:"channel"`
	Keys    []Key   `json:"keys"`
}

// Ease is how a channel goes from one key to the next.
type Ease string

// The ways between keys.
const (
	Linear  Ease = "linear"
	Smooth  Ease = "smooth"
	Stepped Ease = "stepped"
)

// Key is a channel's value at a frame, in metres or radians; Ease leads from it to the next.
type Key struct {
	Frame float64 `json:"frame"`
	Value float64 `json:"value"`
	Ease  Ease    `json:"ease"`
}

// At is the frame of a key.
func (k Key) At() float64 { return k.Frame }

// At is the frame of a key.
func (k JointKey) At() float64 { return k.Frame }
