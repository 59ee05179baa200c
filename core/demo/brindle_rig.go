package demo

import (
	"fmt"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/edit"
	"myriapod/core/mechanism/aim"
	"myriapod/core/mechanism/fkchain"
	"myriapod/core/mechanism/fkover"
	"myriapod/core/mechanism/splinechain"
	"myriapod/core/mechanism/wave"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/skin"
)

// Joints of Old Brindle's families.
const (
	brindleSpine = 9
	brindleNeck  = 12
	brindleTail  = 16
	brindleStilt = 4
)

// brindleSkeleton lays the spine from the hips to the chest, the neck and the tail from where it ends, the head, and the legs of one side,
// which are mirrored.
func brindleSkeleton() []func(*rig.Document) edit.Edit {
	steps := []func(*rig.Document) edit.Edit{
		func(*rig.Document) edit.Edit {
			return &edit.LayChain{Positions: brindleRow(brindleHips, brindleChest, 15), Pattern: "spine_##", Count: brindleSpine}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.LayChain{
				Positions: brindleRow(brindleChest, brindleSkull, 25), Pattern: "neck_##", Count: brindleNeck,
				Parent: named(d, fmt.Sprintf("spine_%02d", brindleSpine)),
			}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.LayChain{Positions: brindleRow(0.125, 0.02, 2), Pattern: "head_#", Parent: named(d, fmt.Sprintf("neck_%02d", brindleNeck))}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.LayChain{Positions: brindleRow(brindleHips, 0.99, 31), Pattern: "tail_##", Count: brindleTail, Parent: named(d, "spine_01")}
		},
	}
	for _, side := range []struct {
		letter string
		sign   float64
	}{{"L", 1}, {"R", -1}} {
		steps = append(steps, func(d *rig.Document) edit.Edit {
			return &edit.LayChain{Positions: []mgl64.Vec3{brindleEye(side.sign)}, Pattern: "eye_joint_" + side.letter, Parent: named(d, "head_1")}
		})
	}
	carriers := []string{"spine_08", "spine_05", "spine_02"}
	for pair, carrier := range carriers {
		steps = append(steps, func(d *rig.Document) edit.Edit {
			places := make([]mgl64.Vec3, brindleStilt)
			for i, v := range []float64{0.06, 0.38, 0.74, brindleAnkle} {
				places[i] = brindleLeg(pair, v)
			}
			return &edit.LayChain{Positions: places, Pattern: fmt.Sprintf("leg_L%d_#", pair+1), Parent: named(d, carrier)}
		})
	}
	steps = append(steps, func(d *rig.Document) edit.Edit {
		return &edit.OrientJoints{Joints: append(numbered(d, "neck_%02d", 1, brindleNeck), numbered(d, "head_%d", 1, 2)...), Aim: true, Second: edit.Carried}
	})
	return append(steps, func(d *rig.Document) edit.Edit {
		return &edit.AddRepeat{
			Name: "legs", Rule: rig.Mirror, Sources: []string{named(d, "leg_L1_1"), named(d, "leg_L2_1"), named(d, "leg_L3_1")},
		}
	})
}

// brindleRigged makes spine, neck and tail three spline chains, pins them to each other, lays FK over the tail and blends FK into the neck.
func brindleRigged() []func(*rig.Document) edit.Edit {
	chain := func(name string, joints, controls int, parameters parameter.Set) func(*rig.Document) edit.Edit {
		return func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{
				Mechanism: splinechain.Name, Name: name, Joints: numbered(d, name+"_%02d", 1, joints),
				Options: parameter.Set{"controls": parameter.OfNumber(float64(controls))}, Parameters: parameters,
			}
		}
	}
	pin := func(name, to string) func(*rig.Document) edit.Edit {
		return func(d *rig.Document) edit.Edit {
			return &edit.PinEnd{Mechanism: named(d, name), End: edit.First, To: named(d, to)}
		}
	}
	steps := append(brindleSkeleton(),
		chain("spine", brindleSpine, 4, nil),
		chain("neck", brindleNeck, 4, parameter.Set{"stretch": parameter.OfNumber(0.2)}),
		chain("tail", brindleTail, 5, parameter.Set{"stretch": parameter.OfNumber(0.2)}),
		pin("neck", fmt.Sprintf("spine_%02d", brindleSpine)),
		pin("tail", "spine_01"),
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{Mechanism: fkover.Name, Name: "tail_fk", Host: named(d, "tail")}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{
				Mechanism: wave.Name, Name: "swish", Host: named(d, "tail"),
				Parameters: parameter.Set{
					"amplitude": parameter.OfNumber(0.1), "wavelength": parameter.OfNumber(2.2), "rate": parameter.OfNumber(0.35),
					"profile": parameter.OfProfile(parameter.Point{0, 0}, parameter.Point{0.3, 0.2}, parameter.Point{1, 1}),
				},
			}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{
				Mechanism: fkchain.Name, Name: "bow", Joints: numbered(d, "neck_%02d", 1, brindleNeck), Blend: true,
			}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{Mechanism: fkchain.Name, Name: "head", Joints: numbered(d, "head_%d", 1, 2)}
		},
		turnsOnly("bow_fk_%d", brindleNeck),
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{Mechanism: aim.Name, Name: "gaze", Joints: []string{named(d, "eye_joint_L"), named(d, "eye_joint_R")}, Options: parameter.Set{"distance": parameter.OfNumber(2)}, Parameters: parameter.Set{"cone": parameter.OfNumber(40)}}
		},
		renamed("spine_ctl_1", "hips"),
		renamed("spine_ctl_4", "chest"),
		renamed("neck_ctl_4", "skull"),
		renamed("tail_ctl_5", "tail_tip"),
		func(d *rig.Document) edit.Edit {
			return &edit.ShapeControls{Controls: []string{named(d, "skull")}, Shape: rig.Crescent}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.OfferSpaces{Controls: []string{named(d, "skull")}, Spaces: []string{named(d, rig.GlobalName), ""}}
		},
	)
	steps = append(append(append(append(steps, brindleBindings()...), brindleSaddled()...), append(brindleHooked(), brindleLegged()...)...),
		func(*rig.Document) edit.Edit {
			return &edit.AddGroup{Name: "head_handles", Like: []string{"skull", "neck_ctl_*", "bow_fk_*", "head_fk_*", "gaze*"}, Of: []string{"control"}, Colour: "#7b4a12"}
		},
		func(*rig.Document) edit.Edit {
			return &edit.AddGroup{Name: "tail_handles", Like: []string{"tail*"}, Of: []string{"control"}, Colour: "#2c6e49"}
		},
		func(*rig.Document) edit.Edit {
			return &edit.AddGroup{Name: "inner_handles", Like: []string{"spine_ctl_*"}, Of: []string{"control"}, Backstage: true}
		},
		func(*rig.Document) edit.Edit { return &edit.AddClip{Name: "look_about", Start: 0, End: 96, Loop: true} },
		brindleLook,
		func(*rig.Document) edit.Edit { return &edit.AddClip{Name: "up_the_stairs", Start: 0, End: 288} },
		brindleClimb)
	return append(steps, brindleSetsDown()...)
}

// turnsOnly locks the moves of controls numbered from 1.
func turnsOnly(pattern string, count int) func(*rig.Document) edit.Edit {
	return func(d *rig.Document) edit.Edit {
		locked := true
		lock := &edit.ChangeChannels{Controls: numbered(d, pattern, 1, count)}
		for _, channel := range rig.Channels[:3] {
			lock.Changes = append(lock.Changes, edit.ChannelChange{Channel: channel, Locked: &locked, Hidden: &locked})
		}
		return lock
	}
}

// brindleBindings binds the body along its three families, the legs to their joints, and what is carried to where it is carried.
func brindleBindings() []func(*rig.Document) edit.Edit {
	bind := func(parts, joints func(*rig.Document) []string) func(*rig.Document) edit.Edit {
		return func(d *rig.Document) edit.Edit {
			return &edit.Bind{Parts: parts(d), Joints: joints(d), Method: string(skin.Heat)}
		}
	}
	list := func(names ...string) func(*rig.Document) []string {
		return func(d *rig.Document) []string {
			ids := make([]string, len(names))
			for i, name := range names {
				ids[i] = named(d, name)
			}
			return ids
		}
	}
	steps := []func(*rig.Document) edit.Edit{
		bind(list("body"), func(d *rig.Document) []string {
			joints := append(numbered(d, "spine_%02d", 1, brindleSpine), numbered(d, "neck_%02d", 1, brindleNeck)...)
			return append(append(joints, numbered(d, "head_%d", 1, 2)...), numbered(d, "tail_%02d", 1, brindleTail)...)
		}),
		bind(list("cloth"), func(d *rig.Document) []string { return numbered(d, "spine_%02d", 1, brindleSpine) }),
		bind(list("pole", "banner"), list("spine_02")),
		bind(list("eye_L"), list("eye_joint_L")),
		bind(list("eye_R"), list("eye_joint_R")),
	}
	for _, side := range []string{"L", "R"} {
		for pair := range brindleLegs {
			leg := fmt.Sprintf("leg_%s%d", side, pair+1)
			shoe := fmt.Sprintf("shoe_%s%d", side, pair+1)
			steps = append(steps, bind(list(leg), func(d *rig.Document) []string { return numbered(d, leg+"_%d", 1, brindleStilt) }),
				bind(list(shoe), list(fmt.Sprintf("%s_%d", leg, brindleStilt))))
		}
	}
	return steps
}

// brindleLook keys a look about: the neck rises and turns, the chest leans after it, the tail comes round.
func brindleLook(d *rig.Document) edit.Edit {
	set := &edit.SetKeys{Clip: d.Clips[0].ID}
	add := func(control string, channel rig.Channel, values ...float64) {
		for i, value := range values {
			set.Keys = append(set.Keys, edit.KeyValue{
				KeyPlace: edit.KeyPlace{Control: named(d, control), Channel: channel, Frame: float64(96 * i / (len(values) - 1))}, Value: value, Ease: rig.Smooth,
			})
		}
	}
	add("skull", rig.MoveX, 0, 0.5, 0, -0.5, 0)
	add("skull", rig.MoveZ, 0, -0.1, -0.3, -0.1, 0)
	add("skull", rig.RotateZ, 0, -0.5, 0, 0.5, 0)
	add("chest", rig.MoveX, 0, 0.05, 0, -0.05, 0)
	add("tail_fk_2", rig.RotateZ, 0, 0.25, 0, -0.25, 0)
	return set
}
