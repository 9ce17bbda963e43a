package sweep

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"reed/core/band"
	"reed/core/circuit"
	"reed/core/quantity"
)

func curve(t *testing.T, s Sweep) Curve {
	t.Helper()
	c, err := s.Curve()
	if err != nil {
		t.Fatal(err)
	}
	return c
}

func TestBothEndsOfACableAreEachOthersInverse(t *testing.T) {
	cable, _ := circuit.Cable("RG-174")
	at := resonator(circuit.SeriesAt(14.1e6, 70, 14), 13e6, 15e6, 41, Complex)
	back := at.AtRadio(cable, 12).AtFeed(cable, 12)
	for i := range at.F {
		if math.Hypot(back.Re[i]-at.Re[i], back.Im[i]-at.Im[i]) > 1e-12 {
			t.Fatalf("at %v: %v %v is not %v %v", at.F[i], back.Re[i], back.Im[i], at.Re[i], at.Im[i])
		}
	}
	// By magnitude only the loss is known: there and back twice the matched loss in return loss.
	m := Sweep{Kind: Magnitude, F: []float64{14e6}, Re: []float64{0.5}}
	gain := circuit.ReturnLoss(m.AtRadio(cable, 12).Re[0]) - circuit.ReturnLoss(0.5)
	if math.Abs(gain-2*cable.MatchedLoss(14e6, 12)) > 1e-9 {
		t.Errorf("return loss gains %v dB, the cable has %v one way", gain, cable.MatchedLoss(14e6, 12))
	}
}

// 25 m of a thin cable on 10 m lose about 5 dB: an antenna of SWR 5 is shown as 1.5 and less.
func TestACableThatFlattersIsToldWithItsWatts(t *testing.T) {
	cable, _ := circuit.Cable("RG-174")
	b, _ := band.Named(1, "10m")
	own := band.Own(band.DefaultSegments(1), "10m")
	at := resonator(circuit.SeriesAt(28.2e6, 250, 3), 27.5e6, 30e6, 101, Complex)
	radio, feed := curve(t, at.AtRadio(cable, 25)), curve(t, at)
	r, _ := Read(radio, 1, b, own, 2)
	if r.Coverage < 99.5 {
		t.Fatalf("the radio sees only %v %%", r.Coverage)
	}
	got := Hidden(radio, feed, r, cable, 25, 10, "25.00 m of RG-174")
	for _, want := range []string{"looks fine at the radio and is not", "the antenna has", "25.00 m of RG-174 loses", "Of 10 W,"} {
		if !strings.Contains(got, want) {
			t.Errorf("%q is missing in %q", want, got)
		}
	}
	// The watts: matched loss L and load mismatch, from the definition of the two waves on the line.
	worst := 0.0
	for _, s := range own {
		worst = math.Max(worst, math.Max(feed.SWR(s.Lo), feed.SWR(s.Hi)))
	}
	l := math.Pow(10, cable.MatchedLoss(29.7e6, 25)/10)
	g := circuit.Magnitude(worst)
	arrives := 10 * (1 - g*g) * l / (l*l - g*g)
	if !strings.Contains(got, "Of 10 W, "+watts(arrives)) {
		t.Errorf("about %s should arrive: %q", watts(arrives), got)
	}
	short := curve(t, at.AtRadio(cable, 0.5))
	if rs, _ := Read(short, 1, b, own, 2); Hidden(short, feed, rs, cable, 0.5, 10, "x") != "" {
		t.Error("half a metre hides nothing: both ends are bad")
	}
	good := resonator(circuit.SeriesAt(28.2e6, 50, 3), 27.5e6, 30e6, 101, Complex)
	if got := Hidden(curve(t, good.AtRadio(cable, 25)), curve(t, good), r, cable, 25, 10, "x"); got != "" {
		t.Errorf("a matched antenna behind the same cable: %q", got)
	}
}

func watts(w float64) string { return quantity.Watts(quantity.Digits(w, 2)) }

func TestAWindyMinuteIsOneBand(t *testing.T) {
	b, _ := band.Named(1, "20m")
	f := Axis(b)
	var calm, windy []Curve
	rng := rand.New(rand.NewPCG(1, 2))
	lo, hi := math.Inf(1), 0.0
	for range 5 {
		f0 := 14.1e6 * (1 + 0.002*rng.NormFloat64())
		lo, hi = math.Min(lo, f0), math.Max(hi, f0)
		windy = append(windy, curve(t, resonator(circuit.SeriesAt(f0, 55, 14), 13e6, 15.5e6, 101, Complex)))
		calm = append(calm, curve(t, resonator(circuit.SeriesAt(14.1e6, 55, 14), 13e6, 15.5e6, 101, Complex)))
	}
	got, ok := Together(windy, 1, b, f)
	if !ok || got.Takes != 5 || !strings.Contains(got.Says, "the dip moved over") {
		t.Fatalf("%+v", got)
	}
	for i := range f {
		for _, c := range windy {
			if swr := c.SWR(f[i]); swr < got.Low[i]-1e-9 || swr > got.High[i]+1e-9 {
				t.Fatalf("a sweep leaves the band at %v", f[i])
			}
		}
	}
	if got, ok := Together(calm, 1, b, f); !ok || !strings.Contains(got.Says, "agree") {
		t.Errorf("%+v", got)
	}
	near := append(calm[:1:1], curve(t, resonator(circuit.SeriesAt(14.1014e6, 55, 14), 13e6, 15.5e6, 101, Complex)))
	if got, _ := Together(near, 1, b, f); !strings.Contains(got.Says, "2 sweeps agree") {
		t.Errorf("a kilohertz is no wind: %+v", got.Says)
	}
	if _, ok := Together(windy[:1], 1, b, f); ok {
		t.Error("one sweep makes no band")
	}
	short := curve(t, resonator(circuit.SeriesAt(14.1e6, 55, 14), 14.05e6, 14.2e6, 20, Complex))
	if got, _ := Together(append(windy, short), 1, b, f); !math.IsNaN(got.Low[0]) {
		t.Error("a band is drawn where one of the sweeps does not reach")
	}
}

func TestMeasuredBesideComputedInWords(t *testing.T) {
	wire := Subject{Family: "dipole"}
	if got := Beside(Reading{MinAt: 13.9e6, MinSWR: 1.4}, Reading{MinAt: 14.2e6, MinSWR: 1.2}, wire); !strings.Contains(got,
		"300 kHz (2.1 %) lower than computed") || !strings.Contains(got, "On this band it acts 2.1 % longer") {
		t.Error(got)
	}
	if got := Beside(Reading{MinAt: 14.21e6, MinSWR: 1.4}, Reading{MinAt: 14.2e6, MinSWR: 1.2}, wire); !strings.Contains(got,
		"As computed") {
		t.Error(got)
	}
	if got := Beside(Reading{MinAt: 14.5e6, MinSWR: 30}, Reading{MinAt: 14.2e6, MinSWR: 1.2}, Subject{Trims: "settings"}); strings.Contains(
		got, "acts") || !strings.Contains(got, "over 20") {
		t.Error(got)
	}
}

func TestAnOverviewFindsEveryDip(t *testing.T) {
	// Two resonators in parallel paths: take the better of both by hand.
	n := 600
	f, g := make([]float64, n), make([]complex128, n)
	for i := range f {
		f[i] = 1e6 + 59e6*float64(i)/float64(n-1)
		near := 7.1e6
		if f[i] > 10.5e6 {
			near = 14.2e6
		}
		if f[i] > 20e6 {
			near = 28.3e6
		}
		g[i] = circuit.Gamma(circuit.SeriesAt(near, 60, 10).Z(f[i]), Reference)
	}
	s, _, _ := New(Complex, f, g)
	x, swr, dips, ok := Overview(curve(t, s))
	if !ok || len(x) != len(swr) || len(dips) != 3 {
		t.Fatalf("%v %v", ok, dips)
	}
	for i, want := range []float64{7.1e6, 14.2e6, 28.3e6} {
		if math.Abs(dips[i].F-want) > 30e3 || dips[i].SWR > 1.5 {
			t.Errorf("dip %+v, want %v", dips[i], want)
		}
	}
	if _, _, _, ok := Overview(curve(t, resonator(circuit.SeriesAt(7e6, 50, 10), 6e6, 8e6, 50, Complex))); ok {
		t.Error("one band is no overview")
	}
}

func TestQuantitiesOfAKnownImpedance(t *testing.T) {
	s, _, _ := New(Complex, []float64{7e6, 7.1e6, 7.2e6}, []complex128{circuit.Gamma(complex(100, 0), 50),
		circuit.Gamma(complex(100, 0), 50), circuit.Gamma(complex(100, 0), 50)})
	q := curve(t, s).Quantities([]float64{6e6, 7.1e6})
	if !math.IsNaN(q.R[0]) || !math.IsNaN(q.Loss[0]) || math.Abs(q.R[1]-100) > 1e-9 || math.Abs(q.X[1]) > 1e-9 ||
		math.Abs(q.Loss[1]-9.5424) > 1e-3 {
		t.Errorf("%+v", q)
	}
	m := curve(t, Sweep{Kind: Magnitude, F: []float64{7e6}, Re: []float64{1.0 / 3}}).Quantities([]float64{7e6})
	if !math.IsNaN(m.R[0]) || math.Abs(m.Loss[0]-9.5424) > 1e-3 {
		t.Errorf("%+v", m)
	}
}
