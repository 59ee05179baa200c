package evaluate_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/driver"
	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// crowd is a row of handles, all but the first of which have one formula; apart has each written in its own way, so that they are worked out one by one.
func crowd(t require.TestingT, count int, text string, apart bool) *rig.Document {
	d := rig.New("crowd")
	for i := range count {
		d.Controls = append(d.Controls, rig.Control{
			ID: d.TakeID("c"), Name: fmt.Sprintf("handle_%s%d", []string{"L", "R", ""}[i%3], i), Shape: rig.Hoop, Rotation: rig.Quaternion{0, 0, 0, 1}, Order: "XYZ",
			Position: mgl64.Vec3{float64(i), 0, 0}, Outline: []mgl64.Vec3{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}},
		})
	}
	d.Controls[0].Dials = []rig.Dial{{Name: "rate", Min: -9, Max: 9, Default: 1}}
	write := &edit.WriteDriver{Driver: driver.FormulaKind, Text: text}
	for _, c := range d.Controls[1:] {
		write.Drives = append(write.Drives, c.Of(rig.MoveX))
	}
	d = change(t, d, write)
	for i := range d.Drivers {
		if apart {
			d.Drivers[i].Parameters = d.Drivers[i].Parameters.Clone()
			d.Drivers[i].Parameters[driver.FormulaText] = parameter.OfChoice(d.Drivers[i].Parameters.Choice(driver.FormulaText) + strings.Repeat(" ", i))
		}
	}
	return d
}

// TestWhatIsMadeTogetherIsWhatIsMadeApart compares values, findings and traces to the bit, over random hands and times.
func TestWhatIsMadeTogetherIsWhatIsMadeApart(t *testing.T) {
	const count = 50
	text := "below + moving * share * wave(turns(handle_L0.rate) + time / (side + 1)) + (index > 20 ? handle_L0.moveX : rest) + sqrt(handle_L0.moveY - index)"
	one, each := open(t, crowd(t, count, text, false)), open(t, crowd(t, count, text, true))
	assert.Less(t, len(one.Plan.Tasks), len(each.Plan.Tasks)-count/2, "they are made in one task")
	rapid.Check(t, func(t *rapid.T) {
		seconds := rapid.Float64Range(-1, 5).Draw(t, "time")
		type hold struct {
			control int
			channel rig.Channel
			value   float64
		}
		held := []hold{{0, "rate", rapid.Float64Range(-9, 9).Draw(t, "rate")}, {0, rig.MoveX, rapid.Float64Range(-9, 9).Draw(t, "x")}, {0, rig.MoveY, rapid.Float64Range(0, 60).Draw(t, "y")}}
		for range rapid.IntRange(0, 5).Draw(t, "hands") {
			held = append(held, hold{rapid.IntRange(1, count-1).Draw(t, "control"), rig.MoveX, rapid.Float64Range(-9, 9).Draw(t, "below")})
		}
		for _, e := range []*evaluate.Evaluator{one, each} {
			e.SetStill(rapid.Bool().Draw(t, "still"))
			e.SetTime(seconds)
			for _, h := range held {
				require.NoError(t, e.SetChannel(h.control, h.channel, h.value))
			}
			e.Evaluate()
		}
		one.SetStill(each.Frame.Still)
		one.Evaluate()
		require.Equal(t, each.Frame.Values, one.Frame.Values)
		require.ElementsMatch(t, each.Findings(), one.Findings())
		a := one.Plan.Document.Controls[rapid.IntRange(1, count-1).Draw(t, "traced")].Of(rig.MoveX)
		x, err := one.TraceNumber(a)
		require.NoError(t, err)
		y, err := each.TraceNumber(a)
		require.NoError(t, err)
		require.Equal(t, y, x)
	})
	frame := 0.0
	assert.Zero(t, testing.AllocsPerRun(20, func() {
		frame += 1.3
		one.SetFrame(frame)
		one.Evaluate()
	}))
}

// TestWhatReadsOneOfItsOwnIsMadeApart chains alike formulas, each of which reads the one before: no loop, as each stands alone.
func TestWhatReadsOneOfItsOwnIsMadeApart(t *testing.T) {
	d := crowd(t, 50, "below + handle_L0.moveX", false)
	for i := 1; i < len(d.Drivers); i++ {
		d.Drivers[i].By = []rig.Address{d.Controls[i].Of(rig.MoveX)}
	}
	e := open(t, d)
	require.NoError(t, e.SetChannel(0, rig.MoveX, 2))
	e.Evaluate()
	for i := range d.Controls {
		assert.Equal(t, 2.0, e.Frame.Channel(i, rig.MoveX))
	}
}
