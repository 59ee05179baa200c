// Package store keeps specimens in one SQLite file: every revision with the edit that made it, and heavy data by content hash. What
// it has acknowledged survives the death of the process.
package store

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"time"

	"github.com/gofrs/flock"
	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"

	"myriapod/core/edit"
	"myriapod/core/mesh"
	"myriapod/core/skin"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Store is an open data folder. It is safe for concurrent use; one process has a folder at a time.
type Store struct {
	db   *sqlx.DB
	lock *flock.Flock
}

// Errors that callers tell apart.
var (
	ErrMissing = errors.New("there is no such specimen; it may have been deleted")
	ErrFull    = errors.New("the disk is full, so the change could not be kept and nothing was changed; free some space and do it again")
	ErrBusy    = errors.New("another program has the database locked, so nothing was changed; end that and do it again")
	ErrDisk    = errors.New("the disk could not be read or written, so nothing was changed; look at the disk and its cable")
	ErrDamaged = errors.New("what is on the disk is not what was kept")
	ErrNewer   = errors.New("the data folder was written by a newer Myriapod and was left as it is; open it with that one")
	ErrInUse   = errors.New("the data folder is in use by another Myriapod process; stop that one or choose another folder with --data")
)

// Open opens a data folder, which it makes if it is not there, and brings its tables up to date.
func Open(folder string) (*Store, error) {
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return nil, fmt.Errorf("the data folder cannot be made: %w", err)
	}
	lock := flock.New(filepath.Join(folder, "in-use.lock"))
	free, err := lock.TryLock()
	if err != nil {
		return nil, fmt.Errorf("the data folder cannot be locked: %w", err)
	}
	if !free {
		return nil, fmt.Errorf("%s: %w", folder, ErrInUse)
	}
	file := filepath.Join(folder, "specimens.sqlite")
	if err := private(file); err != nil {
		return nil, errors.Join(fmt.Errorf("the database cannot be made: %w", err), lock.Unlock())
	}
	s, err := open(file)
	if err != nil {
		return nil, errors.Join(explain(err), lock.Unlock())
	}
	s.lock = lock
	return s, nil
}

// private makes the database when it is not there, and lets nobody but its owner read it, nor what SQLite puts beside it.
func private(file string) error {
	f, err := os.OpenFile(file, os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return err
	}
	return errors.Join(f.Chmod(0o600), f.Close())
}

func open(file string) (*Store, error) {
	// Full synchronisation: an acknowledged edit is on the disk, whatever happens next.
	source := "file:" + file + "?_pragma=journal_mode(WAL)&_pragma=synchronous(FULL)&_pragma=foreign_keys(ON)&_pragma=busy_timeout(5000)&_txlock=immediate"
	db, err := sqlx.Open("sqlite", source)
	if err != nil {
		return nil, err
	}
	db.SetMaxOpenConns(1) // one writer, and reads are short
	if err := migrate(db); err != nil {
		return nil, errors.Join(fmt.Errorf("%s: %w", file, err), db.Close())
	}
	return &Store{db: db}, nil
}

func migrate(db *sqlx.DB) error {
	folder, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	provider, err := goose.NewProvider(goose.DialectSQLite3, db.DB, folder)
	if err != nil {
		return err
	}
	there, err := provider.GetDBVersion(context.Background())
	if err != nil {
		return err
	}
	sources := provider.ListSources()
	if known := sources[len(sources)-1].Version; there > known {
		return fmt.Errorf("its tables are of version %d, and this program knows %d: %w", there, known, ErrNewer)
	}
	_, err = provider.Up(context.Background())
	return err
}

// Close closes the folder and gives it free.
func (s *Store) Close() error {
	return errors.Join(s.db.Close(), s.lock.Unlock())
}

// explain turns an error of SQLite that a person can do something about into words for them.
func explain(err error) error {
	var failure *sqlite.Error
	if errors.As(err, &failure) {
		switch failure.Code() & 0xff {
		case sqlite3.SQLITE_FULL:
			return fmt.Errorf("%w (%s)", ErrFull, failure.Error())
		case sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED:
			return fmt.Errorf("%w (%s)", ErrBusy, failure.Error())
		case sqlite3.SQLITE_IOERR, sqlite3.SQLITE_READONLY, sqlite3.SQLITE_CANTOPEN:
			return fmt.Errorf("%w (%s)", ErrDisk, failure.Error())
		case sqlite3.SQLITE_CORRUPT, sqlite3.SQLITE_NOTADB:
			return fmt.Errorf("%w; bring a backup of the data folder back (%s)", ErrDamaged, failure.Error())
		}
	}
	return err
}

// Limit bounds the database to so many pages of 4 KB; a store that may not grow any more behaves as on a full disk.
func (s *Store) Limit(pages int) error {
	_, err := s.db.Exec(fmt.Sprintf("PRAGMA max_page_count = %d", pages))
	return err
}

func now() string { return time.Now().UTC().Format(time.RFC3339Nano) }

// Blob returns heavy data by its hash.
func (s *Store) Blob(hash string) ([]byte, error) {
	var data []byte
	if err := s.db.Get(&data, `SELECT data FROM blobs WHERE hash = ?`, hash); err != nil {
		return nil, fmt.Errorf("heavy data %.12s is not in the store: %w", hash, explain(err))
	}
	if edit.Hash(data) != hash {
		return nil, fmt.Errorf("heavy data %.12s is damaged: %w; undo to before its part was brought in or bound, or bring a backup back", hash, ErrDamaged)
	}
	return data, nil
}

// Mesh implements evaluate.Surfaces.
func (s *Store) Mesh(hash string) (*mesh.Mesh, error) {
	data, err := s.Blob(hash)
	if err != nil {
		return nil, err
	}
	return mesh.Decode(data)
}

// Weights implements evaluate.Surfaces.
func (s *Store) Weights(hash string, joints int) (*skin.Weights, error) {
	data, err := s.Blob(hash)
	if err != nil {
		return nil, err
	}
	return skin.ReadWeights(data, joints, s.Blob)
}

// Deltas implements evaluate.Surfaces.
func (s *Store) Deltas(hash string, vertices int) (*mesh.Deltas, error) {
	data, err := s.Blob(hash)
	if err != nil {
		return nil, err
	}
	return mesh.DecodeDeltas(data, vertices)
}
