package antenna

import (
	"math"
	"math/cmplx"

	"reed/core/moment/earth"
)

// Wire is a kind of wire as data: radii in metres, relative permittivity of the jacket.
type Wire struct {
	ID           string  `json:"id"`
	Name         string  `json:"name"`
	Radius       float64 `json:"radius_m"`
	Outer        float64 `json:"outer_m"`
	Permittivity float64 `json:"permittivity"`
	Factor       float64 `json:"factor,omitempty"` // velocity factor learned from sweeps, 0 when it is computed
	Left         float64 `json:"left_m,omitempty"` // on the reel, in metres, of a wire from the bag
	Grams        float64 `json:"grams_per_m,omitempty"`
}

// Wires lists the kinds that are known without a bag of one's own.
func Wires() []Wire {
	return []Wire{
		{ID: "pvc", Name: "0.5 mm2 stranded copper, PVC jacket 2.0 mm", Radius: 0.00045, Outer: 0.0010, Permittivity: 3.2, Grams: 7.5},
		{ID: "pe", Name: "0.14 mm2 stranded copper, PE jacket 1.1 mm", Radius: 0.00024, Outer: 0.00055, Permittivity: 2.3, Grams: 2.1},
		{ID: "ptfe", Name: "0.25 mm2 stranded copper, PTFE jacket 1.0 mm", Radius: 0.00031, Outer: 0.0005, Permittivity: 2.1, Grams: 3.4},
		// Two conductors side by side act as one of the geometric mean of radius and distance.
		{ID: "pvc-twin", Name: "PVC twin flex 2 x 0.5 mm2, both strands joined", Radius: 0.00099, Outer: 0.00148, Permittivity: 3.2, Grams: 24},
		{ID: "bare", Name: "1.0 mm hard-drawn copper, bare", Radius: 0.0005, Outer: 0.0005, Permittivity: 1, Grams: 7},
	}
}

// WireNamed finds a kind by its ID; the first kind stands in for an empty one.
func WireNamed(id string) (Wire, bool) {
	for _, w := range Wires() {
		if w.ID == id || id == "" {
			return w, true
		}
	}
	return Wire{}, false
}

// EquivalentRadius is the radius in metres of the bare wire with the same capacitance to far away as the
// jacketed one: a (b/a)^(1-1/e) (Wait 1955; Yurkov 2013).
func (w Wire) EquivalentRadius() float64 {
	if w.Permittivity <= 1 || w.Outer <= w.Radius {
		return w.Radius
	}
	return w.Radius * math.Pow(w.Outer/w.Radius, 1-1/w.Permittivity)
}

// JacketFactor is the ratio by which the jacket slows the wave along a wire of the given half-length in
// metres, or what was learned of it: the jacket keeps the inductance of the conductor and the capacitance of the equivalent radius.
func (w Wire) JacketFactor(half float64) float64 {
	if w.Factor > 0 {
		return w.Factor
	}
	a := w.EquivalentRadius()
	omega := math.Log(2*half/a) - 1
	return math.Sqrt(omega / (omega + math.Log(a/w.Radius)))
}

// EndFactor is the ratio by which a centre-fed bare half-wave has to be shorter than half a wave to be
// resonant: its reactance at exactly half a wave, 42.5 ohm (induced EMF, Carter 1932), is cancelled on a
// line of average characteristic impedance 120 (ln(2h/a)-1) (Schelkunoff 1941).
func EndFactor(half, radius float64) float64 {
	za := 120 * (math.Log(2*half/radius) - 1)
	return 1 - 2/math.Pi*math.Atan(42.5/za)
}

// MutualHalfWaves is the mutual impedance in ohms of two parallel half-wave dipoles side by side, spaced
// d wavelengths, with sinusoidal currents (induced EMF, Carter 1932), by Simpson's rule.
// Known answer: half a wave apart, -12.5-j29.9.
func MutualHalfWaves(d float64) complex128 {
	const n = 400
	const h = 0.25
	k := 2 * math.Pi
	var sum complex128
	for i := 0; i <= n; i++ {
		z := -h + 2*h*float64(i)/n
		weight := 2.0
		switch {
		case i == 0 || i == n:
			weight = 1
		case i%2 == 1:
			weight = 4
		}
		r1, r2 := math.Hypot(d, z-h), math.Hypot(d, z+h)
		field := cmplx.Exp(complex(0, -k*r1))/complex(r1, 0) + cmplx.Exp(complex(0, -k*r2))/complex(r2, 0)
		sum += complex(weight*math.Sin(k*(h-math.Abs(z))), 0) * field
	}
	return complex(0, 30) * sum * complex(2*h/n/3, 0)
}

// LeastHeight is the least height in wavelengths for which the plane-wave picture of the ground is used; what
// lies lower is computed as if it were there, and said to be less sure.
const LeastHeight = 0.08

// OverGround is the feed impedance of a level half-wave dipole at height (wavelengths) over ground: its
// own 73.1 ohm and the mutual impedance to an image weighted with the reflection at normal incidence.
func OverGround(height float64, g earth.Ground, f float64) complex128 {
	return complex(73.1, 0) + g.Normal(f)*MutualHalfWaves(2*math.Max(height, LeastHeight))
}

// Factor is a shortening ratio with its range and the numbers it came from.
type Factor struct {
	Value float64  `json:"value"`
	Lo    float64  `json:"lo"`
	Hi    float64  `json:"hi"`
	Why   []string `json:"why"`
}
