package rigfile

import (
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// modernise makes one ground of those that steps of version 2 had of their own.
func (f *file) modernise() {
	if f.Version > 2 {
		return
	}
	var ground parameter.Set
	for i := range f.Mechanisms {
		rest, own := rig.GroundOf(f.Mechanisms[i].Kind, f.Mechanisms[i].Parameters)
		f.Mechanisms[i].Parameters = rest
		if ground == nil {
			ground = own
		}
	}
	if ground == nil {
		return
	}
	taken := func(name string) bool {
		for _, m := range f.Mechanisms {
			if m.Name == name || m.ID == name {
				return true
			}
		}
		return false
	}
	for _, c := range f.Controls {
		if c.Name == rig.GlobalName {
			ground["level"] = parameter.OfNumber(c.Position[1])
		}
	}
	name := rig.UniqueName("ground", taken)
	f.Mechanisms = append(f.Mechanisms, mechanism{ID: name, Kind: rig.GroundKind, Name: name, Controls: []string{}, Parameters: ground})
}
