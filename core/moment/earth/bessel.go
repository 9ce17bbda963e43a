package earth

import "math"

// Coefficients of the ascending series in q = -z^2/4: 1/(k!)^2 for J0, 1/(k!(k+1)!) for J1 over z/2; and of
// Hankel's expansions in 1/z^2 (Abramowitz and Stegun 1964, 9.1.10 and 9.2.5).
var (
	series0, series1 [40]float64
	hankelP, hankelQ [2][7]float64
)

func init() {
	series0[0], series1[0] = 1, 1
	for k := 1; k < len(series0); k++ {
		n := float64(k)
		series0[k] = series0[k-1] / (n * n)
		series1[k] = series1[k-1] / (n * (n + 1))
	}
	for order, mu := range []float64{0, 4} {
		term := 1.0
		for k := range 14 {
			if k > 0 {
				odd := float64(2*k - 1)
				term *= (mu - odd*odd) / (8 * float64(k))
			}
			sign := 1.0
			if k/2%2 == 1 {
				sign = -1
			}
			if k%2 == 0 {
				hankelP[order][k/2] = sign * term
			} else {
				hankelQ[order][k/2] = sign * term
			}
		}
	}
}

// bessel01 is J0 and J1 of a complex argument with a positive real part. Relative error below 1e-8 of the
// larger of both where the imaginary part stays under a few units.
func bessel01(z complex128) (j0, j1 complex128) {
	size := real(z)*real(z) + imag(z)*imag(z)
	if size < 144 {
		q := -z * z / 4
		// As many terms as the argument needs.
		n := min(len(series0)-1, 5+int(2.4*math.Sqrt(size)))
		for k := n; k >= 0; k-- {
			j0 = j0*q + complex(series0[k], 0)
			j1 = j1*q + complex(series1[k], 0)
		}
		return j0, j1 * z / 2
	}
	inverse := over(z)
	y := inverse * inverse
	horner := func(c *[7]float64) (s complex128) {
		for k := 6; k >= 0; k-- {
			s = s*y + complex(c[k], 0)
		}
		return s
	}
	front := root(inverse * (2 / math.Pi))
	// cos and sin of z - pi/4 from one exponential each way; those of z - 3 pi/4 are sin and -cos of it.
	c := z - math.Pi/4
	s, co := math.Sincos(real(c))
	up, down := math.Exp(imag(c)), math.Exp(-imag(c))
	cos := complex(co*(up+down)/2, -s*(up-down)/2)
	sin := complex(s*(up+down)/2, co*(up-down)/2)
	j0 = front * (horner(&hankelP[0])*cos - inverse*horner(&hankelQ[0])*sin)
	j1 = front * (horner(&hankelP[1])*sin + inverse*horner(&hankelQ[1])*cos)
	return j0, j1
}
