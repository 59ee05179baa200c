// Package motion turns clips of keys into channel values over time. Everything in it is a function of time alone.
package motion

import (
	"math"
	"slices"
	"sort"

	"myriapod/core/rig"
)

// Clip is a clip prepared for reading.
type Clip struct {
	Start, End float64 // frames
	PreRoll    float64 // seconds
	Tracks     []Track
	Joints     []JointTrack
	Morphs     []MorphTrack
}

// MorphTrack is the prepared keys of one morph target.
type MorphTrack struct {
	Part, Morph string
	Track
}

// Track is the prepared keys of one channel.
type Track struct {
	Control string
	Channel rig.Channel
	keys    []rig.Key
	slopes  []float64 // per frame, at each key
}

// Prepare readies a clip. Keys must rise in frame, as rig.Document.Validate requires.
func Prepare(clip rig.Clip) *Clip {
	prepared := &Clip{Start: float64(clip.Start), End: float64(clip.End), PreRoll: clip.PreRoll}
	for _, track := range clip.Tracks {
		if len(track.Keys) > 0 {
			prepared.Tracks = append(prepared.Tracks, Track{
				Control: track.Control, Channel: track.Channel, keys: track.Keys, slopes: slopes(track.Keys),
			})
		}
	}
	for _, track := range clip.JointTracks {
		if len(track.Keys) > 0 {
			prepared.Joints = append(prepared.Joints, JointTrack{Joint: track.Joint, Property: track.Property, keys: track.Keys})
		}
	}
	for _, track := range clip.MorphTracks {
		if len(track.Keys) > 0 {
			prepared.Morphs = append(prepared.Morphs, MorphTrack{track.Part, track.Morph, Track{keys: track.Keys, slopes: slopes(track.Keys)}})
		}
	}
	return prepared
}

// slopes returns the slope at each key for smooth stretches, such that the curve neither overshoots a key nor waves between
// equal ones (Fritsch and Carlson 1980, Monotone piecewise cubic interpolation; harmonic mean of Fritsch and Butland 1984).
func slopes(keys []rig.Key) []float64 {
	result := make([]float64, len(keys))
	for i := 1; i+1 < len(keys); i++ {
		before, after := keys[i].Frame-keys[i-1].Frame, keys[i+1].Frame-keys[i].Frame
		in, out := (keys[i].Value-keys[i-1].Value)/before, (keys[i+1].Value-keys[i].Value)/after
		if in*out > 0 {
			w1, w2 := 2*after+before, after+2*before
			result[i] = (w1 + w2) / (w1/in + w2/out)
		}
	}
	return result
}

// Value returns the track's value at a frame; before its first and after its last key it holds.
func (t *Track) Value(frame float64) float64 {
	next := sort.Search(len(t.keys), func(i int) bool { return t.keys[i].Frame > frame })
	if next == 0 {
		return t.keys[0].Value
	}
	a := t.keys[next-1]
	if next == len(t.keys) {
		return a.Value
	}
	b := t.keys[next]
	span := b.Frame - a.Frame
	x := (frame - a.Frame) / span
	switch a.Ease {
	case rig.Stepped:
		return a.Value
	case rig.Linear:
		return a.Value + x*(b.Value-a.Value)
	}
	return hermite(x, a.Value, b.Value, t.slopes[next-1]*span, t.slopes[next]*span)
}

// Frames lists the frames of the track's keys.
func (t *Track) Frames() []float64 {
	frames := make([]float64, len(t.keys))
	for i, key := range t.keys {
		frames[i] = key.Frame
	}
	return frames
}

func hermite(x, from, to, slopeFrom, slopeTo float64) float64 {
	x2, x3 := x*x, x*x*x
	return (2*x3-3*x2+1)*from + (x3-2*x2+x)*slopeFrom + (3*x2-2*x3)*to + (x3-x2)*slopeTo
}

// SetKey returns keys with key in its place; a key at the same frame (to a thousandth) is replaced. keys is not changed.
func SetKey(keys []rig.Key, key rig.Key) []rig.Key {
	kept := RemoveKey(keys, key.Frame)
	at := sort.Search(len(kept), func(i int) bool { return kept[i].Frame > key.Frame })
	return slices.Insert(kept, at, key)
}

// RemoveKey returns keys without the one at frame. keys is not changed.
func RemoveKey(keys []rig.Key, frame float64) []rig.Key {
	return slices.DeleteFunc(slices.Clone(keys), func(k rig.Key) bool { return math.Abs(k.Frame-frame) < 1e-3 })
}
