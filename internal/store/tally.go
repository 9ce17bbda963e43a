package store

import (
	"cmp"
	"context"
	"database/sql"
	"time"

	"reed/core/onair"
)

// The tally counts contacts by outing, day, antenna and band as they are written (triggers of the database), and of them
// those that count something new ("fresh"), which is the scheme's rule in core.

// freshOf works out which of some contacts count something new, and writes what differs.
func freshOf(ctx context.Context, tx *sql.Tx, scheme, query string, args ...any) error {
	rows, err := tx.QueryContext(ctx, query, args...)
	if err != nil {
		return err
	}
	var list []onair.Contact
	type state struct {
		fresh  bool
		counts string
	}
	was := map[string]state{}
	for rows.Next() {
		var c onair.Contact
		var at int64
		var now state
		if err := rows.Scan(&c.ID, &at, &c.Call, &c.Band, &c.Mode, &c.OwnRef, &c.OtherRef, &c.Operator, &now.fresh, &now.counts); err != nil {
			rows.Close()
			return err
		}
		c.At = time.UnixMilli(at)
		list, was[c.ID] = append(list, c), now
	}
	if err := rows.Err(); err != nil {
		return err
	}
	rule, err := schemeNamed(ctx, tx, scheme)
	if err != nil {
		return err
	}
	counts, dup := rule.Counting(list)
	var mark *sql.Stmt // made when the first differs: most writes change none
	for _, c := range list {
		now := state{dup[c.ID] == "", rule.Key(counts[c.ID])}
		if now == was[c.ID] {
			continue
		}
		if mark == nil {
			if mark, err = tx.PrepareContext(ctx, "UPDATE contact SET fresh = ?, counts = ? WHERE id = ?"); err != nil {
				return err
			}
			defer mark.Close()
		}
		if _, err := mark.ExecContext(ctx, now.fresh, now.counts, c.ID); err != nil {
			return err
		}
	}
	return nil
}

const (
	rule = "SELECT id, at, call, band, mode, own_ref, other_ref, coalesce(doc ->> 'operator', ''), fresh, counts " +
		"FROM contact WHERE outing_id = ? AND deleted = 0"
	inOrder  = " ORDER BY at, rowid"
	ofOne    = rule + " AND call = ?" + inOrder
	ofAll    = rule + inOrder
	schemeOf = "SELECT coalesce(doc ->> 'scheme', '') FROM outing WHERE id = ?"
)

// refresh works out anew which contacts with one station count.
func refresh(ctx context.Context, tx *sql.Tx, outing, call string) error {
	var scheme string
	if err := tx.QueryRowContext(ctx, schemeOf, outing).Scan(&scheme); err != nil {
		return err
	}
	return freshOf(ctx, tx, scheme, ofOne, outing, upper(call))
}

// recount works out anew which contacts of an outing count, under a scheme.
func recount(ctx context.Context, tx *sql.Tx, outing, scheme string) error {
	if err := freshOf(ctx, tx, scheme, ofAll, outing); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, "UPDATE outing SET counted_by = ? WHERE id = ?", cmp.Or(scheme, onair.Schemes()[0].ID), outing)
	return err
}

func recountNow(ctx context.Context, tx *sql.Tx, outing string) error {
	var scheme string
	if err := tx.QueryRowContext(ctx, schemeOf, outing).Scan(&scheme); err != nil {
		return err
	}
	return recount(ctx, tx, outing, scheme)
}

// recountStale works out what was never worked out under the outing's scheme, as after a migration.
func recountStale(ctx context.Context, db *sql.DB) error {
	var stale []string
	if err := scanAll(ctx, db, "SELECT id FROM outing WHERE counted_by = ''", func(r *sql.Rows) error {
		var id string
		err := r.Scan(&id)
		stale = append(stale, id)
		return err
	}); err != nil || len(stale) == 0 {
		return err
	}
	tx, err := db.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback() //nolint:errcheck // after Commit this does nothing
	for _, id := range stale {
		if err := recountNow(ctx, tx, id); err != nil {
			return err
		}
	}
	return tx.Commit()
}

// Tally returns the counts of an outing's contacts, without reading them.
type Tally struct {
	Contacts, Fresh int
	Counts, OnDay   onair.Counts // of Fresh, by what they count for: of all days, and of the latest with contacts
	ByDeployment    map[string]int
	ByBand          map[string]int
}

const (
	tallies = "SELECT outing_id, day, deployment_id, band, counts, contacts, fresh FROM tally WHERE contacts > 0"
	tallyOf = tallies + " AND outing_id = ?"
	// What counted in the last stretch, by outing and day: nobody is on the air in hundreds of places at once.
	recentOf = "SELECT outing_id, day, count(*) FROM contact WHERE deleted = 0 AND fresh = 1 AND at >= ? AND at <= ? GROUP BY 1, 2"
)

func (s *Store) tally(ctx context.Context, query string, args ...any) (map[string]*Tally, error) {
	out := map[string]*Tally{}
	err := s.rows(ctx, "the counts", query, func(r *sql.Rows) error {
		var outing, day, deployment, band, counts string
		var contacts, fresh int
		if err := r.Scan(&outing, &day, &deployment, &band, &counts, &contacts, &fresh); err != nil {
			return err
		}
		t := out[outing]
		if t == nil {
			t = &Tally{ByDeployment: map[string]int{}, ByBand: map[string]int{}}
			out[outing] = t
		}
		t.Contacts, t.Fresh = t.Contacts+contacts, t.Fresh+fresh
		t.ByDeployment[deployment] += contacts
		t.ByBand[band] += contacts
		if day > t.OnDay.Day {
			t.OnDay = onair.Counts{Day: day}
		}
		if fresh == 0 {
			return nil
		}
		t.Counts.Add(counts, fresh)
		if day == t.OnDay.Day {
			t.OnDay.Add(counts, fresh)
		}
		return nil
	}, args...)
	return out, err
}

// Progress is how far an outing is to its scheme's minimum at a time, with its tally.
func (s *Store) Progress(ctx context.Context, o Outing, now time.Time) (onair.Progress, Tally, error) {
	all, err := s.tally(ctx, tallyOf, o.ID)
	if err != nil {
		return onair.Progress{}, Tally{}, err
	}
	t := all[o.ID]
	if t == nil {
		t = &Tally{ByDeployment: map[string]int{}, ByBand: map[string]int{}}
	}
	late, err := s.recent(ctx, now)
	if err != nil {
		return onair.Progress{}, *t, err
	}
	scheme, err := s.Scheme(ctx, o.Scheme)
	return progress(scheme, o, *t, late, now), *t, err
}

// recent counts what counted in the last stretch, by outing and day.
func (s *Store) recent(ctx context.Context, now time.Time) (map[string]map[string]int, error) {
	out := map[string]map[string]int{}
	err := s.rows(ctx, "the last contacts", recentOf, func(r *sql.Rows) error {
		var outing, day string
		var n int
		if err := r.Scan(&outing, &day, &n); err != nil {
			return err
		}
		if out[outing] == nil {
			out[outing] = map[string]int{}
		}
		out[outing][day] = n
		return nil
	}, now.Add(-onair.Recent).UnixMilli(), now.UnixMilli())
	return out, err
}

func progress(scheme onair.Scheme, o Outing, t Tally, late map[string]map[string]int, now time.Time) onair.Progress {
	c := t.Counts
	if scheme.PerDay {
		c = t.OnDay
	}
	c.Duplicates = t.Contacts - t.Fresh
	for day, n := range late[o.ID] {
		if !scheme.PerDay || day == c.Day {
			c.Late += n
		}
	}
	return scheme.Progress(c, now)
}
