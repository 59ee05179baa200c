package rig_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/rig"
)

// repeated is the small document with a ring, a morph target, and a clip that moves a joint and the morph target.
func repeated() *rig.Document {
	d := whole()
	d.Repeats = []rig.Repeat{{
		ID: "r1", Name: "legs", Rule: rig.Ring, Sources: []string{"j2"}, Direction: mgl64.Vec3{0, 1, 0}, Count: 3, Pattern: "*_#",
		Differences: []rig.Difference{{Copy: 2, Of: "j2", Name: "lame"}},
	}}
	d.Parts[0].Morphs = []rig.Morph{{Name: "swell", Deltas: "h"}}
	d.Clips[0].JointTracks = []rig.JointTrack{{Joint: "j2", Property: rig.JointTurn, Keys: []rig.JointKey{{Frame: 0, Value: unturned, Ease: rig.Linear}, {Frame: 3, Value: unturned, Ease: rig.Stepped}}}}
	d.Clips[0].MorphTracks = []rig.MorphTrack{{Part: "p1", Morph: "swell", Keys: []rig.Key{{Frame: 1, Ease: rig.Smooth}}}}
	return d
}

func TestWhatIsWrongWithRepeatsAndTracksIsToldWithItsPlace(t *testing.T) {
	require.NoError(t, repeated().Validate())
	turn := rig.Quaternion{2, 0, 0, 0}
	for want, spoil := range map[string]func(*rig.Document){
		"repeats[0].sources: is empty":                         func(d *rig.Document) { d.Repeats[0].Sources = nil },
		"repeats[0].rule: is one of mirror, ring, series":      func(d *rig.Document) { d.Repeats[0].Rule = "spiral" },
		"repeats[0].count: a ring has 2 to 1000, not 1":        func(d *rig.Document) { d.Repeats[0].Count = 1 },
		"repeats[0].direction: has no length":                  func(d *rig.Document) { d.Repeats[0].Direction = mgl64.Vec3{} },
		"repeats[0].point: numbers are finite":                 func(d *rig.Document) { d.Repeats[0].Point[1] = math.NaN() },
		"repeats[0].stations: a series has 1 to 1000":          func(d *rig.Document) { d.Repeats[0].Rule = rig.Series },
		"repeats[0].differences[0].copy: there is no copy 3":   func(d *rig.Document) { d.Repeats[0].Differences[0].Copy = 3 },
		"repeats[0].differences[0].offset: numbers are finite": func(d *rig.Document) { d.Repeats[0].Differences[0].Offset = &mgl64.Vec3{math.Inf(1), 0, 0} },
		"repeats[0].differences[0].turn: a rotation":           func(d *rig.Document) { d.Repeats[0].Differences[0].Turn = &turn },
		`repeats[0].id: "j1" stands at joints[0].id`:           func(d *rig.Document) { d.Repeats[0].ID = "j1" },
		`repeats[0].name: "hip" is taken`:                      func(d *rig.Document) { d.Repeats[0].Name = "hip" },
		"joints[0].order: is one of":                           func(d *rig.Document) { d.Joints[0].Order = "ZZZ" },
		"jointTracks[0].joint: there is no joint":              func(d *rig.Document) { d.Clips[0].JointTracks[0].Joint = "x" },
		"jointTracks[0].property: is one of move, turn, girth": func(d *rig.Document) { d.Clips[0].JointTracks[0].Property = "shear" },
		"jointTracks[0].keys[1].value: a rotation":             func(d *rig.Document) { d.Clips[0].JointTracks[0].Keys[1].Value = turn },
		"jointTracks[0].keys[1].frame: keys rise":              func(d *rig.Document) { d.Clips[0].JointTracks[0].Keys[1].Frame = -1 },
		"morphTracks[0].part: there is no part":                func(d *rig.Document) { d.Clips[0].MorphTracks[0].Part = "x" },
		`morphTracks[0].morph: body has no morph target "x"`:   func(d *rig.Document) { d.Clips[0].MorphTracks[0].Morph = "x" },
		"morphTracks[0].keys[0].ease: is one of":               func(d *rig.Document) { d.Clips[0].MorphTracks[0].Keys[0].Ease = "hop" },
		"parts[0].morphs[0].value: numbers are finite":         func(d *rig.Document) { d.Parts[0].Morphs[0].Value = math.NaN() },
		`parts[0].morphs[1].name: "swell" stands twice`:        func(d *rig.Document) { d.Parts[0].Morphs = append(d.Parts[0].Morphs, d.Parts[0].Morphs[0]) },
	} {
		d := repeated()
		spoil(d)
		assert.ErrorContains(t, d.Validate(), want)
	}
}

func TestSidesAreReadFromNamesAndChanged(t *testing.T) {
	for name, want := range map[string]struct {
		side  rig.Side
		other string
	}{
		"leg_L01": {rig.Left, "leg_R01"}, "R.arm": {rig.Right, "L.arm"}, "left wing": {rig.Left, "right wing"}, "Fin Right 2": {rig.Right, "Fin Left 2"},
		"Lantern": {rig.Centre, "Lantern"}, "tail": {rig.Centre, "tail"}, "": {rig.Centre, ""}, "arm_l_up": {rig.Left, "arm_r_up"},
	} {
		assert.Equal(t, want.side, rig.SideOf(name), name)
		other, ok := rig.OtherSide(name)
		assert.Equal(t, want.other, other)
		assert.Equal(t, want.side != rig.Centre, ok)
	}
	rapid.Check(t, func(t *rapid.T) {
		name := rapid.StringMatching(`[a-z]{1,5}_[LR][0-9]{0,2}(_[a-z]{2,4})?`).Draw(t, "name")
		other, ok := rig.OtherSide(name)
		back, again := rig.OtherSide(other)
		assert.True(t, ok && again)
		assert.Equal(t, name, back, "twice is as before")
		assert.NotEqual(t, rig.SideOf(name), rig.SideOf(other))
	})
}

// A mirrored control's motion is the mirror image of the plain one's, for equal channels.
func TestMirroredOffsetsAreMirrorImages(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		number := rapid.Float64Range(-3, 3)
		channels := make([]float64, rig.ChannelCount)
		for i := range channels {
			channels[i] = number.Draw(t, "channel")
		}
		plain := rig.Control{Order: "ZXY"}
		mirrored := rig.Control{Order: "ZXY", Mirrored: true}
		point := mgl64.Vec3{number.Draw(t, "x"), number.Draw(t, "y"), number.Draw(t, "z")}
		flip := func(v mgl64.Vec3) mgl64.Vec3 { return mgl64.Vec3{-v[0], v[1], v[2]} }
		assert.InDelta(t, 0, mirrored.Offset(channels).Apply(flip(point)).Sub(flip(plain.Offset(channels).Apply(point))).Len(), 1e-12)
		assert.Equal(t, 1.0, plain.Hand())
		assert.Equal(t, -1.0, mirrored.Hand())
	})
}

func TestACloneSharesNothingThatEditsChange(t *testing.T) {
	d := repeated()
	c := d.Clone()
	c.Repeats[0].Differences[0].Name = "other"
	c.Repeats[0].Name = "other"
	c.Clips[0].JointTracks[0].Joint = "other"
	c.Clips[0].MorphTracks[0].Morph = "other"
	assert.Equal(t, repeated(), d)
}
