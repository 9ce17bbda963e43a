package earth

import (
	"math"
	"math/cmplx"
)

// bessel01 is J0 and J1 of a complex argument with a positive real part: ascending series for small ones,
// Hankel's expansion beyond (Abramowitz and Stegun 1964, 9.1.10 and 9.2.5). Relative error below 1e-8 of
// the larger of both where the imaginary part stays under a few units.
func bessel01(z complex128) (j0, j1 complex128) {
	if imag(z) == 0 {
		return complex(math.J0(real(z)), 0), complex(math.J1(real(z)), 0)
	}
	if cmplx.Abs(z) < 14 {
		q := -z * z / 4
		term0, term1 := complex128(1), z/2
		j0, j1 = term0, term1
		for k := 1.0; k < 80; k++ {
			term0 *= q / complex(k*k, 0)
			term1 *= q / complex(k*(k+1), 0)
			j0 += term0
			j1 += term1
			if cmplx.Abs(term0) < 1e-17*cmplx.Abs(j0) && cmplx.Abs(term1) < 1e-17*cmplx.Abs(j1) {
				break
			}
		}
		return j0, j1
	}
	hankel := func(mu float64) (p, q complex128) {
		p, q = 1, 0
		term := complex128(1)
		least := math.Inf(1)
		for k := 1; k < 40; k++ {
			term *= complex(mu-math.Pow(float64(2*k-1), 2), 0) / (complex(8*float64(k), 0) * z)
			if a := cmplx.Abs(term); a > least {
				break
			} else {
				least = a
			}
			switch k % 4 {
			case 1:
				q += term
			case 2:
				p -= term
			case 3:
				q -= term
			default:
				p += term
			}
		}
		return p, q
	}
	root := cmplx.Sqrt(2 / (math.Pi * z))
	p, q := hankel(0)
	c := z - math.Pi/4
	j0 = root * (p*cmplx.Cos(c) - q*cmplx.Sin(c))
	p, q = hankel(4)
	c = z - 3*math.Pi/4
	return j0, root * (p*cmplx.Cos(c) - q*cmplx.Sin(c))
}
