package trim

import (
	"context"
	"math"
	"strings"
	"testing"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/deployment"
	"reed/core/twin"
)

// Three antennas of one wire whose factor is not that of its jacket, each measured with an error of its own: the
// factor comes out, and one that was mis-measured by 4 % does not move it far.
func TestTheFactorOfAWireIsLearned(t *testing.T) {
	e := &twin.Engine{}
	w, _ := antenna.WireNamed("pvc")
	truth := w
	truth.Factor = 0.931
	var used []Used
	for i, x := range []struct {
		kind, variant string
		mhz, off      float64
	}{{"dipole", "flat", 14.1, 0.003}, {"vertical", "raised-radials", 14.1, -0.004}, {"end-fed", "sloper", 7.1, 0.001},
		{"dipole", "inverted-v", 10.12, 0.04}} {
		p := family.Design(antenna.Request{Shape: antenna.Shape{Family: x.kind, Variant: x.variant, FrequencyHz: x.mhz * 1e6, Wire: "pvc"}})
		b := deployment.Built{Shape: p.Shape}
		real := b
		real.WireData = &truth
		f := x.mhz * 1e6
		at, ok, err := e.Resonance(context.Background(), twin.Setup{Built: real, Ground: "average"}, f, f*0.85, f*1.1)
		if err != nil || !ok {
			t.Fatalf("%d: %v %v", i, ok, err)
		}
		used = append(used, Used{Name: x.kind, Built: b, Ground: "average", Dip: at * (1 + x.off)})
	}
	got, err := Learn(context.Background(), e, w, used[:3], nil)
	if err != nil || len(got.From) != 3 || math.Abs(got.Factor-truth.Factor) > 0.004 {
		t.Fatalf("%v: %+v", err, got)
	}
	if got.Range[0] > truth.Factor || got.Range[1] < truth.Factor || got.Range[1]-got.Range[0] > 0.05 {
		t.Errorf("%v is not in %v", truth.Factor, got.Range)
	}
	with, err := Learn(context.Background(), e, w, used, nil)
	if err != nil || math.Abs(with.Factor-truth.Factor) > 0.007 {
		t.Errorf("with one mis-measured: %v %+v", err, with)
	}
	one, err := Learn(context.Background(), e, w, used[:1], nil)
	if err != nil || one.Range[1]-one.Range[0] < got.Range[1]-got.Range[0] {
		t.Errorf("one antenna is as sure as three: %+v", one)
	}
	if math.Abs(got.Computed-w.JacketFactor(5)) > 1e-12 || !strings.Contains(got.Sentence, "by its jacket") {
		t.Errorf("%+v", got)
	}
	loop := Used{Name: "loop", Built: deployment.Built{Shape: antenna.Shape{Family: "small-loop"}}, Dip: 14e6}
	if _, err := Learn(context.Background(), e, w, []Used{loop}, nil); err == nil ||
		!strings.Contains(err.Error(), "no sweep of a plain antenna") {
		t.Errorf("a loop taught a wire: %v", err)
	}
}
