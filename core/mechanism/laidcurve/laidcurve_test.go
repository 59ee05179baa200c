package laidcurve_test

import (
	"math/rand/v2"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/mechanism/laidcurve"
	"myriapod/core/mechanism/ride"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// A curve goes on through its handles wherever they are, as near as it does at rest, and what rides along it goes from its first to its last.
func TestACurveGoesAlongWithItsHandles(t *testing.T) {
	random := rand.New(rand.NewPCG(2, 5))
	for range 30 {
		size := 0.1 + 10*random.Float64()
		var places []mgl64.Vec3
		for i := range 2 + random.IntN(7) {
			places = append(places, mgl64.Vec3{float64(i) + 0.2*random.NormFloat64(), random.NormFloat64(), random.NormFloat64()}.Mul(size))
		}
		d := rigtest.Apply(t, rig.New("x"), &edit.LayChain{Positions: []mgl64.Vec3{places[0].Add(mgl64.Vec3{0, size, 0})}, Pattern: "car"}, &edit.AddMechanism{Mechanism: laidcurve.Name, Name: "rail", Places: places})
		handles := d.Mechanisms[0].Controls
		require.Len(t, handles, max(3, len(places)))
		d = rigtest.Apply(t, d, &edit.AddMechanism{Mechanism: ride.Name, Name: "ride", Roles: map[string][]string{"rider": {d.Joints[0].ID}, "along": {handles[1]}}})
		d = rigtest.Apply(t, d, &edit.SetParameters{Mechanism: d.Mechanisms[1].ID, Values: parameter.Set{"at": parameter.OfNumber(1)}})
		e := rigtest.Open(t, d)
		first, last := e.Plan.ControlIndex[handles[0]], e.Plan.ControlIndex[handles[len(handles)-1]]
		move := mgl64.Vec3{random.NormFloat64(), random.NormFloat64(), random.NormFloat64()}.Mul(size)
		for k, channel := range []rig.Channel{rig.MoveX, rig.MoveY, rig.MoveZ} {
			require.NoError(t, e.SetChannel(last, channel, move[k]))
		}
		e.Evaluate()
		line := e.Frame.Curves[0].Base
		begin, _ := line.At(0)
		end, _ := line.At(1)
		assert.InDelta(t, 0, begin.Sub(e.Frame.Controls[first].Position).Len()/size, 1e-9)
		assert.InDelta(t, 0, end.Sub(e.Frame.Controls[last].Position).Len()/size, 1e-9)
		away := e.Frame.Joints[0].Position.Sub(end).Len()
		assert.Less(t, away, 1.5*size+move.Len(), "at its whole way it is where the curve ends, as far beside it as at rest")
	}
}

func TestWhatIsNoCurveIsRefused(t *testing.T) {
	d := rigtest.Apply(t, rig.New("x"), &edit.LayChain{Positions: []mgl64.Vec3{{0, 0, 0}}, Pattern: "car"})
	rigtest.Refuse(t, d, &edit.AddMechanism{Mechanism: laidcurve.Name, Name: "rail", Places: []mgl64.Vec3{{0, 1, 0}}}, "click another")
	rigtest.Refuse(t, d, &edit.AddMechanism{Mechanism: laidcurve.Name, Name: "rail", Places: make([]mgl64.Vec3, 2)}, "fall together")
	rigtest.Refuse(t, d, &edit.AddMechanism{Mechanism: laidcurve.Name, Name: "rail", Places: make([]mgl64.Vec3, 65)}, "lay fewer")
}
