package demo

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/edit"
	"myriapod/core/mechanism/hinge"
	"myriapod/core/mechanism/hose"
	"myriapod/core/mechanism/rack"
	"myriapod/core/mesh"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Gantry Nine's winch, on the head beside the bucket: its drum, height and way ahead, so far to the right, and the rope behind it down to the hook.
var (
	gantryDrum = mgl64.Vec2{2.62, 2.9}
	gantryHook = mgl64.Vec3{gantryWinch, 1.98, 2.9 - gantryReel}
)

const (
	gantryWinch     = -0.64
	gantryReel      = 0.1
	gantryHoseBones = 12
	gantryRopeBones = 5
)

// gantryHose is the middle of the hose along the arm, from the cab over the boom to the head.
func gantryHose(v float64) mgl64.Vec3 {
	from, to := mgl64.Vec3{0.3, 1.72, 0.86}, mgl64.Vec3{0.28, 2.86, 2.62}
	bow := math.Sin(math.Pi * v)
	return from.Mul(1 - v).Add(to.Mul(v)).Add(mgl64.Vec3{0.1 * bow, 0.34 * bow, -0.16 * bow})
}

// gantryRope is the middle of the rope from the drum to the hook, a hair slack.
func gantryRope(v float64) mgl64.Vec3 {
	top := mgl64.Vec3{gantryWinch, gantryDrum[0], gantryDrum[1] - gantryReel}
	return top.Mul(1 - v).Add(gantryHook.Mul(v)).Add(mgl64.Vec3{0, 0, -0.008 * math.Sin(math.Pi*v)})
}

// gantryLines are the hose, the winch, its rope and its hook.
func gantryLines() []piece {
	plate := func(outline []mgl64.Vec2, right, left, bevel float64) *mesh.Mesh {
		return prism(outline, right, left, bevel, acrossAt(0))
	}
	tube := func(path func(float64) mgl64.Vec3, radius float64, rings, around int) *mesh.Mesh {
		return sweep(path, func(float64) float64 { return radius }, rings, around)
	}
	drum := joined(
		plate(disc(gantryDrum, gantryReel-0.012, 36), gantryWinch-0.08, gantryWinch+0.08, 0.004), plate(disc(gantryDrum, 0.14, 36), gantryWinch-0.1, gantryWinch-0.08, 0.006),
		plate(disc(gantryDrum, 0.14, 36), gantryWinch+0.08, gantryWinch+0.1, 0.006), rod(at3(gantryDrum, gantryWinch), at3(gantryDrum, -0.06), 0.035, 0.005),
	)
	bend := func(v float64) mgl64.Vec3 {
		sine, cosine := math.Sincos(1.5 * math.Pi * v)
		return gantryHook.Add(mgl64.Vec3{0, -0.2 - 0.075*sine, 0.075*cosine - 0.075})
	}
	hook := joined(
		rod(gantryHook.Add(mgl64.Vec3{-0.05, -0.03, 0}), gantryHook.Add(mgl64.Vec3{0.05, -0.03, 0}), 0.06, 0.01), rod(gantryHook.Add(mgl64.Vec3{0, -0.03, 0}), gantryHook.Add(mgl64.Vec3{0, -0.2, 0}), 0.022, 0.005),
		sweep(bend, func(v float64) float64 { return 0.026 - 0.012*v }, 24, 12),
	)
	return []piece{
		{"hose", "#2c2f31", tube(gantryHose, 0.035, 60, 16)}, {"drum", "#c9982f", drum}, {"rope", "#8b8577", tube(gantryRope, 0.012, 40, 10)}, {"hook", "#6d6a63", hook},
	}
}

// gantryLined lays joints along hose and rope, and at the winch and its hook, and binds what goes with them.
func gantryLined() []func(*rig.Document) edit.Edit {
	chain := func(pattern, on string, path func(float64) mgl64.Vec3, joints int) func(*rig.Document) edit.Edit {
		return func(d *rig.Document) edit.Edit {
			e := &edit.LayChain{Pattern: pattern, Parent: named(d, on)}
			for k := range joints {
				e.Positions = append(e.Positions, path(float64(k)/float64(joints-1)))
			}
			return e
		}
	}
	lay := func(name, on string, at mgl64.Vec3) func(*rig.Document) edit.Edit {
		return func(d *rig.Document) edit.Edit {
			return &edit.LayChain{Positions: []mgl64.Vec3{at}, Pattern: name, Parent: named(d, on)}
		}
	}
	fixed := func(part, joint string) func(*rig.Document) edit.Edit {
		return func(d *rig.Document) edit.Edit {
			return &edit.BindRigid{Parts: []string{named(d, part)}, Joint: named(d, joint)}
		}
	}
	bound := func(part, pattern string, joints int) func(*rig.Document) edit.Edit {
		return func(d *rig.Document) edit.Edit {
			return &edit.Bind{Parts: []string{named(d, part)}, Joints: numbered(d, pattern, 1, joints), Method: edit.AlongChain, Blend: 1}
		}
	}
	return []func(*rig.Document) edit.Edit{
		chain("hose_#", "turret", gantryHose, gantryHoseBones), lay("winch_axle", "nose", at3(gantryDrum, gantryWinch)), lay("hook_eye", "nose", gantryHook), chain("rope_#", "nose", gantryRope, gantryRopeBones),
		fixed("drum", "winch_axle"), fixed("hook", "hook_eye"), bound("hose", "hose_%d", gantryHoseBones), bound("rope", "rope_%d", gantryRopeBones),
	}
}

// gantryLinesRigged has the hose lead from cab to head, and the winch let the hook down on its rope.
func gantryLinesRigged() []func(*rig.Document) edit.Edit {
	return []func(*rig.Document) edit.Edit{
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{Mechanism: hose.Name, Name: "arm_hose", Roles: map[string][]string{"chain": numbered(d, "hose_%d", 1, gantryHoseBones), "end": {named(d, "nose")}}}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{
				Mechanism: hinge.Name, Name: "winch", Joints: []string{named(d, "winch_axle")}, Parameters: parameter.Set{"back": parameter.OfNumber(-180), "forth": parameter.OfNumber(360)},
			}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{
				Mechanism: rack.Name, Name: "hoist", Roles: map[string][]string{"rack": {named(d, "hook_eye")}, "by": {named(d, "winch_axle")}},
				Parameters: parameter.Set{"along": parameter.OfChoice("upright"), "radius": parameter.OfNumber(-gantryReel)},
			}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{Mechanism: hose.Name, Name: "hook_rope", Roles: map[string][]string{"chain": numbered(d, "rope_%d", 1, gantryRopeBones), "end": {named(d, "hook_eye")}}}
		},
		func(d *rig.Document) edit.Edit { // as much as the drum pays out
			return &edit.AddDriver{
				Driver: rig.LinkKind, Drives: rig.Address{Of: named(d, "hook_rope"), Key: "paid"}, By: []rig.Address{d.Control(named(d, "winch_handle")).Of(rig.RotateY)},
				Parameters: parameter.Set{"times": parameter.OfNumber(gantryReel * math.Pi / 180)},
			}
		},
	}
}
