// Package ribbonchain is the ribbon chain: many joints that ride on a ribbon whose controls carry frames with a width, so that how a control
// is turned, and how wide it is, steers the surface that the joints ride on.
package ribbonchain

import (
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/curve"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/along"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Name is the kind's name in documents.
const Name = "ribbon-chain"

// Kind is the ribbon chain.
type Kind struct{}

// widthDial is the dial of each control for the ribbon's width there, as a multiple of what it is at rest.
const widthDial rig.Channel = "width"

// Declare implements mechanism.Kind.
func (Kind) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: Name, Title: "Ribbon chain", Stand: mechanism.OnChain, Roles: along.Roles(), Hosts: []string{}, Arranges: true, Pins: true,
		Sketch:  "M3 20C16 4 26 8 34 12S50 18 57 4M3 14C16 0 26 2 34 7S50 12 57 0M3 14v6M20 2v6M40 9v6M57 0v4",
		Summary: "Many joints follow a ribbon: each control turns and widens it where it stands. For tentacles, tongues, fins and flat tails.",
		Options: along.Options(), Parameters: along.Parameters(),
	}
}

// Suits implements mechanism.Suitor: what suits a spline chain suits it as well, and is more often meant for that.
func (Kind) Suits(_ *rig.Document, chosen []string) float64 { return 0.5 * along.Suits(chosen) }

// Build implements mechanism.Kind.
func (Kind) Build(site *mechanism.Site) error {
	if err := along.Build(site); err != nil {
		return err
	}
	widen(site)
	return nil
}

// Arrange implements mechanism.Arranger.
func (Kind) Arrange(site *mechanism.Site, controls []string, places []float64) error {
	if err := along.Arrange(site, controls, places); err != nil {
		return err
	}
	widen(site)
	return nil
}

// widen gives every control that has none the dial for its width.
func widen(site *mechanism.Site) {
	for _, id := range site.Mechanism.Controls {
		control := site.Document.Control(id)
		if control.Dial(widthDial) == nil {
			dial := rig.Dial{Name: widthDial, Min: 0.1, Max: 4, Default: 1, Unit: "×"}
			control.Dials = append(append([]rig.Dial{}, control.Dials...), dial)
		}
	}
}

// Pin implements mechanism.Pinner.
func (Kind) Pin(last, pinned bool) parameter.Set { return along.Pin(last, pinned) }

// Prepare implements mechanism.Kind.
func (Kind) Prepare(b *mechanism.Bench) error {
	return along.Prepare(b, func(c *along.Chain) (func() along.Turner, along.Reads) {
		r := &ribbon{
			chain: c, slots: make([]int, len(c.Controls)), rest: make([]float64, c.Joints()), onFirst: make([]bool, c.Joints()),
		}
		var reads []mechanism.Resource
		for i, control := range c.Controls {
			slot, read, ok := b.ChannelOf(control, widthDial)
			if r.slots[i] = slot; ok {
				reads = append(reads, read)
			}
		}
		r.flat = b.Finding(fmt.Sprintf("The ribbon of %s stands edgewise to its own curve; turn its controls across it.", b.Mechanism.Name))
		return func() along.Turner { return r.fresh() }, along.Reads{Carry: reads}
	})
}

// ribbon is two edges that run left and right of the controls. Half their sum is the curve that the joints ride on; their difference, a
// curve of the same pieces, is what they turn to.
type ribbon struct {
	chain   *along.Chain
	slots   []int     // by control: its dial for the width; -1 for none
	rest    []float64 // by joint: how wide the ribbon is there at rest
	onFirst []bool    // by joint: the width lies along its first axis rather than its third
	flat    int       // finding
}

// rippling is a ribbon in one frame.
type rippling struct {
	*ribbon
	widths []float64      // by control
	across *curve.BSpline // the difference of the edges
	pieces *curve.Pieces  // of that
	wanted []mgl64.Vec3   // of the line
}

func (r *ribbon) fresh() *rippling {
	controls := len(r.chain.Controls)
	now := &rippling{
		ribbon: r, widths: make([]float64, controls), across: curve.New(make([]mgl64.Vec3, controls+2)), wanted: r.chain.Line.Wanted(),
	}
	for i := range now.widths {
		now.widths[i] = 1
	}
	now.pieces = curve.NewPieces(now.across)
	return now
}

// Carry implements along.Turner: it brings the difference of the edges along with the controls.
func (r *rippling) Carry(f *mechanism.Frame) {
	for i, slot := range r.slots {
		if slot >= 0 {
			r.widths[i] = f.Values[slot]
		}
	}
	r.chain.Line.CarryAcross(f, r.chain.Controls, r.widths, r.across.Points, r.wanted)
	r.pieces.Set(r.across)
}

// Begin implements along.Turner.
func (*ribbon) Begin(*mechanism.Frame, *curve.Ruler) {}

// Raises implements along.Turner.
func (r *ribbon) Raises() []int { return []int{r.flat} }

// Turn implements along.Turner: the second axis is square to the curve and to the difference of the edges. Where little of that stands across the
// curve, because the ribbon turns edgewise or is wrung to nothing, the side of the carried frame is mixed in as a vector, so that the joint
// turns evenly.
func (r *rippling) Turn(f *mechanism.Frame, i int, u float64, frame curve.Frame) float64 {
	difference, _ := r.pieces.At(u)
	side := frame.Tangent.Cross(frame.Normal)
	square := difference.Sub(frame.Tangent.Mul(difference.Dot(frame.Tangent)))
	room := edgewise * r.rest[i]
	if near := square.Len() / (2 * room); near < 1 {
		square = square.Add(side.Mul(room * (1 - geometry.Smoothstep(near))))
		if near < 0.2 || square.Len() < 0.4*room { // on the line, and where it turns fast
			f.Findings[r.flat] = true
		}
	}
	return geometry.SignedAngle(side, geometry.Unit(square, side), frame.Tangent)
}

// edgewise is the share of its width that a ribbon stands across its curve below which it no longer says by itself how the joints turn.
const edgewise = 0.05

// Rest implements along.Turner.
func (r *rippling) Rest(f *mechanism.Frame, _ *curve.Ruler, i int, u float64, carried curve.Frame) float64 {
	difference, _ := r.pieces.At(u)
	r.rest[i] = difference.Len()
	if !(r.rest[i] > 0) {
		r.rest[i] = 1 // its controls stand against each other; it is as wide as they are
	}
	first := r.chain.RestOf(i).Rotation.Rotate(mgl64.Vec3{1, 0, 0})
	third := r.chain.RestOf(i).Rotation.Rotate(geometry.SecondAxis)
	r.onFirst[i] = math.Abs(first.Dot(difference)) >= math.Abs(third.Dot(difference))
	return r.Turn(f, i, u, carried)
}

// Widen implements along.Turner: the joint is as much wider, across, as the ribbon is.
func (r *rippling) Widen(i int, u float64) (x, z float64) {
	difference, _ := r.pieces.At(u)
	wider := math.Max(difference.Len()/r.rest[i], leastWidth)
	if r.onFirst[i] {
		return wider, 1
	}
	return 1, wider
}

// leastWidth bounds how narrow a joint becomes where the ribbon is wrung to nothing between its controls.
const leastWidth = 0.05
