package along

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/curve"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
)

// place brings the joints to the curve.
func (c *riding) place(f *mechanism.Frame) {
	ruler := f.Curves[c.curve].Ruler
	c.turner.Begin(f, ruler)
	if c.pinned {
		f.Findings[c.strained] = c.spreadOut(f, ruler)
	} else {
		f.Findings[c.folded] = c.ride(f, ruler)
	}
	f.Findings[c.collapsed] = ruler.Collapsed()
	c.write(f)
}

// calibrate measures on the rest pose all that place must bring back: each joint's place along the curve, its small offset
// in the curve's frame, and its orientation against the bone's frame.
func (c *riding) calibrate(f *mechanism.Frame) {
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
		r := rider{arc: c.Shares[i] * ruler.Total()}
		r.u = ruler.Locate(r.arc)
		r.place, r.frame = ruler.FrameAt(r.u)
		r.twist = c.turner.Rest(f, ruler, i, r.u, r.frame)
		c.offsets[i] = r.frame.Rotation(r.twist).Conjugate().Rotate(rest.Position.Sub(r.place))
		c.riders[i], c.places[i] = r, rest.Position
	}
	for i, rest := range c.rest {
		c.turns[i] = c.boneFrame(i).Conjugate().Mul(rest.Rotation).Normalize()
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

// boneFrame is the moving frame at joint i with its main axis swung, by the least turn, from the curve's tangent onto the
// bone that leaves the joint. The last joint has no bone and takes the curve's own frame.
func (c *riding) boneFrame(i int) mgl64.Quat {
	frame := &c.riders[i].frame
	rotation := frame.Rotation(c.riders[i].twist)
	if i == len(c.riders)-1 {
		return rotation
	}
	bone := geometry.Unit(c.places[i+1].Sub(c.places[i]), frame.Tangent)
	return geometry.Shortest(frame.Tangent, bone, frame.Normal).Mul(rotation)
}

func (c *riding) write(f *mechanism.Frame) {
	volume, first := c.volume.At(f), f.Controls[c.Controls[0]].Turned
	for i, joint := range c.joints {
		f.Joints[joint] = geometry.Transform{
			Position: c.places[i], Rotation: c.boneFrame(i).Mul(c.turns[i]).Normalize(), Turned: first + c.riders[i].twist,
		}
		f.Scales[joint] = c.ownScale(i, volume)
	}
}

// ownScale thins a lengthened bone and fattens a shortened one: (length / rest)^(-a·profile/2) on both axes across it.
func (c *riding) ownScale(i int, volume float64) mgl64.Vec3 {
	if !c.scaled {
		return mgl64.Vec3{1, 1, 1}
	}
	x, z := c.turner.Widen(i, c.riders[i].u)
	bone := min(i, len(c.bones)-1)
	if power := volume * c.powers[i]; power != 0 && c.bones[bone] > 0 {
		girth := math.Pow(math.Max(c.lengths[bone]/c.bones[bone], leastLength), power)
		x, z = x*girth, z*girth
	}
	return mgl64.Vec3{x, 1, z}
}

// leastLength bounds, as a share of its rest length, what a bone counts as that is pressed together, so that its girth stays finite.
const leastLength = 0.01
