package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"os"
	"time"

	"modernc.org/sqlite"
)

// Backup writes a consistent copy of the database to a new file, also while others write.
func (s *Store) Backup(ctx context.Context, to string) error {
	if _, err := os.Stat(to); err == nil {
		return fmt.Errorf("%s is there already; name a new file", to)
	}
	if _, err := s.r.ExecContext(ctx, "VACUUM INTO ?", to); err != nil {
		return fmt.Errorf("writing the backup: %w", err)
	}
	return nil
}

// Verify opens a backup and checks that it is whole and of a version that is known here.
func Verify(ctx context.Context, path string) error {
	if _, err := os.Stat(path); err != nil {
		return fmt.Errorf("opening the backup: %w", err)
	}
	db, err := sql.Open("sqlite", dsn(path, "mode", "ro", "_pragma", "busy_timeout(5000)"))
	if err != nil {
		return fmt.Errorf("opening the backup: %w", err)
	}
	defer db.Close()
	var answer string
	if err := db.QueryRowContext(ctx, "PRAGMA integrity_check").Scan(&answer); err != nil {
		return fmt.Errorf("%s is not a backup of ours: %w", path, err)
	}
	if answer != "ok" {
		return fmt.Errorf("%s is damaged: %s", path, answer)
	}
	var tables int
	if err := db.QueryRowContext(ctx, "SELECT count(*) FROM sqlite_master WHERE type = 'table' AND name IN ('outing', 'deployment', 'revision', 'sweep', 'contact', 'history', 'goose_db_version')").Scan(&tables); err != nil || tables != 7 {
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

// Restore replaces everything by a backup, in one transaction that a running server sees whole. The
// backup is verified first, and what was there is kept in a file whose name is returned.
func (s *Store) Restore(ctx context.Context, from string) (kept string, err error) {
	if err := Verify(ctx, from); err != nil {
		return "", err
	}
	kept = fmt.Sprintf("%s.before-restore-%s", s.path, time.Now().UTC().Format("20060102T150405.000"))
	if err := s.Backup(ctx, kept); err != nil {
		return "", fmt.Errorf("keeping what is there: %w", err)
	}
	conn, err := s.w.Conn(ctx)
	if err != nil {
		return "", fmt.Errorf("restoring: %w", err)
	}
	err = conn.Raw(func(driver any) error {
		r, ok := driver.(interface {
			NewRestore(string) (*sqlite.Backup, error)
		})
		if !ok {
			return errors.New("the database driver cannot restore")
		}
		b, err := r.NewRestore(dsn(from, "mode", "ro", "_pragma", "busy_timeout(5000)"))
		if err != nil {
			return err
		}
		_, err = b.Step(-1)
		return errors.Join(err, b.Finish())
	})
	if err = errors.Join(err, conn.Close()); err != nil {
		return kept, fmt.Errorf("restoring: %w", err)
	}
	return kept, migrate(ctx, s.w)
}
