package exposure

import (
	"math"
	"testing"
)

func TestPublicLimitsAreThePublishedOnes(t *testing.T) {
	for f, want := range map[float64][2]float64{7e6: {300 / math.Pow(7, 0.7), 2.19 / 7}, 28e6: {29.1, 2.19 / 28}, 50e6: {27.5, 0.073}} {
		v, a := Limits(f)
		if math.Abs(v-want[0]) > 0.1 || math.Abs(a-want[1]) > 1e-3 {
			t.Errorf("%v Hz: %.1f V/m and %.4f A/m, want %v", f, v, a, want)
		}
	}
}

func TestTheFieldOfARing(t *testing.T) {
	// On the axis I r2 / 2 (r2+z2)^1.5, in the middle I/2r, beside the conductor nearly I/2 pi d.
	if h := ringField(0.5, 3, 0, 1.2); math.Abs(h-3*0.25/(2*math.Pow(0.25+1.44, 1.5))) > 1e-6 {
		t.Errorf("%v A/m on the axis", h)
	}
	if h := ringField(0.5, 3, 0, 0); math.Abs(h-3) > 1e-6 {
		t.Errorf("%v A/m in the middle", h)
	}
	if h := ringField(0.5, 3, 0.45, 0); math.Abs(h/(3/(2*math.Pi*0.05))-1) > 0.3 {
		t.Errorf("%v A/m inside, 5 cm from the conductor", h)
	}
	near, far := Ring(0.6, 2, 7e6), Ring(0.6, 8, 7e6)
	if near >= far || Ring(0.6, 8, 28e6) <= far {
		t.Errorf("%v m at 2 A, %v at 8", near, far)
	}
	_, limit := Limits(7e6)
	if h := ringField(0.6, 8, 0, math.Sqrt(far*far-0.36)); h > limit*1.001 {
		t.Errorf("%v A/m at %v m, limit %v", h, far, limit)
	}
}
