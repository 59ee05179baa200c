package walk

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
)

// TestAPlaceHasAnAddress leaves a specimen and comes back, by its plate and by a link, and by a link to a part.
func TestAPlaceHasAnAddress(t *testing.T) {
	a := start(t, t.TempDir(), true)
	p := openBrowser(t)
	p.open(a.server.URL)
	p.button("Old Brindle")
	p.settled()
	id := p.presentID()
	p.button("Skin")
	p.settled()
	p.button("joint head_1")
	p.wait("the address", `location.pathname.endsWith("/skin") && location.search === "?chosen=head_1"`)
	p.button("Shelf")
	p.button("Old Brindle")
	p.settled()
	p.wait("the joint to be chosen still", `document.querySelector("aside input")?.value === "head_1"`)
	assert.Equal(t, "/specimen/"+id+"/skin", evaluate[string](p, `location.pathname`))
	p.open(a.server.URL + "/specimen/" + id + "/controls?chosen=skull&chosen=chest")
	p.settled()
	p.wait("both controls", `document.querySelector("aside").innerText.includes("One of 2 chosen controls")`)
	assert.Equal(t, "false", evaluate[string](p, `String(document.body.innerText.includes("Stop"))`), "it opens still")
}

// TestTheVeryFirstRun moves for one lap, with three things to try, and never again.
func TestTheVeryFirstRun(t *testing.T) {
	a := start(t, t.TempDir(), true)
	p := openBrowser(t)
	p.do(chromedp.Navigate(a.server.URL))
	p.button("Quillwick")
	p.wait("it to move", `Number(document.querySelector("[data-time]")?.dataset.time) > 0.2`)
	p.says("Three things to try")
	p.look("first-run")
	p.wait("it to rest after one lap", `Number(document.querySelector("[data-time]").dataset.time) === 0 && !document.body.innerText.includes("Stop")`)
	p.button("Begin")
	p.button("Shelf")
	p.button("Quillwick")
	p.settled()
	assert.False(t, evaluate[bool](p, `document.body.innerText.includes("Three things to try")`))
	assert.Zero(t, evaluate[float64](p, `Number(document.querySelector("[data-time]").dataset.time)`))
}

// TestNumbersAreNearByKeyboard goes from a key, and from the search, to a number, and about the body map by arrows.
func TestNumbersAreNearByKeyboard(t *testing.T) {
	a := start(t, t.TempDir(), true)
	p := openBrowser(t)
	p.open(a.server.URL)
	p.button("Quillwick")
	p.settled()
	p.button("Controls")
	p.button("control spine_ctl_3")
	p.settled()
	focused := func() string {
		return evaluate[string](p, `document.activeElement?.labels?.[0]?.innerText.trim() ?? document.activeElement?.getAttribute("aria-label") ?? ""`)
	}
	p.key("c")
	tabs := 0
	for ; tabs < 30 && focused() != "Rotate X"; tabs++ {
		p.key(kb.Tab)
	}
	t.Logf("%d Tabs from the card's key to its fourth number", tabs)
	p.key(kb.Escape)
	p.wait("the field to be left", `document.activeElement === document.body`)
	p.key("c")
	assert.Equal(t, "Move X", focused(), "none to its first")
	for range 3 {
		p.key(kb.PageDown)
	}
	assert.Equal(t, "Rotate X", focused(), "three keys to its fourth")
	p.key(kb.PageUp)
	assert.Equal(t, "Move Z", focused())
	p.key(kb.Escape)
	p.wait("the field to be left", `document.activeElement === document.body`)
	p.button("find an action or a part")
	p.wait("the search", `document.activeElement?.matches("[role=combobox]")`)
	p.key("rotate z")
	p.key(kb.Enter)
	p.wait("the field", `document.activeElement?.labels?.[0]?.innerText.trim() === "Rotate Z"`)
	p.key(kb.Escape)
	p.wait("the field to be left", `!document.activeElement.matches("input")`)
	p.button("find an action or a part")
	p.wait("the search", `document.activeElement?.matches("[role=combobox]")`)
	p.key("reverse")
	p.says("Turn the chosen chain round")
	p.key(kb.Escape)
	evaluate[chromedp.Void](p, `document.querySelector('[data-map][tabindex="0"]').focus()`)
	p.key(kb.ArrowRight)
	p.wait("another to be chosen", `document.querySelector("aside input")?.value !== "spine_ctl_3"`)
	p.wait("it to have the keyboard", `document.activeElement?.dataset?.map`)
}
