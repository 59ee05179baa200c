package linkage

import "math"

// rayLooks is in how many pieces the way from rest is looked at where several drives move bars at once.
const rayLooks = 48

// Bring brings a state as far towards where the drives are asked to stand as the bars reach, and tells whether something was held. Each drive stops at the ends of its own
// travel. Where bars hang on several, all of them stop where these part first on the straight way from rest, so that the outcome hangs on nothing but what is asked for.
func (p *Plan) Bring(s *State, drives ...float64) (held bool) {
	for i, want := range drives {
		t := p.travels[i]
		s.drives[i] = math.Max(t.low, math.Min(t.high, want))
		held = held || s.drives[i] != want
	}
	if !p.tied {
		return !p.solve(s, s.drives) || held
	}
	share := p.far(s)
	p.scale(s, share)
	if p.together != nil { // it is there already
		p.together.solve(p, s)
	} else {
		p.takeApart(s, s.shares)
	}
	return held || share < 1
}

func (p *Plan) scale(s *State, share float64) {
	for i, drive := range s.drives {
		s.shares[i] = share * drive
	}
}

// far is which share of the way from rest the bars reach. A state stands there when it returns.
func (p *Plan) far(s *State) float64 {
	clear(s.unknown)
	before, now := math.Inf(1), 0.0
	for k := 1; k <= rayLooks; k++ {
		at := float64(k) / rayLooks
		slack := p.slackOn(s, at)
		if slack < 0 {
			return p.exit(s, now, at)
		}
		if p.together == nil && slack < before && k < rayLooks { // is there a narrow gap before the next look?
			if ahead := p.slackOn(s, at+1.0/rayLooks); ahead > slack {
				if gap, parted := p.narrow(s, now, at+1.0/rayLooks); parted {
					return p.exit(s, now, gap)
				}
			}
		}
		before, now = slack, at
	}
	if p.together == nil {
		p.slackOn(s, 1)
	}
	return 1
}

// slackOn is how far bars that hang on several drives are from parting at a share of the way: below 0 where they have.
func (p *Plan) slackOn(s *State, share float64) float64 {
	p.scale(s, share)
	ok := p.takeApart(s, s.shares)
	least := math.Inf(1)
	for i := range p.steps {
		if t := &p.steps[i]; t.drive < 0 {
			least = math.Min(least, t.slack(p, s))
		}
	}
	if p.together == nil {
		return least
	}
	copy(s.kept, s.unknown)
	if !ok || least < 0 || !p.together.newton(p, s) || p.together.folded(p, s) {
		copy(s.unknown, s.kept)
		return -1
	}
	return least
}

// exit narrows down where bars part that hold at low and not at high; they stand where they hold when it returns.
func (p *Plan) exit(s *State, low, high float64) float64 {
	for range 50 {
		if middle := (low + high) / 2; p.slackOn(s, middle) >= 0 {
			low = middle
		} else {
			high = middle
		}
	}
	p.slackOn(s, low)
	return low
}

// narrow seeks the least slack between two shares of the way, by the golden section. parted tells whether it is negative.
func (p *Plan) narrow(s *State, low, high float64) (at float64, parted bool) {
	golden := (math.Sqrt(5) - 1) / 2
	for range 40 {
		a, b := high-golden*(high-low), low+golden*(high-low)
		fa, fb := p.slackOn(s, a), p.slackOn(s, b)
		switch {
		case fa < 0:
			return a, true
		case fb < 0:
			return b, true
		case fa < fb:
			high = b
		default:
			low = a
		}
	}
	return (low + high) / 2, false
}
