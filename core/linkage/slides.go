package linkage

import (
	"math"

	"github.com/go-gl/mathgl/mgl64"
)

// slideOne finds a body that slides on a known one, or that a known one slides on, and of which a node is known: it turns as the other does, and goes to its node.
func (p *Plan) slideOne(k *known) bool {
	for _, slide := range p.linkage.Slides {
		for _, pair := range [][2]int{{slide.Body, slide.On}, {slide.On, slide.Body}} {
			body, other := pair[0], pair[1]
			if k.bodies[body] || !k.bodies[other] {
				continue
			}
			if node := p.knownNode(k, body); node >= 0 {
				k.bodies[body] = true
				p.steps = append(p.steps, step{act: ride, body: body, on: other, a: node, finds: p.spread(k, body)})
				return true
			}
		}
	}
	return false
}

// slideNode finds what comes of a slide together with one pin: where a node of the one that slides lies on a circle, or how a body is turned that has a known node,
// and on which a block slides that has another.
func (p *Plan) slideNode(k *known) (bool, error) {
	for _, slide := range p.linkage.Slides {
		for _, pair := range [][2]int{{slide.Body, slide.On}, {slide.On, slide.Body}} {
			body, other := pair[0], pair[1]
			switch {
			case k.bodies[body]:
			case k.bodies[other]:
				if found, err := p.meetCircle(k, body, other, slide.Along); found || err != nil {
					return found, err
				}
			default:
				if found, err := p.swingLine(k, body, other, slide.Along); found || err != nil {
					return found, err
				}
			}
		}
	}
	return false, nil
}

// meetCircle seeks a node of a body that slides on a known one which a bar shares that has a known node.
func (p *Plan) meetCircle(k *known, body, on int, along mgl64.Vec2) (bool, error) {
	for node, n := range p.linkage.Nodes {
		if k.nodes[node] || !has(n, body) {
			continue
		}
		for _, bar := range n.Bodies {
			end := p.knownNode(k, bar)
			if bar == body || k.bodies[bar] || end < 0 {
				continue
			}
			s := step{act: line, body: body, on: on, a: end, node: node, ra: p.apart(end, node), along: along}
			if s.ra < alike*p.size {
				return false, &Fault{Err: ErrShort, Bodies: []int{bar}}
			}
			way := p.rest[node].Sub(p.rest[end])
			if s.side = way.Dot(along); math.Abs(s.side) < sharpest*s.ra {
				return false, &Fault{Err: ErrStraight, Bodies: []int{bar, body}}
			}
			s.side = math.Copysign(1, s.side)
			p.steps = append(p.steps, s)
			k.nodes[node] = true
			return true, nil
		}
	}
	return false, nil
}

// swingLine seeks a body with a known node on which another slides that has a known node as well.
func (p *Plan) swingLine(k *known, body, other int, along mgl64.Vec2) (bool, error) {
	a, b := p.knownNode(k, body), p.knownNode(k, other)
	if a < 0 || b < 0 || a == b {
		return false, nil
	}
	way := p.rest[b].Sub(p.rest[a])
	s := step{act: swing, body: body, a: a, b: b, along: along, off: along[0]*way[1] - along[1]*way[0]}
	if ahead := way.Dot(along); math.Abs(ahead) < sharpest*p.size {
		return false, &Fault{Err: ErrStraight, Bodies: []int{body, other}}
	} else {
		s.side = math.Copysign(1, ahead)
	}
	k.bodies[body] = true
	s.finds = p.spread(k, body)
	p.steps = append(p.steps, s)
	return true, nil
}

// slideTo finds where a node on a line of a known body is so far from a known node. Where the line does not come so near, ok is false, and it is where it comes nearest.
func (t *step) slideTo(p *Plan, s *State, side float64) (ok bool) {
	pose := s.Poses[t.on]
	from := pose.Apply(p.rest[t.node])
	along := pose.turned(t.along)
	way := from.Sub(s.Nodes[t.a])
	ahead, aside := way.Dot(along), way[0]*along[1]-way[1]*along[0]
	left := (t.ra - aside) * (t.ra + aside)
	s.Nodes[t.node] = from.Add(along.Mul(side*math.Sqrt(math.Max(0, left)) - ahead))
	return left >= 0
}

// turnTo turns a body about a known node so that its line runs through another.
func (t *step) turnTo(p *Plan, s *State) (ok bool) {
	way := s.Nodes[t.b].Sub(s.Nodes[t.a])
	left := way.LenSqr() - t.off*t.off
	ahead := t.side * math.Sqrt(math.Max(0, left))
	// In the body's rest frame the other node lies ahead along and off aside; turned, it is to lie that way.
	rest := t.along.Mul(ahead).Add(mgl64.Vec2{-t.along[1], t.along[0]}.Mul(t.off))
	p.put(s, t.body, between(mgl64.Vec2{}, rest, mgl64.Vec2{}, way).about(p.rest[t.a], s.Nodes[t.a]), t.finds)
	return left >= 0
}

// about is a turn that takes one place to another.
func (p Pose) about(from, to mgl64.Vec2) Pose {
	p.Move = mgl64.Vec2{}
	p.Move = to.Sub(p.Apply(from))
	return p
}

// slack is how far a step that slides is from where bars do not reach, as a share.
func (t *step) slack(p *Plan, s *State) float64 {
	switch t.act {
	case circles:
		d := s.Nodes[t.b].Sub(s.Nodes[t.a]).Len()
		return product(t.ra, t.rb, d) / (t.ra * t.ra * t.rb * t.rb)
	case line:
		pose := s.Poses[t.on]
		way := pose.Apply(p.rest[t.node]).Sub(s.Nodes[t.a])
		along := pose.turned(t.along)
		aside := (way[0]*along[1] - way[1]*along[0]) / t.ra
		return (1 - aside) * (1 + aside)
	case swing:
		way := s.Nodes[t.b].Sub(s.Nodes[t.a])
		return (way.LenSqr() - t.off*t.off) / (p.size * p.size)
	}
	return math.Inf(1)
}
