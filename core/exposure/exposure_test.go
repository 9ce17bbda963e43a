package exposure

import (
	"math"
	"testing"
)

func TestPublicLimitsAreThePublishedOnes(t *testing.T) {
	for f, want := range map[float64][2]float64{7e6: {87 / math.Sqrt(7), 0.73 / 7}, 14e6: {28, 0.073}, 28e6: {28, 0.073},
		50e6: {27.5, 0.073}} {
		v, a := Limits(f)
		if math.Abs(v-want[0]) > 0.1 || math.Abs(a-want[1]) > 1e-3 {
			t.Errorf("%v Hz: %.1f V/m and %.4f A/m, want %v", f, v, a, want)
		}
	}
}

// Known values of each set at 14 MHz (ICNIRP 2020, table 5; 47 CFR 1.1310, table 1; 1999/519/EC, annex III).
func TestEachSetHasItsPublishedLevels(t *testing.T) {
	want := map[string][2]float64{"ICNIRP": {47.3, 0.157}, "FCC 47 CFR 1.1310": {58.9, 0.156}, "EU 1999/519/EC": {28, 0.073}}
	for _, r := range Held {
		v, a := r.Levels(14)
		if w := want[r.Name]; math.Abs(v-w[0]) > 0.1 || math.Abs(a-w[1]) > 1e-3 {
			t.Errorf("%s at 14 MHz: %.1f V/m and %.4f A/m, want %v", r.Name, v, a, w)
		}
	}
}

// Below 10 MHz the field may at no moment pass what stirs nerves, however seldom the key is down.
func TestThePeakIsHeldToo(t *testing.T) {
	if v, a := Peak(7e6); v != 83 || a != 21 {
		t.Errorf("%v V/m, %v A/m", v, a)
	}
	if v, _ := Peak(14e6); !math.IsInf(v, 1) {
		t.Errorf("%v V/m at 14 MHz", v)
	}
	if !Within(7e6, 30, 0.1, 1) || Within(7e6, 30, 0.1, 0.1) || !Within(14e6, 27, 0.07, 0.1) || Within(14e6, 29, 0.07, 1) {
		t.Error("30 V/m on the average of a tenth of the time are 95 V/m while the key is down")
	}
	// At 100 W and a tenth of the time the peak decides on 40 m, and nothing but the average on 20 m.
	if got, want := Far(100, 0.05, 7e6), 2*math.Sqrt(30*100*1.64)/83; math.Abs(got-want) > 1e-9 {
		t.Errorf("%v m, want %v", got, want)
	}
	if got, want := Far(100, 0.1, 14e6), 2*math.Sqrt(30*10*1.64)/28; math.Abs(got-want) > 1e-9 {
		t.Errorf("%v m, want %v", got, want)
	}
	for _, r := range Held {
		if v, a := r.Levels(14); v <= 0 || a <= 0 || r.Year < 1990 || r.Name == "" {
			t.Errorf("%+v", r)
		}
	}
	if Keyed("cw") != 0.4 || Keyed("unheard of") != 1 {
		t.Error("duties")
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
