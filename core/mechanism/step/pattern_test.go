package step_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mechanism/limb"
	"myriapod/core/mechanism/step"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// pattern lays a gait by name on all legs of a crawler, and counts at many times how many of its ten legs go over, by row from the hind legs on.
func pattern(t *testing.T, d *rig.Document, name string) (swings [][2]int, legs func(k int) []bool) {
	result, err := edit.Apply(context(), d, &edit.LayPattern{Mechanism: step.Name, Pattern: name})
	require.NoError(t, err)
	w := open(t, result.Document)
	row := map[int]int{}
	order := []int{} // by goal: its row and side
	for _, m := range w.d.Mechanisms {
		if m.Kind == limb.Name {
			tip := w.d.Joint(m.Joints[len(m.Joints)-1]).Position
			order = append(order, int((tip[2]+0.7)/0.4)*2)
			if tip[0] < 0 {
				order[len(order)-1]++
			}
		}
	}
	looks := [][]bool{}
	for frame := 30.0; frame < 200; frame += 0.37 {
		w.at(frame)
		over, now := 0, make([]bool, 10)
		for i, goal := range w.Frame.Goals {
			if !goal.Stands {
				over++
				now[order[i]] = true
			}
		}
		row[over]++
		looks = append(looks, now)
	}
	for over := range 11 {
		if row[over] > 0 {
			swings = append(swings, [2]int{over, row[over]})
		}
	}
	return swings, func(k int) []bool { return looks[k%len(looks)] }
}

func TestGaitsByTheirNames(t *testing.T) {
	d := crawler(t, parameter.Set{"stride": parameter.OfNumber(0.3), "wave": parameter.OfNumber(1.2)})
	most := func(swings [][2]int) int { return swings[len(swings)-1][0] }
	waves, _ := pattern(t, d, "wave")
	assert.Equal(t, 1, most(waves), "one leg at a time")
	ripples, _ := pattern(t, d, "ripple")
	assert.LessOrEqual(t, most(ripples), 2)
	tripods, legs := pattern(t, d, "tripod")
	assert.Equal(t, 5, most(tripods))
	assert.Equal(t, 0, tripods[0][0], "for a moment all stand")
	for k := range 400 {
		now := legs(k)
		for row := range 5 {
			assert.False(t, now[2*row] && now[2*row+1], "never both of a row")
			if row > 0 {
				assert.Equal(t, now[2*row], now[2*row-1], "across from each other")
			}
		}
	}
	trots, _ := pattern(t, d, "trot")
	for _, seen := range trots {
		assert.Equal(t, 5, seen[0], "half of them at any time")
	}
	_, legs = pattern(t, d, "bound")
	for k := range 400 {
		for row := range 5 {
			assert.Equal(t, legs(k)[2*row], legs(k)[2*row+1], "both of a row")
		}
	}
	walks, _ := pattern(t, d, "walk")
	assert.LessOrEqual(t, most(walks), 4)
}

// What a pattern sets is each leg's own: it can be seen and changed, and it goes by place and not by name.
func TestAPatternStaysVisible(t *testing.T) {
	d := crawler(t, parameter.Set{"stride": parameter.OfNumber(0.3), "wave": parameter.OfNumber(1.2)})
	renamed, err := edit.Apply(context(), d, &edit.RenameMany{IDs: []string{id(t, d, "reach_L1"), id(t, d, "step_L1")}, Search: "L1", Replace: "R9"})
	require.NoError(t, err)
	phases := func(d *rig.Document) (list []float64) {
		result, err := edit.Apply(context(), d, &edit.LayPattern{Mechanism: step.Name, Pattern: "wave"})
		require.NoError(t, err)
		seen := map[string]bool{}
		for _, m := range open(t, result.Document).d.Mechanisms {
			if m.Kind == step.Name {
				list = append(list, m.Parameters.Number("phase"))
				seen[fmt.Sprintf("%.6f", m.Parameters.Number("phase"))] = true
				assert.InDelta(t, 0.9, m.Parameters.Number("duty"), 1e-12)
				assert.Zero(t, m.Parameters.Number("wave"))
			}
		}
		assert.Len(t, seen, 10, "no two legs at once")
		return list
	}
	assert.Equal(t, phases(d), phases(renamed.Document))
	for want, e := range map[string]edit.Edit{
		`no gait called "gallop"`: &edit.LayPattern{Mechanism: step.Name, Pattern: "gallop"},
		"goes by no pattern":      &edit.LayPattern{Mechanism: limb.Name, Pattern: "wave"},
	} {
		_, err := edit.Apply(context(), d, e)
		assert.ErrorContains(t, err, want)
	}
	_, err = edit.Apply(&edit.Context{Kinds: kinds.All()}, rig.New("x"), &edit.LayPattern{Mechanism: step.Name, Pattern: "wave"})
	assert.ErrorContains(t, err, "build one first")
}
