package mechanism

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"
	"gonum.org/v1/gonum/interp"
)

// Way is how far something goes along a clip, as a function of time.
type Way struct {
	begin, end float64 // seconds
	rate       float64 // samples a second
	gone       interp.FritschButland
	last       float64
}

// NewWay measures the way of what is at place at a time, from begin to end in seconds, at so many times a second. Between the times it rises smoothly.
//
// Method: Fritsch and Butland 1984, A method for constructing local monotone piecewise cubic interpolants.
func NewWay(begin, end, rate float64, place func(seconds float64) mgl64.Vec3) *Way {
	count := int(math.Max(3, math.Min(journeySamples, math.Ceil((end-begin)*rate)+1)))
	w := &Way{begin: begin, end: end, rate: float64(count-1) / (end - begin)}
	times, gone := make([]float64, count), make([]float64, count)
	before := place(begin)
	for i := 1; i < count; i++ {
		times[i] = float64(i)
		now := place(begin + float64(i)/w.rate)
		gone[i] = gone[i-1] + now.Sub(before).Len()
		before = now
	}
	w.last = gone[count-1]
	if err := w.gone.Fit(times, gone); err != nil {
		panic(err) // it takes any rising times
	}
	return w
}

// Gone returns the way by a time, in metres: none before the beginning, all of it after the end.
func (w *Way) Gone(seconds float64) float64 {
	switch {
	case !(seconds > w.begin):
		return 0
	case seconds >= w.end:
		return w.last
	}
	return w.gone.Predict((seconds - w.begin) * w.rate)
}

// Speed returns how fast it goes at a time, in metres a second: 0 before the beginning and after the end.
func (w *Way) Speed(seconds float64) float64 {
	if !(seconds >= w.begin && seconds <= w.end) {
		return 0
	}
	return w.rate * w.gone.PredictDerivative((seconds-w.begin)*w.rate)
}

// Measured has the way of a control along the clip worked out, and returns its index in Frame.Ways.
func (b *Bench) Measured(control int) int {
	b.Ways = append(b.Ways, control)
	return len(b.Ways) - 1
}
