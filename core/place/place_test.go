package place

import (
	"math"
	"strings"
	"testing"
	"time"
)

func TestLocatorsGoBothWays(t *testing.T) {
	for loc, want := range map[string]Point{
		"IN36": {46.5, -13}, "JJ00aa": {0.0208333, 0.0416667}, "AA00aa00aa": {-90 + 0.5/24/240, -180 + 1.0/24/240},
		"RR99xx":   {89.97916, 179.95833},
		"IN46ab12": {46 + 1.0/24 + 2.5/240, -12 + 1.5/120},
	} {
		p, err := ParseLocator(loc)
		if err != nil || math.Abs(p.Lat-want.Lat) > 1e-4 || math.Abs(p.Lon-want.Lon) > 1e-4 {
			t.Errorf("%s = %v, %v; want %v", loc, p, err, want)
		}
		if back := Locator(p, len(loc)); back != loc {
			t.Errorf("%s came back as %s", loc, back)
		}
	}
	for _, bad := range []string{"", "IN3", "SS00", "IN36zz", "I136", "IN36ab1", "ÄÖ12"} {
		if _, err := ParseLocator(bad); err == nil {
			t.Errorf("%q accepted", bad)
		}
	}
}

func TestPositionsAsTyped(t *testing.T) {
	for _, s := range []string{"46.5 N 12.25 W", "46.5N, 12.25W", "46.5, -12.25", "46.5 -12.25", "46,5; -12,25", `46°30'N 12°15'0"W`,
		"N 46.5 W 12.25", "46 30 N 12 15 W", "n46.5,w12.25"} {
		p, err := ParsePosition(s)
		if err != nil || math.Abs(p.Lat-46.5) > 1e-9 || math.Abs(p.Lon+12.25) > 1e-9 {
			t.Errorf("%q = %v, %v", s, p, err)
		}
	}
	for s, part := range map[string]string{"96.5, 12": "beyond 90", "46, 190": "beyond 180", "somewhere": "locator",
		"46 70 N 12 W": "60 or more"} {
		if _, err := ParsePosition(s); err == nil || !strings.Contains(err.Error(), part) {
			t.Errorf("%q: %v, want %q", s, err, part)
		}
	}
}

func TestDistanceAndBearingOnKnownArcs(t *testing.T) {
	quarter := math.Pi / 2 * EarthRadius
	if d := Distance(Point{0, 0}, Point{0, 90}); math.Abs(d-quarter) > 1 {
		t.Errorf("a quarter of the equator is %v, want %v", d, quarter)
	}
	if d := Distance(Point{0, 179}, Point{0, -179}); math.Abs(d-quarter/45) > 1 {
		t.Errorf("across the date line: %v", d)
	}
	if b := Bearing(Point{0, 0}, Point{10, 0}); math.Abs(b) > 1e-9 {
		t.Errorf("north is %v", b)
	}
	if b := Bearing(Point{0, 0}, Point{0, -10}); math.Abs(b-270) > 1e-9 {
		t.Errorf("west is %v", b)
	}
	a, b := Point{46.5, -12}, Point{12, 77}
	if math.Abs(Distance(a, b)-Distance(b, a)) > 1e-6 {
		t.Error("distance is not symmetric")
	}
}

func TestSunAgainstAlmanac(t *testing.T) {
	// Equinox and solstice times from the spherical definition, computed apart by bisection of Elevation.
	for _, c := range []struct {
		p   Point
		day string
	}{{Point{46.5, -12}, "2026-06-21"}, {Point{0, 0}, "2026-03-20"}, {Point{60, 25}, "2026-12-21"}, {Point{-35, 149}, "2026-11-02"},
		{Point{51.4779, 0}, "2026-01-15"}} {
		day, _ := time.Parse(time.DateOnly, c.day)
		sun := SunOn(c.p, day)
		for _, at := range []time.Time{sun.Rise, sun.Set} {
			if e := Elevation(c.p, at); math.Abs(e+0.833) > 0.05 {
				t.Errorf("%v %s: elevation at %s is %.3f, want -0.833", c.p, c.day, at, e)
			}
		}
		if !sun.Rise.Before(sun.Set) {
			t.Errorf("%v: rises %s after it sets %s", c.p, sun.Rise, sun.Set)
		}
	}
	// Published: sunset at 51.4779 N 0 E on 2026-06-21 is 20:21 UTC, sunrise 03:43 UTC.
	sun := SunOn(Point{51.4779, 0}, time.Date(2026, 6, 21, 0, 0, 0, 0, time.UTC))
	if got := sun.Rise.Round(time.Minute).Format("15:04") + " " + sun.Set.Round(time.Minute).Format("15:04"); got != "03:43 20:21" &&
		got != "03:43 20:22" {
		t.Errorf("midsummer at 51.5 N: %s", got)
	}
	if s := SunOn(Point{75, 20}, time.Date(2026, 6, 21, 0, 0, 0, 0, time.UTC)); !s.Up {
		t.Errorf("midnight sun not seen: %+v", s)
	}
	if s := SunOn(Point{75, 20}, time.Date(2026, 12, 21, 0, 0, 0, 0, time.UTC)); !s.Down {
		t.Errorf("polar night not seen: %+v", s)
	}
}

func FuzzParsePosition(f *testing.F) {
	f.Add("46.5 N 12 W")
	f.Add("IN36ab")
	f.Fuzz(func(t *testing.T, s string) {
		if p, err := ParsePosition(s); err == nil && (math.Abs(p.Lat) > 90 || math.Abs(p.Lon) > 180 || p != p) {
			t.Fatalf("%q = %v", s, p)
		}
	})
}

// Published for 50 N 0 E at the equinox of March 2026: civil twilight lasts about 33, nautical about 71 minutes.
func TestTwilightFollowsTheSun(t *testing.T) {
	p := Point{Lat: 50, Lon: 0}
	day := time.Date(2026, 3, 20, 0, 0, 0, 0, time.UTC)
	sun, dusk := SunOn(p, day), TwilightOn(p, day)
	for _, c := range []struct {
		name string
		at   time.Time
		want float64
	}{{"civil", dusk.Civil.Set, 32}, {"nautical", dusk.Nautical.Set, 69}} {
		if got := c.at.Sub(sun.Set).Minutes(); math.Abs(got-c.want) > 2.5 {
			t.Errorf("%s ends %.1f minutes after sunset, not about %.0f", c.name, got, c.want)
		}
	}
	for _, at := range []time.Time{dusk.Civil.Rise, dusk.Civil.Set} {
		if e := Elevation(p, at); math.Abs(e+6) > 0.05 {
			t.Errorf("civil twilight at %.2f degrees", e)
		}
	}
	if far := TwilightOn(Point{Lat: 65, Lon: 0}, time.Date(2026, 6, 20, 0, 0, 0, 0, time.UTC)); !far.Civil.Up {
		t.Error("no white night at 65 degrees north")
	}
}

func TestAPointTowardABearingLiesThere(t *testing.T) {
	from := Point{Lat: 46.5, Lon: -12}
	for _, b := range []float64{0, 77, 180, 301} {
		to := Toward(from, b, 1234)
		if d := Distance(from, to) / 1000; math.Abs(d-1234) > 0.01 {
			t.Errorf("%v degrees: %v km", b, d)
		}
		if got := Bearing(from, to); math.Abs(math.Mod(got-b+540, 360)-180) > 0.01 {
			t.Errorf("%v degrees: %v", b, got)
		}
	}
}
