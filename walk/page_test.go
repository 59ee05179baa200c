// Package walk drives the real page in a real browser against the real server, as a rigger would.
package walk

import (
	"context"
	"encoding/json"
	"fmt"
	"net"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/server"
	"myriapod/shelf/shelftest"
	"myriapod/store"
	"myriapod/web"
)

// application is a running server over a data folder.
type application struct {
	store  *store.Store
	pages  *server.Server
	server *httptest.Server
	data   string
}

// opened starts the application with its demo specimens and opens one of them in a browser.
func opened(t *testing.T, specimen string) (a *application, p *page, id string) {
	t.Helper()
	a = start(t, t.TempDir(), true)
	p = openBrowser(t)
	list, err := a.store.Specimens()
	require.NoError(t, err)
	for _, s := range list {
		if s.Name == specimen {
			id = s.ID
		}
	}
	require.NotEmpty(t, id, "there is no specimen %s", specimen)
	p.open(a.server.URL + "/specimen/" + id)
	p.settled()
	return a, p, id
}

func start(t testing.TB, data string, demos bool) *application {
	t.Helper()
	if demos {
		shelftest.Fill(t, data)
	}
	s, err := store.Open(data)
	require.NoError(t, err)
	handler := server.New(s, web.Page())
	a := &application{store: s, pages: handler, server: httptest.NewServer(handler.Handler()), data: data}
	t.Cleanup(a.stop)
	return a
}

// startAt starts a server at an address that one had before.
func startAt(t *testing.T, data, address string) *application {
	t.Helper()
	s, err := store.Open(data)
	require.NoError(t, err)
	listener, err := net.Listen("tcp", address)
	require.NoError(t, err)
	handler := server.New(s, web.Page())
	a := &application{store: s, pages: handler, server: httptest.NewUnstartedServer(handler.Handler()), data: data}
	_ = a.server.Listener.Close()
	a.server.Listener = listener
	a.server.Start()
	t.Cleanup(a.stop)
	return a
}

func (a *application) stop() {
	if a.server == nil {
		return
	}
	a.pages.Close()
	a.server.CloseClientConnections()
	a.server.Close()
	_ = a.store.Close()
	a.server = nil
}

// page is one browser tab.
type page struct {
	t   testing.TB
	ctx context.Context
}

// beside is the tests that run side by side already.
var beside sync.Map

// openBrowser opens a tab for a test, which from there on runs beside the others: each has a server, a folder and a browser of its own.
func openBrowser(t testing.TB) *page {
	t.Helper()
	if test, ok := t.(*testing.T); ok {
		if _, already := beside.LoadOrStore(t.Name(), true); !already {
			test.Parallel()
		}
	}
	chromium, err := exec.LookPath("chromium")
	require.NoError(t, err, "the browser tests need Debian's chromium; make chromium installs it")
	options := append(chromedp.DefaultExecAllocatorOptions[:],
		chromedp.ExecPath(chromium), chromedp.NoSandbox, chromedp.WindowSize(1280, 800),
		chromedp.Flag("use-angle", "swiftshader"), chromedp.Flag("enable-unsafe-swiftshader", true), chromedp.Flag("disable-quic", true),
		chromedp.Flag("disable-component-update", true), chromedp.Flag("hide-scrollbars", true),
	)
	allocator, stopAllocator := chromedp.NewExecAllocator(context.Background(), options...)
	ctx, stop := chromedp.NewContext(allocator)
	ctx, cancel := context.WithTimeout(ctx, 30*time.Minute) // against hanging alone
	t.Cleanup(func() { cancel(); stop(); stopAllocator() })
	p := &page{t: t, ctx: ctx}
	p.listen()
	p.do(chromedp.EmulateViewport(1280, 800, chromedp.EmulateScale(scale(t))))
	return p
}

// scale is how many points of the picture a page is drawn with for each pixel of its layout. Drawing by software is much of what a walk costs, and nobody looks;
// benchmarks measure whole pictures.
func scale(t testing.TB) float64 {
	if _, measured := t.(*testing.B); measured || os.Getenv("MYRIAPOD_SHOTS")+os.Getenv("MYRIAPOD_LOOK") != "" {
		return 1
	}
	return 0.25
}

// listen has a test fail by what breaks in the page.
func (p *page) listen() {
	exceptions := chromedp.Events(p.ctx, runtime.ExceptionThrown)
	var (
		mutex  sync.Mutex
		thrown []string
	)
	p.t.Cleanup(func() {
		mutex.Lock()
		defer mutex.Unlock()
		assert.Empty(p.t, thrown, "the page threw")
	})
	go func() {
		for event, err := range exceptions {
			if err != nil {
				return
			}
			text := event.ExceptionDetails.Text
			if thrown := event.ExceptionDetails.Exception; thrown != nil {
				text += " " + thrown.Description
			}
			mutex.Lock()
			thrown = append(thrown, text)
			mutex.Unlock()
		}
	}()
}

func (p *page) do(actions ...chromedp.Action[chromedp.Void]) {
	p.t.Helper()
	require.NoError(p.t, chromedp.Do(p.ctx, actions...))
}

// open opens an address as somebody who was here before.
func (p *page) open(url string) {
	p.t.Helper()
	p.do(chromedp.Navigate(url))
	evaluate[chromedp.Void](p, `localStorage.setItem("myriapod begun", "yes")`)
}

// wait waits until a JavaScript expression is true.
func (p *page) wait(what, expression string) {
	p.t.Helper()
	_, err := chromedp.Run(p.ctx, chromedp.Poll[bool]("!!("+expression+")", chromedp.WithPollingInterval(50*time.Millisecond), chromedp.WithPollingTimeout(4*time.Minute)))
	if err != nil {
		p.shot(filepath.Join(os.TempDir(), "walk-failed.png"))
		text := evaluate[string](p, `document.body.innerText`)
		require.NoError(p.t, err, "waiting for %s; the page says:\n%s", what, text)
	}
}

func evaluate[T any](p *page, expression string) T {
	p.t.Helper()
	value, err := chromedp.Run(p.ctx, chromedp.Evaluate[T](expression))
	require.NoError(p.t, err, expression)
	return value
}

// quote writes a Go string as a JavaScript one.
func quote(text string) string {
	data, _ := json.Marshal(text) // a string can always be written
	return string(data)
}

// button presses the button, link or choice whose text begins so, or which is called so; with keys held, where some are given.
func (p *page) button(text string, held ...chromedp.Modifier) {
	p.t.Helper()
	find := fmt.Sprintf(`[...document.querySelectorAll("button, a, [role=option], [role=button]")].find(e => ((e.innerText ?? "").trim().startsWith(%[1]s) || e.getAttribute("aria-label") === %[1]s) && !e.disabled && (e.offsetParent || e.ownerSVGElement))`, quote(text))
	p.wait("a button "+text, "!!("+find+")")
	p.wait(text+" to lie still", fmt.Sprintf(`(() => {
		const e = %s;
		if (!e) return false;
		e.scrollIntoView({block: "nearest"});
		const b = e.getBoundingClientRect();
		const still = window.lay === e && window.layAt === b.x + " " + b.y;
		window.lay = e;
		window.layAt = b.x + " " + b.y;
		return still;
	})()`, find))
	at := evaluate[[]float64](p, fmt.Sprintf(`(() => { const b = %s.getBoundingClientRect(); return [b.x + b.width / 2, b.y + b.height / 2]; })()`, find))
	p.do(chromedp.MouseClickXY(at[0], at[1], chromedp.ButtonModifiers(held...)))
}

// field types into the field with the label, in place of what is there.
func (p *page) field(label, value string) {
	p.t.Helper()
	find := fmt.Sprintf(`[...document.querySelectorAll("input")].find(e => (e.labels?.[0]?.innerText.trim().startsWith(%[1]s) || e.getAttribute("aria-label")?.startsWith(%[1]s)) && e.type !== "range" && e.offsetParent)`, quote(label))
	p.wait("a field "+label, "!!("+find+")")
	evaluate[chromedp.Void](p, fmt.Sprintf(`(() => { const e = %s; e.focus(); e.select(); })()`, find))
	p.do(chromedp.KeyEvent(value))
}

// option chooses in the select that has the option.
func (p *page) option(value string) {
	p.t.Helper()
	find := fmt.Sprintf(`[...document.querySelectorAll("aside select")].find(e => [...e.options].some(o => o.value === %s))`, quote(value))
	p.wait("a choice of "+value, "!!("+find+")")
	evaluate[chromedp.Void](p, fmt.Sprintf(`(() => { const s = %s;
		Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, "value").set.call(s, %s);
		s.dispatchEvent(new Event("change", {bubbles: true})); })()`, find, quote(value)))
}

func (p *page) key(keys string) { p.t.Helper(); p.do(chromedp.KeyEvent(keys)) }

// find searches for something by its name and presses it.
func (p *page) find(name string) {
	p.t.Helper()
	p.button("find an action or a part")
	p.wait("the search", `document.activeElement?.matches("[role=combobox]")`)
	p.key(name)
	p.button(name)
}

// settled waits until everything is kept and the stage shows the newest state.
func (p *page) settled() {
	p.t.Helper()
	p.wait("the stage to settle", `(() => {
		const stage = document.querySelector("[data-stage]")?.dataset;
		return stage?.framed === "true" && stage.saving === "0" && stage.sequence === stage.kept && stage.seq > 0;
	})()`)
	time.Sleep(150 * time.Millisecond) // a drawn picture has no event; this is only for how it looks
}

type spot struct{ X, Y float64 }

// onScreen is where a joint, control or place in the world is on the screen.
func (p *page) onScreen(what any) spot {
	p.t.Helper()
	data, err := json.Marshal(what)
	require.NoError(p.t, err)
	found := evaluate[*spot](p, fmt.Sprintf(`window.myriapodStage.onScreen(%s)`, data))
	require.NotNil(p.t, found, "%v is not on the stage", what)
	return *found
}

func (p *page) click(at spot, options ...chromedp.MouseOption) {
	p.t.Helper()
	p.do(chromedp.MouseEvent(input.DispatchMouseEventTypeMouseMoved, at.X, at.Y), chromedp.MouseClickXY(at.X, at.Y, options...))
}

func (p *page) shot(file string) {
	p.t.Helper()
	data, err := chromedp.Run(p.ctx, chromedp.CaptureScreenshot())
	require.NoError(p.t, err)
	require.NoError(p.t, os.WriteFile(file, data, 0o644))
}
