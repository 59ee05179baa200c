package store

import (
	"database/sql"
	"errors"
	"fmt"

	"github.com/jmoiron/sqlx"

	"myriapod/core/findings"
	"myriapod/core/repeat"
	"myriapod/core/rig"
)

// Summary is what the Shelf shows of a specimen without opening it.
type Summary struct {
	Parts      int    `db:"parts"`
	Vertices   int    `db:"vertices"`
	Joints     int    `db:"joints"`
	Controls   int    `db:"controls"`
	Mechanisms int    `db:"mechanisms"`
	Findings   int    `db:"findings"`
	Damage     string `db:"damage"` // why it cannot be opened; empty for one that can
}

// SummaryOf returns the summary of a document whose repeats are expanded and whose findings are known.
func SummaryOf(x *repeat.Expansion, found []findings.Finding) Summary {
	s := Summary{
		Parts: len(x.Document.Parts), Joints: len(x.Document.Joints), Controls: len(x.Document.Controls), Mechanisms: len(x.Document.Mechanisms), Findings: len(found),
	}
	for _, part := range x.Document.Parts {
		s.Vertices += part.Vertices
	}
	return s
}

func summaryOf(d *rig.Document) Summary {
	x, err := repeat.Expand(d)
	if err != nil {
		return Summary{Damage: err.Error()}
	}
	return SummaryOf(x, findings.Of(x))
}

func keepSummary(x sqlx.Execer, specimen string, number int, s Summary) error {
	_, err := x.Exec(`INSERT OR REPLACE INTO summaries (specimen, number, parts, vertices, joints, controls, mechanisms, findings, damage) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)`,
		specimen, number, s.Parts, s.Vertices, s.Joints, s.Controls, s.Mechanisms, s.Findings, s.Damage)
	return err
}

// Listed is a line of the Shelf with its summary.
type Listed struct {
	Specimen
	Summary
}

// List lists what is on the Shelf, the oldest first. It reads no document but of what was kept by a program that wrote no summaries.
func (s *Store) List() ([]Listed, error) {
	var rows []struct {
		Specimen
		Parts      *int    `db:"parts"`
		Vertices   *int    `db:"vertices"`
		Joints     *int    `db:"joints"`
		Controls   *int    `db:"controls"`
		Mechanisms *int    `db:"mechanisms"`
		Findings   *int    `db:"findings"`
		Damage     *string `db:"damage"`
	}
	err := s.db.Select(&rows, `SELECT s.*, m.parts, m.vertices, m.joints, m.controls, m.mechanisms, m.findings, m.damage
		FROM specimens s LEFT JOIN summaries m ON m.specimen = s.id AND m.number = s.head WHERE s.deleted IS NULL ORDER BY s.created, s.id`)
	if err != nil {
		return nil, explain(err)
	}
	list := make([]Listed, len(rows))
	for i, row := range rows {
		list[i].Specimen = row.Specimen
		if row.Parts != nil {
			list[i].Summary = Summary{*row.Parts, *row.Vertices, *row.Joints, *row.Controls, *row.Mechanisms, *row.Findings, *row.Damage}
			continue
		}
		if list[i].Summary, err = s.summarise(row.Specimen); err != nil {
			return nil, err
		}
	}
	return list, nil
}

// summarise writes the summary of a specimen's present revision, which has none. One that cannot be read is damaged, and the others must still be
// shown.
func (s *Store) summarise(specimen Specimen) (Summary, error) {
	var summary Summary
	revision, err := s.Revision(specimen.ID, specimen.Head)
	if err == nil {
		var d *rig.Document
		if d, err = revision.Read(); err == nil {
			summary = summaryOf(d)
		}
	}
	if err != nil { // it may be mended from a backup: nothing is written down
		return Summary{Damage: err.Error()}, nil
	}
	return summary, explain(keepSummary(s.db, specimen.ID, specimen.Head, summary))
}

// Picture returns the picture kept of a revision; ok is false when there is none.
func (s *Store) Picture(specimen string, number int) (data []byte, ok bool, err error) {
	err = s.db.Get(&data, `SELECT data FROM pictures WHERE specimen = ? AND number = ?`, specimen, number)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, false, nil
	}
	return data, err == nil, explain(err)
}

// KeepPicture keeps the picture of a revision in the place of that of another.
func (s *Store) KeepPicture(specimen string, number int, data []byte) error {
	_, err := s.db.Exec(`INSERT OR REPLACE INTO pictures (specimen, number, data) VALUES (?, ?, ?)`, specimen, number, data)
	return explain(err)
}

// Note returns what is noted of the folder under a key; empty for nothing.
func (s *Store) Note(key string) (value string, err error) {
	err = s.db.Get(&value, `SELECT value FROM folder WHERE key = ?`, key)
	if errors.Is(err, sql.ErrNoRows) {
		return "", nil
	}
	return value, explain(err)
}

// Begun is a specimen with its whole history, to be put on the Shelf at once.
type Begun struct {
	Document *rig.Document
	Author   string
	Changes  []Change // each on the one before; Specimen and On are filled in
}

// Begin puts a specimen with its history on the Shelf in one transaction, together with a note of the folder: all of it is there afterwards, or
// nothing.
func (s *Store) Begin(b Begun, key, value string) (string, error) {
	id := newID()
	err := s.transact(func(tx *sqlx.Tx) error {
		if err := create(tx, id, b.Document, "Begin", b.Author, nil); err != nil {
			return err
		}
		for i, change := range b.Changes {
			change.Specimen, change.On = id, i+1
			if i == len(b.Changes)-1 {
				summary := summaryOf(change.Document)
				change.Summary = &summary
			}
			if _, err := keep(tx, change); err != nil {
				return fmt.Errorf("%s: %w", change.Title, err)
			}
		}
		_, err := tx.Exec(`INSERT OR REPLACE INTO folder (key, value) VALUES (?, ?)`, key, value)
		return err
	})
	return id, err
}
