// Package linkage solves flat linkages with closed loops that are driven by angles and lengths: bars that are pinned to each other and to what stands still, and blocks that slide on them. Lengths are in the unit of the places given; angles in radians.
package linkage

import (
	"errors"
	"math"

	"github.com/go-gl/mathgl/mgl64"
)

// Ground is the body that stands still.
const Ground = 0

// Node is a place at which bodies are pinned to each other: all that are listed meet there.
type Node struct {
	At     mgl64.Vec2 // at rest
	Bodies []int
}

// Slide is a body that slides on another: it goes along a line of that and turns with it.
type Slide struct {
	Body, On int
	Along    mgl64.Vec2 // at rest; a unit vector
}

// Drive is a body that is moved against another: turned about a node that both share, or, where it slides on that, moved along its line.
type Drive struct {
	Body, On int
	Pivot    int // a node; it counts for nothing where the body slides
}

// Linkage is bodies pinned at nodes, or sliding on each other, of which some are driven.
type Linkage struct {
	Bodies int // the ground is one of them, and the first
	Nodes  []Node
	Slides []Slide
	Drives []Drive
}

// Pose is how a body has gone from rest: turned about the origin, and then moved.
type Pose struct {
	Cosine, Sine float64
	Move         mgl64.Vec2
}

// Still is the pose at rest.
var Still = Pose{Cosine: 1}

// Apply returns where a place of the body is.
func (p Pose) Apply(at mgl64.Vec2) mgl64.Vec2 {
	return mgl64.Vec2{p.Cosine*at[0] - p.Sine*at[1] + p.Move[0], p.Sine*at[0] + p.Cosine*at[1] + p.Move[1]}
}

// turned returns a direction of the body as it is turned.
func (p Pose) turned(way mgl64.Vec2) mgl64.Vec2 {
	return mgl64.Vec2{p.Cosine*way[0] - p.Sine*way[1], p.Sine*way[0] + p.Cosine*way[1]}
}

// Plan is a linkage taken apart into steps, each of which finds something of what is left. It is read only, and serves any number of states.
type Plan struct {
	linkage  Linkage
	steps    []step
	rest     []mgl64.Vec2 // of nodes
	size     float64
	travels  []travel // of the drives, each by itself
	tied     bool     // some bars hang on several drives at once
	together *system
	tails    int // steps before the one that is solved together
}

// State is where a plan's bodies and nodes stand. Solve allocates nothing.
type State struct {
	Poses     []Pose
	Nodes     []mgl64.Vec2
	keptNodes []mgl64.Vec2
	keptPoses []Pose
	drives    []float64 // as they were asked for, and as far as they go
	shares    []float64
	unknown   []float64 // of what is solved together
	kept      []float64
	work      []float64
}

// What a step does.
type act int

const (
	crank    act = iota // a body is turned about its pivot
	push                // a body is pushed along the line that it slides on
	place               // a body is held by two nodes
	parallel            // a node is the fourth corner of a parallelogram
	circles             // a node lies on two circles
	line                // a node that slides on a known body lies on a circle
	swing               // a body turns about a known node so that its line runs through another
	ride                // a body slides on a known one, or carries it, to where a node is known
)

type step struct {
	act        act
	body       int
	a, b, node int // nodes: known ones, and the one that is found
	third      int // corner of a parallelogram
	ra, rb     float64
	side       float64 // on which side of a to b the node lies: 1 or -1
	finds      []int   // nodes of the body that were not known before
	on         int     // the body that another slides on
	along      mgl64.Vec2
	off        float64   // how far beside its node a a body's line runs, to the left of along
	drive      int       // the drive that it hangs on; of a pair of bars -1 where there are several
	changes    []float64 // drives at which both bars lie in one line and go on to the other side
}

// alike is how near lengths and places are that count as one, as a share of the linkage's size.
const alike = 1e-6

// sharpest is how near to a straight line two bars may stand at rest, as the sine of their angle, for their bend to be told.
const sharpest = 1e-5

// What is wrong with bars.
var (
	// ErrStraight tells of two bars that stand in one line at rest, so that there is no telling which way they bend.
	ErrStraight = errors.New("two bars stand dead straight at rest, and there is no telling which way they bend; bend them a little")
	// ErrShort tells of a bar whose pins are in one place.
	ErrShort = errors.New("a bar has no length: two of its pins are in one place; take them apart")
	// ErrTied tells of bars that are tied too often, or driven against each other, so that a pin would have to give way.
	ErrTied = errors.New("bars are tied too often, and a pin would have to give way")
	// ErrLoose tells of a bar that can move while the drive is held.
	ErrLoose = errors.New("a bar is still loose while the drive is held")
)

// Fault is what is wrong with bodies of a linkage: one of the errors above. Where one is loose, Freedoms is how many there are in all, those that are driven among them, and Rates how all that moves does as that one turns
// while the drives are held.
type Fault struct {
	Err      error
	Bodies   []int
	Freedoms int
	Rates    map[int]Rate // by body
}

// Rate is how a body moves: by how much it turns, and how what is at the origin moves.
type Rate struct {
	Turn float64
	Move mgl64.Vec2
}

func (f *Fault) Error() string { return f.Err.Error() }

// Unwrap gives the error.
func (f *Fault) Unwrap() error { return f.Err }

// New takes a linkage apart: bodies that are driven, or held by two known nodes; parallelograms; two circles; and what is left, together. The order is that of
// what can be found from what is known, and branches are those of the rest pose. It is an error where nothing drives something, where a bar has no length, and where two bars stand in one line.
func New(l Linkage) (*Plan, error) {
	p := &Plan{linkage: l, rest: make([]mgl64.Vec2, len(l.Nodes))}
	low, high := mgl64.Vec2{math.Inf(1), math.Inf(1)}, mgl64.Vec2{math.Inf(-1), math.Inf(-1)}
	for i, n := range l.Nodes {
		p.rest[i] = n.At
		for k := range 2 {
			low[k], high[k] = math.Min(low[k], n.At[k]), math.Max(high[k], n.At[k])
		}
	}
	p.size = high.Sub(low).Len()
	if !(p.size > 0) {
		return nil, errors.New("all pins of the linkage are in one place; there is nothing to move")
	}
	if err := p.order(); err != nil {
		return nil, err
	}
	p.hang()
	p.travel()
	if err := p.table(); err != nil {
		return nil, err
	}
	return p, p.check()
}

// NewState returns a state at rest.
func (p *Plan) NewState() *State {
	s := &State{
		Poses: make([]Pose, p.linkage.Bodies), Nodes: append([]mgl64.Vec2{}, p.rest...),
		keptNodes: make([]mgl64.Vec2, len(p.rest)), keptPoses: make([]Pose, p.linkage.Bodies), drives: make([]float64, len(p.linkage.Drives)), shares: make([]float64, len(p.linkage.Drives)),
	}
	for i := range s.Poses {
		s.Poses[i] = Still
	}
	if p.together != nil {
		s.unknown, s.kept = make([]float64, p.together.unknowns()), make([]float64, p.together.unknowns())
		s.work = make([]float64, p.together.room())
	}
	return s
}

// Solve brings a state to where the drives stand, each of which is to be within its travel. ok is false where the bars do not reach. What several drives move at once
// is left as Bring has it.
func (p *Plan) Solve(s *State, drives ...float64) (ok bool) {
	copy(s.drives, drives)
	return p.solve(s, s.drives)
}

func (p *Plan) solve(s *State, drives []float64) (ok bool) {
	ok = p.takeApart(s, drives)
	if p.together == nil {
		return ok
	}
	if p.together.table != nil {
		p.together.guess(s, drives[0])
	}
	return p.together.solve(p, s) && ok
}

// takeApart runs what comes apart.
func (p *Plan) takeApart(s *State, drives []float64) (ok bool) {
	ok = true
	for i := range p.steps {
		ok = p.steps[i].run(p, s, drives) && ok
	}
	return ok
}

// run takes one step.
func (t *step) run(p *Plan, s *State, drives []float64) bool {
	switch t.act {
	case crank:
		sine, cosine := math.Sincos(drives[t.drive])
		on := s.Poses[t.on]
		pose := Pose{Cosine: on.Cosine*cosine - on.Sine*sine, Sine: on.Sine*cosine + on.Cosine*sine}
		p.put(s, t.body, pose.about(p.rest[t.node], s.Nodes[t.node]), t.finds)
	case push:
		pose := s.Poses[t.on]
		pose.Move = pose.Move.Add(pose.turned(t.along).Mul(drives[t.drive]))
		p.put(s, t.body, pose, t.finds)
	case place:
		p.put(s, t.body, between(p.rest[t.a], p.rest[t.b], s.Nodes[t.a], s.Nodes[t.b]), t.finds)
	case parallel:
		s.Nodes[t.node] = s.Nodes[t.a].Add(s.Nodes[t.b]).Sub(s.Nodes[t.third])
	case circles:
		at, ok := cross(s.Nodes[t.a], s.Nodes[t.b], t.ra, t.rb, t.sideAt(p, drives))
		s.Nodes[t.node] = at
		return ok
	case line:
		return t.slideTo(p, s, t.sideAt(p, drives))
	case swing:
		return t.turnTo(p, s)
	case ride:
		pose := s.Poses[t.on]
		pose.Move = pose.Move.Add(s.Nodes[t.a].Sub(pose.Apply(p.rest[t.a])))
		p.put(s, t.body, pose, t.finds)
	}
	return true
}

// put gives a body its pose, and nodes that are found by it their places.
func (p *Plan) put(s *State, body int, pose Pose, finds []int) {
	s.Poses[body] = pose
	for _, i := range finds {
		s.Nodes[i] = pose.Apply(p.rest[i])
	}
}

// between is the pose that takes one place to where it is now, and another as near as can be.
func between(a, b, toA, toB mgl64.Vec2) Pose {
	u, v := b.Sub(a), toB.Sub(toA)
	cosine, sine := u[0]*v[0]+u[1]*v[1], u[0]*v[1]-u[1]*v[0]
	length := math.Hypot(cosine, sine)
	if !(length > 0) {
		return Pose{Cosine: 1, Move: toA.Sub(a)}
	}
	pose := Pose{Cosine: cosine / length, Sine: sine / length}
	pose.Move = toA.Sub(pose.Apply(a))
	return pose
}

// cross is where two circles meet, on the side that is asked for. Where they do not, ok is false, and it is where they come nearest.
func cross(a, b mgl64.Vec2, ra, rb, side float64) (at mgl64.Vec2, ok bool) {
	way := b.Sub(a)
	d := way.Len()
	if !(d > 0) {
		return a.Add(mgl64.Vec2{ra, 0}), false
	}
	// Heron's product in the form that keeps its digits where the triangle is thin (Kahan 1983, Miscalculating area and angles of a needle-like triangle).
	product := product(ra, rb, d)
	along := ((ra-rb)*(ra+rb) + d*d) / (2 * d)
	height := 0.0
	if product > 0 {
		height = math.Sqrt(product) / (2 * d)
	} else {
		along = math.Copysign(math.Min(math.Abs(along), ra), along)
	}
	unit := way.Mul(1 / d)
	return a.Add(unit.Mul(along)).Add(mgl64.Vec2{-unit[1], unit[0]}.Mul(side * height)), product >= 0
}

// product is sixteen times the square of a triangle's area, negative where there is no such triangle.
func product(a, b, c float64) float64 {
	if a < b {
		a, b = b, a
	}
	if a < c {
		a, c = c, a
	}
	if b < c {
		b, c = c, b
	}
	return (a + (b + c)) * (c - (a - b)) * (c + (a - b)) * (a + (b - c))
}
