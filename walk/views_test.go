package walk

import (
	"bytes"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/store"
)

func (p *page) says(text string) {
	p.t.Helper()
	p.wait("the page to say "+text, fmt.Sprintf(`document.body.innerText.includes(%s)`, quote(text)))
}

// TestBadInputIsToldInThePage brings files that cannot be read and looks for the words.
func TestBadInputIsToldInThePage(t *testing.T) {
	a := start(t, t.TempDir(), false)
	p := openBrowser(t)
	p.open(a.server.URL)
	p.says("The Shelf is empty")
	p.accessible("the empty Shelf")
	folder := t.TempDir()
	for name, content := range map[string][2]string{
		"huge.obj":    {"v 0 0 0\nf 1 2 999999999\n", "huge.obj: line 2: vertex 2 does not exist; 1 are known by this line"},
		"cut.glb":     {"glTF\x02\x00\x00\x00\xff\xff\x00\x00", "cut.glb: the file is cut short"},
		"empty.obj":   {"", "empty.obj: the file is empty"},
		"picture.obj": {"\x89PNG\x00\x00\x01\x02\x03", "picture.obj: this is neither text nor a model"},
		"rig.json":    {`{"format":"myriapod-rig","version":4,"name":"x"}`, "rig.json: version: 4 is not known"},
	} {
		file := filepath.Join(folder, name)
		require.NoError(t, os.WriteFile(file, []byte(content[0]), 0o600))
		p.do(chromedp.SetUploadFiles(chromedp.CSS(`input[type=file]`), []string{file}))
		p.says(content[1])
	}
	list, err := a.store.Specimens()
	require.NoError(t, err)
	assert.Empty(t, list, "nothing was made of them")
	p.open(a.server.URL + "/specimen/nobody1234")
	p.says("there is no such specimen")

	// A disk that is full while the page edits: it is told, and the name stays as it was.
	p.open(a.server.URL)
	p.button("New specimen")
	p.settled()
	require.NoError(t, a.store.Limit(1)) // as large as it is, and no larger
	for err = nil; err == nil; {         // what room there is inside is used up
		_, err = a.pages.Shelf().Create(strings.Repeat("filling ", 12), "test")
	}
	require.ErrorIs(t, err, store.ErrFull)
	p.field("Name of the specimen", strings.Repeat("long ", 20)+kb.Enter)
	p.says("the disk is full")
	p.settled()
	assert.Equal(t, "New specimen", a.specimen(t, p.presentID()).Document.Name)
}

// TestEveryOtherViewIsAccessible opens what the ten steps pass by.
func TestEveryOtherViewIsAccessible(t *testing.T) {
	a := start(t, t.TempDir(), true)
	p := openBrowser(t)
	p.open(a.server.URL)
	p.button("New specimen")
	p.settled()
	for _, step := range []string{"Model", "Skeleton", "Mechanisms", "Controls", "Skin", "Motion", "Trials", "Handoff"} {
		p.button(step)
		p.accessible("an empty specimen, " + step)
	}
	p.button("Shelf")
	p.button("Quillwick")
	p.settled()
	p.button("find an action")
	p.wait("the search", `document.querySelector("[role=combobox]")`)
	p.key("spine_0*")
	p.says("Choose all 9: spine_0*")
	p.look("search")
	p.button("Choose all 9")
	p.says("9 joints")
	p.look("chain")
	p.key("?")
	p.says("Keys and pointer")
	p.look("help")
	p.key(kb.Escape)
	p.key("l")
	p.wait("the register", `document.querySelector("section[aria-label=Register]")`)
	p.field("Filter", "fin_?")
	p.wait("two fins", `document.querySelectorAll("section[aria-label=Register] [aria-pressed]").length === 2`)
	p.look("register")
	p.button("fin_L")
	p.says("Part,")
	p.look("part")
	p.button("joint spine_14")
	p.says("Joint 14 of a chain of 28")
	p.look("joint")
}

// TestTwoTabsStayInStepAndConflictsAreTold has another client edit what the page shows.
func TestTwoTabsStayInStepAndConflictsAreTold(t *testing.T) {
	data := t.TempDir()
	a := start(t, data, true)
	p := openBrowser(t)
	p.open(a.server.URL)
	p.button("Quillwick")
	p.settled()
	id := p.presentID()
	s := a.specimen(t, id)
	other := func(edit string) {
		t.Helper()
		body := fmt.Sprintf(`{"on":%d,"edit":%s}`, a.specimen(t, id).Revision, edit)
		response, err := http.Post(a.server.URL+"/api/specimens/"+id+"/edits", "application/json", bytes.NewBufferString(body))
		require.NoError(t, err)
		defer response.Body.Close()
		require.Equal(t, http.StatusOK, response.StatusCode)
	}
	other(`{"kind":"change-specimen","name":"Quillwick the Swift"}`)
	p.wait("the other's edit", `document.title.startsWith("Quillwick the Swift")`)

	// The page's own view is held back, so that it edits on an older state.
	evaluate[chromedp.Void](p, `window.fetchBefore = window.fetch; window.fetch = (u, o) => (o?.method ?? "GET") === "GET" ? new Promise(() => {}) : window.fetchBefore(u, o)`)
	other(fmt.Sprintf(`{"kind":"rename","id":%q,"name":"theirs"}`, s.Document.Joints[3].ID))
	p.button("joint spine_04")
	p.field("Rename", "mine"+kb.Enter)
	p.says("was made on an older state")
	p.says("Rename spine_04 to theirs")
	evaluate[chromedp.Void](p, `window.fetch = window.fetchBefore`)
	assert.Equal(t, "theirs", a.specimen(t, id).Document.Joints[3].Name)

	// The server goes and comes back at the same address: the page finds it again by itself.
	address := a.server.Listener.Addr().String()
	a.stop()
	p.says("reconnecting")
	a = startAt(t, data, address)
	p.settled()
	p.wait("the connection", `document.querySelector("[data-saved=true]")`)
	assert.Equal(t, "theirs", a.specimen(t, id).Document.Joints[3].Name)
}

// TestThePageFitsItsWindow looks at every step in small and large windows: nothing covers the card or hangs out of the window, and the card can be made wider.
func TestThePageFitsItsWindow(t *testing.T) {
	a := start(t, t.TempDir(), true)
	p := openBrowser(t)
	p.open(a.server.URL)
	p.button("Old Brindle")
	p.settled()
	for _, size := range [][2]int64{{1100, 700}, {1280, 800}, {1920, 1080}, {2560, 1440}} {
		p.do(chromedp.EmulateViewport(size[0], size[1]))
		for _, step := range []string{"Model", "Skeleton", "Mechanisms", "Controls", "Skin", "Motion", "Trials", "Handoff"} {
			p.button(step)
			name := fmt.Sprintf("%s at %d", step, size[0])
			if step == "Controls" {
				p.button("control chest")
			}
			p.wait(name+" to fit", `(() => {
				const card = document.querySelector("aside").getBoundingClientRect();
				const inside = [...document.querySelectorAll("main, main section, main header, main button, main select")].filter(e => e.offsetParent);
				const oneLine = [...document.querySelectorAll("main header button")].every(e => e.getBoundingClientRect().height < 32);
				return oneLine && document.documentElement.scrollWidth <= innerWidth && document.documentElement.scrollHeight <= innerHeight && card.right <= innerWidth + 0.5
					&& inside.every(e => e.getBoundingClientRect().right <= card.left + 1);
			})()`)
			if size[0] == 1280 {
				p.look(strings.ReplaceAll(name, " ", "-"))
			}
			if step == "Controls" {
				p.key(kb.Escape)
			}
		}
	}
	p.do(chromedp.EmulateViewport(1280, 800))
	width := func() float64 {
		return evaluate[float64](p, `document.querySelector("aside").getBoundingClientRect().width`)
	}
	usual := width()
	p.do(chromedp.Focus(chromedp.CSS(`[role=separator]`)))
	p.key(kb.ArrowLeft)
	assert.InDelta(t, usual+16, width(), 0.5)
	p.open(evaluate[string](p, `location.href`))
	p.settled()
	assert.InDelta(t, usual+16, width(), 0.5, "it stays so")
}
