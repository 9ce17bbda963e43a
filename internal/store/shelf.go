package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"sync"
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

// decoded keeps documents as they were read, by id: the shelf shows hundreds of them, and hardly one has changed since
// it was shown last. What is taken out of it is not to be changed.
type decoded[T any] struct {
	mu   sync.Mutex
	kept map[string]read[T]
}

type read[T any] struct {
	doc string
	v   T
}

const mostDecoded = 2000

func (d *decoded[T]) read(id, doc string) (T, error) {
	d.mu.Lock()
	have, ok := d.kept[id]
	d.mu.Unlock()
	if ok && have.doc == doc {
		return have.v, nil
	}
	var v T
	if err := json.Unmarshal([]byte(doc), &v); err != nil {
		return v, fmt.Errorf("a document: %w", err)
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.kept == nil || len(d.kept) >= mostDecoded {
		d.kept = map[string]read[T]{}
	}
	d.kept[id] = read[T]{doc, v}
	return v, nil
}

const standing = `SELECT d.id, d.version, d.doc FROM deployment d JOIN outing o ON o.id = d.outing_id WHERE d.deleted = 0 AND o.deleted = 0`

func (s *Store) standing(ctx context.Context, outingID string) (out []deployment.Deployment, err error) {
	query, args := standing, []any(nil)
	if outingID != "" {
		query, args = query+" AND d.outing_id = ?", []any{outingID}
	}
	err = s.rows(ctx, "the deployments", query+" ORDER BY d.rowid", func(r *sql.Rows) error {
		var id, doc string
		var version int
		if err := r.Scan(&id, &version, &doc); err != nil {
			return err
		}
		d, err := s.deploymentDocs.read(id, doc)
		d.Version = version
		out = append(out, d)
		return err
	}, args...)
	if err != nil {
		return nil, err
	}
	return out, s.letter(ctx, outingID, each(out)...)
}

// Shelf lists all outings, newest first, or the one with an id, as it is at a time.
func (s *Store) Shelf(ctx context.Context, outingID string, now time.Time) ([]Shelved, error) {
	var list []Outing
	var err error
	if outingID == "" {
		list, err = s.Outings(ctx)
	} else {
		var o Outing
		o, err = s.Outing(ctx, outingID)
		list = []Outing{o}
	}
	if err != nil {
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
	standing, err := s.standings(ctx, outingID, counts)
	if err != nil {
		return nil, err
	}
	late, err := s.recent(ctx, now)
	if err != nil {
		return nil, err
	}
	rules, err := s.Schemes(ctx, true)
	if err != nil {
		return nil, err
	}
	var out []Shelved
	for _, o := range list {
		t := counts[o.ID]
		if t == nil {
			t = &Tally{}
		}
		out = append(out, Shelved{o, standing[o.ID], t.Contacts, progress(onair.SchemeIn(rules, o.Scheme), o, *t, late, now)})
	}
	return out, nil
}

// standings are the deployments of all outings, or of one, by outing: each with its newest revision, its sweeps and its
// contacts.
func (s *Store) standings(ctx context.Context, outingID string, counts map[string]*Tally) (map[string][]Standing, error) {
	all, err := s.standing(ctx, outingID)
	if err != nil {
		return nil, err
	}
	where, args := "", []any(nil)
	if outingID != "" {
		where, args = " AND r.deployment_id IN (SELECT id FROM deployment WHERE outing_id = ?)", []any{outingID}
	}
	revisions := map[string]*deployment.Revision{}
	if err := s.rows(ctx, "the newest revisions", newest+where, func(r *sql.Rows) error {
		var id, doc string
		if err := r.Scan(&id, &doc); err != nil {
			return err
		}
		v, err := s.revisionDocs.read(id, doc)
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
	standing := map[string][]Standing{}
	for _, d := range all {
		n := 0
		if t := counts[d.OutingID]; t != nil {
			n = t.ByDeployment[d.ID]
		}
		standing[d.OutingID] = append(standing[d.OutingID], Standing{d, revisions[d.ID], sweeps[d.ID], n})
	}
	return standing, nil
}
