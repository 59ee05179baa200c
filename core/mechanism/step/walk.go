package step

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/terrain"
)

// walk is the gait of one limb prepared for evaluation.
type walk struct {
	goal, target, fall         int
	home                       geometry.Transform // of the limb's target
	stride, duty, phase, speed float64
	tilt, lift, influence      mechanism.Number
	ground                     *terrain.Ground // nil for none: the foot keeps the height that it has at rest
	sole                       []mgl64.Vec3    // in the frame of the limb's target at home
	low                        float64         // how high over the target the sole is lowest at rest
	carried                    func(*mechanism.Frame) geometry.Transform
	treads                     mechanism.Scratch[tread]
	headless, opposed, missing int // findings
}

// still tells whether nothing walks in a frame.
func (w *walk) still(f *mechanism.Frame) bool {
	return f.Still || w.influence.At(f) == 0 || f.Journey == nil && w.speed == 0
}

// tread works out where the foot is in its step, as if the global control stood at rest.
func (w *walk) tread(f *mechanism.Frame) {
	f.Footfalls[w.fall] = mechanism.Footfall{}
	if w.still(f) {
		return
	}
	beat := w.covered(f, f.Time)/w.stride + w.phase
	count := math.Floor(beat)
	into := beat - count
	t := w.treads.In(f)
	t.seek(w, f, count, w.tilt.At(f))
	t.stands = into <= w.duty
	t.at = t.from.at
	rise := t.from.at.Position[1] - w.home.Position[1]
	if !t.stands {
		part := (into - w.duty) / (1 - w.duty)
		at, share := t.over(w, f, part)
		t.at = at
		rise += (t.to.at.Position[1] - t.from.at.Position[1]) * share
		arc := math.Sin(math.Pi * part)
		t.at.Position[1] += w.lift.At(f) * arc * arc // it leaves the ground, and comes to it, at rest
		t.at.Position[1] += math.Max(0, w.sunk(t.at))
	}
	f.Findings[w.headless] = t.from.headless || !t.stands && t.to.headless
	f.Findings[w.missing] = t.from.missing || !t.stands && t.to.missing
	f.Footfalls[w.fall] = mechanism.Footfall{Rise: rise * w.influence.At(f)}
}

// step moves the goal to where the foot is in its step.
func (w *walk) step(f *mechanism.Frame) {
	f.Carried[w.target] = geometry.Identity()
	if w.still(f) {
		return
	}
	share, t := w.influence.At(f), w.treads.In(f)
	carried := w.carried(f)
	stand, home := carried.Then(w.onTheSpot(f, t.at)), carried.Then(w.home)
	// The handle goes along, and what it and a foot have done to the goal stays on top.
	motion := stand.Then(home.Inverse())
	f.Findings[w.opposed] = share < 1 && geometry.Opposed(mgl64.QuatIdent(), motion.Rotation)
	along := partly(motion, home.Position, share)
	f.Carried[w.target] = along
	goal := &f.Goals[w.goal]
	goal.At, goal.Stands = along.Then(goal.At), t.stands && share == 1
}

// partly is a motion done in part: what stands at the place goes so much of its way, and turns so much of its turn.
func partly(motion geometry.Transform, place mgl64.Vec3, share float64) geometry.Transform {
	turn := geometry.Slerp(mgl64.QuatIdent(), motion.Rotation, share)
	to := place.Add(motion.Apply(place).Sub(place).Mul(share))
	return geometry.Transform{Position: to.Sub(turn.Rotate(place)), Rotation: turn}
}

// covered is how much ground lies behind the body at a time, that which it seems to cover on the spot included.
func (w *walk) covered(f *mechanism.Frame, seconds float64) float64 {
	covered := math.Abs(w.speed) * seconds
	if f.Journey != nil {
		covered += f.Journey.Travelled(seconds)
	}
	return covered
}

// when is the time at which so much ground lies behind the body.
func (w *walk) when(f *mechanism.Frame, covered float64) float64 {
	switch {
	case w.speed == 0:
		return f.Journey.When(covered)
	case f.Journey == nil:
		return covered / math.Abs(w.speed)
	}
	low, high := (covered-f.Journey.Travelled(math.Inf(1)))/math.Abs(w.speed), covered/math.Abs(w.speed)
	for range 60 { // what is covered rises with the time, so halving finds it
		if middle := (low + high) / 2; w.covered(f, middle) < covered {
			low = middle
		} else {
			high = middle
		}
	}
	return (low + high) / 2
}

// body is the body's motion at a time, as it would be if it did go what it goes on the spot.
func (w *walk) body(f *mechanism.Frame, seconds float64) geometry.Transform {
	at := geometry.Identity()
	if f.Journey != nil {
		at = f.Journey.Body(seconds)
	}
	return at.Then(geometry.Transform{Position: mgl64.Vec3{0, 0, w.speed * seconds}, Rotation: mgl64.QuatIdent()})
}

// onTheSpot takes back what the body only seems to have covered.
func (w *walk) onTheSpot(f *mechanism.Frame, at geometry.Transform) geometry.Transform {
	if w.speed == 0 {
		return at
	}
	real := geometry.Identity()
	if f.Journey != nil {
		real = f.Journey.Body(f.Time)
	}
	return real.Then(w.body(f, f.Time).Inverse()).Then(at)
}
