// Package testsize says how large a simulation in a test is. make test runs enough of it to notice a fault; make test-long runs
// all of it, or the share of it that REED_LONG gives.
package testsize

import (
	"math"
	"os"
	"strconv"
	"testing"
)

// Variable is the environment variable with the share of the long simulations to run, as in 1 or 0.01.
const Variable = "REED_LONG"

// Long skips a test unless make test-long runs it. It returns how many of full cases to run, at least 1.
func Long(t testing.TB, full int) int {
	t.Helper()
	share, ok := share(os.Getenv(Variable))
	if !ok {
		t.Skip("runs long: make test-long")
	}
	return cases(full, share)
}

// share reads the value of the variable; ok is false if it is empty or no positive number.
func share(text string) (share float64, ok bool) {
	share, err := strconv.ParseFloat(text, 64)
	return share, err == nil && share > 0
}

// cases is the number of cases that a share of full stands for, at least 1.
func cases(full int, share float64) int { return max(1, int(math.Round(float64(full)*share))) }

// SkipIfShort skips a test that needs more than about a second of computing: with -short, as make check, make mutants and the run
// under the race detector call it, only quick tests run.
func SkipIfShort(t testing.TB, why string) {
	t.Helper()
	if testing.Short() {
		t.Skip("not with -short: " + why)
	}
}
