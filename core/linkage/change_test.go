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

// fourBar is a four-bar by its lengths and how its crank stands; side says on which side of the line from the crank's tip to the rocker's pin the bars bend.
func fourBar(ground, crank, coupler, rocker, start, side float64) linkage.Linkage {
	tip, far := mgl64.Vec2{crank * math.Cos(start), crank * math.Sin(start)}, mgl64.Vec2{ground, 0}
	way := far.Sub(tip)
	d := way.Len()
	along := (coupler*coupler - rocker*rocker + d*d) / (2 * d)
	height := side * math.Sqrt(coupler*coupler-along*along)
	unit := way.Mul(1 / d)
	joint := tip.Add(unit.Mul(along)).Add(mgl64.Vec2{-unit[1], unit[0]}.Mul(height))
	return linkage.Linkage{Bodies: 4, Drives: []linkage.Drive{{Body: 1}}, Nodes: []linkage.Node{
		node(0, 0, 0, 1), {At: tip, Bodies: []int{1, 2}}, {At: joint, Bodies: []int{2, 3}}, {At: far, Bodies: []int{0, 3}},
	}}
}

// smooth tells how far the node goes at most between two looks, and how much its step changes at most, over turns of the drive in so many looks a turn.
func smooth(t require.TestingT, p *linkage.Plan, node int, from, to float64, looks int) (most, bend float64) {
	s := p.NewState()
	var before, step mgl64.Vec2
	count := int((to - from) / (2 * math.Pi) * float64(looks))
	for k := range count + 1 {
		require.True(t, p.Solve(s, from+(to-from)*float64(k)/float64(count)))
		at := s.Nodes[node]
		if k > 0 {
			now := at.Sub(before)
			most = math.Max(most, now.Len())
			if k > 1 {
				bend = math.Max(bend, now.Sub(step).Len())
			}
			step = now
		}
		before = at
	}
	return most, bend
}

// Bars whose longest and shortest are as long together as the other two come to lie in one line. There they go on as they came, and do not turn back.
func TestChangePointsArePassedSmoothly(t *testing.T) {
	for name, c := range map[string]struct {
		l       linkage.Linkage
		changes int
	}{
		"crossed parallelogram": {fourBar(2, 1, 2, 1, 1, -1), 2},
		"two turns make one":    {fourBar(3, 2, 4, 3, 1.1, 1), 1},
		"the other side":        {fourBar(3, 2, 4, 3, 1.1, -1), 1},
	} {
		p, err := linkage.New(c.l)
		require.NoError(t, err, name)
		_, _, endless := p.Travel(0)
		require.True(t, endless, name)
		require.Len(t, p.ChangePoints(0), c.changes, name)
		_, coarse := smooth(t, p, 2, -4*math.Pi+0.3, 4*math.Pi+0.3, 4000)
		_, fine := smooth(t, p, 2, -4*math.Pi+0.3, 4*math.Pi+0.3, 8000)
		assert.Greater(t, coarse/fine, 3.0, "%s: a corner would halve where a smooth way is quartered", name)
		s := p.NewState()
		at := func(drive float64) mgl64.Vec2 { p.Solve(s, drive); return s.Nodes[2] }
		apart := at(0.2).Sub(at(0.2 + 2*math.Pi)).Len()
		if c.changes == 1 {
			assert.Greater(t, apart, 0.1, "%s: it stands on its other side after one turn", name)
			assert.InDelta(t, 0, at(0.2).Sub(at(0.2+4*math.Pi)).Len(), 1e-9, name)
			assert.InDelta(t, 0, at(0.2).Sub(at(0.2-4*math.Pi)).Len(), 1e-9, name)
		} else {
			assert.InDelta(t, 0, apart, 1e-9, name)
		}
	}
}

// Random four-bars of equal sums: pins hold near the line as well, where closure alone proves nothing, and no bar ever turns back.
func TestFourBarsOfEqualSums(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		short, a, b := rapid.Float64Range(0.5, 1).Draw(t, "short"), rapid.Float64Range(1.2, 2).Draw(t, "a"), rapid.Float64Range(2.1, 3).Draw(t, "b")
		long := a + b - short
		if long <= b {
			t.Skip("it is not the longest")
		}
		side := float64(1 - 2*rapid.IntRange(0, 1).Draw(t, "side"))
		p, err := linkage.New(fourBar(a, short, long, b, rapid.Float64Range(0.7, 2.5).Draw(t, "start"), side))
		require.NoError(t, err)
		_, _, endless := p.Travel(0)
		require.True(t, endless)
		require.Len(t, p.ChangePoints(0), 1)
		change := p.ChangePoints(0)[0]
		s := p.NewState()
		for k := -60; k <= 60; k++ {
			drive := change + math.Copysign(math.Pow(10, -float64(60-max(k, -k))/6), float64(k))
			require.True(t, p.Solve(s, drive) || math.Abs(drive-change) < 1e-7)
			assert.InDelta(t, long, s.Nodes[2].Sub(s.Nodes[1]).Len(), 1e-12*long)
			assert.InDelta(t, b, s.Nodes[3].Sub(s.Nodes[2]).Len(), 1e-12*long)
		}
		most, _ := smooth(t, p, 2, -7, 14, 3000)
		assert.Less(t, most, 0.15)
	})
}
