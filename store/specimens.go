package store

import (
	"bytes"
	"compress/gzip"
	"crypto/rand"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"

	"github.com/jmoiron/sqlx"

	"myriapod/core/edit"
	"myriapod/core/rig"
)

// Specimen is a line of the Shelf.
type Specimen struct {
	ID       string  `db:"id"`
	Name     string  `db:"name"`
	Head     int     `db:"head"`
	Sequence int     `db:"sequence"`
	Created  string  `db:"created"`
	Changed  string  `db:"changed"`
	Deleted  *string `db:"deleted"`
}

// Revision is one document of a specimen's history and the edit that led to it.
type Revision struct {
	Specimen string `db:"specimen"`
	Number   int    `db:"number"`
	Parent   *int   `db:"parent"`
	Depth    int    `db:"depth"`
	Redo     *int   `db:"redo"`
	Document []byte `db:"document"`
	Edit     []byte `db:"edit"`
	Title    string `db:"title"`
	Author   string `db:"author"`
	Touches  string `db:"touches"`
	Made     string `db:"made"`
}

// Read returns the revision's document.
func (r *Revision) Read() (*rig.Document, error) {
	reader, err := gzip.NewReader(bytes.NewReader(r.Document))
	if err != nil {
		return nil, r.damaged(err)
	}
	data, err := io.ReadAll(reader)
	if err != nil {
		return nil, r.damaged(err)
	}
	d := new(rig.Document)
	if err := json.Unmarshal(data, d); err != nil {
		return nil, r.damaged(err)
	}
	d.Modernise()
	d.MendNames() // kept before names had to be what they have to be now
	return d, edit.Validate(d)
}

// damaged tells that a revision cannot be read, and what can still be had.
func (r *Revision) damaged(err error) error {
	rest := "the other states of its history may be whole; go to one of them"
	if r.Parent == nil {
		rest = "it is the first; bring a backup of the data folder back"
	}
	return fmt.Errorf("revision %d of %s is damaged (%w): %w; %s", r.Number, r.Specimen, err, ErrDamaged, rest)
}

func pack(d *rig.Document) ([]byte, error) {
	data, err := json.Marshal(d)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	writer, err := gzip.NewWriterLevel(&out, gzip.BestSpeed) // an edit waits for it
	if err != nil {
		return nil, err
	}
	if _, err := writer.Write(data); err != nil {
		return nil, err
	}
	if err := writer.Close(); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

// transact runs work in one transaction; on an error nothing of it is kept.
func (s *Store) transact(work func(*sqlx.Tx) error) error {
	tx, err := s.db.Beginx()
	if err != nil {
		return explain(err)
	}
	if err := work(tx); err != nil {
		_ = tx.Rollback() // the first error is the one to tell
		return explain(err)
	}
	return explain(tx.Commit())
}

// Create puts a new specimen on the Shelf with a first document and its heavy data, and returns its ID.
func (s *Store) Create(d *rig.Document, title, author string, blobs map[string][]byte) (string, error) {
	id := newID()
	return id, s.transact(func(tx *sqlx.Tx) error { return create(tx, id, d, title, author, blobs) })
}

func newID() string { return strings.ToLower(rand.Text()[:10]) }

func create(tx *sqlx.Tx, id string, d *rig.Document, title, author string, blobs map[string][]byte) error {
	packed, err := pack(d)
	if err != nil {
		return err
	}
	if err := keepBlobs(tx, blobs); err != nil {
		return err
	}
	at := now()
	if _, err := tx.Exec(`INSERT INTO specimens (id, name, head, sequence, created, changed) VALUES (?, ?, 1, 1, ?, ?)`, id, d.Name, at, at); err != nil {
		return err
	}
	_, err = tx.Exec(`INSERT INTO revisions (specimen, number, document, edit, title, author, touches, made) VALUES (?, 1, ?, '{}', ?, ?, '[]', ?)`,
		id, packed, title, author, at)
	return err
}

func keepBlobs(tx *sqlx.Tx, blobs map[string][]byte) error {
	for hash, data := range blobs {
		if _, err := tx.Exec(`INSERT INTO blobs (hash, data) VALUES (?, ?) ON CONFLICT DO NOTHING`, hash, data); err != nil {
			return err
		}
	}
	return nil
}

// Specimens lists what is on the Shelf, the oldest first.
func (s *Store) Specimens() ([]Specimen, error) {
	list := []Specimen{}
	err := s.db.Select(&list, `SELECT * FROM specimens WHERE deleted IS NULL ORDER BY created, id`)
	return list, explain(err)
}

// Specimen returns one specimen, or ErrMissing.
func (s *Store) Specimen(id string) (Specimen, error) {
	var specimen Specimen
	err := s.db.Get(&specimen, `SELECT * FROM specimens WHERE id = ? AND deleted IS NULL`, id)
	if errors.Is(err, sql.ErrNoRows) {
		return specimen, fmt.Errorf("%s: %w", id, ErrMissing)
	}
	return specimen, explain(err)
}

// Head returns a specimen and its present revision.
func (s *Store) Head(id string) (Specimen, Revision, error) {
	specimen, err := s.Specimen(id)
	if err != nil {
		return specimen, Revision{}, err
	}
	revision, err := s.revision(s.db, id, specimen.Head)
	return specimen, revision, err
}

func (s *Store) revision(q sqlx.Queryer, id string, number int) (Revision, error) {
	var r Revision
	err := sqlx.Get(q, &r, `SELECT * FROM revisions WHERE specimen = ? AND number = ?`, id, number)
	if errors.Is(err, sql.ErrNoRows) {
		return r, NothingError(fmt.Sprintf("there is no revision %d of this specimen; load it again", number))
	}
	return r, explain(err)
}

// Revision returns one revision of a specimen.
func (s *Store) Revision(id string, number int) (Revision, error) {
	return s.revision(s.db, id, number)
}

// History lists a specimen's revisions without their documents, the newest first.
func (s *Store) History(id string) ([]Revision, error) {
	list := []Revision{}
	err := s.db.Select(&list, `SELECT specimen, number, parent, depth, redo, '' AS document, '' AS edit, title, author, touches, made
		FROM revisions WHERE specimen = ? ORDER BY number DESC`, id)
	return list, explain(err)
}

// Change is an edit ready to be kept.
type Change struct {
	Specimen string
	On       int // the revision it was applied to, which must still be the present one
	Edit     edit.Edit
	Document *rig.Document // what came of it
	Title    string
	Touches  []string
	Author   string
	Blobs    map[string][]byte
	Summary  *Summary // what the Shelf shows of it; nil to have that found out when it is shown
}

// ErrMoved tells that another change came first.
var ErrMoved = errors.New("the specimen has changed meanwhile")

// Keep stores a change with its document and heavy data in one transaction and makes it the present revision. It returns
// ErrMoved when On is not the present revision any more.
func (s *Store) Keep(c Change) (number int, err error) {
	err = s.transact(func(tx *sqlx.Tx) (err error) {
		number, err = keep(tx, c)
		return err
	})
	return number, err
}

func keep(tx *sqlx.Tx, c Change) (number int, err error) {
	packed, err := pack(c.Document)
	if err != nil {
		return 0, err
	}
	written, err := edit.Encode(c.Edit)
	if err != nil {
		return 0, err
	}
	touches, err := json.Marshal(c.Touches)
	if err != nil {
		return 0, err
	}
	head, err := headOf(tx, c.Specimen)
	if err != nil {
		return 0, err
	}
	if head != c.On {
		return 0, ErrMoved
	}
	if err := keepBlobs(tx, c.Blobs); err != nil {
		return 0, err
	}
	if err := tx.Get(&number, `SELECT max(number) + 1 FROM revisions WHERE specimen = ?`, c.Specimen); err != nil {
		return 0, err
	}
	at := now()
	if _, err := tx.Exec(`INSERT INTO revisions (specimen, number, parent, depth, document, edit, title, author, touches, made)
		VALUES (?, ?, ?, (SELECT depth + 1 FROM revisions WHERE specimen = ? AND number = ?), ?, ?, ?, ?, ?, ?)`,
		c.Specimen, number, c.On, c.Specimen, c.On, packed, written, c.Title, c.Author, string(touches), at); err != nil {
		return 0, err
	}
	if _, err := tx.Exec(`UPDATE revisions SET redo = ? WHERE specimen = ? AND number = ?`, number, c.Specimen, c.On); err != nil {
		return 0, err
	}
	if c.Summary != nil {
		if err := keepSummary(tx, c.Specimen, number, *c.Summary); err != nil {
			return 0, err
		}
	}
	_, err = tx.Exec(`UPDATE specimens SET head = ?, sequence = sequence + 1, name = ?, changed = ? WHERE id = ?`, number, c.Document.Name, at, c.Specimen)
	return number, err
}

// headOf returns the present revision of a specimen on the Shelf.
func headOf(tx *sqlx.Tx, id string) (head int, err error) {
	err = tx.Get(&head, `SELECT head FROM specimens WHERE id = ? AND deleted IS NULL`, id)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, fmt.Errorf("%s: %w", id, ErrMissing)
	}
	return head, err
}

// Move makes another revision of the history the present one: the parent for undo, the redo child for redo. Nothing is dropped.
func (s *Store) Move(id string, to func(Revision) *int, nothing string) error {
	return s.transact(func(tx *sqlx.Tx) error {
		head, err := headOf(tx, id)
		if err != nil {
			return err
		}
		present, err := s.revision(tx, id, head)
		if err != nil {
			return err
		}
		target := to(present)
		if target == nil {
			return NothingError(nothing)
		}
		next, err := s.revision(tx, id, *target)
		if err != nil {
			return err
		}
		document, err := next.Read()
		if err != nil {
			return err
		}
		_, err = tx.Exec(`UPDATE specimens SET head = ?, sequence = sequence + 1, name = ?, changed = ? WHERE id = ?`, *target, document.Name, now(), id)
		return err
	})
}

// GoTo makes any revision of the history the present one. Redo then leads from where the ways part towards it, and undo back along
// its own way.
func (s *Store) GoTo(id string, number int) error {
	return s.transact(func(tx *sqlx.Tx) error {
		target, err := s.revision(tx, id, number)
		if err != nil {
			return err
		}
		document, err := target.Read()
		if err != nil {
			return err
		}
		for at := target; at.Parent != nil; {
			if _, err := tx.Exec(`UPDATE revisions SET redo = ? WHERE specimen = ? AND number = ?`, at.Number, id, *at.Parent); err != nil {
				return err
			}
			if at, err = s.revision(tx, id, *at.Parent); err != nil {
				return err
			}
		}
		result, err := tx.Exec(`UPDATE specimens SET head = ?, sequence = sequence + 1, name = ?, changed = ? WHERE id = ? AND deleted IS NULL`, number, document.Name, now(), id)
		if err != nil {
			return err
		}
		if n, err := result.RowsAffected(); err != nil || n == 0 {
			return fmt.Errorf("%s: %w", id, ErrMissing)
		}
		return nil
	})
}

// NothingError tells that what is asked for is not there: nothing to undo or redo, or no such revision.
type NothingError string

func (e NothingError) Error() string { return string(e) }

// Undo goes back one edit.
func (s *Store) Undo(id string) error {
	return s.Move(id, func(r Revision) *int { return r.Parent }, "there is nothing to undo; this is how the specimen began")
}

// Redo goes forward again along the edit that was undone last.
func (s *Store) Redo(id string) error {
	return s.Move(id, func(r Revision) *int { return r.Redo }, "there is nothing to redo; this is the newest edit")
}

// Delete takes a specimen off the Shelf; Restore puts it back.
func (s *Store) Delete(id string) error {
	return s.mark(id, `UPDATE specimens SET deleted = ? WHERE id = ? AND deleted IS NULL`, now())
}

// Restore puts a deleted specimen back on the Shelf.
func (s *Store) Restore(id string) error {
	return s.mark(id, `UPDATE specimens SET deleted = ? WHERE id = ? AND deleted IS NOT NULL`, nil)
}

func (s *Store) mark(id, statement string, value any) error {
	return s.transact(func(tx *sqlx.Tx) error {
		result, err := tx.Exec(statement, value, id)
		if err != nil {
			return err
		}
		if n, err := result.RowsAffected(); err != nil || n == 0 {
			return fmt.Errorf("%s: %w", id, ErrMissing)
		}
		return nil
	})
}

// Between returns what was touched on the way from one revision to another: back to where their histories part, and forward from
// there. Titles name the edits on the way.
func (s *Store) Between(id string, from, to int) (touches map[string]bool, titles []string, err error) {
	touches = map[string]bool{}
	history, err := s.History(id)
	if err != nil {
		return nil, nil, err
	}
	byNumber := map[int]Revision{}
	for _, r := range history {
		byNumber[r.Number] = r
	}
	if _, ok := byNumber[from]; !ok {
		return nil, nil, NothingError(fmt.Sprintf("there is no revision %d of this specimen; load it again", from))
	}
	for from != to { // parents have lower numbers, so the higher of the two steps back
		higher := max(from, to)
		r := byNumber[higher]
		var list []string
		if err := json.Unmarshal([]byte(r.Touches), &list); err != nil {
			return nil, nil, err
		}
		for _, touched := range list {
			touches[touched] = true
		}
		titles = append(titles, r.Title)
		if r.Parent == nil {
			break
		}
		if from == higher {
			from = *r.Parent
		} else {
			to = *r.Parent
		}
	}
	return touches, titles, nil
}
