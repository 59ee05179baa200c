package mechanism

import (
	"fmt"
	"strings"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mesh"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Site is where a new mechanism is built into a document.
type Site struct {
	Document  *rig.Document
	Mechanism *rig.Mechanism // Name, Joints and Host are given; Build adds Controls
	Options   parameter.Set  // complete
	Places    []mgl64.Vec3   // that were laid, for a kind that is built on such
	Asked     parameter.Set  // those of them that somebody asked for; what nobody asked for may suit the place
	Over      bool           // it is laid over what moves the joints already, to be blended with that
	// Section returns the body's cross-section at a frame as a control outline, or nil where there is no body.
	Section func(at geometry.Transform) []mgl64.Vec3
	// Sole returns the body's outline from above around a frame, on the ground, as a control outline, or nil where there is no body.
	Sole func(at geometry.Transform, reach float64) []mgl64.Vec3
	// Box returns the box around parts at rest, empty for none.
	Box func(parts []string) mesh.Bounds
	// Surface returns the surface of a part at rest.
	Surface func(part string) (*mesh.Mesh, error)
	// Say tells the rigger what building found, in words with values.
	Say func(format string, values ...any)
	// Axis returns what the part that goes with a joint turns about there: a place on the axis and its direction; nil, or not ok, where nothing tells.
	Axis func(joint string) (origin, way mgl64.Vec3, ok bool)
	// Extent returns from where to where the parts that go with a joint reach along a line, from a place on it in a direction; nil, or not ok, where no part does.
	Extent func(joint string, origin, way mgl64.Vec3) (least, most float64, ok bool)
	// Middle is the middle of the model, Ground the point on the ground below it, and Size the diagonal of model and joints (a metre where
	// there is nothing to measure). What has no size of its own is made in shares of it.
	Middle, Ground mgl64.Vec3
	Size           float64
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

// Root returns the control that carries the body, and adds it when there is none: in the middle of the model, below the global control
// on the ground, which moves and scales everything.
func (s *Site) Root() string {
	if root := s.Document.ControlNamed(RootName); root != nil {
		return root.ID
	}
	global := ""
	if there := s.Document.ControlNamed(rig.GlobalName); there != nil {
		global = there.ID
	} else {
		global = s.add(rig.Control{
			Name: rig.GlobalName, Label: "Everything", Position: s.Ground, Shape: rig.Pennant, Outline: Outline(rig.Pennant, 0.22*s.Size),
			Dials: []rig.Dial{{Name: rig.ScaleDial, Min: 0.01, Max: 100, Default: 1, Unit: "×"}},
		})
	}
	return s.add(rig.Control{
		Name: RootName, Label: "Body", Space: global, Position: s.Middle, Shape: rig.Hoop, Outline: Outline(rig.Hoop, 0.16*s.Size),
	})
}

// RootName is the name of the control that carries the body.
const RootName = rig.RootName

// add adds a control that is not turned unless it says so, and returns its ID.
func (s *Site) add(control rig.Control) string {
	control.ID, control.Name, control.Order = s.Document.TakeID("c"), rig.UniqueName(control.Name, s.Document.HasName), rig.DefaultOrder
	if control.Rotation == (rig.Quaternion{}) {
		control.Rotation = rig.QuaternionOf(mgl64.QuatIdent())
	}
	s.Document.Controls = append(s.Document.Controls, control)
	return control.ID
}

// Space returns what the controls of a chain hang on: the parent of its first joint, or the root.
func (s *Site) Space() string {
	root := s.Root() // there from the first mechanism on
	if parent := s.Document.Joint(s.Mechanism.Joints[0]).Parent; parent != "" {
		return parent
	}
	return root
}

// Collar adds a control fitted to the body at home and returns its ID. Where there is no body it is a hoop of radius.
func (s *Site) Collar(name, space string, home geometry.Transform, radius float64) string {
	shape, outline := rig.Collar, s.Section(home)
	if outline == nil {
		shape, outline = rig.Hoop, Outline(rig.Hoop, radius)
	}
	return s.Handle(name, space, home, shape, outline)
}

// Suffixed is a name with a word behind it, unless it ends in that word already, or has it before a number: names do not stutter.
func Suffixed(name, word string) string {
	stem := strings.TrimRight(name, "_0123456789")
	if stem == word || strings.HasSuffix(stem, "_"+word) {
		return name
	}
	return name + "_" + word
}

// Handle adds a control of a shape and returns its ID.
func (s *Site) Handle(name, space string, home geometry.Transform, shape rig.Shape, outline []mgl64.Vec3) string {
	return s.add(rig.Control{
		Name: name, Space: space, Position: home.Position, Rotation: rig.QuaternionOf(home.Rotation), Shape: shape, Outline: outline,
	})
}
