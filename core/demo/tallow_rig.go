package demo

import (
	"fmt"

	"myriapod/core/edit"
	"myriapod/core/mechanism/foot"
	"myriapod/core/mechanism/limb"
	"myriapod/core/mechanism/splinechain"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// tallowRigged builds one leg, and so all forty-four, a trunk and a feeler, and binds them.
func tallowRigged() []func(*rig.Document) edit.Edit {
	steps := append(tallowSkeleton(),
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{
				Mechanism: splinechain.Name, Name: "trunk", Joints: numbered(d, "trunk_%02d", 1, tallowSegments+1),
				Options: parameter.Set{"controls": parameter.OfNumber(7)}, Parameters: parameter.Set{"stretch": parameter.OfNumber(0.1)},
			}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{
				Mechanism: limb.Name, Name: "stride_L01", Joints: []string{named(d, "leg_L01_1"), named(d, fmt.Sprintf("leg_L01_%d", tallowJoints))},
				Options: parameter.Set{"pole": parameter.OfToggle(false)},
			}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{Mechanism: foot.Name, Name: "foot_L01", Host: named(d, "stride_L01")}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{
				Mechanism: splinechain.Name, Name: "feeler_L_bow", Joints: numbered(d, "feeler_L_%02d", 1, feelerJoints),
				Options: parameter.Set{"controls": parameter.OfNumber(4)}, Parameters: parameter.Set{"stretch": parameter.OfNumber(0.1)},
			}
		},
	)
	return append(steps, tallowBindings()...)
}

func tallowBindings() []func(*rig.Document) edit.Edit {
	bind := func(part string, joints func(*rig.Document) []string) func(*rig.Document) edit.Edit {
		return func(d *rig.Document) edit.Edit {
			return &edit.Bind{Parts: []string{named(d, part)}, Joints: joints(d), Blend: 1.5}
		}
	}
	steps := []func(*rig.Document) edit.Edit{
		bind("trunk", func(d *rig.Document) []string { return numbered(d, "trunk_%02d", 1, tallowSegments+1) }),
	}
	for _, part := range []string{"head", "eye_L", "eye_R"} {
		steps = append(steps, bind(part, func(d *rig.Document) []string { return []string{named(d, "head_1")} }))
	}
	for _, side := range []string{"L", "R"} {
		steps = append(steps, bind("feeler_"+side, func(d *rig.Document) []string { return numbered(d, "feeler_"+side+"_%02d", 1, feelerJoints) }))
		for i := 1; i <= tallowSegments; i++ {
			leg := fmt.Sprintf("leg_%s%02d", side, i)
			steps = append(steps, bind(leg, func(d *rig.Document) []string { return numbered(d, leg+"_%d", 1, tallowJoints) }))
		}
	}
	for n := 1; n <= tallowLanterns; n++ {
		for part, joint := range map[string]int{"hook": 1, "lantern": 3} {
			steps = append(steps, bind(fmt.Sprintf("%s_%d", part, n), func(d *rig.Document) []string {
				return []string{named(d, fmt.Sprintf("lantern_hook_%d_%d", n, joint))}
			}))
		}
	}
	return steps
}
