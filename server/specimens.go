package server

import (
	"bytes"
	"errors"
	"fmt"
	"net/http"
	"strconv"

	"github.com/go-chi/chi/v5"

	"myriapod/core/edit"
	"myriapod/core/interchange/rigfile"
	"myriapod/core/skin"
	"myriapod/core/survey"
	"myriapod/server/wire"
	"myriapod/shelf"
	"myriapod/store"
)

// author is who edits: there are no accounts yet, and every page is the rigger's.
const author = "rigger"

func (s *Server) listKinds(w http.ResponseWriter, _ *http.Request) {
	answer(w, http.StatusOK, wire.Kinds{Kinds: s.kinds.Declarations(), Drivers: s.kinds.DriverDeclarations(), Measures: s.kinds.MeasureDeclarations(), Binding: edit.BindParameters()})
}

func (s *Server) listSpecimens(w http.ResponseWriter, _ *http.Request) {
	list, err := s.shelf.Store.List()
	if err != nil {
		fail(w, err)
		return
	}
	plates := make([]wire.Plate, len(list))
	for i, l := range list {
		plates[i] = wire.Plate{
			ID: l.ID, Name: l.Name, Revision: l.Head, Changed: l.Changed, Parts: l.Parts, Vertices: l.Vertices, Joints: l.Joints,
			Controls: l.Controls, Mechanisms: l.Mechanisms, Findings: l.Findings, Damage: l.Damage,
		}
	}
	answer(w, http.StatusOK, plates)
}

// revisionOf reads on which revision a request was made; shelf.Any when it does not say. It answers a number that is none itself.
func revisionOf(w http.ResponseWriter, r *http.Request) (on int, ok bool) {
	text := r.URL.Query().Get("on")
	if text == "" {
		return shelf.Any, true
	}
	on, err := strconv.Atoi(text)
	if err != nil || on < 1 {
		refused(w, fmt.Errorf("on=%.20q is no revision; load the page again", text))
		return 0, false
	}
	return on, true
}

func (s *Server) createSpecimen(w http.ResponseWriter, r *http.Request) {
	var request struct {
		Name string `json:"name"`
	}
	if !readJSON(w, r, &request) {
		return
	}
	id, err := s.shelf.Create(request.Name, author)
	if err != nil {
		refusedUnlessStore(w, err)
		return
	}
	answer(w, http.StatusCreated, wire.Created{ID: id})
}

// refusedUnlessStore answers an error about what was asked for; errors of the store keep their own answer.
func refusedUnlessStore(w http.ResponseWriter, err error) {
	for _, known := range []error{store.ErrFull, store.ErrMissing, store.ErrBusy, store.ErrDisk, store.ErrDamaged, shelf.ErrStopped} {
		if errors.Is(err, known) {
			fail(w, err)
			return
		}
	}
	var conflict *shelf.Conflict
	if errors.As(err, &conflict) {
		fail(w, err)
		return
	}
	refused(w, err)
}

func (s *Server) importSpecimen(w http.ResponseWriter, r *http.Request) {
	brought, giveBack, err := s.upload(w, r)
	if err != nil {
		fail(w, err)
		return
	}
	defer giveBack()
	id, err := s.shelf.Import(r.Context(), brought, r.URL.Query().Get("name"), author)
	if err != nil {
		refusedUnlessStore(w, err)
		return
	}
	answer(w, http.StatusCreated, wire.Created{ID: id})
}

func (s *Server) importInto(w http.ResponseWriter, r *http.Request) {
	on, ok := revisionOf(w, r)
	if !ok {
		return
	}
	if on == shelf.Any {
		refused(w, errors.New("the request does not say on which revision it was made"))
		return
	}
	brought, giveBack, err := s.upload(w, r)
	if err != nil {
		fail(w, err)
		return
	}
	defer giveBack()
	state, err := s.shelf.ImportInto(r.Context(), chi.URLParam(r, "id"), on, brought, author)
	if err != nil {
		refusedUnlessStore(w, err)
		return
	}
	answer(w, http.StatusOK, specimenOf(state))
}

func specimenOf(s shelf.State) wire.Specimen {
	return wire.Specimen{
		ID: s.ID, Revision: s.Revision, Sequence: s.Sequence, Edits: s.Edits, Changed: s.Changed, Undo: s.Undo, Redo: s.Redo,
		Document: s.Expanded.Document, Origins: s.Expanded.Origins, Survey: survey.Of(s.Expanded.Document), Findings: s.Findings, Drift: s.Drift, Notes: s.Notes,
	}
}

// answerState answers with a specimen as it stands, or with the error.
func answerState(w http.ResponseWriter, state shelf.State, err error) {
	if err != nil {
		fail(w, err)
		return
	}
	answer(w, http.StatusOK, specimenOf(state))
}

func (s *Server) getSpecimen(w http.ResponseWriter, r *http.Request) {
	state, err := s.shelf.State(chi.URLParam(r, "id"))
	answerState(w, state, err)
}

func (s *Server) undo(w http.ResponseWriter, r *http.Request) {
	if on, ok := revisionOf(w, r); ok {
		state, err := s.shelf.Undo(chi.URLParam(r, "id"), on)
		answerState(w, state, err)
	}
}

func (s *Server) redo(w http.ResponseWriter, r *http.Request) {
	if on, ok := revisionOf(w, r); ok {
		state, err := s.shelf.Redo(chi.URLParam(r, "id"), on)
		answerState(w, state, err)
	}
}

func (s *Server) goTo(w http.ResponseWriter, r *http.Request) {
	var request wire.GoTo
	if !readJSON(w, r, &request) {
		return
	}
	if on, ok := revisionOf(w, r); ok {
		state, err := s.shelf.GoTo(chi.URLParam(r, "id"), on, request.Revision)
		answerState(w, state, err)
	}
}

func (s *Server) foresee(w http.ResponseWriter, r *http.Request) {
	var request wire.ForeseeRequest
	if !readJSON(w, r, &request) {
		return
	}
	e, err := edit.Decode(request.Edit)
	if err != nil {
		refused(w, err)
		return
	}
	preview, err := s.shelf.Foresee(chi.URLParam(r, "id"), e)
	if err != nil {
		fail(w, err)
		return
	}
	answer(w, http.StatusOK, preview)
}

func (s *Server) course(w http.ResponseWriter, r *http.Request) {
	var request wire.CourseRequest
	if !readJSON(w, r, &request) {
		return
	}
	var e edit.Edit
	if len(request.Edit) > 0 {
		var err error
		if e, err = edit.Decode(request.Edit); err != nil {
			refused(w, err)
			return
		}
	}
	course, err := s.shelf.Course(r.Context(), chi.URLParam(r, "id"), e, request.Of, request.Clip)
	if err != nil {
		fail(w, err)
		return
	}
	answer(w, http.StatusOK, course)
}

func (s *Server) offers(w http.ResponseWriter, r *http.Request) {
	var request wire.OffersRequest
	if !readJSON(w, r, &request) {
		return
	}
	offers, err := s.shelf.Offers(chi.URLParam(r, "id"), request.Chosen)
	if err != nil {
		fail(w, err)
		return
	}
	answer(w, http.StatusOK, offers)
}

func (s *Server) deleteSpecimen(w http.ResponseWriter, r *http.Request) {
	if on, ok := revisionOf(w, r); ok {
		s.answerDone(w, s.shelf.Delete(chi.URLParam(r, "id"), on))
	}
}

func (s *Server) restoreSpecimen(w http.ResponseWriter, r *http.Request) {
	s.answerDone(w, s.shelf.Restore(chi.URLParam(r, "id")))
}

func (s *Server) answerDone(w http.ResponseWriter, err error) {
	if err != nil {
		fail(w, err)
		return
	}
	answer(w, http.StatusOK, struct{}{})
}

func (s *Server) duplicateSpecimen(w http.ResponseWriter, r *http.Request) {
	id, err := s.shelf.Duplicate(chi.URLParam(r, "id"), author)
	if err != nil {
		fail(w, err)
		return
	}
	answer(w, http.StatusCreated, wire.Created{ID: id})
}

func (s *Server) editSpecimen(w http.ResponseWriter, r *http.Request) {
	var request wire.EditRequest
	if !readJSON(w, r, &request) {
		return
	}
	e, err := edit.Decode(request.Edit)
	if err != nil {
		refused(w, err)
		return
	}
	id := chi.URLParam(r, "id")
	progress := func(share float64) bool {
		if request.Job != "" {
			s.hub.tell(id, wire.Tell{Type: "progress", Job: request.Job, Share: share})
		}
		return r.Context().Err() == nil // the page gave up waiting: stop the work
	}
	state, err := s.shelf.Edit(id, request.On, e, author, progress)
	answerState(w, state, err)
}

func (s *Server) history(w http.ResponseWriter, r *http.Request) {
	id := chi.URLParam(r, "id")
	specimen, err := s.shelf.Store.Specimen(id)
	if err != nil {
		fail(w, err)
		return
	}
	list, err := s.shelf.Store.History(id)
	if err != nil {
		fail(w, err)
		return
	}
	entries := make([]wire.Entry, len(list))
	for i, r := range list {
		entries[i] = wire.Entry{Number: r.Number, Parent: r.Parent, Title: r.Title, Author: r.Author, Made: r.Made, Present: r.Number == specimen.Head}
	}
	answer(w, http.StatusOK, entries)
}

// blob serves heavy data, which never changes under its hash.
func (s *Server) blob(w http.ResponseWriter, r *http.Request) {
	data, err := s.shelf.Store.Blob(chi.URLParam(r, "hash"))
	if err == nil {
		data, err = skin.Whole(data, s.shelf.Store.Blob)
	}
	if errors.Is(err, store.ErrDamaged) || errors.Is(err, store.ErrDisk) {
		fail(w, err)
		return
	}
	if err != nil {
		notFound(w, "there is no such surface or table of weights; load the page again")
		return
	}
	w.Header().Set("Content-Type", "application/octet-stream")
	w.Header().Set("Cache-Control", "private, max-age=31536000, immutable")
	_, _ = w.Write(data) // a reader that is gone needs no answer
}

func (s *Server) rigFile(w http.ResponseWriter, r *http.Request) {
	state, err := s.shelf.State(chi.URLParam(r, "id"))
	if err != nil {
		fail(w, err)
		return
	}
	data, err := rigfile.Write(state.Document, s.shelf.Store)
	if err != nil {
		fail(w, err)
		return
	}
	attach(w, "application/json", fileName(state.Document.Name, "rig.json"))
	_, _ = w.Write(data) // a reader that is gone needs no answer
}

func attach(w http.ResponseWriter, contentType, name string) {
	w.Header().Set("Content-Type", contentType)
	w.Header().Set("Content-Disposition", fmt.Sprintf("attachment; filename=%q", name))
}

// fileName makes a plain file name of a specimen's name.
func fileName(name, ending string) string {
	plain := []byte{}
	for _, r := range name {
		switch {
		case r >= 'a' && r <= 'z', r >= 'A' && r <= 'Z', r >= '0' && r <= '9', r == '-', r == '_':
			plain = append(plain, byte(r))
		case len(plain) > 0 && plain[len(plain)-1] != '-':
			plain = append(plain, '-')
		}
	}
	return string(bytes.Trim(append(plain, '-'), "-")) + "." + ending
}

// picture shows the specimen on the Shelf. It is drawn once for each revision that is looked at, and kept.
func (s *Server) picture(w http.ResponseWriter, r *http.Request) {
	data, err := s.shelf.Picture(chi.URLParam(r, "id"))
	if err != nil {
		fail(w, err)
		return
	}
	w.Header().Set("Cache-Control", "private, max-age=31536000, immutable")
	_, _ = w.Write(data) // a reader that is gone needs no answer
}
