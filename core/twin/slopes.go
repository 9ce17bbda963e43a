package twin

import (
	"context"
	"fmt"
	"math"
	"math/cmplx"

	"reed/core/circuit"
	"reed/core/moment"
	"reed/core/quantity"
)

// Knob is a length of a set-up that is changed to move a resonance: the shape's field, what it is called, and
// the frequency in hertz that it is for. Legs is how many wires are changed alike. Of radials no resonance is
// their own: they move the radiator's, and where they are within reach they do so with the pole up. The turns of a
// helix take the place of its length.
type Knob struct {
	Field   string
	Label   string
	F       float64
	Legs    int
	Radials bool
	Turns   bool
}

// Knobs lists what of a set-up is trimmed, none when it is set or tuned. An end-fed wire on several bands has
// one for all.
func Knobs(s Setup) []Knob {
	r := &refiner{s: s}
	var out []Knob
	for _, k := range r.knobs() {
		legs := 1
		if s.Built.LegB.M > 0 || s.Built.Family == "linked-dipole" {
			legs = 2
		}
		out = append(out, Knob{Field: k.field, Label: k.label, F: k.f, Legs: legs, Turns: k.field == "helix_turns"})
	}
	switch s.Built.Family {
	case "rectangle":
		out = append(out, Knob{Field: "radiator", Label: "both elements, by their tails", F: s.Built.FrequencyHz, Legs: 1})
	case "whip":
		out = append(out, Knob{Field: "radiator", Label: "whip", F: s.Built.FrequencyHz, Legs: 1})
	}
	if b := s.Built; len(out) == 1 && b.Variant == "raised-radials" && b.Radials.Count > 0 && b.Radials.Length.M > 0 {
		out = append(out, Knob{Field: "radials_length", Label: "radials", F: b.FrequencyHz, Legs: b.Radials.Count, Radials: true})
	}
	return out
}

// Length is a knob's length in metres, or its turns.
func (k Knob) Length(s Setup) float64 { return (&refiner{s: s}).value(s, k.Field) }

// Step is a change as one can make it: in whole millimetres from 3 on, or in half turns.
func (k Knob) Step(change float64) float64 {
	if k.Turns {
		return math.Round(2*change) / 2
	}
	if change = math.Round(change*1000) / 1000; math.Abs(change) < 0.003 {
		return 0
	}
	return change
}

// Set is the set-up with a knob's length changed.
func (k Knob) Set(s Setup, metres float64) Setup {
	if s.Built.Family == "rectangle" {
		// The frame stays; what is taken off comes off the tails, of the reflector in the same share, so that the
		// beam is scaled and not only its driven element.
		share := metres/s.Built.Radiator.M - 1
		reflector := s.Built.Size("width") + 2*s.Built.Size("reflector_tail")
		for id, whole := range map[string]float64{"driven_tail": s.Built.Radiator.M, "reflector_tail": reflector} {
			s.Built.Shape = s.Built.With(id, quantity.Metres(math.Max(0.05, s.Built.Size(id)+share*whole/2)))
		}
		s.Built.Radiator = quantity.Metres(metres)
		return s
	}
	r := &refiner{s: s}
	return r.with(s, k.Field, metres)
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
	return vertex(match, at, h), true, nil
}

// vertex is where the parabola through a value and its neighbours h away is lowest.
func vertex(f func(float64) float64, at, h float64) float64 {
	a, m, z := f(at-h), f(at), f(at+h)
	if d := a - 2*m + z; d > 0 {
		at += h * (a - z) / (2 * d)
	}
	return at
}

func abs(i int) int { return max(i, -i) }

// Slopes are how the logarithm of each knob's resonance moves with the logarithm of each knob's length, by
// goal and then by length, from the solver: -1 for a plain wire in free space.
func (e *Engine) Slopes(ctx context.Context, s Setup, goals []float64, knobs []Knob) ([][]float64, error) {
	const step = 0.01
	out := make([][]float64, len(goals))
	for g, f := range goals {
		out[g] = make([]float64, len(knobs))
		// Where the model is resonant may be off the goal: looked for about it, then wider.
		base, ok, span := 0.0, false, 0.06
		for ; span < 0.3 && !ok; span *= 1.8 {
			var err error
			if base, ok, err = e.Resonance(ctx, s, f, f*(1-span), f*(1+span)); err != nil {
				return nil, err
			}
		}
		if !ok {
			return nil, fmt.Errorf("the model has no resonance near %s MHz", quantity.ToKHz(f))
		}
		for k, knob := range knobs {
			moved, ok, err := e.Resonance(ctx, knob.Set(s, knob.Length(s)*(1+step)), f, base*0.94, base*1.06)
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
