package walk

import (
	"math"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/rig"
)

// TestChannelsAreLockedHiddenAndLimited brings a control to its extreme, presses once, and finds that it goes no further.
func TestChannelsAreLockedHiddenAndLimited(t *testing.T) {
	a := start(t, t.TempDir(), true)
	p := openBrowser(t)
	p.open(a.server.URL)
	p.button("Quillwick")
	p.settled()
	id := p.presentID()
	states := func() map[rig.Channel]rig.ChannelState {
		p.settled()
		return a.specimen(t, id).Document.ControlNamed("spine_ctl_3").Channels
	}
	p.button("Controls")
	p.button("control spine_ctl_3")

	p.field("Move Z", "0.15"+kb.Enter)
	p.field("Rotate X", "-40"+kb.Enter)
	p.wait("the pose", `document.querySelector("aside").innerText.includes("test pose")`)
	p.settled()
	p.key("m")
	p.wait("the limits", `document.querySelector("aside").innerText.includes("Move Z, at most")`)
	limited := states()
	require.NotNil(t, limited[rig.MoveZ].Max)
	assert.InDelta(t, 0.15, *limited[rig.MoveZ].Max, 1e-9)
	assert.Nil(t, limited[rig.MoveZ].Min)
	require.NotNil(t, limited[rig.RotateX].Min)
	assert.InDelta(t, -40*math.Pi/180, *limited[rig.RotateX].Min, 1e-9)
	p.look("limits")

	p.field("Move Z", "3"+kb.Enter)
	p.wait("word of the limit", `document.body.innerText.includes("Move Z stays at most 0.150 m")`)
	p.field("Move Z, at most", "0.25"+kb.Enter)
	assert.InDelta(t, 0.25, *states()[rig.MoveZ].Max, 1e-9)
	p.button("Free Move Z of its limits")
	assert.NotContains(t, states(), rig.MoveZ)

	p.key("0")
	p.button("Lock Move X")
	p.button("Hide Rotate Z from animators")
	assert.Equal(t, rig.ChannelState{Locked: true}, states()[rig.MoveX])
	assert.Equal(t, rig.ChannelState{Hidden: true}, states()[rig.RotateZ])
	p.look("locked")
	evaluate[chromedp.Void](p, `(() => { // it is over soon: watch for it
		const value = () => [...document.querySelectorAll("aside label")].find(e => e.innerText.startsWith("Move Y"))?.querySelector("input").value;
		window.wiggled = false;
		const watch = setInterval(() => { if (!/^-?0\.000/.test(value() ?? "0.000")) { window.wiggled = true; clearInterval(watch); } }, 5);
	})()`)
	p.key("w")
	p.wait("a wiggle by what is free", `window.wiggled`)
	p.wait("its end", `!document.querySelector("aside").innerText.includes("test pose")`)

	p.field("Control or joint to hang on", "chest"+kb.Enter)
	p.settled()
	d := a.specimen(t, id).Document
	assert.Equal(t, d.ControlNamed("chest").ID, d.ControlNamed("spine_ctl_3").Space)
	p.wait("the drift", `document.body.innerText.includes("since hang spine_ctl_3 on chest")`)
	p.look("hung")
	p.ctrl("z", false)
	p.settled()
	p.button("Motion")
	p.wait("the hidden channel to be away", `document.querySelector("aside").innerText.includes("1 more are hidden")`)
	p.key("k")
	p.settled()
	for _, track := range a.specimen(t, id).Document.Clips[0].Tracks {
		if track.Control == a.specimen(t, id).Document.ControlNamed("spine_ctl_3").ID {
			assert.NotEqual(t, rig.MoveX, track.Channel, "a locked channel is not keyed")
		}
	}
	p.ctrl("z", false)
	p.ctrl("z", false)
	assert.NotContains(t, states(), rig.RotateZ, "hiding is undone")

	// What is typed is meant for all that are chosen.
	p.button("Controls")
	p.key("0")
	p.button("control spine_ctl_3")
	evaluate[chromedp.Void](p, `document.querySelector("[aria-label='control chest']").dispatchEvent(new MouseEvent("click", {bubbles: true, shiftKey: true}))`)
	first, second := p.onScreen("spine_ctl_3"), p.onScreen("chest")
	p.field("Move Y", "0.2"+kb.Enter)
	p.waitMoved("spine_ctl_3", first, 5)
	p.waitMoved("chest", second, 5)
}
