package edit_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/driver"
	"myriapod/core/edit"
	"myriapod/core/geometry"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// TestASwingIsWhatItsDialsSay reckons a swing of four fins by hand, over random dials and times.
func TestASwingIsWhatItsDialsSay(t *testing.T) {
	d := handles(t, rig.RootName, "fin_L_1", "fin_R_1", "fin_L_2", "fin_R_2")
	d = rigtest.Apply(t, d, &edit.AddSwing{Name: "paddle", Like: "fin_*.rotateX"})
	require.Len(t, d.Drivers, 4)
	e := rigtest.Open(t, d)
	for _, name := range []string{"fin_L_1", "fin_R_2"} {
		e.SetStill(true)
		assert.Zero(t, numberOf(t, e, name+".rotateX"), "at rest nothing swings")
	}
	e.SetStill(false)
	rapid.Check(t, func(t *rapid.T) {
		dials := map[string]float64{}
		for what, reach := range map[string]float64{"strength": 1, "amplitude": 20, "centre": 40, "phase": 3, "spread": 4, "alternate": 1} {
			dials[what] = rapid.Float64Range(0, reach).Draw(t, what)
			bring(t, e, "root.paddle_"+what, dials[what])
		}
		seconds := rapid.Float64Range(0, 4).Draw(t, "time")
		e.SetTime(seconds)
		for i, name := range []string{"fin_L_1", "fin_R_1", "fin_L_2", "fin_R_2"} {
			turns := seconds + dials["phase"] + dials["spread"]*float64(i)/3
			if i%2 == 1 {
				turns += dials["alternate"]
			}
			want := dials["strength"] * (dials["centre"] + dials["amplitude"]*math.Sin(2*math.Pi*turns)) * math.Pi / 180
			assert.InDelta(t, want, numberOf(t, e, name+".rotateX"), 1e-9, name)
		}
	})
	bring(t, e, "root.paddle_strength", 0)
	assert.Zero(t, numberOf(t, e, "fin_R_2.rotateX"), "strength 0 is still")

	rigtest.Refuse(t, d, &edit.AddSwing{Name: "paddle", Like: "fin_*.rotateY"}, "a dial paddle_strength already")
	rigtest.Refuse(t, d, &edit.AddSwing{Name: "big fins", Like: "fin_*.rotateY"}, "a name has letters, digits and _")
	rigtest.Refuse(t, d, &edit.AddSwing{Like: "fin_*.rotateY"}, "has no name")
	rigtest.Refuse(t, d, &edit.AddSwing{Name: "x", Like: "fin_*_1.*"}, "have them swing apart")
	rigtest.Refuse(t, d, &edit.AddSwing{Name: "x", Like: "fan_*.rotateY"}, "no number that could be driven is called")
	rigtest.Refuse(t, d, &edit.AddSwing{Name: "x", Like: "fin_*.moveX", On: "nobody"}, "no control for the dials")
}

// TestAResponseIsMirrored moves handles of both sides by mirrored responses and looks whether one is the mirror image of the other in the world, whatever way
// the handles stand.
func TestAResponseIsMirrored(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := handles(t, "arm_L", "arm_R", "grip_L", "grip_R", "middle")
		quarter := mgl64.QuatRotate(math.Pi/2, mgl64.Vec3{0, 1, 0})
		for i := range d.Controls {
			turn := geometry.Identity().Rotation
			for range rapid.IntRange(0, 3).Draw(t, "quarters") {
				turn = turn.Mul(quarter)
			}
			d.Controls[i].Rotation = rig.QuaternionOf(turn)
		}
		drives := rapid.SampledFrom(rig.Channels).Draw(t, "drives")
		reads := rapid.SampledFrom(rig.Channels).Draw(t, "reads")
		points := []parameter.Point{{-1, rapid.Float64Range(-9, 9).Draw(t, "first")}, {0, 0}, {2, rapid.Float64Range(-9, 9).Draw(t, "last")}}
		by := d.Controls[2].Of(reads)
		middle := rapid.Bool().Draw(t, "middle")
		if middle {
			by = d.Controls[4].Of(reads)
		}
		d = rigtest.Apply(t, d, &edit.AddDriver{Driver: driver.ResponseKind, Drives: d.Controls[0].Of(drives), By: []rig.Address{by}, Parameters: parameter.Set{
			driver.Points: parameter.OfProfile(points...), driver.Before: parameter.OfChoice(driver.Straight), driver.After: parameter.OfChoice(driver.Hold),
		}})
		result, err := edit.Apply(rigtest.Context(), d, &edit.MirrorResponse{ID: d.Drivers[0].ID})
		if err != nil {
			require.ErrorContains(t, err, "orient the two alike")
			return
		}
		d = result.Document
		e := rigtest.Open(t, d)
		at := rapid.Float64Range(-3, 3).Draw(t, "at")
		offset := func(control int) geometry.Transform {
			values := [rig.ChannelCount]float64{}
			for k, channel := range rig.Channels {
				values[k] = e.Frame.Channel(control, channel)
			}
			home := d.Controls[control].Home()
			home.Position = mgl64.Vec3{}
			return home.Then(d.Controls[control].Offset(values[:])).Then(home.Inverse())
		}
		_ = e.SetChannel(e.Plan.ControlIndex[by.Of], reads, at)
		e.Evaluate()
		left := offset(0)
		if !middle { // the grip of the right goes to the mirror image of where that of the left went
			grip := offset(2)
			home := d.Controls[3].Home()
			home.Position = mgl64.Vec3{}
			values := d.Controls[3].ChannelsFor(home.Inverse().Then(image(grip)).Then(home), [rig.ChannelCount]float64{})
			_ = e.SetChannel(3, reads, values[reads.Index()])
			e.Evaluate()
		}
		right, want := offset(1), image(left)
		assert.InDelta(t, 0, want.Position.Sub(right.Position).Len(), 1e-9)
		assert.InDelta(t, 1, math.Abs(want.Rotation.Dot(right.Rotation)), 1e-9)
	})
	d := handles(t, "arm_L", "hub")
	d = rigtest.Apply(t, d, &edit.AddDriver{Driver: driver.ResponseKind, Drives: d.Controls[0].Of(rig.MoveX), By: []rig.Address{d.Controls[1].Of(rig.MoveX)}})
	rigtest.Refuse(t, d, &edit.MirrorResponse{ID: d.Drivers[0].ID}, "there is no arm_R")
}

func image(t geometry.Transform) geometry.Transform {
	t.Position[0] = -t.Position[0]
	t.Rotation.V[1], t.Rotation.V[2] = -t.Rotation.V[1], -t.Rotation.V[2]
	return t
}
