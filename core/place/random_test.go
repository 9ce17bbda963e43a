package place

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"
	"time"
)

func somewhere(rng *rand.Rand) Point {
	return Point{Lat: -89.9 + 179.8*rng.Float64(), Lon: -180 + 360*rng.Float64()}
}

func TestLocatorsOfRandomPlacesHoldThem(t *testing.T) {
	rng := rand.New(rand.NewPCG(51, 52))
	half := map[int]float64{4: 1, 6: 1.0 / 24, 8: 1.0 / 240, 10: 1.0 / 5760}
	for range 2000 {
		p := somewhere(rng)
		for n, w := range half {
			loc := Locator(p, n)
			q, err := ParseLocator(loc)
			if err != nil || len(loc) != n {
				t.Fatalf("%v: %s, %v", p, loc, err)
			}
			if math.Abs(q.Lon-p.Lon) > w+1e-6 || math.Abs(q.Lat-p.Lat) > w/2+1e-6 {
				t.Fatalf("%v is not in %s, whose middle is %v", p, loc, q)
			}
		}
	}
}

func TestPrintedPositionsReadBack(t *testing.T) {
	rng := rand.New(rand.NewPCG(53, 54))
	for range 1000 {
		p := somewhere(rng)
		ns, ew := "N", "E"
		if p.Lat < 0 {
			ns = "S"
		}
		if p.Lon < 0 {
			ew = "W"
		}
		for _, text := range []string{fmt.Sprintf("%.6f, %.6f", p.Lat, p.Lon),
			fmt.Sprintf("%.6f %s %.6f %s", math.Abs(p.Lat), ns, math.Abs(p.Lon), ew),
			fmt.Sprintf("%s%.6f %s%.6f", ns, math.Abs(p.Lat), ew, math.Abs(p.Lon))} {
			q, err := ParsePosition(text)
			if err != nil || math.Abs(q.Lat-p.Lat) > 1e-6 || math.Abs(q.Lon-p.Lon) > 1e-6 {
				t.Fatalf("%q = %v, %v; want %v", text, q, err, p)
			}
		}
	}
}

func TestGreatCirclesObeyTheTriangle(t *testing.T) {
	rng := rand.New(rand.NewPCG(55, 56))
	for range 1000 {
		a, b, c := somewhere(rng), somewhere(rng), somewhere(rng)
		if Distance(a, c) > Distance(a, b)+Distance(b, c)+1e-6 {
			t.Fatalf("the detour over %v is shorter", b)
		}
		if d := Distance(a, b); d < 0 || d > math.Pi*EarthRadius+1 {
			t.Fatalf("%v to %v: %v m", a, b, d)
		}
		if az := Bearing(a, b); az < 0 || az >= 360 {
			t.Fatalf("bearing %v", az)
		}
	}
}

func TestTheSunStandsHighestAtSolarNoonAllYear(t *testing.T) {
	p := Point{Lat: 46.5, Lon: -12.2}
	for day := range 365 {
		d := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC).AddDate(0, 0, day)
		s := SunOn(p, d)
		noon := s.Rise.Add(s.Set.Sub(s.Rise) / 2)
		if Elevation(p, noon) < Elevation(p, noon.Add(-time.Hour)) || Elevation(p, noon) < Elevation(p, noon.Add(time.Hour)) {
			t.Fatalf("%s: not highest at %s", d.Format(time.DateOnly), noon)
		}
		if length := s.Set.Sub(s.Rise).Hours(); length < 8.3 || length > 16 {
			t.Fatalf("%s: a day of %.1f h at 46.5 degrees", d.Format(time.DateOnly), length)
		}
	}
}
