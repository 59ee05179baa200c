package geometry

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"
)

// Order is a rotation order, written in the order of application: "XYZ" turns about X first, so R = Rz·Ry·Rx.
type Order string

// Orders lists the six rotation orders.
var Orders = []Order{"XYZ", "XZY", "YXZ", "YZX", "ZXY", "ZYX"}

// Valid tells whether o is one of the six orders.
func (o Order) Valid() bool {
	for _, known := range Orders {
		if o == known {
			return true
		}
	}
	return false
}

// Rotation returns the rotation of three angles about X, Y and Z, in radians, applied in the order o. An order that is not
// one of the six is a programming error and panics.
func (o Order) Rotation(angles mgl64.Vec3) mgl64.Quat {
	q := mgl64.QuatIdent()
	for _, letter := range []byte(o) {
		axis := mgl64.Vec3{}
		axis[letter-'X'] = 1
		q = mgl64.QuatRotate(angles[letter-'X'], axis).Mul(q)
	}
	return q
}

// Angles returns the three angles about X, Y and Z, in radians, that applied in the order o make the rotation q: Rotation undone. Of the
// angles that do, it returns those nearest to near, whole turns apart; where the first and the last axis fall together, so that only
// the sum of their angles counts, the first keeps its angle of near.
//
// Method: Shoemake 1994, Euler Angle Conversion, in Graphics Gems IV.
func (o Order) Angles(q mgl64.Quat, near mgl64.Vec3) mgl64.Vec3 {
	i, j, k := int(o[0]-'X'), int(o[1]-'X'), int(o[2]-'X')
	hand := 1.0
	if (j-i+3)%3 != 1 {
		hand = -1
	}
	m := q.Normalize().Mat4()
	at := func(row, column int) float64 { return m[4*column+row] }
	var first mgl64.Vec3
	across := math.Hypot(at(i, i), at(j, i))
	first[j] = math.Atan2(-hand*at(k, i), across)
	if across > 1e-9 {
		first[i], first[k] = math.Atan2(hand*at(k, j), at(k, k)), math.Atan2(hand*at(j, i), at(i, i))
	} else {
		first[i] = near[i]
		turned := q.Mul(axisTurn(i, near[i]).Conjugate()).Mat4()
		first[k] = math.Atan2(-hand*turned[4*j+i], turned[4*j+j])
	}
	second := mgl64.Vec3{}
	second[i], second[j], second[k] = first[i]+math.Pi, math.Pi-first[j], first[k]+math.Pi
	first, second = nearest(first, near), nearest(second, near)
	if second.Sub(near).Len() < first.Sub(near).Len()-1e-9 && across > 1e-9 {
		return second
	}
	return first
}

func axisTurn(axis int, angle float64) mgl64.Quat {
	v := mgl64.Vec3{}
	v[axis] = 1
	return mgl64.QuatRotate(angle, v)
}

// nearest moves angles by whole turns to where they are nearest to near.
func nearest(angles, near mgl64.Vec3) mgl64.Vec3 {
	for axis := range angles {
		angles[axis] += 2 * math.Pi * math.Round((near[axis]-angles[axis])/(2*math.Pi))
	}
	return angles
}
