package quantity

import (
	"fmt"
	"math"
)

// System is the units in which somebody reads lengths.
type System bool

const (
	SI         System = false // metres, centimetres and millimetres
	FeetInches System = true
)

// In is the system in which a bare length of a form is typed: "ft" is feet, all else metres.
func In(unit string) System { return unit == "ft" }

// Unit returns the unit of a bare length.
func (s System) Unit() string {
	if s == FeetInches {
		return "ft"
	}
	return "m"
}

// Long prints metres as one measures wire: to the centimetre or the sixteenth of an inch.
func (s System) Long(m float64) string {
	if s == FeetInches {
		return Imperial(m, 16)
	}
	return Metric(m, 10)
}

// Fine prints metres as one measures a coil: to the tenth of a millimetre below 10 cm, the millimetre above, or the
// thirty-second of an inch.
func (s System) Fine(m float64) string {
	switch {
	case s == FeetInches:
		return Imperial(m, 32)
	case math.Abs(m) < 0.1:
		return fmt.Sprintf("%.1f mm", m*1000)
	}
	return Metric(m, 1)
}

// Small prints metres as one sets a tap: to the tenth of a millimetre or the thirty-second of an inch.
func (s System) Small(m float64) string {
	if s == FeetInches {
		return Imperial(m, 32)
	}
	return fmt.Sprintf("%.1f mm", m*1000)
}

// Amount prints metres as one folds or cuts them: to a step in millimetres and at least one, or to the eighth of an
// inch.
func (s System) Amount(m float64, stepMM int) string {
	if s == FeetInches {
		return Imperial(m, 8)
	}
	step := float64(stepMM) / 1000
	return Metric(math.Max(math.Round(m/step)*step, step), stepMM)
}

// Exact prints metres to the millimetre or the sixteenth of an inch.
func (s System) Exact(m float64) string {
	if s == FeetInches {
		return Imperial(m, 16)
	}
	return Metric(m, 1)
}

// Whole prints a round number of metres, or the nearest feet.
func (s System) Whole(m float64) string {
	if s == FeetInches {
		return fmt.Sprintf("%.0f ft", m/(12*Inch))
	}
	return fmt.Sprintf("%.0f m", m)
}

// Rough prints metres as one paces them out: to the decimetre or the inch.
func (s System) Rough(m float64) string {
	if s == FeetInches {
		return Imperial(math.Round(m/Inch)*Inch, 8)
	}
	return Metric(m, 100)
}
