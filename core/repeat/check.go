package repeat

import (
	"fmt"

	"myriapod/core/mesh"
	"myriapod/core/rig"
)

// CheckNames tells of the first copy whose name something else bears.
func (x *Expansion) CheckNames() error {
	if len(x.Origins) == 0 {
		return nil
	}
	taken := make(map[string]string, len(x.Document.Joints))
	var first error
	x.Document.EachNamed(func(id, name string) bool {
		other, is := taken[name]
		taken[name] = id
		if !is {
			return true
		}
		for _, copied := range []string{id, other} {
			if origin, ok := x.Origins[copied]; ok {
				r := x.Document.Repeat(origin.Repeat)
				first = fmt.Errorf("copy %d of the repeat %s would be called %s, and that name is taken; choose another pattern for its names, or another part of them to replace", origin.Copy, r.Name, name)
				return false
			}
		}
		return true
	})
	return first
}

// meets is how near, as a share of the skeleton's size, a copy may stand to its source before the two count as in one place.
const meets = 1e-4

// Meeting returns the first copied joint of a repeat that stands where its source stands, with the source; ok is false where none does.
func (x *Expansion) Meeting(repeat string) (copied, source rig.Joint, ok bool) {
	places := map[string]rig.Joint{}
	box := mesh.EmptyBounds()
	for _, j := range x.Document.Joints {
		box.Add(j.Position)
	}
	near := meets * box.Size()
	for _, j := range x.Document.Joints {
		places[j.ID] = j
		origin, is := x.Origins[j.ID]
		if !is || origin.Repeat != repeat {
			continue
		}
		if from := places[origin.Of]; from.Position.Sub(j.Position).Len() <= near {
			return j, from, true
		}
	}
	return copied, source, false
}

// DefaultNaming chooses how copies of things with the names given are named where the rigger does not say: the first number that
// stands in all of them, in the same place from the left, is counted on; without one the counter is put behind.
func DefaultNaming(names []string) (replace, pattern string) {
	if len(names) == 0 {
		return "", "*_##"
	}
	from := -1
	for i := range names[0] {
		if names[0][i] >= '0' && names[0][i] <= '9' {
			from = i
			break
		}
	}
	if from < 0 {
		return "", "*_##"
	}
	to := from
	for to < len(names[0]) && names[0][to] >= '0' && names[0][to] <= '9' {
		to++
	}
	number := names[0][from:to]
	for _, name := range names {
		if len(name) < to || name[from:to] != number || len(name) > to && name[to] >= '0' && name[to] <= '9' || len(name) == to && len(names) > 1 {
			return "", "*_##"
		}
	}
	return number, hashes(to - from)
}

func hashes(count int) string {
	text := make([]byte, count)
	for i := range text {
		text[i] = '#'
	}
	return string(text)
}
