package curve

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"
)

// Lengthening tells how long a spline is whose points go along straight ways, all by one amount, and by which amount it is so long. Length is a convex function of the amount.
type Lengthening struct {
	looks    []look
	derived  []mgl64.Vec3 // by look: the derivative where the amount is nothing
	changing []mgl64.Vec3 // and how it changes with the amount
}

// look is a place of the quadrature: what the points have to say about the derivative there, and how much it counts.
type look struct {
	first  int
	slopes [MaxDegree + 1]float64
	weight float64
}

// finePieces is in how many parts a span is measured, by Gauss–Legendre quadrature of five points each.
const finePieces = 4

// NewLengthening returns one for splines of the make of a line.
func NewLengthening(line *BSpline) *Lengthening {
	l := &Lengthening{}
	parts := line.Spans() * finePieces
	for part := range parts {
		for k, at := range gaussPlaces {
			u := (float64(part) + 0.5 + at/2) / float64(parts)
			_, slopes, first := line.basis(u)
			l.looks = append(l.looks, look{first, slopes, gaussWeights[k] / (2 * float64(parts))})
		}
	}
	l.derived, l.changing = make([]mgl64.Vec3, len(l.looks)), make([]mgl64.Vec3, len(l.looks))
	return l
}

// Set reads the points where the amount is nothing, and the ways that they go for an amount of one.
func (l *Lengthening) Set(points, ways []mgl64.Vec3) {
	for i := range l.looks {
		at := &l.looks[i]
		var derived, changing mgl64.Vec3
		for k, slope := range at.slopes {
			if at.first+k < len(points) {
				derived, changing = derived.Add(points[at.first+k].Mul(slope)), changing.Add(ways[at.first+k].Mul(slope))
			}
		}
		l.derived[i], l.changing[i] = derived, changing
	}
}

// Length returns the length at an amount, and how it grows with that.
func (l *Lengthening) Length(amount float64) (length, slope float64) {
	for i := range l.looks {
		d, c, weight := &l.derived[i], &l.changing[i], l.looks[i].weight
		x, y, z := d[0]+amount*c[0], d[1]+amount*c[1], d[2]+amount*c[2]
		speed := math.Sqrt(x*x + y*y + z*z)
		length += weight * speed
		if speed > 0 {
			slope += weight * (x*c[0] + y*c[1] + z*c[2]) / speed
		}
	}
	return length, slope
}

// reached is how near a length is come to, as a share of it, and tries how often at most.
const (
	reached = 1e-13
	tries   = 80
)

// Reach returns the amount at which the spline is so long, the greater of the two that there are. short tells that it is longer at any amount; then it is the amount at which it is shortest. still tells
// that the amount changes nothing.
//
// Method: Newton's from above, which comes down evenly on a convex function; where that passes the lowest place, bisection for that.
func (l *Lengthening) Reach(length, from float64) (amount float64, short, still bool) {
	high := from
	for step := 1.0; ; step *= 2 {
		now, slope := l.Length(high)
		if now >= length && slope > 0 {
			break
		}
		if step > 1e12 {
			return from, now > length, true
		}
		high += step
	}
	amount = high
	for range tries {
		now, slope := l.Length(amount)
		if now-length <= reached*length {
			return amount, false, false
		}
		if slope <= 0 {
			break
		}
		next := amount - (now-length)/slope
		if next == amount {
			return amount, false, false
		}
		amount = next
	}
	return l.shortest(length, high)
}

// shortest is the amount at which the spline is shortest, or so long just before that.
func (l *Lengthening) shortest(length, high float64) (amount float64, short, still bool) {
	low := high
	for step := 1.0; step <= 1e12; step *= 2 {
		low -= step
		if _, slope := l.Length(low); slope <= 0 {
			break
		}
	}
	for range tries {
		middle := (low + high) / 2
		if middle == low || middle == high {
			break
		}
		if _, slope := l.Length(middle); slope > 0 {
			high = middle
		} else {
			low = middle
		}
	}
	now, _ := l.Length(high)
	return high, now > length*(1+reached), false
}
