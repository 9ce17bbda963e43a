// Package sky says which bands carry over a path at an hour, by a rule of thumb: critical frequencies from the sun's height
// and activity, the highest frequency that a hop returns, what the D layer swallows, and what is left of a signal over the
// noise. It knows no storms and no day's own mood: a day differs from it by a third of a frequency and ten decibels.
package sky

import (
	"math"
	"time"

	"reed/core/numeric"
	"reed/core/place"
)

// Sunspots is the smoothed sunspot number that goes with a solar flux at 10.7 cm in solar flux units: the inverse of
// F = 63.7 + 0.728 R + 0.00089 R^2 (Stewart and Leftin 1972).
func Sunspots(flux float64) float64 {
	const a, b, c = 0.00089, 0.728, 63.7
	if flux <= c {
		return 0
	}
	return (-b + math.Sqrt(b*b+4*a*(flux-c))) / (2 * a)
}

// cosZenith is the cosine of the sun's distance from the zenith.
func cosZenith(p place.Point, at time.Time) float64 {
	return math.Sin(place.Elevation(p, at) * math.Pi / 180)
}

// FoE is the E layer's critical frequency in Hz, by day: 0.9 ((180 + 1.44 R) cos chi)^0.25 MHz (Rawer and Bilitza 1990,
// after Muggleton 1975), with 0.5 MHz left at night.
func FoE(p place.Point, at time.Time, sunspots float64) float64 {
	c := cosZenith(p, at)
	if c <= 0 {
		return 0.5e6
	}
	return math.Max(0.5, 0.9*math.Pow((180+1.44*sunspots)*c, 0.25)) * 1e6
}

// lagging is the sun's height over the F layer as the layer follows it: at once where the sun is low at noon, later where it
// is high, and falling off with two hours after sunset (Rose, Martin and Levine 1978).
func lagging(p place.Point, at time.Time) float64 {
	const step = 10 * time.Minute
	noon := 0.0
	for h := range 24 {
		noon = math.Max(noon, cosZenith(p, at.Add(time.Duration(h-12)*time.Hour)))
	}
	day := math.Max(0.1, 9.7*math.Pow(noon, 9.6)) // hours
	y := 0.0
	for t := at.Add(-36 * time.Hour); t.Before(at); t = t.Add(step) {
		c, hours := cosZenith(p, t), 2.0
		if c > 0 {
			hours = day
		}
		y += (math.Max(c, 0) - y) * (1 - math.Exp(-step.Hours()/hours))
	}
	return math.Max(y, 0)
}

// FoF2 is the F2 layer's critical frequency in Hz: (1 + R/250) sqrt(6 + 58 sqrt(cos chi)) MHz with the lagging sun (Rose,
// Martin and Levine 1978, NOSC TR 186).
func FoF2(p place.Point, at time.Time, sunspots float64) float64 {
	return (1 + sunspots/250) * math.Sqrt(6+58*math.Sqrt(lagging(p, at))) * 1e6
}

const (
	f2Height = 300e3
	eHeight  = 110e3
	dHeight  = 100e3
	longest  = 4000.0 // km that one hop by the F2 layer spans
)

// Hop is the way of a signal: how many hops of so many kilometres, and the angle over the horizon in degrees at which it
// leaves, for an F2 layer 300 km up on a round earth.
type Hop struct {
	N       int     `json:"hops"`
	KM      float64 `json:"km"`
	TakeOff float64 `json:"take_off"`
}

// HopsOver are the fewest hops that reach so far.
func HopsOver(km float64) Hop {
	n := max(1, int(math.Ceil(km/longest)))
	each := km / float64(n)
	return Hop{n, each, TakeOff(each, f2Height)}
}

// TakeOff is the angle over the horizon in degrees of a hop of so many kilometres by a layer so many metres up, not below 0.
func TakeOff(km, height float64) float64 {
	const r = place.EarthRadius
	half := km * 1000 / 2 / r
	if half < 1e-6 {
		return 90
	}
	return math.Max(0, math.Atan2(math.Cos(half)-r/(r+height), math.Sin(half))*180/math.Pi)
}

// incidence is the secant of the angle at which a ray that left at an angle meets a layer.
func incidence(takeOff, height float64) float64 {
	const r = place.EarthRadius
	s := r * math.Cos(takeOff*math.Pi/180) / (r + height)
	return 1 / math.Sqrt(1-s*s)
}

// reflections are the points at which a path of an hour is decided: the middle of one hop, or 2000 km from either end.
func reflections(from place.Point, bearing, km float64) []place.Point {
	if km <= longest {
		return []place.Point{place.Toward(from, bearing, km/2)}
	}
	return []place.Point{place.Toward(from, bearing, longest/2), place.Toward(from, bearing, km-longest/2)}
}

// MUF is the highest frequency in Hz that a path returns half of the days: foF2 times 1 + 2.5 sin(2.5 psi)^1.5 with psi the
// hop's part of the earth's round (Rose, Martin and Levine 1978), at the worse of its reflections, and by the E layer where
// that returns more.
func MUF(from place.Point, bearing, km float64, at time.Time, sunspots float64) float64 {
	hop := HopsOver(km)
	psi := math.Min(hop.KM*1000/place.EarthRadius, 0.63)
	factor := 1 + 2.5*math.Pow(math.Sin(2.5*psi), 1.5)
	out := math.Inf(1)
	for _, p := range reflections(from, bearing, km) {
		f2 := FoF2(p, at, sunspots) * factor
		if hop.KM <= 2000 {
			f2 = math.Max(f2, FoE(p, at, sunspots)*incidence(TakeOff(hop.KM, eHeight), eHeight))
		}
		out = math.Min(out, f2)
	}
	return out
}

// Absorbed returns the D-layer absorption over a path in dB: 677.2 sec(i) (1 + 0.0037 R) cos(0.881 chi)^1.3 /
// ((f + 1.4)^1.98 + 10.2) a hop, f in MHz (Lucas and Haydon 1966).
func Absorbed(from place.Point, bearing, km, f float64, at time.Time, sunspots float64) float64 {
	hop := HopsOver(km)
	sum := 0.0
	for i := range hop.N {
		p := place.Toward(from, bearing, hop.KM*(float64(i)+0.5))
		chi := 90 - place.Elevation(p, at)
		if c := math.Cos(0.881 * chi * math.Pi / 180); chi < 102 && c > 0 {
			sum += 677.2 * incidence(hop.TakeOff, dHeight) * (1 + 0.0037*sunspots) * math.Pow(c, 1.3) / (math.Pow(f/1e6+1.4, 1.98) + 10.2)
		}
	}
	return sum
}

// Surrounding is how noisy a place is by what people run there: c - d log10(f/MHz) dB over kT0 (ITU-R P.372).
type Surrounding struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	c, d float64
}

// Surroundings lists them, the quietest first.
func Surroundings() []Surrounding {
	return []Surrounding{{"quiet", "far from everything", 53.6, 28.6}, {"rural", "countryside", 67.2, 27.7},
		{"residential", "houses near", 72.5, 27.7}, {"city", "in a city", 76.8, 27.7}}
}

// SurroundingNamed finds one; the countryside where nothing is said.
func SurroundingNamed(id string) (Surrounding, bool) {
	for _, s := range Surroundings() {
		if s.ID == id || id == "" && s.ID == "rural" {
			return s, true
		}
	}
	return Surrounding{}, false
}

// Noise is the noise power in dBW in a width in hertz, as made by man, never below the galaxy's 52 - 23 log10(f/MHz) over
// kT0 (ITU-R P.372).
func (s Surrounding) Noise(f, width float64) float64 {
	l := math.Log10(f / 1e6)
	return math.Max(s.c-s.d*l, 52-23*l) - 204 + 10*math.Log10(width)
}

// Mode is how much of a signal a way of sending needs: the width in hertz in which noise counts, and how many decibels over
// it.
type Mode struct {
	ID, Name    string
	Width, Need float64
}

// Modes are the ways of sending by what they need.
func Modes() []Mode {
	return []Mode{{"cw", "CW", 500, 3}, {"ssb", "SSB", 2700, 10}, {"digital", "slow digital", 2500, -18}}
}

// ModeNamed finds a mode, CW where it is not known.
func ModeNamed(id string) Mode {
	for _, m := range Modes() {
		if m.ID == id {
			return m
		}
	}
	return Modes()[0]
}

// Kinds of an hour.
const (
	Open    = "open"
	Perhaps = "perhaps" // near the highest frequency: some days
	Shut    = "shut"    // it goes through the layer
	Weak    = "weak"    // it comes back too weak
)

// Hour is the prediction for a band over a path at an hour. Over is the decibels that a signal keeps over what its mode needs
// between antennas without gain.
type Hour struct {
	At      time.Time `json:"at"`
	State   string    `json:"state"`
	MUF     float64   `json:"muf_hz"`
	Lost    float64   `json:"absorbed_db"`
	Over    float64   `json:"over_db"`
	TakeOff float64   `json:"take_off"`
	Bearing float64   `json:"bearing"`
}

// Path is where a signal is to go: so far at a bearing in degrees.
type Path struct{ Bearing, KM float64 }

// Ask is an hour of a band for a power in watts.
type Ask struct {
	From     place.Point
	Path     Path
	F        float64
	At       time.Time
	Sunspots float64
	PowerW   float64
	Mode     Mode
	Noise    string // of a surrounding, by its ID
}

// others is the loss by fading, polarisation and the ground between hops in dB (ITU-R P.533 takes 9.9 for what it does not
// name).
const (
	others = 9.9
	bounce = 3.0
	likely = 0.85 // of the median highest frequency: nine days in ten
	seldom = 1.15
)

// Foretell says what to expect.
func Foretell(a Ask) Hour {
	hop := HopsOver(a.Path.KM)
	out := Hour{At: a.At, MUF: MUF(a.From, a.Path.Bearing, a.Path.KM, a.At, a.Sunspots), TakeOff: hop.TakeOff, Bearing: a.Path.Bearing,
		Lost: Absorbed(a.From, a.Path.Bearing, a.Path.KM, a.F, a.At, a.Sunspots)}
	slant := float64(hop.N) * 2 * math.Hypot(hop.KM*1000/2, f2Height)
	spread := 20 * math.Log10(4*math.Pi*slant*a.F/numeric.Light)
	around, _ := SurroundingNamed(a.Noise)
	out.Over = 10*math.Log10(a.PowerW) - spread - out.Lost - others - bounce*float64(hop.N-1) - around.Noise(a.F, a.Mode.Width) - a.Mode.Need
	switch {
	case a.F > seldom*out.MUF:
		out.State = Shut
	case out.Over < 0:
		out.State = Weak
	case a.F > likely*out.MUF:
		out.State = Perhaps
	default:
		out.State = Open
	}
	return out
}
