package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"reed/core/onair"
)

var contacts = keep(kind[onair.Contact]{
	name: "contact",
	columns: []string{"outing_id", "deployment_id", "at", "batch", "day", "call", "band", "mode", "own_ref", "other_ref", "locator",
		"power_w", "line", "submode", "received"},
	values: func(c onair.Contact) []any {
		return []any{c.OutingID, null(c.DeploymentID), c.At.UnixMilli(), null(c.Batch), c.At.UTC().Format(time.DateOnly), upper(c.Call), c.Band,
			c.Mode,
			c.OwnRef, c.OtherRef, c.Locator, c.PowerW, null(c.Line), c.Submode,
			c.Received}
	},
	check: onair.Contact.CheckKept,
	strip: func(c *onair.Contact) { c.Version, c.Deleted = 0, false },
	after: func(ctx context.Context, tx *sql.Tx, was, c *onair.Contact) error {
		if was != nil && (was.OutingID != c.OutingID || !strings.EqualFold(was.Call, c.Call)) {
			if err := refresh(ctx, tx, was.OutingID, was.Call); err != nil {
				return err
			}
		}
		return refresh(ctx, tx, c.OutingID, c.Call)
	},
})

// upper does the same as SQLite's upper(): only the 26 letters.
func upper(s string) string {
	return strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' {
			return r - 'a' + 'A'
		}
		return r
	}, s)
}

func null(s string) any {
	if s == "" {
		return nil
	}
	return s
}

// PutContact stores a contact, made from a version.
func (s *Store) PutContact(ctx context.Context, c onair.Contact, from int) (onair.Contact, error) {
	err := s.inTx(ctx, "logging the contact", func(tx *sql.Tx) (err error) {
		c.Version, err = contacts.put(ctx, tx, c.ID, c, from, c.Deleted, nil)
		return err
	})
	return c, err
}

// AddContacts stores new contacts of one import in one transaction; ids that are there stay as they are.
func (s *Store) AddContacts(ctx context.Context, all []onair.Contact) (added int, err error) {
	err = s.inTx(ctx, "importing contacts", func(tx *sql.Tx) error {
		touched := map[string]bool{}
		add, err := tx.PrepareContext(ctx, contacts.insert()+" ON CONFLICT (id) DO NOTHING")
		if err != nil {
			return err
		}
		defer add.Close()
		for _, c := range all {
			c.Version, c.Deleted = 0, false
			want, err := contacts.encode(c)
			if err != nil {
				return err
			}
			_, values := contacts.row(c, 1, want)
			res, err := add.ExecContext(ctx, append([]any{c.ID}, values...)...)
			if err != nil {
				return err
			}
			n, err := res.RowsAffected()
			if err != nil {
				return err
			}
			added += int(n)
			touched[c.OutingID] = touched[c.OutingID] || n > 0
		}
		for id := range touched {
			if err := recountNow(ctx, tx, id); err != nil {
				return err
			}
		}
		return nil
	})
	return added, err
}

// RemoveBatch removes the contacts of one import that were not changed since, as a version that can be undone.
func (s *Store) RemoveBatch(ctx context.Context, batch string) (removed int, err error) {
	err = s.inTx(ctx, "taking the import out", func(tx *sql.Tx) error {
		outing := ""
		err := tx.QueryRowContext(ctx, "SELECT outing_id FROM contact WHERE batch = ? LIMIT 1", batch).Scan(&outing)
		if errors.Is(err, sql.ErrNoRows) {
			return nil
		}
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO history (kind, id, version, deleted, doc, form, replaced_at)
			SELECT 'contact', id, version, deleted, doc, form, strftime('%Y-%m-%dT%H:%M:%fZ')
			FROM contact WHERE batch = ? AND deleted = 0 AND version = 1`, batch); err != nil {
			return err
		}
		res, err := tx.ExecContext(ctx, "UPDATE contact SET deleted = 1, version = version + 1 WHERE batch = ? AND deleted = 0 AND version = 1",
			batch)
		if err != nil {
			return err
		}
		n, err := res.RowsAffected()
		if removed = int(n); err != nil {
			return err
		}
		return recountNow(ctx, tx, outing)
	})
	return removed, err
}

// Contact reads one contact, removed ones too.
func (s *Store) Contact(ctx context.Context, id string) (onair.Contact, error) {
	c, version, deleted, err := contacts.one(ctx, s.r, id)
	c.Version, c.Deleted = version, deleted
	return c, err
}

// Contacts lists the contacts of an outing in rising time.
func (s *Store) Contacts(ctx context.Context, outingID string) ([]onair.Contact, error) {
	return s.listContacts(ctx, "SELECT version, doc FROM contact WHERE outing_id = ? AND deleted = 0 ORDER BY at, rowid", outingID)
}

// sameStation finds what was worked before of a station, from an index.
const sameStation = "SELECT version, doc FROM contact WHERE outing_id = ? AND call = ? AND deleted = 0 ORDER BY at, rowid"

// ContactsWith lists an outing's contacts with one station in rising time.
func (s *Store) ContactsWith(ctx context.Context, outingID, call string) ([]onair.Contact, error) {
	return s.listContacts(ctx, sameStation, outingID, upper(call))
}

func (s *Store) listContacts(ctx context.Context, query string, args ...any) ([]onair.Contact, error) {
	return listed(ctx, s, "the contacts", query, func(c *onair.Contact, version int) { c.Version = version }, args...)
}

const lastTyped = "SELECT doc FROM contact WHERE outing_id = ? AND deleted = 0 AND line IS NOT NULL AND at <= ? ORDER BY at DESC, " +
	"rowid DESC LIMIT 1"

// LastTyped is the latest typed contact of an outing up to a time; ok is false without one.
func (s *Store) LastTyped(ctx context.Context, outingID string, until time.Time) (c onair.Contact, ok bool, err error) {
	err = s.rows(ctx, "the last contact", lastTyped, func(r *sql.Rows) error {
		ok = true
		return scanDoc(r, &c)
	}, outingID, until.UnixMilli())
	return c, ok, err
}

// Row is a contact of a log, and whether it counts nothing new. Key is its place in the log.
type Row struct {
	onair.Contact
	Duplicate bool
	Key       string
}

const (
	page       = "SELECT rowid, at, version, fresh, doc FROM contact WHERE outing_id = ? AND deleted = 0 AND (at, rowid) < (?, ?)"
	pageNewest = " ORDER BY at DESC, rowid DESC LIMIT ?"
	// What is searched is read from its index alone; only what was found is read whole.
	pageFound = `SELECT rowid, at, version, fresh, doc FROM contact WHERE rowid IN (
		SELECT rowid FROM contact INDEXED BY contact_search WHERE outing_id = ? AND deleted = 0 AND (at, rowid) < (?, ?)
		AND (call LIKE ? ESCAPE '\' OR other_ref LIKE ? ESCAPE '\' OR locator LIKE ? ESCAPE '\') ORDER BY at DESC, rowid DESC LIMIT ?)`
)

// Page lists up to most contacts of an outing, the newest first, from behind a key (empty for the newest of all).
// With words only those whose call, reference or locator holds them. next is the key to go on from, empty at the end.
func (s *Store) Page(ctx context.Context, outingID, before, words string, most int) (out []Row, next string, err error) {
	at, id := int64(1)<<62, int64(1)<<62
	if before != "" {
		if _, err := fmt.Sscanf(before, "%d.%d", &at, &id); err != nil {
			return nil, "", fmt.Errorf("%q is no place in a log: %w", before, ErrNotFound)
		}
	}
	query, args := page, []any{outingID, at, id}
	last := []any{most + 1}
	if words = strings.TrimSpace(words); words != "" {
		like := "%" + strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(words) + "%"
		query, args, last = pageFound, append(args, like, like, like), []any{most + 1, most + 1}
	}
	err = s.rows(ctx, "the log", query+pageNewest, func(r *sql.Rows) error {
		var v Row
		var rowid, at int64
		var fresh bool
		var version int
		if err := scanDoc(r, &v.Contact, &rowid, &at, &version, &fresh); err != nil {
			return err
		}
		v.Version, v.Duplicate, v.Key = version, !fresh, fmt.Sprintf("%d.%d", at, rowid)
		out = append(out, v)
		return nil
	}, append(args, last...)...)
	if len(out) > most {
		out = out[:most]
		next = out[most-1].Key
	}
	return out, next, err
}

// before finds what was worked of a station at other outings, from an index.
const before = `SELECT c.at, c.band, json_extract(o.doc, '$.name'),
	coalesce((SELECT json_extract(d.doc, '$.name') FROM deployment d WHERE d.id = c.deployment_id), ''),
	count(*) OVER () FROM contact c JOIN outing o ON o.id = c.outing_id AND o.deleted = 0
	WHERE c.call = ? AND c.outing_id <> ? AND c.deleted = 0 ORDER BY c.at DESC LIMIT 1`

// Before is when a station was worked last at another outing than one.
func (s *Store) Before(ctx context.Context, outingID, call string) (out onair.Before, err error) {
	err = s.rows(ctx, "what was worked before", before, func(r *sql.Rows) error {
		var at int64
		err := r.Scan(&at, &out.Band, &out.Where, &out.With, &out.Times)
		out.At = time.UnixMilli(at).UTC()
		return err
	}, upper(call), outingID)
	return out, err
}
