// Summary prints how a test run ended: the slowest tests and journeys, every failure by name, and one closing line with the
// counts. It reads the event files of go test -json (written by gotestsum) and the JSON report of the journeys.
//
//	go run ./scripts/summary bin/go-*.json bin/journeys.json
//
// A package that timed out, panicked or did not build counts as a failure and is named even if no test of it failed, and so is
// a file that is missing. It exits with 1 if anything failed.
package main

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
)

func main() {
	var sum Summary
	for _, path := range os.Args[1:] {
		if err := sum.addFile(path); err != nil {
			sum.fail(filepath.Base(path), "no result: "+err.Error())
		}
	}
	sum.Print(os.Stdout)
	if len(sum.Failures) > 0 {
		os.Exit(1)
	}
}

// addFile reads one result file, by its name: journeys*.json is a report of journeys, any other a file of go test events.
func (s *Summary) addFile(path string) error {
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	defer f.Close()
	name := filepath.Base(path)
	if strings.HasPrefix(name, "journeys") {
		return s.AddJourneys(f)
	}
	if err := s.AddGo(f, strings.TrimSuffix(strings.TrimPrefix(name, "go-"), ".json")); err != nil {
		return fmt.Errorf("reading test events: %w", err)
	}
	return nil
}
