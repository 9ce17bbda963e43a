package antenna

import (
	"math"
	"math/cmplx"
	"strconv"
	"strings"

	"reed/core/numeric"
)

// This file holds the picture of a wire as an open, lossy line (Siegel and Labus 1933): an average
// characteristic impedance from length and thickness, and as loss the radiated power, spread along it.
// Ends and jacket are counted as electrical length. It gives the right resonances and the right order of
// the impedance between them, without coupling to ground or other wires.

// siCi are the sine and cosine integrals, within 1e-6 (series below 1; Abramowitz and Stegun 1964, 5.2.38
// and 5.2.39, above).
func SiCi(x float64) (si, ci float64) {
	const euler = 0.5772156649015329
	x2 := x * x
	if x < 1 {
		si = x * (1 - x2/18*(1-x2*3/100*(1-x2*5/294)))
		return si, euler + math.Log(x) - x2/4*(1-x2/24*(1-x2/45*(1-x2*3/224)))
	}
	f := (38.102495 + x2*(335.677320+x2*(265.187033+x2*(38.027264+x2)))) / (157.105423 + x2*(570.236280+x2*(322.624911+x2*(40.021433+x2)))) / x
	g := (21.821899 + x2*(352.018498+x2*(302.757865+x2*(42.242855+x2)))) / (449.690326 +
		x2*(1114.978885+x2*(482.485984+x2*(48.196927+x2)))) / x2
	return math.Pi/2 - f*math.Cos(x) - g*math.Sin(x), f*math.Sin(x) - g*math.Cos(x)
}

// LoopResistance is the radiation resistance in ohms, at the current's maximum, of a thin centre-fed wire
// of x = k times its length, with sinusoidal current in free space (induced EMF, Carter 1932).
// Known answer: 73.13 ohm at half a wave.
func LoopResistance(x float64) float64 {
	const euler = 0.5772156649015329
	s1, c1 := SiCi(x)
	s2, c2 := SiCi(2 * x)
	cin1, cin2 := euler+math.Log(x)-c1, euler+math.Log(2*x)-c2
	return 60 * (cin1 + 0.5*math.Sin(x)*(s2-2*s1) + 0.5*math.Cos(x)*(2*cin1-cin2))
}

// Average is the average characteristic impedance in ohms of a wire of length h and radius a against its
// surroundings: 60 (ln(2h/a) - 1) (Schelkunoff 1941); a centre-fed pair has twice that.
func Average(h, a float64) float64 { return 60 * (math.Log(2*h/a) - 1) }

// Short is the average characteristic impedance in ohms of a whip that is short against the wave, of length h and radius
// a over ground: 60 (ln(h/a) - 1). Its charge lies evenly along it, where that of a longer one crowds to the end.
func Short(h, a float64) float64 { return 60 * math.Max(math.Log(h/a)-1, 0.5) }

// TaperFactor is by how much a quarter-wave rod of sections alike in length, whose diameters fall evenly from bottom to
// top, is longer than a uniform one of the mean diameter at the same frequency: the sections as lines one after another.
func TaperFactor(length, bottom, top float64, sections int) float64 {
	rods := Tapered(0, length, bottom, top, sections)
	// What is left at the foot of a rod so many radians long, as the tangent of where its wave stands.
	left := func(theta float64) float64 {
		each, x := theta/float64(len(rods)), 0.0 // x is the admittance above, over j
		for i := len(rods) - 1; i >= 0; i-- {
			y, t := 1/Average(length, rods[i].Diameter/2), math.Tan(each)
			x = y * (x + y*t) / (y - x*t)
		}
		return 1 / x // zero at resonance
	}
	theta, ok := numeric.Bisect(left, 0.6*math.Pi/2, 1.4*math.Pi/2, 0)
	if !ok {
		return 1
	}
	return theta / (math.Pi / 2)
}

// openLine is the impedance into an open line of characteristic impedance zc and electrical length theta,
// whose radiated power is that of a resistance r at the current's maximum.
func openLine(zc, theta, r float64) complex128 {
	shape := 1 - math.Sin(2*theta)/(2*theta)
	alpha := r / (zc * math.Max(shape, 1e-3))
	g := complex(alpha, theta)
	return complex(zc, 0) * cmplx.Cosh(g) / cmplx.Sinh(g)
}

// CentreFed is the impedance in ohms at the middle of a wire of total length (m) at f hertz.
func CentreFed(f, total float64, w Wire) complex128 {
	lambda := numeric.Light / f
	half, a := total/2, w.EquivalentRadius()
	k := EndFactor(lambda/4, a) * w.JacketFactor(half)
	theta := 2 * math.Pi * half / (k * lambda)
	return openLine(2*Average(half, a), theta, LoopResistance(2*theta))
}

// EndFed is the impedance in ohms at the end of a wire of a length (m) at f hertz against an ideal
// counterpoise: half of the pair of twice the length.
func EndFed(f, length float64, w Wire) complex128 {
	lambda := numeric.Light / f
	theta := 2 * math.Pi * (length/w.JacketFactor(length/2) + 0.025*lambda) / lambda
	return openLine(Average(length, w.EquivalentRadius()), theta, LoopResistance(2*theta)/2)
}

// Mono is the impedance of an upright wire over a good ground, as EndFed but with the end effect of a
// quarter-wave.
func Mono(f, length float64, w Wire) complex128 { return CentreFed(f, 2*length, w) / 2 }

// SWR50 is the SWR against 50 ohm, as the radio sees it.
func SWR50(z complex128) float64 {
	g := cmplx.Abs((z - 50) / (z + 50))
	return math.Min((1+g)/math.Max(1-g, 1e-4), 9999)
}

// Shortened is a wire of two parts with a coil between them, over a good ground: lower and upper length
// and radius in metres. The upper part may be bare wire or whip.
type Shortened struct {
	Lower, Upper   float64
	Radius, Uppers float64 // radius of the lower and of the upper part
	Factor         float64 // velocity along both
}

func (s Shortened) Angles(f float64) (lower, upper, z1, z2 float64) {
	k := 2 * math.Pi * f / numeric.Light / s.Factor
	end := s.Upper + 0.3*s.Uppers*math.Log(math.Max(2, s.Upper/s.Uppers)) // the end's stray capacitance
	z2 = Short(math.Max(s.Upper, 8*s.Uppers), s.Uppers)
	z1 = z2
	if s.Lower > 0 {
		z1 = Average(math.Max(s.Lower, 4*s.Radius), s.Radius)
	}
	return k * s.Lower, k * end, z1, z2
}

// Reactance returns the coil's reactance in ohms for resonance at f: the upper part's capacitive reactance
// less what the lower part turns it by (line theory; Z2 cot b2 - Z1 tan b1). Negative means too long.
func (s Shortened) Reactance(f float64) float64 {
	b1, b2, z1, z2 := s.Angles(f)
	return z2/math.Tan(b2) - z1*math.Tan(b1)
}

// Radiation is the radiation resistance in ohms at the base, from the area under the current (effective
// height he over a perfect ground: 160 pi^2 (he/lambda)^2), and the current at the coil over that at the base.
func (s Shortened) Radiation(f float64) (r, atCoil float64) {
	b1, b2, _, _ := s.Angles(f)
	k := 2 * math.Pi * f / numeric.Light / s.Factor
	atCoil = 1.0
	area := 0.0
	if s.Lower > 0 {
		// I(z) = cos kz - tan(phi) sin kz with zero slope at a resonant base.
		atCoil = math.Cos(b1)
		area = math.Sin(b1) / k
	}
	// Above: sinusoid to zero at the end.
	area += atCoil * (1 - math.Cos(b2)) / (k * math.Sin(b2))
	he := area / (numeric.Light / f)
	return 160 * math.Pi * math.Pi * he * he, atCoil
}

// Degrees reads a list of directions as people type them.
func Degrees(text string) ([]float64, bool) {
	var out []float64
	for _, t := range strings.FieldsFunc(text, func(r rune) bool { return r == ' ' || r == ',' || r == ';' || r == '/' }) {
		v, err := strconv.ParseFloat(t, 64)
		if err != nil || !(v >= -360 && v <= 360) {
			return nil, false
		}
		out = append(out, v)
	}
	return out, len(out) <= 240
}
