package skin

import "myriapod/core/mesh"

// BySurface returns weights for one surface as those of another have them at the nearest place, and how far the farthest place lies off, in metres.
func BySurface(to, from *mesh.Mesh, of *Weights) (w *Weights, farthest float64) {
	walk, places := mesh.NewWalk(from), mesh.NewPlaces(from)
	w = NewWeights(to.VertexCount())
	for v := range to.VertexCount() {
		sums := map[int]float64{}
		add := func(vertex int, share float64) {
			for k := Influences * vertex; k < Influences*(vertex+1); k++ {
				if of.Values[k] > 0 {
					sums[int(of.Joints[k])] += share * float64(of.Values[k])
				}
			}
		}
		p := to.Vertex(v)
		spot, ok := walk.NearestOn(p)
		if ok {
			for k, corner := range walk.Corners(spot) {
				add(corner, max(0, spot.Shares[k]))
			}
			farthest = max(farthest, walk.Place(spot).Sub(p).Len())
		} else if nearest, off := places.Nearest(p); nearest >= 0 {
			add(nearest, 1)
			farthest = max(farthest, off)
		}
		w.setTop(v, sums)
	}
	return w, farthest
}

// setTop writes the influences of one vertex, cut to the strongest as bindings are.
func (w *Weights) setTop(vertex int, sums map[int]float64) {
	t := newTop(1)
	for joint := range sortedJoints(sums) {
		t.offer(0, joint, sums[joint])
	}
	one := t.weights()
	copy(w.Joints[Influences*vertex:], one.Joints)
	copy(w.Values[Influences*vertex:], one.Values)
}

// Mixed returns weights that are a share of the way from one table to another. Both name their joints by their place in one list.
func Mixed(a, b *Weights, share float64) *Weights {
	w := NewWeights(a.VertexCount())
	for v := range a.VertexCount() {
		sums := map[int]float64{}
		for k := Influences * v; k < Influences*(v+1); k++ {
			sums[int(a.Joints[k])] += (1 - share) * float64(a.Values[k])
			sums[int(b.Joints[k])] += share * float64(b.Values[k])
		}
		w.setTop(v, sums)
	}
	return w
}

// Retold returns a table whose joints have other places: at says for each place what it becomes, or -1 for a joint that is gone. Vertices that lose weight by it have the rest sum to one again; those that
// lose all are listed, and go with the first joint.
func (w *Weights) Retold(at []int) (told *Weights, lost []int) {
	told = NewWeights(w.VertexCount())
	for v := range w.VertexCount() {
		joints, values := []int{}, []float64{}
		for k := Influences * v; k < Influences*(v+1); k++ {
			if value := float64(w.Values[k]); value > 0 && at[w.Joints[k]] >= 0 {
				joints, values = append(joints, at[w.Joints[k]]), append(values, value)
			}
		}
		if len(joints) == 0 {
			lost = append(lost, v)
			joints, values = []int{0}, []float64{1}
		}
		told.Set(v, joints, values)
	}
	return told, lost
}

// Unlike lists the vertices at which two tables differ by more than a share, rising. Both name their joints by their place in one list.
func Unlike(a, b *Weights, share float64) (vertices []int) {
	for v := range a.VertexCount() {
		if a.Apart(b, v) > share {
			vertices = append(vertices, v)
		}
	}
	return vertices
}

// Apart is the share by which a vertex goes with other joints in another table.
func (w *Weights) Apart(other *Weights, v int) float64 {
	shared := 0.0
	for k := Influences * v; k < Influences*(v+1); k++ {
		if w.Values[k] > 0 {
			shared += min(float64(w.Values[k]), other.Of(v, int(w.Joints[k])))
		}
	}
	return max(0, 1-shared)
}

// Joined returns the joints of two lists, those of the first in their places, and where each of the second stands among them.
func Joined(a, b []string) (all []string, at []int) {
	all = append([]string{}, a...)
	place := map[string]int{}
	for i, joint := range a {
		place[joint] = i
	}
	for _, joint := range b {
		i, known := place[joint]
		if !known {
			i = len(all)
			place[joint] = i
			all = append(all, joint)
		}
		at = append(at, i)
	}
	return all, at
}
