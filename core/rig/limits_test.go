package rig_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/parameter"
	"myriapod/core/rig"
)

func TestMoreThanADocumentMayHoldIsRefusedWithTheLimit(t *testing.T) {
	many := func(n int) []string { return make([]string, n) }
	for want, spoil := range map[string]func(*rig.Document){
		"mechanisms: 10001 are more than the 10000": func(d *rig.Document) { d.Mechanisms = make([]rig.Mechanism, rig.MaxMechanisms+1) },
		"repeats: 201 are more":                     func(d *rig.Document) { d.Repeats = make([]rig.Repeat, rig.MaxRepeats+1) },
		"clips: 1001 are more":                      func(d *rig.Document) { d.Clips = make([]rig.Clip, rig.MaxClips+1) },
		"references to joints and controls":         func(d *rig.Document) { d.Mechanisms[0].Joints = many(rig.MaxReferences) },
		"bindings: 16385 are more":                  func(d *rig.Document) { d.Bindings = make([]rig.Binding, rig.MaxParts+1) },
		"clips: tracks":                             func(d *rig.Document) { d.Clips[0].MorphTracks = make([]rig.MorphTrack, rig.MaxTracks) },
		"clips: keys": func(d *rig.Document) {
			d.Clips[0].MorphTracks = []rig.MorphTrack{{Keys: make([]rig.Key, rig.MaxKeys)}}
		},
		"controls[0].outline: points":           func(d *rig.Document) { d.Controls[0].Outline = make([]mgl64.Vec3, rig.MaxOutline+1) },
		"controls[0].spaces: 65":                func(d *rig.Document) { d.Controls[0].Spaces = many(rig.MaxSpaces + 1) },
		"controls[0].label: is longer than 120": func(d *rig.Document) { d.Controls[0].Label = strings.Repeat("é", 121) },
		"joints[1].label: is longer":            func(d *rig.Document) { d.Joints[1].Label = strings.Repeat("x", 9999) },
		"repeats[0].pattern: is longer":         func(d *rig.Document) { d.Repeats = []rig.Repeat{{Pattern: strings.Repeat("*", 121)}} },
		"parameters.a: 257 points": func(d *rig.Document) {
			d.Mechanisms[0].Parameters["a"] = parameter.OfProfile(make([]parameter.Point, rig.MaxProfile+1)...)
		},
		"joints[0].id: is longer than 600":   func(d *rig.Document) { d.Joints[0].ID = strings.Repeat("x", 601) },
		"no frame lies beyond 10000000":      func(d *rig.Document) { d.Clips[0].Start, d.Clips[0].End = -1<<63, 1<<63-1 },
		"within 1000000 frames, and no fram": func(d *rig.Document) { d.Clips[0].End = rig.MaxLength + 1 },
	} {
		d := whole()
		spoil(d)
		assert.ErrorContains(t, d.Validate(), want)
	}
}

func TestSizesDoNotOverflow(t *testing.T) {
	huge := rig.Sizes{Joints: 1 << 39, References: 7}
	sum := huge.Add(huge, 1<<62).Add(huge, 1<<62)
	assert.Positive(t, sum.Joints)
	assert.Error(t, sum.Check())
	assert.Equal(t, rig.Sizes{Joints: 1 << 39, References: 7}, huge.Add(huge, 0))
}

func TestNamesAreKeptInOneForm(t *testing.T) {
	assert.Equal(t, "naïve tail 1", rig.TidyName("  nai\u0308ve\u00a0 tail\t1 "))
	for name, fits := range map[string]bool{
		"leg_L1": true, "Хвост": true, "ذيل": true, "می\u200cخواهم": true, "👩\u200d🔧": true,
		"": false, " \u00a0": false, "a\u202eb": false, "a\u200fb": false, "\ufeffa": false, "a\u0000": false, "a\nb": false, "a\u2028b": false, "\xff": false,
	} {
		assert.Equal(t, fits, rig.CheckName(name) == nil, "%+q", name)
	}
	d := whole()
	d.Joints[1].Name = "hip"
	d.Joints[0].Name = " hip "
	assert.ErrorContains(t, d.Validate(), `is taken by`)
	d.MendNames()
	require.NoError(t, d.Validate(), "what was kept before opens")
	d.Controls[0].Name = "\u202e"
	require.Error(t, d.Validate())
	d.MendNames()
	require.NoError(t, d.Validate())
}

func TestManyFreeNamesAreFoundInTime(t *testing.T) {
	d := whole()
	d.Joints[0].Name = "a_3"
	names, seen := d.TakenNames(), map[string]bool{"a_3": true}
	for i := range 100_000 {
		name := names.Free("a")
		require.False(t, seen[name], name)
		seen[name] = true
		if i == 1 {
			assert.Equal(t, "a_2", name)
		}
	}
	// a, a_2, a_4 and so on: a_3 was taken
	assert.Equal(t, fmt.Sprintf("a_%d", 100_002), names.Free("a"))
}
