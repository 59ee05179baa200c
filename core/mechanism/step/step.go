// Package step is the gait: a limb's foot is put down where the body will be over it, stays there to the bit while it stands, and goes over to
// the next place in an arc, clear of the ground with its whole sole. Everything follows from the time and the way that the clip takes the body, so that it scrubs as it plays.
package step

import (
	"fmt"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/mechanism"
	"myriapod/core/mechanism/ground"
	"myriapod/core/mechanism/limb"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "step"

// Kind is the gait of a limb.
type Kind struct{}

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: Name, Title: "Step", Stand: mechanism.OnMechanism, Roles: []mechanism.Role{}, Hosts: []string{limb.Name},
		Sketch:  "M3 22h54M8 22q8-16 16 0M24 22q8-16 16 0M44 12l8 0m-3-3l3 3l-3 3",
		Summary: "Walks the limb where the clip takes the body: feet that stand do not slide. Repeats carry it to every leg; where each hangs, along the body and on which side, sets its beat.",
		Options: parameter.Declared{}, Patterns: titles(), Parameters: append(beat(), mechanism.Influence()),
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
			Key: "tilt", Title: "Tilts with the ground", Type: parameter.Number, Min: 0, Max: 1, Default: parameter.OfNumber(1), Dial: true,
			Help: "How much the sole lies along the ground where it stands.",
		},
		{
			Key: "speed", Title: "On the spot", Type: parameter.Number, Unit: "m/s", Min: -100, Max: 100, Default: parameter.OfNumber(0),
			Help: "The legs walk as if the body went so fast as well, though it does not.",
		},
	}
}

// Build implements mechanism.Kind: it needs no controls. What is a length suits the leg's own.
func (Kind) Build(site *mechanism.Site) error {
	reach := site.Document.LengthOf(site.Document.Mechanism(site.Mechanism.Host).Joints)
	for _, p := range beat() {
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
	w := &walk{goal: goal, target: target, home: control.Home(), stride: number("stride"), duty: number("duty"), speed: number("speed")}
	middle := mgl64.Vec3{}
	if root := b.Document.ControlNamed(rig.RootName); root != nil {
		middle = root.Position
	}
	w.phase = number("phase")
	if length := number("wave"); length != 0 {
		w.phase -= (w.home.Position[2] - middle[2]) / length
	}
	if OnTheRight(b.Document, *host, middle) {
		w.phase += number("sides")
	}
	var err error
	if w.ground, err = ground.Of(b); err != nil {
		return err
	}
	if w.sole, err = soleOf(b, *host, w.home, w.ground); err != nil {
		return err
	}
	w.low = lowest(w.sole, w.home)
	w.treads = mechanism.ScratchOf(b, func() *tread { return &tread{} })
	name := b.Document.NameOf(host.ID)
	w.headless = b.Finding(fmt.Sprintf("The body is turned right over and has no heading; the foot of %s may be put down turned.", name))
	w.opposed = b.Finding(fmt.Sprintf("%s counts in part while the body is half turned round; the foot may go round the other way.", b.Mechanism.Name))
	w.missing = b.Finding(fmt.Sprintf("There is no ground under the foot of %s here, and it goes by the nearest that there is; have the ground reach farther, close its hole, or lead the body another way.", name))
	w.lay(b)
	return nil
}

// lay lays the tasks: where the foot stands, which what settles on it reads, and what that does to the limb's goal.
func (w *walk) lay(b *mechanism.Bench) {
	tilt, tilts := b.Number("tilt")
	lift, lifts := b.Number("lift")
	influence, more := b.InfluenceOf()
	w.tilt, w.lift, w.influence = tilt, lift, influence
	w.fall = b.OfferFootfall(mechanism.Standing{At: w.home.Position, Gap: -w.sunk(w.home)})
	fall, goal := mechanism.Resource{Kind: mechanism.FootfallOf, Index: w.fall}, mechanism.Resource{Kind: mechanism.GoalOf, Index: w.goal}
	along := []mechanism.Resource{{Kind: mechanism.Clock}, {Kind: mechanism.Ahead}}
	b.AddWhole(mechanism.Task{
		Run: w.tread, Reads: slices.Concat(along, tilts, lifts, more), Writes: []mechanism.Resource{fall}, Raises: []int{w.headless, w.missing},
	})
	carried, reads := ground.Carried(b)
	w.carried = carried
	b.AddWhole(mechanism.Task{
		Run: w.step, Reads: slices.Concat(along, more, reads, []mechanism.Resource{goal, fall}), Writes: []mechanism.Resource{goal},
		Raises: []int{w.opposed}, Carries: []int{w.target},
	})
}

// OnTheRight tells whether a limb is one of the right side: where its first joint hangs, as seen from the middle of the body, or, for one that hangs in
// the middle, where its last stands. Left is +X. A limb that hangs and stands in the middle counts as left.
func OnTheRight(d *rig.Document, host rig.Mechanism, middle mgl64.Vec3) bool {
	first, last := d.Joint(host.Joints[0]).Position, d.Joint(host.Joints[len(host.Joints)-1]).Position
	slight := middling * last.Sub(first).Len()
	if aside := first[0] - middle[0]; math.Abs(aside) > slight {
		return aside < 0
	}
	return last[0]-middle[0] < -slight
}

// middling is how far from the middle a limb counts as standing in it, as a share of its length.
const middling = 1e-6
