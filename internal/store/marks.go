package store

import (
	"context"
	"database/sql"

	"reed/core/marks"
)

var marked = tableOf("marks", "deployment_id")

// PutMarks stores a set of marks. It stays with the deployment that it was begun with.
func (s *Store) PutMarks(ctx context.Context, m marks.Set) (marks.Set, error) {
	deleted := m.Deleted
	m.Version, m.Deleted = 0, false
	err := s.inTx(ctx, "storing the marks", func(tx *sql.Tx) (err error) {
		m.Version, err = marked.put(ctx, tx, m.ID, m, deleted, m.DeploymentID)
		return err
	})
	m.Deleted = deleted
	return m, err
}

// MarksSet reads one set.
func (s *Store) MarksSet(ctx context.Context, id string) (m marks.Set, err error) {
	version, deleted, err := s.one(ctx, marked, id, &m)
	m.Version, m.Deleted = version, deleted
	return m, err
}

// MarksFor lists the sets of antennas of a family, newest first.
func (s *Store) MarksFor(ctx context.Context, family string) ([]marks.Set, error) {
	return listed(ctx, s, "the marks", `SELECT version, doc FROM marks WHERE deleted = 0 AND doc ->> 'family' = ? ORDER BY rowid DESC`, func(m *marks.Set, version int) { m.Version = version }, family)
}

func (s *Store) setMarks(ctx context.Context, id string, to int) (int, bool, error) {
	var m marks.Set
	if err := s.versionDoc(ctx, marked, id, to, &m); err != nil {
		return 0, false, err
	}
	m.Deleted = to == 0
	m, err := s.PutMarks(ctx, m)
	return m.Version, m.Deleted, err
}
