package mechanism

import (
	"math"
	"sort"

	"github.com/go-gl/mathgl/mgl64"
	"gonum.org/v1/gonum/interp"

	"myriapod/core/geometry"
)

// Journey is where a clip takes the body, as a function of time: what walks by it can look where the body was, and where it will be, without
// anything being remembered from frame to frame.
type Journey struct {
	begin, end float64   // seconds
	travelled  []float64 // metres, at even times from begin to end
	smooth     interp.FritschButland
	back       geometry.Transform // undoes where the body is at rest
	body       func(seconds float64) geometry.Transform
}

// journeySamples bounds the times at which a journey is measured.
const journeySamples = 20000

// NewJourney measures the way of a body from begin to end, in seconds, at so many times a second. The body is at home at rest, and where body
// returns. Ground that its own place covers counts over the level; turning on the spot counts as walking on a circle of radius, in metres. Between
// the times what is covered rises smoothly.
//
// Method: Fritsch and Butland 1984, A method for constructing local monotone piecewise cubic interpolants.
func NewJourney(begin, end, rate, radius float64, home geometry.Transform, body func(seconds float64) geometry.Transform) *Journey {
	count := int(math.Max(3, math.Min(journeySamples, math.Ceil((end-begin)*rate)+1)))
	j := &Journey{begin: begin, end: end, travelled: make([]float64, count), back: home.Inverse(), body: body}
	times := make([]float64, count)
	before := body(begin)
	for i := range times {
		times[i] = float64(i)
		if i == 0 {
			continue
		}
		now := body(j.timeAt(times[i]))
		moved := now.Position.Sub(before.Position)
		turned := geometry.Wrap(Heading(now.Then(j.back).Rotation) - Heading(before.Then(j.back).Rotation))
		j.travelled[i] = j.travelled[i-1] + math.Hypot(moved[0], moved[2]) + radius*math.Abs(turned)
		before = now
	}
	if err := j.smooth.Fit(times, j.travelled); err != nil {
		panic(err) // it takes any rising times
	}
	return j
}

// Heading is how far a rotation turns about the upright axis, in radians: its twist about that. A body that is turned right over has none.
func Heading(q mgl64.Quat) float64 { return geometry.Wrap(2 * math.Atan2(q.V[1], q.W)) }

// Headless tells whether a rotation turns so nearly right over that its heading means nothing.
func Headless(q mgl64.Quat) bool { return math.Hypot(q.V[1], q.W) < headless }

// headless is the cosine of half the angle from which a body counts as turned right over.
const headless = 0.02

func (j *Journey) timeAt(sample float64) float64 {
	return j.begin + (j.end-j.begin)*sample/float64(len(j.travelled)-1)
}

// Body returns the body's motion away from its rest at a time. Before the journey and after it the body stands still.
func (j *Journey) Body(seconds float64) geometry.Transform {
	return j.body(math.Max(j.begin, math.Min(j.end, seconds))).Then(j.back)
}

// Travelled returns how much ground is covered by a time, in metres.
func (j *Journey) Travelled(seconds float64) float64 {
	share := (seconds - j.begin) / (j.end - j.begin) * float64(len(j.travelled)-1)
	if !(share > 0) {
		return 0
	}
	if share >= float64(len(j.travelled)-1) {
		return j.travelled[len(j.travelled)-1]
	}
	return j.smooth.Predict(share)
}

// When returns the time by which so much ground is covered: the beginning for nothing, the end for more than there is.
func (j *Journey) When(metres float64) float64 {
	next := sort.SearchFloat64s(j.travelled, metres)
	switch {
	case next == 0:
		return j.begin
	case next == len(j.travelled):
		return j.end
	}
	a, b := j.travelled[next-1], j.travelled[next]
	return j.timeAt(float64(next-1) + (metres-a)/(b-a))
}
