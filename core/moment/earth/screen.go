package earth

import (
	"math"
	"math/cmplx"

	"reed/core/numeric"
)

// Screen is the impedance in ohms that imperfect ground adds at the base of a vertical of height h metres
// with n radials of the given length and wire radius (metres) lying on it, at f hertz: the surface
// impedance of the screen in parallel with that of the earth, weighted with the square of the magnetic
// field that the vertical has over perfect ground (compensation theorem: Monteath 1951; Wait and Pope
// 1954). The current on the vertical is taken sinusoidal. Without radials a stake of 0.1 m radius is the
// only electrode, and the answer is rough.
func Screen(g Ground, f, h float64, n int, length, wire float64) complex128 {
	k := 2 * math.Pi * f / numeric.Light
	lambda := numeric.Light / f
	earth := complex(numeric.Eta0, 0) / cmplx.Sqrt(g.Complex(f))
	sin := math.Sin(k * h)
	if sin < 0.02 {
		sin = 0.02
	}
	surface := func(r float64) complex128 {
		if n < 1 || r > length {
			return earth
		}
		gap := 2 * math.Pi * r / float64(n)
		if gap < 2*math.Pi*wire*1.01 {
			return 0
		}
		grid := complex(0, numeric.Eta0*gap/lambda*math.Log(gap/(2*math.Pi*wire)))
		return earth * grid / (earth + grid)
	}
	field := func(r float64) complex128 { // times 2 pi r over the base current
		d := math.Hypot(r, h)
		return (cmplx.Exp(complex(0, -k*d)) - complex(math.Cos(k*h), 0)*cmplx.Exp(complex(0, -k*r))) / complex(sin, 0)
	}
	sum := func(from, to float64) complex128 { // Simpson over the logarithm of distance
		const steps = 160
		a, b := math.Log(from), math.Log(to)
		step := (b - a) / steps
		var s complex128
		for i := 0; i <= steps; i++ {
			w := 2.0
			switch {
			case i == 0 || i == steps:
				w = 1
			case i%2 == 1:
				w = 4
			}
			r := math.Exp(a + step*float64(i))
			hf := field(r)
			s += complex(w, 0) * surface(r) * hf * hf
		}
		return s * complex(step/3/(2*math.Pi), 0)
	}
	// field carries j of H; j squared is -1.
	begin := 0.1
	if n > 0 {
		begin = math.Max(wire*2, 0.01)
	}
	edge := math.Max(length, begin*1.001)
	far := math.Max(edge*1.5, lambda)
	out := sum(begin, edge) + sum(edge, far)
	// Beyond, both phases turn as exp(-2jkr): half a turn more of it, falling as 1/r, closes the integral.
	tail := cmplx.Exp(complex(0, -2*k*far)) * complex(math.Pow((1-math.Cos(k*h))/sin, 2), 0)
	out += earth * tail / complex(2*math.Pi*2*k*far, 0) * complex(0, -1)
	return -out
}
