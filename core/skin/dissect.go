package skin

import (
	"slices"

	"myriapod/core/mesh"
)

// smallest is how many places are not parted any more.
const smallest = 48

// dissected orders the places of a surface so that a factor fills in little: halves first, and between them what parts them last.
//
// Method: nested dissection (George 1973, Nested Dissection of a Regular Finite Element Mesh), halved by rings of neighbours around the place that is farthest from another
// (the level structures of George, Liu 1978).
func dissected(l *mesh.Laplacian) []int {
	d := &dissection{l: l, in: make([]int32, l.Places), level: make([]int32, l.Places), order: make([]int, 0, l.Places)}
	all := make([]int, l.Places)
	for i := range all {
		all[i] = i
	}
	d.part(all)
	return d.order
}

type dissection struct {
	l     *mesh.Laplacian
	in    []int32 // by place: which list it is in now
	lists int32
	level []int32
	order []int
}

// part orders a list of places.
func (d *dissection) part(list []int) {
	for len(list) > smallest {
		reached := d.levels(d.levels(list, list[0]), -1)
		if len(reached) < len(list) { // it hangs together in several pieces
			slices.Sort(reached)
			rest := without(list, reached)
			d.part(reached)
			list = rest
			continue
		}
		middle := d.level[reached[len(reached)/2]]
		var near, far, between []int
		for _, place := range reached {
			switch level := d.level[place]; {
			case level < middle:
				near = append(near, place)
			case level > middle:
				far = append(far, place)
			default:
				between = append(between, place)
			}
		}
		if len(near)+len(far) == 0 {
			break
		}
		d.part(near)
		d.part(far)
		d.order = append(d.order, between...)
		return
	}
	d.order = append(d.order, list...)
}

// levels lists the places of a list that can be reached from one of them, the nearest first, and notes how many steps away each is. From -1 it begins at the last of the list.
func (d *dissection) levels(list []int, from int) (reached []int) {
	if from < 0 {
		from = list[len(list)-1]
	}
	d.lists++
	for _, place := range list {
		d.in[place] = d.lists
	}
	d.lists++
	seen := d.lists
	reached = append(make([]int, 0, len(list)), from)
	d.in[from], d.level[from] = seen, 0
	for k := 0; k < len(reached); k++ {
		place := reached[k]
		for m := d.l.Start[place]; m < d.l.Start[place+1]; m++ {
			if other := d.l.Other[m]; d.in[other] == seen-1 {
				d.in[other], d.level[other] = seen, d.level[place]+1
				reached = append(reached, other)
			}
		}
	}
	return reached
}

// without is a list less what is in another, which rises.
func without(list, less []int) (rest []int) {
	for _, place := range list {
		if _, found := slices.BinarySearch(less, place); !found {
			rest = append(rest, place)
		}
	}
	return rest
}
