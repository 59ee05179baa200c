package demo

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/driver"
	"myriapod/core/edit"
	"myriapod/core/mesh"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Angles of a lid's rim above the middle of the eye, in radians: open, half closed, and closed.
const (
	lidOpen = 0.95
	lidHalf = 0.45
	lidShut = 0.02
)

// quillwickLid is both lids of one eye, two shells that meet in the corners, with their rims so far from the middle of the eye.
func quillwickLid(side, rim float64) *mesh.Mesh {
	const s = 0.062
	width, height := quillwickRadii(s)
	at := quillwickSpine(s).Add(mgl64.Vec3{side * width * 0.8, height * 0.52, 0})
	shell := func(up float64) *mesh.Mesh {
		return orient(grid(22, 28, func(v, a float64) mgl64.Vec3 {
			along := (v - 0.5) * 0.96 * math.Pi
			back, thick, share := 2.2, 1.16, 2*a // from the back over the outer face to the rim, and back along the inner one
			if a > 0.5 {
				thick, share = 1.07, 2-2*a
			}
			about := up * (back + (rim-back)*share)
			return at.Add(mgl64.Vec3{
				side * 0.019 * thick * math.Cos(about) * math.Cos(along), 0.022 * thick * math.Sin(about) * math.Cos(along), 0.022 * thick * math.Sin(along),
			})
		}, at.Sub(mgl64.Vec3{0, 0, 0.0245}), at.Add(mgl64.Vec3{0, 0, 0.0245})))
	}
	return joined(shell(1), shell(-1))
}

// quillwickShapes are the morph targets: the lids close, and bulge over the eye on the way; the throat swells, and the cheeks puff.
func quillwickShapes() map[string][]shape {
	lids := func(side float64) []shape {
		return []shape{{"half", quillwickLid(side, lidHalf)}, {"shut", quillwickLid(side, lidShut)}}
	}
	return map[string][]shape{"lid_L": lids(1), "lid_R": lids(-1), "body": append(quillwickGulps(), quillwickCheeks())}
}

// gulpsAt are the shares of the body, from the snout, at which a gulp swells the throat on its way down.
var gulpsAt = []float64{0.115, 0.165, 0.225}

func quillwickGulps() (shapes []shape) {
	for i, at := range gulpsAt {
		shapes = append(shapes, shape{"gulp_" + string(rune('1'+i)), quillwickBody(func(s, cosine float64) float64 {
			return 1 + 0.32*math.Exp(-math.Pow((s-at)/0.026, 2))*math.Max(0, 0.35-0.65*cosine)
		})})
	}
	return shapes
}

// quillwickCheeks is the face with its cheeks full.
func quillwickCheeks() shape {
	return shape{"cheeks", quillwickBody(func(s, cosine float64) float64 {
		side := 1 - cosine*cosine
		return 1 + 0.17*math.Exp(-math.Pow((s-0.09)/0.017, 2))*side*side
	})}
}

// quillwickDials has the lids blink and the throat gulp by dials on the head, and the fins paddle by a swing with dials on the root.
func quillwickDials() []func(*rig.Document) edit.Edit {
	dial := func(name rig.Channel) func(*rig.Document) edit.Edit {
		return func(d *rig.Document) edit.Edit {
			return &edit.AddDial{Controls: []string{named(d, "head")}, Dial: rig.Dial{Name: name, Max: 1}}
		}
	}
	answer := func(part, morph string, by rig.Channel, join string, points ...parameter.Point) func(*rig.Document) edit.Edit {
		return func(d *rig.Document) edit.Edit {
			return &edit.AddDriver{
				Driver: driver.ResponseKind, Drives: rig.Address{Of: named(d, part), Key: morph}, By: []rig.Address{d.Control(named(d, "head")).Of(by)},
				Parameters: parameter.Set{driver.Points: parameter.OfProfile(points...), driver.Join: parameter.OfChoice(join)},
			}
		}
	}
	steps := []func(*rig.Document) edit.Edit{dial("blink"), dial("gulp"), dial("puff"), answer("body", "cheeks", "puff", driver.Smooth, parameter.Point{0, 0}, parameter.Point{1, 1})}
	for _, lid := range []string{"lid_L", "lid_R"} {
		steps = append(steps,
			answer(lid, "half", "blink", driver.Straight, parameter.Point{0, 0}, parameter.Point{0.5, 1}, parameter.Point{1, 0}),
			answer(lid, "shut", "blink", driver.Straight, parameter.Point{0.5, 0}, parameter.Point{1, 1}))
	}
	for i := range gulpsAt {
		from := float64(i) / 4
		steps = append(steps, answer("body", "gulp_"+string(rune('1'+i)), "gulp", driver.Smooth, parameter.Point{from, 0}, parameter.Point{from + 0.25, 1}, parameter.Point{from + 0.5, 0}))
	}
	return append(steps, func(*rig.Document) edit.Edit { return &edit.AddSwing{Name: "paddle", Like: "fin_L_fan_fk_*.rotateX"} },
		dialled("paddle_amplitude", 14), dialled("paddle_rate", 1.5), dialled("paddle_spread", -0.35))
}

// dialled sets what a dial of the root is at rest.
func dialled(name rig.Channel, value float64) func(*rig.Document) edit.Edit {
	return func(d *rig.Document) edit.Edit {
		root := d.ControlNamed(rig.RootName)
		dial := *root.Dial(name)
		dial.Default = value
		return &edit.ChangeDial{Control: root.ID, Name: name, Dial: dial}
	}
}
