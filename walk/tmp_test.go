package walk

import (
	"testing"

	"github.com/chromedp/chromedp/kb"
)

func TestTmp(t *testing.T) {
	_, p, _ := opened(t, "Gantry Nine")
	shot := func(name string) { p.settled(); p.shot("/tmp/shot_" + name + ".png") }
	p.settled()
	p.clip("work")
	zoom := func(frame int, what, name string) {
		p.scrub(frame)
		p.key(kb.Escape)
		p.find(what)
		p.find("Frame what is chosen, or all")
		p.key(kb.Escape)
		shot(name)
	}
	p.button("skeleton")
	p.button("skeleton")
	p.button("controls")
	p.button("controls")
	zoom(0, "track_L", "z0")
	zoom(52, "track_L", "z52")
	zoom(108, "track_L", "z104")
	zoom(190, "cab_turn", "z190")
	zoom(286, "bucket_bars", "z280")
}
