package edit

import (
	"fmt"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/driver"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// MirrorResponse has the number of the other side answer the other side's number as a response does on its own side. One in the middle answers, or is
// answered, on both sides. Where the two sides' controls stand in other ways, curves are turned round.
type MirrorResponse struct {
	ID  string `json:"id"`            // of the driver
	All bool   `json:"all,omitempty"` // and all other responses to the same number, a whole pose
}

// Title implements Edit.
func (e *MirrorResponse) Title(d *rig.Document) string {
	if x := d.Driver(e.ID); x != nil {
		return fmt.Sprintf("Mirror the %s of %s", x.Kind, d.NameOfValue(x.Drives))
	}
	return "Mirror a response"
}

// Touches implements Edit.
func (e *MirrorResponse) Touches(d *rig.Document) []string {
	touched := []string{e.ID}
	if x := d.Driver(e.ID); x != nil {
		if other, _, err := otherSide(d, x.Drives); err == nil {
			touched = append(touched, other.Of)
		}
	}
	return touched
}

// Apply implements Edit.
func (e *MirrorResponse) Apply(c *Context, d *rig.Document) error {
	first := d.Driver(e.ID)
	switch {
	case first == nil:
		return missing("driver", e.ID)
	case first.Kind != driver.ResponseKind:
		return fmt.Errorf("a %s is not mirrored; equal numbers of two sides mirror by themselves", first.Kind)
	}
	by, done := first.By[0], 0
	for _, x := range slices.Clone(d.Drivers) {
		if x.ID != e.ID && !(e.All && x.Kind == driver.ResponseKind && x.By[0] == by) {
			continue
		}
		if _, sided := rig.OtherSide(d.NameOf(x.Drives.Of)); !sided && x.ID != e.ID {
			continue // what answers in the middle is of both sides
		}
		if err := mirrorResponse(c, d, x); err != nil {
			return err
		}
		done++
	}
	if done == 0 {
		return fmt.Errorf("nothing of it stands on a side")
	}
	return nil
}

func mirrorResponse(c *Context, d *rig.Document, x rig.Driver) error {
	drives, answers, err := otherSide(d, x.Drives)
	if err != nil {
		return err
	}
	by, reads, err := otherSide(d, x.By[0])
	if _, sided := rig.OtherSide(d.NameOf(x.By[0].Of)); !sided {
		by, reads, err = x.By[0], 1, nil
	}
	if err != nil {
		return err
	}
	made := x.Parameters.Clone()
	made[driver.Points] = parameter.OfProfile(turnedRound(x.Parameters[driver.Points].Profile, reads, answers)...)
	if reads < 0 {
		made[driver.Before], made[driver.After] = made[driver.After], made[driver.Before]
		for _, end := range []string{driver.Before, driver.After} {
			if made[end].Choice == "" {
				delete(made, end)
			}
		}
	}
	for i := range d.Drivers { // it is mirrored anew
		if there := &d.Drivers[i]; there.Kind == x.Kind && there.Drives == drives && there.By[0] == by && there.ID != x.ID {
			there.Parameters = made
			return nil
		}
	}
	return (&AddDriver{Driver: x.Kind, Drives: drives, By: []rig.Address{by}, Parameters: made}).Apply(c, d)
}

// turnedRound is points with their places and answers times 1 or -1.
func turnedRound(points []parameter.Point, reads, answers float64) []parameter.Point {
	made := make([]parameter.Point, len(points))
	for i, p := range points {
		made[i] = parameter.Point{reads * p[0], answers * p[1]}
	}
	if reads < 0 {
		slices.Reverse(made)
	}
	return made
}

// otherSide finds the number of the other side by its name, and whether it goes the same way (1) or the other way round (-1) for the mirror image of a motion.
func otherSide(d *rig.Document, a rig.Address) (rig.Address, float64, error) {
	name, key := d.NameOf(a.Of), a.Key
	other, sided := rig.OtherSide(name)
	if !sided {
		if key, sided = rig.OtherSide(a.Key); sided { // blink_L of a part in the middle
			return rig.Address{Of: a.Of, Key: key}, 1, nil
		}
		return a, 0, fmt.Errorf("%s stands on no side, by its name; give it one, as in blink_L", d.NameOfValue(a))
	}
	found := ""
	d.EachNamed(func(id, named string) bool {
		if named == other {
			found = id
		}
		return found == ""
	})
	if found == "" {
		return a, 0, fmt.Errorf("there is no %s for the mirror image of %s; make it first", other, name)
	}
	if changed, sided := rig.OtherSide(a.Key); sided {
		key = changed
	}
	b := rig.Address{Of: found, Key: key}
	one, two := d.Control(a.Of), d.Control(found)
	if one == nil || two == nil || rig.Channel(a.Key).Index() < 0 {
		return b, 1, nil
	}
	way, err := wayRound(*one, *two, rig.Channel(a.Key))
	return b, way, err
}

// alongside is the least cosine between an axis and the mirror image of another for the two to go together.
const alongside = 0.9

// wayRound tells whether a channel of one control goes the same way as that of another for the mirror image of a motion, 1, or the other way round, -1.
func wayRound(one, two rig.Control, channel rig.Channel) (float64, error) {
	if one.Mirrored != two.Mirrored {
		return 1, nil // equal numbers mirror
	}
	k := channel.Index()
	axis := mgl64.Vec3{}
	axis[k%3] = 1
	a, b := one.Home().Rotation.Rotate(axis), two.Home().Rotation.Rotate(axis)
	image := mgl64.Vec3{-a[0], a[1], a[2]}
	if k >= 3 {
		image = image.Mul(-1) // what turns, turns the other way in a mirror
	}
	way := image.Dot(b)
	if math.Abs(way) < alongside {
		return 0, fmt.Errorf("%s of %s goes another way than the mirror image of that of %s; orient the two alike first", channel, two.Name, one.Name)
	}
	return math.Copysign(1, way), nil
}
