package measure

import (
	"errors"
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// Angle is how far a joint is turned against what it hangs on, from its rest, about an axis: the twist about that.
//
// Method: swing and twist, the projection of the rotation on the axis.
type Angle struct{}

// Declare implements mechanism.MeasureKind.
func (Angle) Declare() mechanism.MeasureDeclaration {
	return mechanism.MeasureDeclaration{
		Kind: "angle", Title: "Angle", Summary: "How far a joint is turned from rest, against what it hangs on, about an axis.", Unit: "°", Things: 1, Joint: true, Axis: true,
	}
}

// changesOver is the angle, in radians, from which a turn may be taken for one the other way round: just below half a turn.
const changesOver = 0.998 * math.Pi

// Prepare implements mechanism.MeasureKind. About the joint's main axis whole turns count, as those that turn it tell them.
func (k Angle) Prepare(b *mechanism.Bench, m rig.Measure, slot int) error {
	of, err := things(b, m, k.Declare())
	if err != nil {
		return err
	}
	if !(m.Axis.Len() > 0) {
		return errors.New("an angle is about an axis, and this one has no length; choose one")
	}
	axis := m.Axis.Normalize()
	turns := axis.Dot(geometry.MainAxis)
	if math.Abs(turns) < 1-1e-9 {
		turns = 0
	}
	joint := of[0].Index
	carrier, rest, hung := b.CarrierOf(joint)
	local := rest.Rotation.Conjugate().Mul(b.Rest(joint).Rotation).Conjugate()
	if hung {
		of = append(of, carrier)
	}
	over := b.FindingOf(m.ID, fmt.Sprintf("%s is half a turn from rest; from there it may count the other way round.", m.Name))
	add(b, m, slot, of, []int{over}, func(f *mechanism.Frame) float64 {
		now, told := f.Joints[joint].Rotation, f.Joints[joint].Turned
		if hung {
			on := f.At(carrier)
			now, told = on.Rotation.Conjugate().Mul(now), told-on.Turned
		}
		told *= turns
		more := geometry.Wrap(twist(local.Mul(now), axis) - told)
		f.Findings[over] = math.Abs(more) > changesOver
		return (told + more) * 180 / math.Pi
	})
	return nil
}

// twist is how far a rotation turns about a unit axis, -π to π; one that turns right over across the axis has none.
func twist(q mgl64.Quat, axis mgl64.Vec3) float64 {
	return geometry.Wrap(2 * math.Atan2(q.V.Dot(axis), q.W))
}
