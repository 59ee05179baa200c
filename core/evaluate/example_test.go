package evaluate_test

import (
	"fmt"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/rig"
)

// A document is opened once; inputs are set, and what stands on them is evaluated anew.
func ExampleOpen() {
	c := &edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}
	d := rig.New("Arm")
	for _, e := range []func(*rig.Document) edit.Edit{
		func(*rig.Document) edit.Edit {
			return &edit.LayChain{Positions: []mgl64.Vec3{{0, 0, 0}, {0, 1, 0}}, Pattern: "arm_#"}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{Mechanism: "fk-chain", Name: "arm", Joints: []string{d.Joints[0].ID, d.Joints[1].ID}}
		},
	} {
		result, err := edit.Apply(c, d, e(d))
		if err != nil {
			fmt.Println(err)
			return
		}
		d = result.Document
	}
	e, _, err := evaluate.Open(d, kinds.All(), edit.Memory{})
	if err != nil {
		fmt.Println(err)
		return
	}
	control := e.Plan.ControlIndex[d.ControlNamed("arm_fk_1").ID]
	if err := e.SetChannel(control, rig.MoveY, 0.5); err != nil {
		fmt.Println(err)
		return
	}
	e.Evaluate()
	fmt.Printf("%.2f\n", e.Frame.Joints[1].Position[1])
	// Output:
	// 1.50
}
