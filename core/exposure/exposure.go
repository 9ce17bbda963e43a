// Package exposure is how strong a field people may be exposed to, and how far off that is in the far field. It does not
// replace an authority's procedure.
package exposure

import (
	"math"

	"reed/core/numeric"
)

// Limits are the effective field strengths in V/m and A/m at f hertz that the general public may be exposed to: the
// stricter of ICNIRP 2020 (table 5) and FCC (47 CFR 1.1310). Above 30 MHz both are level.
func Limits(f float64) (volts, amps float64) {
	mhz := math.Min(f/1e6, 30)
	icnirp, fcc := 300/math.Pow(mhz, 0.7), 824/mhz
	fccH := 2.19 / mhz
	if f < 1.34e6 {
		fcc, fccH = 614, 1.63
	}
	return math.Min(icnirp, fcc), math.Min(2.2/mhz, fccH)
}

// Duty is the share of the time that the key is taken to be down.
const Duty = 0.5

// DutyOf is the share of the time that a way of sending gives its full power, sent half of the time: CW 0.4 of that, SSB
// without processing 0.2, digital all (FCC OET 65, supplement B, 2001, table 4); an unknown one counts as digital.
func DutyOf(mode string) float64 {
	switch mode {
	case "cw":
		return 0.4 * Duty
	case "ssb":
		return 0.2 * Duty
	}
	return Duty
}

// Far is the distance in metres at which the far field of a half-wave dipole doubled by the ground, with all the power in
// watts times a duty, is within the limits.
func Far(powerW, duty, f float64) float64 {
	volts, _ := Limits(f)
	return 2 * math.Sqrt(30*powerW*duty*1.64) / volts
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
