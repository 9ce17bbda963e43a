package store

import (
	"bytes"
	"cmp"
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"reed/core/deployment"
	"reed/core/onair"
)

// Bundle is outings with all that belongs to them, to be carried to another notebook.
type Bundle struct {
	Entries   []Entry
	Revisions []deployment.Revision
	Reports   []onair.Report // of each its batch and its number in it are in the report's batch and id
}

// Entry is a kept thing at a version, with the file beside it.
type Entry struct {
	Kind    string          `json:"kind"`
	ID      string          `json:"id"`
	Version int             `json:"version"`
	Deleted bool            `json:"deleted,omitempty"`
	Form    int             `json:"form"`
	Doc     json.RawMessage `json:"doc"`
	File    []byte          `json:"-"`
}

// bundled are the kinds of a bundle in the order in which one needs the other, with how they are found by their outing.
var bundled = []struct{ kind, where string }{
	{"outing", "id = ?"}, {"deployment", "outing_id = ?"},
	{"sweep", "revision_id IN (SELECT r.id FROM revision r JOIN deployment d ON d.id = r.deployment_id WHERE d.outing_id = ?)"},
	{"photo", "deployment_id IN (SELECT id FROM deployment WHERE outing_id = ?)"}, {"contact", "outing_id = ?"}, {"note", "outing_id = ?"},
	{"run", "outing_id = ?"},
}

// Bundle gathers an outing with all that belongs to it, what was taken out too: it has to stay so elsewhere.
func (s *Store) Bundle(ctx context.Context, outingID string) (out Bundle, err error) {
	if _, err := s.Outing(ctx, outingID); err != nil {
		return out, err
	}
	for _, b := range bundled {
		k := keepers[b.kind]
		if err := s.rows(ctx, "what goes into a bundle",
			"SELECT id, version, deleted, form, doc, "+k.fileColumn()+" FROM "+b.kind+" WHERE "+b.where+
				" ORDER BY id", func(r *sql.Rows) error {
				e := Entry{Kind: b.kind}
				var doc string
				if err := r.Scan(&e.ID, &e.Version, &e.Deleted, &e.Form, &doc, &e.File); err != nil {
					return err
				}
				e.Doc = json.RawMessage(doc)
				out.Entries = append(out.Entries, e)
				return nil
			}, outingID); err != nil {
			return out, err
		}
	}
	if err := s.rows(ctx, "what goes into a bundle", `SELECT r.doc FROM revision r JOIN deployment d ON d.id = r.deployment_id
		WHERE d.outing_id = ? ORDER BY r.id`, func(r *sql.Rows) error {
		var v deployment.Revision
		if err := scanDoc(r, &v); err != nil {
			return err
		}
		out.Revisions = append(out.Revisions, v)
		return nil
	}, outingID); err != nil {
		return out, err
	}
	err = s.rows(ctx, "what goes into a bundle",
		"SELECT number, "+reportColumns+" FROM report WHERE outing_id = ? AND deleted = 0 ORDER BY at, receiver, batch, number",
		func(r *sql.Rows) error {
			var number string
			x, err := scanReport(numbered{r, &number})
			x.OutingID, x.ID = outingID, number
			out.Reports = append(out.Reports, x)
			return err
		}, outingID)
	return out, err
}

// numbered reads one column before those of a report.
type numbered struct {
	*sql.Rows
	number *string
}

func (n numbered) Scan(into ...any) error { return n.Rows.Scan(append([]any{n.number}, into...)...) }

// Merged counts what a bundle brought: new things, things that are newer there, and those that were here as new or newer.
type Merged struct {
	New     int `json:"new"`
	Newer   int `json:"newer"`
	Kept    int `json:"kept"`
	Reports int `json:"reports"`
}

// Merge brings a bundle in. What is here under the same id stays if it is of a later version, or of the same and not behind by its
// text: so that bundles come to the same in any order, and one that comes twice changes nothing.
func (s *Store) Merge(ctx context.Context, b Bundle) (m Merged, err error) {
	err = s.inTx(ctx, "merging a bundle", func(tx *sql.Tx) error {
		m = Merged{}
		of := map[string][]Entry{}
		for _, e := range b.Entries {
			of[e.Kind] = append(of[e.Kind], e)
		}
		for _, kind := range bundled {
			for _, e := range of[kind.kind] {
				got, err := keepers[e.Kind].merge(ctx, tx, e)
				if err != nil {
					return fmt.Errorf("the %s %s of the bundle: %w", e.Kind, e.ID, err)
				}
				m.count(got)
			}
			delete(of, kind.kind)
			if kind.kind == "deployment" {
				if err := mergeRevisions(ctx, tx, b.Revisions, &m); err != nil {
					return err
				}
			}
		}
		for kind := range of {
			return fmt.Errorf("a bundle has no %s in it", kind)
		}
		return nil
	})
	if err != nil {
		return m, err
	}
	return m, s.mergeReports(ctx, b.Reports, &m)
}

func (m *Merged) count(got merging) {
	switch got {
	case isNew:
		m.New++
	case isNewer:
		m.Newer++
	default:
		m.Kept++
	}
}

type merging int

const (
	isKept merging = iota
	isNew
	isNewer
)

// merge brings one thing in.
func (k kind[T]) merge(ctx context.Context, tx *sql.Tx, e Entry) (merging, error) {
	v, err := k.known(e.ID, e.Form, string(e.Doc))
	if err != nil {
		return isKept, err
	}
	want, err := k.encode(v) // as it would be written here
	if err != nil {
		return isKept, err
	}
	want.deleted, want.file, want.version = e.Deleted, e.File, max(1, e.Version)
	have, ok, err := k.current(ctx, tx, e.ID)
	if err != nil {
		return isKept, err
	}
	if !ok {
		_, values := k.row(v, want.version, want)
		if _, err := tx.ExecContext(ctx, k.insert(), append([]any{e.ID}, values...)...); err != nil {
			return isKept, err
		}
		return isNew, k.follows(ctx, tx, nil, &v)
	}
	if !want.after(have) {
		return isKept, nil
	}
	was, err := k.decode(have.doc)
	if err != nil {
		return isKept, err
	}
	if want.version > have.version {
		if _, err := tx.ExecContext(ctx, `INSERT OR IGNORE INTO history (kind, id, version, deleted, doc, form, file, replaced_at)
			SELECT ?, id, version, deleted, doc, form, `+k.fileColumn()+`, strftime('%Y-%m-%dT%H:%M:%fZ') FROM `+k.name+" WHERE id = ?", k.name,
			e.ID); err != nil {
			return isKept, err
		}
	}
	names, values := k.row(v, want.version, want)
	if _, err := tx.ExecContext(ctx, "UPDATE "+k.name+" SET "+strings.Join(names, " = ?, ")+" = ? WHERE id = ?",
		append(values, e.ID)...); err != nil {
		return isKept, err
	}
	return isNewer, k.follows(ctx, tx, &was, &v)
}

func (k kind[T]) follows(ctx context.Context, tx *sql.Tx, was, v *T) error {
	if k.after == nil {
		return nil
	}
	return k.after(ctx, tx, was, v)
}

// after says that a state takes the place of another, wherever they meet.
func (s state) after(t state) bool {
	order := cmp.Or(cmp.Compare(s.version, t.version), strings.Compare(s.doc, t.doc), bytes.Compare(s.file, t.file))
	if order == 0 {
		return s.deleted && !t.deleted
	}
	return order > 0
}

// mergeRevisions adds revisions. Where two notebooks added some of their own they are numbered by their time.
func mergeRevisions(ctx context.Context, tx *sql.Tx, list []deployment.Revision, m *Merged) error {
	of := map[string][]deployment.Revision{}
	for _, r := range list {
		of[r.DeploymentID] = append(of[r.DeploymentID], r)
	}
	for id, more := range of {
		var all []deployment.Revision
		rows, err := tx.QueryContext(ctx, "SELECT doc FROM revision WHERE deployment_id = ?", id)
		if err != nil {
			return err
		}
		for rows.Next() {
			var r deployment.Revision
			if err := scanDoc(rows, &r); err != nil {
				rows.Close()
				return err
			}
			all = append(all, r)
		}
		if err := rows.Err(); err != nil {
			return err
		}
		fresh := 0
		for _, r := range more {
			if !slices.ContainsFunc(all, func(have deployment.Revision) bool { return have.ID == r.ID }) {
				all, fresh = append(all, r), fresh+1
			}
		}
		m.New, m.Kept = m.New+fresh, m.Kept+len(more)-fresh
		if fresh == 0 {
			continue
		}
		numbers := map[int]bool{}
		for _, r := range all {
			numbers[r.Seq] = true
		}
		if len(numbers) < len(all) {
			slices.SortFunc(all, func(a, b deployment.Revision) int { return cmp.Or(a.At.Compare(b.At), strings.Compare(a.ID, b.ID)) })
			for i := range all {
				all[i].Seq = i + 1
			}
		}
		// Numbers are one's own within a deployment: out of the way first.
		if _, err := tx.ExecContext(ctx, "UPDATE revision SET seq = -seq WHERE deployment_id = ?", id); err != nil {
			return err
		}
		for _, r := range all {
			doc, err := json.Marshal(r)
			if err != nil {
				return err
			}
			if _, err := tx.ExecContext(ctx, `INSERT INTO revision (id, deployment_id, seq, doc) VALUES (?, ?, ?, ?)
				ON CONFLICT (id) DO UPDATE SET seq = excluded.seq, doc = excluded.doc`, r.ID, id, r.Seq, string(doc)); err != nil {
				return fmt.Errorf("revision %s: %w", r.ID, err)
			}
		}
	}
	return nil
}

// mergeReports adds the reports of a bundle, each under its own batch and number.
func (s *Store) mergeReports(ctx context.Context, list []onair.Report, m *Merged) error {
	type batch struct{ outing, id string }
	of := map[batch][]NumberedReport{}
	var order []batch
	for _, r := range list {
		var n int
		if _, err := fmt.Sscan(r.ID, &n); err != nil {
			return fmt.Errorf("a report of the bundle has no number: %q", r.ID)
		}
		key := batch{r.OutingID, r.Batch}
		if _, ok := of[key]; !ok {
			order = append(order, key)
		}
		of[key] = append(of[key], NumberedReport{r, n})
	}
	for _, key := range order {
		added, _, err := s.AddReports(ctx, key.outing, key.id, func(yield func(NumberedReport, error) bool) {
			for _, r := range of[key] {
				if !yield(r, nil) {
					return
				}
			}
		})
		if m.Reports += added; err != nil {
			return err
		}
	}
	// What anybody set aside stays so, under the same reason wherever bundles meet.
	return s.inTx(ctx, "merging a bundle", func(tx *sql.Tx) error {
		for _, r := range list {
			if r.SetAside == "" {
				continue
			}
			if _, err := tx.ExecContext(ctx, "UPDATE report SET aside = ? WHERE batch = ? AND number = ? AND aside < ?", r.SetAside, r.Batch, r.ID,
				r.SetAside); err != nil {
				return err
			}
		}
		return nil
	})
}
