package demo

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/evaluate"
	"myriapod/core/match"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/rig"
)

// What is told to be left where a chain takes over from one that is squashed and stretched is what is seen of joints, own scales and skin.
func TestTakingOverTellsWhatTheSkinDoes(t *testing.T) {
	specimen, err := Find("brindle")
	require.NoError(t, err)
	_, steps, err := specimen.Make(kinds.All())
	require.NoError(t, err)
	e, body, err := evaluate.Open(steps[len(steps)-1].Next, kinds.All(), Memory(steps))
	require.NoError(t, err)
	d := e.Plan.Document
	random := rand.New(rand.NewPCG(3, 9))
	worst := match.Left{}
	for _, m := range d.Mechanisms {
		if _, linked := d.LinkedTo(rig.Address{Of: m.ID, Key: "influence"}); !linked || len(m.Controls) == 0 {
			continue
		}
		for range 3 {
			e.Zero()
			for i, control := range d.Controls {
				for _, channel := range rig.Channels {
					if !control.State(channel).Locked && !slices.Contains(m.Controls, control.ID) {
						require.NoError(t, e.SetChannel(i, channel, 0.15*random.NormFloat64()))
					}
				}
			}
			e.Evaluate()
			body.Deform(e)
			scales := slices.Clone(e.Frame.Scales)
			var before [][]float32
			for i := range body.Parts {
				before = append(before, slices.Clone(body.Parts[i].Positions))
			}
			_, left, err := match.Take(e, body, m.ID)
			require.NoError(t, err)
			e.Evaluate()
			body.Deform(e)
			girth, vertices := 0.0, 0.0
			for i := range scales {
				girth = math.Max(girth, math.Max(math.Abs(e.Frame.Scales[i][0]-scales[i][0]), math.Max(math.Abs(e.Frame.Scales[i][1]-scales[i][1]), math.Abs(e.Frame.Scales[i][2]-scales[i][2]))))
			}
			for i := range before {
				for k := 0; k < len(before[i]); k += 3 {
					x, y, z := float64(body.Parts[i].Positions[k]-before[i][k]), float64(body.Parts[i].Positions[k+1]-before[i][k+1]), float64(body.Parts[i].Positions[k+2]-before[i][k+2])
					vertices = math.Max(vertices, math.Sqrt(x*x+y*y+z*z))
				}
			}
			assert.InDelta(t, girth, left.Girth, 1e-12)
			assert.InDelta(t, vertices, left.Vertices, 1e-9)
			worst.Girth, worst.Vertices = math.Max(worst.Girth, girth), math.Max(worst.Vertices, vertices)
		}
	}
	t.Logf("girth changes by %.2g, vertices by %.2g m at worst, as told", worst.Girth, worst.Vertices)
	assert.Positive(t, worst.Girth, "there was something to tell")
	assert.Positive(t, worst.Vertices)
}
