package rigging

import "math"

// Cell is a battery: its charge in ampere-hours, its voltage at rest, its inner resistance in ohms, and the fuse at its pole in
// amperes, 0 where there is none.
type Cell struct{ AmpHours, Volts, Ohms, Fuse float64 }

// Draw holds a radio's current in amperes.
type Draw struct{ Receive, Transmit float64 }

// gives is the share of a battery's charge that comes out before its voltage falls too far, and in the cold it gives a fifth
// less (as makers of lead and lithium cells tabulate it about freezing).
const (
	gives = 0.8
	cold  = 0.8
)

// Hours is how long a cell feeds a radio that sends for a share of the time, at so many degrees C; 0 where too little is known.
func (c Cell) Hours(d Draw, sending, celsius float64) float64 {
	mean := sending*d.Transmit + (1-sending)*d.Receive
	if mean <= 0 || c.AmpHours <= 0 {
		return 0
	}
	out := gives * c.AmpHours / mean
	if celsius <= 2 {
		out *= cold
	}
	return out
}

// Under is the voltage under a load in amperes, with so many ohms of leads: it sags by the current through both (Ohm).
func (c Cell) Under(amps, leads float64) float64 { return math.Max(0, c.Volts-amps*(c.Ohms+leads)) }

// Sag is how far in metres a wire of so many grams a metre hangs through in the middle of a level span in metres, pulled with a
// force in newtons: a catenary, a (cosh(L/2a) - 1) with a the pull over the weight of a metre (Bernoulli 1691).
func Sag(span, gramsPerM, pull float64) float64 {
	const g = 9.80665
	w := gramsPerM / 1000 * g
	if span <= 0 || w <= 0 || pull <= 0 {
		return 0
	}
	a := pull / w
	return a * (math.Cosh(span/(2*a)) - 1)
}
