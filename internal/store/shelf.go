package store

import (
	"context"
	"database/sql"
	"fmt"
	"time"

	"reed/core/deployment"
	"reed/core/onair"
)

// Standing is a deployment with what its tag follows from, without its sweeps and contacts themselves.
type Standing struct {
	deployment.Deployment
	Newest   *deployment.Revision // nil when it is only planned
	Sweeps   int
	Contacts int
}

// Shelved is an outing with its deployments and how far its log is.
type Shelved struct {
	Outing
	Standing []Standing
	Contacts int
	Progress onair.Progress
}

const (
	newest = `SELECT r.deployment_id, r.doc FROM revision r
		WHERE r.seq = (SELECT max(seq) FROM revision x WHERE x.deployment_id = r.deployment_id)`
	swept = "SELECT r.deployment_id, count(*) FROM sweep s JOIN revision r ON r.id = s.revision_id WHERE s.deleted = 0"
)

// Shelf lists all outings, newest first, or the one with an id, as it is at a time.
func (s *Store) Shelf(ctx context.Context, outingID string, now time.Time) ([]Shelved, error) {
	var list []Outing
	var err error
	of := func(column string) (string, []any) { return "", nil }
	if outingID == "" {
		list, err = s.Outings(ctx)
	} else {
		var o Outing
		o, err = s.Outing(ctx, outingID)
		list = []Outing{o}
		of = func(column string) (string, []any) {
			return fmt.Sprintf(" AND %s IN (SELECT id FROM deployment WHERE outing_id = ?)", column), []any{outingID}
		}
	}
	if err != nil {
		return nil, err
	}
	all, err := s.Deployments(ctx, outingID)
	if err != nil {
		return nil, err
	}
	revisions := map[string]*deployment.Revision{}
	where, args := of("r.deployment_id")
	if err := s.rows(ctx, "the newest revisions", newest+where, func(r *sql.Rows) error {
		var id string
		var v deployment.Revision
		err := scanDoc(r, &v, &id)
		revisions[id] = &v
		return err
	}, args...); err != nil {
		return nil, err
	}
	sweeps := map[string]int{}
	if err := s.rows(ctx, "the sweeps", swept+where+" GROUP BY 1", func(r *sql.Rows) error {
		var id string
		var n int
		err := r.Scan(&id, &n)
		sweeps[id] = n
		return err
	}, args...); err != nil {
		return nil, err
	}
	query, args := tallies, []any(nil)
	if outingID != "" {
		query, args = tallyOf, []any{outingID}
	}
	counts, err := s.tally(ctx, query, args...)
	if err != nil {
		return nil, err
	}
	standing := map[string][]Standing{}
	for _, d := range all {
		n := 0
		if t := counts[d.OutingID]; t != nil {
			n = t.ByDeployment[d.ID]
		}
		standing[d.OutingID] = append(standing[d.OutingID], Standing{d, revisions[d.ID], sweeps[d.ID], n})
	}
	var out []Shelved
	for _, o := range list {
		t := counts[o.ID]
		if t == nil {
			t = &Tally{}
		}
		p, err := s.progress(ctx, o, *t, now)
		if err != nil {
			return nil, err
		}
		out = append(out, Shelved{o, standing[o.ID], t.Contacts, p})
	}
	return out, nil
}
