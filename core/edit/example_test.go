package edit_test

import (
	"fmt"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/edit"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/rig"
)

// An edit makes the next document of one and leaves that as it was. What it did beside what was asked is told.
func ExampleApply() {
	c := &edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}, Tell: func(text string) { fmt.Println("told:", text) }}
	before := rig.New("Reed")
	laid, err := edit.Apply(c, before, &edit.LayChain{Positions: []mgl64.Vec3{{0, 0, 0}, {0, 0.5, 0}, {0, 1, 0}}, Pattern: "stem_#"})
	if err != nil {
		fmt.Println(err)
		return
	}
	var joints []string
	for _, j := range laid.Document.Joints {
		joints = append(joints, j.ID)
	}
	built, err := edit.Apply(c, laid.Document, &edit.AddMechanism{Mechanism: "spline-chain", Name: "bow", Joints: joints})
	fmt.Println(len(before.Joints), len(built.Document.Joints), len(built.Document.Controls), built.Drift.Moved, err)
	_, err = edit.Apply(c, built.Document, &edit.DeleteJoints{Joints: joints[:1]})
	fmt.Println(err)
	// Output:
	// 0 3 5 false <nil>
	// stem_1 is moved by bow; remove that mechanism first
}
