// Package morph makes the shapes that a surface takes beside its own: what a hand does to the vertices that it holds, and shapes made of other shapes. A shape is
// kept as how far each vertex moves (mesh.Deltas).
package morph

import (
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/mesh"
)

// Act is what a hand does to what it holds.
type Act string

// The acts. The first four go with the hand as long as it holds on; the others work again at every place that it comes to.
const (
	Move    Act = "move"
	Turn    Act = "turn"
	Scale   Act = "scale"
	Slide   Act = "slide" // along the surface, which keeps its form
	Push    Act = "push"  // out along the normals
	Pull    Act = "pull"  // in along them
	Smooth  Act = "smooth"
	Restore Act = "restore" // back to what the shape was without the morph target
)

// Acts lists the acts.
var Acts = []Act{Move, Turn, Scale, Slide, Push, Pull, Smooth, Restore}

// Holds tells whether an act goes with the hand.
func (a Act) Holds() bool { return a == Move || a == Turn || a == Scale || a == Slide }

// Check tells what is wrong with the name of an act.
func (a Act) Check() error {
	for _, known := range Acts {
		if a == known {
			return nil
		}
	}
	return fmt.Errorf("nothing is done to a shape by %q; there are %v", a, Acts)
}

// Grip is what a hand holds: vertices, each by a share that falls from 1 in the middle to 0 at the edge of its reach.
type Grip struct {
	Vertices []int
	Shares   []float64
}

// GripAt holds what lies within reach of a spot over the surface.
func GripAt(w *mesh.Walk, at mesh.Spot, reach float64) (g Grip) {
	w.Within(at, reach, func(vertex int, way float64) { g.add(vertex, 1-way/reach) })
	return g
}

// GripOf holds vertices wholly, and what lies within reach of them over the surface less and less. Reach may be 0.
func GripOf(w *mesh.Walk, vertices []int, reach float64) (g Grip) {
	w.WithinOf(vertices, reach, func(vertex int, way float64) {
		if way == 0 {
			g.add(vertex, 1)
		} else {
			g.add(vertex, 1-way/reach)
		}
	})
	return g
}

func (g *Grip) add(vertex int, share float64) {
	if share > 0 {
		g.Vertices, g.Shares = append(g.Vertices, vertex), append(g.Shares, geometry.Smoothstep(share))
	}
}

// Hand is where a hand has come to from where it took hold, in the space of the places that it works on. Which of it counts is the act's business.
type Hand struct {
	At     mgl64.Vec3 // where it took hold
	By     mgl64.Vec3 // how far it has come, metres
	Facing mgl64.Vec3 // what it turns about
	Angle  float64    // radians
	Factor float64    // of scale, more than 0
	Amount float64    // of push and pull, metres; of smooth and restore, a share
}

// Shape is a surface under a hand: places by vertex, those that it had when the hand took hold, and those without the morph target.
type Shape struct {
	Walk         *mesh.Walk
	Place, Still func(vertex int) mgl64.Vec3
}

// Do returns how far each vertex of a grip goes by an act. Vertices in one place go together.
func (s Shape) Do(act Act, g Grip, h Hand) []mgl64.Vec3 {
	by := make([]mgl64.Vec3, len(g.Vertices))
	for i, vertex := range g.Vertices {
		by[i] = s.move(act, vertex, g.Shares[i], h)
	}
	return by
}

func (s Shape) move(act Act, vertex int, share float64, h Hand) mgl64.Vec3 {
	p := s.Place(vertex)
	off := p.Sub(h.At)
	switch act {
	case Move:
		return h.By.Mul(share)
	case Turn:
		return mgl64.QuatRotate(h.Angle*share, geometry.Unit(h.Facing, geometry.Up)).Rotate(off).Sub(off)
	case Scale:
		return off.Mul(math.Pow(h.Factor, share) - 1)
	case Slide:
		normal := s.Walk.Upright(vertex, s.Place)
		along := h.By.Sub(normal.Mul(h.By.Dot(normal)))
		return s.Walk.SettleOn(vertex, p.Add(along.Mul(share)), s.Place).Sub(p)
	case Push:
		return s.Walk.Upright(vertex, s.Place).Mul(h.Amount * share)
	case Pull:
		return s.Walk.Upright(vertex, s.Place).Mul(-h.Amount * share)
	case Smooth:
		return s.even(vertex).Sub(p).Mul(math.Min(1, h.Amount*share))
	}
	return s.Still(vertex).Sub(p).Mul(math.Min(1, h.Amount*share))
}

// even is the middle of a vertex's neighbours.
func (s Shape) even(vertex int) mgl64.Vec3 {
	sum, count := mgl64.Vec3{}, 0.0
	s.Walk.Neighbours(vertex, func(other int) {
		sum = sum.Add(s.Place(other))
		count++
	})
	if count == 0 {
		return s.Place(vertex)
	}
	return sum.Mul(1 / count)
}

// Deltas returns a shape as it is kept: how far vertices move, and how far that turns their normals, which are those of the surface at rest turned as it turns there.
func Deltas(w *mesh.Walk, rest *mesh.Mesh, by []float32) *mesh.Deltas {
	d := &mesh.Deltas{Positions: by, Normals: make([]float32, len(by))}
	changed := map[int]bool{}
	for vertex := range rest.VertexCount() {
		if by[3*vertex] != 0 || by[3*vertex+1] != 0 || by[3*vertex+2] != 0 {
			changed[vertex] = true
			w.Neighbours(vertex, func(other int) { w.Twins(other, func(twin int) { changed[twin] = true }) })
		}
	}
	moved := func(v int) mgl64.Vec3 { return rest.Vertex(v).Add(vector(by, v)) }
	for vertex := range changed {
		from := w.Upright(vertex, rest.Vertex)
		turn := geometry.Shortest(from, w.Upright(vertex, moved), geometry.Across(vector(rest.Normals, vertex), from))
		n := vector(rest.Normals, vertex)
		delta := turn.Rotate(n).Sub(n)
		for k := range 3 {
			if value := float32(delta[k]); value == value {
				d.Normals[3*vertex+k] = value
			}
		}
	}
	return d
}

func vector(list []float32, i int) mgl64.Vec3 {
	return mgl64.Vec3{float64(list[3*i]), float64(list[3*i+1]), float64(list[3*i+2])}
}
