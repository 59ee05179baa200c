package demo

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/rig"
)

// Old Brindle goes up the stairs: no vertex of a shoe comes into them at any quarter of a frame, the body comes up with them, and
// nothing has to be told, sliding among it.
func TestBrindleClimbsTheStairs(t *testing.T) {
	e, body, d := opened(t, "brindle", "up_the_stairs")
	clip := d.ClipNamed("up_the_stairs")
	from := d.ControlNamed(rig.GlobalName).Position[2] + 1.6
	height := func(z float64) float64 { return 0.11 * math.Max(0, math.Min(5, math.Ceil((z-from)/0.5))) }
	const foot = 0.24
	deepest, shoes, root := math.Inf(-1), 0, e.Plan.ControlIndex[d.ControlNamed(rig.RootName).ID]
	low, high := math.Inf(1), math.Inf(-1)
	for k := 4 * clip.Start; k <= 4*clip.End; k++ {
		e.SetFrame(float64(k) / 4)
		e.Evaluate()
		require.Empty(t, e.Findings(), "at %g", float64(k)/4)
		shoes = 0
		for i := range body.Parts {
			binding := d.BindingOf(body.Parts[i].Part.ID)
			if binding == nil || len(binding.Joints) != 1 || body.Parts[i].Part.Name[:4] != "shoe" {
				continue
			}
			joint := e.Plan.JointIndex[binding.Joints[0]]
			motion := e.JointAt(joint).Then(e.Plan.Document.Joints[joint].Rest().Inverse())
			for v := range body.Parts[i].Rest.VertexCount() {
				p := motion.Apply(body.Parts[i].Rest.Vertex(v))
				deepest = math.Max(deepest, height(p[2])-p[1])
			}
			shoes++
		}
		at := e.Frame.Controls[root].Position[1]
		low, high = math.Min(low, at), math.Max(high, at)
	}
	assert.Equal(t, 6, shoes)
	assert.LessOrEqual(t, deepest, 1e-6*foot)
	assert.InDelta(t, 0.55, high-low, 0.12, "it comes up by what the stairs rise")
	t.Logf("deepest %.2g of the foot; the body rises by %.3g m", deepest/foot, high-low)
}
