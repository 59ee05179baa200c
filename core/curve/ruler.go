package curve

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
)

// Frame is a moving frame on a curve: unit Tangent, and unit Normal at right angles to it.
type Frame struct {
	Tangent, Normal mgl64.Vec3
}

// Rotation returns the frame as a rotation: main axis along the tangent, second axis along the normal turned by twist
// radians about the tangent.
func (f Frame) Rotation(twist float64) mgl64.Quat {
	return mgl64.QuatRotate(twist, f.Tangent).Mul(geometry.FromAxes(f.Tangent, f.Normal)).Normalize()
}

// Ruler measures a spline: arc length both ways, and rotation-minimising frames. Allocate it once with NewRuler, then Measure
// after each change of the points; measuring and reading allocate nothing.
//
// Arc length: Gauss–Legendre quadrature of five points between table nodes, inverted by table and Newton steps.
// Frames: double reflection (Wang, Jüttler, Zheng, Liu 2008, Computation of Rotation Minimizing Frames).
type Ruler struct {
	Line *BSpline

	pieces    *Pieces
	nodes     []node
	total     float64
	size      float64 // how far its points lie from the first at most
	collapsed bool
}

type node struct {
	u, s  float64
	speed float64 // of the length by u
	place mgl64.Vec3
	frame Frame
	rough bool // the interval that ends here bends too sharply for one quadrature
}

// nodeTarget is how finely a curve of few pieces is tabled; a curve of many gets two intervals a piece at least.
const nodeTarget = 64

// NewRuler returns a ruler for line. It must be measured before it is read.
func NewRuler(line *BSpline) *Ruler {
	perSpan := max(2, (nodeTarget+line.Spans()-1)/line.Spans())
	return &Ruler{Line: line, pieces: NewPieces(line), nodes: make([]node, line.Spans()*perSpan+1)}
}

// Measure reads the points of the line anew. The frames begin as the unit vector start with the direction normal beside it, swung by the least
// turn onto the curve's own first tangent. Where the curve has no tangent at its beginning or its end (several points in one place), it is
// the unit vector start, or end.
func (r *Ruler) Measure(start, normal, end mgl64.Vec3) {
	last := len(r.nodes) - 1
	r.size, r.collapsed = 0, false
	for _, p := range r.Line.Points {
		r.size = math.Max(r.size, p.Sub(r.Line.Points[0]).Len())
	}
	r.pieces.Set(r.Line)
	s := 0.0
	for i := range r.nodes {
		n := &r.nodes[i]
		n.u = float64(i) / float64(last)
		place, derivative := r.pieces.At(n.u)
		n.place, n.speed = place, derivative.Len()
		if i > 0 {
			s += r.measureInterval(&r.nodes[i-1], n)
		}
		n.s = s
		switch i {
		case 0:
			n.frame.Tangent, _ = r.tangent(derivative, start)
			swing := geometry.Shortest(start, n.frame.Tangent, geometry.Across(normal, start))
			n.frame.Normal = geometry.Across(swing.Rotate(normal), n.frame.Tangent)
		case last:
			tangent, _ := r.tangent(derivative, end)
			n.frame = r.carry(&r.nodes[i-1], place, tangent)
		default:
			tangent, goes := r.tangent(derivative, r.nodes[i-1].frame.Tangent)
			n.frame = r.carry(&r.nodes[i-1], place, tangent)
			r.collapsed = r.collapsed || !goes
		}
	}
	r.total = s
}

// stillSpeed is the derivative, as a share of the curve's size, below which the curve counts as standing still.
const stillSpeed = 1e-9

// tangent is the direction of the derivative, or fallback where the curve does not go on.
func (r *Ruler) tangent(derivative, fallback mgl64.Vec3) (direction mgl64.Vec3, goes bool) {
	speed := derivative.Len()
	if !(speed > stillSpeed*r.size) {
		return fallback, false
	}
	return derivative.Mul(1 / speed), true
}

// Below nearChord, as a share of the curve's size, the way from one place to the next is too much rounding to have a direction of its own,
// and below nearTurn, in radians, so is the turn that is left after the first reflection.
const (
	nearChord = 1e-7
	nearTurn  = 1e-9
)

// carry carries the frame of a node to place and tangent by two reflections: across the plane between the two places, then across the plane
// between the carried tangent and the wanted one. Of two places that fall together the tangent is the way from one to the other, as it
// is in the limit: so the frames on both sides of a node meet in the node's own.
func (r *Ruler) carry(from *node, place, tangent mgl64.Vec3) Frame {
	way := place.Sub(from.place)
	square := way.Dot(way)
	if near := nearChord * r.size; !(square > near*near) {
		way, square = from.frame.Tangent, 1
	}
	normal := mirrored(from.frame.Normal, way, square)
	turn := tangent.Sub(mirrored(from.frame.Tangent, way, square))
	if square := turn.Dot(turn); square > nearTurn*nearTurn {
		normal = mirrored(normal, turn, square)
	}
	return Frame{Tangent: tangent, Normal: geometry.Across(normal, tangent)}
}

// mirrored is v reflected across the plane that across, whose length squared is square, stands upright on.
func mirrored(v, across mgl64.Vec3, square float64) mgl64.Vec3 {
	return v.Sub(across.Mul(2 / square * across.Dot(v)))
}

// measureInterval returns the length from one node to the next, and notes whether one quadrature is enough there.
func (r *Ruler) measureInterval(start, end *node) float64 {
	u := start.u
	whole, middle := r.pieces.length(u, end.u), (u+end.u)/2
	halves := r.pieces.length(u, middle) + r.pieces.length(middle, end.u)
	slowest := math.Min(start.speed, end.speed)
	end.rough = math.Abs(whole-halves) > roughness*r.size || slowest*(end.u-u) < slowEnd*whole
	if end.rough {
		return r.adaptive(u, end.u, whole, roughness*r.size, adaptiveDepth)
	}
	return whole
}

// roughness is the error of length, as a share of the curve's size, from which an interval is cut further. A kink close to the end
// of an interval hides from the quadrature's points there; it shows in a speed that falls below slowEnd of the mean.
// adaptiveDepth is how often an interval may be halved, and surelyHalved how often a rough one is in any case.
const (
	roughness     = 1e-10
	slowEnd       = 0.1
	adaptiveDepth = 14
	surelyHalved  = 4
)

// adaptive halves the interval until the quadrature settles; near a cusp the speed has a kink that no fixed rule meets.
func (r *Ruler) adaptive(from, to, whole, tolerance float64, depth int) float64 {
	middle := (from + to) / 2
	left, right := r.pieces.length(from, middle), r.pieces.length(middle, to)
	settled := depth <= adaptiveDepth-surelyHalved && math.Abs(left+right-whole) <= tolerance
	if depth == 0 || settled {
		return left + right
	}
	return r.adaptive(from, middle, left, tolerance, depth-1) + r.adaptive(middle, to, right, tolerance, depth-1)
}

// lengthFrom returns the arc length from a node to a parameter u within the interval that follows it.
func (r *Ruler) lengthFrom(n, next *node, u float64) float64 {
	whole := r.pieces.length(n.u, u)
	if next.rough {
		return r.adaptive(n.u, u, whole, roughness*r.total, adaptiveDepth)
	}
	return whole
}

// Total returns the arc length of the whole curve.
func (r *Ruler) Total() float64 { return r.total }

// Collapsed tells whether the curve stood still somewhere between its ends when it was measured, so that a tangent had to be taken from before.
func (r *Ruler) Collapsed() bool { return r.collapsed }

// ArcAt returns the arc length from the beginning to the parameter u.
func (r *Ruler) ArcAt(u float64) float64 {
	i := r.intervalOf(u)
	return r.nodes[i].s + r.lengthFrom(&r.nodes[i], &r.nodes[i+1], u)
}

// intervalOf returns the index of the node that begins the interval of u.
func (r *Ruler) intervalOf(u float64) int {
	last := len(r.nodes) - 1
	return min(max(int(u*float64(last)), 0), last-1)
}

// Locate returns the parameter at the arc length s, which is brought into [0, Total].
func (r *Ruler) Locate(s float64) float64 {
	if s <= 0 {
		return 0
	}
	if s >= r.total {
		return 1
	}
	low, high := 0, len(r.nodes)-1
	for high-low > 1 {
		middle := (low + high) / 2
		if r.nodes[middle].s <= s {
			low = middle
		} else {
			high = middle
		}
	}
	return r.newton(&r.nodes[low], &r.nodes[high], s)
}

// newton solves for s between two neighbouring nodes; steps that leave the bracket are replaced by bisection.
func (r *Ruler) newton(below, above *node, s float64) float64 {
	low, high := below.u, above.u
	u := guess(below, above, s)
	for range 12 {
		error := below.s + r.lengthFrom(below, above, u) - s
		if math.Abs(error) <= 1e-13*r.total {
			break
		}
		if error > 0 {
			high = u
		} else {
			low = u
		}
		next := u - error/math.Max(r.pieces.speed(u), 1e-300)
		if !(next > low && next < high) {
			next = (low + high) / 2
		}
		u = next
	}
	return u
}

// guess returns about where between two nodes the length is s: by the cubic that has the length and the speed of both.
func guess(below, above *node, s float64) float64 {
	length, step := above.s-below.s, above.u-below.u
	if !(length > 0) {
		return below.u
	}
	x := (s - below.s) / length
	slopeBelow, slopeAbove := below.speed*step/length, above.speed*step/length
	if slopeBelow < slowEnd || slopeAbove < slowEnd {
		return below.u + step*x
	}
	// Of u by s: the slopes are one over those of s by u.
	a, b := 1/slopeBelow, 1/slopeAbove
	rest := 1 - x
	share := x*x*(3-2*x) + rest*rest*x*a - x*x*rest*b
	return below.u + step*math.Min(1, math.Max(0, share))
}

// FrameAt returns the place and the carried frame at the parameter u in [0, 1].
func (r *Ruler) FrameAt(u float64) (mgl64.Vec3, Frame) {
	if u >= 1 {
		return r.End()
	}
	n := &r.nodes[r.intervalOf(u)]
	if u <= n.u {
		return n.place, n.frame
	}
	place, derivative := r.pieces.At(u)
	tangent, _ := r.tangent(derivative, n.frame.Tangent)
	return place, r.carry(n, place, tangent)
}

// sharp is the cosine of the turn of the curve within one interval of the ruler from which it counts as sharp.
const sharp = 0.7

// Sharp tells whether the curve bends so sharply about a parameter that what is carried along it there turns as good as at once.
func (r *Ruler) Sharp(u float64) bool {
	i := r.intervalOf(math.Min(u, 1))
	return r.nodes[i].frame.Tangent.Dot(r.nodes[i+1].frame.Tangent) < sharp
}

// Past returns the place and frame so far beyond the end of the curve, on the tangent there. Within the length settle the direction goes on bending as
// the curve did, ever less, and back again, so that what goes past the end neither stops turning at once nor leaves the tangent.
func (r *Ruler) Past(beyond, settle float64) (mgl64.Vec3, Frame) {
	end := &r.nodes[len(r.nodes)-1]
	bend, bends := r.pieces.curvature(1, end.frame.Tangent)
	if bends*settle > 1 {
		settle = 1 / bends
	}
	place := end.place.Add(end.frame.Tangent.Mul(beyond))
	if !(bends > 0) || !(settle > 0) {
		return place, end.frame
	}
	x := math.Min(1, beyond/settle)
	aside := bends * settle * settle * x * x * (1.0/2 - 2*x/3 + x*x/4)
	place = place.Add(bend.Mul(aside))
	if x == 1 {
		return place, end.frame
	}
	sine, cosine := math.Sincos(bends * settle * x * (1 - x) * (1 - x))
	tangent := end.frame.Tangent.Mul(cosine).Add(bend.Mul(sine))
	turn := geometry.Shortest(end.frame.Tangent, tangent, end.frame.Normal)
	return place, Frame{Tangent: tangent, Normal: geometry.Across(turn.Rotate(end.frame.Normal), tangent)}
}

// End returns the place and frame at the end of the curve.
func (r *Ruler) End() (mgl64.Vec3, Frame) {
	n := &r.nodes[len(r.nodes)-1]
	return n.place, n.frame
}
