package twin

import (
	"context"
	"fmt"
	"math"
	"math/cmplx"

	"reed/core/antenna/family"
	"reed/core/circuit"
	"reed/core/moment"
	"reed/core/numeric"
	"reed/core/quantity"
)

// With is the set-up with a knob's length in metres, or its turns, changed.
func (s Setup) With(k family.Knob, v float64) Setup {
	s.Built.Shape = k.Set(s.Built.Shape, v)
	return s
}

// Resonance is where a set-up's SWR dips between two frequencies in hertz, nearest to their middle, at the end
// of the coax at the antenna. ok is false when it does so nowhere.
func (e *Engine) Resonance(ctx context.Context, s Setup, f, lo, hi float64) (at float64, ok bool, err error) {
	c, _, err := e.set(ctx, s, Options{Coarse: true}, f)
	if err != nil {
		return 0, false, err
	}
	b, err := moment.Over(ctx, c.Model, lo, hi)
	if err != nil {
		return 0, false, err
	}
	solve := func(ctx context.Context, f float64) (complex128, error) {
		x, err := b.Solve(ctx, f)
		if err != nil {
			return 0, err
		}
		return x.Z, nil
	}
	middle, err := solve(ctx, (lo+hi)/2)
	if err != nil {
		return 0, false, err
	}
	curve, err := moment.Across{Lo: lo, Hi: hi, Z0: math.Max(1, math.Min(cmplx.Abs(middle), 3000)), Tolerance: 0.004}.Fit(ctx, solve)
	if err != nil {
		return 0, false, err
	}
	last := chain{setup: s, electric: c.Electric, couple: real(middle)}
	match := func(f float64) float64 {
		feed, _ := last.feed(f, curve.At(f))
		return cmplx.Abs(circuit.Gamma(feed, 50))
	}
	const steps = 240
	values := make([]float64, steps+1)
	for i := range values {
		values[i] = match(lo + (hi-lo)*float64(i)/steps)
	}
	// The dip nearest to the middle: another wire's may be deeper.
	best := -1
	for i := 1; i < steps; i++ {
		if values[i] <= values[i-1] && values[i] < values[i+1] && (best < 0 || abs(i-steps/2) < abs(best-steps/2)) {
			best = i
		}
	}
	if best < 0 {
		return (lo + hi) / 2, false, nil
	}
	// A parabola through the lowest three.
	h := (hi - lo) / steps
	at = lo + h*float64(best)
	return numeric.Vertex(match, at, h), true, nil
}

func abs(i int) int { return max(i, -i) }

// NoDip says that the model of a set-up dips nowhere near a frequency in hertz.
type NoDip struct{ Hz float64 }

func (e NoDip) Error() string {
	return fmt.Sprintf("the model has no resonance near %s MHz", quantity.ToKHz(e.Hz))
}

// Near is where the model of a set-up dips nearest to a frequency in hertz: looked for about it, then wider.
func (e *Engine) Near(ctx context.Context, s Setup, f float64) (at float64, ok bool, err error) {
	for span := 0.06; span < 0.3 && !ok; span *= 1.8 {
		if at, ok, err = e.Resonance(ctx, s, f, f*(1-span), f*(1+span)); err != nil {
			return 0, false, err
		}
	}
	return at, ok, nil
}

// Slopes are how the logarithm of each knob's resonance moves with the logarithm of each knob's length, by
// goal and then by length, from the solver: -1 for a plain wire in free space.
func (e *Engine) Slopes(ctx context.Context, s Setup, goals []float64, knobs []family.Knob) ([][]float64, error) {
	const step = 0.01
	out := make([][]float64, len(goals))
	for g, f := range goals {
		out[g] = make([]float64, len(knobs))
		base, ok, err := e.Near(ctx, s, f)
		if err != nil {
			return nil, err
		}
		if !ok {
			return nil, NoDip{f}
		}
		for k, knob := range knobs {
			moved, ok, err := e.Resonance(ctx, s.With(knob, knob.Length(s.Built.Shape)*(1+step)), f, base*0.94, base*1.06)
			if err != nil {
				return nil, err
			}
			if ok {
				out[g][k] = math.Log(moved/base) / math.Log(1+step)
			}
		}
	}
	return out, nil
}
