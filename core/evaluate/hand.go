package evaluate

import "math"

// hand is a hand at work: steppers go on from where the clip has them at the present frame, in the hand's own time.
type hand struct {
	*steps
	time float64 // of the hand, since it took hold, in steps
	made float64 // steps made
}

// mostAtOnce bounds how long a hand's time goes on at once, in seconds: a page that was away does not make up for it.
const mostAtOnce = 0.5

// Hand has steppers go on by so many seconds of a hand's own time, with what it holds, from where they stand; the first call, with 0, takes hold. The clip's
// time may stand or go on meanwhile. Nothing is worked out where nothing has memory.
func (e *Evaluator) Hand(held []Held, seconds float64) {
	if len(e.Plan.Steppers) == 0 {
		return
	}
	if e.hand == nil {
		e.recall(nil)
		h := &hand{steps: newSteps(e, e.clip)}
		copy(h.past.Frame.Memory, e.Frame.Memory)
		copy(h.low, e.Frame.Memory)
		e.hand = h
	}
	h := e.hand
	h.time += StepRate * math.Max(0, math.Min(mostAtOnce, seconds))
	for h.made < h.time {
		copy(h.low, h.past.Frame.Memory)
		h.step(e.Frame.Time, held, false)
		h.made++
	}
	mix(e.Frame.Memory, h.low, h.past.Frame.Memory, 1-(h.made-h.time))
	e.touchSteppers()
}

// Release gives steppers back to the clip.
func (e *Evaluator) Release() {
	if e.hand != nil {
		e.hand, e.forgot = nil, true
	}
}

// Restless tells whether what is shown still goes on by itself in a hand that does nothing: steppers have not come to rest.
func (e *Evaluator) Restless() bool {
	if e.hand == nil {
		return false
	}
	for i, now := range e.hand.past.Frame.Memory {
		if math.Abs(now-e.hand.low[i]) > 1e-9*(math.Abs(now)+1e-9) {
			return true
		}
	}
	return false
}
