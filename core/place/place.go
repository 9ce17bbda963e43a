// Package place answers where and when: grid locators, positions as typed, great-circle distance and
// bearing, and the sun. Angles are in degrees, north and east positive; distances in metres.
package place

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
)

// EarthRadius is the mean radius in metres (IUGG 1980, R1); the earth is taken as a sphere.
const EarthRadius = 6371008.8

// Point is a position in degrees.
type Point struct {
	Lat float64 `json:"lat"`
	Lon float64 `json:"lon"`
}

// ParseLocator reads a grid locator of 4, 6, 8 or 10 characters in any case and returns the centre of
// its square. (Locator system: IARU Region 1, Maidenhead 1980.)
func ParseLocator(s string) (Point, error) {
	u := strings.ToUpper(strings.TrimSpace(s))
	bad := func(what string) (Point, error) {
		return Point{}, fmt.Errorf("%q is not a grid locator: %s; write it like IN36 or IN36ab", s, what)
	}
	if n := len(u); n != 4 && n != 6 && n != 8 && n != 10 {
		return bad("it has to have 4, 6, 8 or 10 characters")
	}
	lon, lat, w, h := -180.0, -90.0, 360.0, 180.0
	for i := 0; i < len(u); i += 2 {
		base, div := byte('0'), 10.0
		if i%4 == 0 {
			base, div = 'A', 24
			if i == 0 {
				div = 18
			}
		}
		a, b := float64(int(u[i])-int(base)), float64(int(u[i+1])-int(base))
		if a < 0 || a >= div || b < 0 || b >= div {
			return bad(fmt.Sprintf("%q cannot stand at place %d", u[i:i+2], i+1))
		}
		w, h = w/div, h/div
		lon, lat = lon+a*w, lat+b*h
	}
	return Point{Lat: lat + h/2, Lon: lon + w/2}, nil
}

// Locator writes the locator of p with n characters (4, 6, 8 or 10; else 6).
func Locator(p Point, n int) string {
	if n != 4 && n != 8 && n != 10 {
		n = 6
	}
	// A place on a border, which binary fractions miss by a hair, belongs to the square that begins there.
	const hair = 1e-12
	x, y := math.Mod(p.Lon+180, 360)/360+hair, (p.Lat+90)/180+hair
	if x < 0 {
		x++
	}
	y = math.Min(math.Max(y, 0), math.Nextafter(1, 0))
	var b strings.Builder
	for i := 0; i < n; i += 2 {
		base, div := byte('0'), 10.0
		if i%4 == 0 {
			base, div = 'A', 24
			if i == 0 {
				div = 18
			} else if i >= 4 {
				base = 'a'
			}
		}
		x, y = x*div, y*div
		b.WriteByte(base + byte(math.Min(x, div-1)))
		b.WriteByte(base + byte(math.Min(y, div-1)))
		x, y = x-math.Floor(x), y-math.Floor(y)
	}
	return b.String()
}

var (
	hemisphere = regexp.MustCompile(`(?i)^([^NSEW]*)([NS])[\s,;]*([^NSEW]*)([EW])$`)
	hemiFirst  = regexp.MustCompile(`(?i)^([NS])([^NSEW]*?)[\s,;]*([EW])([^NSEW]*)$`)
	plainPair  = regexp.MustCompile(`^([+-]?\d+(?:[.]\d+)?)(?:\s*[,;]\s*|\s+)([+-]?\d+(?:[.]\d+)?)$`)
	commaPair  = regexp.MustCompile(`^([+-]?\d+,\d+)(?:\s*;\s*|\s+)([+-]?\d+,\d+)$`)
	dms        = regexp.MustCompile(`^\s*(\d+(?:[.,]\d+)?)\s*(?:°|\s|$)\s*(?:(\d+(?:[.,]\d+)?)\s*(?:'|′|\s|$)\s*)?` +
		`(?:(\d+(?:[.,]\d+)?)\s*(?:"|″|$)\s*)?$`)
)

// ParsePosition reads a locator, decimal degrees ("46.5, -12.0"), or degrees with hemispheres, also with
// minutes and seconds ("46°30'N 12°0'30\"W").
func ParsePosition(s string) (Point, error) {
	t := strings.TrimSpace(s)
	bad := func(what string) (Point, error) {
		return Point{}, fmt.Errorf("%q is not a place: %s; write IN36ab, or 46.5 N 12.0 W, or 46.5, -12.0", s, what)
	}
	var lat, lon float64
	var err error
	if m := hemisphere.FindStringSubmatch(t); m != nil {
		lat, lon, err = signedPair(m[1], m[2], m[3], m[4])
	} else if m := hemiFirst.FindStringSubmatch(t); m != nil {
		lat, lon, err = signedPair(m[2], m[1], m[4], m[3])
	} else if m := plainPair.FindStringSubmatch(t); m != nil {
		lat, lon = decimal(m[1]), decimal(m[2])
	} else if m := commaPair.FindStringSubmatch(t); m != nil {
		lat, lon = decimal(m[1]), decimal(m[2])
	} else {
		return ParseLocator(t)
	}
	switch {
	case err != nil:
		return bad(err.Error())
	case math.Abs(lat) > 90:
		return bad(fmt.Sprintf("latitude %v is beyond 90 degrees", lat))
	case math.Abs(lon) > 180:
		return bad(fmt.Sprintf("longitude %v is beyond 180 degrees", lon))
	}
	return Point{Lat: lat, Lon: lon}, nil
}

func decimal(s string) float64 {
	v, _ := strconv.ParseFloat(strings.Replace(s, ",", ".", 1), 64)
	return v
}

func signedPair(lat, ns, lon, ew string) (float64, float64, error) {
	a, err := angle(lat)
	if err != nil {
		return 0, 0, err
	}
	b, err := angle(lon)
	if err != nil {
		return 0, 0, err
	}
	if strings.EqualFold(ns, "S") {
		a = -a
	}
	if strings.EqualFold(ew, "W") {
		b = -b
	}
	return a, b, nil
}

func angle(s string) (float64, error) {
	m := dms.FindStringSubmatch(strings.TrimSpace(s))
	if m == nil {
		return 0, fmt.Errorf("%q is not an angle in degrees", strings.TrimSpace(s))
	}
	d, min, sec := decimal(m[1]), decimal(m[2]), decimal(m[3])
	if min >= 60 || sec >= 60 {
		return 0, fmt.Errorf("%q has 60 or more minutes or seconds", strings.TrimSpace(s))
	}
	return d + min/60 + sec/3600, nil
}

func rad(d float64) float64 { return d * math.Pi / 180 }
func deg(r float64) float64 { return r * 180 / math.Pi }

// Distance is the great-circle distance in metres on a sphere (haversine).
func Distance(a, b Point) float64 {
	dLat, dLon := rad(b.Lat-a.Lat), rad(b.Lon-a.Lon)
	h := math.Pow(math.Sin(dLat/2), 2) + math.Cos(rad(a.Lat))*math.Cos(rad(b.Lat))*math.Pow(math.Sin(dLon/2), 2)
	return 2 * EarthRadius * math.Asin(math.Min(1, math.Sqrt(h)))
}

// Apart is the angle between two directions in degrees, 0 to 180.
func Apart(a, b float64) float64 {
	d := math.Mod(math.Abs(a-b), 360)
	return math.Min(d, 360-d)
}

// Bearing is the initial great-circle bearing from a to b in degrees, 0 to 360 from north.
func Bearing(a, b Point) float64 {
	dLon := rad(b.Lon - a.Lon)
	y := math.Sin(dLon) * math.Cos(rad(b.Lat))
	x := math.Cos(rad(a.Lat))*math.Sin(rad(b.Lat)) - math.Sin(rad(a.Lat))*math.Cos(rad(b.Lat))*math.Cos(dLon)
	return math.Mod(deg(math.Atan2(y, x))+360, 360)
}
