package edit_test

import (
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/rig"
)

// What is offered first for a thing is what it most often is; whatever is offered can be built, and what is not says why.
func TestWhatFitsIsOfferedTheLikeliestFirst(t *testing.T) {
	d := apply(t, rig.New("x"), &edit.LayChain{Positions: []mgl64.Vec3{{0, 1, 0}, {0, 1, 0.3}, {0, 1, 0.6}, {0, 1.1, 0.9}, {0, 1, 1.2}, {0, 1, 1.5}, {0, 1.2, 1.8}}, Pattern: "back_#"})
	d = apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{{0.3, 1, 0}, {0.4, 0.5, 0.2}, {0.4, 0, 0}}, Pattern: "leg_#", Parent: d.Joints[0].ID})
	all := ids(d)
	d = apply(t, d, &edit.AddMechanism{Mechanism: "limb", Name: "leg", Joints: all[7:]})
	for want, chosen := range map[string][]string{
		"spline-chain": all[:7], "limb": {all[7], all[9]}, "fk-chain": all[3:4], "follow": {d.Mechanisms[0].Controls[0]}, "foot": {d.Mechanisms[0].ID},
	} {
		offers := edit.Offers(context(), d, chosen)
		assert.Equal(t, want, offers[0].Kind, "%v", offers)
		for _, o := range offers {
			_, declared, err := context().Kinds.Find(o.Kind)
			require.NoError(t, err)
			if !o.Fits {
				assert.NotEmpty(t, o.Why, o.Kind)
				continue
			}
			assert.Empty(t, o.Why)
			if len(declared.Asked()) == 1 {
				apply(t, d, &edit.AddMechanism{Mechanism: o.Kind, Name: "m", Joints: chosen, Blend: want == "limb"})
			}
		}
	}
	for _, o := range edit.Offers(context(), d, all[:2]) {
		if o.Kind == "limb" {
			assert.Equal(t, "it takes a chain of 3 joints or more, and 2 are chosen", o.Why)
		}
		if o.Kind == "foot" {
			assert.Equal(t, "it works on another mechanism; choose a limb", o.Why)
		}
	}
	before := *d
	edit.Offers(context(), d, all[:7])
	assert.Equal(t, before, *d, "nothing is kept")
}
