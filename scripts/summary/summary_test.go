package main

import (
	"strings"
	"testing"
)

// collect reads test events that are given one a line.
func collect(t *testing.T, lines ...string) Summary {
	t.Helper()
	var s Summary
	if err := s.AddGo(strings.NewReader(strings.Join(lines, "\n")), "full"); err != nil {
		t.Fatal(err)
	}
	return s
}

func TestEveryKindOfFailureIsNamedWithItsPackage(t *testing.T) {
	passed := `{"Action":"pass","Package":"reed/core/a","Test":"TestFine","Elapsed":0.5}`
	for name, c := range map[string]struct {
		lines  []string
		failed string
		reason string
	}{
		"a failed test": {[]string{`{"Action":"run","Package":"reed/core/a","Test":"TestX"}`,
			`{"Action":"fail","Package":"reed/core/a","Test":"TestX","Elapsed":1}`, `{"Action":"fail","Package":"reed/core/a"}`},
			"reed/core/a.TestX", "failed in the full run"},
		"a timeout": {[]string{`{"Action":"run","Package":"reed/core/b","Test":"TestSlow"}`,
			`{"Action":"output","Package":"reed/core/b","Test":"TestSlow","Output":"panic: test timed out after 10m0s\n"}`,
			`{"Action":"output","Package":"reed/core/b","Output":"FAIL\treed/core/b\t600.1s\n"}`,
			`{"Action":"fail","Package":"reed/core/b","Elapsed":600}`},
			"reed/core/b", "panic: test timed out after 10m0s (running: TestSlow)"},
		"a panic outside the tests": {[]string{`{"Action":"output","Package":"reed/core/c","Output":"panic: no wire\n"}`,
			`{"Action":"fail","Package":"reed/core/c"}`}, "reed/core/c", "panic: no wire"},
		"an exit without a word": {[]string{`{"Action":"fail","Package":"reed/core/d"}`}, "reed/core/d",
			"failed outside its tests in the full run"},
		"a package that does not build": {[]string{`{"ImportPath":"reed/core/e","Action":"build-fail"}`}, "reed/core/e", "does not build"},
		"a test that depends on it": {[]string{`{"Action":"fail","Package":"reed/core/f","FailedBuild":"reed/core/e"}`}, "reed/core/f",
			"does not build, because of reed/core/e"},
		"a run that was cut off": {[]string{`{"Action":"run","Package":"reed/core/g","Test":"TestY"}`}, "reed/core/g",
			"the run ended before this package did"},
	} {
		t.Run(name, func(t *testing.T) {
			s := collect(t, append([]string{passed, `{"Action":"pass","Package":"reed/core/a"}`}, c.lines...)...)
			if len(s.Failures) != 1 || s.Failures[0] != (Failure{c.failed, c.reason}) || s.Passed != 1 {
				t.Errorf("%+v, %d passed", s.Failures, s.Passed)
			}
		})
	}
}

func TestARunWithoutEventsIsAnError(t *testing.T) {
	var s Summary
	if err := s.AddGo(strings.NewReader("go: cannot find module\n"), "race"); err == nil || !strings.Contains(err.Error(), "race") {
		t.Error(err)
	}
	if err := s.AddJourneys(strings.NewReader(`{"suites":[]}`)); err == nil {
		t.Error("a report without a journey counts as passed")
	}
}

func TestJourneysAreCountedByTheirStatus(t *testing.T) {
	report := `{"suites":[{"title":"a.test.ts","file":"a.test.ts","suites":[{"title":"on a phone","specs":[
	  {"title":"logs","tests":[{"status":"flaky","results":[{"duration":3000},{"duration":2000}]}]}]}],
	  "specs":[{"title":"plans","tests":[{"status":"expected","results":[{"duration":1500}]}]},
	  {"title":"prints","tests":[{"status":"unexpected","results":[{"duration":10}]}]}]}],
	  "errors":[{"message":"Error: no browser\nat somewhere"}]}`
	var s Summary
	if err := s.AddJourneys(strings.NewReader(report)); err != nil {
		t.Fatal(err)
	}
	if s.Passed != 2 || len(s.Failures) != 2 || s.Failures[0].Reason != "Error: no browser" || s.Failures[1].Name != "a.test.ts: prints" ||
		len(s.Retried) != 1 {
		t.Errorf("%+v", s)
	}
	var out strings.Builder
	s.Print(&out)
	want := []string{"     5.0  a.test.ts on a phone: logs", "Passed at the second try: a.test.ts on a phone: logs",
		"FAILED a.test.ts: prints: journey failed", "\n2 passed, 2 failed, 0 skipped\n"}
	for _, w := range want {
		if !strings.Contains(out.String(), w) {
			t.Errorf("%q is not in\n%s", w, out.String())
		}
	}
	if strings.Index(out.String(), "logs") > strings.Index(out.String(), "plans") {
		t.Error("the slowest does not come first")
	}
}
