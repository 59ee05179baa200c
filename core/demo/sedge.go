package demo

import (
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/driver"
	"myriapod/core/edit"
	"myriapod/core/geometry"
	"myriapod/core/mechanism/ribbonchain"
	"myriapod/core/mechanism/squashbox"
	"myriapod/core/mechanism/wave"
	"myriapod/core/mesh"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/skin"
)

// Sedge's tendrils stand in a ring around its bulb, which has its middle at this height, in metres.
const (
	sedgeTendrils = 6
	sedgeJoints   = 12
	sedgeMiddle   = 0.36
)

// sedgeTendril is the middle of the first tendril, from the bulb outward, up and over: an arc whose heading falls evenly from steep up
// to down, and sways a little.
func sedgeTendril(v float64) mgl64.Vec3 {
	const from, fall, length = 1.25, 2.15, 1.55 // radians, radians, metres
	out := length * (math.Sin(from) - math.Sin(from-fall*v)) / fall
	up := length * (math.Cos(from-fall*v) - math.Cos(from)) / fall
	return mgl64.Vec3{0.06 * math.Sin(2*math.Pi*v) * v, sedgeMiddle + 0.06 + up, 0.24 + 0.8*out}
}

// sedgeTurn is the motion from the first tendril to another.
func sedgeTurn(n int) geometry.Transform {
	return geometry.Transform{Rotation: mgl64.QuatRotate(2*math.Pi*float64(n)/sedgeTendrils, geometry.Up)}
}

func sedgePieces() []piece {
	pieces := []piece{{"bulb", "#7d8f5a", sedgeBulb(0)}, {"roots", "#6d5a45", sedgeRoots()}}
	tendril := sweep(sedgeTendril, func(v float64) float64 { return 0.062 * (1 - 0.72*v) }, 72, 20)
	bud := ball(sedgeTendril(1).Add(mgl64.Vec3{0, 0.005, 0.02}), mgl64.Vec3{0.055, 0.075, 0.055}, 2, 20, 24)
	for n := range sedgeTendrils {
		pieces = append(pieces,
			piece{fmt.Sprintf("stem_%d", n+1), "#5f7f4a", placed(tendril, sedgeTurn(n))},
			piece{fmt.Sprintf("bud_%d", n+1), "#b3752f", placed(bud, sedgeTurn(n))})
	}
	return pieces
}

// sedgeShapes are the morph targets: the bulb swells as it breathes in.
func sedgeShapes() map[string][]shape {
	return map[string][]shape{"bulb": {{"swell", sedgeBulb(1)}}}
}

// sedgeBulb is a ribbed onion, swollen by a share.
func sedgeBulb(swell float64) *mesh.Mesh {
	point := func(v, a float64) mgl64.Vec3 {
		polar := math.Pi * (0.02 + 0.96*v)
		sine, cosine := math.Sincos(2 * math.Pi * a)
		rib := 1 + 0.09*swell*math.Sin(polar) + (0.035-0.015*swell)*math.Cos(2*math.Pi*12*a)*math.Sin(polar)
		reach := 0.31 * math.Pow(math.Sin(polar), 0.85) * rib
		neck := 0.1 * math.Exp(-math.Pow(v/0.12, 2))
		return mgl64.Vec3{reach * sine, sedgeMiddle + 0.3*math.Cos(polar) + neck, reach * cosine}
	}
	return orient(grid(60, 72, point, mgl64.Vec3{0, sedgeMiddle + 0.41, 0}, mgl64.Vec3{0, sedgeMiddle - 0.31, 0}))
}

// sedgeRoots is a flat foot that the bulb sits on.
func sedgeRoots() *mesh.Mesh {
	point := func(v, a float64) mgl64.Vec3 {
		sine, cosine := math.Sincos(2 * math.Pi * a)
		reach := (0.12 + 0.17*math.Sin(math.Pi*v)) * (1 + 0.18*math.Cos(2*math.Pi*7*a)*math.Sin(math.Pi*v))
		return mgl64.Vec3{reach * sine, 0.085 - 0.08*v, reach * cosine}
	}
	return orient(grid(14, 84, point, mgl64.Vec3{0, 0.09, 0}, mgl64.Vec3{0, 0.002, 0}))
}

// sedgeRigged lays one tendril, makes it six by a ring, and puts a ribbon chain and a wave on the first: the others have them too.
func sedgeRigged() []func(*rig.Document) edit.Edit {
	steps := []func(*rig.Document) edit.Edit{
		func(*rig.Document) edit.Edit {
			return &edit.LayChain{Positions: []mgl64.Vec3{{0, 0.04, 0}, {0, sedgeMiddle, 0}, {0, sedgeMiddle + 0.38, 0}}, Pattern: "bulb_#"}
		},
		func(d *rig.Document) edit.Edit {
			places := make([]mgl64.Vec3, 9)
			for i := range places {
				places[i] = sedgeTendril(float64(i) / float64(len(places)-1))
			}
			return &edit.LayChain{Positions: places, Pattern: "tendril_1_##", Count: sedgeJoints, Parent: named(d, "bulb_2")}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddRepeat{Name: "tendrils", Rule: rig.Ring, Sources: []string{named(d, "tendril_1_01")}, Count: sedgeTendrils}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{
				Mechanism: ribbonchain.Name, Name: "tendril_1", Joints: numbered(d, "tendril_1_%02d", 1, sedgeJoints),
				Options: parameter.Set{"controls": parameter.OfNumber(4)}, Parameters: parameter.Set{"stretch": parameter.OfNumber(0.15)},
			}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{
				Mechanism: wave.Name, Name: "sway_1", Host: named(d, "tendril_1"),
				Parameters: parameter.Set{
					"amplitude": parameter.OfNumber(0.09), "wavelength": parameter.OfNumber(2.4), "rate": parameter.OfNumber(0.4),
					"profile": parameter.OfProfile(parameter.Point{0, 0}, parameter.Point{1, 1}),
				},
			}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.Bind{Parts: []string{named(d, "bulb"), named(d, "roots")}, Joints: numbered(d, "bulb_%d", 1, 3), Method: string(skin.Heat)}
		},
	}
	for n := 1; n <= sedgeTendrils; n++ {
		steps = append(steps, func(d *rig.Document) edit.Edit {
			return &edit.Bind{
				Parts:  []string{named(d, fmt.Sprintf("stem_%d", n)), named(d, fmt.Sprintf("bud_%d", n))},
				Joints: numbered(d, fmt.Sprintf("tendril_%d_%%02d", n), 1, sedgeJoints), Method: string(skin.Heat),
			}
		})
	}
	return append(steps, func(d *rig.Document) edit.Edit {
		return &edit.AddMechanism{Mechanism: squashbox.Name, Name: "bulb_box", Roles: map[string][]string{"parts": {named(d, "bulb")}}}
	}, func(d *rig.Document) edit.Edit {
		return &edit.WriteDriver{
			Driver: driver.FormulaKind, Drives: []rig.Address{{Of: named(d, "bulb"), Key: "swell"}},
			Text: "below + moving * (0.45 + 0.35 * wave(time / 5) + 0.2 * noise(2 * time))",
		}
	})
}
