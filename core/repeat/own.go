package repeat

import (
	"maps"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/rig"
)

// ownOfControl gives a copied control what it keeps of its own beside its place.
func ownOfControl(control *rig.Control, d rig.Difference) {
	if d.Shape != "" {
		control.Shape = d.Shape
	}
	if d.Outline != nil {
		control.Outline = d.Outline
	}
	if d.Colour != nil {
		control.Colour = *d.Colour
	}
	if d.Pivot != nil {
		control.Pivot = d.Pivot
		if *d.Pivot == (mgl64.Vec3{}) {
			control.Pivot = nil
		}
	}
	if d.Start != nil {
		control.Start = d.Start
		if *d.Start == (rig.Placement{Rotation: rig.Quaternion{0, 0, 0, 1}}) {
			control.Start = nil
		}
	}
	if d.Spaces != nil {
		control.Spaces = d.Spaces
		if len(d.Spaces) == 0 {
			control.Spaces = nil
		}
	}
	for _, dial := range d.Dials {
		control.Dials = PutDial(control.Dials, dial)
	}
	if len(d.Without) > 0 {
		control.Dials = slices.DeleteFunc(slices.Clone(control.Dials), func(dial rig.Dial) bool { return slices.Contains(d.Without, dial.Name) })
	}
	ownChannels(control, d)
}

func ownChannels(control *rig.Control, d rig.Difference) {
	if len(d.Channels)+len(d.Without) == 0 {
		return
	}
	control.Channels = maps.Clone(control.Channels)
	if control.Channels == nil {
		control.Channels = map[rig.Channel]rig.ChannelState{}
	}
	maps.Copy(control.Channels, d.Channels)
	maps.DeleteFunc(control.Channels, func(channel rig.Channel, state rig.ChannelState) bool {
		return state == (rig.ChannelState{}) || control.ChannelIndex(channel) < 0 && slices.Contains(d.Without, channel)
	})
	if len(control.Channels) == 0 {
		control.Channels = nil
	}
}

// PutDial returns dials with one in the place of that of its name, or behind all.
func PutDial(dials []rig.Dial, dial rig.Dial) []rig.Dial {
	dials = slices.Clone(dials)
	if at := slices.IndexFunc(dials, func(d rig.Dial) bool { return d.Name == dial.Name }); at >= 0 {
		dials[at] = dial
		return dials
	}
	return append(dials, dial)
}
