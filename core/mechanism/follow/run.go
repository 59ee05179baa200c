package follow

import (
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// follower is what follows, prepared for evaluation.
type follower struct {
	sources            []source
	place, turn, girth mechanism.Number
	number             mechanism.Number
	byNumber           bool
	influence          mechanism.Number // of a control's home; of a joint the bench sees to it
	moves, turns       [3]bool
	girths             [3]bool
	frame              string
	parent             mechanism.Resource
	hung               bool
	global             int // control, -1 for none
	globalRest         mgl64.Quat
	opposed, over      int // findings
}

// source is one thing that is followed: where the follower stands as it sees it at rest.
type source struct {
	at     mechanism.Resource
	local  geometry.Transform
	weight mechanism.Number
}

// Prepare implements mechanism.Kind.
func (Kind) Prepare(b *mechanism.Bench) error {
	followers := b.Role("follower")
	what := followers[0]
	f := &follower{
		byNumber: b.Settings.Choice("sources") == byNumber, frame: b.Settings.Choice("axes"), global: -1,
		moves: toggles(b, moves), turns: toggles(b, turns), girths: toggles(b, girths),
	}
	var reads []mechanism.Resource
	number := func(key string) mechanism.Number {
		value, more := b.Number(key)
		reads = append(reads, more...)
		return value
	}
	f.place, f.turn, f.girth, f.number = number("place"), number("turn"), number("girth"), number("source")
	for i, at := range b.Role("sources") {
		f.sources = append(f.sources, source{at: at, local: b.RestOf(at).Inverse().Then(b.RestOf(what)), weight: number(weightKey(i))})
		reads = append(reads, at)
	}
	if global := b.Document.ControlNamed(rig.GlobalName); global != nil && f.frame == inWorld {
		f.global, _ = b.Control(global.ID)
		f.globalRest = global.Home().Rotation.Conjugate()
		reads = append(reads, mechanism.Resource{Kind: mechanism.Control, Index: f.global})
	}
	name := b.Mechanism.Name
	f.opposed = b.Finding(fmt.Sprintf("What %s follows stands half a turn from where it hangs, or from another source; between them it may change the way it turns.", name))
	f.over = b.Finding(fmt.Sprintf("What %s follows is turned right over across the axes that it takes; there it may turn round at once.", name))
	if what.Kind == mechanism.Control {
		f.carryHome(b, what.Index, reads)
	} else {
		f.placeJoint(b, what.Index, reads)
	}
	return nil
}

func toggles(b *mechanism.Bench, key string) (on [3]bool) {
	for i, axis := range axes {
		on[i] = b.Settings.On(key + axis)
	}
	return on
}

// carryHome has the home of a control go along.
func (w *follower) carryHome(b *mechanism.Bench, control int, reads []mechanism.Resource) {
	if carrier, _, hung := b.Space(b.Document.Controls[control].Space); hung && w.frame == inParent {
		w.parent, w.hung = carrier, true
		reads = append(reads, carrier)
	}
	influence, more := b.InfluenceOf()
	w.influence = influence
	b.CarryHome(control, mechanism.HomeWriter{
		Reads: append(reads, more...), Raises: []int{w.opposed, w.over},
		Place: func(f *mechanism.Frame, home geometry.Transform) geometry.Transform {
			to := w.to(f, home)
			share := w.influence.At(f)
			if share > 0 && share < 1 && geometry.Opposed(home.Rotation, to.Rotation) {
				f.Findings[w.opposed] = true
			}
			return geometry.Mix(home, to, share)
		},
	})
}

// placeJoint has a joint go along, from where it stands without.
func (w *follower) placeJoint(b *mechanism.Bench, joint int, reads []mechanism.Resource) {
	if carrier, _, hung := b.CarrierOf(joint); hung && w.frame == inParent {
		w.parent, w.hung = carrier, true
		reads = append(reads, carrier)
	}
	below, more := b.Below(joint)
	b.Add(mechanism.Task{
		Reads: append(reads, more...), Raises: []int{w.opposed, w.over}, Writes: []mechanism.Resource{{Kind: mechanism.Joint, Index: joint}},
		Run: func(f *mechanism.Frame) {
			at, girth := below.In(f)
			f.Joints[joint], f.Scales[joint] = w.to(f, at), w.girthAt(f, girth)
		},
	})
}

// weightOf is how much a source counts in a frame.
func (w *follower) weightOf(f *mechanism.Frame, i int) float64 {
	weight := w.sources[i].weight.At(f)
	if w.byNumber {
		number := math.Min(float64(len(w.sources)-1), w.number.At(f))
		weight *= math.Max(0, 1-math.Abs(number-float64(i)))
	}
	return weight
}

// led is where the sources would have the follower, mixed by their weights, and how much all of them count together.
func (w *follower) led(f *mechanism.Frame) (to geometry.Transform, together float64) {
	for i := range w.sources {
		weight := w.weightOf(f, i)
		if weight == 0 {
			continue
		}
		stands := f.At(w.sources[i].at).Then(w.sources[i].local)
		together += weight
		if together == weight {
			to = stands
			continue
		}
		if geometry.Opposed(to.Rotation, stands.Rotation) {
			f.Findings[w.opposed] = true
		}
		to = geometry.Mix(to, stands, weight/together)
	}
	return to, math.Min(1, together)
}

// to is where the follower goes from where it hangs.
func (w *follower) to(f *mechanism.Frame, at geometry.Transform) geometry.Transform {
	led, together := w.led(f)
	if together == 0 {
		return at
	}
	axes := w.axesIn(f, at)
	place, turn := together*w.place.At(f), together*w.turn.At(f)
	to := at
	to.Position = at.Position.Add(along(led.Position.Sub(at.Position), axes, w.moves).Mul(place))
	if turn == 0 {
		return to
	}
	by := w.about(f, led.Rotation.Mul(at.Rotation.Conjugate()), axes)
	if turn < 1 && math.Abs(by.W) < 1e-4 {
		f.Findings[w.opposed] = true
	}
	to.Rotation = geometry.Slerp(mgl64.QuatIdent(), by, turn).Mul(at.Rotation).Normalize()
	to.Turned = at.Turned + turn*(led.Turned-at.Turned)
	return to
}

// axesIn is the rotation to the axes that are meant.
func (w *follower) axesIn(f *mechanism.Frame, at geometry.Transform) mgl64.Quat {
	switch {
	case w.frame == inOwn:
		return at.Rotation
	case w.hung:
		return f.At(w.parent).Rotation
	case w.global >= 0:
		return f.Controls[w.global].Rotation.Mul(w.globalRest)
	}
	return mgl64.QuatIdent()
}

// along leaves of a way what goes along the axes that are taken.
func along(way mgl64.Vec3, axes mgl64.Quat, taken [3]bool) mgl64.Vec3 {
	if taken == [3]bool{true, true, true} {
		return way
	}
	seen := axes.Conjugate().Rotate(way)
	for i := range seen {
		if !taken[i] {
			seen[i] = 0
		}
	}
	return axes.Rotate(seen)
}

// about leaves of a turn what goes about the axes that are taken: about one its twist, about two what is left without the twist about the third.
//
// Method: swing and twist, the projection of the rotation on an axis.
func (w *follower) about(f *mechanism.Frame, turn, axes mgl64.Quat) mgl64.Quat {
	taken := 0
	for _, on := range w.turns {
		if on {
			taken++
		}
	}
	if taken == 3 {
		return turn
	}
	if taken == 0 {
		return mgl64.QuatIdent()
	}
	seen := axes.Conjugate().Mul(turn).Mul(axes)
	single := 0
	for i, on := range w.turns {
		if on == (taken == 1) {
			single = i
		}
	}
	twist := mgl64.Quat{W: seen.W}
	twist.V[single] = seen.V[single]
	size := math.Hypot(twist.W, twist.V[single])
	if size < rightOver {
		f.Findings[w.over] = true
	}
	if size < 1e-12 {
		twist, size = mgl64.QuatIdent(), 1
	}
	twist = twist.Scale(1 / size)
	if taken == 2 {
		twist = seen.Mul(twist.Conjugate())
	}
	return axes.Mul(twist).Mul(axes.Conjugate()).Normalize()
}

// rightOver is the cosine of half the angle across an axis from which a turn no longer says how far it goes about that.
const rightOver = 0.02

// girthAt is the own scale that a joint takes.
func (w *follower) girthAt(f *mechanism.Frame, own mgl64.Vec3) mgl64.Vec3 {
	share := w.girth.At(f)
	if share == 0 {
		return own
	}
	together, led := 0.0, mgl64.Vec3{}
	for i := range w.sources {
		if weight := w.weightOf(f, i); weight > 0 {
			together += weight
			led = led.Add(girthOf(f, w.sources[i].at).Mul(weight))
		}
	}
	if together == 0 {
		return own
	}
	share *= math.Min(1, together)
	for i := range own {
		if w.girths[i] {
			own[i] += share * (led[i]/together - own[i])
		}
	}
	return own
}

func girthOf(f *mechanism.Frame, at mechanism.Resource) mgl64.Vec3 {
	if at.Kind == mechanism.Joint {
		return f.Scales[at.Index]
	}
	return mgl64.Vec3{1, 1, 1}
}
