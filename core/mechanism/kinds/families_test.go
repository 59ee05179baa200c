package kinds_test

import (
	"fmt"
	"maps"
	"math"
	"math/rand/v2"
	"slices"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/geometry"
	"myriapod/core/mechanism/aim"
	"myriapod/core/mechanism/bars"
	"myriapod/core/mechanism/fkchain"
	"myriapod/core/mechanism/follow"
	"myriapod/core/mechanism/foot"
	"myriapod/core/mechanism/gear"
	"myriapod/core/mechanism/ground"
	"myriapod/core/mechanism/hinge"
	"myriapod/core/mechanism/hose"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/mechanism/limb"
	"myriapod/core/mechanism/prop"
	"myriapod/core/mechanism/rack"
	"myriapod/core/mechanism/ram"
	"myriapod/core/mechanism/ride"
	"myriapod/core/mechanism/settle"
	"myriapod/core/mechanism/step"
	"myriapod/core/mechanism/track"
	"myriapod/core/mechanism/wheel"
	"myriapod/core/parameter"
	"myriapod/core/rig"
)

// shapes are how a chain can lie at rest, in bones of about 1, from the origin on.
var shapes = map[string]func(random *rand.Rand, joints int) []mgl64.Vec3{
	"straight": func(_ *rand.Rand, joints int) []mgl64.Vec3 {
		return line(joints, func(k float64) mgl64.Vec3 { return mgl64.Vec3{0, -k, 0} })
	},
	"bent": func(random *rand.Rand, joints int) []mgl64.Vec3 {
		bend := 0.3 + 0.5*random.Float64()
		return line(joints, func(k float64) mgl64.Vec3 {
			a := bend * 2 * k / float64(joints)
			return mgl64.Vec3{0.1 * k, -float64(joints) / 2 * math.Sin(a) / bend, float64(joints) / 2 * (1 - math.Cos(a)) / bend}
		})
	},
	"wandering": func(random *rand.Rand, joints int) []mgl64.Vec3 {
		places := wander(random, joints, 0.7)
		for i := range places {
			places[i] = places[i].Mul(10)
		}
		return places
	},
	"hairpin": func(_ *rand.Rand, joints int) []mgl64.Vec3 {
		half := float64(joints-1) / 2
		return line(joints, func(k float64) mgl64.Vec3 {
			return mgl64.Vec3{1.2 * geometry.Smoothstep((k-half)/2+0.5), -math.Min(k, 2*half-k), 0.02 * k}
		})
	},
	"helical": func(random *rand.Rand, joints int) []mgl64.Vec3 {
		rate := 0.5 + 0.5*random.Float64()
		return line(joints, func(k float64) mgl64.Vec3 {
			return mgl64.Vec3{math.Cos(rate*k) / rate, -0.5 * k, math.Sin(rate*k) / rate}
		})
	},
}

func line(joints int, at func(k float64) mgl64.Vec3) []mgl64.Vec3 {
	places := make([]mgl64.Vec3, joints)
	for i := range places {
		places[i] = at(float64(i))
	}
	return places
}

// fourBar is a crank, a coupler and a rocker at any angle in space, on a joint that nothing moves. The rocker's end lies on the coupler's.
func fourBar(t require.TestingT, random *rand.Rand, s stage) *rig.Document {
	turn := mgl64.QuatRotate(6*random.Float64(), mgl64.Vec3{random.Float64(), 1, random.Float64()}.Normalize())
	at := func(x, y float64) mgl64.Vec3 {
		return s.place([]mgl64.Vec3{turn.Rotate(mgl64.Vec3{x, y, 0.3})})[0]
	}
	tip, end := at(0.2+0.3*random.Float64(), 1), at(2.5+random.Float64(), 2.2+random.Float64())
	d, _ := apply(t, rig.New("x"), &edit.LayChain{Positions: []mgl64.Vec3{at(1, -1)}, Pattern: "frame"})
	frame := d.Joints[0].ID
	d, _ = apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{at(0, 0), tip, end}, Pattern: "crank_#", Parent: frame})
	d, _ = apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{at(3.2, 0), end}, Pattern: "rocker_#", Parent: frame})
	d, _ = apply(t, d, &edit.AddMechanism{Mechanism: bars.Name, Name: "bars", Roles: map[string][]string{"driver": {d.Joints[1].ID}, "bars": {d.Joints[2].ID, d.Joints[4].ID}}})
	return d
}

// engine is a crank, a rod and a block that slides on the frame, held at the rod's middle; and a second crank that two bars pull from the rod's end, both of which drive.
func engine(t require.TestingT, random *rand.Rand, s stage) *rig.Document {
	turn := mgl64.QuatRotate(6*random.Float64(), mgl64.Vec3{random.Float64(), 1, random.Float64()}.Normalize())
	d := rig.New("x")
	lay := func(pattern, on string, places ...[2]float64) {
		e := &edit.LayChain{Pattern: pattern}
		for _, j := range d.Joints {
			if j.Name == on {
				e.Parent = j.ID
			}
		}
		for _, p := range places {
			e.Positions = append(e.Positions, s.place([]mgl64.Vec3{turn.Rotate(mgl64.Vec3{p[0], p[1], 0.3})})[0])
		}
		d, _ = apply(t, d, e)
	}
	named := func(names ...string) (ids []string) {
		for _, name := range names {
			for _, j := range d.Joints {
				if j.Name == name {
					ids = append(ids, j.ID)
				}
			}
		}
		return ids
	}
	lay("frame", "", [2]float64{1, -1})
	lay("crank_#", "frame", [2]float64{0, 0}, [2]float64{0.2 + 0.2*random.Float64(), 0.9}, [2]float64{3, 0.2})
	lay("eye", "crank_2", [2]float64{1.6, 0.7})
	lay("block_#", "frame", [2]float64{3, 0.2}, [2]float64{3.6, 0.2})
	lay("arm_#", "frame", [2]float64{-2, 0}, [2]float64{-2.2, 1.1}, [2]float64{-1.1, 2.2})
	lay("stay_#", "crank_1", [2]float64{0.1, 0.5}, [2]float64{-1.1, 2.2})
	d, _ = apply(t, d, &edit.AddMechanism{Mechanism: bars.Name, Name: "engine", Roles: map[string][]string{
		"driver": named("crank_1"), "also": named("arm_1"), "bars": named("crank_2", "arm_2", "stay_1"), "slides": named("block_1"), "hold": named("eye"),
	}})
	return d
}

// stage is where and how large a rig is built.
type stage struct {
	bone float64
	at   mgl64.Vec3
}

func (s stage) place(places []mgl64.Vec3) []mgl64.Vec3 {
	list := make([]mgl64.Vec3, len(places))
	for i, p := range places {
		list[i] = s.at.Add(p.Mul(s.bone))
	}
	return list
}

// family builds one family of rigs on a shape at rest.
type family func(t require.TestingT, random *rand.Rand, shape func(*rand.Rand, int) []mgl64.Vec3, s stage) *rig.Document

// families are all ways of moving joints that every general claim is tried on. A new kind joins here, or in rigs when it moves a chain.
func families() map[string]family {
	list := map[string]family{}
	for name, layers := range rigs {
		list[name] = func(t require.TestingT, random *rand.Rand, shape func(*rand.Rand, int) []mgl64.Vec3, s stage) *rig.Document {
			d, _ := build(t, s.place(shape(random, 7+random.IntN(9))), layers)
			return d
		}
	}
	for name, options := range map[string]parameter.Set{
		"limb": {}, "limb without pole": {"pole": parameter.OfToggle(false)},
	} {
		for _, more := range []parameter.Set{nil, {"hinge": parameter.OfToggle(true)}} {
			title := name
			if more != nil {
				title += " on a hinge"
			}
			list[title] = func(t require.TestingT, random *rand.Rand, shape func(*rand.Rand, int) []mgl64.Vec3, s stage) *rig.Document {
				d, _ := leg(t, random, shape, s, options, more)
				return d
			}
		}
	}
	list["foot"] = func(t require.TestingT, random *rand.Rand, shape func(*rand.Rand, int) []mgl64.Vec3, s stage) *rig.Document {
		d, reach := leg(t, random, shape, s, nil, nil)
		d, _ = apply(t, d, &edit.AddMechanism{Mechanism: foot.Name, Name: "foot", Host: reach})
		return d
	}
	list["gait"] = gait
	for _, kind := range []string{hinge.Name, hinge.SlideName} {
		list[kind] = func(t require.TestingT, random *rand.Rand, shape func(*rand.Rand, int) []mgl64.Vec3, s stage) *rig.Document {
			d, _ := apply(t, rig.New("x"), &edit.LayChain{Positions: s.place(shape(random, 6)), Pattern: "stage_##"})
			d, _ = apply(t, d, &edit.AddMechanism{Mechanism: kind, Name: "door", Joints: []string{d.Joints[1].ID, d.Joints[2].ID, d.Joints[4].ID}})
			return d
		}
	}
	list["linkage"] = func(t require.TestingT, random *rand.Rand, _ func(*rand.Rand, int) []mgl64.Vec3, s stage) *rig.Document {
		return fourBar(t, random, s)
	}
	list["engine"] = func(t require.TestingT, random *rand.Rand, _ func(*rand.Rand, int) []mgl64.Vec3, s stage) *rig.Document {
		return engine(t, random, s)
	}
	list["wheels"] = wheels
	list["tracks"] = tracks
	list["hose"] = func(t require.TestingT, random *rand.Rand, shape func(*rand.Rand, int) []mgl64.Vec3, s stage) *rig.Document {
		d, _ := build(t, s.place(shape(random, 8)), rigs["FK"])
		places := shapes["bent"](random, 9)
		d, _ = apply(t, d, &edit.LayChain{Positions: s.place(places), Pattern: "hose_#", Parent: d.Joints[2].ID})
		n := len(d.Joints)
		d, _ = apply(t, d, &edit.AddMechanism{Mechanism: hose.Name, Name: "hose", Roles: map[string][]string{"chain": {d.Joints[n-9].ID, d.Joints[n-1].ID}, "end": {d.Joints[6].ID}}})
		return d
	}
	// Without a clip: with one, what a hand holds against it changes hands where the clip does, which tests of its own look at.
	list["prop"] = func(t require.TestingT, random *rand.Rand, shape func(*rand.Rand, int) []mgl64.Vec3, s stage) *rig.Document {
		d, _ := build(t, s.place(shape(random, 8)), rigs["FK"])
		d, _ = apply(t, d, &edit.LayChain{Positions: s.place([]mgl64.Vec3{{0.7, 0.3, 0.2}}), Pattern: "hook"})
		d, _ = apply(t, d, &edit.AddMechanism{Mechanism: prop.Name, Name: "prop", Roles: map[string][]string{"prop": {d.Joints[len(d.Joints)-1].ID}, "holders": {d.Joints[3].ID, d.Joints[7].ID}}})
		return d
	}
	for ends, home := range map[string]bool{"stops": true, "goes round": false} {
		list["ride that "+ends] = func(t require.TestingT, random *rand.Rand, shape func(*rand.Rand, int) []mgl64.Vec3, s stage) *rig.Document {
			d, _ := build(t, s.place(shape(random, 9)), rigs["spline"])
			d, _ = apply(t, d, &edit.LayChain{Positions: s.place([]mgl64.Vec3{{0.4, -2, 0.3}, {0.4, -3, 0.3}}), Pattern: "bead_#"})
			rider := d.Joints[len(d.Joints)-2].ID
			if home {
				d, _ = apply(t, d, &edit.AddControl{Name: "car", Position: s.place([]mgl64.Vec3{{0.4, -2, 0.3}})[0], Shape: rig.Cross, Reach: 0.2 * s.bone})
				rider = d.ControlNamed("car").ID
			}
			d, _ = apply(t, d, &edit.AddMechanism{
				Mechanism: ride.Name, Name: "ride", Roles: map[string][]string{"rider": {rider}, "along": {d.Joints[3].ID}}, Parameters: parameter.Set{"ends": parameter.OfChoice(ends)},
			})
			return d
		}
	}
	list["ram"] = func(t require.TestingT, random *rand.Rand, shape func(*rand.Rand, int) []mgl64.Vec3, s stage) *rig.Document {
		d, _ := build(t, s.place(shape(random, 8)), rigs["FK"])
		d, _ = apply(t, d, &edit.LayChain{Positions: []mgl64.Vec3{s.place([]mgl64.Vec3{{0.7, 0.3, 0.2}})[0]}, Pattern: "barrel", Parent: d.Joints[1].ID},
			&edit.LayChain{Positions: []mgl64.Vec3{s.place([]mgl64.Vec3{{1.1, -2.6, 0.4}})[0]}, Pattern: "rod", Parent: d.Joints[4].ID})
		n := len(d.Joints)
		d, _ = apply(t, d, &edit.AddMechanism{Mechanism: ram.Name, Name: "ram", Roles: map[string][]string{"barrel": {d.Joints[n-2].ID}, "rod": {d.Joints[n-1].ID}}})
		return d
	}
	list["aim"] = func(t require.TestingT, random *rand.Rand, shape func(*rand.Rand, int) []mgl64.Vec3, s stage) *rig.Document {
		d, _ := apply(t, rig.New("x"), &edit.LayChain{Positions: s.place(shape(random, 5)), Pattern: "eye_##"})
		d, _ = apply(t, d, &edit.AddMechanism{Mechanism: aim.Name, Name: "look", Joints: []string{d.Joints[1].ID, d.Joints[3].ID}})
		return d
	}
	list["aim about the upright axis"] = func(t require.TestingT, random *rand.Rand, shape func(*rand.Rand, int) []mgl64.Vec3, s stage) *rig.Document {
		d, _ := apply(t, rig.New("x"), &edit.LayChain{Positions: s.place(shape(random, 5)), Pattern: "eye_##"})
		d, _ = apply(t, d, &edit.AddMechanism{
			Mechanism: aim.Name, Name: "look", Joints: []string{d.Joints[1].ID}, Parameters: parameter.Set{"turns": parameter.OfChoice("about the upright axis")},
		})
		return d
	}
	off, weights := parameter.OfToggle(false), parameter.OfChoice("all, by their weights")
	list["follow"] = following(false, nil)
	list["follow about one axis"] = following(false, parameter.Set{"turnX": off, "turnZ": off, "moveY": off, "axes": parameter.OfChoice("its own"), "sources": weights, "girth": parameter.OfNumber(1)})
	list["follow about two axes"] = following(false, parameter.Set{"turnY": off, "axes": parameter.OfChoice("what it hangs on"), "place": parameter.OfNumber(0)})
	list["home that follows"] = following(true, nil)
	list["home that follows by weights"] = following(true, parameter.Set{"turnX": off, "moveX": off, "sources": weights})
	maps.Copy(list, driverFamilies())
	return list
}

// leg lays a chain that hangs on a joint, toes behind it, and builds a limb.
func leg(t require.TestingT, random *rand.Rand, shape func(*rand.Rand, int) []mgl64.Vec3, s stage, options, parameters parameter.Set) (*rig.Document, string) {
	bones := 2 + random.IntN(4)
	places := shape(random, bones+1)
	d, _ := apply(t, rig.New("x"), &edit.LayChain{Positions: s.place([]mgl64.Vec3{places[0].Add(mgl64.Vec3{0, 0.5, -1})}), Pattern: "hip"})
	d, _ = apply(t, d, &edit.LayChain{Positions: s.place(places), Pattern: "leg_#", Parent: d.Joints[0].ID})
	ids := make([]string, bones+1)
	for i := range ids {
		ids[i] = d.Joints[i+1].ID
	}
	last := places[bones]
	d, _ = apply(t, d, &edit.LayChain{Positions: s.place([]mgl64.Vec3{last.Add(mgl64.Vec3{0, -0.2, 0.5}), last.Add(mgl64.Vec3{0, -0.2, 0.9})}), Pattern: "toe_#", Parent: ids[bones]})
	if bones == 2 {
		delete(parameters, "hinge")
	}
	add := &edit.AddMechanism{Mechanism: limb.Name, Name: "leg", Joints: ids, Options: options, Parameters: parameters}
	result, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}, d, add)
	if err != nil { // straight ones have to be told where they bend, and curled ones cannot be limbs
		add.Options = parameter.Set{"bend": parameter.OfChoice("forward")}
		result, err = edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}, d, add)
	}
	if err != nil {
		return leg(t, random, shapes["bent"], s, options, parameters)
	}
	return result.Document, result.Document.Mechanisms[0].ID
}

// gait is a body of three segments on six legs that walks, and turns round on the way.
func gait(t require.TestingT, random *rand.Rand, _ func(*rand.Rand, int) []mgl64.Vec3, s stage) *rig.Document {
	d, _ := apply(t, rig.New("x"), &edit.LayChain{Positions: s.place([]mgl64.Vec3{{0, 2.2, 1.5}, {0, 2.2, 0}, {0, 2.2, -1.5}}), Pattern: "body_#"})
	d, _ = apply(t, d, &edit.LayChain{Positions: s.place([]mgl64.Vec3{{0.4, 2.1, 1.5}, {0.9, 2.6, 1.6}, {1.2, 1.2, 1.5}, {1.3, 0, 1.5}}), Pattern: "leg_L1_#", Parent: d.Joints[0].ID})
	first := d.Joints[3].ID
	d, _ = apply(t, d, &edit.AddRepeat{Name: "sides", Rule: rig.Mirror, Sources: []string{first}, Point: s.at, Direction: mgl64.Vec3{1, 0, 0}})
	d, _ = apply(t, d, &edit.AddRepeat{Name: "along", Rule: rig.Series, Sources: []string{first, d.Repeats[0].ID + ".1/" + first}, Stations: []string{d.Joints[1].ID, d.Joints[2].ID}})
	d, _ = apply(t, d, &edit.AddMechanism{Mechanism: limb.Name, Name: "reach_L1", Joints: []string{first, d.Joints[6].ID}})
	number := func(bones float64) parameter.Value { return parameter.OfNumber(bones * s.bone) }
	d, _ = apply(t, d, &edit.AddMechanism{Mechanism: step.Name, Name: "step_L1", Host: d.Mechanisms[0].ID, Parameters: parameter.Set{
		"stride": number(1.5), "lift": number(0.4), "wave": number(5),
	}})
	d, _ = apply(t, d, &edit.AddMechanism{Mechanism: ground.Name, Name: "ground", Parameters: parameter.Set{
		"shape": parameter.OfChoice([]string{"flat", "slope", "steps"}[random.IntN(3)]), "rise": number(0.3), "run": number(2), "begin": number(1), "heading": parameter.OfNumber(20),
	}})
	d, _ = apply(t, d, &edit.AddMechanism{Mechanism: settle.Name, Name: "settle", Parameters: parameter.Set{"roll": parameter.OfNumber(1)}})
	return keyed(t, d, s)
}

// keyed has a body go along a bend, and turn round on the way.
func keyed(t require.TestingT, d *rig.Document, s stage) *rig.Document {
	d, _ = apply(t, d, &edit.AddClip{Name: "walk", End: 240})
	root := d.ControlNamed(rig.RootName).ID
	set := &edit.SetKeys{Clip: d.Clips[0].ID}
	for frame, pose := range map[float64][3]float64{0: {0, 0, 0}, 120: {1, 5, 0.9}, 180: {1, 5, 2}, 240: {4, 8, 2.3}} {
		for k, channel := range []rig.Channel{rig.MoveX, rig.MoveZ, rig.RotateY} {
			value := pose[k]
			if k < 2 {
				value *= s.bone
			}
			set.Keys = append(set.Keys, edit.KeyValue{KeyPlace: edit.KeyPlace{Control: root, Channel: channel, Frame: frame}, Value: value, Ease: rig.Smooth})
		}
	}
	d, _ = apply(t, d, set)
	return d
}

// wheels is a body on three wheels with suspensions, on a ground of some shape, which it settles on as it goes along a bend and back.
func wheels(t require.TestingT, random *rand.Rand, _ func(*rand.Rand, int) []mgl64.Vec3, s stage) *rig.Document {
	number := func(bones float64) parameter.Value { return parameter.OfNumber(bones * s.bone) }
	d, _ := apply(t, rig.New("x"), &edit.LayChain{Positions: s.place([]mgl64.Vec3{{0, 1.5, 0}}), Pattern: "body"})
	for i, at := range []mgl64.Vec3{{1, 0.6, 1.5}, {-1, 0.6, 1.5}, {0, 0.6, -1.5}} {
		d, _ = apply(t, d, &edit.LayChain{Positions: s.place([]mgl64.Vec3{at}), Pattern: fmt.Sprintf("hub_%d", i+1), Parent: d.Joints[0].ID})
		d, _ = apply(t, d, &edit.AddMechanism{
			Mechanism: wheel.Name, Name: fmt.Sprintf("wheel_%d", i+1), Joints: []string{d.Joints[i+1].ID}, Options: parameter.Set{"axis": parameter.OfChoice("across the body")},
			Parameters: parameter.Set{"radius": number(0.6), "travel": number(0.5)},
		})
	}
	d, _ = apply(t, d, &edit.AddMechanism{Mechanism: ground.Name, Name: "ground", Parameters: parameter.Set{
		"shape": parameter.OfChoice([]string{"flat", "slope", "steps"}[random.IntN(3)]), "rise": number(0.3), "run": number(2), "begin": number(1), "heading": parameter.OfNumber(20),
	}}, &edit.AddMechanism{Mechanism: settle.Name, Name: "settle"})
	d, _ = apply(t, d, &edit.LayChain{Positions: s.place([]mgl64.Vec3{{0.4, 1.2, 1.5}}), Pattern: "drum", Parent: d.Joints[0].ID})
	d, _ = apply(t, d, &edit.AddMechanism{
		Mechanism: gear.Name, Name: "gear", Options: parameter.Set{"axis": parameter.OfChoice("the joint's X axis")},
		Roles:      map[string][]string{"gear": {d.Joints[4].ID}, "by": {d.Joints[1].ID}},
		Parameters: parameter.Set{"teeth": parameter.OfNumber(12), "others": parameter.OfNumber(31)},
	})
	d, _ = apply(t, d, &edit.LayChain{Positions: s.place([]mgl64.Vec3{{0.4, 0.4, 1.9}}), Pattern: "hook", Parent: d.Joints[0].ID})
	d, _ = apply(t, d, &edit.AddMechanism{
		Mechanism: rack.Name, Name: "rack", Roles: map[string][]string{"rack": {d.Joints[5].ID}, "by": {d.Joints[4].ID}}, Parameters: parameter.Set{"radius": number(0.02), "along": parameter.OfChoice("upright")},
	})
	d = keyed(t, d, s)
	d.Clips[0].End = 40 // what rolls is worked out along all of a clip
	return d
}

// tracks is a body on two tracks with suspensions, on a ground of some shape, which it settles on as it goes along a bend and back.
func tracks(t require.TestingT, random *rand.Rand, _ func(*rand.Rand, int) []mgl64.Vec3, s stage) *rig.Document {
	number := func(bones float64) parameter.Value { return parameter.OfNumber(bones * s.bone) }
	d, _ := apply(t, rig.New("x"), &edit.LayChain{Positions: s.place([]mgl64.Vec3{{0, 1.5, 0}}), Pattern: "body"})
	for side, left := range []float64{1, -1} {
		var hubs []string
		for i, at := range []mgl64.Vec3{{left, 1.1, 2.1}, {left, 0.6, 1}, {left, 0.6, 0}, {left, 0.6, -1}, {left, 1.1, -2.1}} {
			d, _ = apply(t, d, &edit.LayChain{Positions: s.place([]mgl64.Vec3{at}), Pattern: fmt.Sprintf("hub_%d_%d", side, i), Parent: d.Joints[0].ID})
			hubs = append(hubs, d.Joints[len(d.Joints)-1].ID)
		}
		d, _ = apply(t, d, &edit.AddMechanism{
			Mechanism: track.Name, Name: fmt.Sprintf("track_%d", side), Roles: map[string][]string{"wheels": hubs}, Options: parameter.Set{"axis": parameter.OfChoice("across the body")},
			Parameters: parameter.Set{"radius": number(0.6), "pitch": number(0.2), "travel": number(0.5)},
		})
	}
	d, _ = apply(t, d, &edit.AddMechanism{Mechanism: ground.Name, Name: "ground", Parameters: parameter.Set{
		"shape": parameter.OfChoice([]string{"flat", "slope", "steps"}[random.IntN(3)]), "rise": number(0.3), "run": number(2), "begin": number(1), "heading": parameter.OfNumber(20),
	}}, &edit.AddMechanism{Mechanism: settle.Name, Name: "settle"})
	d = keyed(t, d, s)
	d.Clips[0].End = 40
	return d
}

// drive gives every parameter of every mechanism that a dial can drive a dial of its own, and offers the world and the root to some controls.
func drive(t require.TestingT, d *rig.Document) *rig.Document {
	root := d.ControlNamed(rig.RootName).ID
	last := d.Controls[len(d.Controls)-1]
	spaces := slices.DeleteFunc([]string{"", root, d.Joints[0].ID}, func(id string) bool { return id == last.Space || slices.Contains(last.Spaces, id) })
	if result, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}, d, &edit.OfferSpaces{Controls: []string{last.ID}, Spaces: append(slices.Clone(last.Spaces), spaces...)}); err == nil {
		d = result.Document // what it moves cannot carry it
	}
	for _, m := range d.Mechanisms {
		_, declared, err := kinds.All().Find(m.Kind)
		require.NoError(t, err)
		for _, p := range declared.Parameters {
			if _, driven := d.LinkedTo(rig.Address{Of: m.ID, Key: p.Key}); p.Dial && !driven {
				d, _ = apply(t, d, &edit.DriveParameter{Mechanism: m.ID, Key: p.Key, Control: root, Dial: rig.Channel(fmt.Sprintf("%s_%s", p.Key, m.ID))})
			}
		}
	}
	return d
}

// following is a chain that is posed by FK, and something that follows two of its joints: a prop, or the home of a control, with the parameters given.
func following(home bool, parameters parameter.Set) family {
	return func(t require.TestingT, random *rand.Rand, shape func(*rand.Rand, int) []mgl64.Vec3, s stage) *rig.Document {
		d, _ := apply(t, rig.New("x"), &edit.LayChain{Positions: s.place(shape(random, 5)), Pattern: "arm_##"})
		d, _ = apply(t, d, &edit.LayChain{Positions: s.place([]mgl64.Vec3{{1, 1, 0.5}, {1.2, 2, 0.4}}), Pattern: "prop_#"})
		ids := make([]string, 5)
		for i := range ids {
			ids[i] = d.Joints[i].ID
		}
		d, _ = apply(t, d, &edit.AddMechanism{Mechanism: fkchain.Name, Name: "arm", Joints: ids, Options: parameter.Set{"end": parameter.OfToggle(true)}})
		follower := d.Joints[5].ID
		if home {
			d, _ = apply(t, d, &edit.AddControl{Name: "grip", Position: s.place([]mgl64.Vec3{{1, 1, 0.5}})[0], Shape: rig.Cross, Reach: 0.2 * s.bone})
			follower = d.ControlNamed("grip").ID
			d, _ = apply(t, d, &edit.AddMechanism{Mechanism: fkchain.Name, Name: "prop", Joints: []string{d.Joints[5].ID, d.Joints[6].ID}})
			d, _ = apply(t, d, &edit.HangControls{Controls: d.Mechanisms[1].Controls[:1], Space: follower})
		}
		d, _ = apply(t, d, &edit.AddMechanism{
			Mechanism: follow.Name, Name: "goes_along", Parameters: parameters,
			Roles: map[string][]string{"follower": {follower}, "sources": {d.Joints[2].ID, d.Mechanisms[0].Controls[3]}},
		})
		return d
	}
}
