package walk

import (
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/skin"
)

// TestABulbIsFreedFromItsTendrils binds Sedge's bulb to all its joints, so that tendrils pull at it, and paints their weights away while the joints of the bulb keep theirs.
func TestABulbIsFreedFromItsTendrils(t *testing.T) {
	a, p, id := opened(t, "Sedge")
	c := &tally{page: p}
	bulb := partNamed(a.specimen(t, id).Document, "bulb").ID
	pulled := func() (most float64, vertices int) {
		d := a.specimen(t, id).Document
		binding := d.BindingOf(bulb)
		require.NotNil(t, binding)
		w, err := a.store.Weights(binding.Weights, len(binding.Joints))
		require.NoError(t, err)
		for v := range w.VertexCount() {
			sum := 0.0
			for k := skin.Influences * v; k < skin.Influences*(v+1); k++ {
				if strings.HasPrefix(d.NameOf(binding.Joints[w.Joints[k]]), "tendril") {
					sum += float64(w.Values[k])
				}
			}
			most = max(most, sum)
			if sum > 0.02 {
				vertices++
			}
		}
		return most, vertices
	}
	c.chord("5")
	c.press("bound bulb") // in the list of parts
	c.press("Bind to all joints")
	p.settled()
	before, there := pulled()
	require.Greater(t, before, 0.3, "tendrils pull at the bulb")

	c.press("all joints")
	c.chord("F") // from the front
	c.chord("f")
	p.settled()
	p.look("freed-before")
	d := a.specimen(t, id).Document
	for _, j := range d.Joints {
		if j.Name == "bulb_2" {
			p.option(j.ID)
			c.count++
		}
	}
	c.press("Paint")
	p.wait("the brush", `document.querySelector("[data-brush='more']")`)
	c.fill("Reach", "0.7"+kb.Enter)
	c.fill("Strength", "1"+kb.Enter)
	c.tick("through the body")
	c.press("joints that keep their weights")
	c.tick("bulb_1")
	c.tick("bulb_3")
	for _, y := range []float64{0.5, 0.35, 0.65, 0.2, 0.5} {
		c.count++
		from, to := p.onScreen([]float64{-0.25, y, 0}), p.onScreen([]float64{0.25, y, 0})
		p.drag(from, to)
		p.wait("the stroke to be kept", `document.querySelector("[data-stage]").dataset.saving === "0"`)
		p.settled()
		if most, _ := pulled(); most < 0.02 {
			break
		}
	}
	p.look("freed-after")
	most, left := pulled()
	t.Logf("tendrils pulled at %d vertices by up to %.2f, and at %d by up to %.3f after %d strokes, clicks and keys", there, before, left, most, c.count)
	assert.Less(t, c.count, 30)
	assert.Less(t, most, 0.02)
}
