package family

import (
	"math"
	"testing"

	"reed/core/antenna"
	"reed/core/entry"
	"reed/core/numeric"
)

// neumann is the mutual inductance of a ring and an ellipse by the double sum over both, which is not how it is computed.
func neumann(radius float64, c Coupling) float64 {
	const n, m = 2000, 2000
	middle, sum := radius-c.Apart-c.Tall/2, 0.0
	for i := range n {
		a := 2 * math.Pi * (float64(i) + 0.5) / n
		x, y := c.Across/2*math.Cos(a), middle+c.Tall/2*math.Sin(a)
		dx, dy := -c.Across/2*math.Sin(a)*2*math.Pi/n, c.Tall/2*math.Cos(a)*2*math.Pi/n
		for j := range m {
			b := 2 * math.Pi * (float64(j) + 0.5) / m
			u, v := radius*math.Cos(b), radius*math.Sin(b)
			du, dv := -v*2*math.Pi/m, u*2*math.Pi/m
			sum += (dx*du + dy*dv) / math.Hypot(x-u, y-v)
		}
	}
	return numeric.Mu0 / (4 * math.Pi) * math.Abs(sum)
}

func TestACouplingLoopSharesWhatTheDoubleSumSays(t *testing.T) {
	for _, c := range []Coupling{{0.2, 0.2, 0.0015, 0.02}, {0.35, 0.12, 0.0015, 0.018}, {0.1, 0.3, 0.0015, 0.03}} {
		if got, want := c.Mutual(2*math.Pi*0.55), neumann(0.55, c); math.Abs(got/want-1) > 0.01 {
			t.Errorf("%+v shares %.4g H, the double sum %.4g", c, got, want)
		}
	}
	tiny := Coupling{Across: 0.02, Tall: 0.02, Wire: 0.001, Apart: 0.55 - 0.01}
	if got, want := tiny.Mutual(2*math.Pi*0.55), numeric.Mu0*math.Pi*1e-4/(2*0.55); math.Abs(got/want-1) > 0.005 {
		t.Errorf("in the middle %.4g H, by the field there %.4g", got, want)
	}
}

func TestACircularCouplingLoopHasTheInductanceOfARing(t *testing.T) {
	c := Coupling{Across: 0.24, Tall: 0.24, Wire: 0.0015}
	if want := numeric.Mu0 * 0.12 * (math.Log(8*0.12/0.0015) - 2); math.Abs(c.Own()/want-1) > 0.001 {
		t.Errorf("%.4g H, a ring of that size %.4g", c.Own(), want)
	}
}

func TestAFlattenedCouplingLoopCouplesLess(t *testing.T) {
	l := Ring{Around: 3.2, Tube: 0.008, ESR: 0.03}
	round := couplingFor(l, 14.1e6)
	near(t, "ohms of the one for 50", round.Transforms(l.Around, 14.1e6, l.Radiation(14.1e6)+l.Loss(14.1e6)), 50, 0.2)
	if share := round.Across / (l.Around / math.Pi); share < 0.08 || share > 0.3 {
		t.Errorf("%.2f of the diameter, not about a fifth", share)
	}
	flat := round
	flat.Tall /= 2
	if flat.Mutual(l.Around) >= round.Mutual(l.Around) {
		t.Error("squeezed flat it couples as well")
	}
}

func TestALoopSaysWhatItsCouplingLoopDoes(t *testing.T) {
	texts := map[string]string{"for": "10.12", "radiator": "3.2 m", "c_max": "400", "coupling": "0.5 m"}
	p := wish(t, "small-loop", "upright", texts)
	texts["coupling"] = "1.5 m"
	large := Drawn(antenna.Form{Record: antenna.Request{Shape: antenna.Shape{Family: "small-loop", Variant: "upright"}, PowerW: 10},
		Typed: entry.Typed{Texts: texts}})
	if f, found := faultAt(large.Faults, "coupling"); !found || f.Severity != "error" {
		t.Error("a coupling loop larger than the loop is taken")
	}
	if e := Of(p.Shape).Electrics(10.12e6); e.Link.Mutual <= 0 || e.Link.Own <= 0 {
		t.Errorf("the recorded coupling loop is not in the model: %+v", e.Link)
	}
}

func TestASecondCapacitorReachesALowerBandWithLessLoss(t *testing.T) {
	l := Ring{Around: 3.2, Tube: 0.008, ESR: 0.05, Most: 120e-12, Beside: 180e-12}
	alone := l
	alone.Beside = 0
	f := l.Tuned(250e-12)
	if l.Loss(f) >= alone.Loss(f) || l.Loss(f) < alone.Loss(f)-0.05 {
		t.Errorf("two in parallel lose %.4f ohm, one %.4f", l.Loss(f), alone.Loss(f))
	}
	p := wish(t, "small-loop", "upright", map[string]string{"for": "7.1", "radiator": "3.2 m", "c_max": "120", "c_beside": "150"})
	if f, found := faultAt(p.Faults, "c_max"); found {
		t.Errorf("out of reach although a second one stands beside it: %s", f.Text)
	}
}
