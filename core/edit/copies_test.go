package edit_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/interchange/rigfile"
	"myriapod/core/mechanism/kinds"
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

// ownEdit is a random edit of what a control looks like and may do.
func ownEdit(random *rand.Rand, control *rig.Control, others []string) edit.Edit {
	yes, end := random.IntN(2) == 0, random.Float64()
	place := mgl64.Vec3{random.Float64(), 1, random.Float64()}
	one := []string{control.ID}
	switch random.IntN(8) {
	case 0:
		return &edit.ColourControls{Controls: one, Colour: []string{"", "#112233", "#445566"}[random.IntN(3)]}
	case 1:
		return &edit.ShapeControls{Controls: one, Shape: rig.Shapes[random.IntN(len(rig.Shapes))], Size: 0.5 + end}
	case 2:
		return &edit.ChangeChannels{Controls: one, Changes: []edit.ChannelChange{{Channel: rig.Channels[random.IntN(6)], Locked: &yes}}}
	case 3:
		return &edit.ChangeChannels{Controls: one, Changes: []edit.ChannelChange{{Channel: rig.Channels[random.IntN(6)], Max: &end}}}
	case 4:
		return &edit.SetPivot{Controls: one, Place: []*mgl64.Vec3{nil, &place}[random.IntN(2)]}
	case 5:
		return &edit.OfferSpaces{Controls: one, Spaces: others[:random.IntN(len(others)+1)]}
	case 6:
		if len(control.Dials) > 0 && control.Dials[0].Name != rig.SpaceDial {
			return &edit.RemoveDial{Control: control.ID, Name: control.Dials[0].Name}
		}
		return &edit.Label{IDs: one, Pattern: fmt.Sprint("x", random.IntN(9))}
	}
	return &edit.AddDial{Controls: one, Dial: rig.Dial{Name: rig.Channel(fmt.Sprint("d", random.IntN(4))), Max: 1 + end}}
}

// What is edited of a copy alone changes that copy and nothing else; it comes back from the file as it was; and it follows its source again when that is asked.
func TestCopiesKeepTheirOwn(t *testing.T) {
	d := eared(t)
	d = apply(t, d, &edit.AddRepeat{Name: "ring", Rule: rig.Ring, Sources: []string{d.Joints[1].ID}, Count: 4, Through: true, Point: mgl64.Vec3{0, 0, 0.4}})
	random := rand.New(rand.NewPCG(13, 1))
	root := d.ControlNamed(rig.RootName).ID
	edits := 0
	for range 150 {
		x := seen(t, d)
		var copies []*rig.Control
		for i := range x.Document.Controls {
			if origin, ok := x.Origins[x.Document.Controls[i].ID]; ok && x.Origins[origin.Of].Of == "" {
				copies = append(copies, &x.Document.Controls[i])
			}
		}
		control := copies[random.IntN(len(copies))]
		next, err := edit.Apply(context(), d, &edit.OnCopy{Edit: edit.Written{Edit: ownEdit(random, control, []string{root, ""})}})
		if err != nil {
			continue // a dial that is there already, a joint that hangs on itself
		}
		edits++
		now := next.Expanded
		for i := range x.Document.Controls {
			was := x.Document.Controls[i]
			if was.ID != control.ID && now.Base(was.ID) != was.ID && now.Origins[was.ID].Of == control.ID {
				continue // a copy of the copy follows it
			}
			if was.ID != control.ID {
				require.Equal(t, was, *now.Document.Control(was.ID))
			}
		}
		d = next.Document
		text, err := rigfile.Write(d, edit.Memory{})
		require.NoError(t, err)
		back, _, err := rigfile.Read(text, kinds.All())
		require.NoError(t, err)
		again := seen(t, back).Document
		for _, c := range now.Document.Controls {
			got := again.Control(c.ID)
			require.Equal(t, c.Dials, got.Dials)
			require.Equal(t, c.Colour, got.Colour)
			require.Equal(t, c.Pivot, got.Pivot)
			require.Equal(t, c.Spaces, got.Spaces)
			require.Len(t, got.Channels, len(c.Channels))
		}
	}
	assert.Greater(t, edits, 80)
	plain := d
	for _, r := range d.Repeats {
		for _, own := range r.Differences {
			plain = apply(t, plain, &edit.DropDifference{Repeat: r.ID, Copy: own.Copy, Of: own.Of})
		}
	}
	x := seen(t, plain)
	for _, c := range x.Document.Controls {
		if origin, ok := x.Origins[c.ID]; ok {
			source := x.Document.Control(origin.Of)
			assert.Equal(t, source.Colour, c.Colour)
			assert.Equal(t, source.Channels, c.Channels)
			assert.Equal(t, source.Dials, c.Dials)
			assert.Equal(t, source.Shape, c.Shape)
		}
	}
}

// An edit for all that is made on a copy with a place and colour of its own takes to the source what it changes, and nothing of the copy's own.
func TestAnEditForAllTakesNothingOfTheCopysOwn(t *testing.T) {
	d := eared(t)
	s := seen(t, d).Document
	left, right := s.ControlNamed("turns_L_fk_1").ID, s.ControlNamed("turns_R_fk_1").ID
	only := func(e edit.Edit) edit.Edit { return &edit.OnCopy{Edit: edit.Written{Edit: e}} }
	d = apply(t, d, only(&edit.ColourControls{Controls: []string{right}, Colour: "#ff0000"}))
	d = apply(t, d, only(&edit.SetPivot{Controls: []string{right}, Place: &mgl64.Vec3{0, 1, 0}}))
	was := *d.Control(left)
	d = apply(t, d, &edit.Label{IDs: []string{right}, Pattern: "Ear"})
	now := *d.Control(left)
	assert.Equal(t, "Ear", now.Label)
	was.Label = "Ear"
	assert.Equal(t, was, now)
	d = apply(t, d, &edit.ColourControls{Controls: []string{right}, Colour: "#00ff00"})
	assert.Equal(t, "#00ff00", d.Control(left).Colour)
	assert.Equal(t, "#00ff00", seen(t, d).Document.Control(right).Colour)
	assert.NotNil(t, seen(t, d).Document.Control(right).Pivot)
}
