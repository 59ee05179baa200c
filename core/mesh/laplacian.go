package mesh

import (
	"math"
	"slices"
)

// Laplacian is the cotangent Laplacian of a surface: how much of a difference between two places flows from one to the other, and how much area each place
// stands for. Flows are never negative, so that what it smooths stays within what it was given.
type Laplacian struct {
	Places  int       // vertices that stand in one place count once
	PlaceOf []int     // by vertex; -1 for one that belongs to no face
	Area    []float64 // by place
	// Start, Other and Flow are the flows, row by row in rising order: those of place i are Start[i] to Start[i+1].
	Start []int
	Other []int
	Flow  []float64
	// Odd is how many edges have not two faces, and Flat how many faces have no area: what had to be seen to.
	Odd, Flat int
}

// mollified is the share of the mean edge by which every corner of a face is at least wide.
const mollified = 1e-4

// mostFlips bounds the flips, in so many for each edge, for surfaces on which rounding would have them go on for ever.
const mostFlips = 40

// NewLaplacian works the Laplacian of a surface out. Open, many-shelled and non-manifold surfaces, and faces without area, have one as well.
//
// Method: Sharp, Crane 2020, A Laplacian for Nonmanifold Triangle Meshes: every face has two sheets, which are sewn at each edge to those of the next
// face around it, so that all edges have two sides; lengths are eased until no face is flat, and edges are turned until all are Delaunay (Bobenko,
// Springborn 2007), for which flows are not negative. Here the faces around an edge are sewn in the order of the mesh instead of by their angle, which
// changes nothing where two meet.
func NewLaplacian(m *Mesh) *Laplacian {
	l := &Laplacian{PlaceOf: make([]int, m.VertexCount())}
	corners := l.places(m)
	s := newSheets(corners, l.Places)
	l.Odd = s.odd
	l.Flat = s.measure(m, l, corners)
	s.turn()
	l.gather(s)
	return l
}

// places numbers the places and returns three for each face that has them apart.
func (l *Laplacian) places(m *Mesh) (corners []int32) {
	t := NewTopology(m)
	for i := range l.PlaceOf {
		l.PlaceOf[i] = -1
	}
	for face := range m.FaceCount() {
		c := t.corners(int32(face))
		if c[0] == c[1] || c[1] == c[2] || c[2] == c[0] {
			continue
		}
		for _, at := range c {
			if l.PlaceOf[at] < 0 {
				l.PlaceOf[at] = l.Places
				l.Places++
			}
			corners = append(corners, int32(l.PlaceOf[at]))
		}
	}
	for i, first := range t.weld {
		l.PlaceOf[i] = l.PlaceOf[first]
	}
	return corners
}

// sheets is a surface every face of which is there twice, with its halves of edges: half h goes from tail[h] to tail[next(h)], and runs against twin[h].
type sheets struct {
	tail   []int32
	twin   []int32
	length []float64
	next   []int32
	odd    int
}

// newSheets sews the sheets. Face f has the halves 3f to 3f+2, and those of its other side follow all first ones.
func newSheets(corners []int32, places int) *sheets {
	count := len(corners)
	s := &sheets{tail: make([]int32, 2*count), twin: make([]int32, 2*count), length: make([]float64, 2*count), next: make([]int32, 2*count)}
	type side struct {
		low, high int32
		half      int32 // of the first sheet
	}
	sides := make([]side, count)
	for h := range count {
		face, k := h/3*3, h%3
		from, to := corners[h], corners[face+(k+1)%3]
		s.tail[h], s.next[h] = from, int32(face+(k+1)%3)
		back := count + face + (3-k)%3 // the other side runs the other way round: its half from to back to from
		s.tail[back] = to
		s.next[back] = int32(count + face + ((3-k)%3+1)%3)
		sides[h] = side{min(from, to), max(from, to), int32(h)}
	}
	slices.SortFunc(sides, func(a, b side) int {
		switch {
		case a.low != b.low:
			return int(a.low - b.low)
		case a.high != b.high:
			return int(a.high - b.high)
		}
		return int(a.half - b.half)
	})
	for from := 0; from < count; {
		to := from
		for to < count && sides[to].low == sides[from].low && sides[to].high == sides[from].high {
			to++
		}
		for i := from; i < to; i++ {
			against, _ := s.sidesOf(sides[i].half, count, sides[i].low)
			onto := from + (i-from+1)%(to-from)
			_, next := s.sidesOf(sides[onto].half, count, sides[onto].low)
			s.twin[against], s.twin[next] = next, against
		}
		if to-from != 2 {
			s.odd++
		}
		from = to
	}
	return s
}

// sidesOf returns the half of a face's edge that runs towards the lower of its ends, and the one that runs away from it.
func (s *sheets) sidesOf(half int32, count int, low int32) (against, along int32) {
	face, k := half/3*3, half%3
	back := int32(count) + face + (3-k)%3
	if s.tail[half] == low {
		return back, half
	}
	return half, back
}

// measure takes the lengths of all edges, and eases them so that no face is flat. It returns how many were.
func (s *sheets) measure(m *Mesh, l *Laplacian, corners []int32) (flat int) {
	place := make([]int, l.Places)
	for i, at := range l.PlaceOf {
		if at >= 0 {
			place[at] = i
		}
	}
	sum := 0.0
	for h := range s.tail {
		s.length[h] = m.Vertex(place[s.tail[h]]).Sub(m.Vertex(place[s.tail[s.next[h]]])).Len()
		sum += s.length[h]
	}
	if len(s.tail) == 0 {
		return 0
	}
	least := mollified * sum / float64(len(s.tail))
	ease := 0.0
	for face := 0; face < len(s.tail)/2; face += 3 {
		a, b, c := s.length[face], s.length[face+1], s.length[face+2]
		lacks := least - min(a+b-c, b+c-a, c+a-b)
		ease = math.Max(ease, lacks)
		if lacks > 0 {
			flat++
		}
	}
	for h := range s.length {
		s.length[h] += ease
	}
	return flat
}

// corner is the cotangent of the angle against a half, in its face.
func (s *sheets) cotangent(h int32) float64 {
	a, b, c := s.length[h], s.length[s.next[h]], s.length[s.next[s.next[h]]]
	return (b*b + c*c - a*a) / (4 * heron(a, b, c))
}

// heron is the area of a triangle by its sides.
//
// Method: Kahan 2014, Miscalculating Area and Angles of a Needle-like Triangle.
func heron(a, b, c float64) float64 {
	if a < b {
		a, b = b, a
	}
	if b < c {
		b, c = c, b
	}
	if a < b {
		a, b = b, a
	}
	return 0.25 * math.Sqrt(math.Max(0, (a+(b+c))*(c-(a-b))*(c+(a-b))*(a+(b-c))))
}

// straight is how negative a flow may be, of rounding, before its edge is turned.
const straight = 1e-10

// turn turns edges until all are Delaunay.
func (s *sheets) turn() {
	waiting, queued := make([]int32, 0, len(s.tail)), make([]bool, len(s.tail))
	push := func(h int32) {
		if h > s.twin[h] {
			h = s.twin[h]
		}
		if !queued[h] {
			queued[h] = true
			waiting = append(waiting, h)
		}
	}
	for h := range s.tail {
		push(int32(h))
	}
	for spare := mostFlips * len(s.tail); len(waiting) > 0 && spare > 0; spare-- {
		h := waiting[0]
		waiting = waiting[1:]
		queued[h] = false
		if s.cotangent(h)+s.cotangent(s.twin[h]) >= -straight {
			continue
		}
		if s.flip(h) {
			for _, around := range []int32{s.next[h], s.next[s.next[h]], s.next[s.twin[h]], s.next[s.next[s.twin[h]]]} {
				push(around)
			}
		}
	}
}

// flip turns an edge within the two faces beside it.
func (s *sheets) flip(h int32) bool {
	t := s.twin[h]
	a, b := s.next[h], s.next[s.next[h]]
	c, d := s.next[t], s.next[s.next[t]]
	if a == t || b == t || h == c || h == d {
		return false // both sides are of one face
	}
	// The two faces are laid flat beside each other along the edge.
	base := s.length[h]
	x1 := (base*base + s.length[b]*s.length[b] - s.length[a]*s.length[a]) / (2 * base)
	y1 := 2 * heron(base, s.length[a], s.length[b]) / base
	x2 := (base*base + s.length[c]*s.length[c] - s.length[d]*s.length[d]) / (2 * base)
	y2 := 2 * heron(base, s.length[c], s.length[d]) / base
	across := math.Hypot(x1-x2, y1+y2)
	if !(across > 0) {
		return false
	}
	// h ran from p to q over the apexes r and s: now it runs from s to r.
	s.tail[h], s.tail[t] = s.tail[d], s.tail[b]
	s.length[h], s.length[t] = across, across
	s.next[h], s.next[b], s.next[c] = b, c, h
	s.next[t], s.next[d], s.next[a] = d, a, t
	return true
}

// gather sums flows and areas up by place. Each face counts half, as it is there twice.
func (l *Laplacian) gather(s *sheets) {
	l.Area, l.Start = make([]float64, l.Places), make([]int, l.Places+1)
	type flow struct {
		from, to int32
		amount   float64
	}
	flows := make([]flow, 0, len(s.tail))
	for h := range s.tail {
		h := int32(h)
		from, to := s.tail[h], s.tail[s.next[h]]
		third := heron(s.length[h], s.length[s.next[h]], s.length[s.next[s.next[h]]]) / 6 // a third of half the face
		l.Area[from] += third
		if from == to {
			continue
		}
		amount := math.Max(0, s.cotangent(h)+s.cotangent(s.twin[h])) / 4 // half a cotangent for each side, and half for the two sheets
		flows = append(flows, flow{from, to, amount})
	}
	// Each half tells of the flow of its edge once in its own direction.
	slices.SortFunc(flows, func(a, b flow) int {
		switch {
		case a.from != b.from:
			return int(a.from - b.from)
		case a.to != b.to:
			return int(a.to - b.to)
		case a.amount < b.amount: // so that a sum does not hang on how the sheets were sewn
			return -1
		case a.amount > b.amount:
			return 1
		}
		return 0
	})
	for i, f := range flows {
		if i > 0 && flows[i-1].from == f.from && flows[i-1].to == f.to {
			l.Flow[len(l.Flow)-1] += f.amount
			continue
		}
		l.Other, l.Flow = append(l.Other, int(f.to)), append(l.Flow, f.amount)
		l.Start[f.from+1] = len(l.Other)
	}
	for i := range l.Places {
		l.Start[i+1] = max(l.Start[i+1], l.Start[i])
	}
}
