package store_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/jmoiron/sqlx"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/demo"
	"myriapod/core/edit"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/rig"
	"myriapod/shelf"
	"myriapod/shelf/shelftest"
	"myriapod/store"
)

func open(t testing.TB, folder string) *shelf.Shelf {
	s, err := store.Open(folder)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	return shelf.New(s, kinds.All(), nil)
}

func rename(name string) edit.Edit { return &edit.ChangeSpecimen{Name: name} }

func TestUndoAndRedoMoveAlongTheHistoryAndDropNothing(t *testing.T) {
	s := open(t, t.TempDir())
	id, err := s.Create("a", "test")
	require.NoError(t, err)
	for i, name := range []string{"b", "c", "d"} {
		_, err := s.Edit(id, i+1, rename(name), "test", nil)
		require.NoError(t, err)
	}
	for _, want := range []string{"c", "b", "a"} {
		state, err := s.Undo(id, shelf.Any)
		require.NoError(t, err)
		assert.Equal(t, want, state.Document.Name)
	}
	_, err = s.Undo(id, shelf.Any)
	require.ErrorContains(t, err, "nothing to undo")
	state, err := s.Redo(id, shelf.Any)
	require.NoError(t, err)
	assert.Equal(t, "b", state.Document.Name)
	assert.Equal(t, "Name the specimen c", state.Redo)
	_, err = s.Edit(id, state.Revision, rename("e"), "test", nil) // another way from here
	require.NoError(t, err)
	history, err := s.Store.History(id)
	require.NoError(t, err)
	assert.Len(t, history, 5, "what was undone is kept")
	old, err := s.Store.Revision(id, 4)
	require.NoError(t, err)
	document, err := old.Read()
	require.NoError(t, err)
	assert.Equal(t, "d", document.Name)
}

func TestAnEditOnAnOlderStateIsReplayedOrRefused(t *testing.T) {
	s := open(t, t.TempDir())
	id, err := s.Create("a", "test")
	require.NoError(t, err)
	begun, err := s.Edit(id, 1, &edit.AddClip{Name: "walk", End: 48}, "test", nil)
	require.NoError(t, err)
	clip := begun.Document.Clips[0].ID
	_, err = s.Edit(id, 2, &edit.ChangeClip{Clip: clip, End: 96}, "one", nil)
	require.NoError(t, err)
	replayed, err := s.Edit(id, 2, rename("b"), "two", nil)
	require.NoError(t, err, "another thing: replayed on the newest")
	assert.Equal(t, 96, replayed.Document.Clips[0].End)
	_, err = s.Edit(id, 2, &edit.ChangeClip{Clip: clip, End: 12}, "two", nil)
	var conflict *shelf.Conflict
	require.ErrorAs(t, err, &conflict)
	assert.Contains(t, conflict.Theirs, "Change clip walk")
	_, err = s.Edit(id, 99, rename("c"), "two", nil)
	require.ErrorContains(t, err, "no revision 99")
	now, err := s.State(id)
	require.NoError(t, err)
	assert.Equal(t, 96, now.Document.Clips[0].End)
	_, err = s.Undo(id, shelf.Any)
	require.NoError(t, err)
	_, err = s.Edit(id, now.Revision, rename("again"), "test", nil)
	require.ErrorAs(t, err, &conflict, "what was undone meanwhile counts as touched")
}

func TestDeletedSpecimensComeBack(t *testing.T) {
	s := open(t, t.TempDir())
	id, err := s.Create("a", "test")
	require.NoError(t, err)
	require.NoError(t, s.Store.Delete(id))
	_, err = s.State(id)
	require.ErrorIs(t, err, store.ErrMissing)
	require.NoError(t, s.Store.Restore(id))
	_, err = s.State(id)
	require.NoError(t, err)
	require.ErrorIs(t, s.Store.Delete("nobody"), store.ErrMissing)
}

func TestOneProcessHasAFolder(t *testing.T) {
	folder := t.TempDir()
	open(t, folder)
	_, err := store.Open(folder)
	require.ErrorIs(t, err, store.ErrInUse)
}

// A full disk, as SQLite meets it: the file may not grow any more.
func TestAFullDiskLosesNothing(t *testing.T) {
	folder := t.TempDir()
	s := open(t, folder)
	id, err := s.Create("a", "test")
	require.NoError(t, err)
	require.NoError(t, s.Store.Limit(40))
	var full error
	kept := 0
	for i := 1; full == nil && i < 4000; i++ {
		if _, full = s.Edit(id, i, rename(fmt.Sprintf("name %d %s", i, strings.Repeat("x", 80))), "test", nil); full == nil {
			kept = i
		}
	}
	require.ErrorIs(t, full, store.ErrFull)
	state, err := s.State(id)
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(state.Document.Name, fmt.Sprintf("name %d ", kept)), "the last edit kept is still the present one")
	require.NoError(t, s.Store.Limit(1<<20))
	_, err = s.Edit(id, state.Revision, rename("room again"), "test", nil)
	require.NoError(t, err)
}

func TestDamageIsToldByRevision(t *testing.T) {
	folder := t.TempDir()
	s := open(t, folder)
	id, err := s.Create("a", "test")
	require.NoError(t, err)
	require.NoError(t, s.Store.Close())
	db, err := sqlx.Open("sqlite", folder+"/specimens.sqlite")
	require.NoError(t, err)
	_, err = db.Exec(`UPDATE revisions SET document = x'00'`)
	require.NoError(t, err)
	require.NoError(t, db.Close())
	_, err = open(t, folder).State(id)
	require.ErrorContains(t, err, "revision 1 of "+id+" is damaged")
}

func TestDocumentsAreTheSameAfterKeeping(t *testing.T) {
	s := open(t, t.TempDir())
	require.NoError(t, s.AddDemos())
	list, err := s.Store.Specimens()
	require.NoError(t, err)
	require.Equal(t, len(demo.Specimens()), len(list))
	state, err := s.State(list[0].ID)
	require.NoError(t, err)
	opened, err := shelf.OpenDemo("quillwick", kinds.All())
	require.NoError(t, err)
	assert.Equal(t, opened.Document, state.Document)
	require.NoError(t, s.AddDemos(), "a shelf that is not empty is left alone")
	again, err := s.Store.Specimens()
	require.NoError(t, err)
	assert.Equal(t, len(list), len(again))
}

// A database of a newer program is refused and not touched.
func TestADatabaseOfANewerProgramIsLeftAlone(t *testing.T) {
	folder := t.TempDir()
	s, err := store.Open(folder)
	require.NoError(t, err)
	require.NoError(t, s.Close())
	file := filepath.Join(folder, "specimens.sqlite")
	db, err := sqlx.Open("sqlite", file)
	require.NoError(t, err)
	_, err = db.Exec(`INSERT INTO goose_db_version (version_id, is_applied) VALUES (9999, 1)`)
	require.NoError(t, err)
	require.NoError(t, db.Close())
	before, err := os.ReadFile(file)
	require.NoError(t, err)
	_, err = store.Open(folder)
	require.ErrorIs(t, err, store.ErrNewer)
	require.ErrorContains(t, err, "version 9999")
	after, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.Equal(t, before, after)
}

// Nobody but the owner reads the data folder.
func TestTheFolderIsPrivate(t *testing.T) {
	folder := filepath.Join(t.TempDir(), "data")
	s, err := store.Open(folder)
	require.NoError(t, err)
	_, err = s.Create(rig.New("x"), "Begin", "test", nil)
	require.NoError(t, err)
	entries, err := os.ReadDir(folder)
	require.NoError(t, err)
	for _, entry := range entries {
		info, err := entry.Info()
		require.NoError(t, err)
		assert.Zero(t, info.Mode().Perm()&0o077, entry.Name())
	}
	info, err := os.Stat(folder)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o700), info.Mode().Perm())
	require.NoError(t, s.Close())
}

// Heavy data that is not what was kept is told of when it is read, with what can be done; the rest can still be had.
func TestDamagedHeavyDataIsTold(t *testing.T) {
	folder := t.TempDir()
	shelftest.Fill(t, folder)
	db, err := sqlx.Open("sqlite", filepath.Join(folder, "specimens.sqlite"))
	require.NoError(t, err)
	var hash string
	require.NoError(t, db.Get(&hash, `SELECT hash FROM blobs ORDER BY length(data) DESC LIMIT 1`))
	_, err = db.Exec(`UPDATE blobs SET data = substr(data, 1, 100) || x'00' || substr(data, 102) WHERE hash = ?`, hash)
	require.NoError(t, err)
	require.NoError(t, db.Close())
	s, err := store.Open(folder)
	require.NoError(t, err)
	defer func() { _ = s.Close() }()
	_, err = s.Blob(hash)
	require.ErrorIs(t, err, store.ErrDamaged)
	require.ErrorContains(t, err, "bring a backup back")
	list, err := s.List()
	require.NoError(t, err)
	for _, line := range list {
		_, revision, err := s.Head(line.ID)
		require.NoError(t, err)
		_, err = revision.Read()
		require.NoError(t, err, line.Name)
	}
}

func TestAFolderFromBeforeSummariesIsListed(t *testing.T) {
	folder := t.TempDir()
	shelftest.Fill(t, folder)
	s, err := store.Open(folder)
	require.NoError(t, err)
	want, err := s.List()
	require.NoError(t, err)
	require.NoError(t, s.Close())
	db, err := sqlx.Open("sqlite", filepath.Join(folder, "specimens.sqlite"))
	require.NoError(t, err)
	_, err = db.Exec(`DROP TABLE summaries; DROP TABLE pictures; DROP TABLE folder; DELETE FROM goose_db_version WHERE version_id = 2`)
	require.NoError(t, err)
	require.NoError(t, db.Close())
	s, err = store.Open(folder)
	require.NoError(t, err)
	defer func() { _ = s.Close() }()
	got, err := s.List()
	require.NoError(t, err)
	assert.Equal(t, want, got)
}
