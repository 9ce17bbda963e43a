// Package scout answers before an outing what fits a site, when, with what is in the bag, and whether it is safe.
package scout

import (
	"math"
	"strings"
	"time"

	"reed/core/band"
	"reed/core/bulletin"
	"reed/core/clock"
	"reed/core/entry"
	"reed/core/place"
	"reed/core/site"
	"reed/core/sky"
)

// Weights set how much each criterion counts: 1 is usual, 0 is nothing. A decibel of signal weighs as much as five minutes of setting
// up, a kilogram carried for a quarter of an hour, twenty metres of wire, or a hundred square metres of ground.
type Weights struct {
	Signal  float64 `json:"signal"`
	Minutes float64 `json:"minutes"`
	Weight  float64 `json:"weight"`
	Wire    float64 `json:"wire"`
	Space   float64 `json:"space"`
	Trust   float64 `json:"trust"`
}

// Usual are the default weights.
var Usual = Weights{1, 1, 1, 1, 1, 1}

// Far is a place to reach.
type Far struct {
	Bearing float64 `json:"bearing"`
	KM      float64 `json:"km"`
}

// Purpose is the goal of an outing. NearKM, Far and Anywhere exclude each other; with none of them it is anywhere. Times are
// UTC, HH:MM; High are those of high water.
type Purpose struct {
	Date         string    `json:"date"`
	From         string    `json:"from,omitempty"`
	Until        string    `json:"until,omitempty"`
	MHz          []float64 `json:"frequencies_mhz"`
	NearKM       float64   `json:"near_km,omitempty"`
	Far          *Far      `json:"far,omitempty"`
	Mode         string    `json:"mode,omitempty"`
	PowerW       float64   `json:"power_w,omitempty"`
	Sunspots     *float64  `json:"sunspots,omitempty"`
	Alone        bool      `json:"alone,omitempty"`
	SetupMinutes float64   `json:"setup_minutes,omitempty"`
	CarryMinutes float64   `json:"carry_minutes,omitempty"`
	MostKG       float64   `json:"most_kg,omitempty"`
	WindMS       float64   `json:"wind_ms,omitempty"`
	Celsius      *float64  `json:"celsius,omitempty"`
	Storm        bool      `json:"storm,omitempty"`
	Bulletin     string    `json:"bulletin,omitempty"` // as typed or pasted; what stands in a field of its own goes before it
	High         []string  `json:"high_water,omitempty"`
	Weights      *Weights  `json:"weights,omitempty"`
	// Foot is where the first pole has to stand, in metres east and north; anywhere where it is nil.
	Foot *site.Spot `json:"foot,omitempty"`
}

// farthestFoot is how far in metres from where a site was paced a pole is put.
const farthestFoot = 2000.0

// usualSunspots are those of a middling year, usualPower the watts of a portable radio.
const (
	usualSunspots = 70.0
	usualPower    = 10.0
	mostBands     = 8
	packing       = 0.6 // of the time of setting up, for taking down
)

func (p Purpose) bulletin() bulletin.Bulletin {
	b, _ := bulletin.Read(p.Bulletin)
	return b
}

func (p Purpose) sunspots() float64 {
	if p.Sunspots != nil {
		return *p.Sunspots
	}
	if n, ok := p.bulletin().Spots(); ok {
		return n
	}
	return usualSunspots
}

// wind returns the strongest wind in m/s, 0 where none is given: a typed one does not hide the bulletin's gusts.
func (p Purpose) wind() float64 {
	v, _ := p.bulletin().Blows()
	return math.Max(v, p.WindMS)
}

// warmth returns the lowest and highest temperature in degrees C; ok is false where none is given.
func (p Purpose) warmth() (low, high float64, ok bool) {
	b := p.bulletin()
	switch {
	case p.Celsius != nil:
		return *p.Celsius, *p.Celsius, true
	case b.Low != nil && b.High != nil:
		return *b.Low, *b.High, true
	}
	return 0, 0, false
}

func (p Purpose) power() float64 {
	if p.PowerW <= 0 {
		return usualPower
	}
	return p.PowerW
}

func (p Purpose) weights() Weights {
	if p.Weights == nil {
		return Usual
	}
	return *p.Weights
}

// hertz are the wanted frequencies.
func (p Purpose) hertz() (out []float64) {
	for _, f := range p.MHz {
		out = append(out, f*1e6)
	}
	return out
}

// at returns a time of its day; ok is false where none is given.
func (p Purpose) at(text string) (time.Time, bool) {
	day, err := time.Parse(time.DateOnly, p.Date)
	t, err2 := clock.Parse(text)
	if err != nil || err2 != nil {
		return time.Time{}, false
	}
	return t.On(day), true
}

// window returns its begin and end: the whole day where none is given. One that ends before it begins ends on the day
// after.
func (p Purpose) window() (from, until time.Time) {
	day, _ := time.Parse(time.DateOnly, p.Date)
	from, ok := p.at(p.From)
	if !ok {
		from = day
	}
	if until, ok = p.at(p.Until); !ok {
		until = day.Add(24 * time.Hour)
	}
	if !until.After(from) {
		until = until.Add(24 * time.Hour)
	}
	return from, until
}

// Check says what of it cannot be, by field.
func (p Purpose) Check() (out []entry.Fault) {
	bad := func(path, format string, args ...any) { out = append(out, entry.Say(path, "error", format, args...)) }
	if _, err := time.Parse(time.DateOnly, p.Date); err != nil {
		bad("date", "%q is not a date; write it like 2026-05-16", p.Date)
	}
	times := map[string]string{"from": p.From, "until": p.Until}
	for path, text := range times {
		if _, err := clock.Parse(text); text != "" && err != nil {
			bad(path, "%s", err)
		}
	}
	last := clock.Time(-1)
	for _, text := range p.High {
		t, err := clock.Parse(text)
		switch {
		case err != nil:
			bad("high_water", "%q is not a time; write high waters like 01:10 13:35, in UTC", text)
			continue
		case last >= 0 && t-last < 10*60:
			bad("high_water", "two high waters within %s: they come about 12 and a half hours apart",
				(time.Duration(t-last) * time.Minute).String())
		}
		last = t
	}
	if len(p.MHz) == 0 || len(p.MHz) > mostBands {
		bad("frequencies_mhz", "name one to %d bands or frequencies, like 7.1 14.06", mostBands)
	}
	for _, f := range p.hertz() {
		if _, ok := band.At(1, f); !ok {
			if _, ok := band.At(2, f); !ok {
				bad("frequencies_mhz", "%.4g MHz is in no amateur band", f/1e6)
			}
		}
	}
	limits := []struct {
		path      string
		v, lo, hi float64
	}{{"near_km", p.NearKM, 0, 4000}, {"power_w", p.PowerW, 0, 1500}, {"sunspots", p.sunspots(), 0, 400}, {"wind_ms", p.WindMS, 0, 60},
		{"most_kg", p.MostKG, 0, 200}, {"setup_minutes", p.SetupMinutes, 0, 600}, {"carry_minutes", p.CarryMinutes, 0, 600}}
	if p.Far != nil {
		limits = append(limits, []struct {
			path      string
			v, lo, hi float64
		}{{"far.km", p.Far.KM, 1, 20000}, {"far.bearing", p.Far.Bearing, 0, 360}}...)
	}
	for _, l := range limits {
		if math.IsNaN(l.v) || l.v < l.lo || l.v > l.hi {
			bad(l.path, "%.4g lies outside of %.4g to %.4g", l.v, l.lo, l.hi)
		}
	}
	if f := p.Foot; f != nil && !(math.Hypot(f[0], f[1]) <= farthestFoot) {
		bad("foot", "the pole cannot stand %.0f m from where the site was paced", math.Hypot(f[0], f[1]))
	}
	_, said := bulletin.Read(p.Bulletin)
	out = append(out, said...)
	if p.Far != nil && p.NearKM > 0 {
		bad("near_km", "near and far at once: choose one")
	}
	return out
}

// paths are the ways that signals are to go, as samples of what it is for.
func (p Purpose) paths() (out []sky.Path) {
	switch {
	case p.Far != nil:
		return []sky.Path{{Bearing: p.Far.Bearing, KM: p.Far.KM}}
	case p.NearKM > 0:
		for b := 0.0; b < 360; b += 60 {
			for _, share := range []float64{0.35, 0.7, 1} {
				out = append(out, sky.Path{Bearing: b + 60*share, KM: p.NearKM * share})
			}
		}
		return out
	}
	for b := 0.0; b < 360; b += 60 {
		for _, km := range []float64{800, 1600, 2800} {
			out = append(out, sky.Path{Bearing: b + km/60, KM: km})
		}
	}
	return out
}

// targetSays describes the target.
func (p Purpose) targetSays() string {
	switch {
	case p.Far != nil:
		return strings.TrimSpace(sayKM(p.Far.KM) + " towards " + degrees(p.Far.Bearing))
	case p.NearKM > 0:
		return "all round up to " + sayKM(p.NearKM)
	}
	return "anywhere, 800 to 2800 km"
}

// Hours foretells the wanted bands for each hour of the outing: for every path, and of all the best. Noise is the ID of what
// is around.
func (p Purpose) Hours(at place.Point, noise string) []BandHours {
	from, until := p.window()
	spots := p.sunspots()
	var out []BandHours
	for _, f := range p.hertz() {
		b := BandHours{MHz: f / 1e6}
		for t := from.Truncate(time.Hour); t.Before(until); t = t.Add(time.Hour) {
			h := BandHour{At: t}
			for _, path := range p.paths() {
				one := sky.Foretell(sky.Ask{From: at, Path: path, F: f, At: t.Add(30 * time.Minute), Sunspots: spots, PowerW: p.power(),
					Mode: sky.ModeNamed(p.Mode), Noise: noise})
				h.paths = append(h.paths, one)
			}
			h.sum(0)
			b.Hours = append(b.Hours, h)
		}
		b.says()
		out = append(out, b)
	}
	return out
}
