// Package belt lays belts, chains and tracks round wheels in a plane: the path that leads round them, with its slack hanging between them, and the pins of its links on that
// path, each at one chord from the next, closed in every phase.
//
// The plane has two axes; the path runs anticlockwise, so that the wheels within it lie to its left. Everything is in one unit of length and scales with it.
package belt

import (
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"
)

// Wheel is a wheel that a belt goes round. Radius is to the line of the belt's pins.
type Wheel struct {
	At      mgl64.Vec2
	Radius  float64
	Outside bool // it presses on the belt from outside, so that the belt bends the other way there
	// Obstacle is set for what the belt goes round only where it would cut it otherwise: an edge of the ground.
	Obstacle bool
}

// signed is the radius, below 0 where the belt bends the other way.
func (w Wheel) signed() float64 {
	if w.Outside {
		return -w.Radius
	}
	return w.Radius
}

// Hang is how slack hangs: which way is down, a unit vector, and whether it hangs outwards below as well, as a chain does, or only inwards, as a track does whose lower run lies on the
// ground.
type Hang struct {
	Down mgl64.Vec2
	All  bool
}

// A span takes all of the slack's bend where at least so much of down, its inward share, lies across it; of a track the slack begins a little past upright, so that a belt that stands upright has
// somewhere to keep it. So neighbouring spans of one run hang alike, and a run hangs on evenly where it comes to lie on one more wheel.
const (
	upright = 0.1
	across  = 0.5
)

// share is how much of the slack's bend a span takes that runs along a unit vector: below 0 it hangs outwards.
func (h Hang) share(along mgl64.Vec2) float64 {
	inward := h.Down.Dot(mgl64.Vec2{-along[1], along[0]})
	if h.All {
		return math.Max(-1, math.Min(1, inward/across))
	}
	return math.Max(0, math.Min(1, (inward+upright)/(across+upright)))
}

// Piece is a piece of a path: a span between wheels, or an arc on one. Its curvature is the same all along it.
type Piece struct {
	From    mgl64.Vec2
	Heading mgl64.Vec2 // a unit vector, where it begins
	Bend    float64    // how much it turns to the left, over its length
	Length  float64
	Wheel   int // that it lies on; -1 for a span
}

// straight is a turn below which a series is exact where a quotient is not.
const straight = 1e-4

// sinc is sin(x)/x.
func sinc(x float64) float64 {
	if math.Abs(x) < straight {
		return 1 - x*x/6
	}
	return math.Sin(x) / x
}

// At returns the place so far along a piece, and the heading there.
func (p *Piece) At(along float64) (place, heading mgl64.Vec2) {
	if p.Bend == 0 {
		return p.From.Add(p.Heading.Mul(along)), p.Heading
	}
	half := p.Bend * along / 2
	sine, cosine := math.Sincos(half)
	chord := mgl64.Vec2{p.Heading[0]*cosine - p.Heading[1]*sine, p.Heading[0]*sine + p.Heading[1]*cosine}
	heading = mgl64.Vec2{chord[0]*cosine - chord[1]*sine, chord[0]*sine + chord[1]*cosine}
	return p.From.Add(chord.Mul(along * sinc(half))), heading
}

// Path is the closed way of a belt round wheels.
type Path struct {
	Pieces []Piece
	Length float64
	// Missed tells, by wheel, that the belt does not touch it, as it lies too far within, or a wheel outside too far out.
	Missed []bool

	begins []float64 // by piece: how far along the path it begins
	touch  []int     // the wheels that are touched
	spans  []span    // from each of them to the next
	wraps  []float64 // how far the belt goes round each of them
}

// NewPath returns a path round so many wheels, to be led.
func NewPath(wheels int) *Path {
	room := 3 * wheels // the upper run may come to lie on wheels of the lower one
	return &Path{
		Pieces: make([]Piece, 0, 2*room), Missed: make([]bool, wheels), begins: make([]float64, 0, 2*room),
		touch: make([]int, 0, room), spans: make([]span, 0, room), wraps: make([]float64, 0, room),
	}
}

// span is the way from one wheel to the next: which way the wheels' rims look where it leaves the one and comes to the other, how far it turns to the right, and its curvature.
type span struct {
	leaves, comes mgl64.Vec2
	turn, bend    float64
	tangent       float64 // its length were it straight
}

// most is the greatest turn of a slack span, as the sine of half of it.
const most = 0.9

// between is the span from one wheel to another whose curvature is bend, to the right. ok is false where no belt can run so: one wheel lies within the other, or the span would hang too deep.
//
// Method: a span of one curvature that touches both wheels. With n and m the outward normals at its ends, and a curvature k, (1+kr)n - (1+ks)m is k times the way between the
// middles; so half its turn has the sine k T / (2 sqrt((1+kr)(1+ks))), T being the straight tangent's length. This holds down to k = 0, and differs from a catenary by the square of
// the sag, as a share of the span.
func between(a, b Wheel, bend float64) (s span, ok bool) {
	way := b.At.Sub(a.At)
	apart := way.Len()
	r, q := a.signed(), b.signed()
	tangent := (apart - (r - q)) * (apart + (r - q))
	first, last := 1+bend*r, 1+bend*q
	if !(tangent > 0) || !(first > 0) || !(last > 0) {
		return s, false
	}
	s.tangent, s.bend = math.Sqrt(tangent), bend
	half := bend * s.tangent / (2 * math.Sqrt(first*last))
	if math.Abs(half) > most {
		return s, false
	}
	s.turn = 2 * math.Asin(half)
	both := (r - q) * (2 + bend*(r+q))
	along := way.Mul(1 / apart)
	s.leaves = leaning(along, (both+bend*apart*apart)/(2*first*apart))
	s.comes = leaning(along, (both-bend*apart*apart)/(2*last*apart))
	return s, true
}

// leaning is the unit vector to the right of a direction that leans so far along it.
func leaning(along mgl64.Vec2, share float64) mgl64.Vec2 {
	share = math.Max(-1, math.Min(1, share))
	side := math.Sqrt((1 - share) * (1 + share))
	return mgl64.Vec2{along[0]*share + along[1]*side, along[1]*share - along[0]*side}
}

// length is how long the span is.
func (s span) length() float64 {
	if math.Abs(s.turn) < straight {
		return s.tangent * (1 + s.turn*s.turn/24)
	}
	return s.turn / s.bend
}

// Lead leads the path round wheels in their order, with so much slack: the curvature at which a level span hangs. Wheels that it does not touch are left out, and where slack comes to lie on a wheel
// of another run it is led over that. ok is false where no belt can run so.
func (p *Path) Lead(wheels []Wheel, hang Hang, slack float64) (ok bool) {
	p.touch = p.touch[:0]
	for i, w := range wheels {
		if !w.Obstacle {
			p.touch = append(p.touch, i)
		}
	}
	for range 6 * len(wheels) {
		if !p.span(wheels, hang, slack) {
			return false
		}
		left, changed := p.leave(wheels)
		if !left {
			return false
		}
		if changed || p.meet(wheels) || p.lie(wheels) {
			continue
		}
		for i := range wheels {
			p.Missed[i] = !slices.Contains(p.touch, i)
		}
		return p.join(wheels)
	}
	return false
}

// leave leaves out the wheel that the belt is farthest from touching. left is false where too few are left then.
func (p *Path) leave(wheels []Wheel) (left, changed bool) {
	worst, least := -1, 0.0
	for i, wrap := range p.wraps {
		if wheels[p.touch[i]].Outside {
			wrap = -wrap
		}
		if wrap < least {
			worst, least = i, wrap
		}
	}
	if worst < 0 {
		return true, false
	}
	p.touch = slices.Delete(p.touch, worst, worst+1)
	return len(p.touch) >= 2, true
}

// upon is how deep slack lies in a wheel, as a share of its radius, for it to be led over it.
const upon = 1e-12

// meet leads straight spans round the wheels between their ends, in order, that they cut: one that was left out is met again where the belt has come to lie otherwise since.
func (p *Path) meet(wheels []Wheel) (changed bool) {
	for i, s := range p.spans {
		if s.bend != 0 || len(p.touch) == cap(p.touch) {
			continue
		}
		from, to := p.touch[i], p.touch[(i+1)%len(p.touch)]
		begin := wheels[from].At.Add(s.leaves.Mul(wheels[from].signed()))
		worst, deepest := -1, upon
		for k := (from + 1) % len(wheels); k != to && k != from; k = (k + 1) % len(wheels) {
			way := wheels[k].At.Sub(begin)
			if along := cross(s.leaves, way); along <= 0 || along >= s.tangent {
				continue
			}
			deep := way.Dot(s.leaves) + wheels[k].Radius
			if wheels[k].Outside {
				deep = wheels[k].Radius - way.Dot(s.leaves)
			}
			if deep > deepest*wheels[k].Radius && !slices.Contains(p.touch, k) {
				worst, deepest = k, deep/wheels[k].Radius
			}
		}
		if worst >= 0 {
			p.touch = slices.Insert(p.touch, i+1, worst)
			return true
		}
	}
	return false
}

// lie leads slack that hangs into a wheel over that.
func (p *Path) lie(wheels []Wheel) (changed bool) {
	for i, s := range p.spans {
		if s.bend <= 0 || len(p.touch) == cap(p.touch) {
			continue
		}
		from, to := p.touch[i], p.touch[(i+1)%len(p.touch)]
		middle := wheels[from].At.Add(s.leaves.Mul(wheels[from].signed() + 1/s.bend))
		for k, w := range wheels {
			away := w.At.Sub(middle)
			if k == from || k == to || w.Outside || away.Len()-w.Radius >= 1/s.bend-upon*w.Radius {
				continue
			}
			way := away.Normalize().Mul(-1) // from where it would touch to the middle
			if cross(way, s.leaves) >= 0 && cross(s.comes, way) >= 0 && way.Dot(s.leaves) > 0 {
				p.touch = slices.Insert(p.touch, i+1, k)
				return true
			}
		}
	}
	return false
}

// cross is the cross product in the plane.
func cross(a, b mgl64.Vec2) float64 { return a[0]*b[1] - a[1]*b[0] }

// span works out the spans between the wheels that are touched, and how far the belt goes round each.
func (p *Path) span(wheels []Wheel, hang Hang, slack float64) (ok bool) {
	p.spans, p.wraps = p.spans[:0], p.wraps[:0]
	n := len(p.touch)
	for i, at := range p.touch {
		a, b := wheels[at], wheels[p.touch[(i+1)%n]]
		along := b.At.Sub(a.At)
		if !(along.LenSqr() > 0) {
			return false
		}
		s, ok := between(a, b, slack*hang.share(along.Normalize()))
		if !ok {
			return false
		}
		p.spans = append(p.spans, s)
	}
	for i, at := range p.touch {
		comes, leaves := p.spans[(i+n-1)%n].comes, p.spans[i].leaves
		wrap := math.Atan2(cross(comes, leaves), comes.Dot(leaves))
		if wheels[at].Outside {
			wrap = -wrap
		}
		if wrap < -math.Pi/2 {
			wrap += 2 * math.Pi
		}
		if wheels[at].Outside {
			wrap = -wrap
		}
		p.wraps = append(p.wraps, wrap)
	}
	return true
}

// join lays the pieces one after the other. ok is false where they go round more than once, or not at all.
func (p *Path) join(wheels []Wheel) (ok bool) {
	p.Pieces, p.begins, p.Length = p.Pieces[:0], p.begins[:0], 0
	turned := 0.0
	for i, at := range p.touch {
		w, s := wheels[at], p.spans[i]
		comes := p.spans[(i+len(p.touch)-1)%len(p.touch)].comes
		p.add(Piece{From: w.At.Add(comes.Mul(w.signed())), Heading: mgl64.Vec2{-comes[1], comes[0]}, Bend: 1 / w.signed(), Length: w.signed() * p.wraps[i], Wheel: at})
		p.add(Piece{From: w.At.Add(s.leaves.Mul(w.signed())), Heading: mgl64.Vec2{-s.leaves[1], s.leaves[0]}, Bend: -s.bend, Length: s.length(), Wheel: -1})
		turned += p.wraps[i] - s.turn
	}
	return math.Abs(turned-2*math.Pi) < 1
}

func (p *Path) add(piece Piece) {
	p.begins = append(p.begins, p.Length)
	p.Pieces = append(p.Pieces, piece)
	p.Length += piece.Length
}
