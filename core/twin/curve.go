package twin

import (
	"context"
	"math"
	"math/cmplx"
	"sort"

	"reed/core/moment"
)

// Curve is the impedance in ohms at the antenna's end of the coax, behind transformer or line, from lo to hi
// hertz: solved in pieces of a sixth in frequency, each fitted for itself. A coil or capacitor is
// set for the wanted frequency nearest to the middle; a length stands as it was recorded.
func (e *Engine) Curve(ctx context.Context, s Setup, lo, hi float64) (func(f float64) complex128, error) {
	f := s.Built.Wanted(math.Sqrt(lo * hi))
	c, _, err := e.set(ctx, s, Options{Standing: true, mesh: 18}, f)
	if err != nil {
		return nil, err
	}
	middleOfBand, err := moment.Solve(ctx, c.Model, f)
	if err != nil {
		return nil, err
	}
	var edges []float64
	var curves []moment.Curve
	for from := lo; from < hi; {
		to := math.Min(from*1.18, hi)
		if hi < to*1.03 {
			to = hi
		}
		b, err := moment.Over(ctx, c.Model, from, to)
		if err != nil {
			return nil, err
		}
		at := func(ctx context.Context, f float64) (complex128, error) {
			x, err := b.Solve(ctx, f)
			if err != nil {
				return 0, err
			}
			return x.Z, nil
		}
		z, err := at(ctx, math.Sqrt(from*to))
		if err != nil {
			return nil, err
		}
		x, err := moment.Across{Lo: from, Hi: to, Z0: math.Max(0.05, math.Min(cmplx.Abs(z), 2000)), Tolerance: 0.02}.Fit(ctx, at)
		if err != nil {
			return nil, err
		}
		edges, curves = append(edges, to), append(curves, x)
		from = to
	}
	last := chain{setup: s, electric: c.Electric, couple: real(middleOfBand.Z)}
	return func(f float64) complex128 {
		i := min(sort.SearchFloat64s(edges, f), len(curves)-1)
		feed, _ := last.feed(f, curves[i].At(f))
		return feed
	}, nil
}
