package earth

import (
	"math"
	"math/cmplx"

	"reed/core/numeric"
)

// Kernel is the ground's part of the potentials of a source above it, for an observer above it, times
// 4 pi: XX to the horizontal vector potential of a horizontal current, ZZ to the vertical one of a vertical
// current, Charge to the scalar potential of any charge, ZX to the vertical potential of a horizontal
// current (times the cosine to the direction from source to observer; the horizontal potential of a
// vertical current is its negative). Mixed potentials with one scalar kernel for all charges, so that
// wires of any slope and their junctions are treated alike (Michalski and Zheng 1990, formulation C;
// Sommerfeld 1909 for the integrals).
type Kernel struct{ XX, ZZ, Charge, ZX complex128 }

// Wave is a ground at one frequency, with times exp(jwt).
type Wave struct {
	K  float64    // of the air, 1/m
	N2 complex128 // complex relative permittivity of the ground
}

// At is the ground at f hertz.
func (g Ground) At(f float64) Wave {
	return Wave{K: 2 * math.Pi * f / numeric.Light, N2: g.Complex(f)}
}

// still is the reflection of a charge at rest: (n2-1)/(n2+1).
func (w Wave) still() complex128 { return (w.N2 - 1) / (w.N2 + 1) }

// soil is the size of the wave number in the ground, in 1/m.
func (w Wave) soil() float64 { return w.K * math.Sqrt(cmplx.Abs(w.N2)) }

// spectrum is the four reflections at the square of a transverse wave number and the decay in air per metre of height,
// less what the static image does (which is added in closed form).
func (w Wave) spectrum(l2, gamma complex128) (xx, zz, charge, zx complex128) {
	k2 := complex(w.K*w.K, 0)
	under := root(l2 - k2*w.N2)
	// Differences of nearly equal roots are written as a quotient, since they cancel at large l.
	both := over(gamma + under)
	h := k2 * (w.N2 - 1) * both * both // TE: (gamma - under)/(gamma + under)
	down := over(under + w.N2*gamma)
	e := (under - w.N2*gamma) * down // TM, of the voltage
	// (e - h) / l2 stays finite at l = 0: e - h is 2 (u2 - n2 g2) over both denominators, and u2 - n2 g2 is
	// l2 (1 - n2).
	diff := 2 * (1 - w.N2) * down * both
	still := w.still()
	xx = h
	charge = e - k2*diff + still
	zz = -e - gamma*gamma*diff - 2*still
	zx = l2 * diff // (e - h), without its static part
	zx += still
	return xx, zz, charge, zx
}

// root is the square root with a real part that is not negative.
func root(z complex128) complex128 {
	// Without the care for overflow that the library takes: wave numbers are ordinary numbers.
	x, y := real(z), imag(z)
	r := math.Sqrt(x*x + y*y)
	if x >= 0 {
		a := math.Sqrt((r + x) / 2)
		if a == 0 {
			return 0
		}
		return complex(a, y/(2*a))
	}
	b := math.Sqrt((r - x) / 2)
	if y < 0 {
		return complex(-y/(2*b), -b)
	}
	return complex(y/(2*b), b)
}

// over is 1/z, likewise.
func over(z complex128) complex128 {
	d := 1 / (real(z)*real(z) + imag(z)*imag(z))
	return complex(real(z)*d, -imag(z)*d)
}

// decayed is exp(z).
func decayed(z complex128) complex128 {
	e := math.Exp(real(z))
	s, c := math.Sincos(imag(z))
	return complex(e*c, e*s)
}

// Reflect computes the kernel at a horizontal distance and a sum of heights in metres by integrating along
// a contour that passes above the poles and branch points, then along the real axis with the oscillation
// summed by weighted averages (Mosig 1989). It is the slow and sure way; see Table.
func (w Wave) Reflect(rho, height float64) Kernel {
	return grounds{w}.reflect(rho, height)[0]
}

// grounds are several at one wave number of the air: what depends on that alone is worked out once for all of them.
type grounds []Wave

func (all grounds) reflect(rho, height float64) []Kernel {
	// The first arc passes the air's wave number, the second those of the grounds; where the decay with height has
	// ended before that, so does the second.
	k := all[0].K
	top := 2.2 * k
	for _, w := range all {
		top = math.Max(top, real(cmplx.Sqrt(w.N2))*k*1.1+0.3*k)
	}
	dead := 2.2*k + 32/math.Max(height, 1e-9)
	gone := top >= dead
	top = math.Min(top, dead)
	out := make([]Kernel, len(all))
	all.arc(out, 0, 2.2*k, rho, height)
	if top > 2.2*k*1.001 {
		all.arc(out, 2.2*k, top, rho, height)
	}
	if !gone {
		for i, tail := range all.tail(top, rho, height) {
			out[i] = out[i].plus(tail, 1)
		}
	}
	r1 := math.Hypot(rho, height)
	image := cmplx.Exp(complex(0, -k*r1)) / complex(r1, 0)
	for i, w := range all {
		still, x := w.still(), &out[i]
		x.ZZ += 2 * still * image
		x.Charge -= still * image
		if rho > 0 {
			// The static part of ZX: -still times the integral of J1 exp(-gamma h), in closed form by that of J0.
			x.ZX -= still * w.tiltImage(rho, height)
		} else {
			x.ZX = 0
		}
	}
	return out
}

// add adds the integrands at l times dl.
func (all grounds) add(sums []Kernel, l, dl complex128, rho, height float64) {
	l2 := l * l
	g := root(l2 - complex(all[0].K*all[0].K, 0))
	j0, j1 := bessel01(l * complex(rho, 0))
	decay := decayed(-g*complex(height, 0)) * dl
	common, tilted := j0*l*over(g)*decay, j1*decay
	for i, w := range all {
		xx, zz, charge, zx := w.spectrum(l2, g)
		sum := &sums[i]
		sum.XX += xx * common
		sum.ZZ += zz * common
		sum.Charge += charge * common
		sum.ZX += zx * tilted
	}
}

// arc integrates along half an ellipse above the real axis, no higher than J, which grows as exp(Im l rho), allows.
func (all grounds) arc(sums []Kernel, from, to, rho, height float64) {
	k := all[0].K
	lift := math.Min(k, 3/math.Max(rho, 1e-9))
	span := to - from
	pieces := int(math.Ceil(math.Max(span*rho/10, span*height/12))) + int(math.Ceil(0.5*math.Min(12, k/lift/4))) + 1
	for p := range pieces {
		for i, x := range gauss10x {
			t := math.Pi * (float64(p) + x) / float64(pieces)
			s, c := math.Sincos(t)
			all.add(sums, complex(from+span/2*(1-c), lift*s), complex(span/2*s, lift*c)*complex(math.Pi/float64(pieces)*gauss10w[i], 0),
				rho, height)
		}
	}
}

// tail integrates on along the real axis: pieces of half an oscillation or six of the decay, whichever is shorter,
// growing up to that.
func (all grounds) tail(from, rho, height float64) []Kernel {
	whole := math.Min(math.Pi/math.Max(rho, 1e-9), 6/math.Max(height, 1e-9))
	parts := make([][]Kernel, len(all)) // by ground
	sums := make([]Kernel, len(all))
	even := 0
	for range 120 {
		clear(sums)
		step := math.Min(whole, 2*from)
		for i, x := range gauss10x {
			all.add(sums, complex(from+step*x, 0), complex(step*gauss10w[i], 0), rho, height)
		}
		from += step
		for i, sum := range sums {
			parts[i] = append(parts[i], sum)
		}
		if step == whole {
			even++
		}
		if from*height > 28 || even > 12 && math.Pi*height < 3*rho {
			break
		}
	}
	for i := range sums {
		sums[i] = accelerate(parts[i], from*height > 28)
	}
	return sums
}

// tiltImage is the integral of J1(l rho) exp(-gamma h) over l from 0: the derivative by rho of the
// integral of -J0 exp(-gamma h)/l, (exp(-jkh) - h/R exp(-jkR)) / rho.
func (w Wave) tiltImage(rho, h float64) complex128 {
	r := math.Hypot(rho, h)
	return (cmplx.Exp(complex(0, -w.K*h)) - complex(h/r, 0)*cmplx.Exp(complex(0, -w.K*r))) / complex(rho, 0)
}

// accelerate sums the pieces of an oscillating tail by repeated means; when they have died out, plainly.
func accelerate(parts []Kernel, dead bool) (out Kernel) {
	partial := make([]Kernel, len(parts))
	var sum Kernel
	for i, p := range parts {
		sum = sum.plus(p, 1)
		partial[i] = sum
	}
	if dead || len(parts) < 8 {
		return sum
	}
	// Repeated means of the last partial sums: each step removes one order of an alternating rest.
	last := partial[len(partial)-min(len(partial), 10):]
	for len(last) > 1 {
		next := make([]Kernel, len(last)-1)
		for i := range next {
			next[i] = Kernel{}.plus(last[i], 0.5).plus(last[i+1], 0.5)
		}
		last = next
	}
	return last[0]
}

func (a Kernel) plus(b Kernel, s float64) Kernel {
	c := complex(s, 0)
	return Kernel{a.XX + c*b.XX, a.ZZ + c*b.ZZ, a.Charge + c*b.Charge, a.ZX + c*b.ZX}
}

var (
	gauss10x = []float64{0.013046735741414, 0.067468316655507, 0.160295215850488, 0.283302302935376, 0.425562830509184, 0.574437169490816,
		0.716697697064624, 0.839704784149512, 0.932531683344492, 0.986953264258586}
	gauss10w = []float64{0.033335672154344, 0.074725674575290, 0.109543181257991, 0.134633359654998, 0.147762112357376, 0.147762112357376,
		0.134633359654998, 0.109543181257991, 0.074725674575290, 0.033335672154344}
)

func (a Kernel) turned(c complex128) Kernel {
	return Kernel{a.XX * c, a.ZZ * c, a.Charge * c, a.ZX * c}
}
