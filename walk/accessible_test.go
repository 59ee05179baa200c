package walk

import (
	"encoding/json"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/demo"
	coreevaluate "myriapod/core/evaluate"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/plan"
)

// accessible has axe-core look the present view over.
func (p *page) accessible(view string) {
	p.t.Helper()
	axe, err := os.ReadFile(filepath.Join("..", "web", "node_modules", "axe-core", "axe.min.js"))
	require.NoError(p.t, err)
	evaluate[chromedp.Void](p, string(axe)+";0")
	result, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](
		`axe.run(document, {resultTypes: ["violations"]}).then(r => JSON.stringify(r.violations.map(v => ({rule: v.id, help: v.help, nodes: v.nodes.slice(0, 4).map(n => n.html.slice(0, 160) + " " + (n.any[0]?.message ?? ""))}))))`,
		chromedp.EvalAwaitPromise))
	require.NoError(p.t, err)
	var violations []any
	require.NoError(p.t, json.Unmarshal([]byte(result), &violations))
	assert.Empty(p.t, violations, "axe-core on %s", view)
}

func evaluatorOf(t *testing.T, steps []demo.Made) *coreevaluate.Evaluator {
	planned, err := plan.Build(steps[len(steps)-1].Next, kinds.All(), nil)
	require.NoError(t, err)
	return coreevaluate.New(planned)
}

func bodyOf(t *testing.T, steps []demo.Made) *coreevaluate.Body {
	body, err := coreevaluate.NewBody(evaluatorOf(t, steps), demo.Memory(steps))
	require.NoError(t, err)
	return body
}
