package along

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/curve"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
)

// rider is a joint's place on the curve, as its arc length has it, or past its end.
type rider struct {
	u, arc, twist float64
	frame         curve.Frame // the carried one
	place         mgl64.Vec3  // kept offset included
}

// stand returns how joint i rides at an arc length.
func (c *riding) stand(f *mechanism.Frame, ruler *curve.Ruler, i int, arc float64) rider {
	r := rider{u: ruler.Locate(arc), arc: arc}
	if beyond := arc - ruler.Total(); beyond > 0 {
		r.place, r.frame = ruler.Past(beyond, c.settle)
	} else {
		r.place, r.frame = ruler.FrameAt(r.u)
	}
	r.twist = c.turner.Turn(f, i, r.u, r.frame)
	o := &c.offsets[i]
	if *o == (mgl64.Vec3{}) {
		return r
	}
	sine, cosine := math.Sincos(r.twist)
	side := r.frame.Tangent.Cross(r.frame.Normal)
	for axis := range 3 {
		x := cosine*side[axis] - sine*r.frame.Normal[axis]
		z := cosine*r.frame.Normal[axis] + sine*side[axis]
		r.place[axis] += o[0]*x + o[1]*r.frame.Tangent[axis] + o[2]*z
	}
	return r
}

// Of the place that a joint goes towards, only the direction counts. Within nearPlace of the joint before, as a share of the bone, that is mixed
// with the curve's own direction, so that it turns evenly where it would turn over. A curve whose chord is less than tight of the bone
// that stands on it folds more tightly than the joints can follow; the place then hurries or waits no more than so.
const (
	nearPlace = 0.05
	tight     = 0.5
)

// ride sends the joints along the curve, each at its bone's length from the one before, towards its place. The place goes on by as much of the
// curve as lies between the two joints at rest, or, as far as the chain stretches, when they spread over all of it; more, or less, where the curve's own
// places are nearer together, or further apart, than the bone is long, so that chords fit where it bends. Nothing is searched for: a
// crossing of the curve appears and vanishes as that moves, a place does not. It tells whether the curve folds tighter than a bone.
func (c *riding) ride(f *mechanism.Frame, ruler *curve.Ruler) (folded bool) {
	stretch, longest, shortest := c.stretch.At(f), c.longest.At(f), c.shortest.At(f)
	here := c.stand(f, ruler, 0, 0)
	spread := here
	c.riders[0], c.places[0] = here, here.place
	for i, bone := range c.bones {
		length, gap := bone, c.gaps[i]
		if stretch > 0 {
			next := c.stand(f, ruler, i+1, c.Shares[i+1]*ruler.Total())
			asked := bone + stretch*(next.place.Sub(spread.place).Len()-bone)
			length = math.Min(longest*bone, math.Max(shortest*bone, asked))
			gap = math.Max(0, gap+stretch*(next.arc-spread.arc-gap)+length-asked)
			spread = next
		}
		there := c.stand(f, ruler, i+1, here.arc+gap)
		fits, close := fitting(length, there.place.Sub(here.place).Len())
		here = c.stand(f, ruler, i+1, here.arc+gap*fits)
		direction, upon := towards(here.place.Sub(c.places[i]), here.frame.Tangent, length)
		c.riders[i+1], c.lengths[i] = here, length
		c.places[i+1] = c.places[i].Add(direction.Mul(length))
		folded = folded || close || upon
	}
	return folded
}

// fitting is how many times as far along the curve a place is to go so that its chord is as long as the bone, within bounds. close tells that
// the curve folds too tightly for that.
func fitting(length, chord float64) (fits float64, close bool) {
	switch {
	case chord < tight*length:
		return 1 / tight, true
	case chord*tight > length:
		return tight, false
	case chord == 0: // as the bone is
		return 1, false
	}
	return length / chord, false
}

// towards is the direction to a place that lies away, and whether it lies upon the joint that goes there.
func towards(away, tangent mgl64.Vec3, length float64) (direction mgl64.Vec3, upon bool) {
	if length <= 0 {
		return tangent, false
	}
	near := away.Len() / length / (2 * nearPlace)
	if near < 1 {
		away = away.Add(tangent.Mul(nearPlace * length * (1 - geometry.Smoothstep(near))))
	}
	return geometry.Unit(away, tangent), near < 1
}

// spreadOut puts the joints over the whole curve in their rest proportions, the last at the last control, whatever the limits say. It tells whether a bone is beyond
// them.
func (c *riding) spreadOut(f *mechanism.Frame, ruler *curve.Ruler) (strained bool) {
	longest, shortest := c.longest.At(f), c.shortest.At(f)
	for i, share := range c.Shares {
		c.riders[i] = c.stand(f, ruler, i, share*ruler.Total())
		c.places[i] = c.riders[i].place
		if i > 0 {
			bone, length := c.bones[i-1], c.places[i].Sub(c.places[i-1]).Len()
			strained = strained || length > longest*bone*(1+1e-9) || length < shortest*bone*(1-1e-9)
			c.lengths[i-1] = length
		}
	}
	return strained
}
