package sky

import (
	"math"
	"testing"
	"time"

	"reed/core/place"
)

var isles = place.Point{Lat: 46.5, Lon: -12}

func at(month time.Month, hour int) time.Time {
	return time.Date(2026, month, 15, hour, 0, 0, 0, time.UTC)
}

func state(f, km float64, month time.Month, hour int, sunspots float64) string {
	return Foretell(Ask{isles, Path{60, km}, f, at(month, hour), sunspots, 10, ModeNamed("cw"), ""}).State
}

// What everyone knows of the bands, by a sun that is high or low, quiet or active. Noon stands at 13 UTC there.
func TestTheCommonFacts(t *testing.T) {
	for _, c := range []struct {
		says     string
		f, km    float64
		month    time.Month
		hour     int
		sunspots float64
		want     string
	}{
		{"40 m carries near by day", 7.1e6, 400, 4, 13, 60, Open},
		{"80 m by day is swallowed", 3.6e6, 1500, 6, 13, 60, Weak},
		{"80 m at night carries", 3.6e6, 800, 3, 22, 60, Open},
		{"40 m at night carries far", 7.1e6, 1800, 4, 23, 60, Open},
		{"10 m is dead after dark", 28.4e6, 2500, 1, 23, 150, Shut},
		{"15 m is dead after dark", 21.2e6, 2500, 1, 24, 60, Shut},
		{"10 m is dead at low sunspots", 28.4e6, 2500, 1, 13, 5, Shut},
		{"10 m is open at noon with many", 28.4e6, 3500, 10, 13, 170, Open},
		{"20 m is open far by day", 14.1e6, 2500, 4, 13, 60, Open},
		{"20 m skips what is near", 14.1e6, 200, 4, 13, 60, Shut},
		{"30 m near goes through at night", 10.12e6, 150, 1, 4, 20, Shut},
	} {
		if got := state(c.f, c.km, c.month, c.hour, c.sunspots); got != c.want {
			h := Foretell(Ask{isles, Path{60, c.km}, c.f, at(c.month, c.hour), c.sunspots, 10, ModeNamed("cw"), ""})
			t.Errorf("%s: %s, not %s (MUF %.1f MHz, %.0f dB lost, %.0f dB over)", c.says, got, c.want, h.MUF/1e6, h.Lost, h.Over)
		}
	}
}

func TestWhatGoesStraightUpComesBackBelowTheCriticalFrequency(t *testing.T) {
	for h := range 24 {
		when := at(9, h)
		fo, muf := FoF2(isles, when, 80), MUF(isles, 0, 1, when, 80)
		if f2 := math.Max(fo, FoE(isles, when, 80)); math.Abs(muf/f2-1) > 0.01 {
			t.Errorf("at %d: overhead %.2f MHz, critical %.2f", h, muf/1e6, fo/1e6)
		}
		if fo < 2e6 || fo > 14e6 {
			t.Errorf("at %d foF2 is %.1f MHz", h, fo/1e6)
		}
	}
}

func TestAHopLeavesAtTheAngleOfItsTriangle(t *testing.T) {
	flat := math.Atan2(300, 50) * 180 / math.Pi // over 100 km the earth is flat
	if got := TakeOff(100, 300e3); math.Abs(got-flat) > 1 {
		t.Errorf("%.1f degrees, a flat earth's %.1f", got, flat)
	}
	if got := TakeOff(3840, 300e3); got > 1 { // the tangent by 300 km: 2 R acos(R/(R+h)) = 3840 km
		t.Errorf("the longest hop leaves at %.1f degrees", got)
	}
	if h := HopsOver(9000); h.N != 3 || math.Abs(h.KM-3000) > 1e-9 {
		t.Errorf("%+v", h)
	}
}

func TestAbsorptionFallsWithFrequencyAndIsNoneAtNight(t *testing.T) {
	last := math.Inf(1)
	for _, f := range []float64{3.6e6, 7.1e6, 14.1e6, 28.4e6} {
		got := Absorbed(isles, 90, HopsOver(1000), f, at(6, 13), 60)
		if got >= last || got <= 0 {
			t.Errorf("%.1f MHz: %.1f dB after %.1f", f/1e6, got, last)
		}
		last = got
		if night := Absorbed(isles, 90, HopsOver(1000), f, at(12, 1), 60); night != 0 {
			t.Errorf("%.1f dB at night", night)
		}
	}
	// By hand: overhead sun, straight up, 5 MHz, no sunspots: 677.2/(6.4^1.98 + 10.2).
	noon := place.Point{Lat: 0, Lon: 0}
	want := 677.2 / (math.Pow(6.4, 1.98) + 10.2)
	if got := Absorbed(noon, 0, HopsOver(1), 5e6, time.Date(2026, 3, 20, 12, 7, 0, 0, time.UTC), 0); math.Abs(got/want-1) > 0.01 {
		t.Errorf("%.2f dB overhead, by hand %.2f", got, want)
	}
}

func TestFluxAndSunspotsAgree(t *testing.T) {
	for _, r := range []float64{0, 25, 90, 180} {
		if got := Sunspots(63.7 + 0.728*r + 0.00089*r*r); math.Abs(got-r) > 1e-6 {
			t.Errorf("%v comes back as %v", r, got)
		}
	}
}

func BenchmarkDay(b *testing.B) {
	for b.Loop() {
		for h := range 24 {
			state(14.1e6, 2000, 4, h, 60)
		}
	}
}

// ITU-R P.372, by its formula at 7 MHz: 43.8 dB over kT0 in the countryside, 53.4 in a city; the galaxy is the floor.
func TestNoiseByWhatIsAround(t *testing.T) {
	kT0 := -204.0
	for id, want := range map[string]float64{"rural": 43.79, "city": 53.39, "residential": 49.09} {
		s, _ := SurroundingNamed(id)
		if got := s.Noise(7e6, 1) - kT0; math.Abs(got-want) > 0.02 {
			t.Errorf("%s: %.2f dB, want %.2f", id, got, want)
		}
	}
	quiet, _ := SurroundingNamed("quiet")
	if got, floor := quiet.Noise(28e6, 1)-kT0, 52-23*math.Log10(28); math.Abs(got-floor) > 1e-9 {
		t.Errorf("%.2f dB, the galaxy's %.2f", got, floor)
	}
	if _, ok := SurroundingNamed("loud"); ok {
		t.Error("loud is known")
	}
}
