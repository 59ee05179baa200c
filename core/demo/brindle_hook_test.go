package demo

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The boat hook stays where it is as it is given from the flank to the muzzle and from there to the world, is level with the ground when it is let go, and lies still from then on.
func TestBrindleSetsItsBoatHookDown(t *testing.T) {
	e, body, d := opened(t, "brindle", "sets_down_hook")
	grip, muzzle := e.Plan.JointIndex[named(d, "hook_grip")], e.Plan.JointIndex[named(d, "head_2")]
	at := func(frame float64) (place, from mgl64.Vec3) {
		e.SetFrame(frame)
		e.Evaluate()
		require.Empty(t, e.Findings(), "frame %g", frame)
		return e.JointAt(grip).Position, e.JointAt(muzzle).Position
	}
	rest, _ := at(0)
	for _, change := range []float64{50, 122} {
		before, _ := at(change - 1e-9)
		after, _ := at(change)
		assert.InDelta(t, 0, after.Sub(before).Len(), 1e-9*body.Size(), "at %g", change)
	}
	held := math.NaN()
	lowest := math.Inf(1)
	for k := range 168*4 + 1 {
		frame := float64(k) / 4
		place, from := at(frame)
		body.Deform(e)
		for i := range body.Parts {
			if body.Parts[i].Part.Name == "boat_hook" {
				for v := 1; v < len(body.Parts[i].Positions); v += 3 {
					lowest = math.Min(lowest, float64(body.Parts[i].Positions[v]))
				}
			}
		}
		switch {
		case frame < 50:
			assert.InDelta(t, 0, place.Sub(rest).Len(), 1e-9, "on the flank at %g", frame)
		case frame < 122:
			if math.IsNaN(held) {
				held = place.Sub(from).Len()
			}
			assert.InDelta(t, held, place.Sub(from).Len(), 1e-9, "in the muzzle at %g", frame)
			rest = place
		case frame == 122:
			rest = place
		default:
			assert.InDelta(t, 0, place.Sub(rest).Len(), 1e-9, "on the ground at %g", frame)
		}
	}
	t.Logf("held %.4f m off the muzzle; lowest %.3f m", held, lowest)
	assert.Less(t, held, 0.02)
	assert.InDelta(t, 0, lowest, 0.03)
}
