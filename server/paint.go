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
	for _, vertex := range p.Dab(spot) {
		at := skin.Influences * vertex
		answer.Vertices = append(answer.Vertices, vertex)
		answer.Places = append(answer.Places, p.Weights.Joints[at:at+skin.Influences]...)
		answer.Values = append(answer.Values, p.Weights.Values[at:at+skin.Influences]...)
	}
	return answer, nil
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
