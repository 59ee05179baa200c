package linkage_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/linkage"
)

// driven are linkages of several drives.
var driven = map[string]linkage.Linkage{
	"five bars": {Bodies: 5, Drives: []linkage.Drive{{Body: 1}, {Body: 4, Pivot: 4}}, Nodes: []linkage.Node{
		node(0, 0, 0, 1), node(-0.6, 1.2, 1, 2), node(1, 2.6, 2, 3), node(2.7, 1.3, 3, 4), node(2, 0, 0, 4),
	}},
	"digger": { // a boom; a stick on it that a ram between them moves; a bucket on a four-bar, moved by its bell: each stage by its own drive
		Bodies: 6, Drives: []linkage.Drive{{Body: 1}, {Body: 2, On: 1, Pivot: 1}, {Body: 3, On: 2, Pivot: 2}}, Nodes: []linkage.Node{
			node(0, 0, 0, 1), node(3, 2, 1, 2), node(4.4, 1.1, 2, 3), node(4.7, 1.5, 3, 4), node(5.2, 1.2, 4, 5), node(5, 0.6, 2, 5),
		},
	},
	"a pushed block and a crank": {
		Bodies: 5, Drives: []linkage.Drive{{Body: 1}, {Body: 4}}, Nodes: []linkage.Node{node(0, 0, 0, 1), node(0.2, 1, 1, 2), node(1.6, 1.8, 2, 3), node(3, 0, 3, 4)},
		Slides: []linkage.Slide{{Body: 4, On: 0, Along: mgl64.Vec2{1, 0}}},
	},
	"a platform on three legs": { // it does not come apart: each leg ends on a crank of its own
		Bodies: 8, Drives: []linkage.Drive{{Body: 1}, {Body: 6, Pivot: 5}, {Body: 7, Pivot: 8}}, Nodes: []linkage.Node{
			node(0, 0, 0, 1), node(0.5, 1, 1, 2), node(2, 2.2, 2, 3), node(3, 2.8, 3, 4), node(4, 1.5, 4, 6), node(4.2, 0.3, 0, 6), node(2.6, 3.6, 3, 5), node(0.5, 4.5, 5, 7), node(-0.6, 3.5, 0, 7),
		},
	},
}

func holds(t require.TestingT, l linkage.Linkage, s *linkage.State, within float64) {
	for i, n := range l.Nodes {
		for _, body := range n.Bodies {
			require.LessOrEqual(t, s.Poses[body].Apply(n.At).Sub(s.Nodes[i]).Len(), within, "node %d, body %d", i, body)
		}
	}
}

// Wherever several drives are asked to stand, pins hold and bars keep their lengths; the same bits come from anywhere, and nothing is allocated.
func TestSeveralDrives(t *testing.T) {
	for name, l := range driven {
		t.Run(name, func(t *testing.T) {
			p, err := linkage.New(l)
			require.NoError(t, err)
			s, size := p.NewState(), sizeOf(l)
			drives := make([]float64, len(l.Drives))
			require.False(t, p.Bring(s, drives...).Held)
			for i, n := range l.Nodes {
				require.InDelta(t, 0, s.Nodes[i].Sub(n.At).Len(), 1e-12*size)
			}
			held := 0
			rapid.Check(t, func(t *rapid.T) {
				for i := range drives {
					drives[i] = rapid.Float64Range(-2, 2).Draw(t, "drive")
				}
				if p.Bring(s, drives...).Held {
					held++
				}
				holds(t, l, s, 1e-11*size)
				first := append([]mgl64.Vec2{}, s.Nodes...)
				p.Bring(s, make([]float64, len(drives))...)
				p.Bring(s, drives...)
				require.Equal(t, first, s.Nodes)
			})
			t.Logf("held %d times", held)
			assert.Zero(t, testing.AllocsPerRun(10, func() { p.Bring(s, drives...) }))
		})
	}
}

// Each stage of a digger stops by itself: the others go on.
func TestOnlyDrivesThatMatterAreHeld(t *testing.T) {
	p, err := linkage.New(driven["digger"])
	require.NoError(t, err)
	_, _, boom := p.Travel(0)
	_, _, stick := p.Travel(1)
	low, high, bucket := p.Travel(2)
	assert.True(t, boom && stick)
	require.False(t, bucket)
	s := p.NewState()
	assert.True(t, p.Bring(s, 0.4, -0.3, high+1).Held)
	assert.InDelta(t, 0.4, math.Atan2(s.Poses[1].Sine, s.Poses[1].Cosine), 1e-12)
	assert.InDelta(t, 0.1, math.Atan2(s.Poses[2].Sine, s.Poses[2].Cosine), 1e-12)
	assert.InDelta(t, 0.1+high, math.Atan2(s.Poses[3].Sine, s.Poses[3].Cosine), 1e-9)
	assert.False(t, p.Bring(s, 40, -3, (low+high)/2).Held)
}

// Along a smooth way of two drives no node jumps, but where the bars part: there both stop on the straight way from rest.
func TestTwoDrivesMoveSmoothly(t *testing.T) {
	l := driven["five bars"]
	p, err := linkage.New(l)
	require.NoError(t, err)
	rapid.Check(t, func(t *rapid.T) {
		draw := func(name string) float64 { return rapid.Float64Range(-1, 1).Draw(t, name) }
		a, b, c, d := draw("a"), draw("b"), draw("c"), draw("d")
		s := p.NewState()
		at := func(x float64) (nodes []mgl64.Vec2, held bool) {
			held = p.Bring(s, a*math.Sin(x)+b*math.Sin(2*x), c*math.Sin(x+1)+d*math.Cos(2*x)).Held
			return append([]mgl64.Vec2{}, s.Nodes...), held
		}
		apart := func(low, high float64) (most float64, held bool) {
			before, first := at(low)
			after, last := at(high)
			for i := range after {
				most = math.Max(most, after[i].Sub(before[i]).Len())
			}
			return most, first || last
		}
		// The largest step is closed in on: of a smooth way next to nothing is left of it.
		low, most := 0.0, 0.0
		const step = 2 * math.Pi / 150
		for k := range 150 {
			if by, held := apart(float64(k)*step, float64(k+1)*step); by > most && !held {
				low, most = float64(k)*step, by
			}
		}
		for high := low + step; high-low > 1e-9; {
			middle := (low + high) / 2
			before, first := apart(low, middle)
			after, last := apart(middle, high)
			if first || last {
				return
			}
			if most = math.Max(before, after); before > after {
				high = middle
			} else {
				low = middle
			}
		}
		assert.Less(t, most, 1e-4)
	})
	q, err := linkage.New(driven["a pushed block and a crank"])
	require.NoError(t, err)
	s := q.NewState()
	require.False(t, q.Bring(s, 0, 0.3).Held)
	assert.InDelta(t, 3.3, s.Nodes[3][0], 1e-12, "a block goes by its length")
}

func BenchmarkFiveBars(b *testing.B) {
	p, err := linkage.New(driven["five bars"])
	require.NoError(b, err)
	s, drive := p.NewState(), 0.0
	b.ReportAllocs()
	for b.Loop() {
		drive = 0.05 - drive
		p.Bring(s, drive, -drive)
	}
}
