package formula

import "sync"

// Word is something that can be written in a formula, for help and completion.
type Word struct {
	Name    string   `json:"name"`
	Takes   []string `json:"takes,omitempty"` // its arguments; none for a variable
	Summary string   `json:"summary"`
	Try     string   `json:"try"` // an example
	// Plot is what the example comes to at even times from 0 to 4 seconds, for the second of four targets.
	Plot []float64 `json:"plot"`
}

// Words lists all words of the language in the order in which help shows them.
func Words() []Word { return plotted() }

var plotted = sync.OnceValue(func() []Word {
	list := words()
	for i := range list {
		list[i].Plot = plot(list[i].Try)
	}
	return list
})

const (
	plotTimes   = 81
	plotSeconds = 4.0
)

// plot runs an example along its times.
func plot(text string) []float64 {
	program, err := Compile(text)
	if err != nil {
		panic(err) // an example that cannot be read; tests try them all
	}
	w, kept := program.Workspace(), make([]float64, program.Memory())
	w.Index, w.Count, w.Share, w.Moving = 1, 4, 1.0/3, 1
	w.Around[0] = [2]float64{1, 4}
	values, step := make([]float64, plotTimes), plotSeconds/(plotTimes-1)
	turned := make([]*Total, len(program.turned))
	for k, rate := range program.turned {
		inner := rate.Workspace()
		turned[k] = NewTotal([]float64{0, plotSeconds}, 0, func(seconds float64) float64 {
			inner.Time, inner.Frame = seconds, 24*seconds
			return rate.Run(inner, Stepping{})
		})
	}
	for i := range values {
		w.Time = float64(i) * step
		for k := range turned {
			w.Turned[k] = turned[k].At(w.Time)
		}
		w.Frame = 24 * w.Time
		values[i] = program.Run(w, Stepping{Step: step, Fresh: i == 0, Kept: kept})
	}
	return values
}

func words() []Word {
	return []Word{
		{Name: "time", Summary: "seconds since frame 0", Try: "time"},
		{Name: "frame", Summary: "the present frame", Try: "frame"},
		{Name: "below", Summary: "what stands under this driver: hand, clip, or the driver before it", Try: "below + 0.1"},
		{Name: "rest", Summary: "what the number is at rest", Try: "rest"},
		{Name: "side", Summary: "1 on the left, -1 on the right, 0 in the middle; mirrored copies mirror by themselves, so it is seldom wanted", Try: "side * 10"},
		{Name: "index", Summary: "which of the targets this is, from 0: within its repeat, or among all that have the formula", Try: "wave(time + index / 8)"},
		{Name: "count", Summary: "how many there are", Try: "index / count"},
		{Name: "share", Summary: "from 0 for the first to 1 for the last", Try: "share * 30"},
		{Name: "outer_index", Takes: []string{"level"}, Summary: "which one it is in a repeat around the innermost: 1 for the next, 2 for the one around that", Try: "wave(time + outer_index(1) / 8)"},
		{Name: "outer_count", Takes: []string{"level"}, Summary: "how many there are in that repeat", Try: "wave(time / outer_count(1))"},
		{Name: "moving", Summary: "0 at rest, where nothing moves by itself and skin is bound, else 1", Try: "moving"},
		{Name: "pi", Summary: "3.14159…", Try: "pi"},
		{Name: "wave", Takes: []string{"turns"}, Summary: "a swing: from 0 up to 1, down to -1 and back in one turn", Try: "wave(time)"},
		{Name: "turns", Takes: []string{"rate"}, Summary: "how far something has turned by a rate, in turns a second, since the clip's first frame: it goes on evenly however the rate changes", Try: "wave(turns(0.5 + time / 4))"},
		{Name: "noise", Takes: []string{"x", "seed"}, Summary: "an even wander between -1 and 1, the same whenever it is asked; a step of 1 in x is a change of mind", Try: "noise(3 * time)"},
		{Name: "ease", Takes: []string{"x", "from", "to"}, Summary: "0 up to from, 1 from to on, smooth between", Try: "ease(time, 1, 3)"},
		{Name: "within", Takes: []string{"x", "least", "most"}, Summary: "x, held between two numbers", Try: "within(2 * wave(time), -1, 1)"},
		{Name: "mix", Takes: []string{"a", "b", "share"}, Summary: "a at share 0, b at share 1, straight between", Try: "mix(-1, 1, ease(time, 0, 4))"},
		{Name: "around", Takes: []string{"x", "from", "to"}, Summary: "x, begun anew at from whenever it comes to to", Try: "around(time, 0, 1)"},
		{Name: "lag", Takes: []string{"x", "seconds"}, Summary: "x, come after softly: 63 % of the way after so many seconds", Try: "lag(wave(time) > 0 ? 1 : 0, 0.2)"},
		{Name: "sine", Takes: []string{"degrees"}, Summary: "the sine of an angle", Try: "sine(90 * time)"},
		{Name: "cosine", Takes: []string{"degrees"}, Summary: "the cosine of an angle", Try: "cosine(90 * time)"},
		{Name: "tangent", Takes: []string{"degrees"}, Summary: "the tangent of an angle", Try: "within(tangent(45 * time), -2, 2)"},
		{Name: "angle", Takes: []string{"y", "x"}, Summary: "the angle of a direction, in degrees", Try: "angle(wave(time), 1)"},
		{Name: "abs", Takes: []string{"x"}, Summary: "x without its sign", Try: "abs(wave(time))"},
		{Name: "sign", Takes: []string{"x"}, Summary: "-1, 0 or 1", Try: "sign(wave(time))"},
		{Name: "floor", Takes: []string{"x"}, Summary: "the whole number below", Try: "floor(time)"},
		{Name: "ceil", Takes: []string{"x"}, Summary: "the whole number above", Try: "ceil(time)"},
		{Name: "round", Takes: []string{"x"}, Summary: "the nearest whole number", Try: "round(time)"},
		{Name: "least", Takes: []string{"a", "b", "…"}, Summary: "the least of them", Try: "least(wave(time), 0.5)"},
		{Name: "most", Takes: []string{"a", "b", "…"}, Summary: "the greatest of them", Try: "most(wave(time), 0)"},
		{Name: "sqrt", Takes: []string{"x"}, Summary: "the square root", Try: "sqrt(time)"},
		{Name: "exp", Takes: []string{"x"}, Summary: "e to the x", Try: "exp(-time)"},
		{Name: "log", Takes: []string{"x"}, Summary: "the natural logarithm", Try: "log(1 + time)"},
	}
}
