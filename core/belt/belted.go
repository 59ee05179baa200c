package belt

import (
	"errors"
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"
)

// Belt is a closed belt of links, all of one pitch, the way from pin to pin. Where along its lower run a pin lies in phase 0 is At, measured along the unit vector Along, which the lower run
// runs by.
type Belt struct {
	Links int
	Pitch float64
	Hang  Hang
	Along mgl64.Vec2
	At    float64
}

// Laid is a belt laid round wheels.
type Laid struct {
	Path *Path
	Pins []mgl64.Vec2 // anticlockwise, the first on the lower run
	// Slack is the curvature at which a level span hangs, and Chord the way from pin to pin. That is the pitch but where the wheels stand too far apart for the belt, which is stretched then, or too
	// near, where what is left over is taken from its links.
	Slack, Chord float64
}

// Tight and Loose tell that the belt's links are longer or shorter than their pitch.
func (l *Laid) Tight(b Belt) bool { return l.Chord > b.Pitch }

// Loose is as Tight, where there is too much of it.
func (l *Laid) Loose(b Belt) bool { return l.Chord < b.Pitch }

// NewLaid returns room for a belt round so many wheels.
func NewLaid(b Belt, wheels int) *Laid {
	return &Laid{Path: NewPath(wheels), Pins: make([]mgl64.Vec2, b.Links)}
}

// closed is how far round, as a share of the path, the last pin may lie from the first.
const closed = 1e-13

// Lay lays the belt round wheels, in a phase from 0 to 1 of one link, onward along the path. It goes on evenly with wheels and phase, and at phase 1 every pin lies where at phase 0 the next
// one lies. ok is false where no path leads round the wheels: then Laid holds nothing of use.
//
// Method: in each phase the slack is the one at which as many chords as there are links come round to where they began. The longer the path the less they come round, so a bracketed search finds
// it, by the square of the slack, over which the length is nearly even. Nearly taut they may come a little farther round with some slack than with none, as spans that bend come otherwise on to small
// wheels: there the search begins, and a belt that is stretched keeps so much.
func (l *Laid) Lay(b Belt, wheels []Wheel, phase float64) (ok bool) {
	l.Chord, l.Slack = b.Pitch, 0
	over, ok := l.round(b, wheels, phase, 0, b.Pitch)
	if !ok {
		return false
	}
	tight := -over / (stretched * l.Path.Length)
	most := l.Path.mostSlack(wheels, b.Hang)
	least := 0.0
	if over < 0 && tight < 1 {
		least, over = l.farthest(b, wheels, phase, over, most)
	}
	if over < 0 {
		least *= (1 - math.Min(1, tight)) * (1 - math.Min(1, tight))
		l.Slack = least
		over, _ = l.round(b, wheels, phase, least, b.Pitch)
		l.Chord = root(b.Pitch, over, l.Path.Length/float64(b.Links), func(chord float64) float64 {
			over, _ := l.round(b, wheels, phase, least, chord)
			return over / l.Path.Length
		})
		return true
	}
	left, ok := l.round(b, wheels, phase, most, b.Pitch)
	for tries := 0; !ok && tries < 8; tries++ {
		most /= 2
		left, ok = l.round(b, wheels, phase, most, b.Pitch)
	}
	if !ok {
		return false
	}
	if left > 0 {
		l.Slack = most
		l.Chord = root(b.Pitch, left, leastChord*l.Path.Length/float64(b.Links), func(chord float64) float64 {
			over, _ := l.round(b, wheels, phase, most, chord)
			return over / l.Path.Length
		})
		return true
	}
	l.Slack = math.Sqrt(root(least*least, over, most*most, func(square float64) float64 {
		over, _ := l.round(b, wheels, phase, math.Sqrt(square), b.Pitch)
		return over / l.Path.Length
	}))
	return true
}

// stretched is how much too short a belt is, as a share of its path, for nothing of the slack to be left that it keeps as it comes to be taut.
const stretched = 3e-3

// A hair is a slack with which the search for the one begins that brings the links farthest round, as a share of the most, and sharp how near that is come to.
const (
	hair  = 1e-3
	sharp = 1e-5
)

// farthest returns the slack, none or near it, with which the links come farthest round, and by how much they do; begin is by how much they do with none. Golden sections, from a bracket that is
// doubled.
func (l *Laid) farthest(b Belt, wheels []Wheel, phase, begin, most float64) (slack, over float64) {
	at := func(slack float64) float64 {
		over, ok := l.round(b, wheels, phase, slack, b.Pitch)
		if !ok {
			return math.Inf(-1)
		}
		return over
	}
	low, high, best := 0.0, hair*most, begin
	for now := at(high); now > best && high < most/2; now = at(high) {
		low, high, best = high/2, 2*high, now
	}
	part := (3 - math.Sqrt(5)) / 2
	width := sharp * high
	first, second := low+part*(high-low), high-part*(high-low)
	one, two := at(first), at(second)
	for high-low > width {
		if one > two {
			high, second, two = second, first, one
			first = low + part*(high-low)
			one = at(first)
		} else {
			low, first, one = first, second, two
			second = high - part*(high-low)
			two = at(second)
		}
	}
	if slack, over = (low+high)/2, at((low+high)/2); over < begin {
		return 0, begin
	}
	return slack, over
}

// leastChord is a chord, as a share of the path over the links, with which they never come round: an arc is no more than so much longer than its chord.
const leastChord = 0.9

// mostSlack is the slack beyond which some span hangs too deep: where slack comes to lie on more wheels its spans are shorter, and there may be more of it. The path is led without any.
func (p *Path) mostSlack(wheels []Wheel, hang Hang) float64 {
	most := p.deepest(wheels, hang)
	for range wheels {
		if !p.Lead(wheels, hang, most) {
			break
		}
		more := p.deepest(wheels, hang)
		if more <= most*(1+1e-3) {
			break
		}
		most = more
	}
	return most
}

// deepest is the slack beyond which some span hangs too deep, of the wheels that are touched.
func (p *Path) deepest(wheels []Wheel, hang Hang) float64 {
	most := math.Inf(1)
	for i, at := range p.touch {
		s := p.spans[i]
		share := hang.share(mgl64.Vec2{-s.leaves[1], s.leaves[0]})
		deep := 1.6
		if share < 0 {
			deep = 0.8
		}
		most = math.Min(most, deep/math.Max(math.Abs(share)*s.tangent, math.SmallestNonzeroFloat32))
		for _, w := range []Wheel{wheels[at], wheels[p.touch[(i+1)%len(p.touch)]]} {
			if w.signed()*share < 0 {
				most = math.Min(most, 0.5/math.Abs(w.signed()*share))
			}
		}
	}
	return most
}

// round lays the pins with a slack and a chord, and returns by how much, along the path, they come farther than round.
func (l *Laid) round(b Belt, wheels []Wheel, phase, slack, chord float64) (over float64, ok bool) {
	p := l.Path
	if !p.Lead(wheels, b.Hang, slack) {
		return 0, false
	}
	start, ok := p.start(b, phase, chord)
	if !ok {
		return 0, false
	}
	spot := start
	for k := range l.Pins {
		l.Pins[k] = spot.Place
		if spot, ok = p.Chord(spot, chord); !ok {
			return 0, false
		}
	}
	return p.gone(spot) - p.gone(start) - p.Length, true
}

// start is where the first pin lies in a phase: on the way from where it lies in phase 0 to a chord farther on.
func (p *Path) start(b Belt, phase, chord float64) (s Spot, ok bool) {
	s, ok = p.lowest(b)
	if !ok || phase == 0 {
		return s, ok
	}
	next, ok := p.Chord(s, chord)
	if !ok {
		return s, false
	}
	from := p.gone(s)
	return p.on(from + phase*(p.gone(next)-from)), true
}

// lowest is the spot of the lower run that lies at the belt's place along it, or nearest to that.
func (p *Path) lowest(b Belt) (best Spot, ok bool) {
	low, nearest := math.Inf(-1), math.Inf(1)
	for i := range p.Pieces {
		piece := &p.Pieces[i]
		end, heading := piece.At(piece.Length)
		from, to := piece.From.Dot(b.Along), end.Dot(b.Along)
		if from > to || piece.Heading.Dot(b.Along)+heading.Dot(b.Along) <= 0 {
			continue
		}
		at := math.Max(from, math.Min(to, b.At))
		along := piece.to(b.Along, at, from, to)
		place, heading := piece.At(along)
		down, away := place.Dot(b.Hang.Down), math.Abs(at-b.At)
		if away < nearest || away == nearest && down > low {
			best, low, nearest, ok = Spot{Piece: i, Along: along, Place: place, Heading: heading}, down, away, true
		}
	}
	return best, ok
}

// to is how far along a piece it comes to a place along a direction, between those of its ends. Newton's method, within them.
func (p *Piece) to(along mgl64.Vec2, place, from, to float64) float64 {
	if to == from {
		return 0
	}
	at := p.Length * (place - from) / (to - from)
	for range 8 {
		now, heading := p.At(at)
		pace := heading.Dot(along)
		if !(pace > 0.1) {
			break
		}
		at = math.Max(0, math.Min(p.Length, at-(now.Dot(along)-place)/pace))
	}
	return at
}

// root finds where f is 0 between a, where it is begin (in the sign that counts), and b, where it has the other sign, by false position as Anderson and Björck 1973 mend it (A new high order method of regula
// falsi type). f is a share of what it may be; it is found to closed of that.
func root(a, begin, b float64, f func(float64) float64) float64 {
	fa, fb := f(a), f(b)
	if begin == 0 || fa == 0 {
		f(a)
		return a
	}
	at := b
	for range 60 {
		if fb == fa {
			break
		}
		at = b - fb*(b-a)/(fb-fa)
		if !(at > math.Min(a, b) && at < math.Max(a, b)) {
			at = (a + b) / 2
		}
		now := f(at)
		if math.Abs(now) <= closed || at == a || at == b {
			return at
		}
		if now*fb < 0 {
			a, fa = b, fb
		} else {
			shrink := 1 - now/fb
			if shrink <= 0 {
				shrink = 0.5
			}
			fa *= shrink
		}
		b, fb = at, now
	}
	f(at)
	return at
}

// around is how far the belt goes round a wheel, in radians, for its links to have to go round it: over rollers they may be longer than their radius.
const around = 1

// MostLinks bounds the links of one belt.
const MostLinks = 2000

// ErrCrossed tells of a belt that crosses itself.
var ErrCrossed = errors.New("the belt would cross itself, or go round more than once; leave a wheel out, or have it press from outside")

// ErrNoWay tells of wheels that no belt leads round.
var ErrNoWay = errors.New("no belt leads round these wheels: two overlap, or one stands where it cannot be reached; move them apart, or leave one out")

// Fit returns how many links of a pitch fit round wheels, the least that come all the way round in every phase.
func Fit(b Belt, wheels []Wheel) (links int, err error) {
	p := NewPath(len(wheels))
	if !p.Lead(wheels, b.Hang, 0) {
		return 0, ErrNoWay
	}
	if p.crosses() {
		return 0, ErrCrossed
	}
	for i, at := range p.touch {
		if w := wheels[at]; b.Pitch > w.Radius && math.Abs(p.wraps[i]) > around {
			return 0, fmt.Errorf("a link of %.3g is longer than the radius of %.3g of a wheel, round which it would not go; take a shorter link, or a larger wheel", b.Pitch, w.Radius)
		}
	}
	if p.Length > MostLinks*b.Pitch {
		return 0, fmt.Errorf("%.0f links would be needed, and %d is the most; take a longer link", p.Length/b.Pitch, MostLinks)
	}
	for k := range phases {
		spot, ok := p.start(b, float64(k)/phases, b.Pitch)
		if !ok {
			return 0, ErrNoWay
		}
		from, around := p.gone(spot), 0
		for ; p.gone(spot)-from < p.Length; around++ {
			if spot, ok = p.Chord(spot, b.Pitch); !ok {
				return 0, ErrNoWay
			}
		}
		links = max(links, around)
	}
	return links, nil
}

// phases is in how many phases it is looked whether links come round: about wheels a belt is a little longer in some.
const phases = 16

// parts is in how many straight parts a piece is looked at for crossings.
const parts = 12

// crosses tells whether a path crosses itself.
func (p *Path) crosses() bool {
	var points []mgl64.Vec2
	for i := range p.Pieces {
		for k := range parts {
			at, _ := p.Pieces[i].At(p.Pieces[i].Length * float64(k) / parts)
			points = append(points, at)
		}
	}
	n := len(points)
	for i := range n {
		for k := i + 2; k < n; k++ {
			if (k+1)%n != i && meet(points[i], points[i+1], points[k], points[(k+1)%n]) {
				return true
			}
		}
	}
	return false
}

// meet tells whether two straight ways cross.
func meet(a, b, c, d mgl64.Vec2) bool {
	side := func(p, q, r mgl64.Vec2) float64 { return cross(q.Sub(p), r.Sub(p)) }
	return side(a, b, c)*side(a, b, d) < 0 && side(c, d, a)*side(c, d, b) < 0
}
