package splinechain

import (
	"fmt"

	"github.com/go-gl/mathgl/mgl64"
	"gonum.org/v1/gonum/mat"

	"myriapod/core/curve"
	"myriapod/core/mechanism"
)

// line ties a curve to its controls so that it passes through every one of them: a handle stays on the body that it moves. The end
// controls carry two curve points each, rigidly; the points between are solved for from the places that the other controls hold,
// by a matrix that is inverted once.
type line struct {
	ends    [4]anchor // the first two points and the last two
	between []holder
	inverse *mat.Dense
	wanted  []mgl64.Vec3 // scratch: what the points between have to make up at each holder
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

func tie(b *mechanism.Bench, ruler *curve.Ruler, controls []int) (*line, error) {
	fitted := ruler.Line.Points
	anchorAt := func(control int, place mgl64.Vec3) anchor {
		return anchor{control, b.Document.Controls[control].Home().Inverse().Apply(place)}
	}
	last, end := len(controls)-1, len(fitted)-1
	l := &line{ends: [4]anchor{
		anchorAt(controls[0], fitted[0]), anchorAt(controls[0], fitted[1]),
		anchorAt(controls[last], fitted[end-1]), anchorAt(controls[last], fitted[end]),
	}}
	count := last - 1
	system := mat.NewDense(count, count, nil)
	for k := 1; k < last; k++ {
		u := ruler.Locate(ruler.Total() * float64(k) / float64(last))
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
	l.wanted = make([]mgl64.Vec3, count)
	l.inverse = new(mat.Dense)
	if err := l.inverse.Inverse(system); err != nil {
		return nil, fmt.Errorf("the curve cannot pass through %d controls; lay the joints more evenly or use fewer controls: %w", len(controls), err)
	}
	return l, nil
}

func (a *anchor) place(f *mechanism.Frame) mgl64.Vec3 { return f.Controls[a.control].Apply(a.offset) }

// carry writes the curve's points for the controls of a frame.
func (l *line) carry(f *mechanism.Frame, points []mgl64.Vec3) {
	end := len(points) - 1
	points[0], points[1] = l.ends[0].place(f), l.ends[1].place(f)
	points[end-1], points[end] = l.ends[2].place(f), l.ends[3].place(f)
	for k := range l.between {
		h := &l.between[k]
		wanted := h.place(f)
		for i, weight := range h.weights {
			if at := h.first + i; at < 2 || at > end-2 {
				wanted = wanted.Sub(points[at].Mul(weight))
			}
		}
		l.wanted[k] = wanted
	}
	for row := range l.wanted {
		var p mgl64.Vec3
		for column, weight := range l.inverse.RawRowView(row) {
			p = p.Add(l.wanted[column].Mul(weight))
		}
		points[row+2] = p
	}
}
