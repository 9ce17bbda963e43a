package sweep

import (
	"math"
	"strings"
	"testing"

	"reed/core/antenna/family"
	"reed/core/band"
	"reed/core/circuit"
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
