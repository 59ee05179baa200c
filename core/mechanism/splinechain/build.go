package splinechain

import (
	"fmt"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/curve"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
)

// Each end control carries two curve points, so that turning it turns the curve's end direction; the others carry one.
func pointCount(controls int) int { return controls + 2 }

func fit(rest []geometry.Transform, controls int) (*curve.Ruler, error) {
	places := make([]mgl64.Vec3, len(rest))
	for i, joint := range rest {
		places[i] = joint.Position
	}
	line, err := curve.Fit(places, pointCount(controls))
	if err != nil {
		return nil, err
	}
	ruler := curve.NewRuler(line)
	chord := geometry.Unit(places[1].Sub(places[0]), geometry.MainAxis)
	ruler.Measure(chord, geometry.Up)
	return ruler, nil
}

// Build implements mechanism.Kind: it spreads the controls evenly along the fitted curve, each a collar across it.
func (Kind) Build(site *mechanism.Site) error {
	rest, err := site.Chain(leastJoints)
	if err != nil {
		return err
	}
	controls := int(site.Options.Number("controls"))
	if controls > len(rest) {
		return fmt.Errorf("%d controls are too many for %d joints; choose %d or fewer, or divide the chain finer", controls, len(rest), len(rest))
	}
	ruler, err := fit(rest, controls)
	if err != nil {
		return err
	}
	space := site.Document.Joint(site.Mechanism.Joints[0]).Parent
	if space == "" {
		space = site.Root()
	}
	radius := 0.1 * ruler.Total()
	for i := range controls {
		share := float64(i) / float64(controls-1)
		name := fmt.Sprintf("%s_ctl_%d", site.Mechanism.Name, i+1)
		id := site.Collar(name, space, home(ruler, ruler.Locate(share*ruler.Total())), radius)
		site.Mechanism.Controls = append(site.Mechanism.Controls, id)
	}
	return nil
}

// home is the frame of a control: main axis along the curve, second axis upward, or forward where the curve runs upright.
func home(ruler *curve.Ruler, u float64) geometry.Transform {
	place, frame := ruler.FrameAt(u)
	second := geometry.Up
	if d := frame.Tangent.Dot(geometry.Up); d*d > 0.9 {
		second = geometry.Forward
	}
	return geometry.Transform{Position: place, Rotation: geometry.FromAxes(frame.Tangent, second)}
}
