package track_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"

	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// Over the edges of steps the lower run lies on them between its wheels: no link's sole comes into the ground at its pins.
func TestLinksLieOverTheEdgesOfSteps(t *testing.T) {
	land := parameter.Set{"shape": parameter.OfChoice("steps"), "rise": parameter.OfNumber(0.1), "run": parameter.OfNumber(1.1), "begin": parameter.OfNumber(1.9), "count": parameter.OfNumber(2), "level": parameter.OfNumber(0)}
	c, e := driven(t, 1, land, map[float64][3]float64{0: {}, 120: {0, 4, 0}})
	begin := c.document.ControlNamed(rig.GlobalName).Position[2] + 1.9
	height := func(z float64) float64 { return 0.1 * math.Max(0, math.Min(2, math.Ceil((z-begin)/1.1))) }
	deepest, near := math.Inf(-1), 0
	for k := range 481 {
		e.SetFrame(float64(k) / 4)
		e.Evaluate()
		for set := range 2 {
			for link := range e.Frame.Instances[set] {
				pin, _ := ends(e, set, link, 1)
				deepest = math.Max(deepest, height(pin[2])-pin[1])
				if math.Abs(pin[1]-height(pin[2])-0.055) < 1e-3 {
					near++
				}
			}
		}
	}
	t.Logf("deepest %.3g m; %d pins on the ground", deepest, near)
	assert.Greater(t, near, 5000)
	assert.LessOrEqual(t, deepest, -0.025+1e-7, "the links are so thick below their pins")
}

// Where a track comes to be taut and slack again, its sag goes as the root of what is left over; but it does not jump: looked at 16 times as often, links go at most half as far from look to look.
func TestTautTracksGoSlackWithoutAJump(t *testing.T) {
	land := parameter.Set{"shape": parameter.OfChoice("steps"), "rise": parameter.OfNumber(0.1), "run": parameter.OfNumber(1.1), "begin": parameter.OfNumber(1.9), "count": parameter.OfNumber(2), "level": parameter.OfNumber(0)}
	_, e := driven(t, 1, land, map[float64][3]float64{0: {}, 120: {0, 4, 0}})
	farthest := func(from float64, looks int) (worst float64, taut int) {
		var before []mgl64.Vec3
		for k := range looks + 1 {
			e.SetFrame(from + 0.2*float64(k)/float64(looks))
			e.Evaluate()
			if len(e.Findings()) > 0 {
				taut++
			}
			for link := range e.Frame.Instances[0] {
				pin, _ := ends(e, 0, link, 1)
				if k > 0 {
					worst = math.Max(worst, pin.Sub(before[link]).Len())
					before[link] = pin
				} else {
					before = append(before, pin)
				}
			}
		}
		return worst, taut
	}
	for _, from := range []float64{47.93, 50.68, 59.28, 61.66, 99.62} {
		coarse, taut := farthest(from, 20)
		fine, _ := farthest(from, 320)
		t.Logf("from %g: %.2g m at most from look to look, %.2g m looked at 16 times as often", from, coarse, fine)
		assert.True(t, taut > 0 && taut < 20, "it comes to be taut, or slack, at %g", from)
		assert.Less(t, fine, coarse/2)
	}
}
