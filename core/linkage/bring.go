package linkage

import "math"

// The way from rest is looked at where several drives move bars at once: at steps of rayStep radians of the drive that goes farthest, or so many sizes of the linkage, but no
// more than mostLooks. Where bars come so near to parting on it as grazes says, in slack, or part and come together again by no more than that, the outcome may jump.
const (
	rayStep    = 0.1
	leastLooks = 8
	mostLooks  = 400
	grazes     = 2e-3
)

// Outcome is how far a state was brought.
type Outcome struct {
	Held   bool // something was
	Grazes bool // bars came next to parting, or hardly parted, on the way: a little beside, the outcome may be quite another
}

// Bring brings a state as far towards where the drives are asked to stand as the bars reach, and tells how far that is. Each drive stops at the ends of its own
// travel. Where bars hang on several, all of them stop where these part first on the straight way from rest, so that the outcome hangs on nothing but what is asked for.
func (p *Plan) Bring(s *State, drives ...float64) (o Outcome) {
	for i, want := range drives {
		t := p.travels[i]
		s.drives[i] = math.Max(t.low, math.Min(t.high, want))
		o.Held = o.Held || s.drives[i] != want
	}
	if !p.tied {
		o.Held = !p.solve(s, s.drives) || o.Held
		return o
	}
	share, graze := p.far(s)
	o.Held, o.Grazes = o.Held || share < 1, graze
	p.scale(s, share)
	if p.together != nil { // it is there already
		p.together.solve(p, s)
	} else {
		p.takeApart(s, s.shares)
	}
	return o
}

func (p *Plan) scale(s *State, share float64) {
	for i, drive := range s.drives {
		s.shares[i] = share * drive
	}
}

// looksOn is in how many pieces the way from rest is looked at.
func (p *Plan) looksOn(s *State) int {
	most := 0.0
	for i, drive := range s.drives {
		if !p.travels[i].turns {
			drive /= p.size
		}
		most = math.Max(most, math.Abs(drive))
	}
	return int(math.Max(leastLooks, math.Min(mostLooks, math.Ceil(most/rayStep))))
}

// far is which share of the way from rest the bars reach. A state stands there when it returns.
func (p *Plan) far(s *State) (share float64, graze bool) {
	clear(s.unknown)
	looks := p.looksOn(s)
	step := 1 / float64(looks)
	before, now := math.Inf(1), 0.0
	for k := 1; k <= looks; k++ {
		at := float64(k) * step
		slack := p.slackOn(s, at)
		if slack < 0 {
			return p.exit(s, now, at), p.shallow(s, at, step)
		}
		if p.together == nil && slack < before && k < looks { // is there a narrow gap before the next look?
			if ahead := p.slackOn(s, at+step); ahead > slack {
				gap, least := p.narrow(s, now, at+step)
				if least < 0 {
					return p.exit(s, now, gap), least > -grazes
				}
				graze = graze || least < grazes
			}
		}
		before, now = slack, at
	}
	if p.together == nil {
		p.slackOn(s, 1)
	}
	return 1, graze
}

// shallow tells whether bars that have parted at a share of the way are hardly parted anywhere before they come together again. A state is left where it stood.
func (p *Plan) shallow(s *State, from, step float64) bool {
	if p.together != nil {
		return false
	}
	copy(s.keptNodes, s.Nodes)
	copy(s.keptPoses, s.Poses)
	deepest := 0.0
	for at := from; at <= 1; at += step {
		slack := p.slackOn(s, at)
		if deepest = math.Min(deepest, slack); slack >= 0 || deepest <= -grazes {
			break
		}
	}
	copy(s.Nodes, s.keptNodes)
	copy(s.Poses, s.keptPoses)
	return deepest > -grazes
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

// narrow seeks the least slack between two shares of the way, by the golden section.
func (p *Plan) narrow(s *State, low, high float64) (at, least float64) {
	golden := (math.Sqrt(5) - 1) / 2
	for range 40 {
		if a, b := high-golden*(high-low), low+golden*(high-low); p.slackOn(s, a) < p.slackOn(s, b) {
			high = b
		} else {
			low = a
		}
	}
	at = (low + high) / 2
	return at, p.slackOn(s, at)
}
