// Package hinge turns joints about one axis, or slides them along one, between stops: doors, turrets and hatches, drawers, telescopes and folding gates.
package hinge

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// The names of the kinds in documents.
const (
	Name      = "hinge"
	SlideName = "slide"
)

// Kind is the hinge. Its axis is the main axis of its handle at home, so that it can be moved and turned like any home.
type Kind struct{}

// Slide is the slide, which is a hinge in all but what it does along its axis.
type Slide struct{}

// Where the axis comes from, when it is built.
const (
	found       = "found on the part"
	main        = "the joint's main axis"
	sideways    = "the joint's X axis"
	forward     = "the joint's Z axis"
	plumb       = "upright"
	everySecond = "turn about"
	alike       = "all alike"
	steering    = "as wheels steer"
)

// OpenDial is the dial of a handle that goes from rest to the stop.
const OpenDial rig.Channel = "open"

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: Name, Title: "Hinge", Stand: mechanism.OnJoints, Hosts: []string{},
		Sketch:  "M8 20a3 3 0 1 0 .1 0M10 18L50 6M14 6a16 16 0 0 1 6 6",
		Summary: "A joint turns about one axis between stops, by a handle or a dial from 0 to 1; several share the way. For turrets, doors, hatches and folding gates.",
		Roles:   roles("What turns", "The joints that turn; of several each turns on the one before, or by itself."),
		Options: parameter.Declared{axis()},
		Parameters: parameter.Declared{
			{Key: back, Title: "Stop behind", Type: parameter.Number, Unit: "°", Min: -36_000, Max: 0, Default: parameter.OfNumber(-90), Help: "How far it turns the one way, from rest."},
			{Key: forth, Title: "Stop ahead", Type: parameter.Number, Unit: "°", Min: 0, Max: 36_000, Default: parameter.OfNumber(90), Help: "How far it turns the other way; the dial goes from rest to here."},
			{
				Key: "several", Title: "Several", Type: parameter.Choice, Choices: []string{alike, everySecond, steering}, Default: parameter.OfChoice(alike),
				Help: "Whether all turn the same way, every second one back by twice as much, as the panels of a folding gate do, or the inner one more, so that all wheels roll about one place.",
			},
			{
				Key: "base", Title: "Wheelbase", Type: parameter.Number, Unit: "m", Min: -1e5, Max: 1e5, Default: parameter.OfNumber(1),
				Help: "Of wheels that steer: how far behind them the wheels stand that do not; below 0 for ahead. Built, it is measured to the wheels that are there.",
			},
			mechanism.Influence(),
		},
	}
}

// Declare implements mechanism.Kind.
func (Slide) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: SlideName, Title: "Slide", Stand: mechanism.OnJoints, Hosts: []string{},
		Sketch:  "M6 16h48M14 8h18v8h-18zM38 12h10m-4-4l4 4l-4 4",
		Summary: "A joint slides along one axis between stops, by a handle or a dial from 0 to 1; several share the way. For drawers, telescopes and forks of a lift.",
		Roles:   roles("What slides", "The joints that slide; of several each slides on the one before, and they share the way."),
		Options: parameter.Declared{axis()},
		Parameters: parameter.Declared{
			{Key: back, Title: "Stop behind", Type: parameter.Number, Unit: "m", Min: -1e5, Max: 0, Default: parameter.OfNumber(0), Help: "How far it slides the one way, from rest; all of them together."},
			{Key: forth, Title: "Stop ahead", Type: parameter.Number, Unit: "m", Min: 0, Max: 1e5, Default: parameter.OfNumber(0), Help: "How far it slides the other way; the dial goes from rest to here. Where it is 0 when the slide is built, it becomes a quarter of the specimen's size."},
			mechanism.Influence(),
		},
	}
}

// The keys of the stops.
const (
	back  = "back"
	forth = "forth"
)

func roles(title, help string) []mechanism.Role {
	return []mechanism.Role{
		{Name: "joints", Title: title, Help: help, Does: mechanism.Moves, Joints: true, Least: 1},
		mechanism.HandleRole("handle", "Handle", 1, 1),
	}
}

func axis() parameter.Declaration {
	return parameter.Declaration{
		Key: "axis", Title: "Axis", Type: parameter.Choice, Choices: []string{found, main, sideways, forward, plumb}, Default: parameter.OfChoice(found),
		Help: "Found: the middle of a round hole, a bolt or a shaft of the part near the joint, or else its longest straight edge there; where there is none, the joint's main axis.",
	}
}

// Suits implements mechanism.Suitor: single joints that end something turn most often.
func (Kind) Suits(d *rig.Document, chosen []string) float64 {
	if len(chosen) == 1 && d.Joint(chosen[0]) != nil && len(d.ChildrenOf(chosen[0])) == 0 {
		return 0.35
	}
	return 0.15
}

// Suits implements mechanism.Suitor.
func (Slide) Suits(*rig.Document, []string) float64 { return 0.1 }

// Build implements mechanism.Kind: a handle that stands on the axis.
func (Kind) Build(site *mechanism.Site) error { return build(site, 1) }

// Build implements mechanism.Kind.
func (Slide) Build(site *mechanism.Site) error { return build(site, 0) }

// build makes the handle; a hinge's goes round the axis, a slide's lies across it.
func build(site *mechanism.Site, around float64) error {
	m := site.Mechanism
	if len(m.Joints) == 0 {
		return errors.New("no joint is chosen; choose what is to turn or slide")
	}
	joint := site.Document.Joint(m.Joints[0])
	origin, way := axisOf(site, *joint)
	home := geometry.Transform{Position: origin, Rotation: geometry.FromAxes(way, joint.Rotation.Quat().Rotate(mgl64.Vec3{0, 0, 1}))}
	space := site.Space()
	shape, outline := rig.Hoop, mechanism.Outline(rig.Hoop, 0.06*site.Size)
	if around == 0 {
		shape, outline = rig.Square, mechanism.Outline(rig.Square, 0.04*site.Size)
	}
	id := site.Handle(m.Name+"_handle", space, home, shape, outline)
	control := site.Document.Control(id)
	control.Dials = []rig.Dial{{Name: OpenDial, Max: 1}}
	control.Channels = map[rig.Channel]rig.ChannelState{}
	for _, channel := range rig.Channels {
		if channel != driving(around > 0) {
			control.Channels[channel] = rig.ChannelState{Locked: true}
		}
	}
	m.Controls = []string{id}
	if around > 0 {
		m.Parameters = m.Parameters.Clone()
		m.Parameters["base"] = parameter.OfNumber(baseOf(site))
	}
	if around == 0 {
		m.Parameters = m.Parameters.Clone()
		if m.Parameters[forth].Number == 0 { // nobody said how far
			m.Parameters[forth] = parameter.OfNumber(quarter * site.Size)
		}
	}
	return nil
}

// quarter is how far a slide goes where nobody said, in sizes of the specimen.
const quarter = 0.25

// driving is the channel of a handle that moves a hinge or a slide: about, or along, the main axis.
func driving(turns bool) rig.Channel {
	if turns {
		return rig.RotateY
	}
	return rig.MoveY
}

// axisOf is the axis that is asked for: a place on it and its direction.
func axisOf(site *mechanism.Site, joint rig.Joint) (origin, way mgl64.Vec3) {
	turn := joint.Rotation.Quat()
	switch site.Options.Choice("axis") {
	case found:
		if site.Axis != nil {
			if place, direction, ok := site.Axis(joint.ID); ok {
				return place, direction
			}
		}
	case sideways:
		return joint.Position, turn.Rotate(mgl64.Vec3{1, 0, 0})
	case forward:
		return joint.Position, turn.Rotate(mgl64.Vec3{0, 0, 1})
	case plumb:
		return joint.Position, geometry.Up
	}
	return joint.Position, turn.Rotate(geometry.MainAxis)
}

// Prepare implements mechanism.Kind.
func (Kind) Prepare(b *mechanism.Bench) error { return prepare(b, true) }

// Prepare implements mechanism.Kind.
func (Slide) Prepare(b *mechanism.Bench) error { return prepare(b, false) }

// StopAt implements mechanism.Stopper.
func (Kind) StopAt(channel rig.Channel, value float64) parameter.Set {
	return stopAt(channel, driving(true), value, value*180/math.Pi)
}

// StopAt implements mechanism.Stopper.
func (Slide) StopAt(channel rig.Channel, value float64) parameter.Set {
	return stopAt(channel, driving(false), value, value)
}

func stopAt(channel, drives rig.Channel, value, inUnit float64) parameter.Set {
	switch {
	case channel != drives || value == 0:
		return nil
	case value < 0:
		return parameter.Set{back: parameter.OfNumber(inUnit)}
	}
	return parameter.Set{forth: parameter.OfNumber(inUnit)}
}

func prepare(b *mechanism.Bench, turns bool) error {
	joints, err := b.JointIndices()
	if err != nil {
		return err
	}
	controls, err := b.ControlIndices()
	if err != nil {
		return err
	}
	if len(controls) != 1 {
		return fmt.Errorf("a hinge and a slide have one handle, not %d; build it anew", len(controls))
	}
	control := b.Document.Controls[controls[0]]
	way := &way{handle: controls[0], rest: control.Home(), turns: turns}
	way.carrier, way.carrierRest, way.hung = b.Space(control.Space)
	if slot, reads, ok := b.ChannelOf(controls[0], OpenDial); ok {
		way.open, way.dialled = slot, true
		way.reads = append(way.reads, reads)
	}
	var reads []mechanism.Resource
	way.back, reads = b.Number(back)
	way.reads = append(way.reads, reads...)
	way.forth, reads = b.Number(forth)
	way.reads = append(append(way.reads, reads...), mechanism.Resource{Kind: mechanism.Control, Index: controls[0]})
	if way.hung {
		way.reads = append(way.reads, way.carrier)
	}
	way.influence, reads = b.InfluenceOf()
	way.reads = append(way.reads, reads...)
	unit := 1.0
	if turns {
		unit = math.Pi / 180
	}
	b.Stop(mechanism.Stop{Control: control.ID, Channel: driving(turns), Low: unit * b.Settings.Number(back), High: unit * b.Settings.Number(forth)})
	way.held = b.Finding(fmt.Sprintf("%s is held at its stop; set the stop farther, or bring its handle back.", b.Mechanism.Name))
	for i, joint := range joints {
		way.add(b, joints, i, joint)
	}
	return nil
}

// add lays the task of one joint on the bench.
func (w *way) add(b *mechanism.Bench, joints []int, i, joint int) {
	on := slices.Index(joints[:i], parentOf(b, joint)) // it turns on one before it
	s := &stage{way: w, joint: joint, share: 1, raises: i == 0}
	switch {
	case !w.turns:
		s.share = 1 / float64(len(joints))
		if on < 0 && i > 0 { // beside the others, and not on them: it goes as far as those before it together
			s.share *= float64(i + 1)
		}
	case b.Settings.Choice("several") == steering && len(joints) > 1:
		s.steer(b, joints)
	case b.Settings.Choice("several") == everySecond && i > 0:
		s.share = -1
		if on >= 0 {
			s.share = 2 * math.Pow(-1, float64(i))
		}
	}
	below, reads := b.Below(joint)
	s.below = below
	// The axis as the joint has it: through the handle's home for the first, and as that lies beside it for the others.
	rest := b.Rest(joint)
	origin, direction := w.rest.Position, w.rest.Rotation.Rotate(geometry.MainAxis)
	if i > 0 && w.turns {
		origin = rest.Position
	}
	inverse := rest.Inverse()
	s.origin, s.direction = inverse.Apply(origin), inverse.Rotation.Rotate(direction)
	task := mechanism.Task{Run: s.run, Reads: append(slices.Clone(w.reads), reads...), Writes: []mechanism.Resource{{Kind: mechanism.Joint, Index: joint}}}
	if s.turning = -1; w.turns {
		s.turning = b.OfferTurning(b.Document.Joints[joint].ID, mechanism.Turning{Origin: origin, Axis: direction})
		task.Writes = append(task.Writes, mechanism.Resource{Kind: mechanism.TurningOf, Index: s.turning})
	}
	if s.raises {
		task.Raises = []int{w.held}
	}
	b.AddWhole(task)
}

func parentOf(b *mechanism.Bench, joint int) int {
	if at, ok := b.Joint(b.Document.Joints[joint].Parent); ok {
		return at
	}
	return -1
}

// way is how far a hinge is turned, or a slide slid.
type way struct {
	handle      int
	rest        geometry.Transform
	carrier     mechanism.Resource
	carrierRest geometry.Transform
	hung        bool
	turns       bool
	open        int
	dialled     bool
	back, forth mechanism.Number
	influence   mechanism.Number // it turns and slides less far, on top of what stands below
	reads       []mechanism.Resource
	held        int // finding
}

// at is how far it goes in a frame, in radians or metres, and whether a stop holds it.
func (w *way) at(f *mechanism.Frame) (value float64, held bool) {
	carried := geometry.Identity()
	if w.hung {
		carried = f.At(w.carrier).Then(w.carrierRest.Inverse())
	}
	now := carried.Inverse().Then(f.Controls[w.handle])
	unit := 1.0
	if w.turns {
		unit = math.Pi / 180
		value = now.Turned - w.rest.Turned
	} else {
		value = now.Position.Sub(w.rest.Position).Dot(w.rest.Rotation.Rotate(geometry.MainAxis))
	}
	least, most := w.back.At(f)*unit, w.forth.At(f)*unit
	if w.dialled {
		value += f.Values[w.open] * most
	}
	const beyond = 1e-9 // of the way, past which a stop is said to hold
	slack := beyond * (most - least)
	return math.Max(least, math.Min(most, value)), value > most+slack || value < least-slack
}

// stage is one joint of it.
type stage struct {
	*way
	joint             int
	share             float64
	base, aside       float64 // of a wheel that steers: the wheelbase, and how far to the left it stands; a base of 0 for none
	raises            bool
	turning           int // its place among what turns; -1 for none
	below             mechanism.Below
	origin, direction mgl64.Vec3 // of the axis, as the joint has it at rest
}

func (s *stage) run(f *mechanism.Frame) {
	value, held := s.at(f)
	if s.raises {
		f.Findings[s.held] = held
	}
	at, girth := s.below.In(f)
	value = s.steered(value) * s.share * s.influence.At(f)
	if s.turning >= 0 {
		f.Turnings[s.turning] = value
	}
	if !s.turns {
		at.Position = at.Position.Add(at.Rotation.Rotate(s.direction.Mul(value)))
	} else if value != 0 {
		turn := mgl64.QuatRotate(value, s.direction)
		at = at.Then(geometry.Transform{Position: s.origin.Sub(turn.Rotate(s.origin)), Rotation: turn})
		at.Rotation = at.Rotation.Normalize()
	}
	f.Joints[s.joint], f.Scales[s.joint] = at, girth
}
