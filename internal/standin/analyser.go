// Package standin simulates the instruments and networks of the field, so that everything can be shown
// and tried without them. What it makes is always marked as simulated.
package standin

import (
	"math"
	"math/cmplx"
	"math/rand/v2"

	"reed/core/antenna"
	"reed/core/circuit"
	"reed/core/deployment"
	"reed/core/sweep"
)

// Analyser measures a set-up with a truth that it keeps to itself: a resonant length off the books by a
// few per cent, a feed resistance, noise. The wire is an open lossy line of average characteristic
// impedance (Schelkunoff 1941), which has the right resonances and widths; there is no coupling to the
// ground or to other wires in it.
type Analyser struct {
	Seed  uint64  // of the hidden truth; the same for all revisions of one deployment
	Noise float64 // of each reflection point, as standard deviation
}

// open is the input impedance of an open line: zc coth(alpha + j theta).
func open(zc, alpha, theta float64) complex128 {
	g := complex(alpha, theta)
	return complex(zc, 0) * cmplx.Cosh(g) / cmplx.Sinh(g)
}

// Impedance is the true impedance at the feed point at f hertz.
func (a Analyser) Impedance(b deployment.Built, f float64) complex128 { return a.truth(b)(f) }

// truth is the hidden impedance of a set-up over frequency.
func (a Analyser) truth(b deployment.Built) func(f float64) complex128 {
	rng := rand.New(rand.NewPCG(a.Seed, 1))
	plain := b.Shape
	plain.Radiator, plain.LegB, plain.FarHeight = antenna.Shape{}.Radiator, antenna.Shape{}.LegB, antenna.Shape{}.FarHeight
	halfWaves := 1
	if b.Family == "end-fed" {
		halfWaves = max(1, int(math.Round(b.Total()*2*b.FrequencyHz/antenna.Light)))
	}
	p := antenna.Design(antenna.Request{Shape: plain, HalfWaves: halfWaves})
	natural := b.FrequencyHz
	if b.Total() > 0 && p.Shape.Total() > 0 {
		natural *= p.Shape.Total() / b.Total()
	}
	natural *= 1 - 0.004 - 0.02*rng.Float64() // the books cut a little short of what ground and knots do
	spread := 0.85 + 0.3*rng.Float64()
	return func(f float64) complex128 {
		switch b.Family {
		case "end-fed":
			zc := 480.0
			ratio := math.Pow(float64(max(b.Secondary, 1))/float64(max(b.Primary, 1)), 2)
			z := open(zc, zc/(3100*spread), math.Pi*float64(halfWaves)*f/natural)
			// The transformer's magnetising inductance lies across the radio's side, its leakage in series.
			mag := complex(0, 2*math.Pi*f*18e-6)
			low := z / complex(ratio, 0)
			return low*mag/(low+mag) + complex(0.5, 2*math.Pi*f*0.04e-6)
		case "vertical":
			r := 36.0
			if b.Variant == "ground-radials" {
				r += 90 / math.Sqrt(float64(max(b.Radials.Count, 1)))
			} else {
				r += 4
			}
			return open(420, r*spread/420, math.Pi/2*f/natural)
		case "random-wire", "fence-wire":
			w, _ := antenna.WireNamed(b.Wire)
			ratio := math.Pow(float64(max(b.Secondary, 1))/float64(max(b.Primary, 1)), 2)
			return antenna.EndFed(f*b.FrequencyHz/natural, b.Total(), w) / complex(ratio, 0)
		case "doublet":
			w, _ := antenna.WireNamed(b.Wire)
			line, _ := circuit.OpenLine(b.W("line", "window-450"))
			z, _ := line.InputZ(antenna.CentreFed(f*b.FrequencyHz/natural, b.Total(), w), f, b.M("line_length"))
			return z / 4
		case "small-loop":
			return circuit.SeriesAt(natural, 50*spread, 300).Z(f)
		}
		if b.Legs() == 1 {
			return open(420, 45*spread/420, math.Pi/2*f/natural)
		}
		r := 64 * spread
		if b.Variant == "inverted-v" {
			r = 52 * spread
		}
		return open(900, r/900, math.Pi/2*f/natural)
	}
}

// Sweep measures n points from lo to hi hertz, at the feed point or through the recorded coax.
func (a Analyser) Sweep(b deployment.Built, atRadio bool, lo, hi float64, n int) sweep.Sweep {
	rng := rand.New(rand.NewPCG(a.Seed, uint64(lo)+uint64(n)))
	cable, hasCable := b.Coax.Cable()
	f, g := make([]float64, n), make([]complex128, n)
	at := a.truth(b)
	for i := range f {
		f[i] = math.Round(lo + (hi-lo)*float64(i)/float64(n-1))
		g[i] = circuit.Gamma(at(f[i]), sweep.Reference)
		if atRadio && hasCable {
			g[i] = cable.AtInput(g[i], f[i], b.Coax.Length.M)
		}
		g[i] += complex(a.Noise*rng.NormFloat64(), a.Noise*rng.NormFloat64())
	}
	s, _, _ := sweep.New(sweep.Complex, f, g)
	return s
}
