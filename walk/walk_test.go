package walk

import (
	"encoding/json"
	"fmt"
	"io"
	"math"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/demo"
	"myriapod/core/interchange/glb"
	"myriapod/core/mechanism/kinds"
	"myriapod/server/wire"
)

// get reads JSON from the server, as the page does.
func get[T any](t testing.TB, a *application, path string) (value T) {
	t.Helper()
	response, err := http.Get(a.server.URL + path)
	require.NoError(t, err)
	defer response.Body.Close()
	require.Equal(t, http.StatusOK, response.StatusCode)
	require.NoError(t, json.NewDecoder(response.Body).Decode(&value))
	return value
}

func (a *application) specimen(t testing.TB, id string) wire.Specimen {
	t.Helper()
	return get[wire.Specimen](t, a, "/api/specimens/"+id)
}

// presentID is the ID of the specimen that the page shows.
func (p *page) presentID() string {
	p.t.Helper()
	return strings.Split(evaluate[string](p, `location.pathname`), "/")[2]
}

// drag takes hold at one place and lets go at another, with some moves between.
func (p *page) drag(from, to spot) {
	p.t.Helper()
	p.press(from)
	for i := 1; i <= 6; i++ {
		p.moveTo(spot{from.X + (to.X-from.X)*float64(i)/6, from.Y + (to.Y-from.Y)*float64(i)/6})
	}
	p.release(to)
}

func (p *page) moveTo(at spot) {
	p.t.Helper()
	p.do(chromedp.MouseEvent(input.DispatchMouseEventTypeMouseMoved, at.X, at.Y))
}

func (p *page) press(at spot) {
	p.t.Helper()
	p.moveTo(at)
	p.do(chromedp.MouseEvent(input.DispatchMouseEventTypeMousePressed, at.X, at.Y, chromedp.ButtonLeft, chromedp.ClickCount(1)))
}

func (p *page) release(at spot) {
	p.t.Helper()
	p.do(chromedp.MouseEvent(input.DispatchMouseEventTypeMouseReleased, at.X, at.Y, chromedp.ButtonLeft, chromedp.ClickCount(1)))
}

// bareModel writes the demo body as a GLB file, as a rigger would bring one.
func bareModel(t *testing.T) string {
	t.Helper()
	specimen, err := demo.Find("quillwick-bare")
	require.NoError(t, err)
	_, steps, err := specimen.Make(kinds.All())
	require.NoError(t, err)
	data, err := (&glb.Job{Evaluator: evaluatorOf(t, steps), Body: bodyOf(t, steps)}).Write()
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "eel.glb")
	require.NoError(t, os.WriteFile(file, data, 0o644))
	return file
}

// TestTenSteps walks from an empty data folder to a verified export, as a new rigger would.
func TestTenSteps(t *testing.T) {
	data := t.TempDir()
	a := start(t, data, true)
	p := openBrowser(t)
	view := func(name string) { p.look(name) }

	// 1. The Shelf with the demo specimens; the rigged one swims.
	p.open(a.server.URL)
	p.wait("the plates", `document.querySelectorAll("[data-plate]").length === `+strconv.Itoa(len(demo.Specimens())))
	p.accessible("Shelf")
	p.button("Quillwick")
	p.settled()
	assert.Zero(t, evaluate[float64](p, `Number(document.querySelector("[data-time]").dataset.time)`), "it opens still")
	p.key(" ")
	p.wait("the eel to swim", `Number(document.querySelector("[data-time]").dataset.time) > 0.2`)
	p.button("Shelf")

	// 2. A model of their own comes in, framed, at its scale.
	p.wait("the Shelf", `!!document.querySelector("input[type=file]")`)
	p.do(chromedp.SetUploadFiles(chromedp.CSS(`input[type=file]`), []string{bareModel(t)}))
	p.wait("the imported specimen", `location.pathname.startsWith("/specimen/")`)
	p.settled()
	id := p.presentID()
	require.Len(t, a.specimen(t, id).Document.Parts, 11)
	p.button("Model")
	view("model")

	// 3. A chain is laid by clicking along the body, each joint in the middle of the volume.
	p.button("Skeleton")
	p.settled()
	p.key("j")
	laid := []float64{0.86, 0.45, 0, -0.45, -0.9}
	for i, z := range laid {
		at := p.onScreen([]float64{0, 0.34, z})
		p.wait(fmt.Sprintf("%d joints to be laid", i), fmt.Sprintf(`document.querySelector("[data-laid='%d']")`, i))
		p.seekCentre(at)
		p.click(at)
	}
	p.wait("five laid", `document.querySelector("[data-laid='5']")`)
	view("laying")
	p.field("Divide into", "28")
	p.button("Finish")
	p.settled()
	d := a.specimen(t, id).Document
	require.Len(t, d.Joints, 28)
	assert.Equal(t, "spine_01", d.Joints[0].Name)
	for _, joint := range d.Joints {
		assert.InDelta(t, 0.34, joint.Position[1], 0.09, "%s lies inside the body", joint.Name)
		assert.InDelta(t, 0, joint.Position[0], 0.08, "%s lies inside the body", joint.Name)
	}
	view("skeleton")

	// 4. A spline chain of five controls; nothing moves, and the page says so.
	p.button("Build spline chain")
	p.settled()
	assert.Less(t, evaluate[float64](p, `Number(document.querySelector("[data-drift]").dataset.drift)`), 1e-9)
	require.Len(t, a.specimen(t, id).Document.Controls, 7)

	// 5. The body is bound; nothing moves.
	p.button("Skin")
	p.key(kb.Escape)
	p.button("Bind all to")
	p.settled()
	assert.Less(t, evaluate[float64](p, `Number(document.querySelector("[data-drift]").dataset.vertexDrift)`), 2e-6)
	require.Len(t, a.specimen(t, id).Document.Bindings, 11)
	view("skin")

	// 6. A control is dragged: the skeleton follows live, and springs back when let go.
	p.button("Mechanisms")
	p.settled()
	p.testDrag()
	p.testTwist()
	p.testStretch(a, id)

	// 7. A travelling wave; the head stays.
	p.button("mechanism spine")
	p.button("Add travelling wave")
	p.settled()
	p.field("Amplitude", "0.15"+kb.Enter)
	p.settled()
	wave := a.specimen(t, id).Document.Mechanisms[1]
	assert.InDelta(t, 0.15, wave.Parameters.Number("amplitude"), 1e-9)
	head := p.onScreen("spine_01")
	p.key(kb.Escape)
	p.key(" ")
	p.wait("motion", `Number(document.querySelector("[data-time]").dataset.time) > 0.5`)
	p.key(" ")
	assert.InDelta(t, 0, math.Hypot(p.onScreen("spine_01").X-head.X, p.onScreen("spine_01").Y-head.Y), 0.5, "the head stays attached")
	view("wave")

	// 8. The root is keyed; keys are moved and deleted.
	p.testKeys(a, id)
	view("motion")

	// 9. Undo, redo, and the server is stopped and started anew: all is there.
	before := a.specimen(t, id)
	p.key(kb.Escape)
	p.ctrl("z", false)
	p.wait("undo", fmt.Sprintf(`document.querySelector("[data-revision]").dataset.revision !== "%d"`, before.Revision))
	p.settled()
	p.ctrl("z", true)
	p.wait("redo", fmt.Sprintf(`document.querySelector("[data-revision]").dataset.revision === "%d"`, before.Revision))
	a.stop()
	a = start(t, data, false)
	p.open(a.server.URL + "/specimen/" + id)
	p.settled()
	assert.Equal(t, before.Document, a.specimen(t, id).Document)

	// 10. Export, read back and compared.
	p.button("Handoff")
	p.button("Export GLB")
	p.wait("the comparison", `document.querySelector("[data-export]")`)
	assert.Less(t, evaluate[float64](p, `Number(document.querySelector("[data-export]").dataset.exportShare)`), 1e-5)
	link := evaluate[string](p, `[...document.querySelectorAll("a")].find(a => a.innerText.startsWith("Save")).getAttribute("href")`)
	response, err := http.Get(a.server.URL + link)
	require.NoError(t, err)
	defer response.Body.Close()
	file, err := io.ReadAll(response.Body)
	require.NoError(t, err)
	read, err := glb.Read(file, nil)
	require.NoError(t, err)
	assert.Len(t, read.Parts, 11)
	view("handoff")
	p.button("Trials")
	view("trials")
}

// look checks a view for accessibility, and keeps a picture of it when MYRIAPOD_LOOK names a folder.
func (p *page) look(name string) {
	p.t.Helper()
	p.accessible(name)
	if folder := os.Getenv("MYRIAPOD_LOOK"); folder != "" {
		p.shot(filepath.Join(folder, name+".png"))
	}
}

// seekCentre moves the pointer to a place and waits for the centre under it to be the one of this place and not of the last.
func (p *page) seekCentre(at spot) {
	p.t.Helper()
	p.moveTo(spot{at.X - 2, at.Y})
	p.moveTo(at)
	p.wait("the centre under the pointer", fmt.Sprintf(`(() => {
		const shown = document.querySelector("[data-centre-x]");
		return shown && Math.hypot(shown.dataset.centreX - %f, shown.dataset.centreY - %f) < 12;
	})()`, at.X, at.Y))
}

func (p *page) testDrag() {
	p.t.Helper()
	grip := p.gripOf("spine_ctl_3")
	before := p.onScreen("spine_15")
	p.press(grip)
	to := spot{grip.X + 10, grip.Y - 90}
	p.moveTo(spot{grip.X + 5, grip.Y - 40})
	p.moveTo(to)
	p.waitMoved("spine_15", before, 20)
	p.look("drag")
	p.release(to)
	p.wait("springback", fmt.Sprintf(`(() => { const s = window.myriapodStage.onScreen("spine_15"); return Math.hypot(s.x - %f, s.y - %f) < 0.5; })()`, before.X, before.Y))
}

func (p *page) waitMoved(what string, from spot, by float64) {
	p.t.Helper()
	p.wait(what+" to move", fmt.Sprintf(`(() => { const s = window.myriapodStage.onScreen(%q); return Math.hypot(s.x - %f, s.y - %f) > %f; })()`, what, from.X, from.Y, by))
}

// gripOf is a place on a control's outline where a press takes hold of it.
func (p *page) gripOf(control string) spot {
	p.t.Helper()
	grip := evaluate[*spot](p, fmt.Sprintf(`window.myriapodStage.gripOf(%q)`, control))
	require.NotNil(p.t, grip, "%s cannot be gripped", control)
	return *grip
}

func (p *page) testTwist() {
	p.t.Helper()
	p.click(p.gripOf("spine_ctl_5"))
	p.wait("the control's card", `document.querySelector("aside input[aria-label^=Rename]")?.value === "spine_ctl_5"`)
	p.field("Rotate Y", "720"+kb.Enter)
	p.wait("two turns", `document.querySelector("aside").innerText.includes("test pose")`)
	p.look("twist")
	p.key("0")
	p.wait("zero", `!document.querySelector("aside").innerText.includes("test pose")`)
	p.key(kb.Escape)
}

func (p *page) testStretch(a *application, id string) {
	p.t.Helper()
	p.button("mechanism spine")
	p.field("Stretch", "0.35"+kb.Enter)
	p.settled()
	assert.InDelta(p.t, 0.35, a.specimen(p.t, id).Document.Mechanisms[0].Parameters.Number("stretch"), 1e-9)
	p.look("card")
	p.key(kb.Escape)
}

func (p *page) testKeys(a *application, id string) {
	p.t.Helper()
	p.button("Motion")
	p.settled()
	p.button("control root")
	p.button("Key")
	p.settled()
	require.Len(p.t, a.specimen(p.t, id).Document.Clips, 1)
	p.scrub(24)
	p.field("Move Y", "30 cm"+kb.Enter)
	p.wait("the unkeyed note", `document.querySelector("aside").innerText.includes("Not keyed yet")`)
	p.key("k")
	p.settled()
	keys := func() []float64 {
		frames := []float64{}
		for _, track := range a.specimen(p.t, id).Document.Clips[0].Tracks {
			if track.Channel == "moveY" {
				for _, key := range track.Keys {
					frames = append(frames, key.Frame)
				}
			}
		}
		return frames
	}
	assert.Len(p.t, keys(), 2)
	second := keys()[1]
	mark := fmt.Sprintf(`document.querySelector('[data-key$="@%g"]')`, second)
	at := evaluate[spot](p, fmt.Sprintf(`(() => { const b = %s.getBoundingClientRect(); return {X: b.x + b.width / 2, Y: b.y + b.height / 2}; })()`, mark))
	p.drag(at, spot{at.X + 60, at.Y})
	p.settled()
	moved := keys()[1]
	assert.Greater(p.t, moved, second)
	p.button("linear")
	p.settled()
	p.key(kb.Delete)
	p.settled()
	assert.Len(p.t, keys(), 1)
	p.ctrl("z", false)
	p.settled()
	assert.Len(p.t, keys(), 2)
}

func (p *page) scrub(frame int) {
	p.t.Helper()
	evaluate[chromedp.Void](p, `document.querySelector("[role=slider][aria-label^=Time]").focus()`)
	for evaluate[int](p, `Number(document.querySelector("[role=slider][aria-label^=Time]").getAttribute("aria-valuenow"))`) < frame {
		p.key(kb.ArrowRight)
	}
}

func (p *page) ctrl(key string, shift bool) {
	p.t.Helper()
	modifiers := []chromedp.Modifier{chromedp.ModifierCtrl}
	if shift {
		modifiers = append(modifiers, chromedp.ModifierShift)
		key = strings.ToUpper(key)
	}
	p.do(chromedp.KeyEvent(key, chromedp.KeyModifiers(modifiers...)))
}
