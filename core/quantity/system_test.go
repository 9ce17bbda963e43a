package quantity

import (
	"fmt"
	"testing"
)

func TestLengthsPrintForTheirReader(t *testing.T) {
	for _, c := range []struct {
		name     string
		told     func(float64) Told
		m        float64
		si, feet string
	}{
		{"long", Long, 5.0293, "5.03 m", `16' 6"`},
		{"fine", Fine, 0.0123, "12.3 mm", `15/32"`},
		{"fine", Fine, 0.5, "50.0 cm", `1' 7 11/16"`},
		{"exact", Exact, 5.0293, "5.029 m", `16' 6"`},
		{"rough", Rough, 10.04, "10.00 m", `32' 11"`},
		{"whole", Whole, 20, "20 m", "66 ft"},
	} {
		told := c.told(c.m)
		if got := told.In(SI); got != c.si {
			t.Errorf("%s %v: %q, want %q", c.name, c.m, got, c.si)
		}
		if got := told.In(FeetInches); got != c.feet {
			t.Errorf("%s %v: %q, want %q", c.name, c.m, got, c.feet)
		}
		if fmt.Sprint(told) != c.si {
			t.Errorf("%s unbound: %q", c.name, fmt.Sprint(told))
		}
	}
	if SI.Amount(0.001, 5) != "5 mm" || SI.Amount(0.352, 10) != "35 cm" || FeetInches.Amount(0.3048, 5) != `1' 0"` {
		t.Error("an amount is at least one step")
	}
	if SI.Small(0.0123) != "12.3 mm" || FeetInches.Small(0.0127) != `1/2"` {
		t.Error("a tap is told in tenths of a millimetre, or thirty-seconds")
	}
	if In("ft") != FeetInches || In("m") != SI || In("") != SI || FeetInches.Unit() != "ft" || SI.Unit() != "m" {
		t.Error("systems and their units")
	}
	if Metric(-0.001, 10) != "0 cm" || Metric(-0.0004, 1) != "0 mm" {
		t.Errorf("nothing has no sign: %q %q", Metric(-0.001, 10), Metric(-0.0004, 1))
	}
}
