// Package rigfile reads and writes the rig file: a whole specimen as one JSON text that people and pipelines can read and write.
// docs/format.md describes every field. Angles in it are in degrees, lengths in metres.
package rigfile

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/textsize"
)

// MaxBytes bounds a rig file.
const MaxBytes = 512 << 20

// mostText is what the text of a rig file may hold: keys are objects, and all numbers are entries.
var mostText = textsize.Limit{Objects: 1_300_000, Entries: 100_000_000}

// file is the rig file. What can be left out is a pointer or has an empty meaning.
type file struct {
	Format     string      `json:"format"`
	Version    int         `json:"version"`
	Name       string      `json:"name"`
	FPS        *float64    `json:"fps,omitempty"`
	Parts      []part      `json:"parts,omitempty"`
	Joints     []joint     `json:"joints,omitempty"`
	Controls   []control   `json:"controls,omitempty"`
	Mechanisms []mechanism `json:"mechanisms,omitempty"`
	Bindings   []binding   `json:"bindings,omitempty"`
	Clips      []clip      `json:"clips,omitempty"`
	Repeats    []rep       `json:"repeats,omitempty"`
	Drivers    []driver    `json:"drivers,omitempty"`
	Measures   []measure   `json:"measures,omitempty"`
	Groups     []group     `json:"groups,omitempty"`
}

type group struct {
	ID        string    `json:"id,omitempty"`
	Name      string    `json:"name"`
	Members   []string  `json:"members"`
	Colour    string    `json:"colour,omitempty"`
	Sight     rig.Sight `json:"sight,omitempty"`
	Locked    bool      `json:"locked,omitempty"`
	Backstage bool      `json:"backstage,omitempty"`
}

// rep is a repeat; what it leaves out is as when one is made in the page.
type rep struct {
	ID          string           `json:"id,omitempty"`
	Name        string           `json:"name"`
	Rule        rig.Rule         `json:"rule"`
	Sources     []string         `json:"sources"`
	Point       *mgl64.Vec3      `json:"point,omitempty"`
	Direction   *mgl64.Vec3      `json:"direction,omitempty"`
	Count       int              `json:"count,omitempty"`
	Stations    []string         `json:"stations,omitempty"`
	Replace     string           `json:"replace,omitempty"`
	Pattern     string           `json:"pattern,omitempty"`
	Differences []rig.Difference `json:"differences,omitempty"`
	Stand       rig.Stand        `json:"stand,omitempty"`
	Ground      bool             `json:"ground,omitempty"`
	Draws       bool             `json:"draws,omitempty"`
}

// inUnits is a difference with the angles in it in other units: times angle.
func inUnits(d rig.Difference, angle float64) rig.Difference {
	d.Start = turned(d.Start, angle)
	d.Channels = channels(d.Channels, func(c rig.Channel) float64 {
		if c.Turns() {
			return angle
		}
		return 1
	})
	return d
}

type part struct {
	ID        string       `json:"id,omitempty"`
	Name      string       `json:"name"`
	Colour    string       `json:"colour,omitempty"`
	Sight     rig.Sight    `json:"sight,omitempty"`
	Locked    bool         `json:"locked,omitempty"`
	Vertices  [][3]float32 `json:"vertices"`
	Normals   [][3]float32 `json:"normals,omitempty"`
	TexCoords [][2]float32 `json:"texCoords,omitempty"`
	Triangles [][3]uint32  `json:"triangles"`
	Colours   [][4]float32 `json:"colours,omitempty"` // of vertices: red, green, blue, alpha, in linear light
	Look      *look        `json:"look,omitempty"`
	Morphs    []morph      `json:"morphs,omitempty"`
}

// look is a material that came with the part, as glTF writes it, with its images as base64.
type look struct {
	Material json.RawMessage `json:"material"`
	Images   [][]byte        `json:"images,omitempty"`
}

type morph struct {
	Name    string       `json:"name"`
	Value   float64      `json:"value,omitempty"`
	Deltas  [][3]float32 `json:"deltas"`
	Normals [][3]float32 `json:"normals,omitempty"`
}

type joint struct {
	ID       string          `json:"id,omitempty"`
	Name     string          `json:"name"`
	Label    string          `json:"label,omitempty"`
	Parent   string          `json:"parent,omitempty"`
	Position mgl64.Vec3      `json:"position"`
	Rotation *rig.Quaternion `json:"rotation,omitempty"`
	Order    geometry.Order  `json:"order,omitempty"`
}

type control struct {
	ID       string                           `json:"id,omitempty"`
	Name     string                           `json:"name"`
	Label    string                           `json:"label,omitempty"`
	Space    string                           `json:"space,omitempty"`
	Spaces   []string                         `json:"spaces,omitempty"`
	Position mgl64.Vec3                       `json:"position"`
	Rotation *rig.Quaternion                  `json:"rotation,omitempty"`
	Order    geometry.Order                   `json:"order,omitempty"`
	Shape    rig.Shape                        `json:"shape,omitempty"`
	Outline  []mgl64.Vec3                     `json:"outline,omitempty"`
	Colour   string                           `json:"colour,omitempty"`
	Pivot    *mgl64.Vec3                      `json:"pivot,omitempty"`
	Start    *rig.Placement                   `json:"start,omitempty"`
	Dials    []rig.Dial                       `json:"dials,omitempty"`
	Mirrored bool                             `json:"mirrored,omitempty"`
	Channels map[rig.Channel]rig.ChannelState `json:"channels,omitempty"`
}

type mechanism struct {
	ID         string        `json:"id,omitempty"`
	Kind       string        `json:"kind"`
	Name       string        `json:"name"`
	On         *bool         `json:"on,omitempty"`
	Host       string        `json:"host,omitempty"`
	Joints     []string      `json:"joints,omitempty"`
	Controls   []string      `json:"controls,omitzero"` // nil for a mechanism that is still to be built
	Options    parameter.Set `json:"options,omitempty"`
	Parameters parameter.Set `json:"parameters,omitempty"`
	Mirrored   bool          `json:"mirrored,omitempty"`

	Dials  map[string]rig.DialRef `json:"dials,omitempty"` // read as drivers; not written
	Homes  []string               `json:"homes,omitempty"`
	Takes  []string               `json:"takes,omitempty"`
	Parts  []string               `json:"parts,omitempty"`
	Places []float64              `json:"places,omitempty"`
	Sizes  []float64              `json:"sizes,omitempty"`
	Counts map[string]int         `json:"counts,omitempty"`
	// Roles can be given in the place of the lists.
	Roles map[string][]string `json:"roles,omitempty"`
}

// driver is a driver; without an ID it is called after what it drives.
type driver struct {
	ID         string        `json:"id,omitempty"`
	Kind       string        `json:"kind"`
	Drives     rig.Address   `json:"drives"`
	By         []rig.Address `json:"by,omitempty"`
	On         *bool         `json:"on,omitempty"`
	Parameters parameter.Set `json:"parameters,omitempty"`
}

type measure struct {
	ID   string      `json:"id,omitempty"`
	Name string      `json:"name"`
	Kind string      `json:"kind"`
	Of   []string    `json:"of"`
	Axis *mgl64.Vec3 `json:"axis,omitempty"`
}

type binding struct {
	ID      string         `json:"id,omitempty"`
	Part    string         `json:"part"`
	Joints  []string       `json:"joints"`
	Method  string         `json:"method,omitempty"`
	Blend   *float64       `json:"blend,omitempty"`
	Dual    float64        `json:"dual,omitempty"`
	DualBy  []float32      `json:"dualBy,omitempty"`
	Weights [][][2]float64 `json:"weights,omitempty"`
	AsMade  bool           `json:"asMade,omitempty"` // nothing was painted since the method made them
	Made    [][][2]float64 `json:"made,omitempty"`   // as the method made them, where something was
}

type clip struct {
	ID      string  `json:"id,omitempty"`
	Name    string  `json:"name"`
	Start   int     `json:"start"`
	End     int     `json:"end"`
	Loop    bool    `json:"loop,omitempty"`
	PreRoll float64 `json:"preRoll,omitempty"`
	Tracks  []track `json:"tracks,omitempty"`

	JointTracks []rig.JointTrack `json:"jointTracks,omitempty"`
	MorphTracks []rig.MorphTrack `json:"morphTracks,omitempty"`
}

type track struct {
	Control string      `json:"control"`
	Channel rig.Channel `json:"channel"`
	Keys    []key       `json:"keys"`
}

type key struct {
	Frame float64  `json:"frame"`
	Value float64  `json:"value"`
	Ease  rig.Ease `json:"ease,omitempty"`
}

// unit is how many of the document's units one unit of the file is: angles are degrees in the file, radians in the document.
func unit(channel rig.Channel) float64 {
	if channel.Turns() {
		return math.Pi / 180
	}
	return 1
}

// decode reads the text strictly: fields that are not known are refused with their place.
func decode(data []byte) (*file, error) {
	if len(data) > MaxBytes {
		return nil, fmt.Errorf("the rig file is larger than %d MB", MaxBytes>>20)
	}
	if err := textsize.Check(data, mostText); err != nil {
		return nil, err
	}
	var head struct {
		Format  *string `json:"format"`
		Version *int    `json:"version"`
	}
	if err := json.Unmarshal(data, &head); err != nil {
		return nil, explain(data, err)
	}
	if head.Format == nil || *head.Format != rig.Format {
		return nil, fmt.Errorf("format: a rig file says %q here", rig.Format)
	}
	if head.Version == nil || *head.Version < 1 || *head.Version > rig.Version {
		version := "none"
		if head.Version != nil {
			version = fmt.Sprint(*head.Version)
		}
		return nil, fmt.Errorf("version: %s is not known; this program reads versions 1 to %d", version, rig.Version)
	}
	if err := checkFields(data); err != nil {
		return nil, err
	}
	f := new(file)
	if err := json.Unmarshal(data, f); err != nil {
		return nil, explain(data, err)
	}
	f.modernise()
	return f, f.checkWork()
}

// mostWork bounds what the mechanisms of a file that are still to be built come to: each is built beside all the others, and fitted to the model.
const mostWork = 30_000_000

// checkWork refuses a file whose mechanisms would take too long to build.
func (f *file) checkWork() error {
	builds, beside := 0, len(f.Joints)+len(f.Controls)+len(f.Mechanisms)
	for _, p := range f.Parts {
		beside += len(p.Vertices) + len(p.Triangles)
	}
	for _, m := range f.Mechanisms {
		if len(m.Controls) == 0 {
			builds++
		}
	}
	if builds > mostWork/max(1, beside) {
		return fmt.Errorf("mechanisms: %d are to be built in a rig of this size, more than %d at once; build them in the page, or repeat one", builds, mostWork/max(1, beside))
	}
	return nil
}

// explain gives the place of an error of encoding/json as line and field.
func explain(data []byte, err error) error {
	line := func(offset int64) int {
		n := 1
		for _, b := range data[:min(int(offset), len(data))] {
			if b == '\n' {
				n++
			}
		}
		return n
	}
	var wrongType *json.UnmarshalTypeError
	if errors.As(err, &wrongType) {
		return fmt.Errorf("line %d, %s: a %s stands where a %s is wanted", line(wrongType.Offset), wrongType.Field, wrongType.Value, wrongType.Type)
	}
	var syntax *json.SyntaxError
	if errors.As(err, &syntax) {
		return fmt.Errorf("line %d: this is not JSON: %w", line(syntax.Offset), err)
	}
	return fmt.Errorf("this is not a rig file: %w", err)
}

// channels is what was decided about channels with their limits in other units: times scale.
func channels(states map[rig.Channel]rig.ChannelState, scale func(rig.Channel) float64) map[rig.Channel]rig.ChannelState {
	if len(states) == 0 {
		return nil
	}
	scaled := make(map[rig.Channel]rig.ChannelState, len(states))
	for channel, state := range states {
		state.Soft *= scale(channel)
		for _, limit := range []**float64{&state.Min, &state.Max} {
			if *limit != nil {
				value := **limit * scale(channel)
				*limit = &value
			}
		}
		scaled[channel] = state
	}
	return scaled
}
