package sweep

import "testing"

func TestTheNextBandIsTheOneThatWasPlannedAndIsOpen(t *testing.T) {
	all := []Swept{{"80m", false, false, 0}, {"40m", true, true, 100}, {"30m", false, true, 20}, {"20m", true, true, 60},
		{"15m", true, false, 0}}
	for _, c := range []struct{ now, want string }{{"40m", "15m"}, {"20m", "15m"}, {"15m", "20m"}} {
		if got := Next(c.now, all); got != c.want {
			t.Errorf("from %s to %q, want %s", c.now, got, c.want)
		}
	}
	all[4].Measured, all[4].Coverage = true, 100
	if got := Next("40m", all); got != "20m" {
		t.Errorf("all swept, 20m is poor: %q", got)
	}
	all[3].Coverage = 99.9
	if got := Next("40m", all); got != "" {
		t.Errorf("nothing is left: %q", got)
	}
}
