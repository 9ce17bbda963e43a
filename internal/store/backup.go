package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/gofrs/flock"
	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"
)

// stamp names a file by the time.
func stamp() string { return time.Now().UTC().Format("20060102T150405.000") }

// copyTo writes a consistent copy of a database to a new file that only its owner may read.
func copyTo(ctx context.Context, db *sql.DB, to string) error {
	f, err := os.OpenFile(to, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	if err := f.Close(); err != nil {
		return err
	}
	if _, err := db.ExecContext(ctx, "VACUUM INTO ?", to); err != nil { // into an empty file is allowed
		return errors.Join(err, os.Remove(to))
	}
	return nil
}

// Backup writes a consistent copy of the database to a new file, also while others write, and verifies it. One that
// fails leaves no file behind.
func (s *Store) Backup(ctx context.Context, to string) error {
	if _, err := os.Lstat(to); err == nil {
		return fmt.Errorf("%s is there already; name a new file", to)
	}
	partial := to + ".partial"
	_ = os.Remove(partial) // of a backup that was broken off
	if err := copyTo(ctx, s.r, partial); err != nil {
		return fmt.Errorf("writing the backup: %w", err)
	}
	if err := Verify(ctx, partial); err != nil {
		return errors.Join(fmt.Errorf("the backup was written but does not verify, and was taken away: %w", err), os.Remove(partial))
	}
	if err := os.Rename(partial, to); err != nil {
		return errors.Join(fmt.Errorf("writing the backup: %w", err), os.Remove(partial))
	}
	return nil
}

func readOnly(path string) (*sql.DB, error) {
	if info, err := os.Stat(path); err != nil {
		return nil, fmt.Errorf("opening the backup: %w", err)
	} else if !info.Mode().IsRegular() {
		return nil, fmt.Errorf("%s is no file", path)
	}
	db, err := sql.Open("sqlite", dsn(path, "mode", "ro", "_pragma", "busy_timeout(5000)"))
	if err != nil {
		return nil, fmt.Errorf("opening the backup: %w", err)
	}
	return db, nil
}

// whole is an error unless every page, index and reference of a database is sound.
func whole(ctx context.Context, db *sql.DB, path string) error {
	var answer string
	if err := db.QueryRowContext(ctx, "PRAGMA integrity_check").Scan(&answer); err != nil {
		return fmt.Errorf("%s is not a backup of ours: %w", path, err)
	}
	if answer != "ok" {
		return fmt.Errorf("%s is damaged: %s", path, answer)
	}
	return scanAll(ctx, db, "PRAGMA foreign_key_check", func(r *sql.Rows) error {
		var table, parent string
		var row, key sql.NullInt64
		if err := r.Scan(&table, &row, &parent, &key); err != nil {
			return err
		}
		return fmt.Errorf("%s lacks things: a %s in it belongs to a %s that is not there", path, table, parent)
	})
}

// Verify opens a backup and checks that it is whole and of a version that is known here. What a restore checks
// beyond that it checks on a copy.
func Verify(ctx context.Context, path string) error {
	db, err := readOnly(path)
	if err != nil {
		return err
	}
	defer db.Close()
	if err := whole(ctx, db, path); err != nil {
		return err
	}
	var tables int
	if err := db.QueryRowContext(ctx, "SELECT count(*) FROM sqlite_master WHERE type = 'table' AND name IN ('outing', 'deployment', "+
		"'revision', 'sweep', 'contact', 'history', 'goose_db_version')").Scan(&tables); err != nil || tables != 7 {
		return fmt.Errorf("%s is not a backup of ours: its tables are others", path)
	}
	p, err := provider(db)
	if err != nil {
		return err
	}
	var have int64
	if err := db.QueryRowContext(ctx, "SELECT max(version_id) FROM goose_db_version WHERE is_applied").Scan(&have); err != nil {
		return fmt.Errorf("reading the backup's version: %w", err)
	}
	if known := p.ListSources(); have > known[len(known)-1].Version {
		return fmt.Errorf("%s was written by a newer version", path)
	}
	return nil
}

// prove makes a copy of a backup beside the database, brings it up to date and checks all of it: what it returns can
// take the database's place as it is. The caller removes it.
func prove(ctx context.Context, from, dir string) (path string, err error) {
	if err := Verify(ctx, from); err != nil {
		return "", err
	}
	src, err := readOnly(from)
	if err != nil {
		return "", err
	}
	defer src.Close()
	path = filepath.Join(dir, FileName+".proof-"+stamp())
	if err := copyTo(ctx, src, path); err != nil {
		return "", fmt.Errorf("copying the backup: %w", err)
	}
	if err := proven(ctx, path, from); err != nil {
		return "", errors.Join(err, removeAll(path))
	}
	return path, nil
}

func proven(ctx context.Context, path, from string) error {
	db, err := sql.Open("sqlite", dsn(path))
	if err != nil {
		return err
	}
	defer db.Close()
	db.SetMaxOpenConns(1)
	if err := migrate(ctx, db); err != nil {
		return fmt.Errorf("%s cannot be brought up to date: %w", from, err)
	}
	if err := whole(ctx, db, from); err != nil {
		return err
	}
	have, err := schema(ctx, db)
	if err != nil {
		return err
	}
	want, err := freshSchema(ctx)
	if err != nil {
		return err
	}
	if what := differing(have, want); what != "" {
		return fmt.Errorf("%s is not a backup of ours: %s is not as this program makes it", from, what)
	}
	for _, name := range Kinds() {
		if err := keepers[name].every(ctx, db); err != nil {
			return fmt.Errorf("%s cannot be read whole: %w", from, err)
		}
	}
	if err := everyRevision(ctx, db); err != nil {
		return fmt.Errorf("%s cannot be read whole: %w", from, err)
	}
	// What is counted follows from what is kept.
	for _, q := range []string{"DELETE FROM tally",
		"INSERT INTO tally SELECT outing_id, day, coalesce(deployment_id, ''), band, counts, count(*), sum(fresh) FROM contact " +
			"WHERE deleted = 0 GROUP BY 1, 2, 3, 4, 5",
		"UPDATE outing SET counted_by = ''", "DELETE FROM air",
		"INSERT INTO air SELECT DISTINCT outing_id, at / 3600000, NULL FROM report WHERE deleted = 0", "DELETE FROM heard",
		`INSERT INTO heard SELECT outing_id, band, coalesce(deployment_id, ''), receiver, max(locator), count(*), count(snr), total(snr),
			max(distance), max(bearing), max(simulated) FROM report WHERE deleted = 0 GROUP BY 1, 2, 3, 4`} {
		if _, err := db.ExecContext(ctx, q); err != nil {
			return err
		}
	}
	if err := recountStale(ctx, db); err != nil {
		return err
	}
	_, err = db.ExecContext(ctx, "PRAGMA wal_checkpoint(TRUNCATE)")
	return err
}

// schema is everything that a database is made of, by name.
func schema(ctx context.Context, db *sql.DB) (map[string]string, error) {
	out := map[string]string{}
	err := scanAll(ctx, db, "SELECT type || ' ' || name, coalesce(sql, '') FROM sqlite_master", func(r *sql.Rows) error {
		var name, text string
		err := r.Scan(&name, &text)
		out[name] = strings.Join(strings.Fields(text), " ")
		return err
	})
	return out, err
}

func freshSchema(ctx context.Context) (map[string]string, error) {
	dir, err := os.MkdirTemp("", "reed-schema-")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	db, err := sql.Open("sqlite", dsn(filepath.Join(dir, "fresh.db")))
	if err != nil {
		return nil, err
	}
	defer db.Close()
	if err := migrate(ctx, db); err != nil {
		return nil, err
	}
	return schema(ctx, db)
}

// differing names the first thing in which two schemas differ.
func differing(have, want map[string]string) string {
	for name, text := range want {
		if have[name] != text {
			return name
		}
	}
	for name := range have {
		if _, ok := want[name]; !ok {
			return name
		}
	}
	return ""
}

// removeAll removes a database with what SQLite keeps beside it.
func removeAll(path string) error {
	var errs []error
	for _, more := range []string{"", "-wal", "-shm", "-journal"} {
		if err := os.Remove(path + more); err != nil && !errors.Is(err, os.ErrNotExist) {
			errs = append(errs, err)
		}
	}
	return errors.Join(errs...)
}

// Restore replaces everything in a data folder by a backup. The backup is proven on a copy before anything is
// touched, and what was there is kept in a file whose name is returned. A running server sees the change whole: no
// write that it acknowledged is in neither of the two. A database that is damaged is set aside as it is; for that
// no other program may have it open.
func Restore(ctx context.Context, dir, from string) (kept string, err error) {
	if err := makeFolder(dir); err != nil {
		return "", err
	}
	proof, err := prove(ctx, from, dir)
	if err != nil {
		return "", fmt.Errorf("nothing was replaced: %w", err)
	}
	defer func() { err = errors.Join(err, removeAll(proof)) }()
	s, err := Open(ctx, dir)
	if err == nil {
		err = s.sound(ctx)
		if err == nil {
			defer s.Close()
			return s.swap(ctx, proof)
		}
		s.Close()
	}
	if ctx.Err() != nil {
		return "", fmt.Errorf("nothing was replaced: %w", ctx.Err())
	}
	return setAside(dir, proof, err)
}

// sound is an error when the database cannot be trusted.
func (s *Store) sound(ctx context.Context) error {
	var answer string
	if err := s.r.QueryRowContext(ctx, "PRAGMA integrity_check").Scan(&answer); err != nil {
		return err
	}
	if answer != "ok" {
		return errors.New(answer)
	}
	return nil
}

// swap puts a proven copy in the place of everything, in one transaction, in which no other can write. What was there
// is copied within it.
func (s *Store) swap(ctx context.Context, proof string) (kept string, err error) {
	fail := func(err error) (string, error) { return "", fmt.Errorf("nothing was replaced: %w", err) }
	conn, err := s.w.Conn(ctx)
	if err != nil {
		return fail(err)
	}
	defer conn.Close()
	run := func(query string, args ...any) {
		if err == nil {
			_, err = conn.ExecContext(ctx, query, args...)
		}
	}
	run("ATTACH ? AS proven", proof)
	if err != nil {
		return fail(err)
	}
	defer func() { _, _ = conn.ExecContext(context.WithoutCancel(ctx), "DETACH proven") }()
	if err = begin(ctx, conn); err != nil {
		return fail(err)
	}
	kept = fmt.Sprintf("%s.before-restore-%s", s.path, stamp())
	if err = copyTo(ctx, s.r, kept); err == nil {
		err = replaceAll(ctx, conn)
	}
	run("COMMIT")
	if err != nil {
		_, _ = conn.ExecContext(context.WithoutCancel(ctx), "ROLLBACK")
		return fail(errors.Join(err, removeAll(kept)))
	}
	return kept, nil
}

// patience is how long a restore waits for its turn among those that write.
const patience = time.Minute

// begin takes the turn to write. Waiting as SQLite does, in ever longer naps, it would not come to it while others
// write all the time: it asks every millisecond.
func begin(ctx context.Context, conn *sql.Conn) error {
	if _, err := conn.ExecContext(ctx, "PRAGMA busy_timeout = 0"); err != nil {
		return err
	}
	defer func() { _, _ = conn.ExecContext(context.WithoutCancel(ctx), "PRAGMA busy_timeout = 10000") }()
	for until := time.Now().Add(patience); ; time.Sleep(time.Millisecond) {
		_, err := conn.ExecContext(ctx, "BEGIN IMMEDIATE")
		busy := (*sqlite.Error)(nil)
		if err == nil || !errors.As(err, &busy) || busy.Code()&0xff != sqlite3.SQLITE_BUSY || time.Now().After(until) {
			return err
		}
	}
}

// replaceAll fills every table from the attached one, with the triggers out of the way.
func replaceAll(ctx context.Context, conn *sql.Conn) error {
	var tables, triggers, made []string
	rows, err := conn.QueryContext(ctx, "SELECT type, name, sql FROM main.sqlite_master WHERE type IN ('table', 'trigger') AND name NOT "+
		"LIKE 'sqlite\\_%' ESCAPE '\\' AND name NOT LIKE 'goose%' ORDER BY rowid")
	if err != nil {
		return err
	}
	for rows.Next() {
		var kind, name, text string
		if err := rows.Scan(&kind, &name, &text); err != nil {
			rows.Close()
			return err
		}
		if kind == "trigger" {
			triggers, made = append(triggers, name), append(made, text)
		} else {
			tables = append(tables, name)
		}
	}
	if err := rows.Err(); err != nil {
		return err
	}
	var steps []string
	for _, t := range triggers {
		steps = append(steps, "DROP TRIGGER "+t)
	}
	// What belongs to something goes first and comes last: tables were made in that order.
	for i := len(tables) - 1; i >= 0; i-- {
		steps = append(steps, "DELETE FROM main."+tables[i])
	}
	for _, t := range tables {
		steps = append(steps, "INSERT INTO main."+t+" SELECT * FROM proven."+t)
	}
	for _, q := range append(steps, made...) {
		if _, err := conn.ExecContext(ctx, q); err != nil {
			return fmt.Errorf("%s: %w", q, err)
		}
	}
	return nil
}

// setAside moves a damaged database away as it is, and puts a proven copy in its place.
func setAside(dir, proof string, why error) (kept string, err error) {
	lock := flock.New(filepath.Join(dir, lockName))
	got, err := lock.TryLock()
	if err != nil || !got {
		return "", fmt.Errorf("nothing was replaced: the database is damaged (%w), and another program has it open; stop that first", why)
	}
	defer lock.Unlock()
	path := filepath.Join(dir, FileName)
	kept = fmt.Sprintf("%s.damaged-%s", path, stamp())
	for _, more := range []string{"-wal", "-shm", ""} {
		if err := os.Rename(path+more, kept+more); err != nil && !errors.Is(err, os.ErrNotExist) {
			return "", fmt.Errorf("setting the damaged database aside: %w", err)
		}
	}
	if err := os.Rename(proof, path); err != nil {
		return kept, fmt.Errorf("the damaged database is in %s, and the backup could not take its place: %w", kept, err)
	}
	return kept, nil
}
