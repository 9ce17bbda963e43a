package store

import (
	"context"
	"database/sql"
	"errors"
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"testing"
	"time"

	"reed/core/band"
	"reed/core/kit"
	"reed/core/onair"
	"reed/core/sweep"
)

func TestAReplacedFileComesBackWithUndo(t *testing.T) {
	t.Parallel()
	s, _ := open(t)
	filled(t, s)
	ctx := context.Background()
	v, err := s.Sweep(ctx, "s1")
	if err != nil {
		t.Fatal(err)
	}
	file := func() string {
		t.Helper()
		f, err := s.SweepFile(ctx, "s1")
		if err != nil {
			t.Fatal(err)
		}
		return string(f)
	}
	v.File = []byte("another file of the same curve")
	if v, err = s.PutSweep(ctx, v, 1); err != nil || v.Version != 2 || file() != "another file of the same curve" {
		t.Fatalf("a new file under an unchanged document: version %d, %q, %v", v.Version, file(), err)
	}
	v.Curve = sweep.Sweep{Kind: "magnitude", F: []float64{7e6, 7.1e6}, Re: []float64{0.1, 0.2}}
	v.File = []byte("a third")
	if _, err = s.PutSweep(ctx, v, 2); err != nil {
		t.Fatal(err)
	}
	for to, want := range map[int]string{1: "raw", 2: "another file of the same curve", 3: "a third"} {
		now, err := s.Sweep(ctx, "s1")
		if err != nil {
			t.Fatal(err)
		}
		if _, _, err := s.SetVersion(ctx, "sweep", "s1", to, now.Version); err != nil || file() != want {
			t.Errorf("version %d brings back %q, not %q: %v", to, file(), want, err)
		}
		if now, _ = s.Sweep(ctx, "s1"); len(now.Curve.F) != map[bool]int{true: 2, false: 1}[to == 3] {
			t.Errorf("version %d has %d points", to, len(now.Curve.F))
		}
	}
}

func TestSettingsHaveHistory(t *testing.T) {
	t.Parallel()
	s, _ := open(t)
	ctx := context.Background()
	me, err := s.Me(ctx)
	if err != nil || me.Version != 0 {
		t.Fatal(me.Version, err)
	}
	me.Call, me.Segments = "Q2TAV", []band.Segment{{Band: "40m", Lo: 7e6, Hi: 7.1e6, Use: "own", On: true}}
	if me, err = s.PutMe(ctx, me, 0); err != nil || me.Version != 1 {
		t.Fatal(me.Version, err)
	}
	me.Segments = nil
	if _, err = s.PutMe(ctx, me, 1); err != nil {
		t.Fatal(err)
	}
	if _, _, err := s.SetVersion(ctx, "operator", TheOperator, 1, 2); err != nil {
		t.Fatal(err)
	}
	if me, _ = s.Me(ctx); len(me.Segments) != 1 || me.Version != 3 {
		t.Errorf("%+v", me)
	}
}

func TestNoUpdateIsLost(t *testing.T) {
	t.Parallel()
	s, _ := open(t)
	filled(t, s)
	ctx := context.Background()
	edit := func(name string, from int) (Outing, error) {
		return s.PutOuting(ctx, Outing{ID: "o1", Name: name, Date: "2026-05-16"}, from)
	}
	if o, err := edit("first", 1); err != nil || o.Version != 2 {
		t.Fatal(o.Version, err)
	}
	var c *Conflict
	if _, err := edit("second", 1); !errors.As(err, &c) || c.Version != 2 || !strings.Contains(string(c.Doc), "first") {
		t.Fatalf("a write from an older version: %v", err)
	}
	if o, err := edit("first", 1); err != nil || o.Version != 2 {
		t.Errorf("the same write again: %d, %v", o.Version, err)
	}
	if o, err := edit("third", 2); err != nil || o.Version != 3 {
		t.Fatal(err)
	}
	// The answer to the first was lost, and it is sent again after the third.
	if o, err := edit("first", 1); err != nil || o.Version != 3 {
		t.Errorf("repeated after something came between: %d, %v", o.Version, err)
	}
	if o, _ := s.Outing(ctx, "o1"); o.Name != "third" {
		t.Errorf("the repeat overwrote it: %s", o.Name)
	}
	if _, _, err := s.SetVersion(ctx, "outing", "o1", 0, 3); err != nil {
		t.Fatal(err)
	}
	if _, err := edit("back", 3); !errors.As(err, &c) || !c.Deleted {
		t.Errorf("a stale edit of a removed thing: %v", err)
	}
	if v, deleted, err := s.SetVersion(ctx, "outing", "o1", 0, 3); err != nil || v != 4 || !deleted {
		t.Errorf("removed again by a repeat: %d %v %v", v, deleted, err)
	}
	if _, _, err := s.SetVersion(ctx, "outing", "o1", 2, 2); !errors.As(err, &c) {
		t.Errorf("an undo from an older version: %v", err)
	}
	if o, _ := s.Outing(ctx, "o1"); !o.Deleted {
		t.Error("it came back")
	}
}

// Every kind that can be undone goes there and back through the same steps.
func TestEveryKindHasVersions(t *testing.T) {
	t.Parallel()
	s, _ := open(t)
	filled(t, s)
	ctx := context.Background()
	if _, err := s.PutPart(ctx, kit.Part{ID: "p1", Kind: "coax", Name: "x"}, 0); err != nil {
		t.Fatal(err)
	}
	if _, err := s.PutPhoto(ctx, Photo{ID: "f1", DeploymentID: "d1", File: []byte("jpeg")}, 0); err != nil {
		t.Fatal(err)
	}
	for kind, id := range map[string]string{"outing": "o1", "deployment": "d1", "sweep": "s1", "contact": "c1", "part": "p1", "photo": "f1"} {
		if v, deleted, err := s.SetVersion(ctx, kind, id, 0, 1); v != 2 || !deleted || err != nil {
			t.Errorf("%s: %d %v %v", kind, v, deleted, err)
		}
		if v, deleted, err := s.SetVersion(ctx, kind, id, 1, 2); v != 3 || deleted || err != nil {
			t.Errorf("%s: %d %v %v", kind, v, deleted, err)
		}
	}
	if f, err := s.PhotoFile(ctx, "f1"); err != nil || string(f) != "jpeg" {
		t.Errorf("the photo came back as %q, %v", f, err)
	}
}

func TestOnlyTheOwnerCanRead(t *testing.T) {
	t.Parallel()
	dir := filepath.Join(t.TempDir(), "notebook")
	ctx := context.Background()
	if err := os.Mkdir(dir, 0o755); err != nil {
		t.Fatal(err)
	}
	s, err := Open(ctx, dir)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	filled(t, s)
	to := filepath.Join(dir, "reed.backup.db")
	if err := s.Backup(ctx, to); err != nil {
		t.Fatal(err)
	}
	list, _ := os.ReadDir(dir)
	for _, f := range append([]string{""}, names(list)...) {
		info, err := os.Stat(filepath.Join(dir, f))
		if err != nil || info.Mode().Perm()&0o077 != 0 {
			t.Errorf("%q may be read by others: %v %v", f, info.Mode(), err)
		}
	}
}

func names(list []os.DirEntry) (out []string) {
	for _, f := range list {
		out = append(out, f.Name())
	}
	return out
}

func TestTheTallyFollowsEveryChange(t *testing.T) {
	t.Parallel()
	s, _ := open(t)
	filled(t, s)
	ctx := context.Background()
	now := time.Date(2026, 5, 16, 12, 0, 0, 0, time.UTC)
	put := func(id, call, band string, at time.Time, from int) {
		t.Helper()
		if _, err := s.PutContact(ctx, onair.Contact{ID: id, OutingID: "o1", DeploymentID: "d1", Call: call, Band: band, Mode: "CW", At: at,
			Line: call}, from); err != nil {
			t.Fatal(err)
		}
	}
	// agree compares what is kept with what core says of all contacts.
	agree := func(when string) {
		t.Helper()
		o, err := s.Outing(ctx, "o1")
		if err != nil {
			t.Fatal(err)
		}
		all, err := s.Contacts(ctx, "o1")
		if err != nil {
			t.Fatal(err)
		}
		want := onair.SchemeIn(onair.Schemes(), o.Scheme).Count(all, now)
		got, tally, err := s.Progress(ctx, o, now)
		if err != nil || !reflect.DeepEqual(got, want) || tally.Contacts != len(all) {
			t.Errorf("%s: kept %+v of %d, counted %+v of %d, %v", when, got, tally.Contacts, want, len(all), err)
		}
		rows, _, err := s.Page(ctx, "o1", "", "", 100)
		dup := onair.SchemeIn(onair.Schemes(), o.Scheme).Duplicates(all)
		for _, r := range rows {
			if err != nil || r.Duplicate != (dup[r.ID] != "") {
				t.Errorf("%s: %s is a duplicate: %v, core says %v", when, r.Call, r.Duplicate, dup[r.ID])
			}
		}
	}
	for i, call := range []string{"Q2TAV", "Q2TAV", "Q3B", "q2tav", "Q4C"} {
		put(string(rune('p'+i)), call, "40m", now.Add(time.Duration(i-20)*time.Minute), 0)
	}
	agree("logged")
	put("p", "Q5D", "40m", now.Add(-20*time.Minute), 1)
	agree("the first of a duplicate corrected: the second counts now")
	put("q", "Q2TAV", "20m", now.Add(-19*time.Minute), 1)
	agree("another band")
	put("q", "Q2TAV", "20m", now.AddDate(0, 0, -1), 2)
	agree("another day")
	if _, _, err := s.SetVersion(ctx, "contact", "r", 0, 1); err != nil {
		t.Fatal(err)
	}
	agree("one taken out")
	if _, _, err := s.SetVersion(ctx, "contact", "r", 1, 2); err != nil {
		t.Fatal(err)
	}
	agree("and brought back")
	if _, err := s.AddContacts(ctx, []onair.Contact{{ID: "i1", OutingID: "o1", Call: "Q2TAV", Band: "20m", Mode: "CW", At: now, Batch: "b"},
		{ID: "i2", OutingID: "o1", Call: "Q9X", Band: "20m", Mode: "CW", At: now, Batch: "b"}}); err != nil {
		t.Fatal(err)
	}
	agree("imported")
	for _, scheme := range []string{"four-stations", "forty-four", "none", "ten-a-day"} {
		o, _ := s.Outing(ctx, "o1")
		o.Scheme = scheme
		if _, err := s.PutOuting(ctx, o, o.Version); err != nil {
			t.Fatal(err)
		}
		agree(scheme)
	}
	if n, err := s.RemoveBatch(ctx, "b"); n != 2 || err != nil {
		t.Fatal(n, err)
	}
	agree("the import taken out")
}

func TestTakingAnImportOutLeavesWhatWasEdited(t *testing.T) {
	t.Parallel()
	s, _ := open(t)
	filled(t, s)
	ctx := context.Background()
	if _, err := s.AddContacts(ctx, []onair.Contact{{ID: "i1", OutingID: "o1", Call: "Q2TAV", Batch: "b"},
		{ID: "i2", OutingID: "o1", Call: "Q9X", Batch: "b"}}); err != nil {
		t.Fatal(err)
	}
	c, _ := s.Contact(ctx, "i2")
	c.Comment = "by hand"
	if _, err := s.PutContact(ctx, c, 1); err != nil {
		t.Fatal(err)
	}
	if n, err := s.RemoveBatch(ctx, "b"); n != 1 || err != nil {
		t.Fatal(n, err)
	}
	if c, err := s.Contact(ctx, "i2"); err != nil || c.Deleted {
		t.Errorf("an edited contact went with its import: %+v %v", c, err)
	}
	if n, err := s.RemoveBatch(ctx, "unknown"); n != 0 || err != nil {
		t.Error(n, err)
	}
}

func TestTheLogIsPagedToItsFirstContact(t *testing.T) {
	t.Parallel()
	s, _ := open(t)
	filled(t, s)
	ctx := context.Background()
	at := time.Date(2026, 5, 16, 12, 0, 0, 0, time.UTC)
	for i := range 25 {
		// Five at every moment, so that the order within one has to hold too.
		c := onair.Contact{ID: "n" + string(rune('a'+i)), OutingID: "o1", Call: "Q" + string(rune('1'+i%9)) + "AB",
			OtherRef: "MI-00" + string(rune('1'+i%3)), At: at.Add(time.Duration(i/5) * time.Minute)}
		if _, err := s.PutContact(ctx, c, 0); err != nil {
			t.Fatal(err)
		}
	}
	all, _ := s.Contacts(ctx, "o1")
	var got []string
	key := ""
	for pages := 0; ; pages++ {
		rows, next, err := s.Page(ctx, "o1", key, "", 7)
		if err != nil || pages > 4 {
			t.Fatal(pages, err)
		}
		for _, r := range rows {
			got = append(got, r.ID)
		}
		if key = next; next == "" {
			break
		}
	}
	if len(got) != len(all) {
		t.Fatalf("%d of %d", len(got), len(all))
	}
	for i, id := range got {
		if want := all[len(all)-1-i].ID; id != want {
			t.Fatalf("place %d: %s, want %s", i, id, want)
		}
	}
	for words, n := range map[string]int{"q1a": 3, "mi-002": 8, "Q": 26, "%": 0, "zz": 0} {
		if rows, _, err := s.Page(ctx, "o1", "", words, 100); err != nil || len(rows) != n {
			t.Errorf("%q finds %d, want %d: %v", words, len(rows), n, err)
		}
	}
	if _, _, err := s.Page(ctx, "o1", "yesterday", "", 7); !errors.Is(err, ErrNotFound) {
		t.Error(err)
	}
}

// planOf is how SQLite goes about a query.
func planOf(t *testing.T, s *Store, query string) (plan string) {
	t.Helper()
	args := make([]any, strings.Count(query, "?"))
	for i := range args {
		args[i] = 1
	}
	if err := scanAll(context.Background(), s.r, "EXPLAIN QUERY PLAN "+query, func(r *sql.Rows) error {
		var id, parent, x int
		var text string
		err := r.Scan(&id, &parent, &x, &text)
		plan += text + "\n"
		return err
	}, args...); err != nil {
		t.Fatalf("%s: %v", query, err)
	}
	return plan
}

// What is asked at every key press reads an index, not the log.
func TestQuestionsOfTheLogAreAnsweredFromIndexes(t *testing.T) {
	t.Parallel()
	s, _ := open(t)
	for query, index := range map[string]string{
		sameStation: "contact_station", lastTyped: "contact_typed", page + pageNewest: "contact_time", recentOf: "contact_recent",
		"SELECT version, doc FROM contact WHERE deployment_id = ? AND deleted = 0 ORDER BY at, rowid": "contact_deployment",
		pageFound:             "COVERING INDEX contact_search",
		tallyOf:               "PRIMARY KEY",
		swept + " GROUP BY 1": "sweep_live", ofOne: "contact_station",
	} {
		plan := planOf(t, s, query)
		if !strings.Contains(plan, index) || strings.Contains(plan, "SCAN contact") || strings.Contains(plan, "TEMP B-TREE FOR ORDER") {
			t.Errorf("%s\n%s", query, plan)
		}
	}
}
