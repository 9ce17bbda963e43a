// Package circuit holds the lumped and line circuits between the radio and the wire: reflection and SWR,
// coax loss, and resonators. Impedances in ohms, frequencies in hertz, losses in positive decibels.
package circuit

import (
	"math"
	"math/cmplx"
)

// Gamma is the voltage reflection coefficient of z against a real reference z0 (definition).
func Gamma(z complex128, z0 float64) complex128 {
	if cmplx.IsInf(z) {
		return 1
	}
	return (z - complex(z0, 0)) / (z + complex(z0, 0))
}

// Impedance is the inverse of Gamma.
func Impedance(gamma complex128, z0 float64) complex128 {
	if gamma == 1 {
		return cmplx.Inf()
	}
	return complex(z0, 0) * (1 + gamma) / (1 - gamma)
}

// MaxSWR is the SWR returned for total reflection and above.
const MaxSWR = 9999

// SWR is the standing wave ratio of a reflection magnitude (definition), at most MaxSWR.
func SWR(mag float64) float64 {
	if mag >= 1 {
		return MaxSWR
	}
	return math.Min(MaxSWR, (1+mag)/(1-mag))
}

// Magnitude is the reflection magnitude of a standing wave ratio (definition). Ratios under 1 count as 1.
func Magnitude(swr float64) float64 {
	if swr <= 1 {
		return 0
	}
	return (swr - 1) / (swr + 1)
}

// ReturnLoss is -20 log10 of the reflection magnitude, in dB, never over 80.
func ReturnLoss(mag float64) float64 {
	if mag < 1e-4 {
		return 80
	}
	return -20 * math.Log10(mag)
}

// Series is a series resonator: the first-order picture of an antenna near its half-wave resonance.
type Series struct{ R, L, C float64 }

// SeriesAt makes the series resonator with resistance r, resonant at f0 with quality factor q = 2 pi f0 L/r.
func SeriesAt(f0, r, q float64) Series {
	l := q * r / (2 * math.Pi * f0)
	return Series{R: r, L: l, C: 1 / (math.Pow(2*math.Pi*f0, 2) * l)}
}

// Z is the resonator's impedance at f.
func (s Series) Z(f float64) complex128 {
	w := 2 * math.Pi * f
	return complex(s.R, w*s.L-1/(w*s.C))
}
