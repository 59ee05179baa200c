package server

import (
	"context"
	"errors"

	"myriapod/core/evaluate"
	"myriapod/core/mesh"
	"myriapod/core/sculpt"
	"myriapod/server/wire"
)

// sculpting is a hand on a morph target: meanwhile the stage stands still.
type sculpting struct {
	*sculpt.Sculptor
	stroke sculpt.Stroke
	part   int          // its place in the bodies
	was    *mesh.Deltas // the morph target of the body that is shown, before
}

// sculpt answers with what a hand has done since it took hold. Nothing is kept until the page sends it as an edit; then, or when it gives up, it ends the stroke.
func (l *liveChannel) sculpt(ctx context.Context, ask wire.Ask) error {
	if ask.End {
		l.stage.letGo()
		return nil
	}
	done, err := l.stage.sculpt(ask)
	if err != nil {
		l.stage.letGo()
		return l.tell(ctx, wire.Tell{Type: "error", Seq: ask.Seq, Message: err.Error()})
	}
	return l.tell(ctx, wire.Tell{Type: "sculpted", Seq: ask.Seq, Sculpted: done})
}

func (s *stage) sculpt(ask wire.Ask) (*wire.Sculpted, error) {
	ray := mesh.Ray{Origin: ask.Origin, Direction: ask.Direction}
	if ask.Begin {
		if err := s.beginSculpting(*ask.Sculpt); err != nil {
			return nil, err
		}
		if _, ok := s.sculpting.Take(ray, ask.Facing); !ok {
			return nil, errors.New("there is nothing of the part there; take hold of it where it is seen")
		}
	}
	hand := s.sculpting
	if hand == nil {
		return nil, errors.New("the specimen was changed meanwhile; take hold anew")
	}
	var err error
	if hand.stroke.Act.Holds() {
		err = hand.Draw(ray)
	} else {
		_, err = hand.Touch(ray)
	}
	if err != nil {
		return nil, err
	}
	if s.body != nil {
		deltas, place := hand.Deltas()
		s.body.Parts[hand.part].Morphs[place] = deltas
	}
	done := &wire.Sculpted{Part: hand.stroke.Part, Amount: hand.Amount(), Vertices: []int{}, By: [][3]float32{}, Short: []float32{}}
	if vertices, by := hand.Changed(); len(vertices) > 0 {
		done.Vertices, done.By = vertices, by
		for _, v := range vertices {
			done.Short = append(done.Short, float32(hand.Short(v)/hand.stroke.Reach))
		}
	}
	return done, nil
}

func (s *stage) beginSculpting(stroke sculpt.Stroke) error {
	s.letGo()
	body, err := evaluate.NewBody(s.evaluator, s.store)
	if err != nil {
		return err
	}
	hand, err := sculpt.New(s.evaluator, body, stroke)
	if err != nil {
		return err
	}
	begun := &sculpting{Sculptor: hand, stroke: stroke}
	for i := range body.Parts {
		if body.Parts[i].Part.ID == stroke.Part {
			begun.part = i
		}
	}
	if s.body != nil {
		_, place := hand.Deltas()
		begun.was = s.body.Parts[begun.part].Morphs[place]
	}
	s.sculpting = begun
	return nil
}

// letGo ends a stroke: what is shown is what is kept again.
func (s *stage) letGo() {
	if hand := s.sculpting; hand != nil && s.body != nil {
		_, place := hand.Deltas()
		s.body.Parts[hand.part].Morphs[place] = hand.was
	}
	s.sculpting = nil
}
