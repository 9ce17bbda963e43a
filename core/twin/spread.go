package twin

import (
	"context"
	"fmt"
	"math"
	"math/cmplx"
	"math/rand/v2"
	"slices"

	"reed/core/circuit"
	"reed/core/numeric"
)

// How a range is drawn: so many antennas, with what no unknown stands for: the solver's own error and the meter's, as standard
// deviations of the dip's and of the SWR's logarithm.
const (
	drawn      = 400
	ofDip      = 0.003
	ofSWR      = 0.04
	asSet      = 0.001 // of the dip, as one finds it with a meter
	gridPoints = 161
	beyond     = 0.03 // of the frequency, to which the curves are carried on
	inside     = 0.95
)

// variant is the set-up with one thing changed, as a curve: by how much its dip is moved, as a logarithm, and by what its impedance
// then differs, as the hyperbolic distance from what it was, with its direction: distances of several changes add up, and no sum of
// them is beyond what a passive antenna can be. sky is the logarithm by which the share differs that reaches the sky.
type variant struct {
	Unknown
	shift, sky float64
	differs    []complex128 // on the grid
}

// away is the hyperbolic distance of one impedance from another with its direction; moveBy is the impedance so far from one.
func away(from, z complex128) complex128 {
	m := (z - from) / (z + cmplx.Conj(from))
	r := math.Min(cmplx.Abs(m), 0.999999)
	if r < 1e-12 {
		return 0
	}
	return complex(math.Atanh(r)/cmplx.Abs(m), 0) * m
}

func moveBy(from, distance complex128) complex128 {
	r := cmplx.Abs(distance)
	if r < 1e-12 {
		return from
	}
	m := complex(math.Tanh(r)/r, 0) * distance
	return (from + cmplx.Conj(from)*m) / (1 - m)
}

// spread computes the same antenna as it may be in truth: each unknown is solved by itself, and antennas are drawn that differ in all
// of them.
func (e *Engine) spread(ctx context.Context, s Setup, o Options, x *solved, f, lo, hi float64, band Band) (*Spread, error) {
	beyond := beyond
	if x.narrow() {
		beyond = 0 // it is set to its frequency, and is too sharp to be drawn beyond
	}
	from, to := lo*(1-beyond), hi*(1+beyond)
	grid := make([]float64, gridPoints)
	for i := range grid {
		grid[i] = from + (to-from)*float64(i)/(gridPoints-1)
	}
	base := x.seen(grid)
	list := append(s.Unknowns(), s.Hidden()...)
	variants := make([]*variant, len(list))
	failed := make([]error, len(list))
	try := func(i int) { variants[i], failed[i] = e.variant(ctx, x, list[i], o, f, lo, hi, grid, base) }
	var err error
	if o.alone {
		err = numeric.Share(ctx, len(list), try)
	} else { // the bands keep the processors busy, and large cases take memory
		for i := range list {
			try(i)
		}
	}
	for _, err := range append(failed, err, ctx.Err()) {
		if err != nil {
			return nil, err
		}
	}
	variants = slices.DeleteFunc(variants, func(v *variant) bool { return v == nil })
	own := ofDip
	if x.narrow() {
		own = 0
	}
	out := draw(variants, grid, base, band, own)
	t := 100 * band.through()
	out.Says = fmt.Sprintf("soil, lengths, heights, what lies on the ground and the losses of parts as they may be: %.0f to %.0f %% is "+
		"radiated", t*out.Sky[0], t*out.Sky[1])
	return out, nil
}

// narrow reports whether a case is set to its frequency by a coil or capacitor, whatever its parts are like.
func (c Case) narrow() bool { return c.SetL > 0 || c.SetC > 0 }

// seen are the impedances that the radio sees, on a grid of frequencies in hertz.
func (x *solved) seen(grid []float64) []complex128 {
	const least = 0.05
	out := make([]complex128, len(grid))
	for i, f := range grid {
		z := x.chain.Socket(f, x.curve.At(f), false).Z
		out[i] = complex(math.Max(real(z), least), imag(z))
	}
	return out
}

// variant solves a set-up with one unknown changed; nil where nothing changes.
func (e *Engine) variant(ctx context.Context, x *solved, u Unknown, o Options, f, lo, hi float64, grid []float64, base []complex128) (
	*variant, error) {
	y := &solved{Case: x.Case, chain: x.chain, curve: x.curve, at: x.at}
	y.chain.setup = u.Setup
	y.chain.setup.Built.Coax = x.chain.setup.Built.Coax // as a line its length is known; what lies of its outside is not
	switch {
	case u.Setup.Inside != nil: // the wires are the same
	case u.Setup.Parts.Coupling > 0:
		if !x.Electric.Coupled {
			return nil, nil
		}
		y.chain.couple *= u.Setup.Parts.Coupling
	case u.Setup.Parts != Part{}:
		var ok bool
		if y.Case, ok = x.lossy(u.Setup.Parts); !ok {
			return nil, nil
		}
		if err := y.over(ctx, f, lo, hi, true); err != nil {
			return nil, err
		}
	default:
		c, _, err := e.set(ctx, u.Setup, o, f)
		if err != nil {
			return nil, nil // as it cannot be built nobody has it
		}
		y.Case = c
		if err := y.over(ctx, f, lo, hi, true); err != nil {
			return nil, err
		}
	}
	out := &variant{Unknown: u, differs: make([]complex128, len(grid))}
	was, is := x.at.Average(), y.at.Average()
	if was > 0 && is > 0 {
		out.sky = math.Log(is / was)
	}
	a, _ := x.dip(lo, hi)
	b, _ := y.dip(lo, hi)
	edge := func(at float64) bool { return math.Min(at-lo, hi-at) < 2e-3*(hi-lo) }
	if !edge(a) && !edge(b) && !tuned(x.from) && !x.narrow() {
		out.shift = math.Log(b / a)
	}
	moved := make([]float64, len(grid))
	for i, f := range grid {
		moved[i] = f * math.Exp(out.shift)
	}
	for i, z := range y.seen(moved) {
		out.differs[i] = away(base[i], z)
	}
	return out, nil
}

// draw makes the ranges of antennas that differ in all unknowns at once, each as much as is usual.
func draw(variants []*variant, grid []float64, base []complex128, band Band, ofDip float64) *Spread {
	rng := rand.New(rand.NewPCG(uint64(band.F), 31))
	on := func(values []complex128, f float64) complex128 {
		k := (f - grid[0]) / (grid[len(grid)-1] - grid[0]) * float64(len(grid)-1)
		k = math.Max(0, math.Min(k, float64(len(grid)-1)-1e-9))
		i := int(k)
		return values[i] + complex(k-float64(i), 0)*(values[i+1]-values[i])
	}
	swr := make([][]float64, len(band.Curve))
	var sky, dips []float64
	sum := make([]complex128, len(grid))
	for range drawn {
		shift, share := ofDip*rng.NormFloat64(), 0.0
		clear(sum)
		for _, v := range variants {
			by := v.Spread * rng.NormFloat64()
			if v.OneWay {
				by = math.Abs(by)
			}
			shift += by * v.shift
			share += by * v.sky
			for i, d := range v.differs {
				sum[i] += complex(by, 0) * d
			}
		}
		meter := math.Exp(ofSWR * rng.NormFloat64())
		for i, p := range band.Curve {
			f := p.F * math.Exp(-shift)
			g := cmplx.Abs(circuit.Gamma(moveBy(on(base, f), on(sum, f)), 50))
			swr[i] = append(swr[i], 1+(circuit.SWR(g)-1)*meter)
		}
		sky = append(sky, math.Min(1, band.Sky*math.Exp(share)))
		dips = append(dips, band.DipF*math.Exp(shift+asSet*rng.NormFloat64()))
	}
	out := &Spread{Sky: middle(sky, band.Sky), Dip: middle(dips, band.DipF)}
	for i, p := range band.Curve {
		r := middle(swr[i], p.SWR)
		out.Low, out.High = append(out.Low, math.Max(1, r[0])), append(out.High, r[1])
	}
	return out
}

// middle is the range of most of the values, widened to hold one.
func middle(values []float64, holds float64) [2]float64 {
	slices.Sort(values)
	n := float64(len(values) - 1)
	lo, hi := values[int(n*(1-inside)/2)], values[int(math.Ceil(n*(1+inside)/2))]
	return [2]float64{math.Min(lo, holds), math.Max(hi, holds)}
}
