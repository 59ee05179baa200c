package walk

import (
	"math"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/mechanism/limb"
	"myriapod/core/rig"
)

// TestTallowStandsOnFortyFourLegs goes from the bare skeleton to all legs planted and the body bobbing, builds one leg only, and lets it
// walk.
func TestTallowStandsOnFortyFourLegs(t *testing.T) {
	a := start(t, t.TempDir(), true)
	p := openBrowser(t)
	p.open(a.server.URL)
	p.button("Tallow, bare")
	p.settled()
	id := p.presentID()
	h := &hand{page: p}
	document := func() *rig.Document {
		p.settled()
		return a.specimen(t, id).Document
	}

	// The trunk on a spline, one leg a limb with a foot: forty-four are there.
	h.key("3")
	h.button("joint trunk_02")
	h.button("Choose the chain")
	h.button("Build spline chain")
	p.wait("the drift", `document.body.innerText.includes("drift: joints 0.000 mm")`)
	p.settled()
	h.button("joint leg_L01_9")
	h.button("Choose the chain")
	p.option("limb")
	h.count += 2 // the choice of the kind
	h.button("Build limb")
	p.settled()
	h.button("Add foot")
	p.settled()
	p.wait("the drift of the feet", `document.body.innerText.includes("drift: joints 0.000 mm")`)
	d := document()
	limbs := 0
	for _, m := range d.Mechanisms {
		if m.Kind == limb.Name {
			limbs++
		}
	}
	require.Equal(t, 44, limbs)
	p.look("forty-four")

	// The body bobs, and no foot moves.
	feet := []string{"leg_L01_12", "leg_R07_12", "leg_L15_12", "leg_R22_12"}
	stood := map[string]spot{}
	for _, foot := range feet {
		stood[foot] = p.onScreen(foot)
	}
	hip := p.onScreen("leg_L15_1")
	h.button("control root")
	h.enter("Move Y", "-.1"+kb.Enter)
	p.waitMoved("leg_L15_1", hip, 5)
	p.settled()
	for _, foot := range feet {
		now := p.onScreen(foot)
		assert.Less(t, math.Hypot(now.X-stood[foot].X, now.Y-stood[foot].Y), 0.05, "%s stays planted", foot)
	}
	t.Logf("forty-four planted legs and a bobbing body took %d clicks and keys", h.count)
	assert.Less(t, h.count, 60)
	p.look("bobbing")

	// A leg that cannot reach says so on the card of its limb, and points at its foot.
	p.key("0")
	p.button("control root")
	p.field("Move Y", "1.5"+kb.Enter)
	p.settled()
	p.key("l")
	p.field("Filter", "leg_L01_limb")
	p.button("leg_L01_limb_target")
	p.key("l")
	p.button("carries leg_L01_limb")
	p.look("short")
	p.says("does not reach its target")
	p.look("short")
	p.key("0")
	p.settled()

	// It walks on the spot.
	p.key("l")
	p.field("Filter", "leg_L01_limb")
	p.button("leg_L01_limb_target")
	p.key("l")
	p.button("carries leg_L01_limb")
	p.button("Add step")
	p.settled()
	p.field("On the spot", "0.5"+kb.Enter)
	p.settled()
	foot := p.onScreen("leg_L01_12")
	p.key(kb.Escape)
	p.key(" ")
	p.waitMoved("leg_L01_12", foot, 3)
	p.key(" ")
	p.look("stepping")
}
