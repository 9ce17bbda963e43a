package store

import (
	"context"
	"database/sql"
	"fmt"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"reed/core/onair"
	"reed/internal/testsize"
)

func TestManyWriteAndReadTogether(t *testing.T) {
	t.Parallel()
	s, dir := open(t)
	filled(t, s)
	const each = 20
	other, err := Open(context.Background(), dir) // as a command line call beside the server
	if err != nil {
		t.Fatal(err)
	}
	defer other.Close()
	ctx := context.Background()
	var wg sync.WaitGroup
	for w := range 6 {
		st := []*Store{s, other}[w%2]
		wg.Go(func() {
			for i := range each {
				if _, err := st.PutContact(ctx, onair.Contact{ID: fmt.Sprintf("w%d-%d", w, i), OutingID: "o1", Call: "Q2TAV",
					At: time.Unix(int64(i), 0)}, 0); err != nil {
					t.Errorf("writer %d: %v", w, err)
					return
				}
				if _, err := st.Contacts(ctx, "o1"); err != nil {
					t.Errorf("reader %d: %v", w, err)
				}
			}
		})
	}
	wg.Wait()
	all, err := s.Contacts(ctx, "o1")
	if err != nil || len(all) != 6*each+1 {
		t.Fatalf("%d contacts, %v", len(all), err)
	}
	for i := 1; i < len(all); i++ {
		if all[i].At.Before(all[i-1].At) {
			t.Fatal("not in the order of time")
		}
	}
}

func TestOneIdWrittenByTwoMakesOneThing(t *testing.T) {
	t.Parallel()
	s, _ := open(t)
	filled(t, s)
	var wg sync.WaitGroup
	for range 8 {
		wg.Go(func() {
			if _, err := s.PutContact(context.Background(), onair.Contact{ID: "same", OutingID: "o1", Call: "Q2TAV"}, 0); err != nil {
				t.Error(err)
			}
		})
	}
	wg.Wait()
	c, err := s.Contact(context.Background(), "same")
	if err != nil || c.Version != 1 {
		t.Errorf("version %d, %v", c.Version, err)
	}
}

func TestDatabasesOfEveryVersionAreBroughtUpToDate(t *testing.T) {
	testsize.SkipIfShort(t, "opens a notebook of every version")
	t.Parallel()
	ctx := context.Background()
	probe, err := sql.Open("sqlite", dsn(filepath.Join(t.TempDir(), "probe.db")))
	if err != nil {
		t.Fatal(err)
	}
	defer probe.Close()
	p, err := provider(probe)
	if err != nil {
		t.Fatal(err)
	}
	for _, source := range p.ListSources() {
		dir := t.TempDir()
		db, err := sql.Open("sqlite", dsn(filepath.Join(dir, FileName)))
		if err != nil {
			t.Fatal(err)
		}
		old, err := provider(db)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := old.UpTo(ctx, source.Version); err != nil {
			t.Fatal(err)
		}
		if _, err := db.Exec("INSERT INTO outing (id, version, deleted, doc, date) VALUES ('o', 1, 0, " +
			"'{\"id\":\"o\",\"name\":\"kept\",\"date\":\"2026-05-16\"}', '2026-05-16')"); err != nil {
			t.Fatal(err)
		}
		db.Close()
		s, err := Open(ctx, dir)
		if err != nil {
			t.Fatalf("from version %d: %v", source.Version, err)
		}
		if o, err := s.Outing(ctx, "o"); err != nil || o.Name != "kept" {
			t.Errorf("from version %d: %+v, %v", source.Version, o, err)
		}
		s.Close()
	}
}

func TestAStoppedWriteLeavesNothing(t *testing.T) {
	t.Parallel()
	s, _ := open(t)
	filled(t, s)
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	if _, err := s.AddContacts(ctx, []onair.Contact{{ID: "x", OutingID: "o1"}}); err == nil {
		t.Error("a stopped import was stored")
	}
	if _, err := s.PutOuting(ctx, Outing{ID: "o2", Name: "x", Date: "2026-01-01"}, 0); err == nil {
		t.Error("a stopped write was stored")
	}
	all, _ := s.Outings(context.Background())
	if len(all) != 1 {
		t.Errorf("%d outings", len(all))
	}
}
