package walk

import (
	"bytes"
	"encoding/json"
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/server/wire"
)

// change edits a specimen as another client would.
func (a *application) change(t testing.TB, id string, e edit.Edit) wire.Specimen {
	t.Helper()
	written, err := edit.Encode(e)
	require.NoError(t, err)
	body, err := json.Marshal(map[string]any{"on": a.specimen(t, id).Revision, "edit": json.RawMessage(written)})
	require.NoError(t, err)
	response, err := http.Post(a.server.URL+"/api/specimens/"+id+"/edits", "application/json", bytes.NewReader(body))
	require.NoError(t, err)
	defer func() { _ = response.Body.Close() }()
	require.Equal(t, http.StatusOK, response.StatusCode)
	return a.specimen(t, id)
}

// TestPartsAreBoundAndUnboundInTurn has parts change what they hang on while the stage draws them. Nothing breaks, and what did not change is not made anew.
func TestPartsAreBoundAndUnboundInTurn(t *testing.T) {
	a := start(t, t.TempDir(), true)
	p := openBrowser(t)
	p.open(a.server.URL)
	p.button("Quillwick")
	p.settled()
	id := p.presentID()
	d := a.specimen(t, id).Document
	part, other := d.Bindings[0].Part, d.Bindings[1].Part
	type drawn struct {
		Made    string
		Skinned bool
	}
	body := func(of string) drawn { return evaluate[drawn](p, `window.myriapodStage.bodyOf(`+quote(of)+`)`) }
	p.wait("the skin", `window.myriapodStage.bodyOf(`+quote(part)+`)?.skinned && window.myriapodStage.bodyOf(`+quote(other)+`)?.skinned`)
	before := body(other)
	for range 3 {
		a.change(t, id, &edit.Unbind{Parts: []string{part}})
		p.wait("it to hang on nothing", `!window.myriapodStage.bodyOf(`+quote(part)+`).skinned`)
		a.change(t, id, &edit.Bind{Parts: []string{part}, Joints: d.Bindings[0].Joints, Blend: d.Bindings[0].Blend})
		p.wait("it to hang on its joints", `window.myriapodStage.bodyOf(`+quote(part)+`).skinned`)
	}
	named := body(part)
	a.change(t, id, &edit.Rename{ID: d.Joints[3].ID, Name: "elsewhere"})
	p.wait("the name", `[...document.querySelectorAll("[aria-label='joint elsewhere']")].length > 0`)
	p.settled()
	assert.Equal(t, named, body(part), "a name makes no body anew")
	assert.Equal(t, before, body(other), "nor does another part's skin")
	a.change(t, id, &edit.MoveJoint{Joint: d.Joints[3].ID, Position: d.Joints[3].Position.Add([3]float64{0, 0.01, 0})})
	p.wait("the bones to be measured anew", `window.myriapodStage.bodyOf(`+quote(part)+`).made !== `+quote(named.Made))
}
