package repeat_test

import (
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/driver"
	"myriapod/core/edit"
	"myriapod/core/mechanism/fkchain"
	"myriapod/core/repeat"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// TestAFormulaKnowsItsPlaceInRepeatsWithinEachOther has a ring of fingers on each of a series of arms tell which one they are.
func TestAFormulaKnowsItsPlaceInRepeatsWithinEachOther(t *testing.T) {
	d := apply(t, rig.New("arms"), &edit.LayChain{Positions: []mgl64.Vec3{{0, 0, 0}, {0, 0, 1}, {0, 0, 2}, {0, 0, 3}}, Pattern: "trunk_#"})
	d = apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{{1, 0, 0}, {2, 0, 0}}, Pattern: "arm_01_#", Parent: d.Joints[0].ID})
	d = apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{{2, 0.2, 0}, {2.5, 0.2, 0}}, Pattern: "finger_01_01_#", Parent: named(t, d, "arm_01_2")})
	d = apply(t, d, &edit.AddMechanism{Mechanism: fkchain.Name, Name: "bend_01_01", Joints: []string{named(t, d, "finger_01_01_1"), named(t, d, "finger_01_01_2")}})
	at := d.Joint(named(t, d, "arm_01_2")).Position
	d = apply(t, d, &edit.AddRepeat{Name: "ring", Rule: rig.Ring, Sources: []string{named(t, d, "finger_01_01_1")}, Count: 4, Point: at, Direction: mgl64.Vec3{1, 0, 0}})
	d = apply(t, d, &edit.AddRepeat{Name: "series", Rule: rig.Series, Sources: []string{named(t, d, "arm_01_1")}, Stations: []string{d.Joints[1].ID, d.Joints[2].ID}})
	control := d.Mechanisms[0].Controls[0]
	d = apply(t, d, &edit.WriteDriver{Driver: driver.FormulaKind, Drives: []rig.Address{{Of: control, Key: string(rig.MoveY)}}, Text: "index + 10 * count + 100 * outer_index(1) + 1000 * outer_count(1) + 1e4 * outer_index(2) + 1e5 * outer_count(2)"})
	e := rigtest.Open(t, d)
	found := map[float64]bool{}
	for i, c := range e.Plan.Document.Controls {
		origin, copied := e.Plan.Origins[c.ID]
		if c.ID == control || copied && sourceOf(e.Plan.Origins, origin) == control {
			found[e.Frame.Channel(i, rig.MoveY)] = true
		}
	}
	require.Len(t, found, 12)
	for ring := range 4 {
		for series := range 3 {
			assert.True(t, found[float64(ring+40+100*series+3000+100000)], "%d of the ring on %d of the series", ring, series)
		}
	}
}

// sourceOf goes back through copies of copies.
func sourceOf(origins map[string]repeat.Origin, origin repeat.Origin) string {
	for {
		before, copied := origins[origin.Of]
		if !copied {
			return origin.Of
		}
		origin = before
	}
}
