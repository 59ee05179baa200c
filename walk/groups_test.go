package walk

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/rig"
)

// TestARigIsTidied groups by names, hides, locks and hides from animators, as the last thing done to a rig.
func TestARigIsTidied(t *testing.T) {
	a := start(t, t.TempDir(), true)
	p := openBrowser(t)
	p.open(a.server.URL)
	p.button("Tallow")
	p.settled()
	id := p.presentID()
	p.button("Controls")
	p.settled()
	p.field("Group all that are called", "feeler*")
	p.field("Name of the group", "whiskers"+kb.Enter)
	p.settled()
	d := a.specimen(t, id).Document
	require.Len(t, d.Groups, 1)
	group := d.Groups[0]
	assert.Greater(t, len(group.Members), 5)
	p.look("group")
	p.option("hidden")
	p.settled()
	assert.Equal(t, rig.Hidden, a.specimen(t, id).Document.Groups[0].Sight)
	p.look("group-hidden")
	p.option("shown")
	p.settled()

	var control string
	for _, member := range group.Members {
		if d.Control(member) != nil {
			control = member
		}
	}
	require.NotEmpty(t, control)
	p.key(kb.Escape)
	p.button("Lock whiskers")
	p.settled()
	p.button("control " + d.NameOf(control))
	p.field("Rotate Z", "20"+kb.Enter)
	p.says("locked by the group whiskers")
	p.look("group-locked")
	p.key(kb.Escape)
	p.key(kb.Escape)
	p.button("Unlock whiskers")
	p.settled()

	root := d.ControlNamed(rig.RootName)
	p.button("control " + root.Name)
	p.button("hide from animators")
	p.settled()
	d = a.specimen(t, id).Document
	require.Len(t, d.Groups, 2)
	assert.True(t, d.Groups[1].Backstage)
	p.key(kb.Escape)
	p.button("Motion")
	p.settled()
	p.wait("root out of sight of animators", `!window.myriapodStage.gripOf("root")`)
	a.change(t, id, &edit.RemoveGroups{Groups: []string{d.Groups[1].ID}})
	p.settled()
}

// TestAControlIsAddedAndHung adds controls where joints are chosen, and hangs several at once.
func TestAControlIsAddedAndHung(t *testing.T) {
	a := start(t, t.TempDir(), true)
	p := openBrowser(t)
	p.open(a.server.URL)
	p.button("Quillwick")
	p.settled()
	id := p.presentID()
	d := a.specimen(t, id).Document
	p.button("Skeleton")
	p.settled()
	p.button("joint " + d.Joints[2].Name)
	p.field("Name of the control", "saddle"+kb.Enter)
	p.settled()
	now := a.specimen(t, id).Document
	made := now.ControlNamed("saddle")
	require.NotNil(t, made)
	assert.Equal(t, d.Joints[2].ID, made.Space)
	p.look("control-added")
	p.field("Control or joint to hang on", rig.RootName+kb.Enter)
	p.settled()
	assert.Equal(t, now.ControlNamed(rig.RootName).ID, a.specimen(t, id).Document.ControlNamed("saddle").Space)
}

// TestAShapeIsSetByHandAndAPivotPicked drags the outline of a control, grows it, and picks what it turns about on the model.
func TestAShapeIsSetByHandAndAPivotPicked(t *testing.T) {
	a := start(t, t.TempDir(), true)
	p := openBrowser(t)
	p.open(a.server.URL)
	p.button("Quillwick")
	p.settled()
	id := p.presentID()
	p.button("Controls")
	p.settled()
	d := a.specimen(t, id).Document
	control := d.ControlNamed("spine_ctl_3")
	require.NotNil(t, control)
	p.button("control spine_ctl_3")
	p.button("By hand on the stage")
	grip := p.gripOf("spine_ctl_3")
	p.drag(grip, spot{grip.X, grip.Y - 60})
	p.settled()
	moved := a.specimen(t, id).Document.Control(control.ID)
	assert.Greater(t, moved.Outline[0].Sub(control.Outline[0]).Len(), 0.01)
	p.look("shaping")
	p.key(kb.Escape)
	p.button("about a pick on the model")
	p.look("placing")
	at := p.onScreen(d.Joints[8].Position)
	p.click(at)
	p.settled()
	pivoted := a.specimen(t, id).Document.Control(control.ID)
	require.NotNil(t, pivoted.Pivot)
	assert.Equal(t, "Set the pivot of spine_ctl_3", a.specimen(t, id).Undo)
	evaluate[chromedp.Void](p, `document.querySelectorAll("aside details").forEach(d => { d.open = true })`)
	p.field("Pivot Y", "0.5"+kb.Enter)
	p.settled()
	now := a.specimen(t, id).Document.Control(control.ID)
	assert.InDelta(t, 0.5, now.Home().Apply(*now.Pivot)[1], 1e-9)
}
