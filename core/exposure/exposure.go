// Package exposure is how strong a field people may be exposed to, and how far off that is in the far field. It does not
// replace an authority's procedure.
package exposure

import (
	"fmt"
	"math"
	"strings"

	"reed/core/numeric"
)

// Rules is a set of reference levels for the general public: effective field strengths in V/m and A/m at a frequency in megahertz,
// averaged over the time that the set says.
type Rules struct {
	Name   string
	Year   int
	Levels func(mhz float64) (volts, amps float64)
}

// Held are the sets that are held, the strictest of which decides at each frequency. Above 30 MHz they are taken as level, which
// errs to the safe side up to 54 MHz.
var Held = []Rules{
	{"ICNIRP", 2020, func(mhz float64) (volts, amps float64) { return 300 / math.Pow(mhz, 0.7), 2.2 / mhz }}, // table 5
	{"FCC 47 CFR 1.1310", 1996, func(mhz float64) (volts, amps float64) {
		if mhz < 1.34 {
			return 614, 1.63
		}
		return 824 / mhz, 2.19 / mhz
	}},
	{"EU 1999/519/EC", 1999, func(mhz float64) (volts, amps float64) { // annex III, table 2
		if mhz < 10 {
			return 87 / math.Sqrt(math.Max(mhz, 1)), 0.73 / mhz
		}
		return 28, 0.073
	}},
}

// Names lists the sets in a sentence, each with its year where its name has none.
func Names() string {
	var out []string
	for _, r := range Held {
		name := r.Name
		if name == "ICNIRP" {
			name += fmt.Sprintf(" %d", r.Year)
		}
		out = append(out, name)
	}
	return strings.Join(out[:len(out)-1], ", ") + " and " + out[len(out)-1]
}

// Limits are the field strengths in V/m and A/m, averaged over time, at f hertz that the general public may be exposed to by the
// strictest of the sets.
func Limits(f float64) (volts, amps float64) {
	volts, amps = math.Inf(1), math.Inf(1)
	for _, r := range Held {
		v, a := r.Levels(math.Min(f/1e6, 30))
		volts, amps = math.Min(volts, v), math.Min(amps, a)
	}
	return volts, amps
}

// Peak are the field strengths in V/m and A/m that may not be passed at any moment at f hertz, whatever their average: up to 10 MHz,
// for the nerves (ICNIRP 2020, table 8; the same levels as ICNIRP 2010, table 4). Above, there are none.
func Peak(f float64) (volts, amps float64) {
	if f <= 10e6 {
		return 83, 21
	}
	return math.Inf(1), math.Inf(1)
}

// Within reports whether fields of so many V/m and A/m, averaged over time, are allowed at f hertz where the key is down for a share
// of the time.
func Within(f, volts, amps, duty float64) bool {
	v, a := Limits(f)
	pv, pa := Peak(f)
	down := math.Sqrt(math.Max(duty, 1e-3))
	return volts <= v && amps <= a && volts/down <= pv && amps/down <= pa
}

// Duty is the share of the time that the full power is assumed to be sent, in any mode: Raise, Scout and the forecast give the same
// distance to the same person.
const Duty = 0.5

// modes are the shares of the full power that ways of sending give while one sends: CW 0.4, SSB without processing 0.2, digital all
// (FCC OET 65, supplement B, 2001, table 4).
var modes = map[string]float64{"cw": 0.4, "ssb": 0.2, "digital": 1}

// Keyed is the share of the full power that a way of sending gives while one sends; an unknown one counts as digital.
func Keyed(mode string) float64 {
	if share, ok := modes[mode]; ok {
		return share
	}
	return 1
}

// Far is the distance in metres at which the far field of a half-wave dipole doubled by the ground, with all the power in
// watts times a duty, is within the limits, and within the peak one with the key down.
func Far(powerW, duty, f float64) float64 {
	volts, _ := Limits(f)
	peak, _ := Peak(f)
	field := func(watts float64) float64 { return 2 * math.Sqrt(30*watts*1.64) } // at 1 m
	out := field(powerW*duty) / volts
	if powerW*duty > 0 {
		out = math.Max(out, field(powerW)/peak)
	}
	return out
}

// Ring is the distance in metres from the conductor of a ring of a radius beyond which the magnetic field of its current,
// in effective amperes, is within the limit (Biot and Savart): outward in its plane, square to it, and along its axis.
func Ring(radius, amps, f float64) float64 {
	_, limit := Limits(f)
	worst := func(d float64) float64 {
		h := math.Max(ringField(radius, amps, radius+d, 0), ringField(radius, amps, radius, d))
		if d > radius {
			h = math.Max(h, ringField(radius, amps, 0, math.Sqrt(d*d-radius*radius)))
		}
		return h
	}
	const touch, most = 0.01, 30.0
	if worst(touch) <= limit {
		return touch
	}
	d, ok := numeric.Bisect(func(d float64) float64 { return worst(d) - limit }, touch, most, 0)
	if !ok {
		return most
	}
	return d
}

// ringField is the magnetic field in A/m of a ring's level current at a distance from its axis and above its plane.
func ringField(radius, amps, off, up float64) float64 {
	const n = 96
	var radial, along float64
	for i := range n {
		sin, cos := math.Sincos(2 * math.Pi * (float64(i) + 0.5) / n)
		dx, dy := off-radius*cos, -radius*sin
		r3 := math.Pow(dx*dx+dy*dy+up*up, 1.5)
		// dl is along (-sin, cos, 0).
		radial += cos * up / r3
		along += (-sin*dy - cos*dx) / r3
	}
	scale := amps * radius / (2 * n)
	return math.Hypot(radial*scale, along*scale)
}
