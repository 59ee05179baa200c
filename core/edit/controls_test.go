package edit_test

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/geometry"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

func TestDialsComeChangeAndGo(t *testing.T) {
	d := worm(t)
	root := d.ControlNamed(rig.RootName).ID
	spine := d.Mechanisms[0].ID
	grip := rig.Dial{Name: "grip", Min: -1, Max: 3, Default: 1, Unit: "kg"}
	d = apply(t, d, &edit.AddDial{Controls: []string{root}, Dial: grip})
	assert.Equal(t, grip, *d.Control(root).Dial("grip"))
	refuse(t, d, &edit.AddDial{Controls: []string{root}, Dial: grip}, `root has a channel "grip" already`)
	refuse(t, d, &edit.AddDial{Controls: []string{root}, Dial: rig.Dial{Name: rig.MoveX, Max: 1}}, `has a channel "moveX" already`)
	refuse(t, d, &edit.AddDial{Controls: []string{root}, Dial: rig.Dial{Name: "bad", Min: 2, Max: 1}}, "the lower end 2 is not below the upper end 1")
	d = apply(t, d, &edit.DriveParameter{Mechanism: spine, Key: "stretch", Control: root, Dial: "grip"})
	key := edit.KeyPlace{Control: root, Channel: "grip", Frame: 3}
	d = apply(t, d, &edit.SetKeys{Clip: d.Clips[0].ID, Keys: []edit.KeyValue{{KeyPlace: key, Value: 2.5, Ease: rig.Smooth}}})
	refuse(t, d, &edit.RemoveDial{Control: root, Name: "grip"}, "root.grip drives spine.stretch; free that first")

	renamed, remarks, _ := told(t, d, &edit.ChangeDial{Control: root, Name: "grip", Dial: rig.Dial{Name: "pull", Min: 0, Max: 2}})
	by, _ := renamed.LinkedTo(rig.Address{Of: spine, Key: "stretch"})
	assert.Equal(t, rig.Address{Of: root, Key: "pull"}, by, "what it drives goes with it")
	assert.Equal(t, rig.Channel("pull"), renamed.Clips[0].Tracks[0].Channel, "and its keys")
	assert.Contains(t, strings.Join(remarks, " "), "lie beyond its range")
	refuse(t, d, &edit.ChangeDial{Control: root, Name: "nothing", Dial: grip}, `root has no dial "nothing"`)

	free := apply(t, renamed, &edit.DriveParameter{Mechanism: spine, Key: "stretch"})
	assert.Zero(t, free.Mechanisms[0].Parameters.Number("stretch"), "it keeps the value that the dial had at rest")
	refuse(t, free, &edit.DriveParameter{Mechanism: spine, Key: "stretch"}, "no dial drives stretch")
	gone, remarks, _ := told(t, free, &edit.RemoveDial{Control: root, Name: "pull"})
	assert.Empty(t, gone.Control(root).Dials)
	assert.Contains(t, strings.Join(remarks, " "), "The keys of pull of root in creep went with it")
	refuse(t, gone, &edit.DriveParameter{Mechanism: spine, Key: "form", Control: root}, `no dial can drive "form"`)
	refuse(t, gone, &edit.RemoveDial{Control: gone.ControlNamed(rig.GlobalName).ID, Name: rig.ScaleDial}, "scales the whole specimen")
}

func TestADialGivesAParameterItsValue(t *testing.T) {
	d := worm(t)
	root := d.ControlNamed(rig.RootName).ID
	driven, _, drift := told(t, d, &edit.DriveParameter{Mechanism: d.Mechanisms[0].ID, Key: "stretch", Control: root})
	assert.Zero(t, drift)
	length := func(d *rig.Document, dial float64) float64 {
		e := opened(t, d)
		last := e.Plan.ControlIndex[d.Mechanisms[0].Controls[4]]
		require.NoError(t, e.SetChannel(last, rig.MoveY, 2)) // its main axis runs along the chain
		if d.Control(root).Dial("stretch") != nil {
			require.NoError(t, e.SetChannel(e.Plan.ControlIndex[root], "stretch", dial))
		}
		e.Evaluate()
		return e.Frame.Joints[4].Position[2]
	}
	assert.InDelta(t, 4, length(driven, 0), 1e-9)
	assert.Greater(t, length(driven, 1), 5.0)
	half := apply(t, d, &edit.SetParameters{Mechanism: d.Mechanisms[0].ID, Values: parameter.Set{"stretch": parameter.OfNumber(0.5)}})
	assert.InDelta(t, length(half, 0), length(driven, 0.5), 1e-12, "as if it were typed")
}

// Switching between spaces moves nothing at rest, and a control that is switched and kept stands where it stood in any pose.
func TestSwitchedSpacesKeepThePlace(t *testing.T) {
	d := worm(t)
	last, root, head := d.Mechanisms[0].Controls[4], d.ControlNamed(rig.RootName).ID, d.Mechanisms[0].Controls[0]
	d, _, drift := told(t, d, &edit.OfferSpaces{Controls: []string{last}, Spaces: []string{"", head, d.ControlNamed(rig.GlobalName).ID}})
	assert.LessOrEqual(t, drift, 1e-9)
	e := opened(t, d)
	for value := 0.0; value <= 3; value += 0.25 {
		e.Zero()
		require.NoError(t, e.SetChannel(e.Plan.ControlIndex[last], rig.SpaceDial, value))
		e.Evaluate()
		for i, joint := range d.Joints {
			assert.InDelta(t, 0, e.Frame.Joints[i].Position.Sub(joint.Position).Len(), 1e-9, "at rest, with the dial at %g", value)
		}
	}
	random := rand.New(rand.NewPCG(3, 1))
	worst, moved := 0.0, 0.0
	for range 200 {
		for i := range d.Controls {
			for _, channel := range rig.Channels {
				require.NoError(t, e.SetChannel(i, channel, random.NormFloat64()))
			}
		}
		require.NoError(t, e.SetChannel(e.Plan.ControlIndex[d.ControlNamed(rig.GlobalName).ID], rig.ScaleDial, 0.5+random.Float64()))
		e.Evaluate()
		index := e.Plan.ControlIndex[last]
		before := e.ControlAt(index)
		require.NoError(t, e.Keep(index, func() error { return e.SetChannel(index, rig.SpaceDial, float64(random.IntN(4))) }))
		after := e.ControlAt(index)
		worst = math.Max(worst, before.Position.Sub(after.Position).Len())
		between := before.Rotation.Conjugate().Mul(after.Rotation)
		worst = math.Max(worst, 2*math.Atan2(between.V.Len(), math.Abs(between.W)))
		moved = math.Max(moved, before.Position.Sub(d.Control(last).Position).Len())
	}
	assert.LessOrEqual(t, worst, 1e-9*4)
	assert.Greater(t, moved, 1.0)
	t.Logf("greatest change of place by a switch: %.2g m of a chain of 4 m", worst)

	refuse(t, d, &edit.OfferSpaces{Controls: []string{last}, Spaces: []string{head, head}}, "among its spaces twice")
	refuse(t, d, &edit.OfferSpaces{Controls: []string{last}, Spaces: []string{last}}, "cannot hang on itself")
	refuse(t, d, &edit.OfferSpaces{Controls: []string{last}, Spaces: []string{"nowhere"}}, "no control or joint")
	refuse(t, d, &edit.OfferSpaces{Controls: []string{root}, Spaces: []string{last}}, "→") // the spine hangs on the root: a loop
	refuse(t, d, &edit.ChangeDial{Control: last, Name: rig.SpaceDial, Dial: rig.Dial{Name: "s", Max: 1}}, "follows the spaces")
	refuse(t, d, &edit.RemoveDial{Control: last, Name: rig.SpaceDial}, "take those away first")
	alone := apply(t, d, &edit.OfferSpaces{Controls: []string{last}})
	assert.Empty(t, alone.Control(last).Dials)
}

// A control that is hung into its own chain makes a loop, which is named.
func TestAControlInItsOwnChainIsRefusedByName(t *testing.T) {
	d := worm(t)
	refuse(t, d, &edit.HangControls{Controls: []string{d.Mechanisms[0].Controls[0]}, Space: d.Joints[3].ID}, "spine_ctl_1 → ")
	refuse(t, d, &edit.OfferSpaces{Controls: []string{d.Mechanisms[0].Controls[0]}, Spaces: []string{d.Joints[3].ID}}, "spine_ctl_1 → ")
}

// The place where a control stands becomes its zero: nothing moves, and keys pose as before.
func TestMakingAHomeMovesNothing(t *testing.T) {
	random := rand.New(rand.NewPCG(9, 9))
	d := keyed(t, eel(t, "spline-chain", 4), random, 0.05)
	id := d.Mechanisms[0].Controls[2]
	values := [rig.ChannelCount]float64{0.1, -0.05, 0.2, 0.4, 2 * math.Pi, -0.3}
	home := &edit.MakeHome{Homes: []edit.HomeAt{{Control: id, Values: values}}}
	after, _, _ := told(t, d, home)
	before := opened(t, d)
	before.SetClip(nil)
	for k, value := range values {
		require.NoError(t, before.SetChannel(before.Plan.ControlIndex[id], rig.Channels[k], value))
	}
	before.Evaluate()
	now := opened(t, after)
	now.SetClip(nil)
	now.Evaluate()
	for i := range d.Joints {
		assert.InDelta(t, 0, before.Frame.Joints[i].Position.Sub(now.Frame.Joints[i].Position).Len(), 1e-9, "at zero it stands where it stood")
	}
	left := missed(t, d, after, []float64{0, 9, 24})
	assert.LessOrEqual(t, left.Moves, 1e-9, "keys pose as before")
	built, _, _ := told(t, after, &edit.MakeHome{Homes: []edit.HomeAt{{Control: id}}, Built: true})
	assert.Nil(t, built.Control(id).Start)
	assert.LessOrEqual(t, missed(t, d, built, []float64{0, 9, 24}).Moves, 1e-9)
	values[0] = math.NaN()
	_, err := edit.Apply(context(), d, &edit.MakeHome{Homes: []edit.HomeAt{{Control: id, Values: values}}})
	require.ErrorContains(t, err, "not finite")
}

// A tail tip turns about the ground below it.
func TestAPivotOnTheGround(t *testing.T) {
	d := keyed(t, eel(t, "spline-chain", 4), rand.New(rand.NewPCG(2, 2)), 0.05)
	id := d.Mechanisms[0].Controls[3]
	ground := d.Control(id).Position
	ground[1] = 0
	after, _, drift := told(t, d, &edit.SetPivot{Controls: []string{id}, Place: &ground})
	assert.Zero(t, drift)
	assert.LessOrEqual(t, missed(t, d, after, []float64{0, 9, 24}).Moves, 1e-9, "keys pose as before")
	e := opened(t, after)
	e.SetClip(nil)
	index := e.Plan.ControlIndex[id]
	local := after.Control(id).Home().Inverse().Apply(ground)
	for _, channel := range rig.Channels[3:] {
		require.NoError(t, e.SetChannel(index, channel, 0.7))
		e.Evaluate()
		assert.InDelta(t, 0, e.Frame.Controls[index].Apply(local).Sub(ground).Len(), 1e-9, "the ground below it stays")
	}
	assert.Greater(t, e.Frame.Controls[index].Position.Sub(after.Control(id).Position).Len(), 0.1)
	own := apply(t, after, &edit.SetPivot{Controls: []string{id}})
	assert.Nil(t, own.Control(id).Pivot)
	nowhere := mgl64.Vec3{math.Inf(1), 0, 0}
	_, err := edit.Apply(context(), d, &edit.SetPivot{Controls: []string{id}, Place: &nowhere})
	require.ErrorContains(t, err, "finite place")
}

func TestShapesAndColoursChangeNothingElse(t *testing.T) {
	d := worm(t)
	id := d.Mechanisms[0].Controls[1]
	reach := func(d *rig.Document) (most float64) {
		for _, p := range d.Control(id).Outline {
			most = math.Max(most, p.Len())
		}
		return most
	}
	for _, shape := range rig.Shapes {
		shaped := apply(t, d, &edit.ShapeControls{Controls: []string{id}, Shape: shape})
		assert.Equal(t, shape, shaped.Control(id).Shape)
		assert.NotEmpty(t, shaped.Control(id).Outline)
		larger := apply(t, shaped, &edit.ShapeControls{Controls: []string{id}, Size: 2})
		middle := mgl64.Vec3{}
		for _, p := range shaped.Control(id).Outline {
			middle = middle.Add(p.Mul(1 / float64(len(shaped.Control(id).Outline))))
		}
		for k, p := range larger.Control(id).Outline {
			assert.InDelta(t, 0, p.Sub(middle.Add(shaped.Control(id).Outline[k].Sub(middle).Mul(2))).Len(), 1e-12)
		}
	}
	along := apply(t, d, &edit.ShapeControls{Controls: []string{id}, Along: 0.5})
	assert.InDelta(t, 0, along.Control(id).Outline[0].Sub(d.Control(id).Outline[0].Add(geometry.MainAxis.Mul(0.5))).Len(), 1e-12)
	assert.Greater(t, reach(d), 0.0)
	red := apply(t, d, &edit.ColourControls{Controls: []string{id}, Colour: "#a02020"})
	assert.Equal(t, "#a02020", red.Control(id).Colour)
	refuse(t, d, &edit.ColourControls{Controls: []string{id}, Colour: "red"}, "colour")
	refuse(t, d, &edit.ShapeControls{Controls: []string{id}, Shape: "teapot"}, `no shape "teapot"`)
	refuse(t, d, &edit.ShapeControls{Controls: []string{id}, Size: 1e9}, "times as large")
	refuse(t, d, &edit.ShapeControls{Controls: nil, Size: 2}, "choose")
}

func TestControlsComeAndGoByThemselves(t *testing.T) {
	d := worm(t)
	d = apply(t, d, &edit.AddControl{Name: "bar", Position: mgl64.Vec3{0, 2, 0}, Shape: rig.Square, Reach: 0.2})
	bar := d.ControlNamed("bar")
	hung := apply(t, d, &edit.HangControls{Controls: []string{d.Mechanisms[0].Controls[4]}, Space: bar.ID})
	refuse(t, hung, &edit.DeleteControls{Controls: []string{bar.ID}}, "the control spine_ctl_5 hangs on bar; hang it elsewhere first")
	offered := apply(t, d, &edit.OfferSpaces{Controls: []string{d.Mechanisms[0].Controls[4]}, Spaces: []string{bar.ID}})
	refuse(t, offered, &edit.DeleteControls{Controls: []string{bar.ID}}, "hangs on bar")
	driven := apply(t, d, &edit.DriveParameter{Mechanism: d.Mechanisms[0].ID, Key: "volume", Control: bar.ID})
	refuse(t, driven, &edit.DeleteControls{Controls: []string{bar.ID}}, "bar.volume drives spine.volume")
	refuse(t, d, &edit.DeleteControls{Controls: []string{d.Mechanisms[0].Controls[1]}}, "spine_ctl_2 belongs to spine")
	refuse(t, d, &edit.DeleteControls{Controls: []string{d.ControlNamed(rig.RootName).ID}}, "root carries the whole specimen")
	refuse(t, d, &edit.AddControl{Name: "x", Space: "nowhere", Shape: rig.Hoop, Reach: 1}, "no control or joint")
	refuse(t, d, &edit.AddControl{Name: "x", Shape: rig.Hoop, Reach: -1}, "reaches more than 0 m")
	assert.Nil(t, apply(t, d, &edit.DeleteControls{Controls: []string{bar.ID}}).ControlNamed("bar"))
	joint := apply(t, chain(t, 2), &edit.AddControl{Name: "lamp", Space: chain(t, 2).Joints[1].ID, Shape: rig.Hoop, Reach: 0.1})
	refuse(t, joint, &edit.DeleteJoints{Joints: []string{joint.Joints[1].ID}}, "the control lamp hangs on spine_02")
}

// Building over what is switched off takes charge and says so; switched on again, the two are blended by the dial.
func TestBuildingOverWhatIsOffTakesCharge(t *testing.T) {
	d := eel(t, "spline-chain", 5)
	spine := d.Mechanisms[0].ID
	off := apply(t, d, &edit.SwitchMechanism{Mechanism: spine, On: false})
	joints := d.Mechanism(spine).Joints
	both, remarks, drift := told(t, off, &edit.AddMechanism{Mechanism: "fk-chain", Name: "fk", Joints: joints, Blend: true})
	assert.Equal(t, []string{"spine is switched off, so fk has charge of these joints; switch spine on to blend the two."}, remarks)
	assert.LessOrEqual(t, drift, 1e-12)
	fk := both.Mechanisms[len(both.Mechanisms)-1]
	e := opened(t, both)
	index, rest := e.Plan.JointIndex[joints[2]], e.Frame.Joints[e.Plan.JointIndex[joints[2]]].Position
	require.NoError(t, e.SetChannel(e.Plan.ControlIndex[fk.Controls[0]], rig.RotateX, 0.6))
	e.Evaluate()
	assert.Greater(t, e.Frame.Joints[index].Position.Sub(rest).Len(), 0.01, "the new one moves them")
	on := opened(t, apply(t, both, &edit.SwitchMechanism{Mechanism: spine, On: true}))
	assert.LessOrEqual(t, on.Frame.Joints[index].Position.Sub(rest).Len(), 1e-9)
	again, remarks, _ := told(t, d, &edit.AddMechanism{Mechanism: "fk-chain", Name: "fk", Joints: joints, Blend: true})
	assert.Empty(t, remarks)
	assert.Zero(t, again.ControlNamed("spine_blend").Dials[0].Default, "what is on keeps charge")
}

// A control is added at each chosen thing, and hangs on it: as it stands or upright, as large as suits the place.
func TestControlsAreAddedAnywhere(t *testing.T) {
	d := eared(t)
	at := []string{d.Joints[0].ID, d.Joints[1].ID}
	d = apply(t, d, &edit.AddControl{Name: "hold_#", At: at, Shape: rig.Hoop})
	for i, name := range []string{"hold_1", "hold_2"} {
		control := d.ControlNamed(name)
		require.NotNil(t, control)
		assert.Equal(t, at[i], control.Space)
		assert.Equal(t, d.Joints[i].Position, control.Position)
		assert.Equal(t, d.Joints[i].Rotation, control.Rotation)
		assert.Greater(t, len(control.Outline), 3)
	}
	d = apply(t, d, &edit.AddControl{Name: "up", At: []string{d.ControlNamed("hold_2").ID}, Upright: true, Free: true, Shape: rig.Square, Reach: 0.25})
	up := d.ControlNamed("up")
	assert.Empty(t, up.Space)
	assert.Equal(t, rig.Quaternion{0, 0, 0, 1}, up.Rotation)
	far := 0.0
	for _, p := range up.Outline {
		far = max(far, p.Len())
	}
	assert.InDelta(t, 0.25, far, 0.11)
	hung := apply(t, d, &edit.HangControls{Controls: []string{d.ControlNamed("hold_1").ID, d.ControlNamed("hold_2").ID}, Space: up.ID})
	assert.Equal(t, up.ID, hung.ControlNamed("hold_1").Space)
	refuse(t, d, &edit.AddControl{Name: "x", At: []string{"j99"}, Shape: rig.Hoop}, "no joint or control")
}

// A joint that is moved takes its controls along, and those that hang on them; what only partly goes stays, and is told.
func TestControlsGoAlongWithTheirJoints(t *testing.T) {
	d := eared(t)
	tip, chain := d.Joints[3].ID, d.ControlNamed("turns_L_fk_1")
	d = apply(t, d, &edit.AddControl{Name: "bell", At: []string{tip}, Shape: rig.Hoop})
	d = apply(t, d, &edit.AddControl{Name: "clapper", At: []string{d.ControlNamed("bell").ID}, Upright: true, Shape: rig.Hoop})
	by := mgl64.Vec3{0.02, 0.3, -0.1}
	moved := apply(t, d, &edit.MoveJoint{Joint: d.Joints[1].ID, Position: d.Joints[1].Position.Add(by), Below: true})
	for _, name := range []string{"turns_L_fk_1", "turns_L_fk_2", "bell", "clapper"} {
		assert.InDelta(t, 0, moved.ControlNamed(name).Position.Sub(d.ControlNamed(name).Position.Add(by)).Len(), 1e-12, name)
	}
	right := seen(t, moved).Document.ControlNamed("turns_R_fk_1").Position
	assert.InDelta(t, 0, right.Sub(mgl64.Vec3{-chain.Position[0] - by[0], chain.Position[1] + by[1], chain.Position[2] + by[2]}).Len(), 1e-9, "and the copy's")
	still := opened(t, moved)
	for i, j := range still.Plan.Document.Joints {
		assert.InDelta(t, 0, still.Frame.Joints[i].Position.Sub(j.Position).Len(), 1e-9, "nothing moves by it: %s", j.Name)
	}
	alone := apply(t, d, &edit.MoveJoint{Joint: d.Joints[1].ID, Position: d.Joints[1].Position.Add(by), Below: true, Alone: true})
	assert.Equal(t, d.Controls, alone.Controls)

	spine := apply(t, rig.New("x"), &edit.LayChain{Positions: []mgl64.Vec3{{0, 0, 0}, {0, 0, 1}, {0, 0.2, 2}, {0, 0, 3}}, Pattern: "s_#"})
	spine = apply(t, spine, &edit.AddMechanism{Mechanism: "spline-chain", Name: "spine", Joints: ids(spine), Options: parameter.Set{"controls": parameter.OfNumber(3)}})
	var told []string
	c := context()
	c.Tell = func(text string) { told = append(told, text) }
	_, err := edit.Apply(c, spine, &edit.MoveJoint{Joint: spine.Joints[2].ID, Position: mgl64.Vec3{0, 0.5, 2}})
	require.NoError(t, err)
	assert.Contains(t, strings.Join(told, " "), "Left where it was")
}
