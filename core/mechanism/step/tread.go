package step

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
)

// foothold is where a foot stands in one step.
type foothold struct {
	at       geometry.Transform
	headless bool // the body is turned over and says not which way
	missing  bool // there is no ground
}

// tread is where a foot is in a frame, and the footholds that it is between, which are kept while it is: they hang on the step that is counted alone.
type tread struct {
	at     geometry.Transform
	stands bool

	journey         *mechanism.Journey
	count, tilt     float64
	from, to        foothold
	found, prepared bool
	clear           float64 // how far over the straight way to the next foothold it has to be to meet nothing
}

// seek finds the foothold of a step.
func (t *tread) seek(w *walk, f *mechanism.Frame, count, tilt float64) {
	if t.found && t.journey == f.Journey && t.count == count && t.tilt == tilt {
		return
	}
	t.journey, t.count, t.tilt = f.Journey, count, tilt
	t.from = w.placed(f, count, tilt)
	t.found, t.prepared = true, false
}

// upright is the share of its way over, at each end, in which a foot goes straight up or down where there is ground to be cleared.
const upright = 0.15

// over is where the foot is in a part of its way over to the next foothold, without its arc: straight up as far as it has to be clear, across, and straight down.
func (t *tread) over(w *walk, f *mechanism.Frame, part float64) (at geometry.Transform, share float64) {
	if !t.prepared {
		t.to = w.placed(f, t.count+1, t.tilt)
		t.clear = w.clearance(t.from.at, t.to.at)
		t.prepared = true
	}
	if w.ground == nil {
		share = geometry.Smoothstep(part)
		return between(t.from.at, t.to.at, share), share
	}
	share = geometry.Smoothstep((part - upright) / (1 - 2*upright))
	at = between(t.from.at, t.to.at, share)
	at.Position[1] += t.clear * geometry.Smoothstep(math.Min(part, 1-part)/upright)
	return at, share
}

// between is the straight way between two places, turned as far.
func between(from, to geometry.Transform, share float64) geometry.Transform {
	return geometry.Transform{
		Position: from.Position.Add(to.Position.Sub(from.Position).Mul(share)), Rotation: geometry.Slerp(from.Rotation, to.Rotation, share),
	}
}

// placed is where the foot stands in the step that is counted: where the body carries it in the middle of that, on the ground, with its sole along it as
// much as tilt says. It depends on the count and the tilt alone, and so does not change while the foot stands.
func (w *walk) placed(f *mechanism.Frame, count, tilt float64) foothold {
	body := w.body(f, w.when(f, (count-w.phase+w.duty/2)*w.stride))
	place := body.Apply(w.home.Position)
	place[1] = w.home.Position[1]
	turn := mgl64.QuatRotate(mechanism.Heading(body.Rotation), geometry.Up)
	hold := foothold{at: geometry.Transform{Position: place, Rotation: turn.Mul(w.home.Rotation).Normalize()}, headless: mechanism.Headless(body.Rotation)}
	if w.ground == nil {
		return hold
	}
	var normal mgl64.Vec3
	for _, p := range w.sole {
		p = hold.at.Apply(p)
		normal = normal.Add(w.ground.Normal(p))
		hold.missing = hold.missing || !w.ground.There(p)
	}
	lean := geometry.Slerp(mgl64.QuatIdent(), geometry.Shortest(geometry.Up, geometry.Unit(normal, geometry.Up), mgl64.Vec3{1, 0, 0}), tilt)
	pivot := place.Add(mgl64.Vec3{0, w.low, 0})
	hold.at = geometry.Transform{Position: pivot.Sub(lean.Rotate(pivot)), Rotation: lean}.Then(hold.at)
	hold.at.Rotation = hold.at.Rotation.Normalize()
	hold.at.Position[1] += w.sunk(hold.at)
	return hold
}

// sunk is how far some of the sole lies under the ground; below 0 where all of it is over it.
func (w *walk) sunk(at geometry.Transform) float64 {
	if w.ground == nil {
		return 0
	}
	most := math.Inf(-1)
	for _, p := range w.sole {
		p = at.Apply(p)
		most = math.Max(most, w.ground.Height(p)-p[1])
	}
	return most
}

// looks is in how many pieces the way over to the next foothold is looked at.
const looks = 32

// clearance is how far over the straight way from one foothold to the next a foot has to be, so that no part of its sole meets the ground. What lies between two
// looks counts as high as it is highest there.
func (w *walk) clearance(from, to geometry.Transform) (most float64) {
	if w.ground == nil {
		return 0
	}
	before := between(from, to, 0)
	for k := 1; k <= looks; k++ {
		now := between(from, to, float64(k)/looks)
		most = math.Max(most, w.needed(before, now)-math.Min(before.Position[1], now.Position[1]))
		before = now
	}
	return most
}

// needed is how high a foot has to be while it goes from one place to another, of which the heights count for nothing.
func (w *walk) needed(from, to geometry.Transform) float64 {
	most := math.Inf(-1)
	for _, p := range w.sole {
		a, b := from.Rotation.Rotate(p), to.Rotation.Rotate(p)
		most = math.Max(most, w.ground.Highest(a.Add(from.Position), b.Add(to.Position))-math.Min(a[1], b[1]))
	}
	return most
}
