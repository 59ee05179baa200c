package rig

import (
	"maps"

	"myriapod/core/parameter"
)

// Modernise brings a document of an older version to the present one. What it means stays the same.
func (d *Document) Modernise() {
	if d.Repeats == nil { // kept before there were any
		d.Repeats = []Repeat{}
	}
	if d.Drivers == nil {
		d.Drivers = []Driver{}
	}
	if d.Measures == nil {
		d.Measures = []Measure{}
	}
	if d.Groups == nil {
		d.Groups = []Group{}
	}
	if d.Version == 1 {
		for i := range d.Mechanisms {
			m := &d.Mechanisms[i]
			d.Drivers = append(d.Drivers, m.Links()...)
			m.Dials = nil
		}
	}
	if d.Version == 1 || d.Version == 2 {
		d.groundOfSteps()
		d.Version = Version
	}
}

// GroundKind is the kind of the ground, which version 2 had with each step.
const GroundKind = "ground"

// groundOfSteps makes one ground of those that steps had of their own, as the first that is not flat has it.
func (d *Document) groundOfSteps() {
	var ground parameter.Set
	for i := range d.Mechanisms {
		rest, own := GroundOf(d.Mechanisms[i].Kind, d.Mechanisms[i].Parameters)
		d.Mechanisms[i].Parameters = rest
		if ground == nil {
			ground = own
		}
	}
	if ground == nil {
		return
	}
	if global := d.ControlNamed(GlobalName); global != nil {
		ground["level"] = parameter.OfNumber(global.Position[1])
	}
	d.Mechanisms = append(d.Mechanisms, Mechanism{
		ID: d.TakeID("m"), Kind: GroundKind, Name: UniqueName("ground", d.HasName), On: true, Joints: []string{}, Controls: []string{}, Parameters: ground,
	})
}

// GroundOf parts the parameters of a step of version 2 into those that it has still and those of the ground, nil where that is flat.
func GroundOf(kind string, parameters parameter.Set) (rest, ground parameter.Set) {
	shape, has := parameters["ground"]
	if kind != "step" || !has {
		return parameters, nil
	}
	rest = maps.Clone(parameters)
	if shape.Choice != "" && shape.Choice != "flat" {
		ground = parameter.Set{"shape": shape, "count": parameter.OfNumber(10000)}
	}
	for _, key := range []string{"ground", "rise", "run", "begin"} {
		if value, given := parameters[key]; given && key != "ground" && ground != nil {
			ground[key] = value
		}
		delete(rest, key)
	}
	return rest, ground
}
