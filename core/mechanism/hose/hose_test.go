package hose_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/mechanism/hose"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// shapes are hoses at rest, in units of their own: bent aside, sagging, coiled, straight.
var shapes = map[string]func(share float64) mgl64.Vec3{
	"bent":    func(s float64) mgl64.Vec3 { return mgl64.Vec3{0.4 * math.Sin(math.Pi*s), 0.3 * s, 1.2 * s} },
	"sagging": func(s float64) mgl64.Vec3 { return mgl64.Vec3{0.1 * s, -1.6 * s * (1 - s), s} },
	"coiled": func(s float64) mgl64.Vec3 {
		return mgl64.Vec3{0.15 * math.Sin(8*math.Pi*s), 0.15 * math.Cos(8*math.Pi*s), 0.6 * s}
	},
	"straight": func(s float64) mgl64.Vec3 { return mgl64.Vec3{0, 0.5 * s, s} },
}

// hung is a hose between two things that handles move: the first hangs on one, and another holds the end.
type hung struct {
	*evaluate.Evaluator
	ends  [2]int // controls
	first int    // joint
	count int
	size  float64
}

func newHung(t require.TestingT, shape string, size float64, parameters parameter.Set) hung {
	const count = 18
	var places []mgl64.Vec3
	for i := range count {
		places = append(places, shapes[shape](float64(i)/(count-1)).Mul(size))
	}
	d := rigtest.Apply(t, rig.New("x"), &edit.LayChain{Positions: []mgl64.Vec3{{0, 0, -0.3 * size}}, Pattern: "tank"})
	d = rigtest.Apply(t, d, &edit.LayChain{Positions: places, Pattern: "hose_#", Parent: d.Joints[0].ID})
	d = rigtest.Apply(t, d, &edit.AddControl{Name: "from", Position: places[0], Shape: rig.Cross, Reach: 0.2 * size}, &edit.AddControl{Name: "to", Position: places[count-1], Shape: rig.Cross, Reach: 0.2 * size})
	from, to := d.ControlNamed("from").ID, d.ControlNamed("to").ID
	d = rigtest.Apply(t, d, &edit.AddMechanism{Mechanism: "follow", Name: "tank_follows", Roles: map[string][]string{"follower": {d.Joints[0].ID}, "sources": {from}}})
	d = rigtest.Apply(t, d, &edit.AddMechanism{Mechanism: hose.Name, Name: "hose", Roles: map[string][]string{"chain": {d.Joints[1].ID, d.Joints[count].ID}, "end": {to}}, Parameters: parameters})
	e := rigtest.Open(t, d)
	h := hung{Evaluator: e, first: 1, count: count, size: size}
	h.ends[0], h.ends[1] = e.Plan.ControlIndex[from], e.Plan.ControlIndex[to]
	return h
}

// pose moves and turns an end, by shares of the size and radians.
func (h hung) pose(end int, numbers [6]float64) {
	for k, channel := range rig.Channels[:6] {
		value := numbers[k]
		if k < 3 {
			value *= h.size
		}
		if err := h.SetChannel(h.ends[end], channel, value); err != nil {
			panic(err)
		}
	}
}

func randomPose(random *rand.Rand, far float64) (p [6]float64) {
	for k := range p {
		p[k] = random.NormFloat64() * map[bool]float64{true: far, false: 0.5}[k < 3]
	}
	return p
}

// length is how long the hose's curve is, as many straight ways in the place of its quadrature.
func (h hung) length() (length float64) {
	line := h.Frame.Curves[0].Base
	const looks = 10000
	before, _ := line.At(0)
	for k := 1; k <= looks; k++ {
		now, _ := line.At(float64(k) / looks)
		length += now.Sub(before).Len()
		before = now
	}
	return length
}

func (h hung) told(text string) bool {
	for _, finding := range h.Findings() {
		if contains(finding.Text, text) {
			return true
		}
	}
	return false
}

func contains(text, part string) bool {
	for i := 0; i+len(part) <= len(text); i++ {
		if text[i:i+len(part)] == part {
			return true
		}
	}
	return false
}

func TestAHoseKeepsItsLengthAndItsEndsTheirDirections(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 1))
	for name := range shapes {
		h := newHung(t, name, math.Pow(10, 2*random.Float64()-1), nil)
		h.Evaluate()
		long := h.length()
		line := h.Frame.Curves[0].Base
		n := len(line.Points) - 1
		first, last := line.Points[1].Sub(line.Points[0]).Normalize(), line.Points[n].Sub(line.Points[n-1]).Normalize()
		worst, turned, kept, short := 0.0, 0.0, 0, 0
		for range 150 {
			h.pose(0, randomPose(random, 0.15))
			h.pose(1, randomPose(random, 0.15))
			h.Evaluate()
			if h.told("does not reach") {
				continue
			}
			worst = math.Max(worst, math.Abs(h.length()/long-1))
			a, b := h.Frame.Controls[h.ends[0]], h.Frame.Controls[h.ends[1]]
			assert.Less(t, h.Frame.Joints[h.first+h.count-1].Position.Sub(b.Position).Len(), 1e-9*h.size)
			if h.told("too short") {
				short++
				continue
			}
			kept++
			turned = math.Max(turned, line.Points[1].Sub(line.Points[0]).Normalize().Sub(a.Rotation.Rotate(first)).Len())
			turned = math.Max(turned, line.Points[n].Sub(line.Points[n-1]).Normalize().Sub(b.Rotation.Rotate(last)).Len())
		}
		t.Logf("%s: its length is kept to %.1e in %d poses, and in %d where it was too short; directions to %.1e", name, worst, kept, short, turned)
		assert.Less(t, worst, 1e-6)
		assert.Less(t, turned, 1e-9)
		assert.Greater(t, kept, 20)
	}
}

func TestAHoseGoesOnEvenlyOrTells(t *testing.T) {
	random := rand.New(rand.NewPCG(8, 1))
	for name := range shapes {
		h := newHung(t, name, 1, nil)
		for range 60 {
			from, to := [2][6]float64{randomPose(random, 0.3), randomPose(random, 0.3)}, [2][6]float64{randomPose(random, 0.3), randomPose(random, 0.3)}
			at := func(share float64) (places []mgl64.Vec3, told bool) {
				for end := range 2 {
					var p [6]float64
					for k := range p {
						p[k] = from[end][k] + share*(to[end][k]-from[end][k])
					}
					h.pose(end, p)
				}
				h.Evaluate()
				for i := range h.count {
					places = append(places, h.Frame.Joints[h.first+i].Position)
				}
				return places, h.told("cancel") || h.told("half round")
			}
			for range 40 {
				share := random.Float64()
				a, told := at(share)
				b, also := at(share + 1e-9)
				for i := range a {
					require.True(t, geometry.FiniteVector(b[i]))
					if !told && !also { // where slack runs out it straightens with the square root of what is left
						require.Less(t, b[i].Sub(a[i]).Len(), 2e-4, "%s, share %g, joint %d, findings %v", name, share, i, h.Findings())
					}
				}
			}
		}
	}
}

func TestAHoseTellsWhereItIsTooShort(t *testing.T) {
	h := newHung(t, "bent", 1, nil)
	h.pose(1, [6]float64{0, 0, 3, 0, 0, 0})
	h.Evaluate()
	assert.True(t, h.told("does not reach"))
	first, last := h.Frame.Joints[h.first].Position, h.Frame.Joints[h.first+h.count-1].Position
	gone := 0.0
	for i := 1; i < h.count; i++ {
		gone += h.Frame.Joints[h.first+i].Position.Sub(h.Frame.Joints[h.first+i-1].Position).Len()
	}
	assert.InDelta(t, gone, last.Sub(first).Len(), 1e-6, "it is straight")
	h.pose(1, [6]float64{})
	h.pose(0, [6]float64{0.4, 0.3, 1.2, 0, 0, 0})
	h.Evaluate()
	for i := range h.count {
		assert.True(t, geometry.FiniteVector(h.Frame.Joints[h.first+i].Position), "both ends in one place")
	}
}

func TestARopeIsPaidOut(t *testing.T) {
	h := newHung(t, "sagging", 1, parameter.Set{"paid": parameter.OfNumber(0.25)})
	h.Evaluate()
	was := newHung(t, "sagging", 1, nil)
	was.Evaluate()
	assert.InDelta(t, was.length()+0.25, h.length(), 1e-6)
}

func TestWhatIsNoHoseIsRefused(t *testing.T) {
	d := rigtest.Apply(t, rig.New("x"), &edit.LayChain{Positions: []mgl64.Vec3{{0, 0, 0}, {0, 0, 1}, {0, 0, 2}, {0, 0, 3}}, Pattern: "hose_#"})
	rigtest.Refuse(t, d, &edit.AddMechanism{Mechanism: hose.Name, Name: "hose", Roles: map[string][]string{"chain": {d.Joints[0].ID, d.Joints[2].ID}, "end": {d.Joints[3].ID}}}, "goes with the hose itself")
	rigtest.Refuse(t, d, &edit.AddMechanism{Mechanism: hose.Name, Name: "hose", Roles: map[string][]string{"chain": {d.Joints[0].ID, d.Joints[1].ID}, "end": {d.Joints[3].ID}}}, "3 joints or more")
}

func BenchmarkHose(b *testing.B) {
	h := newHung(b, "bent", 1, nil)
	b.ReportAllocs()
	for i := 0; b.Loop(); i++ {
		h.pose(1, [6]float64{0, 0, 0.001 * float64(i%100), 0, 0, 0})
		h.Evaluate()
	}
	b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N*h.count), "ns/joint")
}
