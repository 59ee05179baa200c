package demo

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mesh"
)

// Quillwick's body runs from its snout at +Z to its tail at -Z, this long in metres.
const quillwickLength = 2.0

// quillwickSpine is the middle of the body at share v from snout to tail: a lazy curve a little above the ground.
func quillwickSpine(v float64) mgl64.Vec3 {
	return mgl64.Vec3{
		0.05 * math.Sin(2.2*math.Pi*v) * v,
		0.34 + 0.035*math.Sin(1.7*math.Pi*v+0.4),
		quillwickLength * (0.5 - v),
	}
}

// quillwickRadii is the half width and half height of the body at share v.
func quillwickRadii(v float64) (width, height float64) {
	head := 1 - math.Exp(-v*26)
	neck := 1 - 0.14*math.Exp(-math.Pow((v-0.17)/0.05, 2))
	taper := math.Pow(math.Max(0, 1-v), 0.62)
	bulge := 1 + 0.25*math.Exp(-math.Pow((v-0.09)/0.06, 2))
	width = 0.115 * head * neck * bulge * taper
	height = 0.125 * head * neck * math.Pow(math.Max(0, 1-v), 0.45)
	return width + 0.002, height + 0.003
}

// across is the frame across the body at share v.
func quillwickAcross(v float64) (tangent, side, up mgl64.Vec3) {
	tangent = geometry.Unit(quillwickSpine(v+1e-4).Sub(quillwickSpine(v-1e-4)), geometry.Forward.Mul(-1))
	up = geometry.Across(geometry.Up, tangent)
	return tangent, tangent.Cross(up), up
}

type piece struct {
	name, colour string
	surface      *mesh.Mesh
}

// shape is what a piece becomes by a morph target.
type shape struct {
	name    string
	surface *mesh.Mesh
}

// quillwickPieces makes the body, its fins, its eyes with their lids, and the satchel it carries letters in.
func quillwickPieces() []piece {
	return []piece{
		{"body", "#5f7f72", quillwickBody(func(float64, float64) float64 { return 1 })},
		{"fin_back", "#c08a3e", quillwickFin(0.2, 0.97, 1, 0.13)},
		{"fin_belly", "#c08a3e", quillwickFin(0.42, 0.97, -1, 0.1)},
		{"fin_L", "#b3752f", quillwickPaddle(1)},
		{"fin_R", "#b3752f", quillwickPaddle(-1)},
		{"eye_L", "#23292c", quillwickEye(1)},
		{"eye_R", "#23292c", quillwickEye(-1)},
		{"satchel", "#8a5a3a", quillwickSatchel()},
		{"strap", "#6d452b", quillwickStrap()},
		{"lid_L", "#4f6c60", quillwickLid(1, lidOpen)},
		{"lid_R", "#4f6c60", quillwickLid(-1, lidOpen)},
	}
}

// quillwickBody is the body, swollen at places: by a factor at a share of the length, and a place around it from the back (1) to the belly (-1).
func quillwickBody(swell func(s, cosine float64) float64) *mesh.Mesh {
	const rings, around = 132, 48
	// Rings stand closer together at the snout, where the outline turns fastest.
	share := func(v float64) float64 { return 0.004 + 0.992*math.Pow(v, 1.35) }
	point := func(v, a float64) mgl64.Vec3 {
		s := share(v)
		_, side, up := quillwickAcross(s)
		width, height := quillwickRadii(s)
		sine, cosine := math.Sincos(2 * math.Pi * a)
		belly := 1.0
		if cosine < 0 {
			belly = 0.9
		}
		by := swell(s, cosine)
		return quillwickSpine(s).Add(side.Mul(by * width * sine)).Add(up.Mul(by * height * belly * cosine))
	}
	return orient(grid(rings, around, point, quillwickSpine(0), quillwickSpine(1)))
}

// quillwickFin is a ribbon fin along the back (up 1) or the belly (up -1), its rim softly scalloped.
func quillwickFin(from, to, up, height float64) *mesh.Mesh {
	root := func(v float64) mgl64.Vec3 {
		s := from + (to-from)*v
		_, _, above := quillwickAcross(s)
		_, half := quillwickRadii(s)
		return quillwickSpine(s).Add(above.Mul(up * half * 0.82))
	}
	reach := func(v float64) mgl64.Vec3 {
		s := from + (to-from)*v
		tangent, _, above := quillwickAcross(s)
		rise := math.Pow(math.Sin(math.Pi*math.Pow(v, 0.8)), 0.6)*0.85 + 0.12
		scallop := 1 + 0.06*math.Cos(2*math.Pi*9*v)
		tall := height * rise * scallop
		return above.Mul(up * tall).Add(tangent.Mul(0.5 * tall))
	}
	return blade(root, reach, 0.022, 90, 7)
}

// quillwickPaddle is the fin behind the head on one side (side 1 is left, +X).
func quillwickPaddle(side float64) *mesh.Mesh {
	root := func(v float64) mgl64.Vec3 { return quillwickFinRoot(side, v) }
	return blade(root, func(v float64) mgl64.Vec3 { return quillwickFinReach(side, v) }, 0.016, 24, 8)
}

func quillwickFinRoot(side, v float64) mgl64.Vec3 {
	s := 0.2 + 0.055*v
	width, _ := quillwickRadii(s)
	return quillwickSpine(s).Add(mgl64.Vec3{side * width * 0.85, -0.03, 0})
}

func quillwickFinReach(side, v float64) mgl64.Vec3 {
	fan := 0.5 + 0.5*math.Sin(math.Pi*math.Min(1, 0.1+v))
	return mgl64.Vec3{side * 0.17 * fan, -0.05 * fan, -0.07 - 0.09*v}
}

// quillwickFinMiddle is the middle of the left fin at a share of the way from its root to its rim.
func quillwickFinMiddle(out float64) mgl64.Vec3 {
	return quillwickFinRoot(1, 0.5).Add(quillwickFinReach(1, 0.5).Mul(out))
}

func quillwickEye(side float64) *mesh.Mesh {
	const s = 0.062
	width, height := quillwickRadii(s)
	at := quillwickSpine(s).Add(mgl64.Vec3{side * width * 0.8, height * 0.52, 0})
	return ball(at, mgl64.Vec3{0.019, 0.022, 0.022}, 2, 12, 18)
}

// The satchel hangs at the left flank, on a strap around the body here.
const satchelPlace = 0.31

func quillwickSatchel() *mesh.Mesh {
	width, _ := quillwickRadii(satchelPlace)
	at := quillwickSpine(satchelPlace).Add(mgl64.Vec3{width + 0.022, -0.045, 0})
	return ball(at, mgl64.Vec3{0.026, 0.058, 0.075}, 4.5, 22, 32)
}

// quillwickStrap is a band around the body: a torus whose section is flat.
func quillwickStrap() *mesh.Mesh {
	const long, short = 60, 12
	m := &mesh.Mesh{}
	_, side, up := quillwickAcross(satchelPlace)
	width, height := quillwickRadii(satchelPlace)
	for i := range long {
		sine, cosine := math.Sincos(2 * math.Pi * float64(i) / long)
		outward := side.Mul(sine).Add(up.Mul(cosine))
		middle := quillwickSpine(satchelPlace).Add(side.Mul(width * 1.03 * sine)).Add(up.Mul(height * 1.02 * cosine))
		for k := range short {
			s, c := math.Sincos(2 * math.Pi * float64(k) / short)
			p := middle.Add(outward.Mul(0.006 * c)).Add(mgl64.Vec3{0, 0, 0.014 * s})
			m.Positions = append(m.Positions, float32(p[0]), float32(p[1]), float32(p[2]))
		}
	}
	vertex := func(i, k int) uint32 { return uint32(i%long*short + k%short) }
	for i := range long {
		for k := range short {
			a, b, c, d := vertex(i, k), vertex(i+1, k), vertex(i, k+1), vertex(i+1, k+1)
			m.Triangles = append(m.Triangles, a, b, c, c, b, d)
		}
	}
	return orient(m)
}
