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
	"reed/core/kit"
	"reed/core/marks"
	"reed/core/onair"
	"reed/core/site"
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
	return must[store.Merged](t)(s.Merge(ctx, b, "", false))
}

func TestABundleGoesThereAndBackExactly(t *testing.T) {
	here, there := filled(t), opened(t)
	text := written(t, here)
	if m := merged(t, there, text); m.Counts[store.ChangeNew] != 13 || m.Total() != 19 || m.Reports != 6 {
		t.Errorf("%+v", m)
	}
	if again := written(t, there); !bytes.Equal(again, text) {
		t.Error("what comes back is not what went there")
	}
	if m := merged(t, there, text); m.Total() != 0 || m.ID != 0 || m.Says() != "All of it is here already." {
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
			// The name was changed on all sides, the note's text too: both are conflicts, and the one written last is shown.
			list := must[[]store.ConflictOf](t)(s.Conflicts(ctx))
			if len(list) != 2 || list[0].ID != "c0" || list[0].Fields[0].Path != "/name" || list[1].ID != "n" || len(list[1].Fields[0].Values) != 3 {
				t.Errorf("%+v", list)
			}
			if c := must[onair.Contact](t)(s.Contact(ctx, "c0")); !strings.HasPrefix(c.Name, "of ") {
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
	second := `{"format":"itinerant-reed-bundle","version":2}`
	for says, bad := range map[string][]byte{
		"no bundle":            []byte("PK nothing"),
		"not in the bundle":    pack(map[string]string{"x": "y"}),
		`its format is "else"`: pack(map[string]string{"about.json": `{"format":"else"}`}),
		"of version 9":         pack(map[string]string{"about.json": `{"format":"itinerant-reed-bundle","version":9}`}),
		"things.jsonl, line 1": pack(map[string]string{"about.json": about, "things.jsonl": "{"}),
		"files/gone: it is not in the": pack(map[string]string{"about.json": about,
			"things.jsonl": `{"kind":"sweep","id":"s","file":"files/gone"}`}),
		"versions.jsonl, line 1": pack(map[string]string{"about.json": second, "versions.jsonl": "{"}),
		"zip":                    text[:len(text)/2],
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
		"a form of the future": func(b *store.Bundle) { b.Things[0].Versions[0].Form = 99 },
		"another kind":         func(b *store.Bundle) { b.Things[0].Kind = "operator" },
		"no document":          func(b *store.Bundle) { b.Things[2].Versions[0].Doc = []byte(`"x"`) },
		"another text than its hash says": func(b *store.Bundle) {
			b.Things[0].Versions[0].Doc = bytes.Replace(b.Things[0].Versions[0].Doc, []byte("Gannet"), []byte("Heron"), 1)
		},
		"an outing is missing": func(b *store.Bundle) { b.Things = b.Things[1:] },
		"bad reports":          func(b *store.Bundle) { b.Reports[0].ID = "x" },
	} {
		x := b
		x.Things, x.Reports = nil, append([]onair.Report(nil), b.Reports...)
		for _, t := range b.Things {
			t.Versions = append([]store.Written(nil), t.Versions...)
			x.Things = append(x.Things, t)
		}
		change(&x)
		if _, err := s.Merge(ctx, x, "", false); err == nil {
			t.Errorf("%s is taken", what)
		}
		if list, err := s.Outings(ctx); err != nil || len(list) > 0 {
			t.Errorf("%s left %d outings", what, len(list))
		}
	}
}

// A bundle of the first form is read: each thing with the one version that it has.
func TestABundleOfTheFirstFormIsRead(t *testing.T) {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, text := range map[string]string{"about.json": `{"format":"itinerant-reed-bundle","version":1,"call":"Q1REED"}`,
		"things.jsonl": `{"kind":"outing","id":"o","version":3,"form":1,"doc":` +
			`{"id":"o","name":"Gannet Spit","date":"2026-05-16","version":0}}` + "\n" +
			`{"kind":"contact","id":"c","version":1,"form":1,"doc":` +
			`{"id":"c","outing_id":"o","call":"Q2TAV","at":"2026-05-16T12:00:00Z","seconds":false,"version":0}}` +
			"\n", "revisions.jsonl": "", "reports.jsonl": "", "log.adi": ""} {
		if err := add(z, name, []byte(text)); err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	s := opened(t)
	if m := merged(t, s, b.Bytes()); m.Counts[store.ChangeNew] != 2 {
		t.Errorf("%+v", m)
	}
	if c := must[onair.Contact](t)(s.Contact(ctx, "c")); c.Call != "Q2TAV" {
		t.Errorf("%+v", c)
	}
}

// What a small file unpacks to is bounded by what is really read: a file that is named often is read once, and what is too much ends it.
func TestAHostileBundleIsBounded(t *testing.T) {
	pack := func(parts map[string][]byte) []byte {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for name, text := range parts {
			if err := add(z, name, text); err != nil {
				t.Fatal(err)
			}
		}
		if err := z.Close(); err != nil {
			t.Fatal(err)
		}
		return b.Bytes()
	}
	about := []byte(`{"format":"itinerant-reed-bundle","version":2}`)
	hash := strings.Repeat("a", 64)
	big := bytes.Repeat([]byte("x"), 8<<20)
	var many bytes.Buffer
	for i := range 300 {
		fmt.Fprintf(&many, `{"kind":"photo","id":"p%d","form":1,"vid":"v%d","file":%q,"doc":{"id":"p%d"}}`+"\n", i, i, hash, i)
	}
	_, out, err := Read(pack(map[string][]byte{"about.json": about, "versions.jsonl": many.Bytes(),
		"revisions.jsonl": nil, "reports.jsonl": nil,
		"files/" + hash: big}))
	if err != nil || len(out.Things) != 300 || &out.Things[0].Versions[0].Data[0] != &out.Things[299].Versions[0].Data[0] {
		t.Errorf("%d things, %v", len(out.Things), err)
	}
	if _, err := opened(t).Merge(ctx, out, "", false); err == nil {
		t.Error("files that are not what their hash says are taken")
	}
	huge := bytes.Repeat([]byte("\n"), mostUnpacked+1)
	if _, _, err := Read(pack(map[string][]byte{"about.json": about, "versions.jsonl": huge,
		"revisions.jsonl": nil, "reports.jsonl": nil})); err == nil ||
		!strings.Contains(err.Error(), "more than") {
		t.Errorf("%v", err)
	}
}

// What an outing needs goes with it: its site, the parts that its set-ups name, its scheme's rule and its marks.
func TestABundleHasWhatItsOutingNeeds(t *testing.T) {
	s := filled(t)
	must[site.Site](t)(s.PutSite(ctx, site.Site{ID: "spit", Name: "Gannet Spit", Lines: []string{"power line 40 m north"}}, 0))
	o := must[store.Outing](t)(s.Outing(ctx, "o"))
	o.Site = "spit"
	must[store.Outing](t)(s.PutOuting(ctx, o, o.Version))
	for _, id := range []string{"choke-1", "not-used"} {
		must[kit.Part](t)(s.PutPart(ctx, kit.Part{ID: id, Kind: "choke", Name: id}, 0))
	}
	r := must[deployment.Revision](t)(s.Revision(ctx, "rd0"))
	r.ID, r.Built.Parts = "r2", map[string]string{"choke": "choke-1"}
	must[deployment.Revision](t)(s.AddRevision(ctx, r))
	must[marks.Set](t)(s.PutMarks(ctx, marks.Set{ID: "m", Name: "coil", DeploymentID: "d0", Marks: []marks.Mark{}}, 0))
	there := opened(t)
	merged(t, there, written(t, s))
	if list := must[[]site.Site](t)(there.Sites(ctx)); len(list) != 1 || len(list[0].Lines) != 1 {
		t.Errorf("%+v", list)
	}
	if list := must[[]kit.Part](t)(there.Bag(ctx)); len(list) != 1 || list[0].ID != "choke-1" {
		t.Errorf("%+v", list)
	}
	if m := must[marks.Set](t)(there.MarksSet(ctx, "m")); m.Name != "coil" {
		t.Errorf("%+v", m)
	}
	// The whole notebook has what no outing names, too.
	var all bytes.Buffer
	if err := Write(&all, owner, must[store.Bundle](t)(s.Bundle(ctx, ""))); err != nil {
		t.Fatal(err)
	}
	merged(t, there, all.Bytes())
	if list := must[[]kit.Part](t)(there.Bag(ctx)); len(list) != 2 {
		t.Errorf("%+v", list)
	}
}
