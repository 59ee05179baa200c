package shelf_test

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/formula"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/rig"
	"myriapod/shelf"
)

// TestACourseIsToldOfWhatWasJustOpened plots a number of a specimen that nobody touched since the server began, and as it would go after an edit.
func TestACourseIsToldOfWhatWasJustOpened(t *testing.T) {
	first := open(t, nil)
	reed, err := os.ReadFile(filepath.Join("..", "docs", "examples", "reed.rig.json"))
	require.NoError(t, err)
	id, err := first.Import(t.Context(), shelf.One("reed.rig.json", reed), "", "test")
	require.NoError(t, err)
	s := shelf.New(first.Store, kinds.All(), nil)
	state, err := s.State(id)
	require.NoError(t, err)
	d := state.Document
	of := d.Controls[len(d.Controls)-1].Of(rig.RotateX)
	course, err := s.Course(context.Background(), id, nil, of, "")
	require.NoError(t, err)
	assert.Equal(t, course.Below, course.Made, "nothing drives it")
	write := &edit.WriteDriver{Driver: "formula", Drives: []rig.Address{of}, Text: "below + 10 * wave(time)"}
	tried, err := s.Course(context.Background(), id, write, of, "")
	require.NoError(t, err)
	assert.NotEqual(t, tried.Below, tried.Made)
	write.Text = "10 * wvae(time)"
	_, err = s.Course(context.Background(), id, write, of, "")
	var mistake *formula.Error
	require.True(t, errors.As(err, &mistake))
	assert.Equal(t, 5, mistake.At)
	again, err := s.Course(context.Background(), id, nil, of, "")
	require.NoError(t, err)
	assert.Equal(t, course, again, "nothing was kept")
	_, err = s.Course(context.Background(), id, nil, rig.Address{Of: "nobody", Key: "x"}, "")
	require.ErrorContains(t, err, "to plot")
}
