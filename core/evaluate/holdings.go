package evaluate

import (
	"slices"

	"myriapod/core/mechanism"
	"myriapod/core/motion"
)

// soon is how finely the moment of a change is found where a number goes evenly from one holder to another, in seconds.
const soon = 1e-9

// holdings works out along a clip who holds what, and how it lies in that from each change on: each change is made where the thing is then, whatever was keyed before.
func (e *Evaluator) holdings(clip *motion.Clip, journey *mechanism.Journey) {
	for i := range e.Frame.Held {
		e.Frame.Held[i] = nil
		if clip == nil || clip.End <= clip.Start {
			continue
		}
		holding := &e.Plan.Holdings[i]
		at := e.elsewhenOn(clip, journey, e.Plan.Upstream(holding.Reads...))
		fps := e.Plan.Document.FPS
		times := append([]float64{clip.Start / fps, clip.End / fps}, e.knots(clip, mechanism.Total{Reads: holding.Choice})...)
		times = slices.DeleteFunc(times, func(t float64) bool { return t < clip.Start/fps || t > clip.End/fps })
		slices.Sort(times)
		h := holder{of: holding, at: func(seconds float64) *mechanism.Frame { return at(seconds).Frame }}
		first := holding.Holder(h.at(times[0]))
		h.list = []mechanism.Held{{From: times[0], Holder: first, Offset: holding.First(first)}}
		for k := 1; k < len(times); k++ {
			h.between(times[k-1], times[k])
		}
		e.Frame.Held[i] = h.list
	}
}

// holder gathers who holds one thing.
type holder struct {
	of   *mechanism.Holding
	at   func(seconds float64) *mechanism.Frame
	list []mechanism.Held
}

// between finds the changes after one time and up to another, between which the number goes evenly or stands still.
func (h *holder) between(from, to float64) {
	last := h.list[len(h.list)-1]
	next := h.of.Holder(h.at(to))
	switch {
	case next == last.Holder:
	case to-from < soon:
		h.change(to, next)
	default:
		middle := (from + to) / 2
		h.between(from, middle)
		h.between(middle, to)
	}
}

// change hands the thing over where it is.
func (h *holder) change(seconds float64, next int) {
	last := h.list[len(h.list)-1]
	f := h.at(seconds)
	pose := h.of.At(f, last.Holder).Then(last.Offset)
	h.list = append(h.list, mechanism.Held{From: seconds, Holder: next, Offset: h.of.At(f, next).Inverse().Then(pose)})
}
