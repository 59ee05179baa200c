package demo

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/edit"
	"myriapod/core/mechanism/prop"
	"myriapod/core/mesh"
	"myriapod/core/rig"
)

// brindleGrip is where the boat hook is taken hold of.
var brindleGrip = mgl64.Vec3{-0.37, 1.62, 0.78}

// brindleHook is a boat hook carried along the right flank.
func brindleHook() *mesh.Mesh {
	return sweep(func(v float64) mgl64.Vec3 {
		bend := math.Max(0, v-0.86) / 0.14
		return mgl64.Vec3{-0.37, 1.62 - 0.09*bend*bend, -0.85 + 1.75*math.Min(v, 0.93) + 0.04*bend - 0.11*bend*bend}
	}, func(v float64) float64 { return 0.018 - 0.006*v }, 70, 12)
}

// brindleHooked has the boat hook held by the flank, by the muzzle, or by the world.
func brindleHooked() []func(*rig.Document) edit.Edit {
	return []func(*rig.Document) edit.Edit{
		func(d *rig.Document) edit.Edit {
			return &edit.LayChain{Positions: []mgl64.Vec3{brindleGrip}, Pattern: "hook_grip"}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.BindRigid{Parts: []string{named(d, "boat_hook")}, Joint: named(d, "hook_grip")}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{Mechanism: prop.Name, Name: "hook", Roles: map[string][]string{"prop": {named(d, "hook_grip")}, "holders": {named(d, "spine_05"), named(d, "head_2")}}}
		},
	}
}

// brindleSetsDown keys the clip in which the boat hook is set down: the neck turns back to it, the muzzle takes it from the flank, and lays it on the ground.
func brindleSetsDown() []func(*rig.Document) edit.Edit {
	give := func(to string, frame float64) func(*rig.Document) edit.Edit {
		return func(d *rig.Document) edit.Edit {
			e := &edit.Give{Mechanism: named(d, "hook"), Clip: d.ClipNamed("sets_down_hook").ID, Frame: frame}
			if to != "" {
				e.To = named(d, to)
			}
			return e
		}
	}
	return []func(*rig.Document) edit.Edit{
		func(*rig.Document) edit.Edit { return &edit.AddClip{Name: "sets_down_hook", End: 168} },
		brindleReaches,
		give("head_2", 50), give("", 122),
	}
}

// brindleReaches keys the neck: the muzzle down to the boat hook, up with it, down to the ground, and back.
func brindleReaches(d *rig.Document) edit.Edit {
	e := &edit.SetKeys{Clip: d.ClipNamed("sets_down_hook").ID}
	moves, turns, both := rig.Channels[:3], rig.Channels[3:6], rig.Channels[:6]
	still := make([]float64, 6)
	for _, keyed := range []struct {
		control  string
		channels []rig.Channel
		poses    [7][]float64 // turning to it, near the hook, at it, up with it, lower, over the ground, on it
	}{
		{"skull", both, [7][]float64{{0.16, -0.365, 0.008, -0.285, -0.108, -0.076}, {1.089, -3.435, -0.732, -0.516, -0.219, -0.168}, {0.73, -2.219, -0.686, -0.516, -0.219, -0.168}, {0.265, -0.123, -0.041, -0.004, 0.167, 0.187}, {0.326, -0.409, -0.816, -0.247, 0.134, 0.29}, {0.121, -0.984, -1.032, -0.536, -0.028, 0.407}, {0.169, -1.464, -1.295, -0.536, -0.028, 0.407}}},
		{"neck_ctl_2", moves, [7][]float64{{-0.03, 0.128, 0.028}, {-0.05, 0.288, 0.07}, {-0.05, 0.288, 0.07}, {0, 0.012, 0.011}, {0, 0.018, -0.075}, {0, -0.014, -0.114}, {0, -0.164, -0.195}}},
		{"neck_ctl_3", moves, [7][]float64{{0, 0.129, -0.028}, {0.02, 0.213, 0.103}, {0.02, 0.147, 0.082}, {0.04, -0.041, 0.013}, {0.04, -0.212, -0.345}, {0.06, -0.465, -0.476}, {0.1, -0.96, -0.456}}},
		{"head_fk_1", turns, [7][]float64{{-0.425, 0.009, -0.188}, {1.199, -1.451, 1.132}, {1.226, -1.182, 0.891}, {0.044, 0.068, -0.043}, {-0.23, -0.026, 0.113}, {-0.612, -0.466, -0.015}, {-0.416, -0.384, -0.017}}},
		{rig.RootName, moves[1:2], [7][]float64{{0}, {0}, {0}, {0}, {0}, {0}, {-0.27}}},
	} {
		p := keyed.poses
		turning, near, at, up, lower, over, ground := p[0], p[1], p[2], p[3], p[4], p[5], p[6]
		for _, pose := range []struct {
			frame  float64
			values []float64
		}{{0, still}, {18, turning}, {36, near}, {46, at}, {54, at}, {70, turning}, {84, up}, {95, lower}, {106, over}, {118, ground}, {126, ground}, {138, over}, {147, lower}, {156, up}, {168, still}} {
			for k, channel := range keyed.channels {
				e.Keys = append(e.Keys, edit.KeyValue{KeyPlace: edit.KeyPlace{Control: named(d, keyed.control), Channel: channel, Frame: pose.frame}, Value: pose.values[k], Ease: rig.Smooth})
			}
		}
	}
	return e
}
