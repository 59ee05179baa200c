package demo

import (
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/curve"
	"myriapod/core/geometry"
	"myriapod/core/mesh"
)

// brindleKnots is the middle of Old Brindle's body as seen from the side (height, ahead), from its snout over the neck and the back to the
// tip of its tail, in metres, with the half width and half height of the body there.
var brindleKnots = [][4]float64{
	{2.66, 2.16, 0.05, 0.045},
	{2.73, 2.00, 0.085, 0.075},
	{2.83, 1.80, 0.13, 0.125},
	{2.90, 1.58, 0.125, 0.13},
	{2.84, 1.37, 0.10, 0.105},
	{2.58, 1.24, 0.095, 0.105},
	{2.26, 1.15, 0.11, 0.12},
	{1.96, 1.02, 0.15, 0.165},
	{1.74, 0.78, 0.23, 0.25},
	{1.64, 0.45, 0.29, 0.32},
	{1.60, 0.10, 0.31, 0.34},
	{1.58, -0.25, 0.29, 0.31},
	{1.58, -0.58, 0.25, 0.26},
	{1.61, -0.86, 0.18, 0.18},
	{1.66, -1.14, 0.125, 0.125},
	{1.66, -1.44, 0.10, 0.10},
	{1.56, -1.74, 0.085, 0.085},
	{1.38, -2.02, 0.07, 0.07},
	{1.18, -2.30, 0.058, 0.058},
	{1.06, -2.62, 0.045, 0.045},
	{1.08, -2.94, 0.032, 0.032},
	{1.22, -3.20, 0.02, 0.02},
}

// Shares of the way from the snout to the tip of the tail at which the families meet.
const (
	brindleSkull = 0.15 // the last joint of the neck
	brindleChest = 0.405
	brindleHips  = 0.585
)

var brindleLine, brindleGirth = func() (middle, girth *curve.BSpline) {
	places, radii := make([]mgl64.Vec3, len(brindleKnots)), make([]mgl64.Vec3, len(brindleKnots))
	for i, k := range brindleKnots {
		places[i], radii[i] = mgl64.Vec3{0, k[0], k[1]}, mgl64.Vec3{k[2], k[3], 0}
	}
	return curve.New(places), curve.New(radii)
}()

// brindleMiddle is the middle of the body at share v from snout to tail.
func brindleMiddle(v float64) mgl64.Vec3 {
	place, _ := brindleLine.At(math.Min(1, math.Max(0, v)))
	return place
}

// brindleAcross is the frame across the body at share v: its tangent towards the tail, its left and the side of its back.
func brindleAcross(v float64) (tangent, side, back mgl64.Vec3) {
	_, derivative := brindleLine.At(math.Min(1, math.Max(0, v)))
	tangent = geometry.Unit(derivative, geometry.Forward.Mul(-1))
	side = mgl64.Vec3{1, 0, 0}
	return tangent, side, side.Cross(tangent)
}

// brindleRow lists places along the body from one share to another.
func brindleRow(from, to float64, count int) []mgl64.Vec3 {
	places := make([]mgl64.Vec3, count)
	for i := range places {
		places[i] = brindleMiddle(from + (to-from)*float64(i)/float64(count-1))
	}
	return places
}

// brindleLegs tells, for each pair of legs from the front, how far ahead it stands, in metres.
var brindleLegs = []float64{0.52, 0.0, -0.5}

// brindleLeg is the middle of a left leg, from inside the body out and down on its stilt.
func brindleLeg(pair int, v float64) mgl64.Vec3 {
	ahead := brindleLegs[pair]
	lean := 0.24 * (1 - float64(pair)) // the front pair reaches forward, the hind pair back
	out := 0.13 + 0.5*math.Pow(math.Sin(0.5*math.Pi*math.Min(1, 1.5*v)), 1.4)
	up := 1.44 + 0.16*math.Sin(math.Pi*math.Min(1, 2.4*v)) - 1.41*math.Pow(v, 1.7)
	return mgl64.Vec3{out, up, ahead + lean*v + 0.07*math.Sin(2*math.Pi*v)}
}

// brindleAnkle is where a leg ends in its shoe.
const brindleAnkle = 0.945

// brindleShoe is an iron shoe under an ankle: a cup around the stilt on a broad foot, a little longer ahead than wide, that stands on the ground.
func brindleShoe(ankle mgl64.Vec3) *mesh.Mesh {
	profile := [][2]float64{{0.03, 1.05}, {0.058, 1}, {0.062, 0.72}, {0.05, 0.5}, {0.052, 0.34}, {0.088, 0.22}, {0.112, 0.12}, {0.118, 0.05}, {0.112, 0}, {0.06, 0}}
	point := func(v, a float64) mgl64.Vec3 {
		at := v * float64(len(profile)-1)
		k := min(int(at), len(profile)-2)
		part := at - float64(k)
		radius, height := profile[k][0]+part*(profile[k+1][0]-profile[k][0]), profile[k][1]+part*(profile[k+1][1]-profile[k][1])
		sine, cosine := math.Sincos(2 * math.Pi * a)
		return mgl64.Vec3{ankle[0] + radius*sine, ankle[1] * height, ankle[2] + radius*cosine*(1+0.35*(1-math.Min(1, height))) + 0.02*(1-math.Min(1, height))}
	}
	return orient(grid(28, 24, point, mgl64.Vec3{ankle[0], 1.05 * ankle[1], ankle[2]}, mgl64.Vec3{ankle[0], 0, ankle[2] + 0.02}))
}

func brindlePieces() []piece {
	pieces := []piece{
		{"body", "#8b6f52", brindleBody()},
		{"cloth", "#a8443a", brindleCloth()},
		{"saddle", "#5a3b26", brindleSaddle()},
		{"pole", "#6d5a45", sweep(func(v float64) mgl64.Vec3 { return mgl64.Vec3{0, 1.7 + 1.15*v, -0.42 - 0.14*v} }, func(float64) float64 { return 0.016 }, 40, 12)},
		{"banner", "#2f6f6b", brindleBanner()},
		{"boat_hook", "#8f8268", brindleHook()},
	}
	for _, side := range []struct {
		letter string
		sign   float64
	}{{"L", 1}, {"R", -1}} {
		pieces = append(pieces, piece{"eye_" + side.letter, "#23292c", ball(brindleEye(side.sign), mgl64.Vec3{0.022, 0.03, 0.03}, 2, 14, 20)})
	}
	for pair := range brindleLegs {
		leg := sweep(func(v float64) mgl64.Vec3 { return brindleLeg(pair, brindleAnkle*v) }, func(v float64) float64 {
			return 0.1*math.Pow(1-v, 1.2) + 0.034 + 0.02*math.Exp(-math.Pow((v-0.42)/0.07, 2)) + 0.012*math.Exp(-math.Pow((v-1)/0.06, 2))
		}, 64, 20)
		shoe := brindleShoe(brindleLeg(pair, brindleAnkle))
		pieces = append(pieces, piece{fmt.Sprintf("leg_L%d", pair+1), "#7a6048", leg}, piece{fmt.Sprintf("leg_R%d", pair+1), "#7a6048", mirrored(leg)},
			piece{fmt.Sprintf("shoe_L%d", pair+1), "#4d4034", shoe}, piece{fmt.Sprintf("shoe_R%d", pair+1), "#4d4034", mirrored(shoe)})
	}
	return pieces
}

// brindleEye is the middle of the eye on one side (1 is left, +X).
func brindleEye(side float64) mgl64.Vec3 {
	_, _, back := brindleAcross(0.105)
	return brindleMiddle(0.105).Add(mgl64.Vec3{side * 0.105, 0, 0}).Add(back.Mul(0.06))
}

func brindleBody() *mesh.Mesh {
	const rings, around = 210, 52
	share := func(v float64) float64 { // rings stand closer together at the snout and the tip
		return 0.5 - 0.5*math.Cos(math.Pi*(0.03+0.94*v))/math.Cos(math.Pi*0.03)
	}
	point := func(v, a float64) mgl64.Vec3 {
		s := share(v)
		_, side, back := brindleAcross(s)
		radii, _ := brindleGirth.At(s)
		round := math.Sqrt(math.Min(1, math.Min(s, 1-s)/0.012+0.02))
		sine, cosine := math.Sincos(2 * math.Pi * a)
		return brindleMiddle(s).Add(side.Mul(radii[0] * round * sine)).Add(back.Mul(radii[1] * round * cosine))
	}
	return orient(grid(rings, around, point, brindleMiddle(0), brindleMiddle(1)))
}

// brindleCloth lies over the back, a little off it, and hangs down the flanks.
func brindleCloth() *mesh.Mesh {
	const from, to = 0.43, 0.555
	return sheet(40, 40, func(v, w, face float64) mgl64.Vec3 {
		s := from + (to-from)*v
		_, side, back := brindleAcross(s)
		radii, _ := brindleGirth.At(s)
		off := 0.026 + 0.009*face
		sine, cosine := math.Sincos(0.62 * math.Pi * (2*w - 1))
		return brindleMiddle(s).Add(side.Mul((radii[0] + off) * sine)).Add(back.Mul((radii[1] + off) * cosine))
	})
}

// brindleBanner flies from the pole, back and down in a long wave.
func brindleBanner() *mesh.Mesh {
	root := func(v float64) mgl64.Vec3 { return mgl64.Vec3{0, 2.83 - 0.36*v, -0.555 + 0.045*v} }
	reach := func(v float64) mgl64.Vec3 {
		return mgl64.Vec3{0.06 * math.Sin(3*v), -0.05 - 0.1*v, -0.72 + 0.2*math.Abs(2*v-1)}
	}
	return blade(root, reach, 0.014, 26, 18)
}
