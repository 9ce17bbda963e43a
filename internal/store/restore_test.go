package store

import (
	"bytes"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"reed/core/onair"
	"reed/internal/testsize"
)

// written makes a database from a script of its tables.
func written(t *testing.T, dir, script string) {
	t.Helper()
	text, err := os.ReadFile(script)
	if err != nil {
		t.Fatal(err)
	}
	db, err := sql.Open("sqlite", dsn(filepath.Join(dir, FileName)))
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	if _, err := db.Exec(string(text)); err != nil {
		t.Fatal(err)
	}
}

func TestNotebooksOfEveryReleasedFormAreRead(t *testing.T) {
	t.Parallel()
	scripts, err := filepath.Glob("testdata/tables-*.sql")
	if err != nil || len(scripts) == 0 {
		t.Fatal("no released form is kept", err)
	}
	for _, script := range scripts {
		t.Run(filepath.Base(script), func(t *testing.T) {
			dir := t.TempDir()
			written(t, dir, script)
			ctx := context.Background()
			s, err := Open(ctx, dir)
			if err != nil {
				t.Fatal(err)
			}
			defer s.Close()
			kept, _ := filepath.Glob(filepath.Join(dir, "reed.db.before-tables-*"))
			if len(kept) != 1 {
				t.Errorf("kept before its tables were changed: %v", kept)
			}
			for name, k := range keepers {
				if err := k.every(ctx, s.r); err != nil {
					t.Errorf("%s: %v", name, err)
				}
				var n int
				if name == sites.name || name == runs.name || name == notes.name || name == schemes.name {
					continue // there were none yet
				}
				if err := s.r.QueryRow("SELECT count(*) FROM " + name).Scan(&n); err != nil || n == 0 {
					t.Errorf("there is no %s in it: %v", name, err)
				}
			}
			if err := everyRevision(ctx, s.r); err != nil {
				t.Error(err)
			}
			if me, err := s.Me(ctx); err != nil || me.Call != "Q1REED" || me.Version != 1 {
				t.Errorf("%+v %v", me, err)
			}
			outings, err := s.Outings(ctx)
			if err != nil || len(outings) == 0 {
				t.Fatal(err)
			}
			n := 0
			for _, o := range outings {
				all, err := s.Contacts(ctx, o.ID)
				if err != nil {
					t.Fatal(err)
				}
				_, tally, err := s.Progress(ctx, o, time.Unix(2e9, 0))
				if err != nil || tally.Contacts != len(all) {
					t.Errorf("%s: %d counted of %d, %v", o.Name, tally.Contacts, len(all), err)
				}
				n += len(all)
				for _, c := range all {
					if c.Version < 2 {
						continue
					}
					if _, _, err := s.SetVersion(ctx, "contact", c.ID, 1, c.Version); err != nil {
						t.Errorf("its first version: %v", err)
					}
				}
			}
			if n < 3 {
				t.Errorf("%d contacts", n)
			}
			// And it is a backup that can be restored elsewhere.
			to := filepath.Join(t.TempDir(), "b.db")
			if err := s.Backup(ctx, to); err != nil {
				t.Fatal(err)
			}
			if _, err := Restore(ctx, t.TempDir(), to); err != nil {
				t.Error(err)
			}
			if _, err := Restore(ctx, t.TempDir(), kept[0]); err != nil {
				t.Errorf("the copy of the older tables: %v", err)
			}
		})
	}
}

// Each is a backup that opens and is sound for SQLite, and is no backup of ours.
func TestABackupIsProvenBeforeAnythingIsReplaced(t *testing.T) {
	testsize.SkipIfShort(t, "proves large notebooks")
	t.Parallel()
	ctx := context.Background()
	for name, spoil := range map[string]string{
		"a column that says something else": "UPDATE contact SET at = 5",
		"a call beside its document":        "UPDATE contact SET call = 'Q0X'",
		"broken JSON":                       `UPDATE contact SET doc = '{"id":'`,
		"broken JSON in history": `INSERT INTO history (kind, id, version, deleted, doc, replaced_at) ` +
			`VALUES ('contact', 'c1', 7, 0, '{', '')`,
		"an outing removed under its things":  "PRAGMA foreign_keys = 0; DELETE FROM outing",
		"a revision under another antenna":    "PRAGMA foreign_keys = 0; UPDATE revision SET doc = replace(doc, 'd1', 'd2')",
		"a foreign trigger":                   "CREATE TRIGGER sneak AFTER INSERT ON contact BEGIN DELETE FROM outing; END",
		"a missing trigger":                   "DROP TRIGGER contact_added",
		"a further table":                     "CREATE TABLE more (x)",
		"a further column":                    "ALTER TABLE part ADD COLUMN more TEXT",
		"a missing index":                     "DROP INDEX contact_station",
		"a document of a form to come":        "UPDATE outing SET form = 99",
		"tables of a version to come":         "INSERT INTO goose_db_version (version_id, is_applied) VALUES (9999, 1)",
		"a sweep whose frequencies fall back": `UPDATE sweep SET doc = replace(doc, '"f":[7000000]', '"f":[7000000,6000000]')`,
		"tables that cannot be brought up":    "DELETE FROM goose_db_version WHERE version_id = 4",
	} {
		t.Run(name, func(t *testing.T) {
			s, dir := open(t)
			filled(t, s)
			bad := filepath.Join(dir, "bad.db")
			if err := s.Backup(ctx, bad); err != nil {
				t.Fatal(err)
			}
			db, err := sql.Open("sqlite", "file:"+bad)
			if err != nil {
				t.Fatal(err)
			}
			db.SetMaxOpenConns(1)
			if _, err := db.Exec(spoil); err != nil {
				t.Fatal(err)
			}
			db.Close()
			if _, err := Restore(ctx, dir, bad); err == nil || !strings.Contains(err.Error(), "nothing was replaced") {
				t.Fatalf("restored: %v", err)
			}
			if cs, err := s.Contacts(ctx, "o1"); err != nil || len(cs) != 1 {
				t.Errorf("%d contacts are left, %v", len(cs), err)
			}
			if left, _ := filepath.Glob(filepath.Join(dir, "*proof*")); len(left) > 0 {
				t.Errorf("left behind: %v", left)
			}
		})
	}
}

func TestADamagedDatabaseIsSetAsideAndReplaced(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, dir := open(t)
	filled(t, s)
	good := filepath.Join(t.TempDir(), "good.db")
	if err := s.Backup(ctx, good); err != nil {
		t.Fatal(err)
	}
	path := filepath.Join(dir, FileName)
	damage := func() []byte {
		data, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		for i := 4096; i < len(data); i++ {
			data[i] ^= 0x5a
		}
		if err := os.WriteFile(path, data, 0o600); err != nil {
			t.Fatal(err)
		}
		return data
	}
	// While a program has it open, taking the file away would lose what that program writes.
	lockedOut := func() error { _, err := setAside(dir, good, errors.New("damaged")); return err }
	if err := lockedOut(); err == nil || !strings.Contains(err.Error(), "another program has it open") {
		t.Fatal(err)
	}
	s.Close()
	for _, spoil := range []func() []byte{damage, func() []byte {
		text := []byte(strings.Repeat("no database ", 1000))
		os.WriteFile(path, text, 0o600)
		return text
	}} {
		was := spoil()
		kept, err := Restore(ctx, dir, good)
		if err != nil {
			t.Fatal(err)
		}
		if aside, err := os.ReadFile(kept); err != nil || string(aside) != string(was) {
			t.Errorf("what was damaged is not kept as it was: %v", err)
		}
		again, err := Open(ctx, dir)
		if err != nil {
			t.Fatal(err)
		}
		if cs, err := again.Contacts(ctx, "o1"); err != nil || len(cs) != 1 {
			t.Errorf("%d contacts, %v", len(cs), err)
		}
		again.Close()
	}
}

// A write that was acknowledged is in what is restored over, or in what was kept: never in neither.
func TestARestoreUnderLoadLosesNoAcknowledgedWrite(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, dir := open(t)
	filled(t, s)
	before := filepath.Join(dir, "before.db")
	if err := s.Backup(ctx, before); err != nil {
		t.Fatal(err)
	}
	var mu sync.Mutex
	var told []string
	stop := make(chan struct{})
	var wg sync.WaitGroup
	for w := range 4 {
		wg.Go(func() {
			for i := 0; ; i++ {
				select {
				case <-stop:
					return
				default:
				}
				id := fmt.Sprintf("w%d-%d", w, i)
				if _, err := s.PutContact(ctx, onair.Contact{ID: id, OutingID: "o1", Call: "Q2TAV"}, 0); err == nil {
					mu.Lock()
					told = append(told, id)
					mu.Unlock()
				}
			}
		})
	}
	var kept []string
	for range 3 {
		k, err := Restore(ctx, dir, before)
		if err != nil {
			t.Error(err)
			break
		}
		kept = append(kept, k)
	}
	close(stop)
	wg.Wait()
	have := map[string]bool{}
	for _, path := range append(kept, filepath.Join(dir, FileName)) {
		db, err := sql.Open("sqlite", dsn(path))
		if err != nil {
			t.Fatal(err)
		}
		if err := scanAll(ctx, db, "SELECT id FROM contact", func(r *sql.Rows) error {
			var id string
			err := r.Scan(&id)
			have[id] = true
			return err
		}); err != nil {
			t.Fatal(err)
		}
		db.Close()
	}
	lost := 0
	for _, id := range told {
		if !have[id] {
			lost++
		}
	}
	if lost > 0 || len(told) == 0 {
		t.Errorf("%d of %d acknowledged writes are in neither file", lost, len(told))
	}
}

func TestABackupThatFailsLeavesNoFile(t *testing.T) {
	t.Parallel()
	s, dir := open(t)
	filled(t, s)
	ctx, stop := context.WithCancel(context.Background())
	stop()
	if err := s.Backup(ctx, filepath.Join(dir, "b.db")); err == nil {
		t.Error("a stopped backup was written")
	}
	// One whose content does not verify is no backup either.
	s.w.Exec("INSERT INTO goose_db_version (version_id, is_applied) VALUES (9999, 1)")
	if err := s.Backup(context.Background(), filepath.Join(dir, "b.db")); err == nil || !strings.Contains(err.Error(), "verify") {
		t.Errorf("written: %v", err)
	}
	if left, _ := filepath.Glob(filepath.Join(dir, "b.db*")); len(left) > 0 {
		t.Errorf("left behind: %v", left)
	}
	if err := s.Backup(context.Background(), filepath.Join(dir, "nowhere", "b.db")); err == nil {
		t.Error("written into no folder")
	}
}

// A backup can be damaged so that it opens and reads: only its own check tells.
func TestADamagedIndexIsFoundInABackup(t *testing.T) {
	t.Parallel()
	s, dir := open(t)
	filled(t, s)
	ctx := context.Background()
	bad := filepath.Join(dir, "bad.db")
	if err := s.Backup(ctx, bad); err != nil {
		t.Fatal(err)
	}
	db, err := readOnly(bad)
	if err != nil {
		t.Fatal(err)
	}
	var root, size int
	if err := db.QueryRow("SELECT rootpage, (SELECT page_size FROM pragma_page_size) "+
		"FROM sqlite_master WHERE name = 'contact_call'").Scan(&root, &size); err != nil {
		t.Fatal(err)
	}
	db.Close()
	data, err := os.ReadFile(bad)
	if err != nil {
		t.Fatal(err)
	}
	page := data[(root-1)*size : root*size]
	copy(page[bytes.Index(page, []byte("Q2TAV")):], "Q2TAW")
	if err := os.WriteFile(bad, data, 0o600); err != nil {
		t.Fatal(err)
	}
	if err := Verify(ctx, bad); err == nil || !strings.Contains(err.Error(), "damaged") {
		t.Errorf("verified: %v", err)
	}
}
