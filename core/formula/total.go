package formula

import (
	"math"
	"sort"

	"gonum.org/v1/gonum/integrate/quad"
)

// Total is how much has come together by a rate since a time: its integral, as a function of time.
//
// Method: between knots, where the rate may jump or have a corner, it is taken through the eight Gauss points as a series of Legendre polynomials, whose
// integral is known term by term (Davis, Rabinowitz 1984, Methods of Numerical Integration, 2.7); a stretch on which the series has not died out is halved.
// What is a polynomial of degree seven or less between knots, as keyed numbers are, is exact but for rounding.
type Total struct {
	pieces []piece // in order of time, without gaps
	zero   float64 // what is there by the time that counts from 0
}

// piece is the rate over a stretch of time, and what has come together before that.
type piece struct {
	from, to float64 // seconds
	before   float64
	series   [gaussPoints]float64
}

const (
	gaussPoints = 8
	// died is how little the last two terms over a stretch may come to, of the greatest rate over the whole time, for a series to count as having died out.
	died = 1e-14
	// mostHalvings bounds how finely a stretch is halved, mostPieces into how many all are, and fewPieces what each may be whatever the others are.
	mostHalvings = 24
	mostPieces   = 20000
	fewPieces    = 64
)

// asides are places beside the Gauss points at which a series is tried: a corner may hide from its last terms, or lie before the first point or behind the last.
var asides = [...]float64{-1 + 1e-9, -0.35, 0.68, 1 - 1e-9}

var gauss, gaussWeights = func() (x, w [gaussPoints]float64) {
	quad.Legendre{}.FixedLocations(x[:], w[:], -1, 1)
	return x, w
}()

// NewTotal takes a rate together, a second, from the first of the knots to the last; it counts from 0 at the time zero. Knots rise, in seconds; there are two or
// more. rate is asked between them alone. What it gives that is not finite counts as nothing.
func NewTotal(knots []float64, zero float64, rate func(seconds float64) float64) *Total {
	t, greatest := &Total{}, 0.0
	finite := func(seconds float64) float64 {
		value := rate(seconds)
		if math.IsNaN(value) || math.IsInf(value, 0) {
			return 0
		}
		return value
	}
	for i := 1; i < len(knots); i++ {
		for _, x := range gauss {
			greatest = max(greatest, math.Abs(finite((knots[i]+knots[i-1])/2+x*(knots[i]-knots[i-1])/2)))
		}
	}
	least := died * greatest * (knots[len(knots)-1] - knots[0])
	for i := 1; i < len(knots); i++ {
		if knots[i] > knots[i-1] || len(t.pieces) == 0 && i == len(knots)-1 {
			spare := max(fewPieces, mostPieces/len(knots))
			t.take(knots[i-1], knots[i], finite, least, mostHalvings, &spare)
		}
	}
	t.zero = t.At(zero)
	return t
}

// take adds a stretch, halved as often as it has to be for what is left out to come to no more than least.
func (t *Total) take(from, to float64, rate func(float64) float64, least float64, halvings int, spare *int) {
	p := piece{from: from, to: to}
	middle, half := (from+to)/2, (to-from)/2
	for i, x := range gauss {
		value := rate(middle + half*x)
		before, now := 0.0, 1.0
		for k := range p.series {
			p.series[k] += float64(2*k+1) / 2 * gaussWeights[i] * value * now
			before, now = now, (float64(2*k+1)*x*now-float64(k)*before)/float64(k+1)
		}
	}
	left := max(math.Abs(p.series[gaussPoints-1]), math.Abs(p.series[gaussPoints-2]))
	for _, x := range asides {
		left = max(left, math.Abs(rate(middle+half*x)-p.rate(x)))
	}
	if half*left > least && halvings > 0 && *spare > 0 {
		*spare--
		t.take(from, middle, rate, least, halvings-1, spare)
		t.take(middle, to, rate, least, halvings-1, spare)
		return
	}
	if n := len(t.pieces); n > 0 {
		last := &t.pieces[n-1]
		p.before = last.before + last.within(last.to)
	}
	t.pieces = append(t.pieces, p)
}

// within is what comes together in the piece up to a time in it.
func (p *piece) within(seconds float64) float64 {
	half := (p.to - p.from) / 2
	if !(half > 0) {
		return 0
	}
	x := (seconds-p.from)/half - 1
	sum, before, now := p.series[0]*(x+1), 1.0, x
	for k := 1; k < gaussPoints; k++ {
		next := (float64(2*k+1)*x*now - float64(k)*before) / float64(k+1)
		sum += p.series[k] * (next - before) / float64(2*k+1)
		before, now = now, next
	}
	return half * sum
}

// rate is how fast it comes together in the piece, at a place from -1 to 1.
func (p *piece) rate(x float64) (rate float64) {
	before, now := 0.0, 1.0
	for k, c := range p.series {
		rate += c * now
		before, now = now, (float64(2*k+1)*x*now-float64(k)*before)/float64(k+1)
	}
	return rate
}

// Shift has so much more come together at all times.
func (t *Total) Shift(by float64) { t.zero -= by }

// At returns what has come together by a time, in seconds. Before the first knot and after the last the rate goes on as it is there.
func (t *Total) At(seconds float64) float64 {
	first, last := &t.pieces[0], &t.pieces[len(t.pieces)-1]
	switch {
	case seconds < first.from:
		return first.rate(-1)*(seconds-first.from) - t.zero
	case seconds >= last.to:
		return last.before + last.within(last.to) + last.rate(1)*(seconds-last.to) - t.zero
	}
	next := sort.Search(len(t.pieces), func(i int) bool { return t.pieces[i].from > seconds })
	p := &t.pieces[next-1]
	return p.before + p.within(seconds) - t.zero
}
