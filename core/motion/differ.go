package motion

import (
	"math"
	"slices"

	"myriapod/core/rig"
)

// DifferFrom returns the first frame from which two clips may move anything differently: +Inf where they never do, -Inf where they do from the beginning.
func DifferFrom(a, b *Clip) float64 {
	from := differ(a.Tracks, b.Tracks, func(t *Track) any { return rig.Address{Of: t.Control, Key: string(t.Channel)} }, func(t *Track) []rig.Key { return t.keys })
	from = math.Min(from, differ(a.Morphs, b.Morphs, func(t *MorphTrack) any { return rig.Address{Of: t.Part, Key: t.Morph} }, func(t *MorphTrack) []rig.Key { return t.keys }))
	return math.Min(from, differ(a.Joints, b.Joints, func(t *JointTrack) any { return [2]string{t.Joint, string(t.Property)} }, func(t *JointTrack) []rig.JointKey { return t.keys }))
}

// keyed is a key of any kind of track.
type keyed interface {
	comparable
	At() float64
}

// differ compares the tracks of one kind. A key shapes the way from the last key but one before it on, as slopes look at both neighbours.
func differ[T any, K keyed](a, b []T, name func(*T) any, keys func(*T) []K) float64 {
	others := map[any][]K{}
	for i := range b {
		others[name(&b[i])] = keys(&b[i])
	}
	from := math.Inf(1)
	if len(a) != len(b) {
		return math.Inf(-1)
	}
	for i := range a {
		mine := keys(&a[i])
		other, there := others[name(&a[i])]
		if !there {
			return math.Inf(-1)
		}
		if slices.Equal(mine, other) {
			continue
		}
		first := 0
		for first < len(mine) && first < len(other) && mine[first] == other[first] {
			first++
		}
		if first == 0 {
			return math.Inf(-1)
		}
		from = math.Min(from, mine[max(0, first-2)].At())
	}
	return from
}
