package deployment

import (
	"fmt"
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
