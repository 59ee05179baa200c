package edit_test

import (
	"encoding/json"
	"fmt"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/edit"
	"myriapod/core/mesh"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// What these tests begin with.
var (
	context = rigtest.Context
	apply   = rigtest.Apply
)

func refuse(t require.TestingT, d *rig.Document, e edit.Edit, want string) {
	before, err := json.Marshal(d)
	require.NoError(t, err)
	_, err = edit.Apply(context(), d, e)
	require.ErrorContains(t, err, want)
	after, err := json.Marshal(d)
	require.NoError(t, err)
	assert.JSONEq(t, string(before), string(after), "a refused edit changes nothing")
}

func chain(t require.TestingT, count int) *rig.Document {
	places := make([]mgl64.Vec3, count)
	for i := range places {
		places[i] = mgl64.Vec3{0, 1, float64(i)}
	}
	return apply(t, rig.New("test"), &edit.LayChain{Positions: places, Pattern: "spine_##"})
}

func ids(d *rig.Document) []string {
	list := []string{}
	for _, j := range d.Joints {
		list = append(list, j.ID)
	}
	return list
}

func TestNamesFollowAPattern(t *testing.T) {
	assert.Equal(t, []string{"a_01", "a_02"}, edit.Names("a_##", 2))
	assert.Equal(t, []string{"leg_1_L", "leg_2_L"}, edit.Names("leg_#_L", 2))
	assert.Equal(t, []string{"x_01", "x_02"}, edit.Names("x", 2))
	assert.Equal(t, []string{"x"}, edit.Names("x", 1))
}

func TestAChainIsAimedAndDoesNotRoll(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		number := rapid.Float64Range(-2, 2)
		places := make([]mgl64.Vec3, rapid.IntRange(2, 12).Draw(t, "joints"))
		for i := range places {
			places[i] = mgl64.Vec3{number.Draw(t, "x"), number.Draw(t, "y"), number.Draw(t, "z")}
		}
		for i, q := range edit.Orient(places)[:len(places)-1] {
			aim := places[i+1].Sub(places[i])
			if aim.Len() > 1e-6 {
				assert.InDelta(t, 1, q.Rotate(mgl64.Vec3{0, 1, 0}).Dot(aim.Normalize()), 1e-9)
			}
			assert.InDelta(t, 1, q.Len(), 1e-9)
		}
	})
}

func TestDividingIsEvenAndKeepsEndsAndWhatHangsOn(t *testing.T) {
	d := chain(t, 4)
	d = apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{{1, 1, 1}}, Pattern: "fin", Parent: d.Joints[1].ID})
	first, last := d.Joints[0], d.Joints[3]
	d = apply(t, d, &edit.DivideChain{Joints: ids(d)[:4], Count: 13})
	require.Len(t, d.Joints, 14)
	assert.Equal(t, first.ID, d.Joints[0].ID)
	assert.Equal(t, last.ID, d.Joints[12].ID)
	for i := 1; i < 13; i++ {
		assert.Equal(t, d.Joints[i-1].ID, d.Joints[i].Parent)
		assert.InDelta(t, 0.25, d.Joints[i].Position.Sub(d.Joints[i-1].Position).Len(), 1e-6)
		assert.Equal(t, fmt.Sprintf("spine_%02d", i+1), d.Joints[i].Name)
	}
	fin := d.Joints[13]
	assert.Equal(t, "spine_05", d.NameOf(fin.Parent), "what hung on a replaced joint hangs on the nearest new one")
	assert.Equal(t, mgl64.Vec3{1, 1, 1}, fin.Position)
	refuse(t, d, &edit.DivideChain{Joints: ids(d)[:1], Count: 3}, "two joints or more")
	refuse(t, d, &edit.DivideChain{Joints: []string{first.ID, last.ID}, Count: 3}, "does not hang on")
}

func TestMovingAJointAloneOrWithWhatIsBelow(t *testing.T) {
	d := chain(t, 4)
	alone := apply(t, d, &edit.MoveJoint{Joint: d.Joints[1].ID, Position: mgl64.Vec3{5, 1, 1}})
	assert.Equal(t, mgl64.Vec3{5, 1, 1}, alone.Joints[1].Position)
	assert.Equal(t, d.Joints[2].Position, alone.Joints[2].Position)
	below := apply(t, d, &edit.MoveJoint{Joint: d.Joints[1].ID, Position: mgl64.Vec3{5, 1, 1}, Below: true})
	assert.Equal(t, mgl64.Vec3{5, 1, 3}, below.Joints[3].Position)
}

func TestWhatIsUsedIsNotDeleted(t *testing.T) {
	d := chain(t, 5)
	d = apply(t, d, &edit.AddMechanism{Mechanism: "spline-chain", Name: "spine", Joints: ids(d)})
	refuse(t, d, &edit.DeleteJoints{Joints: ids(d)[2:3]}, "spine_03 is moved by spine")
	refuse(t, d, &edit.DivideChain{Joints: ids(d), Count: 9}, "remove that mechanism first")
	d = apply(t, d, &edit.AddMechanism{Mechanism: "travelling-wave", Name: "wave", Host: d.Mechanisms[0].ID})
	refuse(t, d, &edit.RemoveMechanism{Mechanism: d.Mechanisms[0].ID}, "wave works on spine")
	refuse(t, d, &edit.AddMechanism{Mechanism: "spline-chain", Name: "again", Joints: ids(d)}, "is moved by spine and by again")
	d = apply(t, d, &edit.RemoveMechanism{Mechanism: d.Mechanisms[1].ID})
	d = apply(t, d, &edit.RemoveMechanism{Mechanism: d.Mechanisms[0].ID})
	assert.Empty(t, d.Mechanisms)
	require.Len(t, d.Controls, 2, "the global control and the root stay")
	d = apply(t, d, &edit.DeleteJoints{Joints: ids(d)[2:3]})
	assert.Equal(t, d.Joints[1].ID, d.Joints[2].Parent, "what hung on it hangs on its parent")
}

func TestEditsThatNameMissingThingsAreRefused(t *testing.T) {
	d := chain(t, 3)
	for _, e := range []edit.Edit{
		&edit.ChangePart{Part: "x"}, &edit.Rename{ID: "x", Name: "y"}, &edit.LayChain{Parent: "x", Positions: []mgl64.Vec3{{}}},
		&edit.DivideChain{Joints: []string{"x"}, Count: 2}, &edit.NameJoints{Joints: []string{"x"}, Pattern: "a"},
		&edit.MoveJoint{Joint: "x"}, &edit.DeleteJoints{Joints: []string{"x"}}, &edit.AddMechanism{Mechanism: "spline-chain", Name: "n", Joints: []string{"x"}},
		&edit.SetParameters{Mechanism: "x"}, &edit.SwitchMechanism{Mechanism: "x"}, &edit.RemoveMechanism{Mechanism: "x"},
		&edit.Bind{Parts: []string{"x"}, Joints: ids(d), Blend: 1}, &edit.ChangeClip{Clip: "x"}, &edit.DeleteClip{Clip: "x"},
		&edit.SetKeys{Clip: "x"}, &edit.MoveKeys{Clip: "x"}, &edit.DeleteKeys{Clip: "x"},
	} {
		refuse(t, d, e, "there is no")
	}
}

func TestNamesStayUniqueBySayingSo(t *testing.T) {
	d := chain(t, 3)
	refuse(t, d, &edit.Rename{ID: d.Joints[0].ID, Name: "spine_02"}, `"spine_02" is taken`)
	refuse(t, d, &edit.LayChain{Positions: []mgl64.Vec3{{}}, Pattern: "spine_02"}, "the name spine_02 is taken")
	refuse(t, d, &edit.Rename{ID: d.Joints[0].ID, Name: ""}, "a name is missing")
	refuse(t, d, &edit.Rename{ID: d.Joints[0].ID, Name: "a\x00b"}, "cannot be shown")
	refuse(t, d, &edit.LayChain{Positions: []mgl64.Vec3{{1e9, 0, 0}}, Pattern: "far"}, "within 1e+06 m")
}

func TestKeysAreSetMovedAndDeleted(t *testing.T) {
	d := chain(t, 6)
	d = apply(t, d, &edit.AddMechanism{Mechanism: "spline-chain", Name: "spine", Joints: ids(d)})
	d = apply(t, d, &edit.AddClip{Name: "walk", Start: 0, End: 48, Loop: true})
	root, clip := d.ControlNamed("root").ID, d.Clips[0].ID
	place := func(frame float64) edit.KeyPlace {
		return edit.KeyPlace{Control: root, Channel: rig.MoveZ, Frame: frame}
	}
	d = apply(t, d, &edit.SetKeys{Clip: clip, Keys: []edit.KeyValue{
		{KeyPlace: place(24), Value: 2, Ease: rig.Linear}, {KeyPlace: place(0), Value: 1, Ease: rig.Smooth}, {KeyPlace: place(24), Value: 3, Ease: rig.Linear},
	}})
	assert.Equal(t, []rig.Key{{Frame: 0, Value: 1, Ease: rig.Smooth}, {Frame: 24, Value: 3, Ease: rig.Linear}}, d.Clips[0].Tracks[0].Keys)
	before := d
	d = apply(t, d, &edit.MoveKeys{Clip: clip, Keys: []edit.KeyPlace{place(0)}, By: 30})
	assert.Equal(t, 30.0, d.Clips[0].Tracks[0].Keys[1].Frame)
	assert.Equal(t, 0.0, before.Clips[0].Tracks[0].Keys[0].Frame, "the document before stays as it was")
	d = apply(t, d, &edit.DeleteKeys{Clip: clip, Keys: []edit.KeyPlace{place(30), place(24)}})
	assert.Empty(t, d.Clips[0].Tracks)
	refuse(t, d, &edit.DeleteKeys{Clip: clip, Keys: []edit.KeyPlace{place(30)}}, "no key of root.moveZ at frame 30")
}

func TestALoopOfThingsThatWaitForEachOtherIsNamed(t *testing.T) {
	d := chain(t, 6)
	d = apply(t, d, &edit.AddMechanism{Mechanism: "spline-chain", Name: "spine", Joints: ids(d)})
	d.ControlNamed("spine_ctl_2").Space = d.Joints[3].ID // a control that hangs on the chain it carries
	refuse(t, d, &edit.Rename{ID: d.Joints[0].ID, Name: "x"}, "wait for each other in a loop")
	_, err := edit.Apply(context(), d, &edit.Rename{ID: d.Joints[0].ID, Name: "x"})
	assert.ErrorContains(t, err, "spine_ctl_2")
	assert.ErrorContains(t, err, "spine → ")
}

func TestBindingMovesNothingAndCanBeStopped(t *testing.T) {
	d := chain(t, 8)
	tube := mesh.Mesh{}
	for i := range 64 {
		tube.Positions = append(tube.Positions, float32(i%4)/10, 1+float32(i%3)/10, float32(i)/9)
	}
	for i := range uint32(62) {
		tube.Triangles = append(tube.Triangles, i, i+1, i+2)
	}
	tube.ComputeNormals()
	data := tube.Encode()
	c := context()
	hash := c.Keep(data)
	result, err := edit.Apply(c, d, &edit.AddParts{From: "tube.obj", Parts: []edit.NewPart{{Name: "tube", Mesh: hash, Vertices: 64, Colour: "#112233"}}})
	require.NoError(t, err)
	bind := &edit.Bind{Parts: []string{result.Document.Parts[0].ID}, Joints: ids(d), Blend: 1.5}
	bound, err := edit.Apply(c, result.Document, bind)
	require.NoError(t, err)
	assert.Less(t, bound.Drift.Vertices, 1e-6)
	c.Progress = func(float64) bool { return false }
	_, err = edit.Apply(c, result.Document, bind)
	require.ErrorContains(t, err, "stopped")
}

func TestEditsAreWrittenAndReadStrictly(t *testing.T) {
	e := &edit.SetParameters{Mechanism: "m1", Time: 2, Values: parameter.Set{
		"stretch": parameter.OfNumber(0.5), "form": parameter.OfChoice("scaled"), "twistProfile": parameter.OfProfile(parameter.Point{0, 1}),
	}}
	data, err := edit.Encode(e)
	require.NoError(t, err)
	back, err := edit.Decode(data)
	require.NoError(t, err)
	assert.Equal(t, e, back)
	for text, want := range map[string]string{
		`{"kind":"conjure"}`:                          `no edit of the kind "conjure"`,
		`{"kind":"rename","id":"a","nam":"b"}`:        `unknown field "nam"`,
		`nonsense`:                                    "not an edit",
		`{"kind":"set-parameters","values":{"a":{}}}`: "a parameter is a number",
	} {
		_, err := edit.Decode([]byte(text))
		assert.ErrorContains(t, err, want)
	}
}
