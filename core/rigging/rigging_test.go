package rigging

import (
	"math"
	"strings"
	"testing"

	"reed/core/antenna"
	"reed/core/quantity"
)

func TestPublicLimitsAreThePublishedOnes(t *testing.T) {
	for f, want := range map[float64][2]float64{7e6: {300 / math.Pow(7, 0.7), 824.0 / 7}, 28e6: {29.1, 29.4}, 50e6: {27.7, 27.5}} {
		i, c := Limits(f)
		if math.Abs(i-want[0]) > 0.1 || math.Abs(c-want[1]) > 0.1 {
			t.Errorf("%v Hz: %.1f and %.1f V/m, want %v", f, i, c, want)
		}
	}
}

func TestExposureGrowsWithTheRootOfPower(t *testing.T) {
	// At 28 MHz and 400 W the field, not the floor, decides: 2 sqrt(30*400*1.64)/29.1 = 9.6 m.
	if d := ExposureDistance(400, 1, 28e6); math.Abs(d-9.64) > 0.05 {
		t.Errorf("400 W at 28 MHz: %.2f m", d)
	}
	if r := ExposureDistance(400, 1, 28e6) / ExposureDistance(100, 1, 28e6); math.Abs(r-2) > 1e-9 {
		t.Errorf("four times the power is %v times the distance", r)
	}
	if d := ExposureDistance(0.1, 0.5, 14e6); d < 0.3 {
		t.Errorf("nobody is told to touch the wire: %v m", d)
	}
}

func TestFallCircleHoldsEverything(t *testing.T) {
	p := antenna.Design(antenna.Request{Shape: antenna.Shape{Family: "end-fed", Variant: "sloper", FrequencyHz: 14.1e6, FarHeight: quantity.Metres(6)}})
	r := FallRadius(p.Drawing)
	if r < p.Shape.Radiator.M || r > 1.5*p.Shape.Radiator.M {
		t.Errorf("radius %v for a wire of %v", r, p.Shape.Radiator.M)
	}
	if v := EndVoltage(100); math.Abs(v-1000) > 1 {
		t.Errorf("100 W into 5 kilohm peaks at %v V, want 1000", v)
	}
}

func TestCautionsNameTheDangersOfTheFamily(t *testing.T) {
	codes := func(s antenna.Shape, power float64) string {
		d, _ := s.Layout()
		var out []string
		for _, c := range Cautions(s, d, power) {
			out = append(out, c.Code)
		}
		return strings.Join(out, " ")
	}
	ef := antenna.Design(antenna.Request{Shape: antenna.Shape{Family: "end-fed", Variant: "sloper", FrequencyHz: 14.1e6}}).Shape
	if got := codes(ef, 10); got != "power-lines storm low-ends end-voltage exposure wind" {
		t.Errorf("end-fed at 10 W: %s", got)
	}
	dp := antenna.Design(antenna.Request{Shape: antenna.Shape{Family: "dipole", Variant: "flat", FrequencyHz: 14.1e6}}).Shape
	if got := codes(dp, 0); got != "power-lines storm wind" {
		t.Errorf("high dipole, power unknown: %s", got)
	}
}
