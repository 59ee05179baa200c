package shelf

import "fmt"

// Any is the revision that stands for whichever is the present one.
const Any = 0

// Undo goes back one edit from the revision on.
func (s *Shelf) Undo(id string, on int) (State, error) {
	return s.move(id, on, "Undo", s.Store.Undo)
}

// Redo goes forward one edit from the revision on.
func (s *Shelf) Redo(id string, on int) (State, error) {
	return s.move(id, on, "Redo", s.Store.Redo)
}

// GoTo makes any revision of the specimen's history the present one, in the place of the revision on. Nothing is dropped.
func (s *Shelf) GoTo(id string, on, revision int) (State, error) {
	return s.move(id, on, fmt.Sprintf("Go to state %d", revision), func(id string) error { return s.Store.GoTo(id, revision) })
}

// Delete takes a specimen off the shelf, as it stood at the revision on.
func (s *Shelf) Delete(id string, on int) error {
	defer s.editing.take(id)()
	if err := s.stands(id, on, "Delete"); err != nil {
		return err
	}
	if err := s.Store.Delete(id); err != nil {
		return err
	}
	s.changed(id)
	return nil
}

// Restore puts a deleted specimen back.
func (s *Shelf) Restore(id string) error {
	defer s.editing.take(id)()
	if err := s.Store.Restore(id); err != nil {
		return err
	}
	s.changed(id)
	return nil
}

// stands refuses what was asked for on a revision that is not the present one any more.
func (s *Shelf) stands(id string, on int, title string) error {
	if on == Any {
		return nil
	}
	specimen, err := s.Store.Specimen(id)
	if err != nil || specimen.Head == on {
		return err
	}
	_, titles, err := s.Store.Between(id, on, specimen.Head)
	if err != nil {
		return err
	}
	return &Conflict{Mine: title, Theirs: titles}
}
