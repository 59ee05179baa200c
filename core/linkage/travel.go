package linkage

import (
	"math"
	"slices"
)

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
	if p.high = p.end(s, 1); p.high >= 2*math.Pi {
		p.endless, p.low, p.high = true, math.Inf(-1), math.Inf(1)
		return
	}
	p.low = -p.end(s, -1)
}

// reaches tells whether the bars reach at a drive, and slackAt how far they are from not reaching.
func (p *Plan) reaches(s *State, drive float64) bool { return p.Solve(s, drive) }

func (p *Plan) slackAt(s *State, drive float64) float64 {
	p.Solve(s, drive)
	return p.slack(s)
}

// slack is how far the pair that is nearest to parting is from it, as a share.
func (p *Plan) slack(s *State) float64 {
	least := math.Inf(1)
	for i := range p.steps {
		least = math.Min(least, p.steps[i].slack(p, s))
	}
	return least
}

// end is how far the drive goes one way. Where two bars come to lie in one line, and no nearer to parting than that, it goes on to the other side of that line.
func (p *Plan) end(s *State, sign float64) float64 {
	const step = 2 * math.Pi / looks
	reaches := func(x float64) bool { return p.reaches(s, sign*x) }
	slack := func(x float64) float64 { return p.slackAt(s, sign*x) }
	before, now := slack(0), 0.0
	last := looks
	for i := 1; i <= last; i++ {
		at := step * float64(i)
		next, ahead := slack(at), slack(at+step)
		if next < before && next < ahead || !reaches(at) { // it comes nearest to parting hereabouts
			least, parted := deepest(now, at+step, slack)
			if p.touches(s, sign*least) {
				now, before = at+step, slack(at+step)
				continue
			}
			if parted {
				return bisect(now, least, reaches)
			}
		}
		if !reaches(at) {
			return bisect(now, at, reaches)
		}
		before, now = next, at
		if i == looks && len(p.ChangePoints())%2 == 1 { // it takes another turn to come back to the same side
			last = 2 * looks
		}
	}
	for i := range p.steps { // those of the second turn are those of the first
		p.steps[i].changes = slices.DeleteFunc(p.steps[i].changes, func(at float64) bool { return at > 2*math.Pi })
	}
	return 2 * math.Pi
}

// meet tells whether both ends of a pair of bars are in one place, so that there is no telling where the pair points.
func (p *Plan) meet(s *State, t *step) bool { return s.Nodes[t.b].Sub(s.Nodes[t.a]).Len() <= alike*p.size }

// touching is how little slack two bars may have where a linkage can go on to the other side of their line.
const touching = 1e-11

// touches notes that two bars lie in one line at a drive, without being torn apart there. It is only done for the first bars of which that is true: what hangs on
// which side they are on has no rule that could be told beforehand.
func (p *Plan) touches(s *State, drive float64) bool {
	p.Solve(s, drive)
	found := -1
	for i := range p.steps {
		t := &p.steps[i]
		if t.act != circles && t.act != line || t.act == circles && p.meet(s, t) || math.Abs(t.slack(p, s)) > touching {
			continue
		}
		if found >= 0 {
			return false
		}
		found = i
	}
	for i := range p.steps {
		if i != found && len(p.steps[i].changes) > 0 {
			return false
		}
	}
	if found < 0 {
		return false
	}
	t := &p.steps[found]
	for _, known := range t.changes {
		if math.Abs(known-drive) < 1e-6 {
			return true
		}
	}
	t.changes = append(t.changes, drive)
	return true
}

// ChangePoints returns the drives at which two bars come to lie in one line and go on to the other side. Where there is an odd number of them in a turn, two turns of
// the drive make one of the linkage.
func (p *Plan) ChangePoints() []float64 {
	for i := range p.steps {
		if len(p.steps[i].changes) > 0 {
			return p.steps[i].changes
		}
	}
	return nil
}

// sideAt is on which side of the line between its ends a node lies at a drive: it changes at each change point between rest and there, turns counted.
func (t *step) sideAt(endless bool, drive float64) float64 {
	count := 0.0
	for _, at := range t.changes {
		switch {
		case !endless && (at > 0 && drive >= at || at < 0 && drive <= at):
			count++
		case endless && drive >= at:
			count += math.Floor((drive-at)/(2*math.Pi)) + 1
		case endless && drive < 0:
			count += math.Floor((at - drive) / (2 * math.Pi))
		}
	}
	if math.Mod(count, 2) == 1 {
		return -t.side
	}
	return t.side
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
