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
	twist     mechanism.Driven // degrees, added at the end
	hand      float64          // radians a degree, below zero in a mirror
	controls  []rig.Control
	turns     []float64 // by control: how far it is turned about its main axis in the present frame, whole turns included
	profile   parameter.Curve
	shares    []float64 // by joint: which share of the twist it takes
	restAngle float64
	total     float64 // of the present frame
	opposed   int     // finding
}

// Carry implements along.Turner.
func (*twister) Carry(*mechanism.Frame) {}

// Begin implements along.Turner: it measures the twist at the end.
func (t *twister) Begin(f *mechanism.Frame, ruler *curve.Ruler) {
	for i := range t.turns {
		at := t.chain.Controls[i] * rig.ChannelCount
		t.turns[i] = 0
		if !f.AtHome {
			t.turns[i] = t.controls[i].Turn(f.Channels[at : at+rig.ChannelCount])
		}
	}
	residue := t.endAngle(f, ruler)
	f.Findings[t.opposed] = math.Abs(residue) > 0.95*math.Pi
	t.total = t.twist.At(f)*t.hand + t.turned() + residue
}

// Turn implements along.Turner.
func (t *twister) Turn(_ *mechanism.Frame, _ *curve.Ruler, i int, _ float64) float64 {
	return t.total*t.shares[i] + t.middleTwist(t.chain.Shares[i])
}

// Rest implements along.Turner: at rest nothing turns against the carried frame.
func (t *twister) Rest(f *mechanism.Frame, ruler *curve.Ruler, i int, _ float64) float64 {
	if i == 0 {
		t.restAngle = 0
		t.restAngle = t.endAngle(f, ruler)
	}
	t.shares[i] = t.profile.At(t.chain.Shares[i])
	return 0
}

// Widen implements along.Turner: a curve has no width.
func (*twister) Widen(*mechanism.Frame, *curve.Ruler, int, float64) (x, z float64) { return 1, 1 }

// endAngle is the angle at the end of the curve from the carried frame to the last control's second axis, less what it
// was at rest and less the whole turns that the channels tell of, in (-π, π].
func (t *twister) endAngle(f *mechanism.Frame, ruler *curve.Ruler) float64 {
	_, end := ruler.End()
	last := f.Controls[t.chain.Controls[len(t.chain.Controls)-1]].Rotation
	wanted := geometry.Across(last.Rotate(geometry.SecondAxis), end.Tangent)
	return geometry.Wrap(geometry.SignedAngle(end.Normal, wanted, end.Tangent) - t.restAngle - t.turned())
}

// turned is the turn of the last control against the first by their own motion, whole turns included.
func (t *twister) turned() float64 {
	return t.turns[len(t.turns)-1] - t.turns[0]
}

// middleTwist is what the controls between the ends add at a place: their own turn there, easing to their neighbours.
func (t *twister) middleTwist(share float64) float64 {
	places := t.chain.Places
	i := 0
	for i < len(places)-2 && share >= places[i+1] {
		i++
	}
	ease := geometry.Smoothstep((share - places[i]) / (places[i+1] - places[i]))
	return (1-ease)*t.ownTurn(i) + ease*t.ownTurn(i+1)
}

func (t *twister) ownTurn(i int) float64 {
	if i == 0 || i == len(t.chain.Controls)-1 {
		return 0
	}
	return t.turns[i]
}
