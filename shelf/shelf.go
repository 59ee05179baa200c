// Package shelf is the work on specimens that a person does, whether through the page or the command line: create, import, edit with
// the newest document in view, undo, redo, and open from wherever it is kept.
package shelf

import (
	"context"
	"errors"
	"fmt"
	"path"
	"path/filepath"
	"strings"
	"sync"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/findings"
	"myriapod/core/interchange"
	"myriapod/core/interchange/files"
	"myriapod/core/interchange/rigfile"
	"myriapod/core/mechanism"
	"myriapod/core/repeat"
	"myriapod/core/rig"
	"myriapod/store"
)

// Shelf works on the specimens of one store.
type Shelf struct {
	Store *store.Store
	Kinds mechanism.Registry

	editing  locks // the changes of one specimen are made one after the other
	presents presents
	drawing  sync.Mutex // one picture at a time
	changed  func(specimen string)
}

// New returns a shelf over a store. changed is called after every change of a specimen; nil for nobody.
func New(s *store.Store, kinds mechanism.Registry, changed func(specimen string)) *Shelf {
	if changed == nil {
		changed = func(string) {}
	}
	return &Shelf{Store: s, Kinds: kinds, changed: changed}
}

// State is a specimen as it stands.
type State struct {
	ID       string
	Revision int // the present revision; edits are made on it
	Sequence int // counts every change
	Edits    int // how many edits led here
	Changed  string
	Undo     string // title of what undo would take back, empty for nothing
	Redo     string
	Document *rig.Document     // as it is kept
	Expanded *repeat.Expansion // with the copies that its repeats make
	Findings []findings.Finding
	Drift    *evaluate.Drift // of the edit just made, when it built something
	Notes    []string        // what the edit just made did beside what was asked
}

// State returns a specimen as it stands.
func (s *Shelf) State(id string) (State, error) {
	specimen, revision, err := s.Store.Head(id)
	if err != nil {
		return State{}, err
	}
	now, err := s.presentOf(id, revision)
	if err != nil {
		return State{}, err
	}
	return s.state(specimen, revision, now)
}

// state is a specimen as it stands, whose present state is worked out already.
func (s *Shelf) state(specimen store.Specimen, revision store.Revision, now present) (State, error) {
	id := specimen.ID
	state := State{
		ID: id, Revision: revision.Number, Sequence: specimen.Sequence, Edits: revision.Depth, Changed: specimen.Changed,
		Document: now.document, Expanded: now.expanded, Findings: now.found,
	}
	if revision.Parent != nil {
		state.Undo = revision.Title
	}
	if revision.Redo != nil {
		next, err := s.Store.Revision(id, *revision.Redo)
		if err != nil {
			return State{}, err
		}
		state.Redo = next.Title
	}
	return state, nil
}

// Create puts an empty specimen on the shelf.
func (s *Shelf) Create(name, author string) (string, error) {
	d := rig.New(rig.TidyName(name))
	if err := d.Validate(); err != nil {
		return "", err
	}
	return s.Store.Create(d, "Begin", author, nil)
}

// ErrStopped tells that the caller stopped the work, or went away.
var ErrStopped = errors.New("this was stopped; nothing was changed")

// Brought is what somebody brings: files, the model or rig file among them (without one, it is found), and what all of it is called.
type Brought struct {
	Files files.Files
	Main  string
	Title string // empty for the name of the main file
}

// One is a single file.
func One(fileName string, data []byte) Brought {
	base := filepath.Base(fileName)
	return Brought{Files: files.Set{base: data}, Main: base}
}

// find settles which file is the model, and reads it.
func (b *Brought) find() (data []byte, err error) {
	if b.Main == "" {
		if b.Main, err = files.Main(b.Files); err != nil {
			return nil, err
		}
	}
	if data, err = b.Files.Read(b.Main); err != nil {
		return nil, fmt.Errorf("%s: %w", b.Main, err)
	}
	if b.Title == "" {
		b.Title = path.Base(b.Main)
	}
	return data, nil
}

// Import makes a new specimen of a model or rig file. Without a name it is called after what was brought. When ctx ends before that is
// read, nothing is made.
func (s *Shelf) Import(ctx context.Context, brought Brought, name, author string) (string, error) {
	data, err := brought.find()
	if err != nil {
		return "", err
	}
	if name == "" {
		name = strings.TrimSuffix(brought.Title, path.Ext(brought.Title))
	}
	name = rig.TidyName(name)
	if err := rig.CheckName(name); err != nil {
		return "", err
	}
	if isRigFile(brought.Main, data) {
		document, memory, err := rigfile.Read(data, s.Kinds)
		if err != nil {
			return "", fmt.Errorf("%s: %w", brought.Main, err)
		}
		if ctx.Err() != nil {
			return "", ErrStopped
		}
		return s.Store.Create(document, "Import "+brought.Title, author, memory)
	}
	begin := rig.New(name)
	add, blobs, err := readModel(brought, begin.FPS)
	if err != nil {
		return "", err
	}
	result, err := edit.Apply(&edit.Context{Kinds: s.Kinds, Blobs: blobs}, begin, add)
	if err != nil {
		return "", fmt.Errorf("%s: %w", brought.Main, err)
	}
	if ctx.Err() != nil {
		return "", ErrStopped
	}
	return s.Store.Create(result.Document, add.Title(result.Document), author, blobs)
}

// readModel reads a model as the edit that adds it, with times in frames of a rate.
func readModel(brought Brought, fps float64) (*edit.AddParts, map[string][]byte, error) {
	whole, err := interchange.ReadFrom(brought.Files, brought.Main)
	if err != nil {
		return nil, nil, err
	}
	blobs := map[string][]byte{}
	return edit.AddModel(brought.Title, whole, fps, blobs), blobs, nil
}

// Conflict is the refusal of an edit made on an older document, when what came since touches the same things.
type Conflict struct {
	Mine   string
	Theirs []string
}

func (c *Conflict) Error() string {
	return fmt.Sprintf("%q was made on an older state, and %q changed the same thing meanwhile; look at it and do yours again if you still want it",
		c.Mine, strings.Join(c.Theirs, ", "))
}

// Edit applies an edit that was made on the revision on. When the specimen has moved on, the edit is replayed on the newest document
// if it touches other things than what came since, and refused with a Conflict if not. progress may be nil.
func (s *Shelf) Edit(id string, on int, e edit.Edit, author string, progress func(float64) bool) (State, error) {
	return s.apply(id, on, e, nil, author, progress)
}

// ImportInto adds the parts of a model file to a specimen.
func (s *Shelf) ImportInto(ctx context.Context, id string, on int, brought Brought, author string) (State, error) {
	if _, err := brought.find(); err != nil {
		return State{}, err
	}
	_, head, err := s.Store.Head(id)
	if err != nil {
		return State{}, err
	}
	d, err := head.Read()
	if err != nil {
		return State{}, err
	}
	add, blobs, err := readModel(brought, d.FPS)
	if err != nil {
		return State{}, err
	}
	return s.apply(id, on, add, blobs, author, func(float64) bool { return ctx.Err() == nil })
}

func (s *Shelf) apply(id string, on int, e edit.Edit, blobs map[string][]byte, author string, progress func(float64) bool) (State, error) {
	defer s.editing.take(id)()
	_, head, err := s.Store.Head(id)
	if err != nil {
		return State{}, err
	}
	before, err := s.presentOf(id, head)
	if err != nil {
		return State{}, err
	}
	if on != head.Number {
		if err := s.checkStale(id, on, head.Number, before.expanded, e); err != nil {
			return State{}, err
		}
	}
	var notes []string
	context := &edit.Context{
		Kinds: s.Kinds, Surfaces: s.Store, Before: before.plan, Progress: progress, Blobs: blobs, Tell: func(note string) { notes = append(notes, note) },
	}
	title, touches := edit.Describe(before.expanded, e)
	result, err := edit.ApplyTo(context, before.expanded, e)
	if err != nil {
		return State{}, &Refusal{Title: title, Reason: err}
	}
	if progress != nil && !progress(1) {
		return State{}, ErrStopped
	}
	found := findings.Of(result.Expanded)
	summary := store.SummaryOf(result.Expanded, found)
	_, err = s.Store.Keep(store.Change{
		Specimen: id, On: head.Number, Edit: e, Document: result.Document, Title: title,
		Touches: touches, Author: author, Blobs: context.Blobs, Summary: &summary,
	})
	if err != nil {
		return State{}, err
	}
	specimen, revision, err := s.Store.Head(id)
	if err != nil {
		return State{}, err
	}
	now := present{revision: revision.Number, document: result.Document, expanded: result.Expanded, plan: result.Plan, found: found}
	s.presents.put(id, now)
	s.changed(id)
	state, err := s.state(specimen, revision, now)
	state.Drift, state.Notes = result.Drift, notes
	return state, err
}

// Refusal is an edit that cannot be done; nothing was changed.
type Refusal struct {
	Title  string
	Reason error
}

func (r *Refusal) Error() string { return r.Reason.Error() }

// Unwrap gives the reason.
func (r *Refusal) Unwrap() error { return r.Reason }

func (s *Shelf) checkStale(id string, on, head int, d *repeat.Expansion, e edit.Edit) error {
	touched, titles, err := s.Store.Between(id, on, head)
	if err != nil {
		return err
	}
	title, mine := edit.Describe(d, e)
	for _, id := range mine {
		if touched[id] {
			return &Conflict{Mine: title, Theirs: titles}
		}
	}
	return nil
}

func (s *Shelf) move(id string, on int, title string, how func(string) error) (State, error) {
	defer s.editing.take(id)()
	if err := s.stands(id, on, title); err != nil {
		return State{}, err
	}
	if err := how(id); err != nil {
		return State{}, err
	}
	s.changed(id)
	return s.State(id)
}

// Duplicate puts a copy of a specimen's present state on the shelf.
func (s *Shelf) Duplicate(id, author string) (string, error) {
	state, err := s.State(id)
	if err != nil {
		return "", err
	}
	copied := state.Document.Clone()
	copied.Name = state.Document.Name + ", copy"
	return s.Store.Create(copied, "Duplicate "+state.Document.Name, author, nil)
}

// Opened is a specimen opened for reading: its document and where its heavy data is.
type Opened struct {
	Document *rig.Document
	Surfaces evaluate.Surfaces
}

// OpenFile opens a rig file.
func OpenFile(name string, data []byte, kinds mechanism.Registry) (Opened, error) {
	document, memory, err := rigfile.Read(data, kinds)
	if err != nil {
		return Opened{}, fmt.Errorf("%s: %w", name, err)
	}
	return Opened{document, memory}, nil
}

// Find opens a specimen of the shelf by its ID or its name.
func (s *Shelf) Find(idOrName string) (Opened, error) {
	state, err := s.State(idOrName)
	if err == nil {
		return Opened{state.Document, s.Store}, nil
	}
	if !errors.Is(err, store.ErrMissing) {
		return Opened{}, err
	}
	list, err := s.Store.Specimens()
	if err != nil {
		return Opened{}, err
	}
	found := ""
	for _, specimen := range list {
		if specimen.Name == idOrName {
			if found != "" {
				return Opened{}, fmt.Errorf("two specimens are called %q; name the one meant by its ID, %s or %s", idOrName, found, specimen.ID)
			}
			found = specimen.ID
		}
	}
	if found == "" {
		return Opened{}, fmt.Errorf("there is no rig file and no specimen %q in the data folder", idOrName)
	}
	state, err = s.State(found)
	return Opened{state.Document, s.Store}, err
}

func isRigFile(name string, data []byte) bool {
	head := string(data[:min(len(data), 400)])
	return strings.EqualFold(filepath.Ext(name), ".json") || strings.Contains(head, `"`+rig.Format+`"`)
}
