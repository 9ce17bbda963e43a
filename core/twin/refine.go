package twin

import (
	"context"
	"errors"
	"fmt"
	"math"
	"math/cmplx"
	"slices"
	"sort"

	"gonum.org/v1/gonum/optimize"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/circuit"
	"reed/core/moment"
	"reed/core/numeric"
	"reed/core/phrase"
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
	Off    float64         `json:"off"`
}

// Refined holds a plan's lengths by the solver.
type Refined struct {
	Lengths  []Length `json:"lengths"`
	Settings []string `json:"settings"` // of what is set and not cut, by frequency
	// Solved is the request's list that makes a plan use these lengths and settings.
	Solved  []antenna.Solved `json:"solved"`
	Figures []phrase.Figure  `json:"figures"`
	// Better are typed lengths for which another would match better. They stay as typed.
	Better   []Better `json:"better"`
	Sentence string   `json:"sentence"`
	Why      string   `json:"why"`
	// Failed says, by field, for which lengths none was found, and what is kept.
	Failed map[string]string `json:"-"`
}

// Better is a length that would match better than the one that was typed into a field: Text is its text for the field, Says the
// SWR with either.
type Better struct {
	Field string          `json:"field"`
	Size  quantity.Length `json:"size"`
	Text  string          `json:"text"`
	Says  string          `json:"says"`
}

// given reports whether the operator typed a field of the plan.
func (s Setup) given(field string) bool {
	return slices.Contains(s.Given, field) || family.Of(s.Built.Shape).Fixed(s.Given, field)
}

// typedLength reports whether the operator typed any of the lengths that the solver would find.
func (s Setup) typedLength() bool {
	a := family.Of(s.Built.Shape)
	if beam := a.Beam(); beam != nil {
		return slices.ContainsFunc(beam.Lengths, func(l family.Part) bool { return s.given(l.Field) })
	}
	return slices.ContainsFunc(a.Solved(), func(k family.Knob) bool { return s.given(k.Field) })
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
	// least says for those of them where the SWR is the least, and how much it is there.
	least map[string]string
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
	r := &refiner{e: e, s: s, done: done, failed: map[string]string{}, least: map[string]string{}}
	out := Refined{Lengths: []Length{}, Settings: []string{}, Solved: []antenna.Solved{}, Figures: []phrase.Figure{},
		Better: []Better{}, Failed: map[string]string{}}
	var err error
	a := family.Of(s.Built.Shape)
	knobs, typed := a.Solved(), []family.Knob{}
	switch {
	case a.Beam() != nil:
		err = r.beam(ctx, *a.Beam(), &out)
	case a.Trims() == family.Settings:
		err = r.settings(ctx, &out)
	case a.Trims() == family.NoTrim:
		err = r.match(ctx, knobs[0], &out)
	case len(s.Built.More) > 0 && a.Kind().OneForAll:
		err = r.compromise(ctx, knobs[0], &out)
	default:
		for _, k := range knobs {
			if s.given(k.Field) {
				typed = append(typed, k)
			}
		}
		knobs = slices.DeleteFunc(knobs, func(k family.Knob) bool { return s.given(k.Field) })
		if err = r.resonate(ctx, knobs); err == nil {
			err = r.suggest(ctx, typed, &out)
		}
	}
	if err != nil {
		return Refined{}, err
	}
	if len(out.Lengths) == 0 && len(out.Settings) == 0 {
		for _, k := range knobs {
			if s.given(k.Field) {
				continue
			}
			if says := r.failed[k.Field]; says != "" {
				least, found := r.least[k.Field]
				if out.Failed[k.Field] = says + ": the closed form's length is kept"; found {
					out.Failed[k.Field] = says + ": " + least
				}
				out.Settings = append(out.Settings, out.Failed[k.Field])
				if !found {
					continue
				}
			}
			out.add(k, k.Length(s.Built.Shape), k.Length(r.s.Built.Shape))
		}
	}
	out.explain(s)
	return out, nil
}

// suggest finds for each typed length the one that would match better at its frequency, all others kept.
func (r *refiner) suggest(ctx context.Context, typed []family.Knob, out *Refined) error {
	for _, k := range typed {
		k.Within = widerRange
		v, err := r.turn(ctx, r.s, k)
		var nowhere errNowhere
		if errors.As(err, &nowhere) {
			continue
		}
		if err != nil {
			return err
		}
		if k.Bound(v) != v {
			continue // so far it does not go
		}
		now, err := r.swr(ctx, r.s, k.F)
		if err != nil {
			return err
		}
		then, err := r.swr(ctx, r.s.With(k, v), k.F)
		if err != nil {
			return err
		}
		out.better(r.s, k, v, now, then, " on "+quantity.ToKHz(k.F)+" MHz")
	}
	return nil
}

// widerRange is how far from a typed length, as shares of it, a better one is looked for: it may be for another band.
var widerRange = [2]float64{0.6, 1.7}

// swr is the SWR at the feed, behind the transformer.
func (r *refiner) swr(ctx context.Context, s Setup, f float64) (float64, error) {
	z, err := r.z(ctx, s, f)
	if err != nil {
		return 0, err
	}
	feed, _ := chain{setup: s, electric: family.Of(s.Built.Shape).Electrics(f)}.feed(f, z)
	return swr(feed), nil
}

// better adds a length that would match better than the typed one, if the difference matters: SWR now and then, at what where
// says.
func (o *Refined) better(s Setup, k family.Knob, v, now, then float64, where string) {
	if then > 0.93*now || now < 1.3 || quantity.SWR(then) == quantity.SWR(now) {
		return
	}
	b := Better{Field: k.Field, Size: quantity.Metres(math.Round(v*1000) / 1000)}
	if b.Text = s.Units.Long(b.Size.M); k.Turns() {
		b.Text = fmt.Sprintf("%.1f", v)
	}
	b.Says = fmt.Sprintf("%s would suit better: SWR %s instead of %s%s.", size(s.Units, k, v), quantity.SWR(then), quantity.SWR(now), where)
	o.Better = append(o.Better, b)
}

func (o *Refined) add(k family.Knob, closed, solved float64) {
	rounded := math.Round(solved*1000) / 1000
	o.Solved = append(o.Solved, antenna.Solved{Piece: k.Piece, Field: k.Field, Size: quantity.Metres(rounded)})
	o.Lengths = append(o.Lengths, Length{Piece: k.Piece, Field: k.Field, Label: k.Label, Closed: quantity.Metres(closed),
		Solved: quantity.Metres(rounded), Off: 100 * (rounded/closed - 1)})
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
func (r *refiner) turn(ctx context.Context, s Setup, k family.Knob) (float64, error) {
	v := k.Length(s.Built.Shape)
	if v <= 0 {
		return v, fmt.Errorf("%s has no length to start from", k.Label)
	}
	lo, hi := v*k.Within[0], v*k.Within[1]
	nowhere := errNowhere{fmt.Sprintf("no %s between %s and %s serves %s MHz", k.Label, size(s.Units, k, lo), size(s.Units, k, hi),
		quantity.ToKHz(k.F))}
	if k.High {
		return r.best(ctx, s, k, lo, hi, nowhere)
	}
	x := func(v float64) (float64, error) {
		z, err := r.z(ctx, s.With(k, v), k.F)
		return imag(z), err
	}
	at, ok, err := numeric.Secant(x, v, v*0.98, 12, func(_, to float64) float64 { return math.Min(math.Max(to, lo), hi) },
		func(_, x float64) bool { return math.Abs(x) < 0.5 })
	switch {
	case err != nil:
		return v, err
	case !ok && r.failed[k.Field] != "":
		return v, nowhere // it was looked for all over before, with the others nearly as they are
	case !ok:
		return r.crossing(ctx, x, lo, hi, nowhere)
	}
	return at, nil
}

// crossing looks over a whole range for where a reactance rises through nought, for what the way from where a knob stands
// does not reach: behind a place where it is without bounds.
func (r *refiner) crossing(ctx context.Context, x func(v float64) (float64, error), lo, hi float64, nowhere error) (float64, error) {
	const steps = 24
	last, before := 0.0, math.Inf(1)
	for i := range steps + 1 {
		v := lo + (hi-lo)*float64(i)/steps
		now, err := x(v)
		if ctx.Err() != nil {
			return 0, ctx.Err()
		}
		if err != nil { // so long it cannot be
			before = math.Inf(1)
			continue
		}
		if before < 0 && now >= 0 {
			at, ok, err := numeric.Secant(x, v, last, 12, func(_, to float64) float64 { return math.Min(math.Max(to, last), v) },
				func(_, x float64) bool { return math.Abs(x) < 0.5 })
			if ok && err == nil {
				return at, nil
			}
		}
		last, before = v, now
	}
	return 0, nowhere
}

// best looks for the length with the lowest SWR behind the transformer: by steps over the whole range, then
// closing in.
func (r *refiner) best(ctx context.Context, s Setup, k family.Knob, lo, hi float64, nowhere error) (float64, error) {
	at := func(v float64) (float64, error) {
		t := s.With(k, v)
		z, err := r.z(ctx, t, k.F)
		if err != nil {
			return 0, err
		}
		feed, _ := chain{setup: t, electric: family.Of(t.Built.Shape).Electrics(k.F)}.feed(k.F, z)
		return cmplx.Abs(circuit.Gamma(feed, 50)), nil
	}
	const steps = 10
	best, low := 0, math.Inf(1)
	var hung [steps + 1]bool
	var why error
	for i := range hung {
		g, err := at(lo + (hi-lo)*float64(i)/steps)
		switch {
		case ctx.Err() != nil:
			return 0, ctx.Err()
		case err != nil:
			why = err // so long it cannot hang where it is to hang
			continue
		}
		if hung[i] = true; g < low {
			best, low = i, g
		}
	}
	switch {
	case math.IsInf(low, 1):
		return 0, why
	case best == 0 || best == steps || !hung[best-1] || !hung[best+1]:
		return k.Length(s.Built.Shape), nowhere
	}
	step := (hi - lo) / steps
	from, to := lo+step*float64(best-1), lo+step*float64(best+1)
	// A few steps of the section come near it; then it is moved until the dip over frequency lies where it is wanted, which
	// is what one sees of it.
	near, err := numeric.Golden(at, from, to, 2*step/12)
	if err != nil {
		return 0, err
	}
	if dipped, ok, err := r.dipped(ctx, s, k, near, from, to); ok || ctx.Err() != nil {
		return dipped, err
	}
	return numeric.Golden(at, from, to, 2*step/40)
}

// dipped is the value of a knob with which the SWR dips at its frequency; ok is false where none is found between two
// values.
func (r *refiner) dipped(ctx context.Context, s Setup, k family.Knob, near, from, to float64) (float64, bool, error) {
	const window, fine = 0.12, 4e-4
	seen := true
	off := func(v float64) (float64, error) {
		at, ok, err := r.e.Resonance(ctx, s.With(k, v), k.F, k.F*(1-window), k.F*(1+window))
		seen = seen && ok
		return at/k.F - 1, err
	}
	v, ok, err := numeric.Secant(off, near, near*0.99, 8, func(_, next float64) float64 { return math.Min(math.Max(next, from), to) },
		func(_, off float64) bool { return math.Abs(off) < fine })
	return v, ok && seen && err == nil, err
}

// resonate turns every knob in turn until none moves the others any more.
func (r *refiner) resonate(ctx context.Context, knobs []family.Knob) error {
	rounds := 1
	if len(knobs) > 1 {
		rounds = 4
	}
	r.of = rounds * len(knobs)
	for round := range rounds {
		moved := 0.0
		for _, k := range knobs {
			was := k.Length(r.s.Built.Shape)
			v, err := r.turn(ctx, r.s, k)
			var nowhere errNowhere
			switch {
			case errors.As(err, &nowhere):
				r.failed[k.Field] = nowhere.says
				r.step()
				continue
			case err != nil:
				return err
			}
			delete(r.failed, k.Field)
			moved = math.Max(moved, math.Abs(v/was-1))
			r.s = r.s.With(k, v)
			r.step()
		}
		if round > 0 && moved < 0.001 {
			break
		}
	}
	for _, k := range knobs {
		if r.failed[k.Field] != "" && !k.High {
			if err := r.leastSWR(ctx, k); err != nil {
				return err
			}
		}
	}
	return nil
}

// leastSWR sets a length for which nothing is resonant to where the SWR at its frequency is the least, if that is less than now.
func (r *refiner) leastSWR(ctx context.Context, k family.Knob) error {
	at := func(v float64) (float64, error) { return r.swr(ctx, r.s.With(k, v), k.F) }
	v := k.Length(r.s.Built.Shape)
	lo, hi := v*k.Within[0], v*k.Within[1]
	now, err := at(v)
	if err != nil {
		return err
	}
	const steps = 12
	best, low := v, now
	for i := range steps + 1 {
		x := lo + (hi-lo)*float64(i)/steps
		swr, err := at(x)
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if err == nil && swr < low { // what cannot hang so is no choice
			best, low = x, swr
		}
	}
	if low < now {
		step := (hi - lo) / steps
		if closer, err := numeric.Golden(at, math.Max(lo, best-step), math.Min(hi, best+step), step/20); err == nil {
			if swr, err := at(closer); err == nil && swr < low {
				best, low = closer, swr
			}
		}
	}
	r.s = r.s.With(k, best)
	r.least[k.Field] = fmt.Sprintf("%s has the least SWR, %s", size(r.s.Units, k, best), quantity.SWR(low))
	return nil
}

// compromise finds the one end-fed length that is off by the same share on the band that wants the most wire
// and on the one that wants the least.
func (r *refiner) compromise(ctx context.Context, k family.Knob, out *Refined) error {
	all := r.s.Built.All()
	r.of = len(all)
	lo, hi := math.Inf(1), 0.0
	if r.s.given(k.Field) {
		k.Within = widerRange
	}
	for _, f := range slices.Backward(all) { // the lowest first: it has to be served
		k.F = f
		v, err := r.turn(ctx, r.s, k)
		var nowhere errNowhere
		if errors.As(err, &nowhere) {
			out.Settings = append(out.Settings, nowhere.says)
			r.step()
			continue
		}
		if err != nil {
			return err
		}
		out.Settings = append(out.Settings, fmt.Sprintf("%s MHz alone would want %s", quantity.ToKHz(f), r.s.Units.Long(v)))
		if hi == 0 || antenna.ServedWith(v, hi) {
			lo, hi = math.Min(lo, v), math.Max(hi, v)
		}
		r.step()
	}
	if hi == 0 {
		return nil
	}
	best := (lo + hi) / 2
	if r.s.given(k.Field) {
		return r.suggestForAll(ctx, k, best, out)
	}
	k.Label = "radiator for all"
	out.add(k, k.Length(r.s.Built.Shape), best)
	out.Figures = append(out.Figures, phrase.Figure{Label: "Off by at most", Value: fmt.Sprintf("%.1f %%", 100*(hi-lo)/2/best),
		Why: "on the bands that want the most and the least wire"})
	return nil
}

// suggestForAll says whether another length than the typed one would match better on the band where it matches worst.
func (r *refiner) suggestForAll(ctx context.Context, k family.Knob, v float64, out *Refined) error {
	worst := func(s Setup) (w float64, err error) {
		for _, f := range r.s.Built.All() {
			at, err := r.swr(ctx, s, f)
			if err != nil {
				return 0, err
			}
			w = math.Max(w, at)
		}
		return w, nil
	}
	now, err := worst(r.s)
	if err != nil {
		return err
	}
	then, err := worst(r.s.With(k, v))
	if err != nil {
		return err
	}
	out.better(r.s, k, v, now, then, " on the worst band")
	return nil
}

// settings solves what is set on each band.
func (r *refiner) settings(ctx context.Context, out *Refined) error {
	all, a := r.s.Built.All(), family.Of(r.s.Built.Shape)
	r.of = len(all)
	for _, f := range all {
		c, says, err := r.e.set(ctx, r.s, Options{}, f)
		if err != nil {
			return err
		}
		closed := ""
		switch c.Electric.Knob {
		case "coil":
			if c.from.Bridged {
				break
			}
			closed = fmt.Sprintf(", by line theory %.3g uH", c.Electric.Henries*1e6)
		case "capacitor":
			closed = fmt.Sprintf(", by the loop's formula %.3g pF", c.Electric.Farads*1e12)
		}
		v := c.from.Built.Radiator().M
		switch own := f == r.s.Built.FrequencyHz; {
		case c.Lost:
		case c.from.Bridged:
			_, above, _ := family.Of(c.from.Built.Shape).AboveCoil()
			out.Solved = append(out.Solved, antenna.Solved{FrequencyHz: f, Size: quantity.Metres(math.Round(above*1000) / 1000)})
		case c.Electric.Knob == "length" && own && r.s.given(antenna.Radiator):
		case c.Electric.Knob == "length" && own && v > 0 && len(a.Solved()) == 0:
			for _, k := range a.Knobs() {
				if k.Field == antenna.Radiator {
					out.add(k, r.s.Built.Radiator().M, v)
				}
			}
		case c.Electric.Knob == "length" && !own:
			out.Solved = append(out.Solved, antenna.Solved{Field: antenna.Radiator, FrequencyHz: f,
				Size: quantity.Metres(math.Round(v*1000) / 1000)})
		case c.SetL > 0 || c.SetC > 0:
			out.Solved = append(out.Solved, antenna.Solved{FrequencyHz: f, Henries: c.SetL, Farads: c.SetC})
		}
		out.Settings = append(out.Settings, fmt.Sprintf("%s MHz: %s%s", quantity.ToKHz(f), says, closed))
		r.step()
	}
	return nil
}

// match tries a wire that need not be resonant at some lengths about the closed form's, and keeps the one
// whose worst SWR is the least.
func (r *refiner) match(ctx context.Context, k family.Knob, out *Refined) error {
	all := r.s.Built.All()
	from := k.Length(r.s.Built.Shape)
	shares := []float64{0.9, 0.95, 1, 1.05, 1.1}
	r.of = len(shares) * len(all)
	type tried struct{ l, worst float64 }
	var list []tried
	for _, share := range shares {
		s := r.s.With(k, from*share)
		worst := 0.0
		for _, f := range all {
			z, err := r.z(ctx, s, f)
			if err != nil && share != 1 && ctx.Err() == nil {
				worst = math.Inf(1) // what cannot hang so long is no choice
				break
			}
			if err != nil {
				return err
			}
			at, _ := chain{setup: s, electric: family.Of(s.Built.Shape).Electrics(f)}.feed(f, z)
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
	if r.s.given(k.Field) {
		out.Figures = append(out.Figures, phrase.Figure{Label: "Worst SWR at the tuner", Value: quantity.SWR(planned.worst),
			Why: "with the typed length of " + r.s.Units.Long(from)})
		out.better(r.s, k, best.l, planned.worst, best.worst, " at the tuner")
		return nil
	}
	k.Label = "length with the least worst SWR"
	out.add(k, from, best.l)
	out.Figures = append(out.Figures, phrase.Figure{Label: "Worst SWR at the tuner", Value: quantity.SWR(best.worst),
		Why: fmt.Sprintf("%s with %s as planned", quantity.SWR(planned.worst), r.s.Units.Long(from))})
	return nil
}

// beam optimises the lengths of a directive antenna for the match and for what goes backward, at the design frequency.
func (r *refiner) beam(ctx context.Context, of family.Beam, out *Refined) error {
	f := r.s.Built.FrequencyHz
	// A wire at hand keeps its length: the part beyond the frame becomes its tails.
	whole := func(w family.WholeWire) float64 {
		if r.s.given(w.AtHand) && !r.s.given(w.Tail) {
			return w.Length(r.s.Built.Shape)
		}
		return 0
	}
	follows := func(field string) bool {
		return slices.ContainsFunc(of.Wholes, func(w family.WholeWire) bool { return w.Tail == field && whole(w) > 0 })
	}
	free := slices.DeleteFunc(slices.Clone(of.Lengths), func(l family.Part) bool { return r.s.given(l.Field) || follows(l.Field) })
	if len(free) == 0 {
		return nil
	}
	start := make([]float64, len(free))
	for i, l := range free {
		start[i] = r.s.Built.M(l.Field)
	}
	set := func(x []float64) Setup {
		s := r.s
		for i, l := range free {
			s.Built.Put(l.Field, quantity.Metres(start[i]*x[i]))
		}
		s.Built.Shape = of.Close(of.Tails(s.Built.Shape, whole))
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
	result, err := optimize.Minimize(problem, slices.Repeat([]float64{1}, len(start)), &optimize.Settings{FuncEvaluations: most},
		&optimize.NelderMead{SimplexSize: 0.04})
	switch {
	case ctx.Err() != nil:
		return ctx.Err()
	case bad != nil:
		return bad
	case result == nil:
		return fmt.Errorf("the antenna's dimensions cannot be optimised: %w", err)
	}
	_, match, front := judge(result.X)
	best := set(result.X).Built.Shape
	of.Lengths = slices.DeleteFunc(slices.Clone(of.Lengths), func(l family.Part) bool { return r.s.given(l.Field) })
	of.Wholes = slices.DeleteFunc(slices.Clone(of.Wholes), func(w family.WholeWire) bool { return whole(w) > 0 })
	out.beam(of, r.s.Built.Shape, best, match, front)
	return nil
}

// beam tells the lengths of a beam before and after, its match and its front to back in dB.
func (o *Refined) beam(of family.Beam, was, now antenna.Shape, match, front float64) {
	for _, w := range of.Wholes {
		o.add(family.Knob{Field: w.Field, Piece: w.Piece, Label: w.Label}, w.Length(was), w.Length(now))
	}
	for _, l := range of.Lengths {
		o.add(family.Knob{Field: l.Field, Label: l.Label}, was.M(l.Field), now.M(l.Field))
	}
	says := fmt.Sprintf("%.0f dB", front)
	if front > 25 {
		says = "over 25 dB"
	}
	o.Figures = append(o.Figures, phrase.Figure{Label: "Front to back", Value: says, Why: "at the take-off angle"},
		phrase.Figure{Label: "SWR", Value: quantity.SWR(match), Why: "at the design frequency"})
}

// frontBack is the gain at the strongest direction over that behind it at the same height, in dB.
func frontBack(s *moment.Solution) float64 {
	el, az, gain := s.Strongest()
	return 10 * math.Log10(gain/math.Max(s.Gain(el, az+math.Pi), 1e-9))
}

// size prints a value of a knob.
func size(units quantity.System, k family.Knob, v float64) string {
	if k.Turns() {
		return fmt.Sprintf("%.0f turns", v)
	}
	return units.Long(v)
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
	case len(o.Better) > 0:
		o.Sentence = o.Better[0].Says
	case len(o.Lengths) == 0 && len(o.Failed) == 0 && s.typedLength():
		o.Sentence = "The typed lengths stay as they are."
	case family.Of(s.Built.Shape).Trims() == family.NoTrim && len(o.Figures) > 0:
		o.Sentence = fmt.Sprintf("Of lengths within a tenth, %s leaves the tuner the least: SWR %s.", s.Units.Long(o.Lengths[0].Solved.M),
			o.Figures[0].Value)
	case len(o.Lengths) == 0 && family.Of(s.Built.Shape).Trims() != family.Settings:
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
	if o.Why = family.Of(s.Built.Shape).Kind().Why; o.Why == "" {
		o.Why = "Line theory against the solved wires, over your ground."
	}
}
