// Package shelftest gives tests a data folder with the demo specimens and their pictures. It is made once for all packages whose tests ask for it,
// of the program as it stands, and each test works on a copy.
package shelftest

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"syscall"
	"testing"

	"github.com/stretchr/testify/require"

	"myriapod/core/mechanism/kinds"
	"myriapod/shelf"
	"myriapod/store"
)

// Fill puts the demo specimens into an empty data folder.
func Fill(t testing.TB, folder string) {
	t.Helper()
	made, err := filled()
	require.NoError(t, err)
	require.NoError(t, os.CopyFS(folder, os.DirFS(made)))
}

// filled is the folder that is copied. It is called by what it was made of, so that another state of the program makes another.
var filled = sync.OnceValues(func() (string, error) {
	content, err := sources()
	if err != nil {
		return "", err
	}
	all := filepath.Join(os.TempDir(), "myriapod-demos")
	if err := os.MkdirAll(all, 0o755); err != nil {
		return "", err
	}
	open, err := alone(all)
	if err != nil {
		return "", err
	}
	defer open()
	made := filepath.Join(all, content)
	if _, err := os.Stat(made); err == nil {
		return made, nil
	}
	if err := forget(all); err != nil {
		return "", err
	}
	making := made + ".making"
	if err := fill(making); err != nil {
		return "", err
	}
	return made, os.Rename(making, made)
})

// alone waits until no other package's tests are at the folders, and keeps them away until it is told to open.
func alone(all string) (open func(), err error) {
	lock, err := os.OpenFile(filepath.Join(all, "lock"), os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return nil, err
	}
	return func() { _ = lock.Close() }, syscall.Flock(int(lock.Fd()), syscall.LOCK_EX)
}

// mostKept is how many states of the program have a folder at once: tests of two checkouts may run side by side.
const mostKept = 4

// forget takes away the folders of older states of the program, the oldest first.
func forget(all string) error {
	entries, err := os.ReadDir(all)
	if err != nil {
		return err
	}
	for {
		oldest, count := "", 0
		var when int64
		for _, entry := range entries {
			info, err := os.Stat(filepath.Join(all, entry.Name()))
			if err != nil || !info.IsDir() {
				continue
			}
			count++
			if at := info.ModTime().UnixNano(); oldest == "" || at < when {
				oldest, when = entry.Name(), at
			}
		}
		if count < mostKept {
			return nil
		}
		if err := os.RemoveAll(filepath.Join(all, oldest)); err != nil {
			return err
		}
	}
}

func fill(folder string) error {
	if err := os.RemoveAll(folder); err != nil {
		return err
	}
	s, err := store.Open(folder)
	if err != nil {
		return err
	}
	on := shelf.New(s, kinds.All(), nil)
	if err := on.AddDemos(); err != nil {
		return err
	}
	list, err := s.Specimens()
	if err != nil {
		return err
	}
	for _, specimen := range list {
		if _, err := on.Picture(specimen.ID); err != nil {
			return err
		}
	}
	return s.Close()
}

// sources is the hash of all that the folder is made of: the program's own code and what it stands on.
func sources() (string, error) {
	_, here, _, _ := runtime.Caller(0)
	root := filepath.Join(filepath.Dir(here), "..", "..")
	hash := sha256.New()
	for _, room := range []string{"core", "shelf", "store", "go.sum"} {
		err := filepath.WalkDir(filepath.Join(root, room), func(path string, entry fs.DirEntry, err error) error {
			if err != nil || entry.IsDir() || strings.HasSuffix(path, "_test.go") || strings.Contains(path, "/testdata/") {
				return err
			}
			file, err := os.Open(path)
			if err != nil {
				return err
			}
			defer file.Close()
			_, _ = fmt.Fprintln(hash, strings.TrimPrefix(path, root)) // a hash takes everything
			_, err = io.Copy(hash, file)
			return err
		})
		if err != nil {
			return "", err
		}
	}
	return hex.EncodeToString(hash.Sum(nil))[:20], nil
}
