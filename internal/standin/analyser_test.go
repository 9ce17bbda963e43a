package standin

import (
	"math"
	"testing"

	"reed/core/antenna"
	"reed/core/band"
	"reed/core/deployment"
	"reed/core/quantity"
	"reed/core/sweep"
)

func built(family, variant string, f float64) deployment.Built {
	p := antenna.Design(antenna.Request{Shape: antenna.Shape{Family: family, Variant: variant, FrequencyHz: f}})
	return deployment.Built{Shape: p.Shape, Coax: deployment.Coax{Type: "RG-174", Length: quantity.Metres(10)}}
}

func dip(t *testing.T, s sweep.Sweep, name string) sweep.Reading {
	t.Helper()
	c, err := s.Curve()
	if err != nil {
		t.Fatal(err)
	}
	b, _ := band.Named(1, name)
	r, ok := sweep.Read(c, 1, b, nil, 2)
	if !ok {
		t.Fatal("not read")
	}
	return r
}

func TestAnalyserSeesWhatAnAntennaDoes(t *testing.T) {
	a := Analyser{Seed: 5, Noise: 0.001}
	for _, c := range []struct{ family, variant string }{{"dipole", "flat"}, {"end-fed", "sloper"}, {"vertical", "raised-radials"}} {
		b := built(c.family, c.variant, 14.15e6)
		before := dip(t, a.Sweep(b, false, 12.5e6, 16e6, 201), "20m")
		if before.MinSWR > 2 || math.Abs(before.MinAt/14.15e6-1) > 0.05 {
			t.Errorf("%v: SWR %.2f at %.0f", c, before.MinSWR, before.MinAt)
		}
		longer := b
		longer.Radiator, longer.LegB = quantity.Metres(b.Radiator.M*1.02), quantity.Metres(b.LegB.M*1.02)
		after := dip(t, a.Sweep(longer, false, 12.5e6, 16e6, 201), "20m")
		if r := after.MinAt / before.MinAt; math.Abs(r-1/1.02) > 0.004 {
			t.Errorf("%v: 2 %% longer moves the dip to %.4f of it", c, r)
		}
		if radio := dip(t, a.Sweep(b, true, 12.5e6, 16e6, 201), "20m"); radio.MinSWR > before.MinSWR+0.02 {
			t.Errorf("%v: a cable raised the SWR from %v to %v", c, before.MinSWR, radio.MinSWR)
		}
	}
}

func TestAnalyserIsDeterministic(t *testing.T) {
	b := built("dipole", "flat", 7.1e6)
	x, y := Analyser{Seed: 3, Noise: 0.01}.Sweep(b, false, 6e6, 8e6, 50), Analyser{Seed: 3, Noise: 0.01}.Sweep(b, false, 6e6, 8e6, 50)
	for i := range x.Re {
		if x.Re[i] != y.Re[i] {
			t.Fatal("the same seed measured differently")
		}
	}
	if z := (Analyser{Seed: 4}).Impedance(b, 7.1e6); z == (Analyser{Seed: 3}).Impedance(b, 7.1e6) {
		t.Error("another seed has the same truth")
	}
}

func TestEndFedWireResonatesOnItsHarmonics(t *testing.T) {
	a := Analyser{Seed: 9}
	b := built("end-fed", "sloper", 7.1e6)
	s := a.Sweep(b, false, 6e6, 31e6, 801)
	for _, name := range []string{"40m", "20m", "10m"} {
		if r := dip(t, s, name); r.MinSWR > 3 {
			t.Errorf("%s: SWR %.1f at %.2f MHz", name, r.MinSWR, r.MinAt/1e6)
		}
	}
	if r := dip(t, s, "30m"); r.MinSWR < 5 {
		t.Errorf("between its harmonics the wire should not match: %.1f", r.MinSWR)
	}
}
