package track_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/mechanism/ground"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mechanism/settle"
	"myriapod/core/mechanism/track"
	"myriapod/core/mesh"
	"myriapod/core/motion"
	"myriapod/core/parameter"
	"myriapod/core/plan"
	"myriapod/core/rig"
)

// cylinder is a wheel about an axle to the left, or a box of eight corners where around is 4.
func cylinder(at mgl64.Vec3, radius, half float64, around int) *mesh.Mesh {
	m := &mesh.Mesh{}
	for _, left := range []float64{-half, half} {
		for k := range around {
			sine, cosine := math.Sincos(2 * math.Pi * float64(k) / float64(around))
			m.Positions = append(m.Positions, float32(at[0]+left), float32(at[1]+radius*cosine), float32(at[2]+radius*sine))
		}
	}
	n := uint32(around)
	for k := range n {
		next := (k + 1) % n
		m.Triangles = append(m.Triangles, k, n+k, next, next, n+k, n+next)
		if k > 0 && k < n-1 {
			m.Triangles = append(m.Triangles, 0, k, k+1, n, n+k+1, n+k)
		}
	}
	return m
}

// hull is a box.
func hull(low, high mgl64.Vec3) *mesh.Mesh {
	m := &mesh.Mesh{}
	for k := range 8 {
		corner := low
		for axis := range 3 {
			if k>>axis&1 == 1 {
				corner[axis] = high[axis]
			}
		}
		m.Positions = append(m.Positions, float32(corner[0]), float32(corner[1]), float32(corner[2]))
	}
	for _, f := range [][4]uint32{{0, 2, 3, 1}, {4, 5, 7, 6}, {0, 1, 5, 4}, {2, 6, 7, 3}, {0, 4, 6, 2}, {1, 3, 7, 5}} {
		m.Triangles = append(m.Triangles, f[0], f[1], f[2], f[0], f[2], f[3])
	}
	return m
}

// crawler is a vehicle under test: its document and its surfaces.
type crawler struct {
	t        require.TestingT
	document *rig.Document
	surfaces edit.Memory
}

func (c *crawler) apply(edits ...edit.Edit) {
	for _, e := range edits {
		context := &edit.Context{Kinds: kinds.All(), Surfaces: c.surfaces, Blobs: map[string][]byte{}}
		result, err := edit.Apply(context, c.document, e)
		require.NoError(c.t, err)
		if result.Drift != nil {
			require.Less(c.t, result.Drift.Joints, 1e-9, "nothing moves when it is built")
		}
		for hash, data := range context.Blobs {
			c.surfaces[hash] = data
		}
		c.document = result.Document
	}
}

func (c *crawler) id(name string) (found string) {
	c.document.EachNamed(func(id, n string) bool {
		if n == name {
			found = id
		}
		return found == ""
	})
	require.NotEmpty(c.t, found, name)
	return found
}

// gear lists the wheels of a track: height, way ahead, radius.
var gear = [][3]float64{{0.42, -1.3, 0.26}, {0.4, 1.3, 0.25}, {0.25, -0.8, 0.17}, {0.25, -0.25, 0.17}, {0.25, 0.3, 0.17}, {0.25, 0.85, 0.17}, {0.6, -0.4, 0.06}, {0.6, 0.45, 0.06}}

// newCrawler is a hull on two tracks, in a size, whose link is drawn on the lower run, or, where it is not on the track, by itself.
func newCrawler(t require.TestingT, size float64, drawnOnIt bool) *crawler {
	c := &crawler{t: t, document: rig.New("x"), surfaces: edit.Memory{}}
	add := &edit.AddParts{From: "test"}
	blobs := map[string][]byte{}
	part := func(name string, m *mesh.Mesh) {
		for i := range m.Positions {
			m.Positions[i] *= float32(size)
		}
		m.ComputeNormals()
		data := m.Encode()
		blobs[edit.Hash(data)] = data
		add.Parts = append(add.Parts, edit.NewPart{Name: name, Mesh: edit.Hash(data), Vertices: m.VertexCount(), Colour: "#808080"})
	}
	for side, left := range map[string]float64{"L": 0.8, "R": -0.8} {
		for i, w := range gear {
			part(fmt.Sprintf("wheel_%s%d", side, i), cylinder(mgl64.Vec3{left, w[0], w[1]}, w[2], 0.1, 36))
		}
	}
	link := mgl64.Vec3{0.8, 0.055, 0.1}
	if !drawnOnIt {
		link = mgl64.Vec3{3, 2, 5}
	}
	part("link", hull(link.Sub(mgl64.Vec3{0.15, 0.025, 0.06}), link.Add(mgl64.Vec3{0.15, 0.025, 0.06})))
	for hash, data := range blobs {
		c.surfaces[hash] = data
	}
	c.apply(add)
	c.apply(&edit.LayChain{Positions: []mgl64.Vec3{{0, 0.7 * size, 0}}, Pattern: "hull"})
	for side, left := range map[string]float64{"L": 0.8, "R": -0.8} {
		for i, w := range gear {
			name := fmt.Sprintf("hub_%s%d", side, i)
			c.apply(&edit.LayChain{Positions: []mgl64.Vec3{mgl64.Vec3{left, w[0], w[1]}.Mul(size)}, Pattern: name, Parent: c.id("hull")})
			c.apply(&edit.BindRigid{Parts: []string{c.id(fmt.Sprintf("wheel_%s%d", side, i))}, Joint: c.id(name)})
		}
	}
	return c
}

func (c *crawler) track(side string, parameters parameter.Set) *edit.AddMechanism {
	var hubs []string
	for i := range gear {
		hubs = append(hubs, c.id(fmt.Sprintf("hub_%s%d", side, (i*5+3)%len(gear)))) // in any order
	}
	return &edit.AddMechanism{Mechanism: track.Name, Name: "track_" + side, Roles: map[string][]string{"wheels": hubs, "link": {c.id("link")}}, Parameters: parameters}
}

// drive has the clip take it ahead, round a bend, and turn on the spot.
func (c *crawler) drive(size float64, poses map[float64][3]float64) {
	c.apply(&edit.AddClip{Name: "drive", End: 120})
	root := c.document.ControlNamed(rig.RootName).ID
	set := &edit.SetKeys{Clip: c.document.Clips[0].ID}
	for frame, pose := range poses {
		for k, channel := range []rig.Channel{rig.MoveX, rig.MoveZ, rig.RotateY} {
			value := pose[k]
			if k < 2 {
				value *= size
			}
			set.Keys = append(set.Keys, edit.KeyValue{KeyPlace: edit.KeyPlace{Control: root, Channel: channel, Frame: frame}, Value: value, Ease: rig.Smooth})
		}
	}
	c.apply(set)
}

func (c *crawler) open() *evaluate.Evaluator {
	p, err := plan.Build(c.document, kinds.All(), c.surfaces)
	require.NoError(c.t, err)
	e := evaluate.New(p)
	if len(c.document.Clips) > 0 {
		e.SetClip(motion.Prepare(c.document.Clips[0]))
	}
	return e
}

// driven is a crawler on two tracks on some ground.
func driven(t require.TestingT, size float64, land parameter.Set, poses map[float64][3]float64) (*crawler, *evaluate.Evaluator) {
	c := newCrawler(t, size, true)
	c.apply(c.track("L", parameter.Set{"travel": parameter.OfNumber(0.12 * size)}), c.track("R", parameter.Set{"travel": parameter.OfNumber(0.12 * size)}))
	c.apply(&edit.AddMechanism{Mechanism: ground.Name, Name: "ground", Parameters: land}, &edit.AddMechanism{Mechanism: settle.Name, Name: "settle"})
	c.drive(size, poses)
	return c, c.open()
}

func level() parameter.Set {
	return parameter.Set{"shape": parameter.OfChoice("flat"), "level": parameter.OfNumber(0)}
}

// ends is where the pins of a link are: half a pitch before and behind its middle, of the left track's first link at rest.
func ends(e *evaluate.Evaluator, set, link int, size float64) (from, to mgl64.Vec3) {
	const left = 0.8
	at := e.Frame.Instances[set][link].Place
	return at.Apply(mgl64.Vec3{left, 0.055, 0.1 - 0.06}.Mul(size)), at.Apply(mgl64.Vec3{left, 0.055, 0.1 + 0.06}.Mul(size))
}

// A link that touches the level does not move as the vehicle goes straight, and all links hang together pin to pin. Both are seen on the links as they are drawn, in three sizes.
func TestTracksLieStillOnTheGround(t *testing.T) {
	for _, size := range []float64{0.01, 1, 40} {
		_, e := driven(t, size, level(), map[float64][3]float64{0: {}, 120: {0, 6, 0}})
		require.Greater(t, len(e.Frame.Instances[0]), 50)
		slip, apart, beside, way := 0.0, 0.0, 0.0, 0.0
		for set := range 2 {
			var before []mgl64.Vec3
			for k := range 481 {
				e.SetFrame(float64(k) / 4)
				e.Evaluate()
				var now []mgl64.Vec3
				n := len(e.Frame.Instances[set])
				for link := range n {
					_, to := ends(e, set, link, size)
					next, _ := ends(e, set, (link+1)%n, size)
					apart = math.Max(apart, to.Sub(next).Len()/size)
					beside = math.Max(beside, math.Abs(math.Abs(to[0])/size-0.8))
					assert.Equal(t, set == 0, to[0] > 0, "the right track is on the right")
					now = append(now, to)
					if k > 0 && math.Abs(to[1]-0.055*size) < 1e-7*size && math.Abs(before[link][1]-0.055*size) < 1e-7*size {
						slip = math.Max(slip, math.Hypot(to[0]-before[link][0], to[2]-before[link][2])/size)
						way++
					}
				}
				before = now
			}
		}
		t.Logf("size %g: %.0f looks at links on the ground, they slip %.1e, pins come apart %.1e", size, way, slip, apart)
		assert.Greater(t, way, 5000.0)
		assert.Less(t, slip, 1e-8) // the model comes in single precision
		assert.Less(t, apart, 1e-7)
		assert.Less(t, beside, 1e-6)
	}
}

func TestWheelsTurnWithTheirTrack(t *testing.T) {
	c, e := driven(t, 1, level(), map[float64][3]float64{0: {}, 120: {0, 6, 0}})
	for _, frame := range []float64{0, 40, 77, 120} {
		e.SetFrame(frame)
		e.Evaluate()
		way := e.Frame.Joints[0].Position[2]
		for i, w := range gear {
			at := e.Frame.Joints[e.Plan.JointIndex[c.id(fmt.Sprintf("hub_L%d", i))]].Rotation
			rate := 1 / w[2]
			if i < 2 { // they go with the pins of the links that lie round them
				rate = 2 * math.Asin(0.06/(w[2]+0.025)) / 0.12
			}
			turned := 2 * math.Atan2(at.V[0], at.W)
			assert.InDelta(t, 0, math.Remainder(turned-way*rate, 2*math.Pi), 1e-5*math.Max(1, way), "wheel %d at %g", i, frame)
		}
	}
}

func TestTurningOnTheSpotDrivesTracksAgainstEachOther(t *testing.T) {
	c, e := driven(t, 1, level(), map[float64][3]float64{0: {}, 120: {0, 0, 1.5}})
	e.SetFrame(120)
	e.Evaluate()
	about := c.document.ControlNamed(rig.RootName).Position[0]
	for side, left := range []float64{0.8, -0.8} {
		turned := e.Frame.Turnings[side*len(gear)+3] * e.Plan.Document.Mechanisms[side].Sizes[3]
		assert.InDelta(t, -1.5*(left-about), turned, 1e-6, "each goes by the arc that its lower run's middle goes by, one back and one ahead")
	}
}

// Over the edges of steps, round a bend and back, the links go on evenly: what jumped would do so however near two looks come.
func TestLinksGoOnEvenly(t *testing.T) {
	land := parameter.Set{"shape": parameter.OfChoice("steps"), "rise": parameter.OfNumber(0.1), "run": parameter.OfNumber(0.9), "begin": parameter.OfNumber(1.9), "count": parameter.OfNumber(2), "level": parameter.OfNumber(0)}
	_, e := driven(t, 1, land, map[float64][3]float64{0: {}, 60: {0, 2.6, 0.3}, 90: {0.4, 3.4, 0.5}, 120: {0, 1, 0.2}})
	at := func(frame float64) (places []mgl64.Vec3) {
		e.SetFrame(frame)
		e.Evaluate()
		for set := range 2 {
			for link := range e.Frame.Instances[set] {
				from, _ := ends(e, set, link, 1)
				places = append(places, from)
			}
		}
		return places
	}
	random := rand.New(rand.NewPCG(4, 4))
	for range 600 {
		frame := 119 * random.Float64()
		begin, middle, end := at(frame), at(frame+1e-6), at(frame+2e-6)
		for i := range begin {
			assert.Less(t, end[i].Sub(begin[i]).Len(), 2e-3, "frame %g", frame) // slack that just begins hangs with the square root of what there is
			_ = middle
		}
	}
}

func TestALinkThatLiesElsewhereIsTakenToTheTrack(t *testing.T) {
	c := newCrawler(t, 1, false)
	c.apply(c.track("L", nil))
	e := c.open()
	e.Evaluate()
	low, high := math.Inf(1), math.Inf(-1)
	for _, instance := range e.Frame.Instances[0] {
		at := instance.Place.Apply(mgl64.Vec3{3, 2, 5})
		low, high = math.Min(low, at[1]), math.Max(high, at[1])
		assert.InDelta(t, 0.8, at[0], 1e-5, "it goes over the middle of the wheels")
	}
	assert.InDelta(t, 0.055, low, 1e-3)
	assert.Greater(t, high, 0.65)
	body, err := evaluate.NewBody(e, c.surfaces)
	require.NoError(t, err)
	for _, drawn := range body.Drawn() {
		assert.NotEqual(t, "link", drawn.Name, "links are drawn instead of the part itself")
	}
}

func TestWhatIsNoTrackIsRefused(t *testing.T) {
	c := newCrawler(t, 1, true)
	refuse := func(e *edit.AddMechanism, want string) {
		_, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: c.surfaces}, c.document, e)
		require.Error(t, err)
		assert.Contains(t, err.Error(), want)
	}
	whole := c.track("L", nil)
	alone := *whole
	alone.Roles = map[string][]string{"wheels": whole.Roles["wheels"][:1], "link": whole.Roles["link"]}
	refuse(&alone, "choose more")
	unround := *whole
	unround.Roles = map[string][]string{"wheels": append([]string{c.id("hull")}, whole.Roles["wheels"]...), "link": whole.Roles["link"]}
	refuse(&unround, "no part goes with hull")
	refuse(c.track("L", parameter.Set{"pitch": parameter.OfNumber(0.4)}), "longer than the radius")
	refuse(c.track("L", parameter.Set{"pitch": parameter.OfNumber(0.0006)}), "is the most")
	refuse(c.track("L", parameter.Set{"links": parameter.OfNumber(20)}), "do not fit")
}

func TestATrackThatIsTakenApartStaysWholeAndThatIsTold(t *testing.T) {
	c := newCrawler(t, 1, true)
	c.apply(c.track("L", nil))
	c.apply(&edit.AddClip{Name: "apart", End: 10})
	c.document.Clips[0].JointTracks = []rig.JointTrack{{Joint: c.id("hub_L0"), Property: rig.JointMove, Keys: []rig.JointKey{{Value: [4]float64{0, -0.1, 1}, Ease: rig.Linear}}}} // among the road wheels
	e := c.open()
	e.SetFrame(5)
	e.Evaluate()
	require.Len(t, e.Findings(), 1)
	assert.Contains(t, e.Findings()[0].Text, "too long")
	for k, instance := range e.Frame.Instances[0] {
		assert.True(t, geometry.FiniteVector(instance.Place.Position), k)
	}
}

func BenchmarkTwoTracks(bench *testing.B) {
	_, e := driven(bench, 1, level(), map[float64][3]float64{0: {}, 120: {0, 6, 0}})
	bench.ReportAllocs()
	for i := 0; bench.Loop(); i++ {
		e.SetFrame(float64(i % 120))
		e.Evaluate()
	}
	bench.ReportMetric(float64(2*len(e.Frame.Instances[0])), "links")
}

// A vehicle that turns on the spot scrubs the ends of its tracks over the ground by half their length times how fast it turns, and one that is taken sideways by how fast that is.
func TestScrubbingIsToldByHowMuch(t *testing.T) {
	for name, c := range map[string]struct {
		pose [3]float64
		want float64
	}{"turning": {[3]float64{0, 0, 1.2}, 1.5 * 1.2 / 5 * 0.85}, "sideways": {[3]float64{2, 0, 0}, 1.5 * 2.0 / 5}} {
		_, e := driven(t, 1, level(), map[float64][3]float64{0: {}, 120: c.pose}) // smooth: half way it goes half as fast again as on the whole
		e.SetFrame(60)
		e.Evaluate()
		require.Len(t, e.Findings(), 2, name)
		assert.Contains(t, e.Findings()[0].Text, fmt.Sprintf("by %.2g m a second", c.want), name)
	}
}
