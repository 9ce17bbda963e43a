package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"

	"reed/core/band"
	"reed/core/deployment"
	"reed/core/quantity"
)

// Me is the operator and what counts for them.
type Me struct {
	Call     string          `json:"call"`
	Region   band.Region     `json:"region"`
	Units    quantity.System `json:"imperial"`
	Segments []band.Segment  `json:"segments"`
	PowerW   float64         `json:"power_w"`
	GoodSWR  float64         `json:"good_swr"`
	Analyser string          `json:"analyser,omitempty"` // host:port of one on the network
	Radio    string          `json:"radio,omitempty"`    // host:port, empty for the simulated one
	Version  int             `json:"version"`
}

// TheOperator is the id under which the operator is kept.
const TheOperator = "me"

var operators = keep(kind[Me]{name: "operator", values: func(Me) []any { return nil }, strip: func(m *Me) { m.Version = 0 }})

// Me reads the operator; before the first setting up it is the defaults with no call.
func (s *Store) Me(ctx context.Context) (Me, error) {
	me, version, deleted, err := operators.one(ctx, s.r, TheOperator)
	if errors.Is(err, ErrNotFound) || deleted {
		return Me{Region: 1, Segments: band.DefaultSegments(1), PowerW: 10, GoodSWR: 2, Version: version}, nil
	}
	me.Version = version
	return me, err
}

// PutMe stores the operator, made from a version.
func (s *Store) PutMe(ctx context.Context, me Me, from int) (Me, error) {
	err := s.inTx(ctx, "storing the operator", func(tx *sql.Tx) (err error) {
		me.Version, err = operators.put(ctx, tx, TheOperator, me, from, false, nil)
		return err
	})
	return me, err
}

// Outing is one visit to one place.
type Outing = deployment.Outing

var outings = keep(kind[Outing]{
	name: "outing", columns: []string{"date"},
	values: func(o Outing) []any { return []any{o.Date} },
	strip:  func(o *Outing) { o.Version, o.Deleted = 0, false },
	check:  Outing.CheckKept,
	after: func(ctx context.Context, tx *sql.Tx, was, o *Outing) error {
		if was != nil && was.Scheme == o.Scheme {
			return nil
		}
		return recount(ctx, tx, o.ID, o.Scheme)
	},
})

// PutOuting stores an outing, made from a version.
func (s *Store) PutOuting(ctx context.Context, o Outing, from int) (Outing, error) {
	err := s.inTx(ctx, "storing the outing", func(tx *sql.Tx) (err error) {
		o.Version, err = outings.put(ctx, tx, o.ID, o, from, o.Deleted, nil)
		return err
	})
	return o, err
}

// Outing reads one outing, removed ones too.
func (s *Store) Outing(ctx context.Context, id string) (Outing, error) {
	o, version, deleted, err := outings.one(ctx, s.r, id)
	o.Version, o.Deleted = version, deleted
	return o, err
}

// Outings lists the outings, newest first.
func (s *Store) Outings(ctx context.Context) ([]Outing, error) {
	return listed(ctx, s, "the outings", "SELECT version, doc FROM outing WHERE deleted = 0 ORDER BY date DESC, rowid DESC",
		func(o *Outing, version int) { o.Version = version })
}

// scanDoc scans a row whose last column is a document.
func scanDoc(r *sql.Rows, doc any, columns ...any) error {
	var text string
	if err := r.Scan(append(columns, &text)...); err != nil {
		return err
	}
	if err := json.Unmarshal([]byte(text), doc); err != nil {
		return fmt.Errorf("a document: %w", err)
	}
	return nil
}
