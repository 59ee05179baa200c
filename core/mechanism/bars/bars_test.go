package bars_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/edit"
	"myriapod/core/mechanism/bars"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// frame takes places of a plane anywhere into space.
type frame func(x, y, aside float64) mgl64.Vec3

func anywhere(t *rapid.T) frame {
	draw := func(name string) float64 { return rapid.Float64Range(-1, 1).Draw(t, name) }
	turn := mgl64.QuatRotate(3*draw("angle"), mgl64.Vec3{draw("x"), 1.5, draw("z")}.Normalize())
	size := math.Pow(10, 2*draw("size"))
	at := mgl64.Vec3{draw("at x"), draw("at y"), draw("at z")}.Mul(5 * size)
	return func(x, y, aside float64) mgl64.Vec3 { return at.Add(turn.Rotate(mgl64.Vec3{x, y, aside}).Mul(size)) }
}

// fourBar is a frame, a crank with a tip, a coupler with a tip, and a rocker with one, which lies beside the coupler's.
func fourBar(t require.TestingT, at frame, aside float64, end [2]float64) *rig.Document {
	d := rigtest.Apply(t, rig.New("x"), &edit.LayChain{Positions: []mgl64.Vec3{at(1, -1, 0)}, Pattern: "frame"})
	on := d.Joints[0].ID
	d = rigtest.Apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{at(0, 0, 0), at(0.3, 1, 0), at(end[0], end[1], 0)}, Pattern: "crank_#", Parent: on})
	return rigtest.Apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{at(3.2, 0, aside), at(end[0], end[1], aside)}, Pattern: "rocker_#", Parent: on})
}

func build(d *rig.Document) *edit.AddMechanism {
	return &edit.AddMechanism{Mechanism: bars.Name, Name: "bars", Roles: map[string][]string{"driver": {d.Joints[1].ID}, "bars": {d.Joints[2].ID, d.Joints[4].ID}}}
}

// TestPinsStayTogetherWhereverTheFrameGoes turns the handle and moves the frame: coupler and rocker keep meeting, bars keep their lengths, and the rocker stays on its pin.
func TestPinsStayTogetherWhereverTheFrameGoes(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		at := anywhere(t)
		d := fourBar(t, at, 0, [2]float64{2.8, 2.4})
		d = rigtest.Apply(t, d, build(d))
		e := rigtest.Open(t, d)
		size := at(1, 0, 0).Sub(at(0, 0, 0)).Len()
		handle := e.Plan.ControlIndex[d.Mechanisms[0].Controls[0]]
		turn := rapid.Float64Range(-9, 9).Draw(t, "turn")
		require.NoError(t, e.SetChannel(handle, rig.RotateY, turn))
		root := e.Plan.ControlIndex[d.ControlNamed(rig.RootName).ID]
		require.NoError(t, e.SetChannel(root, rig.RotateX, rapid.Float64Range(-3, 3).Draw(t, "root")))
		require.NoError(t, e.SetChannel(root, rig.MoveZ, size))
		e.Evaluate()
		j := e.Frame.Joints
		place := func(i int) mgl64.Vec3 { return d.Joints[i].Position }
		assert.InDelta(t, 0, j[3].Position.Sub(j[5].Position).Len(), 1e-11*size, "the ends of coupler and rocker")
		for _, bar := range [][2]int{{1, 2}, {2, 3}, {4, 5}, {1, 4}} {
			assert.InDelta(t, place(bar[0]).Sub(place(bar[1])).Len(), j[bar[0]].Position.Sub(j[bar[1]].Position).Len(), 1e-11*size)
		}
		carried := j[0].Then(d.Joints[0].Rest().Inverse())
		assert.InDelta(t, 0, carried.Apply(place(4)).Sub(j[4].Position).Len(), 1e-11*size, "the rocker's pin stands still")
		was, now := place(2).Sub(place(1)), carried.Inverse().Rotation.Rotate(j[2].Position.Sub(j[1].Position))
		assert.InDelta(t, math.Cos(turn), was.Dot(now)/was.LenSqr(), 1e-9, "a crank turns as its handle is turned")
	})
}

// TestAHandlePastTheEndIsHeldAndSaysSo turns a rocker that cannot turn round.
func TestAHandlePastTheEndIsHeldAndSaysSo(t *testing.T) {
	at := func(x, y, aside float64) mgl64.Vec3 { return mgl64.Vec3{x, y, aside} }
	d := fourBar(t, at, 0, [2]float64{1.2, 1.1})
	d = rigtest.Apply(t, d, build(d))
	e := rigtest.Open(t, d)
	handle := e.Plan.ControlIndex[d.Mechanisms[0].Controls[0]]
	require.Len(t, e.Plan.Stops, 1)
	stop := e.Plan.Stops[0]
	require.NoError(t, e.SetChannel(handle, rig.RotateY, stop.High-1e-9))
	e.Evaluate()
	require.Empty(t, e.Findings(), "up to its stop it goes")
	require.NoError(t, e.SetChannel(handle, rig.RotateY, stop.High+1e-9))
	e.Evaluate()
	require.Len(t, e.Findings(), 1, "and no farther")
	require.NoError(t, e.SetChannel(handle, rig.RotateY, 40))
	e.Evaluate()
	require.Len(t, e.Findings(), 1)
	assert.Contains(t, e.Findings()[0].Text, "crank_2 and rocker_1 cannot go on", "the bars are named")
	stuck := e.Frame.Joints[2].Position
	require.NoError(t, e.SetChannel(handle, rig.RotateY, 41))
	e.Evaluate()
	assert.Equal(t, stuck, e.Frame.Joints[2].Position)
	for _, n := range stuck {
		assert.False(t, math.IsNaN(n))
	}
}

// TestBarsThatLieSideBySideNeedTheirAxisSaid pins a rocker that lies beside the coupler.
func TestBarsThatLieSideBySideNeedTheirAxisSaid(t *testing.T) {
	at := func(x, y, aside float64) mgl64.Vec3 { return mgl64.Vec3{aside, x, y} }
	d := fourBar(t, at, 0.2, [2]float64{2.8, 2.4})
	add := build(d)
	d.Joints[1].Rotation = rig.Quaternion{0, 0, 0, 1}
	add.Options = parameter.Set{"axis": parameter.OfChoice("the driver's X axis")}
	d = rigtest.Apply(t, d, add)
	e := rigtest.Open(t, d)
	require.NoError(t, e.SetChannel(e.Plan.ControlIndex[d.Mechanisms[0].Controls[0]], rig.RotateY, 0.8))
	e.Evaluate()
	apart := e.Frame.Joints[3].Position.Sub(e.Frame.Joints[5].Position)
	assert.InDelta(t, 0.2, math.Abs(apart[0]), 1e-12)
	assert.InDelta(t, 0, math.Hypot(apart[1], apart[2]), 1e-12)
}

func TestWhatIsNoLinkageIsRefused(t *testing.T) {
	at := func(x, y, aside float64) mgl64.Vec3 { return mgl64.Vec3{x, y, aside} }
	d := fourBar(t, at, 0, [2]float64{2.8, 2.4})
	open := d.Clone()
	open.Joints[5].Position = mgl64.Vec3{2, 2, 0} // the ends do not meet
	rigtest.Refuse(t, open, build(open), "still loose")
	lone := build(d)
	lone.Roles = map[string][]string{"driver": {d.Joints[2].ID}, "bars": {d.Joints[1].ID, d.Joints[4].ID}}
	rigtest.Refuse(t, d, lone, "hang")
	line := fourBar(t, at, 0, [2]float64{1.75, 0.5})
	rigtest.Refuse(t, line, build(line), "crank_2 and rocker_1 stand dead straight")
	few := build(d)
	few.Roles = map[string][]string{"driver": {d.Joints[1].ID}, "bars": {d.Joints[2].ID}}
	rigtest.Refuse(t, d, few, "in no closed loop")
	alone := build(open)
	alone.Roles = map[string][]string{"driver": {open.Joints[1].ID}}
	rigtest.Refuse(t, open, alone, "in no closed loop")
}

// TestBarsAreProposed builds with the driver alone, beside joints that are no bars: the others are found, and it moves as if they had been chosen.
func TestBarsAreProposed(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		at := anywhere(t)
		d := fourBar(t, at, 0, [2]float64{2.8, 2.4})
		d = rigtest.Apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{at(1, 2, 0), at(1, 3, 0)}, Pattern: "flag_#", Parent: d.Joints[2].ID}, &edit.LayChain{Positions: []mgl64.Vec3{at(5, 5, 1)}, Pattern: "lamp", Parent: d.Joints[0].ID})
		chosen := rigtest.Apply(t, d, build(d))
		lone := build(d)
		lone.Roles = map[string][]string{"driver": {d.Joints[1].ID}}
		found := rigtest.Apply(t, d, lone)
		assert.Equal(t, chosen.Mechanisms[0].Joints, found.Mechanisms[0].Joints)
	})
}

// TestARamDrivesByItsLength gives a four-bar a ram between the frame and the crank: by the dial the eyes are as much farther from each other as it says, wherever the frame is.
func TestARamDrivesByItsLength(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		at := anywhere(t)
		d := fourBar(t, at, 0, [2]float64{2.8, 2.4})
		d = rigtest.Apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{at(-1.5, 0.2, 0)}, Pattern: "foot", Parent: d.Joints[0].ID}, &edit.LayChain{Positions: []mgl64.Vec3{at(0.1, 0.7, 0)}, Pattern: "head", Parent: d.Joints[1].ID})
		add := build(d)
		n := len(d.Joints)
		add.Roles["ram"] = []string{d.Joints[n-2].ID, d.Joints[n-1].ID}
		d = rigtest.Apply(t, d, add)
		e := rigtest.Open(t, d)
		size := at(1, 0, 0).Sub(at(0, 0, 0)).Len()
		handle := e.Plan.ControlIndex[d.Mechanisms[0].Controls[0]]
		dial := d.Controls[handle].Dials[0]
		longer := dial.Min + (dial.Max-dial.Min)*rapid.Float64Range(0.001, 0.999).Draw(t, "longer")
		require.NoError(t, e.SetChannel(handle, bars.ExtensionDial, longer))
		require.NoError(t, e.SetChannel(e.Plan.ControlIndex[d.ControlNamed(rig.RootName).ID], rig.RotateX, 1))
		e.Evaluate()
		rest := d.Joints[n-1].Position.Sub(d.Joints[n-2].Position).Len()
		now := e.Frame.Joints[n-1].Position.Sub(e.Frame.Joints[n-2].Position).Len()
		assert.InDelta(t, rest+longer, now, 1e-9*size)
		assert.Empty(t, e.Findings())
		assert.InDelta(t, 0, e.Frame.Joints[3].Position.Sub(e.Frame.Joints[5].Position).Len(), 1e-11*size, "the rest follows")
	})
	at := func(x, y, aside float64) mgl64.Vec3 { return mgl64.Vec3{x, y, aside} }
	d := fourBar(t, at, 0, [2]float64{2.8, 2.4})
	d = rigtest.Apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{at(-1, 0, 0)}, Pattern: "foot", Parent: d.Joints[0].ID}, &edit.LayChain{Positions: []mgl64.Vec3{at(2, 0, 0)}, Pattern: "head", Parent: d.Joints[1].ID})
	straight := build(d)
	straight.Roles["ram"] = []string{d.Joints[6].ID, d.Joints[7].ID}
	rigtest.Refuse(t, d, straight, "could not push")
	straight.Roles["ram"] = []string{d.Joints[6].ID}
	rigtest.Refuse(t, d, straight, "two eyes")
}

// TestALoopWithAFreedomOfItsOwnIsLeftOut hangs a second four-bar on the coupler: the first one's driver does not take it along among its bars.
func TestALoopWithAFreedomOfItsOwnIsLeftOut(t *testing.T) {
	at := func(x, y, aside float64) mgl64.Vec3 { return mgl64.Vec3{x, y, aside} }
	d := fourBar(t, at, 0, [2]float64{2.8, 2.4})
	coupler := d.Joints[2].ID
	d = rigtest.Apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{at(0.8, 2, 0), at(0.7, 2.6, 0), at(1.9, 2.9, 0)}, Pattern: "bell_#", Parent: coupler})
	d = rigtest.Apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{at(2, 2.2, 0), at(1.9, 2.9, 0)}, Pattern: "scoop_#", Parent: coupler})
	lone := build(d)
	lone.Roles = map[string][]string{"driver": {d.Joints[1].ID}}
	made := rigtest.Apply(t, d, lone)
	assert.Equal(t, []string{d.Joints[1].ID, coupler, d.Joints[4].ID}, made.Mechanisms[0].Joints)
	second := rigtest.Apply(t, made, &edit.AddMechanism{Mechanism: bars.Name, Name: "bucket", Roles: map[string][]string{"driver": {d.Joints[6].ID}}})
	assert.Equal(t, []string{d.Joints[6].ID, d.Joints[7].ID, d.Joints[9].ID}, second.Mechanisms[1].Joints)
}

// TestMirrorImagesOfALinkageFollowTheirOwnHandles mirrors a four-bar: the image's pins meet, and it goes the mirrored way.
func TestMirrorImagesOfALinkageFollowTheirOwnHandles(t *testing.T) {
	at := func(x, y, aside float64) mgl64.Vec3 { return mgl64.Vec3{2 + aside, y, x} }
	d := fourBar(t, at, 0, [2]float64{2.8, 2.4})
	d = rigtest.Apply(t, d, build(d))
	d = rigtest.Apply(t, d, &edit.AddRepeat{Name: "other", Rule: rig.Mirror, Sources: []string{d.Joints[0].ID}, Direction: mgl64.Vec3{1, 0, 0}})
	e := rigtest.Open(t, d)
	seen := e.Plan.Document
	require.Len(t, seen.Joints, 12)
	for i, c := range seen.Controls {
		if c.Dial("scale") == nil && c.Name != rig.RootName {
			require.NoError(t, e.SetChannel(i, rig.RotateY, 0.7))
		}
	}
	e.Evaluate()
	across := func(p mgl64.Vec3) mgl64.Vec3 { return mgl64.Vec3{-p[0], p[1], p[2]} }
	for i, j := range seen.Joints {
		for k, other := range seen.Joints {
			if across(j.Position).Sub(other.Position).Len() < 1e-9 {
				assert.InDelta(t, 0, across(e.Frame.Joints[i].Position).Sub(e.Frame.Joints[k].Position).Len(), 1e-9, j.Name)
			}
		}
	}
	assert.Greater(t, e.Frame.Joints[2].Position.Sub(seen.Joints[2].Position).Len(), 0.1)
}
