package mechanism

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"
	"gonum.org/v1/gonum/interp"

	"myriapod/core/geometry"
)

// Roll is what rolls along the clip: where its hub is over the ground, and which way that goes, a unit vector, in a frame in which what it reads is up to date.
type Roll struct {
	Whose string // the name of the mechanism, which Bench.Roll gives it
	Reads []Resource
	Hub   func(f *Frame) (place, ahead mgl64.Vec3)
}

// Roll has the way of a hub along the clip worked out, and returns its index in Frame.Rolls, which a task says that it reads as RollOf.
func (b *Bench) Roll(roll Roll) int {
	roll.Whose = b.Mechanism.Name
	b.Rolls = append(b.Rolls, roll)
	return len(b.Rolls) - 1
}

// Rolled is how far something has rolled along a clip, as a function of time: forwards and backwards, 0 at the beginning.
type Rolled struct {
	begin, end float64 // seconds
	rate       float64 // samples a second
	way        interp.PiecewiseCubic
	place      [3]interp.PiecewiseCubic
	aside, yaw interp.PiecewiseLinear // a sample: how far it slips sideways, and how far its way turns about the vertical
	last       float64
}

// rollSamples bounds the times at which something that rolls is measured.
const rollSamples = 200_000

// NewRolled measures what hub returns for each of some things that roll, from begin to end in seconds, at so many times a second, and once more between each two.
//
// Method: the way between two times is what the hub has moved, along where it goes, which is taken together by Simpson's rule (adaptive, Lyness 1969): exact to the fourth power of how far it turns between
// them. Between the times it is a cubic with the slopes that the hub has.
func NewRolled(begin, end, rate float64, count int, hubs func(seconds float64, i int) (place, ahead mgl64.Vec3)) []*Rolled {
	samples := int(math.Max(3, math.Min(rollSamples, math.Ceil((end-begin)*rate)+1)))
	list := make([]*Rolled, count)
	step := (end - begin) / float64(samples-1)
	hubsAt := make([][]hubAt, count)
	for k := range 2*samples - 1 {
		for i := range count {
			place, ahead := hubs(begin+step*float64(k)/2, i)
			hubsAt[i] = append(hubsAt[i], hubAt{begin + step*float64(k)/2, place, ahead})
		}
	}
	for i := range list {
		list[i] = newRolled(begin, step, hubsAt[i], func(seconds float64) hubAt {
			place, ahead := hubs(seconds, i)
			return hubAt{seconds, place, ahead}
		})
	}
	return list
}

// hubAt is a hub at a time.
type hubAt struct {
	seconds      float64
	place, ahead mgl64.Vec3
}

// simpson is how far a hub rolls between two times, with one between them.
func simpson(a, m, b hubAt) float64 {
	return b.place.Sub(a.place).Dot(a.ahead.Add(m.ahead.Mul(4)).Add(b.ahead)) / 6
}

// finely is how little the two halves of a stretch may differ from all of it, as a share of it, for it not to be halved again, and how often that is done at most.
const (
	finely  = 1e-7
	deepest = 12
)

// rolled is how far a hub rolls between two times. Where it turns at once, as at the edge of a step, it is looked at ever more finely.
func rolled(a, m, b hubAt, at func(seconds float64) hubAt, deep int) float64 {
	left, right := at((a.seconds+m.seconds)/2), at((m.seconds+b.seconds)/2)
	first, last := simpson(a, left, m), simpson(m, right, b)
	if deep == 0 || math.Abs(first+last-simpson(a, m, b)) <= finely*b.place.Sub(a.place).Len() {
		return first + last
	}
	return rolled(a, left, m, at, deep-1) + rolled(m, right, b, at, deep-1)
}

func newRolled(begin, step float64, hubs []hubAt, at func(seconds float64) hubAt) *Rolled {
	samples := (len(hubs) + 1) / 2
	r := &Rolled{begin: begin, end: begin + step*float64(samples-1), rate: 1 / step}
	times, gone, pace := make([]float64, samples), make([]float64, samples), make([]float64, samples)
	var places, speed [3][]float64
	aside, yaw := make([]float64, samples), make([]float64, samples)
	for i := range samples {
		k := 2 * i
		times[i] = float64(i)
		if i > 0 {
			gone[i] = gone[i-1] + rolled(hubs[k-2], hubs[k-1], hubs[k], at, deepest)
		}
		moves := velocity(hubs, k)
		pace[i] = moves.Dot(hubs[k].ahead)
		aside[i] = moves.Dot(geometry.Unit(hubs[k].ahead.Cross(geometry.Up), mgl64.Vec3{}))
		before, after := hubs[max(0, k-1)], hubs[min(len(hubs)-1, k+1)]
		yaw[i] = before.ahead.Cross(after.ahead)[1] * step / math.Max(after.seconds-before.seconds, math.SmallestNonzeroFloat64)
		for axis := range 3 {
			places[axis], speed[axis] = append(places[axis], hubs[k].place[axis]), append(speed[axis], moves[axis])
		}
	}
	r.way.FitWithDerivatives(times, gone, pace)
	for axis := range 3 {
		r.place[axis].FitWithDerivatives(times, places[axis], speed[axis])
	}
	r.last = gone[samples-1]
	for line, values := range map[*interp.PiecewiseLinear][]float64{&r.aside: aside, &r.yaw: yaw} {
		if err := line.Fit(times, values); err != nil {
			panic(err) // it takes any rising times
		}
	}
	return r
}

// velocity is how far a hub goes in one step, of two half steps, at one of them.
func velocity(hubs []hubAt, k int) mgl64.Vec3 {
	switch {
	case k == 0:
		return hubs[0].place.Mul(-3).Add(hubs[1].place.Mul(4)).Sub(hubs[2].place)
	case k == len(hubs)-1:
		return hubs[k].place.Mul(3).Sub(hubs[k-1].place.Mul(4)).Add(hubs[k-2].place)
	}
	return hubs[k+1].place.Sub(hubs[k-1].place)
}

// Way is how far it has rolled by a time, in metres: none before the beginning, all of it after the end.
func (r *Rolled) Way(seconds float64) float64 {
	switch {
	case !(seconds > r.begin):
		return 0
	case seconds >= r.end:
		return r.last
	}
	return r.way.Predict((seconds - r.begin) * r.rate)
}

// Aside is how fast its hub slips sideways at a time, to the right, in metres a second, and how fast its way turns about the vertical, to the left, in radians a second: none before the beginning and after
// the end.
func (r *Rolled) Aside(seconds float64) (slip, turning float64) {
	if !(seconds > r.begin && seconds < r.end) {
		return 0, 0
	}
	at := (seconds - r.begin) * r.rate
	return r.aside.Predict(at) * r.rate, r.yaw.Predict(at) * r.rate
}

// Place is where the clip has its hub at a time.
func (r *Rolled) Place(seconds float64) mgl64.Vec3 {
	at := (math.Max(r.begin, math.Min(r.end, seconds)) - r.begin) * r.rate
	return mgl64.Vec3{r.place[0].Predict(at), r.place[1].Predict(at), r.place[2].Predict(at)}
}
