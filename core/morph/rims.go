package morph

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mesh"
)

// Rims has two rims of a surface, like those of lids, come together on a line between them, and what is near them go along. Each goes round the middle of a ball that lies behind them where
// there is one, so that they slide over it in place of cutting through.
type Rims struct {
	One, Other []int   // vertices of the rims, in any order
	Share      float64 // where they meet, 0 at the one to 1 at the other
	Reach      float64 // how far from them other vertices go along, in metres over the surface
}

// Close returns how far each vertex goes, by vertex x, y, z, and the greatest gap that is left between the rims, in metres.
//
// The ball is fitted by least squares (Coope 1993, Circle fitting by linear and nonlinear least squares: the linear one) to the rims and what goes along with them. Both rims are measured along the
// way between their far ends; what is as far along on both meets.
func (r Rims) Close(w *mesh.Walk, surface *mesh.Mesh) (by []float32, gap float64, err error) {
	if err := r.check(surface.VertexCount()); err != nil {
		return nil, 0, err
	}
	place := surface.Vertex
	one, other := line(w, r.One, place), line(w, r.Other, place)
	if len(one) < 2 || len(other) < 2 {
		return nil, 0, errors.New("a rim has two places at least; pick more of its vertices")
	}
	alongside(one, other, place)
	grips := [2]Grip{GripOf(w, r.One, r.Reach), GripOf(w, r.Other, r.Reach)}
	o := ballOf(append(slices.Clone(grips[0].Vertices), grips[1].Vertices...), place)
	meeting := func(t float64) mgl64.Vec3 {
		return o.between(at(one, t, place), at(other, t, place), r.Share)
	}
	to := map[int]mgl64.Vec3{}
	for _, rim := range [][]stop{one, other} {
		for _, s := range rim {
			to[s.vertex] = meeting(s.t)
		}
	}
	for _, rim := range [][]stop{one, other} {
		for _, s := range rim {
			gap = math.Max(gap, apart(to[s.vertex], rim, one, other, to))
		}
	}
	by = make([]float32, len(surface.Positions))
	take(one, other, grips, o, to, place, by)
	return by, gap, nil
}

func (r Rims) check(vertices int) error {
	switch {
	case !(r.Share >= 0 && r.Share <= 1):
		return fmt.Errorf("rims meet at a share of 0 to 1 between them, not at %g", r.Share)
	case !(r.Reach >= 0) || math.IsInf(r.Reach, 1):
		return fmt.Errorf("what is within 0 metres or more of the rims goes along, not within %g", r.Reach)
	}
	in := map[int]bool{}
	for _, v := range r.One {
		in[v] = true
	}
	for _, v := range append(slices.Clone(r.One), r.Other...) {
		if v < 0 || v >= vertices {
			return fmt.Errorf("there is no vertex %d; the part has %d", v, vertices)
		}
	}
	for _, v := range r.Other {
		if in[v] {
			return errors.New("a vertex is in both rims; pick the one rim, then the other")
		}
	}
	return nil
}

// stop is a place of a rim, and how far along it is, 0 to 1.
type stop struct {
	vertex int
	t      float64
}

// line orders the vertices of a rim along it, one for each place. From one end the nearest that is left comes next.
func line(w *mesh.Walk, vertices []int, place func(int) mgl64.Vec3) []stop {
	left := map[mgl64.Vec3]int{}
	for _, v := range vertices {
		if known, there := left[place(v)]; !there || v < known {
			left[place(v)] = v
		}
	}
	var all []int
	for _, v := range left {
		all = append(all, v)
	}
	slices.Sort(all)
	if len(all) == 0 {
		return nil
	}
	end := farthestFrom(place(farthest(all, place)), all, place)
	stops, way := []stop{{vertex: end}}, 0.0
	all = slices.DeleteFunc(all, func(v int) bool { return v == end })
	for len(all) > 0 {
		last := place(stops[len(stops)-1].vertex)
		next := slices.MinFunc(all, func(a, b int) int { return compare(place(a).Sub(last).Len(), place(b).Sub(last).Len()) })
		way += place(next).Sub(last).Len()
		stops = append(stops, stop{next, way})
		all = slices.DeleteFunc(all, func(v int) bool { return v == next })
	}
	for i := range stops {
		if way > 0 {
			stops[i].t /= way
		}
	}
	return stops
}

func compare(a, b float64) int {
	switch {
	case a < b:
		return -1
	case a > b:
		return 1
	}
	return 0
}

// farthest is the vertex that is farthest from the first.
func farthest(all []int, place func(int) mgl64.Vec3) int {
	return farthestFrom(place(all[0]), all, place)
}

func farthestFrom(p mgl64.Vec3, all []int, place func(int) mgl64.Vec3) int {
	return slices.MaxFunc(all, func(a, b int) int { return compare(place(a).Sub(p).Len(), place(b).Sub(p).Len()) })
}

// alongside has both rims run the same way.
func alongside(one, other []stop, place func(int) mgl64.Vec3) {
	a, b := place(one[0].vertex), place(one[len(one)-1].vertex)
	c, d := place(other[0].vertex), place(other[len(other)-1].vertex)
	if a.Sub(c).Len()+b.Sub(d).Len() <= a.Sub(d).Len()+b.Sub(c).Len() {
		return
	}
	slices.Reverse(other)
	for i := range other {
		other[i].t = 1 - other[i].t
	}
}

// at is the place that is so far along a rim.
func at(rim []stop, t float64, place func(int) mgl64.Vec3) mgl64.Vec3 {
	for i := 1; i < len(rim); i++ {
		if a, b := rim[i-1], rim[i]; t <= b.t || i == len(rim)-1 {
			share := 0.0
			if b.t > a.t {
				share = math.Max(0, math.Min(1, (t-a.t)/(b.t-a.t)))
			}
			return place(a.vertex).Mul(1 - share).Add(place(b.vertex).Mul(share))
		}
	}
	return place(rim[0].vertex)
}

// apart is how far a place that a rim comes to lies from where the other rim comes to.
func apart(p mgl64.Vec3, rim, one, other []stop, to map[int]mgl64.Vec3) float64 {
	if &rim[0] == &one[0] {
		one = other
	}
	nearest := math.Inf(1)
	for i := 1; i < len(one); i++ {
		a, b := to[one[i-1].vertex], to[one[i].vertex]
		nearest = math.Min(nearest, mesh.NearestOnStretch(p, a, b).Sub(p).Len())
	}
	return nearest
}

// take writes how far everything goes: rims to where they meet, and what is near one of them round the ball as its nearest place does, by its share.
func take(one, other []stop, grips [2]Grip, o ball, to map[int]mgl64.Vec3, place func(int) mgl64.Vec3, by []float32) {
	held := make([]float64, len(by)/3)
	for side, rim := range [][]stop{one, other} {
		for i, v := range grips[side].Vertices {
			if grips[side].Shares[i] <= held[v] {
				continue
			}
			held[v] = grips[side].Shares[i]
			p := place(v)
			nearest := slices.MinFunc(rim, func(a, b stop) int { return compare(place(a.vertex).Sub(p).LenSqr(), place(b.vertex).Sub(p).LenSqr()) }).vertex
			goal := to[nearest]
			if p != place(nearest) {
				goal = o.like(p, place(nearest), goal, held[v])
			}
			off := goal.Sub(p)
			by[3*v], by[3*v+1], by[3*v+2] = float32(off[0]), float32(off[1]), float32(off[2])
		}
	}
}

// ball is what rims slide over. Without a radius there is none, and all goes straight.
type ball struct {
	middle mgl64.Vec3
	radius float64
}

// roundest is how far places may lie off a ball, as a share of its radius, for it to count, and largest how large it may be beside what lies on it.
const (
	roundest = 0.25
	largest  = 10
)

func ballOf(vertices []int, place func(int) mgl64.Vec3) ball {
	// |p|² = 2 p·middle + (radius² - |middle|²), least squares by the normal equations, about the mean of the places.
	mean := mgl64.Vec3{}
	for _, v := range vertices {
		mean = mean.Add(place(v).Mul(1 / float64(len(vertices))))
	}
	var a mgl64.Mat3
	var b mgl64.Vec3
	square, spread := 0.0, 0.0
	for _, v := range vertices {
		square += place(v).Sub(mean).LenSqr() / float64(len(vertices))
	}
	for _, v := range vertices {
		p := place(v).Sub(mean)
		spread = math.Max(spread, p.Len())
		for k := range 3 {
			for j := range 3 {
				a[3*j+k] += 2 * p[k] * p[j]
			}
			b[k] += p[k] * (p.LenSqr() - square)
		}
	}
	if !(math.Abs(a.Det()) > 1e-9*math.Pow(a.Trace()/3, 3)) {
		return ball{}
	}
	off := a.Inv().Mul3x1(b)
	found := ball{mean.Add(off), math.Sqrt(square + off.LenSqr())}
	for _, v := range vertices {
		if math.Abs(place(v).Sub(found.middle).Len()-found.radius) > roundest*found.radius {
			return ball{}
		}
	}
	if !(found.radius < largest*spread) {
		return ball{}
	}
	return found
}

// between is the place at a share of the way from a to b, round the ball.
func (o ball) between(a, b mgl64.Vec3, share float64) mgl64.Vec3 {
	if o.radius == 0 {
		return a.Mul(1 - share).Add(b.Mul(share))
	}
	u, v := a.Sub(o.middle), b.Sub(o.middle)
	along := o.turn(u, v, share).Rotate(geometry.Unit(u, mgl64.Vec3{}))
	return o.middle.Add(along.Mul(u.Len()*(1-share) + v.Len()*share))
}

// like takes p round the ball by a share of how a rim's place goes.
func (o ball) like(p, from, to mgl64.Vec3, share float64) mgl64.Vec3 {
	if o.radius == 0 {
		return p.Add(to.Sub(from).Mul(share))
	}
	return o.middle.Add(o.turn(from.Sub(o.middle), to.Sub(o.middle), share).Rotate(p.Sub(o.middle)))
}

// turn is a share of the least turn from one direction to another.
func (o ball) turn(u, v mgl64.Vec3, share float64) mgl64.Quat {
	from, to := geometry.Unit(u, geometry.Up), geometry.Unit(v, geometry.Up)
	return geometry.Slerp(mgl64.QuatIdent(), geometry.Shortest(from, to, geometry.Across(geometry.Up, from)), share)
}
