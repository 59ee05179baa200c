package track

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
)

// upright is how far an axle may lean out of the level, as the sine of that, for it to be told which way the track goes.
const upright = 0.995

// scrubs is how many times half the length of its lower run a track scrubs sideways a second for that to be told.
const scrubs = 0.02

// on is the plane of the track in a frame.
func (t *track) on(f *mechanism.Frame) geometry.Transform {
	at, _ := t.first.In(f)
	return at.Then(t.back).Then(t.plane.frame)
}

// over is where the lower run is over the ground, as if the global control stood at rest, and which way it goes.
func (t *track) over(f *mechanism.Frame) (place, ahead mgl64.Vec3) {
	plane := t.carried(f).Inverse().Then(t.on(f))
	return plane.Apply(mgl64.Vec3{t.middle[0], t.middle[1], 0}), plane.Rotation.Rotate(mgl64.Vec3{1, 0, 0})
}

// gone is how far the track has travelled: as the clip has its lower run go over the ground, from there to where it is now, and as it is driven besides.
func (t *track) gone(f *mechanism.Frame) float64 {
	way := t.way.At(f) + t.turned(f)/t.gears[0].rate
	if f.Still {
		return way
	}
	place, ahead := t.over(f)
	rest := t.plane.frame.Apply(mgl64.Vec3{t.middle[0], t.middle[1], 0})
	if rolled := f.Rolls[t.roll]; rolled != nil {
		return way + t.follows.At(f)*(rolled.Way(f.Time)+place.Sub(rolled.Place(f.Time)).Dot(ahead))
	}
	return way + t.follows.At(f)*place.Sub(rest).Dot(ahead)
}

// turned is how far the handle is turned against what it hangs on.
func (t *track) turned(f *mechanism.Frame) float64 {
	moved := geometry.Identity()
	if t.hung {
		moved = f.At(t.space).Then(t.spaceRest.Inverse())
	}
	return moved.Inverse().Then(f.Controls[t.handle]).Turned - t.home.Turned
}

// run takes the wheels along on their suspensions, turns them, and lays the links round them.
func (t *track) run(f *mechanism.Frame) {
	share := t.influence.At(f)
	plane := t.on(f)
	l := t.laid.In(f)
	f.Findings[t.end] = t.lift(f, plane, l, share)
	_, ahead := t.over(f)
	f.Findings[t.lies] = share > 0 && math.Abs(ahead[1]) > upright
	way := share * t.gone(f)
	if rolled := f.Rolls[t.roll]; rolled != nil && !f.Still {
		slip, turning := rolled.Aside(f.Time)
		scrub := math.Abs(slip) + math.Abs(turning)*t.half
		f.Findings[t.scrubs], f.Amounts[t.scrubs] = share*t.follows.At(f) > 0 && scrub > scrubs*t.half, scrub
	}
	back := plane.Inverse()
	for i := range t.gears {
		g := &t.gears[i]
		at, girth := g.below.In(f)
		at.Position = at.Position.Add(plane.Rotation.Rotate(mgl64.Vec3{0, l.lifts[i], 0}))
		angle := way * g.rate
		turn := mgl64.QuatRotate(math.Remainder(angle, 2*math.Pi), g.rest.Rotation.Conjugate().Rotate(t.axle))
		f.Turnings[g.turns] = angle
		f.Joints[g.joint], f.Scales[g.joint] = geometry.Transform{Position: at.Position, Rotation: at.Rotation.Mul(turn).Normalize()}, girth
	}
	for k := range l.wheels {
		l.wheels[k].At = flat(back.Apply(f.Joints[t.gears[t.plane.order[k]].joint].Position))
	}
	t.surround(f, plane, l)
	t.links(f, plane, l, way)
}

// lift works out how far each road wheel is taken up. It tells whether one is at the end of its suspension.
func (t *track) lift(f *mechanism.Frame, plane geometry.Transform, l *laying, share float64) (end bool) {
	over := t.carried(f).Inverse()
	up := math.Max(0.5, over.Rotation.Rotate(plane.Rotation.Rotate(geometry.Up))[1])
	ahead := over.Rotation.Rotate(plane.Rotation.Rotate(mgl64.Vec3{1, 0, 0}))
	ahead = geometry.Unit(mgl64.Vec3{ahead[0], 0, ahead[2]}, geometry.Forward)
	for i := range t.gears {
		g := &t.gears[i]
		l.lifts[i] = 0
		if g.road == nil || g.road.Ground == nil || t.travel == 0 || f.Still {
			continue
		}
		at, _ := g.below.In(f)
		lift, _, stuck := g.road.Lift(over.Apply(at.Position), ahead, t.travel)
		l.lifts[i] = share * math.Max(-t.travel, math.Min(t.travel, lift/up))
		end = end || stuck && share > 0
	}
	return end
}

// links lays the links, each where it has come to.
func (t *track) links(f *mechanism.Frame, plane geometry.Transform, l *laying, way float64) {
	b := t.plane.belt
	gone := t.phase - way/b.Pitch
	whole := math.Floor(gone)
	n := len(l.laid.Pins)
	first := int(whole - float64(n)*math.Floor(whole/float64(n))) // the pin that link 0 begins at
	ok := l.laid.Lay(b, l.round, gone-whole)
	f.Findings[t.broken], f.Findings[t.tight], f.Findings[t.loose] = !ok, ok && l.laid.Tight(b), ok && l.laid.Loose(b)
	pins := l.laid.Pins
	if !ok {
		pins, first = t.atRest, 0
	}
	if t.set < 0 {
		return
	}
	for k := range f.Instances[t.set] {
		from := (k + first) % n
		place := plane.Then(between(pins[from], pins[(from+1)%n], t.aside)).Then(t.link)
		place.Rotation = place.Rotation.Normalize()
		f.Instances[t.set][k].Place = place
	}
}
