package edit

import (
	"errors"
	"fmt"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/rig"
)

// InsertJoint puts a joint between a joint and its parent: at a place, or half way without one. It is named by the pattern, or by
// counting on from the joint's name.
type InsertJoint struct {
	Before   string      `json:"before"` // the joint that hangs on the new one
	Position *mgl64.Vec3 `json:"position,omitempty"`
	Name     string      `json:"name,omitempty"`
}

// Title implements Edit.
func (e *InsertJoint) Title(d *rig.Document) string {
	return "Insert a joint before " + d.NameOf(e.Before)
}

// Touches implements Edit.
func (e *InsertJoint) Touches(d *rig.Document) []string {
	if j := d.Joint(e.Before); j != nil && j.Parent != "" {
		return []string{e.Before, j.Parent}
	}
	return []string{e.Before}
}

// Apply implements Edit.
func (e *InsertJoint) Apply(_ *Context, d *rig.Document) error {
	j := d.Joint(e.Before)
	if j == nil {
		return missing("joint", e.Before)
	}
	parent := d.Joint(j.Parent)
	if parent == nil {
		return fmt.Errorf("%s hangs on nothing, so there is no bone to insert a joint into; extend the chain instead", j.Name)
	}
	for _, m := range d.Mechanisms {
		if slices.Contains(m.Joints, j.ID) && slices.Contains(m.Joints, parent.ID) {
			return fmt.Errorf("%s moves the chain from %s to %s; remove that mechanism first", m.Name, parent.Name, j.Name)
		}
	}
	place := parent.Position.Add(j.Position).Mul(0.5)
	if e.Position != nil {
		place = *e.Position
	}
	name := e.Name
	if name == "" {
		name = rig.UniqueName(j.Name+"_in", d.HasName)
	}
	main := geometry.Unit(j.Position.Sub(place), parent.Rotation.Quat().Rotate(geometry.MainAxis))
	added := rig.Joint{
		ID: d.TakeID("j"), Name: name, Parent: parent.ID, Position: place,
		Rotation: rig.QuaternionOf(geometry.FromAxes(main, parent.Rotation.Quat().Rotate(geometry.SecondAxis))),
	}
	j.Parent = added.ID
	at := slices.IndexFunc(d.Joints, func(k rig.Joint) bool { return k.ID == e.Before })
	d.Joints = slices.Insert(d.Joints, at, added)
	return nil
}

// SplitOff cuts a chain at a joint: the joint, with what is below it, hangs on nothing any more, and a new joint in its place ends the
// chain that it was part of, so that no bone is lost.
type SplitOff struct {
	Joint string `json:"joint"`
}

// Title implements Edit.
func (e *SplitOff) Title(d *rig.Document) string { return "Split off " + d.NameOf(e.Joint) }

// Touches implements Edit.
func (e *SplitOff) Touches(*rig.Document) []string { return []string{e.Joint} }

// Apply implements Edit.
func (e *SplitOff) Apply(_ *Context, d *rig.Document) error {
	j := d.Joint(e.Joint)
	if j == nil {
		return missing("joint", e.Joint)
	}
	if j.Parent == "" {
		return fmt.Errorf("%s hangs on nothing; it is the top of its chain already", j.Name)
	}
	for _, m := range d.Mechanisms {
		if slices.Contains(m.Joints, j.ID) && slices.Contains(m.Joints, j.Parent) {
			return fmt.Errorf("%s moves the chain through %s; remove that mechanism first", m.Name, j.Name)
		}
	}
	end := rig.Joint{ID: d.TakeID("j"), Name: rig.UniqueName(j.Name+"_end", d.HasName), Parent: j.Parent, Position: j.Position, Rotation: j.Rotation}
	if parent := d.Joint(j.Parent); parent != nil {
		end.Rotation = parent.Rotation
	}
	j.Parent = ""
	d.Joints = append(d.Joints, end)
	return nil
}

// Reparent hangs joints on another joint, or on nothing without one. They stay where they are, or are Connected: moved, with all below
// them, one bone on from the parent along its main axis.
type Reparent struct {
	Joints    []string `json:"joints"`
	Parent    string   `json:"parent"`
	Connected bool     `json:"connected,omitempty"`
}

// Title implements Edit.
func (e *Reparent) Title(d *rig.Document) string {
	what := fmt.Sprintf("%d joints", len(e.Joints))
	if len(e.Joints) == 1 {
		what = d.NameOf(e.Joints[0])
	}
	if e.Parent == "" {
		return "Detach " + what
	}
	return fmt.Sprintf("Hang %s on %s", what, d.NameOf(e.Parent))
}

// Touches implements Edit.
func (e *Reparent) Touches(*rig.Document) []string {
	if e.Parent == "" {
		return e.Joints
	}
	return append(slices.Clone(e.Joints), e.Parent)
}

// Apply implements Edit.
func (e *Reparent) Apply(_ *Context, d *rig.Document) error {
	if len(e.Joints) == 0 {
		return errors.New("no joint is chosen; choose the joints to hang elsewhere")
	}
	parent := d.Joint(e.Parent)
	if e.Parent != "" && parent == nil {
		return missing("joint", e.Parent)
	}
	for _, id := range e.Joints {
		j := d.Joint(id)
		if j == nil {
			return missing("joint", id)
		}
		if e.Parent != "" && slices.Contains(below(d, id), e.Parent) {
			return fmt.Errorf("%s hangs on %s itself, so %s cannot hang on it; detach %s first", parent.Name, j.Name, j.Name, parent.Name)
		}
		for _, m := range d.Mechanisms {
			if at := slices.Index(m.Joints, id); at > 0 && m.Joints[at-1] != e.Parent {
				return fmt.Errorf("%s moves the chain through %s; remove that mechanism first", m.Name, j.Name)
			}
		}
		j.Parent = e.Parent
		if e.Connected && parent != nil {
			shift(d, below(d, id), tipOf(d, *parent).Sub(j.Position))
		}
	}
	return nil
}

// tipOf is the place one bone on from a joint along its main axis: as far as its own bone is long.
func tipOf(d *rig.Document, j rig.Joint) mgl64.Vec3 {
	length := 0.1
	if before := d.Joint(j.Parent); before != nil {
		if bone := j.Position.Sub(before.Position).Len(); bone > 0 {
			length = bone
		}
	}
	return j.Position.Add(j.Rotation.Quat().Rotate(geometry.MainAxis).Mul(length))
}

// JointPlace is where a joint shall stand.
type JointPlace struct {
	Joint    string     `json:"joint"`
	Position mgl64.Vec3 `json:"position"`
}

// PlaceJoints puts several joints at places at rest, each by itself: what hangs on them stays, unless it is named as well.
type PlaceJoints struct {
	Places []JointPlace `json:"places"`
}

// Title implements Edit.
func (e *PlaceJoints) Title(*rig.Document) string {
	return fmt.Sprintf("Place %d joints", len(e.Places))
}

// Touches implements Edit.
func (e *PlaceJoints) Touches(*rig.Document) []string {
	list := make([]string, len(e.Places))
	for i, p := range e.Places {
		list[i] = p.Joint
	}
	return list
}

// Apply implements Edit.
func (e *PlaceJoints) Apply(c *Context, d *rig.Document) error {
	moves := make(map[string]mgl64.Vec3, len(e.Places))
	for _, p := range e.Places {
		j := d.Joint(p.Joint)
		if j == nil {
			return missing("joint", p.Joint)
		}
		moves[p.Joint] = p.Position.Sub(j.Position)
	}
	newCarrying(d, moves).carry(c)
	for _, p := range e.Places {
		d.Joint(p.Joint).Position = p.Position
	}
	return nil
}
