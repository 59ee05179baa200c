package along

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/curve"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
)

// place brings the joints to the curve.
func (c *Chain) place(f *mechanism.Frame) {
	ruler := f.Curves[c.curve].Ruler
	c.turner.Begin(f, ruler)
	folded, strained := false, false
	if c.pinned {
		c.spreadOut(f, ruler)
		strained = c.reachAll(f)
	} else {
		c.setLengths(f, ruler)
		folded = c.ride(f, ruler)
	}
	c.write(f, ruler)
	f.Findings[c.folded], f.Findings[c.strained] = folded, strained
	f.Findings[c.collapsed] = ruler.Collapsed()
}

// calibrate measures on the rest pose all that place must bring back: each joint's place along the curve, its small offset
// in the curve's frame, and its orientation against the bone's frame.
func (c *Chain) calibrate(f *mechanism.Frame) {
	ruler := f.Curves[c.curve].Ruler
	run, total := 0.0, 0.0
	for _, bone := range c.bones {
		total += bone
	}
	for i, rest := range c.rest {
		c.Shares[i] = nearestShare(ruler, rest.Position, run/total)
		if i > 0 {
			c.Shares[i] = math.Max(c.Shares[i], c.Shares[i-1])
		}
		if i < len(c.bones) {
			run += c.bones[i]
		}
	}
	c.Shares[0], c.Shares[len(c.Shares)-1] = 0, 1
	for i := range c.gaps {
		c.gaps[i] = (c.Shares[i+1] - c.Shares[i]) * ruler.Total()
	}
	for i, rest := range c.rest {
		c.powers[i] = -c.volumeProfile.At(c.Shares[i]) / 2
		u := ruler.Locate(c.Shares[i] * ruler.Total())
		place, frame := ruler.FrameAt(u)
		c.riders[i] = rider{u: u, arc: c.Shares[i] * ruler.Total(), place: rest.Position}
		c.setTwist(i, c.turner.Rest(f, ruler, i, u))
		c.offsets[i] = frame.Rotation(c.twists[i]).Conjugate().Rotate(rest.Position.Sub(place))
	}
	for i, rest := range c.rest {
		c.turns[i] = c.boneFrame(ruler, i).Conjugate().Mul(rest.Rotation).Normalize()
	}
	for i, joint := range c.joints {
		f.Joints[joint], f.Scales[joint] = c.rest[i], mgl64.Vec3{1, 1, 1}
	}
}

// nearestShare returns where along the curve, as a share of its length, place lies nearest, searched around guess.
func nearestShare(ruler *curve.Ruler, place mgl64.Vec3, guess float64) float64 {
	const reach, steps = 0.08, 16
	best, nearest := guess, math.Inf(1)
	for i := -steps; i <= steps; i++ {
		share := math.Min(1, math.Max(0, guess+reach*float64(i)/steps))
		at, _ := ruler.Line.At(ruler.Locate(share * ruler.Total()))
		if d := at.Sub(place).Len(); d < nearest {
			best, nearest = share, d
		}
	}
	return best
}

func (c *Chain) setTwist(i int, twist float64) {
	c.twists[i] = twist
	c.turnsAbout[i].sine, c.turnsAbout[i].cosine = math.Sincos(twist)
}

// spreadOut finds the places of the joints when they spread over the whole curve in their rest proportions.
func (c *Chain) spreadOut(f *mechanism.Frame, ruler *curve.Ruler) {
	for i, share := range c.Shares {
		r := rider{u: ruler.Locate(share * ruler.Total()), arc: share * ruler.Total()}
		c.setTwist(i, c.turner.Turn(f, ruler, i, r.u))
		r.place = c.at(ruler, i, r)
		c.riders[i], c.spread[i] = r, r.place
	}
}

// reachAll takes the joints as they are spread, the last at the last control. It tells whether a bone is beyond its limits.
func (c *Chain) reachAll(f *mechanism.Frame) (strained bool) {
	longest, shortest := c.longest.At(f), c.shortest.At(f)
	for i, bone := range c.bones {
		c.lengths[i] = c.spread[i+1].Sub(c.spread[i]).Len()
		strained = strained || c.lengths[i] > longest*bone*(1+1e-9) || c.lengths[i] < shortest*bone*(1-1e-9)
	}
	return strained
}

// setLengths works out how long each bone shall be: its rest length mixed with the length it has when the joints spread over
// the whole curve, within the limits.
func (c *Chain) setLengths(f *mechanism.Frame, ruler *curve.Ruler) {
	stretch := c.stretch.At(f)
	if stretch == 0 {
		copy(c.lengths, c.bones)
		return
	}
	c.spreadOut(f, ruler)
	longest, shortest := c.longest.At(f), c.shortest.At(f)
	for i, bone := range c.bones {
		spread := c.spread[i+1].Sub(c.spread[i]).Len()
		length := bone + stretch*(spread-bone)
		c.lengths[i] = math.Min(longest*bone, math.Max(shortest*bone, length))
	}
}

// at returns the place of joint i when it rides at r: on the curve or on the tangent past its end, kept offset included.
func (c *Chain) at(ruler *curve.Ruler, i int, r rider) mgl64.Vec3 {
	place, frame := ruler.FrameAt(r.u)
	if r.beyond > 0 {
		place = place.Add(frame.Tangent.Mul(r.beyond))
	}
	o := &c.offsets[i]
	if *o == (mgl64.Vec3{}) {
		return place
	}
	// The frame's axes, turned by the twist, without the detour over a quaternion: this runs several times for every joint.
	side := frame.Tangent.Cross(frame.Normal)
	turn := &c.turnsAbout[i]
	for axis := range 3 {
		x := turn.cosine*side[axis] - turn.sine*frame.Normal[axis]
		z := turn.cosine*frame.Normal[axis] + turn.sine*side[axis]
		place[axis] += o[0]*x + o[1]*frame.Tangent[axis] + o[2]*z
	}
	return place
}

// boneFrame is the moving frame at joint i with its main axis swung, by the least turn, from the curve's tangent onto the
// bone that leaves the joint. The last joint has no bone and takes the curve's own frame.
func (c *Chain) boneFrame(ruler *curve.Ruler, i int) mgl64.Quat {
	_, frame := ruler.FrameAt(c.riders[i].u)
	rotation := frame.Rotation(c.twists[i])
	if i == len(c.riders)-1 {
		return rotation
	}
	bone := geometry.Unit(c.riders[i+1].place.Sub(c.riders[i].place), frame.Tangent)
	return geometry.Shortest(frame.Tangent, bone, frame.Normal).Mul(rotation)
}

func (c *Chain) write(f *mechanism.Frame, ruler *curve.Ruler) {
	volume := c.volume.At(f)
	for i, joint := range c.joints {
		f.Joints[joint] = geometry.Transform{
			Position: c.riders[i].place,
			Rotation: c.boneFrame(ruler, i).Mul(c.turns[i]).Normalize(),
		}
		f.Scales[joint] = c.ownScale(f, ruler, i, volume)
	}
}

// ownScale thins a lengthened bone and fattens a shortened one: (length / rest)^(-a·profile/2) on both axes across it.
func (c *Chain) ownScale(f *mechanism.Frame, ruler *curve.Ruler, i int, volume float64) mgl64.Vec3 {
	if !c.scaled {
		return mgl64.Vec3{1, 1, 1}
	}
	x, z := c.turner.Widen(f, ruler, i, c.riders[i].u)
	bone := min(i, len(c.bones)-1)
	if power := volume * c.powers[i]; power != 0 && c.bones[bone] > 0 {
		girth := math.Pow(math.Max(c.lengths[bone]/c.bones[bone], leastLength), power)
		x, z = x*girth, z*girth
	}
	return mgl64.Vec3{x, 1, z}
}

// leastLength bounds, as a share of its rest length, what a bone counts as that is pressed together, so that its girth stays finite.
const leastLength = 0.01
