package server

import (
	"context"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mesh"
	"myriapod/core/skin"
	"myriapod/server/wire"
)

// painting is a stroke that is being painted: its part under the brush, of weights or of shares of dual quaternions, and the body as it is posed.
type painting struct {
	weights *edit.Painting
	shares  *edit.DualPainting
	part    string
	body    *evaluate.Body
	place   int        // of the part in the body
	posed   *mesh.Mesh // the part as it is posed
}

// paint answers a dab with what it changes. Nothing is kept until the page sends the whole stroke as an edit.
func (l *liveChannel) paint(ctx context.Context, ask wire.Ask) error {
	painted, err := l.stage.paint(ask)
	if err != nil {
		return l.tell(ctx, wire.Tell{Type: "error", Seq: ask.Seq, Message: err.Error()})
	}
	return l.tell(ctx, wire.Tell{Type: "painted", Seq: ask.Seq, Painted: painted})
}

func (s *stage) paint(ask wire.Ask) (*wire.Painted, error) {
	part := ""
	if ask.Paint != nil {
		part = ask.Paint.Part
	} else {
		part = ask.PaintDual.Part
	}
	if ask.Begin || s.painting == nil || s.painting.part != part {
		if err := s.beginPainting(ask, part); err != nil {
			return nil, err
		}
	}
	p := s.painting
	p.body.Deform(s.evaluator)
	p.posed.Positions = p.body.Parts[p.place].Positions
	answer := &wire.Painted{Part: p.part, Joints: []string{}, Vertices: []int{}, Places: []uint16{}, Values: []float32{}}
	spot, ok := p.posed.Strike(mesh.Ray{Origin: ask.Origin, Direction: ask.Direction})
	if !ok {
		return answer, nil
	}
	answer.Spot = &spot
	press := 1.0
	if ask.Press > 0 {
		press = min(1, ask.Press)
	}
	p.dab(answer, spot, press)
	return answer, nil
}

// dab puts the brush on a spot, and writes what that changes.
func (p *painting) dab(answer *wire.Painted, spot mesh.Spot, press float64) {
	if p.shares != nil {
		answer.Vertices = append(answer.Vertices, p.shares.Dab(spot, press)...)
		for _, vertex := range answer.Vertices {
			answer.Shares = append(answer.Shares, p.shares.Shares[vertex])
		}
		return
	}
	answer.Joints = p.weights.Joints
	for _, vertex := range p.weights.Dab(spot, press) {
		at := skin.Influences * vertex
		answer.Vertices = append(answer.Vertices, vertex)
		answer.Places = append(answer.Places, p.weights.Weights.Joints[at:at+skin.Influences]...)
		answer.Values = append(answer.Values, p.weights.Weights.Values[at:at+skin.Influences]...)
	}
}

// weigh answers with the weights of the vertex under the pointer; with nothing where there is none.
func (l *liveChannel) weigh(ctx context.Context, ask wire.Ask) error {
	weighed, err := l.stage.weigh(ask)
	if err != nil {
		return nil // the part was unbound or removed while the page looked at it
	}
	return l.tell(ctx, wire.Tell{Type: "weighed", Seq: ask.Seq, Weighed: weighed})
}

func (s *stage) weigh(ask wire.Ask) (*wire.Weighed, error) {
	if s.weighed == nil {
		body, err := evaluate.NewBody(s.evaluator, s.store)
		if err != nil {
			return nil, err
		}
		s.weighed = body
	}
	for i := range s.weighed.Parts {
		p := &s.weighed.Parts[i]
		binding := s.kept.Document.BindingOf(p.Part.ID)
		if p.Part.ID != ask.Weigh || p.Weights == nil || binding == nil {
			continue
		}
		s.weighed.Deform(s.evaluator)
		posed := &mesh.Mesh{Positions: p.Positions, Triangles: p.Rest.Triangles}
		spot, ok := posed.Strike(mesh.Ray{Origin: ask.Origin, Direction: ask.Direction})
		if !ok {
			return nil, nil
		}
		corner := 0
		for k, share := range spot.Shares {
			if share > spot.Shares[corner] {
				corner = k
			}
		}
		vertex := int(p.Rest.Triangles[3*spot.Face+corner])
		answer := &wire.Weighed{Part: p.Part.ID, Vertex: vertex}
		for k := skin.Influences * vertex; k < skin.Influences*(vertex+1); k++ {
			if p.Weights.Values[k] > 0 {
				answer.Joints = append(answer.Joints, binding.Joints[p.Weights.Joints[k]])
				answer.Values = append(answer.Values, p.Weights.Values[k])
			}
		}
		return answer, nil
	}
	return nil, nil
}

func (s *stage) beginPainting(ask wire.Ask, part string) (err error) {
	s.painting = nil
	c := &edit.Context{Kinds: s.kinds, Surfaces: s.store}
	made := &painting{part: part}
	var surface *mesh.Mesh
	if ask.Paint != nil {
		if made.weights, err = edit.NewPainting(c, s.kept.Document, ask.Paint); err != nil {
			return err
		}
		surface = made.weights.Surface
	} else {
		if made.shares, err = edit.NewDualPainting(c, s.kept.Document, ask.PaintDual); err != nil {
			return err
		}
		surface = made.shares.Surface
	}
	if made.body, err = evaluate.NewBody(s.evaluator, s.store); err != nil {
		return err
	}
	made.posed = &mesh.Mesh{Triangles: surface.Triangles}
	for i := range made.body.Parts {
		if made.body.Parts[i].Part.ID == part {
			made.place = i
		}
	}
	s.painting = made
	return nil
}
