package store

import (
	"cmp"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"

	"reed/core/deployment"
	"reed/core/lineage"
	"reed/core/onair"
)

// Bundle is things with all their versions, to be carried to another notebook.
type Bundle struct {
	Things    []Thing
	Revisions []deployment.Revision
	Reports   []onair.Report // of each its batch and its number in it are in the report's batch and id
}

// Thing is a kept thing with its written versions.
type Thing struct {
	Kind, ID string
	Versions []Written
}

// carried lists the kinds that are carried, each behind those that it needs.
var carried = []string{"scheme", "site", "part", "outing", "deployment", "marks", "recipe", "sweep", "photo", "contact", "note", "run"}

// ofOuting says how the things of a kind are found by their outing.
var ofOuting = map[string]string{
	"outing": "id = ?1", "deployment": "outing_id = ?1", "contact": "outing_id = ?1", "note": "outing_id = ?1", "run": "outing_id = ?1",
	"marks": "deployment_id IN (SELECT id FROM deployment WHERE outing_id = ?1)",
	"photo": "deployment_id IN (SELECT id FROM deployment WHERE outing_id = ?1)",
	"sweep": "revision_id IN (SELECT r.id FROM revision r JOIN deployment d ON d.id = r.deployment_id WHERE d.outing_id = ?1)",
	// A recipe goes with the outing that it was kept from.
	"recipe": "revision_id IN (SELECT r.id FROM revision r JOIN deployment d ON d.id = r.deployment_id WHERE d.outing_id = ?1)",
	"site":   "id IN (SELECT doc ->> 'site' FROM outing WHERE id = ?1)",
	"scheme": "id IN (SELECT doc ->> 'scheme' FROM outing WHERE id = ?1)",
	// Of the bag what is named in the outing's plans and set-ups.
	"part": `EXISTS (SELECT 1 FROM deployment WHERE outing_id = ?1 AND instr(deployment.doc, '"' || part.id || '"'))
		OR EXISTS (SELECT 1 FROM deployment WHERE outing_id = ?1 AND instr(deployment.doc, ':' || part.id || '"'))
		OR EXISTS (SELECT 1 FROM revision r JOIN deployment d ON d.id = r.deployment_id WHERE d.outing_id = ?1
			AND (instr(r.doc, '"' || part.id || '"') OR instr(r.doc, ':' || part.id || '"')))`,
}

// Bundle gathers an outing with all that belongs to it and that it needs, what was deleted too: it has to stay so elsewhere. Without an
// outing it gathers the whole notebook but for who the operator is.
func (s *Store) Bundle(ctx context.Context, outingID string) (out Bundle, err error) {
	if outingID != "" {
		if _, err := s.Outing(ctx, outingID); err != nil {
			return out, err
		}
	}
	// Where versions come from is recorded as they are gathered.
	err = s.inTx(ctx, "gathering a bundle", func(tx *sql.Tx) error {
		for _, kind := range carried {
			where, args := "", []any(nil)
			if outingID != "" {
				where, args = " WHERE "+ofOuting[kind], []any{outingID}
			}
			ids, err := idsOf(ctx, tx, "SELECT id FROM "+kind+where+" ORDER BY id", args...)
			if err != nil {
				return err
			}
			for _, id := range ids {
				list, _, _, err := keepers[kind].versions(ctx, tx, id)
				if err != nil {
					return err
				}
				out.Things = append(out.Things, Thing{kind, id, list})
			}
		}
		return nil
	})
	if err != nil {
		return out, err
	}
	of, only, args := "", "", []any(nil)
	if outingID != "" {
		of, only, args = " WHERE d.outing_id = ?", " AND outing_id = ?", []any{outingID}
	}
	if err := s.rows(ctx, "what goes into a bundle", "SELECT r.doc FROM revision r JOIN deployment d ON d.id = r.deployment_id"+of+
		" ORDER BY r.id", func(r *sql.Rows) error {
		var v deployment.Revision
		if err := scanDoc(r, &v); err != nil {
			return err
		}
		out.Revisions = append(out.Revisions, v)
		return nil
	}, args...); err != nil {
		return out, err
	}
	err = s.rows(ctx, "what goes into a bundle",
		"SELECT number, outing_id, "+reportColumns+" FROM report WHERE deleted = 0"+only+" ORDER BY outing_id, at, receiver, batch, number",
		func(r *sql.Rows) error {
			var number, outing string
			x, err := scanReport(numbered{r, &number, &outing})
			x.OutingID, x.ID = outing, number
			out.Reports = append(out.Reports, x)
			return err
		}, args...)
	return out, err
}

// numbered reads two columns before those of a report.
type numbered struct {
	*sql.Rows
	number, outing *string
}

func (n numbered) Scan(into ...any) error {
	return n.Rows.Scan(append([]any{n.number, n.outing}, into...)...)
}

// Change is the effect of a merge on one thing.
type Change struct {
	Kind  string `json:"kind"`
	ID    string `json:"id"`
	Label string `json:"label"`
	What  string `json:"what"`
}

// Merged is the result of a merge or of its preview: the changes one by one as far as they are listed, and how many
// of each there are. ID undoes it; it is 0 where nothing changed.
type Merged struct {
	ID      int64          `json:"id,omitempty"`
	Changes []Change       `json:"changes"`
	Counts  map[string]int `json:"counts"`
	Reports int            `json:"reports"`
}

// mostListed is how many changes of a merge are listed one by one.
const mostListed = 200

// Total is how many things a merge changes.
func (m Merged) Total() int {
	n := m.Reports
	for what, c := range m.Counts {
		if what != ChangeNone {
			n += c
		}
	}
	return n
}

// Says puts a merge into a sentence.
func (m Merged) Says() string {
	if m.Total() == 0 {
		return "All of it is here already."
	}
	var out []string
	for _, x := range []struct{ what, one, more string }{
		{ChangeNew, "1 new", "%d new"}, {ChangeTheirs, "1 changed by them", "%d changed by them"},
		{ChangeJoined, "1 changed by both and joined", "%d changed by both and joined"},
		{ChangeConflict, "1 changed by both in the same field", "%d changed by both in the same field"},
		{ChangeRemoved, "1 deleted by them", "%d deleted by them"},
		{ChangeEarlier, "1 with earlier versions for its history", "%d with earlier versions for their history"},
	} {
		switch n := m.Counts[x.what]; {
		case n == 1:
			out = append(out, x.one)
		case n > 1:
			out = append(out, fmt.Sprintf(x.more, n))
		}
	}
	switch {
	case m.Reports == 1:
		out = append(out, "1 reception report")
	case m.Reports > 1:
		out = append(out, fmt.Sprintf("%d reception reports", m.Reports))
	}
	return strings.ToUpper(out[0][:1]) + strings.Join(out, ", ")[1:] + "."
}

func (m *Merged) note(c Change) {
	m.Counts[c.What]++
	if c.What != ChangeNone && c.What != ChangeEarlier && len(m.Changes) < mostListed {
		m.Changes = append(m.Changes, c)
	}
}

// undoing is the record that a merge is undone by.
type undoing struct {
	Things    []undoThing `json:"things,omitempty"`
	Revisions []string    `json:"revisions,omitempty"`
	Reports   [2]int64    `json:"reports"` // above the first and up to the second
}

type undoThing struct {
	Kind   string `json:"kind"`
	ID     string `json:"id"`
	Before int    `json:"before"` // the number of its version, 0 where it was not here
	After  int    `json:"after"`
}

// errRehearsed ends a merge that is only to be looked at.
var errRehearsed = errors.New("rehearsed")

// Merge takes a bundle in, all of it or nothing. Fields that were changed on different sides are joined; of what was changed on both the
// text written last is shown, the other stays in history, and the conflict is listed until somebody decides. Whatever carried bundles come
// in, notebooks with the same versions show the same. from is the call of who made the bundle. A rehearsal changes nothing.
func (s *Store) Merge(ctx context.Context, b Bundle, from string, rehearse bool) (m Merged, err error) {
	err = s.inTx(ctx, "merging a bundle", func(tx *sql.Tx) error {
		m = Merged{Changes: []Change{}, Counts: map[string]int{}}
		var undo undoing
		if err := s.mergeThings(ctx, tx, b, &m, &undo); err != nil {
			return err
		}
		var err error
		if undo.Reports[0], err = lastReport(ctx, tx); err != nil {
			return err
		}
		if err := mergeReports(ctx, tx, b.Reports, &m); err != nil {
			return err
		}
		if undo.Reports[1], err = lastReport(ctx, tx); err != nil {
			return err
		}
		if rehearse {
			return errRehearsed
		}
		if m.Total() == 0 {
			return nil
		}
		doc, err := json.Marshal(undo)
		if err != nil {
			return err
		}
		res, err := tx.ExecContext(ctx, "INSERT INTO merge (at, call, says, doc) VALUES (?, ?, ?, ?)",
			time.Now().UTC().Format(time.RFC3339), from,
			fmt.Sprintf("%d things", m.Total()), string(doc))
		if err != nil {
			return err
		}
		m.ID, err = res.LastInsertId()
		return err
	})
	if errors.Is(err, errRehearsed) {
		err = nil
	}
	return m, err
}

func lastReport(ctx context.Context, tx *sql.Tx) (seq int64, err error) {
	err = tx.QueryRowContext(ctx, "SELECT coalesce(max(seq), 0) FROM report").Scan(&seq)
	return seq, err
}

// mergeThings takes in all things of a bundle, each kind behind those that it needs, and its revisions.
func (s *Store) mergeThings(ctx context.Context, tx *sql.Tx, b Bundle, m *Merged, undo *undoing) error {
	of := map[string][]Thing{}
	for _, t := range b.Things {
		if !slices.Contains(carried, t.Kind) {
			return fmt.Errorf("a bundle has no %q in it", t.Kind)
		}
		of[t.Kind] = append(of[t.Kind], t)
	}
	for _, kind := range carried {
		for _, t := range of[kind] {
			change, before, err := keepers[kind].absorb(ctx, tx, t.ID, t.Versions)
			if err != nil {
				return fmt.Errorf("the %s %s of the bundle: %w", kind, t.ID, err)
			}
			label := ""
			if change != ChangeNone {
				after := 0
				var doc string
				if err := tx.QueryRowContext(ctx, "SELECT version, doc FROM "+kind+" WHERE id = ?", t.ID).Scan(&after, &doc); err != nil {
					return err
				}
				undo.Things = append(undo.Things, undoThing{kind, t.ID, before, after})
				label = labelOf(kind, doc)
			}
			m.note(Change{kind, t.ID, label, change})
		}
		if kind == "deployment" {
			added, err := mergeRevisions(ctx, tx, b.Revisions, m)
			if err != nil {
				return err
			}
			undo.Revisions = added
		}
	}
	return nil
}

// labelOf names a thing by its document.
func labelOf(kind, doc string) string {
	var v struct {
		Name, Call, Date, Caption, Text, Mode, Band string
		At, Begin                                   string
	}
	if json.Unmarshal([]byte(doc), &v) != nil {
		return kind
	}
	const most = 80
	when := cmp.Or(v.Date, v.At, v.Begin)
	if at, err := time.Parse(time.RFC3339, when); err == nil {
		when = at.UTC().Format("2006-01-02 15:04 UTC")
	}
	out := strings.TrimSpace(cmp.Or(v.Name, v.Call, v.Caption, v.Text, v.Mode) + " " + when)
	if len(out) > most {
		out = out[:most]
	}
	return strings.ToValidUTF8(cmp.Or(out, kind), "")
}

// ConflictOf is a thing with fields that two notebooks changed, each in its own way.
type ConflictOf struct {
	Kind    string             `json:"kind"`
	ID      string             `json:"id"`
	Label   string             `json:"label"`
	Version int                `json:"version"`
	Fields  []lineage.Conflict `json:"fields"`
}

// Conflicts lists what nobody has decided yet.
func (s *Store) Conflicts(ctx context.Context) (out []ConflictOf, err error) {
	out = []ConflictOf{}
	if err := s.rows(ctx, "the conflicts", "SELECT kind, id, fields FROM conflict ORDER BY kind, id LIMIT 500", func(r *sql.Rows) error {
		var c ConflictOf
		var fields string
		if err := r.Scan(&c.Kind, &c.ID, &fields); err != nil {
			return err
		}
		out = append(out, c)
		return json.Unmarshal([]byte(fields), &out[len(out)-1].Fields)
	}); err != nil {
		return nil, err
	}
	for i, c := range out {
		if !slices.Contains(carried, c.Kind) {
			continue
		}
		if err := s.rows(ctx, "the conflicts", "SELECT version, doc FROM "+c.Kind+" WHERE id = ?", func(r *sql.Rows) error {
			var doc string
			err := r.Scan(&out[i].Version, &doc)
			out[i].Label = labelOf(c.Kind, doc)
			return err
		}, c.ID); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Decide ends conflicts of a thing: for each path which of the values stays. It is a write like others, made from a version.
func (s *Store) Decide(ctx context.Context, kind, id string, from int, choice map[string]int) (version int, err error) {
	k, ok := keepers[kind]
	if !ok {
		return 0, fmt.Errorf("%q has no versions: %w", kind, ErrNotFound)
	}
	err = s.inTx(ctx, "deciding a conflict", func(tx *sql.Tx) (err error) {
		version, err = k.decide(ctx, tx, id, from, choice)
		return err
	})
	return version, err
}

// UndoMerge takes a merge back as one step. What somebody changed since then stays as it is; kept says how many things these are.
func (s *Store) UndoMerge(ctx context.Context, merge int64) (kept int, err error) {
	err = s.inTx(ctx, "undoing a merge", func(tx *sql.Tx) error {
		kept = 0
		var doc string
		switch err := tx.QueryRowContext(ctx, "SELECT doc FROM merge WHERE id = ? AND undone = 0", merge).Scan(&doc); {
		case errors.Is(err, sql.ErrNoRows):
			return fmt.Errorf("merge %d: %w", merge, ErrNotFound)
		case err != nil:
			return err
		}
		var undo undoing
		if err := json.Unmarshal([]byte(doc), &undo); err != nil {
			return err
		}
		// Marked as deleted first, so that what is counted of them follows.
		for _, q := range []string{"UPDATE report SET deleted = 1 WHERE seq > ? AND seq <= ? AND deleted = 0",
			"DELETE FROM report WHERE seq > ? AND seq <= ?"} {
			if _, err := tx.ExecContext(ctx, q, undo.Reports[0], undo.Reports[1]); err != nil {
				return err
			}
		}
		step := func(t undoThing) error {
			return inSavepoint(ctx, tx, func() error { return keepers[t.Kind].forget(ctx, tx, t.ID, t.Before, t.After) }, &kept)
		}
		for _, t := range slices.Backward(undo.Things) {
			if t.Kind != "deployment" && t.Kind != "outing" {
				if err := step(t); err != nil {
					return err
				}
			}
		}
		for _, id := range undo.Revisions {
			if err := inSavepoint(ctx, tx, func() error {
				_, err := tx.ExecContext(ctx, "DELETE FROM revision WHERE id = ?", id)
				return err
			}, &kept); err != nil {
				return err
			}
		}
		for _, t := range slices.Backward(undo.Things) {
			if t.Kind == "deployment" || t.Kind == "outing" {
				if err := step(t); err != nil {
					return err
				}
			}
		}
		_, err := tx.ExecContext(ctx, "UPDATE merge SET undone = 1 WHERE id = ?", merge)
		return err
	})
	return kept, err
}

// inSavepoint does a step that may fail because something belongs to what it removes: then nothing of it is done, and it is counted.
func inSavepoint(ctx context.Context, tx *sql.Tx, step func() error, kept *int) error {
	if _, err := tx.ExecContext(ctx, "SAVEPOINT step"); err != nil {
		return err
	}
	err := step()
	if se := (*sqlite.Error)(nil); errors.As(err, &se) && se.Code() == sqlite3.SQLITE_CONSTRAINT_FOREIGNKEY {
		*kept++
		if _, err := tx.ExecContext(ctx, "ROLLBACK TO step"); err != nil {
			return err
		}
		err = nil
	}
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, "RELEASE step")
	return err
}

// mergeRevisions adds revisions. Where two notebooks added some of their own they are numbered by their time.
func mergeRevisions(ctx context.Context, tx *sql.Tx, list []deployment.Revision, m *Merged) (added []string, err error) {
	of := map[string][]deployment.Revision{}
	for _, r := range list {
		of[r.DeploymentID] = append(of[r.DeploymentID], r)
	}
	for id, more := range of {
		var all []deployment.Revision
		rows, err := tx.QueryContext(ctx, "SELECT doc FROM revision WHERE deployment_id = ?", id)
		if err != nil {
			return nil, err
		}
		for rows.Next() {
			var r deployment.Revision
			if err := scanDoc(rows, &r); err != nil {
				rows.Close()
				return nil, err
			}
			all = append(all, r)
		}
		if err := rows.Err(); err != nil {
			return nil, err
		}
		fresh := 0
		for _, r := range more {
			if !slices.ContainsFunc(all, func(have deployment.Revision) bool { return have.ID == r.ID }) {
				if err := r.CheckKept(); err != nil {
					return nil, err
				}
				all, fresh, added = append(all, r), fresh+1, append(added, r.ID)
				m.note(Change{"revision", r.ID, r.Reason, ChangeNew})
			}
		}
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
			return nil, err
		}
		for _, r := range all {
			doc, err := json.Marshal(r)
			if err != nil {
				return nil, err
			}
			if _, err := tx.ExecContext(ctx, `INSERT INTO revision (id, deployment_id, seq, doc) VALUES (?, ?, ?, ?)
				ON CONFLICT (id) DO UPDATE SET seq = excluded.seq, doc = excluded.doc`, r.ID, id, r.Seq, string(doc)); err != nil {
				return nil, fmt.Errorf("revision %s: %w", r.ID, err)
			}
		}
	}
	return added, nil
}

// mergeReports adds the reports of a bundle, each under its own batch and number.
func mergeReports(ctx context.Context, tx *sql.Tx, list []onair.Report, m *Merged) error {
	type batch struct{ outing, id string }
	of := map[batch][]NumberedReport{}
	var sequence []batch
	for _, r := range list {
		if err := r.CheckKept(); err != nil {
			return err
		}
		n, err := strconv.Atoi(r.ID)
		if err != nil {
			return fmt.Errorf("a report of the bundle has no number: %q", r.ID)
		}
		key := batch{r.OutingID, r.Batch}
		if _, ok := of[key]; !ok {
			sequence = append(sequence, key)
		}
		of[key] = append(of[key], NumberedReport{r, n})
	}
	for _, key := range sequence {
		added, _, err := addReportsIn(ctx, tx, key.outing, key.id, of[key])
		if m.Reports += added; err != nil {
			return err
		}
	}
	// What anybody set aside stays so, under the same reason wherever bundles meet.
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
}
