package walk

import (
	"bytes"
	"context"
	"fmt"
	"math"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/skin"
	"myriapod/shelf"
)

// BenchmarkStrokeLarge paints over a part of 50,000 vertices on 65 joints, and times from where the pointer came to a place to where the new weights have been drawn. The picture is drawn by software here, which takes the
// most of it.
func BenchmarkStrokeLarge(b *testing.B) {
	a := start(b, b.TempDir(), false)
	const rings, around = 250, 200
	var out bytes.Buffer
	fmt.Fprintln(&out, "o hose")
	for r := range rings {
		for k := range around {
			sine, cosine := math.Sincos(2 * math.Pi * float64(k) / around)
			fmt.Fprintf(&out, "v %.5f %.5f %.5f\n", 0.2*cosine, 0.5+0.2*sine, 4*float64(r)/rings-2)
		}
	}
	for r := range rings - 1 {
		for k := range around {
			at := func(r, k int) int { return 1 + r*around + k%around }
			fmt.Fprintf(&out, "f %d %d %d %d\n", at(r, k), at(r, k+1), at(r+1, k+1), at(r+1, k))
		}
	}
	id, err := a.pages.Shelf().Import(context.Background(), shelf.One("hose.obj", out.Bytes()), "hose", "test")
	require.NoError(b, err)
	chain := &edit.LayChain{Pattern: "hose_##"}
	for i := range 65 {
		chain.Positions = append(chain.Positions, mgl64.Vec3{0, 0.5, 4*float64(i)/65 - 2})
	}
	a.change(b, id, chain)
	d := a.specimen(b, id).Document
	bind := &edit.Bind{Parts: []string{d.Parts[0].ID}, Method: string(skin.Heat)}
	for _, j := range d.Joints {
		bind.Joints = append(bind.Joints, j.ID)
	}
	a.change(b, id, bind)
	for b.Loop() {
		p := openBrowser(b)
		p.open(a.server.URL + "/specimen/" + id)
		p.settled()
		p.key("5")
		p.button("bound hose")
		p.settled()
		p.button("Paint")
		p.wait("the brush", `document.querySelector("[data-brush='more']")`)
		p.field("Reach", "0.15"+kb.Enter)
		p.option(d.Joints[32].ID)
		p.settled()
		from, to := p.onScreen([]float64{0.2, 0.5, -0.6}), p.onScreen([]float64{0.2, 0.5, 0.6})
		p.press(from)
		for i := range 30 {
			p.moveTo(spot{from.X + (to.X-from.X)*float64(i)/30, from.Y + (to.Y-from.Y)*float64(i)/30})
		}
		p.release(to)
		p.settled()
		for unit, name := range map[string]string{"ms-to-answered": "dab answered", "ms-to-drawn": "dab drawn"} {
			b.ReportMetric(evaluate[float64](p, `(() => {
				const all = performance.getEntriesByName("`+name+`").map((e) => e.duration).sort((x, y) => x - y);
				return all[Math.floor(all.length / 2)];
			})()`), unit)
		}
	}
}
