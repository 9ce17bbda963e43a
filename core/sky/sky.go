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

// Bounds of a hop: the least take-off in degrees that counts, the hop in km that leaves at it, and up to which multiple of that a hop
// is followed at all, at the cost of so many decibels for each that it is longer.
const (
	leastUp = 3.0
	farHop  = 3226.0
	mostHop = 1.5
	stretch = 60.0
	steep   = 400.0
)

// HopsOver returns the fewest hops that leave at three degrees or more.
func HopsOver(km float64) Hop { return hops(km, max(1, int(math.Ceil(km/farHop)))) }

func hops(km float64, n int) Hop {
	each := km / float64(n)
	return Hop{n, each, math.Max(leastUp, TakeOff(each, f2Height))}
}

// Way is one way over a path: its hops, and by how many decibels it loses more than the best one.
type Way struct {
	Hop
	DB float64
}

// Ways returns the fewest hops that may reach so far, and one, two and three more, with what they lose by being long and by the ground
// between them. A hop beyond the one that leaves at three degrees gets weaker by and by, so that nothing changes at a single kilometre.
func Ways(km float64) (out []Way) {
	fewest := max(1, int(math.Ceil(km/(mostHop*farHop))))
	for n := fewest; n < fewest+4; n++ {
		h := hops(km, n)
		over := math.Max(0, h.KM/farHop-1)
		out = append(out, Way{h, bounce*float64(n-1) + stretch*over + steep*over*over})
	}
	return out
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

// layer holds the critical frequencies in Hz over a point where a path is reflected.
type layer struct{ f2, e float64 }

func layersOver(from place.Point, bearing, km float64, at time.Time, sunspots float64) (out []layer) {
	for _, p := range reflections(from, bearing, km) {
		out = append(out, layer{FoF2(p, at, sunspots), FoE(p, at, sunspots)})
	}
	return out
}

// The E layer returns a hop up to the first of these lengths in km, and less and less of it up to the second.
const eFull, eNone = 2000.0, 2500.0

// returned is the highest frequency in Hz that layers return over hops of so many km: foF2 times 1 + 2.5 sin(2.5 psi)^1.5 with psi the
// hop's part of the earth's round (Rose, Martin and Levine 1978), at the worst of them, and by the E layer where that returns more.
func returned(list []layer, km float64) float64 {
	psi := math.Min(km*1000/place.EarthRadius, 0.63)
	factor := 1 + 2.5*math.Pow(math.Sin(2.5*psi), 1.5)
	share := math.Max(0, math.Min(1, (eNone-km)/(eNone-eFull)))
	out := math.Inf(1)
	for _, l := range list {
		out = math.Min(out, math.Max(l.f2*factor, share*l.e*incidence(TakeOff(km, eHeight), eHeight)))
	}
	return out
}

// MUF is the highest frequency in Hz that a path returns half of the days, by the fewest hops. Beyond 4000 km it is decided 2000 km from
// either end.
func MUF(from place.Point, bearing, km float64, at time.Time, sunspots float64) float64 {
	return returned(layersOver(from, bearing, km, at, sunspots), km)
}

// Absorbed returns the D-layer absorption in dB over a path in hops: 677.2 sec(i) (1 + 0.0037 R) cos(0.881 chi)^1.3 /
// ((f + 1.4)^1.98 + 10.2) for each, f in MHz (Lucas and Haydon 1966).
func Absorbed(from place.Point, bearing float64, hop Hop, f float64, at time.Time, sunspots float64) float64 {
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
	Perhaps = "perhaps" // near the highest frequency, or weak by less than ten decibels: some days
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
	// Ways are the ways over the path with what each loses more than the best one.
	Ways []Way   `json:"-"`
	hz   float64 // its frequency
}

// Carries weighs an hour by how often a signal gets through with an antenna without gain, from 1 towards 0: a tenth of it is left ten
// decibels below what is needed, and where the frequency is as far above the highest one as it may be on some days.
func (h Hour) Carries() float64 {
	weak := math.Min(0, h.Over) / someDays
	high := math.Max(0, h.hz/h.MUF-likely) / (seldom - likely)
	return math.Pow(10, weak-high)
}

// With returns the hour as it is with an antenna of so many dBi.
func (h Hour) With(gain float64) Hour {
	h.Over += gain
	switch {
	case h.hz > seldom*h.MUF:
		h.State = Shut
	case h.Over < -someDays:
		h.State = Weak
	case h.Over < 0 || h.hz > likely*h.MUF:
		h.State = Perhaps
	default:
		h.State = Open
	}
	return h
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
	// A day differs from the next by so many decibels.
	someDays = 10.0
	// Above what a way returns it loses so many decibels for each multiple, up to a most.
	through, mostThrough = 50.0, 40.0
)

// Foretell predicts an hour: by the best of the ways over its path.
func Foretell(a Ask) Hour {
	list := layersOver(a.From, a.Path.Bearing, a.Path.KM, a.At, a.Sunspots)
	out := Hour{At: a.At, MUF: returned(list, a.Path.KM), Bearing: a.Path.Bearing, Ways: Ways(a.Path.KM), hz: a.F}
	best := math.Inf(1)
	for i := range out.Ways {
		w := &out.Ways[i]
		slant := float64(w.N) * 2 * math.Hypot(w.KM*1000/2, f2Height)
		lost := Absorbed(a.From, a.Path.Bearing, w.Hop, a.F, a.At, a.Sunspots)
		above := math.Max(0, a.F/(seldom*returned(list, w.KM))-1)
		w.DB += 20*math.Log10(4*math.Pi*slant*a.F/numeric.Light) + lost + math.Min(mostThrough, through*above)
		if w.DB < best {
			best, out.Lost, out.TakeOff = w.DB, lost, w.TakeOff
		}
	}
	for i := range out.Ways {
		out.Ways[i].DB -= best
	}
	around, _ := SurroundingNamed(a.Noise)
	out.Over = 10*math.Log10(a.PowerW) - best - others - around.Noise(a.F, a.Mode.Width) - a.Mode.Need
	return out.With(0)
}
