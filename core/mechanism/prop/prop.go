// Package prop holds a thing: in a hand, on a hook, in the world, given from one to the other with no jump.
package prop

import (
	"fmt"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "prop"

// Kind is the prop.
type Kind struct{}

// HolderDial is the dial of a prop's handle that says who holds it: 0 for the first holder, and one more than the last for the world.
const HolderDial rig.Channel = "holder"

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: Name, Title: "Prop", Stand: mechanism.OnPicks, Hosts: []string{}, Gives: true,
		Sketch:  "M8 20L40 6M36 2l10 4l-6 8M14 14a5 5 0 1 0 .1 0",
		Summary: "Held by one of several holders, or set down in the world; given to another it stays where it is, and goes on with that. Key the dial of its handle, stepped.",
		Roles: []mechanism.Role{
			{Name: "prop", Title: "What is held", Help: "The joint of the thing.", Does: mechanism.Moves, Joints: true, Least: 1, Most: 1},
			{Name: "holders", Title: "Holders", Help: "Joints or controls that can hold it, the first from the beginning on: a hand, a hook, a belt.", Does: mechanism.LooksAt, Joints: true, Controls: true, Least: 1, Most: 16},
			mechanism.HandleRole("handle", "Handle", 1, 1),
		},
		Options: parameter.Declared{},
		Parameters: parameter.Declared{
			{Key: "holder", Title: "Held by", Type: parameter.Number, Min: 0, Max: 16, Default: parameter.OfNumber(0), Dial: true, Help: "Who holds it: 0 the first holder, 1 the second, and one more than the last the world. The handle's dial drives it."},
			mechanism.Influence(),
		},
	}
}

// Suits implements mechanism.Suitor: it is asked for.
func (Kind) Suits(*rig.Document, []string) float64 { return 0.05 }

// Build implements mechanism.Kind: a handle at the thing, with a dial that says who holds it.
func (Kind) Build(site *mechanism.Site) error {
	m, d := site.Mechanism, site.Document
	joint := d.Joint(m.Joints[0])
	site.Root()
	global := d.ControlNamed(rig.GlobalName)
	id := site.Handle(m.Name+"_handle", global.ID, joint.Rest(), rig.Cross, mechanism.Outline(rig.Cross, 0.05*site.Size))
	control := d.Control(id)
	control.Dials = []rig.Dial{{Name: HolderDial, Max: float64(len(m.Takes))}}
	m.Controls = []string{id}
	d.Drivers = append(d.Drivers, rig.Driver{
		ID: d.TakeID("v"), Kind: rig.LinkKind, Drives: rig.Address{Of: m.ID, Key: "holder"}, By: []rig.Address{control.Of(HolderDial)}, On: true, Parameters: parameter.Set{},
	})
	return nil
}

// Give implements mechanism.Giver.
func (Kind) Give(m rig.Mechanism, holder string) (control string, channel rig.Channel, value float64, err error) {
	if len(m.Controls) == 0 {
		return "", "", 0, fmt.Errorf("%s has no handle; build it anew", m.Name)
	}
	at := len(m.Takes)
	if holder != "" {
		if at = slices.Index(m.Takes, holder); at < 0 {
			return "", "", 0, fmt.Errorf("%s is held by others; build it anew with this among its holders", m.Name)
		}
	}
	return m.Controls[0], HolderDial, float64(at), nil
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
	if len(joints) != 1 || len(controls) != 1 || len(b.Mechanism.Takes) == 0 {
		return fmt.Errorf("a prop is one joint with one handle and some holders, not %d, %d and %d; build it anew", len(joints), len(controls), len(b.Mechanism.Takes))
	}
	p := &prop{joint: joints[0], handle: controls[0], home: b.Document.Controls[controls[0]].Home(), rest: b.Rest(joints[0])}
	p.holders = b.Role("holders")
	if len(p.holders) != len(b.Mechanism.Takes) {
		return fmt.Errorf("a holder of %s is gone; build it anew with those that are there", b.Mechanism.Name)
	}
	for _, holder := range p.holders {
		p.first = append(p.first, b.RestOf(holder).Inverse().Then(p.rest))
	}
	reads := append([]mechanism.Resource{}, p.holders...)
	world := mechanism.Resource{Kind: mechanism.Control, Index: -1}
	p.first = append(p.first, p.rest)
	if global := b.Document.ControlNamed(rig.GlobalName); global != nil {
		world.Index, _ = b.Control(global.ID)
		p.first[len(p.holders)] = global.Home().Inverse().Then(p.rest)
		reads = append(reads, world)
	}
	p.holders = append(p.holders, world)
	number, choice := b.Number("holder")
	p.choice = number
	reads = append(reads, choice...)
	p.held = b.Holding(mechanism.Holding{
		Reads: reads, Choice: choice, Holder: p.holder, At: p.at, First: func(holder int) geometry.Transform { return p.first[holder] },
	})
	control := b.Document.Controls[p.handle]
	p.space, p.spaceRest, p.hung = b.Space(control.Space)
	reads = append(append([]mechanism.Resource{}, reads...), mechanism.Resource{Kind: mechanism.Control, Index: p.handle}, mechanism.Resource{Kind: mechanism.Clock}, mechanism.Resource{Kind: mechanism.HeldBy, Index: p.held})
	if p.hung {
		reads = append(reads, p.space)
	}
	p.hands = b.Finding(fmt.Sprintf("%s changes hands with a jump here, as no clip says where; key who holds it.", b.Mechanism.Name))
	p.unkeyed = b.Finding(fmt.Sprintf("%s stays with who holds it in the clip: key its dial here, or press Give, to hand it over.", b.Mechanism.Name))
	b.Add(mechanism.Task{Run: p.run, Reads: reads, Writes: []mechanism.Resource{{Kind: mechanism.Joint, Index: p.joint}}, Raises: []int{p.hands, p.unkeyed}, Carries: []int{p.handle}})
	return nil
}

// prop is a thing that is held, made ready.
type prop struct {
	joint, handle, held int
	home, rest          geometry.Transform
	holders             []mechanism.Resource // the world last
	first               []geometry.Transform // how it lies in each that holds it from the beginning
	choice              mechanism.Number
	space               mechanism.Resource
	spaceRest           geometry.Transform
	hung                bool
	hands, unkeyed      int // findings
}

// holder is who holds it, as the number says in a frame.
func (p *prop) holder(f *mechanism.Frame) int {
	return int(math.Max(0, math.Min(float64(len(p.holders)-1), math.Round(p.choice.At(f)))))
}

// at is where a holder is; the world is where the global control is.
func (p *prop) at(f *mechanism.Frame, holder int) geometry.Transform {
	if p.holders[holder].Index < 0 {
		return geometry.Identity()
	}
	return f.At(p.holders[holder])
}

// between is how near to half way between two holders the number is where a change is told.
const between = 1e-3

// run takes the thing along with who holds it, and with its handle.
func (p *prop) run(f *mechanism.Frame) {
	now := p.holder(f)
	offset := p.first[now]
	number := p.choice.At(f)
	f.Findings[p.hands] = math.Abs(number-math.Floor(number)-0.5) < between
	if list := f.Held[p.held]; list != nil {
		held := mechanism.HeldAt(list, f.Time)
		f.Findings[p.hands], f.Findings[p.unkeyed] = false, held.Holder != now
		now, offset = held.Holder, held.Offset
	}
	moved := geometry.Identity()
	if p.hung {
		moved = f.At(p.space).Then(p.spaceRest.Inverse())
	}
	own := moved.Then(p.home).Inverse().Then(f.Controls[p.handle])
	at := p.at(f, now).Then(offset).Then(own)
	at.Rotation = at.Rotation.Normalize()
	f.Joints[p.joint], f.Scales[p.joint] = at, mgl64.Vec3{1, 1, 1}
	f.Carried[p.handle] = at.Then(f.Controls[p.handle].Inverse())
	f.Carried[p.handle].Rotation = f.Carried[p.handle].Rotation.Normalize()
}
