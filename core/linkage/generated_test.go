package linkage_test

import (
	"fmt"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/linkage"
)

// generated grows a linkage: a driver, and pairs of bars, or a bar and a block, each on places of any two bodies that are there.
func generated(t *rapid.T) linkage.Linkage {
	draw := func(name string) float64 { return rapid.Float64Range(-2, 2).Draw(t, name) }
	l := linkage.Linkage{Bodies: 2, Drives: []linkage.Drive{{Body: 1}}, Nodes: []linkage.Node{node(0, 0, 0, 1)}}
	pairs := rapid.IntRange(1, 5).Draw(t, "pairs")
	for i := range pairs {
		name := func(what string) string { return fmt.Sprint(what, i) }
		a, b := rapid.IntRange(0, l.Bodies-1).Draw(t, name("a")), rapid.IntRange(0, l.Bodies-1).Draw(t, name("b"))
		if i == 0 {
			a, b = 1, 0
		}
		first, second := l.Bodies, l.Bodies+1
		l.Bodies += 2
		from, to := mgl64.Vec2{draw(name("ax")), draw(name("ay"))}, mgl64.Vec2{draw(name("bx")), draw(name("by"))}
		joint := mgl64.Vec2{draw(name("jx")), draw(name("jy"))}
		l.Nodes = append(l.Nodes, linkage.Node{At: from, Bodies: []int{a, first}}, linkage.Node{At: joint, Bodies: []int{first, second}})
		if rapid.Bool().Draw(t, name("slides")) {
			l.Slides = append(l.Slides, linkage.Slide{Body: second, On: b, Along: mgl64.Vec2{draw(name("sx")), 2.5}.Normalize()})
		} else {
			l.Nodes = append(l.Nodes, linkage.Node{At: to, Bodies: []int{b, second}})
		}
	}
	return l
}

// A pair of bars that stands still about rest, since what it hangs on does so, has its travel looked at all the same.
func TestWhatMovesFarFromRestAloneEndsTheTravel(t *testing.T) {
	const e = 0.000244140625 // the driver's pivot and the far end of the first bars nearly meet at rest
	p, err := linkage.New(linkage.Linkage{Bodies: 6, Drives: []linkage.Drive{{Body: 1}}, Nodes: []linkage.Node{
		node(0, 0, 0, 1), node(1, 1.5, 1, 2), node(e, -e, 2, 3), node(0.5, 1.5, 0, 3), node(1, 1, 1, 4), node(0.5, 1, 4, 5), node(1, -1, 2, 5),
	}})
	require.NoError(t, err)
	low, high, endless := p.Travel(0)
	require.False(t, endless)
	assert.InDelta(t, 0.423, high, 1e-2)
	s := p.NewState()
	for i := range 1000 {
		require.True(t, p.Solve(s, low+(high-low)*(1e-6+(1-2e-6)*float64(i)/999)))
	}
}

func TestGeneratedLinkagesHold(t *testing.T) {
	planned := 0
	rapid.Check(t, func(t *rapid.T) {
		l := generated(t)
		p, err := linkage.New(l)
		if err != nil {
			var fault *linkage.Fault
			require.ErrorAs(t, err, &fault, "it is told what is wrong with which bars")
			return
		}
		planned++
		s := p.NewState()
		low, high, endless := p.Travel(0)
		for range 6 {
			drive := within(t, p)
			if !endless && (drive-low < 1e-6 || high-drive < 1e-6) {
				continue
			}
			require.True(t, p.Solve(s, drive), "%g of %g to %g", drive, low, high)
			for i, n := range l.Nodes {
				for _, body := range n.Bodies {
					assert.LessOrEqual(t, s.Poses[body].Apply(n.At).Sub(s.Nodes[i]).Len(), 1e-11, "node %d, body %d at %g", i, body, drive)
				}
			}
			for _, slide := range l.Slides {
				a, b := s.Poses[slide.Body], s.Poses[slide.On]
				assert.InDelta(t, 0, a.Cosine*b.Sine-a.Sine*b.Cosine, 1e-12)
				along := mgl64.Vec2{b.Cosine*slide.Along[0] - b.Sine*slide.Along[1], b.Sine*slide.Along[0] + b.Cosine*slide.Along[1]}
				away := a.Move.Sub(b.Move)
				assert.InDelta(t, 0, away[0]*along[1]-away[1]*along[0], 1e-11)
			}
		}
	})
	assert.Greater(t, planned, 30)
}
