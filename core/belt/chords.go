package belt

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"
)

// Spot is a place on a path.
type Spot struct {
	Piece   int
	Along   float64 // the piece
	Turns   int     // how often the path has been gone round
	Place   mgl64.Vec2
	Heading mgl64.Vec2 // of the path there
}

// gone is how far along the path a spot lies, whole rounds included.
func (p *Path) gone(s Spot) float64 {
	return float64(s.Turns)*p.Length + p.begins[s.Piece] + s.Along
}

// on is the spot so far along the path from where it begins.
func (p *Path) on(gone float64) Spot {
	s := Spot{Turns: int(math.Floor(gone / p.Length))}
	left := gone - float64(s.Turns)*p.Length
	for s.Piece < len(p.Pieces)-1 && left > p.Pieces[s.Piece].Length {
		left -= p.Pieces[s.Piece].Length
		s.Piece++
	}
	s.Along = math.Max(0, math.Min(p.Pieces[s.Piece].Length, left))
	s.Place, s.Heading = p.Pieces[s.Piece].At(s.Along)
	return s
}

// Chord returns the first spot behind another that lies a chord away from it. ok is false where the whole path comes no farther than that.
//
// Method: a piece of one curvature is A + S u + C v, S and C being the sine and the versine of the turn over the curvature. By the tangent of half the turn the place where it is a chord away is
// the root of a quadratic.
func (p *Path) Chord(from Spot, chord float64) (to Spot, ok bool) {
	to = from
	q := mgl64.Vec2{} // from the spot to where the way through the piece begins
	heading, begin := from.Heading, from.Along
	for range len(p.Pieces) + 1 {
		piece := &p.Pieces[to.Piece]
		if along, inside := behind(piece.Bend, q, heading, chord, piece.Length-begin); inside {
			to.Along = begin + along
			to.Place, to.Heading = piece.At(to.Along)
			return to, true
		}
		if to.Piece++; to.Piece == len(p.Pieces) {
			to.Piece = 0
			to.Turns++
		}
		next := &p.Pieces[to.Piece]
		q, heading, begin = next.From.Sub(from.Place), next.Heading, 0
	}
	return to, false
}

// behind is how far along a piece of a curvature, which begins at q with a heading and goes on for a length, it comes to be a chord away from the origin.
func behind(bend float64, q, heading mgl64.Vec2, chord, length float64) (along float64, inside bool) {
	left := mgl64.Vec2{-heading[1], heading[0]}
	e := q.LenSqr() - chord*chord
	if e >= 0 {
		return 0, true
	}
	a := 1 + bend*q.Dot(left) + bend*bend*e/4
	b := q.Dot(heading)
	root := b*b - a*e
	if root < 0 {
		return 0, false
	}
	below := b + math.Sqrt(root)
	if !(below > 0) {
		return 0, false
	}
	half := bend * (-e / below) / 2
	along = -e / below
	switch {
	case math.Abs(half) > straight:
		along = 2 * math.Atan(half) / bend
	case bend != 0:
		along *= 1 - half*half/3
	}
	return along, along >= 0 && along <= length
}
