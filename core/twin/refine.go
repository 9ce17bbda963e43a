package twin

import (
	"context"
	"errors"
	"fmt"
	"math"
	"math/cmplx"
	"sort"

	"gonum.org/v1/gonum/optimize"

	"reed/core/antenna"
	"reed/core/circuit"
	"reed/core/moment"
	"reed/core/quantity"
)

// Length is one length by both ways, in metres: what the closed form gave and what the solver found. Piece is
// the line of the cut list, Field the shape's field; Off is how much longer the solved one is, in per cent.
type Length struct {
	Piece  string          `json:"piece"`
	Field  string          `json:"field"`
	Label  string          `json:"label"`
	Closed quantity.Length `json:"closed"`
	Solved quantity.Length `json:"solved"`
	// Electrical is the solved length of the piece, where that is not the whole of the field's.
	Electrical quantity.Length `json:"electrical"`
	Off        float64         `json:"off"`
}

// Refined is what the solver makes of a plan's lengths.
type Refined struct {
	Lengths  []Length         `json:"lengths"`
	Settings []string         `json:"settings"` // of what is set and not cut, by frequency
	Figures  []antenna.Figure `json:"figures"`
	Sentence string           `json:"sentence"`
	Why      string           `json:"why"`
}

// knob is one length that brings one frequency to resonance.
type knob struct {
	f     float64
	field string
	piece string
	label string
	high  bool // fed at a high impedance: resonance is where the susceptance vanishes
}

// refiner works on one plan.
type refiner struct {
	e    *Engine
	s    Setup
	done func(step, of int)
	n    int
	of   int
	// failed are the knobs for which no value was found, and what to say of them.
	failed map[string]string
}

func (r *refiner) step() {
	r.n++
	if r.done != nil {
		r.done(min(r.n, r.of), r.of)
	}
}

// Refine finds the lengths of a plan by solving it, closed form beside it. Families that are set or need no
// resonance answer with settings or the match instead.
func (e *Engine) Refine(ctx context.Context, s Setup, done func(step, of int)) (Refined, error) {
	r := &refiner{e: e, s: s, done: done, failed: map[string]string{}}
	out := Refined{Lengths: []Length{}, Settings: []string{}, Figures: []antenna.Figure{}}
	var err error
	knobs := r.knobs()
	switch {
	case s.Built.Family == "rectangle":
		err = r.rectangle(ctx, &out)
	case s.Built.Trims() == "settings":
		err = r.settings(ctx, &out)
	case s.Built.Trims() == "none":
		err = r.match(ctx, &out)
	case len(s.Built.More) > 0 && s.Built.Family == "end-fed":
		err = r.compromise(ctx, &out)
	default:
		err = r.resonate(ctx, knobs)
	}
	if err != nil {
		return Refined{}, err
	}
	if len(out.Lengths) == 0 && len(out.Settings) == 0 {
		for _, k := range knobs {
			if says := r.failed[k.field]; says != "" {
				out.Settings = append(out.Settings, says+": the closed form's length is kept")
				continue
			}
			out.add(k, r.value(s, k.field), r.value(r.s, k.field))
		}
	}
	out.electrical(r.s)
	out.explain(s)
	return out, nil
}

func (o *Refined) add(k knob, closed, solved float64) {
	solved = math.Round(solved*1000) / 1000
	o.Lengths = append(o.Lengths, Length{Piece: k.piece, Field: k.field, Label: k.label, Closed: quantity.Metres(closed), Solved: quantity.Metres(solved), Off: 100 * (solved/closed - 1)})
}

// knobs lists the lengths that are found by resonance, innermost and highest band first.
func (r *refiner) knobs() []knob {
	b := r.s.Built
	f := b.FrequencyHz
	switch b.Family {
	case "dipole":
		return []knob{{f, "radiator", "leg", "each leg", false}}
	case "linked-dipole":
		var out []knob
		all := b.All()
		for i, f := range all {
			field := antenna.LinkID(i)
			if i == len(all)-1 {
				field = "radiator"
			}
			out = append(out, knob{f, field, fmt.Sprintf("section %d, to %s MHz", i+1, quantity.ToKHz(f)), "leg up to its link for " + quantity.ToKHz(f) + " MHz", false})
		}
		return out
	case "multi-vertical":
		var out []knob
		all := b.All()
		n := len(all)
		for i, f := range all {
			field := "radiator"
			if i < n-1 {
				field = antenna.WireID(n - 2 - i)
			}
			out = append(out, knob{f, field, "wire for " + quantity.ToKHz(f) + " MHz", "wire for " + quantity.ToKHz(f) + " MHz", false})
		}
		return out
	case "end-fed", "j-pole":
		return []knob{{f, "radiator", "radiator", "radiator", true}}
	case "end-fed-loaded":
		all := b.All()
		out := []knob{{all[len(all)-1], "tail", "tail", "tail beyond the coil", true}}
		if high, ok := b.MainBand(); ok {
			out = append([]knob{{high, "coil_at", "main wire", "main wire up to the coil", true}}, out...)
		}
		return out
	case "vertical":
		return []knob{{f, "radiator", "radiator", "radiator", false}}
	case "helix":
		return []knob{{f, "helix_turns", "helix wire", "turns", false}}
	}
	return nil
}

// with is the set-up with one length changed, and those that hang on it.
func (r *refiner) with(s Setup, field string, m float64) Setup {
	b := &s.Built
	switch {
	case field == "helix_turns":
		b.Shape = b.Shape.With("radiator", b.Radiator) // a copy of its values
		b.PutNumber("helix_turns", m)
		return s
	case field == "tail":
		b.Shape = b.With("tail", quantity.Metres(m)).With("radiator", quantity.Metres(b.Size("coil_at")+m))
	case field == "coil_at":
		b.Shape = b.With("coil_at", quantity.Metres(m)).With("radiator", quantity.Metres(m+b.Size("tail")))
	default:
		b.Shape = b.With(field, quantity.Metres(m))
		if field == "radiator" && b.LegB.M > 0 {
			b.LegB = quantity.Metres(m)
		}
	}
	// Ends that were computed from the old length hang where the new one puts them.
	switch b.Variant {
	case "inverted-v":
		if b.ApexAngle != 0 && b.FarHeight.Typed == "" && b.Family != "end-fed" && b.Family != "end-fed-loaded" {
			b.FarHeight = quantity.Metres(math.Max(0, b.FeedHeight.M-b.Radiator.M*math.Cos(b.ApexAngle*math.Pi/360)))
		}
	case "upright":
		if b.FarHeight.Typed == "" && b.Family == "end-fed" {
			b.FarHeight = quantity.Metres(b.FeedHeight.M + b.Radiator.M)
		}
	}
	return s
}

func (r *refiner) value(s Setup, field string) float64 {
	if field == "helix_turns" {
		return s.Built.N("helix_turns", 0)
	}
	return s.Built.Size(field)
}

// z is the impedance at the wires.
func (r *refiner) z(ctx context.Context, s Setup, f float64) (complex128, error) {
	c, err := Build(s, f, &r.e.Tables)
	if err != nil {
		return 0, err
	}
	c.Model.Density = 30
	sol, err := moment.Solve(ctx, c.Model, f)
	if err != nil {
		return 0, err
	}
	return sol.Z, nil
}

// errNowhere says that no value of a knob does.
type errNowhere struct{ says string }

func (e errNowhere) Error() string { return e.says }

// turn finds the value of a knob, all others kept: where the reactance vanishes, or for an end-fed wire the
// match is best, within an eighth of where it stands.
func (r *refiner) turn(ctx context.Context, s Setup, k knob) (float64, error) {
	v := r.value(s, k.field)
	if v <= 0 {
		return v, fmt.Errorf("%s has no length to start from", k.label)
	}
	lo, hi := v*0.88, v*1.15
	switch k.field {
	case "tail":
		lo, hi = v*0.1, v*2.2
	case "helix_turns":
		lo, hi = v*0.6, v*1.6
	}
	nowhere := errNowhere{fmt.Sprintf("no %s between %s and %s serves %s MHz", k.label, quantity.Metric(lo, 10), quantity.Metric(hi, 10), quantity.ToKHz(k.f))}
	if k.high {
		return r.best(ctx, s, k, lo, hi, nowhere)
	}
	x := func(v float64) (float64, error) {
		z, err := r.z(ctx, r.with(s, k.field, v), k.f)
		return imag(z), err
	}
	a, b := v, v*0.98
	ya, err := x(a)
	if err != nil {
		return v, err
	}
	for range 12 {
		yb, err := x(b)
		if err != nil {
			return v, err
		}
		if math.Abs(yb) < 0.5 {
			return b, nil
		}
		if yb == ya {
			break
		}
		next := b - yb*(b-a)/(yb-ya)
		next = math.Min(math.Max(next, lo), hi)
		if next == b {
			break
		}
		a, ya, b = b, yb, next
	}
	return v, nowhere
}

// best looks for the length with the lowest SWR behind the transformer: by steps over the whole range, then
// closing in.
func (r *refiner) best(ctx context.Context, s Setup, k knob, lo, hi float64, nowhere error) (float64, error) {
	at := func(v float64) (float64, error) {
		t := r.with(s, k.field, v)
		z, err := r.z(ctx, t, k.f)
		if err != nil {
			return 0, err
		}
		feed, _ := chain{setup: t, electric: t.Built.Electrics(k.f)}.feed(k.f, z)
		return cmplx.Abs(circuit.Gamma(feed, 50)), nil
	}
	const steps = 10
	best, low := 0, math.Inf(1)
	for i := 0; i <= steps; i++ {
		g, err := at(lo + (hi-lo)*float64(i)/steps)
		if err != nil {
			return 0, err
		}
		if g < low {
			best, low = i, g
		}
	}
	if best == 0 || best == steps {
		return r.value(s, k.field), nowhere
	}
	const golden = 0.6180339887
	a, b := lo+(hi-lo)*float64(best-1)/steps, lo+(hi-lo)*float64(best+1)/steps
	for range 8 {
		c, d := b-golden*(b-a), a+golden*(b-a)
		gc, err := at(c)
		if err != nil {
			return 0, err
		}
		gd, err := at(d)
		if err != nil {
			return 0, err
		}
		if gc < gd {
			b = d
		} else {
			a = c
		}
	}
	return (a + b) / 2, nil
}

// resonate turns every knob in turn until none moves the others any more.
func (r *refiner) resonate(ctx context.Context, knobs []knob) error {
	rounds := 1
	if len(knobs) > 1 {
		rounds = 4
	}
	r.of = rounds * len(knobs)
	for round := range rounds {
		moved := 0.0
		for _, k := range knobs {
			was := r.value(r.s, k.field)
			v, err := r.turn(ctx, r.s, k)
			var nowhere errNowhere
			switch {
			case errors.As(err, &nowhere):
				r.failed[k.field] = nowhere.says
				r.step()
				continue
			case err != nil:
				return err
			}
			delete(r.failed, k.field)
			moved = math.Max(moved, math.Abs(v/was-1))
			r.s = r.with(r.s, k.field, v)
			r.step()
		}
		if round > 0 && moved < 0.001 {
			break
		}
	}
	return nil
}

// compromise finds the one end-fed length that is off by the same share on the band that wants the most wire
// and on the one that wants the least.
func (r *refiner) compromise(ctx context.Context, out *Refined) error {
	all := r.s.Built.All()
	r.of = len(all)
	lo, hi := math.Inf(1), 0.0
	for _, f := range all {
		v, err := r.turn(ctx, r.s, knob{f, "radiator", "radiator", "radiator", true})
		var nowhere errNowhere
		if errors.As(err, &nowhere) {
			out.Settings = append(out.Settings, nowhere.says)
			r.step()
			continue
		}
		if err != nil {
			return err
		}
		out.Settings = append(out.Settings, fmt.Sprintf("%s MHz alone would want %s", quantity.ToKHz(f), quantity.Metric(v, 10)))
		lo, hi = math.Min(lo, v), math.Max(hi, v)
		r.step()
	}
	if hi == 0 {
		return nil
	}
	best := (lo + hi) / 2
	out.add(knob{field: "radiator", piece: "radiator", label: "radiator for all"}, r.s.Built.Radiator.M, best)
	out.Figures = append(out.Figures, antenna.Figure{Label: "Off by at most", Value: fmt.Sprintf("%.1f %%", 100*(hi-lo)/2/best), Why: "on the bands that want the most and the least wire"})
	return nil
}

// settings solves what is set on each band.
func (r *refiner) settings(ctx context.Context, out *Refined) error {
	all := r.s.Built.All()
	r.of = len(all)
	for _, f := range all {
		c, says, err := r.e.set(ctx, r.s, Options{}, f)
		if err != nil {
			return err
		}
		closed := ""
		switch c.Electric.Knob {
		case "coil":
			closed = fmt.Sprintf(", by line theory %.3g uH", c.Electric.Henries*1e6)
		case "capacitor":
			closed = fmt.Sprintf(", by the loop's formula %.3g pF", c.Electric.Farads*1e12)
		}
		out.Settings = append(out.Settings, fmt.Sprintf("%s MHz: %s%s", quantity.ToKHz(f), says, closed))
		r.step()
	}
	return nil
}

// match tries a wire that need not be resonant at some lengths about the closed form's, and keeps the one
// whose worst SWR is the least.
func (r *refiner) match(ctx context.Context, out *Refined) error {
	all := r.s.Built.All()
	from := r.s.Built.Radiator.M
	shares := []float64{0.9, 0.95, 1, 1.05, 1.1}
	r.of = len(shares) * len(all)
	type tried struct{ l, worst float64 }
	var list []tried
	for _, share := range shares {
		s := r.with(r.s, "radiator", from*share)
		worst := 0.0
		for _, f := range all {
			z, err := r.z(ctx, s, f)
			if err != nil {
				return err
			}
			at, _ := chain{setup: s, electric: s.Built.Electrics(f)}.feed(f, z)
			worst = math.Max(worst, swr(at))
			r.step()
		}
		list = append(list, tried{from * share, worst})
	}
	planned := list[2]
	sort.Slice(list, func(i, j int) bool { return list[i].worst < list[j].worst })
	best := list[0]
	if best.worst > 0.9*planned.worst {
		best = planned
	}
	out.add(knob{field: "radiator", piece: map[bool]string{true: "leg", false: "radiator"}[r.s.Built.Family == "doublet"], label: "length with the least worst SWR"}, from, best.l)
	out.Figures = append(out.Figures, antenna.Figure{Label: "Worst SWR at the tuner", Value: Ratio(best.worst), Why: fmt.Sprintf("%s with %s as planned", Ratio(planned.worst), quantity.Metric(from, 10))})
	return nil
}

// rectangle optimises width and tails for the match and for what goes backward, at the design frequency.
func (r *refiner) rectangle(ctx context.Context, out *Refined) error {
	f := r.s.Built.FrequencyHz
	fields := []string{"width", "driven_tail", "reflector_tail"}
	start := make([]float64, len(fields))
	for i, id := range fields {
		start[i] = r.s.Built.Size(id)
	}
	set := func(x []float64) Setup {
		s := r.s
		for i, id := range fields {
			s.Built.Shape = s.Built.With(id, quantity.Metres(start[i]*x[i]))
		}
		s.Built.Radiator = quantity.Metres(s.Built.Size("width") + 2*s.Built.Size("driven_tail"))
		return s
	}
	const most = 90
	r.of = most
	var bad error
	judge := func(x []float64) (loss, match, front float64) {
		for _, v := range x {
			if v < 0.6 || v > 1.6 {
				return 100, 9, 0
			}
		}
		c, err := Build(set(x), f, &r.e.Tables)
		if err != nil {
			return 100, 9, 0
		}
		c.Model.Density = 24
		sol, err := moment.Solve(ctx, c.Model, f)
		if err != nil {
			bad = err
			return 100, 9, 0
		}
		match, front = swr(sol.Z), frontBack(sol)
		r.step()
		// Beyond 25 dB front to back moves with every leaf: no more is asked for.
		return 6*(match-1) + math.Max(0, 25-front) + 0.02*math.Abs(x[0]-1), match, front
	}
	problem := optimize.Problem{Func: func(x []float64) float64 { l, _, _ := judge(x); return l }, Status: func() (optimize.Status, error) {
		if ctx.Err() != nil {
			return optimize.Failure, ctx.Err()
		}
		return optimize.NotTerminated, nil
	}}
	result, err := optimize.Minimize(problem, []float64{1, 1, 1}, &optimize.Settings{FuncEvaluations: most}, &optimize.NelderMead{SimplexSize: 0.04})
	switch {
	case ctx.Err() != nil:
		return ctx.Err()
	case bad != nil:
		return bad
	case result == nil:
		return fmt.Errorf("the rectangle's dimensions cannot be optimised: %w", err)
	}
	_, match, front := judge(result.X)
	s := set(result.X)
	out.add(knob{field: "radiator", piece: "driven half", label: "driven element, whole"}, r.s.Built.Radiator.M, s.Built.Radiator.M)
	out.add(knob{piece: "reflector", label: "reflector, whole"}, r.s.Built.Size("width")+2*r.s.Built.Size("reflector_tail"), s.Built.Size("width")+2*s.Built.Size("reflector_tail"))
	for _, id := range fields {
		out.add(knob{field: id, label: map[string]string{"width": "width", "driven_tail": "each driven tail", "reflector_tail": "each reflector tail"}[id]}, r.s.Built.Size(id), s.Built.Size(id))
	}
	says := fmt.Sprintf("%.0f dB", front)
	if front > 25 {
		says = "over 25 dB"
	}
	out.Figures = append(out.Figures, antenna.Figure{Label: "Front to back", Value: says, Why: "at the take-off angle"}, antenna.Figure{Label: "SWR", Value: Ratio(match), Why: "at the design frequency"})
	return nil
}

// frontBack is the gain at the strongest direction over that behind it at the same height, in dB.
func frontBack(s *moment.Solution) float64 {
	el, az, gain := s.Strongest()
	return 10 * math.Log10(gain/math.Max(s.Gain(el, az+math.Pi), 1e-9))
}

// electrical works out the pieces of the cut list from the lengths of the fields.
func (o *Refined) electrical(s Setup) {
	inner := 0.0
	for i := range o.Lengths {
		l := &o.Lengths[i]
		l.Electrical = l.Solved
		switch {
		case s.Built.Family == "linked-dipole":
			from := inner
			if from > 0 {
				from += s.Built.Size("link_gap")
			}
			l.Electrical, inner = quantity.Metres(l.Solved.M-from), l.Solved.M
		case l.Field == "helix_turns":
			around := math.Pi * (s.Built.Size("helix_diameter") + 2*s.Built.Kind().Outer)
			l.Electrical = quantity.Metres(math.Hypot(l.Solved.M*around, s.Built.Radiator.M))
		case l.Piece == "driven half":
			l.Electrical = quantity.Metres(l.Solved.M / 2)
		}
	}
}

// explain says how far the two ways are apart, and why.
func (o *Refined) explain(s Setup) {
	worst := 0.0
	for _, l := range o.Lengths {
		if math.Abs(l.Off) > math.Abs(worst) {
			worst = l.Off
		}
	}
	switch {
	case s.Built.Trims() == "none" && len(o.Figures) > 0:
		o.Sentence = fmt.Sprintf("Of lengths within a tenth, %s leaves the tuner the least: SWR %s.", quantity.Metric(o.Lengths[0].Solved.M, 10), o.Figures[0].Value)
	case len(o.Lengths) == 0 && s.Built.Trims() != "settings":
		o.Sentence = "The solver finds no length near the closed form's: see below."
	case len(o.Lengths) == 0:
		o.Sentence = "Settings as solved with this ground, these radials and this height."
	case math.Abs(worst) < 0.3:
		o.Sentence = "The solver agrees with the closed form to a third of a per cent."
	case worst > 0:
		o.Sentence = fmt.Sprintf("The solver asks for up to %.1f %% more than the closed form.", worst)
	default:
		o.Sentence = fmt.Sprintf("The solver asks for up to %.1f %% less than the closed form.", -worst)
	}
	o.Why = map[string]string{
		"dipole":         "The closed form takes the ground's part from a plane-wave image and bends by rule; the solver has the real ground under every part of the wire.",
		"linked-dipole":  "What hangs beyond an open link, and the ground under a V, are in the solved lengths.",
		"multi-vertical": "The closed form leaves out the coupling between the wires through the air; the solver has it.",
		"end-fed":        "The closed form knows no counterpoise and no ground; both move an end-fed wire by several per cent.",
		"end-fed-loaded": "The coil's own capacitance and the counterpoise are in the solved tail.",
		"j-pole":         "The matching section carries a common current, which lengthens what is resonant.",
		"vertical":       "The closed form takes a good ground; the solver has your radials and soil.",
		"rectangle":      "Bent tips couple more than the straight elements of the closed form; width and tails are optimised for match and front-to-back.",
		"helix":          "The slow-wave factor is for a helix alone; the solver adds its end and the ground.",
		"doublet":        "Tried at five lengths within a tenth of the planned one.",
		"random-wire":    "Tried at five lengths within a tenth of the planned one, counterpoise and ground in.",
		"fence-wire":     "Tried at five lengths within a tenth of the planned one, low over the soil.",
	}[s.Built.Family]
	if o.Why == "" {
		o.Why = "Line theory against the solved wires, over your ground."
	}
}
