package rigging

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/numeric"
	"reed/core/quantity"
)

func TestExposureGrowsWithTheRootOfPower(t *testing.T) {
	// At 28 MHz and 400 W the field, not the floor, decides: 2 sqrt(30*400*1.64)/28 = 10.0 m.
	if d := ExposureDistance(400, 1, 28e6); math.Abs(d-10.02) > 0.05 {
		t.Errorf("400 W at 28 MHz: %.2f m", d)
	}
	if r := ExposureDistance(400, 1, 28e6) / ExposureDistance(100, 1, 28e6); math.Abs(r-2) > 1e-9 {
		t.Errorf("four times the power is %v times the distance", r)
	}
	if d := ExposureDistance(10, 0.5, 7e6); d < 1 {
		t.Errorf("10 W at 7 MHz: %v m is too near the wire for a far-field figure", d)
	}
	if d := ExposureDistance(0.1, 0.5, 14e6); d < 0.3 {
		t.Errorf("nobody is told to touch the wire: %v m", d)
	}
}

func TestFallCircleHoldsEverything(t *testing.T) {
	p := family.Design(antenna.Request{Shape: antenna.Shape{Family: "end-fed", Variant: "sloper",
		FrequencyHz: 14.1e6}.With(antenna.FarHeight, quantity.Metres(6))})
	r := FallRadius(p.Drawing)
	// The pole stands at the far end and may fall away from the feed: its distance and its height.
	rise := p.Shape.FarHeight().M - p.Shape.FeedHeight().M
	away := math.Sqrt(p.Shape.Radiator().M*p.Shape.Radiator().M - rise*rise)
	if math.Abs(r-1.1*(away+6)) > 1e-6 {
		t.Errorf("radius %v, want %v", r, 1.1*(away+6))
	}
	if _, v := family.Of((antenna.Shape{Family: "end-fed"})).Hot(100); math.Abs(v-1000) > 1 {
		t.Errorf("100 W into 5000 ohm: %v V peak, want 1000", v)
	}
}

func TestCautionsNameTheDangersOfTheFamily(t *testing.T) {
	codes := func(s antenna.Shape, power float64) string {
		d, _ := family.Of(s).Layout()
		var out []string
		for _, c := range Cautions(s, d, power, quantity.SI) {
			out = append(out, c.Code)
		}
		return strings.Join(out, " ")
	}
	ef := family.Design(antenna.Request{Shape: antenna.Shape{Family: "end-fed", Variant: "sloper", FrequencyHz: 14.1e6}}).Shape
	if got := codes(ef, 10); got != "power-lines storm low-ends end-voltage exposure wind" {
		t.Errorf("end-fed at 10 W: %s", got)
	}
	dp := family.Design(antenna.Request{Shape: antenna.Shape{Family: "dipole", Variant: "flat", FrequencyHz: 14.1e6}}).Shape
	if got := codes(dp, 0); got != "power-lines storm wind" {
		t.Errorf("high dipole, power unknown: %s", got)
	}
}

func TestEveryCautionHasToBeConfirmedByItself(t *testing.T) {
	all := []Caution{{Code: "storm"}, {Code: "wind"}}
	for want, confirmed := range map[int][]string{2: {"power-lines"}, 1: {"wind", "wind"}, 0: {"wind", "storm", "more"}} {
		if got := Open(all, confirmed); got != want {
			t.Errorf("%v leaves %d open, want %d", confirmed, got, want)
		}
	}
}

func TestEveryFamilyNamesItsOwnDanger(t *testing.T) {
	for _, c := range []struct{ family, variant, code string }{
		{"small-loop", "upright", "loop-field"}, {"small-loop", "upright", "end-voltage"}, {"loaded-whip", "ground-radials", "end-voltage"},
		{"j-pole", "upright", "end-voltage"}, {"fence-wire", "wired", "fence"}, {"end-fed-loaded", "sloper", "end-voltage"},
		{"random-wire", "flat", "end-voltage"},
	} {
		p := family.Design(antenna.Request{Shape: antenna.Shape{Family: c.family, Variant: c.variant, FrequencyHz: 7.1e6}, PowerW: 25})
		found := false
		for _, x := range Cautions(p.Shape, p.Drawing, 25, quantity.SI) {
			found = found || x.Code == c.code && x.Text != ""
		}
		if !found {
			t.Errorf("%s %s says nothing of %s", c.family, c.variant, c.code)
		}
	}
	// A voltage is told in tens, upward.
	for _, x := range Cautions(antenna.Shape{Family: "end-fed", Variant: "flat", FrequencyHz: 7.1e6}, antenna.Drawing{}, 25, quantity.SI) {
		if x.Code == "end-voltage" && x.Figure != "up to 500 V at 25 W" {
			t.Errorf("%q", x.Figure)
		}
	}
	p := family.Design(antenna.Request{Shape: antenna.Shape{Family: "dipole", Variant: "flat", FrequencyHz: 7.1e6}})
	if _, volts := family.Of(p.Shape).Hot(100); volts != 0 {
		t.Errorf("a dipole's feed is said to bear %v V", volts)
	}
}

func TestFloorsOfTheExposureDistance(t *testing.T) {
	// Above five watts not below a twelfth of a wave (a reactive near field): at 1.9 MHz lambda/(4 pi) is 12.6 m.
	if d := ExposureDistance(6, 1, 1.9e6); math.Abs(d-numeric.Light/1.9e6/(4*math.Pi)) > 1e-9 {
		t.Errorf("6 W at 1.9 MHz: %v m", d)
	}
	if d := ExposureDistance(5, 1, 1.9e6); d >= 12 {
		t.Errorf("5 W at 1.9 MHz: %v m", d)
	}
	if d := ExposureDistance(1, 1, 28e6); d != 1 {
		t.Errorf("one watt: %v m", d)
	}
	if d := ExposureDistance(0.01, 1, 28e6); d != 0.3 {
		t.Errorf("ten milliwatts: %v m", d)
	}
}

func TestLowEndsAreThoseBelowTwoAndAHalfMetres(t *testing.T) {
	for height, want := range map[float64]int{0.1: 0, 0.2: 1, 2.49: 1, 2.5: 0, 3: 0} {
		d := antenna.Drawing{Lines: []antenna.Line{{Role: "radiator", From: antenna.Point{0, 0, 6}, To: antenna.Point{9, 0, height}}}}
		if got := LowEnds(d); got != want {
			t.Errorf("an end %v m up: %d, want %d", height, got, want)
		}
	}
}

func TestTheDistanceToKeepIsTheComputedOneRoundedUp(t *testing.T) {
	s := family.Design(antenna.Request{Shape: antenna.Shape{Family: "dipole", Variant: "flat", FrequencyHz: 14.1e6}}).Shape
	d, _ := family.Of(s).Layout()
	for _, c := range Cautions(s, d, 10, quantity.SI) {
		if c.Code != "exposure" {
			continue
		}
		var m float64
		if _, err := fmt.Sscanf(c.Figure, "stay %f m away", &m); err != nil {
			t.Fatalf("%q: %v", c.Figure, err)
		}
		if exact := ExposureDistance(10, 0.5, 14.1e6); m < exact || m > exact+0.11 {
			t.Errorf("%q, computed %v m", c.Figure, exact)
		}
		return
	}
	t.Error("no distance is told")
}
