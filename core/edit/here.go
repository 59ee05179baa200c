package edit

import (
	"errors"
	"maps"
	"math"
	"slices"

	"myriapod/core/mechanism"
	"myriapod/core/mesh"
	"myriapod/core/rig"
)

// LimitHere makes where a control stands the ends of how far channels go, of each of the controls alike: above rest the upper end, below it the lower one. What stands
// at rest, and what is locked, stays as it is.
type LimitHere struct {
	Controls []string                `json:"controls"`
	Values   map[rig.Channel]float64 `json:"values"` // metres, radians
}

// slight is how near to rest a channel counts as standing there: in radians, or as a share of the specimen's size.
const slight = 1e-6

// slightMove is slight in metres.
func slightMove(d *rig.Document) float64 {
	box := mesh.EmptyBounds()
	for _, j := range d.Joints {
		box.Add(j.Position)
	}
	for _, c := range d.Controls {
		box.Add(c.Position)
	}
	return slight * box.Size()
}

// Title implements Edit.
func (e *LimitHere) Title(d *rig.Document) string {
	return "Limit " + controlsNamed(d, e.Controls) + " where it stands"
}

// Touches implements Edit.
func (e *LimitHere) Touches(*rig.Document) []string { return e.Controls }

// Apply implements Edit.
func (e *LimitHere) Apply(c *Context, d *rig.Document) error {
	away := false
	move := slightMove(d)
	err := eachControl(d, e.Controls, func(control *rig.Control) error {
		if control.Channels == nil {
			control.Channels = map[rig.Channel]rig.ChannelState{}
		}
		stops := stopperOf(c, d, control.ID)
		for _, channel := range slices.Sorted(maps.Keys(e.Values)) {
			value, least := e.Values[channel], move
			if channel.Turns() {
				least = slight
			}
			if channel.Index() < 0 || math.Abs(value) <= least || control.State(channel).Locked {
				continue
			}
			away = true
			if stops != nil && stops(channel, value) {
				continue
			}
			change := ChannelChange{Channel: channel, Max: &value}
			if value < 0 {
				change = ChannelChange{Channel: channel, Min: &value}
			}
			if err := change.apply(c, d, control); err != nil {
				return err
			}
		}
		return nil
	})
	if err == nil && !away {
		return errors.New("it stands at rest; bring it as far as it should go, then limit it there")
	}
	return err
}

// stopperOf returns what sets the stops of the mechanism that a control is the handle of, and tells whether a channel has any; nil where its kind has none.
func stopperOf(c *Context, d *rig.Document, control string) func(rig.Channel, float64) bool {
	for i := range d.Mechanisms {
		m := &d.Mechanisms[i]
		if !slices.Contains(m.Controls, control) {
			continue
		}
		kind, _, err := c.Kinds.Find(m.Kind)
		stopper, ok := kind.(mechanism.Stopper)
		if err != nil || !ok {
			continue
		}
		return func(channel rig.Channel, value float64) bool {
			set := stopper.StopAt(channel, value)
			m.Parameters = m.Parameters.Clone()
			for key, value := range set {
				m.Parameters[key] = value
			}
			return len(set) > 0
		}
	}
	return nil
}

// PoseOf is how a control stands: what its channels and dials say, in metres, radians and the dials' units.
type PoseOf struct {
	Control string                  `json:"control"`
	Values  map[rig.Channel]float64 `json:"values"`
}

// KeyPose keys controls as they stand at a frame: all their channels and dials that are not locked.
type KeyPose struct {
	Clip  string   `json:"clip"`
	Frame float64  `json:"frame"`
	Ease  rig.Ease `json:"ease"`
	Poses []PoseOf `json:"poses"`
}

// Title implements Edit.
func (e *KeyPose) Title(d *rig.Document) string { return e.keys(d).Title(d) }

// Touches implements Edit.
func (e *KeyPose) Touches(d *rig.Document) []string { return e.keys(d).Touches(d) }

// Apply implements Edit.
func (e *KeyPose) Apply(c *Context, d *rig.Document) error {
	for _, pose := range e.Poses {
		if d.Control(pose.Control) == nil {
			return missing("control", pose.Control)
		}
	}
	return e.keys(d).Apply(c, d)
}

// keys are the keys that the poses come to.
func (e *KeyPose) keys(d *rig.Document) *SetKeys {
	set := &SetKeys{Clip: e.Clip}
	for _, pose := range e.Poses {
		control := d.Control(pose.Control)
		if control == nil {
			continue
		}
		for _, channel := range control.AllChannels() {
			value, given := pose.Values[channel]
			if !given || control.State(channel).Locked {
				continue
			}
			set.Keys = append(set.Keys, KeyValue{KeyPlace: KeyPlace{Control: control.ID, Channel: channel, Frame: e.Frame}, Value: value, Ease: e.Ease})
		}
	}
	return set
}

// jointsLike lists the joints whose names fit a pattern, in document order.
func jointsLike(d *rig.Document, pattern string) (ids []string, err error) {
	fits, err := rig.Like(pattern)
	if err != nil {
		return nil, err
	}
	for _, j := range d.Joints {
		if fits(j.Name) {
			ids = append(ids, j.ID)
		}
	}
	return ids, nil
}
