package driver_test

import (
	"fmt"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Between is a driver that keeps what stands below it between two other numbers. It is one type, and one line in the registry: influence, order, limits,
// copies, the rig file, undo and the card come by themselves.
type Between struct{}

func (Between) Declare() mechanism.DriverDeclaration {
	return mechanism.DriverDeclaration{
		Kind: "between", Title: "Between", Summary: "Keeps a number between two others.", Least: 2, Most: 2,
		Parameters: parameter.Declared{mechanism.Influence()},
	}
}

func (Between) Prepare(b *mechanism.DriverBench) (mechanism.Drive, error) {
	low, err := b.Read(0)
	if err != nil {
		return nil, err
	}
	high, err := b.Read(1)
	return func(f *mechanism.Frame, below float64) float64 { return max(low.At(f), min(high.At(f), below)) }, err
}

// A new driver is laid on a number like those that ship.
func Example() {
	all := kinds.All()
	registry := mechanism.NewRegistry(all.Kinds, append(all.Drivers, Between{}), all.Measures)
	d := rig.New("x")
	for _, next := range []func() edit.Edit{
		func() edit.Edit {
			return &edit.AddControl{Name: "handle", Shape: rig.Hoop, Reach: 1, Position: mgl64.Vec3{}}
		},
		func() edit.Edit {
			return &edit.AddDriver{Driver: "between", Drives: d.Controls[0].Of(rig.MoveX), By: []rig.Address{d.Controls[0].Of(rig.MoveY), d.Controls[0].Of(rig.MoveZ)}}
		},
	} {
		result, err := edit.Apply(&edit.Context{Kinds: registry, Surfaces: edit.Memory{}}, d, next())
		if err != nil {
			fmt.Println(err)
			return
		}
		d = result.Document
	}
	e, _, err := evaluate.Open(d, registry, edit.Memory{})
	if err != nil {
		fmt.Println(err)
		return
	}
	for channel, value := range map[rig.Channel]float64{rig.MoveX: 9, rig.MoveY: -1, rig.MoveZ: 2} {
		_ = e.SetChannel(0, channel, value)
	}
	trace, _ := e.TraceNumber(d.Controls[0].Of(rig.MoveX))
	fmt.Println(trace.Input, "comes to", trace.Value)
	// Output: 9 comes to 2
}
