// Package limb is the limb: bones from a root to a tip that reaches for a target, bent towards a pole. Two bones are solved in closed form, more by
// bending all of them in proportion, so that a leg keeps its character and never jitters.
package limb

import (
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "limb"

// Kind is the limb.
type Kind struct{}

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: Name, Title: "Limb", Stand: mechanism.OnChain, Roles: []mechanism.Role{
			mechanism.ChainRole(3, "The joints from the root to the tip; the two ends are enough."),
			mechanism.HandleRole("target", "Target", 1, 1), mechanism.HandleRole("pole", "Pole", 0, 1),
		}, Hosts: []string{}, Extends: true,
		Sketch:  "M16 2L34 10L22 20M18 20h8v3h-8zM40 8l4 3l-4 3l-4-3z",
		Summary: "The tip reaches for a target and stays there while the body moves; the joints between bend in proportion, towards a pole. For legs, arms and cranes.",
		Options: options(), Parameters: parameters(),
	}
}

// Suits implements mechanism.Suitor: a few joints that bend, and lie to a side, are most often a limb; in the middle lie necks and tails.
func (Kind) Suits(d *rig.Document, chosen []string) float64 {
	if len(chosen) < 3 || len(chosen) > 6 {
		return 0.3
	}
	places := make([]mgl64.Vec3, 0, len(chosen))
	for _, id := range chosen {
		if j := d.Joint(id); j != nil {
			places = append(places, j.Position)
		}
	}
	way, aside, straight := 0.0, 0.0, places[len(places)-1].Sub(places[0]).Len()
	for i := range places {
		aside += places[i][0] / float64(len(places))
		if i > 0 {
			way += places[i].Sub(places[i-1]).Len()
		}
	}
	if straight < bentEnough*way && math.Abs(aside) > toASide*way {
		return 0.95
	}
	return 0.45
}

// toASide is how far from the middle, as a share of its length, a chain lies on the whole to lie to a side.
const toASide = 0.05

// bentEnough is the share of a limb's length that its ends lie apart at most for it to look bent: 20 degrees in the middle.
const bentEnough = 0.985

// Build implements mechanism.Kind: a target at the tip, which hangs on the global control and so stays where it is, and a pole out where
// the limb bends, which hangs on what the limb hangs on and can be switched to the target.
func (Kind) Build(site *mechanism.Site) error {
	rest, err := site.Chain(3)
	if err != nil {
		return err
	}
	places := make([]mgl64.Vec3, len(rest))
	for i := range rest {
		places[i] = rest[i].Position
	}
	if err := checkBones(site, places); err != nil {
		return err
	}
	body := site.Space()
	toward := direction(site.Options.Choice("bend"), places)
	b, straight := newBends(places, toward)
	switch {
	case straight && toward == (mgl64.Vec3{}):
		return errors.New("it is straight, and does not say which way it bends; choose that, or bend it a little")
	case straight && !site.Options.On("pole"):
		return errors.New("it is straight, and only a pole can say which way it bends; let it have one, or bend it a little")
	case b.most < b.rest:
		return errors.New("it curls over itself: bent further its tip would go away from its root; lay it more openly, or take a spline or FK chain")
	}
	name, last := site.Mechanism.Name, len(rest)-1
	target := geometry.Transform{Position: rest[last].Position, Rotation: mgl64.QuatIdent()}
	reach := 0.35 * places[last].Sub(places[last-1]).Len()
	shape, outline := rig.Sole, site.Sole(target, 2*reach)
	if outline == nil {
		shape, outline = rig.Square, mechanism.Outline(rig.Square, reach)
	}
	site.Mechanism.Controls = []string{site.Handle(mechanism.Suffixed(name, "target"), site.Document.ControlNamed(rig.GlobalName).ID, target, shape, outline)}
	if site.Options.On("pole") {
		b.bend(b.rest)
		side := b.side(b.rest)
		at := places[0].Add(places[last]).Mul(0.5).Add(side.Mul(0.8 * b.reach))
		home := geometry.Transform{Position: at, Rotation: mgl64.QuatIdent()}
		pole := site.Handle(name+"_pole", body, home, rig.Lozenge, mechanism.Outline(rig.Lozenge, 0.05*b.reach))
		control := site.Document.Control(pole)
		control.Spaces, control.Dials = site.Mechanism.Controls[:1:1], []rig.Dial{{Name: rig.SpaceDial, Max: 1}} // with the target, where that serves better
		control.Channels = map[rig.Channel]rig.ChannelState{}
		for _, channel := range rig.Channels[3:] {
			control.Channels[channel] = rig.ChannelState{Locked: true, Hidden: true}
		}
		site.Mechanism.Controls = append(site.Mechanism.Controls, pole)
	}
	return nil
}

// Extend implements mechanism.Extender: the target goes to where the limb ends now, and looks as it did. What bends it stays.
func (Kind) Extend(site *mechanism.Site) error {
	rest, err := site.Chain(3)
	if err != nil {
		return err
	}
	places := make([]mgl64.Vec3, len(rest))
	for i := range rest {
		places[i] = rest[i].Position
	}
	if err := checkBones(site, places); err != nil {
		return err
	}
	toward := mgl64.Vec3{}
	if len(site.Mechanism.Controls) > 1 {
		toward = site.Document.Control(site.Mechanism.Controls[1]).Position.Sub(places[0])
	}
	if b, straight := newBends(places, toward); straight && toward == (mgl64.Vec3{}) {
		return errors.New("it would be straight so, and not know which way it bends; end it elsewhere, or bend it a little")
	} else if b.most < b.rest {
		return errors.New("it would curl over itself so; end it elsewhere")
	}
	target := site.Document.Control(site.Mechanism.Controls[0])
	target.Position = places[len(places)-1]
	return nil
}

// least is how long a bone is at least, as a share of the specimen's size.
const least = 1e-9

// doubled is the cosine, of the turn from one bone to the next, beyond which a limb doubles back on itself.
const doubled = -0.996

func checkBones(site *mechanism.Site, places []mgl64.Vec3) error {
	name := func(i int) string { return site.Document.NameOf(site.Mechanism.Joints[i]) }
	for i := 1; i < len(places); i++ {
		if places[i].Sub(places[i-1]).Len() <= least*site.Size {
			return fmt.Errorf("%s stands on %s, and a bone needs a length; move one of them, or leave it out", name(i), name(i-1))
		}
		if i > 1 {
			before, now := places[i-1].Sub(places[i-2]).Normalize(), places[i].Sub(places[i-1]).Normalize()
			if before.Dot(now) < doubled {
				return fmt.Errorf("the limb doubles back at %s; open it a little there", name(i-1))
			}
		}
	}
	return nil
}

// direction is where a straight limb is to bend; nothing for as it is.
func direction(choice string, places []mgl64.Vec3) mgl64.Vec3 {
	switch choice {
	case forward:
		return geometry.Forward
	case back:
		return geometry.Forward.Mul(-1)
	case up:
		return geometry.Up
	case down:
		return geometry.Up.Mul(-1)
	case outward:
		if places[0][0] < 0 {
			return mgl64.Vec3{-1, 0, 0}
		}
		return mgl64.Vec3{1, 0, 0}
	}
	return mgl64.Vec3{}
}

// Prepare implements mechanism.Kind.
func (Kind) Prepare(b *mechanism.Bench) error {
	joints, err := b.JointIndices()
	if err != nil {
		return err
	}
	controls, err := b.ControlIndices()
	if err != nil {
		return err
	}
	if len(joints) < 3 || len(controls) < 1 || len(controls) > 2 {
		return fmt.Errorf("a limb has 3 joints or more, a target and perhaps a pole, not %d joints and %d controls; build it anew", len(joints), len(controls))
	}
	l := &limb{joints: joints, pole: -1, hinge: b.Settings.On("hinge") && len(joints) > 3, tip: b.Settings.Choice("tip")}
	task := mechanism.Task{Run: func(f *mechanism.Frame) { l.reaching.In(f).run(f) }, Calibrate: l.calibrate}
	for _, joint := range joints {
		l.rest = append(l.rest, b.Rest(joint))
		task.Writes = append(task.Writes, mechanism.Resource{Kind: mechanism.Joint, Index: joint})
	}
	for _, number := range []struct {
		key string
		to  *mechanism.Number
	}{{"soft", &l.soft}, {"stretch", &l.stretch}, {"longest", &l.longest}, {"volume", &l.volume}, {"pin", &l.pin}, {"least", &l.least}, {"most", &l.most}, {"swing", &l.swings}} {
		value, reads := b.Number(number.key)
		*number.to = value
		task.Reads = append(task.Reads, reads...)
	}
	l.targetRest = b.Document.Controls[controls[0]].Home()
	l.goal = b.OfferGoal(controls[0])
	task.Reads = append(task.Reads, mechanism.Resource{Kind: mechanism.GoalOf, Index: l.goal})
	if len(controls) == 2 {
		l.pole, l.poleRest = controls[1], b.Document.Controls[controls[1]].Position
		task.Reads = append(task.Reads, mechanism.Resource{Kind: mechanism.Control, Index: l.pole})
	}
	l.ground = -1
	if global := b.Document.ControlNamed(rig.GlobalName); global != nil {
		l.ground, _ = b.Control(global.ID)
		l.groundRest = global.Home().Rotation
		if l.tip == asGround {
			task.Reads = append(task.Reads, mechanism.Resource{Kind: mechanism.Control, Index: l.ground})
		}
	}
	carrier, rest, hung := b.CarrierOf(joints[0])
	l.carrier, l.hung, l.local, l.carrierRest = carrier, hung, rest.Inverse().Then(l.rest[0]), rest.Rotation
	if hung {
		task.Reads = append(task.Reads, carrier)
	}
	l.short = b.Finding(fmt.Sprintf("%s does not reach its target; bring it nearer, or let the limb stretch.", b.Mechanism.Name))
	l.folded = b.Finding(fmt.Sprintf("The target of %s is nearer than the limb folds; take it further out.", b.Mechanism.Name))
	l.inLine = b.Finding(fmt.Sprintf("The pole of %s stands in line with the limb, and the body says which way it bends; move the pole aside.", b.Mechanism.Name))
	l.against = b.Finding(fmt.Sprintf("%s points straight against where it stands at rest, and may turn over there; give it a pole, or take its target aside.", b.Mechanism.Name))
	l.behind = b.Finding(fmt.Sprintf("The target of %s is straight behind its hinge, which changes from one end of its swing to the other there; take it aside.", b.Mechanism.Name))
	l.slides = b.Finding(fmt.Sprintf("The foot of %s stands, but the leg is too nearly straight to hold it there, and it slides; lower the body, shorten the stride or lessen the soft reach.", b.Mechanism.Name))
	task.Raises = []int{l.short, l.folded, l.inLine, l.against, l.behind, l.slides}
	l.lay(b)
	l.reaching = mechanism.ScratchOf(b, l.fresh)
	b.Add(task)
	return nil
}

// lay measures the limb at rest: how it bends, and its frame there.
func (l *limb) lay(b *mechanism.Bench) {
	from := l.first()
	places := make([]mgl64.Vec3, 0, len(l.rest))
	for _, rest := range l.rest[from:] {
		places = append(places, rest.Position)
	}
	toward := mgl64.Vec3{}
	if l.pole >= 0 {
		toward = l.poleRest.Sub(places[0])
	}
	l.bends = mechanism.Prepared(b, bendsKey(places, toward), func() *bends {
		made, _ := newBends(places, toward)
		return made
	}).fresh()
	l.unbent = make([]mgl64.Quat, len(l.bends.bones))
	l.bends.bend(l.bends.rest)
	for i, turn := range l.bends.turns {
		l.unbent[i] = turn.Conjugate()
	}
	tip := l.bends.tip()
	l.line, l.distance = geometry.Unit(tip, geometry.MainAxis), tip.Len()
	l.side = geometry.Across(l.bends.side(l.bends.rest), l.line)
	if l.pole >= 0 {
		aside := l.poleRest.Sub(places[0])
		if across := aside.Sub(l.line.Mul(aside.Dot(l.line))); across.Len() > 1e-12*aside.Len() {
			l.roll = geometry.SignedAngle(geometry.Across(across, l.line), l.side, l.line)
		}
	}
	if l.hinge {
		l.axis = geometry.Up
		l.arm = l.rest[1].Position.Sub(l.rest[0].Position)
	}
	l.knee = from + l.bends.furthest()
}

// bendsKey says all that the bends of a limb are made of.
func bendsKey(places []mgl64.Vec3, toward mgl64.Vec3) string {
	key := []byte("limb")
	for _, p := range append(slices.Clip(places), toward) {
		for _, n := range p {
			key = binary.LittleEndian.AppendUint64(key, math.Float64bits(n))
		}
	}
	return string(key)
}

// first is the joint from which the limb bends: the second where the first is a hinge.
func (l *limb) first() int {
	if l.hinge {
		return 1
	}
	return 0
}

// calibrate leaves the joints as they are at rest.
func (l *limb) calibrate(f *mechanism.Frame) {
	for i, joint := range l.joints {
		f.Joints[joint], f.Scales[joint] = l.rest[i], mgl64.Vec3{1, 1, 1}
	}
}

// girth is how much a bone is thinned that is so much longer.
func girth(longer, volume float64) float64 { return math.Pow(longer, -volume/2) }
