package walk

import (
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestAnFKChainIsBuiltAndTraced builds on Tallow's feeler, poses it, and asks what moves its tip.
func TestAnFKChainIsBuiltAndTraced(t *testing.T) {
	a := start(t, t.TempDir(), true)
	p := openBrowser(t)
	p.open(a.server.URL)
	p.button("Tallow, bare")
	p.settled()
	id := p.presentID()
	p.button("Mechanisms")
	p.settled()
	p.button("joint feeler_L_01")
	p.button("Choose the chain")
	p.option("fk-chain")
	p.button("Build FK chain")
	p.settled()
	d := a.specimen(t, id).Document
	require.NotEmpty(t, d.Mechanisms)
	assert.Equal(t, "fk-chain", d.Mechanisms[0].Kind)
	chain := d.Mechanisms[0]
	require.Len(t, chain.Controls, len(chain.Joints)-1, "a control over each joint but the tip")
	p.wait("the drift", `document.body.innerText.includes("drift: joints 0.000 mm")`)

	p.button("Controls")
	p.button("control " + d.NameOf(chain.Controls[1]))
	p.field("Rotate Z", "30"+kb.Enter)
	p.wait("the pose", `document.querySelector("aside").innerText.includes("test pose")`)
	p.button("Mechanisms")
	p.button("joint " + d.NameOf(chain.Joints[len(chain.Joints)-1]))
	p.wait("the turn of 30 degrees by that control", `[...document.querySelectorAll("[data-trace] button")].some(e => e.innerText.includes("30.0°"))`)
	p.look("traced")
}
