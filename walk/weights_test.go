package walk

import (
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestWeightsAreSeenAndPainted looks at weights, paints a stroke, and takes it back.
func TestWeightsAreSeenAndPainted(t *testing.T) {
	a, p, id := opened(t, "Quillwick")
	p.key("5")
	p.find("body")
	p.settled()
	p.button("all joints")
	p.settled()
	p.look("weights-all")
	p.button("one joint")
	bound := a.specimen(t, id).Document.Bindings[0]
	p.option(bound.Joints[11])
	p.settled()
	p.look("weights-one")
	over := p.onScreen([]float64{0.06, 0.4, 0.35})
	p.moveTo(over)
	p.moveTo(spot{over.X + 1, over.Y})
	p.wait("the weights under the pointer", `document.querySelector("[data-weighed]")?.innerText.includes("spine_")`)
	before := bound
	p.button("Paint")
	p.wait("the brush", `document.querySelector("[data-brush='more']")`)
	at := p.onScreen([]float64{0.06, 0.4, 0.35})
	p.drag(spot{at.X - 30, at.Y}, spot{at.X + 40, at.Y + 6})
	p.wait("the stroke to be kept", `document.querySelector("[data-stage]").dataset.saving === "0"`)
	p.settled()
	p.look("weights-painted")
	s := a.specimen(t, id)
	require.Equal(t, "Paint more of spine_12 on body", s.Undo)
	painted := s.Document.Bindings[0]
	require.NotEqual(t, before.Weights, painted.Weights)
	was, err := a.store.Weights(before.Weights, len(before.Joints))
	require.NoError(t, err)
	now, err := a.store.Weights(painted.Weights, len(painted.Joints))
	require.NoError(t, err)
	joint, more := 11, 0
	for v := range was.VertexCount() {
		if now.Of(v, joint) > was.Of(v, joint)+0.05 {
			more++
		}
	}
	assert.Greater(t, more, 10)
	t.Logf("the stroke reached %d vertices", more)
	p.button("↶")
	p.settled()
	assert.Equal(t, before.Weights, a.specimen(t, id).Document.Bindings[0].Weights)

	// Where dual quaternions hold is painted as well.
	c := &tally{page: p}
	c.tick("paint where dual quaternions hold")
	p.settled()
	at = p.onScreen([]float64{0.06, 0.4, 0.35})
	p.drag(spot{at.X - 30, at.Y}, spot{at.X + 60, at.Y + 6})
	p.wait("the stroke to be kept", `document.querySelector("[data-stage]").dataset.saving === "0"`)
	p.settled()
	p.look("weights-dual")
	s = a.specimen(t, id)
	require.Equal(t, "Paint more of dual quaternions on body", s.Undo)
	assert.NotEmpty(t, s.Document.Bindings[0].DualBy)
	p.key(kb.Escape)
}
