// Package survey looks a document over for what a page shows of it and must not work out by itself: sides, chains, and who carries the whole.
package survey

import (
	"strings"

	"myriapod/core/rig"
)

// Survey is what is seen of a document with its copies.
type Survey struct {
	Sides  map[string]rig.Side `json:"sides"`  // by ID, of what is not in the middle
	Chains [][]string          `json:"chains"` // every joint stands in one: from the first joint to the last
	Root   string              `json:"root"`   // the control that carries the body; empty for none
	Global string              `json:"global"` // the control that carries and scales everything
	// States is, by ID, how what stands in groups may be seen and touched.
	States map[string]rig.State `json:"states"`
}

// Of surveys a document.
func Of(d *rig.Document) Survey {
	s := Survey{Sides: map[string]rig.Side{}, Chains: Chains(d), States: d.States()}
	d.EachNamed(func(id, name string) bool {
		if side := rig.SideOf(name); side != rig.Centre {
			s.Sides[id] = side
		}
		return true
	})
	if root := d.ControlNamed(rig.RootName); root != nil {
		s.Root = root.ID
	}
	if global := d.ControlNamed(rig.GlobalName); global != nil {
		s.Global = global.ID
	}
	return s
}

// Chains cuts the skeleton into chains: joints that follow one another as long as there is one way among those that are numbered alike. What stands alone
// by that goes with its neighbours as long as there is one way at all.
func Chains(d *rig.Document) [][]string {
	stems := make(map[string]string, len(d.Joints))
	for _, j := range d.Joints {
		stems[j.ID] = strings.TrimRight(j.Name, "0123456789")
	}
	alike := follow(d, func(a, b string) bool { return stems[a] == stems[b] })
	var list [][]string
	alone := map[string]bool{}
	for _, chain := range alike {
		if len(chain) == 1 {
			alone[chain[0]] = true
			continue
		}
		list = append(list, chain)
	}
	for _, chain := range follow(d, func(a, b string) bool { return alone[a] && alone[b] }) {
		if alone[chain[0]] {
			list = append(list, chain)
		}
	}
	return list
}

// follow lists the stretches of joints in which each is the only one below the one before it that belongs with it.
func follow(d *rig.Document, together func(a, b string) bool) (list [][]string) {
	below := map[string][]string{}
	parents := map[string]string{}
	for _, j := range d.Joints {
		parents[j.ID] = j.Parent
		if j.Parent != "" && together(j.Parent, j.ID) {
			below[j.Parent] = append(below[j.Parent], j.ID)
		}
	}
	for _, j := range d.Joints {
		if siblings := below[parents[j.ID]]; j.Parent != "" && len(siblings) == 1 && siblings[0] == j.ID {
			continue // it stands in the chain of its parent
		}
		chain := []string{j.ID}
		for at := j.ID; len(below[at]) == 1; {
			at = below[at][0]
			chain = append(chain, at)
		}
		list = append(list, chain)
	}
	return list
}
