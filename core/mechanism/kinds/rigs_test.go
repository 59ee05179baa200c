package kinds_test

import (
	"math"
	"math/rand/v2"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/mechanism/fkchain"
	"myriapod/core/mechanism/fkover"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mechanism/ribbonchain"
	"myriapod/core/mechanism/splinechain"
	"myriapod/core/mechanism/wave"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// What these tests begin with.
var (
	open = rigtest.Open
)

// layer is one mechanism of a rig: on the chain, or on the mechanism before it.
type layer struct {
	kind  string
	blend bool // laid over what is there, with a dial
	guest bool // works on the first mechanism
}

// rigs are the ways of moving one chain that every test here goes through.
var rigs = map[string][]layer{
	"spline":                 {{kind: splinechain.Name}},
	"ribbon":                 {{kind: ribbonchain.Name}},
	"FK":                     {{kind: fkchain.Name}},
	"wave on spline":         {{kind: splinechain.Name}, {kind: wave.Name, guest: true}},
	"wave on ribbon":         {{kind: ribbonchain.Name}, {kind: wave.Name, guest: true}},
	"wave on FK":             {{kind: fkchain.Name}, {kind: wave.Name, guest: true}},
	"FK over spline":         {{kind: splinechain.Name}, {kind: fkover.Name, guest: true}},
	"FK over ribbon":         {{kind: ribbonchain.Name}, {kind: fkover.Name, guest: true}},
	"FK blended on spline":   {{kind: splinechain.Name}, {kind: fkchain.Name, blend: true}},
	"spline blended on FK":   {{kind: fkchain.Name}, {kind: splinechain.Name, blend: true}},
	"ribbon blended on wave": {{kind: splinechain.Name}, {kind: wave.Name, guest: true}, {kind: ribbonchain.Name, blend: true}},
}

// wander is a chain that never stands still, of bones of a tenth of a metre, each turned from the one before.
func wander(random *rand.Rand, joints int, bend float64) []mgl64.Vec3 {
	places := []mgl64.Vec3{{0.3, 0.5, 0.1}}
	direction := mgl64.Vec3{0, 0, 1}
	for range joints - 1 {
		turn := func() float64 { return bend * (2*random.Float64() - 1) }
		direction = geometry.Order("XYZ").Rotation(mgl64.Vec3{turn(), turn(), turn()}).Rotate(direction)
		places = append(places, places[len(places)-1].Add(direction.Mul(0.1*(0.6+0.8*random.Float64()))))
	}
	return places
}

func chainLength(places []mgl64.Vec3) (sum float64) {
	for i := 1; i < len(places); i++ {
		sum += places[i].Sub(places[i-1]).Len()
	}
	return sum
}

// apply applies edits one after another and returns the greatest drift that building caused.
func apply(t require.TestingT, d *rig.Document, edits ...edit.Edit) (*rig.Document, float64) {
	drift := 0.0
	for _, e := range edits {
		result, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}, d, e)
		require.NoError(t, err, edit.KindOf(e))
		d = result.Document
		if result.Drift != nil {
			drift = math.Max(drift, result.Drift.Joints)
		}
	}
	return d, drift
}

// build lays a chain, with a joint that nothing moves behind it, and its layers.
func build(t require.TestingT, places []mgl64.Vec3, layers []layer) (*rig.Document, float64) {
	d, _ := apply(t, rig.New("x"), &edit.LayChain{Positions: places, Pattern: "spine_##"})
	chain := make([]string, len(d.Joints))
	for i, j := range d.Joints {
		chain[i] = j.ID
	}
	d, _ = apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{places[len(places)/2].Add(mgl64.Vec3{0, 2 * chainLength(places) / float64(len(places)), 0})}, Pattern: "fin", Parent: chain[len(places)/2]})
	drift := 0.0
	for _, l := range layers {
		add := &edit.AddMechanism{Mechanism: l.kind, Name: "m", Joints: chain, Blend: l.blend}
		if l.guest {
			add.Joints, add.Host = nil, d.Mechanisms[0].ID
		}
		var caused float64
		d, caused = apply(t, d, add)
		drift = math.Max(drift, caused)
	}
	return d, drift
}

// pose moves every control by up to reach metres and turns it by up to turn radians. Dials stay.
func pose(t require.TestingT, e *evaluate.Evaluator, random *rand.Rand, reach, turn float64) {
	for i := range e.Plan.Document.Controls {
		for _, channel := range rig.Channels {
			most := reach
			if channel.Turns() {
				most = turn
			}
			require.NoError(t, e.SetChannel(i, channel, most*(2*random.Float64()-1)))
		}
	}
	e.Evaluate()
}

// angle is how far one rotation is from another, in radians.
func angle(a, b mgl64.Quat) float64 {
	between := a.Conjugate().Mul(b)
	return 2 * math.Atan2(between.V.Len(), math.Abs(between.W))
}
