package demo

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/evaluate"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/motion"
)

// bends returns, by joint, the largest second difference of its place over a clip that is looked at so many times a frame.
func bends(e *evaluate.Evaluator, clip motion.Clip, rate int) []float64 {
	largest := make([]float64, len(e.Frame.Joints))
	before := make([][2]mgl64.Vec3, len(largest))
	for k := 0; k <= int(clip.End-clip.Start)*rate; k++ {
		e.SetFrame(clip.Start + float64(k)/float64(rate))
		e.Evaluate()
		for i, joint := range e.Frame.Joints {
			if k > 1 {
				largest[i] = math.Max(largest[i], joint.Position.Sub(before[i][1].Mul(2)).Add(before[i][0]).Len())
			}
			before[i] = [2]mgl64.Vec3{before[i][1], joint.Position}
		}
	}
	return largest
}

// Over the whole clips of the specimens no joint pops, and none has a kink in its way: half the step makes the largest second difference a third or
// less. (A pop leaves it as it is, a kink makes it half.)
func TestSpecimensMoveSmoothly(t *testing.T) {
	for _, name := range []string{"brindle", "quillwick", "tallow", "sedge"} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			specimen, err := Find(name)
			require.NoError(t, err)
			_, steps, err := specimen.Make(kinds.All())
			require.NoError(t, err)
			document := steps[len(steps)-1].Next
			e, body, err := evaluate.Open(document, kinds.All(), Memory(steps))
			require.NoError(t, err)
			if len(e.Plan.Document.Clips) == 0 {
				t.Skip("it has no clip")
			}
			clip := motion.Prepare(e.Plan.Document.Clips[0])
			e.SetClip(clip)
			coarse, fine := bends(e, *clip, 4), bends(e, *clip, 8)
			least := math.Inf(1)
			for i := range coarse {
				if fine[i] < 1e-9*body.Size() {
					continue // it stands still
				}
				least = math.Min(least, coarse[i]/fine[i])
				assert.GreaterOrEqual(t, coarse[i]/fine[i], 3.0, e.Plan.Document.Joints[i].Name)
			}
			t.Logf("%s: half the step makes the largest second difference of every joint %.2f times as small or more", name, least)
		})
	}
}
