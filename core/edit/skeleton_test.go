package edit_test

import (
	"encoding/json"
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/edit"
	"myriapod/core/geometry"
	"myriapod/core/repeat"
	"myriapod/core/rig"
)

// bush is a random skeleton: chains that start on joints of earlier ones, all to the left of the middle.
func bush(t *rapid.T) *rig.Document {
	d := rig.New("bush")
	number := rapid.Float64Range(-1, 1)
	for k := range rapid.IntRange(1, 4).Draw(t, "chains") {
		lay := &edit.LayChain{Pattern: string(rune('a'+k)) + "_#"}
		place := mgl64.Vec3{3, 1, 0}
		if len(d.Joints) > 0 {
			on := d.Joints[rapid.IntRange(0, len(d.Joints)-1).Draw(t, "on")]
			lay.Parent, place = on.ID, on.Position
		}
		for range rapid.IntRange(2, 6).Draw(t, "joints") {
			place = place.Add(mgl64.Vec3{0.2 * number.Draw(t, "x"), 0.4 + 0.3*number.Draw(t, "y"), number.Draw(t, "z")})
			lay.Positions = append(lay.Positions, place)
		}
		d = apply(t, d, lay)
	}
	return d
}

// still draws an edit that must move no joint.
func still(t *rapid.T, x *repeat.Expansion, n int) edit.Edit {
	joints := x.Document.Joints
	any := func(label string) string { return joints[rapid.IntRange(0, len(joints)-1).Draw(t, label)].ID }
	some := func() []string {
		list := []string{any("first")}
		for range rapid.IntRange(0, 4).Draw(t, "more") {
			list = append(list, any("another"))
		}
		return list
	}
	switch rapid.IntRange(0, 5).Draw(t, "what") {
	case 0:
		return &edit.OrientJoints{
			Joints: some(), Aim: rapid.Bool().Draw(t, "aim"), Roll: rapid.Float64Range(-4, 4).Draw(t, "roll"), Direction: mgl64.Vec3{0.3, 1, 0.1},
			Second: rapid.SampledFrom([]edit.Second{edit.Carried, edit.Toward, edit.InPlane, edit.AsIs}).Draw(t, "second"),
		}
	case 1:
		return &edit.Reparent{Joints: []string{any("child")}, Parent: any("parent")}
	case 2:
		return &edit.Reparent{Joints: []string{any("child")}}
	case 3:
		return &edit.Rename{ID: any("renamed"), Name: "n" + string(rune('a'+n))}
	case 4:
		return &edit.AddRepeat{Rule: rig.Mirror, Sources: []string{any("source")}, Direction: mgl64.Vec3{1, 0, 0}, Through: true, Pattern: "*_m" + string(rune('a'+n))}
	}
	return &edit.Label{IDs: some(), Pattern: "l#"}
}

// Whatever is oriented, hung elsewhere, mirrored or renamed, every joint stays where it was.
func TestRestPlacesSurviveEverySkeletonEdit(t *testing.T) {
	greatest := 0.0
	rapid.Check(t, func(t *rapid.T) {
		d := bush(t)
		for n := range rapid.IntRange(1, 8).Draw(t, "edits") {
			x, err := repeat.Expand(d)
			require.NoError(t, err)
			e := edit.Edit(still(t, x, n))
			if rapid.Bool().Draw(t, "only") {
				e = &edit.OnCopy{Edit: edit.Written{Edit: e}}
			}
			before, err := json.Marshal(d)
			require.NoError(t, err)
			result, err := edit.Apply(context(), d, e)
			same, marshalErr := json.Marshal(d)
			require.NoError(t, marshalErr)
			require.Equal(t, string(before), string(same), "an edit leaves the document before it as it was")
			if err != nil {
				continue // refused; nothing was changed
			}
			places := map[string]mgl64.Vec3{}
			for _, j := range x.Document.Joints {
				places[j.ID] = j.Position
			}
			d = result.Document
			now, err := repeat.Expand(d)
			require.NoError(t, err)
			for _, j := range now.Document.Joints {
				assert.InDelta(t, 1, j.Rotation.Quat().Len(), 1e-9)
				if was, ok := places[j.ID]; ok {
					greatest = math.Max(greatest, was.Sub(j.Position).Len())
					assert.LessOrEqual(t, was.Sub(j.Position).Len(), 1e-12)
				}
			}
		}
	})
	t.Logf("greatest move of a joint by edits that move none: %.2g m", greatest)
}

func TestEveryEditIsWrittenAndReadBack(t *testing.T) {
	d := chain(t, 4)
	for _, e := range []edit.Edit{
		&edit.OnCopy{Edit: edit.Written{Edit: &edit.MoveJoint{Joint: "j1", Below: true}}},
		&edit.OrientJoints{Joints: []string{"j1"}, Second: edit.InPlane, Roll: 0.5, Order: "XYZ"},
		&edit.AddRepeat{Name: "r", Rule: rig.Ring, Sources: []string{"j2"}, Count: 3},
		&edit.InsertJoint{Before: d.Joints[1].ID}, &edit.SplitOff{Joint: "j2"}, &edit.RenameMany{IDs: []string{"j1"}, Search: "a", Replace: "b"},
	} {
		data, err := edit.Encode(e)
		require.NoError(t, err)
		back, err := edit.Decode(data)
		require.NoError(t, err, string(data))
		assert.Equal(t, e, back)
	}
	_, err := edit.Decode([]byte(`{"kind":"on-copy","edit":{"kind":"on-copy","edit":{"kind":"rename"}}}`))
	assert.ErrorContains(t, err, "holds a plain edit")
}

func TestOrientingAimsAndPlacesTheSecondAxis(t *testing.T) {
	bent := []mgl64.Vec3{{0, 0, 0}, {1, 0.5, 0}, {2, 0.2, 0}, {3, 1.1, 0}} // in the plane z = 0
	d := apply(t, rig.New("x"), &edit.LayChain{Positions: bent, Pattern: "b_#"})
	second := func(d *rig.Document, i int) mgl64.Vec3 {
		return d.Joints[i].Rotation.Quat().Rotate(geometry.SecondAxis)
	}
	plane := apply(t, d, &edit.OrientJoints{Joints: ids(d), Aim: true, Second: edit.InPlane})
	for i := range plane.Joints {
		assert.InDelta(t, 0, second(plane, i)[2], 1e-9, "the second axis lies in the plane")
	}
	toward := apply(t, d, &edit.OrientJoints{Joints: ids(d), Aim: true, Second: edit.Toward, Direction: mgl64.Vec3{0, 0, 2}})
	for i := range toward.Joints {
		assert.InDelta(t, 1, second(toward, i)[2], 1e-9)
	}
	rolled := apply(t, toward, &edit.OrientJoints{Joints: ids(d)[1:2], Aim: true, Second: edit.Toward, Direction: mgl64.Vec3{0, 0, 2}, Roll: math.Pi / 2, Order: "ZYX"})
	assert.InDelta(t, 0, second(rolled, 1)[2], 1e-9)
	assert.Equal(t, geometry.Order("ZYX"), rolled.Joints[1].Order)
	straight := chain(t, 3)
	_, err := edit.Apply(context(), straight, &edit.OrientJoints{Joints: ids(straight), Aim: true, Second: edit.InPlane})
	require.NoError(t, err, "a straight chain has no plane and gets one")
	refuse(t, d, &edit.OrientJoints{Joints: ids(d), Second: edit.Toward}, "no length")
	refuse(t, d, &edit.OrientJoints{Joints: ids(d), Second: "up"}, "not \"up\"")
	refuse(t, d, &edit.OrientJoints{Joints: ids(d), Second: edit.AsIs, Order: "XXX"}, "is one of")
	refuse(t, d, &edit.OrientJoints{Second: edit.AsIs}, "no joint is chosen")
}

func TestInsertSplitAndHangElsewhere(t *testing.T) {
	d := chain(t, 4)
	inserted := apply(t, d, &edit.InsertJoint{Before: d.Joints[2].ID, Name: "extra"})
	assert.Equal(t, mgl64.Vec3{0, 1, 1.5}, inserted.Joints[2].Position)
	assert.Equal(t, inserted.Joints[2].ID, inserted.Joints[3].Parent)
	refuse(t, d, &edit.InsertJoint{Before: d.Joints[0].ID}, "hangs on nothing")

	split := apply(t, d, &edit.SplitOff{Joint: d.Joints[2].ID})
	assert.Empty(t, split.Joint(d.Joints[2].ID).Parent)
	end := split.Joints[4]
	assert.Equal(t, d.Joints[1].ID, end.Parent)
	assert.Equal(t, d.Joints[2].Position, end.Position)

	joined := apply(t, split, &edit.Reparent{Joints: []string{d.Joints[2].ID}, Parent: end.ID, Connected: true})
	assert.InDelta(t, 0, joined.Joints[2].Position.Sub(mgl64.Vec3{0, 1, 3}).Len(), 1e-12)
	assert.InDelta(t, 0, joined.Joints[3].Position.Sub(mgl64.Vec3{0, 1, 4}).Len(), 1e-12, "what is below comes along")
	refuse(t, d, &edit.Reparent{Joints: []string{d.Joints[0].ID}, Parent: d.Joints[3].ID}, "hangs on spine_01 itself")
	refuse(t, d, &edit.Reparent{Joints: []string{d.Joints[0].ID}, Parent: d.Joints[0].ID}, "hangs on spine_01 itself")

	moved := apply(t, d, &edit.PlaceJoints{Places: []edit.JointPlace{{Joint: d.Joints[1].ID, Position: mgl64.Vec3{1, 1, 1}}}})
	assert.Equal(t, mgl64.Vec3{1, 1, 1}, moved.Joints[1].Position)
	assert.Equal(t, d.Joints[2], moved.Joints[2])
	assert.Len(t, apply(t, d, &edit.DeleteJoints{Joints: []string{d.Joints[1].ID}, Below: true}).Joints, 1)
}

func TestRenamingBySearchIsForeseenAndSaysWhatCollides(t *testing.T) {
	d := chain(t, 3)
	e := &edit.RenameMany{IDs: ids(d), Search: "spine_0", Replace: "tail_{side}_"}
	preview, err := edit.Foresee(context(), repeat.Plain(d), e)
	require.NoError(t, err)
	assert.Equal(t, edit.Renaming{ID: d.Joints[0].ID, From: "spine_01", To: "tail_C_1"}, preview.Renamed[0])
	assert.Zero(t, preview.Moved)
	assert.Equal(t, "tail_C_3", apply(t, d, e).Joints[2].Name)
	refuse(t, d, &edit.RenameMany{IDs: ids(d), Search: "spine_01", Replace: "spine_02"}, `"spine_02" is taken`)
	refuse(t, d, &edit.RenameMany{IDs: ids(d), Search: "zz", Replace: "y"}, "none of the 3 names")
	refuse(t, d, &edit.RenameMany{IDs: ids(d), Search: "spine", Replace: "{part}"}, "there is no model")
	labelled := apply(t, d, &edit.Label{IDs: ids(d), Pattern: "Back #"})
	assert.Equal(t, "Back 2", labelled.Joints[1].Label)
	hung, err := edit.Foresee(context(), repeat.Plain(d), &edit.Reparent{Joints: ids(d)[2:], Parent: d.Joints[0].ID})
	require.NoError(t, err)
	assert.Zero(t, hung.Moved, "hanging elsewhere moves nothing, and says so beforehand")
	grown, err := edit.Foresee(context(), repeat.Plain(d), &edit.LayChain{Positions: []mgl64.Vec3{{1, 1, 1}}, Pattern: "fin", Parent: d.Joints[0].ID})
	require.NoError(t, err)
	assert.Equal(t, []string{"fin"}, grown.Added)
}
