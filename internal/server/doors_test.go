package server

import (
	"archive/zip"
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http/httptest"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"testing"
	"time"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/deployment"
	"reed/core/kit"
	"reed/core/onair"
	"reed/core/site"
	"reed/internal/store"
)

// document is one kept thing as another notebook, a backup or a form may send it.
type document struct {
	what, kind, id string
	form           int
	deleted        bool
	version        int64
	doc            map[string]any
}

// documents fills a notebook with one thing of each kind, and reads them as they are kept.
func documents(t *testing.T, c *client) []document {
	t.Helper()
	ctx := context.Background()
	plan := antenna.Request{Shape: antenna.Shape{Family: "end-fed", Variant: "sloper", FrequencyHz: 7.1e6, Wire: "pvc"}}
	for _, err := range []error{
		second(c.store.PutSite(ctx, site.Site{ID: uid(300), Name: "Gannet Spit", Lines: []string{"power line 40 m north"}}, 0)),
		second(c.store.PutOuting(ctx, store.Outing{ID: uid(301), Name: "Gannet Spit", Date: "2026-05-16", Site: uid(300),
			Scheme: "ten-a-day"}, 0)),
		second(c.store.PutDeployment(ctx, deployment.Deployment{ID: uid(302), OutingID: uid(301), Name: "Heron", Plan: plan}, 0)),
		second(c.store.AddRevision(ctx, deployment.Revision{ID: uid(303), DeploymentID: uid(302),
			Built: deployment.Built{Shape: family.Design(plan).Shape}})),
		second(c.store.PutContact(ctx, onair.Contact{ID: uid(304), OutingID: uid(301), DeploymentID: uid(302), Call: "Q2TAV", At: testNow,
			Band: "40m", Mode: "CW", Extra: []onair.Field{{Name: "QTH", Value: "a village"}}}, 0)),
		second(c.store.PutNote(ctx, onair.Note{ID: uid(305), OutingID: uid(301), At: testNow, Kind: "weather", Text: "gusts"}, 0)),
		second(c.store.PutRecipe(ctx, deployment.Recipe{ID: uid(307), RevisionID: uid(303), Name: "Heron again", Plan: plan}, 0)),
		second(c.store.PutPart(ctx, kit.Part{ID: uid(306), Kind: "coax", Name: "10 m of RG-58"}, 0)),
	} {
		if err != nil {
			t.Fatal(err)
		}
	}
	b, err := c.store.Bundle(ctx, "")
	if err != nil {
		t.Fatal(err)
	}
	var out []document
	for _, x := range b.Things {
		w := x.Versions[len(x.Versions)-1]
		d := document{kind: x.Kind, id: x.ID, form: w.Form}
		if err := json.Unmarshal(w.Doc, &d.doc); err != nil {
			t.Fatal(err)
		}
		out = append(out, d)
	}
	return out
}

func second[T any](_ T, err error) error { return err }

// bundled is a bundle of the first form with this one document.
func (d document) bundled(t *testing.T) []byte {
	t.Helper()
	doc, err := json.Marshal(d.doc)
	if err != nil {
		t.Fatal(err)
	}
	line, err := json.Marshal(map[string]any{"kind": d.kind, "id": d.id, "version": d.version, "form": d.form, "deleted": d.deleted,
		"doc": json.RawMessage(doc)})
	if err != nil {
		t.Fatal(err)
	}
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, part := range []struct{ name, text string }{{"about.json", `{"format":"itinerant-reed-bundle","version":1}`},
		{"things.jsonl", string(line) + "\n"}, {"revisions.jsonl", ""}, {"reports.jsonl", ""}} {
		w, err := z.Create(part.name)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := w.Write([]byte(part.text)); err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// byMerge sends a document in a bundle.
func (d document) byMerge(t *testing.T, c *client) int {
	body, err := json.Marshal(map[string]any{"name": "x.zip", "content": d.bundled(t)})
	if err != nil {
		t.Fatal(err)
	}
	return c.send(t, "POST", "/api/bundles", body)
}

// byForm sends a document as a form does.
func (d document) byForm(t *testing.T, c *client) int {
	body, err := json.Marshal(d.doc)
	if err != nil {
		t.Fatal(err)
	}
	return c.send(t, "PUT", "/api/"+d.kind+"s/"+strings.ReplaceAll(d.id, "/", "%2f"), body)
}

func (c *client) send(t *testing.T, method, path string, body []byte) int {
	t.Helper()
	r := request(method, "http://localhost"+path, bytes.NewReader(body))
	r.Header.Set("Content-Type", "application/json")
	w := httptest.NewRecorder()
	c.h.ServeHTTP(w, r)
	if w.Code >= 500 {
		t.Errorf("%s %s: %d %.300s\n%.300s", method, path, w.Code, w.Body, body)
	}
	return w.Code
}

// byRestore restores a backup that holds the document in its own row, into another folder.
func (d document) byRestore(t *testing.T, backup string) error {
	t.Helper()
	doc, err := json.Marshal(d.doc)
	if err != nil {
		t.Fatal(err)
	}
	db, err := sql.Open("sqlite", "file:"+backup)
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	var was string
	if err := db.QueryRow("SELECT doc FROM " + d.kind + " WHERE id LIKE '%' LIMIT 1").Scan(&was); err != nil {
		t.Fatal(d.kind, err)
	}
	if _, err := db.Exec("UPDATE "+d.kind+" SET doc = ?, version = ? WHERE doc = ?", string(doc), max(1, d.version), was); err != nil {
		t.Fatal(err)
	}
	_, failed := store.Restore(context.Background(), t.TempDir(), backup)
	if _, err := db.Exec("UPDATE "+d.kind+" SET doc = ?, version = 1 WHERE doc = ?", was, string(doc)); err != nil {
		t.Fatal(err)
	}
	return failed
}

// hostile are documents that no door may keep, each made from a sound one.
func hostile(sound []document) []document {
	var out []document
	add := func(kind, what string, change func(d *document)) {
		i := slices.IndexFunc(sound, func(d document) bool { return d.kind == kind })
		d := sound[i].copied()
		d.what = what
		change(&d)
		out = append(out, d)
	}
	set := func(field string, value any) func(d *document) {
		return func(d *document) { d.doc[field] = value }
	}
	inPlan := func(field string, value any) func(d *document) {
		return func(d *document) { d.doc["plan"].(map[string]any)[field] = value }
	}
	renamed := func(id string) func(d *document) {
		return func(d *document) { d.id, d.doc["id"] = id, id }
	}
	many := make([]float64, 100_000)
	for i := range many {
		many[i] = 7e6 + float64(i)
	}
	fields := make([]any, 100_000)
	for i := range fields {
		fields[i] = map[string]any{"name": fmt.Sprint("F", i), "value": "x"}
	}
	add("outing", "the year 0", set("date", "0000-05-16"))
	add("outing", "a name of 5 MB", set("name", strings.Repeat("n", 5_000_000)))
	add("outing", "an empty id", renamed(""))
	add("outing", "a long id", renamed(strings.Repeat("i", 5000)))
	add("outing", "an id as a path", renamed("../../.."))
	add("deployment", "an unknown family", inPlan("family", "kite"))
	add("deployment", "8,000 frequencies", inPlan("more_hz", many[:8000]))
	add("deployment", "100,000 frequencies", inPlan("more_hz", many))
	add("deployment", "a power beyond all", inPlan("power_w", 1e308))
	add("deployment", "a negative power", inPlan("power_w", -5))
	add("contact", "100,000 fields", set("extra", fields))
	add("contact", "no call", set("call", ""))
	add("note", "a text of 300 kB", set("text", strings.Repeat("n", 300_000)))
	add("part", "a name of 300 kB", set("name", strings.Repeat("n", 300_000)))
	add("site", "a name of 300 kB", set("name", strings.Repeat("n", 300_000)))
	add("recipe", "an unknown family", inPlan("family", "kite"))
	return out
}

func (d document) copied() document {
	text, err := json.Marshal(d.doc)
	if err != nil {
		panic(err)
	}
	d.doc = nil
	if err := json.Unmarshal(text, &d.doc); err != nil {
		panic(err)
	}
	return d
}

// kept is what a notebook holds, without when it was looked at.
func (c *client) kept(t *testing.T) string {
	t.Helper()
	b, err := c.store.Bundle(context.Background(), "")
	if err != nil {
		t.Fatal(err)
	}
	text, err := json.Marshal(b)
	if err != nil {
		t.Fatal(err)
	}
	return string(text)
}

// passesAsBackup has every document of a notebook pass the check of a restore.
func (c *client) passesAsBackup(t *testing.T) {
	t.Helper()
	backup := filepath.Join(t.TempDir(), "backup.db")
	if err := c.store.Backup(context.Background(), backup); err != nil {
		t.Fatal(err)
	}
	if _, err := store.Restore(context.Background(), t.TempDir(), backup); err != nil {
		t.Errorf("what was taken is no sound backup: %v", err)
	}
}

// TestNoDoorKeepsWhatTheCheckRefuses sends the same hostile documents by form, by merge and by restore. It does not run beside
// other tests: activation complete what is allocated.
func TestNoDoorKeepsWhatTheCheckRefuses(t *testing.T) {
	c := newClient(t)
	sound := documents(t, c)
	backup := filepath.Join(t.TempDir(), "backup.db")
	if err := c.store.Backup(context.Background(), backup); err != nil {
		t.Fatal(err)
	}
	before := c.kept(t)
	const most = 200 << 20
	for _, d := range hostile(sound) {
		name := d.kind + ", " + d.what
		size := len(d.bundled(t))
		var was, is runtime.MemStats
		runtime.ReadMemStats(&was)
		code := d.byMerge(t, c)
		runtime.ReadMemStats(&is)
		if code != 422 {
			t.Errorf("%s: a merge answers %d", name, code)
		}
		if n := is.TotalAlloc - was.TotalAlloc; n > most {
			t.Errorf("%s: %d MB for a bundle of %d kB", name, n>>20, size>>10)
		}
		d.byForm(t, c)
		if text := c.kept(t); len(text) > len(before)+2000 {
			t.Errorf("%s: a form is kept with %d characters more", name, len(text)-len(before))
		}
		if d.id == d.doc["id"] && len(d.id) == 36 && d.byRestore(t, backup) == nil {
			t.Errorf("%s: a restore takes it", name)
		}
	}
	c.passesAsBackup(t)
	for what, change := range map[string]func(d *document){
		"a version beyond all":      func(d *document) { d.version = 1<<63 - 1; d.doc["name"] = "another" },
		"a row unlike its document": func(d *document) { d.id = uid(399) },
		"removed elsewhere":         func(d *document) { d.deleted = true },
	} {
		d := sound[slices.IndexFunc(sound, func(d document) bool { return d.kind == "outing" })].copied()
		change(&d)
		d.byMerge(t, c)
		// Whatever became of it, the next edit goes through, and the outing is there or listed as a conflict.
		var o OutingDetail
		c.call("GET", "/api/outings/"+uid(301), nil, 200, &o)
		o.Outing.Notes = "after: " + what
		c.call("PUT", fmt.Sprintf("/api/outings/%s?version=%d", uid(301), o.Outing.Version),
			map[string]any{"name": o.Outing.Name, "date": o.Outing.Date, "notes": o.Outing.Notes}, 200, nil)
	}
	if strings.Contains(before, "after: ") || !strings.Contains(c.kept(t), "after: removed elsewhere") {
		t.Error("the edits after hostile bundles are not kept")
	}
}

// TestWhatAnyDoorTakesPassesTheCheck mangles sound documents at random and sends them by form and by merge: whatever is taken passes the
// check that a backup has to pass, and can be shown.
func TestWhatAnyDoorTakesPassesTheCheck(t *testing.T) {
	t.Parallel()
	c := newClient(t)
	sound := documents(t, c)
	rng := rand.New(rand.NewPCG(63, 64))
	seen := map[string]int{}
	for n := range 400 {
		d := sound[rng.IntN(len(sound))].copied()
		if rng.IntN(3) == 0 {
			d.id = uid(400 + n)
			d.doc["id"] = d.id
		}
		for range 1 + rng.IntN(2) {
			if changed, ok := mangle(rng, any(d.doc)).(map[string]any); ok {
				d.doc = changed
			}
		}
		d.version = rng.Int64()
		seen[fmt.Sprint("merge ", d.byMerge(t, c)/100)]++
		seen[fmt.Sprint("form ", d.byForm(t, c)/100)]++
	}
	for _, want := range []string{"merge 2", "merge 4", "form 2", "form 4"} {
		if seen[want] == 0 {
			t.Errorf("%v: all kinds of answers should occur", seen)
		}
	}
	c.passesAsBackup(t)
	for _, path := range []string{"/api/outings", "/api/outings/" + uid(301), "/api/outings/" + uid(301) + "/log", "/api/tags", "/api/parts",
		"/api/sites", "/api/recipes", "/api/conflicts", "/api/deployments/" + uid(302)} {
		if code := c.send(t, "GET", path, nil); code != 200 && code != 404 {
			t.Errorf("%s: %d", path, code)
		}
	}
}

// BenchmarkHostileBundles tells the longest that a merge of a hostile bundle takes.
func BenchmarkHostileBundles(b *testing.B) {
	for b.Loop() {
		t := &testing.T{}
		c := newClient(b)
		longest := time.Duration(0)
		for _, d := range hostile(documents(t, c)) {
			begun := time.Now()
			d.byMerge(t, c)
			longest = max(longest, time.Since(begun))
		}
		b.ReportMetric(longest.Seconds()*1e3, "ms/longest")
	}
}
