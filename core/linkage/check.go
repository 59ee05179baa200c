package linkage

import "math"

// holding is how much a pin may miss by, as a share of the size, where drives are moved a little: ends that lie side by side by less count as one.
const holding = 5e-5

// check moves the drives a little, here and there, and looks whether all pins hold: they do not where bars are tied more often than they can be.
func (p *Plan) check() error {
	s := p.NewState()
	for look := range 3 {
		for d, t := range p.travels {
			s.drives[d] = 0.05 * math.Sin(float64(1+look*5+d*3))
			if !p.turns(d) {
				s.drives[d] *= p.size
			}
			s.drives[d] = math.Max(0.9*t.low, math.Min(0.9*t.high, s.drives[d]))
		}
		if p.Bring(s, append([]float64{}, s.drives...)...).Held {
			continue
		}
		for i, n := range p.linkage.Nodes {
			for _, body := range n.Bodies {
				if s.Poses[body].Apply(p.rest[i]).Sub(s.Nodes[i]).Len() > holding*p.size {
					return &Fault{Err: ErrTied, Bodies: without(n.Bodies, Ground)}
				}
			}
		}
		for _, slide := range p.linkage.Slides {
			a, b := s.Poses[slide.Body], s.Poses[slide.On]
			q := p.rest[p.nodeOf(slide.Body)]
			away, along := a.Apply(q).Sub(b.Apply(q)), b.turned(slide.Along)
			if math.Abs(away[0]*along[1]-away[1]*along[0]) > holding*p.size || math.Abs(a.Cosine*b.Sine-a.Sine*b.Cosine) > holding {
				return &Fault{Err: ErrTied, Bodies: without([]int{slide.Body, slide.On}, Ground)}
			}
		}
	}
	return nil
}

func without(bodies []int, one int) (list []int) {
	for _, body := range bodies {
		if body != one {
			list = append(list, body)
		}
	}
	return list
}
