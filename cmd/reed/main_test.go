package main

import (
	"bytes"
	"context"
	"encoding/json"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"reed/core/antenna"
	"reed/core/deployment"
	"reed/internal/store"
)

// reed calls the program and returns its exit code and outputs.
func reed(t *testing.T, words ...string) (code int, out, errs string) {
	t.Helper()
	var o, e bytes.Buffer
	code = run(context.Background(), words, &o, &e)
	return code, o.String(), e.String()
}

func write(t *testing.T, name, content string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, []byte(content), 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

const adi = "<EOH><CALL:5>Q2TAV<QSO_DATE:8>20260516<TIME_ON:4>1432<BAND:3>40m<MODE:2>CW<APP_X_Y:2>zz<EOR>\n<CALL:5>Q3TAV<BAND:3>40m<EOR>"

func TestConvert(t *testing.T) {
	for _, c := range []struct {
		words []string
		code  int
		out   string
	}{
		{[]string{`16' 6 1/2"`}, 0, "5.042 m"}, {[]string{"16", "ft", "6.5", "in", "--json"}, 0, `"value": 5.0419`},
		{[]string{"--json", "7.032 MHz"}, 0, `"value": 7032000`},
		{[]string{"7,032", "--unit", "MHz"}, 0, "7.032 MHz"}, {[]string{"5.28", "--unit", "ft"}, 0, "1.609 m"},
		{[]string{"1,234 mm"}, 0, "note: the comma"},
		{[]string{"nonsense"}, 2, ""}, {[]string{"-5 m"}, 2, ""}, {[]string{}, 2, ""}, {[]string{"7.1 m", "--unit", "MHz"}, 2, ""},
	} {
		code, out, errs := reed(t, append([]string{"convert"}, c.words...)...)
		if code != c.code || !strings.Contains(out, c.out) || (code != 0) != (errs != "") {
			t.Errorf("convert %q: %d %q %q", c.words, code, out, errs)
		}
	}
}

func TestPreviewPrintsJSONAndWritesNothing(t *testing.T) {
	file := write(t, "log.adi", adi)
	code, out, _ := reed(t, "preview", file)
	var p struct {
		Kind    string
		Records []struct{ Taken bool }
		Notes   []struct {
			Severity, Field string
			Line, Record    int
		}
	}
	if err := json.Unmarshal([]byte(out), &p); err != nil || code != 0 {
		t.Fatal(err, code)
	}
	if p.Kind != "adif" || len(p.Records) != 2 || !p.Records[0].Taken || p.Records[1].Taken || p.Notes[0].Line != 2 ||
		p.Notes[0].Record != 2 || p.Notes[0].Field != "QSO_DATE" {
		t.Errorf("%+v", p)
	}
	entries, _ := os.ReadDir(filepath.Dir(file))
	if len(entries) != 1 {
		t.Errorf("preview left files: %v", entries)
	}
	if code, _, errs := reed(t, "preview", write(t, "x.csv", "")); code != 2 || !strings.Contains(errs, "empty") {
		t.Errorf("%d %s", code, errs)
	}
	if code, _, _ := reed(t, "preview", "/no/such/file"); code != 2 {
		t.Errorf("a missing file: %d", code)
	}
}

func TestImportExportBackupRestore(t *testing.T) {
	data := t.TempDir()
	file := write(t, "Gannet Spit.adi", adi)
	code, out, errs := reed(t, "import", file, "--data", data)
	if code != 0 || !strings.Contains(out, `"added": 1`) || !strings.Contains(out, `"refused": 1`) {
		t.Fatalf("%d %s %s", code, out, errs)
	}
	if code, out, _ := reed(t, "import", "--data", data, file, "--outing", "gannet spit"); code != 0 || !strings.Contains(out, `"known": 1`) {
		t.Errorf("again: %d %s", code, out)
	}
	if code, _, errs := reed(t, "import", file, "--data", data, "--outing", "nowhere"); code != 2 || !strings.Contains(errs, "Gannet Spit") {
		t.Errorf("an unknown outing: %d %s", code, errs)
	}
	if code, out, _ := reed(t, "export", "--data", data, "--outing", "Gannet Spit"); code != 0 || !strings.Contains(out, "<APP_X_Y:2>zz") {
		t.Errorf("export: %d %s", code, out)
	}
	copyFile := filepath.Join(t.TempDir(), "copy.db")
	if code, _, errs := reed(t, "backup", "--data", data, copyFile); code != 0 {
		t.Fatal(errs)
	}
	reed(t, "import", write(t, "other.adi", strings.Replace(adi, "Q2TAV", "Q9TAV", 1)), "--data", data, "--outing", "Gannet Spit")
	if code, out, errs := reed(t, "restore", "--data", data, copyFile); code != 0 || !strings.Contains(out, "kept in") {
		t.Fatal(errs)
	}
	if _, out, _ := reed(t, "export", "--data", data, "--outing", "Gannet Spit"); strings.Contains(out, "Q9TAV") ||
		!strings.Contains(out, "Q2TAV") {
		t.Errorf("after restoring: %s", out)
	}
	if code, _, errs := reed(t, "restore", "--data", data, file); code != 1 || !strings.Contains(errs, "nothing was replaced") {
		t.Errorf("a log as a backup: %d %s", code, errs)
	}
}

func TestSweepNeedsItsDeployment(t *testing.T) {
	data := t.TempDir()
	ctx := context.Background()
	st, err := store.Open(ctx, data)
	if err != nil {
		t.Fatal(err)
	}
	st.PutOuting(ctx, store.Outing{ID: "o", Name: "x", Date: "2026-05-16"}, 0)
	st.PutDeployment(ctx, deployment.Deployment{ID: "d", OutingID: "o", Name: "Heron"}, 0)
	file := write(t, "a.csv", "7.0,1.5\n7.1,1.2\n")
	for _, words := range [][]string{{}, {"--deployment", "Stilt"}, {"--deployment", "Heron"}, {"--deployment", "Heron", "--where", "sky"}} {
		if code, _, errs := reed(t, append([]string{"import", file, "--data", data}, words...)...); code != 2 || errs == "" {
			t.Errorf("%q: %d %s", words, code, errs)
		}
	}
	st.AddRevision(ctx, deployment.Revision{ID: "r", DeploymentID: "d", Built: deployment.Built{Shape: antenna.Shape{Family: "dipole"}}})
	st.Close()
	if code, out, errs := reed(t, "import", file, "--data", data, "--deployment", "heron"); code != 0 ||
		!strings.Contains(out, `"points": 2`) {
		t.Errorf("%d %s %s", code, out, errs)
	}
}

func TestUsage(t *testing.T) {
	for _, words := range [][]string{{}, {"help"}, {"fly"}, {"serve"}, {"backup"}, {"export"}, {"import", "--nonsense"}} {
		if code, _, errs := reed(t, words...); code != 2 || errs == "" {
			t.Errorf("%q: %d %q", words, code, errs)
		}
	}
	if code, out, _ := reed(t, "version"); code != 0 || out == "" {
		t.Error("no version")
	}
}

// That the demo comes up is tried by the journeys and by make smoke.
func TestServeAnswersOnLoopbackAndStops(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	r, w := io.Pipe()
	done := make(chan int)
	go func() {
		done <- run(ctx, []string{"serve", "--data", t.TempDir(), "--listen", "127.0.0.1:0"}, w, io.Discard)
		w.Close()
	}()
	line := make([]byte, 200)
	n, err := r.Read(line)
	if err != nil {
		t.Fatal(err)
	}
	url := strings.TrimSpace(string(line[strings.Index(string(line), "http"):n]))
	resp, err := http.Get(url + "/api/outings")
	if err != nil || resp.StatusCode != 200 || !strings.HasPrefix(url, "http://127.0.0.1:") {
		t.Fatal(url, err)
	}
	resp.Body.Close()
	cancel()
	select {
	case code := <-done:
		if code != 0 {
			t.Errorf("exit %d", code)
		}
	case <-time.After(20 * time.Second):
		t.Error("does not stop")
	}
}
