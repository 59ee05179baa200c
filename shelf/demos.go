package shelf

import (
	"slices"
	"strings"
	"sync"

	"myriapod/core/demo"
	"myriapod/core/edit"
	"myriapod/core/mechanism"
	"myriapod/core/repeat"
	"myriapod/core/rig"
	"myriapod/store"
)

// The note of a data folder that says how far its shelf is filled with demo specimens.
const (
	demosNote = "demos"
	demosDone = "all are there"
)

// AddDemos puts the demo specimens on an empty shelf, with the edits that made them as their history. Each is there whole or not at all; a shelf whose
// filling was cut short is filled further the next time. What a person has taken off or changed is left as it is.
func (s *Shelf) AddDemos() error {
	note, err := s.Store.Note(demosNote)
	if err != nil || note == demosDone {
		return err
	}
	if note == "" {
		present, err := s.Store.Specimens()
		if err != nil || len(present) > 0 {
			return err
		}
	}
	there := map[string]bool{}
	for _, name := range strings.Fields(note) {
		there[name] = true
	}
	specimens := slices.DeleteFunc(demo.Specimens(), func(d demo.Specimen) bool { return there[d.Name] })
	made := make([]makingOf, len(specimens))
	var all sync.WaitGroup
	for i, specimen := range specimens { // making them takes seconds: side by side
		all.Go(func() { made[i].begin, made[i].steps, made[i].err = specimen.Make(s.Kinds) })
	}
	all.Wait()
	for i, m := range made {
		if note = strings.TrimSpace(note + " " + specimens[i].Name); i == len(made)-1 {
			note = demosDone
		}
		if err := s.addDemo(m, note); err != nil {
			return err
		}
	}
	return nil
}

// makingOf is how a demo specimen is made.
type makingOf struct {
	begin *rig.Document
	steps []demo.Made
	err   error
}

// addDemo stores a demo specimen, with the edits that made it as its history, and notes it.
func (s *Shelf) addDemo(m makingOf, note string) error {
	if m.err != nil {
		return m.err
	}
	begun := store.Begun{Document: m.begin, Author: demoAuthor}
	before := repeat.Plain(m.begin)
	for _, step := range m.steps {
		title, touches := edit.Describe(before, step.Edit)
		begun.Changes = append(begun.Changes, store.Change{
			Edit: step.Edit, Document: step.Next, Title: title, Touches: touches, Author: demoAuthor, Blobs: step.Blobs,
		})
		before = step.Seen
	}
	_, err := s.Store.Begin(begun, demosNote, note)
	return err
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
