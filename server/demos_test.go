package server_test

import (
	"os"
	"sync"
	"testing"

	"myriapod/server"
	"myriapod/store"
)

// withDemos makes a data folder with the demo specimens, once for all tests; each works on a copy.
var withDemos = sync.OnceValues(func() (_ string, err error) {
	if demos, err = os.MkdirTemp("", "myriapod-demos-"); err != nil {
		return "", err
	}
	s, err := store.Open(demos)
	if err != nil {
		return "", err
	}
	if err := server.New(s, nil).Shelf().AddDemos(); err != nil {
		return "", err
	}
	return demos, s.Close()
})

// demos is that folder; empty until a test asks for it.
var demos string

func TestMain(m *testing.M) {
	code := m.Run()
	_ = os.RemoveAll(demos)
	os.Exit(code)
}
