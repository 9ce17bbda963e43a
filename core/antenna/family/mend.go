package family

import (
	"fmt"
	"math"
)

// reference is the resistance in ohms that a match is counted against.
const reference = 50

// Match describes a match that is off, as swept: R in ohms at the lowest SWR, its frequency in hertz, and whether
// the radials are raised.
type Match struct {
	R, Hz  float64
	Raised bool
}

// Low and High say that a resistance is so far off that one knows which way to go.
func (m Match) Low() bool  { return m.R < 33 }
func (m Match) High() bool { return m.R > 75 }

// Ratio is that of a transformer's impedances which brings it to 50 ohm, as far as one winds it.
func (m Match) Ratio() string {
	if m.R > reference {
		return fmt.Sprintf("%.0f:1", m.R/reference)
	}
	return fmt.Sprintf("1:%.0f", reference/math.Max(m.R, 1))
}

// Hairpin is the inductance in henries across the feed of an antenna set a little short, so that its capacitance
// and the coil together lift its resistance to 50 ohm: an L section, X = 50/Q with Q = sqrt(50/R - 1).
func (m Match) Hairpin() float64 {
	q := math.Sqrt(reference/m.R - 1)
	return reference / q / (2 * math.Pi * m.Hz)
}

// Mend says what brings the resistance to 50 ohm, in the way of the antenna's kind.
func (f Family) Mend(m Match) string {
	is := fmt.Sprintf("R is %.0f ohm", m.R)
	if f.mend != nil {
		return is + f.mend(m)
	}
	return is + ": a tuner, or a transformer of about " + m.Ratio() + ", brings it to 50."
}

// What mends the match of several families.

func mendEndFed(m Match) string {
	if m.High() {
		return " at the radio's side: a higher transformer ratio or a longer counterpoise brings it down."
	}
	return " at the radio's side: a lower transformer ratio brings it up."
}

func mendUpright(m Match) string {
	switch {
	case m.Low():
		return ": slope raised radials further down, or accept it; it is low loss, not a fault."
	case m.Raised && m.High():
		return ": raised radials of about a half-wave feed it so; cut a pair to a quarter-wave of this band."
	case m.Raised:
		return ": slope the radials less."
	}
	return ": more radials lower the loss in the ground."
}

func mendLoaded(m Match) string {
	if m.Low() && m.R > 0 {
		return fmt.Sprintf(": a coil of %.2g uH across the feed, with the whip set a little shorter, or a transformer of about %s brings it "+
			"to 50.", m.Hairpin()*1e6, m.Ratio())
	}
	return ": that much is mostly loss in coil and ground; more radials lower it."
}

func mendLegs(m Match) string {
	if m.Low() {
		return ": raise it, or open the angle between the legs."
	}
	return ": an inverted V or a 1:1 choke with a match brings it down."
}
