package mechanism

import (
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Site is where a new mechanism is built into a document.
type Site struct {
	Document  *rig.Document
	Mechanism *rig.Mechanism // Name, Joints and Host are given; Build adds Controls
	Options   parameter.Set  // complete
	// Section returns the body's cross-section at a frame as a control outline, or nil where there is no body.
	Section func(at geometry.Transform) []mgl64.Vec3
	// Ground is the point below the middle of the model, and Size the model's diagonal (both of the joints where there
	// is no model).
	Ground mgl64.Vec3
	Size   float64
}

// Chain returns the rest transforms of the mechanism's joints, each of which must be the parent of the next.
func (s *Site) Chain(least int) ([]geometry.Transform, error) {
	if len(s.Mechanism.Joints) < least {
		return nil, fmt.Errorf("it needs a chain of %d joints or more, and %d are chosen; lay or choose more joints", least, len(s.Mechanism.Joints))
	}
	rest := make([]geometry.Transform, len(s.Mechanism.Joints))
	for i, id := range s.Mechanism.Joints {
		joint := s.Document.Joint(id)
		if joint == nil {
			return nil, fmt.Errorf("there is no joint %q", id)
		}
		if i > 0 && joint.Parent != s.Mechanism.Joints[i-1] {
			return nil, fmt.Errorf("%s does not hang on %s; choose joints that follow each other down one chain",
				joint.Name, s.Document.NameOf(s.Mechanism.Joints[i-1]))
		}
		rest[i] = joint.Rest()
	}
	return rest, nil
}

// RootName is the name of the control that carries the whole creature.
const RootName = "root"

// Root returns the control that carries the whole creature, and adds it when there is none.
func (s *Site) Root() string {
	if root := s.Document.ControlNamed(RootName); root != nil {
		return root.ID
	}
	root := rig.Control{
		ID: s.Document.TakeID("c"), Name: rig.UniqueName(RootName, s.Document.HasName), Label: "Root",
		Position: s.Ground, Rotation: rig.QuaternionOf(mgl64.QuatIdent()),
		Order: "YXZ", Shape: rig.Pennant, Outline: pennant(0.22 * s.Size),
	}
	s.Document.Controls = append(s.Document.Controls, root)
	return root.ID
}

// pennant is a swallow-tailed flag lying on the ground that points forward.
func pennant(length float64) []mgl64.Vec3 {
	w := 0.3 * length
	return []mgl64.Vec3{
		{0, 0, 0.75 * length}, {w, 0, -0.25 * length}, {0.35 * w, 0, -0.1 * length}, {-0.35 * w, 0, -0.1 * length}, {-w, 0, -0.25 * length},
	}
}

// OutlinePoints is how many points a collar has.
const OutlinePoints = 40

// Collar adds a control fitted to the body at home and returns its ID. Where there is no body it is a ring of radius.
func (s *Site) Collar(name, space string, home geometry.Transform, radius float64) string {
	shape := s.Section(home)
	if shape == nil {
		shape = ring(radius)
	}
	control := rig.Control{
		ID: s.Document.TakeID("c"), Name: rig.UniqueName(name, s.Document.HasName), Space: space,
		Position: home.Position, Rotation: rig.QuaternionOf(home.Rotation),
		Order: "YXZ", Shape: rig.Collar, Outline: shape,
	}
	s.Document.Controls = append(s.Document.Controls, control)
	return control.ID
}

func ring(radius float64) []mgl64.Vec3 {
	points := make([]mgl64.Vec3, OutlinePoints)
	for i := range points {
		turn := mgl64.QuatRotate(2*math.Pi*float64(i)/OutlinePoints, geometry.MainAxis)
		points[i] = turn.Rotate(mgl64.Vec3{0, 0, radius})
	}
	return points
}
