package shelf

import (
	"bytes"
	"image/png"

	"myriapod/core/evaluate"
	"myriapod/core/picture"
)

// pictureTime is the moment, in seconds, that the Shelf's pictures show, so that what moves by itself is seen moving.
const pictureTime = 0.4

// Picture is how a specimen looks on the Shelf, as PNG. It is drawn once for each revision that is looked at, and kept.
func (s *Shelf) Picture(id string) ([]byte, error) {
	specimen, err := s.Store.Specimen(id)
	if err != nil {
		return nil, err
	}
	if data, ok, err := s.Store.Picture(id, specimen.Head); ok || err != nil {
		return data, err
	}
	s.drawing.Lock()
	defer s.drawing.Unlock()
	if data, ok, err := s.Store.Picture(id, specimen.Head); ok || err != nil { // drawn meanwhile
		return data, err
	}
	state, err := s.State(id)
	if err != nil {
		return nil, err
	}
	data, err := s.draw(state)
	if err != nil {
		return nil, err
	}
	return data, s.Store.KeepPicture(id, state.Revision, data)
}

func (s *Shelf) draw(state State) ([]byte, error) {
	evaluator, body, err := evaluate.Open(state.Document, s.Kinds, s.Store)
	if err != nil {
		return nil, err
	}
	evaluator.SetTime(pictureTime)
	evaluator.Evaluate()
	body.Deform(evaluator)
	var out bytes.Buffer
	if err := png.Encode(&out, picture.Draw(evaluator, body, 640, 400)); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}
