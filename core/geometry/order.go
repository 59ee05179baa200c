package geometry

import (
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
