package along

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/curve"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
)

// ride sends the joints along the curve, each where a sphere of its bone's length around the one before meets the curve. Lengths hold to rounding wherever the controls stand. It tells whether the curve folds tighter than a bone.
func (c *Chain) ride(f *mechanism.Frame, ruler *curve.Ruler) (folded bool) {
	c.riders[0] = rider{}
	c.setTwist(0, c.turner.Turn(f, ruler, 0, 0))
	c.riders[0].place = c.at(ruler, 0, c.riders[0])
	for i, length := range c.lengths {
		next, short := c.step(f, ruler, i, length)
		direction := geometry.Unit(next.place.Sub(c.riders[i].place), c.tangentAt(ruler, next))
		next.place = c.riders[i].place.Add(direction.Mul(length))
		c.riders[i+1] = next
		folded = folded || short
	}
	return folded
}

func (c *Chain) tangentAt(ruler *curve.Ruler, r rider) mgl64.Vec3 {
	_, frame := ruler.FrameAt(r.u)
	return frame.Tangent
}

// search is the hunt for one joint's crossing.
type search struct {
	chain  *Chain
	ruler  *curve.Ruler
	joint  int
	from   mgl64.Vec3
	length float64
}

// step finds where joint i+1 rides: the crossing nearest to its arc-length place, which is as far along the curve from joint
// i as at rest, in the measure of the bone's wanted length. The hunt goes out from there to both sides until the gap
// changes sign; on the forward side it ends on the tangent past the curve, where there always is a crossing.
func (c *Chain) step(f *mechanism.Frame, ruler *curve.Ruler, i int, length float64) (next rider, folded bool) {
	here := c.riders[i]
	s := &search{chain: c, ruler: ruler, joint: i + 1, from: here.place, length: length}
	if here.beyond > 0 || here.u >= 1 {
		c.setTwist(i+1, c.turner.Turn(f, ruler, i+1, 1))
		return s.past(here.beyond), false
	}
	expected := here.arc + c.gaps[i]*length/math.Max(c.bones[i], 1e-300)
	start := ruler.Locate(expected)
	c.setTwist(i+1, c.turner.Turn(f, ruler, i+1, start))
	next = s.nearest(here.u, start)
	next.arc = ruler.ArcAt(next.u)
	slack := c.offsets[i].Len() + c.offsets[i+1].Len()
	return next, next.arc+next.beyond-expected > length+slack
}

// nearest hunts for the crossing nearest to the parameter start, from the parameter least onward.
func (s *search) nearest(least, start float64) rider {
	front := s.probe(start)
	if math.Abs(front.gap) <= startTolerance*s.length {
		return rider{u: front.u, place: front.place}
	}
	stride := s.length / 6 / math.Max(s.ruler.Speed(start), 1e-300)
	stride = math.Min(1.0/8, math.Max(stride, 1.0/4096))
	back := front
	for reach := stride; ; reach += stride {
		if back.u > least {
			before := s.probe(math.Max(least, start-reach))
			if (before.gap < 0) != (back.gap < 0) {
				return s.between(before, back)
			}
			back = before
		}
		if front.u < 1 {
			after := s.probe(math.Min(1, start+reach))
			if (after.gap < 0) != (front.gap < 0) {
				return s.between(front, after)
			}
			front = after
			continue
		}
		if front.gap < 0 {
			return s.past(0)
		}
		if back.u <= least { // no place on the curve is near enough: the nearest end wins, and ride sets the length
			return rider{u: back.u, place: back.place}
		}
	}
}

// probe is the gap at one place on the curve: the joint's distance there from the one before, less the bone's length.
type probe struct {
	u, gap float64
	place  mgl64.Vec3
}

func (s *search) probe(u float64) probe {
	place := s.chain.at(s.ruler, s.joint, rider{u: u})
	return probe{u: u, gap: place.Sub(s.from).Len() - s.length, place: place}
}

// Crossings are met to crossingTolerance of the bone's length; ride then sets the length itself exactly. The arc-length place is
// taken as it is when it misses by startTolerance or less, which is what its rounding may amount to on a long curve: at rest
// it is the crossing, and another one must not be found beside it.
const (
	crossingTolerance = 1e-12
	startTolerance    = 1e-9
)

// between closes in on the crossing between two probes of unlike sign by the Illinois form of false position (Dowell and Jarratt
// 1971).
func (s *search) between(low, high probe) rider {
	best := low
	if math.Abs(high.gap) < math.Abs(low.gap) {
		best = high
	}
	gapLow, gapHigh := low.gap, high.gap
	kept := 0
	for range 60 {
		if math.Abs(best.gap) <= crossingTolerance*s.length || high.u-low.u <= 1e-16 {
			break
		}
		u := high.u - gapHigh*(high.u-low.u)/(gapHigh-gapLow)
		if !(u > low.u && u < high.u) {
			u = (low.u + high.u) / 2
		}
		middle := s.probe(u)
		best = middle
		if (middle.gap < 0) == (low.gap < 0) {
			low, gapLow = middle, middle.gap
			if kept == -1 {
				gapHigh /= 2
			}
			kept = -1
		} else {
			high, gapHigh = middle, middle.gap
			if kept == 1 {
				gapLow /= 2
			}
			kept = 1
		}
	}
	return rider{u: best.u, place: best.place}
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
