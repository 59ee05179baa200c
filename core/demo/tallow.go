package demo

import (
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/edit"
	"myriapod/core/geometry"
	"myriapod/core/mesh"
	"myriapod/core/rig"
)

// Tallow has so many segments, each with a pair of legs, this far apart, in metres.
const (
	tallowSegments = 22
	tallowPitch    = 0.24
	tallowHeight   = 0.62
	tallowJoints   = 12 // of a leg
	feelerJoints   = 16 // of a feeler
	tallowLanterns = 6
)

// tallowTrunk is the middle of the body at a distance behind its first segment, in segments: straight at the head, then in a lazy bow.
func tallowTrunk(at float64) mgl64.Vec3 {
	bow := math.Max(0, at-2)
	return mgl64.Vec3{0.0042 * bow * bow * math.Cos(0.16*bow), tallowHeight + 0.05*math.Sin(0.35*bow), 2.5 - tallowPitch*at}
}

// tallowPlaces are where the joints of the trunk stand, from the first segment to the tail.
func tallowPlaces() []mgl64.Vec3 {
	places := make([]mgl64.Vec3, tallowSegments+1)
	for i := range places {
		places[i] = tallowTrunk(float64(i))
	}
	return places
}

// tallowFrames are these joints' frames, as they are oriented when the trunk is laid.
func tallowFrames() []geometry.Transform {
	places := tallowPlaces()
	frames := make([]geometry.Transform, len(places))
	for i, q := range edit.Orient(places) {
		frames[i] = geometry.Transform{Position: places[i], Rotation: q}
	}
	return frames
}

// tallowLeg is the middle of the first left leg, from inside the body out over the knee to the ground.
func tallowLeg(v float64) mgl64.Vec3 {
	hip := tallowTrunk(0)
	out := 0.13 + 0.47*math.Sin(0.5*math.Pi*math.Min(1, 1.25*v))
	up := tallowHeight - 0.03 + 0.14*math.Sin(math.Pi*math.Min(1, 1.5*v)) - (tallowHeight-0.05)*math.Pow(v, 2.4)
	return mgl64.Vec3{out, up, hip[2] + 0.05*math.Sin(math.Pi*v)}
}

// tallowFeeler is the middle of the left feeler, from the head forward and out in a curl.
func tallowFeeler(v float64) mgl64.Vec3 {
	return mgl64.Vec3{0.09 + 0.75*v*v + 0.1*math.Sin(4*v), tallowHeight + 0.14 + 0.62*math.Sin(1.9*v) - 0.2*v*v, 2.86 + 0.95*v - 0.25*v*v*v}
}

func tallowPieces() []piece {
	frames := tallowFrames()
	pieces := []piece{{"trunk", "#a98467", tallowBody()}, {"head", "#9a7353", tallowHead()}}
	for _, side := range []struct {
		letter string
		sign   float64
	}{{"L", 1}, {"R", -1}} {
		eye := ball(mgl64.Vec3{side.sign * 0.15, tallowHeight + 0.1, 2.88}, mgl64.Vec3{0.035, 0.045, 0.045}, 2, 14, 20)
		pieces = append(pieces, piece{"eye_" + side.letter, "#23292c", eye})
	}
	feeler := sweep(tallowFeeler, func(v float64) float64 { return 0.028 * (1 - 0.6*v) }, 110, 16)
	pieces = append(pieces, piece{"feeler_L", "#8a5a3a", feeler}, piece{"feeler_R", "#8a5a3a", mirrored(feeler)})
	leg := sweep(tallowLeg, func(v float64) float64 { return 0.05 - 0.03*v + 0.012*math.Exp(-math.Pow((v-0.45)/0.08, 2)) }, 41, 16)
	right := mirrored(leg)
	for i := range tallowSegments {
		motion := frames[i].Then(frames[0].Inverse())
		pieces = append(pieces, piece{fmt.Sprintf("leg_L%02d", i+1), "#8d6a4c", placed(leg, motion)}, piece{fmt.Sprintf("leg_R%02d", i+1), "#8d6a4c", placed(right, motion)})
	}
	hook, glass := tallowLantern()
	for n := range tallowLanterns {
		motion := frames[lanternSegment(n)].Then(frames[lanternSegment(0)].Inverse())
		pieces = append(pieces, piece{fmt.Sprintf("hook_%d", n+1), "#4a4f52", placed(hook, motion)}, piece{fmt.Sprintf("lantern_%d", n+1), "#e2a63c", placed(glass, motion)})
	}
	return pieces
}

// lanternSegment is the place in the trunk's joints that carries a lantern.
func lanternSegment(n int) int { return 2 + 3*n }

// tallowBody is a tube that swells at every segment, flatter below.
func tallowBody() *mesh.Mesh {
	const rings, around = 12*tallowSegments + 1, 56
	point := func(v, a float64) mgl64.Vec3 {
		at := -0.55 + v*(tallowSegments+0.3)
		middle := tallowTrunk(at)
		tangent := geometry.Unit(tallowTrunk(at+1e-3).Sub(tallowTrunk(at-1e-3)), geometry.Forward)
		up := geometry.Across(geometry.Up, tangent)
		side := tangent.Cross(up)
		ends := math.Sqrt(math.Max(0.02, 1-math.Pow(math.Abs(2*v-1), 9)))
		swell := 0.86 + 0.14*math.Sqrt(math.Abs(math.Cos(math.Pi*at)))
		taper := 1 - 0.35*math.Pow(v, 3)
		sine, cosine := math.Sincos(2 * math.Pi * a)
		height := 0.16
		if cosine < 0 {
			height = 0.125
		}
		return middle.Add(side.Mul(0.2 * ends * swell * taper * sine)).Add(up.Mul(height * ends * swell * taper * cosine))
	}
	return orient(grid(rings, around, point, tallowTrunk(-0.6), tallowTrunk(tallowSegments-0.2)))
}

func tallowHead() *mesh.Mesh {
	return ball(mgl64.Vec3{0, tallowHeight + 0.02, 2.75}, mgl64.Vec3{0.185, 0.165, 0.2}, 2.4, 40, 48)
}

// tallowLantern is the first hook and what hangs on it.
func tallowLantern() (hook, glass *mesh.Mesh) {
	foot := tallowTrunk(float64(lanternSegment(0)))
	curve := func(v float64) mgl64.Vec3 {
		sine, cosine := math.Sincos(math.Pi * math.Max(0, 2.2*v-1.2))
		return foot.Add(mgl64.Vec3{0.05 * (1 - cosine), 0.12 + 0.3*math.Min(1, 1.8*v) + 0.05*sine, 0})
	}
	hook = sweep(curve, func(float64) float64 { return 0.011 }, 44, 10)
	glass = ball(curve(1).Add(mgl64.Vec3{0, -0.085, 0}), mgl64.Vec3{0.062, 0.075, 0.062}, 2.6, 22, 28)
	return hook, glass
}

// tallowSkeleton lays the trunk and one leg. The leg is mirrored, and the pair runs along the body: one leg made, forty-four there. The
// feelers are traced through their tubes.
func tallowSkeleton() []func(*rig.Document) edit.Edit {
	return []func(*rig.Document) edit.Edit{
		func(*rig.Document) edit.Edit {
			return &edit.LayChain{Positions: tallowPlaces(), Pattern: "trunk_##"}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.LayChain{Positions: []mgl64.Vec3{{0, tallowHeight + 0.02, 2.66}, {0, tallowHeight + 0.02, 2.92}}, Pattern: "head_#", Parent: named(d, "trunk_01")}
		},
		func(d *rig.Document) edit.Edit {
			places := make([]mgl64.Vec3, 13)
			for i := range places {
				places[i] = tallowLeg(float64(i) / float64(len(places)-1))
			}
			return &edit.LayChain{Positions: places, Pattern: "leg_L01_#", Count: tallowJoints, Parent: named(d, "trunk_01")}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddRepeat{Name: "legs_both_sides", Rule: rig.Mirror, Sources: []string{named(d, "leg_L01_1")}}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddRepeat{
				Name: "legs_along_trunk", Rule: rig.Series, Sources: []string{named(d, "leg_L01_1"), named(d, "leg_R01_1")},
				Stations: numbered(d, "trunk_%02d", 2, tallowSegments),
			}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.TraceTube{Part: named(d, "feeler_L"), Count: feelerJoints, Pattern: "feeler_L_##", Parent: named(d, "head_2")}
		},
		func(d *rig.Document) edit.Edit {
			return &edit.AddRepeat{Name: "feelers", Rule: rig.Mirror, Sources: []string{named(d, "feeler_L_01")}}
		},
		func(d *rig.Document) edit.Edit {
			foot := tallowTrunk(float64(lanternSegment(0)))
			return &edit.LayChain{
				Positions: []mgl64.Vec3{foot.Add(mgl64.Vec3{0, 0.14, 0}), foot.Add(mgl64.Vec3{0, 0.43, 0}), foot.Add(mgl64.Vec3{0.1, 0.4, 0})},
				Pattern:   "lantern_hook_1_#", Parent: named(d, fmt.Sprintf("trunk_%02d", lanternSegment(0)+1)),
			}
		},
		func(d *rig.Document) edit.Edit {
			stations := []string{}
			for n := 1; n < tallowLanterns; n++ {
				stations = append(stations, named(d, fmt.Sprintf("trunk_%02d", lanternSegment(n)+1)))
			}
			return &edit.AddRepeat{Name: "lanterns", Rule: rig.Series, Sources: []string{named(d, "lantern_hook_1_1")}, Stations: stations}
		},
	}
}
