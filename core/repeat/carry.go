package repeat

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/rig"
)

// motion carries things from a source to its copy and back.
type motion struct {
	turn     geometry.Transform // of ring and series
	mirrored bool
	point    mgl64.Vec3 // of the mirror's plane
	normal   mgl64.Vec3 // at length one
}

func ringMotion(r rig.Repeat, copied int) motion {
	axis := r.Direction.Normalize()
	turn := mgl64.QuatRotate(2*math.Pi*float64(copied)/float64(r.Count), axis)
	return motion{turn: geometry.Transform{Position: r.Point.Sub(turn.Rotate(r.Point)), Rotation: turn}}
}

// seriesMotion carries a source from what it stands at to a station: turned as that is, or about the vertical alone (the twist of a swing-twist
// decomposition), and set as low as the source stands where the series is on the ground.
func seriesMotion(r rig.Repeat, station, carrier geometry.Transform, joints []rig.Joint) motion {
	turn := station.Rotation.Mul(carrier.Rotation.Inverse()).Normalize()
	if r.Stand == rig.Upright {
		up := turn.V.Dot(geometry.Up)
		if math.Hypot(turn.W, up) < 1e-9 { // turned over by half a turn: no way about the vertical is nearer than another
			turn.W = 1
		}
		turn = mgl64.Quat{W: turn.W, V: geometry.Up.Mul(up)}.Normalize()
	}
	m := motion{turn: geometry.Transform{Position: station.Position.Sub(turn.Rotate(carrier.Position)), Rotation: turn}}
	if r.Ground {
		was, now := math.Inf(1), math.Inf(1)
		for _, j := range joints {
			was, now = math.Min(was, j.Position[1]), math.Min(now, m.place(j.Position)[1])
		}
		m.turn.Position[1] += was - now
	}
	return m
}

func mirrorMotion(r rig.Repeat) motion {
	return motion{mirrored: true, point: r.Point, normal: r.Direction.Normalize()}
}

func (m motion) inverse() motion {
	if m.mirrored {
		return m
	}
	return motion{turn: m.turn.Inverse()}
}

func (m motion) place(p mgl64.Vec3) mgl64.Vec3 {
	if m.mirrored {
		return p.Sub(m.normal.Mul(2 * p.Sub(m.point).Dot(m.normal)))
	}
	return m.turn.Apply(p)
}

// vector carries a direction or difference of places.
func (m motion) vector(v mgl64.Vec3) mgl64.Vec3 {
	if m.mirrored {
		return v.Sub(m.normal.Mul(2 * v.Dot(m.normal)))
	}
	return m.turn.Rotation.Rotate(v)
}

// rotation carries an orientation. A mirror image is no rotation: the main and the second axis are mirrored, and the third follows
// from them. With M the mirror and D the mirror of the third axis that is M·R·D = (M·R·M)·(M·D), two rotations.
func (m motion) rotation(q mgl64.Quat) mgl64.Quat {
	if !m.mirrored {
		return m.turn.Rotation.Mul(q).Normalize()
	}
	mirrored := mgl64.Quat{W: q.W, V: m.vector(q.V).Mul(-1)}
	third := mgl64.Vec3{1, 0, 0}
	return mirrored.Mul(mgl64.Quat{W: third.Dot(m.normal), V: third.Cross(m.normal)}).Normalize()
}

func (m motion) quaternion(q rig.Quaternion) rig.Quaternion {
	return rig.QuaternionOf(m.rotation(q.Quat()))
}

// outline carries the points of an outline, which stand in their control's own frame: a mirror changes the sign of the third axis.
func (m motion) outline(points []mgl64.Vec3) []mgl64.Vec3 {
	if !m.mirrored {
		return points
	}
	carried := make([]mgl64.Vec3, len(points))
	for i, p := range points {
		carried[i] = mgl64.Vec3{-p[0], p[1], p[2]}
	}
	return carried
}

// PlaceBack carries a place from the copy back to the source.
func (o Origin) PlaceBack(p mgl64.Vec3) mgl64.Vec3 { return o.motion.inverse().place(p) }

// Rotation carries an orientation from the source to the copy.
func (o Origin) Rotation(q rig.Quaternion) rig.Quaternion { return o.motion.quaternion(q) }

// RotationBack carries an orientation from the copy back to the source.
func (o Origin) RotationBack(q rig.Quaternion) rig.Quaternion {
	return o.motion.inverse().quaternion(q)
}

// Outline carries an outline between source and copy, either way.
func (o Origin) Outline(points []mgl64.Vec3) []mgl64.Vec3 { return o.motion.outline(points) }

// Mirrors tells whether the copy is the mirror image of its source.
func (o Origin) Mirrors() bool { return o.motion.mirrored }
