// Package numeric holds what several rooms compute with: constants of nature, quadrature, searches in one dimension,
// a linear regression with a Gaussian belief, and work shared out over the processors.
package numeric

import (
	"math"

	"gonum.org/v1/gonum/integrate/quad"
	"gonum.org/v1/gonum/mat"
	"gonum.org/v1/gonum/stat/distuv"
)

// Constants of nature in SI units (CODATA 2018).
const (
	Light = 299792458.0      // m/s, by definition
	Mu0   = 1.25663706212e-6 // H/m
	Eps0  = 8.8541878128e-12 // F/m
	Eta0  = 376.730313668    // ohm, the impedance of free space
)

// Rule is a quadrature on 0 to 1: its points and their weights.
type Rule struct{ X, W []float64 }

// Legendre is the Gauss-Legendre rule of n points on 0 to 1: exact for polynomials up to the degree 2n-1.
func Legendre(n int) Rule {
	r := Rule{make([]float64, n), make([]float64, n)}
	quad.Legendre{}.FixedLocations(r.X, r.W, 0, 1)
	return r
}

// Bisect finds where f changes its sign between a and b, to within the given distance and no finer than floats reach;
// ok is false when it has the same sign at both, or has no value there.
func Bisect(f func(float64) float64, a, b, within float64) (x float64, ok bool) {
	fa, fb := f(a), f(b)
	if math.IsNaN(fa) || math.IsNaN(fb) || fa*fb > 0 {
		return 0, false
	}
	for math.Abs(b-a) > within {
		m := (a + b) / 2
		if m == a || m == b {
			break
		}
		if fm := f(m); fm*fa > 0 {
			a = m
		} else {
			b = m
		}
	}
	return (a + b) / 2, true
}

// golden is the ratio that a golden section keeps.
const golden = 0.6180339887498949

// Golden finds the lowest value of f between a and b, where it falls and then rises, to within the given distance.
func Golden(f func(float64) (float64, error), a, b, within float64) (float64, error) {
	c, d := b-golden*(b-a), a+golden*(b-a)
	fc, err := f(c)
	if err != nil {
		return 0, err
	}
	fd, err := f(d)
	if err != nil {
		return 0, err
	}
	for b-a > within {
		if fc < fd {
			b, d, fd = d, c, fc
			c = b - golden*(b-a)
			fc, err = f(c)
		} else {
			a, c, fc = c, d, fd
			d = a + golden*(b-a)
			fd, err = f(d)
		}
		if err != nil {
			return 0, err
		}
	}
	return (a + b) / 2, nil
}

// Secant looks for where f is zero, from two guesses. next bounds where it looks after x, and done says whether a value
// is near enough. ok is false when it found none within the tries; x is then the last.
func Secant(f func(float64) (float64, error), a, b float64, tries int, next func(x, to float64) float64,
	done func(x, fx float64) bool) (x float64, ok bool, err error) {
	fa, err := f(a)
	if err != nil {
		return a, false, err
	}
	for range tries {
		fb, err := f(b)
		switch {
		case err != nil:
			return b, false, err
		case done(b, fb):
			return b, true, nil
		case fb == fa:
			return b, false, nil
		}
		to := next(b, b-fb*(b-a)/(fb-fa))
		if to == b {
			return b, false, nil
		}
		a, fa, b = b, fb, to
	}
	return b, false, nil
}

// Vertex is where the parabola through f at x and h to either side is lowest; x itself where it has no lowest point.
func Vertex(f func(float64) float64, x, h float64) float64 {
	a, m, z := f(x-h), f(x), f(x+h)
	if d := a - 2*m + z; d > 0 {
		x += h * (a - z) / (2 * d)
	}
	return x
}

// Belief is the estimate of the coefficients of a linear law: their means and covariance.
type Belief struct {
	Mean []float64
	Cov  *mat.SymDense
}

// Believe begins with independent coefficients of given means and standard deviations.
func Believe(mean, sd []float64) *Belief {
	b := &Belief{append([]float64(nil), mean...), mat.NewSymDense(len(mean), nil)}
	for i, s := range sd {
		b.Cov.SetSym(i, i, s*s)
	}
	return b
}

// Learn takes in that the law gave y at x, with a variance of its noise: recursive linear regression (Kalman).
func (b *Belief) Learn(x []float64, y, variance float64) {
	n := len(b.Mean)
	at, gain := mat.NewVecDense(n, x), mat.NewVecDense(n, nil)
	gain.MulVec(b.Cov, at)
	v := variance + mat.Dot(at, gain)
	off := y - mat.Dot(at, mat.NewVecDense(n, b.Mean))
	for i := range n {
		b.Mean[i] += gain.AtVec(i) / v * off
	}
	b.Cov.SymRankOne(b.Cov, -1/v, gain)
}

// Says returns the law's value at x, and its variance.
func (b *Belief) Says(x []float64) (y, variance float64) {
	at := mat.NewVecDense(len(x), x)
	return mat.Dot(at, mat.NewVecDense(len(b.Mean), b.Mean)), mat.Inner(at, b.Cov, at)
}

// Solve solves a x = r for a positive matrix; ok is false when it is none.
func Solve(a *mat.SymDense, r []float64) (x []float64, ok bool) {
	var c mat.Cholesky
	if !c.Factorize(a) {
		return nil, false
	}
	out := mat.NewVecDense(len(r), nil)
	if c.SolveVecTo(out, mat.NewVecDense(len(r), r)) != nil {
		return nil, false
	}
	return out.RawVector().Data, true
}

// Poisson is the exact 95 % interval of a rate from a count in a time (Garwood 1936).
func Poisson(count, time float64) (lo, hi float64) {
	if count > 0 {
		lo = distuv.ChiSquared{K: 2 * count}.Quantile(0.025) / 2 / time
	}
	return lo, distuv.ChiSquared{K: 2*count + 2}.Quantile(0.975) / 2 / time
}
