package belt

import (
	"cmp"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"
)

// looks is at how many places of its rim it is looked whether a wheel lies on the hull of all.
const looks = 90

// rim is a place on a wheel's rim.
type rim struct {
	at    mgl64.Vec2
	wheel int
}

// Order returns the places of wheels in the order in which a belt comes to them, anticlockwise. Those that stand out come as the hull of all leads, a wheel that stands out on both sides twice;
// others, and those that press from outside, come where they are nearest to that.
//
// Method: the hull of places on the rims by Andrew's monotone chain (1979).
func Order(wheels []Wheel) []int {
	var rims []rim
	for i, w := range wheels {
		for k := range looks {
			if sine, cosine := math.Sincos(2 * math.Pi * float64(k) / looks); !w.Outside {
				rims = append(rims, rim{w.At.Add(mgl64.Vec2{w.Radius * cosine, w.Radius * sine}), i})
			}
		}
	}
	var order []int
	for _, r := range hull(rims) {
		if len(order) == 0 || order[len(order)-1] != r.wheel {
			order = append(order, r.wheel)
		}
	}
	if len(order) > 1 && order[0] == order[len(order)-1] {
		order = order[1:]
	}
	return insert(wheels, order)
}

// hull is the hull of places, anticlockwise.
func hull(rims []rim) []rim {
	slices.SortFunc(rims, func(a, b rim) int {
		return cmp.Or(cmp.Compare(a.at[0], b.at[0]), cmp.Compare(a.at[1], b.at[1]), cmp.Compare(a.wheel, b.wheel))
	})
	var round []rim
	half := func(list []rim) {
		begin := len(round)
		for _, r := range list {
			for len(round) >= begin+2 {
				a, b := round[len(round)-2].at, round[len(round)-1].at
				if cross(b.Sub(a), r.at.Sub(b)) > 0 {
					break
				}
				round = round[:len(round)-1]
			}
			round = append(round, r)
		}
		round = round[:max(begin, len(round)-1)]
	}
	half(rims)
	slices.Reverse(rims)
	half(rims)
	return round
}

// insert puts those that are not in an order where they lie nearest to the way from one to the next.
func insert(wheels []Wheel, order []int) []int {
	type inserted struct {
		wheel int
		along float64
	}
	more := make([][]inserted, len(order))
	for i, w := range wheels {
		if slices.Contains(order, i) || len(order) < 2 {
			continue
		}
		at, along, nearest := 0, 0.0, math.Inf(1)
		for k, from := range order {
			a, b := wheels[from], wheels[order[(k+1)%len(order)]]
			s, ok := tangentOf(a, b)
			if !ok {
				continue
			}
			share := math.Max(0, math.Min(1, w.At.Sub(s[0]).Dot(s[1].Sub(s[0]))/s[1].Sub(s[0]).LenSqr()))
			if away := math.Abs(w.At.Sub(s[0].Add(s[1].Sub(s[0]).Mul(share))).Len() - w.Radius); away < nearest {
				at, along, nearest = k, share, away
			}
		}
		more[at] = append(more[at], inserted{i, along})
	}
	var all []int
	for k, wheel := range order {
		all = append(all, wheel)
		slices.SortStableFunc(more[k], func(a, b inserted) int { return cmp.Compare(a.along, b.along) })
		for _, b := range more[k] {
			all = append(all, b.wheel)
		}
	}
	return all
}

// tangentOf is the straight way from the rim of one wheel to that of another.
func tangentOf(a, b Wheel) (ends [2]mgl64.Vec2, ok bool) {
	s, ok := between(a, b, 0)
	return [2]mgl64.Vec2{a.At.Add(s.leaves.Mul(a.signed())), b.At.Add(s.comes.Mul(b.signed()))}, ok
}
