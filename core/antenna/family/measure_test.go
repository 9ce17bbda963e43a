package family

import (
	"math/rand/v2"
	"strings"
	"testing"

	"reed/core/antenna"
	"reed/core/entry"
	"reed/core/quantity"
)

// measured plans a linked dipole and reports each piece as told.
func measured(t *testing.T, as func(i int, cut float64) float64) antenna.Measure {
	t.Helper()
	r := antenna.Request{Shape: antenna.Shape{Family: "linked-dipole", Variant: "flat", FrequencyHz: 7.1e6,
		More: []float64{14.06e6, 21.1e6}}, Measured: map[string]quantity.Length{}}
	plan := Design(r)
	i := 0
	for _, p := range plan.Pieces {
		for n := 1; n <= p.Count; n++ {
			if m := as(i, p.Cut.M); m > 0 {
				r.Measured[p.Key(n)] = quantity.Metres(m)
			}
			i++
		}
	}
	m := Design(r).Measure
	if m == nil || len(m.Rows) != i {
		t.Fatalf("%d pieces, answer %+v", i, m)
	}
	return *m
}

func TestTapeMistakesAreToldFromCuttingMistakes(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	jitter := func() float64 { return (rng.Float64() - 0.5) * 0.004 }
	for _, c := range []struct {
		name, tone, says string
		as               func(i int, cut float64) float64
	}{
		{"nothing measured", "none", "Measure every piece again", func(int, float64) float64 { return 0 }},
		{"all as listed", "even", "agree", func(_ int, cut float64) float64 { return cut + jitter() }},
		{"all 5 % long", "tape", "long by the same share, 5.0 %", func(_ int, cut float64) float64 { return cut*1.05 + jitter() }},
		{"all 3.3 % short", "tape", "short by the same share, 3.3 %", func(_ int, cut float64) float64 { return cut * 0.967 }},
		{"a tape torn off at 10 cm", "tape", "short by the same length, 100 mm", func(_ int, cut float64) float64 { return cut - 0.1 }},
		{"one piece wrong", "piece", "1 of 6 differ", func(i int, cut float64) float64 {
			if i == 2 {
				return cut + 0.3
			}
			return cut
		}},
		{"every piece wrong in its own way", "piece", "differ from the list",
			func(i int, cut float64) float64 { return cut * (1 + 0.04*float64(i%3-1)) }},
		{"a single piece proves no tape", "piece", "1 of 1", func(i int, cut float64) float64 {
			if i == 0 {
				return cut * 1.05
			}
			return 0
		}},
	} {
		m := measured(t, c.as)
		if m.Tone != c.tone || !strings.Contains(m.Sentence, c.says) {
			t.Errorf("%s: %s, %q; want %s with %q", c.name, m.Tone, m.Sentence, c.tone, c.says)
		}
	}
}

func TestMeasuredDifferencesAreInMillimetresAndPercent(t *testing.T) {
	m := measured(t, func(_ int, cut float64) float64 { return cut * 1.01 })
	for _, row := range m.Rows {
		if row.Percent < 0.999 || row.Percent > 1.001 || row.DiffMM < row.Cut.M*9.99 || row.DiffMM > row.Cut.M*10.01 {
			t.Errorf("%+v", row)
		}
	}
	r := antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: "dipole", Variant: "flat"}},
		Typed: entry.Typed{Texts: map[string]string{"for": "14.06", "measured.leg 1": "5.2 m", "measured.leg 2": "five"}}}
	p := Drawn(r)
	if f, found := faultAt(p.Faults, "measured.leg 2"); !found || f.Severity != "error" {
		t.Errorf("a measured length that cannot be read: %v", p.Faults)
	}
	delete(r.Texts, "measured.leg 2")
	if p := Drawn(r); p.Measure.Rows[0].Measured.M != 5.2 || p.Measure.Rows[1].Measured.M != 0 {
		t.Errorf("%+v", p.Measure)
	}
}
