package rig

import (
	"fmt"
	"math"
	"slices"
)

func (d *Document) checkClips() error {
	for i, clip := range d.Clips {
		place := fmt.Sprintf("clips[%d]", i)
		if !Rise(clip.Start, clip.End, MaxLength) {
			return fmt.Errorf("%s.end: a clip ends after it starts, within %d frames, and no frame lies beyond %d; not at %d from %d", place, MaxLength, MaxFrame, clip.End, clip.Start)
		}
		if !(clip.PreRoll >= 0 && clip.PreRoll <= MaxPreRoll) {
			return fmt.Errorf("%s.preRoll: lies between 0 and %d seconds, not at %g", place, MaxPreRoll, clip.PreRoll)
		}
		for k, track := range clip.Tracks {
			if err := d.checkTrack(fmt.Sprintf("%s.tracks[%d]", place, k), track); err != nil {
				return err
			}
		}
		for k, track := range clip.JointTracks {
			if err := track.check(fmt.Sprintf("%s.jointTracks[%d]", place, k)); err != nil {
				return err
			}
		}
		for k, track := range clip.MorphTracks {
			if err := d.checkMorphTrack(fmt.Sprintf("%s.morphTracks[%d]", place, k), track); err != nil {
				return err
			}
		}
	}
	return nil
}

// Rise tells whether a range of frames rises by most at most, and lies where frames may.
func Rise(from, to, most int) bool {
	return from >= -MaxFrame && to <= MaxFrame && from <= to && to-from <= most
}

func (d *Document) checkTrack(place string, track Track) error {
	if control := d.Control(track.Control); control.ChannelIndex(track.Channel) < 0 {
		return fmt.Errorf("%s.channel: is one of %v, not %q", place, control.AllChannels(), track.Channel)
	}
	return checkKeys(place, track.Keys)
}

func (t JointTrack) check(place string) error {
	if t.Property != JointMove && t.Property != JointTurn && t.Property != JointGirth {
		return fmt.Errorf("%s.property: is one of move, turn, girth, not %q", place, t.Property)
	}
	keys := make([]Key, len(t.Keys))
	for i, key := range t.Keys {
		at := fmt.Sprintf("%s.keys[%d].value", place, i)
		if err := checkPlace(at, key.Value[:]...); err != nil {
			return err
		}
		if t.Property == JointTurn {
			if err := checkRotation(at, key.Value); err != nil {
				return err
			}
		}
		keys[i] = Key{Frame: key.Frame, Ease: key.Ease}
	}
	return checkKeys(place, keys)
}

func (d *Document) checkMorphTrack(place string, t MorphTrack) error {
	if part := d.Part(t.Part); part.Morph(t.Morph) < 0 {
		return fmt.Errorf("%s.morph: %s has no morph target %q", place, part.Name, t.Morph)
	}
	return checkKeys(place, t.Keys)
}

// Morph returns the place of a morph target in the part's list, or -1.
func (p Part) Morph(name string) int {
	return slices.IndexFunc(p.Morphs, func(m Morph) bool { return m.Name == name })
}

func checkKeys(place string, keys []Key) error {
	before := math.Inf(-1)
	for i, key := range keys {
		at := fmt.Sprintf("%s.keys[%d]", place, i)
		if err := checkPlace(at, key.Frame, key.Value); err != nil {
			return err
		}
		if key.Frame <= before {
			return fmt.Errorf("%s.frame: keys rise in frame, and %g does not follow %g", at, key.Frame, before)
		}
		if key.Ease != Linear && key.Ease != Smooth && key.Ease != Stepped {
			return fmt.Errorf("%s.ease: is one of linear, smooth, stepped, not %q", at, key.Ease)
		}
		before = key.Frame
	}
	return nil
}
