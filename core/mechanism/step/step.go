// Package step is the gait: a limb's foot is put down where the body will be over it, stays there to the bit while it stands, and goes over to
// the next place in an arc. Everything follows from the time and the way that the clip takes the body, so that it scrubs as it plays.
package step

import (
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/limb"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "step"

// Kind is the gait of a limb.
type Kind struct{}

// The shapes of the ground.
const (
	flat  = "flat"
	slope = "slope"
	steps = "steps"
)

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: Name, Title: "Step", Stand: mechanism.OnMechanism, Roles: []mechanism.Role{}, Hosts: []string{limb.Name},
		Sketch:  "M3 22h54M8 22q8-16 16 0M24 22q8-16 16 0M44 12l8 0m-3-3l3 3l-3 3",
		Summary: "Walks the limb where the clip takes the body: feet that stand do not slide. Repeats carry it to every leg; where each hangs, along the body and on which side, sets its beat.",
		Options: parameter.Declared{}, Parameters: append(beat(), append(terrain(), mechanism.Influence())...),
	}
}

func beat() parameter.Declared {
	return parameter.Declared{
		{
			Key: "stride", Title: "Stride", Type: parameter.Number, Unit: "m", Min: 1e-6, Max: 1e5, Default: parameter.OfNumber(0.4),
			Help: "How much ground the body covers from one step of the foot to its next.",
		},
		{
			Key: "lift", Title: "Lift", Type: parameter.Number, Unit: "m", Min: 0, Max: 1e5, Default: parameter.OfNumber(0.08), Dial: true,
			Help: "How high the foot goes between two places.",
		},
		{
			Key: "duty", Title: "Stands for", Type: parameter.Number, Min: 0.05, Max: 0.95, Default: parameter.OfNumber(0.65),
			Help: "The share of a step during which the foot stands.",
		},
		{
			Key: "wave", Title: "Wave", Type: parameter.Number, Unit: "m", Min: -1e5, Max: 1e5, Default: parameter.OfNumber(0),
			Help: "Over so much of the body's length the beat of the legs goes through one step, from the tail on; below 0 from the head. 0 for all at once.",
		},
		{
			Key: "sides", Title: "Right after left", Type: parameter.Number, Min: 0, Max: 1, Default: parameter.OfNumber(0.5),
			Help: "How far into the left leg's step the right one begins its own: 0.5 to alternate.",
		},
		{
			Key: "phase", Title: "Phase", Type: parameter.Number, Min: 0, Max: 1, Default: parameter.OfNumber(0),
			Help: "Where in its step the leg begins. Kept for one copy alone, it is that leg's own.",
		},
		{
			Key: "speed", Title: "On the spot", Type: parameter.Number, Unit: "m/s", Min: -100, Max: 100, Default: parameter.OfNumber(0),
			Help: "The legs walk as if the body went so fast as well, though it does not.",
		},
	}
}

func terrain() parameter.Declared {
	return parameter.Declared{
		{
			Key: "ground", Title: "Ground", Type: parameter.Choice, Choices: []string{flat, slope, steps}, Default: parameter.OfChoice(flat),
			Help: "The shape of the ground, along the way ahead of where the specimen stands at rest.",
		},
		{
			Key: "rise", Title: "Rise", Type: parameter.Number, Unit: "m", Min: -1e5, Max: 1e5, Default: parameter.OfNumber(0.2),
			Help: "How high a slope goes in all, or each of the steps.",
		},
		{
			Key: "run", Title: "Run", Type: parameter.Number, Unit: "m", Min: 1e-6, Max: 1e5, Default: parameter.OfNumber(1),
			Help: "How far a slope goes, or each of the steps.",
		},
		{
			Key: "begin", Title: "Begins", Type: parameter.Number, Unit: "m", Min: -1e5, Max: 1e5, Default: parameter.OfNumber(2),
			Help: "How far ahead the ground begins to rise.",
		},
	}
}

// Build implements mechanism.Kind: it needs no controls. What is a length suits the leg's own.
func (Kind) Build(site *mechanism.Site) error {
	reach := site.Document.LengthOf(site.Document.Mechanism(site.Mechanism.Host).Joints)
	for _, p := range append(beat(), terrain()...) {
		if p.Unit == "m" {
			site.Mechanism.Parameters[p.Key] = parameter.OfNumber(p.Default.Number * reach)
		}
	}
	return nil
}

// Prepare implements mechanism.Kind.
func (Kind) Prepare(b *mechanism.Bench) error {
	goal, ok := b.GoalOf(b.Mechanism.Host)
	if !ok { // the limb is off
		return nil
	}
	host := b.Document.Mechanism(b.Mechanism.Host)
	target, _ := b.Control(host.Controls[0])
	control := b.Document.Controls[target]
	number := b.Settings.Number
	w := &walk{
		goal: goal, target: target, home: control.Home(), stride: number("stride"), duty: number("duty"), speed: number("speed"),
		ground: land{kind: b.Settings.Choice("ground"), rise: number("rise"), run: number("run"), begin: number("begin")}, global: -1,
	}
	middle, level := mgl64.Vec3{}, mgl64.Vec3{}
	if root := b.Document.ControlNamed(rig.RootName); root != nil {
		middle = root.Position
	}
	w.phase = number("phase")
	if length := number("wave"); length != 0 {
		w.phase -= (w.home.Position[2] - middle[2]) / length
	}
	if onTheRight(b.Document, *host, middle) {
		w.phase += number("sides")
	}
	lift, reads := b.Number("lift")
	influence, more := b.InfluenceOf()
	w.lift, w.influence = lift, influence
	goalOf := mechanism.Resource{Kind: mechanism.GoalOf, Index: goal}
	reads = append(append(append([]mechanism.Resource{}, reads...), more...), goalOf, mechanism.Resource{Kind: mechanism.Clock}, mechanism.Resource{Kind: mechanism.Ahead})
	if global := b.Document.ControlNamed(rig.GlobalName); global != nil {
		w.global, _ = b.Control(global.ID)
		w.globalRest, level = global.Home().Inverse(), global.Position
		reads = append(reads, mechanism.Resource{Kind: mechanism.Control, Index: w.global})
	}
	w.ground.from = level[2]
	w.headless = b.Finding(fmt.Sprintf("The body is turned right over and has no heading; the foot of %s may be put down turned.", b.Document.NameOf(host.ID)))
	w.opposed = b.Finding(fmt.Sprintf("%s counts in part while the body is half turned round; the foot may go round the other way.", b.Mechanism.Name))
	b.AddWhole(mechanism.Task{Run: w.step, Reads: reads, Writes: []mechanism.Resource{goalOf}, Raises: []int{w.headless, w.opposed}, Carries: []int{w.target}})
	return nil
}

// onTheRight tells whether a limb is one of the right side: where its first joint hangs, as seen from the middle of the body, or, for one that hangs in
// the middle, where its last stands. Left is +X. A limb that hangs and stands in the middle counts as left.
func onTheRight(d *rig.Document, host rig.Mechanism, middle mgl64.Vec3) bool {
	first, last := d.Joint(host.Joints[0]).Position, d.Joint(host.Joints[len(host.Joints)-1]).Position
	slight := middling * last.Sub(first).Len()
	if aside := first[0] - middle[0]; math.Abs(aside) > slight {
		return aside < 0
	}
	return last[0]-middle[0] < -slight
}

// middling is how far from the middle a limb counts as standing in it, as a share of its length.
const middling = 1e-6

// land is the ground as a height over the level.
type land struct {
	kind             string
	rise, run, begin float64
	from             float64 // where the specimen stands at rest
}

// height is how high the ground is at a place.
func (l land) height(place mgl64.Vec3) float64 {
	along := (place[2] - l.from - l.begin) / l.run
	switch l.kind {
	case slope:
		return l.rise * math.Max(0, math.Min(1, along))
	case steps:
		return l.rise * math.Max(0, math.Ceil(math.Min(along, 1e6)))
	}
	return 0
}

// walk is the gait of one limb prepared for evaluation.
type walk struct {
	goal, target               int
	home                       geometry.Transform // of the limb's target
	stride, duty, phase, speed float64
	lift, influence            mechanism.Number
	ground                     land
	global                     int // control; -1 for none
	globalRest                 geometry.Transform
	headless, opposed          int // findings
}

// step moves the goal to where the foot is in its step.
func (w *walk) step(f *mechanism.Frame) {
	share := w.influence.At(f)
	f.Carried[w.target] = geometry.Identity()
	if f.Still || share == 0 || f.Journey == nil && w.speed == 0 {
		return
	}
	beat := w.covered(f, f.Time)/w.stride + w.phase
	count := math.Floor(beat)
	into := beat - count
	at := w.placed(f, count)
	if into > w.duty {
		part := (into - w.duty) / (1 - w.duty)
		next := w.placed(f, count+1)
		ease := geometry.Smoothstep(part)
		at.Position = at.Position.Add(next.Position.Sub(at.Position).Mul(ease))
		rise := math.Sin(math.Pi * part)
		at.Position[1] += w.lift.At(f) * rise * rise // it leaves the ground, and comes to it, at rest
		at.Rotation = geometry.Slerp(at.Rotation, next.Rotation, ease)
	}
	at = w.onTheSpot(f, at)
	stand, home := at, w.home
	if w.global >= 0 {
		carried := f.Controls[w.global].Then(w.globalRest)
		stand, home = carried.Then(stand), carried.Then(home)
	}
	// The handle goes along, and what it and a foot have done to the goal stays on top.
	motion := stand.Then(home.Inverse())
	f.Findings[w.opposed] = share < 1 && geometry.Opposed(mgl64.QuatIdent(), motion.Rotation)
	along := partly(motion, home.Position, share)
	f.Carried[w.target] = along
	goal := &f.Goals[w.goal]
	goal.At, goal.Stands = along.Then(goal.At), into <= w.duty && share == 1
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

// placed is where the foot stands in the step that is counted: where the body carries it in the middle of that, upright, on the ground.
// It depends on the count alone, and so does not change while the foot stands.
func (w *walk) placed(f *mechanism.Frame, count float64) geometry.Transform {
	at := w.body(f, w.when(f, (count-w.phase+w.duty/2)*w.stride))
	place := at.Apply(w.home.Position)
	place[1] = w.home.Position[1] + w.ground.height(place) - w.ground.height(w.home.Position)
	if mechanism.Headless(at.Rotation) {
		f.Findings[w.headless] = true
	}
	turn := mgl64.QuatRotate(mechanism.Heading(at.Rotation), geometry.Up)
	return geometry.Transform{Position: place, Rotation: turn.Mul(w.home.Rotation).Normalize()}
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
