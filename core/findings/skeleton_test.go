package findings_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/edit"
	"myriapod/core/findings"
	"myriapod/core/geometry"
	"myriapod/core/repeat"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// What these tests begin with.
var (
	apply = rigtest.Apply
)

func found(t require.TestingT, d *rig.Document) []findings.Finding {
	x, err := repeat.Expand(d)
	require.NoError(t, err)
	return findings.Of(x)
}

// bent is a chain of seven joints along a gentle bend, as it is laid.
func bent(t require.TestingT, bend float64) *rig.Document {
	places := make([]mgl64.Vec3, 7)
	for i := range places {
		angle := bend * float64(i) / 6
		places[i] = mgl64.Vec3{math.Sin(angle), 1 + 0.2*math.Sin(2*angle), float64(i) / 3}
	}
	return apply(t, rig.New("bent"), &edit.LayChain{Positions: places, Pattern: "back_#"})
}

// A joint that is rolled or turned aside is found, and the one action offered mends it without moving a joint.
func TestUnevenChainsAreFoundAndMended(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		laid := bent(t, rapid.Float64Range(-1.5, 1.5).Draw(t, "bend"))
		assert.Empty(t, found(t, laid), "as it is laid it is even")
		at := rapid.IntRange(1, 5).Draw(t, "joint")
		axis, turn := geometry.MainAxis, rapid.Float64Range(12, 170).Draw(t, "degrees")
		aside := rapid.Bool().Draw(t, "aside")
		if aside {
			axis = geometry.SecondAxis
		}
		spoilt := laid.Clone()
		j := &spoilt.Joints[at]
		j.Rotation = rig.QuaternionOf(j.Rotation.Quat().Mul(mgl64.QuatRotate(turn*math.Pi/180, axis)))
		list := found(t, spoilt)
		require.Len(t, list, 1, "one for the chain, not one for each joint")
		assert.Equal(t, findings.Skeleton, list[0].Step)
		assert.Equal(t, j.ID, list[0].Subject)
		if aside {
			assert.Contains(t, list[0].Text, "does not aim at")
		} else {
			assert.Contains(t, list[0].Text, "is rolled by")
		}
		require.NotNil(t, list[0].Mend)
		action, err := edit.Decode(list[0].Mend.Edit)
		require.NoError(t, err)
		mended := apply(t, spoilt, action)
		assert.Empty(t, found(t, mended))
		for i := range mended.Joints {
			assert.Equal(t, laid.Joints[i].Position, mended.Joints[i].Position)
		}
	})
}

func TestASmallRollIsLeftAlone(t *testing.T) {
	d := bent(t, 1)
	d.Joints[3].Rotation = rig.QuaternionOf(d.Joints[3].Rotation.Quat().Mul(mgl64.QuatRotate(4*math.Pi/180, geometry.MainAxis)))
	assert.Empty(t, found(t, d))
}

// The copies of an uneven chain are as uneven; only the source is told of, since mending it mends them.
func TestCopiesOfAnUnevenChainAreNotToldOf(t *testing.T) {
	d := bent(t, 1)
	d = apply(t, d, &edit.AddRepeat{Rule: rig.Mirror, Sources: []string{d.Joints[0].ID}, Point: mgl64.Vec3{4, 0, 0}, Direction: mgl64.Vec3{1, 0, 0}, Pattern: "*_R"})
	assert.Empty(t, found(t, d))
	d.Joints[3].Rotation = rig.QuaternionOf(d.Joints[3].Rotation.Quat().Mul(mgl64.QuatRotate(1, geometry.MainAxis)))
	list := found(t, d)
	require.Len(t, list, 1)
	assert.Equal(t, d.Joints[3].ID, list[0].Subject)
}

// Legs along a back are no part of its chain, whether they are copies or not, and so nothing that it should aim at.
func TestLegsAreNoPartOfTheBack(t *testing.T) {
	d := bent(t, 1)
	back := d.Joints
	for _, on := range []int{0, 6} { // the last joint of the back has nothing below it but a leg
		hip := back[on].Position.Add(mgl64.Vec3{0.3, 0, 0})
		legged := apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{hip, hip.Add(mgl64.Vec3{0.1, -0.4, 0}), hip.Add(mgl64.Vec3{0.1, -0.8, 0})}, Pattern: "leg_L_#", Parent: back[on].ID})
		assert.Empty(t, found(t, legged))
		series := apply(t, legged, &edit.AddRepeat{Rule: rig.Series, Sources: []string{legged.Joints[7].ID}, Stations: []string{back[3].ID, back[6-on].ID}})
		assert.Empty(t, found(t, series))
	}
}

func TestCopiesThatCameToMeetTheirSourceAreToldOf(t *testing.T) {
	d := bent(t, 1)
	d = apply(t, d, &edit.AddRepeat{Rule: rig.Mirror, Sources: []string{d.Joints[0].ID}, Point: mgl64.Vec3{4, 0, 0}, Direction: mgl64.Vec3{1, 0, 0}, Pattern: "*_R"})
	d.Repeats[0].Point[0] = d.Joints[0].Position[0]
	for i := range d.Joints { // a chain within the mirror plane
		d.Joints[i].Position[0] = d.Joints[0].Position[0]
		d.Joints[i].Rotation = d.Joints[0].Rotation
	}
	told := ""
	for _, f := range found(t, d) {
		told += f.Text
	}
	assert.Contains(t, told, "stands where")
}
