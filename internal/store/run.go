package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"

	"reed/core/onair"
)

var runs = keep(kind[onair.Run]{
	name: "run", columns: []string{"outing_id"},
	values: func(r onair.Run) []any { return []any{r.OutingID} },
	check:  onair.Run.CheckKept,
	strip:  func(r *onair.Run) { r.Version, r.Deleted = 0, false },
})

// PutRun stores a beacon run, made from a version.
func (s *Store) PutRun(ctx context.Context, v onair.Run, from int) (onair.Run, error) {
	err := s.inTx(ctx, "storing the run", func(tx *sql.Tx) (err error) {
		v.Version, err = runs.put(ctx, tx, v.ID, v, from, v.Deleted, nil)
		return err
	})
	return v, err
}

// Runs lists the beacon runs of an outing, the newest first.
func (s *Store) Runs(ctx context.Context, outingID string) ([]onair.Run, error) {
	return listed(ctx, s, "the runs", "SELECT version, doc FROM run WHERE outing_id = ? AND deleted = 0 ORDER BY id DESC",
		func(v *onair.Run, version int) { v.Version = version }, outingID)
}

// RunsWith lists the beacon runs of all outings in which any of some deployments sent, the oldest first.
func (s *Store) RunsWith(ctx context.Context, deployments ...string) ([]onair.Run, error) {
	list, err := json.Marshal(deployments)
	if err != nil {
		return nil, err
	}
	return listed(ctx, s, "the runs",
		`SELECT version, doc FROM run r WHERE deleted = 0 AND EXISTS (SELECT 1 FROM json_each(r.doc, '$.aerials') a
		WHERE a.value ->> 'deployment_id' IN (SELECT value FROM json_each(?))) ORDER BY doc ->> 'begin', id`,
		func(v *onair.Run, version int) { v.Version = version }, string(list))
}

// Run reads one.
func (s *Store) Run(ctx context.Context, id string) (onair.Run, error) {
	v, version, deleted, err := runs.one(ctx, s.r, id)
	v.Version, v.Deleted = version, deleted
	if err == nil && deleted {
		err = errors.Join(ErrNotFound, fmt.Errorf("the run %s was taken out", id))
	}
	return v, err
}
