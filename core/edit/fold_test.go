package edit_test

import (
	"fmt"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/edit"
	"myriapod/core/repeat"
	"myriapod/core/rig"
)

// nested is a trunk with a limb that is mirrored, and then both repeated along the trunk or in a ring.
func nested(t *rapid.T) *rig.Document {
	number := rapid.Float64Range(-0.4, 0.4)
	trunk, limb := []mgl64.Vec3{}, []mgl64.Vec3{}
	for i := range 5 {
		trunk = append(trunk, mgl64.Vec3{number.Draw(t, "tx"), 1 + number.Draw(t, "ty"), float64(i)})
	}
	for i := range 3 {
		limb = append(limb, mgl64.Vec3{1 + float64(i), number.Draw(t, "ly"), number.Draw(t, "lz")})
	}
	d := apply(t, rig.New("nested"), &edit.LayChain{Positions: trunk, Pattern: "trunk_#"})
	d = apply(t, d, &edit.LayChain{Positions: limb, Pattern: "limb_L_#", Parent: d.Joints[0].ID})
	d = apply(t, d, &edit.AddRepeat{Rule: rig.Mirror, Sources: []string{d.Joints[5].ID}, Through: true, Direction: mgl64.Vec3{1, number.Draw(t, "n"), 0}})
	again := &edit.AddRepeat{Rule: rig.Series, Sources: []string{d.Joints[5].ID, repeat.CopyID(d.Repeats[0].ID, 1, d.Joints[5].ID)}, Pattern: "*_s#", Stations: []string{d.Joints[2].ID, d.Joints[4].ID}}
	if rapid.Bool().Draw(t, "ring") {
		again.Rule, again.Count, again.Stations, again.Pattern = rig.Ring, 4, nil, "*_r#"
		again.Direction = mgl64.Vec3{0.2, number.Draw(t, "r"), 1}
	}
	return apply(t, d, again)
}

func seen(t require.TestingT, d *rig.Document) *repeat.Expansion {
	x, err := repeat.Expand(d)
	require.NoError(t, err)
	return x
}

// Wherever in nested repeats a joint is moved or turned, it ends where it was put, and all its fellows where their rule puts them.
func TestACopyEndsWhereItIsPutAndItsFellowsFollow(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := nested(t)
		x := seen(t, d)
		copies := []rig.Joint{}
		for _, j := range x.Document.Joints {
			if _, copied := x.Origins[j.ID]; copied {
				copies = append(copies, j)
			}
		}
		j := copies[rapid.IntRange(0, len(copies)-1).Draw(t, "copy")]
		number := rapid.Float64Range(-2, 2)
		to := mgl64.Vec3{number.Draw(t, "x"), number.Draw(t, "y"), number.Draw(t, "z")}
		turn := &edit.OrientJoints{Joints: []string{j.ID}, Second: edit.AsIs, Roll: number.Draw(t, "roll")}
		only := rapid.Bool().Draw(t, "only")
		do := func(e edit.Edit) {
			if only {
				e = &edit.OnCopy{Edit: edit.Written{Edit: e}}
			}
			d = apply(t, d, e)
		}
		do(&edit.MoveJoint{Joint: j.ID, Position: to})
		want := mgl64.QuatRotate(turn.Roll, mgl64.Vec3{0, 1, 0})
		do(turn)
		now := seen(t, d)
		put := now.Document.Joint(j.ID)
		assert.InDelta(t, 0, put.Position.Sub(to).Len(), 1e-9)
		assert.InDelta(t, 0, put.Rotation.Quat().Sub(j.Rotation.Quat().Mul(want)).Len()*put.Rotation.Quat().Add(j.Rotation.Quat().Mul(want)).Len(), 1e-9)
		base := x.Base(j.ID)
		for _, other := range now.Document.Joints {
			if now.Base(other.ID) != base || other.ID == j.ID {
				continue
			}
			before := x.Document.Joint(other.ID)
			if only {
				if !passesOn(now, other.ID, j.ID) {
					assert.Equal(t, before.Position, other.Position, "%s is not meant", other.Name)
				}
				continue
			}
			moved := d.Joint(base).Position
			assert.InDelta(t, 0, carried(now, other.ID, moved).Sub(other.Position).Len(), 1e-9, "%s follows", other.Name)
		}
		kept := 0
		for _, r := range d.Repeats {
			kept += len(r.Differences)
		}
		assert.Equal(t, only, kept > 0)
	})
}

// passesOn tells whether a copy is a copy of another, directly or not.
func passesOn(x *repeat.Expansion, id, of string) bool {
	for {
		origin, ok := x.Origins[id]
		if !ok {
			return false
		}
		if id = origin.Of; id == of {
			return true
		}
	}
}

// carried takes a place of the first source to a copy of it, level by level.
func carried(x *repeat.Expansion, id string, place mgl64.Vec3) mgl64.Vec3 {
	origin, ok := x.Origins[id]
	if !ok {
		return place
	}
	from := carried(x, origin.Of, place)
	// The place that comes back from the copy is the source's: found by the inverse of the inverse.
	copied := x.Document.Joint(id).Position
	if origin.PlaceBack(copied).Sub(from).Len() < 1e-9 {
		return copied
	}
	return mgl64.Vec3{1e9, 0, 0}
}

// What is laid on a copy is laid on the source and comes to every copy; on one copy alone it stays alone.
func TestWhatIsBuiltOnACopyComesToAllOrStaysAlone(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := nested(t)
		x := seen(t, d)
		tips := []string{}
		for _, j := range x.Document.Joints {
			if x.Base(j.ID) == d.Joints[7].ID {
				tips = append(tips, j.ID)
			}
		}
		tip := tips[rapid.IntRange(0, len(tips)-1).Draw(t, "tip")]
		lay := &edit.LayChain{Positions: []mgl64.Vec3{{5, 5, 5}, {6, 5, 5}}, Pattern: "toe_#", Parent: tip}
		all := seen(t, apply(t, d, lay))
		assert.Equal(t, len(x.Document.Joints)+2*len(tips), len(all.Document.Joints))
		at := 0
		for _, j := range all.Document.Joints {
			if j.Position.Sub(mgl64.Vec3{5, 5, 5}).Len() < 1e-9 {
				assert.Equal(t, tip, j.Parent)
				at++
			}
		}
		assert.Equal(t, 1, at, "it stands where it was laid, on the copy it was laid on")
		alone := seen(t, apply(t, d, &edit.OnCopy{Edit: edit.Written{Edit: lay}}))
		with := 1 // itself, and what copies it in turn
		for _, other := range tips {
			if other != tip && passesOn(x, other, tip) {
				with++
			}
		}
		assert.Equal(t, len(x.Document.Joints)+2*with, len(alone.Document.Joints))
	})
}

// FuzzEdits sends whatever decodes as an edit at a document with repeats: it is applied or refused, never with a panic, and what comes
// of it is valid.
func FuzzEdits(f *testing.F) {
	for _, text := range []string{
		`{"kind":"lay-chain","positions":[[1,2,3],[2,2,3]],"pattern":"a_#","parent":"r8.1/j6"}`,
		`{"kind":"on-copy","edit":{"kind":"move-joint","joint":"r8.1/j6","position":[0,0,0],"below":true}}`,
		`{"kind":"add-repeat","rule":"series","sources":["r8.1/j6"],"stations":["j2","j3"]}`,
		`{"kind":"delete-joints","joints":["r8.2/j7"],"below":true}`, `{"kind":"detach-repeat","repeat":"r8"}`, `{"kind":"remove-repeat","repeat":"r8"}`,
		`{"kind":"orient-joints","joints":["j1","j2"],"aim":true,"second":"plane"}`, `{"kind":"split-off","joint":"j2"}`,
		`{"kind":"reparent","joints":["j6"],"parent":"r8.1/j7","connected":true}`, `{"kind":"change-repeat","repeat":"r8","count":7,"direction":[0,0,0]}`,
		`{"kind":"rename-many","ids":["j1","r8.1/j6"],"search":"_","replace":"{side}#"}`, `{"kind":"drop-difference","repeat":"r8","copy":1,"of":"j6"}`,
		`{"kind":"add-mechanism","mechanism":"spline-chain","name":"m","joints":["r8.1/j5","r8.1/j6","r8.1/j7"],"options":{"controls":3}}`,
		`{"kind":"divide-chain","joints":["r8.1/j5","r8.1/j6","r8.1/j7"],"count":5}`, `{"kind":"insert-joint","before":"r8.2/j7"}`,
	} {
		f.Add([]byte(text))
	}
	trunk := []mgl64.Vec3{{0, 0, 0}, {0, 1, 0}, {0, 2, 0.3}, {0, 3, 0}}
	d := apply(f, rig.New("fuzz"), &edit.LayChain{Positions: trunk, Pattern: "trunk_#"})
	d = apply(f, d, &edit.LayChain{Positions: []mgl64.Vec3{{1, 1, 0}, {2, 1, 0.1}, {3, 1.2, 0}}, Pattern: "arm_#", Parent: "j2"})
	d = apply(f, d, &edit.AddRepeat{Name: "arms", Rule: rig.Ring, Sources: []string{"j5"}, Count: 3})
	f.Fuzz(func(t *testing.T, data []byte) {
		e, err := edit.Decode(data)
		if err != nil {
			return
		}
		result, err := edit.Apply(context(), d, e)
		if err != nil {
			return
		}
		if err := edit.Validate(result.Document); err != nil {
			t.Fatalf("%s made a document that is not valid: %v", data, err)
		}
		if _, err := edit.Foresee(context(), result.Expanded, &edit.Rename{ID: result.Document.Joints[0].ID, Name: fmt.Sprintf("after_%d", len(data))}); err != nil {
			t.Logf("after %s: %v", data, err)
		}
	})
}
