// Package terrain is the ground as a height over the level: flat, a slope, steps, or a surface seen from above. Up is +Y; lengths are in the unit of the
// places given. A ground is only read once it is made, and serves any number of readers.
package terrain

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
)

// Shape is what a ground looks like.
type Shape string

// The shapes of the ground.
const (
	Flat    Shape = "flat"
	Slope   Shape = "slope"
	Steps   Shape = "steps"
	Surface Shape = "part" // of the model
)

// Ground is the height of the ground over the level, everywhere.
type Ground struct {
	Shape Shape
	Rise  float64 // how high a slope goes in all, or each of the steps
	Run   float64 // how far a slope goes, or each of the steps; above 0
	Begin float64 // how far ahead of Origin it begins to rise
	Count float64 // of steps
	// Heading is where it rises to: from straight ahead (+Z) to the left (+X), in radians.
	Heading float64
	Origin  mgl64.Vec3
	Level   float64
	Field   *Field // of a Surface
}

// along is how far ahead of where it begins to rise a place lies, in runs.
func (g *Ground) along(at mgl64.Vec3) float64 {
	sine, cosine := math.Sincos(g.Heading)
	return ((at[0]-g.Origin[0])*sine + (at[2]-g.Origin[2])*cosine - g.Begin) / g.Run
}

// Height returns how high the ground is at a place, whose own height counts for nothing.
func (g *Ground) Height(at mgl64.Vec3) float64 {
	switch g.Shape {
	case Slope:
		return g.Level + g.Rise*math.Max(0, math.Min(1, g.along(at)))
	case Steps:
		return g.Level + g.Rise*math.Max(0, math.Min(g.Count, math.Ceil(g.along(at))))
	case Surface:
		height, _ := g.Field.Height(at[0], at[2])
		return g.Level + height
	}
	return g.Level
}

// There tells whether there is ground at a place: a surface may have holes, and ends somewhere. Where there is none, the ground goes on level from the
// nearest that there is.
func (g *Ground) There(at mgl64.Vec3) bool {
	if g.Shape != Surface {
		return true
	}
	_, there := g.Field.Height(at[0], at[2])
	return there
}

// Normal returns which way the ground looks at a place. Treads of steps look up, and so does what is no ground.
func (g *Ground) Normal(at mgl64.Vec3) mgl64.Vec3 {
	switch g.Shape {
	case Slope:
		if along := g.along(at); along > 0 && along < 1 {
			sine, cosine := math.Sincos(g.Heading)
			return mgl64.Vec3{-g.Rise * sine, g.Run, -g.Rise * cosine}.Normalize()
		}
	case Surface:
		return g.Field.Normal(at[0], at[2])
	}
	return geometry.Up
}

// Highest returns how high the ground comes on the straight way from one place to another, both included. Of a surface only what is there counts between the two.
func (g *Ground) Highest(from, to mgl64.Vec3) float64 {
	ends := math.Max(g.Height(from), g.Height(to)) // slopes and steps rise one way
	if g.Shape == Surface {
		return math.Max(ends, g.Level+g.Field.Highest(mgl64.Vec2{from[0], from[2]}, mgl64.Vec2{to[0], to[2]}))
	}
	return ends
}
