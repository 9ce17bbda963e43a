package store

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"reed/core/antenna"
	"reed/core/deployment"
	"reed/core/onair"
	"reed/core/sweep"
)

func open(t testing.TB) (*Store, string) {
	t.Helper()
	dir := t.TempDir()
	s, err := Open(context.Background(), dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s, dir
}

// filled has one outing, a deployment with two revisions, a sweep and a contact.
func filled(t testing.TB, s *Store) {
	t.Helper()
	ctx := context.Background()
	fail := func(err error) {
		if err != nil {
			t.Fatal(err)
		}
	}
	_, err := s.PutOuting(ctx, Outing{ID: "o1", Name: "Gannet Spit", Date: "2026-05-16"}, 0)
	fail(err)
	_, err = s.PutDeployment(ctx, deployment.Deployment{ID: "d1", OutingID: "o1", Name: "Heron"}, 0)
	fail(err)
	for i := range 2 {
		_, err = s.AddRevision(ctx, deployment.Revision{ID: fmt.Sprintf("r%d", i+1), DeploymentID: "d1",
			Built: deployment.Built{Shape: antenna.Shape{Family: "end-fed"}}})
		fail(err)
	}
	_, err = s.PutSweep(ctx, Sweep{ID: "s1", RevisionID: "r1", Where: "feed",
		Curve: sweep.Sweep{Kind: "magnitude", F: []float64{7e6}, Re: []float64{0.1}}, File: []byte("raw")}, 0)
	fail(err)
	_, err = s.PutContact(ctx, onair.Contact{ID: "c1", OutingID: "o1", DeploymentID: "d1", Call: "Q2TAV", At: time.Unix(1e9, 0)}, 0)
	fail(err)
}

func TestRepeatedWritesChangeNothing(t *testing.T) {
	t.Parallel()
	s, _ := open(t)
	filled(t, s)
	filled(t, s)
	ctx := context.Background()
	o, _ := s.Outing(ctx, "o1")
	revs, _ := s.Revisions(ctx, "d1")
	cs, _ := s.Contacts(ctx, "o1")
	if o.Version != 1 || len(revs) != 2 || revs[1].Seq != 2 || len(cs) != 1 || cs[0].Version != 1 {
		t.Errorf("%+v, %d revisions, %+v", o, len(revs), cs)
	}
	if f, err := s.SweepFile(ctx, "s1"); err != nil || string(f) != "raw" {
		t.Errorf("file %q, %v", f, err)
	}
}

func TestEveryEditCanBeUndoneAndTheUndoToo(t *testing.T) {
	t.Parallel()
	s, _ := open(t)
	filled(t, s)
	ctx := context.Background()
	c, _ := s.Contact(ctx, "c1")
	c.Call = "Q2TAX"
	if c, _ = s.PutContact(ctx, c, 1); c.Version != 2 {
		t.Fatalf("version %d", c.Version)
	}
	step := func(kind, id string, to, version int, deleted bool) {
		t.Helper()
		v, d, err := s.SetVersion(ctx, kind, id, to, version-1)
		if err != nil || v != version || d != deleted {
			t.Fatalf("%s to %d: version %d, deleted %v, %v", kind, to, v, d, err)
		}
	}
	step("contact", "c1", 1, 3, false)
	if c, _ := s.Contact(ctx, "c1"); c.Call != "Q2TAV" {
		t.Errorf("undone to %s", c.Call)
	}
	step("contact", "c1", 2, 4, false)
	if c, _ := s.Contact(ctx, "c1"); c.Call != "Q2TAX" {
		t.Errorf("redone to %s", c.Call)
	}
	for _, kind := range []string{"sweep", "deployment", "outing"} {
		id := map[string]string{"sweep": "s1", "deployment": "d1", "outing": "o1"}[kind]
		step(kind, id, 0, 2, true)
		step(kind, id, 1, 3, false)
	}
	if f, _ := s.SweepFile(ctx, "s1"); string(f) != "raw" {
		t.Error("the file is lost with the undo")
	}
	for _, x := range []struct{ kind, id string }{{"contact", "none"}, {"me", "1"}, {"contact", "c1"}} {
		if _, _, err := s.SetVersion(ctx, x.kind, x.id, 99, 4); !errors.Is(err, ErrNotFound) {
			t.Errorf("%v: %v", x, err)
		}
	}
}

func TestRemovedThingsAreNotListed(t *testing.T) {
	t.Parallel()
	s, _ := open(t)
	filled(t, s)
	ctx := context.Background()
	for _, x := range [][2]string{{"contact", "c1"}, {"sweep", "s1"}, {"deployment", "d1"}, {"outing", "o1"}} {
		if _, _, err := s.SetVersion(ctx, x[0], x[1], 0, 1); err != nil {
			t.Fatal(err)
		}
	}
	cs, _ := s.Worked(ctx, "d1")
	sw, _ := s.Sweeps(ctx, "d1")
	ds, _ := s.Deployments(ctx, "")
	os, _ := s.Outings(ctx)
	if worked, err := s.HasWorked(ctx, "d1"); len(cs)+len(sw)+len(ds)+len(os) != 0 || worked || err != nil {
		t.Errorf("%v %v %v %v %v %v", cs, sw, ds, os, worked, err)
	}
}

func TestLettersCountOn(t *testing.T) {
	t.Parallel()
	s, _ := open(t)
	filled(t, s)
	d, err := s.PutDeployment(context.Background(), deployment.Deployment{ID: "d2", OutingID: "o1", Name: "Stilt"}, 0)
	if err != nil || d.Letter != "B" {
		t.Errorf("%+v %v", d, err)
	}
	if deployment.Letter(25)+deployment.Letter(26)+deployment.Letter(27) != "ZAAAB" {
		t.Error(deployment.Letter(26))
	}
	if _, err := s.PutDeployment(context.Background(), deployment.Deployment{ID: "d3", OutingID: "nowhere"}, 0); !errors.Is(err, ErrNotFound) {
		t.Errorf("a deployment of no outing: %v", err)
	}
}

func TestImportIsOneStepThatCanBeTakenOut(t *testing.T) {
	t.Parallel()
	s, _ := open(t)
	filled(t, s)
	ctx := context.Background()
	batch := []onair.Contact{{ID: "i1", OutingID: "o1", Call: "Q3A", Batch: "b"}, {ID: "i2", OutingID: "o1", Call: "Q4A", Batch: "b"}}
	if n, err := s.AddContacts(ctx, batch); n != 2 || err != nil {
		t.Fatal(n, err)
	}
	if n, err := s.AddContacts(ctx, batch); n != 0 || err != nil {
		t.Fatalf("again: %d %v", n, err)
	}
	if _, err := s.AddContacts(ctx, []onair.Contact{{ID: "i3", OutingID: "o1"}, {ID: "i4", OutingID: "nowhere"}}); err == nil {
		t.Fatal("a contact of no outing was taken")
	}
	if cs, _ := s.Contacts(ctx, "o1"); len(cs) != 3 {
		t.Errorf("a failed import left %d contacts, want 3", len(cs))
	}
	if n, err := s.RemoveBatch(ctx, "b"); n != 2 || err != nil {
		t.Fatal(n, err)
	}
	if _, _, err := s.SetVersion(ctx, "contact", "i1", 1, 2); err != nil {
		t.Error(err)
	}
	if cs, _ := s.Contacts(ctx, "o1"); len(cs) != 2 {
		t.Errorf("%d contacts", len(cs))
	}
}

func TestDatabaseIsWrittenThrough(t *testing.T) {
	t.Parallel()
	s, _ := open(t)
	var mode string
	var sync, keys int
	s.w.QueryRow("PRAGMA journal_mode").Scan(&mode)
	s.w.QueryRow("PRAGMA synchronous").Scan(&sync)
	s.w.QueryRow("PRAGMA foreign_keys").Scan(&keys)
	if mode != "wal" || sync != 2 || keys != 1 {
		t.Errorf("journal %s, synchronous %d, foreign keys %d", mode, sync, keys)
	}
}

func TestBackupAndRestoreOfALiveDatabase(t *testing.T) {
	t.Parallel()
	s, dir := open(t)
	filled(t, s)
	ctx := context.Background()
	copyFile := filepath.Join(dir, "copy.db")
	if err := s.Backup(ctx, copyFile); err != nil {
		t.Fatal(err)
	}
	if err := s.Backup(ctx, copyFile); err == nil {
		t.Error("a backup was overwritten")
	}
	if _, err := s.PutContact(ctx, onair.Contact{ID: "c2", OutingID: "o1", Call: "Q9Z"}, 0); err != nil {
		t.Fatal(err)
	}
	// Another process restores while this one is open.
	kept, err := Restore(ctx, dir, copyFile)
	if err != nil {
		t.Fatal(err)
	}
	if cs, err := s.Contacts(ctx, "o1"); err != nil || len(cs) != 1 {
		t.Errorf("the open one sees %d contacts, %v", len(cs), err)
	}
	if err := Verify(ctx, kept); err != nil {
		t.Errorf("what was there is kept: %v", err)
	}
	if _, err := s.PutContact(ctx, onair.Contact{ID: "c3", OutingID: "o1", Call: "Q8Z"}, 0); err != nil {
		t.Errorf("writing goes on after a restore: %v", err)
	}
}

func TestABadBackupReplacesNothing(t *testing.T) {
	t.Parallel()
	s, dir := open(t)
	filled(t, s)
	ctx := context.Background()
	whole := filepath.Join(dir, "whole.db")
	if err := s.Backup(ctx, whole); err != nil {
		t.Fatal(err)
	}
	data, _ := os.ReadFile(whole)
	for name, content := range map[string][]byte{"cut.db": data[:len(data)/2], "text.db": []byte(strings.Repeat("not a database ", 500)),
		"empty.db": nil} {
		path := filepath.Join(dir, name)
		os.WriteFile(path, content, 0o600)
		if _, err := Restore(ctx, dir, path); err == nil {
			t.Errorf("%s was restored", name)
		}
	}
	if _, err := Restore(ctx, dir, filepath.Join(dir, "missing.db")); err == nil {
		t.Error("a missing file was restored")
	}
	if cs, _ := s.Contacts(ctx, "o1"); len(cs) != 1 {
		t.Errorf("%d contacts after refused restores", len(cs))
	}
}

func TestANewerDatabaseIsRefused(t *testing.T) {
	t.Parallel()
	s, dir := open(t)
	s.w.Exec("INSERT INTO goose_db_version (version_id, is_applied) VALUES (9999, 1)")
	s.Close()
	if _, err := Open(context.Background(), dir); err == nil || !strings.Contains(err.Error(), "newer") {
		t.Errorf("opened: %v", err)
	}
}

func BenchmarkLogContact(b *testing.B) {
	s, _ := open(b)
	filled(b, s)
	i := 0
	for b.Loop() {
		i++
		if _, err := s.PutContact(context.Background(), onair.Contact{ID: fmt.Sprint("b", i), OutingID: "o1", Call: "Q2TAV", At: time.Now()},
			0); err != nil {
			b.Fatal(err)
		}
	}
}

// Two notebooks that each put up an antenna in an outing that they share give both the same letter. Where they meet, in whatever order, the
// one that was put up first keeps it, and nothing in either is changed for that.
func TestLettersOfNotebooksThatMeetAreToldApart(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	at := time.Date(2026, 5, 16, 12, 0, 0, 0, time.UTC)
	var bundles []Bundle
	for i, name := range []string{"Heron", "Stilt", "Tern"} {
		s, _ := open(t)
		filled(t, s)
		if i == 2 { // a notebook with one more before it
			if _, err := s.PutDeployment(ctx, deployment.Deployment{ID: "before", OutingID: "o1", Name: "Before", CreatedAt: at}, 0); err != nil {
				t.Fatal(err)
			}
		}
		d, err := s.PutDeployment(ctx, deployment.Deployment{ID: fmt.Sprint("new", i), OutingID: "o1", Name: name,
			CreatedAt: at.Add(time.Duration(3-i) * time.Hour)}, 0)
		if err != nil || d.Letter != []string{"B", "B", "C"}[i] {
			t.Fatalf("%+v %v", d, err)
		}
		b, err := s.Bundle(ctx, "o1")
		if err != nil {
			t.Fatal(err)
		}
		bundles = append(bundles, b)
	}
	for _, order := range [][]int{{0, 1, 2}, {0, 2, 1}, {1, 0, 2}, {1, 2, 0}, {2, 0, 1}, {2, 1, 0}} {
		s, _ := open(t)
		for _, i := range append(order, order...) {
			if _, err := s.Merge(ctx, bundles[i], "", false); err != nil {
				t.Fatal(err)
			}
		}
		list, err := s.Deployments(ctx, "o1")
		if err != nil {
			t.Fatal(err)
		}
		got := map[string]string{}
		for _, d := range list {
			got[d.ID] = d.Letter
			if one, err := s.Deployment(ctx, d.ID); err != nil || one.Letter != d.Letter {
				t.Errorf("%+v %v", one, err)
			}
		}
		// Before (12:00) has B, Tern (13:00) C, Stilt (14:00) and Heron (15:00) were given B too.
		if fmt.Sprint(got) != "map[before:B d1:A new0:E new1:D new2:C]" {
			t.Errorf("%v: %v", order, got)
		}
		next, err := s.PutDeployment(ctx, deployment.Deployment{ID: "next", OutingID: "o1", Name: "Next", CreatedAt: at.Add(9 * time.Hour)}, 0)
		if err != nil || next.Letter != "F" {
			t.Errorf("%+v %v", next, err)
		}
	}
}

// A database that is empty or no database is never taken for a new notebook: the message says what to do.
func TestADamagedDatabaseNamesTheNextStep(t *testing.T) {
	t.Parallel()
	for name, content := range map[string]string{"empty": "", "no database": strings.Repeat("no database at all ", 400)} {
		dir := t.TempDir()
		path := filepath.Join(dir, FileName)
		if err := os.WriteFile(path, []byte(content), 0o600); err != nil {
			t.Fatal(err)
		}
		s, err := Open(t.Context(), dir)
		if err == nil {
			s.Close()
			t.Errorf("%s: opened", name)
			continue
		}
		var d *Damaged
		if !errors.As(err, &d) || !strings.Contains(err.Error(), "reed restore --data "+dir) {
			t.Errorf("%s: %v", name, err)
		}
		if is, _ := os.ReadFile(path); string(is) != content {
			t.Errorf("%s: it was changed", name)
		}
	}
}
