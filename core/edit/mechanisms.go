package edit

import (
	"errors"
	"fmt"
	"maps"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// AddMechanism builds a mechanism on joints or on another mechanism. Nothing moves by it.
type AddMechanism struct {
	Mechanism  string        `json:"mechanism"` // its kind
	Name       string        `json:"name"`
	Joints     []string      `json:"joints,omitempty"`
	Host       string        `json:"host,omitempty"`
	Options    parameter.Set `json:"options,omitempty"`
	Parameters parameter.Set `json:"parameters,omitempty"`
	// Blend lays it over what moves the joints already, with a dial that goes from that (0) to it (1).
	Blend bool `json:"blend,omitempty"`
	// Roles is who stands in which role, of those that the kind asks for. A kind with one such role can be given Joints instead.
	Roles map[string][]string `json:"roles,omitempty"`
	// Places are those that were laid by clicks, of a kind that is built on such.
	Places []mgl64.Vec3 `json:"places,omitempty"`
}

func (*AddMechanism) builds() {}

// Title implements Edit.
func (e *AddMechanism) Title(*rig.Document) string { return "Build " + e.Name }

// Touches implements Edit.
func (e *AddMechanism) Touches(*rig.Document) []string {
	touched := slices.Clone(e.Joints)
	if e.Host != "" {
		touched = append(touched, e.Host)
	}
	for _, role := range slices.Sorted(maps.Keys(e.Roles)) {
		touched = append(touched, e.Roles[role]...)
	}
	return touched
}

// Apply implements Edit.
func (e *AddMechanism) Apply(c *Context, d *rig.Document) error {
	kind, declaration, err := c.Kinds.Find(e.Mechanism)
	if err != nil {
		return err
	}
	if err := errors.Join(declaration.Options.Check(e.Options), declaration.Parameters.Check(e.Parameters)); err != nil {
		return err
	}
	if err := e.checkStand(d, declaration); err != nil {
		return err
	}
	if each := e.forEach(d, declaration); each != nil {
		for _, one := range each {
			if err := one.Apply(c, d); err != nil {
				return err
			}
		}
		return nil
	}
	built := rig.Mechanism{
		ID: d.TakeID("m"), Kind: e.Mechanism, Name: rig.UniqueName(e.Name, d.HasName), On: true, Host: e.Host,
		Joints: []string{}, Controls: []string{}, Parameters: declaration.Parameters.Complete(e.Parameters),
	}
	if err := declaration.Fill(d, &built, e.roles(d, declaration)); err != nil {
		return err
	}
	site, err := newSite(c, d, &built, declaration.Options.Complete(e.Options))
	if err != nil {
		return err
	}
	site.Over, site.Asked, site.Places = e.Blend, e.Options, e.Places
	if err := kind.Build(site); err != nil {
		return e.mended(d, fmt.Errorf("%s cannot be built: %w", declaration.Title, err))
	}
	for key, value := range e.Parameters { // what is given goes before what was measured
		built.Parameters[key] = value
	}
	if e.Blend {
		if err := blendOver(c, site, &built); err != nil {
			return err
		}
	}
	d.Mechanisms = append(d.Mechanisms, built)
	tellKeyed(c, d, built)
	return nil
}

// forEach is one edit for each of several things that are chosen, of a kind of which each gets one of its own; nil where there is but one. Each is called by the thing that it stands on.
func (e *AddMechanism) forEach(d *rig.Document, declaration mechanism.Declaration) (list []*AddMechanism) {
	asked := declaration.Asked()
	if !declaration.Each || len(asked) == 0 {
		return nil
	}
	ids := e.roles(d, declaration)[asked[0].Name]
	if len(ids) < 2 {
		return nil
	}
	for _, id := range ids {
		one := *e
		one.Joints, one.Roles = nil, maps.Clone(e.Roles)
		if one.Roles == nil {
			one.Roles = map[string][]string{}
		}
		one.Roles[asked[0].Name] = []string{id}
		one.Name = mechanism.Suffixed(d.NameOf(id), declaration.Kind)
		list = append(list, &one)
	}
	return list
}

// tellKeyed tells of clips whose keys of joints stand below a mechanism from now on.
func tellKeyed(c *Context, d *rig.Document, m rig.Mechanism) {
	for _, clip := range d.Clips {
		keyed := map[string]bool{}
		for _, track := range clip.JointTracks {
			if slices.Contains(m.Joints, track.Joint) {
				keyed[track.Joint] = true
			}
		}
		if len(keyed) > 0 {
			c.tell("%s has keys of %d of these joints, which now stand below %s: at influence 0 they are all there is, at 1 they are covered.", clip.Name, len(keyed), m.Name)
		}
	}
}

// roles is who stands in which role. Of a chain the two ends are enough.
func (e *AddMechanism) roles(d *rig.Document, declaration mechanism.Declaration) map[string][]string {
	roles := map[string][]string{}
	for name, ids := range e.Roles {
		roles[name] = ids
	}
	for _, r := range declaration.Asked() {
		if len(e.Joints) > 0 && len(roles[r.Name]) == 0 && r.Joints {
			roles[r.Name] = e.Joints
		}
		if r.Chain {
			roles[r.Name] = between(d, roles[r.Name])
		}
		if len(e.Joints) > 0 {
			break
		}
	}
	return roles
}

// between returns the whole chain from a joint to one further down it, when just these two are given; any other list as it is.
func between(d *rig.Document, joints []string) []string {
	if len(joints) != 2 {
		return joints
	}
	for _, ends := range [][2]string{{joints[0], joints[1]}, {joints[1], joints[0]}} {
		chain := []string{ends[1]}
		for at := d.Joint(ends[1]); at != nil && at.Parent != ""; at = d.Joint(at.Parent) {
			chain = append(chain, at.Parent)
			if at.Parent == ends[0] {
				slices.Reverse(chain)
				return chain
			}
			if len(chain) > len(d.Joints) {
				break
			}
		}
	}
	return joints
}

// BlendDial is the name of the dial that blends a mechanism with what lies below it.
const BlendDial rig.Channel = "blend"

// blendOver gives the mechanism a control with a dial for its influence, where what lies below it has charge at rest; the new one has, where all of that is off.
func blendOver(c *Context, site *mechanism.Site, built *rig.Mechanism) error {
	d := site.Document
	shares := func(m rig.Mechanism) bool {
		return slices.ContainsFunc(m.Joints, func(id string) bool { return slices.Contains(built.Joints, id) })
	}
	below := slices.IndexFunc(d.Mechanisms, func(m rig.Mechanism) bool { return m.On && shares(m) })
	atRest := 0.0
	if below < 0 {
		below, atRest = slices.IndexFunc(d.Mechanisms, shares), 1
	}
	if below < 0 {
		return fmt.Errorf("nothing moves these joints yet that %s could be blended with; build it by itself", built.Name)
	}
	if atRest == 1 {
		c.tell("%s is switched off, so %s has charge of these joints; switch %s on to blend the two.", d.Mechanisms[below].Name, built.Name, d.Mechanisms[below].Name)
	}
	first := d.Joint(built.Joints[0])
	reach := 0.03 * site.Size
	home := geometry.Transform{Position: first.Position.Add(geometry.Up.Mul(6 * reach)), Rotation: mgl64.QuatIdent()}
	id := site.Handle(d.Mechanisms[below].Name+"_blend", site.Space(), home, rig.Lozenge, mechanism.Outline(rig.Lozenge, reach))
	control := d.Control(id)
	control.Dials = []rig.Dial{{Name: BlendDial, Min: 0, Max: 1, Default: atRest}}
	control.Channels = map[rig.Channel]rig.ChannelState{}
	for _, channel := range rig.Channels {
		control.Channels[channel] = rig.ChannelState{Locked: true, Hidden: true}
	}
	link(d, rig.Address{Of: built.ID, Key: mechanism.InfluenceKey}, d.Control(id).Of(BlendDial))
	return nil
}

func (e *AddMechanism) checkStand(d *rig.Document, declaration mechanism.Declaration) error {
	if declaration.Stand != mechanism.OnMechanism {
		for _, id := range e.Joints {
			if d.Joint(id) == nil {
				return missing("joint", id)
			}
		}
		return nil
	}
	host := d.Mechanism(e.Host)
	if host == nil {
		return missing("mechanism", e.Host)
	}
	if !slices.Contains(declaration.Hosts, host.Kind) {
		return fmt.Errorf("a %s does not work on %s; choose a %v", declaration.Title, host.Name, declaration.Hosts)
	}
	return nil
}

// mechanismOf finds a mechanism and its kind.
func mechanismOf(c *Context, d *rig.Document, id string) (*rig.Mechanism, mechanism.Kind, error) {
	m := d.Mechanism(id)
	if m == nil {
		return nil, nil, missing("mechanism", id)
	}
	kind, _, err := c.Kinds.Find(m.Kind)
	return m, kind, err
}

// SetParameters changes parameters of a mechanism. Time is the moment, in seconds, at which the change was made, for kinds that
// keep something steady over it (a wave its phase), and for what turns by a rate.
type SetParameters struct {
	Mechanism string        `json:"mechanism"`
	Values    parameter.Set `json:"values"`
	Time      float64       `json:"time"`
	Clip      string        `json:"clip,omitempty"` // in which that moment is
}

// Title implements Edit.
func (e *SetParameters) Title(d *rig.Document) string {
	if len(e.Values) == 1 {
		for key := range e.Values {
			return fmt.Sprintf("Set %s of %s", key, d.NameOf(e.Mechanism))
		}
	}
	return fmt.Sprintf("Set %d values of %s", len(e.Values), d.NameOf(e.Mechanism))
}

// Touches implements Edit.
func (e *SetParameters) Touches(*rig.Document) []string { return []string{e.Mechanism} }

// Apply implements Edit.
func (e *SetParameters) Apply(c *Context, d *rig.Document) error {
	m, kind, err := mechanismOf(c, d, e.Mechanism)
	if err != nil {
		return err
	}
	declared := kind.Declare().Parameters
	if err := declared.Check(e.Values); err != nil {
		return err
	}
	changes := e.Values
	if adjuster, ok := kind.(mechanism.Adjuster); ok {
		changes = adjuster.Adjust(declared.Complete(m.Parameters), changes, e.Time)
	}
	return steadily(c, d, e.Clip, e.Time, func() error {
		for key, value := range changes {
			m.Parameters[key] = value
		}
		return nil
	})
}

// SwitchMechanism switches a mechanism on or off. Its controls and keys stay.
type SwitchMechanism struct {
	Mechanism string `json:"mechanism"`
	On        bool   `json:"on"`
}

func (*SwitchMechanism) builds() {}

// Title implements Edit.
func (e *SwitchMechanism) Title(d *rig.Document) string {
	if e.On {
		return "Switch on " + d.NameOf(e.Mechanism)
	}
	return "Switch off " + d.NameOf(e.Mechanism)
}

// Touches implements Edit.
func (e *SwitchMechanism) Touches(*rig.Document) []string { return []string{e.Mechanism} }

// Apply implements Edit.
func (e *SwitchMechanism) Apply(_ *Context, d *rig.Document) error {
	m := d.Mechanism(e.Mechanism)
	if m == nil {
		return missing("mechanism", e.Mechanism)
	}
	m.On = e.On
	return nil
}

// RemoveMechanism takes a mechanism off, with its controls and their keys. The joints stay where they are at rest.
type RemoveMechanism struct {
	Mechanism string `json:"mechanism"`
}

func (*RemoveMechanism) builds() {}

// Title implements Edit.
func (e *RemoveMechanism) Title(d *rig.Document) string { return "Remove " + d.NameOf(e.Mechanism) }

// Touches implements Edit.
func (e *RemoveMechanism) Touches(d *rig.Document) []string {
	touched := []string{e.Mechanism}
	if m := d.Mechanism(e.Mechanism); m != nil {
		touched = append(touched, m.Controls...)
	}
	return touched
}

// Apply implements Edit. A control that did nothing but bear its dials goes as well.
func (e *RemoveMechanism) Apply(c *Context, d *rig.Document) error {
	m := d.Mechanism(e.Mechanism)
	if m == nil {
		return missing("mechanism", e.Mechanism)
	}
	for _, other := range d.Mechanisms {
		if other.Host == m.ID {
			return fmt.Errorf("%s works on %s; remove %s first", other.Name, m.Name, other.Name)
		}
	}
	kind, _, err := c.Kinds.Find(m.Kind)
	if err != nil {
		return err
	}
	removed := *m
	if dismantler, ok := kind.(mechanism.Dismantler); ok {
		dismantler.Dismantle(d, removed)
	}
	d.Mechanisms = slices.DeleteFunc(d.Mechanisms, func(m rig.Mechanism) bool { return m.ID == e.Mechanism })
	if err := dropControls(d, removed.Controls); err != nil {
		return err
	}
	return dropBearers(d, removed)
}

// dropBearers takes off what drove a mechanism that is gone, and the controls that were there for these dials alone; they stay where something else
// uses them.
func dropBearers(d *rig.Document, removed rig.Mechanism) error {
	var bearers []string
	d.Drivers = slices.DeleteFunc(d.Drivers, func(x rig.Driver) bool {
		for _, by := range x.By {
			if x.Drives.Of == removed.ID && bearsDialsOnly(d, by.Of) {
				bearers = append(bearers, by.Of)
			}
		}
		return x.Drives.Of == removed.ID
	})
	for _, id := range bearers {
		used := slices.ContainsFunc(d.Drivers, func(x rig.Driver) bool {
			return slices.ContainsFunc(x.By, func(a rig.Address) bool { return a.Of == id })
		})
		if !used {
			_ = dropControls(d, []string{id}) // it stays where something hangs on it
		}
	}
	return nil
}

// bearsDialsOnly tells whether a control was there for its dials alone: none of its channels can be touched.
func bearsDialsOnly(d *rig.Document, id string) bool {
	control := d.Control(id)
	return control != nil && len(control.Dials) == 1 &&
		!slices.ContainsFunc(rig.Channels, func(channel rig.Channel) bool { return !control.State(channel).Locked })
}
