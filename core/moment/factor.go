package moment

import (
	"context"
	"errors"
	"math"
	"math/cmplx"

	"gonum.org/v1/gonum/blas/cblas128"

	"reed/core/numeric"
)

// errSingular says that the matrix has no solution.
var errSingular = errors.New("the solution is singular: wires may overlap")

// block is how many columns are factored between the moments at which work is shared out.
const block = 32

// symmetric solves z x = v for a symmetrical matrix: z = L D L^T, without pivots, half the work of the
// elimination of a general one. The lower half of z is overwritten, the upper half and the diagonal's copy
// stay to check the answer: when its residual is not small the general elimination is taken instead.
func symmetric(ctx context.Context, z [][]complex128, v []complex128) ([]complex128, error) {
	n := len(z)
	diagonal := make([]complex128, n)
	for i := range z {
		diagonal[i] = z[i][i]
	}
	f := factor{z: z, inverse: make([]complex128, n), scratch: [2][]complex128{make([]complex128, n), make([]complex128, n)}}
	sound, err := f.make(ctx)
	if err != nil {
		return nil, err
	}
	if sound {
		if x := f.solve(v); residual(z, diagonal, x, v) < 1e-8 {
			return x, nil
		}
	}
	for i := range z { // restore the lower half
		z[i][i] = diagonal[i]
		for j := range i {
			z[i][j] = z[j][i]
		}
	}
	return eliminate(ctx, z, append([]complex128(nil), v...))
}

// factor is z = L D L^T: row i of z holds W = L D up to the diagonal, inverse is that of D; a row's L is made in scratch
// while it is worked on.
type factor struct {
	z       [][]complex128
	inverse []complex128
	scratch [2][]complex128
}

// row factors columns from up to to of a row.
func (f factor) row(i, from, to int, l []complex128) {
	for k := range from {
		l[k] = f.z[i][k] * f.inverse[k]
	}
	for j := from; j < min(i, to); j++ {
		f.z[i][j] -= dot(l[:j], f.z[j][:j])
		l[j] = f.z[i][j] * f.inverse[j]
	}
}

// make factors block by block, the rows below a block shared out. It reports whether no part of D was lost.
func (f factor) make(ctx context.Context) (sound bool, err error) {
	n := len(f.z)
	for c := 0; c < n; c += block {
		if err := ctx.Err(); err != nil {
			return false, err
		}
		end := min(c+block, n)
		for i := c; i < end && ctx.Err() == nil; i++ {
			l := f.scratch[0]
			f.row(i, c, end, l)
			f.z[i][i] -= dot(l[:i], f.z[i][:i])
			d := f.z[i][i]
			if d == 0 || cmplx.IsNaN(d) {
				return false, ctx.Err()
			}
			f.inverse[i] = 1 / d
		}
		part := func(lo, hi int, l []complex128) {
			for i := lo; i < hi && ctx.Err() == nil; i++ {
				f.row(i, c, end, l)
			}
		}
		if n-end < 24 {
			part(end, n, f.scratch[0])
			continue
		}
		mid := (end + n) / 2
		halves := [2][2]int{{end, mid}, {mid, n}}
		if err := numeric.Share(ctx, len(halves), func(i int) { part(halves[i][0], halves[i][1], f.scratch[i]) }); err != nil {
			return false, err
		}
	}
	return true, ctx.Err()
}

// solve is x of z x = v from the factors.
func (f factor) solve(v []complex128) []complex128 {
	x := append([]complex128(nil), v...)
	for i := range f.z { // L y = v, with y over D in place
		for k := range i {
			x[i] -= f.z[i][k] * x[k]
		}
		x[i] *= f.inverse[i]
	}
	for i := len(f.z) - 1; i >= 0; i-- { // L^T x = y
		for k := range i {
			x[k] -= f.z[i][k] * f.inverse[k] * x[i]
		}
	}
	return x
}

// residual is how far z x misses v, against v, read from the upper half and the diagonal.
func residual(z [][]complex128, diagonal, x, v []complex128) float64 {
	n := len(z)
	got := make([]complex128, n)
	for i := range n {
		got[i] += diagonal[i] * x[i]
		for j := i + 1; j < n; j++ {
			got[i] += z[i][j] * x[j]
			got[j] += z[i][j] * x[i]
		}
	}
	off, size := 0.0, 0.0
	for i := range n {
		off += sqAbs(got[i] - v[i])
		size += sqAbs(v[i])
	}
	if math.IsNaN(off) || size == 0 {
		return math.Inf(1)
	}
	return math.Sqrt(off / size)
}

func sqAbs(z complex128) float64 { return real(z)*real(z) + imag(z)*imag(z) }

// dot is the sum of products, unconjugated.
func dot(a, b []complex128) complex128 {
	return cblas128.Dotu(cblas128.Vector{N: len(a), Inc: 1, Data: a}, cblas128.Vector{N: len(a), Inc: 1, Data: b})
}

// eliminate solves z x = v in place: Gaussian elimination with partial pivoting.
func eliminate(ctx context.Context, z [][]complex128, v []complex128) ([]complex128, error) {
	n := len(z)
	for c := range n {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		best := c
		for r := c + 1; r < n; r++ {
			if cmplx.Abs(z[r][c]) > cmplx.Abs(z[best][c]) {
				best = r
			}
		}
		z[c], z[best], v[c], v[best] = z[best], z[c], v[best], v[c]
		pivot := z[c][c]
		if pivot == 0 || cmplx.IsNaN(pivot) {
			return nil, errSingular
		}
		row, vc := z[c], v[c]
		for r := c + 1; r < n; r++ {
			f := z[r][c] / pivot
			if f == 0 {
				continue
			}
			target := z[r]
			for k := c + 1; k < n; k++ {
				target[k] -= f * row[k]
			}
			v[r] -= f * vc
		}
	}
	for c := n - 1; c >= 0; c-- {
		for k := c + 1; k < n; k++ {
			v[c] -= z[c][k] * v[k]
		}
		v[c] /= z[c][c]
	}
	return v, nil
}
