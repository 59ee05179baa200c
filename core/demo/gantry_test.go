package demo

import (
	"math"
	"strings"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/motion"
)

// yardAt is how high the yard lies, so far ahead.
func yardAt(z float64) float64 {
	switch {
	case z > 6.1:
		return 0.22
	case z > 4.2:
		return 0.32
	}
	return 0.32 / 1.8 * math.Max(0, z-2.4)
}

// Through a day's work nothing has to be told but that the tracks scrub as it turns on the spot; hose and rope keep their lengths; links lie still on the level as it drives, and none comes into
// the yard by more than its own chord is high.
func TestGantryDoesADaysWork(t *testing.T) {
	e, body, d := opened(t, "gantry", "work")
	links, told := 0, map[string]int{}
	var line [2][2]float64 // how long hose and rope are at least and at most
	deepest, slip, looks := math.Inf(-1), 0.0, 0
	before := map[int]map[int]mgl64.Vec3{}
	for k := range 288*4 + 1 {
		e.SetFrame(float64(k) / 4)
		e.Evaluate()
		for _, finding := range e.Findings() {
			told[finding.Text[:7]]++
			require.True(t, strings.Contains(finding.Text, "scrubs") && k > 126*4 && k < 162*4, "frame %g: %s", float64(k)/4, finding.Text)
		}
		for i, name := range []string{"arm_hose", "hook_rope"} {
			for c, owner := range e.Plan.CurveOwner {
				if owner != named(d, name) {
					continue
				}
				long := e.Frame.Curves[c].Ruler.Total()
				if k == 0 {
					line[i] = [2]float64{long, long}
				}
				line[i] = [2]float64{math.Min(line[i][0], long), math.Max(line[i][1], long)}
			}
		}
		links = 0
		now := map[int]map[int]mgl64.Vec3{}
		for _, drawn := range body.Drawn() {
			if body.Parts[drawn.Part].Part.Name != "track_link" || drawn.Set < 0 {
				continue
			}
			links++
			m, rest := drawn.Matrix(e), body.Parts[drawn.Part].Rest
			if now[drawn.Set] == nil {
				now[drawn.Set] = map[int]mgl64.Vec3{}
			}
			foot := mgl64.TransformCoordinate(rest.Vertex(soleOf(rest.Positions)), m)
			if k == 0 {
				side := map[string]float64{"track_L": 1, "track_R": -1}[e.Plan.Document.NameOf(e.Plan.Instances[drawn.Set].Owner)]
				assert.InDelta(t, side*gantryGauge, foot[0], 0.18, "the links of each track lie on its side")
			}
			if k < 126*4 { // as it turns, the ground under a link is not that under its middle
				deepest = math.Max(deepest, yardAt(foot[2])-foot[1])
			}
			was, known := before[drawn.Set][drawn.At]
			now[drawn.Set][drawn.At] = foot
			if known && k < 60 && math.Abs(foot[1]) < 1e-6 && math.Abs(was[1]) < 1e-6 {
				slip = math.Max(slip, foot.Sub(was).Len())
				looks++
			}
		}
		before = now
	}
	t.Logf("%d links; the hose is %.7f to %.7f m long, the rope %.4f to %.4f; deepest %.2g m; %d looks at links on the level, they slip %.1e m", links, line[0][0], line[0][1], line[1][0], line[1][1], deepest, looks, slip)
	assert.GreaterOrEqual(t, links, 2*60)
	assert.Len(t, told, 2, "both tracks scrub")
	assert.InDelta(t, line[0][0], line[0][1], 1e-6*line[0][0])
	assert.Greater(t, line[1][1], line[1][0]+0.4, "the rope is paid out")
	assert.Greater(t, looks, 1000)
	assert.Less(t, slip, 1e-6)
	assert.Less(t, deepest, gantryPitch*gantryPitch/(8*0.04), "a chord's own height over an edge as round as a link is thick")
}

// soleOf is the vertex of a link that lies lowest at rest.
func soleOf(positions []float32) (vertex int) {
	for i := 1; i < len(positions); i += 3 {
		if positions[i] < positions[3*vertex+1] {
			vertex = i / 3
		}
	}
	return vertex
}

// BenchmarkGantry evaluates and skins a frame of the day's work, and integrates the ways of its tracks over 1,000 frames. Wanted: evaluation and skin together under a third of a frame at 60 Hz, 5.56 ms;
// integrating under 2 s.
func BenchmarkGantry(b *testing.B) {
	e, body, d := opened(b, "gantry", "work")
	sets, vertices := 0, 0
	for _, drawn := range body.Drawn() {
		if drawn.Set >= 0 {
			sets++
		}
		positions, _ := drawn.Vertices(body)
		vertices += len(positions) / 3
	}
	b.Run("evaluation", func(b *testing.B) {
		b.ReportAllocs()
		for i := 0; b.Loop(); i++ {
			e.SetFrame(float64(i % 288))
			e.Evaluate()
		}
		b.ReportMetric(float64(len(e.Plan.Document.Joints)), "joints")
		b.ReportMetric(float64(sets), "instances")
		b.ReportMetric(float64(vertices), "vertices")
	})
	b.Run("skin", func(b *testing.B) {
		for b.Loop() {
			body.Deform(e)
		}
	})
	b.Run("integrating 1,000 frames", func(b *testing.B) {
		clip := *d.ClipNamed("work")
		clip.End = 1000
		for b.Loop() {
			e.SetClip(motion.Prepare(clip))
			e.SetFrame(1000)
			e.Evaluate()
		}
	})
}
