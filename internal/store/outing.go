package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"

	"reed/core/band"
)

// Me is the operator and what counts for them.
type Me struct {
	Call     string         `json:"call"`
	Region   band.Region    `json:"region"`
	Imperial bool           `json:"imperial"`
	Segments []band.Segment `json:"segments"`
	PowerW   float64        `json:"power_w"`
	GoodSWR  float64        `json:"good_swr"`
	Analyser string         `json:"analyser,omitempty"` // host:port of one on the network
}

// Me reads the operator; before the first setting up it is the defaults with no call.
func (s *Store) Me(ctx context.Context) (Me, error) {
	me := Me{Region: 1, Segments: band.DefaultSegments(1), PowerW: 10, GoodSWR: 2}
	var doc string
	switch err := s.r.QueryRowContext(ctx, "SELECT doc FROM me WHERE id = 1").Scan(&doc); {
	case errors.Is(err, sql.ErrNoRows):
		return me, nil
	case err != nil:
		return me, fmt.Errorf("reading the operator: %w", err)
	}
	return me, json.Unmarshal([]byte(doc), &me)
}

// PutMe stores the operator.
func (s *Store) PutMe(ctx context.Context, me Me) error {
	doc, err := json.Marshal(me)
	if err != nil {
		return fmt.Errorf("storing the operator: %w", err)
	}
	return s.inTx(ctx, "storing the operator", func(tx *sql.Tx) error {
		_, err := tx.ExecContext(ctx, "INSERT INTO me (id, doc) VALUES (1, ?) ON CONFLICT (id) DO UPDATE SET doc = excluded.doc", string(doc))
		return err
	})
}

// Outing is one visit to one place.
type Outing struct {
	ID      string `json:"id"`
	Name    string `json:"name"`
	Date    string `json:"date"`            // YYYY-MM-DD, UTC
	Place   string `json:"place,omitempty"` // as typed: a locator or a position
	Ground  string `json:"ground,omitempty"`
	Scheme  string `json:"scheme,omitempty"`
	OwnRef  string `json:"own_ref,omitempty"`
	Until   string `json:"until,omitempty"` // gate or tide, HH:MM UTC
	Notes   string `json:"notes,omitempty"`
	Version int    `json:"version"`
	Deleted bool   `json:"deleted,omitempty"`
}

var outings = tableOf("outing", "date")

// PutOuting stores an outing.
func (s *Store) PutOuting(ctx context.Context, o Outing) (Outing, error) {
	deleted := o.Deleted
	o.Version, o.Deleted = 0, false
	err := s.inTx(ctx, "storing the outing", func(tx *sql.Tx) (err error) {
		o.Version, err = outings.put(ctx, tx, o.ID, o, deleted, o.Date)
		return err
	})
	o.Deleted = deleted
	return o, err
}

// Outing reads one outing, removed ones too.
func (s *Store) Outing(ctx context.Context, id string) (o Outing, err error) {
	version, deleted, err := s.one(ctx, outings, id, &o)
	o.Version, o.Deleted = version, deleted
	return o, err
}

// Outings lists the outings, newest first.
func (s *Store) Outings(ctx context.Context) ([]Outing, error) {
	return listed(ctx, s, "the outings", "SELECT version, doc FROM outing WHERE deleted = 0 ORDER BY date DESC, rowid DESC", func(o *Outing, version int) { o.Version = version })
}

// scanDoc scans a row whose last column is a document.
func scanDoc(r *sql.Rows, doc any, columns ...any) error {
	var text string
	if err := r.Scan(append(columns, &text)...); err != nil {
		return err
	}
	return json.Unmarshal([]byte(text), doc)
}
