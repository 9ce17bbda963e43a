package main

import (
	"bufio"
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"sort"
	"strings"
)

// slowest is how many tests and journeys are listed by time.
const slowest = 20

// Failure is one thing that did not pass, and why.
type Failure struct{ Name, Reason string }

// Timed is a test, package or journey with its time in seconds.
type Timed struct {
	Name    string
	Seconds float64
}

// Summary collects results of Go tests and journeys.
type Summary struct {
	Passed, Skipped int
	Failures        []Failure
	Tests, Packages []Timed
	Journeys        []Timed
	Retried         []string // journeys that passed only when run again
}

func (s *Summary) fail(name, reason string) { s.Failures = append(s.Failures, Failure{name, reason}) }

// event is one line of go test -json.
type event struct {
	Action, Package, ImportPath, Test, Output, FailedBuild string
	Elapsed                                                float64
}

// packageRun collects the events of one package.
type packageRun struct {
	open        map[string]bool // tests that began and have not ended
	failedTests int
	reason      string // from the output: a timeout or a panic
	ended       bool
}

// AddGo adds the events of one go test run; run names it in the output, as in "race".
func (s *Summary) AddGo(r io.Reader, run string) error {
	packages := map[string]*packageRun{}
	at := func(name string) *packageRun {
		if packages[name] == nil {
			packages[name] = &packageRun{open: map[string]bool{}}
		}
		return packages[name]
	}
	in := bufio.NewScanner(r)
	in.Buffer(nil, 16<<20)
	events := 0
	for in.Scan() {
		var e event
		if json.Unmarshal(in.Bytes(), &e) != nil {
			continue
		}
		events++
		switch {
		case e.Action == "build-fail":
			s.fail(e.ImportPath, "does not build")
		case e.Test != "":
			s.addTest(at(e.Package), e, run)
		case e.Package != "":
			s.addPackage(at(e.Package), e, run)
		}
	}
	if events == 0 {
		return fmt.Errorf("no events in the %s run", run)
	}
	for _, name := range sortedKeys(packages) {
		if !packages[name].ended {
			s.fail(name, "the run ended before this package did")
		}
	}
	return in.Err()
}

func (s *Summary) addTest(p *packageRun, e event, run string) {
	name := e.Package + "." + e.Test
	switch e.Action {
	case "run":
		p.open[e.Test] = true
	case "output":
		p.read(e.Output)
	case "pass", "skip", "fail":
		delete(p.open, e.Test)
		s.Tests = append(s.Tests, Timed{fmt.Sprintf("%s (%s)", name, run), e.Elapsed})
		switch e.Action {
		case "pass":
			s.Passed++
		case "skip":
			s.Skipped++
		case "fail":
			p.failedTests++
			s.fail(name, "failed in the "+run+" run")
		}
	}
}

func (s *Summary) addPackage(p *packageRun, e event, run string) {
	switch e.Action {
	case "output":
		p.read(e.Output)
	case "pass", "skip", "fail":
		p.ended = true
		s.Packages = append(s.Packages, Timed{fmt.Sprintf("%s (%s)", e.Package, run), e.Elapsed})
		switch {
		case e.Action != "fail":
		case e.FailedBuild != "":
			s.fail(e.Package, "does not build, because of "+e.FailedBuild)
		case p.reason != "":
			s.fail(e.Package, p.reason+p.running())
		case p.failedTests == 0:
			s.fail(e.Package, "failed outside its tests in the "+run+" run"+p.running())
		}
	}
}

// read takes the reason of a package's end from its output.
func (p *packageRun) read(line string) {
	line = strings.TrimSpace(line)
	if p.reason == "" && (strings.HasPrefix(line, "panic: ") || strings.HasPrefix(line, "fatal error: ")) {
		p.reason = line
	}
}

func (p *packageRun) running() string {
	if len(p.open) == 0 {
		return ""
	}
	return " (running: " + strings.Join(sortedKeys(p.open), ", ") + ")"
}

// suite is one level of the report of the journeys.
type suite struct {
	Title  string
	File   string
	Suites []suite
	Specs  []struct {
		Title string
		Tests []struct {
			Status  string // expected, unexpected, flaky or skipped
			Results []struct{ Duration float64 }
		}
	}
}

// AddJourneys adds the JSON report of the journeys.
func (s *Summary) AddJourneys(r io.Reader) error {
	var report struct {
		Suites []suite
		Errors []struct{ Message string }
	}
	if err := json.NewDecoder(r).Decode(&report); err != nil {
		return fmt.Errorf("reading the report of the journeys: %w", err)
	}
	for _, e := range report.Errors {
		first, _, _ := strings.Cut(e.Message, "\n")
		s.fail("journeys", first)
	}
	before := len(s.Journeys)
	for _, x := range report.Suites {
		s.addSuite(x, x.File)
	}
	if len(s.Journeys) == before && len(report.Errors) == 0 {
		return fmt.Errorf("the report holds no journey")
	}
	return nil
}

func (s *Summary) addSuite(x suite, path string) {
	for _, inner := range x.Suites {
		s.addSuite(inner, path+" "+inner.Title)
	}
	for _, spec := range x.Specs {
		name := path + ": " + spec.Title
		for _, t := range spec.Tests {
			total := 0.0
			for _, r := range t.Results {
				total += r.Duration / 1000
			}
			s.Journeys = append(s.Journeys, Timed{name, total})
			switch t.Status {
			case "expected":
				s.Passed++
			case "flaky":
				s.Passed++
				s.Retried = append(s.Retried, name)
			case "skipped":
				s.Skipped++
			default:
				s.fail(name, "journey failed")
			}
		}
	}
}

// Print writes the lists, the failures and the closing line.
func (s *Summary) Print(w io.Writer) {
	printSlowest(w, "Slowest packages", s.Packages, 8)
	printSlowest(w, "Slowest tests", s.Tests, slowest)
	printSlowest(w, "Slowest journeys", s.Journeys, slowest)
	for _, name := range s.Retried {
		fmt.Fprintf(w, "Passed at the second try: %s\n", name)
	}
	for _, f := range s.Failures {
		fmt.Fprintf(w, "FAILED %s: %s\n", f.Name, f.Reason)
	}
	fmt.Fprintf(w, "%d passed, %d failed, %d skipped\n", s.Passed, len(s.Failures), s.Skipped)
}

func printSlowest(w io.Writer, title string, all []Timed, most int) {
	if len(all) == 0 {
		return
	}
	all = slices.Clone(all)
	sort.SliceStable(all, func(i, j int) bool { return all[i].Seconds > all[j].Seconds })
	fmt.Fprintf(w, "%s, s:\n", title)
	for _, x := range all[:min(most, len(all))] {
		fmt.Fprintf(w, "%8.1f  %s\n", x.Seconds, x.Name)
	}
}

func sortedKeys[V any](m map[string]V) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	sort.Strings(out)
	return out
}
