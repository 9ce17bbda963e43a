package quantity

import (
	"encoding/json"
	"errors"
	"math"
	"strings"
	"testing"

	"reed/internal/testsize"
)

func TestParseLength(t *testing.T) {
	for _, c := range []struct {
		text, unit string
		want       float64
	}{
		{"5.28 m", "m", 5.28}, {"5,28 m", "m", 5.28}, {"528 cm", "m", 5.28}, {"5280 mm", "m", 5.28},
		{"5.28m", "ft", 5.28}, {"5.28", "m", 5.28}, {"5.28", "ft", 5.28 * Foot}, {"5,28", "m", 5.28},
		{"528", "cm", 5.28}, {"66", "in", 66 * Inch}, {".5 m", "m", 0.5}, {",5 m", "m", 0.5}, {"5. m", "m", 5},
		{`16' 6 1/2"`, "m", 198.5 * Inch}, {`16'6 1/2"`, "m", 198.5 * Inch}, {`16' 6.5"`, "m", 198.5 * Inch},
		{`16'6-1/2"`, "m", 198.5 * Inch}, {"16 ft 6.5 in", "m", 198.5 * Inch}, {"16ft6.5in", "m", 198.5 * Inch},
		{"16 feet 6 1/2 inches", "m", 198.5 * Inch}, {"16 foot 6½ inch", "m", 198.5 * Inch},
		{"16′ 6½″", "m", 198.5 * Inch}, {"16’ 6½”", "m", 198.5 * Inch}, {"16' 6''", "m", 198 * Inch},
		{"16' 6", "m", 198 * Inch}, {"16' 6 1/2", "m", 198.5 * Inch}, {"16'", "m", 16 * Foot}, {"16 FT", "m", 16 * Foot},
		{"16 1/2 ft", "m", 16.5 * Foot}, {"16½'", "m", 16.5 * Foot},
		{"2 13/16 in", "m", 2.8125 * Inch}, {`2-13/16"`, "m", 2.8125 * Inch}, {`2 13⁄16"`, "m", 2.8125 * Inch},
		{`13/16"`, "m", 0.8125 * Inch}, {"13/16 in", "m", 0.8125 * Inch}, {"⅜ in", "m", 0.375 * Inch},
		{`198.5"`, "m", 198.5 * Inch}, {`198 1/2"`, "m", 198.5 * Inch}, {"1/2 ft", "m", 0.5 * Foot},
		{"5 m 28 cm", "m", 5.28}, {"5m 28cm 4mm", "m", 5.284}, {"5.28 M", "m", 5.28}, {"5.28 metres", "m", 5.28},
		{"5.28 meters", "m", 5.28}, {"5 yd", "m", 5 * 3 * Foot}, {"1 km", "m", 1000}, {"0 m", "m", 0},
		{"1,234.5 mm", "m", 1.2345}, {"1.234,5 mm", "m", 1.2345}, {"1,234 mm", "m", 1.234}, {"1,234 m", "m", 1.234},
		{"12\u202f500 mm", "m", 12.5}, {"5.28\u00a0m", "m", 5.28}, {"+5.28 m", "m", 5.28}, {"  5.28   m  ", "m", 5.28},
		{`5' 14"`, "m", 74 * Inch}, {"6 in.", "m", 6 * Inch}, {"16 ft. 6 in.", "m", 198 * Inch}, {"3 dm", "m", 0.3},
		{`16'6"1/2`, "m", 198.5 * Inch}, {`6" 1/2`, "m", 6.5 * Inch},
		{"10,0m", "m", 10}, {`0' 6"`, "m", 6 * Inch}, {"1.000.000 mm", "m", 1000}, {"20 m 50 cm", "ft", 20.5},
		{`16'-6"`, "m", 198 * Inch}, {`16 ft - 6 1/2 in`, "m", 198.5 * Inch}, {"5 280 ft", "m", 5280 * Foot}, {"1 234.5 m", "ft", 1234.5},
		{"12 345 mm", "m", 12.345},
		{"1e-3 m", "ft", 0.001}, {"1.2E3 mm", "m", 1.2}, {"5,28e2 cm", "m", 5.28}, {"1e3 m", "m", 1000}, {`12' 12"`, "m", 13 * Foot},
	} {
		got, err := ParseLength(c.text, c.unit)
		if err != nil || math.Abs(got.Value-c.want) > 1e-9 {
			t.Errorf("ParseLength(%q, %q) = %v, %v; want %v", c.text, c.unit, got.Value, err, c.want)
		}
	}
}

func TestParseLengthRefusesWithAnExample(t *testing.T) {
	for text, part := range map[string]string{
		"": "nothing", "abc": "abc", "5.28 q": `"q"`, "-5 m": "negative", "5 m 28": "no unit", "5 28 m": "no unit",
		`16.5' 6"`: "contradict", `6" 16'`: "cannot follow", "1/0 in": "not a fraction", "5.5 1/2 in": "decimal and a fraction",
		"5..2 m": "not a number", "1,2,3 m": "not a number", "5 6/5 in": "proper fraction", "NaN m": "NaN", "1e9 m": "longer", "1e m": "unit",
		"1e999 m": "unit", "5 2800 ft": "no unit",
		"9999999 km": "longer", "5 m m": "m", "m": "m", "5.28 MHz": "MHz",
	} {
		_, err := ParseLength(text, "m")
		var se *SyntaxError
		if !errors.As(err, &se) {
			t.Errorf("ParseLength(%q) accepted, want an error", text)
			continue
		}
		if !strings.Contains(err.Error(), part) || !strings.Contains(err.Error(), `16' 6 1/2"`) {
			t.Errorf("ParseLength(%q) says %q, want it to name %q and an example", text, err, part)
		}
	}
}

func TestGuessesAreTold(t *testing.T) {
	for text, note := range map[string]string{"1,234 mm": "grouping", "1,234 m": "decimal comma", `5' 14"`: "one ft or more",
		`12' 12"`: "one ft or more", "5 280 ft": "5280", "5 M": "metres"} {
		r, err := ParseLength(text, "m")
		if err != nil || len(r.Notes) != 1 || !strings.Contains(r.Notes[0], note) {
			t.Errorf("ParseLength(%q) notes %q, %v; want one on %q", text, r.Notes, err, note)
		}
	}
}

func TestPrintedLengths(t *testing.T) {
	for _, c := range []struct {
		m        float64
		metric   string
		imperial string
	}{
		{5.28, "5.280 m", `17' 3 7/8"`}, {198.5 * Inch, "5.042 m", `16' 6 1/2"`}, {0.9999, "1.000 m", `3' 3 3/8"`},
		{11.99 * Inch, "30.5 cm", `1' 0"`}, {23.99 * Inch, "60.9 cm", `2' 0"`}, {0, "0 mm", `0"`}, {0.0125, "13 mm", `1/2"`},
		{0.09996, "10.0 cm", `3 15/16"`}, {2.8125 * Inch, "71 mm", `2 13/16"`}, {-0.12, "-12.0 cm", `-4 3/4"`},
	} {
		if got := Metric(c.m, 1); got != c.metric {
			t.Errorf("Metric(%v) = %q, want %q", c.m, got, c.metric)
		}
		if got := Imperial(c.m, 16); got != c.imperial {
			t.Errorf("Imperial(%v) = %q, want %q", c.m, got, c.imperial)
		}
	}
	if got := Imperial(0.1, 8) + Imperial(0.1, 32); got != `3 7/8"3 15/16"` {
		t.Errorf("10 cm to 1/8 and 1/32 = %s", got)
	}
	if got := Metric(20.504, 10); got != "20.50 m" {
		t.Errorf("to the centimetre: %s", got)
	}
}

func TestPrintedLengthsReadBackWithinHalfAStep(t *testing.T) {
	testsize.SkipIfShort(t, "prints a million lengths")
	for i := 0; i < 20000; i++ {
		m := math.Pow(float64(i)/1000, 2) / 4
		for _, p := range []struct {
			text string
			half float64
		}{{Metric(m, 1), 0.0005}, {Metric(m, 10), 0.005}, {Imperial(m, 8), Inch / 16}, {Imperial(m, 16), Inch / 32},
			{Imperial(m, 32), Inch / 64}} {
			r, err := ParseLength(p.text, "m")
			if err != nil || math.Abs(r.Value-m) > p.half+1e-9 {
				t.Fatalf("%v m prints as %q, which reads as %v, %v", m, p.text, r.Value, err)
			}
		}
	}
}

func TestParseFrequency(t *testing.T) {
	for text, want := range map[string]float64{
		"7.032": 7.032e6, "7,032 MHz": 7.032e6, "7032 kHz": 7.032e6, "7032000 Hz": 7.032e6, "7.1M": 7.1e6, "7100k": 7.1e6,
		"14.285mhz": 14.285e6, "7,032 kHz": 7.032e6, "1.2 GHz": 1.2e9,
	} {
		got, err := ParseFrequency(text, "MHz")
		if err != nil || math.Abs(got.Value-want) > 0.5 {
			t.Errorf("ParseFrequency(%q) = %v, %v; want %v", text, got.Value, err, want)
		}
	}
	for _, text := range []string{"", "7.1 m", "-7", "0", "seven", "7.1 MHz x", "9e9", "5000 GHz"} {
		if got, err := ParseFrequency(text, "MHz"); err == nil {
			t.Errorf("ParseFrequency(%q) = %v, want an error", text, got.Value)
		}
	}
	for hz, want := range map[float64]string{7.032e6: "7.032", 14.28512e6: "14.28512", 7e6: "7.000"} {
		if got := MHz(hz); got != want {
			t.Errorf("MHz(%v) = %s, want %s", hz, got, want)
		}
	}
}

func TestPower(t *testing.T) {
	for text, want := range map[string]float64{"5W": 5, "500 mW": 0.5, "10": 10, "0,5 W": 0.5, "0.1kW": 100} {
		if got, err := ParsePower(text); err != nil || math.Abs(got-want) > 1e-12 {
			t.Errorf("ParsePower(%q) = %v, %v; want %v", text, got, err, want)
		}
	}
	for _, text := range []string{"", "-5W", "5 V", "1e9", "999999kW"} {
		if _, err := ParsePower(text); err == nil {
			t.Errorf("ParsePower(%q) accepted", text)
		}
	}
	for w, want := range map[float64]string{5: "5 W", 0.5: "500 mW", 2.54: "2.5 W", 99.6: "100 W", 0: "0 W"} {
		if got := Watts(w); got != want {
			t.Errorf("Watts(%v) = %q, want %q", w, got, want)
		}
	}
}

func TestLengthInJSON(t *testing.T) {
	var l Length
	if err := json.Unmarshal([]byte(`{"typed":"16.5","unit":"ft"}`), &l); err != nil || math.Abs(l.M-16.5*Foot) > 1e-9 {
		t.Fatalf("a bare number takes the field's unit: %v %v", l.M, err)
	}
	b, _ := json.Marshal(l)
	var again Length
	if err := json.Unmarshal(b, &again); err != nil || again != l {
		t.Fatalf("%s came back as %+v", b, again)
	}
	if err := json.Unmarshal([]byte(`{"typed":"long","unit":"m"}`), &l); err != nil || l.Problem() == nil || l.Typed != "long" {
		t.Fatalf("unreadable text is kept with its problem, got %+v, %v", l, err)
	}
}

func FuzzParseLength(f *testing.F) {
	for _, s := range []string{`16' 6 1/2"`, "5,28 m", "½", "1.234,5 mm", "1/0", "' \" m"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		r, err := ParseLength(s, "m")
		if err != nil {
			return
		}
		if !(r.Value >= 0 && r.Value <= MaxLength) {
			t.Fatalf("ParseLength(%q) = %v", s, r.Value)
		}
		back, err := ParseLength(Metric(r.Value, 1), "m")
		if err != nil || math.Abs(back.Value-r.Value) > 0.0005+1e-9*r.Value {
			t.Fatalf("%q -> %v -> %q -> %v, %v", s, r.Value, Metric(r.Value, 1), back.Value, err)
		}
	})
}

func FuzzParseFrequency(f *testing.F) {
	f.Add("7.032 MHz")
	f.Add("7,032k")
	f.Fuzz(func(t *testing.T, s string) {
		if r, err := ParseFrequency(s, "MHz"); err == nil && !(r.Value > 0 && r.Value <= 1e12) {
			t.Fatalf("ParseFrequency(%q) = %v", s, r.Value)
		}
	})
}
