package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"reed/core/deployment"
	"reed/core/sweep"
)

var deployments = keep(kind[deployment.Deployment]{
	name: "deployment", columns: []string{"outing_id"},
	values: func(d deployment.Deployment) []any { return []any{d.OutingID} },
	check:  deployment.Deployment.CheckKept,
	strip:  func(d *deployment.Deployment) { d.Version, d.Deleted = 0, false },
	before: func(ctx context.Context, tx *sql.Tx, d *deployment.Deployment) error {
		var was string
		switch err := tx.QueryRowContext(ctx, "SELECT doc FROM deployment WHERE id = ?", d.ID).Scan(&was); {
		case err == nil:
			var old deployment.Deployment
			if err := json.Unmarshal([]byte(was), &old); err != nil {
				return err
			}
			d.Letter, d.OutingID, d.CreatedAt = old.Letter, old.OutingID, old.CreatedAt
			return nil
		case !errors.Is(err, sql.ErrNoRows):
			return err
		}
		var n int
		if err := tx.QueryRowContext(ctx, "SELECT count(*) FROM deployment WHERE outing_id = ?", d.OutingID).Scan(&n); err != nil {
			return err
		}
		d.Letter = deployment.Letter(n)
		return nil
	},
})

// PutDeployment stores a deployment, made from a version. A new one gets the next free letter of its outing.
func (s *Store) PutDeployment(ctx context.Context, d deployment.Deployment, from int) (deployment.Deployment, error) {
	err := s.inTx(ctx, "storing the deployment", func(tx *sql.Tx) (err error) {
		if err := deployments.before(ctx, tx, &d); err != nil {
			return err
		}
		d.Version, err = deployments.put(ctx, tx, d.ID, d, from, d.Deleted, nil)
		return err
	})
	if err != nil {
		return d, err
	}
	return d, s.letter(ctx, d.OutingID, &d)
}

// twice are the deployments of outings in which a letter was given twice, in the order in which they were put up: two notebooks came
// together there. Those that were taken out keep their letters.
const (
	twice = `SELECT outing_id, id, coalesce(doc ->> 'letter', '') FROM deployment WHERE outing_id IN (
		SELECT outing_id FROM deployment GROUP BY outing_id, doc ->> 'letter' HAVING count(*) > 1) ORDER BY outing_id, doc ->> 'created_at', id`
	twiceHere = `SELECT outing_id, id, coalesce(doc ->> 'letter', '') FROM deployment WHERE outing_id = ?1 AND EXISTS (
		SELECT 1 FROM deployment WHERE outing_id = ?1 GROUP BY doc ->> 'letter' HAVING count(*) > 1) ORDER BY doc ->> 'created_at', id`
)

// letters returns the letters of the deployments of one outing, or of all.
func (s *Store) letters(ctx context.Context, outingID string) (map[string]string, error) {
	ids, given := map[string][]string{}, map[string][]string{}
	query, args := twice, []any(nil)
	if outingID != "" {
		query, args = twiceHere, []any{outingID}
	}
	err := s.rows(ctx, "the letters", query, func(r *sql.Rows) error {
		var of, id, letter string
		err := r.Scan(&of, &id, &letter)
		ids[of], given[of] = append(ids[of], id), append(given[of], letter)
		return err
	}, args...)
	out := map[string]string{}
	for of := range ids {
		for i, l := range deployment.Letters(given[of]) {
			out[ids[of][i]] = l
		}
	}
	return out, err
}

// letter gives each deployment its letter.
func (s *Store) letter(ctx context.Context, outingID string, list ...*deployment.Deployment) error {
	letters, err := s.letters(ctx, outingID)
	for _, d := range list {
		if l, ok := letters[d.ID]; ok {
			d.Letter = l
		}
	}
	return err
}

// Deployment reads one deployment.
func (s *Store) Deployment(ctx context.Context, id string) (deployment.Deployment, error) {
	d, version, deleted, err := deployments.one(ctx, s.r, id)
	d.Version, d.Deleted = version, deleted
	if err != nil {
		return d, err
	}
	return d, s.letter(ctx, d.OutingID, &d)
}

// Deployments lists those of one outing by letter, or all with an empty id.
func (s *Store) Deployments(ctx context.Context, outingID string) ([]deployment.Deployment, error) {
	out, err := listed(ctx, s, "the deployments", `SELECT d.version, d.doc FROM deployment d JOIN outing o ON o.id = d.outing_id
		WHERE d.deleted = 0 AND o.deleted = 0 AND (? = '' OR d.outing_id = ?) ORDER BY o.date DESC, d.rowid`,
		func(d *deployment.Deployment, version int) { d.Version = version }, outingID, outingID)
	if err != nil {
		return nil, err
	}
	return out, s.letter(ctx, outingID, each(out)...)
}

// each are the things of a list, to be changed.
func each[T any](list []T) []*T {
	out := make([]*T, len(list))
	for i := range list {
		out[i] = &list[i]
	}
	return out
}

// AddRevision adds a revision behind the others. The same id again changes nothing.
func (s *Store) AddRevision(ctx context.Context, r deployment.Revision) (deployment.Revision, error) {
	err := s.inTx(ctx, "storing the revision", func(tx *sql.Tx) error {
		var was string
		switch err := tx.QueryRowContext(ctx, "SELECT doc FROM revision WHERE id = ?", r.ID).Scan(&was); {
		case err == nil:
			return json.Unmarshal([]byte(was), &r)
		case !errors.Is(err, sql.ErrNoRows):
			return err
		}
		if err := tx.QueryRowContext(ctx, "SELECT coalesce(max(seq), 0) + 1 FROM revision WHERE deployment_id = ?",
			r.DeploymentID).Scan(&r.Seq); err != nil {
			return err
		}
		doc, err := json.Marshal(r)
		if err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, "INSERT INTO revision (id, deployment_id, seq, doc) VALUES (?, ?, ?, ?)", r.ID, r.DeploymentID, r.Seq,
			string(doc))
		return err
	})
	return r, err
}

// everyRevision reads all revisions, as kind.every does for what has versions.
func everyRevision(ctx context.Context, db *sql.DB) error {
	return scanAll(ctx, db, "SELECT id, form, deployment_id, seq, doc FROM revision", func(rows *sql.Rows) error {
		var id, of, doc string
		var form, seq int
		if err := rows.Scan(&id, &form, &of, &seq, &doc); err != nil {
			return err
		}
		var r deployment.Revision
		if err := json.Unmarshal([]byte(doc), &r); err != nil {
			return fmt.Errorf("revision %s: %w", id, err)
		}
		if form != 1 || r.ID != id || r.DeploymentID != of || r.Seq != seq {
			return fmt.Errorf("revision %s: its document (%s, of %s, number %d, form %d) is not that of its columns", id, r.ID, r.DeploymentID,
				r.Seq, form)
		}
		return nil
	})
}

// Revisions lists the revisions of one deployment, oldest first.
func (s *Store) Revisions(ctx context.Context, deploymentID string) ([]deployment.Revision, error) {
	out := []deployment.Revision{}
	err := s.rows(ctx, "the revisions", "SELECT doc FROM revision WHERE deployment_id = ? ORDER BY seq", func(r *sql.Rows) error {
		var v deployment.Revision
		if err := scanDoc(r, &v); err != nil {
			return err
		}
		out = append(out, v)
		return nil
	}, deploymentID)
	return out, err
}

// Revision reads one revision.
func (s *Store) Revision(ctx context.Context, id string) (deployment.Revision, error) {
	var out []deployment.Revision
	err := s.rows(ctx, "the revision", "SELECT doc FROM revision WHERE id = ?", func(r *sql.Rows) error {
		var v deployment.Revision
		if err := scanDoc(r, &v); err != nil {
			return err
		}
		out = append(out, v)
		return nil
	}, id)
	if err == nil && len(out) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return deployment.Revision{}, err
	}
	return out[0], nil
}

// Sweep is a measurement of one revision, with the file it came from.
type Sweep struct {
	ID         string      `json:"id"`
	RevisionID string      `json:"revision_id"`
	Name       string      `json:"name"`
	Where      string      `json:"where"` // feed or radio
	TakenAt    time.Time   `json:"taken_at"`
	Simulated  bool        `json:"simulated,omitempty"`
	Curve      sweep.Sweep `json:"curve"`
	Version    int         `json:"version"`
	Deleted    bool        `json:"deleted,omitempty"`
	File       []byte      `json:"-"`
}

var sweeps = keep(kind[Sweep]{
	name: "sweep", columns: []string{"revision_id"}, file: true, large: true,
	values: func(v Sweep) []any { return []any{v.RevisionID} },
	strip:  func(v *Sweep) { v.Version, v.Deleted, v.File = 0, false, nil },
	check:  func(v Sweep) error { return v.Curve.Check() },
})

// PutSweep stores a sweep with its file, made from a version.
func (s *Store) PutSweep(ctx context.Context, v Sweep, from int) (Sweep, error) {
	err := s.inTx(ctx, "storing the sweep", func(tx *sql.Tx) (err error) {
		v.Version, err = sweeps.put(ctx, tx, v.ID, v, from, v.Deleted, v.File)
		return err
	})
	return v, err
}

// Sweeps lists the sweeps of one deployment, oldest first, without their files.
func (s *Store) Sweeps(ctx context.Context, deploymentID string) ([]Sweep, error) {
	return listed(ctx, s, "the sweeps", `SELECT s.version, s.doc FROM sweep s JOIN revision r ON r.id = s.revision_id
		WHERE r.deployment_id = ? AND s.deleted = 0 ORDER BY r.seq, s.rowid`, func(v *Sweep, version int) { v.Version = version }, deploymentID)
}

// SweepFile is the file a sweep was read from.
func (s *Store) SweepFile(ctx context.Context, id string) (file []byte, err error) {
	err = s.r.QueryRowContext(ctx, "SELECT file FROM sweep WHERE id = ?", id).Scan(&file)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, fmt.Errorf("sweep %s: %w", id, ErrNotFound)
	}
	return file, err
}

// Sweep reads one sweep without its file, removed ones too.
func (s *Store) Sweep(ctx context.Context, id string) (Sweep, error) {
	v, version, deleted, err := sweeps.one(ctx, s.r, id)
	v.Version, v.Deleted = version, deleted
	return v, err
}

const lessons = `SELECT d.doc, o.doc FROM deployment d JOIN outing o ON o.id = d.outing_id AND o.deleted = 0
	WHERE d.deleted = 0 AND d.outing_id <> ? AND coalesce(d.doc ->> 'lesson', '') <> '' ORDER BY o.date DESC, d.rowid DESC`

// Lessons lists what was learned at other outings than one, the newest first.
func (s *Store) Lessons(ctx context.Context, outingID string) (out []deployment.Learned, err error) {
	err = s.rows(ctx, "the lessons", lessons, func(r *sql.Rows) error {
		var d, o string
		if err := r.Scan(&d, &o); err != nil {
			return err
		}
		var x deployment.Learned
		if err := json.Unmarshal([]byte(d), &x.Deployment); err != nil {
			return err
		}
		if err := json.Unmarshal([]byte(o), &x.Outing); err != nil {
			return err
		}
		out = append(out, x)
		return nil
	}, outingID)
	return out, err
}
