package mesh

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"
)

// Fill calls visit for every pixel whose middle lies in the triangle p, given in pixels, with its place in rows of width and its
// barycentric coordinates (Pineda 1988, A parallel algorithm for polygon rasterization).
func Fill(p [3]mgl64.Vec3, width, height int, visit func(at int, a, b, c float64)) {
	area := (p[1][0]-p[0][0])*(p[2][1]-p[0][1]) - (p[2][0]-p[0][0])*(p[1][1]-p[0][1])
	if !(math.Abs(area) >= 1e-12) {
		return
	}
	x0, x1 := pixelBounds(p[0][0], p[1][0], p[2][0], width)
	y0, y1 := pixelBounds(p[0][1], p[1][1], p[2][1], height)
	for y := y0; y <= y1; y++ {
		for x := x0; x <= x1; x++ {
			fx, fy := float64(x)+0.5, float64(y)+0.5
			a := ((p[1][0]-fx)*(p[2][1]-fy) - (p[2][0]-fx)*(p[1][1]-fy)) / area
			b := ((p[2][0]-fx)*(p[0][1]-fy) - (p[0][0]-fx)*(p[2][1]-fy)) / area
			if c := 1 - a - b; a >= 0 && b >= 0 && c >= 0 {
				visit(y*width+x, a, b, c)
			}
		}
	}
}

func pixelBounds(a, b, c float64, limit int) (from, to int) {
	return int(math.Max(0, math.Floor(math.Min(a, math.Min(b, c))))), int(math.Min(float64(limit-1), math.Ceil(math.Max(a, math.Max(b, c)))))
}

// Window is a rectangle on a picture of the model: View takes the world to the picture, -1 to 1 both ways with y upward and depth
// growing away from the eye, as a projection of OpenGL does.
type Window struct {
	View                     mgl64.Mat4
	Left, Bottom, Right, Top float64
	Through                  bool // what lies behind other surfaces counts too
}

const depthSize = 640

// Inside returns, for each mesh, the vertices whose picture lies in the window. Unless the window sees through, those behind a
// surface of any of the meshes are left out, by a depth buffer of 640 × 640.
func Inside(w Window, meshes []*Mesh) [][]int {
	found := make([][]int, len(meshes))
	var depth []float64
	if !w.Through {
		depth = w.depths(meshes)
	}
	for i, m := range meshes {
		for v := range m.VertexCount() {
			p, ahead := w.project(m.Vertex(v))
			if !ahead || p[0] < w.Left || p[0] > w.Right || p[1] < w.Bottom || p[1] > w.Top {
				continue
			}
			if depth == nil || seen(depth, p) {
				found[i] = append(found[i], v)
			}
		}
	}
	return found
}

// depthSlack is how far, in depth from -1 to 1, a vertex may lie behind what the buffer shows there: surfaces slope within a pixel.
const depthSlack = 2e-4

func (w Window) project(p mgl64.Vec3) (picture mgl64.Vec3, ahead bool) {
	v := w.View.Mul4x1(p.Vec4(1))
	if !(v[3] > 1e-9) {
		return picture, false
	}
	return mgl64.Vec3{v[0] / v[3], v[1] / v[3], v[2] / v[3]}, true
}

func toPixel(p mgl64.Vec3) mgl64.Vec3 {
	return mgl64.Vec3{(p[0] + 1) / 2 * depthSize, (p[1] + 1) / 2 * depthSize, p[2]}
}

// seen tells whether a place is in front in one of the pixels around it, so that vertices on an outline count as seen; where nothing
// is drawn around it, it is.
func seen(depth []float64, p mgl64.Vec3) bool {
	at := toPixel(p)
	empty := true
	for _, dy := range []int{-1, 0, 1} {
		for _, dx := range []int{-1, 0, 1} {
			x, y := int(at[0])+dx, int(at[1])+dy
			if x < 0 || y < 0 || x >= depthSize || y >= depthSize || math.IsInf(depth[y*depthSize+x], 1) {
				continue
			}
			empty = false
			if p[2] <= depth[y*depthSize+x]+depthSlack {
				return true
			}
		}
	}
	return empty
}

func (w Window) depths(meshes []*Mesh) []float64 {
	depth := make([]float64, depthSize*depthSize)
	for i := range depth {
		depth[i] = math.Inf(1)
	}
	for _, m := range meshes {
		for face := range m.FaceCount() {
			var p [3]mgl64.Vec3
			a, b, c := m.Corner(face)
			ahead := true
			for k, corner := range []mgl64.Vec3{a, b, c} {
				place, ok := w.project(corner)
				p[k], ahead = toPixel(place), ahead && ok
			}
			if ahead {
				Fill(p, depthSize, depthSize, func(at int, a, b, c float64) {
					depth[at] = math.Min(depth[at], a*p[0][2]+b*p[1][2]+c*p[2][2])
				})
			}
		}
	}
	return depth
}
