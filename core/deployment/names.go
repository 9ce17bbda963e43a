package deployment

import (
	"fmt"
	"slices"
	"strings"
)

// Taken reports whether a name is another's among the antennas of an outing; large and small letters are the same.
func Taken(name string, self string, all []Deployment) bool {
	for _, d := range all {
		if d.ID != self && strings.EqualFold(strings.TrimSpace(d.Name), strings.TrimSpace(name)) {
			return true
		}
	}
	return false
}

// Free is a name as it is, or with the first number behind it under which no other antenna of the outing is known.
func Free(name string, self string, all []Deployment) string {
	out := name
	for n := 2; Taken(out, self, all); n++ {
		out = fmt.Sprintf("%s %d", name, n)
	}
	return out
}

// Letter counts A to Z, then AA.
func Letter(n int) string {
	if n < 26 {
		return string(rune('A' + n))
	}
	return Letter(n/26-1) + Letter(n%26)
}

// Letters returns a letter for each deployment of an outing: the one it was given, and the next free ones in the order of raising.
// Each keeps its own unless an earlier one has the same, as where two notebooks come together: then it gets the first that nobody was
// given. What comes out hangs on the deployments alone, not on the order in which notebooks met.
func Letters(given []string) []string {
	out := slices.Clone(given)
	taken := map[string]bool{}
	for _, l := range given {
		taken[l] = true
	}
	seen, next := map[string]bool{}, 0
	for i, l := range out {
		if l == "" || seen[l] {
			for taken[Letter(next)] {
				next++
			}
			out[i] = Letter(next)
			taken[out[i]] = true
		}
		seen[out[i]] = true
	}
	return out
}
