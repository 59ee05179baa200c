package step

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/mechanism"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// pattern is an order in which legs step. Rows are counted from the hind legs on; begins is where in a cycle a leg of the left side of a row begins to go over,
// and right how much later the right one does, both as shares of the cycle.
type pattern struct {
	mechanism.Pattern
	begins func(row, rows float64) float64
	right  float64
	duty   func(rows float64) float64
}

// patterns are the gaits by the trade's names, for any number of rows of legs.
//
// Source: Wilson 1966, Insect walking (tripod, ripple and wave, from the hind legs on); Hildebrand 1965, Symmetrical gaits of horses (walk, trot, bound).
var patterns = []pattern{
	{
		mechanism.Pattern{Name: "wave", Title: "Wave", Help: "One leg goes over at a time, from the hind legs on, first all of one side. The surest, and the slowest."},
		func(row, rows float64) float64 { return row / (2 * rows) }, 0.5, func(rows float64) float64 { return 1 - 1/(2*rows) },
	},
	{
		mechanism.Pattern{Name: "ripple", Title: "Ripple", Help: "From the hind legs on, both sides at once, half a step apart."},
		func(row, rows float64) float64 { return row / rows }, 0.5, func(rows float64) float64 { return math.Max(0.5, 1-1/rows) },
	},
	{
		mechanism.Pattern{Name: "tripod", Title: "Tripod", Help: "Every second row on the left goes over with the other rows on the right: of six legs three stand."},
		func(row, _ float64) float64 { return 0.5 * math.Mod(row, 2) }, 0.5, func(float64) float64 { return 0.55 },
	},
	{
		mechanism.Pattern{Name: "walk", Title: "Walk", Help: "Hind leg, then the fore leg of that side, then the other side: of four legs three stand, or two."},
		func(row, rows float64) float64 { return 0.5 * row / rows }, 0.5, func(float64) float64 { return 0.65 },
	},
	{
		mechanism.Pattern{Name: "trot", Title: "Trot", Help: "Legs across from each other go over together, with no time in which all stand."},
		func(row, _ float64) float64 { return 0.5 * math.Mod(row, 2) }, 0.5, func(float64) float64 { return 0.5 },
	},
	{
		mechanism.Pattern{Name: "bound", Title: "Bound", Help: "Both legs of a row together, the hind ones first; for a while none stand."},
		func(row, rows float64) float64 { return row / rows }, 0, func(float64) float64 { return 0.4 },
	},
}

func titles() (list []mechanism.Pattern) {
	for _, p := range patterns {
		list = append(list, p.Pattern)
	}
	return list
}

// LayPattern implements mechanism.Patterned: it gives every leg its phase, and all of them the share of a step in which they stand. What went by place and side
// before, the wave along the body and what the right is later, is in the phases now.
func (Kind) LayPattern(d *rig.Document, legs []*rig.Mechanism, name string) error {
	at := slices.IndexFunc(patterns, func(p pattern) bool { return p.Name == name })
	if at < 0 {
		return fmt.Errorf("there is no gait called %q; choose one of those that are offered", name)
	}
	p := patterns[at]
	middle := mgl64.Vec3{}
	if root := d.ControlNamed(rig.RootName); root != nil {
		middle = root.Position
	}
	sides := map[bool][]*rig.Mechanism{}
	for _, leg := range legs {
		right := OnTheRight(d, *d.Mechanism(leg.Host), middle)
		sides[right] = append(sides[right], leg)
	}
	rows := float64(max(len(sides[false]), len(sides[true])))
	duty := p.duty(rows)
	ahead := func(leg *rig.Mechanism) float64 {
		joints := d.Mechanism(leg.Host).Joints
		return d.Joint(joints[len(joints)-1]).Position[2]
	}
	for right, side := range sides {
		slices.SortStableFunc(side, func(a, b *rig.Mechanism) int { return cmp.Compare(ahead(a), ahead(b)) })
		for row, leg := range side {
			begins := p.begins(float64(row), rows)
			if right {
				begins += p.right
			}
			leg.Parameters = leg.Parameters.Clone()
			for key, value := range map[string]float64{"phase": share(duty - begins), "duty": duty, "wave": 0, "sides": 0} {
				leg.Parameters[key] = parameter.OfNumber(value)
			}
		}
	}
	return nil
}

// share brings a number of cycles between 0 and 1.
func share(cycles float64) float64 { return cycles - math.Floor(cycles) }
