// Package fkover lays FK over a chain along a curve: an FK control over each of its handles but the last, each hung on the one before, that
// carries the handle's home. Turning one takes along the handle there and all after it; the handles work as before from where they are
// taken to. Nothing but homes changes, so it costs what its controls cost.
package fkover

import (
	"fmt"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/mechanism"
	"myriapod/core/mechanism/ribbonchain"
	"myriapod/core/mechanism/splinechain"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "fk-over"

// Kind is FK laid over a chain along a curve.
type Kind struct{}

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: Name, Title: "FK over it", Stand: mechanism.OnMechanism, Roles: []mechanism.Role{mechanism.HandleRole("handles", "Handles", 0, 0)}, Hosts: []string{splinechain.Name, ribbonchain.Name},
		Sketch:  "M3 18C14 6 24 6 32 12S50 18 57 8M14 4a5 5 0 1 0 .1 0M34 6a5 5 0 1 0 .1 0",
		Summary: "Turn the chain as a whole from any place on: FK controls carry the homes of its handles, and the handles still work.",
		Options: parameter.Declared{}, Parameters: parameter.Declared{mechanism.Influence()},
	}
}

// wider is how much wider an FK control is than the handle that it lies over, so that both can be taken hold of.
const wider = 1.3

// Build implements mechanism.Kind. Handles that were hung elsewhere than the first stay where they hang.
func (Kind) Build(site *mechanism.Site) error {
	d := site.Document
	handles := d.Mechanism(site.Mechanism.Host).Controls
	if len(handles) < 2 {
		return fmt.Errorf("%s has no handles to carry", d.NameOf(site.Mechanism.Host))
	}
	for _, m := range d.Mechanisms {
		if m.Kind == Name && m.Host == site.Mechanism.Host {
			return fmt.Errorf("%s lies over %s already; use that, or remove it first", m.Name, d.NameOf(m.Host))
		}
	}
	space := d.Control(handles[0]).Space
	before := space
	for i, id := range handles {
		handle := d.Control(id)
		if i < len(handles)-1 {
			home := handle.Home()
			outline := make([]mgl64.Vec3, len(handle.Outline))
			for k, p := range handle.Outline {
				outline[k] = p.Mul(wider)
			}
			before = site.Handle(fmt.Sprintf("%s_%d", site.Mechanism.Name, i+1), before, home, handle.Shape, outline)
			site.Mechanism.Controls = append(site.Mechanism.Controls, before)
			handle = d.Control(id) // the list has grown
			keepPinned(*handle, d.Control(before))
		}
		if handle.Space == space {
			handle.Space = before
		}
	}
	return nil
}

// keepPinned locks the moves that are locked on the handle on the control over it as well, so that a pinned end stays pinned.
func keepPinned(handle rig.Control, over *rig.Control) {
	for _, channel := range rig.Channels[:3] {
		if handle.State(channel).Locked {
			if over.Channels == nil {
				over.Channels = map[rig.Channel]rig.ChannelState{}
			}
			over.Channels[channel] = rig.ChannelState{Locked: true, Hidden: true}
		}
	}
}

// Dismantle implements mechanism.Dismantler: the handles hang again on what the first FK control hung on.
func (Kind) Dismantle(d *rig.Document, m rig.Mechanism) {
	if len(m.Controls) == 0 {
		return
	}
	first := d.Control(m.Controls[0])
	if first == nil {
		return
	}
	own := map[string]bool{}
	for _, id := range m.Controls {
		own[id] = true
	}
	for i := range d.Controls {
		if c := &d.Controls[i]; own[c.Space] && !own[c.ID] {
			c.Space = first.Space
		}
	}
}

// Prepare implements mechanism.Kind: the turns of its controls count as much as its influence says.
func (Kind) Prepare(b *mechanism.Bench) error {
	if influence, _ := b.InfluenceOf(); influence.Constant(1) {
		return nil
	}
	for _, id := range b.Mechanism.Controls {
		b.Count(id)
	}
	return nil
}
