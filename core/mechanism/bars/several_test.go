package bars_test

import (
	"math"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/interchange/rigfile"
	"myriapod/core/mechanism/bars"
	"myriapod/core/mechanism/hinge"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// lay lays joints in a plane, on the joint named.
func lay(t require.TestingT, d *rig.Document, at frame, pattern, on string, places ...[2]float64) *rig.Document {
	e := &edit.LayChain{Pattern: pattern}
	if on != "" {
		e.Parent = id(t, d, on)
	}
	for _, p := range places {
		e.Positions = append(e.Positions, at(p[0], p[1], 0))
	}
	return rigtest.Apply(t, d, e)
}

func id(t require.TestingT, d *rig.Document, name string) (found string) {
	d.EachNamed(func(id, n string) bool {
		if n == name {
			found = id
		}
		return found == ""
	})
	require.NotEmpty(t, found, name)
	return found
}

func place(t require.TestingT, e *evaluate.Evaluator, name string) mgl64.Vec3 {
	return e.Frame.Joints[e.Plan.JointIndex[id(t, e.Plan.Document, name)]].Position
}

func turn(t require.TestingT, e *evaluate.Evaluator, control string, channel rig.Channel, value float64) {
	require.NoError(t, e.SetChannel(e.Plan.ControlIndex[id(t, e.Plan.Document, control)], channel, value))
}

// piston is a crank, a rod, and a block that slides on the frame.
func piston(t require.TestingT, at frame) *rig.Document {
	d := lay(t, rig.New("x"), at, "frame", "", [2]float64{1, -1})
	d = lay(t, d, at, "crank_#", "frame", [2]float64{0, 0}, [2]float64{0.3, 0.9}, [2]float64{3, 0.2})
	d = lay(t, d, at, "block_#", "frame", [2]float64{3, 0.2}, [2]float64{3.6, 0.2})
	return rigtest.Apply(t, d, &edit.AddMechanism{Mechanism: bars.Name, Name: "engine", Roles: map[string][]string{
		"driver": {id(t, d, "crank_1")}, "bars": {id(t, d, "crank_2")}, "slides": {id(t, d, "block_1")},
	}})
}

// A block stays on its line and turns with the frame, while the rod keeps its length; through the rig file it does the same.
func TestABlockSlides(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		at := anywhere(t)
		d := piston(t, at)
		e := rigtest.Open(t, d)
		size := at(1, 0, 0).Sub(at(0, 0, 0)).Len()
		turn(t, e, "engine_handle", rig.RotateY, rapid.Float64Range(-9, 9).Draw(t, "turn"))
		turn(t, e, rig.RootName, rig.RotateX, 1)
		e.Evaluate()
		carried := e.Frame.Joints[0].Then(d.Joints[0].Rest().Inverse())
		way := at(3.6, 0.2, 0).Sub(at(3, 0.2, 0)).Normalize()
		away := carried.Inverse().Apply(place(t, e, "block_1")).Sub(at(3, 0.2, 0))
		assert.InDelta(t, 0, away.Sub(way.Mul(away.Dot(way))).Len(), 1e-10*size, "on its line")
		assert.InDelta(t, 0, place(t, e, "block_1").Sub(place(t, e, "crank_3")).Len(), 1e-10*size, "where the rod ends")
		assert.InDelta(t, 0.6*size, place(t, e, "block_2").Sub(place(t, e, "block_1")).Dot(carried.Rotation.Rotate(way)), 1e-10*size, "not turned")
	})
	at := func(x, y, aside float64) mgl64.Vec3 { return mgl64.Vec3{x, y, aside} }
	d := piston(t, at)
	data, err := rigfile.Write(d, edit.Memory{})
	require.NoError(t, err)
	read, _, err := rigfile.Read(data, kinds.All())
	require.NoError(t, err)
	a, b := rigtest.Open(t, d), rigtest.Open(t, read)
	for _, e := range []*evaluate.Evaluator{a, b} {
		turn(t, e, "engine_handle", rig.RotateY, 2)
		e.Evaluate()
	}
	assert.Equal(t, a.Frame.Joints, b.Frame.Joints)
	along := d.Clone()
	j := along.Joint(id(t, d, "block_1"))
	j.Rotation = rig.QuaternionOf(geometry.Shortest(geometry.MainAxis, mgl64.Vec3{0, 0, 1}, mgl64.Vec3{1, 0, 0}))
	_, _, err = evaluate.Open(along, kinds.All(), edit.Memory{})
	assert.ErrorContains(t, err, "stands along the pins")
}

// digger is a boom on a frame, a stick on it, and a bucket on a four-bar, all in one linkage.
func digger(t require.TestingT, at frame) *rig.Document {
	d := lay(t, rig.New("x"), at, "frame", "", [2]float64{-1, 0})
	d = lay(t, d, at, "boom", "frame", [2]float64{0, 0})
	d = lay(t, d, at, "stick", "boom", [2]float64{3, 2})
	d = lay(t, d, at, "bell_#", "stick", [2]float64{4.4, 1.1}, [2]float64{4.7, 1.5})
	d = lay(t, d, at, "link_#", "bell_1", [2]float64{4.7, 1.5}, [2]float64{5.2, 1.2})
	d = lay(t, d, at, "bucket_#", "stick", [2]float64{5, 0.6}, [2]float64{5.2, 1.2})
	return rigtest.Apply(t, d, &edit.AddMechanism{Mechanism: bars.Name, Name: "digger", Roles: map[string][]string{
		"driver": {id(t, d, "boom")}, "also": {id(t, d, "stick"), id(t, d, "bell_1")}, "bars": {id(t, d, "link_1"), id(t, d, "bucket_1")},
	}})
}

// Each driver has a handle of its own, which goes along with what it is on; the bucket's end of travel holds neither boom nor stick.
func TestEveryDriverHasItsHandle(t *testing.T) {
	at := func(x, y, aside float64) mgl64.Vec3 { return mgl64.Vec3{0.3 + aside, y, x} }
	d := digger(t, at)
	require.Len(t, d.Mechanisms[0].Controls, 3)
	e := rigtest.Open(t, d)
	turn(t, e, "digger_handle", rig.RotateY, 0.3)
	turn(t, e, "stick_handle", rig.RotateY, -0.5)
	turn(t, e, "bell_1_handle", rig.RotateY, 30)
	e.Evaluate()
	require.Len(t, e.Findings(), 1)
	assert.Contains(t, e.Findings()[0].Text, "bring bell_1_handle back")
	assert.InDelta(t, 0, place(t, e, "link_2").Sub(place(t, e, "bucket_2")).Len(), 1e-7)
	for _, bar := range [][2]string{{"boom", "stick"}, {"stick", "bell_1"}, {"stick", "bucket_1"}, {"bell_1", "bell_2"}, {"bucket_1", "bucket_2"}} {
		was := d.Joint(id(t, d, bar[0])).Position.Sub(d.Joint(id(t, d, bar[1])).Position).Len()
		assert.InDelta(t, was, place(t, e, bar[0]).Sub(place(t, e, bar[1])).Len(), 1e-12)
	}
	was := d.Joint(id(t, d, "stick")).Position.Sub(d.Joint(id(t, d, "boom")).Position)
	now := place(t, e, "stick").Sub(place(t, e, "boom"))
	assert.InDelta(t, math.Cos(0.3), was.Dot(now)/was.LenSqr(), 1e-9, "the boom turned as far as its handle")
	handle := e.ControlAt(e.Plan.ControlIndex[id(t, d, "stick_handle")])
	assert.InDelta(t, 0, handle.Position.Sub(place(t, e, "stick")).Len(), 1e-12, "a handle is where its pin is")
}

// A handle that is held at a place on a bar takes that as near as it can to where it is dragged, and nowhere else is as near.
func TestAHandleIsHeldAnywhere(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		at := anywhere(t)
		d := fourBar(t, at, 0, [2]float64{2.8, 2.4})
		d = rigtest.Apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{at(2.2, 3.1, 0)}, Pattern: "tip", Parent: d.Joints[2].ID})
		add := build(d)
		add.Roles["hold"] = []string{id(t, d, "tip")}
		d = rigtest.Apply(t, d, add)
		e := rigtest.Open(t, d)
		size := at(1, 0, 0).Sub(at(0, 0, 0)).Len()
		control := e.Plan.ControlIndex[d.Mechanisms[0].Controls[0]]
		turn(t, e, rig.RootName, rig.RotateZ, 0.7)
		e.Evaluate()
		require.InDelta(t, 0, e.ControlAt(control).Position.Sub(place(t, e, "tip")).Len(), 1e-10*size)
		carried := e.Frame.Joints[0].Then(d.Joints[0].Rest().Inverse())
		to := carried.Apply(at(rapid.Float64Range(-2, 5).Draw(t, "x"), rapid.Float64Range(-2, 5).Draw(t, "y"), 0))
		require.NoError(t, e.PullTo(control, to))
		e.Evaluate()
		tip := place(t, e, "tip")
		got := tip.Sub(to).Len()
		assert.InDelta(t, 0, e.ControlAt(control).Position.Sub(tip).Len(), 1e-10*size, "the handle stays on its place")
		held := e.Frame.Inputs[e.Slot(control, rig.RotateY)]
		for k := range 400 {
			require.NoError(t, e.SetChannel(control, rig.RotateY, held+math.Pi*(float64(k)/200-1)))
			e.Evaluate()
			assert.LessOrEqual(t, got, place(t, e, "tip").Sub(to).Len()+1e-6*size)
		}
		require.NoError(t, e.PullTo(control, tip))
		e.Evaluate()
		assert.InDelta(t, 0, place(t, e, "tip").Sub(tip).Len(), 1e-6*size, "a place that it reaches is reached")
	})
}

// A crank that a rod from another plane turns keeps the rod's length, however the other turns.
func TestTwoPlanesCoupledByARod(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		at := anywhere(t)
		d := fourBar(t, at, 0, [2]float64{2.8, 2.4})
		size := at(1, 0, 0).Sub(at(0, 0, 0)).Len()
		d = rigtest.Apply(t, d,
			&edit.LayChain{Positions: []mgl64.Vec3{at(-1.5, 0.5, 2)}, Pattern: "wheel", Parent: d.Joints[0].ID},
			&edit.LayChain{Positions: []mgl64.Vec3{at(0.25, 0.8, 0.1)}, Pattern: "knob", Parent: d.Joints[1].ID})
		d = rigtest.Apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{at(-1.5, 0.9, 2.3)}, Pattern: "crankpin", Parent: id(t, d, "wheel")})
		d = rigtest.Apply(t, d, &edit.AddMechanism{Mechanism: hinge.Name, Name: "wheel_turn", Joints: []string{id(t, d, "wheel")}, Options: parameter.Set{"axis": parameter.OfChoice("the joint's main axis")}, Parameters: parameter.Set{"back": parameter.OfNumber(-40), "forth": parameter.OfNumber(40)}})
		add := build(d)
		add.Roles["ram"] = []string{id(t, d, "crankpin"), id(t, d, "knob")}
		d = rigtest.Apply(t, d, add)
		e := rigtest.Open(t, d)
		long := place(t, e, "crankpin").Sub(place(t, e, "knob")).Len()
		before := place(t, e, "knob")
		turn(t, e, "wheel_turn_handle", rig.RotateY, rapid.Float64Range(-0.6, 0.6).Draw(t, "wheel"))
		turn(t, e, rig.RootName, rig.RotateX, 0.5)
		e.Evaluate()
		if len(e.Findings()) > 0 {
			t.Skip("it does not reach")
		}
		assert.InDelta(t, long, place(t, e, "crankpin").Sub(place(t, e, "knob")).Len(), 1e-9*size)
		assert.InDelta(t, 0, e.Frame.Joints[3].Position.Sub(e.Frame.Joints[5].Position).Len(), 1e-10*size, "the four-bar follows")
		_ = before
	})
}

func TestWhatRamsAndPinsCannotDoIsTold(t *testing.T) {
	at := func(x, y, aside float64) mgl64.Vec3 { return mgl64.Vec3{x, y, aside} }
	d := fourBar(t, at, 0, [2]float64{2.8, 2.4})
	eye := func(on int, x, y float64, name string) {
		d = rigtest.Apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{at(x, y, 0)}, Pattern: name, Parent: d.Joints[on].ID})
	}
	eye(1, 0.1, 0.7, "head")
	eye(1, 0.3, 0.5, "neck")
	eye(0, -1.5, 0.2, "foot")
	eye(0, -1.5, 0.6, "heel")
	eye(2, 1, 2, "elbow")
	add := build(d)
	for want, ram := range map[string][]string{
		"both eyes of the ram, neck and head, are on crank_1": {"neck", "head"},
		"elbow is on no bar that drives":                      {"foot", "elbow"},
		"elbow is on another bar than crank_1 hangs on":       {"elbow", "head"},
		"crank_1 is driven by two rams":                       {"foot", "head", "heel", "neck"},
	} {
		add.Roles["ram"] = nil
		for _, name := range ram {
			add.Roles["ram"] = append(add.Roles["ram"], id(t, d, name))
		}
		rigtest.Refuse(t, d, add, want)
	}
	twice := build(d)
	twice.Roles["also"] = []string{d.Joints[4].ID}
	twice.Roles["bars"] = []string{d.Joints[2].ID}
	rigtest.Refuse(t, d, twice, "one of them would have to give way; take a pin")
	missed := d.Clone()
	missed.Joints[5].Position = missed.Joints[5].Position.Add(mgl64.Vec3{0.02, 0, 0})
	rigtest.Refuse(t, missed, build(missed), "lie 0.02 m apart and are not pinned; bring them together, or have pins meet within 0.0202 m")
	within := build(missed)
	within.Parameters = parameter.Set{"gap": parameter.OfNumber(0.03)}
	e := rigtest.Open(t, rigtest.Apply(t, missed, within))
	turn(t, e, "bars_handle", rig.RotateY, 0.4)
	e.Evaluate()
	assert.InDelta(t, 0.02, e.Frame.Joints[3].Position.Sub(e.Frame.Joints[5].Position).Len(), 0.03, "it keeps about its gap")
}

// Bars that miss being a parallelogram by next to nothing are made one, and it is told.
func TestNearlyEqualBarsAreMadeEqual(t *testing.T) {
	at := func(x, y, aside float64) mgl64.Vec3 { return mgl64.Vec3{x, y, aside} }
	d := lay(t, rig.New("x"), at, "frame", "", [2]float64{1, -1})
	d = lay(t, d, at, "arm_#", "frame", [2]float64{0, 0}, [2]float64{4, 1}, [2]float64{4 + 1e-6, 2 - 5e-7})
	d = lay(t, d, at, "tie_#", "frame", [2]float64{0, 1}, [2]float64{4 + 1e-6, 2 - 5e-7})
	said := ""
	c := rigtest.Context()
	c.Tell = func(text string) { said += text }
	result, err := edit.Apply(c, d, &edit.AddMechanism{Mechanism: bars.Name, Name: "arm", Roles: map[string][]string{"driver": {id(t, d, "arm_1")}, "bars": {id(t, d, "arm_2"), id(t, d, "tie_1")}}})
	require.NoError(t, err)
	assert.Contains(t, said, "arm_3 and tie_2 stood beside where bars are equal")
	e := rigtest.Open(t, result.Document)
	for k := range 200 {
		turn(t, e, "arm_handle", rig.RotateY, float64(k)/10)
		e.Evaluate()
		assert.InDelta(t, 0, place(t, e, "arm_3").Sub(place(t, e, "tie_2")).Len(), 1e-12)
		assert.InDelta(t, 1, place(t, e, "arm_3").Sub(place(t, e, "arm_2"))[1], 1e-12, "what it carries stays level")
	}
}

// Where a bar is still loose the refusal has the edit with which it is driven as well, and that is taken.
func TestWhatIsLooseCanBeDrivenAsWell(t *testing.T) {
	at := func(x, y, aside float64) mgl64.Vec3 { return mgl64.Vec3{x, y, aside} }
	d := lay(t, rig.New("x"), at, "frame", "", [2]float64{1, -1})
	d = lay(t, d, at, "left_#", "frame", [2]float64{0, 0}, [2]float64{-0.6, 1.2}, [2]float64{1, 2.6})
	d = lay(t, d, at, "right_#", "frame", [2]float64{2, 0}, [2]float64{2.7, 1.3}, [2]float64{1, 2.6})
	_, err := edit.Apply(rigtest.Context(), d, &edit.AddMechanism{Mechanism: bars.Name, Name: "five", Roles: map[string][]string{
		"driver": {id(t, d, "left_1")}, "bars": {id(t, d, "left_2"), id(t, d, "right_2"), id(t, d, "right_1")},
	}})
	require.ErrorContains(t, err, "still loose while left_1 is held (2 freedoms, 1 driven)")
	var mendable *edit.MendableError
	require.ErrorAs(t, err, &mendable)
	require.Len(t, mendable.Sways, 3)
	way := func(joint string, at mgl64.Vec3) (way mgl64.Vec3) {
		for _, s := range mendable.Sways {
			if s.Joint == id(t, d, joint) {
				way = s.Move.Add(s.Turn.Cross(at.Sub(s.Through)))
			}
		}
		return way
	}
	place := func(joint string) mgl64.Vec3 { return d.Joint(id(t, d, joint)).Position }
	moves := way("left_2", place("left_3"))
	assert.Greater(t, moves.Len(), 0.01)
	assert.InDelta(t, 0, moves.Sub(way("right_2", place("right_3"))).Len(), 1e-9, "both go on where they are pinned")
	assert.InDelta(t, 0, way("left_2", place("left_2")).Len(), 1e-9, "not where the one is held that is driven")
	assert.InDelta(t, 0, way("right_1", place("right_1")).Len(), 1e-9, "nor where it is fixed")
	built := rigtest.Apply(t, d, mendable.Edit)
	assert.Len(t, built.Mechanisms[0].Controls, 2)
}
