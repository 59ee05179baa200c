package evaluate

import (
	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/rig"
)

// GroundMatrix is what takes the ground to where it is in the present frame: it goes along with the global control, and is as large as that makes everything.
func (e *Evaluator) GroundMatrix() mgl64.Mat4 {
	global := e.Plan.Document.ControlNamed(rig.GlobalName)
	if global == nil {
		return mgl64.Ident4()
	}
	at, size := e.ControlAt(e.Plan.ControlIndex[global.ID]), e.Frame.Size
	return at.Matrix(mgl64.Vec3{size, size, size}).Mul4(global.Home().Inverse().Matrix(mgl64.Vec3{1, 1, 1}))
}
