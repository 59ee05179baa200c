package driver

import (
	"math"
	"sort"

	"gonum.org/v1/gonum/interp"

	"myriapod/core/mechanism"
	"myriapod/core/parameter"
)

// Response answers another number by a curve, on top of what stands below: what hand and clip say is added to, not replaced. Numbers are in the units that people see.
type Response struct{}

// ResponseKind is the kind's name in documents.
const ResponseKind = "response"

// The parameters of a response.
const (
	Points = "points" // what it answers, and with what
	Join   = "join"   // how it goes from point to point
	Before = "before" // how it goes on under the first point
	After  = "after"  // and over the last
)

// How a response goes from point to point, and beyond the ends.
const (
	Smooth   = "smooth" // through the points, never over them
	Straight = "straight"
	Stepped  = "stepped"
	Hold     = "hold"
	Repeat   = "repeat"
	Climb    = "climb" // repeated, each time from where it came to
	Mirror   = "mirror"
)

var ends = []string{Hold, Straight, Repeat, Climb, Mirror}

// Declare implements mechanism.DriverKind.
func (Response) Declare() mechanism.DriverDeclaration {
	return mechanism.DriverDeclaration{
		Kind: ResponseKind, Title: "Response", Summary: "Answers another number by a curve through points that are taken, on top of what stands below it.", Least: 1, Most: 1,
		Parameters: parameter.Declared{
			{Key: Points, Title: "Points", Type: parameter.Points, Default: parameter.OfProfile(parameter.Point{0, 0}), Help: "What is answered, and with what."},
			{Key: Join, Title: "Between points", Type: parameter.Choice, Choices: []string{Smooth, Straight, Stepped}, Default: parameter.OfChoice(Smooth), Help: "Smooth never goes over its points."},
			{Key: Before, Title: "Before the first", Type: parameter.Choice, Choices: ends, Default: parameter.OfChoice(Hold), Help: "How it goes on under its first point."},
			{Key: After, Title: "After the last", Type: parameter.Choice, Choices: ends, Default: parameter.OfChoice(Hold), Help: "How it goes on over its last point."},
			mechanism.Influence(),
		},
	}
}

// Prepare implements mechanism.DriverKind.
func (Response) Prepare(b *mechanism.DriverBench) (mechanism.Drive, error) {
	from, err := b.ReadShown(0)
	if err != nil {
		return nil, err
	}
	answer, shown := NewAnswer(b.Settings), b.Shown()
	if !answer.jumps() {
		return func(f *mechanism.Frame, below float64) float64 { return below + answer.At(from.At(f))/shown }, nil
	}
	jumping := b.Finding("answers with a jump here: its response is stepped, or repeats from an end that is not as its beginning; join it smoothly, or make its ends alike.")
	return func(f *mechanism.Frame, below float64) float64 {
		x := from.At(f)
		if answer.jumpsAt(x) {
			f.Findings[jumping] = true
		}
		return below + answer.At(x)/shown
	}, nil
}

// seam is the share of a response's length on either side of a jump in which it is told.
const seam = 1.0 / 400

// jumps tells whether the answer jumps anywhere.
func (a *Answer) jumps() bool {
	n := len(a.x) - 1
	return n > 0 && (a.stepped || a.y[0] != a.y[n] && (a.before == Repeat || a.after == Repeat))
}

// jumpsAt tells whether the answer jumps at a number, or hard by.
func (a *Answer) jumpsAt(x float64) bool {
	n := len(a.x) - 1
	period := a.x[n] - a.x[0]
	turns := math.Floor((x - a.x[0]) / period)
	if a.stepped && (turns == 0 || a.Turns(x)) {
		inside := x - turns*period
		for _, at := range a.x {
			if math.Abs(inside-at) < seam*period {
				return true
			}
		}
	}
	if a.y[0] == a.y[n] {
		return a.stepped && math.Min(math.Abs(x-a.x[0]), math.Abs(x-a.x[n])) < seam*period
	}
	near := math.Round((x - a.x[0]) / period)
	hard := math.Abs(x-a.x[0]-near*period) < seam*period
	return hard && (near <= 0 && a.before == Repeat || near >= 1 && a.after == Repeat || a.stepped)
}

// Answer is the curve of a response, ready to be read.
type Answer struct {
	x, y          []float64
	join          interp.DerivativePredictor // nil where it is stepped, or has one point
	stepped       bool
	before, after string
}

// NewAnswer readies the curve that the complete parameters of a response tell. Points rise.
//
// Method: Fritsch and Butland 1984, A method for constructing local monotone piecewise cubic interpolants.
func NewAnswer(settings parameter.Set) *Answer {
	a := &Answer{before: settings.Choice(Before), after: settings.Choice(After), stepped: settings.Choice(Join) == Stepped}
	for _, p := range settings.Curve(Points) {
		a.x, a.y = append(a.x, p[0]), append(a.y, p[1])
	}
	if len(a.x) < 2 || a.stepped {
		return a
	}
	var err error
	if settings.Choice(Join) == Straight {
		linear := &interp.PiecewiseLinear{}
		err = linear.Fit(a.x, a.y)
		a.join = slopes{linear, a.x, a.y}
	} else {
		smooth := &interp.FritschButland{}
		err = smooth.Fit(a.x, a.y)
		a.join = smooth
	}
	if err != nil {
		panic(err) // it takes any rising points
	}
	return a
}

// slopes gives a broken line the slope of the stretch that begins at a place, or of the last.
type slopes struct {
	*interp.PiecewiseLinear
	x, y []float64
}

func (s slopes) PredictDerivative(x float64) float64 {
	i := min(len(s.x)-1, 1+sort.Search(len(s.x)-1, func(k int) bool { return s.x[k+1] > x }))
	return (s.y[i] - s.y[i-1]) / (s.x[i] - s.x[i-1])
}

// At returns what is answered to a number.
func (a *Answer) At(x float64) float64 {
	first, last := a.x[0], a.x[len(a.x)-1]
	switch {
	case x < first:
		return a.beyond(a.before, x, first)
	case x > last:
		return a.beyond(a.after, x, last)
	}
	return a.within(x)
}

// drawnPlaces is at how many places a curve is drawn, and drawnBeyond the share of its length by which it is drawn beyond each end.
const (
	drawnPlaces = 121
	drawnBeyond = 0.25
)

// Curve implements mechanism.Curved.
func (Response) Curve(settings parameter.Set) mechanism.Answering {
	a := NewAnswer(settings)
	first, last := a.x[0], a.x[len(a.x)-1]
	beyond := drawnBeyond * (last - first)
	if beyond == 0 {
		beyond = math.Max(1, math.Abs(first))
	}
	drawn := mechanism.Answering{From: first - beyond, To: last + beyond, Values: make([]float64, drawnPlaces), Slopes: make([]float64, len(a.x))}
	for i := range drawn.Values {
		drawn.Values[i] = a.At(drawn.From + (drawn.To-drawn.From)*float64(i)/(drawnPlaces-1))
	}
	for i, x := range a.x {
		if a.join != nil {
			drawn.Slopes[i] = a.join.PredictDerivative(x)
		}
	}
	return drawn
}

// Turns tells whether a number lies beyond the ends, where the curve begins anew.
func (a *Answer) Turns(x float64) bool {
	how := Hold
	switch {
	case x < a.x[0]:
		how = a.before
	case x > a.x[len(a.x)-1]:
		how = a.after
	}
	return how != Hold && how != Straight
}

// within returns the answer between the ends; at a point it is the point's to the bit.
func (a *Answer) within(x float64) float64 {
	i := sort.SearchFloat64s(a.x, x)
	switch {
	case i < len(a.x) && a.x[i] == x:
		return a.y[i]
	case a.join == nil:
		return a.y[max(0, i-1)]
	}
	return a.join.Predict(x)
}

// beyond returns the answer outside of the ends, of which one is near.
func (a *Answer) beyond(how string, x, near float64) float64 {
	n := len(a.x) - 1
	period := a.x[n] - a.x[0]
	if n == 0 || how == Hold || how == Straight && a.join == nil {
		return a.y[sort.SearchFloat64s(a.x, near)]
	}
	if how == Straight {
		return a.within(near) + a.join.PredictDerivative(near)*(x-near)
	}
	turns := math.Floor((x - a.x[0]) / period)
	inside := math.Min(a.x[n], math.Max(a.x[0], x-turns*period))
	switch {
	case how == Climb:
		return a.within(inside) + turns*(a.y[n]-a.y[0])
	case how == Mirror && math.Mod(turns, 2) != 0:
		return a.within(a.x[0] + a.x[n] - inside)
	}
	return a.within(inside)
}
