package walk

import (
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"

	"myriapod/core/driver"
)

// TestFinsPaddleFromABareBody goes from bare Quillwick to fins that paddle by dials on the root, and counts clicks and keys.
func TestFinsPaddleFromABareBody(t *testing.T) {
	a, p, id := opened(t, "Quillwick, bare")
	c := &tally{page: p}
	c.limb("", false, mgl64.Vec3{0.12, 0.337, 0.527}, mgl64.Vec3{0.18, 0.319, 0.485}, mgl64.Vec3{0.245, 0.3, 0.44})
	d := a.specimen(t, id).Document
	c.build(d.Joints[0].Name)
	c.chord("5")
	c.press("find an action or a part")
	p.wait("the search", `document.activeElement?.matches("[role=combobox]")`)
	p.key("fin_")
	c.count += len("fin_") // each letter is a key
	c.press("fin_L")
	p.says("Part, 386 vertices")
	c.tick("and all parts that are named alike")
	c.press("Bind to limb_L")
	p.settled()
	p.look("fin-bound")
	c.press("control limb_L_fk_1")
	c.press("Drive Rotate X")
	c.press("Swing…")
	c.fill("and for all called", "limb_L*.rotateX")
	c.count += len("limb_L*.rotateX") // each letter is a key
	p.look("fin-swing")
	c.press("Make it swing")
	p.settled()
	p.look("fin-swung")
	c.chord(" ")
	p.wait("the fins to paddle", `Number(document.querySelector("[data-time]").dataset.time) > 0.3`)
	c.chord(" ")
	p.look("fin-paddles")
	c.press("control root")
	p.look("fin-dials")
	t.Logf("fins that paddle took %d clicks and keys", c.count)
	assert.Less(t, c.count, 40)

	d = a.specimen(t, id).Document
	assert.Len(t, d.Bindings, 2)
	swinging := 0
	for _, x := range d.Drivers {
		if x.Kind == driver.FormulaKind {
			swinging++
		}
	}
	assert.Equal(t, 4, swinging, "both sides, of one edit")
}
