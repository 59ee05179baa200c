package skin

import (
	"fmt"
	"math"

	"myriapod/core/geometry"
	"myriapod/core/mesh"
)

// Stroke is how a brush changes the weights of a joint.
type Stroke string

// The strokes.
const (
	More     Stroke = "more"
	Less     Stroke = "less"
	Towards  Stroke = "towards" // a value
	Multiply Stroke = "multiply"
	Even     Stroke = "even" // out, between neighbours
	Firm     Stroke = "firm" // up: what is much becomes more, what is little less
)

// Strokes lists the strokes.
var Strokes = []Stroke{More, Less, Towards, Multiply, Even, Firm}

// Brush is what is painted with. Reach is in metres over the surface.
type Brush struct {
	Stroke   Stroke  `json:"stroke"`
	Reach    float64 `json:"reach"`
	Strength float64 `json:"strength"`        // 0 to 1, of one dab in its middle
	Value    float64 `json:"value,omitempty"` // of towards, 0 to 1, and of multiply, 0 to 10
	// Through has it reach straight through the volume, to what lies behind as well, in place of over the surface.
	Through bool `json:"through,omitempty"`
}

// Check tells what is wrong with a brush.
func (b Brush) Check() error {
	known := false
	for _, s := range Strokes {
		known = known || s == b.Stroke
	}
	most := 1.0
	if b.Stroke == Multiply {
		most = 10
	}
	switch {
	case !known:
		return fmt.Errorf("there is no stroke %q; there are %v", b.Stroke, Strokes)
	case !(b.Reach > 0) || math.IsInf(b.Reach, 1):
		return fmt.Errorf("a brush reaches over more than nothing, not %g", b.Reach)
	case !(b.Strength >= 0 && b.Strength <= 1):
		return fmt.Errorf("the strength of a brush is 0 to 1, not %g", b.Strength)
	case !(b.Value >= 0 && b.Value <= most):
		return fmt.Errorf("the value of a brush is 0 to %g, not %g", most, b.Value)
	}
	return nil
}

// Painter paints weights of one surface. It serves one hand at a time.
type Painter struct {
	walk   *mesh.Walk
	locked []bool // by joint: it keeps its weights
	near   []int
	share  []float64
	wanted []float64
	mixed  []float64 // by joint
}

// NewPainter readies a surface for painting; locked joints keep their weights.
func NewPainter(surface *mesh.Mesh, joints int, locked []int) *Painter {
	p := &Painter{walk: mesh.NewWalk(surface), locked: make([]bool, joints), mixed: make([]float64, joints)}
	for _, joint := range locked {
		p.locked[joint] = true
	}
	return p
}

// Dab changes the weights of a joint around a spot, less and less towards the brush's edge. What it gains the other joints lose in their proportions, and the other way round; locked
// ones keep what they have, and a vertex never has more than Influences. It returns the vertices that were changed.
func (p *Painter) Dab(w *Weights, joint int, at mesh.Spot, b Brush) (changed []int) {
	if p.locked[joint] {
		return nil
	}
	p.reach(at, b)
	return p.apply(w, joint, b)
}

// reach finds what a brush is over, and by how much.
func (p *Painter) reach(at mesh.Spot, b Brush) {
	p.near, p.share, p.wanted = p.near[:0], p.share[:0], p.wanted[:0]
	within := p.walk.Within
	if b.Through {
		within = p.walk.Around
	}
	within(at, b.Reach, func(vertex int, way float64) {
		p.near = append(p.near, vertex)
		p.share = append(p.share, b.Strength*geometry.Smoothstep(1-way/b.Reach))
	})
}

// Fill changes the weights of a joint at vertices, at all of them alike, by the whole strength of the brush. It returns those that were changed.
func (p *Painter) Fill(w *Weights, joint int, vertices []int, b Brush) (changed []int) {
	p.near, p.share, p.wanted = append(p.near[:0], vertices...), p.share[:0], p.wanted[:0]
	if p.locked[joint] {
		return nil
	}
	for range vertices {
		p.share = append(p.share, b.Strength)
	}
	return p.apply(w, joint, b)
}

// apply works on what the brush is over.
func (p *Painter) apply(w *Weights, joint int, b Brush) (changed []int) {
	for i, vertex := range p.near { // all is read before anything is written, so that no order shows
		p.wanted = append(p.wanted, p.want(w, vertex, joint, p.share[i], b))
	}
	for i, vertex := range p.near {
		if p.set(w, vertex, joint, p.wanted[i]) {
			changed = append(changed, vertex)
		}
	}
	return changed
}

// want is the weight that a vertex is to have.
func (p *Painter) want(w *Weights, vertex, joint int, share float64, b Brush) float64 {
	return p.wantOf(w.Of(vertex, joint), share, b, func() (sum float64, count int) {
		p.walk.Neighbours(vertex, func(other int) { sum, count = sum+w.Of(other, joint), count+1 })
		return sum, count
	})
}

// wantOf is what a brush makes of a number, which has those around it for neighbours.
func (p *Painter) wantOf(now, share float64, b Brush, around func() (sum float64, count int)) float64 {
	switch b.Stroke {
	case More:
		return now + share
	case Less:
		return now - share
	case Towards:
		return now + share*(b.Value-now)
	case Multiply:
		return now * (1 + share*(b.Value-1))
	case Even:
		sum, count := around()
		if count == 0 {
			return now
		}
		return now + share*(sum/float64(count)-now)
	}
	return now + share*(geometry.Smoothstep(now)-now)
}

// Of returns how much of a vertex goes with a joint.
func (w *Weights) Of(vertex, joint int) (sum float64) {
	for k := Influences * vertex; k < Influences*(vertex+1); k++ {
		if int(w.Joints[k]) == joint {
			sum += float64(w.Values[k])
		}
	}
	return sum
}

// Sum returns how much of a vertex goes with any of the joints that are marked.
func (w *Weights) Sum(vertex int, marked []bool) (sum float64) {
	for k := Influences * vertex; k < Influences*(vertex+1); k++ {
		if joint := int(w.Joints[k]); joint < len(marked) && marked[joint] {
			sum += float64(w.Values[k])
		}
	}
	return sum
}

// set has a vertex go with a joint by so much, and with the others by the rest. It tells whether anything changed.
func (p *Painter) set(w *Weights, vertex, joint int, wanted float64) bool {
	at := Influences * vertex
	fixed, free := 0.0, 0.0
	for k := at; k < at+Influences; k++ {
		switch other := int(w.Joints[k]); {
		case other == joint:
		case p.locked[other]:
			fixed += float64(w.Values[k])
		default:
			free += float64(w.Values[k])
		}
	}
	now := w.Of(vertex, joint)
	wanted = math.Max(0, math.Min(1-fixed, wanted))
	rest := math.Max(0, 1-fixed-wanted)
	taker := -1
	if free == 0 && rest > 0 {
		if taker = p.taker(w, vertex, joint); taker < 0 {
			return false // there is nobody to take it
		}
	}
	if math.Abs(wanted-now) < 1e-7 {
		return false
	}
	joints, values := make([]int, 0, kept), make([]float64, 0, kept)
	for k := at; k < at+Influences; k++ {
		other, value := int(w.Joints[k]), float64(w.Values[k])
		if other == joint || value == 0 {
			continue
		}
		if !p.locked[other] {
			value *= rest / free
		}
		joints, values = append(joints, other), append(values, value)
	}
	if taker >= 0 {
		joints, values = append(joints, taker), append(values, rest)
	}
	if wanted > 0 {
		joints, values = append(joints, joint), append(values, wanted)
	}
	if len(joints) > Influences {
		joints, values = p.without(joints, values, joint)
	}
	sum := 0.0
	for _, value := range values {
		sum += value
	}
	if math.Abs(sum-1) > 1e-5 { // what is locked takes all the room that a vertex has
		return false
	}
	w.Set(vertex, joints, values)
	return true
}

// taker is the joint, beside one, that the neighbours of a vertex go with most, and that is free; -1 for none.
func (p *Painter) taker(w *Weights, vertex, joint int) int {
	clear(p.mixed)
	p.walk.Neighbours(vertex, func(other int) {
		for k := Influences * other; k < Influences*(other+1); k++ {
			p.mixed[w.Joints[k]] += float64(w.Values[k])
		}
	})
	best := -1
	for other, value := range p.mixed {
		if other != joint && !p.locked[other] && value > 0 && (best < 0 || value > p.mixed[best]) {
			best = other
		}
	}
	return best
}

// without drops the least that is free, beside the painted one, of more joints than a vertex can have; what it had, the others take that are free.
func (p *Painter) without(joints []int, values []float64, painted int) ([]int, []float64) {
	least := -1
	for i, joint := range joints {
		if joint != painted && !p.locked[joint] && (least < 0 || values[i] < values[least]) {
			least = i
		}
	}
	if least < 0 { // four are locked: the painted one finds no room
		least = len(joints) - 1
	}
	lost := values[least]
	joints, values = append(joints[:least], joints[least+1:]...), append(values[:least], values[least+1:]...)
	if takers := p.free(joints, values, painted); takers > 0 { // the painted one has what it was given
		p.grow(joints, values, painted, lost/takers)
	} else if takers := p.free(joints, values, -1); takers > 0 {
		p.grow(joints, values, -1, lost/takers)
	}
	return joints, values
}

// free is how much goes with joints that are not locked, but for one.
func (p *Painter) free(joints []int, values []float64, but int) (sum float64) {
	for i, joint := range joints {
		if joint != but && !p.locked[joint] {
			sum += values[i]
		}
	}
	return sum
}

// grow makes those joints so much larger.
func (p *Painter) grow(joints []int, values []float64, but int, by float64) {
	for i, joint := range joints {
		if joint != but && !p.locked[joint] {
			values[i] += by * values[i]
		}
	}
}
