// Package sweep reads measured curves: where an antenna is resonant, how well and how wide it matches,
// what share of the operator's segments is good enough, and what to do about it.
// Frequencies in hertz, impedances in ohms, reflection against 50 ohm.
package sweep

import (
	"fmt"
	"math"
	"math/cmplx"
	"sort"

	"gonum.org/v1/gonum/interp"

	"reed/core/circuit"
)

// Reference is the impedance in ohms against which SWR is shown.
const Reference = 50.0

// Kinds of curve, by what is known of the reflection.
const (
	Complex   = "complex"   // magnitude and phase
	Unsigned  = "unsigned"  // R and the magnitude of X: cannot tell too long from too short by X
	Magnitude = "magnitude" // SWR or return loss only
)

// Sweep is a measured curve in rising frequency. Re and Im hold the reflection coefficient; for
// Magnitude, Re holds its magnitude and Im is empty.
type Sweep struct {
	Kind string    `json:"kind"`
	F    []float64 `json:"f"`
	Re   []float64 `json:"re"`
	Im   []float64 `json:"im,omitempty"`
	// What is known of single readings: Lowest lists the frequencies at which somebody searched for the lowest SWR and found it,
	// Over those where the meter was at the end of its scale, so that the SWR is at least what stands there. Here says that the
	// others were read where the operator happened to be.
	Lowest []float64 `json:"lowest,omitempty"`
	Over   []float64 `json:"over,omitempty"`
	Here   bool      `json:"here,omitempty"`
}

// as copies what is known of single readings to the same readings at another place.
func (s Sweep) as(o Sweep) Sweep {
	s.Lowest, s.Over, s.Here = o.Lowest, o.Over, o.Here
	return s
}

// Roles of a reading.
const (
	Searched = "lowest" // the lowest SWR that was found
	JustHere = "here"   // read where the operator happened to be
)

// New sorts points by frequency and keeps the first of those with the same frequency. It returns how
// many points were not in order and how many were repeated.
func New(kind string, f []float64, gamma []complex128) (s Sweep, unsorted, repeated int) {
	idx := make([]int, len(f))
	for i := range idx {
		idx[i] = i
		if i > 0 && f[i] < f[i-1] {
			unsorted++
		}
	}
	sort.SliceStable(idx, func(a, b int) bool { return f[idx[a]] < f[idx[b]] })
	s.Kind = kind
	for _, i := range idx {
		if n := len(s.F); n > 0 && s.F[n-1] == f[i] {
			repeated++
			continue
		}
		s.F = append(s.F, f[i])
		if kind == Magnitude {
			s.Re = append(s.Re, cmplx.Abs(gamma[i]))
			continue
		}
		s.Re, s.Im = append(s.Re, real(gamma[i])), append(s.Im, imag(gamma[i]))
	}
	return s, unsorted, repeated
}

// Check reports a sweep that breaks its own form: no points, ragged arrays, frequencies that do not rise.
func (s Sweep) Check() error {
	if s.Kind != Complex && s.Kind != Unsigned && s.Kind != Magnitude {
		return fmt.Errorf("kind %q is not complex, unsigned or magnitude", s.Kind)
	}
	if len(s.F) == 0 {
		return fmt.Errorf("no points")
	}
	if len(s.Re) != len(s.F) || s.Kind != Magnitude && len(s.Im) != len(s.F) {
		return fmt.Errorf("%d frequencies but %d and %d values", len(s.F), len(s.Re), len(s.Im))
	}
	for i, f := range s.F {
		if !(f > 0) || math.IsInf(f, 0) || i > 0 && f <= s.F[i-1] {
			return fmt.Errorf("point %d: frequency %v Hz does not rise above the one before", i+1, f)
		}
		if g := s.mag(i); math.IsNaN(g) || math.IsInf(g, 0) {
			return fmt.Errorf("point %d: not a number", i+1)
		}
	}
	return nil
}

func (s Sweep) mag(i int) float64 {
	if s.Kind == Magnitude {
		return s.Re[i]
	}
	return math.Hypot(s.Re[i], s.Im[i])
}

// AtFeed refers a sweep that was taken at the radio's end of a cable to the feed point: fully with a
// complex curve, by magnitude only otherwise.
func (s Sweep) AtFeed(c circuit.Coax, length float64) Sweep {
	out := Sweep{Kind: s.Kind, F: s.F}.as(s)
	for i, f := range s.F {
		if s.Kind != Complex {
			gain := math.Pow(10, c.MatchedLoss(f, length)/10)
			out.Re = append(out.Re, s.mag(i)*gain)
			continue
		}
		g := c.AtLoad(complex(s.Re[i], s.Im[i]), f, length)
		out.Re, out.Im = append(out.Re, real(g)), append(out.Im, imag(g))
	}
	if s.Kind == Unsigned {
		out.Kind = Magnitude
	}
	return out
}

// AtRadio refers a sweep that was taken at the feed point to the radio's end of a cable: fully with a complex
// curve, by magnitude only otherwise.
func (s Sweep) AtRadio(c circuit.Coax, length float64) Sweep {
	out := Sweep{Kind: s.Kind, F: s.F}.as(s)
	for i, f := range s.F {
		if s.Kind != Complex {
			out.Re = append(out.Re, s.mag(i)*math.Pow(10, -c.MatchedLoss(f, length)/10))
			continue
		}
		g := c.AtInput(complex(s.Re[i], s.Im[i]), f, length)
		out.Re, out.Im = append(out.Re, real(g)), append(out.Im, imag(g))
	}
	if s.Kind == Unsigned {
		out.Kind = Magnitude
	}
	return out
}

// Curve is a sweep made continuous between its first and last point.
type Curve struct {
	s      Sweep
	re, im interp.Predictor
}

// Curve interpolates the complex reflection coefficient, or without phase the square of its magnitude,
// which is smooth where the magnitude itself has a corner at a perfect match.
func (s Sweep) Curve() (Curve, error) {
	if err := s.Check(); err != nil {
		return Curve{}, err
	}
	fit := func(y []float64) (interp.Predictor, error) {
		var p interp.FittablePredictor
		switch {
		case len(s.F) == 1:
			return interp.Constant(y[0]), nil
		case len(s.F) < 5:
			p = &interp.PiecewiseLinear{}
		default:
			p = &interp.AkimaSpline{}
		}
		if len(s.F) == 3 || len(s.F) == 4 {
			p = &interp.FritschButland{}
		}
		return p, p.Fit(s.F, y)
	}
	c := Curve{s: s}
	var err error
	if s.Kind == Complex {
		if c.re, err = fit(s.Re); err == nil {
			c.im, err = fit(s.Im)
		}
		return c, err
	}
	sq := make([]float64, len(s.F))
	for i := range sq {
		sq[i] = math.Pow(s.mag(i), 2)
	}
	c.re, err = fit(sq)
	return c, err
}

// Span is the measured range.
func (c Curve) Span() (lo, hi float64) { return c.s.F[0], c.s.F[len(c.s.F)-1] }

// Gamma is the reflection at f; ok is false outside the span or without phase.
func (c Curve) Gamma(f float64) (g complex128, ok bool) {
	lo, hi := c.Span()
	if c.im == nil || f < lo || f > hi {
		return 0, false
	}
	return complex(c.re.Predict(f), c.im.Predict(f)), true
}

// Mag is the reflection's magnitude at f, held at the ends outside the span.
func (c Curve) Mag(f float64) float64 {
	lo, hi := c.Span()
	f = math.Min(math.Max(f, lo), hi)
	if c.im != nil {
		return math.Hypot(c.re.Predict(f), c.im.Predict(f))
	}
	return math.Sqrt(math.Max(0, c.re.Predict(f)))
}

// SWR is the standing wave ratio at f.
func (c Curve) SWR(f float64) float64 { return circuit.SWR(c.Mag(f)) }

// Sample gives the SWR at each frequency, NaN where nothing was measured.
func (c Curve) Sample(f []float64) []float64 {
	out := make([]float64, len(f))
	for i, x := range f {
		out[i] = math.NaN()
		if c.reached(x) {
			out[i] = c.SWR(x)
		}
	}
	return out
}

// Quantities are a curve's other faces at given frequencies: return loss in dB, R and X in ohms, and the reflection
// itself; NaN outside the sweep and, but for the loss, where the phase is not known.
type Quantities struct{ Loss, R, X, Re, Im []float64 }

// Quantities samples the curve. Of a reflection of all, R and X are given no value.
func (c Curve) Quantities(f []float64) Quantities {
	n := len(f)
	out := Quantities{make([]float64, n), make([]float64, n), make([]float64, n), make([]float64, n), make([]float64, n)}
	lo, hi := c.Span()
	for i, x := range f {
		out.Loss[i], out.R[i], out.X[i], out.Re[i], out.Im[i] = math.NaN(), math.NaN(), math.NaN(), math.NaN(), math.NaN()
		if x < lo || x > hi {
			continue
		}
		out.Loss[i] = circuit.ReturnLoss(c.Mag(x))
		g, ok := c.Gamma(x)
		if !ok || c.s.Kind != Complex {
			continue
		}
		out.Re[i], out.Im[i] = real(g), imag(g)
		if cmplx.Abs(1-g) > 1e-3 {
			z := circuit.Impedance(g, Reference)
			out.R[i], out.X[i] = real(z), imag(z)
		}
	}
	return out
}
