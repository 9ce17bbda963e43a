package sweep

import (
	"math"
	"strings"
	"testing"

	"reed/core/antenna/family"
	"reed/core/band"
	"reed/core/circuit"
	"reed/core/phrase"
)

// meter is what a radio's own meter shows, read to a tenth, of a series resonance at f0.
func meter(t *testing.T, f0, ohm, q float64, at ...float64) Curve {
	t.Helper()
	var swr []float64
	for _, f := range at {
		g := circuit.Gamma(complex(ohm, ohm*q*(f/f0-f0/f)), Reference)
		swr = append(swr, math.Round(10*circuit.SWR(math.Hypot(real(g), imag(g))))/10)
	}
	c, err := Sweep{Kind: Magnitude, F: at, Re: magnitudes(swr)}.Curve()
	if err != nil {
		t.Fatal(err)
	}
	return c
}

func magnitudes(swr []float64) (out []float64) {
	for _, s := range swr {
		out = append(out, circuit.Magnitude(s))
	}
	return out
}

// Whoever has only a meter may not send where the dip is. What is advised moves the dip towards what is wanted and never
// past it, whatever the antenna is like.
func TestAMeterThatFallsToItsEndIsFollowedWithCare(t *testing.T) {
	own := []band.Segment{{Lo: 7e6, Hi: 7.2e6}}
	b, _ := band.Named(1, "40m")
	for _, q := range []float64{7, 11, 18} {
		for _, ohm := range []float64{35, 50, 80} {
			for _, f0 := range []float64{6.74e6, 6.86e6, 6.93e6, 7.29e6, 7.41e6} {
				c := meter(t, f0, ohm, q, 7.0e6, 7.04e6, 7.1e6, 7.15e6, 7.2e6)
				r, ok := Read(c, 1, b, own, 1.5)
				if !ok || !r.AtEdge || r.Coverage >= whole {
					continue // good all over, or the meter shows no slope
				}
				s := Subject{Family: "end-fed", Trims: family.Wired, Length: 20.4, Legs: 1, WantedHz: 7.1e6}
				v := judge(r, s)
				if v.Reason != "beyond" || v.Tone != "unknown" {
					t.Fatalf("%g MHz, %g ohm, Q %g: %+v", f0/1e6, ohm, q, v)
				}
				lo, hi := math.Min(v.Beyond.Near, v.Beyond.Far), math.Max(v.Beyond.Near, v.Beyond.Far)
				if f0 < lo*0.998 || f0 > hi*1.002 {
					t.Errorf("%g MHz, %g ohm, Q %g: said to lie within %g and %g", f0/1e6, ohm, q, lo/1e6, hi/1e6)
				}
				after := f0 * s.Length / (s.Length - v.Step)
				if (f0-7.1e6)*(after-7.1e6) < 0 || v.Step == 0 {
					t.Errorf("%g MHz, %g ohm, Q %g: %s brings it to %g", f0/1e6, ohm, q, v.Headline, after/1e6)
				}
				if strings.Contains(v.Headline+v.Detail, "wider") || !strings.Contains(v.Detail, "Do not send outside") {
					t.Errorf("%s %s", v.Headline, v.Detail)
				}
			}
		}
	}
}

func TestAMeterIsReadOnWhereOneMaySend(t *testing.T) {
	own := []band.Segment{{Lo: 14e6, Hi: 14.35e6}}
	b, _ := band.Named(1, "20m")
	wire := Subject{Family: "dipole", Trims: family.Wired, Length: 10.1, Legs: 2, WantedHz: 14.06e6}
	c := meter(t, 13.7e6, 60, 10, 14.1e6, 14.2e6, 14.3e6)
	r, _ := Read(c, 1, b, own, 1.5)
	if v := judge(r, wire); v.Headline != "Read on to 14.000 MHz." || v.Step != 0 {
		t.Errorf("%+v", v)
	}
	// Two readings show no slope: the dip may be as near as the last of them.
	c = meter(t, 13.7e6, 60, 10, 14.0e6, 14.3e6)
	r, _ = Read(c, 1, b, own, 1.5)
	if v := judge(r, wire); v.Reason != "beyond" || v.Beyond.Near != 14e6 || !strings.Contains(v.Detail, "below that") {
		t.Errorf("%+v", v)
	}
	// A winding is not folded, and what an analyser wrote is swept wider.
	if v := judge(r, Subject{Family: "helix", Trims: family.Loaded, Turns: 90, Length: 2, WantedHz: 14.06e6}); v.Reason != "at-edge" {
		t.Errorf("%+v", v)
	}
	var many []float64
	for f := 14e6; f <= 14.35e6; f += 5e3 {
		many = append(many, f)
	}
	r, _ = Read(meter(t, 13.7e6, 60, 10, many...), 1, b, own, 1.5)
	if v := judge(r, wire); r.Metered || v.Reason == "beyond" || v.Reason == "read-on" {
		t.Errorf("%+v", v)
	}
}

// What was not measured is not bad: it is named, and no wire is changed for it.
func TestAPartOfTheSegmentIsJudgedByItself(t *testing.T) {
	own := []band.Segment{{Lo: 24.89e6, Hi: 24.99e6}}
	b, _ := band.Named(1, "12m")
	wire := Subject{Family: "dipole", Trims: family.Wired, Length: 5.7, Legs: 2, WantedHz: 24.94e6}
	var at []float64
	for f := 24.905e6; f <= 24.99e6; f += 2.5e3 {
		at = append(at, f)
	}
	r, _ := Read(meter(t, 24.96e6, 60, 9, at...), 1, b, own, 1.5)
	v := judge(r, wire)
	if r.Coverage < whole || math.Abs(r.Measured-85) > 0.5 || v.Headline != "Leave it." || v.Step != 0 ||
		!strings.Contains(v.Detail, "Not measured: 24.890 to 24.905 MHz.") {
		t.Errorf("%.1f %% of %.1f %%: %+v", r.Coverage, r.Measured, v)
	}
	// A tenth of the segment is not enough to call it good.
	r, _ = Read(meter(t, 24.96e6, 60, 9, 24.955e6, 24.9575e6, 24.96e6, 24.9625e6, 24.965e6), 1, b, own, 1.5)
	if v := judge(r, wire); v.Headline == "Leave it." {
		t.Errorf("%.1f %% measured: %+v", r.Measured, v)
	}
}

// A list of readings on several bands is read band by band: between them nothing is known, and nothing is invented.
func TestReadingsOfSeveralBandsAreReadApart(t *testing.T) {
	f := []float64{7.02e6, 7.1e6, 7.18e6, 14.05e6, 14.15e6, 14.3e6, 28.1e6, 28.4e6}
	c, err := Sweep{Kind: Magnitude, F: f, Re: magnitudes([]float64{1.9, 1.3, 1.7, 2.4, 1.6, 1.9, 3.1, 2.2})}.Curve()
	if err != nil {
		t.Fatal(err)
	}
	if c.s.Wide() {
		t.Error("it passes for a sweep of everything")
	}
	for name, want := range map[string]float64{"40m": 7.1e6, "20m": 14.17e6, "30m": 0, "17m": 0, "15m": 0, "12m": 0, "80m": 0} {
		b, _ := band.Named(1, name)
		r, ok := Read(c, 1, b, []band.Segment{{Lo: b.Lo, Hi: b.Hi}}, 2)
		switch {
		case want == 0 && ok:
			t.Errorf("on %s nothing was read, and %.1f at %g is told", name, r.MinSWR, r.MinAt)
		case want > 0 && (!ok || math.Abs(r.MinAt/want-1) > 0.008 || r.Points != 3):
			t.Errorf("on %s: %v %+v", name, ok, r)
		}
	}
	for x, want := range map[float64]bool{7.05e6: true, 10.1e6: false, 14.1e6: true, 21e6: false, 28.2e6: true, 29e6: false} {
		if got := !math.IsNaN(c.Sample([]float64{x})[0]); got != want {
			t.Errorf("at %g MHz known: %v", x/1e6, got)
		}
	}
}

// One dip is a measurement: where somebody found the lowest, and how low.
func TestOneReadingIsTheDip(t *testing.T) {
	own := []band.Segment{{Lo: 10.1e6, Hi: 10.15e6}}
	b, _ := band.Named(1, "30m")
	wire := Subject{Family: "dipole", Trims: family.Wired, Length: 14.2, Legs: 2, WantedHz: 10.12e6}
	at := func(hz, swr float64) phrase.Told {
		c, err := Sweep{Kind: Magnitude, F: []float64{hz}, Re: magnitudes([]float64{swr})}.Curve()
		if err != nil {
			t.Fatal(err)
		}
		r, ok := Read(c, 1, b, own, 2)
		if !ok || !r.Single || r.AtEdge {
			t.Fatalf("%v %+v", ok, r)
		}
		return judge(r, wire)
	}
	if v := at(9.87e6, 1.4); v.Reason != phrase.TooLong || math.Abs(v.Change-14.2*(1-9.87/10.12)) > 1e-6 {
		t.Errorf("%+v", v)
	}
	if v := at(10.4e6, 1.4); v.Reason != phrase.TooShort {
		t.Errorf("%+v", v)
	}
	if v := at(10.13e6, 1.3); v.Headline != "Leave it." || !strings.Contains(v.Detail, "where you want it") {
		t.Errorf("%+v", v)
	}
}
