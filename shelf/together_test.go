package shelf_test

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"path/filepath"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/jmoiron/sqlx"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/rig"
	"myriapod/shelf"
	"myriapod/shelf/shelftest"
	"myriapod/store"
)

func named(name string) edit.Edit { return &edit.ChangeSpecimen{Name: name} }

// Edits beside deleting, restoring, undoing and redoing: what is answered as done is kept, and what is answered as not there is not.
func TestEditsBesideDeleting(t *testing.T) {
	s := open(t, nil)
	id, err := s.Create("0", "test")
	require.NoError(t, err)
	var all sync.WaitGroup
	var kept, gone atomic.Int64
	var ended atomic.Bool
	all.Go(func() {
		for !ended.Load() {
			assert.NoError(t, s.Delete(id, shelf.Any))
			time.Sleep(time.Millisecond)
			assert.NoError(t, s.Restore(id))
			time.Sleep(time.Millisecond)
		}
	})
	acknowledged := make([]map[string]bool, 3)
	var editors sync.WaitGroup
	for k := range acknowledged {
		acknowledged[k] = map[string]bool{}
		editors.Go(func() {
			for i := range 150 {
				name := fmt.Sprintf("%d_%d", k, i)
				specimen, err := s.Store.Specimen(id)
				if err != nil {
					continue
				}
				_, err = s.Edit(id, specimen.Head, named(name), "test", nil)
				var conflict *shelf.Conflict
				switch {
				case err == nil:
					kept.Add(1)
					acknowledged[k]["Name the specimen "+name] = true
				case errors.Is(err, store.ErrMissing):
					gone.Add(1)
				case errors.As(err, &conflict):
				default:
					assert.NoError(t, err)
				}
			}
		})
	}
	editors.Wait()
	ended.Store(true)
	all.Wait()
	history, err := s.Store.History(id)
	require.NoError(t, err)
	titles := map[string]bool{}
	for _, r := range history {
		titles[r.Title] = true
	}
	there := 0
	for _, list := range acknowledged {
		for title := range list {
			assert.True(t, titles[title], title)
			there++
		}
	}
	assert.Len(t, history, there+1, "what was answered as not there was not kept")
	t.Logf("%d kept, %d answered as not there", kept.Load(), gone.Load())
}

// An edit that takes long holds up no other specimen.
func TestAnEditWaitsForNoOtherSpecimen(t *testing.T) {
	s := open(t, nil)
	slow, err := s.Create("slow", "test")
	require.NoError(t, err)
	quick, err := s.Create("quick", "test")
	require.NoError(t, err)
	held, let := make(chan struct{}), make(chan struct{})
	done := make(chan error, 1)
	go func() {
		_, err := s.Edit(slow, 1, named("slower"), "test", func(float64) bool { close(held); <-let; return true })
		done <- err
	}()
	<-held
	_, err = s.Edit(quick, 1, named("quicker"), "test", nil)
	require.NoError(t, err, "while the other is still at work")
	close(let)
	require.NoError(t, <-done)
}

// Filling the shelf with demo specimens can be cut short at any moment: what is there is whole, and the next start adds the rest.
func TestFillingCutShortGoesOn(t *testing.T) {
	folder := t.TempDir()
	shelftest.Fill(t, folder)
	s, err := store.Open(folder)
	require.NoError(t, err)
	whole, err := s.List()
	require.NoError(t, err)
	require.NoError(t, s.Delete(whole[2].ID), "what a person takes off")
	require.NoError(t, shelf.New(s, kinds.All(), nil).AddDemos())
	list, err := s.List()
	require.NoError(t, err)
	assert.Len(t, list, len(whole)-1, "stays off")
	require.NoError(t, s.Close())

	folder = t.TempDir()
	s, err = store.Open(folder)
	require.NoError(t, err)
	require.NoError(t, s.Limit(600)) // pages: it fills up somewhere on the way
	require.Error(t, shelf.New(s, kinds.All(), nil).AddDemos())
	some, err := s.List()
	require.NoError(t, err)
	assert.Less(t, len(some), len(whole))
	require.NoError(t, s.Close())
	s, err = store.Open(folder)
	require.NoError(t, err)
	require.NoError(t, shelf.New(s, kinds.All(), nil).AddDemos())
	list, err = s.List()
	require.NoError(t, err)
	require.Len(t, list, len(whole))
	for i := range list {
		assert.Equal(t, whole[i].Name, list[i].Name)
		assert.Equal(t, whole[i].Head, list[i].Head, "with its whole history")
		assert.Equal(t, whole[i].Summary, list[i].Summary)
	}
	require.NoError(t, s.Close())
}

// A listing says what opening each specimen says, whatever was done to it, and reads no document for it.
func TestTheListingIsRightAndReadsNoDocument(t *testing.T) {
	folder := t.TempDir()
	shelftest.Fill(t, folder)
	s, err := store.Open(folder)
	require.NoError(t, err)
	defer func() { _ = s.Close() }()
	sh := shelf.New(s, kinds.All(), nil)
	list, err := s.List()
	require.NoError(t, err)
	random := rand.New(rand.NewPCG(3, 1))
	for _, l := range list {
		for range 3 { // somewhere in its history
			_, err := sh.GoTo(l.ID, shelf.Any, 1+random.IntN(l.Head))
			require.NoError(t, err)
			listed, err := s.List()
			require.NoError(t, err)
			state, err := sh.State(l.ID)
			require.NoError(t, err)
			for _, line := range listed {
				if line.ID == l.ID {
					assert.Equal(t, store.SummaryOf(state.Expanded, state.Findings), line.Summary)
				}
			}
		}
	}
	db, err := sqlx.Open("sqlite", filepath.Join(folder, "specimens.sqlite"))
	require.NoError(t, err)
	_, err = db.Exec(`UPDATE revisions SET document = x'00'`) // no document can be read any more
	require.NoError(t, err)
	require.NoError(t, db.Close())
	again, err := s.List()
	require.NoError(t, err)
	for _, line := range again {
		assert.Empty(t, line.Damage)
	}
	_, err = shelf.New(s, kinds.All(), nil).State(list[0].ID)
	assert.ErrorIs(t, err, store.ErrDamaged)
	assert.ErrorContains(t, err, "go to one of them")
}

// BenchmarkList lists a thousand specimens of 600 joints. Wanted: under 50 ms, whatever they hold.
func BenchmarkList(b *testing.B) {
	s, err := store.Open(b.TempDir())
	require.NoError(b, err)
	defer func() { _ = s.Close() }()
	places := make([]mgl64.Vec3, 600)
	for i := range places {
		places[i] = mgl64.Vec3{0, float64(i), 0}
	}
	result, err := edit.Apply(&edit.Context{Kinds: kinds.All(), Surfaces: edit.Memory{}}, rig.New("x"), &edit.LayChain{Positions: places, Pattern: "j_###"})
	require.NoError(b, err)
	for i := range 1000 {
		d := result.Document.Clone()
		d.Name = fmt.Sprint("specimen ", i)
		_, err := s.Create(d, "Begin", "test", nil)
		require.NoError(b, err)
	}
	_, err = s.List() // writes down what they hold
	require.NoError(b, err)
	for b.Loop() {
		_, err := s.List()
		require.NoError(b, err)
	}
}
