package circuit

import (
	"math"
	"math/cmplx"

	"reed/core/numeric"
)

// CopperResistivity is that of annealed copper at 20 degrees Celsius in ohm metres (IEC 60028).
const CopperResistivity = 1.724e-8

// Solenoid is the inductance in henries of a current sheet of n turns, mean diameter d and length l in
// metres. The shape factor is Lundin's fit of Nagaoka's (Nagaoka 1909; Lundin 1985, Proc. IEEE 73), within
// a few parts per million. Known answer: 60 turns, 50 mm, 100 mm long give 72.7 uH.
func Solenoid(n, d, l float64) float64 {
	if n <= 0 || d <= 0 || l <= 0 {
		return 0
	}
	f1 := func(x float64) float64 { return (1 + x*(0.383901+0.017108*x)) / (1 + 0.258952*x) }
	if d <= l {
		x := d * d / (l * l)
		return numeric.Mu0 * n * n * math.Pi * d * d / 4 * (f1(x) - 4/(3*math.Pi)*d/l) / l
	}
	x := l * l / (d * d)
	f2 := x * (0.093842 + x*(0.002029-0.000801*x))
	return numeric.Mu0 * n * n * d / 2 * ((math.Log(4*d/l)-0.5)*f1(x) + f2)
}

// SkinDepth is the depth in metres at which the current has fallen to 1/e in a non-magnetic conductor of
// the given resistivity (ohm m) at f hertz (definition).
func SkinDepth(f, resistivity float64) float64 {
	return math.Sqrt(resistivity / (math.Pi * f * numeric.Mu0))
}

// SkinResistance is the resistance in ohms of a straight round wire of the given length and radius in
// metres at f hertz.
func SkinResistance(f, length, radius, resistivity float64) float64 {
	return real(InternalImpedance(f, radius, resistivity)) * length
}

// InternalImpedance returns the internal impedance of a straight round non-magnetic wire of a radius in metres at f hertz, in
// ohms a metre: the resistance of its skin and the reactance of the field in it, which is as large where the skin is
// thin. It is k rho/(2 pi a) J0(ka)/J1(ka) with k = (1-j)/skin depth (Schelkunoff 1934), right at every depth.
func InternalImpedance(f, radius, resistivity float64) complex128 {
	depth := SkinDepth(f, resistivity)
	k := complex(1, -1) / complex(depth, 0)
	z := k * complex(radius, 0)
	const thick = 40 // skins: from here on the next terms are under a ten-thousandth
	if radius > thick*depth {
		return complex(resistivity/(2*math.Pi*radius*depth), 0)*complex(1, 1) + complex(resistivity/(4*math.Pi*radius*radius), 0)
	}
	// J1/J0 by its continued fraction, from far enough down that nothing is left of where it was begun.
	ratio := complex128(0)
	for n := int(2*cmplx.Abs(z)) + 30; n >= 1; n-- {
		ratio = 1 / (complex(2*float64(n), 0)/z - ratio)
	}
	return k * complex(resistivity/(2*math.Pi*radius), 0) / ratio
}

// Coil is a single-layer air coil. Former is the outer diameter it is wound on, Wire the diameter of the
// bare conductor, Length that of the winding, all in metres. Length of zero is wound turn to turn, the
// jacket (Pitch, if larger than the wire) counted.
type Coil struct {
	Turns, Former, Wire, Length, Pitch float64
}

// Winding is the length of the winding in metres.
func (c Coil) Winding() float64 {
	if c.Length > 0 {
		return c.Length
	}
	return c.Turns * math.Max(c.Pitch, c.Wire)
}

// Mean is the mean diameter of a turn in metres.
func (c Coil) Mean() float64 { return c.Former + math.Max(c.Wire, c.Pitch) }

// Crowded reports whether the turns do not fit side by side on the winding's length.
func (c Coil) Crowded() bool { return c.Winding() < c.Turns*c.Wire*0.999 }

// L is the low-frequency inductance in henries.
func (c Coil) L() float64 { return Solenoid(c.Turns, c.Mean(), c.Winding()) }

// Part is the inductance in henries between one end and a tap after the given turns of the same winding.
func (c Coil) Part(turns float64) float64 {
	t := math.Min(turns, c.Turns)
	return Solenoid(t, c.Mean(), c.Winding()*t/c.Turns)
}

// WireLength is the wire on the former in metres, pitch of the helix included.
func (c Coil) WireLength() float64 {
	return math.Hypot(c.Turns*math.Pi*c.Mean(), c.Winding())
}

// SelfCapacitance is the capacitance in farads that explains the coil's first resonance with one end
// earthed (Medhurst 1947, Wireless Engineer, with Knight's fit of his table).
func (c Coil) SelfCapacitance() float64 {
	d, x := c.Mean()*100, c.Winding()/c.Mean()
	return d * (0.1126*x + 0.08 + 0.27/math.Sqrt(x)) * 1e-12
}

// SelfResonance is the frequency in hertz of the first self-resonance.
func (c Coil) SelfResonance() float64 {
	return 1 / (2 * math.Pi * math.Sqrt(c.L()*c.SelfCapacitance()))
}

// Medhurst's ratio of a coil's resistance to that of its wire stretched out (1947, table VIII), by length
// over diameter and wire diameter over pitch.
var (
	medhurstLD = []float64{0, 0.2, 0.4, 0.6, 0.8, 1, 2, 4, 6, 8, 10}
	medhurstDS = []float64{0, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1}
	medhurst   = [][]float64{
		{1, 1.02, 1.07, 1.16, 1.26, 1.44, 1.74, 2.12, 2.74, 3.73, 5.31},
		{1, 1.02, 1.08, 1.19, 1.29, 1.48, 1.77, 2.20, 2.83, 3.84, 5.45},
		{1, 1.03, 1.08, 1.21, 1.33, 1.54, 1.83, 2.28, 2.97, 3.99, 5.65},
		{1, 1.03, 1.10, 1.22, 1.38, 1.60, 1.89, 2.38, 3.10, 4.11, 5.80},
		{1, 1.03, 1.10, 1.23, 1.42, 1.64, 1.92, 2.44, 3.20, 4.17, 5.80},
		{1, 1.03, 1.10, 1.24, 1.45, 1.67, 1.94, 2.47, 3.17, 4.10, 5.55},
		{1, 1.04, 1.13, 1.28, 1.50, 1.74, 1.98, 2.32, 2.74, 3.36, 4.10},
		{1, 1.04, 1.15, 1.32, 1.54, 1.78, 2.01, 2.27, 2.60, 3.05, 3.54},
		{1, 1.04, 1.16, 1.34, 1.56, 1.80, 2.03, 2.29, 2.60, 2.92, 3.31},
		{1, 1.04, 1.165, 1.34, 1.57, 1.81, 2.08, 2.34, 2.62, 2.90, 3.20},
		{1, 1.04, 1.17, 1.35, 1.58, 1.83, 2.10, 2.37, 2.65, 2.93, 3.23},
	}
)

// bracket finds the cell of x in a rising table and the share of the way through it.
func bracket(table []float64, x float64) (int, float64) {
	x = math.Min(math.Max(x, table[0]), table[len(table)-1])
	i := 0
	for i < len(table)-2 && table[i+1] < x {
		i++
	}
	return i, (x - table[i]) / (table[i+1] - table[i])
}

// Crowding is by how much the turns' neighbours raise the resistance of the wire (Medhurst 1947).
func (c Coil) Crowding() float64 {
	i, u := bracket(medhurstLD, c.Winding()/c.Mean())
	j, v := bracket(medhurstDS, c.Wire*c.Turns/c.Winding())
	return (1-u)*((1-v)*medhurst[i][j]+v*medhurst[i][j+1]) + u*((1-v)*medhurst[i+1][j]+v*medhurst[i+1][j+1])
}

// Resistance is the loss resistance in ohms at f hertz, from skin effect and crowding, copper.
func (c Coil) Resistance(f float64) float64 {
	return SkinResistance(f, c.WireLength(), c.Wire/2, CopperResistivity) * c.Crowding()
}

// At returns the coil's figures at f hertz: its apparent inductance in henries, its series resistance in ohms
// and its Q, the capacitance between its turns counted. At and beyond self-resonance it is no inductor
// and ok is false.
func (c Coil) At(f float64) (l, r, q float64, ok bool) {
	k := 1 - math.Pow(f/c.SelfResonance(), 2)
	if k <= 0 || c.L() == 0 {
		return 0, 0, 0, false
	}
	l, r = c.L()/k, c.Resistance(f)/(k*k)
	return l, r, 2 * math.Pi * f * l / r, true
}

// Z is the coil's impedance in ohms at f hertz, at every frequency: its inductance and resistance, with the capacitance
// between its turns beside them.
func (c Coil) Z(f float64) complex128 {
	w := 2 * math.Pi * f
	z := complex(c.Resistance(f), w*c.L())
	return z / (1 + complex(0, w*c.SelfCapacitance())*z)
}

// TurnsFor is how many turns on this former give an inductance in henries. With Length set the winding
// keeps that length; otherwise it grows turn by turn. ok is false when no winding up to 2000 turns does.
func (c Coil) TurnsFor(henries float64) (turns float64, ok bool) {
	lo, hi := 0.01, 2000.0
	at := func(n float64) float64 { c.Turns = n; return c.L() }
	if at(hi) < henries || at(lo) > henries {
		return 0, false
	}
	for range 80 {
		mid := (lo + hi) / 2
		if at(mid) < henries {
			lo = mid
		} else {
			hi = mid
		}
	}
	return (lo + hi) / 2, true
}
