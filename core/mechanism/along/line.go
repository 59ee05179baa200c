package along

import (
	"fmt"

	"github.com/go-gl/mathgl/mgl64"
	"gonum.org/v1/gonum/mat"

	"myriapod/core/curve"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
)

// Line ties a curve to its controls so that it passes through every one of them: a handle stays on the body that it moves. The end
// controls carry two curve points each, rigidly; the points between are solved for from the places that the other controls hold,
// by a matrix that is inverted once.
type Line struct {
	ends    [4]anchor           // the first two points and the last two
	reaches [2]mechanism.Number // how far the second point stands from the end, against rest: of the first control and of the last
	between []holder
	inverse *mat.Dense
}

// anchor is a place that goes along with a control.
type anchor struct {
	control int
	offset  mgl64.Vec3
}

// holder is a control that holds the curve at one parameter: the weights that the curve's points have there, from the point
// first onward.
type holder struct {
	anchor
	first   int
	weights [curve.MaxDegree + 1]float64
}

// Tie ties the line that was fitted to the controls, which stand at places, shares of its length. reaches are how far the end controls
// hold its direction, as multiples of what they do at rest.
func Tie(b *mechanism.Bench, ruler *curve.Ruler, controls []int, places []float64, reaches [2]mechanism.Number) (*Line, error) {
	fitted := ruler.Line.Points
	anchorAt := func(control int, place mgl64.Vec3) anchor {
		return anchor{control, b.Document.Controls[control].Home().Inverse().Apply(place)}
	}
	last, end := len(controls)-1, len(fitted)-1
	l := &Line{reaches: reaches, ends: [4]anchor{
		anchorAt(controls[0], fitted[0]), anchorAt(controls[0], fitted[1]),
		anchorAt(controls[last], fitted[end-1]), anchorAt(controls[last], fitted[end]),
	}}
	count := last - 1
	system := mat.NewDense(count, count, nil)
	for k := 1; k < last; k++ {
		u := ruler.Locate(ruler.Total() * places[k])
		place, _ := ruler.Line.At(u)
		h := holder{anchor: anchorAt(controls[k], place)}
		h.weights, h.first = ruler.Line.Basis(u)
		for i, weight := range h.weights {
			if column := h.first + i - 2; column >= 0 && column < count {
				system.Set(k-1, column, weight)
			}
		}
		l.between = append(l.between, h)
	}
	l.inverse = new(mat.Dense)
	if err := l.inverse.Inverse(system); err != nil {
		return nil, fmt.Errorf("the curve cannot pass through %d controls as they are placed; spread them more evenly or use fewer: %w", len(controls), err)
	}
	return l, nil
}

func (a *anchor) place(f *mechanism.Frame) mgl64.Vec3 { return f.Controls[a.control].Apply(a.offset) }

// Wanted returns scratch for Carry and CarryAcross: what the points between have to make up at each holder.
func (l *Line) Wanted() []mgl64.Vec3 { return make([]mgl64.Vec3, len(l.between)) }

// Carry writes the curve's points for the controls of a frame.
func (l *Line) Carry(f *mechanism.Frame, points, wanted []mgl64.Vec3) {
	end := len(points) - 1
	points[0], points[end] = l.ends[0].place(f), l.ends[3].place(f)
	points[1] = reach(points[0], l.ends[1].place(f), l.reaches[0].At(f))
	points[end-1] = reach(points[end], l.ends[2].place(f), l.reaches[1].At(f))
	for k := range l.between {
		wanted[k] = l.between[k].place(f)
	}
	l.solve(points, wanted)
}

// First and Last return the directions that the first and the last control give the curve where it begins and ends, before anything shapes it.
// They turn with the controls alone.
func (l *Line) First(f *mechanism.Frame) mgl64.Vec3 { return direction(f, l.ends[0], l.ends[1]) }

// Last is as First, at the end.
func (l *Line) Last(f *mechanism.Frame) mgl64.Vec3 { return direction(f, l.ends[2], l.ends[3]) }

func direction(f *mechanism.Frame, from, to anchor) mgl64.Vec3 {
	return f.Controls[from.control].Rotation.Rotate(geometry.Unit(to.offset.Sub(from.offset), geometry.MainAxis))
}

// leastReach is how far, against rest, a control holds its direction with a reach of 0: at nothing the curve would have no direction of its own
// there, and whatever shapes it would turn it over.
const leastReach = 0.05

// reach is where the second point stands when it reaches so far: it comes to leastReach evenly.
func reach(end, handle mgl64.Vec3, by float64) mgl64.Vec3 {
	switch {
	case by == 1:
		return handle
	case by < 1:
		by += leastReach * (1 - by) * (1 - by)
	}
	return end.Add(handle.Sub(end).Mul(by))
}

// CarryAcross writes the points of a curve of directions: at each control that of its third axis, as long as widths says.
func (l *Line) CarryAcross(f *mechanism.Frame, controls []int, widths []float64, points, wanted []mgl64.Vec3) {
	across := func(k int) mgl64.Vec3 {
		return f.Controls[controls[k]].Rotation.Rotate(mgl64.Vec3{widths[k], 0, 0})
	}
	end, last := len(points)-1, len(controls)-1
	points[0], points[end] = across(0), across(last)
	points[1], points[end-1] = points[0], points[end]
	for k := range l.between {
		wanted[k] = across(k + 1)
	}
	l.solve(points, wanted)
}

// solve sets the points between so that the curve has what is wanted at each holder.
func (l *Line) solve(points, wanted []mgl64.Vec3) {
	end := len(points) - 1
	for k := range l.between {
		h := &l.between[k]
		for i, weight := range h.weights {
			if at := h.first + i; at < 2 || at > end-2 {
				wanted[k] = wanted[k].Sub(points[at].Mul(weight))
			}
		}
	}
	for row := range wanted {
		var p mgl64.Vec3
		for column, weight := range l.inverse.RawRowView(row) {
			p = p.Add(wanted[column].Mul(weight))
		}
		points[row+2] = p
	}
}
