// Package store keeps everything in one SQLite file. A write that returned is on the disk. Repeating a
// write with the same id and content changes nothing; a write with other content keeps the version
// before it in history.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"strings"

	"github.com/gofrs/flock"
	"github.com/pressly/goose/v3"
	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"

	"reed/core/deployment"
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
	lock *flock.Flock

	deploymentDocs decoded[deployment.Deployment]
	revisionDocs   decoded[deployment.Revision]
}

func dsn(path string, extra ...string) string {
	q := url.Values{"_pragma": {"busy_timeout(10000)", "foreign_keys(1)", "journal_mode(WAL)", "synchronous(FULL)"}, "_txlock": {"immediate"}}
	for i := 0; i+1 < len(extra); i += 2 {
		q[extra[i]] = []string{extra[i+1]}
	}
	return "file:" + (&url.URL{Path: path}).EscapedPath() + "?" + q.Encode()
}

// lockName is a file that every program holds that has the database open.
const lockName = "reed.lock"

// makeFolder makes the data folder, for its owner alone. One that holds other things too keeps its rights.
func makeFolder(dir string) error {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return fmt.Errorf("making the data folder: %w; name another with --data", err)
	}
	list, err := os.ReadDir(dir)
	if err != nil {
		return fmt.Errorf("reading the data folder: %w; name another with --data, or change who may use it", err)
	}
	for _, f := range list {
		if !strings.HasPrefix(f.Name(), "reed.") {
			return nil
		}
	}
	return os.Chmod(dir, 0o700)
}

// private makes a file that only its owner may read, or takes the rights of others away.
func private(path string) error {
	f, err := os.OpenFile(path, os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return fmt.Errorf("opening %s: %w", path, err)
	}
	return errors.Join(f.Chmod(0o600), f.Close())
}

// Open opens or makes the database in a folder and brings its tables up to date; what was there before that is
// kept beside it.
func Open(ctx context.Context, dir string) (*Store, error) {
	if err := makeFolder(dir); err != nil {
		return nil, err
	}
	path, err := filepath.Abs(filepath.Join(dir, FileName))
	if err != nil {
		return nil, fmt.Errorf("finding the data folder: %w", err)
	}
	s := &Store{path: path, lock: flock.New(filepath.Join(filepath.Dir(path), lockName), flock.SetPermissions(0o600))}
	if got, err := s.lock.TryRLock(); err != nil || !got {
		return nil, fmt.Errorf("the database in %s is being restored just now (%v); try again in a moment", dir, err)
	}
	if err := s.open(ctx, path); err != nil {
		return nil, errors.Join(err, s.Close())
	}
	return s, nil
}

// emptied reports whether a database is there that has nothing in it: a new one is never left so.
func emptied(path string) bool {
	info, err := os.Stat(path)
	if err != nil || info.Size() > 0 {
		return false
	}
	wal, err := os.Stat(path + "-wal")
	return err != nil || wal.Size() == 0
}

// Damaged says that a database cannot be opened, and what to do next.
type Damaged struct {
	Path string
	Err  error
}

func (d *Damaged) Error() string {
	return fmt.Sprintf("%s cannot be read (%v). Restore a backup: reed restore --data %s BACKUP. What is there is kept beside it; or move it "+
		"away to begin an empty notebook", d.Path, d.Err, filepath.Dir(d.Path))
}

func (d *Damaged) Unwrap() error { return d.Err }

// damaged turns an error of a database that is no database, or is damaged, into one that says so.
func damaged(path string, err error) error {
	var se *sqlite.Error
	if errors.As(err, &se) && (se.Code()&0xff == sqlite3.SQLITE_NOTADB || se.Code()&0xff == sqlite3.SQLITE_CORRUPT) {
		return &Damaged{path, err}
	}
	return err
}

func (s *Store) open(ctx context.Context, path string) (err error) {
	if emptied(path) {
		return &Damaged{path, errors.New("it is empty: its writing was broken off, or it was damaged")}
	}
	if err := private(path); err != nil {
		return err
	}
	defer func() { err = damaged(path, err) }()
	if s.w, err = sql.Open("sqlite", dsn(path)); err != nil {
		return fmt.Errorf("opening %s: %w", path, err)
	}
	s.w.SetMaxOpenConns(1)
	if err := keepOlder(ctx, s.w, path); err != nil {
		return fmt.Errorf("keeping %s as it is before it is brought up to date: %w", path, err)
	}
	if err := migrate(ctx, s.w); err != nil {
		return fmt.Errorf("bringing %s up to date: %w", path, err)
	}
	if err := recountStale(ctx, s.w); err != nil {
		return fmt.Errorf("counting the contacts of %s: %w", path, err)
	}
	if s.r, err = sql.Open("sqlite", dsn(path, "_txlock", "deferred")); err != nil {
		return fmt.Errorf("opening %s for reading: %w", path, err)
	}
	s.r.SetMaxOpenConns(4)
	return nil
}

// keepOlder copies a database of earlier tables before they are changed.
func keepOlder(ctx context.Context, db *sql.DB, path string) error {
	p, err := provider(db)
	if err != nil {
		return err
	}
	have, want, err := p.GetVersions(ctx)
	if err != nil || have == 0 || have >= want {
		return err
	}
	return copyTo(ctx, db, fmt.Sprintf("%s.before-tables-%d-%s", path, want, stamp()))
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
func (s *Store) Close() error {
	var errs []error
	for _, db := range []*sql.DB{s.r, s.w} {
		if db != nil {
			errs = append(errs, db.Close())
		}
	}
	return errors.Join(append(errs, s.lock.Close())...)
}

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
