package along

import (
	"fmt"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/curve"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Limits of a chain that rides along a curve.
const (
	LeastJoints   = 3
	LeastControls = 3
	MostControls  = 64
)

// Options declares what is asked when such a chain is built.
func Options() parameter.Declared {
	return parameter.Declared{{
		Key: "controls", Title: "Controls", Type: parameter.Number, Min: LeastControls, Max: MostControls, Whole: true,
		Default: parameter.OfNumber(5), Help: "How many handles carry the curve, spread evenly along the chain.",
	}}
}

// pointCount is how many points the curve of so many controls has: each end control carries two, so that turning it turns the curve's
// end direction; the others carry one.
func pointCount(controls int) int { return controls + 2 }

// Fit returns the curve through the joints at rest that so many controls can carry, measured.
func Fit(rest []geometry.Transform, controls int) (*curve.Ruler, error) {
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
	ruler.Measure(chord, geometry.Up, chord)
	return ruler, nil
}

// Build spreads controls evenly along the curve fitted to the chain, each a collar across it.
func Build(site *mechanism.Site) error {
	rest, err := site.Chain(LeastJoints)
	if err != nil {
		return err
	}
	controls := int(site.Options.Number("controls"))
	if _, asked := site.Asked["controls"]; !asked {
		controls = min(controls, len(rest))
	}
	if controls > len(rest) {
		return fmt.Errorf("%d controls are too many for %d joints; choose %d or fewer, or divide the chain finer", controls, len(rest), len(rest))
	}
	ruler, err := Fit(rest, controls)
	if err != nil {
		return err
	}
	space, roll := site.Space(), upright(ruler)
	for i := range controls {
		share := float64(i) / float64(controls-1)
		site.Mechanism.Controls = append(site.Mechanism.Controls, add(site, ruler, space, fmt.Sprintf("%s_%d", mechanism.Suffixed(site.Mechanism.Name, "ctl"), i+1), share, roll))
	}
	return nil
}

func add(site *mechanism.Site, ruler *curve.Ruler, space, name string, share, roll float64) string {
	return site.Collar(name, space, home(ruler, share, roll), 0.1*ruler.Total())
}

// home is the frame of a control at a share of the curve: main axis along it, the second as it is carried there from the beginning, where
// it is rolled. So the controls of a chain never stand rolled against each other, however it bends.
func home(ruler *curve.Ruler, share, roll float64) geometry.Transform {
	place, frame := ruler.FrameAt(ruler.Locate(share * ruler.Total()))
	return geometry.Transform{Position: place, Rotation: frame.Rotation(roll)}
}

// upright is the roll with which the second axis is upward where the curve begins, or forward where it begins upright.
func upright(ruler *curve.Ruler) float64 {
	_, frame := ruler.FrameAt(0)
	second := geometry.Up
	if d := frame.Tangent.Dot(geometry.Up); d*d > 0.9 {
		second = geometry.Forward
	}
	return rollTo(ruler, second)
}

// rollTo is the roll with which the second axis is as near as can be to a direction where the curve begins.
func rollTo(ruler *curve.Ruler, second mgl64.Vec3) float64 {
	_, frame := ruler.FrameAt(0)
	return geometry.SignedAngle(frame.Normal, geometry.Across(second, frame.Tangent), frame.Tangent)
}

// Places returns where along the chain the controls of a mechanism stand.
func Places(m rig.Mechanism) []float64 {
	if len(m.Places) == len(m.Controls) {
		return m.Places
	}
	places := make([]float64, len(m.Controls))
	for i := range places {
		places[i] = float64(i) / float64(len(places)-1)
	}
	return places
}

// Arrange gives the mechanism of a site other controls, or other places for those it has: for each either its ID or, for a new one,
// nothing, and its place as a share of the chain's length. The first and the last control stay at the ends. A control that is placed anew
// gets a home on the curve there; what is left out stays in the document for the caller to take away.
func Arrange(site *mechanism.Site, controls []string, places []float64) error {
	rest, err := site.Chain(LeastJoints)
	if err != nil {
		return err
	}
	m := site.Mechanism
	if len(controls) < LeastControls || len(controls) > min(MostControls, len(rest)) {
		return fmt.Errorf("a chain of %d joints has %d to %d controls, not %d", len(rest), LeastControls, min(MostControls, len(rest)), len(controls))
	}
	if places[0] != 0 || places[len(places)-1] != 1 {
		return fmt.Errorf("the first and the last control stand at the ends of the chain, at 0 and 1, not at %g and %g", places[0], places[len(places)-1])
	}
	ruler, err := Fit(rest, len(controls))
	if err != nil {
		return err
	}
	roll := rollTo(ruler, site.Document.Control(m.Controls[0]).Home().Rotation.Rotate(geometry.SecondAxis))
	before := map[string]float64{}
	for i, at := range Places(*m) {
		before[m.Controls[i]] = at
	}
	arranged := make([]string, len(controls))
	for i, id := range controls {
		at, had := before[id]
		switch {
		case id == "":
			arranged[i] = add(site, ruler, site.Document.Control(m.Controls[min(i, len(m.Controls)-1)]).Space, m.Name+"_ctl", places[i], roll)
		case !had:
			return fmt.Errorf("%s is no control of %s", site.Document.NameOf(id), m.Name)
		case at != places[i]:
			to := home(ruler, places[i], roll)
			control := site.Document.Control(id)
			control.Position, control.Rotation = to.Position, rig.QuaternionOf(to.Rotation)
			arranged[i] = id
		default:
			arranged[i] = id
		}
	}
	m.Controls, m.Places = arranged, places
	return nil
}
