package server

import (
	"encoding/binary"
	"math"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/rig"
	"myriapod/server/wire"
)

// comparison is a part that is shown between two bindings: its own, and another or none.
type comparison struct {
	wire.Compare
	place      int // of the part in the document
	own, other *evaluate.BodyPart
}

// compare readies what the page wants to see compared. What is compared already is gone on with.
func (s *stage) compare(ask *wire.Compare) error {
	switch {
	case ask == nil:
		s.comparison = nil
		return nil
	case s.comparison != nil && s.comparison.Part == ask.Part && s.comparison.With == ask.With:
		s.comparison.Share = math.Max(0, math.Min(1, ask.Share))
		return nil
	}
	s.comparison = nil
	d := s.evaluator.Plan.Document
	for place, part := range d.Parts {
		if part.ID != ask.Part {
			continue
		}
		binding, err := s.compared(d, ask)
		if err != nil {
			return err
		}
		made := &comparison{Compare: *ask, place: place}
		if made.own, err = evaluate.NewBodyPart(s.evaluator, s.store, part, d.BindingOf(part.ID)); err != nil {
			return err
		}
		if made.other, err = evaluate.NewBodyPart(s.evaluator, s.store, part, binding); err != nil {
			return err
		}
		s.comparison = made
	}
	return nil
}

// compared is the binding that a part is compared with; nil for none.
func (s *stage) compared(d *rig.Document, ask *wire.Compare) (*rig.Binding, error) {
	if ask.With == "unbound" {
		return nil, nil
	}
	if _, _, _, err := edit.BothBindings(&edit.Context{Kinds: s.kinds, Surfaces: s.store}, d, ask.Part); err != nil {
		return nil, err
	}
	binding := *d.BindingOf(ask.Part)
	binding.Joints, binding.Weights = binding.Last.Joints, binding.Last.Weights
	return &binding, nil
}

// mix brings both to the present frame, and the part's own to a share of the way between them. It returns how far they are apart: by vertex, the most, and on average, in metres.
func (c *comparison) mix(e *evaluate.Evaluator) (apart []float64, greatest, mean float64) {
	c.own.Deform(e)
	c.other.Deform(e)
	share := float32(c.Share)
	apart = make([]float64, len(c.own.Positions)/3)
	for v := range apart {
		square := 0.0
		for k := 3 * v; k < 3*v+3; k++ {
			off := c.other.Positions[k] - c.own.Positions[k]
			square += float64(off) * float64(off)
			c.own.Positions[k] += share * off
			c.own.Normals[k] += share * (c.other.Normals[k] - c.own.Normals[k])
		}
		apart[v] = math.Sqrt(square)
		greatest = math.Max(greatest, apart[v])
		mean += apart[v] / float64(len(apart))
	}
	return apart, greatest, mean
}

// compareds carries how far what is compared is apart: which part, the most and the average in metres, how many vertices, and how far each is.
func (s *stage) compareds(b []byte) []byte {
	c := s.comparison
	if c == nil {
		return b
	}
	apart, greatest, mean := c.mix(s.evaluator)
	b = appendFloats(b, []float64{float64(c.place), greatest, mean, float64(len(apart))})
	return appendFloats(b, apart)
}

// appendVertices appends the vertices of a part that no skin can say.
func appendVertices(b []byte, place int, p *evaluate.BodyPart) []byte {
	b = appendFloats(b, []float64{float64(place), float64(len(p.Positions) / 3)})
	for _, list := range [][]float32{p.Positions, p.Normals} {
		for _, value := range list {
			b = binary.LittleEndian.AppendUint32(b, math.Float32bits(value))
		}
	}
	return b
}
