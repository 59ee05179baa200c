package demo

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/driver"
	"myriapod/core/edit"
	"myriapod/core/geometry"
	"myriapod/core/mechanism/fkchain"
	"myriapod/core/mesh"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/skin"
)

// brindleSeat is where the saddle sits, a share of the body from the snout.
const brindleSeat = 0.487

// brindleSaddle is a padded seat over the cloth, low in the middle, with a pommel before and a back behind.
func brindleSaddle() *mesh.Mesh {
	_, side, back := brindleAcross(brindleSeat)
	radii, _ := brindleGirth.At(brindleSeat)
	bend := func(x float64) float64 { return math.Copysign(math.Pow(math.Abs(x), 0.55), x) }
	return orient(grid(34, 44, func(v, a float64) mgl64.Vec3 {
		polar := math.Pi * (0.02 + 0.96*v)
		along := bend(math.Cos(polar)) // 1 before, -1 behind
		round := bend(math.Sin(polar))
		sine, cosine := math.Sincos(2 * math.Pi * a)
		across, up := 0.2*round*bend(sine), 0.045*round*bend(cosine)
		rise := 0.11*math.Pow(math.Max(0, along), 3) + 0.13*math.Pow(math.Max(0, -along), 3)
		sag := -0.55 * across * across / radii[0] // it lies over the back
		at := brindleMiddle(brindleSeat - 0.052*along)
		return at.Add(side.Mul(across)).Add(back.Mul(radii[1] + 0.055 + up + rise + sag))
	}, brindleMiddle(brindleSeat-0.053).Add(back.Mul(radii[1]+0.16)), brindleMiddle(brindleSeat+0.053).Add(back.Mul(radii[1]+0.18))))
}

// brindleSaddled has the saddle lean into the bend of the spine, which is measured, by a response.
func brindleSaddled() []func(*rig.Document) edit.Edit {
	_, _, back := brindleAcross(brindleSeat)
	radii, _ := brindleGirth.At(brindleSeat)
	return []func(*rig.Document) edit.Edit{
		func(d *rig.Document) edit.Edit {
			return &edit.LayChain{Positions: []mgl64.Vec3{brindleMiddle(brindleSeat).Add(back.Mul(radii[1] + 0.02))}, Pattern: "saddle_joint", Parent: named(d, "spine_05")}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{Mechanism: fkchain.Name, Name: "saddle_seat", Joints: []string{named(d, "saddle_joint")}}
		},
		renamed("saddle_seat_fk_1", "seat"),
		func(d *rig.Document) edit.Edit {
			return &edit.AddMeasure{Measure: "angle", Name: "bend_of_spine", Of: []string{named(d, "spine_06")}, Axis: geometry.SecondAxis}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddDriver{
				Driver: driver.ResponseKind, Drives: d.Control(named(d, "seat")).Of(rig.RotateZ), By: []rig.Address{{Of: named(d, "bend_of_spine"), Key: rig.MeasureKey}},
				Parameters: parameter.Set{driver.Points: parameter.OfProfile(parameter.Point{-8, 12}, parameter.Point{0, 0}, parameter.Point{8, -12})},
			}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.Bind{Parts: []string{named(d, "saddle")}, Joints: []string{named(d, "saddle_joint")}, Method: string(skin.Heat)}
		},
	}
}
