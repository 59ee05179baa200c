package splinechain

import (
	"math"

	"myriapod/core/curve"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/along"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// twister spreads the turn of the end controls against each other along the chain; controls between add their own turn where they are.
type twister struct {
	chain     *along.Chain
	twist     mechanism.Number // degrees, added at the end
	hand      float64          // radians a degree, below zero in a mirror
	controls  []rig.Control
	even      []float64 // by control: which share of the twist its place takes
	profile   parameter.Curve
	shares    []float64 // by joint: which share of the twist it takes
	restAngle float64
	opposed   int // finding
}

// twisting is a twister in one frame.
type twisting struct {
	*twister
	turns []float64 // by control: what it adds to the twist where it stands
	total float64
}

// Carry implements along.Turner.
func (*twister) Carry(*mechanism.Frame) {}

// Begin implements along.Turner: it measures the twist at the end.
func (t *twisting) Begin(f *mechanism.Frame, ruler *curve.Ruler) {
	handed := t.handed(f)
	residue := geometry.Wrap(t.endAngle(f, ruler) - handed)
	f.Findings[t.opposed] = math.Abs(residue) > opposed
	t.total = t.twist.At(f)*t.hand + handed + residue
	first, last := t.carried(f, 0), t.carried(f, len(t.turns)-1)
	for i := 1; i < len(t.turns)-1; i++ {
		t.turns[i] = t.ownTurn(f, i) + t.carried(f, i) - first - t.even[i]*(last-first)
	}
}

// opposed is the angle, in radians, between what the curve says of the twist and what the controls tell, from which they say different whole
// turns: just below half a turn, where the twist changes over.
const opposed = 0.998 * math.Pi

// Raises implements along.Turner.
func (t *twister) Raises() []int { return []int{t.opposed} }

// Turn implements along.Turner.
func (t *twisting) Turn(_ *mechanism.Frame, i int, _ float64, _ curve.Frame) float64 {
	return t.total*t.shares[i] + t.middleTwist(t.chain.Shares[i])
}

// Rest implements along.Turner: at rest nothing turns against the carried frame.
func (t *twister) Rest(f *mechanism.Frame, ruler *curve.Ruler, i int, _ float64, _ curve.Frame) float64 {
	if i == 0 {
		t.restAngle = 0
		t.restAngle = t.endAngle(f, ruler)
	}
	t.shares[i] = t.profile.At(t.chain.Shares[i])
	return 0
}

// Widen implements along.Turner: a curve has no width.
func (*twister) Widen(int, float64) (x, z float64) { return 1, 1 }

// endAngle is the angle at the end of the curve from the carried frame to the last control's second axis, less what it was at rest, whole turns
// unknown. Where something has bent the curve away from the direction that the control gives it, the second axis goes along by the least
// turn.
func (t *twister) endAngle(f *mechanism.Frame, ruler *curve.Ruler) float64 {
	_, end := ruler.End()
	second := f.Controls[t.chain.Controls[len(t.chain.Controls)-1]].Rotation.Rotate(geometry.SecondAxis)
	along := t.chain.Line.Last(f)
	second = geometry.Shortest(along, end.Tangent, geometry.Across(second, along)).Rotate(second)
	return geometry.SignedAngle(end.Normal, geometry.Across(second, end.Tangent), end.Tangent) - t.restAngle
}

// handed is the turn of the last control against the first as they and what carries them tell it, whole turns included. It only chooses which
// whole turn the angle at the end is meant with.
func (t *twister) handed(f *mechanism.Frame) float64 {
	controls := t.chain.Controls
	return f.Controls[controls[len(controls)-1]].Turned - f.Controls[controls[0]].Turned
}

// channels are those of the i-th control.
func (t *twister) channels(f *mechanism.Frame, i int) []float64 {
	at := t.chain.Controls[i] * rig.ChannelCount
	return f.Values[at : at+rig.ChannelCount]
}

// carried is how far what carries the i-th control has turned it.
func (t *twister) carried(f *mechanism.Frame, i int) float64 {
	turned := f.Controls[t.chain.Controls[i]].Turned
	if f.AtHome {
		return turned
	}
	return turned - t.controls[i].Turned(t.channels(f, i))
}

// ownTurn is how far the i-th control turns itself.
func (t *twister) ownTurn(f *mechanism.Frame, i int) float64 {
	if f.AtHome {
		return 0
	}
	return t.controls[i].Turn(t.channels(f, i))
}

// middleTwist is what the controls between the ends add at a place: their own turn there, and what carries them beyond its even share of the
// twist, easing to their neighbours.
func (t *twisting) middleTwist(share float64) float64 {
	places := t.chain.Places
	i := 0
	for i < len(places)-2 && share >= places[i+1] {
		i++
	}
	ease := geometry.Smoothstep((share - places[i]) / (places[i+1] - places[i]))
	return (1-ease)*t.turns[i] + ease*t.turns[i+1]
}
