package edit

import (
	"errors"
	"fmt"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/mesh"
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
}

func (*AddMechanism) builds() {}

// Title implements Edit.
func (e *AddMechanism) Title(*rig.Document) string { return "Build " + e.Name }

// Touches implements Edit.
func (e *AddMechanism) Touches(*rig.Document) []string {
	if e.Host != "" {
		return append([]string{e.Host}, e.Joints...)
	}
	return e.Joints
}

// Apply implements Edit.
func (e *AddMechanism) Apply(c *Context, d *rig.Document) error {
	kind, err := c.Kinds.Find(e.Mechanism)
	if err != nil {
		return err
	}
	declaration := kind.Declare()
	if err := errors.Join(declaration.Options.Check(e.Options), declaration.Parameters.Check(e.Parameters)); err != nil {
		return err
	}
	if err := e.checkStand(d, declaration); err != nil {
		return err
	}
	built := rig.Mechanism{
		ID: d.TakeID("m"), Kind: e.Mechanism, Name: rig.UniqueName(e.Name, d.HasName), On: true, Host: e.Host,
		Joints: append([]string{}, e.Joints...), Controls: []string{}, Parameters: declaration.Parameters.Complete(e.Parameters),
	}
	site, err := e.site(c, d, &built, declaration.Options.Complete(e.Options))
	if err != nil {
		return err
	}
	if err := kind.Build(site); err != nil {
		return fmt.Errorf("%s cannot be built: %w", declaration.Title, err)
	}
	d.Mechanisms = append(d.Mechanisms, built)
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

func (e *AddMechanism) site(c *Context, d *rig.Document, built *rig.Mechanism, options parameter.Set) (*mechanism.Site, error) {
	surfaces := make([]*mesh.Mesh, 0, len(d.Parts))
	box := mesh.EmptyBounds()
	for _, part := range d.Parts {
		surface, err := c.surfaces().Mesh(part.Mesh)
		if err != nil {
			return nil, err
		}
		surfaces = append(surfaces, surface)
		bounds := surface.Bounds()
		box.Add(bounds.Min)
		box.Add(bounds.Max)
	}
	for _, joint := range d.Joints {
		box.Add(joint.Position)
	}
	site := &mechanism.Site{Document: d, Mechanism: built, Options: options}
	site.Section = func(at geometry.Transform) []mgl64.Vec3 {
		return mesh.Section(surfaces, at, mechanism.OutlinePoints, collarMargin)
	}
	if !box.Empty() {
		site.Size = box.Size()
		site.Ground = mgl64.Vec3{(box.Min[0] + box.Max[0]) / 2, box.Min[1], (box.Min[2] + box.Max[2]) / 2}
	}
	return site, nil
}

// collarMargin is how far a collar stands off the body, as a share of the body's girth there.
const collarMargin = 0.18

// SetParameters changes parameters of a mechanism. Time is the moment, in seconds, at which the change was made, for kinds that
// keep something steady over it (a wave its phase).
type SetParameters struct {
	Mechanism string        `json:"mechanism"`
	Values    parameter.Set `json:"values"`
	Time      float64       `json:"time"`
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
	m := d.Mechanism(e.Mechanism)
	if m == nil {
		return missing("mechanism", e.Mechanism)
	}
	kind, err := c.Kinds.Find(m.Kind)
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
	for key, value := range changes {
		m.Parameters[key] = value
	}
	return nil
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

// Apply implements Edit.
func (e *RemoveMechanism) Apply(_ *Context, d *rig.Document) error {
	m := d.Mechanism(e.Mechanism)
	if m == nil {
		return missing("mechanism", e.Mechanism)
	}
	for _, other := range d.Mechanisms {
		if other.Host == m.ID {
			return fmt.Errorf("%s works on %s; remove %s first", other.Name, m.Name, other.Name)
		}
	}
	gone := m.Controls
	for _, c := range d.Controls {
		if slices.Contains(gone, c.Space) && !slices.Contains(gone, c.ID) {
			return fmt.Errorf("the control %s hangs on %s; remove its mechanism first", c.Name, d.NameOf(c.Space))
		}
	}
	d.Mechanisms = slices.DeleteFunc(d.Mechanisms, func(m rig.Mechanism) bool { return m.ID == e.Mechanism })
	d.Controls = slices.DeleteFunc(d.Controls, func(c rig.Control) bool { return slices.Contains(gone, c.ID) })
	for i := range d.Clips {
		d.Clips[i].Tracks = slices.DeleteFunc(d.Clips[i].Tracks, func(t rig.Track) bool { return slices.Contains(gone, t.Control) })
	}
	return nil
}
