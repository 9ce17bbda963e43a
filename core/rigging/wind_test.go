package rigging

import (
	"math"
	"testing"
)

// A mast of one diameter, by hand as in any structural text: w = half rho Cd d v^2 a metre, moment w h^2 / 2.
func TestWindOnAPoleOfOneDiameter(t *testing.T) {
	p := Pole{Height: 6, Foot: 0.04, Tip: 0.04}
	w := 0.5 * 1.225 * 1.2 * 0.04 * 12 * 12
	got := Blow(p, 12)
	if math.Abs(got.Force-6*w) > 1e-9 || math.Abs(got.Moment-w*36/2) > 1e-9 || math.Abs(got.Guy-w*18/4*math.Sqrt2) > 1e-9 {
		t.Errorf("%+v, by hand %v N, %v N m", got, 6*w, w*18)
	}
}

func TestATaperedPoleLeansLess(t *testing.T) {
	// A cone's moment is a third of the cylinder's: h^2/6 against h^2/2.
	cone, rod := Blow(Pole{5, 0.05, 0}, 10), Blow(Pole{5, 0.05, 0.05}, 10)
	if math.Abs(cone.Moment/rod.Moment-1.0/3) > 1e-9 || math.Abs(cone.Force/rod.Force-0.5) > 1e-9 {
		t.Errorf("%+v against %+v", cone, rod)
	}
}

func TestLoweringBringsItBelowItsRating(t *testing.T) {
	p := Pole{8, 0.05, 0.01}
	full := Blow(p, 14).Moment
	for _, share := range []float64{0.99, 0.5, 0.1} {
		h := LowerTo(p, 14, share*full)
		if got := Blow(Pole{h, 0.05, 0.05 - 0.04*h/8}, 14).Moment; math.Abs(got-share*full) > 0.02*full || h >= 8 {
			t.Errorf("at %.2f m it bears %.1f of %.1f N m", h, got, share*full)
		}
	}
	if h := LowerTo(p, 14, full*1.01); h != 8 {
		t.Errorf("lowered to %v though it holds", h)
	}
}

// A catenary whose ends are 100 m apart with a = 100 m hangs through 100 (cosh 0.5 - 1) = 12.76 m; a flat one as the parabola
// w L^2 / 8 H.
func TestAWireSags(t *testing.T) {
	const g = 9.80665
	if got := Sag(100, 1000/g, 100); math.Abs(got-12.7626) > 1e-3 {
		t.Errorf("%v m", got)
	}
	if got, want := Sag(20, 7, 30), 0.007*g*400/8/30; math.Abs(got/want-1) > 1e-3 {
		t.Errorf("%v m, as a parabola %v", got, want)
	}
	if Sag(20, 0, 30) != 0 || Sag(20, 7, 0) != 0 {
		t.Error("nothing hangs through")
	}
}

func TestABatterySagsAndLasts(t *testing.T) {
	c := Cell{AmpHours: 3, Volts: 12.8, Ohms: 0.1}
	if got := c.Under(2, 0.05); math.Abs(got-12.5) > 1e-9 {
		t.Errorf("%v V", got)
	}
	d := Draw{0.4, 2}
	mild := c.Hours(d, 0.25, 15)
	if math.Abs(mild-0.8*3/0.8) > 1e-9 {
		t.Errorf("%v hours", mild)
	}
	// Freezing takes a fifth: just above two degrees it does not.
	if got := c.Hours(d, 0.25, 2); math.Abs(got/mild-0.8) > 1e-9 || c.Hours(d, 0.25, 2.1) != mild {
		t.Errorf("%v hours in the cold", got)
	}
	if c.Hours(Draw{}, 0.25, 15) != 0 || (Cell{}).Hours(d, 0.25, 15) != 0 {
		t.Error("hours of nothing")
	}
}
