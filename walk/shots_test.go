package walk

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"
)

// TestScreenshots draws the pictures of docs/screenshots anew, from the demo data, when MYRIAPOD_SHOTS names a folder for them.
func TestScreenshots(t *testing.T) {
	folder := os.Getenv("MYRIAPOD_SHOTS")
	if folder == "" {
		t.Skip("MYRIAPOD_SHOTS is not set")
	}
	folder, err := filepath.Abs(folder)
	require.NoError(t, err)
	require.NoError(t, os.MkdirAll(folder, 0o755))
	a := start(t, t.TempDir(), true)
	p := openBrowser(t)
	shot := func(name string) { p.settled(); p.shot(filepath.Join(folder, name+".png")) }

	p.open(a.server.URL)
	p.wait("the pictures", `[...document.images].length >= 5 && [...document.images].every(i => i.complete && i.naturalWidth > 0)`)
	p.shot(filepath.Join(folder, "shelf.png"))

	p.button("Quillwick")
	p.settled()
	p.key(" ")
	p.wait("the eel to swim", `Number(document.querySelector("[data-time]").dataset.time) > 0.4`)
	p.key(" ")
	p.button("mechanism swim")
	shot("mechanisms")
	p.key(kb.Escape)
	p.button("Controls")
	p.button("control spine_ctl_3")
	p.field("Rotate Y", "60"+kb.Enter)
	p.field("Move Z", "0.15"+kb.Enter)
	shot("controls")
	p.key("0")
	p.key(kb.Escape)
	p.button("Skin")
	p.button("Register")
	p.wait("the register", `document.querySelector("section[aria-label=Register]")`)
	p.button("body")
	p.key("l")
	p.button("one joint")
	p.option(a.specimen(t, p.presentID()).Document.Bindings[0].Joints[11])
	shot("skin")
	p.button("the skin")
	p.key(kb.Escape)
	p.button("Controls")
	p.button("control fin_L_fan_fk_2")
	p.button("Drive Rotate X")
	p.wait("its plot", `document.querySelector("[data-plot]")`)
	shot("formulas")
	p.key(kb.Escape)
	p.button("Motion")
	p.button("control root")
	shot("motion")
	p.key(kb.Escape)
	p.button("Trials")
	shot("trials")
	p.button("Handoff")
	p.button("Export GLB")
	p.wait("the comparison", `document.querySelector("[data-export]")`)
	shot("handoff")
	p.button("Model")
	shot("model")
	p.button("Shelf")

	p.button("Tallow")
	p.settled()
	p.key(" ")
	p.wait("it to walk", `Number(document.querySelector("[data-time]").dataset.time) > 1`)
	p.key(" ")
	p.key(kb.Escape)
	p.button("● step_L01")
	shot("legs")
	p.key(kb.Escape)
	p.button("Skeleton")
	p.button("joint leg_L09_1")
	shot("repeats")
	p.button("Shelf")

	p.button("Gantry Nine")
	p.settled()
	p.scrub(44)
	p.button("● crane")
	shot("machines")
	p.key(kb.Escape)
	p.button("Shelf")

	p.button("Old Brindle")
	p.settled()
	p.button("mechanism neck")
	shot("families")
	p.key(kb.Escape)
	p.button("Controls")
	p.button("tail_handles")
	shot("groups")
	p.button("Shelf")

	p.button("Quillwick, bare")
	p.settled()
	p.button("Skeleton")
	p.settled()
	p.key("j")
	for _, z := range []float64{0.86, 0.45, 0, -0.45} {
		at := p.onScreen([]float64{0, 0.34, z})
		p.seekCentre(at)
		p.click(at)
	}
	p.seekCentre(p.onScreen([]float64{0, 0.34, -0.8}))
	shot("skeleton")
}
