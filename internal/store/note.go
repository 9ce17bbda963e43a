package store

import (
	"context"
	"database/sql"

	"reed/core/onair"
)

var notes = keep(kind[onair.Note]{
	name: "note", columns: []string{"outing_id", "at"},
	values: func(n onair.Note) []any { return []any{n.OutingID, n.At.UnixMilli()} },
	check:  onair.Note.CheckKept,
	strip:  func(n *onair.Note) { n.Version, n.Deleted = 0, false },
})

// PutNote stores a note, made from a version.
func (s *Store) PutNote(ctx context.Context, v onair.Note, from int) (onair.Note, error) {
	err := s.inTx(ctx, "storing the note", func(tx *sql.Tx) (err error) {
		v.Version, err = notes.put(ctx, tx, v.ID, v, from, v.Deleted, nil)
		return err
	})
	return v, err
}

// Notes lists the notes of an outing, the newest first.
func (s *Store) Notes(ctx context.Context, outingID string) ([]onair.Note, error) {
	return listed(ctx, s, "the notes",
		"SELECT version, doc FROM note WHERE outing_id = ? AND deleted = 0 ORDER BY at DESC, id DESC LIMIT 1000",
		func(v *onair.Note, version int) { v.Version = version }, outingID)
}
