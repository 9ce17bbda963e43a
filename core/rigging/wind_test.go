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
