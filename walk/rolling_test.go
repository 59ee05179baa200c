package walk

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/rig"
)

// with presses while a key is held.
func (c *tally) with(text string, held chromedp.Modifier) {
	c.count++
	c.button(text, held)
	c.settled()
}

// kind takes another kind to be built than the likeliest: the list is opened, and the kind pressed.
func (c *tally) kind(name string) {
	c.count += 2
	c.option(name)
	c.settled()
}

// at picks on the stage for a role that is asked for.
func (c *tally) at(role string, place any) {
	c.count += 2
	asks := fmt.Sprintf(`document.querySelector("[data-role=%s] button[aria-pressed]")`, role)
	c.wait("the role "+role, "!!"+asks)
	evaluate[chromedp.Void](c.page, asks+".click()")
	c.settled()
	c.click(c.onScreen(place))
	c.wait(role+" to be filled", fmt.Sprintf(`!!document.querySelector("[data-role=%s] [aria-label^='Take ']")`, role))
}

// TestARunningGearIsBuilt goes from bare Gantry Nine to the tracks, which the mirror image has as well, and to a hose along the arm, and counts clicks and keys.
func TestARunningGearIsBuilt(t *testing.T) {
	a, p, id := opened(t, "Gantry Nine, bare")
	c := &tally{page: p}
	c.chord("3")
	p.settled()
	c.chord("l")
	c.press("sprocket_L")
	p.settled()
	c.with("roller_L2", chromedp.ModifierShift)
	p.look("track-wheels")
	c.at("link", []float64{1.25, 0.03, 0.055})
	p.look("track-roles")
	c.press("Build track")
	p.settled()
	p.look("track-built")
	t.Logf("tracks took %d clicks and keys", c.count)
	assert.Less(t, c.count, 15)
	d := a.specimen(t, id).Document
	require.Equal(t, 2, mechanismsOf(d)["track"], "the mirror image has one too")
	tracks := d.Mechanisms[0]
	assert.Greater(t, tracks.Parameters.Number("links"), 60.0)

	c.count = 0
	c.chord("3")
	c.press("joint hose_1")
	p.settled()
	c.with("joint hose_12", chromedp.ModifierShift)
	c.at("end", "nose")
	c.press("Build hose")
	p.settled()
	p.look("hose-built")
	t.Logf("a hose took %d clicks and keys", c.count)
	assert.Less(t, c.count, 8)
	d = a.specimen(t, id).Document
	assert.Equal(t, 1, mechanismsOf(d)["hose"])
	p.testLoose(a, id)
}

// testLoose builds the crane's bar and head without the guide: what is still loose is told, and moves on the stage until it is seen to.
func (p *page) testLoose(a *application, id string) {
	p.key("l") // the register is closed again
	p.key("3")
	p.settled()
	p.button("joint jib")
	p.settled()
	p.option("linkage")
	p.settled()
	for _, bar := range []string{"nose", "scoop"} {
		p.field("What follows, by name", bar+kb.Enter)
	}
	p.settled()
	before := p.onScreen("nose_end")
	p.button("Build linkage")
	p.wait("the refusal", `!!document.querySelector("[data-notice=refused]")`)
	p.waitMoved("nose_end", before, 6)
	p.look("loose-shown")
	p.button("Drive nose as well")
	p.button("Drive scoop as well") // which is what is loose then
	p.settled()
	d := a.specimen(p.t, id).Document
	assert.Len(p.t, d.Mechanisms[mechanismNamed(p.t, d, "jib_linkage")].Controls, 3)
	p.wait("it to come back", fmt.Sprintf(`(() => { const at = window.myriapodStage.onScreen("nose_end"); return Math.hypot(at.x - %g, at.y - %g) < 1; })()`, before.X, before.Y))
}

// TestFourSteeredWheels goes from the bare barrow to wheels that roll and are steered.
func TestFourSteeredWheels(t *testing.T) {
	a, p, id := opened(t, "The barrow, bare")
	c := &tally{page: p}
	c.chord("3")
	p.settled()
	c.press("joint steer_L")
	p.settled()
	c.with("joint steer_R", chromedp.ModifierCtrl)
	c.kind("hinge")
	p.look("steer-roles")
	c.press("Build hinge")
	p.settled()
	c.count += 2
	p.option("as wheels steer")
	p.settled()
	p.look("steer-built")
	c.press("joint hub_FL")
	p.settled()
	for _, hub := range []string{"FR", "RL", "RR"} {
		c.with("joint hub_"+hub, chromedp.ModifierCtrl)
	}
	c.kind("wheel")
	c.press("Build wheel")
	p.settled()
	p.look("wheels-built")
	t.Logf("four steered wheels took %d clicks and keys", c.count)
	assert.Less(t, c.count, 20)
	d := a.specimen(t, id).Document
	assert.Equal(t, 4, mechanismsOf(d)["wheel"])
}

// TestAPropIsHandedOver gives Old Brindle's boat hook to its muzzle and sets it down, at frames of its own.
func TestAPropIsHandedOver(t *testing.T) {
	a, p, id := opened(t, "Old Brindle")
	c := &tally{page: p}
	c.chord("6")
	p.settled()
	c.press("mechanism hook")
	p.settled()
	c.count++
	p.scrub(20)
	c.press("Give to head_2")
	p.settled()
	c.count++
	p.scrub(60)
	c.press("Set it down")
	p.settled()
	p.look("handed-over")
	t.Logf("a prop handed over twice took %d clicks and keys", c.count)
	assert.Less(t, c.count, 10)
	d := a.specimen(t, id).Document
	handle := d.Control(d.Mechanisms[mechanismNamed(t, d, "hook")].Controls[0])
	var held []float64
	for _, track := range d.Clips[0].Tracks {
		if track.Control == handle.ID && track.Channel == rig.Channel("holder") {
			for _, key := range track.Keys {
				held = append(held, key.Frame, key.Value)
			}
		}
	}
	assert.Equal(t, []float64{20, 1, 60, 2}, held[len(held)-4:])
	p.key(kb.Escape)
}
