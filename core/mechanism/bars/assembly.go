package bars

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/geometry"
	"myriapod/core/linkage"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// together is how near to each other two ends lie that are pinned, as a share of the linkage's size; nearly is how near they lie where one may have missed the other.
const (
	together = 1e-5
	nearly   = 0.03
)

// assembly is a linkage as it is read off the rest pose: the plane's frame, whose main axis the pins stand along, and the plan.
type assembly struct {
	plane   geometry.Transform
	plan    *linkage.Plan
	drivers []string       // joints
	body    map[string]int // by joint: which body it moves; of what stands still the joint that it hangs on
	parent  map[string]string
	nodes   []linkage.Node
	ends    []end
	rams    []extension
}

// end is an end of a bar, or of the ground.
type end struct {
	at    mgl64.Vec2
	body  int
	joint string
}

// flatten is where a place at rest lies in the plane: Z and X turn about Y as X and Y do about Z.
func (a *assembly) flatten(p mgl64.Vec3) mgl64.Vec2 {
	q := a.plane.Inverse().Apply(p)
	return mgl64.Vec2{q[2], q[0]}
}

// lift is where a place of the plane lies at rest, as far aside as another place.
func (a *assembly) lift(p mgl64.Vec2, beside mgl64.Vec3) mgl64.Vec3 {
	return a.plane.Apply(mgl64.Vec3{p[1], a.plane.Inverse().Apply(beside)[1], p[0]})
}

// bodyOf is the body that an end goes with: the bar that it hangs on. ok is false for what is on none.
func (a *assembly) bodyOf(joint string) (body int, ok bool) {
	body, ok = a.body[a.parent[joint]]
	return body, ok
}

// counted splits the joints of a linkage by their roles.
func counted(m rig.Mechanism) (drivers, slides []string, err error) {
	also, sliding := m.Counts[also], m.Counts["slides"]
	if bars := len(m.Joints) - also - sliding; bars < 1 || also < 0 || sliding < 0 {
		return nil, nil, fmt.Errorf("%d bars cannot be %d that drive and %d that slide; build it anew", len(m.Joints), also+1, sliding)
	}
	slides = m.Joints[len(m.Joints)-sliding:]
	return append([]string{m.Joints[0]}, m.Joints[len(m.Joints)-sliding-also:len(m.Joints)-sliding]...), slides, nil
}

// assemble reads a linkage off the rest pose.
func assemble(d *rig.Document, m rig.Mechanism, axis mgl64.Vec3) (*assembly, error) {
	drivers, slides, err := counted(m)
	if err != nil {
		return nil, err
	}
	first := d.Joint(drivers[0])
	a := &assembly{
		plane:   geometry.Transform{Position: first.Position, Rotation: geometry.FromAxes(axis, first.Rotation.Quat().Rotate(mgl64.Vec3{0, 0, 1}))},
		drivers: drivers, body: map[string]int{first.Parent: linkage.Ground}, parent: map[string]string{},
	}
	for _, j := range d.Joints {
		a.parent[j.ID] = j.Parent
	}
	for i, id := range m.Joints {
		a.body[id] = i + 1
	}
	if a.body[first.Parent] != linkage.Ground {
		return nil, fmt.Errorf("%s hangs on another bar; what drives first hangs on what stands still", first.Name)
	}
	l := linkage.Linkage{Bodies: len(m.Joints) + 1}
	if l.Slides, err = a.slides(d, slides); err != nil {
		return nil, err
	}
	if err := a.gather(d, m.Joints, slides); err != nil {
		return nil, err
	}
	a.nodes = nodesOf(a.ends, m.Parameters.Number("gap"))
	l.Nodes = a.nodes
	if l.Drives, err = a.drives(d); err != nil {
		return nil, err
	}
	if a.plan, err = linkage.New(l); err != nil {
		return nil, a.named(d, m.Joints, err)
	}
	a.rams, err = a.ramsBetween(d, ramsOf(&m))
	return a, err
}

// slides reads which blocks slide on what.
func (a *assembly) slides(d *rig.Document, ids []string) (list []linkage.Slide, err error) {
	for _, id := range ids {
		joint := d.Joint(id)
		on, hangs := a.body[joint.Parent]
		if !hangs {
			return nil, fmt.Errorf("%s slides on nothing of the linkage; hang it on a bar, or on what stands still", joint.Name)
		}
		main := a.plane.Rotation.Conjugate().Rotate(joint.Rotation.Quat().Rotate(geometry.MainAxis))
		way := mgl64.Vec2{main[2], main[0]}
		if !(way.Len() > 0.5) {
			return nil, fmt.Errorf("the main axis of %s stands along the pins, so that it could not slide in their plane; turn it to where it slides", joint.Name)
		}
		list = append(list, linkage.Slide{Body: a.body[id], On: on, Along: way.Normalize()})
	}
	return list, nil
}

// gather lists the ends of all bars, and of what stands still.
func (a *assembly) gather(d *rig.Document, bars, slides []string) error {
	add := func(joint string, body int) {
		a.ends = append(a.ends, end{a.flatten(d.Joint(joint).Position), body, joint})
	}
	for i, id := range bars {
		joint := d.Joint(id)
		on, hangs := a.body[joint.Parent]
		if !hangs {
			return fmt.Errorf("%s hangs neither on a bar of the linkage nor on what %s hangs on, which stands still; hang it there, or choose what it hangs on as a bar", joint.Name, d.NameOf(a.drivers[0]))
		}
		add(id, i+1)
		if !slices.Contains(slides, id) { // a block is not pinned to what it slides on
			add(id, on)
		}
		for _, child := range d.ChildrenOf(id) {
			if !slices.Contains(bars, child) {
				add(child, i+1)
			}
		}
	}
	ground := d.Joint(a.drivers[0]).Parent
	for _, child := range d.ChildrenOf(ground) {
		if ground != "" && !slices.Contains(bars, child) {
			add(child, linkage.Ground)
		}
	}
	return nil
}

// drives lists what is turned, about which pins.
func (a *assembly) drives(d *rig.Document) (list []linkage.Drive, err error) {
	for _, id := range a.drivers {
		joint := d.Joint(id)
		on, hangs := a.body[joint.Parent]
		if !hangs {
			return nil, fmt.Errorf("%s hangs on no bar of the linkage, nor on what stands still; hang it there, or have something else drive", joint.Name)
		}
		at := a.flatten(joint.Position)
		pivot, nearest := -1, math.Inf(1)
		for i, n := range a.nodes {
			if away := n.At.Sub(at).Len(); away < nearest && slices.Contains(n.Bodies, a.body[id]) && slices.Contains(n.Bodies, on) {
				pivot, nearest = i, away
			}
		}
		if pivot < 0 {
			return nil, fmt.Errorf("%s is pinned to nothing that it could be turned about", joint.Name)
		}
		list = append(list, linkage.Drive{Body: a.body[id], On: on, Pivot: pivot})
	}
	return list, nil
}

// nodesOf pins ends to each other that lie in one place, or within a gap in metres.
func nodesOf(ends []end, gap float64) (nodes []linkage.Node) {
	within := math.Max(gap, together*sizeOf(ends))
	for _, e := range ends {
		at := slices.IndexFunc(nodes, func(n linkage.Node) bool { return n.At.Sub(e.at).Len() <= within })
		if at < 0 {
			at = len(nodes)
			nodes = append(nodes, linkage.Node{At: e.at})
		}
		if !slices.Contains(nodes[at].Bodies, e.body) {
			nodes[at].Bodies = append(nodes[at].Bodies, e.body)
		}
	}
	return slices.DeleteFunc(nodes, func(n linkage.Node) bool { return len(n.Bodies) < 2 })
}

func sizeOf(ends []end) (size float64) {
	for _, e := range ends {
		size = math.Max(size, e.at.Sub(ends[0].at).Len())
	}
	return size
}

// faultError is what is wrong with bars, by their names.
type faultError struct {
	*linkage.Fault
	bars  []string // IDs
	text  string
	sways []mechanism.Sway
}

// Sways implements mechanism.Looseness.
func (e *faultError) Sways() []mechanism.Sway { return e.sways }

func (e *faultError) Error() string { return e.text }

// Loose implements mechanism.Looseness: what is loose can be driven as well.
func (e *faultError) Loose() (joints []string, role string) {
	if errors.Is(e.Fault, linkage.ErrLoose) {
		joints = e.bars
	}
	return joints, also
}

// named tells what is wrong with a linkage by the names of its bars.
func (a *assembly) named(d *rig.Document, bars []string, err error) error {
	var fault *linkage.Fault
	if !errors.As(err, &fault) {
		return err
	}
	e := &faultError{Fault: fault}
	names := []string{}
	for _, body := range fault.Bodies {
		e.bars, names = append(e.bars, bars[body-1]), append(names, d.NameOf(bars[body-1]))
	}
	e.sways = a.sways(bars, fault.Rates)
	who := strings.Join(names, " and ")
	switch {
	case errors.Is(fault, linkage.ErrLoose):
		held := d.NameOf(a.drivers[0])
		if fault.Freedoms > 0 {
			held = fmt.Sprintf("%s is held (%d freedoms, %d driven)", held, fault.Freedoms, len(a.drivers))
		} else {
			held += " is held"
		}
		e.text = fmt.Sprintf("%s is still loose while %s: put a joint at its end where it is pinned to another bar, drive it as well, or leave it out", who, held)
		if missed := a.missed(d, fault.Bodies); missed != "" {
			e.text = fmt.Sprintf("%s is still loose while %s: %s", who, held, missed)
		}
	case errors.Is(fault, linkage.ErrTied):
		e.text = fmt.Sprintf("%s are tied too often: as it moves, one of them would have to give way; take a pin of theirs away, or drive one thing less", who)
	case errors.Is(fault, linkage.ErrStraight):
		e.text = fmt.Sprintf("%s stand dead straight at rest, and there is no telling which way they bend; bend them a little", who)
	default:
		e.text = fmt.Sprintf("%s has no length: two of its pins are in one place; take them apart", who)
	}
	return e
}

// sways is how bars move by their rates in the plane, in the world.
func (a *assembly) sways(bars []string, rates map[int]linkage.Rate) (list []mechanism.Sway) {
	for body := 1; body <= len(bars); body++ {
		rate, moves := rates[body]
		if !moves || rate.Turn == 0 && rate.Move == (mgl64.Vec2{}) {
			continue
		}
		turn := a.plane.Rotation.Rotate(geometry.MainAxis.Mul(rate.Turn))
		list = append(list, mechanism.Sway{Joint: bars[body-1], Through: a.plane.Position, Turn: turn, Move: a.plane.Rotation.Rotate(mgl64.Vec3{rate.Move[1], 0, rate.Move[0]})})
	}
	return list
}

// missed tells of ends that nearly meet and are not pinned; nothing where there are none.
func (a *assembly) missed(d *rig.Document, loose []int) string {
	size := sizeOf(a.ends)
	for i, e := range a.ends {
		for _, o := range a.ends[:i] {
			away := e.at.Sub(o.at).Len()
			if e.body != o.body && away > together*size && away < nearly*size && (slices.Contains(loose, e.body) || slices.Contains(loose, o.body)) {
				return fmt.Sprintf("%s and %s lie %.3g m apart and are not pinned; bring them together, or have pins meet within %.3g m", d.NameOf(e.joint), d.NameOf(o.joint), away, 1.01*away)
			}
		}
	}
	return ""
}

// mend moves ends to where bars that are as good as equal are equal, and returns their names.
func (a *assembly) mend(d *rig.Document) (names []string) {
	for _, mend := range a.plan.Mends() {
		by := mend.To.Sub(a.nodes[mend.Node].At)
		for _, e := range a.ends {
			if e.at.Sub(a.nodes[mend.Node].At).Len() > together*sizeOf(a.ends) || slices.Contains(names, d.NameOf(e.joint)) {
				continue
			}
			joint := d.Joint(e.joint)
			joint.Position = a.lift(e.at.Add(by), joint.Position)
			names = append(names, joint.Name)
		}
	}
	return names
}

// handleOf is how a handle of a driver is laid on the bench.
type handleOf struct {
	control   int
	on        int // the body that its driver hangs on
	home      geometry.Transform
	space     mechanism.Resource
	spaceRest geometry.Transform
	hung      bool
	low, high int // findings at the ends of its travel; -1 where there is none
}
