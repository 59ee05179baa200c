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

// travel is how far a drive goes to each side of rest, the others held there: in radians, or in lengths of what slides. endless tells that it can be turned for ever.
type travel struct {
	low, high float64
	endless   bool
	turns     bool // and is no length
}

// Travel is how far a drive goes to each side of rest while the others stand there; endless where it can be turned round and round, or pushed as far as one likes.
func (p *Plan) Travel(drive int) (low, high float64, endless bool) {
	t := p.travels[drive]
	return t.low, t.high, t.endless
}

// turns tells whether a drive turns its body, and does not push it.
func (p *Plan) turns(drive int) bool {
	for i := range p.steps {
		if t := &p.steps[i]; t.drive == drive && t.act == push {
			return false
		}
	}
	return true
}

// reachOf is how far a drive is looked at to each side: a turn, or, of what slides, as far as is plenty.
func (p *Plan) reachOf(drive int) float64 {
	if p.turns(drive) {
		return 2 * math.Pi
	}
	return plenty * p.size
}

// plenty is how far something is pushed, in sizes of the linkage, that nothing stops.
const plenty = 8

// hang finds, for every pair of bars, which drive it hangs on, by moving each drive a little from places here and there: a pair hangs on a drive where how far its ends are from
// each other does. A pair that hangs on several ties them.
func (p *Plan) hang() {
	drives := len(p.linkage.Drives)
	p.tied = p.together != nil && drives > 1
	for i := range p.steps {
		t := &p.steps[i]
		if t.act != circles && t.act != line && t.act != swing {
			continue
		}
		if drives == 1 { // whether it hangs on the drive may show far from rest alone
			t.drive = 0
			continue
		}
		t.drive = -1
		count := 0
		for d := range drives {
			if p.hangsOn(i, d) {
				t.drive = d
				count++
			}
		}
		if count > 1 {
			t.drive, p.tied = -1, true
		}
	}
}

// little is how far drives are moved to see what hangs on them, in radians or sizes of the linkage, and telling how little slack that changes at least.
const (
	little  = 0.05
	telling = 1e-9
)

// hangsOn tells whether a pair of bars hangs on a drive.
func (p *Plan) hangsOn(pair, drive int) bool {
	s := p.NewState()
	for look := range 4 {
		at := func(more float64) float64 {
			for d := range s.shares {
				unit := little
				if !p.turns(d) {
					unit *= p.size
				}
				s.shares[d] = unit * math.Sin(float64(1+look*7+d*3))
				if d == drive {
					s.shares[d] += more * unit
				}
			}
			p.takeApart(s, s.shares)
			return p.steps[pair].slack(p, s)
		}
		if before := at(0); math.Abs(at(0.5)-before) > telling*math.Max(1, math.Abs(before)) {
			return true
		}
	}
	return false
}

// travel finds how far each drive goes from rest to each side, the others held there: to the first place at which the bars that hang on it do not reach, and no farther than
// a turn. Between two looks the least of what is left to reach is sought as well, so that no narrow gap is passed over.
func (p *Plan) travel() {
	s := p.NewState()
	for d := range p.linkage.Drives {
		whole := p.reachOf(d)
		p.travels = append(p.travels, travel{math.Inf(-1), math.Inf(1), false, p.turns(d)})
		t := &p.travels[d]
		high := p.end(s, d, 1)
		if high < whole || !p.turns(d) {
			t.low, t.high = -p.end(s, d, -1), high
		}
		t.endless = math.IsInf(t.high, 1) || t.high >= whole && t.low <= -whole
		if t.endless {
			t.low, t.high = math.Inf(-1), math.Inf(1)
		}
	}
}

// at brings a drive somewhere, the others being at rest.
func (p *Plan) at(s *State, drive int, value float64) {
	clear(s.shares)
	s.shares[drive] = value
	p.takeApart(s, s.shares)
}

// slackAt is how far the pair of bars that is nearest to parting is from it, of those that hang on a drive alone, where that is.
func (p *Plan) slackAt(s *State, drive int, value float64) float64 {
	p.at(s, drive, value)
	least := math.Inf(1)
	for i := range p.steps {
		if t := &p.steps[i]; t.drive == drive {
			least = math.Min(least, t.slack(p, s))
		}
	}
	return least
}

// end is how far the drive goes one way. Where two bars come to lie in one line, and no nearer to parting than that, it goes on to the other side of that line.
func (p *Plan) end(s *State, drive int, sign float64) float64 {
	whole := p.reachOf(drive)
	step := whole / looks
	slack := func(x float64) float64 { return p.slackAt(s, drive, sign*x) }
	reaches := func(x float64) bool { return slack(x) >= 0 }
	before, now := slack(0), 0.0
	last := looks
	for i := 1; i <= last; i++ {
		at := step * float64(i)
		next, ahead := slack(at), slack(at+step)
		if next < before && next < ahead || !reaches(at) { // it comes nearest to parting hereabouts
			least, parted := deepest(now, at+step, slack)
			if p.touches(s, drive, sign*least) {
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
		if i == looks && len(p.ChangePoints(drive))%2 == 1 { // it takes another turn to come back to the same side
			last = 2 * looks
		}
	}
	for i := range p.steps { // those of the second turn are those of the first
		if p.steps[i].drive == drive {
			p.steps[i].changes = slices.DeleteFunc(p.steps[i].changes, func(at float64) bool { return at > whole })
		}
	}
	return whole
}

// meet tells whether both ends of a pair of bars are in one place, so that there is no telling where the pair points.
func (p *Plan) meet(s *State, t *step) bool {
	return s.Nodes[t.b].Sub(s.Nodes[t.a]).Len() <= alike*p.size
}

// touching is how little slack two bars may have where a linkage can go on to the other side of their line.
const touching = 1e-11

// touches notes that two bars lie in one line at a drive, without being torn apart there. It is only done for the first bars of which that is true: what hangs on
// which side they are on has no rule that could be told beforehand.
func (p *Plan) touches(s *State, by int, drive float64) bool {
	p.at(s, by, drive)
	found := -1
	for i := range p.steps {
		t := &p.steps[i]
		if t.drive != by || t.act != circles && t.act != line || t.act == circles && p.meet(s, t) || math.Abs(t.slack(p, s)) > touching {
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

// ChangePoints returns where a drive stands when two bars come to lie in one line and go on to the other side. Where there is an odd number of them in a turn, two turns of
// the drive make one of the linkage.
func (p *Plan) ChangePoints(drive int) []float64 {
	for i := range p.steps {
		if p.steps[i].drive == drive && len(p.steps[i].changes) > 0 {
			return p.steps[i].changes
		}
	}
	return nil
}

// sideAt is on which side of the line between its ends a node lies at a drive: it changes at each change point between rest and there, turns counted.
func (t *step) sideAt(p *Plan, drives []float64) float64 {
	if len(t.changes) == 0 {
		return t.side
	}
	count, drive, endless := 0.0, drives[t.drive], p.travels[t.drive].endless
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
		if a, b := high-golden*(high-low), low+golden*(high-low); f(a) < f(b) {
			high = b
		} else {
			low = a
		}
	}
	at = (low + high) / 2
	return at, f(at) < 0
}

// Eased is a drive for how far its handle has been turned, or pushed: as far near rest, and less and less towards the ends of the travel, where the bars would fly. held tells that
// the handle is past an end.
func (p *Plan) Eased(i int, handle float64) (drive float64, held bool) {
	t := p.travels[i]
	if t.endless {
		return handle, false
	}
	whole := t.high - t.low
	if !(whole > 0) {
		return 0, handle != 0
	}
	start, pace := t.pace()
	v := start + handle/pace
	held = v < 0 || v > 1
	sine := math.Sin(math.Pi / 2 * math.Max(0, math.Min(1, v)))
	if handle == 0 {
		return 0, false
	}
	return math.Max(t.low, math.Min(t.high, t.low+whole*sine*sine)), held
}

// pace is how handles go with an eased drive, u = low + whole sin²(π v / 2): v at rest, for no turn, and how far a handle goes for v to grow by 1. There drive and handle go as fast.
func (t travel) pace() (start, pace float64) {
	whole := t.high - t.low
	start = 2 / math.Pi * math.Asin(math.Sqrt(math.Min(1, math.Max(0, -t.low/whole))))
	return start, math.Max(whole*math.Pi/2*math.Sin(math.Pi*start), 1e-3*whole) // or it rests at an end
}

// HandleTravel is how far the handle of an eased drive goes to each side of rest; endless as its drive is.
func (p *Plan) HandleTravel(i int) (low, high float64, endless bool) {
	t := p.travels[i]
	if t.endless || !(t.high > t.low) {
		return t.low, t.high, t.endless
	}
	start, pace := t.pace()
	return -start * pace, (1 - start) * pace, false
}
