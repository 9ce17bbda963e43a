package store

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"reed/core/bounds"
	"reed/core/lineage"
)

// kind is a kind of kept thing: how its document is read and written, and which columns stand beside it.
type kind[T any] struct {
	name    string
	form    int // the number of the form in which documents are written now
	columns []string
	values  func(T) []any
	large   bool                                                   // its documents have bounds of their own
	file    bool                                                   // a file is kept beside the document
	strip   func(*T)                                               // takes version, removal and file out of the document
	check   func(T) error                                          // of what a backup holds
	before  func(ctx context.Context, tx *sql.Tx, v *T) error      // what the store itself decides, may be nil
	after   func(ctx context.Context, tx *sql.Tx, was, v *T) error // what follows from it; was is nil for a new one
}

// state is the stored state of an id.
type state struct {
	version int
	deleted bool
	doc     string
	file    []byte
}

// Conflict says that a write was made from another version than the one that is there. Doc is the stored document, Was the
// version that the write was made from, empty when that is not known.
type Conflict struct {
	Kind, ID string
	Version  int
	Deleted  bool
	Doc, Was json.RawMessage
}

func (c *Conflict) Error() string {
	if c.Deleted {
		return fmt.Sprintf("this %s was deleted meanwhile, on another screen", c.Kind)
	}
	return fmt.Sprintf("this %s was changed meanwhile, on another screen", c.Kind)
}

// Refused says that a document cannot be kept, and why.
type Refused struct {
	Kind string
	Err  error
}

func (r *Refused) Error() string { return r.Err.Error() }

func (r *Refused) Unwrap() error { return r.Err }

func (k kind[T]) decode(doc string) (v T, err error) {
	if err = json.Unmarshal([]byte(doc), &v); err != nil {
		err = fmt.Errorf("reading a %s: %w", k.name, err)
	}
	return v, err
}

func (k kind[T]) encode(v T) (state, error) {
	k.strip(&v)
	text, err := json.Marshal(v)
	return state{doc: string(text)}, err
}

func (k kind[T]) fileColumn() string {
	if k.file {
		return "file"
	}
	return "NULL"
}

func (k kind[T]) current(ctx context.Context, tx *sql.Tx, id string) (s state, ok bool, err error) {
	err = tx.QueryRowContext(ctx, "SELECT version, deleted, doc, "+k.fileColumn()+" FROM "+k.name+" WHERE id = ?", id).Scan(&s.version,
		&s.deleted, &s.doc, &s.file)
	if errors.Is(err, sql.ErrNoRows) {
		return s, false, nil
	}
	return s, err == nil, err
}

// earlier returns the document of an id in a version that was replaced.
func (k kind[T]) earlier(ctx context.Context, tx *sql.Tx, id string, version int) (s state, ok bool, err error) {
	s.version = version
	err = tx.QueryRowContext(ctx, "SELECT deleted, doc, file FROM history WHERE kind = ? AND id = ? AND version = ?", k.name, id,
		version).Scan(&s.deleted, &s.doc, &s.file)
	if errors.Is(err, sql.ErrNoRows) {
		return s, false, nil
	}
	return s, err == nil, err
}

func (s state) same(t state) bool {
	return s.doc == t.doc && s.deleted == t.deleted && bytes.Equal(s.file, t.file)
}

// put stores a thing under its id, made from a version (0 for a new one), and returns the version that it is then.
// The same write again changes nothing, also when something came between; a write from another version than the one
// that is there is a *Conflict.
func (k kind[T]) put(ctx context.Context, tx *sql.Tx, id string, v T, from int, deleted bool, file []byte) (int, error) {
	have, ok, err := k.current(ctx, tx, id)
	if err != nil {
		return 0, err
	}
	var was *T
	if ok {
		old, err := k.decode(have.doc)
		if err != nil {
			return 0, err
		}
		was = &old
	}
	if k.before != nil {
		if err := k.before(ctx, tx, &v); err != nil {
			return 0, err
		}
	}
	want, err := k.encode(v)
	if err != nil {
		return 0, err
	}
	want.deleted, want.file = deleted, file
	if _, err := k.known(id, k.form, want.doc); err != nil {
		return 0, &Refused{k.name, err}
	}
	version := 1
	switch {
	case !ok:
	case have.same(want):
		return have.version, nil
	case have.version == from:
		version = from + 1
	default:
		then, known, err := k.earlier(ctx, tx, id, from+1)
		if err != nil || known && then.same(want) {
			return have.version, err // it was stored, and something came after it
		}
		base, _, err := k.earlier(ctx, tx, id, from)
		if err != nil {
			return have.version, err
		}
		return have.version, &Conflict{k.name, id, have.version, have.deleted, json.RawMessage(have.doc), json.RawMessage(base.doc)}
	}
	if ok {
		if err := k.edited(ctx, tx, id, have, want); err != nil {
			return 0, err
		}
	}
	if err := k.write(ctx, tx, id, v, version, want, have); err != nil {
		return 0, err
	}
	if k.after != nil {
		err = k.after(ctx, tx, was, &v)
	}
	return version, err
}

// names are the columns of a kind beside its id.
func (k kind[T]) names() []string {
	names := append([]string{"version", "deleted", "doc", "form"}, k.columns...)
	if k.file {
		names = append(names, "file")
	}
	return names
}

// row holds a thing's columns beside its id.
func (k kind[T]) row(v T, version int, s state) (names []string, values []any) {
	values = append([]any{version, s.deleted, s.doc, k.form}, k.values(v)...)
	if k.file {
		values = append(values, s.file)
	}
	return k.names(), values
}

// insert writes a row with its id in front.
func (k kind[T]) insert() string {
	names := k.names()
	return "INSERT INTO " + k.name + " (id, " + strings.Join(names, ", ") + ") VALUES (?" + strings.Repeat(", ?", len(names)) + ")"
}

// write replaces what is there by a state, as a version, and keeps what was there.
func (k kind[T]) write(ctx context.Context, tx *sql.Tx, id string, v T, version int, want, have state) error {
	names, values := k.row(v, version, want)
	if version == 1 {
		_, err := tx.ExecContext(ctx, k.insert(), append([]any{id}, values...)...)
		return err
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO history (kind, id, version, deleted, doc, form, file, replaced_at)
		SELECT ?, id, version, deleted, doc, form, `+k.fileColumn()+`, ? FROM `+k.name+" WHERE id = ?", k.name,
		time.Now().UTC().Format(time.RFC3339Nano), id); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, "UPDATE "+k.name+" SET "+strings.Join(names, " = ?, ")+" = ? WHERE id = ?", append(values, id)...)
	return err
}

// one reads a thing by its id, with its version and whether it was removed.
func (k kind[T]) one(ctx context.Context, db *sql.DB, id string) (v T, version int, deleted bool, err error) {
	var doc string
	switch err := db.QueryRowContext(ctx, "SELECT version, deleted, doc FROM "+k.name+" WHERE id = ?", id).Scan(&version, &deleted, &doc); {
	case errors.Is(err, sql.ErrNoRows):
		return v, 0, false, fmt.Errorf("%s %s: %w", k.name, id, ErrNotFound)
	case err != nil:
		return v, 0, false, fmt.Errorf("reading a %s: %w", k.name, err)
	}
	v, err = k.decode(doc)
	return v, version, deleted, err
}

// set brings a thing back to an earlier version, or removes it; to of 0 removes.
func (k kind[T]) set(ctx context.Context, tx *sql.Tx, id string, to, from int) (version int, deleted bool, err error) {
	have, ok, err := k.current(ctx, tx, id)
	if err != nil {
		return 0, false, err
	}
	if !ok {
		return 0, false, fmt.Errorf("%s %s: %w", k.name, id, ErrNotFound)
	}
	target := have
	if to != 0 && to != have.version {
		if target, ok, err = k.earlier(ctx, tx, id, to); err != nil {
			return 0, false, err
		}
		if !ok {
			return 0, false, fmt.Errorf("version %d of %s %s: %w", to, k.name, id, ErrNotFound)
		}
	}
	v, err := k.decode(target.doc)
	if err != nil {
		return 0, false, err
	}
	if to != 0 {
		deleted = target.deleted
	} else {
		deleted = true
	}
	version, err = k.put(ctx, tx, id, v, from, deleted, target.file)
	return version, deleted, err
}

// every reads all documents of a kind, also removed and replaced ones, for checking a backup: each has to be of a form
// that is known, to be read by core, and to agree with its columns.
func (k kind[T]) every(ctx context.Context, db *sql.DB) error {
	query := "SELECT id, form, doc" + strings.Join(append([]string{""}, k.columns...), ", ") + " FROM " + k.name
	err := scanAll(ctx, db, query, func(rows *sql.Rows) error {
		var id, doc string
		var form int
		beside := make([]any, len(k.columns))
		into := []any{&id, &form, &doc}
		for i := range beside {
			into = append(into, &beside[i])
		}
		if err := rows.Scan(into...); err != nil {
			return err
		}
		v, err := k.known(id, form, doc)
		if err != nil {
			return err
		}
		for i, want := range k.values(v) {
			if got := beside[i]; !alike(got, want) {
				return fmt.Errorf("%s %s: its column %s says %v, its document %v", k.name, id, k.columns[i], got, want)
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	return scanAll(ctx, db, "SELECT id, form, doc FROM history WHERE kind = '"+k.name+"'", func(rows *sql.Rows) error {
		var id, doc string
		var form int
		if err := rows.Scan(&id, &form, &doc); err != nil {
			return err
		}
		_, err := k.known(id, form, doc)
		return err
	})
}

func (k kind[T]) known(id string, form int, doc string) (T, error) {
	v, err := k.decode(doc)
	if err == nil && !k.large {
		err = bounds.Document(id, json.RawMessage(doc))
	}
	switch {
	case bounds.ID(id) != nil:
		return v, fmt.Errorf("a %s: %w", k.name, bounds.ID(id))
	case form > k.form || form < 1:
		return v, fmt.Errorf("%s %s is of form %d; known here are 1 to %d", k.name, id, form, k.form)
	case err != nil:
		return v, fmt.Errorf("%s %s: %w", k.name, id, err)
	case k.check != nil:
		if err := k.check(v); err != nil {
			return v, fmt.Errorf("%s %s: %w", k.name, id, err)
		}
	}
	return v, nil
}

// alike compares what a column holds with what it should.
func alike(got, want any) bool {
	text := func(v any) string {
		switch x := v.(type) {
		case nil:
			return ""
		case []byte:
			return string(x)
		case bool:
			if x {
				return "1"
			}
			return "0"
		}
		return fmt.Sprint(v)
	}
	return text(got) == text(want)
}

func scanAll(ctx context.Context, db *sql.DB, query string, each func(*sql.Rows) error, args ...any) error {
	rows, err := db.QueryContext(ctx, query, args...)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		if err := each(rows); err != nil {
			return err
		}
	}
	return rows.Err()
}

// keeper is a kind without its type.
type keeper interface {
	set(ctx context.Context, tx *sql.Tx, id string, to, from int) (version int, deleted bool, err error)
	every(ctx context.Context, db *sql.DB) error
	texts(ctx context.Context, tx *sql.Tx, id string) (out []Written, err error)
	versions(ctx context.Context, tx *sql.Tx, id string) (out []Written, current int, conflicts []lineage.Conflict, err error)
	absorb(ctx context.Context, tx *sql.Tx, id string, came []Written) (change string, before int, err error)
	decide(ctx context.Context, tx *sql.Tx, id string, from int, choice map[string]int) (version int, err error)
	forget(ctx context.Context, tx *sql.Tx, id string, before, after int) error
}

// keepers are all kinds that have versions, by the name of their table.
var keepers = map[string]keeper{}

func keep[T any](k kind[T]) kind[T] {
	if k.form == 0 {
		k.form = 1
	}
	keepers[k.name] = k
	return k
}

// Kinds lists what has versions.
func Kinds() []string {
	var out []string
	for name := range keepers {
		out = append(out, name)
	}
	slices.Sort(out)
	return out
}

// SetVersion brings a kept thing back to an earlier version; 0 removes it. It is made from a version like every
// write, and is itself a version, so that it can be undone in turn.
func (s *Store) SetVersion(ctx context.Context, name, id string, to, from int) (version int, deleted bool, err error) {
	k, ok := keepers[name]
	if !ok {
		return 0, false, fmt.Errorf("%q cannot be undone: %w", name, ErrNotFound)
	}
	err = s.inTx(ctx, "bringing back a version", func(tx *sql.Tx) (err error) {
		version, deleted, err = k.set(ctx, tx, id, to, from)
		return err
	})
	return version, deleted, err
}
