// Package picture draws a specimen as a small still: shaded surfaces with an ink line around them and the skeleton drawn over, for
// lists and for looking without a screen.
package picture

import (
	"fmt"
	"image"
	"image/color"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/evaluate"
	"myriapod/core/mechanism"
	"myriapod/core/mesh"
	"myriapod/core/rig"
)

// canvas is drawn at twice the size and halved at the end, for smooth edges.
const oversample = 2

type canvas struct {
	width, height int
	depth         []float64
	colour        []mgl64.Vec3 // 0 to 1
	part          []int32      // which part covers a pixel, -1 for none
	toView        mgl64.Mat4
	scale         float64
	middle        mgl64.Vec3
}

// Draw returns a picture of an evaluator's present frame and its deformed body, seen from the front left and a little above, on a
// transparent ground.
func Draw(e *evaluate.Evaluator, body *evaluate.Body, width, height int) *image.NRGBA {
	c := newCanvas(e, body, width*oversample, height*oversample)
	for i, drawn := range body.Drawn() {
		if p := &body.Parts[drawn.Part]; p.Part.Sight != rig.Hidden || drawn.Set >= 0 {
			positions, normals := drawn.Vertices(body)
			c.surface(int32(i), p, drawn.Matrix(e), positions, normals)
		}
	}
	c.ground(e)
	c.outline()
	c.skeleton(e)
	return c.shrink()
}

func newCanvas(e *evaluate.Evaluator, body *evaluate.Body, width, height int) *canvas {
	c := &canvas{width: width, height: height, depth: make([]float64, width*height), colour: make([]mgl64.Vec3, width*height), part: make([]int32, width*height)}
	for i := range c.depth {
		c.depth[i], c.part[i] = math.Inf(-1), -1
	}
	c.toView = mgl64.HomogRotate3DX(0.42).Mul4(mgl64.HomogRotate3DY(-0.95))
	box := mesh.EmptyBounds()
	for _, drawn := range body.Drawn() {
		positions, _ := drawn.Vertices(body)
		seen := c.toView.Mul4(drawn.Matrix(e))
		for k := 0; k < len(positions); k += 3 {
			p := positions[k : k+3]
			box.Add(mgl64.TransformCoordinate(mgl64.Vec3{float64(p[0]), float64(p[1]), float64(p[2])}, seen))
		}
	}
	for i := range e.Frame.Joints {
		box.Add(mgl64.TransformCoordinate(e.JointAt(i).Position, c.toView))
	}
	if box.Empty() {
		box.Add(mgl64.Vec3{-1, -1, -1})
		box.Add(mgl64.Vec3{1, 1, 1})
	}
	c.middle = box.Min.Add(box.Max).Mul(0.5)
	size := box.Max.Sub(box.Min)
	c.scale = 0.86 * math.Min(float64(width)/math.Max(size[0], 1e-9), float64(height)/math.Max(size[1], 1e-9))
	return c
}

// project returns pixel coordinates and the depth, greater towards the eye.
func (c *canvas) project(p mgl64.Vec3) mgl64.Vec3 {
	v := mgl64.TransformCoordinate(p, c.toView).Sub(c.middle).Mul(c.scale)
	return mgl64.Vec3{float64(c.width)/2 + v[0], float64(c.height)/2 - v[1], v[2]}
}

func (c *canvas) surface(index int32, p *evaluate.BodyPart, matrix mgl64.Mat4, positions, vertexNormals []float32) {
	var r, g, b uint8
	if _, err := fmt.Sscanf(p.Part.Colour, "#%02x%02x%02x", &r, &g, &b); err != nil {
		r, g, b = 160, 150, 130
	}
	c.faces(index, mgl64.Vec3{float64(r) / 255, float64(g) / 255, float64(b) / 255}, p.Rest.Triangles, matrix, positions, vertexNormals)
}

// paper is the colour of a ground that is no part of the model.
var paper = mgl64.Vec3{0.87, 0.82, 0.71}

// ground draws what the specimen stands on.
func (c *canvas) ground(e *evaluate.Evaluator) {
	drawn := e.Plan.GroundSurface(func(g *mechanism.Ground) bool { return g.Drawn })
	if drawn != nil {
		c.faces(math.MaxInt32, paper, drawn.Triangles, e.GroundMatrix(), drawn.Positions, drawn.Normals)
	}
}

// faces draws triangles shaded by their normals.
func (c *canvas) faces(index int32, base mgl64.Vec3, triangles []uint32, matrix mgl64.Mat4, positions, vertexNormals []float32) {
	at := func(list []float32, i uint32) mgl64.Vec3 {
		return mgl64.Vec3{float64(list[3*i]), float64(list[3*i+1]), float64(list[3*i+2])}
	}
	seen := c.toView.Mul4(matrix)
	light := mgl64.Vec3{-0.45, 0.8, 0.5}.Normalize()
	for t := 0; t+2 < len(triangles); t += 3 {
		var corners, normals [3]mgl64.Vec3
		for k := range 3 {
			corners[k] = c.project(mgl64.TransformCoordinate(at(positions, triangles[t+k]), matrix))
			normals[k] = mgl64.TransformNormal(at(vertexNormals, triangles[t+k]), seen)
		}
		c.triangle(index, corners, normals, func(n mgl64.Vec3) mgl64.Vec3 {
			return base.Mul(0.62 + 0.5*math.Max(0, n.Dot(light)))
		})
	}
}

// triangle fills one triangle with interpolated normals.
func (c *canvas) triangle(index int32, p, n [3]mgl64.Vec3, shade func(mgl64.Vec3) mgl64.Vec3) {
	mesh.Fill(p, c.width, c.height, func(at int, a, b, d float64) {
		if depth := a*p[0][2] + b*p[1][2] + d*p[2][2]; depth > c.depth[at] {
			c.depth[at], c.part[at] = depth, index
			c.colour[at] = shade(n[0].Mul(a).Add(n[1].Mul(b)).Add(n[2].Mul(d)))
		}
	})
}

var ink = mgl64.Vec3{0.137, 0.161, 0.173}

// outline inks the pixels where a part ends or the depth breaks off.
func (c *canvas) outline() {
	inked := make([]bool, len(c.part))
	for y := 1; y < c.height-1; y++ {
		for x := 1; x < c.width-1; x++ {
			at := y*c.width + x
			for _, other := range []int{at + 1, at - 1, at + c.width, at - c.width} {
				if c.part[at] >= 0 && (c.part[other] != c.part[at] || c.depth[at]-c.depth[other] > 6*oversample) {
					inked[at] = true
				}
			}
		}
	}
	for at, yes := range inked {
		if yes {
			c.colour[at] = ink
		}
	}
}

// skeleton draws each bone as a slim quill, seen through the body.
func (c *canvas) skeleton(e *evaluate.Evaluator) {
	for i, joint := range e.Plan.Document.Joints {
		parent, ok := e.Plan.JointIndex[joint.Parent]
		if !ok {
			continue
		}
		from, to := c.project(e.JointAt(parent).Position), c.project(e.JointAt(i).Position)
		along := to.Sub(from)
		length := math.Hypot(along[0], along[1])
		if length < 1 {
			continue
		}
		side := mgl64.Vec3{-along[1] / length, along[0] / length, 0}.Mul(1.2 * oversample)
		flat := func(mgl64.Vec3) mgl64.Vec3 { return ink }
		near := [3]mgl64.Vec3{from.Add(side), from.Sub(side), to}
		for k := range near {
			near[k][2] = math.MaxFloat64
		}
		c.triangle(1<<20, near, [3]mgl64.Vec3{}, flat)
	}
}

func (c *canvas) shrink() *image.NRGBA {
	picture := image.NewNRGBA(image.Rect(0, 0, c.width/oversample, c.height/oversample))
	for y := range c.height / oversample {
		for x := range c.width / oversample {
			var sum mgl64.Vec3
			covered := 0.0
			for dy := range oversample {
				for dx := range oversample {
					if at := (y*oversample+dy)*c.width + x*oversample + dx; c.part[at] >= 0 {
						sum = sum.Add(c.colour[at])
						covered++
					}
				}
			}
			if covered > 0 {
				sum = sum.Mul(255 / covered)
				clamp := func(v float64) uint8 { return uint8(math.Min(255, math.Max(0, v))) }
				picture.SetNRGBA(x, y, color.NRGBA{clamp(sum[0]), clamp(sum[1]), clamp(sum[2]), uint8(255 * covered / (oversample * oversample))})
			}
		}
	}
	return picture
}
