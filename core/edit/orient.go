package edit

import (
	"errors"
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"
	"gonum.org/v1/gonum/mat"

	"myriapod/core/geometry"
	"myriapod/core/rig"
)

// Orient returns orientations for a chain through places: the main axis aims at the next place (the last goes on as the one
// before), the second axis starts upward (forward where the chain starts upright) and is carried along without roll.
func Orient(places []mgl64.Vec3) []mgl64.Quat {
	rotations := make([]mgl64.Quat, len(places))
	main := geometry.Up
	if len(places) > 1 {
		main = geometry.Unit(places[1].Sub(places[0]), geometry.Up)
	}
	second := geometry.Up
	if d := main.Dot(geometry.Up); d*d > 0.9 {
		second = geometry.Forward
	}
	second = geometry.Across(second, main)
	for i := range places {
		aim := main
		if i+1 < len(places) {
			aim = geometry.Unit(places[i+1].Sub(places[i]), main)
		}
		second = geometry.Across(geometry.Shortest(main, aim, second).Rotate(second), aim)
		main = aim
		rotations[i] = geometry.FromAxes(main, second)
	}
	return rotations
}

// Second says where the second axes of oriented joints go.
type Second string

// The ways to choose second axes.
const (
	Carried Second = "carried" // from the first joint on, without roll
	Toward  Second = "toward"  // as near to a direction as they can be
	InPlane Second = "plane"   // in the plane that fits the chain best
	AsIs    Second = "as is"   // as near to where they are as they can be
)

// OrientJoints orients joints at rest: the main axis at the child, the second axis as chosen, then a roll about the main axis. No
// joint moves, and the skin stays.
type OrientJoints struct {
	Joints    []string   `json:"joints"`
	Aim       bool       `json:"aim"`
	Second    Second     `json:"second"`
	Direction mgl64.Vec3 `json:"direction"` // for Toward, in the world
	Roll      float64    `json:"roll"`      // radians, on top
	Order     string     `json:"order,omitempty"`
}

func (*OrientJoints) builds() {}

// Title implements Edit.
func (e *OrientJoints) Title(d *rig.Document) string {
	if len(e.Joints) == 1 {
		return "Orient " + d.NameOf(e.Joints[0])
	}
	return fmt.Sprintf("Orient %d joints", len(e.Joints))
}

// Touches implements Edit.
func (e *OrientJoints) Touches(*rig.Document) []string { return e.Joints }

// Apply implements Edit.
func (e *OrientJoints) Apply(_ *Context, d *rig.Document) error {
	if len(e.Joints) == 0 {
		return errors.New("no joint is chosen; choose the joints to orient")
	}
	if !geometry.Finite(e.Roll) || math.Abs(e.Roll) > 1e4 {
		return errors.New("the roll is not an angle within reason; give one in degrees")
	}
	if e.Second == Toward && !(e.Direction.Len() > 1e-9) {
		return errors.New("the direction for the second axis has no length; choose one")
	}
	chains, err := chainsOf(d, e.Joints)
	if err != nil {
		return err
	}
	for _, chain := range chains {
		if err := e.chain(d, chain); err != nil {
			return err
		}
	}
	return nil
}

// chainsOf splits joints into unbroken chains, each joint the parent of the next: a joint with several children among them goes on
// with the first.
func chainsOf(d *rig.Document, joints []string) ([][]string, error) {
	chosen := make(map[string]bool, len(joints))
	for _, id := range joints {
		if d.Joint(id) == nil {
			return nil, missing("joint", id)
		}
		chosen[id] = true
	}
	next := map[string]string{}
	continued := map[string]bool{}
	for _, j := range d.Joints {
		if chosen[j.ID] && chosen[j.Parent] && next[j.Parent] == "" {
			next[j.Parent], continued[j.ID] = j.ID, true
		}
	}
	var chains [][]string
	for _, j := range d.Joints {
		if !chosen[j.ID] || continued[j.ID] {
			continue
		}
		var chain []string
		for id := j.ID; id != ""; id = next[id] {
			chain = append(chain, id)
		}
		chains = append(chains, chain)
	}
	return chains, nil
}

func (e *OrientJoints) chain(d *rig.Document, chain []string) error {
	places := make([]mgl64.Vec3, 0, len(chain)+1)
	for _, id := range chain {
		places = append(places, d.Joint(id).Position)
	}
	// The last joint aims at a child outside of the choice, or on as the bone before it.
	if children := d.ChildrenOf(chain[len(chain)-1]); len(children) > 0 {
		places = append(places, d.Joint(children[0]).Position)
	}
	carried := Orient(places)
	if len(places) == 1 { // alone, with nothing to aim at: as its parent does
		carried[0] = d.Joint(chain[0]).Rotation.Quat()
		if parent := d.Joint(d.Joint(chain[0]).Parent); parent != nil {
			if bone := d.Joint(chain[0]).Position.Sub(parent.Position); bone.Len() > 0 {
				carried[0] = geometry.FromAxes(bone.Normalize(), carried[0].Rotate(geometry.SecondAxis))
			}
		}
	}
	normal := bestPlane(places)
	for i, id := range chain {
		j := d.Joint(id)
		old := j.Rotation.Quat()
		main := old.Rotate(geometry.MainAxis)
		if e.Aim {
			main = carried[i].Rotate(geometry.MainAxis)
		}
		var second mgl64.Vec3
		switch e.Second {
		case Carried:
			second = carried[i].Rotate(geometry.SecondAxis)
		case Toward:
			second = e.Direction.Normalize()
		case InPlane:
			second = normal.Cross(main)
		case AsIs:
			second = old.Rotate(geometry.SecondAxis)
		default:
			return fmt.Errorf("the second axis is one of %s, %s, %s, %s, not %q", Carried, Toward, InPlane, AsIs, e.Second)
		}
		turned := geometry.FromAxes(main, second)
		if e.Roll != 0 {
			turned = turned.Mul(mgl64.QuatRotate(e.Roll, geometry.MainAxis)).Normalize()
		}
		j.Rotation = rig.QuaternionOf(turned)
		turnTracks(d, id, old.Conjugate().Mul(turned))
		if e.Order != "" {
			j.Order = geometry.Order(e.Order)
		}
	}
	return nil
}

// bestPlane returns the normal, at length one, of the plane through places that fits them best by least squares: the direction of
// their least spread. It points to the side of +X, or +Y or +Z where it lies across that. Places on a line have no best plane:
// the world axis most nearly across the line is taken then.
func bestPlane(places []mgl64.Vec3) mgl64.Vec3 {
	var middle mgl64.Vec3
	for _, p := range places {
		middle = middle.Add(p.Mul(1 / float64(len(places))))
	}
	spread := mat.NewSymDense(3, nil)
	for _, p := range places {
		v := p.Sub(middle)
		for row := range 3 {
			for column := row; column < 3; column++ {
				spread.SetSym(row, column, spread.At(row, column)+v[row]*v[column])
			}
		}
	}
	var eigen mat.EigenSym
	line := mgl64.Vec3{0, 0, 1}
	if len(places) > 1 {
		line = geometry.Unit(places[len(places)-1].Sub(places[0]), line)
	}
	if !eigen.Factorize(spread, true) {
		return geometry.Across(mgl64.Vec3{1, 0, 0}, line)
	}
	values := eigen.Values(nil)
	if !(values[1] > 1e-12*values[2]) { // on a line, or in one spot
		return geometry.Across(mgl64.Vec3{1, 0, 0}, line)
	}
	var vectors mat.Dense
	eigen.VectorsTo(&vectors)
	normal := mgl64.Vec3{vectors.At(0, 0), vectors.At(1, 0), vectors.At(2, 0)}
	for _, component := range normal {
		if math.Abs(component) > 1e-9 {
			if component < 0 {
				normal = normal.Mul(-1)
			}
			break
		}
	}
	return normal.Normalize()
}

// turnTracks rewrites the motion that clips give a joint for its new axes, turned by q in its old ones, so that clips move it as before.
func turnTracks(d *rig.Document, joint string, q mgl64.Quat) {
	back := q.Conjugate()
	for i := range d.Clips {
		for k := range d.Clips[i].JointTracks {
			t := &d.Clips[i].JointTracks[k]
			if t.Joint != joint || t.Property == rig.JointGirth {
				continue
			}
			keys := make([]rig.JointKey, len(t.Keys))
			for n, key := range t.Keys {
				if t.Property == rig.JointTurn {
					key.Value = rig.QuaternionOf(back.Mul(rig.Quaternion(key.Value).Quat()).Mul(q).Normalize())
				} else {
					moved := back.Rotate(mgl64.Vec3{key.Value[0], key.Value[1], key.Value[2]})
					key.Value = [4]float64{moved[0], moved[1], moved[2]}
				}
				keys[n] = key
			}
			t.Keys = keys
		}
	}
}

// scaleMoves scales how far a clip moves joints.
func scaleMoves(clip *rig.Clip, scale float64) {
	for k := range clip.JointTracks {
		t := &clip.JointTracks[k]
		if t.Property != rig.JointMove {
			continue
		}
		keys := make([]rig.JointKey, len(t.Keys))
		for n, key := range t.Keys {
			for axis := range key.Value {
				key.Value[axis] *= scale
			}
			keys[n] = key
		}
		t.Keys = keys
	}
}
