package circuit

import (
	"fmt"
	"math"
	"math/cmplx"
)

// Unit is a manual matching unit: its network ("L", "T" or "pi"), the range of its coil in henries and
// of its capacitors in farads, and the Q of each at work. L is a series coil with a shunt capacitor on
// either side; T is capacitor, shunt coil, capacitor; pi is shunt capacitor, coil, shunt capacitor.
type Unit struct {
	Kind                   string
	LMin, LMax, CMin, CMax float64
	QL, QC                 float64
}

// Setting is where the parts stand: L in henries, C1 at the radio and C2 at the antenna in farads (0 is
// not in circuit), the SWR at the radio, and the loss in dB.
type Setting struct {
	L, C1, C2 float64
	SWR       float64
	Loss      float64
}

// Match finds the setting with the least loss that turns an impedance into 50 ohm at f hertz. When none
// reaches it, ok is false, the setting is the nearest (lowest SWR), and why says what it runs out of.
func (u Unit) Match(z complex128, f float64) (s Setting, ok bool, why string) {
	const r0 = 50.0
	if real(z) <= 0 || cmplx.IsInf(z) || cmplx.IsNaN(z) {
		return Setting{SWR: MaxSWR}, false, "there is no resistance to match"
	}
	if s := SWR(cmplx.Abs(Gamma(z, r0))); s < 1.05 {
		return Setting{SWR: s}, true, "" // nothing to do: the unit is switched through
	}
	w := 2 * math.Pi * f
	best, found := Setting{}, false
	consider := func(l, c1, c2 float64) {
		inC := func(c float64) bool { return c == 0 || c >= u.CMin*0.999 && c <= u.CMax*1.001 }
		if math.IsNaN(l+c1+c2) || l < u.LMin*0.999 || l > u.LMax*1.001 || !inC(c1) || !inC(c2) {
			return
		}
		c := u.settle(z, f, l, c1, c2)
		if c.SWR < 1.3 && (!found || c.Loss < best.Loss) {
			best, found = c, true
		}
	}
	switch u.Kind {
	case "L":
		for _, x := range seriesRoots(real(z), r0) {
			consider((x-imag(z))/w, x/(x*x+real(z)*real(z))/w, 0) // capacitor at the radio
		}
		y := 1 / z
		for _, b := range shuntRoots(real(y), r0) {
			consider(b/(b*b+real(y)*real(y))/w, 0, (b-imag(y))/w) // capacitor at the antenna
		}
	case "T":
		for i := range 200 {
			c2 := u.CMin * math.Pow(u.CMax/u.CMin, float64(i)/199)
			y := 1 / (z - complex(0, 1/(w*c2)))
			for _, b := range shuntRoots(real(y), r0) {
				x := b / (b*b + real(y)*real(y)) // of what is left, inductive when the susceptance is -b
				consider(1/(w*(imag(y)+b)), 1/(w*x), c2)
			}
		}
	case "pi":
		for i := range 200 {
			c2 := u.CMin * math.Pow(u.CMax/u.CMin, float64(i)/199)
			z2 := 1 / (1/z + complex(0, w*c2))
			for _, x := range seriesRoots(real(z2), r0) {
				consider((x-imag(z2))/w, x/(x*x+real(z2)*real(z2))/w, c2)
			}
		}
	default:
		return Setting{SWR: MaxSWR}, false, fmt.Sprintf("%q is not a network known here", u.Kind)
	}
	if found {
		return best, true, ""
	}
	s, why = u.nearest(z, f)
	return s, false, why
}

// seriesRoots is the positive reactance behind which a series resistance looks like r0 in parallel.
func seriesRoots(r, r0 float64) []float64 {
	if r <= 0 || r > r0 {
		return nil
	}
	return []float64{math.Sqrt(r*r0 - r*r)}
}

// shuntRoots is the positive susceptance with which a conductance g looks like r0 in series.
func shuntRoots(g, r0 float64) []float64 {
	if g <= 0 || g > 1/r0 {
		return nil
	}
	return []float64{math.Sqrt(g/r0 - g*g)}
}

// settle returns the impedance that the radio sees through the network with these parts and their losses.
func (u Unit) settle(z complex128, f, l, c1, c2 float64) Setting {
	w := 2 * math.Pi * f
	coil := complex(w*l/u.QL, w*l)
	capacitor := func(c float64) complex128 { return complex(1/(w*c*u.QC), -1/(w*c)) }
	share := 1.0 // of the power that reaches the load
	series := func(part complex128) {
		share *= real(z) / real(z+part)
		z += part
	}
	shunt := func(part complex128) {
		y := 1 / z
		share *= real(y) / real(y+1/part)
		z = 1 / (y + 1/part)
	}
	switch u.Kind {
	case "T":
		series(capacitor(c2))
		shunt(coil)
		series(capacitor(c1))
	default:
		if c2 > 0 {
			shunt(capacitor(c2))
		}
		series(coil)
		if c1 > 0 {
			shunt(capacitor(c1))
		}
	}
	return Setting{L: l, C1: c1, C2: c2, SWR: SWR(cmplx.Abs(Gamma(z, 50))), Loss: -10 * math.Log10(share)}
}

// nearest searches the whole range on a grid for the lowest SWR.
func (u Unit) nearest(z complex128, f float64) (Setting, string) {
	const steps = 48
	grid := func(lo, hi float64) []float64 {
		v := make([]float64, steps)
		for i := range v {
			v[i] = math.Max(lo, hi/1e4) * math.Pow(hi/math.Max(lo, hi/1e4), float64(i)/(steps-1))
		}
		return v
	}
	best := Setting{SWR: math.Inf(1)}
	try := func(l, c1, c2 float64) {
		if s := u.settle(z, f, l, c1, c2); s.SWR < best.SWR {
			best = s
		}
	}
	cs := grid(u.CMin, u.CMax)
	for _, l := range grid(u.LMin, u.LMax) {
		for _, c := range cs {
			switch u.Kind {
			case "L":
				try(l, c, 0)
				try(l, 0, c)
			default:
				for k := 0; k < steps; k += 3 {
					try(l, c, cs[k])
				}
			}
		}
	}
	why := fmt.Sprintf("its network comes no nearer than SWR %.2f", best.SWR)
	switch {
	case best.L > u.LMax*0.99:
		why = fmt.Sprintf("it runs out of inductance at %.3g uH", u.LMax*1e6)
	case math.Max(best.C1, best.C2) > u.CMax*0.99:
		why = fmt.Sprintf("it runs out of capacitance at %.3g pF", u.CMax*1e12)
	case best.L <= math.Max(u.LMin, u.LMax/1e4)*1.01:
		why = "its least inductance is too much here"
	case best.C1 > 0 && best.C1 < u.CMin*1.01 || best.C2 > 0 && best.C2 < u.CMin*1.01:
		why = fmt.Sprintf("its least capacitance of %.3g pF is too much here", u.CMin*1e12)
	}
	return best, why
}
