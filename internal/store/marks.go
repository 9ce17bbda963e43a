package store

import (
	"context"
	"database/sql"

	"reed/core/marks"
)

var marked = keep(kind[marks.Set]{
	name: "marks", columns: []string{"deployment_id"},
	values: func(m marks.Set) []any { return []any{m.DeploymentID} },
	check:  marks.Set.CheckKept,
	strip:  func(m *marks.Set) { m.Version, m.Deleted = 0, false },
})

// PutMarks stores a set of marks, made from a version. It stays with the deployment that it was begun with.
func (s *Store) PutMarks(ctx context.Context, m marks.Set, from int) (marks.Set, error) {
	err := s.inTx(ctx, "storing the marks", func(tx *sql.Tx) (err error) {
		m.Version, err = marked.put(ctx, tx, m.ID, m, from, m.Deleted, nil)
		return err
	})
	return m, err
}

// MarksSet reads one set.
func (s *Store) MarksSet(ctx context.Context, id string) (marks.Set, error) {
	m, version, deleted, err := marked.one(ctx, s.r, id)
	m.Version, m.Deleted = version, deleted
	return m, err
}

// MarksFor lists the sets of antennas of a family, newest first.
func (s *Store) MarksFor(ctx context.Context, family string) ([]marks.Set, error) {
	return listed(ctx, s, "the marks", `SELECT version, doc FROM marks WHERE deleted = 0 AND doc ->> 'family' = ? ORDER BY rowid DESC`,
		func(m *marks.Set, version int) { m.Version = version }, family)
}
