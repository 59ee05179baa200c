package bars

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/linkage"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// layHold has the handle be dragged at a place on a bar, where that is wanted.
func (x *linked) layHold(b *mechanism.Bench, control int) {
	id := holdOf(&b.Mechanism)
	if id == "" {
		return
	}
	body, ok := x.bodyOf(id)
	if !ok {
		body = linkage.Ground
	}
	joint := b.Document.Joint(id)
	x.holdOn, x.holdAt, x.holdAside = body, x.flatten(joint.Position), x.plane.Inverse().Apply(joint.Position)[1]
	slot, _, _ := b.ChannelOf(control, rig.RotateY)
	b.Pull(mechanism.Puller{Control: control, Slot: slot, Reach: x.reach})
}

// starts is how many places of its travel a handle is tried at, when it is dragged.
const starts = 96

// reach is how far the handle is turned where the place at which it is held comes nearest to where it is dragged: of all places of the travel the nearest, and of those as near as
// that the one nearest to where it is.
//
// Method: the best of a table, narrowed down by the golden section (Kiefer 1953), which needs no slopes, so that it holds at ends and folds.
func (x *linked) reach(f *mechanism.Frame, to mgl64.Vec3) float64 {
	h, s := &x.handles[0], x.state.In(f)
	at := x.planeIn(f).Inverse().Apply(to)
	target := mgl64.Vec2{at[2], at[0]}
	now := x.turned(f, h)
	low, high, endless := x.plan.HandleTravel(0)
	a, b := low, high
	if endless { // any turn is as good: those around the present one
		a, b = now-math.Pi, now+math.Pi
		low, high = math.Inf(-1), math.Inf(1)
	}
	away := func(handle float64) float64 {
		s.drives[0], _ = x.plan.Eased(0, handle)
		x.plan.Bring(s.State, s.drives...)
		return s.Poses[x.holdOn].Apply(x.holdAt).Sub(target).Len()
	}
	best, least := now, away(now)
	step := (b - a) / starts
	for range 2 { // all of the travel, and around the best of that
		for k := range starts + 1 {
			handle := a + (b-a)*float64(k)/starts
			if now := away(handle); now < least {
				best, least = handle, now
			}
		}
		a, b = math.Max(low, best-step), math.Min(high, best+step)
		step *= 2.0 / starts
	}
	golden := (math.Sqrt(5) - 1) / 2
	for range 70 {
		c, d := b-golden*(b-a), a+golden*(b-a)
		if away(c) < away(d) {
			b = d
		} else {
			a = c
		}
	}
	if middle := (a + b) / 2; away(middle) < least {
		return middle
	}
	return best
}
