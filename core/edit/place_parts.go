package edit

import (
	"errors"
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mesh"
	"myriapod/core/rig"
)

// PlaceParts moves, turns and scales parts that are not bound yet, all together, about the middle of their box, and sets that where a joint or a control stands, or at a place.
type PlaceParts struct {
	Parts []string   `json:"parts"`
	Move  mgl64.Vec3 `json:"move"`  // metres
	Turn  mgl64.Vec3 `json:"turn"`  // radians about X, then Y, then Z
	Scale float64    `json:"scale"` // 0 counts as 1
	// Onto is a joint or a control, and At a place, to which their middle comes before it is moved.
	Onto string      `json:"onto,omitempty"`
	At   *mgl64.Vec3 `json:"at,omitempty"`
}

// Title implements Edit.
func (e *PlaceParts) Title(d *rig.Document) string {
	if len(e.Parts) == 1 {
		return "Place " + d.NameOf(e.Parts[0])
	}
	return fmt.Sprintf("Place %d parts", len(e.Parts))
}

// Touches implements Edit.
func (e *PlaceParts) Touches(*rig.Document) []string { return e.Parts }

// Apply implements Edit.
func (e *PlaceParts) Apply(c *Context, d *rig.Document) error {
	if len(e.Parts) == 0 {
		return errors.New("choose the parts that are to be placed")
	}
	list, err := (&FitModel{Parts: e.Parts}).parts(d)
	if err != nil {
		return err
	}
	f, err := e.about(c, d, list)
	if err != nil {
		return err
	}
	for _, id := range list {
		if err := f.part(c, d, id); err != nil {
			return err
		}
	}
	return nil
}

// about is the motion that the edit says, about the middle of the parts' box.
func (e *PlaceParts) about(c *Context, d *rig.Document, parts []string) (f fit, err error) {
	f.scale = e.Scale
	if f.scale == 0 {
		f.scale = 1
	}
	numbers := append(append([]float64{f.scale}, e.Move[:]...), e.Turn[:]...)
	if e.At != nil {
		numbers = append(numbers, e.At[:]...)
	}
	if !geometry.Finite(numbers...) || !(f.scale >= leastScale && f.scale <= 1/leastScale) {
		return f, fmt.Errorf("parts are scaled by %g to %g, and placed by finite numbers; type others", leastScale, 1/leastScale)
	}
	f.turn = mgl64.QuatRotate(e.Turn[2], mgl64.Vec3{0, 0, 1}).Mul(mgl64.QuatRotate(e.Turn[1], geometry.Up)).Mul(mgl64.QuatRotate(e.Turn[0], mgl64.Vec3{1, 0, 0})).Normalize()
	box := mesh.EmptyBounds()
	for _, id := range parts {
		_, surface, err := partAndSurface(c, d, id)
		if err != nil {
			return f, err
		}
		bounds := surface.Bounds()
		box.Add(bounds.Min)
		box.Add(bounds.Max)
	}
	middle := box.Min.Add(box.Max).Mul(0.5)
	to := middle
	switch joint, control := d.Joint(e.Onto), d.Control(e.Onto); {
	case joint != nil:
		to = joint.Position
	case control != nil:
		to = control.Position
	case e.Onto != "":
		return f, fmt.Errorf("there is no joint or control %q to place it on; choose another", e.Onto)
	case e.At != nil:
		to = *e.At
	}
	f.move = to.Add(e.Move).Sub(f.turn.Rotate(middle.Mul(f.scale)))
	if far := math.Max(math.Abs(f.move[0]), math.Max(math.Abs(f.move[1]), math.Abs(f.move[2]))); far > rig.MaxCoordinate {
		return f, fmt.Errorf("it would come to lie farther off than %g m; move it less", float64(rig.MaxCoordinate))
	}
	return f, nil
}

// leastScale bounds how much parts are scaled at once.
const leastScale = 1e-6
