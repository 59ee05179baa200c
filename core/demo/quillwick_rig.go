package demo

import (
	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/edit"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/fkchain"
	"myriapod/core/mechanism/splinechain"
	"myriapod/core/mechanism/wave"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/skin"
)

// quillwickJoints is how many joints the spine has.
const quillwickJoints = 28

func quillwickRigged() []func(*rig.Document) edit.Edit {
	return append(append(quillwickMoving(), quillwickDials()...),
		func(*rig.Document) edit.Edit { return &edit.AddClip{Name: "swim_along", Start: 0, End: 96, Loop: true} },
		quillwickSwim)
}

// quillwickMoving lays the skeleton, builds what moves it, and binds the body.
func quillwickMoving() []func(*rig.Document) edit.Edit {
	return []func(*rig.Document) edit.Edit{
		func(*rig.Document) edit.Edit {
			places := make([]mgl64.Vec3, 9)
			for i := range places {
				places[i] = quillwickSpine(0.045 + 0.935*float64(i)/float64(len(places)-1))
			}
			return &edit.LayChain{Positions: places, Pattern: "spine_##", Count: quillwickJoints}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{
				Mechanism: splinechain.Name, Name: "spine", Joints: ids(d.Joints, func(j rig.Joint) string { return j.ID }),
				Options: parameter.Set{"controls": parameter.OfNumber(5)},
			}
		},
		renamed("spine_ctl_1", "head"),
		renamed("spine_ctl_2", "chest"),
		renamed("spine_ctl_5", "tail"),
		func(d *rig.Document) edit.Edit {
			return &edit.ShapeControls{Controls: []string{named(d, "head")}, Shape: rig.Crescent}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.Bind{
				Parts:  ids(d.Parts, func(p rig.Part) string { return p.ID }),
				Joints: ids(d.Joints, func(j rig.Joint) string { return j.ID }), Method: string(skin.Heat),
			}
		},
		func(d *rig.Document) edit.Edit {
			places := make([]mgl64.Vec3, quillwickFinJoints)
			for i := range places {
				places[i] = quillwickFinMiddle(0.08 + 0.88*float64(i)/float64(len(places)-1))
			}
			return &edit.LayChain{Positions: places, Pattern: "fin_L_#", Parent: named(d, "spine_06")}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddRepeat{Name: "fins", Rule: rig.Mirror, Sources: []string{named(d, "fin_L_1")}}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{Mechanism: fkchain.Name, Name: "fin_L_fan", Joints: numbered(d, "fin_L_%d", 1, quillwickFinJoints)}
		},
		finBound("L"),
		finBound("R"),
		func(d *rig.Document) edit.Edit {
			return &edit.AddMechanism{
				Mechanism: wave.Name, Name: "swim", Host: named(d, "spine"),
				Parameters: parameter.Set{
					"amplitude": parameter.OfNumber(0.17), "wavelength": parameter.OfNumber(1.35), "rate": parameter.OfNumber(0.75),
					"profile": parameter.OfProfile(parameter.Point{0, 0.08}, parameter.Point{0.35, 0.35}, parameter.Point{1, 1}),
				},
			}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.DriveParameter{Mechanism: named(d, "swim"), Key: mechanism.InfluenceKey, Control: named(d, mechanism.RootName), Dial: "swim"}
		},
	}
}

// quillwickFinJoints is how many joints a side fin has.
const quillwickFinJoints = 4

func finBound(side string) func(*rig.Document) edit.Edit {
	return func(d *rig.Document) edit.Edit {
		return &edit.Bind{Parts: []string{named(d, "fin_"+side)}, Joints: numbered(d, "fin_"+side+"_%d", 1, quillwickFinJoints), Method: string(skin.Heat)}
	}
}

// quillwickSwim keys the root so that Quillwick dips, leans and comes back, blinks twice and gulps.
func quillwickSwim(d *rig.Document) edit.Edit {
	root := d.ControlNamed(mechanism.RootName).ID
	set := &edit.SetKeys{Clip: d.Clips[0].ID}
	add := func(channel rig.Channel, values ...float64) {
		for i, value := range values {
			set.Keys = append(set.Keys, edit.KeyValue{
				KeyPlace: edit.KeyPlace{Control: root, Channel: channel, Frame: float64(24 * i)}, Value: value, Ease: rig.Smooth,
			})
		}
	}
	add(rig.MoveY, 0, 0.06, 0, -0.04, 0)
	add(rig.RotateZ, 0, 0.12, 0, -0.12, 0)
	at := func(channel rig.Channel, values map[float64]float64) {
		for frame, value := range values {
			set.Keys = append(set.Keys, edit.KeyValue{KeyPlace: edit.KeyPlace{Control: named(d, "head"), Channel: channel, Frame: frame}, Value: value, Ease: rig.Smooth})
		}
	}
	at("blink", map[float64]float64{0: 0, 20: 0, 23: 1, 27: 0, 70: 0, 73: 1, 78: 0, 96: 0})
	at("gulp", map[float64]float64{0: 0, 34: 0, 58: 1, 59: 0, 96: 0})
	return set
}
