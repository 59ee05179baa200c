package edit

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/curve"
	"myriapod/core/geometry"
	"myriapod/core/rig"
)

// LayChain lays a chain of joints through places in the world, each hung on the one before, and the first on Parent when one is
// given. With a Count of two or more the places are divided evenly into that many joints.
type LayChain struct {
	Positions []mgl64.Vec3 `json:"positions"`
	Pattern   string       `json:"pattern"` // names, see Names; empty for names by where it lies
	Parent    string       `json:"parent,omitempty"`
	Count     int          `json:"count,omitempty"`
	Mirrored  bool         `json:"mirrored,omitempty"` // with its mirror image on the other side, live, where it lies to one
}

// Title implements Edit.
func (e *LayChain) Title(*rig.Document) string {
	if e.Pattern == "" {
		return fmt.Sprintf("Lay a chain of %d", max(e.Count, len(e.Positions)))
	}
	return fmt.Sprintf("Lay chain %s", strings.TrimRight(e.Pattern, "#_ "))
}

// Touches implements Edit.
func (e *LayChain) Touches(*rig.Document) []string {
	if e.Parent == "" {
		return nil
	}
	return []string{e.Parent}
}

// Apply implements Edit.
func (e *LayChain) Apply(c *Context, d *rig.Document) error {
	if e.Parent != "" && d.Joint(e.Parent) == nil {
		return missing("joint", e.Parent)
	}
	if len(e.Positions) == 0 {
		return errors.New("a chain has one joint or more; click on the body to place them")
	}
	positions := e.Positions
	if e.Count > 1 {
		even, err := evenly(positions, e.Count)
		if err != nil {
			return err
		}
		positions = even
	}
	if len(positions) > rig.MaxJoints {
		return fmt.Errorf("%d joints are more than the %d that a rig may have", len(positions), rig.MaxJoints)
	}
	side := sideOf(positions)
	pattern := e.Pattern
	if pattern == "" {
		pattern = patternFor(d, side)
	}
	names, err := freeNames(d, pattern, len(positions))
	if err != nil {
		return err
	}
	first := ""
	rotations := Orient(positions)
	parent := e.Parent
	for i, place := range positions {
		joint := rig.Joint{ID: d.TakeID("j"), Name: names[i], Parent: parent, Position: place, Rotation: rig.QuaternionOf(rotations[i])}
		d.Joints = append(d.Joints, joint)
		parent = joint.ID
		if i == 0 {
			first = joint.ID
		}
	}
	if e.Mirrored && side != rig.Centre {
		return (&AddRepeat{Rule: rig.Mirror, Sources: []string{first}, Through: true}).Apply(c, d)
	}
	return nil
}

// beside is how far from the middle, as a share of its length, a chain lies on the whole to count as lying to a side.
const beside = 0.05

// sideOf is the side of the body on which a chain lies: left is +X.
func sideOf(places []mgl64.Vec3) rig.Side {
	length, aside := 0.0, 0.0
	for i, p := range places {
		aside += p[0] / float64(len(places))
		if i > 0 {
			length += p.Sub(places[i-1]).Len()
		}
	}
	switch {
	case length == 0 || math.Abs(aside) <= beside*length:
		return rig.Centre
	case aside > 0:
		return rig.Left
	}
	return rig.Right
}

// patternFor makes names for a chain by where it lies: a limb to a side, with that in its name; a spine as the first in the middle.
func patternFor(d *rig.Document, side rig.Side) string {
	stem, tail := "chain", "_##"
	if side != rig.Centre {
		stem, tail = "limb", "_"+string(side)+"_##"
	} else if len(d.Joints) == 0 {
		stem = "spine"
	}
	for n := 1; ; n++ {
		pattern := stem + tail
		if n > 1 {
			pattern = fmt.Sprintf("%s%d%s", stem, n, tail)
		}
		if !d.HasName(Names(pattern, 1)[0]) {
			return pattern
		}
	}
}

// evenly returns count places at even distances along a smooth curve through the places given, ends included.
func evenly(places []mgl64.Vec3, count int) ([]mgl64.Vec3, error) {
	if len(places) < 2 {
		return nil, errors.New("dividing needs two joints or more; lay another first")
	}
	if count < 2 || count > rig.MaxJoints {
		return nil, fmt.Errorf("a chain divides into 2 to %d joints, not %d", rig.MaxJoints, count)
	}
	line, err := curve.Fit(places, len(places))
	if err != nil {
		return nil, err
	}
	ruler := curve.NewRuler(line)
	ruler.Measure(geometry.Up, geometry.Forward, geometry.Up)
	even := make([]mgl64.Vec3, count)
	for i := range even {
		even[i], _ = line.At(ruler.Locate(ruler.Total() * float64(i) / float64(count-1)))
	}
	return even, nil
}

// MoveJoint moves a joint at rest. The joints below it come along, or stay where they are.
type MoveJoint struct {
	Joint    string     `json:"joint"`
	Position mgl64.Vec3 `json:"position"`
	Below    bool       `json:"below"`
	Alone    bool       `json:"alone,omitempty"` // controls stay where they are
}

// Title implements Edit.
func (e *MoveJoint) Title(d *rig.Document) string { return "Move joint " + d.NameOf(e.Joint) }

// Touches implements Edit.
func (e *MoveJoint) Touches(d *rig.Document) []string {
	if e.Below {
		return below(d, e.Joint)
	}
	return []string{e.Joint}
}

// below returns a joint and all that hang on it, directly or not.
func below(d *rig.Document, id string) []string {
	list := []string{id}
	for i := 0; i < len(list); i++ {
		list = append(list, d.ChildrenOf(list[i])...)
	}
	return list
}

// Apply implements Edit.
func (e *MoveJoint) Apply(c *Context, d *rig.Document) error {
	joint := d.Joint(e.Joint)
	if joint == nil {
		return missing("joint", e.Joint)
	}
	moved := e.Position.Sub(joint.Position)
	joints := []string{e.Joint}
	if e.Below {
		joints = below(d, e.Joint)
	}
	if !e.Alone {
		moves := make(map[string]mgl64.Vec3, len(joints))
		for _, id := range joints {
			moves[id] = moved
		}
		newCarrying(d, moves).carry(c)
	}
	shift(d, joints, moved)
	return nil
}

// shift moves joints at rest, and the frames of repeats that they carry.
func shift(d *rig.Document, joints []string, by mgl64.Vec3) {
	moved := make(map[string]bool, len(joints))
	for _, id := range joints {
		moved[id] = true
	}
	for i := range d.Joints {
		if moved[d.Joints[i].ID] {
			d.Joints[i].Position = d.Joints[i].Position.Add(by)
		}
	}
	carryFrames(d, moved, by)
}

// DivideChain lays the joints of a chain anew at even distances along it, so many of them. The first and last stay; those
// between are replaced. Mechanisms and bindings on them must be taken off first.
type DivideChain struct {
	Joints []string `json:"joints"`
	Count  int      `json:"count"`
}

// Title implements Edit.
func (e *DivideChain) Title(d *rig.Document) string {
	return fmt.Sprintf("Divide chain evenly into %d", e.Count)
}

// Touches implements Edit.
func (e *DivideChain) Touches(*rig.Document) []string { return e.Joints }

// freeChain returns where the joints of a chain stand that nothing uses yet.
func freeChain(d *rig.Document, joints []string) ([]mgl64.Vec3, error) {
	places := make([]mgl64.Vec3, len(joints))
	for i, id := range joints {
		joint := d.Joint(id)
		if joint == nil {
			return nil, missing("joint", id)
		}
		if i > 0 && joint.Parent != joints[i-1] {
			return nil, fmt.Errorf("%s does not hang on %s; choose one chain", joint.Name, d.NameOf(joints[i-1]))
		}
		if err := unused(d, id); err != nil {
			return nil, err
		}
		places[i] = joint.Position
	}
	return places, nil
}

// Apply implements Edit.
func (e *DivideChain) Apply(c *Context, d *rig.Document) error {
	places, err := freeChain(d, e.Joints)
	if err != nil {
		return err
	}
	even, err := evenly(places, e.Count)
	if err != nil {
		return err
	}
	e.rebuild(c, d, even)
	return nil
}

func (e *DivideChain) rebuild(c *Context, d *rig.Document, even []mgl64.Vec3) {
	rotations := Orient(even)
	pattern := patternOf(d.NameOf(e.Joints[0]))
	replaced := make([]rig.Joint, len(even))
	last := len(even) - 1
	for i := range even {
		replaced[i] = rig.Joint{Position: even[i], Rotation: rig.QuaternionOf(rotations[i])}
		switch i {
		case 0:
			replaced[i].ID, replaced[i].Parent = e.Joints[0], d.Joint(e.Joints[0]).Parent
		case last:
			replaced[i].ID = e.Joints[len(e.Joints)-1]
		default:
			replaced[i].ID = d.TakeID("j")
		}
		if i > 0 {
			replaced[i].Parent = replaced[i-1].ID
		}
	}
	for i := range d.Joints { // what hung on a replaced joint hangs on the new one nearest to its old place
		j := &d.Joints[i]
		if k := slices.Index(e.Joints, j.Parent); k > 0 && k < len(e.Joints)-1 && !slices.Contains(e.Joints, j.ID) {
			j.Parent = replaced[k*last/(len(e.Joints)-1)].ID
		}
	}
	at := slices.IndexFunc(d.Joints, func(j rig.Joint) bool { return j.ID == e.Joints[0] })
	for _, id := range e.Joints {
		dropTracks(d, id)
	}
	d.Joints = slices.DeleteFunc(d.Joints, func(j rig.Joint) bool { return slices.Contains(e.Joints, j.ID) })
	for i, name := range Names(pattern, len(even)) {
		replaced[i].Name = freeName(c, d, name)
	}
	d.Joints = slices.Insert(d.Joints, min(at, len(d.Joints)), replaced...)
}

// unused tells who uses a joint that is about to go.
func unused(d *rig.Document, id string) error {
	for _, r := range d.Repeats {
		if slices.Contains(r.Sources, id) {
			return fmt.Errorf("%s is the source of the repeat %s; remove that repeat first", d.NameOf(id), r.Name)
		}
		if slices.Contains(r.Stations, id) {
			return fmt.Errorf("%s carries a copy of the repeat %s; take it out of the stations first", d.NameOf(id), r.Name)
		}
	}
	for _, m := range d.Mechanisms {
		if slices.Contains(m.Joints, id) {
			return fmt.Errorf("%s is moved by %s; remove that mechanism first", d.NameOf(id), m.Name)
		}
		if slices.Contains(m.Takes, id) {
			return fmt.Errorf("%s looks at %s; remove that mechanism first", m.Name, d.NameOf(id))
		}
	}
	for _, b := range d.Bindings {
		if slices.Contains(b.Joints, id) {
			return fmt.Errorf("%s carries the skin of %s; unbind that part first", d.NameOf(id), d.NameOf(b.Part))
		}
	}
	for _, c := range d.Controls {
		if c.Space == id || slices.Contains(c.Spaces, id) {
			return fmt.Errorf("the control %s hangs on %s; hang it elsewhere, or remove its mechanism first", c.Name, d.NameOf(id))
		}
	}
	return nil
}

// DeleteJoints removes joints. What hung on them goes with them when Below is set, and hangs on their parents, in place, when not. Joints
// in use are refused, with who uses them.
type DeleteJoints struct {
	Joints []string `json:"joints"`
	Below  bool     `json:"below,omitempty"`
}

// Title implements Edit.
func (e *DeleteJoints) Title(d *rig.Document) string {
	what, tail := "Dissolve", ""
	if e.Below {
		what, tail = "Delete", " and what is below"
	}
	if len(e.Joints) == 1 {
		return what + " joint " + d.NameOf(e.Joints[0]) + tail
	}
	return fmt.Sprintf("%s %d joints%s", what, len(e.Joints), tail)
}

// Touches implements Edit.
func (e *DeleteJoints) Touches(d *rig.Document) []string { return e.all(d) }

func (e *DeleteJoints) all(d *rig.Document) []string {
	if !e.Below {
		return e.Joints
	}
	var list []string
	for _, id := range e.Joints {
		for _, lower := range below(d, id) {
			if !slices.Contains(list, lower) {
				list = append(list, lower)
			}
		}
	}
	return list
}

// Apply implements Edit.
func (e *DeleteJoints) Apply(_ *Context, d *rig.Document) error {
	for _, id := range e.all(d) {
		joint := d.Joint(id)
		if joint == nil {
			return missing("joint", id)
		}
		if err := unused(d, id); err != nil {
			return err
		}
		for i := range d.Joints {
			if d.Joints[i].Parent == id {
				d.Joints[i].Parent = joint.Parent
			}
		}
		d.Joints = slices.DeleteFunc(d.Joints, func(j rig.Joint) bool { return j.ID == id })
		dropTracks(d, id)
	}
	return nil
}

// dropTracks takes away the motion that clips give a joint.
func dropTracks(d *rig.Document, joint string) {
	for i := range d.Clips {
		d.Clips[i].JointTracks = slices.DeleteFunc(d.Clips[i].JointTracks, func(t rig.JointTrack) bool { return t.Joint == joint })
	}
}
