package edit

import (
	"fmt"
	"slices"

	"myriapod/core/motion"
	"myriapod/core/rig"
)

// AddClip adds an empty clip.
type AddClip struct {
	Name  string `json:"name"`
	Start int    `json:"start"`
	End   int    `json:"end"`
	Loop  bool   `json:"loop"`
}

// Title implements Edit.
func (e *AddClip) Title(*rig.Document) string { return "Add clip " + e.Name }

// Touches implements Edit.
func (e *AddClip) Touches(*rig.Document) []string { return nil }

// Apply implements Edit.
func (e *AddClip) Apply(_ *Context, d *rig.Document) error {
	d.Clips = append(d.Clips, rig.Clip{
		ID: d.TakeID("k"), Name: rig.UniqueName(e.Name, d.HasName), Start: e.Start, End: e.End, Loop: e.Loop, Tracks: []rig.Track{},
	})
	return nil
}

// ChangeClip changes a clip's range and whether it loops. Keys outside the range stay.
type ChangeClip struct {
	Clip  string `json:"clip"`
	Start int    `json:"start"`
	End   int    `json:"end"`
	Loop  bool   `json:"loop"`
	// PreRoll is how many seconds before the first frame what has memory begins; it stays when it is left out.
	PreRoll *float64 `json:"preRoll,omitempty"`
}

// Title implements Edit.
func (e *ChangeClip) Title(d *rig.Document) string { return "Change clip " + d.NameOf(e.Clip) }

// Touches implements Edit.
func (e *ChangeClip) Touches(*rig.Document) []string { return []string{e.Clip} }

// Apply implements Edit.
func (e *ChangeClip) Apply(_ *Context, d *rig.Document) error {
	clip := d.Clip(e.Clip)
	if clip == nil {
		return missing("clip", e.Clip)
	}
	clip.Start, clip.End, clip.Loop = e.Start, e.End, e.Loop
	if e.PreRoll != nil {
		clip.PreRoll = *e.PreRoll
	}
	return nil
}

// DeleteClip removes a clip with its keys.
type DeleteClip struct {
	Clip string `json:"clip"`
}

// Title implements Edit.
func (e *DeleteClip) Title(d *rig.Document) string { return "Delete clip " + d.NameOf(e.Clip) }

// Touches implements Edit.
func (e *DeleteClip) Touches(*rig.Document) []string { return []string{e.Clip} }

// Apply implements Edit.
func (e *DeleteClip) Apply(_ *Context, d *rig.Document) error {
	if d.Clip(e.Clip) == nil {
		return missing("clip", e.Clip)
	}
	d.Clips = slices.DeleteFunc(d.Clips, func(c rig.Clip) bool { return c.ID == e.Clip })
	return nil
}

// KeyPlace names one key.
type KeyPlace struct {
	Control string      `json:"control"`
	Channel rig.Channel `json:"channel"`
	Frame   float64     `json:"frame"`
}

// KeyValue is a key to be set.
type KeyValue struct {
	KeyPlace
	Value float64  `json:"value"` // metres or radians
	Ease  rig.Ease `json:"ease"`
}

// SetKeys sets keys of a clip; a key that stands at the frame already is replaced. What turns by a rate that had no keys yet stays where it is at the first of them.
type SetKeys struct {
	Clip string     `json:"clip"`
	Keys []KeyValue `json:"keys"`
}

// Title implements Edit.
func (e *SetKeys) Title(d *rig.Document) string {
	if len(e.Keys) > 0 {
		return fmt.Sprintf("Key %s at frame %g", d.NameOf(e.Keys[0].Control), e.Keys[0].Frame)
	}
	return "Set no keys"
}

// Touches implements Edit.
func (e *SetKeys) Touches(*rig.Document) []string {
	touched := make([]string, 0, len(e.Keys))
	for _, key := range e.Keys {
		touched = append(touched, trackID(e.Clip, key.KeyPlace), key.Control)
	}
	return touched
}

// trackID is how edits of different tracks of one clip are told apart.
func trackID(clip string, key KeyPlace) string {
	return fmt.Sprintf("%s/%s.%s", clip, key.Control, key.Channel)
}

// Apply implements Edit.
func (e *SetKeys) Apply(c *Context, d *rig.Document) error {
	clip := d.Clip(e.Clip)
	if clip == nil {
		return missing("clip", e.Clip)
	}
	for _, key := range e.Keys {
		if findTrack(clip, key.KeyPlace) == nil && turns(d) { // the first key of a number holds it from the clip's first frame on
			return steadily(c, d, e.Clip, key.Frame/d.FPS, func() error { return e.set(d, clip) })
		}
	}
	return e.set(d, clip)
}

func (e *SetKeys) set(d *rig.Document, clip *rig.Clip) error {
	for _, key := range e.Keys {
		control := d.Control(key.Control)
		if control == nil {
			return missing("control", key.Control)
		}
		if control.State(key.Channel).Locked && key.Value != control.RestValue(key.Channel) {
			return fmt.Errorf("%s of %s is locked; unlock it among the channels of its card to key it", key.Channel, control.Name)
		}
		track := trackOf(clip, key.KeyPlace)
		track.Keys = motion.SetKey(track.Keys, rig.Key{Frame: key.Frame, Value: key.Value, Ease: key.Ease})
	}
	return nil
}

func findTrack(clip *rig.Clip, key KeyPlace) *rig.Track {
	for i := range clip.Tracks {
		if t := &clip.Tracks[i]; t.Control == key.Control && t.Channel == key.Channel {
			return t
		}
	}
	return nil
}

func trackOf(clip *rig.Clip, key KeyPlace) *rig.Track {
	if track := findTrack(clip, key); track != nil {
		return track
	}
	clip.Tracks = append(clip.Tracks, rig.Track{Control: key.Control, Channel: key.Channel})
	return &clip.Tracks[len(clip.Tracks)-1]
}

// takeKey removes a key from its track and returns it.
func takeKey(d *rig.Document, clip *rig.Clip, key KeyPlace) (rig.Key, error) {
	if track := findTrack(clip, key); track != nil {
		for _, k := range track.Keys {
			if without := motion.RemoveKey(track.Keys, key.Frame); len(without) < len(track.Keys) && len(motion.RemoveKey([]rig.Key{k}, key.Frame)) == 0 {
				track.Keys = without
				return k, nil
			}
		}
	}
	return rig.Key{}, fmt.Errorf("there is no key of %s.%s at frame %g; it may have been moved meanwhile", d.NameOf(key.Control), key.Channel, key.Frame)
}

// DeleteKeys removes keys of a clip.
type DeleteKeys struct {
	Clip string     `json:"clip"`
	Keys []KeyPlace `json:"keys"`
}

// Title implements Edit.
func (e *DeleteKeys) Title(*rig.Document) string {
	return fmt.Sprintf("Delete keys at %s", frames(e.Keys))
}

func frames(keys []KeyPlace) string {
	if len(keys) == 0 {
		return "no frame"
	}
	return fmt.Sprintf("frame %g", keys[0].Frame)
}

// Touches implements Edit.
func (e *DeleteKeys) Touches(*rig.Document) []string { return touchedTracks(e.Clip, e.Keys) }

func touchedTracks(clip string, keys []KeyPlace) []string {
	touched := make([]string, len(keys))
	for i, key := range keys {
		touched[i] = trackID(clip, key)
	}
	return touched
}

// Apply implements Edit.
func (e *DeleteKeys) Apply(_ *Context, d *rig.Document) error {
	clip := d.Clip(e.Clip)
	if clip == nil {
		return missing("clip", e.Clip)
	}
	for _, key := range e.Keys {
		if _, err := takeKey(d, clip, key); err != nil {
			return err
		}
	}
	clip.Tracks = slices.DeleteFunc(clip.Tracks, func(t rig.Track) bool { return len(t.Keys) == 0 })
	return nil
}

// MoveKeys moves keys of a clip by a number of frames; keys that stand where they arrive are replaced.
type MoveKeys struct {
	Clip string     `json:"clip"`
	Keys []KeyPlace `json:"keys"`
	By   float64    `json:"by"`
}

// Title implements Edit.
func (e *MoveKeys) Title(*rig.Document) string {
	return fmt.Sprintf("Move keys at %s by %+g", frames(e.Keys), e.By)
}

// Touches implements Edit.
func (e *MoveKeys) Touches(*rig.Document) []string { return touchedTracks(e.Clip, e.Keys) }

// Apply implements Edit.
func (e *MoveKeys) Apply(_ *Context, d *rig.Document) error {
	clip := d.Clip(e.Clip)
	if clip == nil {
		return missing("clip", e.Clip)
	}
	taken := make([]rig.Key, len(e.Keys))
	for i, key := range e.Keys {
		k, err := takeKey(d, clip, key)
		if err != nil {
			return err
		}
		taken[i] = k
	}
	for i, key := range e.Keys {
		track := trackOf(clip, key)
		taken[i].Frame += e.By
		track.Keys = motion.SetKey(track.Keys, taken[i])
	}
	return nil
}
