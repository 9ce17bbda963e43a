package bundle

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/deployment"
	"reed/core/onair"
	"reed/core/sweep"
	"reed/internal/exchange"
	"reed/internal/store"
)

var (
	ctx   = context.Background()
	owner = exchange.Owner{Call: "Q1REED"}
	noon  = time.Date(2026, 5, 16, 12, 0, 0, 0, time.UTC)
)

func opened(t *testing.T) *store.Store {
	t.Helper()
	s, err := store.Open(ctx, t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s
}

func must[T any](t *testing.T) func(T, error) T {
	return func(v T, err error) T {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
		return v
	}
}

// filled is a notebook with an outing of two antennas, a sweep with its file, contacts, a note, a run and reports.
func filled(t *testing.T) *store.Store {
	s := opened(t)
	must[store.Outing](t)(s.PutOuting(ctx, store.Outing{ID: "o", Name: "Gannet Spit", Date: "2026-05-16", Place: "IN36",
		Scheme: "ten-a-day"}, 0))
	plan := antenna.Request{Shape: antenna.Shape{Family: "end-fed", Variant: "sloper", FrequencyHz: 7.1e6, Wire: "pvc"}}
	for i, name := range []string{"Heron", "Stilt"} {
		id := fmt.Sprint("d", i)
		must[deployment.Deployment](t)(s.PutDeployment(ctx, deployment.Deployment{ID: id, OutingID: "o", Name: name, Plan: plan,
			CreatedAt: noon}, 0))
		must[deployment.Revision](t)(s.AddRevision(ctx, deployment.Revision{ID: "r" + id, DeploymentID: id, At: noon,
			Built: deployment.Built{Shape: family.Design(plan).Shape}}))
	}
	must[store.Sweep](t)(s.PutSweep(ctx, store.Sweep{ID: "s", RevisionID: "rd0", Name: "feed", Where: "feed", TakenAt: noon,
		Curve: sweep.Sweep{Kind: "magnitude", F: []float64{7e6, 7.1e6}, Re: []float64{0.1, 0.2}}, File: []byte("7.0 1.5\n7.1 1.2\n")}, 0))
	for i := range 5 {
		must[onair.Contact](t)(s.PutContact(ctx, onair.Contact{ID: fmt.Sprint("c", i), OutingID: "o", DeploymentID: "d0",
			Call: fmt.Sprintf("Q%dTAV", i),
			At:   noon.Add(time.Duration(i) * time.Minute), Band: "40m", Mode: "CW", OwnRef: "MI-0001"}, 0))
	}
	must[onair.Note](t)(s.PutNote(ctx, onair.Note{ID: "n", OutingID: "o", At: noon, Kind: "weather", Text: "gusts"}, 0))
	run := onair.Run{ID: "x", OutingID: "o", Begin: noon, Mode: "WSPR", PowerW: 1, Minutes: 20, Bands: []string{"40m"},
		Aerials: []onair.Aerial{{Letter: "A", DeploymentID: "d0"}, {Letter: "B", DeploymentID: "d1"}}}
	run.Slots = run.Schedule()
	must[onair.Run](t)(s.PutRun(ctx, run, 0))
	if _, _, err := s.AddReports(ctx, "o", "b1", heard("Q2RX", 6)); err != nil {
		t.Fatal(err)
	}
	return s
}

func heard(receiver string, n int) func(func(store.NumberedReport, error) bool) {
	return func(yield func(store.NumberedReport, error) bool) {
		for i := range n {
			snr := float64(-10 - i)
			if !yield(store.NumberedReport{Report: onair.Report{At: noon.Add(time.Duration(2*i) * time.Minute), Seconds: true, Sender: "Q1REED",
				Receiver: receiver, Locator: "JO22", Band: "40m", Mode: "WSPR", SNR: &snr, DeploymentID: "d0"}, Number: i}, nil) {
				return
			}
		}
	}
}

func written(t *testing.T, s *store.Store) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := Write(&b, owner, must[store.Bundle](t)(s.Bundle(ctx, "o"))); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func merged(t *testing.T, s *store.Store, text []byte) store.Merged {
	t.Helper()
	_, b, err := Read(text)
	if err != nil {
		t.Fatal(err)
	}
	return must[store.Merged](t)(s.Merge(ctx, b))
}

func TestABundleGoesThereAndBackExactly(t *testing.T) {
	here, there := filled(t), opened(t)
	text := written(t, here)
	if m := merged(t, there, text); m.New != 13 || m.Newer+m.Kept != 0 || m.Reports != 6 {
		t.Errorf("%+v", m)
	}
	if again := written(t, there); !bytes.Equal(again, text) {
		t.Error("what comes back is not what went there")
	}
	if m := merged(t, there, text); m.New+m.Newer+m.Reports != 0 || m.Kept != 13 {
		t.Errorf("twice is not once: %+v", m)
	}
	if p, _, err := there.Progress(ctx, must[store.Outing](t)(there.Outing(ctx, "o")), noon); err != nil || p.Counted != 5 {
		t.Errorf("%+v %v", p, err)
	}
	file, err := there.SweepFile(ctx, "s")
	if err != nil || string(file) != "7.0 1.5\n7.1 1.2\n" {
		t.Errorf("%q %v", file, err)
	}
	about, _, err := Read(text)
	if err != nil || about.Call != "Q1REED" || len(about.Outings) != 1 || about.Outings[0] != "Gannet Spit, 2026-05-16" {
		t.Errorf("%+v %v", about, err)
	}
}

// Three notebooks that went on by themselves come to the same in every order.
func TestBundlesMergeToTheSameInEveryOrder(t *testing.T) {
	text := written(t, filled(t))
	var three [3][]byte
	for i := range three {
		s := opened(t)
		merged(t, s, text)
		c := must[onair.Contact](t)(s.Contact(ctx, "c0"))
		for k := range i + 1 { // corrected once, twice, three times
			c.Name = fmt.Sprintf("of %d, %d", i, k)
			c = must[onair.Contact](t)(s.PutContact(ctx, c, c.Version))
		}
		n := must[[]onair.Note](t)(s.Notes(ctx, "o"))[0]
		n.Text = fmt.Sprint("gusts as ", i, " saw them") // the same version, three texts
		must[onair.Note](t)(s.PutNote(ctx, n, n.Version))
		must[onair.Contact](t)(s.PutContact(ctx, onair.Contact{ID: fmt.Sprint("new", i), OutingID: "o", Call: "Q9TAV", Band: "20m", Mode: "CW",
			At: noon.Add(time.Hour)}, 0))
		must[deployment.Revision](t)(s.AddRevision(ctx, deployment.Revision{ID: fmt.Sprint("more", i), DeploymentID: "d0",
			At: noon.Add(time.Duration(3-i) * time.Minute), Built: must[deployment.Revision](t)(s.Revision(ctx, "rd0")).Built}))
		if _, _, err := s.AddReports(ctx, "o", fmt.Sprint("own", i), heard(fmt.Sprintf("Q%dRX", 5+i), 3)); err != nil {
			t.Fatal(err)
		}
		list, _, err := s.Reports(ctx, "o", store.ReportFilter{Receiver: "Q2RX"}, "", 1)
		if err != nil {
			t.Fatal(err)
		}
		must[onair.Report](t)(s.SetAside(ctx, list[0].ID, fmt.Sprint("reason ", i)))
		if i == 2 {
			if _, _, err := s.SetVersion(ctx, "contact", "c4", 0, 1); err != nil {
				t.Fatal(err)
			}
		}
		three[i] = written(t, s)
	}
	var first []byte
	for _, order := range [][]int{{0, 1, 2}, {0, 2, 1}, {1, 0, 2}, {1, 2, 0}, {2, 0, 1}, {2, 1, 0}} {
		s := opened(t)
		for _, i := range order {
			merged(t, s, three[i])
		}
		got := written(t, s)
		if first == nil {
			first = got
			b := must[store.Bundle](t)(s.Bundle(ctx, "o"))
			if len(b.Revisions) != 5 || len(b.Reports) != 15 {
				t.Errorf("%d revisions, %d reports", len(b.Revisions), len(b.Reports))
			}
			if c := must[onair.Contact](t)(s.Contact(ctx, "c0")); c.Name != "of 2, 2" || c.Version != 4 {
				t.Errorf("%+v", c)
			}
			if c := must[onair.Contact](t)(s.Contact(ctx, "c4")); !c.Deleted {
				t.Error("what was taken out came back")
			}
			if r := must[[]deployment.Revision](t)(s.Revisions(ctx, "d0")); r[0].ID != "rd0" || r[1].ID != "more2" || r[3].Seq != 4 {
				t.Errorf("%+v", r)
			}
		}
		if !bytes.Equal(got, first) {
			t.Errorf("in the order %v it comes to something else", order)
		}
	}
}

func TestABrokenBundleChangesNothing(t *testing.T) {
	text := written(t, filled(t))
	pack := func(parts map[string]string) []byte {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for name, text := range parts {
			if err := add(z, name, []byte(text)); err != nil {
				t.Fatal(err)
			}
		}
		if err := z.Close(); err != nil {
			t.Fatal(err)
		}
		return b.Bytes()
	}
	about := `{"format":"itinerant-reed-bundle","version":1}`
	for says, bad := range map[string][]byte{
		"no bundle":            []byte("PK nothing"),
		"not in the bundle":    pack(map[string]string{"x": "y"}),
		`its format is "else"`: pack(map[string]string{"about.json": `{"format":"else"}`}),
		"of version 9":         pack(map[string]string{"about.json": `{"format":"itinerant-reed-bundle","version":9}`}),
		"things.jsonl, line 1": pack(map[string]string{"about.json": about, "things.jsonl": "{"}),
		"files/gone: it is not in the": pack(map[string]string{"about.json": about,
			"things.jsonl": `{"kind":"sweep","id":"s","file":"files/gone"}`}),
		"zip": text[:len(text)/2],
	} {
		if _, _, err := Read(bad); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("want %q: %v", says, err)
		}
	}
	s := opened(t)
	_, b, err := Read(text)
	if err != nil {
		t.Fatal(err)
	}
	for what, change := range map[string]func(*store.Bundle){
		"a form of the future": func(b *store.Bundle) { b.Entries[0].Form = 99 },
		"another kind":         func(b *store.Bundle) { b.Entries[0].Kind = "operator" },
		"no document":          func(b *store.Bundle) { b.Entries[2].Doc = []byte(`"x"`) },
		"an outing is missing": func(b *store.Bundle) { b.Entries = b.Entries[1:] },
	} {
		x := b
		x.Entries = append([]store.Entry(nil), b.Entries...)
		change(&x)
		if _, err := s.Merge(ctx, x); err == nil {
			t.Errorf("%s is taken", what)
		}
		if list, err := s.Outings(ctx); err != nil || len(list) > 0 {
			t.Errorf("%s left %d outings", what, len(list))
		}
	}
}
