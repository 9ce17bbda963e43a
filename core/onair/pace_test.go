package onair

import (
	"math"
	"testing"
)

// Garwood's table: of 5 counted 1.623 to 11.668, of none 0 to 3.689.
func TestThePaceHasItsInterval(t *testing.T) {
	p := PaceOf(10, 5)
	if p.PerHour != 30 || math.Abs(p.Lo-6*1.6235) > 0.01 || math.Abs(p.Hi-6*11.6683) > 0.01 || p.Says != "30 an hour, 9 to 71" {
		t.Errorf("%+v", p)
	}
	if p = PaceOf(60, 0); p.Lo != 0 || math.Abs(p.Hi-3.6889) > 0.01 {
		t.Errorf("%+v", p)
	}
}
