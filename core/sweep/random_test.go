package sweep

import (
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"reed/core/band"
	"reed/core/circuit"
)

// TestNoSweepBreaksTheReading reads hundreds of odd sweeps: few points, steep dips, other bands, noise
// up to nonsense. Whatever comes in, every figure that comes out is finite and inside what was measured.
func TestNoSweepBreaksTheReading(t *testing.T) {
	rng := rand.New(rand.NewPCG(31, 32))
	kinds := []string{Complex, Unsigned, Magnitude}
	for range 2000 {
		b := band.All(1)[rng.IntN(11)]
		f0 := b.Lo * (0.8 + 0.4*rng.Float64())
		s := circuit.SeriesAt(f0, 5+300*rng.Float64(), 1+40*rng.Float64())
		span := b.Lo * (0.001 + 0.3*rng.Float64())
		n := 1 + rng.IntN(60)
		f, g := make([]float64, n), make([]complex128, n)
		for i := range f {
			f[i] = f0 - span/2 + span*float64(i)/float64(max(n-1, 1))
			g[i] = circuit.Gamma(s.Z(f[i]), Reference) + complex(rng.NormFloat64(), rng.NormFloat64())*complex(0.05*rng.Float64(), 0)
		}
		sw, _, _ := New(kinds[rng.IntN(3)], f, g)
		c, err := sw.Curve()
		if err != nil {
			t.Fatal(err)
		}
		own := band.Own(band.DefaultSegments(1), b.Name)
		if rng.IntN(4) == 0 {
			own = nil
		}
		r, ok := Read(c, 1, b, own, 1.2+2*rng.Float64())
		if !ok {
			continue
		}
		lo, hi := c.Span()
		if r.MinAt < lo-1 || r.MinAt > hi+1 || r.MinSWR < 1 || r.MinSWR > MaxShown || math.IsNaN(r.R+r.X) {
			t.Fatalf("lowest %v at %v of %v to %v, Z %v %v", r.MinSWR, r.MinAt, lo, hi, r.R, r.X)
		}
		if r.Coverage < 0 || r.Coverage > 100.001 || r.Measured == 0 && r.Coverage > 0 || r.Measured > 100.001 {
			t.Fatalf("covers %v %% of which %v %% are measured", r.Coverage, r.Measured)
		}
		last := 0.0
		for _, w := range r.Widths {
			if w.Lo > r.MinAt+1 || w.Hi < r.MinAt-1 || w.Hz < last-1 {
				t.Fatalf("widths %+v around %v", r.Widths, r.MinAt)
			}
			last = w.Hz
		}
		for _, x := range r.Resonances {
			if x.F < lo || x.F > hi || math.IsNaN(x.R) {
				t.Fatalf("resonance %+v", x)
			}
		}
		v := judge(r, Subject{Family: []string{"dipole", "end-fed", "vertical"}[rng.IntN(3)], WantedHz: b.Centre()})
		if v.Headline == "" || v.Detail == "" || v.Tone == "" || strings.Contains(v.Detail, "NaN") ||
			strings.Contains(v.Headline, "match") && r.Single && !r.Searched {
			t.Fatalf("%+v of %+v", v, r)
		}
	}
}

// MaxShown is the highest SWR that may come out of a reading.
const MaxShown = circuit.MaxSWR

func TestTheDipIsFoundBetweenThePoints(t *testing.T) {
	// The resonance lies half way between two points 20 kHz apart.
	s := circuit.SeriesAt(7.11e6, 50, 12)
	r := read(t, resonator(s, 6.9e6, 7.3e6, 21, Complex), "40m", 2)
	if math.Abs(r.MinAt-7.11e6) > 500 || r.MinSWR > 1.01 {
		t.Errorf("SWR %v at %v, want 1 at 7.11 MHz", r.MinSWR, r.MinAt)
	}
	if p := read(t, resonator(circuit.Series{R: 50, L: 1e-9, C: 1}, 6.9e6, 7.3e6, 21, Complex), "40m", 2); p.MinSWR > 1.01 || p.Coverage < 99 {
		t.Errorf("a dummy load is read as %v", p.MinSWR)
	}
}

func TestWindowsTileTheSpectrumWithoutOverlap(t *testing.T) {
	for region := band.Region(1); region <= 3; region++ {
		last := 0.0
		for _, b := range band.All(region) {
			lo, hi, ok := Window(region, b.Name)
			if !ok || lo > b.Lo || hi < b.Hi || lo < last-1 {
				t.Errorf("region %d %s: %v to %v after %v", region, b.Name, lo, hi, last)
			}
			last = hi
		}
	}
	if _, _, ok := Window(1, "41m"); ok {
		t.Error("a window of no band")
	}
}

func TestTheAxisHoldsTheBandAndItsDips(t *testing.T) {
	for _, b := range band.All(1) {
		for _, dip := range []float64{b.Lo * 0.93, b.Centre(), b.Hi * 1.05} {
			f := Axis(b, dip)
			if f[0] >= b.Lo || f[len(f)-1] <= b.Hi || f[0] >= dip || f[len(f)-1] <= dip {
				t.Errorf("%s with a dip at %v is drawn from %v to %v", b.Name, dip, f[0], f[len(f)-1])
			}
			step := (f[len(f)-1] - f[0]) / 180
			at := slices.Index(f, dip)
			if at < 1 || dip-f[at-1] > 0.26*step || f[at+1]-dip > 0.26*step {
				t.Errorf("%s: the dip at %v has no near neighbour on both sides", b.Name, dip)
			}
			for i := 1; i < len(f); i++ {
				if f[i] <= f[i-1] {
					t.Fatalf("%s: the axis does not rise", b.Name)
				}
			}
		}
	}
}
