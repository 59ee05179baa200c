package edit_test

import (
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/rig"
)

func ref[T any](value T) *T { return &value }

// worm has a spline spine with its controls, and a clip.
func worm(t *testing.T) *rig.Document {
	d := apply(t, rig.New("worm"), &edit.LayChain{Positions: []mgl64.Vec3{{0, 1, 0}, {0, 1, 1}, {0, 1, 2}, {0, 1, 3}, {0, 1, 4}}, Pattern: "spine_#"})
	d = apply(t, d, &edit.AddMechanism{Mechanism: "spline-chain", Name: "spine", Joints: []string{d.Joints[0].ID, d.Joints[1].ID, d.Joints[2].ID, d.Joints[3].ID, d.Joints[4].ID}})
	return apply(t, d, &edit.AddClip{Name: "creep", End: 24})
}

func TestChannelsAreLockedHiddenAndLimited(t *testing.T) {
	d := worm(t)
	first, second := d.Controls[0].ID, d.Controls[1].ID
	limited := apply(t, d, &edit.ChangeChannels{Controls: []string{first, second}, Changes: []edit.ChannelChange{
		{Channel: rig.MoveX, Max: ref(0.5)}, {Channel: rig.RotateY, Hidden: ref(true), Locked: ref(true)},
	}})
	for _, id := range []string{first, second} {
		assert.Equal(t, map[rig.Channel]rig.ChannelState{rig.MoveX: {Max: ref(0.5)}, rig.RotateY: {Hidden: true, Locked: true}}, limited.Control(id).Channels)
	}
	assert.Empty(t, d.Control(first).Channels, "the document before stays as it was")
	both := apply(t, limited, &edit.ChangeChannels{Controls: []string{first}, Changes: []edit.ChannelChange{{Channel: rig.MoveX, Min: ref(-1.0)}}})
	assert.Equal(t, rig.ChannelState{Min: ref(-1.0), Max: ref(0.5)}, both.Control(first).State(rig.MoveX), "the other end stays")
	free := apply(t, both, &edit.ChangeChannels{Controls: []string{first}, Changes: []edit.ChannelChange{
		{Channel: rig.MoveX, FreeMin: true, FreeMax: true}, {Channel: rig.RotateY, Hidden: ref(false), Locked: ref(false)},
	}})
	assert.Nil(t, free.Control(first).Channels, "what is free is not written down")
}

func TestLocksThatWouldSilenceKeysAreRefused(t *testing.T) {
	d := worm(t)
	id := d.Controls[0].ID
	lock := &edit.ChangeChannels{Controls: []string{id}, Changes: []edit.ChannelChange{{Channel: rig.MoveX, Locked: ref(true)}}}
	key := func(value float64) *edit.SetKeys {
		return &edit.SetKeys{Clip: d.Clips[0].ID, Keys: []edit.KeyValue{{KeyPlace: edit.KeyPlace{Control: id, Channel: rig.MoveX}, Value: value, Ease: rig.Smooth}}}
	}
	refuse(t, apply(t, d, key(1)), lock, "moves in the clip creep")
	locked := apply(t, apply(t, d, key(0)), lock)
	refuse(t, locked, key(1), "is locked; unlock it")
	apply(t, locked, key(0))
}

func TestKeysBeyondALimitStayAndAreToldOf(t *testing.T) {
	d := worm(t)
	id := d.Controls[0].ID
	d = apply(t, d, &edit.SetKeys{Clip: d.Clips[0].ID, Keys: []edit.KeyValue{{KeyPlace: edit.KeyPlace{Control: id, Channel: rig.MoveX}, Value: 1, Ease: rig.Smooth}}})
	for limit, want := range map[float64]int{0.5: 1, 1: 0} {
		c, told := context(), []string{}
		c.Tell = func(text string) { told = append(told, text) }
		result, err := edit.Apply(c, d, &edit.ChangeChannels{Controls: []string{id}, Changes: []edit.ChannelChange{{Channel: rig.MoveX, Max: ref(limit)}}})
		require.NoError(t, err)
		assert.Equal(t, d.Clips, result.Document.Clips)
		assert.Len(t, told, want)
	}
}

func TestChangesOfChannelsThatCannotBeAreRefused(t *testing.T) {
	d := worm(t)
	change := func(c edit.ChannelChange, controls ...string) *edit.ChangeChannels {
		return &edit.ChangeChannels{Controls: controls, Changes: []edit.ChannelChange{c}}
	}
	id := d.Controls[0].ID
	refuse(t, d, change(edit.ChannelChange{Channel: rig.MoveX}), "no control is chosen")
	refuse(t, d, change(edit.ChannelChange{Channel: "wag", Locked: ref(true)}, id), `there is no channel "wag"`)
	refuse(t, d, change(edit.ChannelChange{Channel: rig.MoveX}, "gone"), "gone")
	refuse(t, d, change(edit.ChannelChange{Channel: rig.MoveX, Min: ref(1.0)}, id), "the rest value 0 lies outside")
}

func TestTitlesSayWhatBecomesOfChannels(t *testing.T) {
	d := worm(t)
	id := d.Controls[0].ID
	for want, change := range map[string]edit.ChannelChange{
		"Lock moveX of":   {Channel: rig.MoveX, Locked: ref(true)},
		"Unlock moveX of": {Channel: rig.MoveX, Locked: ref(false)},
		"Hide moveX of":   {Channel: rig.MoveX, Hidden: ref(true)},
		"Show moveX of":   {Channel: rig.MoveX, Hidden: ref(false)},
		"Free moveX of":   {Channel: rig.MoveX, FreeMin: true},
		"Limit moveX of":  {Channel: rig.MoveX, Max: ref(1.0)},
	} {
		e := &edit.ChangeChannels{Controls: []string{id}, Changes: []edit.ChannelChange{change}}
		assert.Equal(t, want+" "+d.NameOf(id), e.Title(d))
	}
	several := &edit.ChangeChannels{Controls: []string{id, d.Controls[1].ID}, Changes: make([]edit.ChannelChange, 2)}
	assert.Equal(t, "Change 2 channels of 2 controls", several.Title(d))
}

func TestCopiesTakeLocksFromTheirSource(t *testing.T) {
	d := worm(t)
	id := d.Controls[2].ID
	d = apply(t, d, &edit.ChangeChannels{Controls: []string{id}, Changes: []edit.ChannelChange{{Channel: rig.MoveX, Max: ref(0.5)}}})
	d = apply(t, d, &edit.AddRepeat{Rule: rig.Mirror, Sources: []string{d.Joints[0].ID}, Direction: mgl64.Vec3{1, 0, 0}, Point: mgl64.Vec3{1, 0, 0}, Pattern: "*_R"})
	x := seen(t, d)
	copied := 0
	for _, control := range x.Document.Controls {
		if x.Origins[control.ID].Of == id {
			copied++
			assert.Equal(t, ref(0.5), control.State(rig.MoveX).Max)
			through := &edit.ChangeChannels{Controls: []string{control.ID}, Changes: []edit.ChannelChange{{Channel: rig.MoveX, Max: ref(0.25)}}}
			assert.Equal(t, ref(0.25), apply(t, d, through).Control(id).State(rig.MoveX).Max, "a change of a copy is a change of all")
			own := apply(t, d, &edit.OnCopy{Edit: edit.Written{Edit: through}})
			assert.Equal(t, ref(0.5), own.Control(id).State(rig.MoveX).Max)
			assert.Equal(t, ref(0.25), seen(t, own).Document.Control(control.ID).State(rig.MoveX).Max, "and of the copy alone where that is asked")
		}
	}
	assert.Equal(t, 1, copied)
}
