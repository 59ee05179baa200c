package linkage

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"
)

// Mend is where a node is to be at rest for bars that are as good as equal to be equal.
type Mend struct {
	Node int
	To   mgl64.Vec2
}

// Mends lists the nodes that lie beside the corner of a parallelogram by less than counts. Until they are moved there, pins miss each other by so much.
func (p *Plan) Mends() (list []Mend) {
	for i := range p.steps {
		t := &p.steps[i]
		if t.act != parallel {
			continue
		}
		if to := p.rest[t.a].Add(p.rest[t.b]).Sub(p.rest[t.third]); to.Sub(p.rest[t.node]).Len() > exact*p.size {
			list = append(list, Mend{t.node, to})
		}
	}
	return list
}

// Stretched lists the bodies of the pair of bars that stops a drive at the end of its travel: in one line there, or at right angles to what they slide on. None where
// nothing stops it.
func (p *Plan) Stretched(drive int, high bool) (bodies []int) {
	at := p.travels[drive].low
	if high {
		at = p.travels[drive].high
	}
	if math.IsInf(at, 0) || p.together != nil {
		return nil
	}
	s := p.NewState()
	p.at(s, drive, at)
	least, found := math.Inf(1), -1
	for i := range p.steps {
		if t := &p.steps[i]; t.drive == drive && t.slack(p, s) < least && t.act != crank && t.act != push {
			least, found = t.slack(p, s), i
		}
	}
	if found < 0 {
		return nil
	}
	t := &p.steps[found]
	if t.act == swing {
		return []int{t.body}
	}
	for _, body := range p.linkage.Nodes[t.node].Bodies {
		if body != Ground {
			bodies = append(bodies, body)
		}
	}
	return bodies
}
