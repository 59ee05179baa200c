package mesh

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
)

// Section returns the closed outline, of count points, of the body's cross-section in the main-axis plane of the frame at:
// for each direction in that plane the distance to the surface first left when walking out from the middle, smoothed
// and moved outward by the share margin. Points are in the frame of at. Where the plane meets nothing it returns nil.
func Section(meshes []*Mesh, at geometry.Transform, count int, margin float64) []mgl64.Vec3 {
	segments := slice(meshes, at)
	radii := make([]float64, count)
	found := 0
	for i := range radii {
		angle := 2 * math.Pi * float64(i) / float64(count)
		radii[i] = reach(segments, math.Sin(angle), math.Cos(angle))
		if radii[i] > 0 {
			found++
		}
	}
	if found < count/2 {
		return nil
	}
	bridgeGaps(radii)
	return outline(smoothRing(radii), 1+margin)
}

type segment struct{ ax, az, bx, bz float64 }

// slice cuts all triangles with the plane y = 0 of the frame.
func slice(meshes []*Mesh, at geometry.Transform) []segment {
	inverse := at.Inverse()
	var segments []segment
	for _, m := range meshes {
		local := make([]mgl64.Vec3, m.VertexCount())
		for i := range local {
			local[i] = inverse.Apply(m.Vertex(i))
		}
		for i := range len(m.Triangles) / 3 {
			corners := [3]mgl64.Vec3{local[m.Triangles[3*i]], local[m.Triangles[3*i+1]], local[m.Triangles[3*i+2]]}
			var ends []mgl64.Vec3
			for k := range 3 {
				a, b := corners[k], corners[(k+1)%3]
				if (a[1] < 0) != (b[1] < 0) {
					ends = append(ends, a.Add(b.Sub(a).Mul(a[1]/(a[1]-b[1]))))
				}
			}
			if len(ends) == 2 {
				segments = append(segments, segment{ends[0][0], ends[0][2], ends[1][0], ends[1][2]})
			}
		}
	}
	return segments
}

// reach returns the distance from the origin along (dx, dz) at which the surface is first met, 0 when it never is.
func reach(segments []segment, dx, dz float64) float64 {
	nearest := 0.0
	for _, s := range segments {
		ex, ez := s.bx-s.ax, s.bz-s.az
		cross := dx*ez - dz*ex
		if !(math.Abs(cross) > 1e-12*math.Hypot(ex, ez)) {
			continue
		}
		along := (s.ax*ez - s.az*ex) / cross
		share := (s.ax*dz - s.az*dx) / cross
		if along > 0 && share >= 0 && share <= 1 && (nearest == 0 || along < nearest) {
			nearest = along
		}
	}
	return nearest
}

// bridgeGaps gives directions that met nothing the reach of their nearest neighbour.
func bridgeGaps(radii []float64) {
	count := len(radii)
	filled := make([]float64, count)
	for i := range radii {
		for step := 0; filled[i] == 0 && step <= count/2; step++ {
			filled[i] = math.Max(radii[(i+step)%count], radii[(i-step+count)%count])
		}
	}
	copy(radii, filled)
}

func smoothRing(radii []float64) []float64 {
	count := len(radii)
	smooth := make([]float64, count)
	for i := range radii {
		around := (radii[(i+1)%count] + radii[(i-1+count)%count]) / 2
		smooth[i] = math.Max(radii[i], (radii[i]+around)/2)
	}
	return smooth
}

func outline(radii []float64, scale float64) []mgl64.Vec3 {
	points := make([]mgl64.Vec3, len(radii))
	for i, radius := range radii {
		angle := 2 * math.Pi * float64(i) / float64(len(radii))
		points[i] = mgl64.Vec3{radius * scale * math.Sin(angle), 0, radius * scale * math.Cos(angle)}
	}
	return points
}
