package splinechain

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/curve"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// place brings the joints to the curve.
func (c *chain) place(f *mechanism.Frame) {
	ruler := f.Curves[c.curve].Ruler
	c.measureTwist(f, ruler)
	c.setLengths(ruler)
	folded := c.ride(ruler)
	c.write(f, ruler)
	f.Findings[c.folded] = folded
	f.Findings[c.collapsed] = ruler.Collapsed()
}

// calibrate measures on the rest pose all that place must bring back: each joint's place along the curve, its small offset
// in the curve's frame, and its orientation against the bone's frame.
func (c *chain) calibrate(f *mechanism.Frame) {
	ruler := f.Curves[c.curve].Ruler
	c.restAngle = 0
	c.restAngle = c.endAngle(f, ruler)
	run := 0.0
	total := 0.0
	for _, bone := range c.bones {
		total += bone
	}
	for i, rest := range c.rest {
		c.shares[i] = nearestShare(ruler, rest.Position, run/total)
		if i > 0 {
			c.shares[i] = math.Max(c.shares[i], c.shares[i-1])
		}
		if i < len(c.bones) {
			run += c.bones[i]
		}
	}
	c.shares[0], c.shares[len(c.shares)-1] = 0, 1
	for i := range c.gaps {
		c.gaps[i] = (c.shares[i+1] - c.shares[i]) * ruler.Total()
	}
	for i := range c.controls {
		c.controlShare[i] = float64(i) / float64(len(c.controls)-1)
	}
	for i, rest := range c.rest {
		c.twistShares[i] = c.twistProfile.At(c.shares[i])
		c.volumePowers[i] = -c.volume * c.volumeProfile.At(c.shares[i]) / 2
		u := ruler.Locate(c.shares[i] * ruler.Total())
		place, frame := ruler.FrameAt(u)
		c.riders[i] = rider{u: u, arc: c.shares[i] * ruler.Total(), place: rest.Position}
		c.offsets[i] = frame.Rotation(0).Conjugate().Rotate(rest.Position.Sub(place))
	}
	for i := range c.twists {
		c.setTwist(i, 0)
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

// endAngle is the angle at the end of the curve from the carried frame to the last control's second axis, less what it
// was at rest and less the whole turns that the channels tell of, in (-π, π].
func (c *chain) endAngle(f *mechanism.Frame, ruler *curve.Ruler) float64 {
	_, end := ruler.End()
	last := f.Controls[c.controls[len(c.controls)-1]].Rotation
	wanted := geometry.Across(last.Rotate(geometry.SecondAxis), end.Tangent)
	return geometry.Wrap(geometry.SignedAngle(end.Normal, wanted, end.Tangent) - c.restAngle - c.turned(f))
}

// turned is the turn of the last control against the first as their own channels have it, whole turns included.
func (c *chain) turned(f *mechanism.Frame) float64 {
	return c.channelTurn(f, len(c.controls)-1) - c.channelTurn(f, 0)
}

// measureTwist works out each joint's turn about the curve.
func (c *chain) measureTwist(f *mechanism.Frame, ruler *curve.Ruler) {
	residue := c.endAngle(f, ruler)
	f.Findings[c.opposed] = math.Abs(residue) > 0.95*math.Pi
	total := c.twist + c.turned(f) + residue
	for i, share := range c.twistShares {
		c.setTwist(i, total*share+c.middleTwist(f, c.shares[i]))
	}
}

func (c *chain) setTwist(i int, twist float64) {
	c.twists[i] = twist
	c.turnsAbout[i].sine, c.turnsAbout[i].cosine = math.Sincos(twist)
}

// middleTwist is what the controls between the ends add at a place: their own turn there, easing to their neighbours.
func (c *chain) middleTwist(f *mechanism.Frame, share float64) float64 {
	last := len(c.controls) - 1
	i := min(int(share*float64(last)), last-1)
	ease := geometry.Smoothstep((share - c.controlShare[i]) / (c.controlShare[i+1] - c.controlShare[i]))
	return (1-ease)*c.ownTurn(f, i) + ease*c.ownTurn(f, i+1)
}

func (c *chain) ownTurn(f *mechanism.Frame, i int) float64 {
	if i == 0 || i == len(c.controls)-1 {
		return 0
	}
	return c.channelTurn(f, i)
}

// channelTurn is how far a control is turned about its main axis by its own channel.
func (c *chain) channelTurn(f *mechanism.Frame, i int) float64 {
	return c.hands[i] * f.Channel(c.controls[i], rig.RotateY)
}

// setLengths works out how long each bone shall be: its rest length mixed with the length it has when the joints spread over
// the whole curve, within the limits.
func (c *chain) setLengths(ruler *curve.Ruler) {
	if c.stretch == 0 {
		copy(c.lengths, c.bones)
		return
	}
	for i, share := range c.shares {
		c.riders[i] = rider{u: ruler.Locate(share * ruler.Total())}
		c.spread[i] = c.at(ruler, i, c.riders[i])
	}
	for i, bone := range c.bones {
		spread := c.spread[i+1].Sub(c.spread[i]).Len()
		length := bone + c.stretch*(spread-bone)
		c.lengths[i] = math.Min(c.longest*bone, math.Max(c.shortest*bone, length))
	}
}

// at returns the place of joint i when it rides at r: on the curve or on the tangent past its end, kept offset included.
func (c *chain) at(ruler *curve.Ruler, i int, r rider) mgl64.Vec3 {
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
func (c *chain) boneFrame(ruler *curve.Ruler, i int) mgl64.Quat {
	_, frame := ruler.FrameAt(c.riders[i].u)
	rotation := frame.Rotation(c.twists[i])
	if i == len(c.riders)-1 {
		return rotation
	}
	bone := geometry.Unit(c.riders[i+1].place.Sub(c.riders[i].place), frame.Tangent)
	return geometry.Shortest(frame.Tangent, bone, frame.Normal).Mul(rotation)
}

func (c *chain) write(f *mechanism.Frame, ruler *curve.Ruler) {
	for i, joint := range c.joints {
		f.Joints[joint] = geometry.Transform{
			Position: c.riders[i].place,
			Rotation: c.boneFrame(ruler, i).Mul(c.turns[i]).Normalize(),
		}
		f.Scales[joint] = c.ownScale(i)
	}
}

// ownScale thins a lengthened bone and fattens a shortened one: (length / rest)^(-a·profile/2) on both axes across it.
func (c *chain) ownScale(i int) mgl64.Vec3 {
	bone := min(i, len(c.bones)-1)
	if !c.scaled || c.volumePowers[i] == 0 || c.bones[bone] == 0 {
		return mgl64.Vec3{1, 1, 1}
	}
	girth := math.Pow(c.lengths[bone]/c.bones[bone], c.volumePowers[i])
	return mgl64.Vec3{girth, 1, girth}
}
