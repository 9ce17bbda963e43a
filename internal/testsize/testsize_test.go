package testsize

import "testing"

func TestShareOfLongSimulations(t *testing.T) {
	for _, c := range []struct {
		text string
		full int
		want int // 0: the test is skipped
	}{{"", 2000, 0}, {"0", 2000, 0}, {"yes", 2000, 0}, {"1", 2000, 2000}, {"0.01", 2000, 20}, {"0.0001", 2000, 1}} {
		got := 0
		if s, ok := share(c.text); ok {
			got = cases(c.full, s)
		}
		if got != c.want {
			t.Errorf("%s=%q: %d of %d cases, want %d", Variable, c.text, got, c.full, c.want)
		}
	}
}
