// Package pick finds what a rigger points at: places in the world under the pointer, and elements of surfaces.
package pick

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mesh"
	"myriapod/core/rig"
)

// Snap is what a sought place keeps to.
type Snap string

// What places keep to.
const (
	Volume Snap = "volume"  // the middle of the volume under the pointer
	Skin   Snap = "surface" // where the pointer meets the first surface
	Vertex Snap = "vertex"  // the nearest vertex of the surface under the pointer
	Joint  Snap = "joint"   // the joint nearest to the pointer
	Centre Snap = "centre"  // the middle of the part under the pointer
	Grid   Snap = "grid"    // whole steps of the grid, in the plane that faces the viewer
	Ground Snap = "ground"  // the ground, height 0
	Free   Snap = "free"    // nothing: the plane that faces the viewer
)

// Aim is what is sought: along a ray, from a place that is being moved.
type Aim struct {
	Ray    mesh.Ray
	Snap   Snap       // empty for Volume
	From   mgl64.Vec3 // what is moved stands here; Free and Grid keep its distance from the viewer
	Facing mgl64.Vec3 // the viewer's direction, for Free and Grid
	Step   float64    // of the grid, metres
	Lock   string     // "x", "y" or "z": that coordinate stays at LockAt, for flat characters
	LockAt float64
	Except []string // joints that Joint passes over: those that are moved
}

// Reach is how far, in radians from the ray, a joint or vertex may lie to be snapped to.
const Reach = 0.035

// Seek returns the place an aim leads to. parts are the pickable surfaces. ok is false when nothing is there.
func Seek(a Aim, joints []rig.Joint, parts []*mesh.Mesh) (place mgl64.Vec3, ok bool) {
	if !geometry.FiniteVector(a.Ray.Origin) || !geometry.FiniteVector(a.Ray.Direction) || !geometry.FiniteVector(a.From) ||
		!geometry.FiniteVector(a.Facing) || !geometry.Finite(a.Step, a.LockAt) || !(a.Ray.Direction.Len() > 0) {
		return place, false
	}
	a.Ray.Direction = a.Ray.Direction.Normalize()
	switch a.Snap {
	case Skin:
		if m := firstHit(a.Ray, parts); m != nil {
			place, ok = a.Ray.Origin.Add(a.Ray.Direction.Mul(m.Hits(a.Ray)[0].Distance)), true
		}
	case Vertex:
		place, ok = nearestVertex(a.Ray, parts)
	case Joint:
		place, ok = nearestJoint(a, joints)
	case Centre:
		if m := firstHit(a.Ray, parts); m != nil {
			place, ok = m.Centre(), true
		}
	case Ground:
		place, ok = onPlane(a.Ray, mgl64.Vec3{}, geometry.Up)
	case Grid, Free:
		place, ok = onPlane(a.Ray, a.From, a.Facing)
		if step := a.Step; ok && a.Snap == Grid && step > 0 {
			for k := range place {
				place[k] = step * math.Round(place[k]/step)
			}
		}
	default:
		place, ok = mesh.VolumeCentre(a.Ray, parts)
	}
	if axis := axisOf(a.Lock); ok && axis >= 0 {
		place[axis] = a.LockAt
	}
	return place, ok && geometry.FiniteVector(place)
}

func axisOf(name string) int {
	switch name {
	case "x":
		return 0
	case "y":
		return 1
	case "z":
		return 2
	}
	return -1
}

func onPlane(ray mesh.Ray, through, normal mgl64.Vec3) (mgl64.Vec3, bool) {
	slope := ray.Direction.Dot(normal)
	if math.Abs(slope) < 1e-9*normal.Len() || normal.Len() == 0 {
		return mgl64.Vec3{}, false
	}
	along := through.Sub(ray.Origin).Dot(normal) / slope
	return ray.Origin.Add(ray.Direction.Mul(along)), along > 0
}

// firstHit is the mesh that a ray meets first, or nil.
func firstHit(ray mesh.Ray, parts []*mesh.Mesh) (first *mesh.Mesh) {
	nearest := math.Inf(1)
	for _, m := range parts {
		if hits := m.Hits(ray); len(hits) > 0 && hits[0].Distance < nearest {
			nearest, first = hits[0].Distance, m
		}
	}
	return first
}

// beside is the angle between a ray and the way to a place; infinite behind its origin.
func beside(ray mesh.Ray, p mgl64.Vec3) float64 {
	away := p.Sub(ray.Origin)
	along := away.Dot(ray.Direction)
	if !(along > 0) {
		return math.Inf(1)
	}
	return math.Atan2(away.Sub(ray.Direction.Mul(along)).Len(), along)
}

// nearestVertex is the vertex nearest to where the ray meets the first surface; past all surfaces, the one nearest to the ray.
func nearestVertex(ray mesh.Ray, parts []*mesh.Mesh) (place mgl64.Vec3, ok bool) {
	if m := firstHit(ray, parts); m != nil {
		at := ray.Origin.Add(ray.Direction.Mul(m.Hits(ray)[0].Distance))
		nearest := math.Inf(1)
		for i := range m.VertexCount() {
			if d := m.Vertex(i).Sub(at).Len(); d < nearest {
				nearest, place = d, m.Vertex(i)
			}
		}
		return place, true
	}
	nearest := Reach
	for _, m := range parts {
		for i := range m.VertexCount() {
			if angle := beside(ray, m.Vertex(i)); angle < nearest {
				nearest, place, ok = angle, m.Vertex(i), true
			}
		}
	}
	return place, ok
}

func nearestJoint(a Aim, joints []rig.Joint) (place mgl64.Vec3, ok bool) {
	except := map[string]bool{}
	for _, id := range a.Except {
		except[id] = true
	}
	nearest := Reach
	for _, j := range joints {
		if angle := beside(a.Ray, j.Position); angle < nearest && !except[j.ID] {
			nearest, place, ok = angle, j.Position, true
		}
	}
	return place, ok
}
