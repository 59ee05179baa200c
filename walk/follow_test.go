package walk

import (
	"math"
	"net/http/httptest"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	coreevaluate "myriapod/core/evaluate"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mechanism/kindtest"
	"myriapod/core/motion"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/server"
	"myriapod/shelf"
	"myriapod/shelf/shelftest"
	"myriapod/store"
	"myriapod/web"
)

// TestAHeadFollowsAndADialIsDriven builds a follow as a new user would, by two picks, and lays drivers on numbers.
func TestAHeadFollowsAndADialIsDriven(t *testing.T) {
	a := start(t, t.TempDir(), true)
	p := openBrowser(t)
	p.open(a.server.URL)
	p.button("Old Brindle")
	p.settled()
	id := p.presentID()
	document := func() *rig.Document {
		p.settled()
		return a.specimen(t, id).Document
	}
	named := func(name string) (found string) {
		document().EachNamed(func(id, n string) bool {
			if n == name {
				found = id
			}
			return found == ""
		})
		require.NotEmpty(t, found, "there is no %s", name)
		return found
	}

	// The head takes the turn of the whole alone; what it follows is clicked on the map.
	p.key("3")
	p.button("joint head_1")
	p.option("follow")
	p.field("Name of what is built", "level")
	p.wait("what is missing to be told", `[...document.querySelectorAll("button")].find(b => b.innerText === "Build follow").disabled`)
	p.button("Pick on the stage")
	p.wait("the stage to ask", `document.body.innerText.includes("Click it on the stage")`)
	p.look("asking")
	p.button("control global")
	p.wait("it in its role", `document.querySelector("[data-role=sources]").innerText.includes("global")`)
	p.button("Build follow")
	p.wait("the drift", `document.body.innerText.includes("drift: joints 0.000 mm")`)
	level := document().Mechanism(named("level"))
	assert.Equal(t, []string{named("head_1")}, level.Joints)
	assert.Equal(t, []string{named("global")}, level.Takes)
	p.look("built")

	// A control's turn is driven by another's, with a lag on top; the card tells how the number came about.
	p.key(kb.Escape)
	p.button("control root")
	p.button("Drive Rotate Y (twist)")
	p.button("Add a driver")
	p.field("What drives rotateY", "chest.rotateX"+kb.Enter)
	p.wait("the driver", `document.querySelector("[data-drivers='1']")`)
	p.field("Times", "0.5"+kb.Enter)
	p.wait("its factor", `document.querySelector("[data-drivers]").innerText.includes("comes to")`)
	p.look("driven")
	drivers := document().DriversOf(rig.Address{Of: named("root"), Key: "rotateY"})
	require.Len(t, drivers, 1)
	assert.Equal(t, 0.5, drivers[0].Parameters.Number("times"))
	p.key(kb.Control + "z")

	// A measure of what is chosen is read on the step's card, and drives a number with a lag on top, whose memory is told.
	p.key("4")
	p.button("control chest")
	p.button("Height")
	p.button("control seat")
	p.button("Drive Move Z")
	p.button("Add a driver")
	p.field("What drives moveZ", "height_chest"+kb.Enter)
	p.wait("the driver", `document.querySelector("[data-drivers='1']")`)
	p.option("lag")
	p.button("Add a driver")
	p.wait("the lag", `document.querySelector("[data-drivers='2']")`)
	p.wait("its memory", `document.querySelector("[data-drivers]").innerText.includes("memory takes")`)
	p.look("lagging")
	p.key(kb.Escape)
	p.wait("the measure", `/\d m/.test(document.querySelector("[data-measure=height_chest]").innerText)`)
	p.look("measured")

	// An angle is read in degrees, as the core has it at the time that is shown.
	p.button("joint neck_06")
	p.button("Angle")
	p.key(kb.Escape)
	p.scrub(30)
	p.settled()
	p.wait("the angle", `/\d °/.test(document.querySelector("[data-measure=angle_neck_06]")?.innerText)`)
	e, _, err := coreevaluate.Open(document(), kinds.All(), a.store)
	require.NoError(t, err)
	e.SetClip(motion.Prepare(e.Plan.Document.Clips[0]))
	e.SetTime(evaluate[float64](p, `Number(document.querySelector("[data-time]").dataset.time)`))
	e.Evaluate()
	slot, ok := e.Plan.Layout.Find(rig.Address{Of: named("angle_neck_06"), Key: rig.MeasureKey})
	require.True(t, ok)
	assert.Greater(t, math.Abs(e.Frame.Values[slot]), 0.05, "there is something to read")
	assert.InDelta(t, e.Frame.Values[slot], evaluate[float64](p, `parseFloat(document.querySelector("[data-measure=angle_neck_06]").innerText)`), 0.01)
	p.button("Motion")
	p.field("pre-roll", "2"+kb.Enter)
	assert.Equal(t, 2.0, document().Clips[0].PreRoll)
}

// TestOutputsAreSeenOnTheStage shows a part drawn twenty times and one that bulges, by kinds that only tests have.
func TestOutputsAreSeenOnTheStage(t *testing.T) {
	data := t.TempDir()
	shelftest.Fill(t, data)
	s, err := store.Open(data)
	require.NoError(t, err)
	pages := server.NewWith(kindtest.Kinds(), s, web.Page())
	a := &application{store: s, pages: pages, server: httptest.NewServer(pages.Handler()), data: data}
	t.Cleanup(a.stop)
	work := shelf.New(s, kindtest.Kinds(), nil)
	list, err := s.List()
	require.NoError(t, err)
	id := list[0].ID
	change := func(e edit.Edit) *rig.Document {
		state, err := work.Edit(id, head(t, s, id), e, "walk", nil)
		require.NoError(t, err)
		return state.Document
	}
	state, err := work.State(id)
	require.NoError(t, err)
	d := state.Document
	change(&edit.AddMechanism{Mechanism: "carousel", Name: "ring", Roles: map[string][]string{"hub": {d.Joints[3].ID}, "horse": {d.Parts[1].ID}}})
	d = change(&edit.AddMechanism{Mechanism: "bulge", Name: "swell", Roles: map[string][]string{"part": {d.Parts[0].ID}}, Parameters: parameter.Set{"amount": parameter.OfNumber(0.05)}})

	p := openBrowser(t)
	p.open(a.server.URL)
	p.button(list[0].Name)
	p.settled()
	p.settled()
	p.wait("the instances", `window.myriapodStage.instancesAt(`+quote(d.Parts[1].ID)+`).length === 20`)
	e, body, err := coreevaluate.Open(d, kindtest.Kinds(), s)
	require.NoError(t, err)
	e.SetClip(motion.Prepare(d.Clips[0]))
	e.SetTime(evaluate[float64](p, `Number(document.querySelector("[data-time]").dataset.time)`))
	e.Evaluate()
	body.Deform(e)
	places := evaluate[[][3]float64](p, `window.myriapodStage.instancesAt(`+quote(d.Parts[1].ID)+`)`)
	for k, place := range places {
		want := e.InstanceMatrix(0, k).Col(3)
		assert.InDelta(t, 0, math.Hypot(math.Hypot(place[0]-want[0], place[1]-want[1]), place[2]-want[2]), 1e-3, "instance %d", k)
	}
	vertex := evaluate[[]float64](p, `window.myriapodStage.vertexOf(`+quote(d.Parts[0].ID)+`, 100)`)
	for axis, value := range vertex {
		assert.InDelta(t, body.Parts[0].Positions[300+axis], value, 1e-3)
	}
	p.look("outputs")
}

func head(t *testing.T, s *store.Store, id string) int {
	t.Helper()
	specimen, err := s.Specimen(id)
	require.NoError(t, err)
	return specimen.Head
}
