package main

import (
	"path/filepath"
	"strings"
	"testing"
)

// An outing goes from one notebook to another as a file: it is the same there, and twice changes nothing.
func TestAnOutingGoesToAnotherNotebook(t *testing.T) {
	here, there := t.TempDir(), t.TempDir()
	if code, _, errs := reed(t, "import", write(t, "Gannet Spit.adi", adi), "--data", here); code != 0 {
		t.Fatal(errs)
	}
	file := filepath.Join(t.TempDir(), "spit.zip")
	if code, _, errs := reed(t, "bundle", file, "--data", here, "--outing", "gannet spit"); code != 0 {
		t.Fatal(errs)
	}
	code, out, errs := reed(t, "merge", file, "--data", there)
	if code != 0 || !strings.Contains(out, " new.\nundo it with: reed merge --undo 1 ") {
		t.Fatalf("%d %s %s", code, out, errs)
	}
	if code, out, _ := reed(t, "merge", file, "--data", there); code != 0 || !strings.HasPrefix(out, "All of it is here already.") {
		t.Errorf("again: %d %s", code, out)
	}
	_, one, _ := reed(t, "export", "--data", here, "--outing", "Gannet Spit")
	if code, other, errs := reed(t, "export", "--data", there, "--outing", "Gannet Spit"); code != 0 || other == "" ||
		after(other, "<EOH>") != after(one, "<EOH>") {
		t.Errorf("%s\n%s%s", one, other, errs)
	}
	for _, c := range []struct {
		words []string
		code  int
		says  string
	}{
		{[]string{"bundle", file, "--data", here, "--outing", "Gannet Spit"}, 1, "exists"},
		{[]string{"bundle", file + "2", "--data", here, "--outing", "nowhere"}, 2, "Gannet Spit"},
		{[]string{"bundle", file, "--data", here}, 2, "reed bundle FILE"},
		{[]string{"merge", file}, 2, "reed merge FILE"},
		{[]string{"merge", write(t, "log.zip", "no bundle"), "--data", there}, 2, "bundle"},
		{[]string{"merge", "/no/such/file", "--data", there}, 1, "reading the bundle"},
	} {
		if code, _, errs := reed(t, c.words...); code != c.code || !strings.Contains(errs, c.says) {
			t.Errorf("%q: %d %q", c.words, code, errs)
		}
	}
}

func after(text, mark string) string {
	_, rest, _ := strings.Cut(text, mark)
	return rest
}
