package main

import (
	"encoding/json"
	"os"
	"regexp"
	"strings"
	"testing"

	"reed/core/moment"
)

func TestPredictAnswersTheDocumentedCase(t *testing.T) {
	text, err := os.ReadFile("../../docs/predict.md")
	if err != nil {
		t.Fatal(err)
	}
	example := regexp.MustCompile(`(?s)    \{"frequencies.*?"power_w": 10\}`).FindString(string(text))
	if example == "" {
		t.Fatal("the document has no example")
	}
	code, out, errs := reed(t, "predict", "-in", write(t, "case.json", strings.Replace(example, "[14.1]", "[14.0, 14.1]", 1)))
	lines := strings.Split(strings.TrimSpace(out), "\n")
	if code != 0 || len(lines) != 2 {
		t.Fatalf("%d %q %q", code, out, errs)
	}
	var a, b moment.Prediction
	if err := json.Unmarshal([]byte(lines[0]), &a); err != nil {
		t.Fatal(err)
	}
	if err := json.Unmarshal([]byte(lines[1]), &b); err != nil {
		t.Fatal(err)
	}
	if a.MHz != 14 || b.MHz != 14.1 || b.X <= a.X || b.R < 15 || b.R > 80 || b.Seconds <= 0 || len(b.Near) != 1 || b.Near[0].E < 1 ||
		b.Near[0].E > 60 {
		t.Errorf("%+v\n%+v", a, b)
	}
}

func TestPredictRefusesWithTheReason(t *testing.T) {
	const fine = `"feed":{"wire":0,"at":0.5},"frequencies_mhz":[14]`
	for text, says := range map[string]string{
		`{`:                                 "not understood",
		`{"wires":[],"whatever":1}`:         "whatever",
		`{"wires":[],"frequencies_mhz":[]}`: "frequencies_mhz",
		`{"wires":[],` + fine + `}`:         "no wire",
		`{"wires":[{"from":[0,0,1],"to":[0,0,1]}],` + fine + `}`: "wire 0",
	} {
		code, out, errs := reed(t, "predict", "-in", write(t, "case.json", text))
		if code != 2 || out != "" || !strings.Contains(errs, says) {
			t.Errorf("%s: %d %q %q, want %q", text, code, out, errs, says)
		}
	}
	if code, _, _ := reed(t, "predict"); code != 2 {
		t.Errorf("no case: %d", code)
	}
	if code, _, errs := reed(t, "predict", "-in", "/no/such/case"); code != 1 || errs == "" {
		t.Errorf("a file that is not there: %d %q", code, errs)
	}
}
