package edit_test

import (
	"strings"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// eared has a head with a left ear on an FK chain, and its mirror image.
func eared(t *testing.T) *rig.Document {
	d := apply(t, rig.New("hare"), &edit.LayChain{Positions: []mgl64.Vec3{{0, 1, 0}}, Pattern: "head"})
	d = apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{{0.1, 1.1, 0}, {0.2, 1.4, 0.05}, {0.25, 1.7, 0}}, Pattern: "ear_L_#", Parent: d.Joints[0].ID})
	d = apply(t, d, &edit.AddRepeat{Name: "ears", Rule: rig.Mirror, Sources: []string{d.Joints[1].ID}})
	return apply(t, d, &edit.AddMechanism{Mechanism: "fk-chain", Name: "turns_L", Joints: []string{d.Joints[1].ID, d.Joints[2].ID, d.Joints[3].ID}})
}

// What is done to a control of a copy is done to its source, and so to all: dials, spaces, homes, pivots, shapes, colours.
func TestWhatIsDoneToACopysControlComesToAll(t *testing.T) {
	d := eared(t)
	left, right := seen(t, d).Document.ControlNamed("turns_L_fk_1").ID, seen(t, d).Document.ControlNamed("turns_R_fk_1").ID
	root := d.ControlNamed(rig.RootName).ID
	both := func(d *rig.Document) (source, copied *rig.Control) {
		s := seen(t, d).Document
		return s.Control(left), s.Control(right)
	}

	d = apply(t, d, &edit.AddDial{Controls: []string{right}, Dial: rig.Dial{Name: "perk", Min: 0, Max: 2, Default: 1}})
	source, copied := both(d)
	assert.Equal(t, source.Dials, copied.Dials)
	require.Len(t, source.Dials, 1)
	d = apply(t, d, &edit.OfferSpaces{Controls: []string{right}, Spaces: []string{root}})
	source, copied = both(d)
	assert.Equal(t, []string{root}, source.Spaces)
	assert.Equal(t, []string{root}, copied.Spaces)
	d = apply(t, d, &edit.ColourControls{Controls: []string{right}, Colour: "#336699"})
	d = apply(t, d, &edit.ShapeControls{Controls: []string{right}, Shape: rig.Lozenge})
	source, copied = both(d)
	assert.Equal(t, "#336699", source.Colour)
	assert.Equal(t, rig.Lozenge, copied.Shape)
	for i, p := range source.Outline {
		assert.InDelta(t, 0, copied.Outline[i].Sub(mgl64.Vec3{-p[0], p[1], p[2]}).Len(), 1e-9, "its outline is the mirror image")
	}
}

// A home that is made on the copy is the mirror image on the source: the two stand as mirror images, and each has its zero there.
func TestAHomeMadeOnACopyIsMirrored(t *testing.T) {
	d := eared(t)
	right := seen(t, d).Document.ControlNamed("turns_R_fk_1").ID
	d = apply(t, d, &edit.MakeHome{Homes: []edit.HomeAt{{Control: right, Values: [rig.ChannelCount]float64{0.1, 0.05, -0.02, 0.3, 0.2, -0.4}}}})
	e := opened(t, d)
	for i := 1; i <= 3; i++ {
		left, copied := e.Frame.Joints[i].Position, e.Frame.Joints[i+3].Position
		assert.InDelta(t, 0, copied.Sub(mgl64.Vec3{-left[0], left[1], left[2]}).Len(), 1e-9, "joint %d", i)
		assert.Greater(t, left.Sub(d.Joints[i].Position).Len(), 0.01, "it stands where its home was made")
	}
	ground := mgl64.Vec3{-0.1, 0, 0}
	d = apply(t, d, &edit.SetPivot{Controls: []string{right}, Place: &ground})
	source := seen(t, d).Document.ControlNamed("turns_L_fk_1")
	require.NotNil(t, source.Pivot)
	assert.InDelta(t, 0, source.Home().Apply(*source.Pivot).Sub(mgl64.Vec3{0.1, 0, 0}).Len(), 1e-9, "on the source it is the place across the mirror")
}

// A dial that drives a copy's mechanism drives the source's: each by its own control where that is a copy as well.
func TestDialsDriveCopiesByTheirOwnControls(t *testing.T) {
	d := eared(t)
	s := seen(t, d).Document
	leftChain, rightChain := s.Mechanisms[0].ID, s.Mechanisms[1].ID
	left, right := s.ControlNamed("turns_L_fk_1").ID, s.ControlNamed("turns_R_fk_1").ID
	d = apply(t, d, &edit.DriveParameter{Mechanism: rightChain, Key: "influence", Control: right})
	s = seen(t, d).Document
	for chain, control := range map[string]string{leftChain: left, rightChain: right} {
		by, _ := s.LinkedTo(rig.Address{Of: chain, Key: "influence"})
		assert.Equal(t, rig.Address{Of: control, Key: "influence"}, by)
	}
	e := opened(t, d)
	require.NoError(t, e.SetChannel(e.Plan.ControlIndex[right], "influence", 0))
	for _, id := range []string{left, right} {
		require.NoError(t, e.SetChannel(e.Plan.ControlIndex[id], rig.RotateX, 1))
	}
	e.Evaluate()
	assert.Greater(t, e.Frame.Joints[3].Position.Sub(d.Joints[3].Position).Len(), 0.1)
	assert.InDelta(t, 0, e.Frame.Joints[6].Position.Sub(s.Joints[6].Position).Len(), 1e-9, "switched off by its own dial")
	_, err := edit.Apply(context(), d, &edit.OnCopy{Edit: edit.Written{Edit: &edit.SetParameters{
		Mechanism: rightChain, Values: parameter.Set{"influence": parameter.OfNumber(0.5)},
	}}})
	require.NoError(t, err)
}

// Edits on copies hold plain edits, however often they are put into each other; that is seen before what is inside is read.
func TestEditsOnCopiesDoNotNest(t *testing.T) {
	inner := `{"kind":"rename","id":"x","name":"y"}`
	_, err := edit.Decode([]byte(`{"kind":"on-copy","edit":` + inner + `}`))
	require.NoError(t, err)
	nested := inner
	for range 2000 {
		nested = `{"kind":"on-copy","edit":` + nested + `}`
	}
	_, err = edit.Decode([]byte(nested))
	require.ErrorContains(t, err, "holds a plain edit")
}

// What copies are called by default is called so by nothing else, whatever the names are like: a mechanism that is called as its joints are numbered among them.
func TestCopiesAreNamedFreelyByDefault(t *testing.T) {
	for _, pattern := range []string{"spine_##", "spine_#", "spine", "leg_L_#", "spine_copy_##"} {
		d := apply(t, rig.New("x"), &edit.LayChain{Positions: []mgl64.Vec3{{1, 0, 0}, {1, 0, 1}, {1, 0.2, 2}}, Pattern: pattern})
		d = apply(t, d, &edit.AddMechanism{Mechanism: "spline-chain", Name: strings.TrimRight(pattern, "#_"), Joints: ids(d), Options: parameter.Set{"controls": parameter.OfNumber(3)}})
		first := []string{d.Joints[0].ID}
		for range 3 { // each time more names are taken
			d = apply(t, d, &edit.AddRepeat{Rule: rig.Ring, Sources: first, Count: 3, Through: true, Point: mgl64.Vec3{0, 0, 0.3 * float64(len(d.Repeats))}})
			d = apply(t, d, &edit.AddRepeat{Rule: rig.Mirror, Sources: first, Through: true, Point: mgl64.Vec3{0.1 * float64(1+len(d.Repeats)), 0, 0}})
		}
		assert.Len(t, d.Repeats, 6)
	}
}
