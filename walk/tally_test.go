package walk

import (
	"fmt"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/rig"
)

// tally counts what a rigger does: a press, a drag, a chord and a filled field are one each.
type tally struct {
	*page
	count int
}

func (c *tally) press(text string) { c.count++; c.button(text) }

// chord presses a key, or several at once; a capital letter is one with Shift.
func (c *tally) chord(keys string) { c.count++; c.key(keys) }

// fill fills a field; the key that ends it, where one is pressed, counts as well.
func (c *tally) fill(label, value string) {
	c.count++
	if strings.HasSuffix(value, kb.Enter) {
		c.count++
	}
	c.field(label, value)
}

// tick presses a box to be ticked.
func (c *tally) tick(label string) {
	c.count++
	find := fmt.Sprintf(`[...document.querySelectorAll("input[type=checkbox]")].find(e => e.labels?.[0]?.innerText.trim().startsWith(%s) && e.offsetParent)`, quote(label))
	c.wait("a box "+label, find)
	evaluate[chromedp.Void](c.page, find+".click()")
}

// bring imports a model.
func (c *tally) bring(file string) {
	c.count++
	c.wait("the Shelf", `!!document.querySelector("input[type=file]")`)
	c.do(chromedp.SetUploadFiles(chromedp.CSS(`input[type=file]`), []string{file}))
	c.wait("the imported specimen", `location.pathname.startsWith("/specimen/")`)
	c.settled()
}

// lay lays a chain: from under the pointer, where a place to begin at is given; through the places given; named, where a name is given.
func (c *tally) lay(from string, name string, places ...mgl64.Vec3) {
	c.point(from)
	c.chord("j")
	c.wait("the laying", `document.querySelector("form[aria-label='Lay a chain']")`)
	for _, place := range places {
		at := c.onScreen(place[:])
		c.seekCentre(at)
		c.count++
		c.click(at)
	}
	c.wait("the joints", fmt.Sprintf(`document.querySelector("[data-stage]").dataset.laid === "%d"`, len(places)))
	if name != "" {
		c.fill("Names", name)
	}
	c.chord(kb.Enter)
	if name != "" { // the first Enter may only have left the field
		c.wait("the chain", `!document.querySelector("form[aria-label='Lay a chain']")`)
	}
	c.settled()
}

// point moves the pointer over a joint; that is no press.
func (c *tally) point(joint string) {
	if joint == "" {
		return
	}
	for range 100 { // the stage may still be coming to its size
		at := c.onScreen(joint)
		c.moveTo(spot{at.X + 1, at.Y})
		c.moveTo(at)
		if name := evaluate[*string](c.page, `window.myriapodStage.hovered()`); name != nil && *name == joint {
			return
		}
	}
	require.Fail(c.t, "the pointer is not over "+joint)
}

// build builds the likeliest on the chain under the pointer.
func (c *tally) build(joint string) {
	c.point(joint)
	c.chord("b")
	c.wait("what is built on "+joint, `document.querySelector("aside [role=switch]")`)
	c.settled()
}

// tube is a closed tube through places, as an OBJ object; first is the number of its first vertex.
func tube(out *strings.Builder, name string, first *int, radius float64, places ...mgl64.Vec3) {
	const around, steps = 12, 8
	var line []mgl64.Vec3
	for i := 1; i < len(places); i++ {
		for k := range steps {
			line = append(line, places[i-1].Add(places[i].Sub(places[i-1]).Mul(float64(k)/steps)))
		}
	}
	line = append(line, places[len(places)-1])
	fmt.Fprintf(out, "o %s\n", name)
	for i, p := range line {
		way := line[min(i+1, len(line)-1)].Sub(line[max(i-1, 0)]).Normalize()
		side := way.Cross(mgl64.Vec3{0.3, 0.1, 0.95}).Normalize()
		if math.Abs(way[2]) > 0.9 {
			side = way.Cross(mgl64.Vec3{0, 1, 0}).Normalize()
		}
		up := side.Cross(way)
		thick := radius * (0.75 + 0.25*math.Sin(math.Pi*float64(i)/float64(len(line)-1)))
		for k := range around {
			sine, cosine := math.Sincos(2 * math.Pi * float64(k) / around)
			v := p.Add(side.Mul(thick * cosine)).Add(up.Mul(thick * sine))
			fmt.Fprintf(out, "v %.5f %.5f %.5f\n", v[0], v[1], v[2])
		}
	}
	at := func(i, k int) int { return *first + i*around + k%around }
	for i := range len(line) - 1 {
		for k := range around {
			fmt.Fprintf(out, "f %d %d %d %d\n", at(i, k), at(i+1, k), at(i+1, k+1), at(i, k+1))
		}
	}
	for k := 2; k < around; k++ {
		fmt.Fprintf(out, "f %d %d %d\nf %d %d %d\n", at(0, 0), at(0, k-1), at(0, k), at(len(line)-1, 0), at(len(line)-1, k), at(len(line)-1, k-1))
	}
	*first += len(line) * around
}

// both is a tube and its mirror image.
func both(out *strings.Builder, name string, first *int, radius float64, places ...mgl64.Vec3) {
	tube(out, name+"_L", first, radius, places...)
	other := make([]mgl64.Vec3, len(places))
	for i, p := range places {
		other[i] = mgl64.Vec3{-p[0], p[1], p[2]}
	}
	tube(out, name+"_R", first, radius, other...)
}

func modelFile(t *testing.T, name string, text string) string {
	file := filepath.Join(t.TempDir(), name+".obj")
	require.NoError(t, os.WriteFile(file, []byte(text), 0o644))
	return file
}

// mechanismsOf counts mechanisms by kind, copies included.
func mechanismsOf(d *rig.Document) map[string]int {
	kinds := map[string]int{}
	for _, m := range d.Mechanisms {
		kinds[m.Kind]++
	}
	return kinds
}

// tidy checks what every rig of these is at the end: bound, every control but root and global in a group, and what animators must not move locked.
func tidy(t testing.TB, d *rig.Document, locked int) {
	assert.Len(t, d.Bindings, len(d.Parts), "all is bound")
	states := d.States()
	count := 0
	for _, c := range d.Controls {
		if c.Name != rig.RootName && c.Name != rig.GlobalName {
			assert.NotEmpty(t, states[c.ID].Groups, "%s stands in a group", c.Name)
		}
		if c.State(rig.MoveX).Locked && c.State(rig.MoveX).Hidden {
			count++
		}
	}
	assert.GreaterOrEqual(t, count, locked, "controls whose moves are locked and out of sight")
}

// limbs lays a chain with its mirror image; the box for that is ticked the first time and stays so.
func (c *tally) limb(from string, ticked bool, places ...mgl64.Vec3) {
	c.point(from)
	c.chord("j")
	c.wait("the laying", `document.querySelector("form[aria-label='Lay a chain']")`)
	if !ticked {
		c.tick("mirrored")
	}
	c.along(places)
	c.chord(kb.Enter)
	c.settled()
}

// along clicks along the body.
func (c *tally) along(places []mgl64.Vec3) {
	for _, place := range places {
		at := c.onScreen(place[:])
		c.seekCentre(at)
		c.count++
		c.click(at)
	}
	c.wait("the joints", fmt.Sprintf(`document.querySelector("[data-stage]").dataset.laid === "%d"`, len(places)))
}

// finish binds what is left and groups the controls, and locks the moves of those of one group.
func (c *tally) finish(turned string) {
	c.chord("5")
	c.press("Bind all that is not bound")
	c.settled()
	c.chord("4")
	c.press("Group by mechanism")
	c.settled()
	c.press(turned)
	c.press("Choose all")
	c.chord("L")
	c.settled()
}

// done prints what it took and looks the rig over.
func (c *tally) done(a *application, id, name string, most, locked int) *rig.Document {
	d := a.specimen(c.t, id).Document
	c.t.Logf("%s: %d presses, drags, chords and fields, of %d; %v, %d groups", name, c.count, most, mechanismsOf(d), len(d.Groups))
	tidy(c.t, d, locked)
	assert.LessOrEqual(c.t, c.count, most)
	c.look(name)
	return d
}

// TestAQuadrupedIsRiggedInFewPresses goes from import to a tidy, grouped rig by hand.
func TestAQuadrupedIsRiggedInFewPresses(t *testing.T) {
	var text strings.Builder
	first := 1
	tube(&text, "body", &first, 0.2, mgl64.Vec3{0, 1, -0.7}, mgl64.Vec3{0, 1.05, 0}, mgl64.Vec3{0, 1, 0.7})
	tube(&text, "neck", &first, 0.1, mgl64.Vec3{0, 1.1, 0.8}, mgl64.Vec3{0, 1.4, 1.1}, mgl64.Vec3{0, 1.5, 1.4})
	tube(&text, "tail", &first, 0.05, mgl64.Vec3{0, 1, -0.95}, mgl64.Vec3{0, 0.8, -1.3}, mgl64.Vec3{0, 0.6, -1.6})
	both(&text, "front", &first, 0.06, mgl64.Vec3{0.28, 0.85, 0.6}, mgl64.Vec3{0.28, 0.45, 0.5}, mgl64.Vec3{0.28, 0.08, 0.6}, mgl64.Vec3{0.28, 0.05, 0.78})
	both(&text, "back", &first, 0.06, mgl64.Vec3{0.28, 0.85, -0.6}, mgl64.Vec3{0.28, 0.45, -0.5}, mgl64.Vec3{0.28, 0.08, -0.65}, mgl64.Vec3{0.28, 0.05, -0.47})
	a := start(t, t.TempDir(), true)
	c := &tally{page: openBrowser(t)}
	c.open(a.server.URL)
	c.bring(modelFile(t, "quadruped", text.String()))
	id := c.presentID()
	c.chord("S")
	c.lay("", "", mgl64.Vec3{0, 1.02, -0.4}, mgl64.Vec3{0, 1.05, -0.15}, mgl64.Vec3{0, 1.05, 0.1}, mgl64.Vec3{0, 1.02, 0.35})
	c.lay("spine_04", "neck_##", mgl64.Vec3{0, 1.2, 0.9}, mgl64.Vec3{0, 1.32, 1.02}, mgl64.Vec3{0, 1.42, 1.15}, mgl64.Vec3{0, 1.46, 1.27})
	c.lay("spine_01", "tail_##", mgl64.Vec3{0, 0.97, -1}, mgl64.Vec3{0, 0.8, -1.3}, mgl64.Vec3{0, 0.63, -1.55})
	c.limb("spine_04", false, mgl64.Vec3{0.28, 0.8, 0.59}, mgl64.Vec3{0.28, 0.45, 0.5}, mgl64.Vec3{0.28, 0.12, 0.59}, mgl64.Vec3{0.28, 0.05, 0.75})
	c.limb("spine_01", true, mgl64.Vec3{0.28, 0.8, -0.59}, mgl64.Vec3{0.28, 0.45, -0.5}, mgl64.Vec3{0.28, 0.12, -0.64}, mgl64.Vec3{0.28, 0.05, -0.5})
	for _, chain := range []string{"spine_02", "neck_02", "tail_02"} {
		c.build(chain)
	}
	for _, leg := range []string{"limb_L_02", "limb2_L_02"} {
		c.build(leg)
		c.press("Add foot")
		c.settled()
	}
	c.finish("tail_fk_controls")
	d := c.done(a, id, "quadruped", 49, 2)
	assert.Equal(t, map[string]int{"spline-chain": 2, "fk-chain": 1, "limb": 4, "foot": 4}, mechanismsOf(d))
	assert.Len(t, d.Groups, 5)
}

// TestABirdIsRiggedInFewPresses does the same with wings in the place of front legs.
func TestABirdIsRiggedInFewPresses(t *testing.T) {
	var text strings.Builder
	first := 1
	tube(&text, "body", &first, 0.14, mgl64.Vec3{0, 0.5, -0.4}, mgl64.Vec3{0, 0.6, 0}, mgl64.Vec3{0, 0.66, 0.35})
	tube(&text, "neck", &first, 0.05, mgl64.Vec3{0, 0.74, 0.38}, mgl64.Vec3{0, 0.95, 0.5}, mgl64.Vec3{0, 1, 0.72})
	tube(&text, "tail", &first, 0.06, mgl64.Vec3{0, 0.48, -0.5}, mgl64.Vec3{0, 0.44, -0.75}, mgl64.Vec3{0, 0.42, -1})
	both(&text, "wing", &first, 0.03, mgl64.Vec3{0.2, 0.66, 0.15}, mgl64.Vec3{0.25, 0.75, -0.1}, mgl64.Vec3{0.5, 0.8, -0.15}, mgl64.Vec3{0.9, 0.7, -0.55})
	both(&text, "leg", &first, 0.025, mgl64.Vec3{0.18, 0.42, -0.05}, mgl64.Vec3{0.18, 0.25, 0.06}, mgl64.Vec3{0.18, 0.04, -0.02}, mgl64.Vec3{0.18, 0.03, 0.12})
	a := start(t, t.TempDir(), true)
	c := &tally{page: openBrowser(t)}
	c.open(a.server.URL)
	c.bring(modelFile(t, "bird", text.String()))
	id := c.presentID()
	c.chord("S")
	c.lay("", "", mgl64.Vec3{0, 0.53, -0.3}, mgl64.Vec3{0, 0.6, 0}, mgl64.Vec3{0, 0.64, 0.28})
	c.lay("spine_03", "neck_##", mgl64.Vec3{0, 0.83, 0.43}, mgl64.Vec3{0, 0.94, 0.5}, mgl64.Vec3{0, 0.99, 0.68})
	c.lay("spine_01", "tail_##", mgl64.Vec3{0, 0.46, -0.6}, mgl64.Vec3{0, 0.43, -0.95})
	c.limb("spine_01", false, mgl64.Vec3{0.18, 0.4, -0.04}, mgl64.Vec3{0.18, 0.25, 0.055}, mgl64.Vec3{0.18, 0.06, -0.01})
	c.limb("spine_03", true, mgl64.Vec3{0.21, 0.68, 0.1}, mgl64.Vec3{0.25, 0.74, -0.08}, mgl64.Vec3{0.5, 0.79, -0.17}, mgl64.Vec3{0.88, 0.7, -0.53})
	c.build("neck_02")
	c.build("tail_02")
	c.build("limb2_L_02")
	c.build("limb_L_02")
	c.press("Add foot")
	c.settled()
	c.finish("tail_fk_controls")
	d := c.done(a, id, "bird", 42, 1)
	assert.Equal(t, 2, mechanismsOf(d)["foot"])
	assert.GreaterOrEqual(t, len(d.Groups), 4)
}

// TestAMonsterIsRiggedInFewPresses rigs a body on six legs, made from one by a mirror and a series along the back, with a tail and feelers.
func TestAMonsterIsRiggedInFewPresses(t *testing.T) {
	var text strings.Builder
	first := 1
	tube(&text, "body", &first, 0.18, mgl64.Vec3{0, 0.8, -0.9}, mgl64.Vec3{0, 0.85, 0}, mgl64.Vec3{0, 0.8, 0.9})
	tube(&text, "tail", &first, 0.06, mgl64.Vec3{0, 0.82, -1.05}, mgl64.Vec3{0, 1.1, -1.4}, mgl64.Vec3{0, 1.5, -1.3})
	both(&text, "feeler", &first, 0.03, mgl64.Vec3{0.12, 0.95, 0.95}, mgl64.Vec3{0.25, 1.2, 1.15}, mgl64.Vec3{0.4, 1.25, 1.45})
	for i, z := range []float64{-0.6, 0, 0.6} {
		both(&text, fmt.Sprint("leg", i+1), &first, 0.05, mgl64.Vec3{0.26, 0.72, z}, mgl64.Vec3{0.6, 0.8, z + 0.06}, mgl64.Vec3{0.8, 0.05, z})
	}
	a := start(t, t.TempDir(), true)
	c := &tally{page: openBrowser(t)}
	c.open(a.server.URL)
	c.bring(modelFile(t, "monster", text.String()))
	id := c.presentID()
	c.chord("S")
	c.lay("", "", mgl64.Vec3{0, 0.92, -0.6}, mgl64.Vec3{0, 0.98, 0.02}, mgl64.Vec3{0, 0.92, 0.6})
	c.lay("spine_01", "tail_##", mgl64.Vec3{0, 0.95, -1.22}, mgl64.Vec3{0, 1.12, -1.39}, mgl64.Vec3{0, 1.3, -1.35}, mgl64.Vec3{0, 1.45, -1.31})
	c.chord("F") // from the front, where the legs are seen whole
	c.settled()
	c.limb("spine_03", false, mgl64.Vec3{0.28, 0.725, 0.6}, mgl64.Vec3{0.6, 0.79, 0.66}, mgl64.Vec3{0.79, 0.1, 0.61})
	c.limb("spine_03", true, mgl64.Vec3{0.14, 0.99, 0.98}, mgl64.Vec3{0.25, 1.19, 1.15}, mgl64.Vec3{0.39, 1.25, 1.42})
	for _, chain := range []string{"limb2_L_02", "limb_L_02"} {
		c.build(chain)
	}
	c.press("Add foot")
	c.settled()
	c.chord("2")
	c.settled()
	c.press("joint limb_L_01")
	c.count++
	c.click(c.onScreen("limb_R_01"), chromedp.ButtonModifiers(chromedp.ModifierShift))
	c.press("Series")
	c.settled()
	c.chord("S")
	c.settled()
	for _, chain := range []string{"spine_02", "tail_02"} {
		c.build(chain)
	}
	c.finish("tail_spline_controls")
	d := c.done(a, id, "monster", 52, 4)
	assert.Equal(t, 6, mechanismsOf(d)["foot"])
	assert.Equal(t, 8, mechanismsOf(d)["limb"])
}
