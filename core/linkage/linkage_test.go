package linkage_test

import (
	"errors"
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/linkage"
)

func node(x, y float64, bodies ...int) linkage.Node {
	return linkage.Node{At: mgl64.Vec2{x, y}, Bodies: bodies}
}

// linkages are all that the claims are tried on; bodies are 0 for the ground, 1 for the driver, and the others.
var linkages = map[string]linkage.Linkage{
	"crank and rocker": {Bodies: 4, Drives: []linkage.Drive{{Body: 1}}, Nodes: []linkage.Node{node(0, 0, 0, 1), node(0, 1, 1, 2), node(3, 2.5, 2, 3), node(3.2, 0, 0, 3)}},
	"two cranks":       {Bodies: 4, Drives: []linkage.Drive{{Body: 1}}, Nodes: []linkage.Node{node(0, 0, 0, 1), node(0, 3, 1, 2), node(2.5, 3.4, 2, 3), node(1, 0, 0, 3)}},
	"two rockers":      {Bodies: 4, Drives: []linkage.Drive{{Body: 1}}, Nodes: []linkage.Node{node(0, 0, 0, 1), node(0.5, 3, 1, 2), node(1.5, 3.1, 2, 3), node(3, 0, 0, 3)}},
	"rocker and crank": {Bodies: 4, Drives: []linkage.Drive{{Body: 1}}, Nodes: []linkage.Node{node(3.2, 0, 0, 1), node(3, 2.5, 1, 2), node(0, 1, 2, 3), node(0, 0, 0, 3)}},
	"parallel arm":     {Bodies: 4, Drives: []linkage.Drive{{Body: 1}}, Nodes: []linkage.Node{node(0, 0, 0, 1), node(4, 1, 1, 2), node(4, 2, 2, 3), node(0, 1, 0, 3)}},
	"two parallel arms with a bridle": {Bodies: 8, Drives: []linkage.Drive{{Body: 1}}, Nodes: []linkage.Node{
		node(0, 0, 0, 1), node(0, 1, 0, 2), node(4, 1, 1, 3), node(4, 2, 2, 3), node(5, 2, 3, 4), node(5, 3, 3, 5), node(9, 1, 4, 6), node(9, 2, 5, 6), node(2, 1.4, 1, 7), node(6.2, 2.6, 4, 7),
	}},
	"walking beam": {Bodies: 6, Drives: []linkage.Drive{{Body: 1}}, Nodes: []linkage.Node{
		node(0, 0, 0, 1), node(0.6, 0.5, 1, 2), node(-2, 2, 2, 3), node(-2.5, 0, 0, 3), node(-1, 3.2, 2, 4), node(2, 3.4, 4, 5), node(2.5, 0.2, 0, 5),
	}},
	"what does not come apart": {Bodies: 6, Drives: []linkage.Drive{{Body: 1}}, Nodes: []linkage.Node{ // a triangle whose three legs end on the driver and on two rockers
		node(0, 0, 0, 1), node(0.5, 1, 1, 2), node(2, 2.2, 2, 3), node(3, 2.8, 3, 4), node(2.6, 3.6, 3, 5), node(4.2, 0.3, 0, 4), node(-0.6, 3.5, 0, 5),
	}},
	"scissors of twelve": scissors(12),
	"slider and crank":   {Bodies: 4, Drives: []linkage.Drive{{Body: 1}}, Nodes: []linkage.Node{node(0, 0, 0, 1), node(0.3, 0.9, 1, 2), node(3, 0.2, 2, 3)}, Slides: []linkage.Slide{{Body: 3, On: 0, Along: mgl64.Vec2{1, 0}}}},
	"crank in a slotted arm": { // a block on the crank slides on an arm that swings
		Bodies: 4, Drives: []linkage.Drive{{Body: 1}}, Nodes: []linkage.Node{node(0, 0, 0, 1), node(0.4, 0.8, 1, 2), node(0, -3, 0, 3)},
		Slides: []linkage.Slide{{Body: 2, On: 3, Along: mgl64.Vec2{0.4, 3.8}.Normalize()}},
	},
	"rocker on a short slide": {Bodies: 4, Drives: []linkage.Drive{{Body: 1}}, Nodes: []linkage.Node{node(0, 0, 0, 1), node(1, 2, 1, 2), node(3, 2.4, 2, 3)}, Slides: []linkage.Slide{{Body: 3, On: 0, Along: mgl64.Vec2{0.6, 0.8}}}},
	"a slide that does not come apart": {
		Bodies: 6, Drives: []linkage.Drive{{Body: 1}}, Nodes: []linkage.Node{node(0, 0, 0, 1), node(0.5, 1, 1, 2), node(2, 2.2, 2, 3), node(3, 2.8, 3, 4), node(2.6, 3.6, 3, 5), node(-0.6, 3.5, 0, 5)},
		Slides: []linkage.Slide{{Body: 4, On: 0, Along: mgl64.Vec2{0.8, -0.6}}},
	},
}

// scissors is a ladder of crossings: the first bar drives, the first pin of the other slides on a bar so long that its way is as good as straight.
func scissors(count int) linkage.Linkage {
	l := linkage.Linkage{Drives: []linkage.Drive{{Body: 1}}, Bodies: 1 + 2*count + 1}
	const wide, high = 2.0, 1.5
	last := l.Bodies - 1 // the long bar
	l.Nodes = append(l.Nodes, node(0, 0, 0, 1), node(wide, 0, 2, last), node(wide, -400, 0, last))
	for i := range count {
		a, b := 1+2*i, 2+2*i
		y := high * float64(i)
		l.Nodes = append(l.Nodes, node(wide/2, y+high/2, a, b))
		if i > 0 {
			l.Nodes = append(l.Nodes, node(0, y, a, b-2), node(wide, y, b, a-2))
		}
	}
	l.Nodes = append(l.Nodes, node(0, high*float64(count), 2*count), node(wide, high*float64(count), 2*count-1))
	return l
}

func sizeOf(l linkage.Linkage) (size float64) {
	for _, n := range l.Nodes {
		size = math.Max(size, n.At.Len())
	}
	return size
}

// within draws a drive within a plan's travel.
func within(t *rapid.T, p *linkage.Plan) float64 {
	low, high, endless := p.Travel(0)
	if endless {
		return rapid.Float64Range(-20, 20).Draw(t, "drive")
	}
	return low + (high-low)*rapid.Float64Range(0, 1).Draw(t, "share")
}

// TestPinsStayTogetherAndBarsKeepTheirLengths drives every linkage anywhere within its travel: all bodies have each node in one place, which is where the state says.
func TestPinsStayTogetherAndBarsKeepTheirLengths(t *testing.T) {
	for name, l := range linkages {
		t.Run(name, func(t *testing.T) {
			p, err := linkage.New(l)
			require.NoError(t, err)
			low, high, endless := p.Travel(0)
			t.Logf("travel %.3f to %.3f, endless %t", low, high, endless)
			s, size := p.NewState(), sizeOf(l)
			require.True(t, p.Solve(s, 0))
			for i, n := range l.Nodes {
				require.InDelta(t, 0, s.Nodes[i].Sub(n.At).Len(), 1e-12*size, "nothing moves at rest")
			}
			rapid.Check(t, func(t *rapid.T) {
				drive := within(t, p)
				require.True(t, p.Solve(s, drive), "%g", drive)
				for _, slide := range l.Slides {
					a, b := s.Poses[slide.Body], s.Poses[slide.On]
					assert.InDelta(t, 0, a.Cosine*b.Sine-a.Sine*b.Cosine, 1e-12, "a block turns as what it slides on")
					along := mgl64.Vec2{b.Cosine*slide.Along[0] - b.Sine*slide.Along[1], b.Sine*slide.Along[0] + b.Cosine*slide.Along[1]}
					away := a.Apply(mgl64.Vec2{1, 2}).Sub(b.Apply(mgl64.Vec2{1, 2}))
					assert.InDelta(t, 0, away[0]*along[1]-away[1]*along[0], 1e-11*size, "and stays on its line")
				}
				near := !endless && math.Min(drive-low, high-drive) < 1e-6
				for i, n := range l.Nodes {
					for _, body := range n.Bodies {
						off := s.Poses[body].Apply(n.At).Sub(s.Nodes[i]).Len()
						if near {
							assert.LessOrEqual(t, off, 1e-7*size)
						} else {
							assert.LessOrEqual(t, off, 1e-12*size, "node %d, body %d at %g", i, body, drive)
						}
					}
				}
				first := append([]mgl64.Vec2{}, s.Nodes...)
				p.Solve(s, within(t, p))
				p.Solve(s, drive)
				assert.Equal(t, first, s.Nodes, "the same bits from anywhere")
			})
			assert.Zero(t, testing.AllocsPerRun(10, func() { p.Solve(s, 0.01) }))
		})
	}
}

// TestNoBendTurnsOverAndNothingJumps goes along each travel in small steps: no node goes farther than it may in one, and the bends of a four-bar stay on their side.
func TestNoBendTurnsOverAndNothingJumps(t *testing.T) {
	for name, l := range linkages {
		p, err := linkage.New(l)
		require.NoError(t, err, name)
		low, high, endless := p.Travel(0)
		if endless {
			low, high = -7, 7
		}
		s, size := p.NewState(), sizeOf(l)
		const count = 20_000
		before := []mgl64.Vec2{}
		for i := range count + 1 {
			share := 0.5 - 0.5*math.Cos(math.Pi*float64(i)/count) // slower to the ends, where bars fly
			require.True(t, p.Solve(s, low+(high-low)*share))
			for k, at := range s.Nodes {
				if len(before) > 0 {
					require.Less(t, at.Sub(before[k]).Len(), 2e-2*size, "%s, node %d at %d", name, k, i)
				}
			}
			before = append(before[:0], s.Nodes...)
		}
	}
}

// TestAParallelogramPassesItsLine turns a parallelogram right round, through where all bars are in one line: it stays one, and never becomes its crossed twin.
func TestAParallelogramPassesItsLine(t *testing.T) {
	p, err := linkage.New(linkages["parallel arm"])
	require.NoError(t, err)
	_, _, endless := p.Travel(0)
	require.True(t, endless)
	s := p.NewState()
	for i := range 4000 {
		require.True(t, p.Solve(s, float64(i)*2*math.Pi/4000))
		side := s.Nodes[2].Sub(s.Nodes[1])
		require.InDelta(t, 0, side.Sub(mgl64.Vec2{0, 1}).Len(), 1e-12, "what the arm carries stays level")
	}
}

// TestTheTravelOfAFourBarIsThatOfItsTriangle compares the ends of travel with where coupler and rocker lie in one line, by the law of cosines.
func TestTheTravelOfAFourBarIsThatOfItsTriangle(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		length := func(name string) float64 { return rapid.Float64Range(0.5, 4).Draw(t, name) }
		ground, driver := length("ground"), length("driver")
		start := rapid.Float64Range(-3, 3).Draw(t, "start")
		tip := mgl64.Vec2{driver * math.Cos(start), driver * math.Sin(start)}
		joint := mgl64.Vec2{rapid.Float64Range(-4, 4).Draw(t, "x"), rapid.Float64Range(-4, 4).Draw(t, "y")}
		far := mgl64.Vec2{ground, 0}
		coupler, rocker := joint.Sub(tip).Len(), joint.Sub(far).Len()
		l := linkage.Linkage{Bodies: 4, Drives: []linkage.Drive{{Body: 1}}, Nodes: []linkage.Node{node(0, 0, 0, 1), {At: tip, Bodies: []int{1, 2}}, {At: joint, Bodies: []int{2, 3}}, {At: far, Bodies: []int{0, 3}}}}
		p, err := linkage.New(l)
		if err != nil {
			t.Skip("straight at rest, or without a length")
		}
		low, high, endless := p.Travel(0)
		reaches := func(angle float64) float64 { // how far within what coupler and rocker can span; negative without
			d := math.Sqrt(ground*ground + driver*driver - 2*ground*driver*math.Cos(angle))
			return math.Min(coupler+rocker-d, d-math.Abs(coupler-rocker))
		}
		if endless {
			for i := range 720 {
				assert.Greater(t, reaches(float64(i)*math.Pi/360), -1e-6, "but for lengths that are so nearly equal that they count as equal")
			}
			return
		}
		for _, end := range []float64{low, high} {
			if math.Abs(end) < 2*math.Pi {
				assert.InDelta(t, 0, reaches(start+end), 1e-6)
			}
			for i := range 500 {
				assert.Greater(t, reaches(start+end*float64(i)/500), -1e-6)
			}
		}
	})
}

// TestEasedDrivesStayWithinTheirTravel turns handles anywhere: as far as they are turned near rest, never past an end, and never backwards.
func TestEasedDrivesStayWithinTheirTravel(t *testing.T) {
	p, err := linkage.New(linkages["two rockers"])
	require.NoError(t, err)
	low, high, _ := p.Travel(0)
	rapid.Check(t, func(t *rapid.T) {
		handle := rapid.Float64Range(-30, 30).Draw(t, "handle")
		drive, held := p.Eased(0, handle)
		assert.GreaterOrEqual(t, drive, low)
		assert.LessOrEqual(t, drive, high)
		further, _ := p.Eased(0, handle+1e-3)
		assert.GreaterOrEqual(t, further, drive-1e-12)
		if math.Abs(handle) > 20 {
			assert.True(t, held)
		}
	})
	at, _ := p.Eased(0, 1e-6)
	assert.InDelta(t, 1e-6, at, 1e-10)
	still, held := p.Eased(0, 0)
	assert.Zero(t, still)
	assert.False(t, held)
}

// What is loose is told with how it can move: bars go on together at their pins, none leaves what stands still or is driven, and freedoms are those that counting gives.
func TestWhatIsLooseIsToldWithHowItMoves(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		count := rapid.IntRange(4, 9).Draw(t, "bars") // in one loop with what stands still
		loop := linkage.Linkage{Bodies: count + 1, Drives: []linkage.Drive{{Body: 1}}}
		for i := range count + 1 {
			sine, cosine := math.Sincos(2 * math.Pi * float64(i) / float64(count+1))
			out := rapid.Float64Range(0.6, 1.4).Draw(t, "out")
			loop.Nodes = append(loop.Nodes, node(100*out*cosine, 100*out*sine, i, (i+1)%(count+1)))
		}
		_, err := linkage.New(loop)
		var fault *linkage.Fault
		require.ErrorAs(t, err, &fault)
		require.ErrorIs(t, err, linkage.ErrLoose)
		assert.Equal(t, count-2, fault.Freedoms)
		loosest := fault.Rates[fault.Bodies[0]].Turn
		assert.NotZero(t, loosest)
		for _, n := range loop.Nodes {
			var ways []mgl64.Vec2
			for _, body := range n.Bodies {
				rate := fault.Rates[body]
				ways = append(ways, rate.Move.Add(mgl64.Vec2{-n.At[1], n.At[0]}.Mul(rate.Turn)))
			}
			assert.InDelta(t, 0, ways[0].Sub(ways[1]).Len(), 1e-9*100*math.Abs(loosest), "%v", n)
		}
	})
}

func TestWhatIsNoLinkageIsRefused(t *testing.T) {
	_, err := linkage.New(linkage.Linkage{Bodies: 4, Drives: []linkage.Drive{{Body: 1}}, Nodes: []linkage.Node{node(0, 0, 0, 1), node(1, 0, 1, 2), node(2, 0, 2, 3), node(3, 0, 0, 3)}})
	require.ErrorIs(t, err, linkage.ErrStraight)
	var fault *linkage.Fault
	require.True(t, errors.As(err, &fault))
	assert.ElementsMatch(t, []int{2, 3}, fault.Bodies, "it is told which")
	_, err = linkage.New(linkage.Linkage{Bodies: 5, Drives: []linkage.Drive{{Body: 1}}, Nodes: []linkage.Node{node(0, 0, 0, 1), node(0, 1, 1, 2), node(1, 2, 2, 3), node(2, 2, 3, 4), node(2, 0, 0, 4)}})
	require.ErrorIs(t, err, linkage.ErrLoose)
	_, err = linkage.New(linkage.Linkage{Bodies: 2, Drives: []linkage.Drive{{Body: 1}}, Nodes: []linkage.Node{node(1, 1, 0, 1)}})
	require.ErrorContains(t, err, "in one place")
	_, err = linkage.New(linkage.Linkage{Bodies: 4, Drives: []linkage.Drive{{Body: 1}}, Nodes: []linkage.Node{node(0, 0, 0, 1), node(0, 1, 1, 2), node(0, 1, 2, 3), node(3, 0, 0, 3)}})
	require.ErrorContains(t, err, "no length")
}

func BenchmarkFourBar(b *testing.B)  { bench(b, "crank and rocker") }
func BenchmarkScissors(b *testing.B) { bench(b, "scissors of twelve") }
func BenchmarkTogether(b *testing.B) { bench(b, "what does not come apart") }

func bench(b *testing.B, name string) {
	p, err := linkage.New(linkages[name])
	require.NoError(b, err)
	s := p.NewState()
	drive := 0.0
	b.ReportAllocs()
	for b.Loop() {
		drive = 0.05 - drive
		p.Solve(s, drive)
	}
}
