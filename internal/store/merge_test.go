package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"reed/core/deployment"
	"reed/core/onair"
	"reed/internal/testsize"
)

// A book is one notebook of several that hold the same outing.
type book struct {
	*Store
	written map[string]bool // texts that were written in any book
}

func (b book) edit(t *testing.T, rng *rand.Rand, outing string, step int) {
	t.Helper()
	ctx := context.Background()
	ids, err := b.Contacts(ctx, outing)
	if err != nil {
		t.Fatal(err)
	}
	text := fmt.Sprintf("%s text %d", outing, step)
	switch what := rng.IntN(10); {
	case what < 2 || len(ids) == 0:
		if _, err := b.PutContact(ctx, onair.Contact{ID: fmt.Sprintf("%s-c%d", outing, step), OutingID: outing, Call: "Q2TAV", Comment: text,
			At: time.Unix(int64(step), 0).UTC()}, 0); err != nil {
			t.Fatal(err)
		}
	case what < 8:
		c := ids[rng.IntN(len(ids))]
		switch rng.IntN(3) {
		case 0:
			c.Comment = text
		case 1:
			c.Name = text
		case 2:
			c.Sent = text
		}
		if _, err := b.PutContact(ctx, c, c.Version); err != nil {
			t.Fatal(err)
		}
	case what < 9:
		c := ids[rng.IntN(len(ids))]
		if _, _, err := b.SetVersion(ctx, "contact", c.ID, 0, c.Version); err != nil {
			t.Fatal(err)
		}
		return
	default:
		o, err := b.Outing(ctx, outing)
		if err != nil {
			t.Fatal(err)
		}
		o.Notes = text
		if _, err := b.PutOuting(ctx, o, o.Version); err != nil {
			t.Fatal(err)
		}
	}
	b.written[text] = true
}

// decide ends one of the outing's conflicts, if there is any.
func (b book) decide(t *testing.T, rng *rand.Rand, outing string) {
	t.Helper()
	if open := b.open(t, outing); len(open) > 0 {
		c := open[0]
		f := c.Fields[rng.IntN(len(c.Fields))]
		if _, err := b.Decide(context.Background(), c.Kind, c.ID, c.Version, map[string]int{f.Path: rng.IntN(len(f.Values))}); err != nil {
			t.Fatalf("%+v: %v", c, err)
		}
	}
}

// open lists the open conflicts of an outing.
func (b book) open(t *testing.T, outing string) (out []ConflictOf) {
	t.Helper()
	if err := b.rows(context.Background(), "the conflicts", `SELECT kind, id, fields, coalesce(
		(SELECT version FROM contact WHERE contact.id = conflict.id),
		(SELECT version FROM outing WHERE outing.id = conflict.id)) FROM conflict WHERE id >= ?1 AND id < ?1 || 'z' ORDER BY kind, id`,
		func(r *sql.Rows) error {
			var c ConflictOf
			var fields string
			if err := r.Scan(&c.Kind, &c.ID, &fields, &c.Version); err != nil {
				return err
			}
			out = append(out, c)
			return json.Unmarshal([]byte(fields), &out[len(out)-1].Fields)
		}, outing); err != nil {
		t.Fatal(err)
	}
	return out
}

func (b book) take(t *testing.T, from book, outing string) {
	t.Helper()
	bundle, err := from.Bundle(context.Background(), outing)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := b.Merge(context.Background(), bundle, "", false); err != nil {
		t.Fatal(err)
	}
}

// shows is what a book shows of an outing, with its open conflicts, as a text.
func (b book) shows(t *testing.T, outing string) string {
	t.Helper()
	ctx := context.Background()
	var out []any
	if err := b.rows(ctx, "all", `SELECT 'contact', id, deleted, doc FROM contact WHERE outing_id = ?1
		UNION ALL SELECT 'outing', id, deleted, doc FROM outing WHERE id = ?1 ORDER BY 1, 2`, func(r *sql.Rows) error {
		var kind, id, doc string
		var deleted bool
		err := r.Scan(&kind, &id, &deleted, &doc)
		out = append(out, kind, id, deleted, canonicalText(doc))
		return err
	}, outing); err != nil {
		t.Fatal(err)
	}
	for _, c := range b.open(t, outing) {
		out = append(out, c.Kind, c.ID, c.Fields)
	}
	text, err := json.Marshal(out)
	if err != nil {
		t.Fatal(err)
	}
	return string(text)
}

func canonicalText(doc string) string {
	var v any
	_ = json.Unmarshal([]byte(doc), &v)
	text, _ := json.Marshal(v)
	return string(text)
}

// lost lists the texts that stand neither in a thing nor in its history.
func (b book) lost(t *testing.T, texts map[string]bool) (out []string) {
	t.Helper()
	var all strings.Builder
	if err := b.rows(context.Background(), "all", "SELECT doc FROM history UNION ALL SELECT doc FROM contact UNION ALL SELECT doc FROM outing",
		func(r *sql.Rows) error {
			var doc string
			err := r.Scan(&doc)
			all.WriteString(doc)
			return err
		}); err != nil {
		t.Fatal(err)
	}
	for text := range texts {
		if !strings.Contains(all.String(), `"`+text+`"`) {
			out = append(out, text)
		}
	}
	return out
}

func TestMergesKeepEveryTextAndConverge(t *testing.T) {
	testsize.SkipIfShort(t, "merges three notebooks")
	t.Parallel()
	mergeHistories(t, 100)
}

func TestLongMergesKeepEveryTextAndConverge(t *testing.T) {
	mergeHistories(t, testsize.Long(t, 2000))
}

// mergeHistories has three notebooks write and exchange at random, and compares them when all have exchanged all.
func mergeHistories(t *testing.T, n int) {
	t.Helper()
	var books [3]book
	written := map[string]bool{}
	for i := range books {
		s, _ := open(t)
		books[i] = book{s, written}
	}
	conflicts := 0
	for h := range n {
		rng := rand.New(rand.NewPCG(uint64(h), 11))
		outing := fmt.Sprintf("h%05d", h)
		if _, err := books[0].PutOuting(t.Context(), Outing{ID: outing, Name: "Heron", Date: "2026-06-01"}, 0); err != nil {
			t.Fatal(err)
		}
		books[1].take(t, books[0], outing)
		books[2].take(t, books[0], outing)
		for step := range 14 {
			i := rng.IntN(3)
			switch rng.IntN(6) {
			case 0:
				books[i].take(t, books[rng.IntN(3)], outing)
			case 1:
				books[i].decide(t, rng, outing)
			default:
				books[i].edit(t, rng, outing, step)
			}
		}
		for _, i := range rng.Perm(3) {
			for _, k := range rng.Perm(3) {
				books[i].take(t, books[k], outing)
			}
		}
		for _, i := range rng.Perm(3) {
			for _, k := range rng.Perm(3) {
				books[i].take(t, books[k], outing)
			}
		}
		first := books[0].shows(t, outing)
		for _, b := range books[1:] {
			if got := b.shows(t, outing); got != first {
				t.Fatalf("history %d: one notebook shows\n%s\nanother\n%s", h, first, got)
			}
		}
		if strings.Contains(first, `"path"`) {
			conflicts++
		}
	}
	for i, b := range books {
		if lost := b.lost(t, written); len(lost) > 0 {
			slices.Sort(lost)
			t.Errorf("notebook %d has lost %d of %d texts: %v", i, len(lost), len(written), lost[:min(3, len(lost))])
		}
	}
	if conflicts < n/8 {
		t.Errorf("only %d of %d histories ended with a conflict", conflicts, n)
	}
	t.Logf("%d texts, %d histories with open conflicts", len(written), conflicts)
}

// Each side's edit of the same contact survives: the one written last is shown, both are listed, and the decision holds on both sides
// while the other text stays in history. A screen that was opened before the merge cannot save over it.
func TestBothEditsOfAContactSurviveAMerge(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	laptop, _ := open(t)
	phone, _ := open(t)
	a, b := book{laptop, map[string]bool{}}, book{phone, map[string]bool{}}
	if _, err := laptop.PutOuting(ctx, Outing{ID: "o", Name: "Spit", Date: "2026-06-01"}, 0); err != nil {
		t.Fatal(err)
	}
	first := onair.Contact{ID: "c", OutingID: "o", Call: "Q2TAV", Comment: "first", At: time.Unix(0, 0)}
	if _, err := laptop.PutContact(ctx, first, 0); err != nil {
		t.Fatal(err)
	}
	b.take(t, a, "o")
	edit := func(s *Store, change func(*onair.Contact)) onair.Contact {
		t.Helper()
		c, err := s.Contact(ctx, "c")
		if err != nil {
			t.Fatal(err)
		}
		change(&c)
		c, err = s.PutContact(ctx, c, c.Version)
		if err != nil {
			t.Fatal(err)
		}
		return c
	}
	edit(laptop, func(c *onair.Contact) { c.Comment = "laptop"; c.Name = "Ada" })
	stale := edit(phone, func(c *onair.Contact) { c.Comment = "phone"; c.Sent = "57" })
	before, err := phone.Contact(ctx, "c")
	if err != nil {
		t.Fatal(err)
	}
	bundle, err := laptop.Bundle(ctx, "o")
	if err != nil {
		t.Fatal(err)
	}
	rehearsed, err := phone.Merge(ctx, bundle, "Q1REED", true)
	if now, _ := phone.Contact(ctx, "c"); err != nil || now.Version != before.Version || rehearsed.Counts[ChangeConflict] != 1 {
		t.Errorf("%+v %v", rehearsed, err)
	}
	m, err := phone.Merge(ctx, bundle, "Q1REED", false)
	if err != nil || m.Counts[ChangeConflict] != 1 || m.ID == 0 {
		t.Fatalf("%+v %v", m, err)
	}
	now, err := phone.Contact(ctx, "c")
	if err != nil || now.Name != "Ada" || now.Sent != "57" || now.Comment != "phone" || now.Version <= before.Version {
		t.Errorf("%+v %v", now, err)
	}
	if _, err := phone.PutContact(ctx, stale, stale.Version); err != nil && !strings.Contains(err.Error(), "meanwhile") {
		t.Error(err)
	}
	// Undone as one step, and merged again.
	if kept, err := phone.UndoMerge(ctx, m.ID); err != nil || kept != 0 {
		t.Fatal(kept, err)
	}
	if back, _ := phone.Contact(ctx, "c"); back.Name != "" || back.Comment != "phone" || back.Version <= now.Version {
		t.Errorf("%+v", back)
	}
	if list, _ := phone.Conflicts(ctx); len(list) != 0 {
		t.Errorf("%+v", list)
	}
	b.take(t, a, "o")
	list, err := phone.Conflicts(ctx)
	if err != nil || len(list) != 1 || list[0].Fields[0].Path != "/comment" {
		t.Fatalf("%+v %v", list, err)
	}
	for n, v := range list[0].Fields[0].Values {
		if string(v.Raw) == `"laptop"` {
			if _, err := phone.Decide(ctx, "contact", "c", list[0].Version, map[string]int{"/comment": n}); err != nil {
				t.Fatal(err)
			}
		}
	}
	a.take(t, b, "o")
	for _, s := range []*Store{laptop, phone} {
		c, err := s.Contact(ctx, "c")
		if list, _ := s.Conflicts(ctx); err != nil || c.Comment != "laptop" || c.Name != "Ada" || c.Sent != "57" || len(list) != 0 {
			t.Errorf("%+v %v %+v", c, err, list)
		}
		if lost := (book{s, nil}).lost(t, map[string]bool{"phone": true, "laptop": true, "first": true}); len(lost) > 0 {
			t.Errorf("lost: %v", lost)
		}
	}
}

// A merge of things that were not here is undone whole, and what somebody added since stays with what it belongs to.
func TestEarlierVersionsAreListedWithWhatIsDifferentNow(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	s, _ := open(t)
	filled(t, s)
	c, err := s.Contact(ctx, "c1")
	if err != nil {
		t.Fatal(err)
	}
	for i, comment := range []string{"loud", "louder", "loudest"} {
		c.Comment = comment
		if c, err = s.PutContact(ctx, c, i+1); err != nil {
			t.Fatal(err)
		}
	}
	if _, _, err := s.SetVersion(ctx, "contact", "c1", 0, 4); err != nil {
		t.Fatal(err)
	}
	list, current, err := s.Earlier(ctx, "contact", "c1")
	if err != nil || current != 5 || len(list) != 4 {
		t.Fatalf("%d versions before %d, %v", len(list), current, err)
	}
	for i, want := range []string{"", `"louder"`, `"loud"`, "none"} {
		e := list[i]
		if e.Version != 4-i || e.Deleted {
			t.Errorf("place %d: version %d, deleted %v", i, e.Version, e.Deleted)
		}
		switch {
		case want == "" && len(e.Differs) > 0:
			t.Errorf("version %d: the same document differs in %v", e.Version, e.Differs)
		case want == "none" && (len(e.Differs) != 1 || e.Differs[0].Was != nil || string(e.Differs[0].Is) != `"loudest"`):
			t.Errorf("version %d: %v", e.Version, e.Differs)
		case want != "" && want != "none" && (len(e.Differs) != 1 || e.Differs[0].Path != "/comment" || string(e.Differs[0].Was) != want):
			t.Errorf("version %d: %v", e.Version, e.Differs)
		}
		if e.At.IsZero() != (e.Version == 1) {
			t.Errorf("version %d was written at %v", e.Version, e.At)
		}
	}
	if _, _, err := s.Earlier(ctx, "contact", "nobody"); !errors.Is(err, ErrNotFound) {
		t.Errorf("a thing that is not there: %v", err)
	}
}

func TestAMergeIsUndoneAsOneStep(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	there, _ := open(t)
	filled(t, there)
	bundle, err := there.Bundle(ctx, "o1")
	if err != nil {
		t.Fatal(err)
	}
	s, _ := open(t)
	m, err := s.Merge(ctx, bundle, "", false)
	if err != nil || m.Counts[ChangeNew] < 3 {
		t.Fatalf("%+v %v", m, err)
	}
	if kept, err := s.UndoMerge(ctx, m.ID); err != nil || kept != 0 {
		t.Fatal(kept, err)
	}
	if list, err := s.Outings(ctx); err != nil || len(list) != 0 {
		t.Errorf("%+v %v", list, err)
	}
	if _, err := s.UndoMerge(ctx, m.ID); err == nil {
		t.Error("undone twice")
	}
	if m, err = s.Merge(ctx, bundle, "", false); err != nil {
		t.Fatal(err)
	}
	if _, err := s.PutContact(ctx, onair.Contact{ID: "mine", OutingID: "o1", Call: "Q5XXX", At: time.Unix(0, 0)}, 0); err != nil {
		t.Fatal(err)
	}
	if kept, err := s.UndoMerge(ctx, m.ID); err != nil || kept == 0 {
		t.Errorf("%d kept, %v", kept, err)
	}
	if list, err := s.Contacts(ctx, "o1"); err != nil || len(list) != 1 || list[0].ID != "mine" {
		t.Errorf("%+v %v", list, err)
	}
}

// What cannot be kept is refused at every door: as a form, in a bundle, and when a backup is checked.
func TestNothingHostileIsKept(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	s, _ := open(t)
	filled(t, s)
	long := strings.Repeat("n", 5_000_000)
	for name, write := range map[string]func() error{
		"a long name": func() error {
			_, err := s.PutOuting(ctx, Outing{ID: "x", Name: long, Date: "2026-06-01"}, 0)
			return err
		},
		"the year 0": func() error {
			_, err := s.PutOuting(ctx, Outing{ID: "x", Name: "n", Date: "0000-06-01"}, 0)
			return err
		},
		"no ID": func() error { _, err := s.PutOuting(ctx, Outing{Name: "n", Date: "2026-06-01"}, 0); return err },
		"an ID as a path": func() error {
			_, err := s.PutOuting(ctx, Outing{ID: "../..", Name: "n", Date: "2026-06-01"}, 0)
			return err
		},
		"a power beyond all": func() error { _, err := s.PutDeployment(ctx, powered(1e308), 0); return err },
		"a negative power":   func() error { _, err := s.PutDeployment(ctx, powered(-5), 0); return err },
		"an unknown family": func() error {
			d := powered(5)
			d.Plan.Family = "kite"
			_, err := s.PutDeployment(ctx, d, 0)
			return err
		},
		"8000 frequencies": func() error {
			d := powered(5)
			d.Plan.More = make([]float64, 8000)
			_, err := s.PutDeployment(ctx, d, 0)
			return err
		},
		"100000 fields": func() error {
			_, err := s.PutContact(ctx, onair.Contact{ID: "x", OutingID: "o1", Call: "Q2TAV", Extra: make([]onair.Field, 100_000)}, 0)
			return err
		},
	} {
		if err := write(); err == nil {
			t.Errorf("%s is kept", name)
		}
	}
}

func powered(watts float64) deployment.Deployment {
	d := deployment.Deployment{ID: "p", OutingID: "o1", Name: "p"}
	d.Plan.Family, d.Plan.Variant, d.Plan.FrequencyHz, d.Plan.PowerW = "dipole", "flat", 14.1e6, watts
	return d
}
