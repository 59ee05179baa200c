package walk

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/mechanism/step"
	"myriapod/core/rig"
)

// TestFeetGoByTheGround takes Old Brindle up its stairs, has its legs step by another gait, makes the stairs a slope, and takes all of that back.
func TestFeetGoByTheGround(t *testing.T) {
	a, p, id := opened(t, "Old Brindle")
	p.key("6")
	p.settled()
	p.clip("up_the_stairs")
	p.settled()
	p.scrub(150)
	p.settled()
	p.find("Frame what is chosen, or all")
	p.look("ground-stairs")
	before := p.onScreen("leg_L1_4")

	p.find("step_L1")
	p.look("ground-step")
	p.button("Tripod")
	p.settled()
	d := a.specimen(t, id).Document
	phases := map[float64]int{}
	for _, m := range d.Mechanisms {
		if m.Kind == step.Name {
			phases[m.Parameters.Number("phase")]++
		}
	}
	assert.Len(t, phases, 2, "two halves of the legs, one half a step after the other: %v", phases)
	p.find("stairs")
	p.option("slope")
	p.settled()
	p.waitMoved("leg_L1_4", before, 2)
	p.look("ground-slope")
	p.button("Set under the feet")
	p.settled()
	p.ctrl("z", false)
	p.settled()
	p.ctrl("z", false)
	p.settled()
	after := a.specimen(t, id).Document
	ground := after.Mechanisms[mechanismNamed(t, after, "stairs")]
	assert.Equal(t, "steps", ground.Parameters["shape"].Choice)
}

// clip has a clip play, by its name.
func (p *page) clip(name string) {
	p.t.Helper()
	find := fmt.Sprintf(`[...document.querySelectorAll("select option")].find(o => o.innerText.trim() === %s)`, quote(name))
	p.wait("the clip "+name, "!!("+find+")")
	evaluate[chromedp.Void](p, fmt.Sprintf(`(() => { const o = %s, s = o.closest("select");
		Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, "value").set.call(s, o.value);
		s.dispatchEvent(new Event("change", {bubbles: true})); })()`, find))
}

func mechanismNamed(t testing.TB, d *rig.Document, name string) int {
	for i, m := range d.Mechanisms {
		if m.Name == name {
			return i
		}
	}
	require.Fail(t, "there is no mechanism "+name)
	return 0
}
