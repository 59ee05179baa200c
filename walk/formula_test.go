package walk

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/driver"
	"myriapod/core/rig"
)

// TestAFirstFormulaIsWritten writes a formula as a new user would, with two mistakes in it that the messages alone mend.
func TestAFirstFormulaIsWritten(t *testing.T) {
	a, p, id := opened(t, "Quillwick")
	p.key("4")
	p.button("control spine_ctl_3")
	p.settled()
	p.button("Drive Rotate X")
	p.option("formula")
	p.button("Add a driver")
	p.wait("the field", `document.querySelector("textarea")`)
	p.text("Formula for rotateX", "20 * wvae(tiem)")
	p.wait("the first mistake", `document.querySelector("[role=status]").innerText.includes("is time meant?")`)
	p.look("mistake")
	p.button("Write time")
	p.wait("the second", `document.querySelector("[role=status]").innerText.includes("is wave meant?")`)
	p.button("Write wave")
	p.wait("it to be read", `document.querySelector("[role=status]").innerText.includes("It can be read")`)
	p.wait("how it would go along the clip", `document.querySelector("[data-plot][data-trial]")?.innerText.includes("20.000 °")`)
	p.key(kb.Enter)
	p.wait("the formula in its row", `document.querySelector("[data-drivers='1'] textarea")?.value === "20 * wave(time)"`)
	p.wait("its plot", `document.querySelector("[data-plot]:not([data-trial])")?.innerText.includes("to 20.000 °")`)
	p.look("written")
	d := a.specimen(t, id).Document
	drivers := 0
	for _, x := range d.Drivers {
		if x.Kind == driver.FormulaKind && len(x.By) == 0 {
			drivers++
			assert.Equal(t, "rotateX", x.Drives.Key)
		}
	}
	require.Equal(t, 1, drivers)

	// A name is completed, and follows when it is changed.
	p.text("Formula", "below + root.mo")
	p.wait("what it may become", `document.querySelector("[aria-label='What can be written here']")?.innerText.includes("root.moveX")`)
	p.look("completed")
	p.key(kb.Tab)
	p.key(" * 2")
	p.wait("it to be read", `document.querySelector("[role=status]").innerText.includes("It can be read")`)
	p.key(kb.Enter)
	p.settled()
	d = a.specimen(t, id).Document
	for _, x := range d.Drivers {
		if x.Kind == driver.FormulaKind && x.Drives.Of == d.ControlNamed("spine_ctl_3").ID {
			require.Len(t, x.By, 1)
			assert.Equal(t, d.ControlNamed(rig.RootName).ID, x.By[0].Of)
		}
	}

	// One formula for several, and written anew for all of them.
	p.button("Drive Rotate X")
	p.button("Drive Move Y")
	p.option("formula")
	p.button("Add a driver")
	p.field("and for all called", "spine_ctl_*.moveY")
	p.text("Formula for moveY", "0.02 * share")
	p.wait("it to be read", `document.querySelector("[role=status]").innerText.includes("It can be read")`)
	p.key(kb.Enter)
	p.wait("both to have it", `document.body.innerText.includes("written for all 2 that have it")`)
	p.look("several")
	p.text("Formula", "0.03 * share")
	p.wait("it to be read", `document.querySelector("[role=status]").innerText.includes("It can be read")`)
	p.key(kb.Enter)
	p.settled()
	written := 0
	for _, x := range a.specimen(t, id).Document.Drivers {
		if x.Kind == driver.FormulaKind && x.Parameters.Choice(driver.FormulaText) == "0.03 * share" {
			written++
		}
	}
	assert.Equal(t, 2, written)

	// Help tells of every word, with a plot.
	p.key(kb.Escape)
	p.key("?")
	p.wait("the words", `document.body.innerText.includes("wave(turns)")`)
	evaluate[chromedp.Void](p, `[...document.querySelectorAll("h2")].find(e => e.innerText === "Formulas").scrollIntoView()`)
	p.look("help")
}

// text types into the text area with the label, in place of what is there.
func (p *page) text(label, value string) {
	p.t.Helper()
	find := fmt.Sprintf(`[...document.querySelectorAll("textarea")].find(e => e.getAttribute("aria-label").startsWith(%s) && e.offsetParent)`, quote(label))
	p.wait("a text "+label, "!!("+find+")")
	evaluate[chromedp.Void](p, fmt.Sprintf(`(() => { const e = %s; e.focus(); e.select(); })()`, find))
	p.do(chromedp.KeyEvent(value))
}

// TestAResponseIsTaken bends the body as the root rises: both are brought to a place, and taken; nothing moves.
func TestAResponseIsTaken(t *testing.T) {
	a, p, id := opened(t, "Quillwick")
	p.key("4")
	p.button("control spine_ctl_3")
	p.settled()
	p.button("Drive Rotate X")
	p.option("response")
	p.button("Add a driver")
	p.field("What drives rotateX", "root.moveY"+kb.Enter)
	p.wait("the response", `document.querySelector("[data-points='0']")`)
	p.button("Take")
	p.wait("its first point", `document.querySelector("[data-points='1']")`)
	p.button("control root")
	p.field("Move Y", "0.3"+kb.Enter)
	p.button("control spine_ctl_3")
	p.field("Rotate X", "25"+kb.Enter)
	p.button("Drive Rotate X")
	p.wait("the place that would be taken", `document.querySelector("[data-points]")?.innerText.includes("at 0.3")`)
	p.look("response")
	p.button("Take")
	p.wait("its second point", `document.querySelector("[data-points='2']")`)
	p.wait("nothing to move", `[...document.querySelectorAll("[data-drivers] p")].some(e => e.innerText.startsWith("comes to") && e.innerText.includes("25.000 °"))`)
	p.wait("the hand to be let go", `[...document.querySelectorAll("[data-drivers] p")].some(e => e.innerText.startsWith("by hand") && e.innerText.includes("0.000 °"))`)
	p.look("response-taken")
	d := a.specimen(t, id).Document
	for _, x := range d.Drivers {
		if x.Kind == driver.ResponseKind && x.Drives.Of == d.ControlNamed("spine_ctl_3").ID {
			points := x.Parameters[driver.Points].Profile
			require.Len(t, points, 2)
			assert.InDeltaSlice(t, []float64{0, 0, 0.3, 25}, []float64{points[0][0], points[0][1], points[1][0], points[1][1]}, 1e-6)
		}
	}
}

// TestAPoseAnswersADial poses two controls where a dial stands, and has both answer it with one press.
func TestAPoseAnswersADial(t *testing.T) {
	a, p, id := opened(t, "Quillwick")
	p.key("4")
	for _, control := range []string{"spine_ctl_3", "spine_ctl_4", "fin_L_fan_fk_2", "fin_L_fan_fk_3"} {
		p.button("control " + control)
		p.field("Rotate X", "15"+kb.Enter)
		p.field("Rotate Y", "5"+kb.Enter)
		p.field("Rotate Z", "-10"+kb.Enter)
	}
	h := &hand{page: p} // with the pose posed
	h.button("control root")
	h.enter("Move Y", "0.4"+kb.Enter)
	h.button("Drive Move Y")
	p.wait("what would answer", `document.body.innerText.includes("12 numbers answer this, here")`)
	p.look("pose")
	h.button("Take the pose")
	t.Logf("a pose of twelve channels took %d clicks and keys", h.count)
	assert.Less(t, h.count, 15)
	p.settled()
	p.wait("the hands to be let go", `!document.body.innerText.includes("answer this, here")`)
	d := a.specimen(t, id).Document
	answering := 0
	for _, x := range d.Drivers {
		if x.Kind == driver.ResponseKind && x.By[0].Of == d.ControlNamed(rig.RootName).ID {
			answering++
			points := x.Parameters[driver.Points].Profile
			require.Len(t, points, 2, "where it rests, and here")
			assert.InDelta(t, 0.4, points[1][0], 1e-6)
		}
	}
	assert.Equal(t, 12+6, answering, "and those of the other fin, which follow")
	p.button("control spine_ctl_3")
	p.button("Drive Rotate X")
	p.wait("it to stand as it was posed", `[...document.querySelectorAll("[data-drivers] p")].some(e => e.innerText.startsWith("comes to") && e.innerText.includes("15.000 °"))`)
}

// TestAMorphTargetAnswersADial has the eye of bare Quillwick close by a dial: its lids are driven as any number is.
func TestAMorphTargetAnswersADial(t *testing.T) {
	a, p, id := opened(t, "Quillwick, bare")
	p.button("Skeleton")
	p.key("j")
	p.wait("laying", `document.querySelector("[data-laid='0']")`)
	at := p.onScreen([]float64{0.02, 0.37, 0.7})
	p.seekCentre(at)
	p.click(at)
	p.wait("one laid", `document.querySelector("[data-laid='1']")`)
	p.key(kb.Enter)
	p.settled()
	p.button("joint spine_01")
	p.button("Add")
	p.settled()
	control := a.specimen(t, id).Document.Controls[0]
	p.button("Controls")
	p.button("control " + control.Name)
	p.field("Name of the new dial", "blink"+kb.Enter)
	p.settled()
	p.button("find an action or a part")
	p.wait("the search", `document.activeElement?.matches("[role=combobox]")`)
	p.key("lid_")
	p.button("lid_L")
	p.button("Drive shut")
	p.option("link")
	p.button("Add a driver")
	p.field("What drives shut", control.Name+".blink"+kb.Enter)
	p.wait("the link", `document.querySelector("[data-drivers='1']")`)
	p.button("control " + control.Name)
	p.field("blink", "1"+kb.Enter)
	p.settled()
	p.look("blink")
	d := a.specimen(t, id).Document
	require.Len(t, d.Drivers, 1)
	assert.Equal(t, "shut", d.Drivers[0].Drives.Key)
	assert.Equal(t, control.Of("blink"), d.Drivers[0].By[0])
}
