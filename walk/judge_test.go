package walk

import (
	"io"
	"net/http"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestWeightsAreJudgedAndMended finds odd weights, sets numbers of picked vertices, compares a new binding with the last, and steps through the poses of the range of motion.
func TestWeightsAreJudgedAndMended(t *testing.T) {
	a, p, id := opened(t, "Quillwick")
	p.key("5")
	p.find("body")
	p.settled()
	before := *a.specimen(t, id).Document.BindingOf(partNamed(a.specimen(t, id).Document, "body").ID)
	p.button("Find odd weights")
	p.wait("what is odd", `document.querySelector("[data-odd]")`)
	t.Logf("islands, steps, faint, many: %s", evaluate[string](p, `document.querySelector("[data-odd]").dataset.odd`))
	p.look("judge-odd")

	p.option("distance")
	p.button("Bind to spine")
	p.settled()
	now := a.specimen(t, id).Document.BindingOf(before.Part)
	require.NotNil(t, now.Last)
	assert.Equal(t, before.Weights, now.Last.Weights)
	p.scrub(20)
	p.option("last")
	p.wait("how far they are apart", `Number(document.querySelector("[data-compared]")?.dataset.compared) > 1e-4`)
	p.field("Share of the other", "0.5"+kb.Enter)
	p.settled()
	p.look("judge-compared")
	p.button("Keep this mix")
	p.settled()
	s := a.specimen(t, id)
	assert.Equal(t, "Mix 50 % of its last binding into body", s.Undo)

	// Numbers of picked vertices.
	p.button("Pick vertices")
	p.wait("the picking", `document.querySelector("aside").innerText.includes("Click on the model")`)
	p.settled()
	p.click(p.onScreen([]float64{0.06, 0.4, 0.35}))
	p.wait("a vertex", `document.querySelector("[data-weights-of='1']")`)
	p.field("All of them, to", "0.9"+kb.Enter)
	p.settled()
	p.wait("the number that was typed", `document.querySelector("[data-weights-of]").innerText.includes("0.900")`)
	p.look("judge-numbers")
	assert.Contains(t, a.specimen(t, id).Undo, "Fill body with towards of")
	p.key(kb.Escape)

	// The table, as a file and back.
	answer, err := http.Get(a.server.URL + "/api/specimens/" + id + "/parts/" + before.Part + "/weights.csv")
	require.NoError(t, err)
	defer answer.Body.Close()
	table, err := io.ReadAll(answer.Body)
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "weights.csv")
	require.NoError(t, os.WriteFile(file, table, 0o600))
	p.find("body")
	p.do(chromedp.SetUploadFiles(chromedp.CSS(`input[aria-label="Table of weights"]`), []string{file}))
	p.wait("the table to be read", `document.querySelector("aside").innerText.includes("bound by table")`)
	p.settled()
	assert.Equal(t, "Load weights of body", a.specimen(t, id).Undo)

	// The range of motion, pose by pose.
	p.key(kb.Escape)
	p.button("Play the range of motion")
	p.settled()
	p.key(" ")
	seen := map[string]bool{}
	for range 4 {
		p.key("n")
		p.settled()
		seen[evaluate[string](p, `document.querySelector("[data-time]").dataset.time`)] = true
	}
	assert.Len(t, seen, 4)
	p.look("judge-pose")
}
