package walk

import (
	"fmt"
	"math"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/server/wire"
)

// hand counts the presses of keys and clicks that a rigger makes.
type hand struct {
	*page
	count int
}

func (h *hand) click(at spot) {
	h.page.t.Helper()
	h.count++
	h.page.seekCentre(at)
	h.page.click(at)
}

func (h *hand) button(text string) { h.page.t.Helper(); h.count++; h.page.button(text) }

func (h *hand) key(keys string) { h.page.t.Helper(); h.count++; h.page.key(keys) }

func (h *hand) enter(label, text string) {
	h.page.t.Helper()
	h.count += 1 + len(text) // the click into the field, and its keys
	h.page.field(label, text)
}

// TestSedgesSkeletonFromNothing lays the bulb and one tendril on the bare body and rings it six times.
func TestSedgesSkeletonFromNothing(t *testing.T) {
	a := start(t, t.TempDir(), true)
	p := openBrowser(t)
	p.open(a.server.URL)
	p.button("Sedge, bare")
	p.settled()
	id := p.presentID()
	h := &hand{page: p}

	// The bulb, from the roots up.
	h.key("j")
	for i, y := range []float64{0.05, 0.36, 0.7} {
		p.wait(fmt.Sprintf("%d joints to be laid", i), fmt.Sprintf(`document.querySelector("[data-laid='%d']")`, i))
		h.click(p.onScreen([]float64{0, y, 0}))
	}
	p.wait("three laid", `document.querySelector("[data-laid='3']")`)
	h.key(kb.Enter)
	p.settled()
	d := a.specimen(t, id).Document
	require.Len(t, d.Joints, 3)

	// One tendril, hung on the bulb's middle.
	h.button("joint spine_02")
	tendril := h.count
	h.key("j")
	for i, v := range []float64{0.12, 0.35, 0.6, 0.8, 0.97} {
		p.wait(fmt.Sprintf("%d joints to be laid", i), fmt.Sprintf(`document.querySelector("[data-laid='%d']")`, i))
		x, y, z := tendrilAt(v)
		h.click(p.onScreen([]float64{x, y, z}))
	}
	p.wait("five laid", `document.querySelector("[data-laid='5']")`)
	h.enter("Divide into", "12")
	h.key(kb.Enter)
	p.settled()
	h.button("Ring")
	p.settled()
	t.Logf("Sedge's skeleton took %d clicks and keys; the tendril laid once and rung six times took %d of them", h.count, h.count-tendril)
	assert.Less(t, h.count, 25)

	s := a.specimen(t, id)
	require.Equal(t, 3+6*12, len(s.Document.Joints))
	require.Len(t, s.Document.Repeats, 1)
	assert.Less(t, evaluate[float64](p, `Number(document.querySelector("[data-drift]").dataset.drift)`), 1e-9)
	p.look("repeat")

	// The copies are live: the tip of one is moved, and all follow; then one alone.
	tip := s.Document.Joints[len(s.Document.Joints)-1]
	p.button("joint " + tip.Name)
	p.look("copy")
	p.field("Y", fmt.Sprintf("%g", tip.Position[1]+0.1)+kb.Enter)
	p.settled()
	for _, j := range a.specimen(t, id).Document.Joints[3:] {
		if j.Name == tip.Name || j.Name == s.Document.Joints[14].Name {
			assert.InDelta(t, tip.Position[1]+0.1, j.Position[1], 1e-3, j.Name)
		}
	}
	p.key("o")
	p.field("Y", fmt.Sprintf("%g", tip.Position[1]+0.3)+kb.Enter)
	p.settled()
	p.says("of its own")
	now := a.specimen(t, id)
	assert.Len(t, now.Document.Repeats[0].Differences, 1)
	p.look("difference")
	p.button("Let it follow again")
	p.settled()
	assert.Empty(t, a.specimen(t, id).Document.Repeats[0].Differences)

	// The history, and back to before the ring.
	p.key("o")
	p.key("g")
	p.wait("the history", `document.querySelector("section[aria-label=History]")`)
	p.look("history")
	p.button("Lay a chain of 12")
	p.settled()
	assert.Len(t, a.specimen(t, id).Document.Joints, 3+12)
	p.button("↷ Ring")
	p.settled()
	assert.Len(t, a.specimen(t, id).Document.Joints, 3+6*12)
	p.key("g")
}

// tendrilAt is the middle of Sedge's first tendril, as the demo's body has it.
func tendrilAt(v float64) (x, y, z float64) {
	const from, fall, length = 1.25, 2.15, 1.55
	out := length * (math.Sin(from) - math.Sin(from-fall*v)) / fall
	up := length * (math.Cos(from-fall*v) - math.Cos(from)) / fall
	return 0.06 * math.Sin(2*math.Pi*v) * v, 0.42 + up, 0.24 + 0.8*out
}

// TestTheModelIsPickedSplitAndFitted does what a rigger does to a model before laying joints.
func TestTheModelIsPickedSplitAndFitted(t *testing.T) {
	a := start(t, t.TempDir(), true)
	p := openBrowser(t)
	p.open(a.server.URL)
	p.button("Quillwick, bare")
	p.settled()
	id := p.presentID()
	p.button("Model")
	p.button("Size and stand")
	p.wait("the size", `document.querySelector("[data-size]")?.dataset.size.split(" ")[2] > 1.9`)
	p.field("Scale", "2"+kb.Enter)
	p.wait("the new size", `Number(document.querySelector("[data-size]").dataset.size.split(" ")[2]) > 3.9`)
	p.look("fit")
	p.button("Fit the model")
	p.settled()
	assert.Equal(t, "Fit the model: scale 2, y up", a.specimen(t, id).Undo)

	p.key("e")
	p.wait("picking", `document.querySelector("[data-picked]")`)
	at := p.onScreen([]float64{0.1, 0.75, 0.4})
	p.click(at)
	p.wait("a face", `document.querySelector("[data-picked='1']")`)
	p.key("+")
	p.wait("more faces", `Number(document.querySelector("[data-picked]").dataset.picked) > 5`)
	p.look("picking")
	p.button("Rectangle")
	p.drag(spot{at.X - 60, at.Y - 60}, spot{at.X + 60, at.Y + 60})
	p.wait("the rectangle's faces", `Number(document.querySelector("[data-picked]").dataset.picked) > 100`)
	p.key("p")
	p.wait("the loose piece", `Number(document.querySelector("[data-picked]").dataset.picked) > 2000`)
	p.key(kb.Escape)

	p.button("● strap")
	p.button("Trace as a tube")
	p.says("this is not a tube")
	p.button("Split loose pieces")
	p.says("all one piece")
	p.look("part")
}

// TestJointsAreHungElsewhereAndOriented works on Tallow's skeleton.
func TestJointsAreHungElsewhereAndOriented(t *testing.T) {
	a := start(t, t.TempDir(), true)
	p := openBrowser(t)
	p.open(a.server.URL)
	p.button("Tallow, bare")
	p.settled()
	p.button("Skeleton")
	p.settled()
	id := p.presentID()
	p.look("tallow")
	p.button("47 folded")
	p.wait("all legs", `document.querySelectorAll("svg [aria-label^='joint leg_']").length === 44 * 12`)
	p.look("unfolded")
	p.button("joint head_1")
	p.field("Joint to hang on", "trunk_02")
	p.button("Hang")
	p.settled()
	s := a.specimen(t, id)
	byName := map[string]string{}
	for _, j := range s.Document.Joints {
		byName[j.Name] = j.ID
	}
	for _, j := range s.Document.Joints {
		if j.Name == "head_1" {
			assert.Equal(t, byName["trunk_02"], j.Parent)
		}
	}
	p.button("Orient")
	p.settled()
	assert.Equal(t, "Orient head_1", a.specimen(t, id).Undo)
	p.field("Joint to hang on", "feeler_L_03")
	p.button("Hang")
	p.says("hangs on head_1 itself")
	p.key("l")
	p.wait("the register", `document.querySelector("section[aria-label=Register]")`)
	p.field("Filter", "leg_?01_*")
	p.button("all 24")
	p.says("24 joints")
	p.look("names")
}

// BenchmarkOpenLarge opens Tallow, 56,000 vertices, with 1,000 joints in a new browser, and times what a rigger waits for: from the address
// to the framed picture, and the search under the pointer on a hover. The picture itself is drawn by software here, which takes the
// most of it.
func BenchmarkOpenLarge(b *testing.B) {
	a := start(b, b.TempDir(), true)
	id := get[[]wire.Plate](b, a, "/api/specimens")[2].ID
	s := a.specimen(b, id)
	mast := &edit.LayChain{Pattern: "mast_####", Parent: s.Document.Joints[0].ID}
	for i := range 1000 - len(s.Document.Joints) {
		mast.Positions = append(mast.Positions, mgl64.Vec3{0.1 * float64(i%7), 2 + 0.01*float64(i), 0.3})
	}
	_, err := a.pages.Shelf().Edit(id, s.Revision, mast, "test", nil)
	require.NoError(b, err)
	for b.Loop() {
		p := openBrowser(b)
		p.open(a.server.URL + "/specimen/" + id)
		p.wait("the picture", `document.querySelector("[data-stage]")?.dataset.framed === "true" && Number(document.querySelector("[data-stage]").dataset.seq) > 0`)
		b.ReportMetric(evaluate[float64](p, `performance.now()`), "ms-to-framed")
		b.ReportMetric(evaluate[float64](p, `(() => {
			const began = performance.now();
			for (let i = 0; i < 200; i++) window.myriapodStage.pickAt(300 + i, 200 + i);
			return (performance.now() - began) / 200;
		})()`), "ms-hover")
	}
}
