package wheel

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/axle"
)

// upright is how far an axle may lean out of the level, as the sine of that, for it to be told which way the wheel goes.
const upright = 0.995

// hubbed is a hub in a frame, as the ground has it: as if the global control stood at rest.
type hubbed struct {
	place, way mgl64.Vec3 // where it is, and which way it goes along the ground
	ahead      mgl64.Vec3 // the level way that it goes
	lift       float64    // how far its suspension takes it up
	end, lies  bool
}

// at works out where the hub is.
func (w *wheel) at(f *mechanism.Frame, joint geometry.Transform) (h hubbed) {
	over := w.carried(f).Inverse().Then(joint)
	turned := over.Rotation.Rotate(w.axle)
	h.place, h.ahead, h.lies = over.Apply(w.origin), axle.Ahead(turned), math.Abs(turned[1]) > upright
	h.way = h.ahead
	if w.hub.Ground == nil || f.Still {
		return h
	}
	lift, slope, end := w.hub.Lift(h.place, h.way, w.travel)
	h.way = h.way.Add(geometry.Up.Mul(slope))
	h.way = geometry.Unit(h.way.Sub(turned.Mul(turned.Dot(h.way))), h.way) // in the wheel's own plane
	h.lift, h.end = lift, end
	h.place[1] += h.lift
	return h
}

// over is where the hub is over the ground, and which way it goes.
func (w *wheel) over(f *mechanism.Frame) (place, ahead mgl64.Vec3) {
	joint, _ := w.below.In(f)
	h := w.at(f, joint)
	return h.place, h.way
}

// run takes the wheel along on its suspension, and turns it by how far its hub has rolled: as the clip has it, and from there to where it is now, over the radius.
func (w *wheel) run(f *mechanism.Frame) {
	joint, girth := w.below.In(f)
	h := w.at(f, joint)
	share := w.influence.At(f)
	f.Findings[w.end], f.Findings[w.lies] = h.end && share > 0, h.lies && share > 0
	way := 0.0
	if !f.Still {
		if rolled := f.Rolls[w.roll]; rolled != nil {
			way = rolled.Way(f.Time) + w.onward(rolled.Place(f.Time), h)
			slip, _ := rolled.Aside(f.Time)
			f.Findings[w.slides], f.Amounts[w.slides] = share > 0 && math.Abs(slip) > slides*w.hub.Radius, math.Abs(slip)
		} else {
			way = w.onward(w.hub.Rest, h)
		}
	}
	angle := share * (way/w.hub.Radius + w.turned(f) + w.forwards()*w.slips.At(f)*math.Pi/180)
	f.Turnings[w.turns] = angle
	up := w.carried(f).Rotation.Rotate(geometry.Up)
	joint.Position = joint.Position.Add(up.Mul(share * h.lift))
	turn := mgl64.QuatRotate(angle, w.axle)
	joint = joint.Then(geometry.Transform{Position: w.origin.Sub(turn.Rotate(w.origin)), Rotation: turn})
	joint.Rotation = joint.Rotation.Normalize()
	f.Joints[w.joint], f.Scales[w.joint] = joint, girth
}

// slides is how many radii a second a wheel slips sideways for that to be told.
const slides = 0.25

// pieces is in how many pieces the way that a hand takes a wheel is summed up.
const pieces = 16

// onward is how far a wheel rolls where a hand takes its hub straight from one place to where it is: as long as the ground is there, dilated, of which what goes ahead counts. It goes on
// evenly wherever the hub does, at corners of the ground as well.
func (w *wheel) onward(from mgl64.Vec3, h hubbed) float64 {
	way := h.place.Sub(from)
	way[1] = 0
	apart := way.Len()
	if apart == 0 || w.hub.Ground == nil {
		return way.Dot(h.ahead)
	}
	long, before := 0.0, w.hub.Level(from, h.ahead)
	for k := 1; k <= pieces; k++ {
		now := w.hub.Level(from.Add(way.Mul(float64(k)/pieces)), h.ahead)
		long += math.Hypot(apart/pieces, now-before)
		before = now
	}
	return long * way.Dot(h.ahead) / apart
}

// forwards is 1 where a turn about the axle rolls the wheel ahead of the specimen, and -1 where it rolls it back.
func (w *wheel) forwards() float64 { return math.Copysign(1, w.hub.Ahead.Dot(geometry.Forward)) }

// turned is how far the handle is turned against what it hangs on.
func (w *wheel) turned(f *mechanism.Frame) float64 {
	moved := geometry.Identity()
	if w.hung {
		moved = f.At(w.space).Then(w.spaceRest.Inverse())
	}
	return moved.Inverse().Then(f.Controls[w.handle]).Turned - w.home.Turned
}
