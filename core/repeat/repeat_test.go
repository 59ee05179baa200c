package repeat_test

import (
	"encoding/json"
	"fmt"
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mechanism/splinechain"
	"myriapod/core/mechanism/wave"
	"myriapod/core/parameter"
	"myriapod/core/plan"
	"myriapod/core/repeat"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// What these tests begin with.
var (
	apply  = rigtest.Apply
	refuse = rigtest.Refuse
)

func expand(t require.TestingT, d *rig.Document) *repeat.Expansion {
	x, err := repeat.Expand(d)
	require.NoError(t, err)
	return x
}

// named returns the ID of what bears a name, copies included.
func named(t require.TestingT, d *rig.Document, name string) string {
	found := ""
	expand(t, d).Document.EachNamed(func(id, n string) bool {
		if n == name {
			found = id
		}
		return found == ""
	})
	require.NotEmpty(t, found, "nothing is called %s", name)
	return found
}

// plant is a bulb of two joints with one tendril of the places given.
func plant(t require.TestingT, places []mgl64.Vec3) *rig.Document {
	d := apply(t, rig.New("plant"), &edit.LayChain{Positions: []mgl64.Vec3{{0.3, 0, 0.2}, {0.3, 1, 0.2}}, Pattern: "bulb_#"})
	return apply(t, d, &edit.LayChain{Positions: places, Pattern: "tendril_1_#", Parent: d.Joints[1].ID})
}

func wander(t *rapid.T, count int) []mgl64.Vec3 {
	number := rapid.Float64Range(-1, 1)
	places := []mgl64.Vec3{{1, 1, 0.5}}
	for i := 1; i < count; i++ {
		step := mgl64.Vec3{number.Draw(t, "x") + 1.2, number.Draw(t, "y"), number.Draw(t, "z")}
		places = append(places, places[i-1].Add(step.Mul(0.3)))
	}
	return places
}

// A ring turns every copy by its share of a whole turn, about the axis and about nothing else.
func TestRingCopiesAreTheSourceTurnedAboutTheAxis(t *testing.T) {
	greatest := 0.0
	rapid.Check(t, func(t *rapid.T) {
		d := plant(t, wander(t, 5))
		number := rapid.Float64Range(-1, 1)
		axis := mgl64.Vec3{number.Draw(t, "ax"), number.Draw(t, "ay") + 1.5, number.Draw(t, "az")}
		count := rapid.IntRange(2, 12).Draw(t, "count")
		d = apply(t, d, &edit.AddRepeat{Name: "ring", Rule: rig.Ring, Sources: []string{named(t, d, "tendril_1_1")}, Count: count, Direction: axis})
		x := expand(t, d)
		require.Len(t, x.Document.Joints, 2+5*count)
		for n := 1; n < count; n++ {
			turn := mgl64.QuatRotate(2*math.Pi*float64(n)/float64(count), axis.Normalize())
			for _, source := range d.Joints[2:] {
				copied := x.Document.Joint(repeat.CopyID(d.Repeats[0].ID, n, source.ID))
				want := turn.Mul(source.Rotation.Quat())
				got := copied.Rotation.Quat()
				off := math.Min(want.Sub(got).Len(), want.Add(got).Len())
				greatest = math.Max(greatest, off)
				assert.LessOrEqual(t, off, 1e-12)
				place := d.Repeats[0].Point.Add(turn.Rotate(source.Position.Sub(d.Repeats[0].Point)))
				assert.InDelta(t, 0, place.Sub(copied.Position).Len(), 1e-12)
			}
		}
	})
	t.Logf("ring: greatest error of an orientation %.2g", greatest)
}

// mirrorImage reflects a frame at x = 0: main and second axes are mirrored.
func mirrorImage(j geometry.Transform) (place, main, second mgl64.Vec3) {
	flip := func(v mgl64.Vec3) mgl64.Vec3 { return mgl64.Vec3{-v[0], v[1], v[2]} }
	return flip(j.Position), flip(j.Rotation.Rotate(geometry.MainAxis)), flip(j.Rotation.Rotate(geometry.SecondAxis))
}

func TestMirroredControlsAnswerEqualValuesWithMirroredMotion(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := apply(t, rig.New("x"), &edit.LayChain{Positions: []mgl64.Vec3{{0, 0, 0}, {0, 1, 0}}, Pattern: "body_#"})
		d = apply(t, d, &edit.LayChain{Positions: wander(t, 7), Pattern: "arm_L_#", Parent: d.Joints[1].ID})
		joints := []string{}
		for _, j := range d.Joints[2:] {
			joints = append(joints, j.ID)
		}
		d = apply(t, d, &edit.AddMechanism{
			Mechanism: splinechain.Name, Name: "arm_L", Joints: joints, Options: parameter.Set{"controls": parameter.OfNumber(4)},
			Parameters: parameter.Set{"stretch": parameter.OfNumber(rapid.Float64Range(0, 1).Draw(t, "stretch"))},
		})
		d = apply(t, d, &edit.SetParameters{Mechanism: d.Mechanisms[0].ID, Values: parameter.Set{"twist": parameter.OfNumber(40)}})
		result, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}, d, &edit.AddMechanism{Mechanism: wave.Name, Name: "wave_L", Host: d.Mechanisms[0].ID, Parameters: parameter.Set{"plane": parameter.OfNumber(30)}})
		require.NoError(t, err)
		d = result.Document
		result, err = edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}, d, &edit.AddRepeat{Rule: rig.Mirror, Sources: []string{joints[0]}})
		require.NoError(t, err)
		d = result.Document
		planned, err := plan.Build(d, kinds.All(), nil)
		require.NoError(t, err)
		e := evaluate.New(planned)
		value := rapid.Float64Range(-0.4, 0.4)
		for _, c := range d.Controls {
			if c.Name == rig.RootName || c.Name == rig.GlobalName {
				continue
			}
			for _, channel := range rig.Channels {
				v := value.Draw(t, string(channel))
				for _, id := range []string{c.ID, repeat.CopyID(d.Repeats[0].ID, 1, c.ID)} {
					require.NoError(t, e.SetChannel(planned.ControlIndex[id], channel, v))
				}
			}
		}
		e.SetTime(rapid.Float64Range(0, 3).Draw(t, "time"))
		e.Evaluate()
		assert.Equal(t, "arm_R_1", planned.Document.NameOf(repeat.CopyID(d.Repeats[0].ID, 1, joints[0])))
		for _, id := range joints {
			place, main, second := mirrorImage(e.Frame.Joints[planned.JointIndex[id]])
			copied := e.Frame.Joints[planned.JointIndex[repeat.CopyID(d.Repeats[0].ID, 1, id)]]
			assert.InDelta(t, 0, place.Sub(copied.Position).Len(), 1e-8)
			assert.InDelta(t, 0, main.Sub(copied.Rotation.Rotate(geometry.MainAxis)).Len(), 1e-7)
			assert.InDelta(t, 0, second.Sub(copied.Rotation.Rotate(geometry.SecondAxis)).Len(), 1e-7)
		}
	})
}

// crawler is a straight trunk with a leg of seven joints, mirrored and then repeated at so many of its joints: nested repeats.
func crawler(t require.TestingT, pairs int) *rig.Document {
	trunk := make([]mgl64.Vec3, pairs+1)
	for i := range trunk {
		trunk[i] = mgl64.Vec3{0, 1, -0.3 * float64(i)}
	}
	d := apply(t, rig.New("crawler"), &edit.LayChain{Positions: trunk, Pattern: "trunk_##"})
	leg := make([]mgl64.Vec3, 7)
	for i := range leg {
		leg[i] = mgl64.Vec3{0.2 + 0.1*float64(i), 1 - 0.15*float64(i), 0}
	}
	stations := []string{}
	for _, j := range d.Joints[1:pairs] {
		stations = append(stations, j.ID)
	}
	d = apply(t, d, &edit.LayChain{Positions: leg, Pattern: "leg_L01_#", Parent: d.Joints[0].ID})
	d = apply(t, d, &edit.AddRepeat{Rule: rig.Mirror, Sources: []string{named(t, d, "leg_L01_1")}})
	return apply(t, d, &edit.AddRepeat{Rule: rig.Series, Sources: []string{named(t, d, "leg_L01_1"), named(t, d, "leg_R01_1")}, Stations: stations})
}

func TestAMirroredLegRunsAlongABody(t *testing.T) {
	d := crawler(t, 22)
	x := expand(t, d)
	require.Len(t, x.Document.Joints, 23+44*7)
	require.Len(t, d.Joints, 23+7, "the document holds the source alone")
	for n := 1; n <= 22; n++ {
		for _, side := range []string{"L", "R"} {
			foot := x.Document.Joint(named(t, d, fmt.Sprintf("leg_%s%02d_7", side, n)))
			sign := 1.0
			if side == "R" {
				sign = -1
			}
			assert.InDelta(t, 0, foot.Position.Sub(mgl64.Vec3{sign * 0.8, 0.1, -0.3 * float64(n-1)}).Len(), 1e-12)
		}
		hip := x.Document.Joint(named(t, d, fmt.Sprintf("leg_R%02d_1", n)))
		assert.Equal(t, fmt.Sprintf("trunk_%02d", n), x.Document.NameOf(hip.Parent))
	}
	require.NoError(t, x.Document.Validate())
	again := expand(t, d)
	first, err := json.Marshal(x.Document)
	require.NoError(t, err)
	second, err := json.Marshal(again.Document)
	require.NoError(t, err)
	assert.Equal(t, string(first), string(second), "the same whenever it is expanded")
}

func TestAnEditOfACopyIsAnEditOfTheSource(t *testing.T) {
	d := crawler(t, 5)
	knee := named(t, d, "leg_R04_3")
	at := expand(t, d).Document.Joint(knee).Position
	moved := apply(t, d, &edit.MoveJoint{Joint: knee, Position: at.Add(mgl64.Vec3{-0.05, 0.02, 0.01})})
	x := expand(t, moved)
	assert.InDelta(t, 0, x.Document.Joint(knee).Position.Sub(at.Add(mgl64.Vec3{-0.05, 0.02, 0.01})).Len(), 1e-12)
	source, before := moved.Joint(x.Base(knee)), d.Joint(x.Base(knee))
	assert.InDelta(t, 0, source.Position.Sub(before.Position).Sub(mgl64.Vec3{0.05, 0.02, 0.01}).Len(), 1e-12)
	assert.Empty(t, moved.Repeats[1].Differences)

	longer := apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{{-0.9, 0, -0.9}}, Pattern: "toe", Parent: named(t, d, "leg_R04_7")})
	require.Len(t, longer.Joints, len(d.Joints)+1)
	x = expand(t, longer)
	assert.Len(t, x.Document.Joints, len(expand(t, d).Document.Joints)+10, "every leg gets the toe")
	assert.InDelta(t, 0.9, longer.Joints[len(longer.Joints)-1].Position[0], 1e-12)

	shorter := apply(t, d, &edit.DeleteJoints{Joints: []string{named(t, d, "leg_L02_5")}})
	assert.Len(t, expand(t, shorter).Document.Joints, len(expand(t, d).Document.Joints)-10)
	refuse(t, d, &edit.DeleteJoints{Joints: []string{named(t, d, "leg_L02_1")}}, "is the source of the repeat")
}

func TestACopyKeepsADifferenceAndCanDropIt(t *testing.T) {
	d := crawler(t, 5)
	knee := named(t, d, "leg_L03_3")
	at := expand(t, d).Document.Joint(knee).Position
	to := at.Add(mgl64.Vec3{0.1, 0, 0})
	own := apply(t, d, &edit.OnCopy{Edit: edit.Written{Edit: &edit.MoveJoint{Joint: knee, Position: to}}})
	assert.Equal(t, d.Joints, own.Joints)
	x := expand(t, own)
	assert.InDelta(t, 0, x.Document.Joint(knee).Position.Sub(to).Len(), 1e-12)
	assert.True(t, x.Origins[knee].Differs)
	assert.Equal(t, expand(t, d).Document.Joint(named(t, d, "leg_L04_3")).Position, x.Document.Joint(named(t, own, "leg_L04_3")).Position)

	// The source moves on: the copy keeps its distance.
	source := x.Base(knee)
	own = apply(t, own, &edit.MoveJoint{Joint: source, Position: own.Joint(source).Position.Add(mgl64.Vec3{0, 0, 0.07})})
	assert.InDelta(t, 0, expand(t, own).Document.Joint(knee).Position.Sub(to.Add(mgl64.Vec3{0, 0, 0.07})).Len(), 1e-12)

	renamed := apply(t, own, &edit.Rename{ID: knee, Name: "sore_knee"})
	assert.Equal(t, "sore_knee", expand(t, renamed).Document.NameOf(knee))
	lame := apply(t, d, &edit.OnCopy{Edit: edit.Written{Edit: &edit.DeleteJoints{Joints: []string{knee}, Below: true}}})
	assert.Len(t, expand(t, lame).Document.Joints, len(expand(t, d).Document.Joints)-5)

	o := x.Origins[knee]
	back := apply(t, own, &edit.DropDifference{Repeat: o.Repeat, Copy: o.Copy, Of: o.Of})
	assert.Empty(t, back.Repeats[1].Differences)
	refuse(t, back, &edit.DropDifference{Repeat: o.Repeat, Copy: o.Copy, Of: o.Of}, "nothing of its own")
}

func TestMechanismsGoWithTheirJoints(t *testing.T) {
	d := crawler(t, 4)
	leg := []string{}
	for n := 1; n <= 7; n++ {
		leg = append(leg, named(t, d, fmt.Sprintf("leg_R03_%d", n)))
	}
	d = apply(t, d, &edit.AddMechanism{Mechanism: splinechain.Name, Name: "leg_L01", Joints: leg, Options: parameter.Set{"controls": parameter.OfNumber(3)}})
	x := expand(t, d)
	require.Len(t, d.Mechanisms, 1, "built on a copy, it is built on the source")
	require.Equal(t, 8, len(x.Document.Mechanisms))
	require.Equal(t, 2+8*3, len(x.Document.Controls), "and the two that carry the whole")
	assert.Equal(t, "trunk_03", x.Document.NameOf(x.Document.Control(named(t, d, "leg_R03_ctl_1")).Space))
	third := named(t, d, "leg_L03")
	d = apply(t, d, &edit.OnCopy{Edit: edit.Written{Edit: &edit.SetParameters{Mechanism: third, Values: parameter.Set{"stretch": parameter.OfNumber(0.5)}}}})
	x = expand(t, d)
	assert.InDelta(t, 0.5, x.Document.Mechanism(third).Parameters.Number("stretch"), 0)
	assert.InDelta(t, 0, x.Document.Mechanism(named(t, d, "leg_L04")).Parameters.Number("stretch"), 0)

	loose := apply(t, d, &edit.DetachRepeat{Repeat: d.Repeats[1].ID})
	assert.Equal(t, len(x.Document.Joints), len(expand(t, loose).Document.Joints))
	assert.Len(t, loose.Repeats, 1)
	fewer := apply(t, d, &edit.ChangeRepeat{Repeat: d.Repeats[1].ID, Stations: d.Repeats[1].Stations[:1]})
	assert.Equal(t, 4, len(expand(t, fewer).Document.Mechanisms))
	gone := apply(t, d, &edit.RemoveRepeat{Repeat: d.Repeats[1].ID})
	assert.Equal(t, 2, len(expand(t, gone).Document.Mechanisms))
	refuse(t, d, &edit.RemoveRepeat{Repeat: d.Repeats[0].ID}, "is used by the repeat")
}

func TestRefusedRepeatsSayWhatToDo(t *testing.T) {
	d := crawler(t, 4)
	trunk := d.Joints[1].ID
	refuse(t, d, &edit.AddRepeat{Rule: rig.Mirror, Sources: []string{trunk}}, "stands on the mirror's plane")
	refuse(t, d, &edit.AddRepeat{Rule: rig.Series, Sources: []string{named(t, d, "leg_L01_2")}, Stations: []string{named(t, d, "leg_L01_4")}}, "is part of what is repeated")
	refuse(t, d, &edit.AddRepeat{Rule: rig.Series, Sources: []string{named(t, d, "leg_L01_1")}, Stations: []string{"nobody"}}, "there is no joint")
	refuse(t, d, &edit.AddRepeat{Rule: rig.Series, Sources: []string{d.Joints[0].ID}, Stations: []string{trunk}}, "part of what is repeated")
	refuse(t, d, &edit.AddRepeat{Rule: rig.Ring, Sources: []string{named(t, d, "leg_L01_1")}, Count: 4, Pattern: "*"}, "choose another pattern")
	refuse(t, d, &edit.AddRepeat{Rule: rig.Ring, Sources: []string{named(t, d, "leg_L01_1")}, Count: 1}, "2 to 1000, not 1")
	refuse(t, d, &edit.AddRepeat{Rule: rig.Ring, Sources: []string{named(t, d, "leg_L01_1"), named(t, d, "leg_L01_3")}, Count: 3, Pattern: "*_r#"}, "below another of them")
	refuse(t, d, &edit.AddRepeat{Rule: rig.Mirror}, "no joint is chosen")
	refuse(t, d, &edit.AddRepeat{Rule: rig.Ring, Sources: []string{d.Joints[0].ID}, Count: 1000, Pattern: "*_r#", Point: mgl64.Vec3{5, 0, 0}}, "more than the 20000")
	into := d.Clone()
	into.Repeats[0].Sources = []string{repeat.CopyID(into.Repeats[0].ID, 1, into.Joints[5].ID)}
	_, err := repeat.Expand(into)
	assert.ErrorContains(t, err, "a copy of this very repeat")
}

func TestNamesOfCopies(t *testing.T) {
	for _, c := range []struct {
		r          rig.Repeat
		name, want string
	}{
		{rig.Repeat{Rule: rig.Mirror}, "leg_L01_2", "leg_R01_2"},
		{rig.Repeat{Rule: rig.Mirror}, "Left arm", "Right arm"},
		{rig.Repeat{Rule: rig.Mirror}, "fin", "fin_R"},
		{rig.Repeat{Rule: rig.Ring, Replace: "01", Pattern: "##"}, "leg_01_01", "leg_03_01"},
		{rig.Repeat{Rule: rig.Ring, Replace: "7", Pattern: "#"}, "fin7_01", "fin9_01"},
		{rig.Repeat{Rule: rig.Ring, Pattern: "*_##"}, "fin", "fin_03"},
		{rig.Repeat{Rule: rig.Ring, Pattern: "r#_*_#"}, "fin", "r3_fin_3"},
		{rig.Repeat{Rule: rig.Ring, Replace: "zz", Pattern: "#"}, "fin", "fin_03"},
	} {
		assert.Equal(t, c.want, repeat.Named(c.r, c.name, 2))
	}
	replace, pattern := repeat.DefaultNaming([]string{"leg_L01_1", "leg_L01_2"})
	assert.Equal(t, [2]string{"01", "##"}, [2]string{replace, pattern})
	replace, pattern = repeat.DefaultNaming([]string{"fin_1", "fin_2"})
	assert.Equal(t, [2]string{"", "*_##"}, [2]string{replace, pattern})
	assert.Equal(t, rig.Right, rig.SideOf("leg_R01"))
	assert.Equal(t, rig.Centre, rig.SideOf("Lantern"))
}

func BenchmarkExpand44Legs(b *testing.B) {
	d := crawler(b, 22)
	for b.Loop() {
		if _, err := repeat.Expand(d); err != nil {
			b.Fatal(err)
		}
	}
}
