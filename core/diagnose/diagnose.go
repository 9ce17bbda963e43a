// Package diagnose asks why a sweep is not as the model says: it fits single explanations to the measured
// curve, ranks them by how much better each does with its freedom counted, and says which check tells the
// first two apart.
package diagnose

import (
	"context"
	"errors"
	"fmt"
	"math"
	"math/cmplx"
	"sort"

	"gonum.org/v1/gonum/floats"
	"gonum.org/v1/gonum/mat"

	"reed/core/band"
	"reed/core/circuit"
	"reed/core/quantity"
	"reed/core/sweep"
	"reed/core/twin"
)

// Subject is a set-up as recorded with its sweep, referred to the antenna's end of the coax. AtRadio says that
// it was measured through that coax; Lo and Hi are the range in hertz that is explained.
type Subject struct {
	Setup   twin.Setup
	Feed    sweep.Curve
	AtRadio bool
	Lo, Hi  float64
	Units   quantity.System
}

// Around is the range in hertz that is explained of a band with a dip at a frequency: both, and a little to
// either side.
func Around(b band.Band, dip float64) (lo, hi float64) {
	return math.Min(b.Lo, dip) * 0.96, math.Max(b.Hi, dip) * 1.04
}

// Point is a predicted SWR at a measured frequency.
type Point struct {
	F   float64 `json:"hz"`
	SWR float64 `json:"swr"`
}

// Explanation is one single cause, fitted. Misfit is the root mean square of what is left of the reflection
// coefficient; Share is its part of all the explanations' weight, in per cent.
type Explanation struct {
	ID     string  `json:"id"`
	Title  string  `json:"title"`
	Says   string  `json:"says"`
	Check  string  `json:"check"`
	Misfit float64 `json:"misfit"`
	Share  float64 `json:"share"`
	Curve  []Point `json:"curve"`
	chi2   float64
	rarity float64 // how unlikely it is beforehand, on the same scale
	bic    float64
}

// Diagnosis is the ranked list. Nothing says that none of them explains the sweep well.
type Diagnosis struct {
	Sentence     string        `json:"sentence"`
	Separate     string        `json:"separate"`
	Nothing      bool          `json:"nothing"`
	Explanations []Explanation `json:"explanations"`
}

const (
	points = 25
	// model is what the solver's reflection coefficient of a rightly recorded set-up may be off by, beside its unknowns.
	model = 0.02
	// independent is how many of the points count as independent, since a curve in one band is smooth.
	independent = 6
	// poor is the misfit beyond which nothing explains a sweep.
	poor = 0.075
)

// cause is an explanation before it is fitted: what it does to the set-up, or to the curve.
type cause struct {
	id, title, check string
	from, to         float64 // of its value; equal when it has none
	values           []float64
	apply            func(s twin.Setup, v float64) twin.Setup
	bend             func(g complex128, v float64) complex128
	say              func(v float64) string
}

func plain(text string) func(float64) string { return func(float64) string { return text } }

// settings is the cause that what is set is set for another frequency: the one at which the sweep dips.
func (x Subject) settings(wanted float64) []cause {
	dip, width, ok := x.dip()
	if !ok {
		return nil
	}
	var about []float64
	for k := -3.0; k <= 3; k++ {
		about = append(about, (dip+k*width/20)/wanted)
	}
	return []cause{{id: "setting", title: "It is set for another frequency", check: "set it anew and see whether the dip comes", values: about,
		apply: func(s twin.Setup, v float64) twin.Setup {
			s.Built.FrequencyHz, s.Built.More = wanted*v, nil
			return s
		},
		say: func(v float64) string {
			return fmt.Sprintf("for %s MHz instead of %s", quantity.ToKHz(wanted*v), quantity.ToKHz(wanted))
		}}}
}

func more(v float64) string {
	if v > 0 {
		return "longer"
	}
	return "shorter"
}

// measured is the sweep at the points that are explained; phase says whether it has one.
type measured struct {
	f     []float64
	g     []complex128
	phase bool
}

// span is the part of the sweep that is explained.
func (x Subject) span() (lo, hi float64, ok bool) {
	lo, hi, ok = x.Feed.Measured(x.Lo, x.Hi)
	return lo, hi, ok && hi > lo*1.002
}

// shallow is a reflection above which the least of a sweep is noise, or a fault, and no dip.
const shallow = 0.9

// dip is where what is explained dips, and how wide.
func (x Subject) dip() (at, width float64, ok bool) {
	lo, hi, ok := x.span()
	if !ok {
		return 0, 0, false
	}
	at, w := x.Feed.Dip(lo, hi)
	return at, w.Hz, x.Feed.Mag(at) < shallow
}

func (x Subject) measured() (measured, error) {
	lo, hi, ok := x.span()
	if _, _, any := x.Feed.Measured(x.Lo, x.Hi); any && !ok {
		return measured{}, errors.New("one reading says where the dip is, not why: read a few more to both sides of it, where you may send")
	}
	if !ok {
		return measured{}, fmt.Errorf("the sweep does not reach %s to %s MHz", quantity.MHz(x.Lo), quantity.MHz(x.Hi))
	}
	// A narrow dip would fall between the points.
	if at, width, ok := x.dip(); ok && width < (hi-lo)/8 {
		lo, hi = math.Max(lo, at-3*width), math.Min(hi, at+3*width)
	}
	out := measured{phase: true}
	at := x.Feed.Readings(lo, hi)
	if at == nil { // a sweep is known between its points, too
		for i := range points {
			at = append(at, lo+(hi-lo)*float64(i)/(points-1))
		}
	}
	for _, f := range at {
		g, ok := x.Feed.Gamma(f)
		if !ok {
			out.phase = false
			g = complex(x.Feed.Mag(f), 0)
		}
		out.f, out.g = append(out.f, f), append(out.g, g)
	}
	return out, nil
}

// apart returns the difference of two curves as real numbers: both parts of the reflection coefficient where the
// phase was measured, otherwise its size.
func (m measured) apart(a, b []complex128) []float64 {
	var out []float64
	for i := range a {
		if m.phase {
			out = append(out, real(a[i]-b[i]), imag(a[i]-b[i]))
		} else {
			out = append(out, cmplx.Abs(a[i])-cmplx.Abs(b[i]))
		}
	}
	return out
}

// explain fits the residual of a predicted curve by the model's unknowns: they take as much of it as is
// likely of them, each by its own spread. chi2 is the remaining residual with the stretch of the unknowns, misfit the root mean square of
// what is left.
func (m measured) explain(predicted []complex128, unknowns [][]float64) (chi2, misfit float64) {
	left := m.apart(m.g, predicted)
	weight := math.Min(1, independent/float64(len(m.f))) / (model * model)
	n := len(unknowns)
	stretch := make([]float64, n)
	if n > 0 {
		a, b := mat.NewSymDense(n, nil), mat.NewVecDense(n, nil)
		for i, u := range unknowns {
			for j := i; j < n; j++ {
				a.SetSym(i, j, weight*floats.Dot(u, unknowns[j]))
			}
			a.SetSym(i, i, a.At(i, i)+1)
			b.SetVec(i, weight*floats.Dot(u, left))
		}
		var chol mat.Cholesky
		var x mat.VecDense
		if chol.Factorize(a) && chol.SolveVecTo(&x, b) == nil {
			for i := range stretch {
				stretch[i] = x.AtVec(i)
				floats.AddScaled(left, -stretch[i], unknowns[i])
			}
		}
	}
	square := floats.Dot(left, left)
	return weight*square + floats.Dot(stretch, stretch), math.Sqrt(square / float64(len(m.f)))
}

// predict returns the model's reflection coefficients at the measured points.
func (x Subject) predict(ctx context.Context, e *twin.Engine, m measured, s twin.Setup) ([]complex128, error) {
	at, err := e.Curve(ctx, s, m.f[0], m.f[len(m.f)-1])
	if err != nil {
		return nil, err
	}
	out := make([]complex128, len(m.f))
	for i, f := range m.f {
		out[i] = circuit.Gamma(at(f), sweep.Reference)
	}
	return out, nil
}

// Diagnose fits every explanation. It calls done after each.
func Diagnose(ctx context.Context, e *twin.Engine, x Subject, done func(step, of int)) (Diagnosis, error) {
	m, err := x.measured()
	if err != nil {
		return Diagnosis{}, err
	}
	base, err := x.predict(ctx, e, m, x.Setup)
	if err != nil {
		return Diagnosis{}, err
	}
	unknowns, err := x.unknowns(ctx, e, m, base)
	if err != nil {
		return Diagnosis{}, err
	}
	list, at := x.causes(), x
	cable, known := x.Setup.Built.Coax.Cable()
	var out Diagnosis
	for n, c := range list {
		try := func(v float64) ([]complex128, float64) {
			g := make([]complex128, len(base))
			if c.bend != nil {
				for i := range g {
					g[i] = c.bend(base[i], v)
				}
			} else if predicted, err := x.predict(ctx, e, m, c.apply(x.Setup, v)); err != nil {
				return nil, math.Inf(1) // a set-up that cannot be is no explanation
			} else {
				g = predicted
			}
			chi2, _ := m.explain(g, unknowns)
			return g, chi2
		}
		best, g, chi2 := fit(c, try)
		if err := ctx.Err(); err != nil {
			return Diagnosis{}, err
		}
		if done != nil {
			done(n+1, len(list))
		}
		if math.IsInf(chi2, 1) {
			continue
		}
		_, miss := m.explain(g, unknowns)
		free := 0.0
		switch {
		case c.from != c.to:
			free = 1
		case len(c.values) > 0:
			free = 0.8
		case c.id != "recorded":
			free = 0.4
		}
		x := Explanation{ID: c.id, Title: c.title, Says: c.say(best), Check: c.check, Misfit: miss}
		x.chi2, x.rarity = chi2, free*math.Log(independent)
		if c.id != "recorded" {
			x.rarity += 2 * math.Log(float64(len(list))) // all of them together are as likely beforehand as that nothing is the matter
		}
		for i, f := range m.f {
			seen := g[i]
			if known && at.AtRadio {
				seen = cable.AtInput(seen, f, at.Setup.Built.Coax.Length.M)
			}
			x.Curve = append(x.Curve, Point{f, circuit.SWR(math.Min(cmplx.Abs(seen), 0.9999))})
		}
		out.Explanations = append(out.Explanations, x)
	}
	out.rank()
	if err := x.compareWithUnknowns(ctx, e, m, base, &out); err != nil {
		return Diagnosis{}, err
	}
	return out, nil
}

// mostByUnknowns is the highest share in per cent of a cause where unknowns of the model, larger than usual, explain the sweep as well.
const mostByUnknowns = 85

// compareWithUnknowns limits the share of the first cause where the set-up as recorded explains the sweep as well when its unknowns
// differ by more than usual, and names the unknown that does most of it.
func (x Subject) compareWithUnknowns(ctx context.Context, e *twin.Engine, m measured, base []complex128, d *Diagnosis) error {
	const larger, alike = 2.5, 4.0
	if len(d.Explanations) == 0 || d.Nothing || d.Explanations[0].ID == "recorded" || d.Explanations[0].Share <= mostByUnknowns {
		return nil
	}
	var rows [][]float64
	var names []string
	for _, u := range append(x.Setup.Unknowns(), x.Setup.Hidden()...) {
		g, err := x.predict(ctx, e, m, u.Setup)
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if err != nil {
			continue
		}
		row := m.apart(g, base)
		floats.Scale(larger*u.Spread, row)
		rows, names = append(rows, row), append(names, u.Name)
	}
	first := &d.Explanations[0]
	if chi2, _ := m.explain(base, rows); chi2 > first.chi2+alike {
		return nil
	}
	best, name := math.Inf(1), ""
	for i, row := range rows {
		if chi2, _ := m.explain(base, [][]float64{row}); chi2 < best {
			best, name = chi2, names[i]
		}
	}
	rest := 100 - first.Share
	for i := range d.Explanations[1:] {
		d.Explanations[i+1].Share *= (100 - mostByUnknowns) / rest
	}
	first.Share = mostByUnknowns
	d.Sentence += fmt.Sprintf(" Not certain: the set-up as recorded explains it as well, with more than the usual doubt about %s.", name)
	return nil
}

// unknowns returns how a correctly recorded set-up may differ from its model, each as the change of its curve over one spread:
// soil, how things hang and lie, what is inside a transformer or a choke. None of them is a cause to blame.
func (x Subject) unknowns(ctx context.Context, e *twin.Engine, m measured, base []complex128) ([][]float64, error) {
	var out [][]float64
	for _, u := range x.Setup.Unknowns() {
		g, err := x.predict(ctx, e, m, u.Setup)
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		if err == nil {
			change := m.apart(g, base)
			floats.Scale(u.Spread, change)
			out = append(out, change)
		}
	}
	return out, nil
}

// fit finds the value of a cause that explains best: steps over its range, then closing in on the two best valleys, since a
// curve that moves past a narrow dip is as wrong far off as it is close by.
func fit(c cause, try func(v float64) ([]complex128, float64)) (best float64, g []complex128, miss float64) {
	miss = math.Inf(1)
	look := func(v float64) float64 {
		a, m := try(v)
		if m < miss {
			best, g, miss = v, a, m
		}
		return m
	}
	switch {
	case len(c.values) > 0:
		for _, v := range c.values {
			look(v)
		}
		return best, g, miss
	case c.from == c.to:
		look(c.from)
		return best, g, miss
	}
	const steps = 9
	step := (c.to - c.from) / (steps - 1)
	var tried [steps]float64
	for i := range tried {
		tried[i] = look(c.from + step*float64(i))
	}
	var valleys []int
	for i, m := range tried {
		if (i == 0 || m <= tried[i-1]) && (i == steps-1 || m < tried[i+1]) {
			valleys = append(valleys, i)
		}
	}
	sort.SliceStable(valleys, func(i, k int) bool { return tried[valleys[i]] < tried[valleys[k]] })
	for _, i := range valleys[:min(len(valleys), 2)] {
		if tried[i] > 3*tried[valleys[0]]+10*independent {
			break // as deep it cannot get
		}
		at, low := c.from+step*float64(i), tried[i]
		for d := step / 2; d > (c.to-c.from)/60; d /= 2 {
			from := at
			for _, v := range []float64{from - d, from + d} {
				if v >= c.from && v <= c.to {
					if m := look(v); m < low {
						at, low = v, m
					}
				}
			}
		}
	}
	return best, g, miss
}

// rank orders the explanations and puts the answer into words.
func (d *Diagnosis) rank() {
	// Where even the best explanation leaves more than model and meter should, both are worse than thought, and so is every
	// difference between explanations.
	least := math.Inf(1)
	for _, x := range d.Explanations {
		least = math.Min(least, x.chi2)
	}
	worse := math.Max(1, least/independent)
	for i, x := range d.Explanations {
		d.Explanations[i].bic = x.chi2/worse + x.rarity
	}
	sort.SliceStable(d.Explanations, func(i, j int) bool { return d.Explanations[i].bic < d.Explanations[j].bic })
	if len(d.Explanations) == 0 {
		d.Nothing, d.Sentence = true, "No explanation could be computed."
		return
	}
	first := d.Explanations[0]
	sum := 0.0
	for i := range d.Explanations {
		d.Explanations[i].Share = math.Exp(-(d.Explanations[i].bic - first.bic) / 2)
		sum += d.Explanations[i].Share
	}
	for i := range d.Explanations {
		d.Explanations[i].Share *= 100 / sum
	}
	if first.Misfit > poor {
		d.Nothing = true
		d.Sentence = "Nothing on the list explains this sweep well by itself. Calibrate, sweep again in a quiet minute, and look for two " +
			"things at once."
		return
	}
	d.Sentence = fmt.Sprintf("Most likely: %s, %s.", lower(first.Title), first.Says)
	if first.ID == "recorded" {
		d.Sentence = "The sweep is what the set-up as recorded should give."
	}
	if len(d.Explanations) > 1 {
		second := d.Explanations[1]
		check := second.Check
		if first.ID != "recorded" {
			check = first.Check
		}
		d.Separate = fmt.Sprintf("To tell it from \"%s\": %s.", lower(second.Title), check)
	}
}

func lower(s string) string { return string(s[0]|0x20) + s[1:] }
