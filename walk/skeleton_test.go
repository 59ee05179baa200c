package walk

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/demo"
	"myriapod/core/interchange/glb"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/motion"
)

// riggedModel writes Quillwick as a GLB with its skeleton, skin and a second of its motion.
func riggedModel(t *testing.T) string {
	specimen, err := demo.Find("quillwick")
	require.NoError(t, err)
	_, steps, err := specimen.Make(kinds.All())
	require.NoError(t, err)
	e := evaluatorOf(t, steps)
	clip := e.Plan.Document.Clips[0]
	e.SetClip(motion.Prepare(clip))
	data, err := (&glb.Job{Evaluator: e, Body: bodyOf(t, steps), Clip: &clip, Frames: &glb.Range{From: 0, To: 24}}).Write()
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "swimmer.glb")
	require.NoError(t, os.WriteFile(file, data, 0o644))
	return file
}

// TestARiggedModelComesInAndPlays brings a GLB with a skeleton and a clip: it is there, bound, and moves.
func TestARiggedModelComesInAndPlays(t *testing.T) {
	a := start(t, t.TempDir(), false)
	p := openBrowser(t)
	p.open(a.server.URL)
	p.says("The Shelf is empty")
	p.do(chromedp.SetUploadFiles(chromedp.CSS(`input[type=file]`), []string{riggedModel(t)}))
	p.wait("the imported specimen", `location.pathname.startsWith("/specimen/")`)
	p.settled()
	d := a.specimen(t, p.presentID()).Document
	assert.Equal(t, 11, len(d.Parts))
	assert.Equal(t, 11, len(d.Bindings))
	assert.Equal(t, 36, len(d.Joints))
	require.Equal(t, 1, len(d.Clips))
	assert.Equal(t, 24, d.Clips[0].End)
	assert.NotEmpty(t, d.Clips[0].JointTracks)
	p.key(kb.Escape)
	p.button("Skeleton")
	p.settled()
	tail := p.onScreen("spine_28")
	p.button("Motion")
	p.settled()
	p.scrub(9)
	p.waitMoved("spine_28", tail, 5)
	p.look("imported-motion")
}

// TestARegisterRowIsDraggedOntoAnother hangs a joint elsewhere by dragging it in the register: what moves is told before it is let go.
func TestARegisterRowIsDraggedOntoAnother(t *testing.T) {
	a := start(t, t.TempDir(), true)
	p := openBrowser(t)
	p.open(a.server.URL)
	p.button("Sedge")
	p.settled()
	id := p.presentID()
	p.button("Skeleton")
	p.settled()
	p.key("l")
	p.wait("the register", `document.querySelector("section[aria-label=Register]")`)
	row := func(name string) string {
		return fmt.Sprintf(`[...document.querySelectorAll("section[aria-label=Register] button[draggable=true]")].find(b => b.innerText.trim() === %q)`, name)
	}
	// The browser's own drag cannot be steered from outside: its events are sent to the rows as it would send them.
	send := func(event, name string) {
		evaluate[chromedp.Void](p, fmt.Sprintf(`(() => { window.carried ??= new DataTransfer(); %s.dispatchEvent(new DragEvent(%q, {bubbles: true, cancelable: true, dataTransfer: window.carried})); })()`, row(name), event))
	}
	send("dragstart", "bulb_3")
	p.says("Drop on the joint to hang on")
	send("dragover", "bulb_1")
	p.says("Hang 1 on bulb_1: moves nothing")
	p.look("dragging")
	send("dragover", "bulb_3")
	p.says("hangs on bulb_3 itself")
	send("dragover", "bulb_1")
	send("drop", "bulb_1")
	p.settled()
	byName := map[string]string{}
	for _, j := range a.specimen(t, id).Document.Joints {
		byName[j.Name] = j.ID
	}
	for _, j := range a.specimen(t, id).Document.Joints {
		if j.Name == "bulb_3" {
			assert.Equal(t, byName["bulb_1"], j.Parent)
		}
	}
}

// TestSkeletonEditsInThePage inserts, splits, snaps, locks and renames, and reads the refusals.
func TestSkeletonEditsInThePage(t *testing.T) {
	a := start(t, t.TempDir(), false)
	p := openBrowser(t)
	p.open(a.server.URL)
	p.button("New specimen")
	p.settled()
	id := p.presentID()
	p.button("Skeleton")
	// Without a body joints are laid on the ground, or in a plane.
	p.key("j")
	p.wait("the laying bar", `document.querySelector("form[aria-label='Lay a chain'] select")`)
	evaluate[chromedp.Void](p, `(() => { const s = document.querySelector("form[aria-label='Lay a chain'] select"); Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, "value").set.call(s, "ground"); s.dispatchEvent(new Event("change", {bubbles: true})); })()`)
	for i, z := range []float64{0.6, 0.2, -0.2, -0.6} {
		p.wait(fmt.Sprintf("%d joints to be laid", i), fmt.Sprintf(`document.querySelector("[data-laid='%d']")`, i))
		at := p.onScreen([]float64{0, 0, z})
		p.seekCentre(at)
		p.click(at)
	}
	p.wait("four laid", `document.querySelector("[data-laid='4']")`)
	p.key(kb.Enter)
	p.settled()
	d := a.specimen(t, id).Document
	require.Equal(t, 4, len(d.Joints))
	for _, j := range d.Joints {
		assert.InDelta(t, 0, j.Position[1], 1e-9, "on the ground")
	}
	p.button("joint spine_03")
	p.button("Insert before")
	p.settled()
	assert.Equal(t, 5, len(a.specimen(t, id).Document.Joints))
	p.button("Split off")
	p.settled()
	assert.Equal(t, 6, len(a.specimen(t, id).Document.Joints))
	p.says("Joint 1 of a chain of 2")
	p.look("split")
	p.button("Mirror")
	p.says("stands on the mirror's plane")
	p.key(kb.Escape)
	p.button("Choose all joints")
	p.says("6 joints")
	evaluate[chromedp.Void](p, `[...document.querySelectorAll("aside input[type=radio]")].find(r => r.parentElement.innerText.trim() === "replace").click()`)
	p.field("Text to replace", "spine")
	p.field("New text", "keel"+kb.Tab)
	p.says("keel_04")
	p.look("renaming")
	p.button("Name")
	p.settled()
	assert.Equal(t, "keel_01", a.specimen(t, id).Document.Joints[0].Name)
	p.wait("the refusal to go when something went well", `!document.body.innerText.includes("stands on the mirror's plane")`)
	p.ctrl("z", false)
	p.settled()
	assert.Equal(t, "spine_01", a.specimen(t, id).Document.Joints[0].Name)
}
