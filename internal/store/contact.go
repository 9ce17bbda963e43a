package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"time"

	"reed/core/onair"
)

var contacts = tableOf("contact", "outing_id", "deployment_id", "at", "batch")

func null(s string) any {
	if s == "" {
		return nil
	}
	return s
}

// PutContact stores a contact.
func (s *Store) PutContact(ctx context.Context, c onair.Contact) (onair.Contact, error) {
	deleted := c.Deleted
	c.Version, c.Deleted = 0, false
	err := s.inTx(ctx, "logging the contact", func(tx *sql.Tx) (err error) {
		c.Version, err = contacts.put(ctx, tx, c.ID, c, deleted, c.OutingID, null(c.DeploymentID), c.At.UnixMilli(), null(c.Batch))
		return err
	})
	c.Deleted = deleted
	return c, err
}

// AddContacts stores new contacts of one import in one transaction; ids that are there stay as they are.
func (s *Store) AddContacts(ctx context.Context, all []onair.Contact) (added int, err error) {
	err = s.inTx(ctx, "importing contacts", func(tx *sql.Tx) error {
		stmt, err := tx.PrepareContext(ctx, `INSERT INTO contact (id, version, deleted, doc, outing_id, deployment_id, at, batch)
			VALUES (?, 1, 0, ?, ?, ?, ?, ?) ON CONFLICT (id) DO NOTHING`)
		if err != nil {
			return err
		}
		defer stmt.Close()
		for _, c := range all {
			c.Version, c.Deleted = 0, false
			doc, err := json.Marshal(c)
			if err != nil {
				return err
			}
			res, err := stmt.ExecContext(ctx, c.ID, string(doc), c.OutingID, null(c.DeploymentID), c.At.UnixMilli(), null(c.Batch))
			if err != nil {
				return err
			}
			n, err := res.RowsAffected()
			if err != nil {
				return err
			}
			added += int(n)
		}
		return nil
	})
	return added, err
}

// RemoveBatch removes the contacts of one import that were not changed since, as a version that can be undone.
func (s *Store) RemoveBatch(ctx context.Context, batch string) (removed int, err error) {
	err = s.inTx(ctx, "taking the import out", func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(ctx, `INSERT INTO history (kind, id, version, deleted, doc, replaced_at)
			SELECT 'contact', id, version, deleted, doc, strftime('%Y-%m-%dT%H:%M:%fZ') FROM contact WHERE batch = ? AND deleted = 0 AND version = 1`, batch); err != nil {
			return err
		}
		res, err := tx.ExecContext(ctx, "UPDATE contact SET deleted = 1, version = version + 1 WHERE batch = ? AND deleted = 0 AND version = 1", batch)
		if err != nil {
			return err
		}
		n, err := res.RowsAffected()
		removed = int(n)
		return err
	})
	return removed, err
}

func (s *Store) setContact(ctx context.Context, id string, to int) (int, bool, error) {
	var c onair.Contact
	if err := s.versionDoc(ctx, contacts, id, to, &c); err != nil {
		return 0, false, err
	}
	c.Deleted = to == 0
	c, err := s.PutContact(ctx, c)
	return c.Version, c.Deleted, err
}

// Contact reads one contact, removed ones too.
func (s *Store) Contact(ctx context.Context, id string) (c onair.Contact, err error) {
	version, deleted, err := s.one(ctx, contacts, id, &c)
	c.Version, c.Deleted = version, deleted
	return c, err
}

// Contacts lists the contacts of an outing in rising time.
func (s *Store) Contacts(ctx context.Context, outingID string) ([]onair.Contact, error) {
	return s.contacts(ctx, "outing_id", outingID)
}

// ContactsOf lists the contacts made with one deployment in rising time.
func (s *Store) ContactsOf(ctx context.Context, deploymentID string) ([]onair.Contact, error) {
	return s.contacts(ctx, "deployment_id", deploymentID)
}

// LastTyped is the latest typed contact of an outing up to a time; ok is false without one.
func (s *Store) LastTyped(ctx context.Context, outingID string, until time.Time) (c onair.Contact, ok bool, err error) {
	err = s.rows(ctx, "the last contact", `SELECT doc FROM contact WHERE outing_id = ? AND deleted = 0 AND at <= ? AND json_extract(doc, '$.line') <> ''
		ORDER BY at DESC, rowid DESC LIMIT 1`, func(r *sql.Rows) error {
		ok = true
		return scanDoc(r, &c)
	}, outingID, until.UnixMilli())
	return c, ok, err
}

func (s *Store) contacts(ctx context.Context, column, id string) ([]onair.Contact, error) {
	out := []onair.Contact{}
	err := s.rows(ctx, "the contacts", fmt.Sprintf("SELECT version, doc FROM contact WHERE %s = ? AND deleted = 0 ORDER BY at, rowid", column), func(r *sql.Rows) error {
		var c onair.Contact
		var version int
		if err := scanDoc(r, &c, &version); err != nil {
			return err
		}
		c.Version = version
		out = append(out, c)
		return nil
	}, id)
	return out, err
}

// CountContacts counts the contacts by deployment, for one outing or all with an empty id. Contacts
// without a deployment count under "".
func (s *Store) CountContacts(ctx context.Context, outingID string) (map[string]int, error) {
	out := map[string]int{}
	err := s.rows(ctx, "the contacts", "SELECT coalesce(deployment_id, ''), count(*) FROM contact WHERE deleted = 0 AND (? = '' OR outing_id = ?) GROUP BY 1", func(r *sql.Rows) error {
		var id string
		var n int
		if err := r.Scan(&id, &n); err != nil {
			return err
		}
		out[id] = n
		return nil
	}, outingID, outingID)
	return out, err
}
