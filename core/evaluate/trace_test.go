package evaluate_test

import (
	"slices"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/rig"
)

// swaying is the creature with a wave on its spine and an FK chain on its leg.
func swaying(t require.TestingT) *rig.Document {
	c := &edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}
	d := creature(t)
	for _, e := range []edit.Edit{
		&edit.AddMechanism{Mechanism: "travelling-wave", Name: "sway", Host: d.Mechanisms[0].ID},
		&edit.AddMechanism{Mechanism: "fk-chain", Name: "leg", Joints: []string{d.Joints[8].ID, d.Joints[9].ID}},
	} {
		result, err := edit.Apply(c, d, e)
		require.NoError(t, err)
		d = result.Document
	}
	return d
}

func named(d *rig.Document, drivers []evaluate.Mover) []string {
	list := []string{}
	for _, driver := range drivers {
		if driver.ID == "" {
			list = append(list, string(driver.Kind))
		} else {
			list = append(list, d.NameOf(driver.ID))
		}
	}
	return list
}

func TestATraceRunsFromTheHandlesToTheJoint(t *testing.T) {
	d := swaying(t)
	e := open(t, d)
	drivers, err := e.Trace(d.Joints[9].ID)
	require.NoError(t, err)
	names := named(d, drivers)
	for _, want := range []string{"root", "spine_ctl_1", "spine_ctl_5", "spine", "sway", "leg_fk_1", "leg", "time"} {
		assert.Contains(t, names, want)
	}
	assert.NotContains(t, names, "post", "what has nothing to do with it is left out")
	assert.Less(t, slices.Index(names, "root"), slices.Index(names, "spine_ctl_1"))
	assert.Less(t, slices.Index(names, "spine"), slices.Index(names, "leg_fk_1"))
	_, err = e.Trace("nobody")
	require.ErrorContains(t, err, `no joint "nobody" to trace`)
}

// Each share is what the joint moves by when that driver alone is taken to rest, and tracing changes nothing.
func TestSharesAreWhatIsMeasuredWithoutTheDriver(t *testing.T) {
	d := swaying(t)
	rapid.Check(t, func(t *rapid.T) {
		e := open(t, d)
		value := rapid.Float64Range(-0.4, 0.4)
		pose := map[int]float64{}
		for i := range d.Controls {
			pose[i] = value.Draw(t, "channel")
		}
		channel := rig.Channels[rapid.IntRange(0, 5).Draw(t, "which")]
		set := func(e *evaluate.Evaluator, without int) {
			for i, v := range pose {
				if i == without {
					v = 0
				}
				require.NoError(t, e.SetChannel(i, channel, v))
			}
			e.SetTime(1.3)
			e.Evaluate()
		}
		set(e, -1)
		joint := rapid.IntRange(0, len(d.Joints)-1).Draw(t, "joint")
		before := slices.Clone(e.Frame.Joints)
		drivers, err := e.Trace(d.Joints[joint].ID)
		require.NoError(t, err)
		assert.Equal(t, before, e.Frame.Joints, "tracing leaves the frame as it was")
		traced := map[string]bool{}
		for _, driver := range drivers {
			traced[driver.ID] = true
			if driver.Kind != evaluate.ByControl {
				continue
			}
			other := open(t, d)
			set(other, other.Plan.ControlIndex[driver.ID])
			assert.InDelta(t, other.Frame.Joints[joint].Position.Sub(before[joint].Position).Len(), driver.Moves, 1e-9)
		}
		for i, c := range d.Controls { // and what is not in the trace moves it by nothing
			if traced[c.ID] {
				continue
			}
			other := open(t, d)
			set(other, i)
			assert.Equal(t, mgl64.Vec3{}, other.Frame.Joints[joint].Position.Sub(before[joint].Position), c.Name)
		}
	})
}
