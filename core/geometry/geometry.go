// Package geometry holds the few rigid-body and vector operations that the rest of the core shares.
//
// Conventions: right-handed, Y up, metres and radians. A rotation is a unit quaternion; a joint's main axis is +Y and
// its second axis +Z in its own frame.
package geometry

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"
)

// The axes of a frame by the names that the work uses for them.
var (
	MainAxis   = mgl64.Vec3{0, 1, 0}
	SecondAxis = mgl64.Vec3{0, 0, 1}
	Up         = mgl64.Vec3{0, 1, 0}
	Forward    = mgl64.Vec3{0, 0, 1}
)

// Transform is a rigid motion: first Rotation, then Position. Turned is how far it has been turned about its main axis on the way there, in
// radians, as far as whoever turned it tells: a rotation alone does not know its whole turns. It is handed on by what carries a thing, and
// summed up; it says which whole turn is meant and never where something is turned to.
type Transform struct {
	Position mgl64.Vec3
	Rotation mgl64.Quat
	Turned   float64
}

// Identity returns the transform that moves nothing.
func Identity() Transform { return Transform{Rotation: mgl64.QuatIdent()} }

// Then returns the motion that a point in the frame inner makes when inner hangs on t: t ∘ inner.
func (t Transform) Then(inner Transform) Transform {
	return Transform{
		Position: t.Apply(inner.Position),
		Rotation: t.Rotation.Mul(inner.Rotation).Normalize(),
		Turned:   t.Turned + inner.Turned,
	}
}

// Apply carries a point from the frame t to the frame t hangs on.
func (t Transform) Apply(point mgl64.Vec3) mgl64.Vec3 {
	return t.Position.Add(t.Rotation.Rotate(point))
}

// Inverse returns the motion that undoes t.
func (t Transform) Inverse() Transform {
	back := t.Rotation.Conjugate()
	return Transform{Position: back.Rotate(t.Position.Mul(-1)), Rotation: back, Turned: -t.Turned}
}

// Matrix returns t with the own scale s applied in its local axes first, as a 4×4 matrix by column.
func (t Transform) Matrix(s mgl64.Vec3) mgl64.Mat4 {
	m := t.Rotation.Mat4()
	for column := range 3 {
		for row := range 3 {
			m[4*column+row] *= s[column]
		}
	}
	m[12], m[13], m[14] = t.Position[0], t.Position[1], t.Position[2]
	return m
}

// Unit returns v at length one, or fallback when v is too short to have a direction.
func Unit(v, fallback mgl64.Vec3) mgl64.Vec3 {
	length := v.Len()
	if !(length > 1e-150) || math.IsInf(length, 1) {
		return fallback
	}
	return v.Mul(1 / length)
}

// Across returns the part of v at right angles to the unit vector axis, at length one. Where v runs along axis, the
// world axis furthest from it takes its place, so that the answer is always a unit vector.
func Across(v, axis mgl64.Vec3) mgl64.Vec3 {
	flat := v.Sub(axis.Mul(v.Dot(axis)))
	size := math.Max(v.Len(), 1e-150)
	if length := flat.Len(); length > 1e-9*size {
		flat = flat.Mul(1 / length)
		if length < 0.1*size { // little is left over, with much of the rounding in it: twice is enough (Parlett 1980)
			flat = flat.Sub(axis.Mul(flat.Dot(axis))).Normalize()
		}
		return flat
	}
	furthest := mgl64.Vec3{1, 0, 0}
	if math.Abs(axis[0]) > math.Abs(axis[1]) {
		furthest = mgl64.Vec3{0, 1, 0}
	}
	return furthest.Sub(axis.Mul(furthest.Dot(axis))).Normalize()
}

// FromAxes returns the rotation whose main axis is the unit vector main and whose second axis is the direction of
// second nearest to it at right angles.
func FromAxes(main, second mgl64.Vec3) mgl64.Quat {
	z := Across(second, main)
	x := main.Cross(z)
	return mgl64.Mat4ToQuat(mgl64.Mat4{
		x[0], x[1], x[2], 0,
		main[0], main[1], main[2], 0,
		z[0], z[1], z[2], 0,
		0, 0, 0, 1,
	}).Normalize()
}

// Shortest returns the least rotation that takes the unit vector from onto the unit vector to. For opposite vectors,
// where the least rotation is not unique, it is the half turn about hinge, which must be at right angles to from.
func Shortest(from, to, hinge mgl64.Vec3) mgl64.Quat {
	w := 1 + from.Dot(to)
	if w < 1e-15 {
		return mgl64.Quat{V: hinge}
	}
	return mgl64.Quat{W: w, V: from.Cross(to)}.Normalize()
}

// SignedAngle returns the angle in (-π, π] that turns from onto to about axis; all are unit vectors, from and to at right
// angles to axis.
func SignedAngle(from, to, axis mgl64.Vec3) float64 {
	return math.Atan2(axis.Dot(from.Cross(to)), from.Dot(to))
}

// Wrap brings an angle into (-π, π].
func Wrap(angle float64) float64 {
	wrapped := math.Remainder(angle, 2*math.Pi)
	if wrapped <= -math.Pi {
		return math.Pi
	}
	return wrapped
}

// Finite tells whether every number given is neither NaN nor infinite.
func Finite(numbers ...float64) bool {
	for _, n := range numbers {
		if math.IsNaN(n) || math.IsInf(n, 0) {
			return false
		}
	}
	return true
}

// FiniteVector tells whether all of v is finite.
func FiniteVector(v mgl64.Vec3) bool { return Finite(v[0], v[1], v[2]) }

// Smoothstep rises from 0 at x ≤ 0 to 1 at x ≥ 1 with level ends.
func Smoothstep(x float64) float64 {
	x = math.Min(1, math.Max(0, x))
	return x * x * (3 - 2*x)
}

// Cofactor is what takes normals along with a linear map: (M·a) × (M·b) = cof(M)·(a × b).
func Cofactor(m mgl64.Mat3) mgl64.Mat3 {
	a, b, c := m.Col(0), m.Col(1), m.Col(2)
	return mgl64.Mat3FromCols(b.Cross(c), c.Cross(a), a.Cross(b))
}

// Opposed tells whether two rotations are half a turn apart, within a fiftieth of a degree: there the shorter arc between them changes its side.
func Opposed(a, b mgl64.Quat) bool { return math.Abs(a.Dot(b)) < opposed }

// opposed is the cosine of half the angle from which two rotations count as half a turn apart.
const opposed = 1e-4

// Mix returns the transform at share t, 0 to 1, of the way from a to b: places in a straight line, rotations as Slerp has them.
func Mix(a, b Transform, t float64) Transform {
	switch t {
	case 0:
		return a
	case 1:
		return b
	}
	return Transform{
		Position: a.Position.Mul(1 - t).Add(b.Position.Mul(t)),
		Rotation: Slerp(a.Rotation, b.Rotation, t),
		Turned:   (1-t)*a.Turned + t*b.Turned,
	}
}

// StraightBehind is the angle, in radians, from which what is turned to counts as straight behind: there the shorter way to it changes its side.
const StraightBehind = 0.998 * math.Pi

// NearAxis is how near to an axis a direction that is read off beside it begins to mean nothing: a share of the distance.
const NearAxis = 0.05

// skew is how far, in radians, what Beside mixes in stands round the axis when the direction is opposite to it. Where things stand in one plane, as they
// mostly do, what goes right through the axis then turns round on one side of it instead of turning over.
const skew = 0.7

// Beside returns a direction at right angles to axis for the given one, which is at right angles to axis too and as long as its share of a distance.
// Where it is shorter than twice NearAxis another direction, a unit vector at right angles to axis, is mixed in as a vector, so that going
// through the axis turns the direction evenly; where the two agree they stay as they are. What stays singular is one line beside the axis,
// which no rule can spare: about a line a direction goes once round.
func Beside(direction, other, axis mgl64.Vec3) mgl64.Vec3 {
	const band = 2 * NearAxis
	near := direction.Len()
	if near >= band {
		return direction
	}
	apart := (near - direction.Dot(other)) / (2 * band)
	aside := mgl64.QuatRotate(skew*apart, axis).Rotate(other)
	return direction.Add(aside.Mul(NearAxis * (1 - Smoothstep(near/band))))
}

// Slerp returns the rotation at share t, 0 to 1, of the way from a to b along the shorter arc, at even speed. Between opposite
// orientations, where both arcs are as long, it goes one of them.
//
// Method: Shoemake 1985, Animating Rotation with Quaternion Curves.
func Slerp(a, b mgl64.Quat, t float64) mgl64.Quat {
	if a.Dot(b) < 0 {
		b = b.Scale(-1)
	}
	half := math.Atan2(a.Sub(b).Len(), a.Add(b).Len()) // of the angle between them as vectors; exact however small
	sine := math.Sin(2 * half)
	if sine < 1e-12 {
		return a.Scale(1 - t).Add(b.Scale(t)).Normalize()
	}
	return a.Scale(math.Sin((1-t)*2*half) / sine).Add(b.Scale(math.Sin(t*2*half) / sine)).Normalize()
}
