package shelf_test

import (
	"bytes"
	"compress/gzip"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/jmoiron/sqlx"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/interchange/rigfile"
	"myriapod/core/mechanism"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/motion"
	"myriapod/core/parameter"
	"myriapod/core/rig"
	"myriapod/shelf"
	"myriapod/store"
)

// pick draws one of a list.
func pick[T any](random *rand.Rand, list []T) (one T) {
	if len(list) > 0 {
		one = list[random.IntN(len(list))]
	}
	return one
}

// valueEdit draws an edit of what drives and measures numbers, or one that takes away, names or repeats what those hang on.
func valueEdit(t *testing.T, random *rand.Rand, seen *rig.Document, fresh string) edit.Edit {
	layout, err := mechanism.NewLayout(seen, kinds.All())
	require.NoError(t, err)
	address := func() rig.Address { return pick(random, layout.Values).Address }
	amount := parameter.OfNumber(2*random.Float64() - 1)
	driver, control, measure := pick(random, seen.Drivers), pick(random, seen.Controls), pick(random, seen.Measures)
	switch random.IntN(16) {
	case 0, 1, 2:
		return &edit.AddDriver{Driver: rig.LinkKind, Drives: address(), By: []rig.Address{address()}, Parameters: parameter.Set{"times": amount}}
	case 3:
		return &edit.AddDriver{Driver: "lag", Drives: address(), Parameters: parameter.Set{"seconds": parameter.OfNumber(random.Float64())}}
	case 4:
		on := random.IntN(2) == 0
		return &edit.ChangeDriver{ID: driver.ID, On: &on, Parameters: parameter.Set{"influence": parameter.OfNumber(random.Float64())}}
	case 5:
		return &edit.MoveDriver{ID: driver.ID, Place: random.IntN(2)}
	case 6:
		return &edit.RemoveDriver{ID: driver.ID}
	case 7:
		return &edit.AddMeasure{Measure: "distance", Name: fresh + "_m", Of: []string{pick(random, seen.Joints).ID, control.ID}}
	case 8:
		return &edit.RemoveMeasure{ID: measure.ID}
	case 9:
		return &edit.AddDial{Controls: []string{control.ID}, Dial: rig.Dial{Name: rig.Channel("d" + fresh), Max: 1}}
	case 10:
		if len(control.Dials) > 0 {
			return &edit.RemoveDial{Control: control.ID, Name: control.Dials[0].Name}
		}
		return &edit.AddControl{Name: fresh + "_free", Shape: rig.Hoop, Reach: 1, Position: mgl64.Vec3{random.Float64(), 0, 1}}
	case 11:
		return &edit.DeleteControls{Controls: []string{control.ID}}
	case 12:
		if len(seen.Repeats) > 0 {
			return &edit.RemoveRepeat{Repeat: seen.Repeats[0].ID}
		}
		return &edit.AddRepeat{Name: fresh + "_repeat", Rule: rig.Mirror, Sources: []string{pick(random, seen.Joints).ID}, Pattern: "*_" + fresh, Through: true, Point: mgl64.Vec3{1, 0, 0}, Direction: mgl64.Vec3{1, 0, 0}}
	case 13:
		return &edit.RemoveMechanism{Mechanism: pick(random, seen.Mechanisms).ID}
	}
	return &edit.Rename{ID: pick(random, []string{control.ID, pick(random, seen.Joints).ID, pick(random, seen.Mechanisms).ID, measure.ID}), Name: fresh + "_renamed"}
}

// stands returns where all joints stand in a few poses that the seed draws, with and without the clip.
func stands(t *testing.T, d *rig.Document, surfaces evaluate.Surfaces, seed uint64) (all []geometry.Transform) {
	e, _, err := evaluate.Open(d, kinds.All(), surfaces)
	require.NoError(t, err)
	random := rand.New(rand.NewPCG(seed, 3))
	for look := range 3 {
		if look == 2 && len(e.Plan.Document.Clips) > 0 {
			e.SetClip(motion.Prepare(e.Plan.Document.Clips[0]))
		}
		var held []evaluate.Held
		for slot, v := range e.Plan.Layout.Values {
			if e.Plan.Document.Control(v.Address.Of) != nil {
				held = append(held, evaluate.Held{Slot: slot, Value: 0.4*random.Float64() - 0.2})
			}
		}
		e.Hold(held)
		e.PoseAt(random.Float64(), held)
		e.Evaluate()
		all = append(all, e.Frame.Joints...)
	}
	return all
}

// A random walk of edits of drivers, measures, dials, and of what they hang on, undone to the beginning, passes the same documents byte for byte. A new name
// for anything leaves every driver as it was, and the specimen stands as it stood to the bit; so it does when it is written by names and read again.
func TestEditsOfDriversAreUndoneAndNamesAreFree(t *testing.T) {
	s := open(t, nil)
	reed, err := os.ReadFile(filepath.Join("..", "docs", "examples", "reed.rig.json"))
	require.NoError(t, err)
	id, err := s.Import(t.Context(), shelf.One("reed.rig.json", reed), "", "test")
	require.NoError(t, err)
	now, err := s.State(id)
	require.NoError(t, err)
	written := func(state shelf.State) string {
		data, err := json.Marshal(state.Document)
		require.NoError(t, err)
		return string(data)
	}
	first := now.Edits
	random := rand.New(rand.NewPCG(11, 5))
	var states []string
	kindsOf, renamed, read := map[string]int{}, 0, 0
	for i := 0; len(states) < 250; i++ {
		e := valueEdit(t, random, now.Expanded.Document, fmt.Sprint("n", i))
		before := now
		next, err := s.Edit(id, now.Revision, e, "test", nil)
		var refusal *shelf.Refusal
		if errors.As(err, &refusal) {
			continue
		}
		require.NoError(t, err)
		states, now = append(states, written(before)), next
		kindsOf[edit.KindOf(e)]++
		if _, is := e.(*edit.Rename); !is {
			continue
		}
		renamed++
		require.Equal(t, before.Document.Drivers, now.Document.Drivers)
		want := stands(t, before.Document, s.Store, uint64(i))
		require.Equal(t, want, stands(t, now.Document, s.Store, uint64(i)))
		if renamed%4 == 0 {
			text, err := rigfile.Write(now.Document, s.Store)
			require.NoError(t, err)
			back, surfaces, err := rigfile.Read(text, kinds.All())
			require.NoError(t, err, string(text))
			read++
			require.Equal(t, want, stands(t, back, surfaces, uint64(i)))
		}
	}
	last := written(now)
	t.Logf("%v; %d renamed, %d written and read; %d drivers and %d measures at the end", kindsOf, renamed, read, len(now.Expanded.Document.Drivers), len(now.Expanded.Document.Measures))
	for i := len(states) - 1; i >= 0; i-- {
		now, err = s.Undo(id, shelf.Any)
		require.NoError(t, err)
		require.Equal(t, states[i], written(now))
	}
	assert.Equal(t, first, now.Edits)
	for range states {
		now, err = s.Redo(id, shelf.Any)
		require.NoError(t, err)
	}
	assert.Equal(t, last, written(now))
}

// aged writes a document as version 1 did: dials stood with the mechanisms that they drive.
func aged(t *testing.T, packed []byte) []byte {
	reader, err := gzip.NewReader(bytes.NewReader(packed))
	require.NoError(t, err)
	var d map[string]any
	require.NoError(t, json.NewDecoder(reader).Decode(&d))
	d["version"] = 1
	for _, one := range d["drivers"].([]any) {
		driver := one.(map[string]any)
		drives, by := driver["drives"].(map[string]any), driver["by"].([]any)[0].(map[string]any)
		for _, m := range d["mechanisms"].([]any) {
			if m := m.(map[string]any); m["id"] == drives["of"] {
				m["dials"] = map[string]any{drives["key"].(string): map[string]any{"control": by["of"], "dial": by["key"]}}
			}
		}
	}
	delete(d, "drivers")
	delete(d, "measures")
	var out bytes.Buffer
	writer := gzip.NewWriter(&out)
	require.NoError(t, json.NewEncoder(writer).Encode(d))
	require.NoError(t, writer.Close())
	return out.Bytes()
}

// A folder that was kept in version 1 opens and means the same, in every state of its history.
func TestRevisionsOfVersion1MeanTheSame(t *testing.T) {
	folder := t.TempDir()
	kept, err := store.Open(folder)
	require.NoError(t, err)
	s := shelf.New(kept, kinds.All(), nil)
	reed, err := os.ReadFile(filepath.Join("..", "docs", "examples", "reed.rig.json"))
	require.NoError(t, err)
	id, err := s.Import(t.Context(), shelf.One("reed.rig.json", reed), "", "test")
	require.NoError(t, err)
	now, err := s.State(id)
	require.NoError(t, err)
	root := now.Document.ControlNamed(rig.RootName)
	states := []shelf.State{now}
	for _, e := range []edit.Edit{
		&edit.AddDial{Controls: []string{root.ID}, Dial: rig.Dial{Name: "slack", Max: 1}},
		&edit.DriveParameter{Mechanism: now.Document.Mechanisms[0].ID, Key: "stretch", Control: root.ID, Dial: "slack"},
		&edit.Rename{ID: root.ID, Name: "ground"},
	} {
		now, err = s.Edit(id, now.Revision, e, "test", nil)
		require.NoError(t, err)
		states = append(states, now)
	}
	require.Len(t, now.Document.Drivers, 1)
	require.NoError(t, kept.Close())

	db, err := sqlx.Open("sqlite", filepath.Join(folder, "specimens.sqlite"))
	require.NoError(t, err)
	var rows []struct {
		Specimen string `db:"specimen"`
		Number   int    `db:"number"`
		Document []byte `db:"document"`
	}
	require.NoError(t, db.Select(&rows, `SELECT specimen, number, document FROM revisions`))
	for _, row := range rows {
		_, err := db.Exec(`UPDATE revisions SET document = ? WHERE specimen = ? AND number = ?`, aged(t, row.Document), row.Specimen, row.Number)
		require.NoError(t, err)
	}
	require.NoError(t, db.Close())

	kept, err = store.Open(folder)
	require.NoError(t, err)
	t.Cleanup(func() { _ = kept.Close() })
	s = shelf.New(kept, kinds.All(), nil)
	for i := len(states) - 1; i >= 0; i-- {
		now, err = s.State(id)
		require.NoError(t, err)
		want := states[i].Document
		require.Equal(t, rig.Version, now.Document.Version)
		require.Equal(t, want.Controls, now.Document.Controls)
		require.Equal(t, want.Mechanisms, now.Document.Mechanisms)
		require.Len(t, now.Document.Drivers, len(want.Drivers))
		require.Equal(t, stands(t, want, kept, uint64(i)), stands(t, now.Document, kept, uint64(i)))
		if i > 0 {
			now, err = s.Undo(id, shelf.Any)
			require.NoError(t, err)
		}
	}
	now, err = s.Edit(id, now.Revision, &edit.AddClip{Name: "new", End: 3}, "test", nil)
	require.NoError(t, err, "and it is worked on")
	require.Len(t, now.Document.Clips, 1)
}
