package kindtest_test

import (
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/kindtest"
	"myriapod/core/mesh"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// A kind with two roles and no controls, which draws: it is found in the registry by its one line, built by naming who stands in its roles, and
// gives its output through the list of what is drawn.
func ExampleCarousel() {
	surface := &mesh.Mesh{Positions: []float32{0, 0, 0, 0.1, 0, 0, 0, 0.1, 0}, Triangles: []uint32{0, 1, 2}}
	surface.ComputeNormals()
	horse := surface.Encode()
	memory := edit.Memory{edit.Hash(horse): horse}
	context := &edit.Context{Kinds: kindtest.Kinds(), Surfaces: memory}
	d := rig.New("fair")
	for _, next := range []func() edit.Edit{
		func() edit.Edit {
			return &edit.AddParts{Parts: []edit.NewPart{{Name: "horse", Mesh: edit.Hash(horse), Vertices: 3, Colour: "#aa8844"}}}
		},
		func() edit.Edit { return &edit.LayChain{Positions: []mgl64.Vec3{{0, 1, 0}}, Pattern: "hub"} },
		func() edit.Edit {
			return &edit.AddMechanism{
				Mechanism: "carousel", Name: "ring", Parameters: parameter.Set{"count": parameter.OfNumber(4), "radius": parameter.OfNumber(2)},
				Roles: map[string][]string{"hub": {d.Joints[0].ID}, "horse": {d.Parts[0].ID}},
			}
		},
	} {
		result, err := edit.Apply(context, d, next())
		if err != nil {
			fmt.Println(err)
			return
		}
		d = result.Document
	}
	evaluator, body, err := evaluate.Open(d, kindtest.Kinds(), memory)
	if err != nil {
		fmt.Println(err)
		return
	}
	evaluator.Evaluate()
	for _, drawn := range body.Drawn() {
		place := drawn.Matrix(evaluator).Col(3)
		fmt.Printf("%s at %v %v %v\n", drawn.Name, math.Round(place[0])+0, math.Round(place[1])+0, math.Round(place[2])+0)
	}
	// Output:
	// horse at 0 0 0
	// horse_at_1 at 2 0 0
	// horse_at_2 at 0 0 -2
	// horse_at_3 at -2 0 0
	// horse_at_4 at 0 0 2
}
