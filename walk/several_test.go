package walk

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/driver"
	"myriapod/core/mechanism/squashbox"
	"myriapod/core/rig"
)

// TestOneFormulaForWhatIsChosen writes a formula for two chosen controls at once, and has a response's point moved by the keyboard.
func TestOneFormulaForWhatIsChosen(t *testing.T) {
	a, p, id := opened(t, "Quillwick")
	p.key("4")
	p.button("find an action or a part")
	p.wait("the search", `document.activeElement?.matches("[role=combobox]")`)
	p.key("spine_ctl_*")
	p.button("Choose all 2: spine_ctl_*")
	p.button("Drive Rotate Z")
	p.option("formula")
	p.button("Add a driver")
	p.says("of the 2 chosen controls")
	p.text("Formula for rotateZ", "10 * wave(time + share / 4)")
	p.wait("it to be read", `document.querySelector("[role=status]").innerText.includes("It can be read")`)
	p.key(kb.Enter)
	p.settled()
	written := 0
	for _, x := range a.specimen(t, id).Document.Drivers {
		if x.Kind == driver.FormulaKind && x.Drives.Key == string(rig.RotateZ) {
			written++
		}
	}
	assert.Equal(t, 2, written)
	p.look("chosen")

	p.key(kb.Escape)
	p.find("lid_L")
	p.button("Drive shut")
	p.wait("its answer", `document.querySelector("[data-answers='2']")`)
	evaluate[chromedp.Void](p, `document.querySelector("[data-answers] [role=slider]:nth-of-type(1)")?.focus()`)
	p.key(kb.ArrowUp)
	p.settled()
	p.look("answer")
	p.button("Mirror")
	p.settled()
	d := a.specimen(t, id).Document
	points := map[string]float64{}
	for _, x := range d.Drivers {
		if x.Drives.Key == "shut" {
			points[d.NameOf(x.Drives.Of)] = x.Parameters[driver.Points].Profile[0][1]
		}
	}
	require.Len(t, points, 2)
	assert.NotZero(t, points["lid_L"], "the point was moved")
	assert.Equal(t, points["lid_L"], points["lid_R"], "and the other side with it")
}

// TestAPartIsBoxedTwistedAndJudged puts a part in a squash box, has its skin go by dual quaternions, mirrors its weights, and plays the range of motion of a limited control.
func TestAPartIsBoxedTwistedAndJudged(t *testing.T) {
	a, p, id := opened(t, "Quillwick")
	p.key("5")
	p.find("body")
	p.button("Squash box")
	p.settled()
	p.field("Dual quaternions", "1"+kb.Enter)
	p.settled()
	p.button("Left to right")
	p.settled()
	p.look("boxed")
	d := a.specimen(t, id).Document
	assert.Equal(t, 1, mechanismsOf(d)[squashbox.Name])
	part := ""
	for _, x := range d.Parts {
		if x.Name == "body" {
			part = x.ID
		}
	}
	assert.Equal(t, 1.0, d.BindingOf(part).Dual)
	assert.Equal(t, "Mirror the weights of body from L", a.specimen(t, id).Undo)

	p.button("Controls")
	p.button("control spine_ctl_3")
	p.field("Rotate X", "20"+kb.Enter)
	p.button("Limit here")
	p.settled()
	p.key(kb.Escape)
	p.button("Skin")
	p.button("Play the range of motion")
	p.wait("it to play", `Number(document.querySelector("[data-time]").dataset.time) > 0.2`)
	p.look("judged")
	assert.NotNil(t, a.specimen(t, id).Document.ClipNamed("range_of_motion"))
}
