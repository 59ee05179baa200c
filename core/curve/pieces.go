package curve

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"
	"gonum.org/v1/gonum/mat"
)

// Pieces is a spline as one polynomial for each span, which costs a tenth of the basis functions to read. The matrices that
// turn points into polynomials depend on the knots alone and are made once.
type Pieces struct {
	first     []int // by span: its first point
	matrices  [][4][MaxDegree + 1]float64
	polynomes []polynome
}

// polynome is constant + t·(linear + t·(square + t·cube)), t from 0 to 1 over its span.
type polynome struct{ constant, linear, square, cube mgl64.Vec3 }

// NewPieces returns the pieces of a line; Set reads its points. The basis functions of every span are read at four places and solved for their
// polynomials.
func NewPieces(line *BSpline) *Pieces {
	places := [4]float64{0.125, 0.375, 0.625, 0.875}
	vandermonde := mat.NewDense(4, 4, nil)
	for row, t := range places {
		vandermonde.SetRow(row, []float64{1, t, t * t, t * t * t})
	}
	var inverse mat.Dense
	if err := inverse.Inverse(vandermonde); err != nil {
		panic(err) // four different places always have an inverse
	}
	spans := line.Spans()
	p := &Pieces{first: make([]int, spans), matrices: make([][4][MaxDegree + 1]float64, spans), polynomes: make([]polynome, spans)}
	for span := range spans {
		for k, t := range places {
			weights, first := line.Basis((float64(span) + t) / float64(spans))
			p.first[span] = first
			for power := range 4 {
				for i, weight := range weights {
					p.matrices[span][power][i] += inverse.At(power, k) * weight
				}
			}
		}
	}
	return p
}

// Set reads the points of the line anew, which must be as many as those it was made for.
func (p *Pieces) Set(line *BSpline) {
	for span := range p.polynomes {
		points := line.Points[p.first[span] : p.first[span]+line.degree+1]
		var sums [4]mgl64.Vec3
		for power := range sums {
			row := &p.matrices[span][power]
			for i := range points {
				for axis := range 3 {
					sums[power][axis] += row[i] * points[i][axis]
				}
			}
		}
		p.polynomes[span] = polynome{sums[0], sums[1], sums[2], sums[3]}
	}
}

func (p *Pieces) locate(u float64) (*polynome, float64) {
	scaled := min(1, max(0, u)) * float64(len(p.polynomes))
	span := min(int(scaled), len(p.polynomes)-1)
	return &p.polynomes[span], scaled - float64(span)
}

// At returns the place and the derivative by u, which is brought into [0, 1].
func (p *Pieces) At(u float64) (place, derivative mgl64.Vec3) {
	q, t := p.locate(u)
	scale := float64(len(p.polynomes))
	for axis := range 3 {
		place[axis] = q.constant[axis] + t*(q.linear[axis]+t*(q.square[axis]+t*q.cube[axis]))
		derivative[axis] = scale * (q.linear[axis] + t*(2*q.square[axis]+t*3*q.cube[axis]))
	}
	return place, derivative
}

// curvature returns the direction, at right angles to a tangent, in which the line bends by u, and how much: radians by length.
func (p *Pieces) curvature(u float64, tangent mgl64.Vec3) (direction mgl64.Vec3, amount float64) {
	q, t := p.locate(u)
	_, derivative := p.At(u)
	scale := float64(len(p.polynomes))
	second := q.square.Mul(2).Add(q.cube.Mul(6 * t)).Mul(scale * scale)
	across := second.Sub(tangent.Mul(second.Dot(tangent)))
	amount = across.Len() / derivative.Dot(derivative)
	if !(amount > 0) || math.IsInf(amount, 1) {
		return mgl64.Vec3{}, 0
	}
	return across.Normalize(), amount
}

// speed returns the length of the derivative by u.
func (p *Pieces) speed(u float64) float64 {
	q, t := p.locate(u)
	return float64(len(p.polynomes)) * q.speed(t)
}

func (q *polynome) speed(t float64) float64 {
	x := q.linear[0] + t*(2*q.square[0]+t*3*q.cube[0])
	y := q.linear[1] + t*(2*q.square[1]+t*3*q.cube[1])
	z := q.linear[2] + t*(2*q.square[2]+t*3*q.cube[2])
	return math.Sqrt(x*x + y*y + z*z)
}

var (
	gaussPlaces  = [5]float64{-0.9061798459386640, -0.5384693101056831, 0, 0.5384693101056831, 0.9061798459386640}
	gaussWeights = [5]float64{0.2369268850561891, 0.4786286704993665, 0.5688888888888889, 0.4786286704993665, 0.2369268850561891}
)

// length returns the length between two parameters of one piece, by Gauss–Legendre quadrature of five points.
func (p *Pieces) length(from, to float64) float64 {
	q, middle := p.locate((from + to) / 2)
	half := (to - from) / 2 * float64(len(p.polynomes))
	a, b := half*gaussPlaces[3], half*gaussPlaces[4]
	return half * (gaussWeights[4]*(q.speed(middle-b)+q.speed(middle+b)) +
		gaussWeights[3]*(q.speed(middle-a)+q.speed(middle+a)) + gaussWeights[2]*q.speed(middle))
}
