package place

import (
	"math"
	"time"
)

// Sun times of one UTC day at one place. Up or Down says that the sun does not cross the horizon then.
type Sun struct {
	Rise time.Time `json:"rise,omitzero"`
	Set  time.Time `json:"set,omitzero"`
	Up   bool      `json:"up,omitempty"`
	Down bool      `json:"down,omitempty"`
}

// SunOn gives the sunrise and sunset whose solar noon falls on the UTC date of day. (NOAA solar
// calculator equations after Meeus 1991; horizon at -0.833 degrees for refraction and the disc.)
func SunOn(p Point, day time.Time) Sun {
	return below(p, day, horizon)
}

const (
	horizon  = -0.833
	civil    = -6.0
	nautical = -12.0
)

// Twilight are the hours at which the sun stands so far below the horizon that one sees to walk and to tie knots (civil, 6
// degrees), and that a horizon at sea is still visible (nautical, 12 degrees).
type Twilight struct {
	Civil    Sun `json:"civil"`
	Nautical Sun `json:"nautical"`
}

// TwilightOn gives both for the solar day of SunOn.
func TwilightOn(p Point, day time.Time) Twilight {
	return Twilight{Civil: below(p, day, civil), Nautical: below(p, day, nautical)}
}

// Toward is the point so many kilometres from another along a great circle that sets out at a bearing in degrees.
func Toward(p Point, bearing, km float64) Point {
	a, b, c := rad(p.Lat), rad(bearing), 1000*km/EarthRadius
	lat := math.Asin(math.Sin(a)*math.Cos(c) + math.Cos(a)*math.Sin(c)*math.Cos(b))
	lon := p.Lon + deg(math.Atan2(math.Sin(b)*math.Sin(c)*math.Cos(a), math.Cos(c)-math.Sin(a)*math.Sin(lat)))
	return Point{Lat: deg(lat), Lon: math.Mod(lon+540, 360) - 180}
}

// below is when the sun's middle crosses an elevation in degrees.
func below(p Point, day time.Time, elevation float64) Sun {
	y, m, d := day.UTC().Date()
	noon := time.Date(y, m, d, 12, 0, 0, 0, time.UTC).Add(-time.Duration(p.Lon * 4 * float64(time.Minute)))
	rise, polarUp, polarDown := crossing(p, noon, -1, elevation)
	set, _, _ := crossing(p, noon, 1, elevation)
	if polarUp || polarDown {
		return Sun{Up: polarUp, Down: polarDown}
	}
	return Sun{Rise: rise, Set: set}
}

func crossing(p Point, noon time.Time, sign, elevation float64) (at time.Time, up, down bool) {
	at = noon
	for range 4 { // the declination moves with the time sought, so the answer is fed back
		decl, eot := solar(at)
		c := (math.Sin(rad(elevation)) - math.Sin(rad(p.Lat))*math.Sin(rad(decl))) / (math.Cos(rad(p.Lat)) * math.Cos(rad(decl)))
		if c < -1 {
			return noon, true, false
		}
		if c > 1 {
			return noon, false, true
		}
		minutes := -eot + sign*4*deg(math.Acos(c))
		at = noon.Add(time.Duration(minutes * float64(time.Minute)))
	}
	return at.Round(time.Second), false, false
}

// solar gives the declination in degrees and the equation of time in minutes.
func solar(t time.Time) (declination, equationOfTime float64) {
	c := (float64(t.Unix())/86400 + 2440587.5 - 2451545) / 36525
	l0 := math.Mod(280.46646+c*(36000.76983+c*0.0003032), 360)
	m := 357.52911 + c*(35999.05029-0.0001537*c)
	e := 0.016708634 - c*(0.000042037+0.0000001267*c)
	centre := math.Sin(rad(m))*(1.914602-c*(0.004817+0.000014*c)) + math.Sin(rad(2*m))*(0.019993-0.000101*c) + math.Sin(rad(3*m))*0.000289
	omega := 125.04 - 1934.136*c
	lambda := l0 + centre - 0.00569 - 0.00478*math.Sin(rad(omega))
	eps := 23 + (26+(21.448-c*(46.815+c*(0.00059-c*0.001813)))/60)/60 + 0.00256*math.Cos(rad(omega))
	declination = deg(math.Asin(math.Sin(rad(eps)) * math.Sin(rad(lambda))))
	y := math.Pow(math.Tan(rad(eps/2)), 2)
	equationOfTime = 4 * deg(y*math.Sin(2*rad(l0))-2*e*math.Sin(rad(m))+4*e*y*math.Sin(rad(m))*math.Cos(2*rad(l0))-
		0.5*y*y*math.Sin(4*rad(l0))-1.25*e*e*math.Sin(2*rad(m)))
	return declination, equationOfTime
}

// Elevation is the sun's height over the horizon in degrees, without refraction.
func Elevation(p Point, t time.Time) float64 {
	decl, eot := solar(t)
	u := t.UTC()
	minutes := float64(u.Hour()*60+u.Minute()) + float64(u.Second())/60 + eot + 4*p.Lon
	ha := minutes/4 - 180
	return deg(math.Asin(math.Sin(rad(p.Lat))*math.Sin(rad(decl)) + math.Cos(rad(p.Lat))*math.Cos(rad(decl))*math.Cos(rad(ha))))
}
