// Package wire is what the server and the page say to each other. The page's TypeScript types are generated from it.
package wire

import (
	"encoding/json"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/findings"
	"myriapod/core/interchange/glb"
	"myriapod/core/match"
	"myriapod/core/mechanism"
	"myriapod/core/mesh"
	"myriapod/core/parameter"
	"myriapod/core/pick"
	"myriapod/core/repeat"
	"myriapod/core/rig"
	"myriapod/core/sculpt"
	"myriapod/core/skin"
	"myriapod/core/survey"
)

// MaxUpload is the largest file, in bytes, that the server takes.
const MaxUpload = 268_435_456

// Plate is a specimen as the Shelf shows it.
type Plate struct {
	ID         string `json:"id"`
	Name       string `json:"name"`
	Revision   int    `json:"revision"`
	Changed    string `json:"changed"` // RFC 3339
	Parts      int    `json:"parts"`
	Vertices   int    `json:"vertices"`
	Joints     int    `json:"joints"`
	Controls   int    `json:"controls"`
	Mechanisms int    `json:"mechanisms"`
	Findings   int    `json:"findings"`
	Damage     string `json:"damage,omitempty"` // why it cannot be opened
}

// Specimen is a specimen as it stands.
type Specimen struct {
	ID       string        `json:"id"`
	Revision int           `json:"revision"`
	Sequence int           `json:"sequence"`
	Edits    int           `json:"edits"`
	Changed  string        `json:"changed"`
	Undo     string        `json:"undo"` // title of what undo takes back, empty for nothing
	Redo     string        `json:"redo"`
	Document *rig.Document `json:"document" tstype:"Document,required"` // with the copies of its repeats
	// Origins tells of every copy in the document, by its ID, where it comes from.
	Origins  map[string]repeat.Origin `json:"origins"`
	Survey   survey.Survey            `json:"survey"`
	Findings []findings.Finding       `json:"findings"`
	Drift    *evaluate.Drift          `json:"drift,omitempty"` // of the edit just made, when it built something
	Notes    []string                 `json:"notes,omitempty"` // what the edit just made did beside what was asked
}

// Ground is what is seen of the ground, as the global control has it at rest; empty for nothing.
type Ground struct {
	Positions []float32 `json:"positions"` // x, y, z of each vertex
	Triangles []uint32  `json:"triangles"`
}

// GoTo asks for a revision of the history to be the present one.
type GoTo struct {
	Revision int `json:"revision"`
}

// ForeseeRequest asks what an edit would do.
type ForeseeRequest struct {
	Edit json.RawMessage `json:"edit"`
}

// CourseRequest asks how a number goes along a clip, or at rest without one; with an edit, as it would go after that.
type CourseRequest struct {
	Of   rig.Address     `json:"of"`
	Clip string          `json:"clip,omitempty"`
	Edit json.RawMessage `json:"edit,omitempty"`
}

// OffersRequest asks what can be built on what is chosen.
type OffersRequest struct {
	Chosen []string `json:"chosen"`
}

// EditRequest asks for an edit made on a revision. Job names it for progress.
type EditRequest struct {
	On   int             `json:"on"`
	Edit json.RawMessage `json:"edit"`
	Job  string          `json:"job,omitempty"`
}

// Created answers the making of a specimen.
type Created struct {
	ID string `json:"id"`
}

// Entry is one line of a specimen's history.
type Entry struct {
	Number  int    `json:"number"`
	Parent  *int   `json:"parent"`
	Title   string `json:"title"`
	Author  string `json:"author"`
	Made    string `json:"made"`
	Present bool   `json:"present"`
}

// ErrorKind tells the page what it can do about an error.
type ErrorKind string

// The kinds of errors.
const (
	Refused   ErrorKind = "refused"   // the request cannot be done; nothing was changed
	Conflicts ErrorKind = "conflict"  // somebody else changed the same thing
	Missing   ErrorKind = "missing"   // the thing is not there
	TooLarge  ErrorKind = "too-large" // more than the server takes
	Forbidden ErrorKind = "forbidden" // not from this page
	Full      ErrorKind = "full"      // the disk is full
	Stopped   ErrorKind = "stopped"   // by the person who asked
	Busy      ErrorKind = "busy"      // somebody else is at it; again in a moment
	Disk      ErrorKind = "disk"      // it cannot be read or written, or is damaged
	Broken    ErrorKind = "broken"    // the server's own fault
)

// Error is the body of every answer that is not a success.
type Error struct {
	Kind    ErrorKind `json:"kind"`
	Message string    `json:"message"`
	Theirs  []string  `json:"theirs,omitempty"` // for a conflict: the titles of what came between
	At      *int      `json:"at,omitempty"`     // for a mistake in a text that was sent: its character, from 0
	Mend    *Mend     `json:"mend,omitempty"`   // for what another edit would do
}

// Mend is an edit that would be taken in the place of one that was refused.
type Mend struct {
	Title string          `json:"title"`
	Edit  json.RawMessage `json:"edit" tstype:"{ kind: string }"`
	// Sways is how what is loose can move, to be shown.
	Sways []mechanism.Sway `json:"sways,omitempty"`
}

// Kinds declares what can be built: the mechanism kinds, and what a binding takes.
type Kinds struct {
	Kinds    []mechanism.Declaration        `json:"kinds"`
	Drivers  []mechanism.DriverDeclaration  `json:"drivers"`
	Measures []mechanism.MeasureDeclaration `json:"measures"`
	Binding  parameter.Declared             `json:"binding"`
}

// ExportRequest asks for a GLB. Without frames the clip's range is baked; without a clip either, the rest pose.
type ExportRequest struct {
	Clip string `json:"clip,omitempty"` // ID
	From *int   `json:"from,omitempty"`
	To   *int   `json:"to,omitempty"`
}

// Export is an export job as it stands.
type Export struct {
	Job    string      `json:"job"`
	Share  float64     `json:"share"`
	Done   bool        `json:"done"`
	Error  string      `json:"error,omitempty"`
	Report *glb.Report `json:"report,omitempty"`
	Bytes  int         `json:"bytes"`
	Name   string      `json:"name"`
}

// Ask is what the page sends over the live channel. Type says which of the fields count.
type Ask struct {
	Type string `json:"type"` // "pose", "centre", "trace", "match" or "switch"
	Seq  uint32 `json:"seq"`

	// A pose: the whole state of the stage, so that an older one can be dropped.
	Time       float64                  `json:"time"`           // seconds
	Now        float64                  `json:"now,omitempty"`  // the page's own clock, seconds: what has memory goes on by it in a hand
	Rest       bool                     `json:"rest,omitempty"` // show the rest pose
	Clip       string                   `json:"clip,omitempty"`
	Channels   map[string][]Held        `json:"channels,omitempty"`   // by control
	Pull       *Pull                    `json:"pull,omitempty"`       // a control being dragged
	Parameters map[string]parameter.Set `json:"parameters,omitempty"` // by mechanism, not kept yet

	Morphs map[string][]HeldMorph `json:"morphs,omitempty"` // by part

	Compare *Compare `json:"compare,omitempty"` // a part that is shown between two bindings

	// A centre: the ray under the pointer, in the world at rest, and what the place sought keeps to (see core/pick).
	Origin    mgl64.Vec3 `json:"origin,omitempty"`
	Direction mgl64.Vec3 `json:"direction,omitempty"`
	Snap      pick.Snap  `json:"snap,omitempty"`
	From      mgl64.Vec3 `json:"from,omitempty"`
	Facing    mgl64.Vec3 `json:"facing,omitempty"`
	Step      float64    `json:"step,omitempty"`
	Lock      string     `json:"lock,omitempty"`
	LockAt    float64    `json:"lockAt,omitempty"`
	Except    []string   `json:"except,omitempty"`

	// A trace: the joint, or the number.
	Joint  string       `json:"joint,omitempty"`
	Number *rig.Address `json:"number,omitempty"`

	// Weigh is the part whose weights are asked for under the ray given by Origin and Direction.
	Weigh string `json:"weigh,omitempty"`

	// Paint is a dab of a brush, with its stroke without dabs: where the ray given by Origin and Direction meets the part as it is posed. Begin tells that a new stroke begins.
	Paint *edit.PaintWeights `json:"paint,omitempty"`
	Begin bool               `json:"begin,omitempty"`
	// PaintDual is as Paint, of how much of the part's dual quaternions holds there.
	PaintDual *edit.PaintDual `json:"paintDual,omitempty"`
	Press     float64         `json:"press,omitempty"` // how hard it presses, 0 to 1; wholly when it is left out

	// Sculpt is a hand on a morph target, under the ray given by Origin and Direction, seen along Facing. Begin takes hold, and End lets go of all.
	Sculpt *sculpt.Stroke `json:"sculpt,omitempty"`
	End    bool           `json:"end,omitempty"`

	// A match: the mechanism that is to take charge of its joints as they stand.
	Mechanism string `json:"mechanism,omitempty"`

	// A switch: the control that is to hang on another of its spaces and stay where it stands, and the value of its dial for it.
	Control string      `json:"control,omitempty"`
	Value   float64     `json:"value,omitempty"`
	Dial    rig.Channel `json:"dial,omitempty"` // which dial switches it: that of its spaces when it is left out
}

// Weighed is the vertex of a part that is nearest to where a ray meets it, and what it goes with, the strongest first.
type Weighed struct {
	Part   string    `json:"part"`
	Vertex int       `json:"vertex"`
	Joints []string  `json:"joints"`
	Values []float32 `json:"values"`
}

// WeightsRequest asks for the weights of vertices.
type WeightsRequest struct {
	Vertices []int `json:"vertices"`
}

// OddWeights is where the weights of a part are unlike those of a smooth skin (see core/skin): vertices, by what is odd there.
type OddWeights = skin.Odd

// Painted is what a dab changed: the vertices, and for each four joints, as places in the binding's list, and their weights. Spot is nothing where the ray met nothing.
type Painted struct {
	Part     string     `json:"part"`
	Spot     *mesh.Spot `json:"spot,omitempty"`
	Joints   []string   `json:"joints"` // of the binding
	Vertices []int      `json:"vertices"`
	Places   []uint16   `json:"places"`
	Values   []float32  `json:"values"`
	Shares   []float32  `json:"shares,omitempty"` // of dual quaternions, where these are painted
}

// Compare is a part that is shown between two bindings.
type Compare struct {
	Part  string  `json:"part"`
	With  string  `json:"with"`  // "last" for the binding before its present one, "unbound" for none
	Share float64 `json:"share"` // of the other, 0 to 1
}

// Sculpted is what a hand has done to a morph target since it took hold: vertices, and how far each goes in it, at rest. Short is how far each stands from where the hand wants it, in reaches.
type Sculpted struct {
	Part     string       `json:"part"`
	Amount   float64      `json:"amount"` // how much of the morph target is seen
	Vertices []int        `json:"vertices"`
	By       [][3]float32 `json:"by"`
	Short    []float32    `json:"short"`
}

// HeldMorph is how much of a morph target the page holds mixed in.
type HeldMorph struct {
	Morph string  `json:"morph"`
	Value float64 `json:"value"`
}

// ElementsRequest asks for something to be done with picked elements of parts.
type ElementsRequest struct {
	Act      pick.Act      `json:"act"`
	Elements pick.Elements `json:"elements"`
	// For a window: the projection of the world to the picture, by column, and the rectangle on it, -1 to 1 with y upward.
	View    []float64  `json:"view,omitempty"`
	Window  [4]float64 `json:"window,omitempty"` // left, bottom, right, top
	Through bool       `json:"through,omitempty"`
}

// Held is a channel value that the page holds, in metres or radians.
type Held struct {
	Channel rig.Channel `json:"channel"`
	Value   float64     `json:"value"`
}

// Pull asks that a control come to a place in the world; the answer's channels say how.
type Pull struct {
	Control string     `json:"control"`
	To      mgl64.Vec3 `json:"to"`
}

// Tell is what the server sends over the live channel as text; frames are binary (see docs/live.md).
type Tell struct {
	Type       string                         `json:"type"` // "changed", "centre", "trace", "posed", "findings", "parameters", "progress" or "error"
	Seq        uint32                         `json:"seq,omitempty"`
	Sequence   int                            `json:"sequence,omitempty"`
	Centre     *mgl64.Vec3                    `json:"centre,omitempty"`
	Joint      string                         `json:"joint,omitempty"`
	Trace      []evaluate.Mover               `json:"trace,omitempty"`
	Number     *evaluate.NumberTrace          `json:"number,omitempty"`
	Texts      map[string]string              `json:"texts,omitempty"` // of "number": what its drivers are written as, by ID
	Weighed    *Weighed                       `json:"weighed,omitempty"`
	Painted    *Painted                       `json:"painted,omitempty"`
	Sculpted   *Sculpted                      `json:"sculpted,omitempty"`
	Curves     map[string]mechanism.Answering `json:"curves,omitempty"` // of "number": what its drivers answer, by ID
	Values     []match.Value                  `json:"values,omitempty"` // channels to hold, of "posed"
	Left       *match.Left                    `json:"left,omitempty"`   // how far the joints of a matched mechanism miss
	Findings   []mechanism.Finding            `json:"findings,omitempty"`
	Mechanism  string                         `json:"mechanism,omitempty"`
	Parameters parameter.Set                  `json:"parameters,omitempty"`
	Job        string                         `json:"job,omitempty"`
	Share      float64                        `json:"share,omitempty"`
	Message    string                         `json:"message,omitempty"`
}
