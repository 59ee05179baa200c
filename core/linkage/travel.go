package linkage

import "math"

const (
	// looks is how many places of a turn are looked at for whether the bars reach.
	looks = 1440
	// nearly is how near to the end of its travel a drive is found, in radians.
	nearly = 1e-13
)

// travel finds how far the drive goes from rest to each side: to the first place at which the bars do not reach, and no farther than a turn. Between two looks the least of what is left to reach is sought as well, so that
// no narrow gap is passed over.
func (p *Plan) travel() {
	if p.together != nil {
		return // it is found with the table
	}
	s := p.NewState()
	reaches := func(drive float64) bool { return p.Solve(s, drive) }
	slack := func(drive float64) float64 {
		p.Solve(s, drive)
		return p.slack(s)
	}
	p.high = p.end(1, reaches, slack)
	if p.endless = p.high >= 2*math.Pi; p.endless {
		p.low, p.high = math.Inf(-1), math.Inf(1)
		return
	}
	p.low = -p.end(-1, reaches, slack)
}

// slack is how far the pair of circles that is nearest to parting is from it, as a share.
func (p *Plan) slack(s *State) float64 {
	least := math.Inf(1)
	for i := range p.steps {
		if t := &p.steps[i]; t.act == circles {
			d := s.Nodes[t.b].Sub(s.Nodes[t.a]).Len()
			least = math.Min(least, product(t.ra, t.rb, d)/(t.ra*t.ra*t.rb*t.rb))
		}
	}
	return least
}

// end is how far the drive goes one way.
func (p *Plan) end(sign float64, reaches func(float64) bool, slack func(float64) float64) float64 {
	const step = 2 * math.Pi / looks
	before, now := slack(0), 0.0
	for i := 1; i <= looks; i++ {
		at := step * float64(i)
		if !reaches(sign * at) {
			return bisect(now, at, func(x float64) bool { return reaches(sign * x) })
		}
		next := slack(sign * at)
		ahead := slack(sign * (at + step))
		if next < before && next < ahead { // it comes nearest to parting hereabouts
			if gap, parted := deepest(now, at+step, func(x float64) float64 { return slack(sign * x) }); parted {
				return bisect(now, gap, func(x float64) bool { return reaches(sign * x) })
			}
		}
		before, now = next, at
	}
	return 2 * math.Pi
}

// bisect is where something ends that holds at low and not at high; it holds there.
func bisect(low, high float64, holds func(float64) bool) float64 {
	for high-low > nearly {
		if middle := (low + high) / 2; holds(middle) {
			low = middle
		} else {
			high = middle
		}
	}
	return low
}

// deepest seeks the least of a function by the golden section (Kiefer 1953). parted tells whether it is negative.
func deepest(low, high float64, f func(float64) float64) (at float64, parted bool) {
	golden := (math.Sqrt(5) - 1) / 2
	for range 60 {
		a, b := high-golden*(high-low), low+golden*(high-low)
		fa, fb := f(a), f(b)
		if fa < 0 {
			return a, true
		}
		if fb < 0 {
			return b, true
		}
		if fa < fb {
			high = b
		} else {
			low = a
		}
	}
	return (low + high) / 2, false
}

// Eased is the drive for how far its handle has been turned: as far near rest, and less and less towards the ends of the travel, where the bars would fly. held tells that the handle is past an end.
func (p *Plan) Eased(handle float64) (drive float64, held bool) {
	if p.endless {
		return handle, false
	}
	whole := p.high - p.low
	if !(whole > 0) {
		return 0, handle != 0
	}
	// u = low + whole sin²(π v / 2), with v where it is at rest for no turn, and as fast there as the handle.
	start := 2 / math.Pi * math.Asin(math.Sqrt(math.Min(1, math.Max(0, -p.low/whole))))
	pace := whole * math.Pi / 2 * math.Sin(math.Pi*start)
	if !(pace > 1e-3*whole) { // it rests at an end
		pace = 1e-3 * whole
	}
	v := start + handle/pace
	held = v < 0 || v > 1
	sine := math.Sin(math.Pi / 2 * math.Max(0, math.Min(1, v)))
	if handle == 0 {
		return 0, false
	}
	return math.Max(p.low, math.Min(p.high, p.low+whole*sine*sine)), held
}
