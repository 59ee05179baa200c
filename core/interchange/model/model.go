// Package model is what importers give: named parts with a surface and a colour.
package model

import (
	"errors"
	"fmt"

	"myriapod/core/geometry"
	"myriapod/core/mesh"
	"myriapod/core/rig"
	"myriapod/core/skin"
)

// Limits of one model.
const (
	MaxBytes    = 256 << 20
	MaxVertices = 4_000_000
	MaxParts    = 16_384
)

// Model is what a file holds: its parts, and the skeleton, skin and motion that come with them. Notes tell, in words for the rigger, what
// could not be kept as it was.
type Model struct {
	Parts  []Part
	Joints []Joint // parents before their children
	Clips  []Clip
	Notes  []string
}

// Part is a named piece of a model.
type Part struct {
	Name   string
	Colour string // "#rrggbb"
	Look   *Look  // nil for a colour and no more
	Mesh   *mesh.Mesh
	Skin   *Skin // nil for a part that no joint moves
	Morphs []Morph
}

// Look is how a part looks beside its colour: a material as it is kept, and its images, PNG or JPEG.
type Look struct {
	Material []byte
	Images   [][]byte
}

// Skin is the weights of a part over joints of the model, by index.
type Skin struct {
	Joints  []int
	Weights *skin.Weights
}

// Morph is another shape of a part, mixed in by Value at rest.
type Morph struct {
	Name   string
	Deltas *mesh.Deltas
	Value  float64
}

// Joint is a joint at rest, in the world. Parent is -1 for none.
type Joint struct {
	Name   string
	Parent int
	Rest   geometry.Transform
}

// Clip is motion of joints and morph targets, with times in seconds.
type Clip struct {
	Name   string
	Length float64
	Joints []JointTrack
	Morphs []MorphTrack
}

// JointTrack is keys of one property of a joint, by index; Frame of the keys is in seconds.
type JointTrack struct {
	Joint    int
	Property rig.JointProperty
	Keys     []rig.JointKey
}

// MorphTrack is keys of a morph target of a part, by index; Frame of the keys is in seconds.
type MorphTrack struct {
	Part, Morph int
	Keys        []rig.Key
}

// Palette is the colours of parts that bring none, in turn.
var Palette = []string{"#b9a27c", "#8d9a86", "#a98467", "#7f8d98", "#c2b280", "#9a7f76"}

// Check tells what is wrong with a model as a whole, and gives parts and joints without a name one.
func Check(m *Model) error {
	parts := m.Parts
	if len(m.Joints) > rig.MaxJoints {
		return fmt.Errorf("%d joints are more than the %d that a rig may have; leave some out", len(m.Joints), rig.MaxJoints)
	}
	for i := range m.Joints {
		m.Joints[i].Name = rig.TidyName(m.Joints[i].Name)
		if rig.CheckName(m.Joints[i].Name) != nil {
			m.Joints[i].Name = fmt.Sprintf("joint_%d", i+1)
		}
	}
	if len(parts)+len(m.Joints) == 0 {
		return errors.New("there are no surfaces in it, and no joints; export the model with its meshes")
	}
	if len(parts) > MaxParts {
		return fmt.Errorf("%d parts are more than the %d that a model may have; join some", len(parts), MaxParts)
	}
	vertices := 0
	for i := range parts {
		parts[i].Name = rig.TidyName(parts[i].Name)
		if rig.CheckName(parts[i].Name) != nil {
			parts[i].Name = fmt.Sprintf("part_%d", i+1)
		}
		if err := parts[i].Mesh.Validate(); err != nil {
			return fmt.Errorf("part %s: %w", parts[i].Name, err)
		}
		for k, n := range parts[i].Mesh.Positions {
			if n > rig.MaxCoordinate || n < -rig.MaxCoordinate {
				return fmt.Errorf("part %s: vertex %d lies at %g, beyond %g m; check the model's unit", parts[i].Name, k/3, n, rig.MaxCoordinate)
			}
		}
		vertices += parts[i].Mesh.VertexCount()
	}
	if vertices > MaxVertices {
		return fmt.Errorf("%d vertices are more than the %d that a model may have; thin it out", vertices, MaxVertices)
	}
	return nil
}
