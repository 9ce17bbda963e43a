package standin

import (
	"context"
	"math"
	"testing"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/band"
	"reed/core/deployment"
	"reed/core/quantity"
	"reed/core/sweep"
	"reed/core/twin"
)

func built(kind, variant string, f float64) deployment.Built {
	p := family.Design(antenna.Request{Shape: antenna.Shape{Family: kind, Variant: variant, FrequencyHz: f}})
	return deployment.Built{Shape: p.Shape, Coax: deployment.Coax{Type: "RG-174", Length: quantity.Metres(10)}}
}

var engine twin.Engine

func measure(t *testing.T, a Analyser, b deployment.Built, atRadio bool, lo, hi float64, n int) sweep.Sweep {
	t.Helper()
	s, err := a.Sweep(context.Background(), b, atRadio, lo, hi, n)
	if err != nil {
		t.Fatal(err)
	}
	return s
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
	a := Analyser{Seed: 5, Noise: 0.001, Engine: &engine}
	for _, c := range []struct{ kind, variant string }{{"dipole", "flat"}, {"end-fed", "sloper"}, {"vertical", "raised-radials"}} {
		b := built(c.kind, c.variant, 14.15e6)
		before := dip(t, measure(t, a, b, false, 12.5e6, 16e6, 201), "20m")
		if before.MinSWR > 2 || math.Abs(before.MinAt/14.15e6-1) > 0.05 {
			t.Errorf("%v: SWR %.2f at %.0f", c, before.MinSWR, before.MinAt)
		}
		longer := b
		longer.Put(antenna.Radiator, quantity.Metres(b.Radiator().M*1.02))
		longer.Put(antenna.LegB, quantity.Metres(b.LegB().M*1.02))
		after := dip(t, measure(t, a, longer, false, 12.5e6, 16e6, 201), "20m")
		// Radials and counterpoise stay as they are: their part of the antenna does not move.
		if r := after.MinAt / before.MinAt; r < 1/1.025 || r > 0.99 {
			t.Errorf("%v: 2 %% longer moves the dip to %.4f of it", c, r)
		}
		if radio := dip(t, measure(t, a, b, true, 12.5e6, 16e6, 201), "20m"); radio.MinSWR > before.MinSWR+0.02 {
			t.Errorf("%v: a cable raised the SWR from %v to %v", c, before.MinSWR, radio.MinSWR)
		}
	}
}

func TestAnalyserIsDeterministic(t *testing.T) {
	b := built("dipole", "flat", 7.1e6)
	a := Analyser{Seed: 3, Noise: 0.01, Engine: &engine}
	x, y := measure(t, a, b, false, 6e6, 8e6, 50), measure(t, a, b, false, 6e6, 8e6, 50)
	for i := range x.Re {
		if x.Re[i] != y.Re[i] {
			t.Fatal("the same seed measured differently")
		}
	}
	if z := measure(t, Analyser{Seed: 4, Engine: &engine}, b, false, 6e6, 8e6, 50); math.Abs(z.Re[20]-x.Re[20]) < 1e-4 {
		t.Error("another seed has the same truth")
	}
	stopped, stop := context.WithCancel(context.Background())
	stop()
	if _, err := a.Sweep(stopped, b, false, 3e6, 4e6, 50); err == nil {
		t.Error("it measures after being stopped")
	}
}

func TestEndFedWireResonatesOnItsHarmonics(t *testing.T) {
	a := Analyser{Seed: 9, Engine: &engine}
	b := built("end-fed", "sloper", 7.1e6)
	b.Choke.Place = "feed" // otherwise the coax is a counterpoise that matches in odd places
	s := measure(t, a, b, false, 6e6, 31e6, 801)
	for _, name := range []string{"40m", "20m", "10m"} {
		if r := dip(t, s, name); r.MinSWR > 3 {
			t.Errorf("%s: SWR %.1f at %.2f MHz", name, r.MinSWR, r.MinAt/1e6)
		}
	}
	if r := dip(t, s, "30m"); r.MinSWR < 3.5 {
		t.Errorf("between its harmonics the wire should not match: %.1f", r.MinSWR)
	}
}
