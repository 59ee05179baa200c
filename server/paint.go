package server

import (
	"context"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mesh"
	"myriapod/core/skin"
	"myriapod/server/wire"
)

// painting is a stroke that is being painted: its part under the brush, and the body as it is posed.
type painting struct {
	*edit.Painting
	part  string
	body  *evaluate.Body
	place int        // of the part in the body
	posed *mesh.Mesh // the part as it is posed
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
	if ask.Begin || s.painting == nil || s.painting.part != ask.Paint.Part {
		if err := s.beginPainting(ask.Paint); err != nil {
			return nil, err
		}
	}
	p := s.painting
	p.body.Deform(s.evaluator)
	p.posed.Positions = p.body.Parts[p.place].Positions
	answer := &wire.Painted{Part: p.part, Joints: p.Joints, Vertices: []int{}, Places: []uint16{}, Values: []float32{}}
	spot, ok := p.posed.Strike(mesh.Ray{Origin: ask.Origin, Direction: ask.Direction})
	if !ok {
		return answer, nil
	}
	answer.Spot = &spot
	press := 1.0
	if ask.Press > 0 {
		press = min(1, ask.Press)
	}
	for _, vertex := range p.Dab(spot, press) {
		at := skin.Influences * vertex
		answer.Vertices = append(answer.Vertices, vertex)
		answer.Places = append(answer.Places, p.Weights.Joints[at:at+skin.Influences]...)
		answer.Values = append(answer.Values, p.Weights.Values[at:at+skin.Influences]...)
	}
	return answer, nil
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

func (s *stage) beginPainting(stroke *edit.PaintWeights) error {
	s.painting = nil
	d := s.kept.Document
	p, err := edit.NewPainting(&edit.Context{Kinds: s.kinds, Surfaces: s.store}, d, stroke)
	if err != nil {
		return err
	}
	body, err := evaluate.NewBody(s.evaluator, s.store)
	if err != nil {
		return err
	}
	made := &painting{Painting: p, part: stroke.Part, body: body, posed: &mesh.Mesh{Triangles: p.Surface.Triangles}}
	for i := range body.Parts {
		if body.Parts[i].Part.ID == stroke.Part {
			made.place = i
		}
	}
	s.painting = made
	return nil
}
