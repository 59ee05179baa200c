package shelf_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
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
	id, err := s.Import(t.Context(), shelf.One("boats/Punt.obj", []byte(square)), "", "test")
	require.NoError(t, err)
	state, err := s.State(id)
	require.NoError(t, err)
	assert.Equal(t, "Punt", state.Document.Name, "called after the file")
	state, err = s.ImportInto(context.Background(), id, state.Revision, shelf.One("oar.obj", []byte("o oar\n"+square)), "test")
	require.NoError(t, err)
	assert.Equal(t, "oar", state.Document.Parts[1].Name)
	assert.Equal(t, "Import oar.obj (1 parts)", state.Undo)
	reed, err := os.ReadFile(filepath.Join("..", "docs", "examples", "reed.rig.json"))
	require.NoError(t, err)
	id, err = s.Import(t.Context(), shelf.One("reed.rig.json", reed), "", "test")
	require.NoError(t, err)
	state, err = s.State(id)
	require.NoError(t, err)
	assert.Len(t, state.Document.Mechanisms, 2)
	stopped, stop := context.WithCancel(t.Context())
	stop()
	_, err = s.Import(stopped, shelf.One("x.obj", []byte(square)), "", "test")
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

// skeletonEdit draws an edit of a skeleton with repeats in it, on what a client has seen.
func skeletonEdit(random *rand.Rand, seen *rig.Document, fresh string) edit.Edit {
	lay := &edit.LayChain{Positions: []mgl64.Vec3{{1 + random.Float64(), random.Float64(), random.Float64()}, {3, 1, random.Float64()}}, Pattern: fresh + "_#"}
	if len(seen.Joints) == 0 {
		return lay
	}
	joint := seen.Joints[random.IntN(len(seen.Joints))]
	switch random.IntN(9) {
	case 0:
		return &edit.MoveJoint{Joint: joint.ID, Position: mgl64.Vec3{random.Float64() + 0.5, random.Float64(), 1}, Below: random.IntN(2) == 0}
	case 1:
		return &edit.OrientJoints{Joints: []string{joint.ID}, Aim: true, Second: edit.Carried, Roll: random.Float64()}
	case 2:
		return &edit.Rename{ID: joint.ID, Name: fresh + "_renamed"}
	case 3:
		return &edit.Reparent{Joints: []string{joint.ID}, Parent: seen.Joints[random.IntN(len(seen.Joints))].ID}
	case 4:
		if len(seen.Joints) < 60 {
			return &edit.AddRepeat{Name: fresh + "_repeat", Rule: rig.Mirror, Sources: []string{joint.ID}, Pattern: "*_" + fresh, Through: true, Direction: mgl64.Vec3{1, 0, 0}}
		}
		return &edit.Label{IDs: []string{joint.ID}, Pattern: fresh}
	case 5:
		return &edit.OnCopy{Edit: edit.Written{Edit: &edit.MoveJoint{Joint: joint.ID, Position: mgl64.Vec3{2, random.Float64(), 0}}}}
	}
	lay.Parent = joint.ID
	return lay
}

// Two clients edit at once, each on the newest state it has seen. What is acknowledged is in the one document that both end
// with; what is refused is refused with a reason.
func TestTwoClientsLoseNothing(t *testing.T) {
	s := open(t, nil)
	id, err := s.Create("shared", "test")
	require.NoError(t, err)
	const edits = 500
	kept := [2]map[string]bool{{}, {}}
	var group sync.WaitGroup
	for client := range 2 {
		group.Go(func() {
			random := rand.New(rand.NewPCG(7, uint64(client)))
			now, err := s.State(id)
			for i := range edits {
				if !assert.NoError(t, err) {
					return
				}
				name := fmt.Sprintf("c%d_%d", client, i)
				var e edit.Edit = &edit.AddClip{Name: name, End: 10}
				if i%3 > 0 {
					e = skeletonEdit(random, now.Expanded.Document, name)
				}
				var (
					conflict *shelf.Conflict
					refusal  *shelf.Refusal
				)
				now, err = s.Edit(id, now.Revision, e, fmt.Sprint(client), nil)
				switch {
				case errors.As(err, &conflict), errors.As(err, &refusal):
					now, err = s.State(id)
				case err == nil:
					if lay, laid := e.(*edit.LayChain); laid {
						kept[client][edit.Names(lay.Pattern, 2)[0]] = true
					} else if i%3 == 0 {
						kept[client][name] = true
					}
				}
			}
		})
	}
	group.Wait()
	state, err := s.State(id)
	require.NoError(t, err)
	history, err := s.Store.History(id)
	require.NoError(t, err)
	present := map[string]bool{}
	state.Document.EachNamed(func(_, name string) bool { present[name] = true; return true })
	for i := len(history) - 1; i >= 0; i-- { // a name may have been changed by a later edit, which the history tells
		if from, _, ok := strings.Cut(strings.TrimPrefix(history[i].Title, "Rename "), " to "); ok {
			present[from] = true
		}
	}
	count := 0
	for client := range kept {
		for name := range kept[client] {
			count++
			assert.True(t, present[name], "%s was acknowledged and is gone", name)
		}
	}
	assert.Len(t, history, state.Edits+1, "what is acknowledged is one line of edits")
	t.Logf("%d edits of two clients were kept, %d joints and clips of them looked for and found; %d joints with copies", state.Edits, count, len(state.Expanded.Document.Joints))
}

// A random walk of edits, undone to the beginning and done again, passes the same documents both ways, byte for byte.
func TestEverySequenceCanBeUndoneAndDoneAgain(t *testing.T) {
	s := open(t, nil)
	id, err := s.Create("walk", "test")
	require.NoError(t, err)
	random := rand.New(rand.NewPCG(1, 2))
	states := [][]byte{}
	written := func(state shelf.State) []byte {
		data, err := json.Marshal(state.Document)
		require.NoError(t, err)
		return data
	}
	now, err := s.State(id)
	require.NoError(t, err)
	for i := 0; len(states) < 120; i++ {
		before := written(now)
		name := fmt.Sprint("n", i)
		var e edit.Edit = &edit.AddClip{Name: name, End: 5}
		if i%4 > 0 {
			e = skeletonEdit(random, now.Expanded.Document, name)
		}
		next, err := s.Edit(id, now.Revision, e, "test", nil)
		var refusal *shelf.Refusal
		if errors.As(err, &refusal) {
			continue
		}
		require.NoError(t, err)
		states, now = append(states, before), next
	}
	last := written(now)
	for i := len(states) - 1; i >= 0; i-- {
		now, err = s.Undo(id, shelf.Any)
		require.NoError(t, err)
		require.Equal(t, string(states[i]), string(written(now)))
		require.Equal(t, i, now.Edits)
	}
	for range states {
		now, err = s.Redo(id, shelf.Any)
		require.NoError(t, err)
	}
	assert.Equal(t, string(last), string(written(now)))
	assert.Empty(t, now.Redo)
}

// Any state can be gone to, and what was undone or left stays reachable.
func TestAnyStateOfTheHistoryCanBeGoneTo(t *testing.T) {
	s := open(t, nil)
	id, err := s.Create("a", "test")
	require.NoError(t, err)
	name := func(on int, name string) int {
		state, err := s.Edit(id, on, &edit.ChangeSpecimen{Name: name}, "test", nil)
		require.NoError(t, err)
		return state.Revision
	}
	b := name(1, "b")
	c := name(b, "c")
	_, err = s.GoTo(id, shelf.Any, b)
	require.NoError(t, err)
	d := name(b, "d") // another way
	state, err := s.GoTo(id, shelf.Any, c)
	require.NoError(t, err)
	assert.Equal(t, "c", state.Document.Name)
	state, err = s.GoTo(id, shelf.Any, 1)
	require.NoError(t, err)
	assert.Equal(t, "a", state.Document.Name)
	for range 2 {
		state, err = s.Redo(id, shelf.Any)
		require.NoError(t, err)
	}
	assert.Equal(t, "c", state.Document.Name, "redo leads to where one was last")
	state, err = s.GoTo(id, shelf.Any, d)
	require.NoError(t, err)
	assert.Equal(t, "d", state.Document.Name)
	_, err = s.GoTo(id, shelf.Any, 99)
	require.ErrorContains(t, err, "no revision 99")
}
