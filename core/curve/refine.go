package curve

import "github.com/go-gl/mathgl/mgl64"

// Refinement rewrites a spline over more, finer pieces without changing the curve. It is prepared once and then costs at
// most four multiplications a point.
//
// Method: the Oslo algorithm (Cohen, Lyche, Riesenfeld 1980, Discrete B-splines and subdivision techniques).
type Refinement struct {
	rows []refinementRow
}

type refinementRow struct {
	first   int
	weights [MaxDegree + 1]float64
}

// Refine returns the refinement of b that cuts every piece in parts, and a spline of the right size to receive it.
func (b *BSpline) Refine(parts int) (*Refinement, *BSpline) {
	parts = max(parts, 1)
	fine := &BSpline{
		Points: make([]mgl64.Vec3, b.Spans()*parts+b.degree),
		degree: b.degree,
		knots:  clampedKnots(b.Spans()*parts+b.degree, b.degree),
	}
	refinement := &Refinement{rows: make([]refinementRow, len(fine.Points))}
	for i := range fine.Points {
		refinement.rows[i] = b.discreteBasis(fine.knots[i : i+b.degree+1])
	}
	refinement.Apply(b, fine)
	return refinement, fine
}

// discreteBasis returns the weights with which the points of b make the one fine point whose knots are given: its first
// knot places it in a span, the knots after it are the arguments of the blossom.
func (b *BSpline) discreteBasis(fine []float64) refinementRow {
	spans := b.Spans()
	const nudge = 1e-9 // fine knots are rounded: one that stands on a coarse knot must not fall into the span before
	span := min(int((fine[0]+nudge)*float64(spans)), spans-1) + b.degree
	var weights [MaxDegree + 1]float64
	weights[0] = 1
	for j := 1; j <= b.degree; j++ {
		u := fine[j]
		saved := 0.0
		for r := range j {
			low, high := b.knots[span+1+r-j], b.knots[span+1+r]
			share := weights[r] / (high - low)
			weights[r] = saved + (high-u)*share
			saved = (u - low) * share
		}
		weights[j] = saved
	}
	return refinementRow{first: span - b.degree, weights: weights}
}

// Apply writes the points of fine so that it runs exactly along coarse.
func (r *Refinement) Apply(coarse, fine *BSpline) {
	for i, row := range r.rows {
		var p mgl64.Vec3
		for k := range coarse.degree + 1 {
			p = p.Add(coarse.Points[row.first+k].Mul(row.weights[k]))
		}
		fine.Points[i] = p
	}
}
