package linkage

import "math"

// known is what has been found so far while steps are ordered.
type known struct{ bodies, nodes []bool }

// order finds the steps.
func (p *Plan) order() error {
	l := p.linkage
	k := known{make([]bool, l.Bodies), make([]bool, len(l.Nodes))}
	k.bodies[Ground] = true
	p.spread(&k, Ground)
	for {
		if p.driveOne(&k) || p.placeOne(&k) || p.slideOne(&k) {
			continue
		}
		found, err := p.joinTwo(&k)
		if err == nil && !found {
			found, err = p.slideNode(&k)
		}
		if err != nil {
			return err
		}
		if !found {
			break
		}
	}
	left := []int{}
	for body, there := range k.bodies {
		if !there {
			left = append(left, body)
		}
	}
	if len(left) == 0 {
		return nil
	}
	p.tails = len(p.steps)
	return p.solveTogether(left, k)
}

// driveOne finds a driven body whose other is known.
func (p *Plan) driveOne(k *known) bool {
	for i, d := range p.linkage.Drives {
		if k.bodies[d.Body] || !k.bodies[d.On] {
			continue
		}
		s := step{act: crank, body: d.Body, on: d.On, node: d.Pivot, drive: i}
		for _, slide := range p.linkage.Slides {
			if slide.Body == d.Body && slide.On == d.On {
				s.act, s.along = push, slide.Along
			}
		}
		if s.act == crank && !k.nodes[d.Pivot] {
			continue
		}
		k.bodies[d.Body] = true
		s.finds = p.spread(k, d.Body)
		p.steps = append(p.steps, s)
		return true
	}
	return false
}

// spread has the nodes of a known body known, and returns those that were not.
func (p *Plan) spread(k *known, body int) (fresh []int) {
	for i, n := range p.linkage.Nodes {
		if has(n, body) && !k.nodes[i] {
			k.nodes[i] = true
			fresh = append(fresh, i)
		}
	}
	return fresh
}

func has(n Node, body int) bool {
	for _, b := range n.Bodies {
		if b == body {
			return true
		}
	}
	return false
}

// placeOne finds a body that two known nodes hold.
func (p *Plan) placeOne(k *known) bool {
	for body, there := range k.bodies {
		if there {
			continue
		}
		first, second := -1, -1
		for i, n := range p.linkage.Nodes {
			if !k.nodes[i] || !has(n, body) {
				continue
			}
			if first < 0 {
				first = i
			} else if second < 0 || p.apart(first, i) > p.apart(first, second) {
				second = i
			}
		}
		if second >= 0 && p.apart(first, second) > alike*p.size {
			k.bodies[body] = true
			p.steps = append(p.steps, step{act: place, body: body, a: first, b: second, finds: p.spread(k, body)})
			return true
		}
	}
	return false
}

func (p *Plan) apart(a, b int) float64 { return p.rest[a].Sub(p.rest[b]).Len() }

// joinTwo finds a node that two unknown bodies share, each of which has a known node.
func (p *Plan) joinTwo(k *known) (bool, error) {
	for node, n := range p.linkage.Nodes {
		if k.nodes[node] {
			continue
		}
		ends, pair := []int{}, []int{}
		for _, body := range n.Bodies {
			if end := p.knownNode(k, body); !k.bodies[body] && end >= 0 {
				ends, pair = append(ends, end), append(pair, body)
			}
		}
		if len(ends) < 2 || ends[0] == ends[1] {
			continue
		}
		s := step{act: circles, a: ends[0], b: ends[1], node: node, ra: p.apart(ends[0], node), rb: p.apart(ends[1], node)}
		switch {
		case s.ra < alike*p.size:
			return false, &Fault{Err: ErrShort, Bodies: pair[:1]}
		case s.rb < alike*p.size:
			return false, &Fault{Err: ErrShort, Bodies: pair[1:2]}
		}
		if third := p.corner(k, s); third >= 0 {
			s.act, s.third = parallel, third
		} else {
			u, v := p.rest[s.a].Sub(p.rest[node]), p.rest[s.b].Sub(p.rest[node])
			cross := u[0]*v[1] - u[1]*v[0]
			if math.Abs(cross) < sharpest*s.ra*s.rb {
				return false, &Fault{Err: ErrStraight, Bodies: pair[:2]}
			}
			s.side = math.Copysign(1, cross)
		}
		p.steps = append(p.steps, s)
		k.nodes[node] = true
		return true, nil
	}
	return false, nil
}

// knownNode is the known node of a body; -1 for none.
func (p *Plan) knownNode(k *known, body int) int {
	for i, n := range p.linkage.Nodes {
		if k.nodes[i] && has(n, body) {
			return i
		}
	}
	return -1
}

// corner finds the corner of a parallelogram that lies opposite to the node of a step: on known bodies with both its neighbours, and with the sides alike.
func (p *Plan) corner(k *known, s step) int {
	for i := range p.linkage.Nodes {
		if !k.nodes[i] || i == s.a || i == s.b || !p.share(k, i, s.a) || !p.share(k, i, s.b) {
			continue
		}
		if p.rest[s.a].Add(p.rest[s.b]).Sub(p.rest[i]).Sub(p.rest[s.node]).Len() < alike*p.size {
			return i
		}
	}
	return -1
}

// share tells whether two nodes are on one known body.
func (p *Plan) share(k *known, a, b int) bool {
	for _, body := range p.linkage.Nodes[a].Bodies {
		if k.bodies[body] && has(p.linkage.Nodes[b], body) {
			return true
		}
	}
	return false
}
