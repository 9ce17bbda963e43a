package trim

import (
	"context"
	"math"
	"strings"
	"testing"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/band"
	"reed/core/circuit"
	"reed/core/deployment"
	"reed/core/quantity"
	"reed/core/sweep"
	"reed/core/twin"
)

// dips are one reading for each dip, in megahertz and SWR.
func dips(t *testing.T, rows ...[2]float64) sweep.Curve {
	t.Helper()
	var f []float64
	var gamma []complex128
	for _, r := range rows {
		f, gamma = append(f, r[0]*1e6), append(gamma, complex(circuit.Magnitude(r[1]), 0))
	}
	return curveOf(t, sweep.Magnitude, f, gamma)
}

// One dip that was read advises as the whole sweep does, a little more carefully.
func TestOneDipAdvisesAsASweepDoes(t *testing.T) {
	var e twin.Engine
	p := family.Design(antenna.Request{Shape: antenna.Shape{Family: "dipole", Variant: "flat", FrequencyHz: 10.12e6}})
	b := deployment.Built{Shape: p.Shape}
	for _, id := range []string{antenna.Radiator, antenna.LegB} {
		b.Put(id, quantity.Metres(p.Shape.M(id)*1.035))
	}
	curve := feed(t, &e, b, 9.4e6, 10.6e6)
	fold := func(c sweep.Curve) float64 {
		x := Subject{Swept: []Swept{{b, []sweep.Curve{c}}}, Ground: "average", Region: 1, Segments: band.DefaultSegments(1), Limit: 2}
		advice, err := x.Advise(context.Background(), &e, nil)
		if err != nil || len(advice.Wires) != 1 {
			t.Fatalf("%v %+v", err, advice)
		}
		return advice.Wires[0].Change.M
	}
	at, _ := curve.Dip(9.4e6, 10.6e6)
	swept, read := fold(curve), fold(dips(t, [2]float64{at / 1e6, math.Round(10*curve.SWR(at)) / 10}))
	if read < 0.6*swept || read > 1.02*swept {
		t.Errorf("folded by %.3f m by its dip, by %.3f m by the sweep", read, swept)
	}
}

// Of several bands the one that is off is changed; one that may be right does not hold it back.
func TestABandThatMayBeRightDoesNotHoldBackAnother(t *testing.T) {
	var e twin.Engine
	p := family.Design(antenna.Request{Shape: antenna.Shape{Family: "linked-dipole", Variant: "flat", FrequencyHz: 14.1e6,
		More: []float64{7.05e6}}})
	b := deployment.Built{Shape: p.Shape}
	advise := func(c sweep.Curve) Trim {
		x := Subject{Swept: []Swept{{b, []sweep.Curve{c}}}, Ground: "average", Region: 1, Segments: band.DefaultSegments(1), Limit: 1.5}
		advice, err := x.Advise(context.Background(), &e, nil)
		if err != nil {
			t.Fatal(err)
		}
		return advice
	}
	got := advise(dips(t, [2]float64{7.03, 1.3}, [2]float64{13.7, 1.4}))
	if len(got.Wires) == 0 || got.Wires[0].Change.M < 0.04 {
		t.Errorf("the inner link, 3 %% low, is changed by %+v", got.Wires)
	}
	for _, f := range got.Foreseen {
		if f.F < 8e6 && math.Abs(f.Expect/f.Now-1) > 0.003 {
			t.Errorf("the outer band moves from %v to %v", f.Now, f.Expect)
		}
	}
}

// Where one reading leaves it open whether anything is to be changed, nothing is, and it is not told as done.
func TestWhatMayBeRightIsLeftUntilMoreIsRead(t *testing.T) {
	var e twin.Engine
	p := family.Design(antenna.Request{Shape: antenna.Shape{Family: "dipole", Variant: "flat", FrequencyHz: 10.12e6}})
	x := Subject{Swept: []Swept{{deployment.Built{Shape: p.Shape}, []sweep.Curve{dips(t, [2]float64{10.07, 1.9})}}}, Ground: "average",
		Region: 1, Segments: band.DefaultSegments(1), Limit: 1.5}
	advice, err := x.Advise(context.Background(), &e, nil)
	if err != nil {
		t.Fatal(err)
	}
	words := advice.Words(quantity.SI)
	if len(advice.Actions) > 0 || advice.Settled || !strings.Contains(words.Headline, "a few more readings") ||
		!strings.Contains(words.Detail, "10.070") {
		t.Errorf("%+v: %q %q", advice.Actions, words.Headline, words.Detail)
	}
}
