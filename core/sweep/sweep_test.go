package sweep

import (
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"reed/core/band"
	"reed/core/circuit"
	"reed/core/phrase"
	"reed/core/quantity"
)

// resonator sweeps a series resonator from lo to hi in n points.
func resonator(s circuit.Series, lo, hi float64, n int, kind string) Sweep {
	f, g := make([]float64, n), make([]complex128, n)
	for i := range f {
		f[i] = lo + (hi-lo)*float64(i)/float64(n-1)
		g[i] = circuit.Gamma(s.Z(f[i]), Reference)
	}
	out, _, _ := New(kind, f, g)
	return out
}

func read(t *testing.T, s Sweep, name string, limit float64) Reading {
	t.Helper()
	c, err := s.Curve()
	if err != nil {
		t.Fatal(err)
	}
	b, _ := band.Named(1, name)
	r, ok := Read(c, 1, b, band.Own(band.DefaultSegments(1), name), limit)
	if !ok {
		t.Fatalf("%s not read", name)
	}
	return r
}

// trueWidth solves |Z(f)| on the circle of constant SWR by its closed form: with R known, X^2 =
// ((1+g)/(1-g)) ... reduced here to a bisection on the exact impedance, not on the sampled curve.
func trueWidth(s circuit.Series, f0, limit float64) (lo, hi float64) {
	swr := func(f float64) float64 {
		g := circuit.Gamma(s.Z(f), Reference)
		m := math.Hypot(real(g), imag(g))
		return (1+m)/(1-m) - limit
	}
	return cross(swr, f0*0.8, f0), cross(swr, f0, f0*1.2)
}

func TestKnownResonatorIsReadWithinATenthOfAPercent(t *testing.T) {
	for _, c := range []struct{ f0, r, q float64 }{{7.1e6, 60, 11}, {7.05e6, 38, 14}, {14.17e6, 50, 9}, {14.3e6, 28, 20}} {
		s := circuit.SeriesAt(c.f0, c.r, c.q)
		name := band.Nearest(1, c.f0).Name
		r := read(t, resonator(s, c.f0*0.9, c.f0*1.1, 101, Complex), name, 2)
		if len(r.Resonances) != 1 || r.Resonances[0].Kind != "series" {
			t.Fatalf("resonances of %v: %v", c, r.Resonances)
		}
		if e := math.Abs(r.Resonances[0].F/c.f0 - 1); e > 1e-3 {
			t.Errorf("%v: resonance off by %.2g", c, e)
		}
		if math.Abs(r.Resonances[0].R-c.r) > 0.1 || math.Abs(r.MinSWR-math.Max(c.r/50, 50/c.r)) > 0.005 {
			t.Errorf("%v: R %v, SWR %v", c, r.Resonances[0].R, r.MinSWR)
		}
		for _, w := range r.Widths {
			lo, hi := trueWidth(s, c.f0, w.Limit)
			if e := math.Abs(w.Hz/(hi-lo) - 1); e > 1e-3 || w.Open {
				t.Errorf("%v: width under %v is %.0f, true %.0f", c, w.Limit, w.Hz, hi-lo)
			}
		}
	}
}

func TestSWROnlyCurveGivesTheSameDip(t *testing.T) {
	s := circuit.SeriesAt(7.1e6, 50, 12)
	full := read(t, resonator(s, 6.8e6, 7.4e6, 121, Complex), "40m", 2)
	bare := read(t, resonator(s, 6.8e6, 7.4e6, 121, Magnitude), "40m", 2)
	if bare.HasZ || len(bare.Resonances) != 0 {
		t.Error("SWR alone cannot give X")
	}
	if math.Abs(bare.MinAt-full.MinAt) > 3000 || math.Abs(bare.Coverage-full.Coverage) > 1 {
		t.Errorf("dip at %v and %v, coverage %v and %v", bare.MinAt, full.MinAt, bare.Coverage, full.Coverage)
	}
}

func TestCoverageCountsOnlyOwnSegments(t *testing.T) {
	c, _ := resonator(circuit.SeriesAt(7.03e6, 50, 16), 6.8e6, 7.4e6, 121, Complex).Curve()
	b, _ := band.Named(1, "40m")
	low, _ := Read(c, 1, b, []band.Segment{{Band: "40m", Lo: 7e6, Hi: 7.06e6}}, 1.5)
	high, _ := Read(c, 1, b, []band.Segment{{Band: "40m", Lo: 7.15e6, Hi: 7.2e6}}, 1.5)
	if low.Coverage < 99 || high.Coverage > 1 {
		t.Errorf("coverage %v and %v", low.Coverage, high.Coverage)
	}
	if len(low.Edges) != 2 || low.Edges[0].F != 7e6 {
		t.Errorf("edges %v", low.Edges)
	}
	if low.MinAt != high.MinAt || high.InSWR != high.MinSWR {
		t.Errorf("lowest %v and %v, in the band %v", low.MinAt, high.MinAt, high.InSWR)
	}
	out, _ := resonator(circuit.SeriesAt(6.9e6, 50, 16), 6.7e6, 7.4e6, 141, Complex).Curve()
	if r, _ := Read(out, 1, b, nil, 2); math.Abs(r.InAt-7e6) > 1 || r.InSWR <= r.MinSWR {
		t.Errorf("a dip below the band: %v at %v, in the band %v at %v", r.MinSWR, r.MinAt, r.InSWR, r.InAt)
	}
	short, _ := resonator(circuit.SeriesAt(7.03e6, 50, 16), 7e6, 7.1e6, 21, Complex).Curve()
	half, _ := Read(short, 1, b, []band.Segment{{Band: "40m", Lo: 7e6, Hi: 7.2e6}}, 3)
	if math.Abs(half.Measured-50) > 0.1 || !strings.Contains(strings.Join(half.Quality, " "), "50 %") {
		t.Errorf("measured %v, %v", half.Measured, half.Quality)
	}
}

func TestVerdictsSayWhatASweepShows(t *testing.T) {
	wire := Subject{Family: "end-fed", WantedHz: 7.1e6}
	long := judge(read(t, resonator(circuit.SeriesAt(6.95e6, 50, 14), 6.6e6, 7.5e6, 181, Complex), "40m", 1.5), wire)
	if long.Tone != "off" || long.Headline != "The dip lies 150 kHz below what you want." || long.TargetHz != 7.1e6 {
		t.Errorf("long: %+v", long)
	}
	short := judge(read(t, resonator(circuit.SeriesAt(7.4e6, 50, 14), 6.6e6, 7.9e6, 181, Complex), "40m", 1.5), Subject{Family: "dipole"})
	if short.Tone != "off" || !strings.Contains(short.Headline, "above") {
		t.Errorf("short: %+v", short)
	}
	good := judge(read(t, resonator(circuit.SeriesAt(7.1e6, 48, 8), 6.6e6, 7.9e6, 181, Complex), "40m", 2), wire)
	if good.Tone != "good" || good.Headline != "No change needed." {
		t.Errorf("good: %+v", good)
	}
	match := judge(read(t, resonator(circuit.SeriesAt(7.1e6, 18, 12), 6.6e6, 7.9e6, 181, Complex), "40m", 2),
		Subject{Family: "dipole", WantedHz: 7.1e6})
	if match.Tone != "match" || match.Reason != phrase.Mismatched {
		t.Errorf("match: %+v", match)
	}
	edge := judge(read(t, resonator(circuit.SeriesAt(6.5e6, 50, 14), 6.9e6, 7.3e6, 81, Complex), "40m", 1.5), wire)
	if edge.Tone != "unknown" || !strings.Contains(edge.Detail, "sweep wider") {
		t.Errorf("a dip outside the sweep: %+v", edge)
	}
	if none := judge(Reading{MinSWR: 1.2, MinAt: 7e6}, wire); none.Tone != "unknown" {
		t.Errorf("without segments: %+v", none)
	}
}

func TestQualityIsTold(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	noisy := resonator(circuit.SeriesAt(7.1e6, 50, 12), 6.8e6, 7.4e6, 121, Complex)
	for i := range noisy.Re {
		noisy.Re[i] += 0.05 * rng.NormFloat64()
	}
	uncal := resonator(circuit.SeriesAt(7.1e6, 50, 12), 6.8e6, 7.4e6, 121, Complex)
	uncal.Re[3], uncal.Im[3] = 1.2, 0
	for want, s := range map[string]Sweep{
		"scatter": noisy, "calibrate": uncal, "only 3 points": resonator(circuit.SeriesAt(7.1e6, 50, 12), 6.9e6, 7.3e6, 3, Magnitude),
		"narrower than three": resonator(circuit.SeriesAt(7.1e6, 50, 60), 6.5e6, 7.7e6, 13, Complex),
		"no sign":             resonator(circuit.SeriesAt(7.1e6, 50, 12), 6.8e6, 7.4e6, 50, Unsigned),
	} {
		if r := read(t, s, "40m", 2); !strings.Contains(strings.Join(r.Quality, "; "), want) {
			t.Errorf("want %q, got %q", want, r.Quality)
		}
	}
	if r := read(t, resonator(circuit.SeriesAt(7.1e6, 50, 12), 6.8e6, 7.4e6, 121, Complex), "40m", 2); len(r.Quality) != 0 {
		t.Errorf("a clean sweep is faulted: %q", r.Quality)
	}
}

func TestReferringToTheFeedUndoesTheCable(t *testing.T) {
	cable, _ := circuit.Cable("RG-174")
	feed := resonator(circuit.SeriesAt(7.1e6, 120, 8), 6.8e6, 7.4e6, 61, Complex)
	shack := Sweep{Kind: Complex, F: feed.F}
	for i, f := range feed.F {
		g := cable.AtInput(complex(feed.Re[i], feed.Im[i]), f, 20)
		shack.Re, shack.Im = append(shack.Re, real(g)), append(shack.Im, imag(g))
	}
	a, b, c := read(t, feed, "40m", 2), read(t, shack, "40m", 2), read(t, shack.AtFeed(cable, 20), "40m", 2)
	if b.MinSWR >= a.MinSWR-0.2 {
		t.Errorf("the cable should flatter: %v at the feed, %v at the radio", a.MinSWR, b.MinSWR)
	}
	if math.Abs(c.MinSWR-a.MinSWR) > 1e-6 || math.Abs(c.Resonances[0].F-a.Resonances[0].F) > 10 {
		t.Errorf("referred back: %v, want %v", c.MinSWR, a.MinSWR)
	}
	bare := Sweep{Kind: Magnitude, F: shack.F}
	for i := range shack.F {
		bare.Re = append(bare.Re, shack.mag(i))
	}
	if d := read(t, bare.AtFeed(cable, 20), "40m", 2); math.Abs(d.MinSWR-a.MinSWR) > 0.01 {
		t.Errorf("by magnitude: %v, want %v", d.MinSWR, a.MinSWR)
	}
}

func TestUnsortedAndRepeatedPointsAreCounted(t *testing.T) {
	s, unsorted, repeated := New(Magnitude, []float64{3, 1, 2, 2}, []complex128{0.3, 0.1, 0.2, 0.9})
	if unsorted != 1 || repeated != 1 || len(s.F) != 3 || s.Re[1] != 0.2 || s.Check() != nil {
		t.Errorf("%+v, %d, %d", s, unsorted, repeated)
	}
	for _, bad := range []Sweep{{}, {Kind: Complex, F: []float64{1}, Re: []float64{0}},
		{Kind: Magnitude, F: []float64{2, 1}, Re: []float64{0, 0}}, {Kind: Magnitude, F: []float64{1}, Re: []float64{math.NaN()}}} {
		if _, err := bad.Curve(); err == nil {
			t.Errorf("%+v accepted", bad)
		}
	}
}

func BenchmarkReadBand(b *testing.B) {
	s := resonator(circuit.SeriesAt(7.1e6, 50, 12), 1e6, 60e6, 401, Complex)
	forty, _ := band.Named(1, "40m")
	for b.Loop() {
		c, _ := s.Curve()
		Read(c, 1, forty, nil, 2)
	}
}

func TestWhatIsSetOrTunedIsToldSo(t *testing.T) {
	low := read(t, resonator(circuit.SeriesAt(6.95e6, 50, 14), 6.6e6, 7.6e6, 181, Complex), "40m", 1.5)
	for trims, says := range map[string]string{"none": "tuned, not trimmed", "settings": "Change the setting", "loaded": "below what you want",
		"wire": "below what you want"} {
		v := judge(low, Subject{Family: "x", WantedHz: 7.1e6, Trims: trims})
		if !strings.Contains(v.Headline+v.Detail, says) {
			t.Errorf("%s: %q %q, want %q", trims, v.Headline, v.Detail, says)
		}
	}
	high := read(t, resonator(circuit.SeriesAt(7.3e6, 50, 14), 6.6e6, 7.9e6, 181, Complex), "40m", 1.5)
	if v := judge(high, Subject{Family: "loaded-whip", WantedHz: 7.1e6, Trims: "settings"}); !strings.Contains(v.Detail, "lengthen the whip") {
		t.Errorf("above: %q", v.Detail)
	}
}

// A dip narrower than the steps of the drawing is drawn as deep as it is.
func TestANarrowDipIsDrawn(t *testing.T) {
	b, _ := band.Named(1, "20m")
	f := Axis(b, 14.0612e6)
	if !slices.IsSorted(f) || !slices.Contains(f, 14.0612e6) || f[0] > b.Lo || f[len(f)-1] < b.Hi {
		t.Errorf("%v", f)
	}
	for i := 1; i < len(f); i++ {
		if f[i] == f[i-1] {
			t.Errorf("%v twice", f[i])
		}
	}
}

// Every kind of antenna is told what helps it: legs only where there are legs.
func TestTheMatchIsMendedInTheAntennasOwnWay(t *testing.T) {
	for family, want := range map[string][2]string{
		"dipole": {"open the angle", "inverted V"}, "end-fed": {"a lower transformer ratio", "a higher transformer ratio"},
		"vertical": {"slope raised radials", "more radials"}, "whip": {"slope raised radials", "more radials"},
		"loaded-whip": {"a coil of 0.49 uH across the feed, with the whip set a little shorter, or a transformer of about 1:6",
			"loss in coil and ground"},
		"small-loop": {"the coupling loop", "the coupling loop"}, "j-pole": {"away from the shorted end", "towards the shorted end"},
		"fence-wire": {"a transformer of about 1:6", "a transformer of about 4:1"}, "rectangle": {"width and gap", "width and gap"},
	} {
		for i, r := range []float64{8, 200} {
			got := matchHint(Reading{MinAt: 7.05e6, R: r, HasZ: true}, Subject{Family: family})
			if !strings.Contains(got, want[i]) || strings.Contains(got, "legs") && family != "dipole" {
				t.Errorf("%s at %v ohm: %s", family, r, got)
			}
		}
	}
	raised := Subject{Family: "multi-vertical", Raised: true}
	if got := matchHint(Reading{MinAt: 14e6, R: 171, HasZ: true}, raised); !strings.Contains(got, "half-wave") {
		t.Error(got)
	}
	if got := matchHint(Reading{MinAt: 14e6, R: 60, HasZ: true}, raised); !strings.Contains(got, "slope the radials less") {
		t.Error(got)
	}
	own := []band.Segment{{Lo: 14e6, Hi: 14.35e6}}
	loop := Subject{Family: "small-loop", Trims: "settings", WantedHz: 14.06e6}
	off := judge(Reading{MinAt: 13.913e6, MinSWR: 240, Limit: 2, Measured: 100, Own: own}, loop)
	if off.Tone != "unknown" || off.Headline != "No dip in this sweep." || !strings.Contains(off.Detail, "noise peaks") {
		t.Errorf("%+v", off)
	}
	below := judge(Reading{MinAt: 13.9e6, MinSWR: 1.2, Limit: 2, Measured: 100, Own: own}, loop)
	if !strings.Contains(below.Detail, "less capacitance") || strings.Contains(below.Detail, "whip") {
		t.Errorf("%+v", below)
	}
	tuned := judge(Reading{MinAt: 12.6e6, MinSWR: 5, Limit: 2, Measured: 100, Own: own, AtEdge: true},
		Subject{Family: "doublet", Trims: "none", WantedHz: 14.06e6})
	if tuned.Tone != "match" || strings.Contains(tuned.Detail, "sweep wider") {
		t.Errorf("%+v", tuned)
	}
	low := judge(Reading{MinAt: 7.042e6, MinSWR: 6.2, R: 8, HasZ: true, Limit: 1.5, Measured: 100, Own: []band.Segment{{Lo: 7e6, Hi: 7.2e6}}},
		Subject{Family: "loaded-whip", Trims: "settings", WantedHz: 7.1e6})
	if low.Headline != "Change the setting, not the wire." || !strings.Contains(low.Detail, "across the feed") {
		t.Errorf("%+v", low)
	}
}

// judge is a verdict in words, for who thinks in metres.
func judge(r Reading, s Subject) phrase.Told { return Judge(r, s).Told(quantity.SI) }
