package walk

import (
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestACraneFollowsOneHandle goes from bare Gantry Nine to a crane that one handle lifts, its ram, and a cab that turns between stops, and counts clicks and keys.
func TestACraneFollowsOneHandle(t *testing.T) {
	a, p, id := opened(t, "Gantry Nine, bare")
	c := &tally{page: p}
	build := func(joint, kind, button string) {
		c.press("joint " + joint)
		p.settled()
		p.option(kind)
		c.count += 2 // the list is opened, and the kind pressed
		p.settled()
		if kind == "ram" {
			c.fill("Rod, by name", "lift_head")
			c.count += len("lift_head")
			c.press("Put")
		}
		c.press(button)
		p.settled()
	}
	c.chord("3")
	p.settled()
	build("turret", "hinge", "Build hinge")
	build("jib", "linkage", "Build linkage")
	p.look("crane-built")
	build("lift_foot", "ram", "Build ram")
	p.look("crane-turret")
	t.Logf("a crane that follows one handle, with its ram, on a cab that turns, took %d clicks and keys", c.count)
	assert.Less(t, c.count, 40)

	d := a.specimen(t, id).Document
	require.Len(t, d.Mechanisms, 3)
	assert.Len(t, d.Mechanisms[1].Joints, 3, "driver, head and guide were found")
	handle := d.Control(d.Mechanisms[1].Controls[0])
	p.key("4")
	p.button("control " + handle.Name)
	p.settled()
	before := p.onScreen("nose")
	p.field("Rotate Y", "-15"+kb.Enter)
	p.settled()
	p.waitMoved("nose", before, 20)
	p.look("crane-lifted")

	// The handle is taken by its hoop, and turned.
	p.key("0")
	p.key(kb.Escape) // it has no knobs while it is not chosen
	p.settled()
	before = p.onScreen("nose")
	grip := p.gripOf(handle.Name)
	middle := p.onScreen(handle.Name)
	p.press(grip)
	p.moveTo(spot{middle.X + (grip.Y-middle.Y)*0.3 + (grip.X - middle.X), middle.Y + (grip.Y - middle.Y) - (grip.X-middle.X)*0.3})
	p.waitMoved("nose", before, 8)
	p.release(spot{middle.X, middle.Y})
}

// TestACraneIsHeldAtItsNose drags Gantry Nine's crane at its nose, sees how far its door goes, and has the door stop where it stands.
func TestACraneIsHeldAtItsNose(t *testing.T) {
	a, p, id := opened(t, "Gantry Nine")
	p.key("4")
	p.settled()
	p.find("crane_handle")
	p.settled()
	p.look("crane-held")
	p.key("0")
	p.key(kb.Escape)
	p.settled()
	before := p.onScreen("nose")
	grip := p.gripOf("crane_handle")
	p.press(grip)
	p.moveTo(spot{grip.X - 10, grip.Y + 40})
	p.waitMoved("nose", before, 10)
	p.release(spot{grip.X - 12, grip.Y + 60})
	p.settled()
	p.waitMoved("nose", before, 10)
	p.look("crane-dragged")

	p.find("door_swing_handle")
	p.field("Rotate Y", "75"+kb.Enter)
	p.settled()
	p.find("Frame what is chosen, or all")
	p.look("door-stops")
	p.find("Limit the chosen control where it stands")
	p.settled()
	d := a.specimen(t, id).Document
	door := d.Mechanisms[mechanismNamed(t, d, "door_swing")]
	assert.InDelta(t, 75, door.Parameters.Number("forth"), 1e-6)
}
