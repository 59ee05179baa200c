package splinechain

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/curve"
	"myriapod/core/geometry"
)

// ride sends the joints along the curve, each where a sphere of its bone's length around the one before meets the curve
// further on. Lengths hold to rounding wherever the controls stand. It tells whether the curve folds tighter than a bone.
func (c *chain) ride(ruler *curve.Ruler) (folded bool) {
	c.riders[0] = rider{}
	c.riders[0].place = c.at(ruler, 0, c.riders[0])
	for i, length := range c.lengths {
		next, short := c.step(ruler, i, length)
		direction := geometry.Unit(next.place.Sub(c.riders[i].place), c.tangentAt(ruler, next))
		next.place = c.riders[i].place.Add(direction.Mul(length))
		c.riders[i+1] = next
		folded = folded || short
	}
	return folded
}

func (c *chain) tangentAt(ruler *curve.Ruler, r rider) mgl64.Vec3 {
	_, frame := ruler.FrameAt(r.u)
	return frame.Tangent
}

// search is the hunt for one joint's crossing: gap is the joint's distance from the one before, less the bone's length.
type search struct {
	chain  *chain
	ruler  *curve.Ruler
	joint  int
	from   mgl64.Vec3
	length float64
}

func (s *search) gap(u float64) (float64, mgl64.Vec3) {
	place := s.chain.at(s.ruler, s.joint, rider{u: u})
	return place.Sub(s.from).Len() - s.length, place
}

// step finds where joint i+1 rides. A chord is never longer than its arc, so the first crossing, which is the one nearest
// the arc-length place, lies at or beyond it; the walk starts a little before, by what the kept offsets can add.
func (c *chain) step(ruler *curve.Ruler, i int, length float64) (next rider, folded bool) {
	here := c.riders[i]
	s := &search{chain: c, ruler: ruler, joint: i + 1, from: here.place, length: length}
	if here.beyond > 0 || here.u >= 1 {
		return s.past(here.beyond), false
	}
	arc := ruler.ArcAt(here.u)
	slack := c.offsets[i].Len() + c.offsets[i+1].Len()
	stride := math.Max(length/4, ruler.Total()/4096)
	low := here.u
	for reach := arc + math.Max(0, length-slack); ; reach += stride {
		u := ruler.Locate(reach)
		gap, place := s.gap(u)
		if gap >= 0 {
			next = s.between(low, u, place)
			return next, ruler.ArcAt(next.u)-arc > 1.5*length+slack
		}
		if u >= 1 {
			return s.past(0), false
		}
		low = u
	}
}

// crossings are met to this share of the bone's length; ride then sets the length itself exactly.
const crossingTolerance = 1e-12

// between closes in on the crossing inside a bracket by the Illinois form of false position (Dowell and Jarratt 1971).
func (s *search) between(low, high float64, placeHigh mgl64.Vec3) rider {
	gapLow, _ := s.gap(low)
	gapHigh, place := placeHigh.Sub(s.from).Len()-s.length, placeHigh
	if gapLow >= 0 { // kept offsets alone are longer than the bone: the nearest place wins
		return rider{u: low, place: s.chain.at(s.ruler, s.joint, rider{u: low})}
	}
	u, kept := high, 0
	for range 60 {
		if math.Abs(gapHigh) <= crossingTolerance*s.length || high-low <= 1e-16 {
			break
		}
		u = high - gapHigh*(high-low)/(gapHigh-gapLow)
		if !(u > low && u < high) {
			u = (low + high) / 2
		}
		gap, at := s.gap(u)
		place = at
		if math.Abs(gap) <= crossingTolerance*s.length {
			break
		}
		if gap > 0 {
			high, gapHigh = u, gap
			if kept == 1 {
				gapLow /= 2
			}
			kept = 1
		} else {
			low, gapLow = u, gap
			if kept == -1 {
				gapHigh /= 2
			}
			kept = -1
		}
	}
	return rider{u: u, place: place}
}

// past places the joint on the tangent at the end of the curve, no nearer than beyond: |end + d·tangent − from| = length,
// the larger root.
func (s *search) past(beyond float64) rider {
	_, frame := s.ruler.End()
	end := s.chain.at(s.ruler, s.joint, rider{u: 1})
	away := end.Sub(s.from)
	along := away.Dot(frame.Tangent)
	root := along*along - away.Dot(away) + s.length*s.length
	d := math.Max(beyond, -along+math.Sqrt(math.Max(0, root)))
	return rider{u: 1, beyond: d, place: end.Add(frame.Tangent.Mul(d))}
}
