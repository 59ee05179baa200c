// Package fkchain is the FK chain: a control over each joint, each hung on the one before, so that turning one carries all that follow.
package fkchain

import (
	"fmt"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "fk-chain"

// Kind is the FK chain.
type Kind struct{}

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: Name, Title: "FK chain", Stand: mechanism.OnChain, Roles: []mechanism.Role{
			mechanism.ChainRole(1, "The joints that are posed one by one."), mechanism.HandleRole("handles", "Handles", 1, 0),
		}, Hosts: []string{},
		Sketch:  "M4 18L20 10L38 12L56 4M4 14a4 4 0 1 0 .1 0M20 6a4 4 0 1 0 .1 0M38 8a4 4 0 1 0 .1 0",
		Summary: "A control over each joint, each hung on the one before. For ears, jaws, flaps and fingers, and for tails that are posed joint by joint.",
		Options: parameter.Declared{{
			Key: "end", Title: "A control at the end", Type: parameter.Toggle, Default: parameter.OfToggle(false),
			Help: "The last joint of a longer chain only ends its last bone; switch this on to turn it by itself as well.",
		}},
		Parameters: parameter.Declared{mechanism.Influence()},
	}
}

// Suits implements mechanism.Suitor: it suits any chain, and single joints before all else.
func (Kind) Suits(_ *rig.Document, chosen []string) float64 {
	if len(chosen) < 3 {
		return 0.8
	}
	return 0.5
}

// Build implements mechanism.Kind: a collar across the body at each joint, oriented as the joint is, hung on the collar before.
func (Kind) Build(site *mechanism.Site) error {
	rest, err := site.Chain(1)
	if err != nil {
		return err
	}
	space := site.Space()
	count := len(rest)
	if count > 1 && !site.Options.On("end") && !site.Over { // what is blended takes any pose over, that of the last joint as well
		count--
	}
	for i := range count {
		space = site.Collar(fmt.Sprintf("%s_%d", mechanism.Suffixed(site.Mechanism.Name, "fk"), i+1), space, rest[i], reach(site, rest, i))
		site.Mechanism.Controls = append(site.Mechanism.Controls, space)
	}
	return nil
}

// reach is the radius of a ring where there is no body to fit: a part of the bone, or of the creature for a joint without one.
func reach(site *mechanism.Site, rest []geometry.Transform, i int) float64 {
	for _, k := range []int{i, i - 1} {
		if k >= 0 && k+1 < len(rest) {
			if bone := rest[k+1].Position.Sub(rest[k].Position).Len(); bone > 0 {
				return 0.35 * bone
			}
		}
	}
	return 0.05 * site.Size
}

// link is one joint prepared for evaluation.
type link struct {
	joint, control int // control is the joint's own, or the last before it
	kept           geometry.Transform
}

type chain []link

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
	if len(joints) == 0 || len(controls) == 0 || len(controls) > len(joints) {
		return fmt.Errorf("an FK chain has a control for each joint but perhaps the last, not %d for %d; build it anew", len(controls), len(joints))
	}
	c := make(chain, len(joints))
	task := mechanism.Task{Run: c.run}
	for i, joint := range joints {
		control := controls[min(i, len(controls)-1)]
		c[i] = link{joint: joint, control: control, kept: b.Document.Controls[control].Home().Inverse().Then(b.Rest(joint))}
		task.Reads = append(task.Reads, mechanism.Resource{Kind: mechanism.Control, Index: control})
		task.Writes = append(task.Writes, mechanism.Resource{Kind: mechanism.Joint, Index: joint})
	}
	b.Add(task)
	return nil
}

// run places each joint as its control has it.
func (c chain) run(f *mechanism.Frame) {
	for i := range c {
		l := &c[i]
		f.Joints[l.joint], f.Scales[l.joint] = f.Controls[l.control].Then(l.kept), mgl64.Vec3{1, 1, 1}
	}
}
