package shelf

import (
	"sync"

	"myriapod/core/demo"
	"myriapod/core/edit"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
	"myriapod/store"
)

// AddDemos puts the demo specimens on an empty shelf, with the edits that made them as their history.
func (s *Shelf) AddDemos() error {
	present, err := s.Store.Specimens()
	if err != nil || len(present) > 0 {
		return err
	}
	specimens := demo.Specimens()
	made := make([]makingOf, len(specimens))
	var all sync.WaitGroup
	for i, specimen := range specimens { // making them takes seconds: side by side
		all.Go(func() { made[i].begin, made[i].steps, made[i].err = specimen.Make(s.Kinds) })
	}
	all.Wait()
	for _, m := range made {
		if err := s.addDemo(m); err != nil {
			return err
		}
	}
	return nil
}

// makingOf is how a demo specimen is made.
type makingOf struct {
	begin *rig.Document
	steps []demo.Step
	err   error
}

// addDemo stores a demo specimen, with the edits that made it as its history.
func (s *Shelf) addDemo(m makingOf) error {
	if m.err != nil {
		return m.err
	}
	id, err := s.Store.Create(m.begin, "Begin", demoAuthor, nil)
	if err != nil {
		return err
	}
	before := m.begin
	for i, step := range m.steps {
		title, touches := edit.Describe(before, step.Edit)
		if _, err := s.Store.Keep(store.Change{
			Specimen: id, On: i + 1, Edit: step.Edit, Document: step.Next, Title: title,
			Touches: touches, Author: demoAuthor, Blobs: step.Blobs,
		}); err != nil {
			return err
		}
		before = step.Next
	}
	return nil
}

const demoAuthor = "demo"

// OpenDemo makes a demo specimen by name.
func OpenDemo(name string, kinds mechanism.Registry) (Opened, error) {
	specimen, err := demo.Find(name)
	if err != nil {
		return Opened{}, err
	}
	document, steps, err := specimen.Make(kinds)
	if err != nil {
		return Opened{}, err
	}
	if len(steps) > 0 {
		document = steps[len(steps)-1].Next
	}
	return Opened{document, demo.Memory(steps)}, nil
}
