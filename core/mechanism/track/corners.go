package track

import (
	"cmp"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/belt"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
)

// mostCorners is how many corners of the ground are looked at under a lower run, at most.
const mostCorners = 256

// beside is how much of the room beside a wheel a corner takes at most, and apart how far corners lie from each other at least, as a share of how far is looked.
const (
	beside = 0.999
	apart  = 1e-9
)

// corner is a place where the ground bends under the track: how far ahead over the level, and the round edge that the links lie over there.
type corner struct {
	ahead float64
	edge  belt.Wheel
}

// surround lists what the track goes round: its wheels, and between those of its lower run the corners of the ground, which press on it from outside, each no larger than the wheels beside it leave room
// for.
func (t *track) surround(f *mechanism.Frame, plane geometry.Transform, l *laying) {
	t.look(f, plane, l)
	l.round = l.round[:0]
	for k, a := range l.wheels {
		l.round = append(l.round, a)
		if !t.low[k] || a.Outside {
			continue
		}
		b := l.wheels[(k+1)%len(l.wheels)]
		begin := len(l.round)
		for _, c := range l.corners {
			if c.edge.At[0] > a.At[0] && c.edge.At[0] < b.At[0] {
				l.bulge(begin, c.edge)
			}
		}
		kept := begin
		for _, edge := range l.round[begin:] {
			edge.Radius = math.Min(edge.Radius, beside*math.Min(edge.At.Sub(a.At).Len()-a.Radius, edge.At.Sub(b.At).Len()-b.Radius))
			if edge.Radius > 0 {
				l.round[kept] = edge
				kept++
			}
		}
		l.round = l.round[:kept]
	}
}

// bulge adds the next edge to those from begin on, and leaves out what lies under the line from the one before to it: no belt that lies over both can touch that.
func (l *laying) bulge(begin int, edge belt.Wheel) {
	for n := len(l.round); n-begin >= 2; n = len(l.round) {
		a, b := l.round[n-2].At, l.round[n-1].At
		if along, on := b.Sub(a), edge.At.Sub(a); along[0]*on[1]-along[1]*on[0] < 0 {
			break
		}
		l.round = l.round[:n-1]
	}
	l.round = append(l.round, edge)
}

// look lists the corners of the ground under the track, in rising order along it; of those over one place the highest.
func (t *track) look(f *mechanism.Frame, plane geometry.Transform, l *laying) {
	l.corners = l.corners[:0]
	if t.land == nil || f.Still || t.edge <= 0 {
		return
	}
	over := t.carried(f).Inverse()
	from := over.Apply(plane.Apply(mgl64.Vec3{t.middle[0], t.middle[1], 0}))
	ahead := over.Rotation.Rotate(plane.Rotation.Rotate(mgl64.Vec3{1, 0, 0}))
	ahead = geometry.Unit(mgl64.Vec3{ahead[0], 0, ahead[2]}, geometry.Forward)
	back, reach := plane.Inverse().Then(t.carried(f)), t.half+t.reach
	t.land.Corners(from, ahead, reach, func(x, height float64) {
		if len(l.corners) < cap(l.corners) {
			place := from.Add(ahead.Mul(x))
			place[1] = height
			l.corners = append(l.corners, corner{ahead: x, edge: belt.Wheel{At: flat(back.Apply(place)), Radius: t.edge, Outside: true, Obstacle: true}})
		}
	})
	slices.SortFunc(l.corners, func(a, b corner) int {
		return cmp.Or(cmp.Compare(a.ahead, b.ahead), cmp.Compare(b.edge.At[1], a.edge.At[1]))
	})
	l.corners = slices.CompactFunc(l.corners, func(a, b corner) bool { return math.Abs(b.ahead-a.ahead) < apart*reach })
	slices.SortFunc(l.corners, func(a, b corner) int { return cmp.Compare(a.edge.At[0], b.edge.At[0]) })
}
