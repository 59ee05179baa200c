package walk

import (
	"slices"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/mesh"
	"myriapod/core/rig"
)

// TestABlinkIsMadeAndDriven closes the lids of an eye until they meet, has a dial close them, shapes them with the hand, and mirrors them to the other eye's side.
func TestABlinkIsMadeAndDriven(t *testing.T) {
	a, p, id := opened(t, "Quillwick")
	c := &tally{page: p}
	part := partNamed(a.specimen(t, id).Document, "lid_L")
	surface, err := a.store.Mesh(part.Mesh)
	require.NoError(t, err)
	edgeOf := func(base int) mgl64.Vec3 { // the middle of an edge of a rim, which is the fifteenth of 28 around
		at := func(row int) mgl64.Vec3 { return surface.Vertex(base + 1 + 28*row + 14) }
		return at(10).Add(at(11)).Mul(0.5)
	}
	upper, lower := edgeOf(0), edgeOf(surface.VertexCount()/2)

	c.chord("5")
	c.press("find an action or a part")
	p.wait("the search", `document.activeElement?.matches("[role=combobox]")`)
	p.key("lid_L")
	c.count += len("lid_L") // each letter is a key
	c.press("lid_L")
	c.chord("S") // from the side
	c.chord("f")
	p.settled()
	c.fill("Name of the new morph target", "wink")
	c.count += len("wink")
	c.press("Add a morph target")
	p.wait("the hand", `document.querySelector("[data-hand='move']")`)
	p.settled()
	p.look("blink-hand")
	c.press("pick the vertices that it holds")
	c.count++
	evaluate[chromedp.Void](p, `[...document.querySelectorAll("label")].find(e => e.innerText.trim() === "edges").click()`)

	p.settled()
	for _, rim := range []struct {
		at    mgl64.Vec3
		named string
	}{{upper, "The one rim"}, {lower, "The other rim"}} {
		c.count++
		c.click(p.onScreen(rim.at[:]))
		p.wait("an edge", `document.querySelector("[data-picked]")?.dataset.picked === "1"`)
		c.chord("r")
		p.wait("the rim", `Number(document.querySelector("[data-picked]")?.dataset.picked) >= 15`)
		c.press(rim.named)
		p.look("blink-" + rim.named)
	}
	c.press("Close them until they meet")
	p.says("The rims meet")
	p.settled()
	p.look("blink-closed")

	c.press("Drive wink")
	c.press("Add a driver")
	c.fill("What drives wink", "head.blink")
	c.count += len("head.blink")
	c.press("Drive")
	p.settled()
	p.look("blink-drive")
	t.Logf("a blink that is driven took %d clicks and keys", c.count)
	assert.Less(t, c.count, 40)

	d := a.specimen(t, id).Document
	made := partNamed(d, "lid_L")
	deltas, err := a.store.Deltas(made.Morphs[made.Morph("wink")].Deltas, surface.VertexCount())
	require.NoError(t, err)
	shut := &mesh.Mesh{Positions: slices.Clone(surface.Positions), Triangles: surface.Triangles, Normals: surface.Normals}
	deltas.Mix(1, shut)
	gap := 0.0
	for row := 2; row < 20; row++ { // the rims as they were picked end short of the corners
		gap = max(gap, shut.Vertex(1+28*row+14).Sub(shut.Vertex(surface.VertexCount()/2+1+28*row+14)).Len())
	}
	assert.Less(t, gap, 1e-5, "the rims meet, in metres")

	// The hand moves what it holds, and that is one edit.
	at := p.onScreen(upper[:])
	p.drag(at, spot{at.X, at.Y - 24})
	p.says("bring it to 1") // it is driven, and the dial stands at 0
	p.key("0")
	p.find("head") // the map lies under what was told
	p.field("blink", "1"+kb.Enter)
	p.settled()
	p.find("lid_L")
	p.wait("the hand", `document.querySelector("[data-hand='move']")`)
	p.settled()
	p.drag(at, spot{at.X, at.Y - 24})
	p.wait("the stroke to be kept", `document.querySelector("[data-stage]").dataset.saving === "0"`)
	p.settled()
	p.look("blink-shaped")
	s := a.specimen(t, id)
	require.Equal(t, "Shape wink of lid_L", s.Undo)
	shaped, err := a.store.Deltas(partNamed(s.Document, "lid_L").Morphs[made.Morph("wink")].Deltas, surface.VertexCount())
	require.NoError(t, err)
	assert.NotEqual(t, deltas.Positions, shaped.Positions)
	p.button("More of wink")
	p.button("Mirror")
	p.settled()
	d = a.specimen(t, id).Document
	assert.GreaterOrEqual(t, partNamed(d, "lid_L").Morph("wink_mirrored"), 0)
	require.Len(t, d.DriversOf(rig.Address{Of: made.ID, Key: "wink"}), 1)
}

func partNamed(d *rig.Document, name string) *rig.Part {
	for i := range d.Parts {
		if d.Parts[i].Name == name {
			return &d.Parts[i]
		}
	}
	return nil
}
