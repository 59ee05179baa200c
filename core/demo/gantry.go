package demo

import (
	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/edit"
	"myriapod/core/geometry"
	"myriapod/core/mechanism/bars"
	"myriapod/core/mechanism/hinge"
	"myriapod/core/mechanism/ram"
	"myriapod/core/mesh"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Pins of Gantry Nine's crane, height and way ahead, in metres: of the boom and the guide on the cab, of both on the head, of the ram, and of the bucket.
var (
	gantryBoom   = mgl64.Vec2{1.55, 0.75}
	gantryGuide  = mgl64.Vec2{1.95, 0.75}
	gantryHead   = mgl64.Vec2{2.75, 2.75}
	gantryTop    = gantryHead.Add(gantryGuide).Sub(gantryBoom)
	gantryBarrel = mgl64.Vec2{1.02, 1.05}
	gantryRod    = mgl64.Vec2{2.05, 1.72}
	gantryBucket = mgl64.Vec2{2.35, 3.05}
	// of the bucket's four-bar: the bell crank on the head, its end, the bucket's ear; and of its ram
	gantryBell = mgl64.Vec2{2.86, 3.03}
	gantryPull = mgl64.Vec2{2.74, 3.4}
	gantryEar  = mgl64.Vec2{2.36, 3.42}
	gantryCurl = [2]mgl64.Vec2{{3.16, 2.3}, {3.16, 3.1}}
)

// gantryDoor is the cab's door: hinged at its rear edge, on the left side.
var gantryDoor = struct{ low, high mgl64.Vec3 }{mgl64.Vec3{0.78, 1.05, -0.62}, mgl64.Vec3{0.83, 2.35, 0.12}}

// at3 is a place of the crane's plane, so far to the left.
func at3(p mgl64.Vec2, left float64) mgl64.Vec3 { return mgl64.Vec3{left, p[0], p[1]} }

// gantryPieces are Gantry Nine's body, cab and crane.
func gantryPieces() []piece {
	upright := geometry.Transform{Rotation: mgl64.QuatIdent()}
	level := func(x, z, round float64) []mgl64.Vec2 { return slab(mgl64.Vec2{-z, -x}, mgl64.Vec2{z, x}, round) }
	plate := func(outline []mgl64.Vec2, left, right, bevel float64) *mesh.Mesh {
		return prism(outline, right, left, bevel, acrossAt(0))
	}
	pin := func(p mgl64.Vec2, half float64) *mesh.Mesh {
		return joined(rod(at3(p, -half), at3(p, half), 0.055, 0.008), rod(at3(p, half), at3(p, half+0.03), 0.085, 0.01), rod(at3(p, -half-0.03), at3(p, -half), 0.085, 0.01))
	}
	chassis := joined(prism(level(0.95, 1.35, 0.12), 0.35, 0.78, 0.04, upright), prism(level(1.05, 0.5, 0.08), 0.42, 0.66, 0.03, upright))
	turntable := prism(disc(mgl64.Vec2{}, 0.72, 48), 0.78, 0.92, 0.02, upright)
	cab := joined(
		prism(slab(mgl64.Vec2{-1.0, -0.78}, mgl64.Vec2{0.35, 0.78}, 0.1), 0.95, 1.12, 0.03, upright),
		prism(slab(mgl64.Vec2{-1.0, -0.76}, mgl64.Vec2{-0.62, 0.76}, 0.08), 1.12, 1.75, 0.05, upright),
		prism(slab(mgl64.Vec2{-0.66, -0.76}, mgl64.Vec2{0.2, -0.06}, 0.08), 1.12, 2.4, 0.06, upright),
		prism(slab(mgl64.Vec2{-0.66, -0.06}, mgl64.Vec2{0.2, 0.76}, 0.08), 2.28, 2.4, 0.04, upright),
		plate(slab(mgl64.Vec2{1.1, 0.2}, mgl64.Vec2{2.1, 0.9}, 0.12), -0.16, -0.24, 0.015),
		plate(slab(mgl64.Vec2{1.1, 0.2}, mgl64.Vec2{2.1, 0.9}, 0.12), 0.24, 0.16, 0.015),
		plate(bar(gantryBarrel, mgl64.Vec2{1.1, 0.5}, 0.12, 0.2), 0.24, 0.16, 0.015),
		plate(bar(gantryBarrel, mgl64.Vec2{1.1, 0.5}, 0.12, 0.2), -0.16, -0.24, 0.015),
		pin(gantryBoom, 0.25), pin(gantryGuide, 0.25), pin(gantryBarrel, 0.25),
	)
	d := gantryDoor
	door := joined(
		prism(slab(mgl64.Vec2{d.low[2], d.low[0]}, mgl64.Vec2{d.high[2], d.high[0]}, 0.01), d.low[1], d.high[1], 0.008, upright),
		rod(mgl64.Vec3{0.83, 1.65, 0.02}, mgl64.Vec3{0.87, 1.65, 0.02}, 0.03, 0.006),
	)
	between := func(a, b mgl64.Vec2, share float64) mgl64.Vec2 { return a.Mul(1 - share).Add(b.Mul(share)) }
	boom := joined(plate(bar(gantryBoom, gantryHead, 0.15, 0.12), 0.13, 0.07, 0.012), plate(bar(gantryBoom, gantryHead, 0.15, 0.12), -0.07, -0.13, 0.012),
		plate(bar(between(gantryBoom, gantryHead, 0.2), between(gantryBoom, gantryHead, 0.85), 0.07, 0.06), 0.07, -0.07, 0.01), plate(bar(gantryRod, between(gantryBoom, gantryHead, 0.42), 0.1, 0.16), 0.13, 0.07, 0.012),
		plate(bar(gantryRod, between(gantryBoom, gantryHead, 0.42), 0.1, 0.16), -0.07, -0.13, 0.012), pin(gantryHead, 0.16), pin(gantryRod, 0.14))
	guide := joined(plate(bar(gantryGuide, gantryTop, 0.085, 0.085), 0.05, -0.05, 0.012), pin(gantryTop, 0.16))
	head := joined(plate(slab(mgl64.Vec2{2.25, 2.62}, mgl64.Vec2{3.28, 3.15}, 0.12), 0.06, -0.06, 0.015), plate(bar(gantryCurl[0], mgl64.Vec2{3.1, 2.72}, 0.09, 0.12), 0.05, -0.05, 0.012))
	along := gantryRod.Sub(gantryBarrel).Normalize()
	barrel := joined(rod(at3(gantryBarrel, 0), at3(gantryBarrel.Add(along.Mul(0.78)), 0), 0.095, 0.012), rod(at3(gantryBarrel.Add(along.Mul(0.74)), 0), at3(gantryBarrel.Add(along.Mul(0.8)), 0), 0.11, 0.012))
	piston := joined(rod(at3(gantryRod, 0), at3(gantryRod.Sub(along.Mul(0.9)), 0), 0.05, 0.008), rod(at3(gantryRod, -0.065), at3(gantryRod, 0.065), 0.1, 0.012))
	bucket := joined(
		pin(gantryBucket, 0.32), plate(bar(gantryBucket, gantryEar, 0.06, 0.06), 0.1, 0.06, 0.01), plate(bar(gantryBucket, gantryEar, 0.06, 0.06), -0.06, -0.1, 0.01),
		plate(slab(mgl64.Vec2{1.78, 2.98}, mgl64.Vec2{2.5, 3.12}, 0.05), 0.42, -0.42, 0.015),
		plate([]mgl64.Vec2{{1.72, 2.98}, {2.0, 3.75}, {2.12, 3.78}, {2.45, 3.0}}, 0.46, 0.42, 0.01), plate([]mgl64.Vec2{{1.72, 2.98}, {2.0, 3.75}, {2.12, 3.78}, {2.45, 3.0}}, -0.42, -0.46, 0.01),
		plate(bar(mgl64.Vec2{1.78, 3.02}, mgl64.Vec2{1.98, 3.74}, 0.04, 0.03), 0.44, -0.44, 0.01),
	)
	bell := joined(plate(bar(gantryBell, gantryPull, 0.07, 0.06), 0.12, 0.07, 0.01), plate(bar(gantryBell, gantryPull, 0.07, 0.06), -0.07, -0.12, 0.01),
		plate(bar(gantryBell, gantryCurl[1], 0.07, 0.06), 0.12, 0.07, 0.01), plate(bar(gantryBell, gantryCurl[1], 0.07, 0.06), -0.07, -0.12, 0.01), pin(gantryBell, 0.13), pin(gantryPull, 0.13), pin(gantryCurl[1], 0.13))
	link := joined(plate(bar(gantryPull, gantryEar, 0.055, 0.055), 0.05, -0.05, 0.01), pin(gantryEar, 0.1))
	curl := gantryCurl[1].Sub(gantryCurl[0]).Normalize()
	curlBarrel := joined(rod(at3(gantryCurl[0], 0), at3(gantryCurl[0].Add(curl.Mul(0.5)), 0), 0.07, 0.01), rod(at3(gantryCurl[0], -0.09), at3(gantryCurl[0], 0.09), 0.08, 0.01))
	curlRod := joined(rod(at3(gantryCurl[1], 0), at3(gantryCurl[1].Sub(curl.Mul(0.58)), 0), 0.035, 0.006), rod(at3(gantryCurl[1], -0.06), at3(gantryCurl[1], 0.06), 0.07, 0.01))
	return append([]piece{
		{"chassis", "#c9982f", chassis},
		{"turntable", "#5c5f60", turntable},
		{"cab", "#d5a53a", cab},
		{"door", "#b98a2c", door},
		{"boom", "#d5a53a", boom},
		{"guide", "#5c5f60", guide},
		{"head", "#c9982f", head},
		{"barrel", "#3d4244", barrel},
		{"piston", "#c7cbcc", piston},
		{"bucket", "#6d6a63", bucket},
		{"bell", "#d5a53a", bell},
		{"link", "#5c5f60", link},
		{"curl_barrel", "#3d4244", curlBarrel},
		{"curl_piston", "#c7cbcc", curlRod},
	}, append(gantryRunning(), gantryLines()...)...)
}

// gantrySkeleton lays a joint for whatever moves by itself, and one at the end of each bar that is pinned there.
func gantrySkeleton() []func(*rig.Document) edit.Edit {
	lay := func(pattern, on string, places ...mgl64.Vec3) func(*rig.Document) edit.Edit {
		return func(d *rig.Document) edit.Edit {
			e := &edit.LayChain{Positions: places, Pattern: pattern}
			if on != "" {
				e.Parent = named(d, on)
			}
			return e
		}
	}
	steps := []func(*rig.Document) edit.Edit{
		lay("base", "", mgl64.Vec3{0, 0.6, 0}),
		lay("turret", "base", mgl64.Vec3{0, 0.95, 0}),
		lay("latch", "turret", mgl64.Vec3{gantryDoor.high[0], 1.7, gantryDoor.low[2]}),
		lay("jib", "turret", at3(gantryBoom, 0)),
		lay("nose", "jib", at3(gantryHead, 0)),
		lay("nose_end", "nose", at3(gantryTop, 0)),
		lay("tie", "turret", at3(gantryGuide, 0)),
		lay("tie_end", "tie", at3(gantryTop, 0)),
		lay("lift_foot", "turret", at3(gantryBarrel, 0)),
		lay("lift_head", "jib", at3(gantryRod, 0)),
		lay("scoop", "nose", at3(gantryBucket, 0)),
		lay("scoop_ear", "scoop", at3(gantryEar, 0)),
		lay("bell_pin", "nose", at3(gantryBell, 0)),
		lay("pull", "bell_pin", at3(gantryPull, 0)),
		lay("pull_end", "pull", at3(gantryEar, 0)),
		lay("curl_foot", "nose", at3(gantryCurl[0], 0)),
		lay("curl_head", "bell_pin", at3(gantryCurl[1], 0)),
	}
	for _, fixed := range [][2]string{
		{"chassis", "base"}, {"turntable", "turret"}, {"cab", "turret"}, {"door", "latch"}, {"boom", "jib"}, {"guide", "tie"}, {"head", "nose"}, {"barrel", "lift_foot"}, {"piston", "lift_head"}, {"bucket", "scoop"}, {"bell", "bell_pin"}, {"link", "pull"}, {"curl_barrel", "curl_foot"}, {"curl_piston", "curl_head"},
	} {
		steps = append(steps, func(d *rig.Document) edit.Edit {
			return &edit.BindRigid{Parts: []string{named(d, fixed[0])}, Joint: named(d, fixed[1])}
		})
	}
	return append(steps, append(gantryWheeled(), gantryLined()...)...)
}

// gantryRigged has the cab turn, the door open, the crane follow one handle, the ram go along, and the bucket tip; and it digs.
func gantryRigged() []func(*rig.Document) edit.Edit {
	hinged := func(name, joint string, back, forth float64, axis string) func(*rig.Document) edit.Edit {
		return func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{
				Mechanism: hinge.Name, Name: name, Joints: []string{named(d, joint)}, Options: parameter.Set{"axis": parameter.OfChoice(axis)},
				Parameters: parameter.Set{"back": parameter.OfNumber(back), "forth": parameter.OfNumber(forth)},
			}
		}
	}
	const found = "found on the part"
	steps := append(gantrySkeleton(), hinged("cab_turn", "turret", -170, 170, found), hinged("door_swing", "latch", 0, 110, found),
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{Mechanism: bars.Name, Name: "crane", Roles: map[string][]string{"driver": {named(d, "jib")}, "bars": {named(d, "nose"), named(d, "tie")}, "ram": {named(d, "lift_foot"), named(d, "lift_head")}, "hold": {named(d, "nose_end")}}}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{Mechanism: ram.Name, Name: "lift", Roles: map[string][]string{"barrel": {named(d, "lift_foot")}, "rod": {named(d, "lift_head")}}}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{
				Mechanism: bars.Name, Name: "bucket_bars", Roles: map[string][]string{
					"driver": {named(d, "bell_pin")}, "bars": {named(d, "scoop"), named(d, "pull")}, "ram": {named(d, "curl_foot"), named(d, "curl_head")},
				},
			}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{Mechanism: ram.Name, Name: "curl", Roles: map[string][]string{"barrel": {named(d, "curl_foot")}, "rod": {named(d, "curl_head")}}}
		})
	steps = append(append(steps, gantryTracked()...), gantryLinesRigged()...)
	return append(steps, func(*rig.Document) edit.Edit { return &edit.AddClip{Name: "dig", End: 120, Loop: true} }, gantryDig)
}

// gantryDig keys the clip: the crane lowers, the bucket fills, the cab swings round and the bucket empties.
func gantryDig(d *rig.Document) edit.Edit {
	e := &edit.SetKeys{Clip: d.ClipNamed("dig").ID}
	for _, track := range []struct {
		handle string
		keys   [][2]float64
	}{
		{"crane_handle", [][2]float64{{0, 0}, {24, 0.42}, {44, 0.3}, {60, -0.2}, {96, -0.2}, {120, 0}}},
		{"bucket_bars_handle", [][2]float64{{0, 0}, {20, 0.25}, {44, -0.35}, {70, -0.35}, {86, 0.6}, {104, 0.6}, {120, 0}}},
		{"cab_turn_handle", [][2]float64{{0, 0}, {52, 0}, {76, 1.5}, {98, 1.5}, {120, 0}}},
	} {
		for _, key := range track.keys {
			e.Keys = append(e.Keys, edit.KeyValue{KeyPlace: edit.KeyPlace{Control: named(d, track.handle), Channel: rig.RotateY, Frame: key[0]}, Value: key[1], Ease: rig.Smooth})
		}
	}
	return e
}
