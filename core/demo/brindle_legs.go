package demo

import (
	"fmt"

	"myriapod/core/edit"
	"myriapod/core/mechanism/ground"
	"myriapod/core/mechanism/limb"
	"myriapod/core/mechanism/settle"
	"myriapod/core/mechanism/step"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/terrain"
)

// brindleLegged has Old Brindle's legs reach and step, on stairs that its body settles on.
func brindleLegged() (steps []func(*rig.Document) edit.Edit) {
	for pair := range brindleLegs {
		leg := fmt.Sprintf("leg_L%d", pair+1)
		steps = append(steps,
			func(d *rig.Document) edit.Edit {
				return &edit.AddMechanism{
					Mechanism: limb.Name, Name: fmt.Sprintf("stilt_L%d", pair+1), Joints: []string{named(d, leg+"_1"), named(d, fmt.Sprintf("%s_%d", leg, brindleStilt))},
					Options: parameter.Set{"pole": parameter.OfToggle(false)},
				}
			},
			func(d *rig.Document) edit.Edit {
				return &edit.AddMechanism{
					Mechanism: step.Name, Name: fmt.Sprintf("step_L%d", pair+1), Host: named(d, fmt.Sprintf("stilt_L%d", pair+1)),
					Parameters: parameter.Set{"stride": parameter.OfNumber(0.5), "lift": parameter.OfNumber(0.07)},
				}
			})
	}
	return append(steps,
		func(*rig.Document) edit.Edit { return &edit.LayPattern{Mechanism: step.Name, Pattern: "ripple"} },
		func(*rig.Document) edit.Edit {
			return &edit.AddMechanism{Mechanism: ground.Name, Name: "stairs", Parameters: parameter.Set{
				"shape": parameter.OfChoice(string(terrain.Steps)), "rise": parameter.OfNumber(0.11), "run": parameter.OfNumber(0.5), "begin": parameter.OfNumber(1.6), "count": parameter.OfNumber(5),
				"level": parameter.OfNumber(0),
			}}
		},
		func(*rig.Document) edit.Edit {
			return &edit.AddMechanism{Mechanism: settle.Name, Name: "settle", Parameters: parameter.Set{"roll": parameter.OfNumber(0.4)}}
		},
	)
}

// brindleClimb keys the body's way up the stairs and on, with a look to the side on the way.
func brindleClimb(d *rig.Document) edit.Edit {
	set := &edit.SetKeys{Clip: d.Clips[1].ID}
	add := func(control string, channel rig.Channel, values ...float64) {
		for i, value := range values {
			set.Keys = append(set.Keys, edit.KeyValue{
				KeyPlace: edit.KeyPlace{Control: named(d, control), Channel: channel, Frame: float64(288 * i / (len(values) - 1))}, Value: value, Ease: rig.Smooth,
			})
		}
	}
	add(rig.RootName, rig.MoveZ, 0, 1.5, 3, 4.5, 6)
	add(rig.RootName, rig.MoveY, -0.02, -0.09, -0.12, -0.1, -0.03)
	add(rig.RootName, rig.MoveX, 0, 0, 0.1, 0.15, 0.15)
	add(rig.RootName, rig.RotateY, 0, 0.03, 0.05, 0.02, 0)
	add("skull", rig.MoveX, 0, 0.1, 0.3, -0.2, 0)
	add("skull", rig.MoveZ, 0, -0.1, -0.15, 0, 0)
	return set
}
