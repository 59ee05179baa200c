package mesh

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"
)

// loopAround cuts the surface across a direction and returns the closed outline that goes around a place, or the nearest to it; nil without one.
func (t *Topology) loopAround(at, normal mgl64.Vec3) []mgl64.Vec3 {
	var best []mgl64.Vec3
	nearest := math.Inf(1)
	for _, loop := range t.loops(at, normal) {
		middle := polygonCentre(loop)
		reach := 0.0
		for _, p := range loop {
			reach = math.Max(reach, p.Sub(middle).Len())
		}
		if d := middle.Sub(at).Len(); d < nearest && d < 2*reach {
			nearest, best = d, loop
		}
	}
	return best
}

// loops returns the closed outlines of the section in the plane through a place. The cut runs from face to face over the edges
// that it crosses.
func (t *Topology) loops(at, normal mgl64.Vec3) [][]mgl64.Vec3 {
	m := t.mesh
	height := make([]float64, m.VertexCount())
	level := at.Dot(normal)
	for i := range height {
		height[i] = float64(m.Positions[3*i])*normal[0] + float64(m.Positions[3*i+1])*normal[1] + float64(m.Positions[3*i+2])*normal[2] - level
		if height[i] == 0 {
			height[i] = 1e-300 // on the plane counts as above it
		}
	}
	next := map[Edge][]Edge{}
	points := map[Edge]mgl64.Vec3{}
	var order []Edge
	for face := range m.FaceCount() {
		c := m.Triangles[3*face : 3*face+3]
		if below := height[c[0]] < 0; below == (height[c[1]] < 0) && below == (height[c[2]] < 0) {
			continue
		}
		var cut [3]Edge
		cuts := 0
		for k := range 3 {
			i, j := c[k], c[(k+1)%3]
			if (height[i] < 0) != (height[j] < 0) {
				e := edge(t.weld[i], t.weld[j])
				cut[cuts] = e
				cuts++
				if _, known := points[e]; !known {
					share := height[i] / (height[i] - height[j])
					points[e] = m.Vertex(int(i)).Add(m.Vertex(int(j)).Sub(m.Vertex(int(i))).Mul(share))
					order = append(order, e)
				}
			}
		}
		if cuts == 2 {
			next[cut[0]] = append(next[cut[0]], cut[1])
			next[cut[1]] = append(next[cut[1]], cut[0])
		}
	}
	seen := map[Edge]bool{}
	var found [][]mgl64.Vec3
	for _, start := range order {
		if seen[start] {
			continue
		}
		var loop []mgl64.Vec3
		at, before, closed := start, Edge{}, false
		for !seen[at] {
			seen[at] = true
			loop = append(loop, points[at])
			onward := Edge{}
			for _, e := range next[at] {
				if e != before && (!seen[e] || e == start && len(loop) > 2) {
					onward = e
					closed = e == start
				}
			}
			if onward == (Edge{}) {
				break
			}
			before, at = at, onward
		}
		if closed && len(loop) > 2 {
			found = append(found, loop)
		}
	}
	return found
}
