package mesh

// alike is how near places of two surfaces are that count as one, as a share of the surface's size.
const alike = 1e-6

// Counterparts finds the vertices of a surface again in another that hangs together in the same way, however it is numbered and wherever its vertices have gone, given that some faces stand where they
// stood. It returns the counterpart of each vertex, or -1, and how many were found.
//
// Method: breadth first from the faces whose corners all stand in one place in both: across an edge whose ends are known, the third corner of the one surface's face is that of the other's.
func Counterparts(a, b *Mesh) (to []int, found int) {
	ta, tb := NewTopology(a), NewTopology(b)
	c := counterparts{ta: ta, tb: tb, to: map[int32]int32{}, taken: map[int32]bool{}, seen: map[int32]bool{}}
	c.anchor(a, b)
	for len(c.queue) > 0 {
		face := c.queue[0]
		c.queue = c.queue[1:]
		c.spread(face)
	}
	to = make([]int, a.VertexCount())
	for v := range to {
		if other, known := c.to[ta.weld[v]]; known {
			to[v] = int(other)
			found++
		} else {
			to[v] = -1
		}
	}
	return to, found
}

type counterparts struct {
	ta, tb *Topology
	to     map[int32]int32 // by welded vertex of a: welded vertex of b
	taken  map[int32]bool  // welded vertices of b
	queue  []int32         // faces of a whose corners are all known
	seen   map[int32]bool  // those that were in it
}

// anchor finds the faces that stand in one place in both.
func (c *counterparts) anchor(a, b *Mesh) {
	near := alike * a.Bounds().Size()
	places := NewPlaces(b)
	same := map[int32]int32{}
	for v := range int32(a.VertexCount()) {
		if c.ta.weld[v] != v || len(c.ta.faces[v]) == 0 {
			continue
		}
		if other, off := places.Nearest(a.Vertex(int(v))); off <= near && len(c.ta.faces[v]) == len(c.tb.faces[c.tb.weld[other]]) {
			same[v] = c.tb.weld[other]
		}
	}
	for face := range int32(a.FaceCount()) {
		corners := c.ta.corners(face)
		var other [3]int32
		all := true
		for k, corner := range corners {
			at, known := same[corner]
			other[k], all = at, all && known
		}
		if all && c.tb.hasFace(other) {
			for k, corner := range corners {
				c.know(corner, other[k])
			}
			c.seen[face] = true
			c.queue = append(c.queue, face)
		}
	}
}

func (c *counterparts) know(a, b int32) bool {
	if known, there := c.to[a]; there {
		return known == b
	}
	if c.taken[b] {
		return false
	}
	c.to[a], c.taken[b] = b, true
	return true
}

// spread goes from a known face over its edges.
func (c *counterparts) spread(face int32) {
	corners := c.ta.corners(face)
	for k := range 3 {
		p, q := corners[k], corners[(k+1)%3]
		for _, next := range c.ta.edges[edge(p, q)] {
			if next == face || c.seen[next] {
				continue
			}
			third := opposite(c.ta.corners(next), p, q)
			_, known := c.to[third]
			if !known {
				other, ok := c.across(p, q, c.ta.runs(int(next), p, q))
				known = ok && c.know(third, other)
			}
			if known {
				c.seen[next] = true
				c.queue = append(c.queue, next)
			}
		}
	}
}

// across is the third corner of the one face of b at the counterpart of an edge that runs along it in the same sense. ok is false where there is none, or more.
func (c *counterparts) across(p, q int32, runs bool) (third int32, ok bool) {
	u, v := c.to[p], c.to[q]
	for _, face := range c.tb.edges[edge(u, v)] {
		if c.tb.runs(int(face), u, v) != runs {
			continue
		}
		if ok {
			return 0, false
		}
		third, ok = opposite(c.tb.corners(face), u, v), true
	}
	return third, ok
}

func opposite(corners [3]int32, p, q int32) int32 {
	for _, c := range corners {
		if c != p && c != q {
			return c
		}
	}
	return p
}

func (t *Topology) hasFace(corners [3]int32) bool {
	for _, face := range t.edges[edge(corners[0], corners[1])] {
		if opposite(t.corners(face), corners[0], corners[1]) == corners[2] {
			return true
		}
	}
	return false
}
