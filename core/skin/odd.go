package skin

import (
	"slices"

	"myriapod/core/mesh"
)

// Odd is where the weights of a part are unlike those of a smooth skin: vertices, by what is odd there.
type Odd struct {
	// Islands are vertices that go with a joint apart from where most of what goes with it hangs together, though the surface hangs together.
	Islands []int `json:"islands"`
	// Faint are vertices with a weight of less than faint, which costs and hardly shows.
	Faint []int `json:"faint"`
	// Many are vertices that go with more joints than the most that was asked for.
	Many []int `json:"many"`
	// Steps are vertices that go with something else than a neighbour to more than the share of step.
	Steps []int `json:"steps"`
}

const (
	faint = 0.01
	step  = 0.6
	// smallIsland is the share of what goes with a joint on a piece of the surface up to which a patch of it is an island.
	smallIsland = 0.2
)

// Odd finds where weights are odd; most is how many joints a vertex is to go with.
func (w *Weights) Odd(surface *mesh.Mesh, most int) Odd {
	odd := Odd{Islands: []int{}, Faint: []int{}, Many: []int{}, Steps: []int{}}
	walk := mesh.NewWalk(surface)
	for v := range w.VertexCount() {
		count, weak := 0, false
		for k := Influences * v; k < Influences*(v+1); k++ {
			if value := w.Values[k]; value > 0 {
				count++
				weak = weak || value < faint
			}
		}
		if weak {
			odd.Faint = append(odd.Faint, v)
		}
		if count > most {
			odd.Many = append(odd.Many, v)
		}
		apart := 0.0
		walk.Neighbours(v, func(n int) { apart = max(apart, w.apart(v, n)) })
		if apart > step {
			odd.Steps = append(odd.Steps, v)
		}
	}
	odd.Islands = w.islands(walk)
	return odd
}

// apart is the share by which two vertices go with different joints.
func (w *Weights) apart(a, b int) float64 {
	shared := 0.0
	for k := Influences * a; k < Influences*(a+1); k++ {
		if w.Values[k] > 0 {
			shared += min(float64(w.Values[k]), w.Of(b, int(w.Joints[k])))
		}
	}
	return 1 - shared
}

// islands finds, for each joint, patches that are small beside the largest one on the same piece of the surface.
func (w *Weights) islands(walk *mesh.Walk) (vertices []int) {
	all := make([]int, w.VertexCount())
	for v := range all {
		all[v] = v
	}
	piece, patch := fresh(len(all)), fresh(len(all))
	number(walk, all, piece, func(int) bool { return true })
	joints := map[int][]int{} // by joint: vertices
	for v := range w.VertexCount() {
		for k := Influences * v; k < Influences*(v+1); k++ {
			if w.Values[k] > 0 {
				joints[int(w.Joints[k])] = append(joints[int(w.Joints[k])], v)
			}
		}
	}
	found := map[int]bool{}
	for joint, list := range joints {
		number(walk, list, patch, func(v int) bool { return w.Of(v, joint) > 0 })
		size, largest := map[int]int{}, map[int]int{}
		for _, v := range list {
			size[patch[v]]++
		}
		for _, v := range list {
			largest[piece[v]] = max(largest[piece[v]], size[patch[v]])
		}
		for _, v := range list {
			if float64(size[patch[v]]) < smallIsland*float64(largest[piece[v]]) {
				found[v] = true
			}
		}
		for _, v := range list {
			patch[v] = -1
		}
	}
	for v := range found {
		vertices = append(vertices, v)
	}
	slices.Sort(vertices)
	return append([]int{}, vertices...)
}

// fresh is numbers of vertices that have none yet.
func fresh(count int) []int {
	of := make([]int, count)
	for v := range of {
		of[v] = -1
	}
	return of
}

// number numbers what hangs together of the vertices listed, which are those that are wanted.
func number(walk *mesh.Walk, list, of []int, wanted func(int) bool) {
	next := 0
	for _, v := range list {
		if of[v] >= 0 {
			continue
		}
		stack := []int{}
		take := func(at int) {
			walk.Twins(at, func(twin int) {
				if of[twin] < 0 && wanted(twin) {
					of[twin] = next
					stack = append(stack, twin)
				}
			})
		}
		take(v)
		for len(stack) > 0 {
			at := stack[len(stack)-1]
			stack = stack[:len(stack)-1]
			walk.Neighbours(at, take)
		}
		next++
	}
}

// Limit leaves each vertex the strongest few of its weights, and has them sum to one again. The next one is taken off all of them before, so that no step shows where two change places. It returns
// how many weights were dropped.
func (w *Weights) Limit(most int) (dropped int) {
	for v := range w.VertexCount() {
		at := Influences * v
		joints, values := []int{}, []float64{}
		for k := at; k < at+Influences; k++ {
			if w.Values[k] > 0 {
				joints, values = append(joints, int(w.Joints[k])), append(values, float64(w.Values[k]))
			}
		}
		if len(joints) <= most {
			continue
		}
		order := make([]int, len(joints))
		for i := range order {
			order[i] = i
		}
		slices.SortStableFunc(order, func(a, b int) int {
			switch {
			case values[a] > values[b]:
				return -1
			case values[a] < values[b]:
				return 1
			}
			return joints[a] - joints[b]
		})
		next := values[order[most]]
		left, kept := []int{}, []float64{}
		for _, i := range order[:most] {
			left, kept = append(left, joints[i]), append(kept, values[i]-next)
		}
		if kept[0] == 0 { // all alike: there is no telling who goes
			kept[0] = 1
		}
		w.Set(v, left, kept)
		dropped += len(joints) - most
	}
	return dropped
}
