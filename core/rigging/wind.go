package rigging

import (
	"math"

	"reed/core/numeric"
)

// Pole is a pole for the wind: so far up in metres, with its diameters in metres at the foot and where it ends.
type Pole struct{ Height, Foot, Tip float64 }

// Load is the load of a wind on a pole: the force in newtons, its moment about the foot in newton metres, and the pull in
// newtons on the one guy of three that lies against it.
type Load struct{ Force, Moment, Guy float64 }

const (
	airDensity = 1.225 // kg/m3, at sea level and 15 degrees C (ISO 2533)
	drag       = 1.2   // of a round pole at the speeds and sizes of the field (Hoerner 1965)
	guyAt      = 2.0 / 3
)

// Blow is the load of a wind in m/s: half rho Cd A v^2 on every metre of it, guyed at two thirds of its height by guys that
// lead away at 45 degrees.
func Blow(p Pole, wind float64) Load {
	var out Load
	rule := numeric.Legendre(4)
	for i, t := range rule.X {
		f := 0.5 * airDensity * drag * wind * wind * (p.Foot + (p.Tip-p.Foot)*t) * p.Height * rule.W[i]
		out.Force += f
		out.Moment += f * t * p.Height
	}
	if p.Height > 0 {
		out.Guy = out.Moment / (guyAt * p.Height) * math.Sqrt2
	}
	return out
}

// LowerTo is the height in metres to which a pole must come down for a wind to load its foot no more than its rated moment.
func LowerTo(p Pole, wind, rating float64) float64 {
	if Blow(p, wind).Moment <= rating {
		return p.Height
	}
	h, _ := numeric.Bisect(func(h float64) float64 {
		q := p
		q.Height, q.Tip = h, p.Foot+(p.Tip-p.Foot)*h/p.Height
		return Blow(q, wind).Moment - rating
	}, 0, p.Height, 0.01)
	return h
}
