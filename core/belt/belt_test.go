package belt_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/belt"
)

// crawler is the running gear of a crawler, in any size: road wheels below, a sprocket and an idler at its ends, rollers above, and perhaps a wheel that presses on the belt from above.
func crawler(random *rand.Rand, size float64) []belt.Wheel {
	wheels := []belt.Wheel{{At: mgl64.Vec2{-1.6, 0.45}, Radius: 0.32}, {At: mgl64.Vec2{1.6, 0.42}, Radius: 0.3}}
	road := 3 + random.IntN(4)
	for k := range road {
		wheels = append(wheels, belt.Wheel{At: mgl64.Vec2{-1.1 + 2.2*float64(k)/float64(road-1), 0.26 + 0.03*random.Float64()}, Radius: 0.22})
	}
	for k := range random.IntN(3) {
		wheels = append(wheels, belt.Wheel{At: mgl64.Vec2{-0.5 + float64(k), 0.66 + 0.03*random.Float64()}, Radius: 0.1})
	}
	if random.IntN(3) == 0 {
		wheels = append(wheels, belt.Wheel{At: mgl64.Vec2{1.1, 0.9}, Radius: 0.12, Outside: true})
	}
	random.Shuffle(len(wheels), func(i, j int) { wheels[i], wheels[j] = wheels[j], wheels[i] })
	for i := range wheels {
		wheels[i].At, wheels[i].Radius = wheels[i].At.Mul(size), wheels[i].Radius*size
	}
	list := make([]belt.Wheel, len(wheels))
	for i, at := range belt.Order(wheels) {
		list[i] = wheels[at]
	}
	return list
}

func fitted(t *testing.T, wheels []belt.Wheel, pitch float64) belt.Belt {
	b := belt.Belt{Pitch: pitch, Hang: belt.Hang{Down: mgl64.Vec2{0, -1}}, Along: mgl64.Vec2{1, 0}}
	var err error
	b.Links, err = belt.Fit(b, wheels)
	require.NoError(t, err)
	return b
}

// The claims are measured on the pins alone, by the wheels' circles and the level, and not by the path that the pins were laid on.
func TestLinksCloseAtOneChordInEveryPhase(t *testing.T) {
	random := rand.New(rand.NewPCG(1, 1))
	worst, deepest, moved := 0.0, 0.0, 0.0
	for range 40 {
		size := math.Pow(10, 4*random.Float64()-2)
		wheels := crawler(random, size)
		pitch := (0.07 + 0.02*random.Float64()) * size
		b := fitted(t, wheels, pitch)
		laid := belt.NewLaid(b, len(wheels))
		var before []mgl64.Vec2
		const looks = 200
		for k := range looks + 1 {
			require.True(t, laid.Lay(b, wheels, float64(k)/looks))
			for i, p := range laid.Pins {
				next := laid.Pins[(i+1)%len(laid.Pins)]
				worst = math.Max(worst, math.Abs(next.Sub(p).Len()/laid.Chord-1))
				for _, w := range wheels {
					nearest := p.Add(next).Mul(0.5).Sub(w.At).Len()
					deepest = math.Max(deepest, (math.Sqrt(w.Radius*w.Radius-laid.Chord*laid.Chord/4)-nearest)/w.Radius)
				}
			}
			require.Equal(t, pitch, laid.Chord, "slack of less than one link fits between the wheels")
			if k > 0 {
				for i := range laid.Pins {
					moved = math.Max(moved, laid.Pins[i].Sub(before[i]).Len()*looks/pitch)
				}
			}
			before = append(before[:0], laid.Pins...)
		}
		first := belt.NewLaid(b, len(wheels))
		require.True(t, first.Lay(b, wheels, 0))
		for i := range before {
			assert.InDelta(t, 0, before[i].Sub(first.Pins[(i+1)%len(before)]).Len()/pitch, 1e-9, "after one link's phase each pin is where the next one was")
		}
	}
	t.Logf("chords %.1e, links within wheels %.1e of the radius, a pin goes %.2f links in a link's phase at most", worst, deepest, moved)
	assert.Less(t, worst, 1e-9)
	assert.Less(t, deepest, 1e-9, "no link cuts a wheel by more than the height of its chord")
	assert.Less(t, moved, 1.3)
}

func TestABeltGoesOnEvenlyWithItsWheels(t *testing.T) {
	random := rand.New(rand.NewPCG(2, 1))
	for range 30 {
		wheels := crawler(random, 1)
		b := fitted(t, wheels, 0.08)
		lay := func(share float64, ways []mgl64.Vec2) []mgl64.Vec2 {
			moved := append([]belt.Wheel{}, wheels...)
			for i := range moved {
				moved[i].At = moved[i].At.Add(ways[i].Mul(share))
			}
			laid := belt.NewLaid(b, len(moved))
			require.True(t, laid.Lay(b, moved, 0.3*share))
			return laid.Pins
		}
		var ways []mgl64.Vec2
		for range wheels {
			ways = append(ways, mgl64.Vec2{0.02 * random.NormFloat64(), 0.04 * random.NormFloat64()})
		}
		// What jumps does so at any fineness: between two looks a pin goes no farther when they come nearer together.
		for at := range 40 {
			coarse, fine := 0.0, 0.0
			from, mid, to := lay(float64(at)/40, ways), lay((float64(at)+1e-4)/40, ways), lay((float64(at)+1e-7)/40, ways)
			for i := range from {
				coarse, fine = math.Max(coarse, mid[i].Sub(from[i]).Len()), math.Max(fine, to[i].Sub(from[i]).Len())
			}
			assert.LessOrEqual(t, fine, 1e-9+math.Max(0.04*coarse, 1e-6)) // a taut belt's sag goes with the square root of its slack
		}
	}
}

func TestTheLowerRunGoesByExactlyWhatItIsDriven(t *testing.T) {
	wheels := []belt.Wheel{{At: mgl64.Vec2{-1.6, 0.45}, Radius: 0.32}, {At: mgl64.Vec2{-0.8, 0.2}, Radius: 0.2}, {At: mgl64.Vec2{0, 0.2}, Radius: 0.2}, {At: mgl64.Vec2{0.8, 0.2}, Radius: 0.2}, {At: mgl64.Vec2{1.6, 0.45}, Radius: 0.32}, {At: mgl64.Vec2{0, 0.68}, Radius: 0.09}}
	b := fitted(t, wheels, 0.09)
	laid := belt.NewLaid(b, len(wheels))
	for _, phase := range []float64{0, 0.25, 0.7, 1} {
		require.True(t, laid.Lay(b, wheels, phase))
		for k := range 8 {
			assert.InDelta(t, 0.09*(phase+float64(k)), laid.Pins[k][0], 1e-14)
			assert.InDelta(t, 0, laid.Pins[k][1], 1e-14)
		}
	}
}

// A slack span is measured against the catenary of its length between its ends, which is found apart from it.
func TestSlackHangsNearlyAsACatenary(t *testing.T) {
	wheels := []belt.Wheel{{At: mgl64.Vec2{-1, 0.3}, Radius: 0.3}, {At: mgl64.Vec2{1, 0.3}, Radius: 0.3}}
	p := belt.NewPath(2)
	for _, slack := range []float64{0.02, 0.1, 0.3} {
		require.True(t, p.Lead(wheels, belt.Hang{Down: mgl64.Vec2{0, -1}}, slack))
		for _, piece := range p.Pieces {
			if piece.Wheel >= 0 || piece.Bend == 0 {
				continue
			}
			end, _ := piece.At(piece.Length)
			middle, _ := piece.At(piece.Length / 2)
			half := piece.From.Sub(end).Len() / 2
			low, high := half/50, half*1e5
			for range 200 {
				if a := math.Sqrt(low * high); 2*a*math.Sinh(half/a) > piece.Length {
					low = a
				} else {
					high = a
				}
			}
			sag := low * (math.Cosh(half/low) - 1)
			assert.InDelta(t, sag, piece.From[1]-middle[1], 0.03*sag)
		}
	}
}

func TestABeltThatDoesNotFitIsStretchedAndThatShows(t *testing.T) {
	wheels := []belt.Wheel{{At: mgl64.Vec2{-1, 0.3}, Radius: 0.3}, {At: mgl64.Vec2{1, 0.3}, Radius: 0.3}}
	b := fitted(t, wheels, 0.1)
	laid := belt.NewLaid(b, 2)
	apart := append([]belt.Wheel{}, wheels...)
	apart[1].At[0] = 1.4
	require.True(t, laid.Lay(b, apart, 0.4))
	assert.True(t, laid.Tight(b))
	assert.InDelta(t, laid.Chord, laid.Pins[len(laid.Pins)-1].Sub(laid.Pins[0]).Len(), 1e-9)
	apart[1].At[0] = -0.2
	require.True(t, laid.Lay(b, apart, 0.4))
	assert.True(t, laid.Loose(b))
	assert.InDelta(t, laid.Chord, laid.Pins[len(laid.Pins)-1].Sub(laid.Pins[0]).Len(), 1e-9)
}

func TestWhatNoBeltGoesRoundIsRefused(t *testing.T) {
	b := belt.Belt{Pitch: 0.1, Hang: belt.Hang{Down: mgl64.Vec2{0, -1}}, Along: mgl64.Vec2{1, 0}}
	within := []belt.Wheel{{At: mgl64.Vec2{0, 0}, Radius: 1}, {At: mgl64.Vec2{0.1, 0}, Radius: 0.3}}
	_, err := belt.Fit(b, within)
	assert.ErrorIs(t, err, belt.ErrNoWay)
	_, err = belt.Fit(b, within[:1])
	assert.ErrorIs(t, err, belt.ErrNoWay)
	b.Pitch = 0.4
	_, err = belt.Fit(b, []belt.Wheel{{At: mgl64.Vec2{-1, 0}, Radius: 0.3}, {At: mgl64.Vec2{1, 0}, Radius: 0.3}})
	assert.ErrorContains(t, err, "longer than the radius")
	b.Pitch = 1e-4
	_, err = belt.Fit(b, []belt.Wheel{{At: mgl64.Vec2{-1, 0}, Radius: 0.3}, {At: mgl64.Vec2{1, 0}, Radius: 0.3}})
	assert.ErrorContains(t, err, "is the most")
	b.Pitch = 0.1
	crossed := []belt.Wheel{{At: mgl64.Vec2{-1, 0}, Radius: 0.3}, {At: mgl64.Vec2{1, 0}, Radius: 0.3}, {At: mgl64.Vec2{0, 2}, Radius: 0.3}, {At: mgl64.Vec2{0.2, -2}, Radius: 0.3}}
	_, err = belt.Fit(b, crossed)
	assert.Error(t, err)
}

func BenchmarkLayACrawler(bench *testing.B) {
	wheels := crawler(rand.New(rand.NewPCG(5, 1)), 1)
	b := belt.Belt{Pitch: 0.11, Hang: belt.Hang{Down: mgl64.Vec2{0, -1}}, Along: mgl64.Vec2{1, 0}}
	b.Links, _ = belt.Fit(b, wheels)
	laid := belt.NewLaid(b, len(wheels))
	bench.ReportAllocs()
	for i := 0; bench.Loop(); i++ {
		laid.Lay(b, wheels, float64(i%100)/100)
	}
	bench.ReportMetric(float64(b.Links), "links")
}
