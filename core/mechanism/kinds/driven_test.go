package kinds_test

import (
	"math/rand/v2"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/require"

	"myriapod/core/driver"
	"myriapod/core/edit"
	"myriapod/core/mechanism/fkchain"
	"myriapod/core/mechanism/splinechain"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// driven is a chain posed by FK or along a curve whose controls are worked out by drivers.
func driven(kind string, write func(d *rig.Document, random *rand.Rand, bone float64) []edit.Edit) family {
	return func(t require.TestingT, random *rand.Rand, shape func(*rand.Rand, int) []mgl64.Vec3, s stage) *rig.Document {
		d, _ := build(t, s.place(shape(random, 7)), []layer{{kind: kind}})
		for _, e := range write(d, random, s.bone) {
			d, _ = apply(t, d, e)
		}
		return d
	}
}

// driverFamilies lists the drivers that the tests of all kinds go through, on what they drive.
func driverFamilies() map[string]family {
	own := func(d *rig.Document, i int) rig.Control { return d.Controls[len(d.Controls)-1-i] }
	formulas := func(d *rig.Document, random *rand.Rand, bone float64) []edit.Edit {
		root := d.ControlNamed(rig.RootName)
		text := "below + moving * 20 * wave(turns(root.rotateY / 360) + time + index / 3) + 5 * noise(root.rotateX / 40, index) + 30 * ease(root.rotateZ, -90, 90) + within(root.rotateX / 9, -8, 8)"
		return []edit.Edit{
			&edit.WriteDriver{Driver: driver.FormulaKind, Drives: []rig.Address{own(d, 0).Of(rig.RotateX), own(d, 1).Of(rig.RotateY), own(d, 2).Of(rig.RotateZ)}, Text: text},
			&edit.AddDial{Controls: []string{root.ID}, Dial: rig.Dial{Name: "reach", Min: -bone, Max: bone, Unit: "m"}},
			&edit.WriteDriver{Driver: driver.FormulaKind, Drives: []rig.Address{own(d, 1).Of(rig.MoveX)}, Text: "mix(below, root.reach, 0.5 + 0.5 * wave(root.rotateX / 360)) + abs(root.reach)"},
		}
	}
	swings := func(d *rig.Document, _ *rand.Rand, _ float64) []edit.Edit {
		return []edit.Edit{&edit.AddSwing{Name: "sway", Drives: []rig.Address{own(d, 0).Of(rig.RotateX), own(d, 1).Of(rig.RotateX)}}, &edit.AddSwing{Name: "heave", Drives: []rig.Address{own(d, 1).Of(rig.MoveY)}}}
	}
	responses := func(d *rig.Document, random *rand.Rand, bone float64) []edit.Edit {
		points := func(reach float64) parameter.Value {
			return parameter.OfProfile(parameter.Point{-40, reach * random.NormFloat64()}, parameter.Point{0, 0}, parameter.Point{25, reach * random.NormFloat64()}, parameter.Point{90, reach * random.NormFloat64()})
		}
		answer := func(drives rig.Address, by rig.Channel, reach float64, end string) edit.Edit {
			return &edit.AddDriver{Driver: driver.ResponseKind, Drives: drives, By: []rig.Address{d.ControlNamed(rig.RootName).Of(by)}, Parameters: parameter.Set{
				driver.Points: points(reach), driver.Before: parameter.OfChoice(end), driver.After: parameter.OfChoice(end),
			}}
		}
		return []edit.Edit{
			answer(own(d, 0).Of(rig.RotateX), rig.RotateY, 40, driver.Climb), answer(own(d, 1).Of(rig.RotateZ), rig.RotateX, 40, driver.Mirror),
			answer(own(d, 1).Of(rig.MoveZ), rig.RotateZ, bone, driver.Hold), answer(own(d, 2).Of(rig.MoveX), rig.RotateX, bone, driver.Repeat), answer(own(d, 2).Of(rig.RotateX), rig.RotateZ, 20, driver.Straight),
		}
	}
	return map[string]family{
		"formulas on FK": driven(fkchain.Name, formulas), "formulas on spline": driven(splinechain.Name, formulas),
		"swings on FK": driven(fkchain.Name, swings), "responses on FK": driven(fkchain.Name, responses), "responses on spline": driven(splinechain.Name, responses),
	}
}
