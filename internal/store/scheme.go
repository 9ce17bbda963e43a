package store

import (
	"context"
	"database/sql"
	"errors"

	"reed/core/onair"
)

var schemes = keep(kind[onair.Scheme]{
	name:   "scheme",
	values: func(onair.Scheme) []any { return nil },
	strip:  func(s *onair.Scheme) { s.Version, s.Deleted = 0, false },
	check: func(s onair.Scheme) error {
		if bad := s.Check(); len(bad) > 0 {
			return errors.New(bad[0].Text)
		}
		return nil
	},
	after: func(ctx context.Context, tx *sql.Tx, was, s *onair.Scheme) error {
		if was != nil && was.SameCount(*s) {
			return nil
		}
		ids, err := idsOf(ctx, tx, "SELECT id FROM outing WHERE coalesce(nullif(doc ->> 'scheme', ''), ?) = ?", onair.Schemes()[0].ID, s.ID)
		if err != nil {
			return err
		}
		for _, id := range ids {
			if err := recount(ctx, tx, id, s.ID); err != nil {
				return err
			}
		}
		return nil
	},
})

const editedSchemes = "SELECT version, deleted, doc FROM scheme ORDER BY rowid"

// querier is a database or a transaction.
type querier interface {
	QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error)
}

func schemesIn(ctx context.Context, db querier) (edited []onair.Scheme, err error) {
	rows, err := db.QueryContext(ctx, editedSchemes)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var s onair.Scheme
		var version int
		var deleted bool
		if err := scanDoc(rows, &s, &version, &deleted); err != nil {
			return nil, err
		}
		s.Version, s.Deleted = version, deleted
		edited = append(edited, s)
	}
	return edited, rows.Err()
}

func idsOf(ctx context.Context, tx *sql.Tx, query string, args ...any) (ids []string, err error) {
	rows, err := tx.QueryContext(ctx, query, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var id string
		if err := rows.Scan(&id); err != nil {
			return nil, err
		}
		ids = append(ids, id)
	}
	return ids, rows.Err()
}

// Schemes lists the rules that can be chosen; with all also those that were taken out.
func (s *Store) Schemes(ctx context.Context, all bool) ([]onair.Scheme, error) {
	edited, err := schemesIn(ctx, s.r)
	return onair.WithSchemes(edited, all), err
}

// Scheme is the rule of an id, also one that was taken out.
func (s *Store) Scheme(ctx context.Context, id string) (onair.Scheme, error) {
	all, err := s.Schemes(ctx, true)
	return onair.SchemeIn(all, id), err
}

// schemeNamed is the rule of an id within a transaction.
func schemeNamed(ctx context.Context, tx *sql.Tx, id string) (onair.Scheme, error) {
	edited, err := schemesIn(ctx, tx)
	return onair.SchemeIn(onair.WithSchemes(edited, true), id), err
}

// PutScheme stores a rule, made from a version; what it counts is counted anew.
func (s *Store) PutScheme(ctx context.Context, v onair.Scheme, from int) (onair.Scheme, error) {
	err := s.inTx(ctx, "storing the rule", func(tx *sql.Tx) (err error) {
		v.Version, err = schemes.put(ctx, tx, v.ID, v, from, v.Deleted, nil)
		return err
	})
	return v, err
}
