package demo

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/geometry"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mechanism/wheel"
)

// The barrow drives up its ramp, round a bend and back: no finding is raised, its hind axle turns the drum through the idler by their teeth, and hind wheels turn by their ways.
func TestTheBarrowsAxleTurnsItsDrum(t *testing.T) {
	e, _, d := opened(t, "barrow", "up_the_ramp")
	frame := e.Plan.JointIndex[named(d, "frame")]
	turned := func(joint string) float64 {
		i := e.Plan.JointIndex[named(d, joint)]
		rest := e.Plan.Document.Joints[frame].Rest().Inverse().Then(e.Plan.Document.Joints[i].Rest())
		now := e.JointAt(frame).Inverse().Then(e.JointAt(i))
		q := now.Rotation.Mul(rest.Rotation.Conjugate())
		return 2 * math.Atan2(q.V[0], q.W)
	}
	axle, idler, drum, way, last := 0.0, 0.0, 0.0, 0.0, [3]float64{}
	var before mgl64.Vec3
	for k := 0; k <= 144*8; k++ {
		e.SetFrame(float64(k) / 8)
		e.Evaluate()
		for _, finding := range e.Findings() { // its body is keyed by hand, and not quite along the way that it is steered
			require.Contains(t, finding.Text, "slips sideways", "at %g", float64(k)/8)
		}
		hub := e.JointAt(e.Plan.JointIndex[named(d, "hub_RL")]).Position
		if k > 0 {
			moved := hub.Sub(before)
			across := e.JointAt(frame).Rotation.Rotate(e.Plan.Document.Joints[frame].Rest().Rotation.Conjugate().Rotate(mgl64.Vec3{1, 0, 0}))
			moved = moved.Sub(across.Mul(moved.Dot(across)))
			way += math.Copysign(moved.Len(), moved.Dot(e.JointAt(frame).Rotation.Rotate(e.Plan.Document.Joints[frame].Rest().Rotation.Conjugate().Rotate(geometry.Forward))))
		}
		before = hub
		for i, to := range []*float64{&axle, &idler, &drum} {
			now := turned([]string{"hub_RL", "idler_pin", "drum_pin"}[i])
			if k > 0 {
				*to += math.Remainder(now-last[i], 2*math.Pi)
			}
			last[i] = now
		}
	}
	t.Logf("the hind axle turns %.2f times over %.2f m, the drum %.2f times", axle/(2*math.Pi), way, drum/(2*math.Pi))
	assert.Greater(t, axle, 10.0)
	assert.InDelta(t, -axle*28/18, idler, 1e-9)
	assert.InDelta(t, axle*28/24, drum, 1e-9)
	assert.InDelta(t, way/barrowRadius, axle, 1e-3*axle)
}

// Wheels are offered for joints that parts go with, one or several of them, and not for those without; trying that looks at no part.
func TestWheelsAreOfferedWherePartsGoWithJoints(t *testing.T) {
	specimen, err := Find("barrow-bare")
	require.NoError(t, err)
	_, steps, err := specimen.Make(kinds.All())
	require.NoError(t, err)
	d := steps[len(steps)-1].Next
	fits := func(joints ...string) (fits bool) {
		var ids []string
		for _, joint := range joints {
			ids = append(ids, named(d, joint))
		}
		for _, offer := range edit.Offers(&edit.Context{Kinds: kinds.All(), Surfaces: Memory(steps)}, d, ids) {
			fits = fits || offer.Kind == wheel.Name && offer.Fits
		}
		return fits
	}
	assert.True(t, fits("hub_FL"))
	assert.True(t, fits("hub_FL", "hub_FR", "hub_RL", "hub_RR"))
	d = d.Clone()
	d.Bindings = nil
	assert.False(t, fits("hub_FL"))
}
