package demo

import (
	"fmt"

	"myriapod/core/edit"
	"myriapod/core/mechanism/foot"
	"myriapod/core/mechanism/ground"
	"myriapod/core/mechanism/limb"
	"myriapod/core/mechanism/splinechain"
	"myriapod/core/mechanism/step"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/skin"
	"myriapod/core/terrain"
)

// tallowRigged builds one leg, and so all forty-four, a trunk and a feeler, and binds them.
func tallowRigged() []func(*rig.Document) edit.Edit {
	steps := append(tallowSkeleton(),
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{
				Mechanism: splinechain.Name, Name: "spine", Joints: numbered(d, "trunk_%02d", 1, tallowSegments+1),
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
		func(*rig.Document) edit.Edit {
			return &edit.AddMechanism{Mechanism: ground.Name, Name: "ground", Parameters: parameter.Set{
				"shape": parameter.OfChoice(string(terrain.Slope)), "rise": parameter.OfNumber(tallowRamp), "run": parameter.OfNumber(1.6), "begin": parameter.OfNumber(3.4),
			}}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{
				Mechanism: step.Name, Name: "step_L01", Host: named(d, "stride_L01"),
				Parameters: parameter.Set{
					"stride": parameter.OfNumber(0.42), "lift": parameter.OfNumber(0.1), "duty": parameter.OfNumber(0.68), "wave": parameter.OfNumber(1.6), "sides": parameter.OfNumber(0.5),
				},
			}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{
				Mechanism: splinechain.Name, Name: "feeler_L_bow", Joints: numbered(d, "feeler_L_%02d", 1, feelerJoints),
				Options: parameter.Set{"controls": parameter.OfNumber(4)}, Parameters: parameter.Set{"stretch": parameter.OfNumber(0.1)},
			}
		},
	)
	return append(append(steps, tallowBindings()...),
		func(*rig.Document) edit.Edit { return &edit.AddClip{Name: "over_the_ramp", Start: 0, End: 192} },
		tallowWalk)
}

// tallowRamp is how high the ramp is that Tallow walks over, in metres.
const tallowRamp = 0.14

// tallowWalk keys the body along a bend and its front up the ramp; legs and feelers follow by themselves.
func tallowWalk(d *rig.Document) edit.Edit {
	set := &edit.SetKeys{Clip: d.Clips[0].ID}
	add := func(control string, channel rig.Channel, values ...float64) {
		for i, value := range values {
			set.Keys = append(set.Keys, edit.KeyValue{
				KeyPlace: edit.KeyPlace{Control: named(d, control), Channel: channel, Frame: float64(192 * i / (len(values) - 1))}, Value: value, Ease: rig.Smooth,
			})
		}
	}
	add(rig.RootName, rig.MoveZ, 0, 0.7, 1.45, 2.2, 2.9)
	add(rig.RootName, rig.MoveX, 0, 0, 0.05, 0.2, 0.4)
	add(rig.RootName, rig.RotateY, 0, 0, 0.06, 0.14, 0.2)
	add(rig.RootName, rig.MoveY, 0, 0.01, 0, 0.01, 0)
	add("spine_ctl_1", rig.MoveZ, 0, 0, tallowRamp*0.6, tallowRamp, tallowRamp)
	add("spine_ctl_2", rig.MoveZ, 0, 0, 0, tallowRamp*0.6, tallowRamp)
	add("feeler_L_bow_ctl_4", rig.MoveX, 0, 0.1, -0.1, 0.1, 0)
	return set
}

func tallowBindings() []func(*rig.Document) edit.Edit {
	bind := func(alike bool, joints func(*rig.Document) []string, parts ...string) func(*rig.Document) edit.Edit {
		return func(d *rig.Document) edit.Edit {
			ids := make([]string, len(parts))
			for i, part := range parts {
				ids[i] = named(d, part)
			}
			return &edit.Bind{Parts: ids, Joints: joints(d), Method: string(skin.Heat), Alike: alike}
		}
	}
	list := func(pattern string, from, to int) func(*rig.Document) []string {
		return func(d *rig.Document) []string { return numbered(d, pattern, from, to) }
	}
	steps := []func(*rig.Document) edit.Edit{
		bind(false, list("trunk_%02d", 1, tallowSegments+1), "trunk"),
		bind(false, list("head_%d", 1, 1), "head", "eye_L", "eye_R"),
		bind(true, list("feeler_L_%02d", 1, feelerJoints), "feeler_L"),
		bind(true, list("leg_L01_%d", 1, tallowJoints), "leg_L01"),
		bind(true, list("lantern_hook_1_%d", 1, 1), "hook_1"),
	}
	for n := 1; n <= tallowLanterns; n++ {
		steps = append(steps, bind(false, list(fmt.Sprintf("lantern_hook_%d_%%d", n), 3, 3), fmt.Sprintf("lantern_%d", n)))
	}
	return steps
}
