package demo

import (
	"fmt"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/edit"
	"myriapod/core/geometry"
	"myriapod/core/mechanism/ground"
	"myriapod/core/mechanism/settle"
	"myriapod/core/mechanism/track"
	"myriapod/core/mesh"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Gantry Nine's running gear, in metres: how far to the left a track runs, and its wheels by name, height and way ahead, with their radii. The links' pins ride gantryPins off the rims.
const (
	gantryGauge = 1.14
	gantryPitch = 0.11
	gantryPins  = 0.016
	gantrySole  = 0.046
	gantryRoad  = 0.2
)

type runner struct {
	name   string
	at     mgl64.Vec2
	radius float64
}

// gantryRunners are the wheels of the left track.
func gantryRunners() []runner {
	list := []runner{{"sprocket_L", mgl64.Vec2{0.44, -1.42}, 0.266}, {"idler_L", mgl64.Vec2{0.43, 1.42}, 0.25}}
	for k := range 4 {
		list = append(list, runner{fmt.Sprintf("road_L%d", k+1), mgl64.Vec2{gantryRoad + gantrySole, -0.84 + 0.56*float64(k)}, gantryRoad})
	}
	for k, ahead := range []float64{-0.5, 0.5} {
		list = append(list, runner{fmt.Sprintf("roller_L%d", k+1), mgl64.Vec2{0.62, ahead}, 0.065})
	}
	return list
}

// gantryRunning are the parts of the left track: its wheels, one link, and the frame that carries them on both sides.
func gantryRunning() []piece {
	upright := geometry.Transform{Rotation: mgl64.QuatIdent()}
	plate := func(outline []mgl64.Vec2, right, left, bevel float64) *mesh.Mesh {
		return prism(outline, right, left, bevel, acrossAt(0))
	}
	bolted := func(at mgl64.Vec2, reach, left float64, count int) (bolts []*mesh.Mesh) {
		for _, hole := range disc(at, reach, count) {
			bolts = append(bolts, rod(at3(hole, left), at3(hole, left+0.02), 0.016, 0.004))
		}
		return bolts
	}
	var pieces []piece
	for _, w := range gantryRunners() {
		var parts []*mesh.Mesh
		switch {
		case w.radius > 0.26:
			parts = append(parts, plate(toothed(w.at, w.radius-0.012, 16), gantryGauge-0.05, gantryGauge+0.05, 0.006), plate(disc(w.at, 0.18, 36), gantryGauge-0.08, gantryGauge+0.08, 0.012))
			parts = append(parts, bolted(w.at, 0.12, gantryGauge+0.08, 8)...)
		case w.radius > 0.1:
			for _, half := range []float64{-0.075, 0.075} {
				parts = append(parts, plate(disc(w.at, w.radius, 36), gantryGauge+half-0.04, gantryGauge+half+0.04, 0.014))
			}
			parts = append(parts, plate(disc(w.at, 0.08, 24), gantryGauge-0.13, gantryGauge+0.13, 0.012))
			parts = append(parts, bolted(w.at, 0.125, gantryGauge+0.115, 5)...)
		default:
			parts = append(parts, plate(disc(w.at, w.radius, 36), gantryGauge-0.1, gantryGauge+0.1, 0.01), rod(at3(w.at, gantryGauge-0.2), at3(w.at, gantryGauge+0.12), 0.025, 0.004))
		}
		pieces = append(pieces, piece{"wheel_" + w.name, map[bool]string{true: "#4a4e50", false: "#5c5f60"}[w.radius > 0.1], joined(parts...)})
	}
	flat := func(z, x, round float64, ahead float64) []mgl64.Vec2 {
		return slab(mgl64.Vec2{ahead - z, gantryGauge - x}, mgl64.Vec2{ahead + z, gantryGauge + x}, round)
	}
	const ahead, pins = 0.055, 0.030
	link := joined(
		prism(flat(0.05, 0.17, 0.012, ahead), 0.012, pins+0.008, 0.006, upright), prism(flat(0.012, 0.17, 0.006, ahead), 0, 0.016, 0.004, upright),
		rod(mgl64.Vec3{gantryGauge - 0.15, pins, ahead - gantryPitch/2}, mgl64.Vec3{gantryGauge + 0.15, pins, ahead - gantryPitch/2}, gantryPins, 0.003),
		rod(mgl64.Vec3{gantryGauge - 0.1, pins, ahead + gantryPitch/2}, mgl64.Vec3{gantryGauge + 0.1, pins, ahead + gantryPitch/2}, gantryPins, 0.003),
	)
	var beams []*mesh.Mesh
	for _, side := range []float64{1, -1} {
		inner := side * (gantryGauge - 0.2)
		low, high := min(inner, inner-side*0.07), max(inner, inner-side*0.07)
		beams = append(beams, plate(bar(mgl64.Vec2{0.4, -1.42}, mgl64.Vec2{0.4, 1.42}, 0.11, 0.11), low, high, 0.012))
		for _, w := range gantryRunners() {
			beams = append(beams, rod(at3(w.at, min(inner, side*(gantryGauge-0.09))), at3(w.at, max(inner, side*(gantryGauge-0.09))), 0.045, 0.006))
		}
	}
	return append(pieces, piece{"track_link", "#3d4244", link}, piece{"beams", "#a8842c", joined(beams...)})
}

// gantryWheeled lays a joint for each wheel of the left track, and has the right one be its mirror image, with its parts.
func gantryWheeled() (steps []func(*rig.Document) edit.Edit) {
	var tops []string
	for _, w := range gantryRunners() {
		tops = append(tops, w.name)
		steps = append(steps, func(d *rig.Document) edit.Edit {
			return &edit.LayChain{Positions: []mgl64.Vec3{at3(w.at, gantryGauge)}, Pattern: w.name, Parent: named(d, "base")}
		}, func(d *rig.Document) edit.Edit {
			return &edit.BindRigid{Parts: []string{named(d, "wheel_"+w.name)}, Joint: named(d, w.name)}
		})
	}
	return append(steps,
		func(d *rig.Document) edit.Edit {
			return &edit.BindRigid{Parts: []string{named(d, "beams")}, Joint: named(d, "base")}
		},
		func(d *rig.Document) edit.Edit {
			e := &edit.AddRepeat{Name: "right_track", Rule: rig.Mirror, Direction: mgl64.Vec3{1, 0, 0}, Through: true, Draws: true}
			for _, name := range tops {
				e.Sources = append(e.Sources, named(d, name))
			}
			return e
		})
}

// gantryTracked lays the left track round its wheels, on suspensions; the right one is there with it.
func gantryTracked() []func(*rig.Document) edit.Edit {
	return []func(*rig.Document) edit.Edit{func(d *rig.Document) edit.Edit {
		e := &edit.AddMechanism{Mechanism: track.Name, Name: "track_L", Roles: map[string][]string{"link": {named(d, "track_link")}}, Parameters: parameter.Set{"travel": parameter.OfNumber(0.12)}}
		for _, w := range gantryRunners() {
			e.Roles["wheels"] = append(e.Roles["wheels"], named(d, w.name))
		}
		return e
	}}
}

// gantryYard is the ground that Gantry Nine works on: level, a ramp up, level, and a step down.
func gantryYard() []piece {
	const wide, step = 2.3, 0.1
	rows := [][2]float64{{-2.4, 0}, {2.4, 0}, {4.2, 0.32}, {6.1, 0.32}, {6.1, 0.32 - step}, {8.8, 0.32 - step}}
	m := &mesh.Mesh{}
	for i := range len(rows) - 1 {
		base := uint32(m.VertexCount())
		for _, row := range rows[i : i+2] {
			for _, x := range []float64{-wide, wide} {
				m.Positions = append(m.Positions, float32(x), float32(row[1]), float32(row[0]))
			}
		}
		m.Triangles = append(m.Triangles, base, base+2, base+1, base+1, base+2, base+3)
	}
	m.ComputeNormals()
	return []piece{{"yard", "#b9ad93", m}}
}

// gantryGrounded has the machine settle on the yard, and do a day's work there.
func gantryGrounded() []func(*rig.Document) edit.Edit {
	return []func(*rig.Document) edit.Edit{
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{Mechanism: ground.Name, Name: "ground", Roles: map[string][]string{"part": {named(d, "yard")}}}
		},
		func(*rig.Document) edit.Edit {
			return &edit.AddMechanism{Mechanism: settle.Name, Name: "settle", Parameters: parameter.Set{"roll": parameter.OfNumber(1)}}
		},
		func(d *rig.Document) edit.Edit {
			between := mgl64.Vec3{0, d.Control(named(d, rig.RootName)).Position[1], 0}
			return &edit.SetPivot{Controls: []string{named(d, rig.RootName)}, Place: &between}
		},
		func(*rig.Document) edit.Edit { return &edit.AddClip{Name: "work", End: 288} }, gantryWork,
	}
}

// gantryWork keys the clip: it drives up the ramp and down the step, turns on the spot, digs, swings and empties, and lets its hook down.
func gantryWork(d *rig.Document) edit.Edit {
	e := &edit.SetKeys{Clip: d.ClipNamed("work").ID}
	for _, way := range []struct {
		control string
		channel rig.Channel
		keys    [][2]float64
	}{
		{rig.RootName, rig.MoveZ, [][2]float64{{0, 0}, {120, 5.9}, {288, 5.9}}},
		{rig.RootName, rig.RotateY, [][2]float64{{0, 0}, {126, 0}, {162, 0.8}, {288, 0.8}}},
		{"crane_handle", rig.RotateY, [][2]float64{{0, -0.2}, {150, -0.2}, {180, 0.4}, {204, 0.3}, {222, -0.2}, {288, -0.2}}},
		{"bucket_bars_handle", rig.RotateY, [][2]float64{{0, -0.3}, {150, -0.3}, {176, 0.25}, {204, -0.35}, {240, -0.35}, {256, 0.6}, {288, 0.6}}},
		{"cab_turn_handle", rig.RotateY, [][2]float64{{0, 0}, {216, 0}, {244, 1.4}, {288, 1.4}}},
		{"winch_handle", rig.RotateY, [][2]float64{{0, 0}, {248, 0}, {288, 5}}},
	} {
		for _, key := range way.keys {
			e.Keys = append(e.Keys, edit.KeyValue{KeyPlace: edit.KeyPlace{Control: named(d, way.control), Channel: way.channel, Frame: key[0]}, Value: key[1], Ease: rig.Smooth})
		}
	}
	return e
}
