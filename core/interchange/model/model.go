// Package model is what importers give: named parts with a surface and a colour.
package model

import (
	"errors"
	"fmt"

	"myriapod/core/mesh"
	"myriapod/core/rig"
)

// Limits of one model.
const (
	MaxBytes    = 256 << 20
	MaxVertices = 4_000_000
	MaxParts    = 4096
)

// Part is a named piece of a model.
type Part struct {
	Name   string
	Colour string // "#rrggbb"
	Mesh   *mesh.Mesh
}

// Palette is the colours of parts that bring none, in turn.
var Palette = []string{"#b9a27c", "#8d9a86", "#a98467", "#7f8d98", "#c2b280", "#9a7f76"}

// Check tells what is wrong with parts as a whole, and gives parts without a name one.
func Check(parts []Part) error {
	if len(parts) == 0 {
		return errors.New("there are no surfaces in it; export the model with its meshes")
	}
	if len(parts) > MaxParts {
		return fmt.Errorf("%d parts are more than the %d that a model may have; join some", len(parts), MaxParts)
	}
	vertices := 0
	for i := range parts {
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
