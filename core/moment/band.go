package moment

import (
	"context"
	"fmt"
	"math"
	"math/cmplx"
	"slices"

	"reed/core/numeric"
)

// Curve is an impedance over frequency, as a rational function through solved points (Thiele's continued
// fraction). Off is by how much the curve through all but the last of them missed that one, as a difference of
// reflection coefficients.
type Curve struct {
	F   []float64
	Z   []complex128
	Off float64
	a   []complex128 // coefficients of the fraction
}

// Across is a range over which an impedance is fitted.
type Across struct {
	Lo, Hi    float64 // hertz
	Z0        float64 // ohms, against which the reflection coefficient is taken that judges the fit
	Tolerance float64 // of the reflection coefficient, 0 meaning 0.005
	Most      int     // of solves, 0 meaning 12
	// Known is a frequency within the range where the impedance is known to be KnownZ, 0 without.
	Known  float64
	KnownZ complex128
}

// Fit finds a curve with as few solves as it can: both ends and what is known or the middle, then where it was not solved
// yet, until an extra solve is predicted within the tolerance. Solve is called once for each.
func (a Across) Fit(ctx context.Context, solve func(ctx context.Context, f float64) (complex128, error)) (Curve, error) {
	tolerance, most := a.Tolerance, a.Most
	if tolerance == 0 {
		tolerance = 0.005
	}
	if most == 0 {
		most = 12
	}
	var c Curve
	gamma := func(z complex128) complex128 { return (z - complex(a.Z0, 0)) / (z + complex(a.Z0, 0)) }
	span := a.Hi - a.Lo
	// Halves, then odd quarters, eighths and so on, the ones near the middle first.
	order := []float64{0, 1, 0.5, 0.25, 0.75, 0.375, 0.625, 0.125, 0.875, 0.4375, 0.5625, 0.3125, 0.6875, 0.1875, 0.8125, 0.0625, 0.9375}
	if known := (a.Known - a.Lo) / span; known > 0.03 && known < 0.97 {
		// A point beside it would tell next to nothing.
		order = slices.DeleteFunc(order, func(t float64) bool { return math.Abs(t-known) < 0.03 || t == 0.5 && math.Abs(t-known) < 0.25 })
		c.add(a.Known, a.KnownZ)
		most--
	}
	for _, t := range order[:min(most, len(order))] {
		f := a.Lo + t*span
		z, err := solve(ctx, f)
		if err != nil {
			return c, err
		}
		known := len(c.F)
		if known >= 3 {
			c.Off = cmplx.Abs(gamma(c.At(f)) - gamma(z))
		}
		c.add(f, z)
		if known >= 3 && c.Off < tolerance {
			break
		}
	}
	if len(c.F) == 0 {
		return c, fmt.Errorf("no solve was allowed")
	}
	return c, nil
}

// add takes one more point into the fraction.
func (c *Curve) add(f float64, z complex128) {
	v := z
	for i, a := range c.a {
		d := v - a
		if d == 0 {
			d = complex(1e-12*math.Max(1, cmplx.Abs(v)), 0)
		}
		v = complex((f-c.F[i])/1e6, 0) / d
	}
	c.F, c.Z, c.a = append(c.F, f), append(c.Z, z), append(c.a, v)
}

// At is the impedance at f hertz.
func (c Curve) At(f float64) complex128 {
	for i, solved := range c.F {
		if f == solved {
			return c.Z[i]
		}
	}
	n := len(c.a) - 1
	v := c.a[n]
	for i := n - 1; i >= 0; i-- {
		if v == 0 {
			v = 1e-12
		}
		v = c.a[i] + complex((f-c.F[i])/1e6, 0)/v
	}
	return v
}

// Band solves a model quickly at many frequencies near each other: one mesh, its matrix filled at three of
// them, the turn of phase with distance taken out, and interpolated by a parabola between.
type Band struct {
	m      Model
	g      mesh
	lo, hi float64
	z      [][][]complex128 // by frequency
	apart  [][]float64      // metres between the rooftops' peaks, below the diagonal
}

// Over prepares a model from lo to hi hertz, which should not be farther apart than a fifth.
func Over(ctx context.Context, m Model, lo, hi float64) (*Band, error) {
	for _, f := range []float64{lo, hi} {
		if err := m.Check(f); err != nil {
			return nil, err
		}
	}
	g, err := meshed(m, hi)
	if err != nil {
		return nil, err
	}
	at := []float64{lo, (lo + hi) / 2, hi}
	b := &Band{m: m, g: g, lo: lo, hi: hi}
	if b.z, err = b.g.fill(ctx, m, at...); err != nil {
		return nil, err
	}
	n, k := len(b.g.roofs), wavesOf(at)
	b.apart = make([][]float64, n)
	peaks := make([]Vec, n)
	for i := range n {
		peaks[i] = b.g.peak(i)
		b.apart[i] = make([]float64, i)
	}
	// Times f, inductance and capacitance alike are parabolas in f.
	return b, numeric.Share(ctx, n, func(i int) {
		for n, f := range at {
			b.z[n][i][i] *= complex(f, 0)
		}
		for j := range i {
			b.apart[i][j] = peaks[i].sub(peaks[j]).length()
			back, step := k.turns(-b.apart[i][j])
			for n, f := range at {
				b.z[n][i][j] *= back * complex(f, 0)
				back *= step
			}
		}
	})
}

// peak is where a rooftop is highest.
func (g mesh) peak(i int) Vec {
	h := g.roofs[i][0]
	if h.atEnd {
		return g.segs[h.seg].to
	}
	return g.segs[h.seg].from
}

// turn is exp(jkR).
func turn(f, r float64) complex128 {
	s, c := math.Sincos(2 * math.Pi * f / numeric.Light * r)
	return complex(c, s)
}

// Solve finds the currents at f hertz.
func (b *Band) Solve(ctx context.Context, f float64) (*Solution, error) {
	t := (f-b.lo)/(b.hi-b.lo)*2 - 1
	w := [3]complex128{complex(t*(t-1)/2/f, 0), complex((1-t*t)/f, 0), complex(t*(t+1)/2/f, 0)}
	n := len(b.g.roofs)
	store := make([]complex128, n*n)
	z := make([][]complex128, n)
	for i := range z {
		z[i] = store[i*n : (i+1)*n]
	}
	if err := numeric.Share(ctx, n, func(i int) {
		p, q, r := b.z[0][i], b.z[1][i], b.z[2][i]
		z[i][i] = w[0]*p[i] + w[1]*q[i] + w[2]*r[i]
		for j := range i {
			v := (w[0]*p[j] + w[1]*q[j] + w[2]*r[j]) * turn(-f, b.apart[i][j])
			z[i][j], z[j][i] = v, v
		}
	}); err != nil {
		return nil, err
	}
	return b.g.solve(ctx, b.m, f, z)
}
