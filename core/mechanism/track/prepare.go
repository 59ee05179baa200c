package track

import (
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/belt"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/ground"
	"myriapod/core/mechanism/hub"
	"myriapod/core/terrain"
)

// gear is one wheel of a track, made ready.
type gear struct {
	joint  int
	below  mechanism.Below
	rest   geometry.Transform
	rate   float64  // how far it turns about the axle for a metre of travel
	turns  int      // its place among what turns
	road   *hub.Hub // where it rolls on the lower run
	origin mgl64.Vec3
}

// track is a track made ready.
type track struct {
	gears                                   []gear // by joint
	handle                                  int
	home                                    geometry.Transform
	axle                                    mgl64.Vec3 // at rest
	first                                   mechanism.Below
	back                                    geometry.Transform // undoes the first wheel's rest
	carried                                 func(*mechanism.Frame) geometry.Transform
	space                                   mechanism.Resource
	spaceRest                               geometry.Transform
	hung                                    bool
	follows, way, influence                 mechanism.Number
	travel                                  float64
	roll, set                               int
	middle                                  mgl64.Vec2      // of the lower run, in the plane
	half                                    float64         // half as long as that is
	reach                                   float64         // of the largest wheel
	edge                                    float64         // how far the pins lie off the sole
	land                                    *terrain.Ground // that its road wheels stand on; nil for none
	low                                     []bool          // by place in the order: the way on from it is of the lower run
	tight, loose, broken, end, lies, scrubs int             // findings
	laid                                    mechanism.Scratch[laying]
	rested
}

// laying is a track in one frame.
type laying struct {
	laid    *belt.Laid
	wheels  []belt.Wheel // in order
	round   []belt.Wheel // these, and the corners of the ground that press on the lower run
	corners []corner
	lifts   []float64 // by joint
}

// Prepare implements mechanism.Kind.
func (Kind) Prepare(b *mechanism.Bench) error {
	joints, err := b.JointIndices()
	if err != nil {
		return err
	}
	controls, err := b.ControlIndices()
	if err != nil {
		return err
	}
	if len(joints) < 2 || len(controls) != 1 {
		return fmt.Errorf("a track goes round two wheels or more and has one handle, not %d and %d; build it anew", len(joints), len(controls))
	}
	m := b.Mechanism
	m.Parameters = b.Settings
	t := &track{edge: b.Settings.Number("sole") - b.Settings.Number("rim"), handle: controls[0], home: b.Document.Controls[controls[0]].Home(), travel: b.Settings.Number("travel")}
	t.axle = t.home.Rotation.Rotate(geometry.MainAxis)
	if t.rested, err = restOf(b, &m, t.axle); err != nil {
		return err
	}
	t.set = -1
	if len(m.Parts) > 0 {
		if t.set, err = b.DrawInstead(m.Parts[0], t.plane.belt.Links); err != nil {
			return err
		}
	}
	t.measure()
	n, count := len(t.plane.wheels), len(joints)
	t.laid = mechanism.ScratchOf(b, func() *laying {
		return &laying{
			laid: belt.NewLaid(t.plane.belt, n+mostCorners), wheels: append([]belt.Wheel{}, t.plane.wheels...), lifts: make([]float64, count),
			round: make([]belt.Wheel, 0, n+mostCorners), corners: make([]corner, 0, mostCorners),
		}
	})
	return t.lay(b, joints, m.Sizes, b.Settings.Number("sole"))
}

// measure works out where the lower run is, and which ways between wheels are of it.
func (t *track) measure() {
	p := t.plane
	lowest := math.Inf(1)
	for _, pin := range t.atRest {
		lowest = math.Min(lowest, pin[1])
	}
	t.middle = mgl64.Vec2{p.belt.At, lowest}
	t.low = make([]bool, len(p.wheels))
	for _, w := range p.wheels {
		t.reach = math.Max(t.reach, 4*w.Radius)
	}
	for _, at := range p.roads() {
		t.low[at], t.low[(at+len(p.wheels)-1)%len(p.wheels)] = true, true
		t.half = math.Max(t.half, math.Abs(p.wheels[at].At[0]-p.belt.At))
	}
}

// between is the frame in the plane of the link between two pins, so far to its side.
func between(from, to mgl64.Vec2, aside float64) geometry.Transform {
	way := to.Sub(from)
	middle := from.Add(to).Mul(0.5)
	return linked(way.Mul(1/math.Max(way.Len(), math.SmallestNonzeroFloat64)), mgl64.Vec3{middle[0], middle[1], aside})
}

// rateOf is how far a wheel turns for a metre of travel: where the track lies round it by a link or more it goes with its pins, else it rolls on its inner side.
func (t *track) rateOf(at int, radius float64) float64 {
	p := t.plane
	wrapped := 0.0
	for _, piece := range p.path.Pieces {
		if piece.Wheel == at {
			wrapped += piece.Length
		}
	}
	rate := 1 / radius
	if wrapped > p.belt.Pitch {
		rate = 2 * math.Asin(math.Min(1, p.belt.Pitch/(2*p.wheels[at].Radius))) / p.belt.Pitch
	}
	if p.wheels[at].Outside {
		return -rate
	}
	return rate
}

// lay lays the tasks: what a body settles on, and the track.
func (t *track) lay(b *mechanism.Bench, joints []int, sizes []float64, sole float64) error {
	m := b.Mechanism
	ahead := t.plane.frame.Rotation.Rotate(mgl64.Vec3{1, 0, 0})
	var reads, writes []mechanism.Resource
	t.gears = make([]gear, len(joints))
	for i, joint := range joints {
		below, more := b.Below(joint)
		reads = append(reads, more...)
		rest := b.Rest(joint)
		t.gears[i] = gear{joint: joint, below: below, rest: rest, origin: rest.Position, turns: b.OfferTurning(m.Joints[i], mechanism.Turning{Origin: rest.Position, Axis: t.axle, Radius: sizes[i]})}
		writes = append(writes, mechanism.Resource{Kind: mechanism.Joint, Index: joint}, mechanism.Resource{Kind: mechanism.TurningOf, Index: t.gears[i].turns})
	}
	for at := range t.plane.wheels {
		if which := t.plane.order[at]; t.gears[which].rate == 0 {
			t.gears[which].rate = t.rateOf(at, sizes[which])
		}
	}
	first, hangs := b.Below(joints[0])
	t.first, t.back = first, b.Rest(joints[0]).Inverse()
	carried, more := ground.Carried(b)
	t.carried = carried
	reads = append(reads, more...)
	t.roll = b.Roll(mechanism.Roll{Reads: append(append([]mechanism.Resource{}, hangs...), more...), Hub: t.over})
	for _, at := range t.plane.roads() {
		which := t.plane.order[at]
		road, err := hub.New(b, sizes[which]+sole, b.Rest(joints[which]).Position, ahead)
		if err != nil {
			return err
		}
		road.Settles(b)
		t.gears[which].road, t.land = road, road.Ground
	}
	t.space, t.spaceRest, t.hung = b.Space(b.Document.Controls[t.handle].Space)
	if t.hung {
		reads = append(reads, t.space)
	}
	follows, dials := b.Number("follows")
	besides, others := b.Number("way")
	t.follows, t.way = follows, besides
	reads = append(append(reads, dials...), others...)
	influence, counts := b.InfluenceOf()
	t.influence = influence
	reads = append(append(reads, counts...), mechanism.Resource{Kind: mechanism.Control, Index: t.handle}, mechanism.Resource{Kind: mechanism.Clock}, mechanism.Resource{Kind: mechanism.RollOf, Index: t.roll})
	t.tight = b.Finding(fmt.Sprintf("%s is too short for where its wheels stand, and its links are stretched; bring the wheels nearer, or add a link.", m.Name))
	t.loose = b.Finding(fmt.Sprintf("%s is too long for where its wheels stand: its slack hangs as deep as it can, and its links are shortened; spread the wheels, or take a link out.", m.Name))
	t.broken = b.Finding(fmt.Sprintf("No track leads round the wheels of %s as they stand: it is drawn as at rest; move them apart.", m.Name))
	t.end = b.Finding(fmt.Sprintf("A road wheel of %s is at the end of its suspension; give it more travel, or settle the body.", m.Name))
	t.scrubs = b.Finding(fmt.Sprintf("%s scrubs sideways by {} m a second at its ends, as it turns or is taken across its way.", m.Name))
	t.lies = b.Finding(fmt.Sprintf("%s lies on its side and goes nowhere; bring its axles level.", m.Name))
	if t.set >= 0 {
		writes = append(writes, mechanism.Resource{Kind: mechanism.InstancesOf, Index: t.set})
	}
	b.AddWhole(mechanism.Task{
		Run: t.run, Reads: reads, Writes: writes,
		Raises: []int{t.tight, t.loose, t.broken, t.end, t.lies, t.scrubs},
	})
	return nil
}
