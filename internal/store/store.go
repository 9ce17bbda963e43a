// Package store keeps everything in one SQLite file. A write that returned is on the disk. Repeating a
// write with the same id and content changes nothing; a write with other content keeps the version
// before it in history.
package store

import (
	"context"
	"database/sql"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"time"

	"github.com/pressly/goose/v3"
	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"

	"reed/core/kit"
)

//go:embed migrations/*.sql
var migrations embed.FS

// FileName is the database's name in the data folder.
const FileName = "reed.db"

// ErrNotFound says that there is nothing with this id.
var ErrNotFound = errors.New("there is nothing with this id")

// Store is an open database: one connection that writes, several that read.
type Store struct {
	w, r *sql.DB
	path string
}

func dsn(path string, extra ...string) string {
	q := url.Values{"_pragma": {"busy_timeout(10000)", "foreign_keys(1)", "journal_mode(WAL)", "synchronous(FULL)"}, "_txlock": {"immediate"}}
	for i := 0; i+1 < len(extra); i += 2 {
		q[extra[i]] = []string{extra[i+1]}
	}
	return "file:" + (&url.URL{Path: path}).EscapedPath() + "?" + q.Encode()
}

// Open opens or makes the database in a folder and brings its tables up to date.
func Open(ctx context.Context, dir string) (*Store, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("making the data folder: %w", err)
	}
	path, err := filepath.Abs(filepath.Join(dir, FileName))
	if err != nil {
		return nil, fmt.Errorf("finding the data folder: %w", err)
	}
	w, err := sql.Open("sqlite", dsn(path))
	if err != nil {
		return nil, fmt.Errorf("opening %s: %w", path, err)
	}
	w.SetMaxOpenConns(1)
	if err := migrate(ctx, w); err != nil {
		w.Close()
		return nil, fmt.Errorf("bringing %s up to date: %w", path, err)
	}
	r, err := sql.Open("sqlite", dsn(path, "_txlock", "deferred"))
	if err != nil {
		w.Close()
		return nil, fmt.Errorf("opening %s for reading: %w", path, err)
	}
	r.SetMaxOpenConns(4)
	return &Store{w: w, r: r, path: path}, nil
}

func provider(db *sql.DB) (*goose.Provider, error) {
	sub, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	return goose.NewProvider(goose.DialectSQLite3, db, sub)
}

func migrate(ctx context.Context, db *sql.DB) error {
	p, err := provider(db)
	if err != nil {
		return err
	}
	have, want, err := p.GetVersions(ctx)
	if err != nil {
		return err
	}
	if have > want {
		return fmt.Errorf("it was written by a newer version (tables %d, known here %d)", have, want)
	}
	_, err = p.Up(ctx)
	return err
}

// Close ends all connections.
func (s *Store) Close() error { return errors.Join(s.r.Close(), s.w.Close()) }

// inTx runs f in one writing transaction.
func (s *Store) inTx(ctx context.Context, what string, f func(*sql.Tx) error) error {
	tx, err := s.w.BeginTx(ctx, nil)
	if err != nil {
		return fmt.Errorf("%s: %w", what, err)
	}
	defer tx.Rollback() //nolint:errcheck // after Commit this does nothing
	if err := f(tx); err != nil {
		if se := (*sqlite.Error)(nil); errors.As(err, &se) && se.Code() == sqlite3.SQLITE_CONSTRAINT_FOREIGNKEY {
			return fmt.Errorf("%s: what it belongs to: %w", what, ErrNotFound)
		}
		return fmt.Errorf("%s: %w", what, err)
	}
	if err := tx.Commit(); err != nil {
		return fmt.Errorf("%s: %w", what, err)
	}
	return nil
}

// table is a kind of kept thing and the columns beside its document.
type table struct {
	kind, get, insert, update string
}

func tableOf(kind string, columns ...string) table {
	names, marks, sets := "", "", ""
	for _, c := range columns {
		names, marks, sets = names+", "+c, marks+", ?", sets+", "+c+" = ?"
	}
	return table{
		kind:   kind,
		get:    "SELECT version, deleted, doc FROM " + kind + " WHERE id = ?",
		insert: "INSERT INTO " + kind + " (id, version, deleted, doc" + names + ") VALUES (?, 1, ?, ?" + marks + ")",
		update: "UPDATE " + kind + " SET version = version + 1, deleted = ?, doc = ?" + sets + " WHERE id = ?",
	}
}

// put stores a document under its id and returns its version.
func (t table) put(ctx context.Context, tx *sql.Tx, id string, doc any, deleted bool, values ...any) (int, error) {
	text, err := json.Marshal(doc)
	if err != nil {
		return 0, err
	}
	var version int
	var wasDeleted bool
	var was string
	switch err := tx.QueryRowContext(ctx, t.get, id).Scan(&version, &wasDeleted, &was); {
	case errors.Is(err, sql.ErrNoRows):
		_, err := tx.ExecContext(ctx, t.insert, append([]any{id, deleted, string(text)}, values...)...)
		return 1, err
	case err != nil:
		return 0, err
	case was == string(text) && wasDeleted == deleted:
		return version, nil
	}
	if _, err := tx.ExecContext(ctx, "INSERT INTO history (kind, id, version, deleted, doc, replaced_at) VALUES (?, ?, ?, ?, ?, ?)",
		t.kind, id, version, wasDeleted, was, time.Now().UTC().Format(time.RFC3339Nano)); err != nil {
		return 0, err
	}
	_, err = tx.ExecContext(ctx, t.update, append(append([]any{deleted, string(text)}, values...), id)...)
	return version + 1, err
}

// one reads a document by id into doc.
func (s *Store) one(ctx context.Context, t table, id string, doc any) (version int, deleted bool, err error) {
	var text string
	switch err := s.r.QueryRowContext(ctx, t.get, id).Scan(&version, &deleted, &text); {
	case errors.Is(err, sql.ErrNoRows):
		return 0, false, fmt.Errorf("%s %s: %w", t.kind, id, ErrNotFound)
	case err != nil:
		return 0, false, fmt.Errorf("reading %s: %w", t.kind, err)
	}
	return version, deleted, json.Unmarshal([]byte(text), doc)
}

// rows runs a query whose rows are scanned by scan.
func (s *Store) rows(ctx context.Context, what, query string, scan func(*sql.Rows) error, args ...any) error {
	rows, err := s.r.QueryContext(ctx, query, args...)
	if err != nil {
		return fmt.Errorf("reading %s: %w", what, err)
	}
	defer rows.Close()
	for rows.Next() {
		if err := scan(rows); err != nil {
			return fmt.Errorf("reading %s: %w", what, err)
		}
	}
	return rows.Err()
}

// listed reads documents with their versions; set puts the version into one.
func listed[T any](ctx context.Context, s *Store, what, query string, set func(*T, int), args ...any) ([]T, error) {
	out := []T{}
	err := s.rows(ctx, what, query, func(r *sql.Rows) error {
		var v T
		var version int
		if err := scanDoc(r, &v, &version); err != nil {
			return err
		}
		set(&v, version)
		out = append(out, v)
		return nil
	}, args...)
	return out, err
}

// versionDoc is the document of an earlier or the present version.
func (s *Store) versionDoc(ctx context.Context, t table, id string, to int, doc any) error {
	version, _, err := s.one(ctx, t, id, doc)
	if err != nil || to == 0 || to == version {
		return err
	}
	var text string
	err = s.r.QueryRowContext(ctx, "SELECT doc FROM history WHERE kind = ? AND id = ? AND version = ?", t.kind, id, to).Scan(&text)
	if errors.Is(err, sql.ErrNoRows) {
		return fmt.Errorf("version %d of %s %s: %w", to, t.kind, id, ErrNotFound)
	}
	if err != nil {
		return fmt.Errorf("reading history: %w", err)
	}
	return json.Unmarshal([]byte(text), doc)
}

// SetVersion brings a kept thing back to an earlier version; 0 removes it. The step is itself a version,
// so that it can be undone in turn.
func (s *Store) SetVersion(ctx context.Context, kind, id string, to int) (version int, deleted bool, err error) {
	deleted = to == 0
	switch kind {
	case outings.kind:
		var o Outing
		if err := s.versionDoc(ctx, outings, id, to, &o); err != nil {
			return 0, false, err
		}
		o.Deleted = deleted
		o, err = s.PutOuting(ctx, o)
		return o.Version, deleted, err
	case contacts.kind:
		return s.setContact(ctx, id, to)
	case deployments.kind:
		return s.setDeployment(ctx, id, to)
	case sweeps.kind:
		return s.setSweep(ctx, id, to)
	case marked.kind:
		return s.setMarks(ctx, id, to)
	case recipes.kind:
		return s.setRecipe(ctx, id, to)
	case photos.kind:
		return s.setPhoto(ctx, id, to)
	case parts.kind:
		var p kit.Part
		if err := s.versionDoc(ctx, parts, id, to, &p); err != nil {
			return 0, false, err
		}
		p.Deleted = deleted
		p, err = s.PutPart(ctx, p)
		return p.Version, deleted, err
	}
	return 0, false, fmt.Errorf("%q cannot be undone: %w", kind, ErrNotFound)
}
