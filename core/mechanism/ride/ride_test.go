package ride_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/ride"
	"myriapod/core/mechanism/splinechain"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// rail is a straight chain of eight bones of a metre along Z, with handles, and a bead beside its third joint.
func rail(t require.TestingT, parameters parameter.Set) *rig.Document {
	lay := &edit.LayChain{Pattern: "rail_#"}
	for i := range 9 {
		lay.Positions = append(lay.Positions, mgl64.Vec3{0, 1, float64(i)})
	}
	d := rigtest.Apply(t, rig.New("x"), lay)
	d = rigtest.Apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{{0, 1.3, 2}}, Pattern: "bead"})
	ids := []string{}
	for _, j := range d.Joints[:9] {
		ids = append(ids, j.ID)
	}
	d = rigtest.Apply(t, d, &edit.AddMechanism{Mechanism: splinechain.Name, Name: "rail", Joints: ids})
	return rigtest.Apply(t, d, &edit.AddMechanism{Mechanism: ride.Name, Name: "ride", Roles: map[string][]string{"rider": {d.Joints[9].ID}, "along": {d.Joints[4].ID}}, Parameters: parameters})
}

func at(t require.TestingT, d *rig.Document, key string, value float64, more ...parameter.Set) (*evaluate.Evaluator, mgl64.Vec3) {
	set := parameter.Set{key: parameter.OfNumber(value)}
	for _, m := range more {
		for k, v := range m {
			set[k] = v
		}
	}
	d = rigtest.Apply(t, d, &edit.SetParameters{Mechanism: d.Mechanisms[1].ID, Values: set})
	e := rigtest.Open(t, d)
	return e, e.Frame.Joints[9].Position
}

// A bead is built where it stands, goes by its share and by metres, stops at the ends or goes round, and keeps its distance from the curve wherever that bends.
func TestABeadRides(t *testing.T) {
	d := rail(t, nil)
	assert.InDelta(t, 0.25, d.Mechanisms[1].Parameters.Number("at"), 1e-9)
	assert.InDelta(t, 0.3, rigtest.Open(t, d).Frame.Joints[9].Position[1]-1, 1e-12)
	_, moved := at(t, d, "way", 1.5)
	assert.InDelta(t, 0, moved.Sub(mgl64.Vec3{0, 1.3, 3.5}).Len(), 1e-6, "metres along it are metres")
	_, stopped := at(t, d, "way", 90)
	assert.InDelta(t, 8, stopped[2], 1e-6)
	_, round := at(t, d, "way", 7, parameter.Set{"ends": parameter.OfChoice("goes round")})
	assert.InDelta(t, 1, round[2], 1e-6)
	e, _ := at(t, d, "way", 6, parameter.Set{"ends": parameter.OfChoice("goes round")})
	require.Len(t, e.Findings(), 1)
	assert.Contains(t, e.Findings()[0].Text, "goes round with a jump")
	rapid.Check(t, func(t *rapid.T) {
		e := rigtest.Open(t, d)
		for _, id := range d.Mechanisms[0].Controls {
			control := e.Plan.ControlIndex[id]
			for _, channel := range []rig.Channel{rig.MoveX, rig.MoveY, rig.MoveZ} {
				require.NoError(t, e.SetChannel(control, channel, rapid.Float64Range(-1, 1).Draw(t, "move")))
			}
		}
		e.Evaluate()
		ruler := e.Frame.Curves[0].Ruler
		place, frame := ruler.FrameAt(ruler.Locate(0.25 * ruler.Total()))
		away := e.Frame.Joints[9].Position.Sub(place)
		assert.InDelta(t, 0.3, away.Len(), 1e-9)
		assert.InDelta(t, 0, away.Dot(frame.Tangent), 1e-9, "beside the curve")
		assert.False(t, math.IsNaN(away[0]))
	})
}

func TestWhatCannotRideIsTold(t *testing.T) {
	d := rail(t, nil)
	rigtest.Refuse(t, d, &edit.AddMechanism{Mechanism: ride.Name, Name: "r", Roles: map[string][]string{"rider": {d.Joints[2].ID}, "along": {d.Joints[4].ID}}}, "rail_3 is of the chain itself")
	rigtest.Refuse(t, d, &edit.AddMechanism{Mechanism: ride.Name, Name: "r", Roles: map[string][]string{"rider": {d.Joints[2].ID}, "along": {d.Joints[9].ID}}}, "bead is of no curve")
}
