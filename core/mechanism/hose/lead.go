package hose

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/curve"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
)

// hose is a hose made ready.
type hose struct {
	joints              []int
	rest                []geometry.Transform
	line                *curve.BSpline // at rest
	shares              []float64      // by curve point: how far it goes with the last end
	along               []float64      // where it lies on the way between the ends' own
	profile             []float64      // how far it bulges, as a share
	sides               []mgl64.Vec3   // where it bulges to besides
	long, bulge         float64        // how long it is, and how far it lies off the straight way, at rest
	start, end, normal  mgl64.Vec3     // directions at rest
	first, last         mechanism.Resource
	firstRest, lastRest geometry.Transform
	hung                bool
	weight, paid        mechanism.Number
	curve               int
	room                mechanism.Scratch[room]

	// Measured on the rest pose.
	places  []float64 // of the joints, as shares of the length
	offsets []geometry.Transform
	roll    float64 // of the last end against the carried frame

	short, parted, torn, opposed, sharp int // findings
}

// room is what a hose works in.
type room struct {
	by            *curve.Lengthening
	carried, ways []mgl64.Vec3
}

// ends is how far both ends have gone from rest.
func (h *hose) ends(f *mechanism.Frame) (first, last geometry.Transform) {
	first = geometry.Identity()
	if h.hung {
		first = f.At(h.first).Then(h.firstRest.Inverse())
	}
	return first, f.At(h.last).Then(h.lastRest.Inverse())
}

// cancels is how little is left of the side to which a hose bulges, as a share of what it is at rest, for that to be told.
const cancels = 0.05

// taut is how much too short or too long a hose may be, as a share of its length, without its being told: a rope that hangs taut is neither.
const taut = 1e-6

// leastLeft is how much of a hose is left however much is taken in, as a share of its length.
const leastLeft = 0.05

// lead leads the curve. Its points go along with the two ends, each in its share; then all but those that hold the directions go on to the side to which the hose bulges, until it is as long as it is.
//
// Method: the length of a spline is a convex function of how far its points go along straight ways, so there is one amount beyond the least length, which Newton's method finds from above. Points that
// are carried are mixed as places, and sides as vectors, so that nothing turns over.
func (h *hose) lead(f *mechanism.Frame) {
	first, last := h.ends(f)
	r, n := h.room.In(f), len(h.shares)
	weight := h.weight.At(f)
	from, to := h.line.Points[1], h.line.Points[n-2]
	from, to = first.Apply(from), last.Apply(to)
	fallen := sides[down]
	greatest := 0.0
	for i, p := range h.line.Points {
		share := h.shares[i]
		r.carried[i] = mix(first.Apply(p), last.Apply(p), share)
		r.ways[i] = mgl64.Vec3{}
		if h.profile[i] == 0 {
			continue
		}
		aside := r.carried[i].Sub(mix(from, to, h.along[i]))
		side := mix(first.Rotation.Rotate(h.sides[i]), last.Rotation.Rotate(h.sides[i]), share)
		was := mix(first.Rotation.Rotate(fallen), last.Rotation.Rotate(fallen), share)
		r.ways[i] = aside.Add(side).Add(fallen.Sub(was).Mul(weight * h.profile[i] * h.bulge))
		greatest = math.Max(greatest, r.ways[i].Len())
	}
	f.Findings[h.torn] = greatest < cancels*h.bulge
	points := f.Curves[h.curve].Base.Points
	h.fit(f, r, points, math.Max(leastLeft*h.long, h.long+h.paid.At(f)))
	f.Curves[h.curve].Carry(first.Rotation.Rotate(h.start), first.Rotation.Rotate(h.normal), last.Rotation.Rotate(h.end))
}

func mix(a, b mgl64.Vec3, share float64) mgl64.Vec3 { return a.Mul(1 - share).Add(b.Mul(share)) }

// fit brings the points to where the curve is so long.
func (h *hose) fit(f *mechanism.Frame, r *room, points []mgl64.Vec3, long float64) {
	r.by.Set(r.carried, r.ways)
	amount, short, still := r.by.Reach(long, 0)
	if still {
		amount = 0
		now, _ := r.by.Length(0)
		short = now > long
		f.Findings[h.torn] = f.Findings[h.torn] || now < long*(1-taut)
	}
	for i := range points {
		points[i] = r.carried[i].Add(r.ways[i].Mul(amount))
	}
	f.Findings[h.short] = false
	if !short {
		return
	}
	least, _ := r.by.Length(amount)
	f.Findings[h.short] = least > long*(1+taut)
	// Too short: it gives way towards the straight way between its ends, as far as it must.
	n := len(points) - 1
	begin, end := points[0], points[n]
	span := end.Sub(begin).Len()
	if span >= long {
		f.Findings[h.parted] = span > long*(1+taut)
		end = begin.Add(end.Sub(begin).Mul(long / math.Max(span, math.SmallestNonzeroFloat64)))
		for i := range points {
			points[i] = mix(begin, end, h.line.Greville(i))
		}
		return
	}
	for i := range points {
		r.carried[i] = points[i]
		r.ways[i] = points[i].Sub(mix(begin, end, h.line.Greville(i)))
	}
	r.by.Set(r.carried, r.ways)
	amount, _, _ = r.by.Reach(long, -1)
	for i := range points {
		points[i] = r.carried[i].Add(r.ways[i].Mul(amount))
	}
}

// rolled is how far the last end is rolled against the frame that the curve carries there, whole turns unknown. Where the curve has left the direction of its end, what is rolled goes along by the
// least turn.
func (h *hose) rolled(f *mechanism.Frame, last geometry.Transform) float64 {
	_, frame := f.Curves[h.curve].Ruler.End()
	second := last.Rotation.Rotate(h.rest[len(h.rest)-1].Rotation.Rotate(geometry.SecondAxis))
	along := last.Rotation.Rotate(h.end)
	second = geometry.Shortest(along, frame.Tangent, geometry.Across(second, along)).Rotate(second)
	return geometry.SignedAngle(frame.Normal, geometry.Across(second, frame.Tangent), frame.Tangent)
}

// opposed is the angle, in radians, just below half a turn, from which what the curve says of the twist and what its ends tell differ by another whole turn.
const opposed = 0.998 * math.Pi

// place lays the joints along the curve, each at its share of the length. The twist is spread evenly; its whole turns are what the ends tell that they have been turned.
func (h *hose) place(f *mechanism.Frame) {
	first, last := h.ends(f)
	handed := last.Turned - first.Turned
	residue := geometry.Wrap(h.rolled(f, last) - h.roll - handed)
	twist := handed + residue
	f.Findings[h.opposed] = math.Abs(residue) > opposed
	ruler := f.Curves[h.curve].Ruler
	for i, joint := range h.joints {
		at := h.frame(f, i, twist).Then(h.offsets[i])
		f.Findings[h.sharp] = f.Findings[h.sharp] || ruler.Sharp(ruler.Locate(h.places[i]*ruler.Total()))
		at.Rotation = at.Rotation.Normalize()
		f.Joints[joint], f.Scales[joint] = at, mgl64.Vec3{1, 1, 1}
	}
}

// frame is the frame of the curve where a joint lies.
func (h *hose) frame(f *mechanism.Frame, i int, twist float64) geometry.Transform {
	ruler := f.Curves[h.curve].Ruler
	place, frame := ruler.FrameAt(ruler.Locate(h.places[i] * ruler.Total()))
	return geometry.Transform{Position: place, Rotation: frame.Rotation(twist * h.places[i])}
}

// calibrate measures where along the curve each joint lies at rest, and how it lies there.
func (h *hose) calibrate(f *mechanism.Frame) {
	ruler := f.Curves[h.curve].Ruler
	h.places, h.offsets = make([]float64, len(h.rest)), make([]geometry.Transform, len(h.rest))
	_, last := h.ends(f)
	h.roll = h.rolled(f, last)
	gone, total := 0.0, 0.0
	for i := 1; i < len(h.rest); i++ {
		total += h.rest[i].Position.Sub(h.rest[i-1].Position).Len()
	}
	for i, rest := range h.rest {
		if i > 0 {
			gone += rest.Position.Sub(h.rest[i-1].Position).Len()
		}
		h.places[i] = nearest(ruler, rest.Position, gone/total)
		if i > 0 {
			h.places[i] = math.Max(h.places[i], h.places[i-1])
		}
	}
	h.places[0], h.places[len(h.places)-1] = 0, 1
	for i, rest := range h.rest {
		h.offsets[i] = h.frame(f, i, 0).Inverse().Then(rest)
		f.Joints[h.joints[i]], f.Scales[h.joints[i]] = rest, mgl64.Vec3{1, 1, 1}
	}
}

// nearest is where along a curve, as a share of it, it is nearest to a place, about a guess.
func nearest(ruler *curve.Ruler, place mgl64.Vec3, guess float64) float64 {
	away := func(share float64) float64 {
		at, _ := ruler.Line.At(ruler.Locate(share * ruler.Total()))
		return at.Sub(place).Len()
	}
	best, least := guess, away(guess)
	for step := 0.02; step > 1e-7; step /= 2 {
		for _, next := range []float64{best - step, best + step} {
			if next >= 0 && next <= 1 {
				if d := away(next); d < least {
					best, least = next, d
				}
			}
		}
	}
	return best
}
