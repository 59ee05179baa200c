package shelf_test

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/rig"
	"myriapod/shelf"
	"myriapod/store"
)

func open(t *testing.T, changed func(string)) *shelf.Shelf {
	s, err := store.Open(t.TempDir())
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	return shelf.New(s, kinds.All(), changed)
}

const square = "v 0 0 0\nv 1 0 0\nv 1 1 0\nf 1 2 3\n"

func TestImportsBecomeSpecimensOrParts(t *testing.T) {
	s := open(t, nil)
	id, err := s.Import(t.Context(), "boats/Punt.obj", "", []byte(square), "test")
	require.NoError(t, err)
	state, err := s.State(id)
	require.NoError(t, err)
	assert.Equal(t, "Punt", state.Document.Name, "called after the file")
	state, err = s.ImportInto(id, state.Revision, "oar.obj", []byte("o oar\n"+square), "test")
	require.NoError(t, err)
	assert.Equal(t, "oar", state.Document.Parts[1].Name)
	assert.Equal(t, "Import oar.obj (1 parts)", state.Undo)
	reed, err := os.ReadFile(filepath.Join("..", "docs", "examples", "reed.rig.json"))
	require.NoError(t, err)
	id, err = s.Import(t.Context(), "reed.rig.json", "", reed, "test")
	require.NoError(t, err)
	state, err = s.State(id)
	require.NoError(t, err)
	assert.Len(t, state.Document.Mechanisms, 2)
	stopped, stop := context.WithCancel(t.Context())
	stop()
	_, err = s.Import(stopped, "x.obj", "", []byte(square), "test")
	require.ErrorIs(t, err, shelf.ErrStopped)
	list, err := s.Store.Specimens()
	require.NoError(t, err)
	assert.Len(t, list, 2)
}

func TestSpecimensAreFoundByIDOrByAnUnmistakableName(t *testing.T) {
	s := open(t, nil)
	id, err := s.Create("Heron", "test")
	require.NoError(t, err)
	for _, word := range []string{id, "Heron"} {
		opened, err := s.Find(word)
		require.NoError(t, err)
		assert.Equal(t, "Heron", opened.Document.Name)
	}
	_, err = s.Create("Heron", "test")
	require.NoError(t, err)
	_, err = s.Find("Heron")
	require.ErrorContains(t, err, "two specimens are called")
	_, err = s.Find("Stork")
	require.ErrorContains(t, err, `no specimen "Stork"`)
	_, err = shelf.OpenDemo("stork", kinds.All())
	require.ErrorContains(t, err, "known are quillwick")
}

func TestARefusedEditChangesNothingAndTellsNobody(t *testing.T) {
	told := 0
	s := open(t, func(string) { told++ })
	id, err := s.Create("Heron", "test")
	require.NoError(t, err)
	before, err := s.State(id)
	require.NoError(t, err)
	_, err = s.Edit(id, before.Revision, &edit.DeleteJoints{Joints: []string{"gone"}}, "test", nil)
	var refusal *shelf.Refusal
	require.ErrorAs(t, err, &refusal)
	after, err := s.State(id)
	require.NoError(t, err)
	assert.Equal(t, before, after)
	assert.Zero(t, told)
}

// Two clients edit at once, each on the newest state it has seen. What is acknowledged is in the one document that both end
// with; what is refused is refused as a conflict.
func TestTwoClientsLoseNothing(t *testing.T) {
	s := open(t, nil)
	id, err := s.Create("shared", "test")
	require.NoError(t, err)
	const edits = 120
	kept := [2]map[string]bool{{}, {}}
	var group sync.WaitGroup
	for client := range 2 {
		group.Go(func() {
			seen := 1
			for i := range edits {
				name := fmt.Sprintf("clip_%d_%d", client, i)
				var e edit.Edit = &edit.AddClip{Name: name, End: 10}
				if rand.IntN(4) == 0 {
					e = &edit.ChangeSpecimen{FPS: float64(10 + rand.IntN(90))}
				}
				state, err := s.Edit(id, seen, e, fmt.Sprint(client), nil)
				var conflict *shelf.Conflict
				if errors.As(err, &conflict) {
					state, err = s.State(id)
				} else if _, added := e.(*edit.AddClip); added && err == nil {
					kept[client][name] = true
				}
				if !assert.NoError(t, err) {
					return
				}
				seen = state.Revision
			}
		})
	}
	group.Wait()
	state, err := s.State(id)
	require.NoError(t, err)
	present := map[string]bool{}
	for _, clip := range state.Document.Clips {
		present[clip.Name] = true
	}
	for client := range kept {
		for name := range kept[client] {
			assert.True(t, present[name], "%s was acknowledged and is gone", name)
		}
	}
	assert.Len(t, present, len(kept[0])+len(kept[1]))
}

// A random walk of edits, undone to the beginning and done again, passes the same documents both ways.
func TestEverySequenceCanBeUndoneAndDoneAgain(t *testing.T) {
	s := open(t, nil)
	id, err := s.Create("walk", "test")
	require.NoError(t, err)
	random := rand.New(rand.NewPCG(1, 2))
	states := []*rig.Document{}
	now, err := s.State(id)
	require.NoError(t, err)
	for i := range 60 {
		states = append(states, now.Document)
		var e edit.Edit = &edit.AddClip{Name: fmt.Sprint("clip_", i), End: 5}
		if n := len(now.Document.Clips); n > 0 {
			clip := now.Document.Clips[random.IntN(n)].ID
			switch random.IntN(4) {
			case 0:
				e = &edit.DeleteClip{Clip: clip}
			case 1:
				e = &edit.ChangeClip{Clip: clip, End: random.IntN(90), Loop: true}
			case 2:
				e = &edit.Rename{ID: clip, Name: fmt.Sprint("renamed_", i)}
			}
		}
		now, err = s.Edit(id, now.Revision, e, "test", nil)
		require.NoError(t, err)
	}
	last := now.Document
	for i := len(states) - 1; i >= 0; i-- {
		now, err = s.Undo(id)
		require.NoError(t, err)
		require.Equal(t, states[i], now.Document)
		require.Equal(t, i, now.Edits)
	}
	for range states {
		now, err = s.Redo(id)
		require.NoError(t, err)
	}
	assert.Equal(t, last, now.Document)
	assert.Empty(t, now.Redo)
}
