package walk

import (
	"math"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/rig"
	"myriapod/server/wire"
)

// TestBrindlesNeckAndTailFromABareSkeleton goes from a bare skeleton to a posed neck and tail as a new user would: three chains that are
// pinned to each other, FK laid over one and blended into another, a control that is switched to another space, a home, a dial.
func TestBrindlesNeckAndTailFromABareSkeleton(t *testing.T) {
	a := start(t, t.TempDir(), true)
	p := openBrowser(t)
	p.open(a.server.URL)
	p.button("Old Brindle, bare")
	p.settled()
	id := p.presentID()
	document := func() *rig.Document {
		p.settled()
		return a.specimen(t, id).Document
	}
	named := func(name string) string {
		found := ""
		document().EachNamed(func(id, n string) bool {
			if n == name {
				found = id
			}
			return found == ""
		})
		require.NotEmpty(t, found, "there is no %s", name)
		return found
	}
	p.key("3")

	// Three chains; the tools know which joints belong to each by how they are numbered.
	for _, family := range []string{"spine", "neck", "tail"} {
		p.button("joint " + family + "_02")
		p.button("Choose the chain")
		p.button("Build spline chain")
		p.wait("the drift", `document.body.innerText.includes("drift: joints 0.000 mm")`)
		require.Equal(t, family, document().Mechanisms[len(document().Mechanisms)-1].Name)
	}
	require.Len(t, document().Mechanisms[1].Joints, 12)
	p.look("families")

	// The tail's first end is pinned to the hips, the neck's to the chest.
	p.field("Joint or control to pin the first end to", "spine_01"+kb.Enter)
	p.wait("the pin", `document.querySelector("aside").innerText.includes("pinned to spine_01")`)
	p.button("mechanism neck")
	p.field("Joint or control to pin the first end to", "spine_09"+kb.Enter)
	p.wait("the pin", `document.querySelector("aside").innerText.includes("pinned to spine_09")`)
	assert.True(t, document().Control(document().Mechanism(named("neck")).Controls[0]).State(rig.MoveX).Locked)

	// FK over the tail, one control more on the neck, and FK blended into it.
	p.button("mechanism tail")
	p.button("Add FK over it")
	p.wait("it", `document.querySelector("aside input").value === "tail_over"`)
	p.button("mechanism neck")
	before := len(document().Mechanism(named("neck")).Controls)
	p.button("Add a control")
	require.Len(t, document().Mechanism(named("neck")).Controls, before+1)
	p.button("joint neck_03")
	p.button("Choose the chain")
	p.option("fk-chain")
	p.field("Name of what is built", "bow")
	p.button("Build FK chain")
	p.wait("it", `document.querySelector("aside").innerText.includes("Shares its joints")`)
	require.NotNil(t, document().ControlNamed("neck_blend"))
	_, blended := document().LinkedTo(rig.Address{Of: named("bow"), Key: "influence"})
	assert.True(t, blended)
	p.look("built")

	// The head's end of the neck is pulled aside; FK takes over from there without being seen.
	end := document().NameOf(document().Mechanism(named("neck")).Controls[before])
	p.button("control " + end)
	rest := p.onScreen("neck_12")
	p.field("Move X", "0.6"+kb.Enter)
	p.waitMoved("neck_12", rest, 8)
	posed := p.onScreen("neck_12")
	p.button("mechanism bow")
	p.button("Match, and take over")
	p.wait("word of what is left", `document.body.innerText.includes("No joint is further than")`)
	p.settled()
	taken := p.onScreen("neck_12")
	assert.Less(t, math.Hypot(posed.X-taken.X, posed.Y-taken.Y), 3.0, "it is not seen")
	p.button("control neck_blend")
	p.wait("the dial at FK", `[...document.querySelectorAll("aside input")].some(e => e.value.startsWith("1.000"))`)
	p.look("matched")

	// The end control may hang on the global control as well, and is switched to it in place.
	p.key("0")
	p.key(kb.Escape)
	p.key(kb.Escape)
	p.button("control " + end)
	p.field("Control or joint to hang on", "global")
	p.button("Switch to")
	assert.Len(t, document().Control(named(end)).Spaces, 1)
	p.field("Move Y", "0.2"+kb.Enter)
	p.settled()
	stood := p.onScreen(end)
	p.option("1")
	p.wait("the switch", `[...document.querySelectorAll("aside label")].some(e => e.innerText.startsWith("space") && e.querySelector("input")?.value.startsWith("1.000"))`)
	p.settled()
	now := p.onScreen(end)
	assert.Less(t, math.Hypot(stood.X-now.X, stood.Y-now.Y), 1.0, "it stays where it stood")

	// Where it stands becomes its home; the shape leaves the face free; it gets a dial, and drives the neck's stretch by another.
	p.key("H")
	p.wait("the home", `document.querySelector("aside").innerText.includes("Home as built")`)
	require.NotNil(t, document().Control(named(end)).Start)
	p.option("crescent")
	assert.Equal(t, rig.Crescent, document().Control(named(end)).Shape)
	p.field("Name of the new dial", "blink"+kb.Enter)
	assert.NotNil(t, document().Control(named(end)).Dial("blink"))
	p.button("mechanism neck")
	p.button("Drive Stretch by a dial")
	p.field("Control whose dial drives Stretch", end+kb.Enter)
	by, _ := document().LinkedTo(rig.Address{Of: named("neck"), Key: "stretch"})
	assert.Equal(t, rig.Address{Of: named(end), Key: "stretch"}, by)
	p.button("control " + end)
	p.field("stretch", "0.5"+kb.Enter)
	p.settled()
	p.look("tools")

	// The tail is raised by FK over its handles, and the pose is keyed.
	p.button("Motion")
	p.button("control tail_over_1")
	p.field("Rotate X", "25"+kb.Enter)
	p.settled()
	p.key("k")
	require.NotEmpty(t, document().Clips)
	keyed := map[string]bool{}
	for _, track := range document().Clips[0].Tracks {
		keyed[document().NameOf(track.Control)] = true
	}
	assert.True(t, keyed["tail_over_1"])
	p.look("posed")
	p.accessible("the tools of controls")

	// What is used is not taken away, and the page says by whom.
	p.button("Controls")
	p.button("control " + end)
	p.button("Take the dial stretch off")
	p.says("drives neck.stretch")
	var specimen wire.Specimen = a.specimen(t, id)
	assert.Empty(t, specimen.Findings)
}
