package sweep

import (
	"math"
	"strings"
	"testing"

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

// A meter's readings that fall to their end hold no dip; one that shows no mismatch is at it.
func TestAMeterThatFallsToItsEndHasNoDip(t *testing.T) {
	own := []band.Segment{{Lo: 14e6, Hi: 14.35e6}}
	b, _ := band.Named(1, "20m")
	wire := Subject{Family: "dipole", WantedHz: 14.06e6}
	r, _ := Read(meter(t, 13.7e6, 60, 10, 14.0e6, 14.1e6, 14.2e6, 14.3e6), 1, b, own, 1.2)
	if v := judge(r, wire); !r.AtEdge || v.Reason != phrase.AtEdge || !strings.Contains(v.Detail, "as far as you may send") {
		t.Errorf("%+v", v)
	}
	r, _ = Read(meter(t, 13.99e6, 50, 10, 14.0e6, 14.1e6, 14.2e6, 14.3e6), 1, b, own, 1.2)
	if r.AtEdge || r.MinSWR > 1.05 {
		t.Errorf("SWR %v at %v, which no dip can lie below", r.MinSWR, r.MinAt)
	}
}

// What was not measured is not bad: it is named, and no wire is changed for it.
func TestAPartOfTheSegmentIsJudgedByItself(t *testing.T) {
	own := []band.Segment{{Lo: 24.89e6, Hi: 24.99e6}}
	b, _ := band.Named(1, "12m")
	wire := Subject{Family: "dipole", WantedHz: 24.94e6}
	var at []float64
	for f := 24.905e6; f <= 24.99e6; f += 2.5e3 {
		at = append(at, f)
	}
	r, _ := Read(meter(t, 24.96e6, 60, 9, at...), 1, b, own, 1.5)
	v := judge(r, wire)
	if r.Coverage < whole || math.Abs(r.Measured-85) > 0.5 || v.Headline != "No change needed." ||
		!strings.Contains(v.Detail, "Not measured: 24.890 to 24.905 MHz.") {
		t.Errorf("%.1f %% of %.1f %%: %+v", r.Coverage, r.Measured, v)
	}
	// A tenth of the segment is not enough to call it good.
	r, _ = Read(meter(t, 24.96e6, 60, 9, 24.955e6, 24.9575e6, 24.96e6, 24.9625e6, 24.965e6), 1, b, own, 1.5)
	if v := judge(r, wire); v.Headline == "No change needed." {
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

// One reading is the dip only where somebody searched for it.
func TestOneReadingHasARole(t *testing.T) {
	own := []band.Segment{{Lo: 10.1e6, Hi: 10.15e6}}
	b, _ := band.Named(1, "30m")
	wire := Subject{Family: "dipole", WantedHz: 10.12e6}
	at := func(s Sweep) (Reading, phrase.Told) {
		s.Kind = Magnitude
		c, err := s.Curve()
		if err != nil {
			t.Fatal(err)
		}
		r, ok := Read(c, 1, b, own, 2)
		if !ok || !r.Single || r.AtEdge {
			t.Fatalf("%v %+v", ok, r)
		}
		return r, judge(r, wire)
	}
	f, swr := []float64{9.87e6}, magnitudes([]float64{1.4})
	if r, v := at(Sweep{F: f, Re: swr}); v.Reason != phrase.Alone || r.Role != "" || strings.Contains(v.Headline, "match") {
		t.Errorf("%+v", v)
	}
	if r, v := at(Sweep{F: f, Re: swr, Lowest: f}); v.Reason != phrase.Off || r.Role != Searched ||
		!strings.Contains(v.Headline, "250 kHz below") {
		t.Errorf("%+v", v)
	}
	if r, v := at(Sweep{F: f, Re: swr, Here: true}); v.Reason != phrase.Alone || r.Role != JustHere {
		t.Errorf("%+v", v)
	}
	if _, v := at(Sweep{F: []float64{10.12e6}, Re: swr, Lowest: []float64{10.12e6}}); v.Reason != phrase.Inside ||
		strings.Contains(v.Detail, "%") {
		t.Errorf("%+v", v)
	}
	// What was searched for is the dip among other readings too, and is carried through a cable.
	several := Sweep{Kind: Magnitude, F: []float64{10.1e6, 10.12e6, 10.14e6}, Re: magnitudes([]float64{1.4, 1.5, 1.6}),
		Lowest: []float64{10.12e6},
		Over:   []float64{10.14e6}}
	cable, _ := circuit.Cable("RG-58")
	c, _ := several.AtFeed(cable, 10).Curve()
	if r, ok := Read(c, 1, b, own, 2); !ok || r.MinAt != 10.12e6 || !r.Searched || r.AtEdge || !c.Points(10e6, 11e6)[2].Over {
		t.Errorf("%+v", r)
	}
}
