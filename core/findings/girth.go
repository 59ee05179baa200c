package findings

import (
	"fmt"

	"myriapod/core/edit"
	"myriapod/core/repeat"
)

// girthLost tells of mechanisms that keep volume where the skin hangs not on their joints but on joints of its own below them, as some files bring it: a
// girth is each joint's own and does not travel down to those.
func girthLost(x *repeat.Expansion) (list []Finding) {
	d := x.Document
	bound, children, moved := map[string]bool{}, map[string][]string{}, map[string]bool{}
	for _, b := range d.Bindings {
		for _, id := range b.Joints {
			bound[id] = true
		}
	}
	for _, j := range d.Joints {
		children[j.Parent] = append(children[j.Parent], j.ID)
	}
	for _, m := range d.Mechanisms {
		for _, id := range m.Joints {
			moved[id] = true
		}
	}
	for _, m := range d.Mechanisms {
		if _, copied := x.Origins[m.ID]; copied || !m.On || !(m.Parameters.Number("volume") > 0) {
			continue
		}
		var leaves []string
		for _, id := range m.Joints {
			if bound[id] {
				continue
			}
			for _, child := range children[id] {
				if bound[child] && !moved[child] && len(children[child]) == 0 {
					leaves = append(leaves, child)
				}
			}
		}
		if len(leaves) > 0 {
			list = append(list, Finding{
				Skin, m.ID, fmt.Sprintf("Keep volume of %s does nothing: the skin hangs on %d joints below its own, such as %s, which its girth does not reach.", m.Name, len(leaves), d.NameOf(leaves[0])),
				mend("Let the skin hang on its joints", &edit.HandUpWeights{Joints: leaves}),
			})
		}
	}
	return list
}
