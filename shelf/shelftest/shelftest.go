// Package shelftest gives tests a data folder with the demo specimens: they are made once for all tests of a package, and each test works on
// a copy.
package shelftest

import (
	"os"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"

	"myriapod/core/mechanism/kinds"
	"myriapod/shelf"
	"myriapod/store"
)

// made is the folder that is copied; empty until a test asks for it.
var made string

var fill = sync.OnceValue(func() (err error) {
	if made, err = os.MkdirTemp("", "myriapod-demos-"); err != nil {
		return err
	}
	s, err := store.Open(made)
	if err != nil {
		return err
	}
	if err := shelf.New(s, kinds.All(), nil).AddDemos(); err != nil {
		return err
	}
	return s.Close()
})

// Fill puts the demo specimens into an empty data folder.
func Fill(t testing.TB, folder string) {
	t.Helper()
	require.NoError(t, fill())
	require.NoError(t, os.CopyFS(folder, os.DirFS(made)))
}

// Main runs the tests of a package and takes away what was made for them.
func Main(m *testing.M) {
	code := m.Run()
	if made != "" {
		_ = os.RemoveAll(made)
	}
	os.Exit(code)
}
