package formula

import "math"

// Stepping is how a program goes on that remembers: how long the step is in seconds, and whether it is the first. Kept is its memory.
type Stepping struct {
	Step  float64
	Fresh bool
	Still bool // at rest: what comes after something has come to it
	Kept  []float64
}

// Workspace is where a program runs: what it reads is laid there before. One serves one run at a time.
type Workspace struct {
	Variables
	Values []float64 // by the number that they have in the stored formula, as many as Refs says
	Turned []float64 // what has come together by the rates that Turned lists
	places []float64
}

// Run works a program out in a workspace of its own making. Nothing is allocated. What is divided by zero, say, gives what is not finite.
func (p *Program) Run(w *Workspace, s Stepping) float64 {
	r := w.places
	if p.uses != 0 {
		p.lay(&w.Variables, r)
	}
	for k := range p.code {
		i := &p.code[k]
		a, b := r[i.a], r[i.b]
		switch i.op {
		case opAdd:
			r[i.into] = a + b
		case opSubtract:
			r[i.into] = a - b
		case opMultiply:
			r[i.into] = a * b
		case opDivide:
			r[i.into] = a / b
		case opLag:
			r[i.into] = s.lag(s.Kept[i.memory:i.memory+2], a, b)
		default:
			r[i.into] = one(i.op, a, b, r[i.c])
		}
	}
	return r[p.out]
}

// lay lays the variables in their places.
func (p *Program) lay(v *Variables, r []float64) {
	r[0], r[1], r[2], r[3], r[4], r[5], r[6], r[7], r[8] = v.Time, v.Frame, v.Below, v.Rest, v.Side, v.Index, v.Count, v.Share, v.Moving
	if p.uses&outerUsed != 0 {
		for k, around := range v.Around {
			copy(r[outerAt+2*k:], around[:])
		}
	}
}

func truth(is bool) float64 {
	if is {
		return 1
	}
	return 0
}

// one is an operation on single numbers, where it remembers nothing.
func one(o op, a, b, c float64) float64 {
	switch o {
	case opNegate:
		return -a
	case opLess:
		return truth(a < b)
	case opAtMost:
		return truth(a <= b)
	case opEqual:
		return truth(a == b)
	case opNot:
		return 1 - a
	case opAnd:
		return a * b
	case opOr:
		return max(a, b)
	case opChoose:
		if a != 0 {
			return b
		}
		return c
	case opPower:
		return math.Pow(a, b)
	case opRemainder:
		return math.Mod(a, b)
	case opAbs:
		return math.Abs(a)
	case opSign:
		return truth(a > 0) - truth(a < 0)
	case opFloor:
		return math.Floor(a)
	case opCeil:
		return math.Ceil(a)
	case opRound:
		return math.Round(a)
	case opRoot:
		return math.Sqrt(a)
	case opExp:
		return math.Exp(a)
	case opLog:
		return math.Log(a)
	case opLeast:
		return math.Min(a, b)
	case opMost:
		return math.Max(a, b)
	case opSine:
		return math.Sin(a * math.Pi / 180)
	case opCosine:
		return math.Cos(a * math.Pi / 180)
	case opTangent:
		return math.Tan(a * math.Pi / 180)
	case opAngle:
		return math.Atan2(a, b) * 180 / math.Pi
	case opWave: // the whole turns first, which are many after long
		return math.Sin(2 * math.Pi * (a - math.Floor(a)))
	case opEase:
		u := math.Min(1, math.Max(0, (a-b)/(c-b)))
		return u * u * u * (u*(6*u-15) + 10)
	case opWithin:
		return math.Min(c, math.Max(b, a))
	case opMix:
		return a + (b-a)*c
	case opAround:
		return b + (a - b) - (c-b)*math.Floor((a-b)/(c-b))
	case opNoise:
		return noise(a, b)
	}
	return math.NaN()
}

// lag comes after x: of a step it has gone 63 % after its seconds. Kept is what it shows and what x was.
func (s Stepping) lag(kept []float64, x, seconds float64) float64 {
	switch {
	case s.Still:
		return x
	case s.Step > 0 && s.Fresh:
		kept[0] = x
	case s.Step > 0 && seconds > 0:
		kept[0] = Follow(kept[0], kept[1], x, s.Step/seconds)
	case s.Step > 0:
		kept[0] = x
	}
	if s.Step > 0 {
		kept[1] = x
	}
	return kept[0]
}

// Follow goes on from y for a step, in lengths of a lag, over which the input goes evenly from one number to another.
//
// Method: the first-order system y' = (u - y)/T, stepped by its exact solution for an input u that is linear within the step (Franklin, Powell,
// Workman 1998, Digital Control of Dynamic Systems, the triangle-hold equivalent).
func Follow(y, from, to, step float64) float64 {
	if math.IsInf(step, 1) || math.IsNaN(step) { // there is no lag
		return to
	}
	gone := -math.Expm1(-step)
	mean := 1 - step/2 + step*step/6 // of what is gone while the input goes on; its series where it is small
	if step > 1e-3 {
		mean = gone / step
	} else {
		mean -= step * step * step / 24
	}
	return y + gone*(from-y) + (to-from)*(1-mean)
}
