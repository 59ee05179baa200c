package demo

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/edit"
	"myriapod/core/geometry"
	"myriapod/core/mechanism/gear"
	"myriapod/core/mechanism/ground"
	"myriapod/core/mechanism/hinge"
	"myriapod/core/mechanism/settle"
	"myriapod/core/mechanism/wheel"
	"myriapod/core/mesh"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/terrain"
)

// The barrow's wheels, in metres: their radius, and how far to the side and ahead they stand.
const (
	barrowRadius = 0.3
	barrowWide   = 0.52
	barrowLong   = 0.62
)

// The barrow's gears, height and way ahead: the spur on the hind axle, the idler, and that of the drum, with their radii; they stand so far to the left.
var (
	barrowSpur  = mgl64.Vec2{barrowRadius, -barrowLong}
	barrowIdler = mgl64.Vec2{0.463, -0.457}
	barrowDrum  = mgl64.Vec2{0.611, -0.309}
)

const barrowGears = 0.33

// toothed is the outline of a gear.
func toothed(middle mgl64.Vec2, radius float64, teeth int) (outline []mgl64.Vec2) {
	for k := range 4 * teeth {
		sine, cosine := math.Sincos(2 * math.Pi * float64(k) / float64(4*teeth))
		reach := radius + 0.012
		if k%4 > 1 {
			reach = radius - 0.012
		}
		outline = append(outline, middle.Add(mgl64.Vec2{reach * cosine, reach * sine}))
	}
	return outline
}

// barrowPieces are the barrow's bed, wheels, gears and drum.
func barrowPieces() []piece {
	upright := geometry.Transform{Rotation: mgl64.QuatIdent()}
	plate := func(outline []mgl64.Vec2, right, left, bevel float64) *mesh.Mesh {
		return prism(outline, right, left, bevel, acrossAt(0))
	}
	bed := joined(
		prism(slab(mgl64.Vec2{-0.85, -0.4}, mgl64.Vec2{0.85, 0.4}, 0.06), 0.4, 0.47, 0.015, upright),
		prism(slab(mgl64.Vec2{0.05, -0.38}, mgl64.Vec2{0.8, 0.38}, 0.05), 0.47, 0.72, 0.03, upright),
		rod(mgl64.Vec3{-barrowWide + 0.05, barrowRadius, -barrowLong}, mgl64.Vec3{barrowWide - 0.05, barrowRadius, -barrowLong}, 0.035, 0.006),
		plate(bar(mgl64.Vec2{0.42, -0.309}, barrowDrum, 0.07, 0.05), 0.26, 0.3, 0.006), plate(bar(mgl64.Vec2{0.42, -0.309}, barrowDrum, 0.07, 0.05), -0.3, -0.26, 0.006),
	)
	tyre := func(left float64, ahead float64) *mesh.Mesh {
		at := mgl64.Vec2{barrowRadius, ahead}
		out := math.Copysign(0.06, left)
		parts := []*mesh.Mesh{plate(disc(at, barrowRadius, 40), left-0.05, left+0.05, 0.022), plate(disc(at, 0.19, 32), left-0.056, left+0.056, 0.008), plate(disc(at, 0.07, 24), left-0.08, left+0.08, 0.012)}
		for k := range 5 {
			sine, cosine := math.Sincos(2 * math.Pi * float64(k) / 5)
			bolt := mgl64.Vec3{left, at[0] + 0.12*cosine, at[1] + 0.12*sine}
			parts = append(parts, rod(bolt, bolt.Add(mgl64.Vec3{1.2 * out, 0, 0}), 0.018, 0.004))
		}
		return joined(parts...)
	}
	fork := func(left float64) *mesh.Mesh {
		inner := left - math.Copysign(0.12, left)
		return joined(rod(mgl64.Vec3{inner, 0.2, barrowLong}, mgl64.Vec3{inner, 0.42, barrowLong}, 0.035, 0.006), rod(mgl64.Vec3{inner, barrowRadius, barrowLong}, mgl64.Vec3{left, barrowRadius, barrowLong}, 0.03, 0.006))
	}
	spur := plate(toothed(barrowSpur, 0.14, 28), barrowGears-0.025, barrowGears+0.025, 0.004)
	drum := joined(plate(toothed(barrowDrum, 0.12, 24), barrowGears-0.025, barrowGears+0.025, 0.004), plate(disc(barrowDrum, 0.1, 32), -0.24, 0.24, 0.01), plate(disc(barrowDrum, 0.13, 32), 0.2, 0.24, 0.01),
		plate(disc(barrowDrum, 0.13, 32), -0.24, -0.2, 0.01), plate(bar(barrowDrum, barrowDrum.Add(mgl64.Vec2{0.09, 0}), 0.02, 0.02), -0.26, -0.24, 0.004))
	return []piece{
		{"bed", "#8f6b3e", bed},
		{"fork_L", "#5c5f60", fork(barrowWide)},
		{"fork_R", "#5c5f60", fork(-barrowWide)},
		{"wheel_FL", "#3d4244", tyre(barrowWide, barrowLong)},
		{"wheel_FR", "#3d4244", tyre(-barrowWide, barrowLong)},
		{"wheel_RL", "#3d4244", joined(tyre(barrowWide, -barrowLong), spur)},
		{"wheel_RR", "#3d4244", tyre(-barrowWide, -barrowLong)},
		{"idler", "#a88a3a", plate(toothed(barrowIdler, 0.09, 18), barrowGears-0.025, barrowGears+0.025, 0.004)},
		{"drum", "#c9982f", drum},
	}
}

// barrowSkeleton lays a joint for whatever moves by itself.
func barrowSkeleton() []func(*rig.Document) edit.Edit {
	lay := func(pattern, on string, place mgl64.Vec3) func(*rig.Document) edit.Edit {
		return func(d *rig.Document) edit.Edit {
			e := &edit.LayChain{Positions: []mgl64.Vec3{place}, Pattern: pattern}
			if on != "" {
				e.Parent = named(d, on)
			}
			return e
		}
	}
	steps := []func(*rig.Document) edit.Edit{lay("frame", "", mgl64.Vec3{0, 0.45, 0})}
	for _, side := range []struct {
		letter string
		sign   float64
	}{{"L", 1}, {"R", -1}} {
		steps = append(steps,
			lay("steer_"+side.letter, "frame", mgl64.Vec3{side.sign * (barrowWide - 0.12), barrowRadius, barrowLong}),
			lay("hub_F"+side.letter, "steer_"+side.letter, mgl64.Vec3{side.sign * barrowWide, barrowRadius, barrowLong}),
			lay("hub_R"+side.letter, "frame", mgl64.Vec3{side.sign * barrowWide, barrowRadius, -barrowLong}))
	}
	steps = append(steps, lay("idler_pin", "frame", at3(barrowIdler, barrowGears)), lay("drum_pin", "frame", at3(barrowDrum, 0)))
	for _, fixed := range [][2]string{
		{"bed", "frame"}, {"fork_L", "steer_L"}, {"fork_R", "steer_R"}, {"wheel_FL", "hub_FL"}, {"wheel_FR", "hub_FR"}, {"wheel_RL", "hub_RL"}, {"wheel_RR", "hub_RR"}, {"idler", "idler_pin"}, {"drum", "drum_pin"},
	} {
		steps = append(steps, func(d *rig.Document) edit.Edit {
			return &edit.BindRigid{Parts: []string{named(d, fixed[0])}, Joint: named(d, fixed[1])}
		})
	}
	return steps
}

// barrowRigged has the barrow steer, its wheels roll on suspensions, and its hind axle turn the drum through an idler; and it drives over a ramp.
func barrowRigged() []func(*rig.Document) edit.Edit {
	steps := append(barrowSkeleton(), func(d *rig.Document) edit.Edit {
		return &edit.AddMechanism{
			Mechanism: hinge.Name, Name: "steering", Joints: []string{named(d, "steer_L"), named(d, "steer_R")}, Options: parameter.Set{"axis": parameter.OfChoice("upright")},
			Parameters: parameter.Set{"back": parameter.OfNumber(-32), "forth": parameter.OfNumber(32), "several": parameter.OfChoice("as wheels steer"), "base": parameter.OfNumber(2 * barrowLong)},
		}
	})
	for _, place := range []string{"FL", "FR", "RL", "RR"} {
		steps = append(steps, func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{
				Mechanism: wheel.Name, Name: "roll_" + place, Joints: []string{named(d, "hub_"+place)}, Options: parameter.Set{"axis": parameter.OfChoice("across the body")},
				Parameters: parameter.Set{"travel": parameter.OfNumber(0.12)},
			}
		})
	}
	geared := func(name, joint, by string, teeth, others float64) func(*rig.Document) edit.Edit {
		return func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{
				Mechanism: gear.Name, Name: name, Roles: map[string][]string{"gear": {named(d, joint)}, "by": {named(d, by)}},
				Options:    parameter.Set{"axis": parameter.OfChoice("across the body")},
				Parameters: parameter.Set{"teeth": parameter.OfNumber(teeth), "others": parameter.OfNumber(others)},
			}
		}
	}
	return append(steps, geared("idler_gear", "idler_pin", "hub_RL", 18, 28), geared("drum_gear", "drum_pin", "idler_pin", 24, 18),
		func(*rig.Document) edit.Edit {
			return &edit.AddMechanism{Mechanism: ground.Name, Name: "ramp", Parameters: parameter.Set{
				"shape": parameter.OfChoice(string(terrain.Slope)), "rise": parameter.OfNumber(0.35), "run": parameter.OfNumber(1.6), "begin": parameter.OfNumber(1.6), "level": parameter.OfNumber(0),
			}}
		},
		func(*rig.Document) edit.Edit { return &edit.AddMechanism{Mechanism: settle.Name, Name: "settle"} },
		func(*rig.Document) edit.Edit { return &edit.AddClip{Name: "up_the_ramp", End: 144} }, barrowDrive)
}

// barrowDrive keys the way up the ramp, a bend on top of it, and a little back.
func barrowDrive(d *rig.Document) edit.Edit {
	e := &edit.SetKeys{Clip: d.Clips[0].ID}
	for _, track := range []struct {
		control string
		channel rig.Channel
		keys    [][2]float64
	}{
		{rig.RootName, rig.MoveZ, [][2]float64{{0, 0}, {84, 3.4}, {120, 4.6}, {144, 4.2}}},
		{rig.RootName, rig.MoveX, [][2]float64{{0, 0}, {84, 0}, {120, 0.35}, {144, 0.2}}},
		{rig.RootName, rig.RotateY, [][2]float64{{0, 0}, {84, 0}, {120, 0.5}, {144, 0.35}}},
		{"steering_handle", rig.RotateY, [][2]float64{{0, 0}, {76, 0}, {92, 0.42}, {116, 0.42}, {126, 0.3}, {144, 0}}},
	} {
		for _, key := range track.keys {
			e.Keys = append(e.Keys, edit.KeyValue{KeyPlace: edit.KeyPlace{Control: named(d, track.control), Channel: track.channel, Frame: key[0]}, Value: key[1], Ease: rig.Smooth})
		}
	}
	return e
}
