package trim

import (
	"context"
	"errors"
	"fmt"
	"math"
	"math/cmplx"
	"slices"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/band"
	"reed/core/circuit"
	"reed/core/deployment"
	"reed/core/numeric"
	"reed/core/phrase"
	"reed/core/quantity"
	"reed/core/sweep"
	"reed/core/twin"
)

// Swept is a revision as it was up, with its sweeps referred to the antenna's end of the coax, the newest last.
type Swept struct {
	Built deployment.Built
	Feeds []sweep.Curve
}

// Subject is an antenna that is being trimmed: its revisions with sweeps, the newest last, what counts, and
// the ground's ID.
type Subject struct {
	Swept    []Swept
	Ground   string
	Region   band.Region
	Segments []band.Segment
	Limit    float64 // the SWR that is good enough
	Units    quantity.System
	// Wanted are frequencies in hertz at which the dip shall be, whatever else would be good enough; the other bands stay as planned.
	Wanted []float64
	// Plan finds what the antenna was to be; nil where that is not known. It is asked for only where a dip is far off.
	Plan func(context.Context) (deployment.Built, error)
}

// What is changed, where either may be.
const (
	TheRadiator = "the radiator"
	TheRadials  = "the radials"
	AsPlanned   = "all to the plan's lengths"
	ByReadings  = "what the readings ask for"
)

// Trim is the advice, with the set-up that it proposes. Where there are two ways to the same end, Way names what is changed
// by this one, and Instead the other. Wires are the changes in metres by the lengths' names, negative for adding.
type Trim struct {
	phrase.Advice
	Wires   []Wire
	Built   deployment.Built
	Way     string
	Instead *Trim
	uneven  bool
	was     []float64 // where the dips are by all raises, as they are foreseen
}

// Wire is the change of one length: Change in metres for each leg or wire, negative for adding.
type Wire struct {
	Label  string          `json:"label"`
	Change quantity.Length `json:"change"`
	Says   string          `json:"says"`
	to     float64         // its new length in metres, 0 where that is shown already
}

// Told is an advice in words.
type Told struct {
	phrase.Words
	More     string            `json:"more,omitempty"` // what else is to be known of it
	Done     bool              `json:"done"`
	Wires    []Wire            `json:"wires"`
	Foreseen []phrase.Foreseen `json:"foreseen"`
	Reason   string            `json:"reason"`
	Verb     string            `json:"verb,omitempty"`
	Built    deployment.Built  `json:"built"`
	Way      string            `json:"way,omitempty"`
	Instead  *Told             `json:"instead,omitempty"`
	// Mends says that an element is off which the match tells of, wherever the dip is.
	Mends bool `json:"mends,omitempty"`
}

// Told puts an advice into words.
func (t Trim) Told(units quantity.System) *Told {
	out := &Told{Words: t.Words(units), More: t.More(), Done: t.Done, Wires: t.Wires, Foreseen: t.Foreseen, Reason: t.Reason(units),
		Built: t.Built, Way: t.Way, Mends: t.uneven}
	for i, says := range t.Does(units) {
		if to := t.Wires[i].to; to > 0 {
			says += ", to " + units.Exact(to)
		}
		out.Wires[i].Says = says
	}
	if len(t.Actions) == 1 {
		out.Verb = t.Actions[0].Name()
	}
	if t.Instead != nil {
		out.Instead = t.Instead.Told(units)
	}
	return out
}

// sureness of the solver's slopes, as a share of them: wires whose ends hang low answer by how low, and loaded
// ones by more than one thing.
func sureness(b deployment.Built) float64 {
	switch {
	case family.Of(b.Shape).Trims() == "loaded":
		return 0.15
	case b.Variant == "inverted-v" || b.FarHeight().M > 0 && b.FarHeight().M*b.FrequencyHz < 0.08*numeric.Light:
		return 0.14
	}
	return 0.08
}

// near is a goal that is left alone within 0.3 %.
func near(f float64) Goal { return Goal{F: f, Lo: f * 0.997, Hi: f * 1.003} }

// goal is where a resonance may lie so that the own segments stay good: as far to both sides as the dip is
// wide, and at least 0.3 % about the wanted frequency. A frequency that is asked for is held to 0.3 %.
func (x Subject) goal(f float64, r sweep.Reading) Goal {
	if hz, ok := x.asked(f); ok {
		return near(hz)
	}
	g := near(f)
	if len(r.Own) == 0 {
		return g
	}
	if target, ok := r.Target(f); ok {
		g = near(target)
	}
	for _, w := range r.Widths {
		if w.Limit <= x.limit() && !w.Open {
			g = g.within(r.Own, w.Hz)
		}
	}
	return g
}

// asked is the frequency that is asked for in the band of another.
func (x Subject) asked(f float64) (hz float64, ok bool) {
	for _, w := range x.Wanted {
		if band.Nearest(x.Region, w).Name == band.Nearest(x.Region, f).Name {
			return w, true
		}
	}
	return 0, false
}

func (x Subject) limit() float64 { return math.Max(x.Limit, 1.5) }

// within is a goal with the range in which a dip so wide in hertz serves all of one's segments.
func (g Goal) within(own []band.Segment, hz float64) Goal {
	lo, hi := own[len(own)-1].Hi-hz/2, own[0].Lo+hz/2
	g.Lo, g.Hi = math.Min(g.Lo, math.Max(lo, g.F*0.99)), math.Max(g.Hi, math.Min(hi, g.F*1.01))
	return g
}

// predictWidths sets the widths of dips that are known by few readings: by the solver's curve, of which a little is left off.
func (x Subject) predictWidths(ctx context.Context, e *twin.Engine, j *job) error {
	const steps, about, sure = 80, 0.12, 0.8
	for i, g := range j.goals {
		r := j.newest[i].reading
		if _, exactly := x.asked(g.F); exactly || !j.newest[i].sparse || len(r.Own) == 0 {
			continue
		}
		z, err := e.Curve(ctx, j.setup, g.F*(1-about), g.F*(1+about))
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if err != nil {
			continue // what cannot be solved has no prediction
		}
		served := 0
		for n := range steps + 1 {
			f := g.F * (1 - about + 2*about*float64(n)/steps)
			if circuit.SWR(cmplx.Abs(circuit.Gamma(z(f), sweep.Reference))) <= x.limit() {
				served++
			}
		}
		if served > 0 && served <= steps {
			j.goals[i] = g.within(r.Own, sure*2*about*g.F*float64(served)/steps)
		}
	}
	return nil
}

// radials says by how much of their length raised radials are changed rather than the radiator, and by how much they
// can be. Off a quarter-wave the coax takes their place: by the solver, radials a tenth too short cost 0.6 dB without
// a choke at the feed, and 0.1 dB with one.
func radials(b deployment.Built) (first, most float64) {
	if b.Choke.Place == "feed" {
		return 0.10, 0.20
	}
	return 0.05, 0.10
}

// Reach is the height in metres up to which wires are changed from the ground.
const Reach = 2.3

// job is the computed form of a subject: a set-up, its lengths, where its resonances shall be, and what was measured.
type job struct {
	setup   twin.Setup
	knobs   []family.Knob
	goals   []Goal
	newest  []observed // by goal
	raises  []Raise
	changed *phrase.Changed // since the sweeps that are not counted
	uneven  bool            // its elements are not what they are to be against each other
	even    twin.Setup      // the set-up with its elements as they are to be against each other
	model   []float64       // the dips of that by the model, by goal, 0 where there is none; nil before they are asked for
}

// notes are how the dips follow from few readings. now is where they are by all raises, by goal, nil where that is not known.
func (j job) notes(now []float64) (out []phrase.Read) {
	for g, o := range j.newest {
		if o.note == nil {
			continue
		}
		n := *o.note
		if g < len(now) && now[g] > 0 && n.Dip > 0 {
			n.Range = [2]float64{n.Range[0] * now[g] / n.Dip, n.Range[1] * now[g] / n.Dip}
			n.Dip = now[g]
		}
		out = append(out, n)
	}
	return out
}

// unsure reports whether a dip is known so little that it may well lie outside of its range.
func (j job) unsure() bool {
	for i, o := range j.newest {
		if g := j.goals[i]; o.f > 0 && o.sparse && !o.left && o.sure > math.Log(g.Hi/g.Lo)/2 {
			return true
		}
	}
	return false
}

// tooLittle reports whether a change moves no dip that is off by more than few readings show, or than is worth the walk.
func (j job) tooLittle(t Trim) bool {
	const worth = 0.0025 // of a frequency
	if len(t.Actions) == 0 || t.uneven {
		return false
	}
	for i, f := range t.Foreseen {
		g := j.goalAt(f.F)
		o, goal := j.newest[g], j.goals[g]
		if in := func(at float64) bool { return at >= goal.Lo && at <= goal.Hi }; in(t.was[i]) && in(f.Expect) {
			continue
		}
		move, off := math.Abs(math.Log(f.Expect/t.was[i])), math.Abs(math.Log(f.F/t.was[i]))
		if !o.sparse || move > worth && (move > o.sure || off > 1.5*o.sure) {
			return false
		}
	}
	return true
}

// unread is the advice where no dip is known: to read more.
func (x Subject) unread(j job) Trim {
	out := Trim{Wires: []Wire{}, Built: j.setup.Built, Advice: phrase.Advice{Done: true, Unread: true, Foreseen: []phrase.Foreseen{},
		Limit: x.Limit, Changed: j.changed, Reads: j.notes(nil)}}
	for _, o := range j.newest {
		if o.reading.Points > 0 && out.Lowest.SWR == 0 {
			out.Lowest = phrase.Read{SWR: o.reading.MinSWR, At: o.reading.MinAt}
		}
	}
	return out
}

// Advise works out what to change: resonances observed in every raise, sensitivities from the solver. Where radials
// within reach can do it, both ways are given. No change is advised unless the model predicts what is promised.
func (x Subject) Advise(ctx context.Context, e *twin.Engine, done func(step, of int)) (Trim, error) {
	if done != nil {
		done(0, 1)
	}
	j, err := x.job(ctx, e)
	if err != nil {
		return Trim{}, err
	}
	if !j.known() {
		return x.unread(j), nil
	}
	var wanted []float64
	for _, g := range j.goals {
		wanted = append(wanted, g.F)
	}
	if err := x.inferWinding(ctx, e, &j); err != nil {
		return Trim{}, err
	}
	if err := x.predictWidths(ctx, e, &j); err != nil {
		return Trim{}, err
	}
	if err := x.steer(ctx, e, &j); err != nil {
		return Trim{}, err
	}
	built := j.setup.Built
	prior := Prior{Sure: sureness(built), Apart: family.Of(built.Shape).Electrics(built.FrequencyHz).Together}
	for _, f := range wanted {
		_, quarters := family.TakenBy(f, wanted)
		prior.Taken = append(prior.Taken, quarters > 0)
	}
	_, prior.Free = family.Of(built.Shape).Slider()
	j.even = j.setup
	if len(j.knobs) == 1 && len(j.knobs[0].Parts) > 0 {
		j.even = j.even.With(j.knobs[0], j.knobs[0].Length(built.Shape))
	}
	if prior.Slope, err = e.Slopes(ctx, j.even, wanted, j.knobs); err != nil {
		if none := (twin.NoDip{}); errors.As(err, &none) {
			out := x.unread(j)
			out.Unread, out.Unmodelled = false, none.Hz
			return out, nil
		}
		return Trim{}, err
	}
	for _, row := range prior.Slope {
		for k := range row {
			if !prior.Free {
				row[k] *= Folded
			}
		}
	}
	out, _, err := x.confirmed(ctx, e, &j, prior, false)
	if err != nil {
		return out, err
	}
	if plan, ok, err := x.asPlanned(ctx, e, &j, prior); err != nil || ok {
		if !out.Done && !out.Withheld {
			out.Way, plan.Instead = ByReadings, &out
		}
		return plan, err
	}
	if out.Done || prior.Free || !j.knobs[len(j.knobs)-1].Radials || built.Radials().Height.M > Reach {
		return out, nil
	}
	low, share, err := x.confirmed(ctx, e, &j, prior, true)
	first, most := radials(built)
	if err != nil || low.Done || low.Withheld || share > most {
		return out, err
	}
	out.Way, low.Way = TheRadiator, TheRadials
	if share > first && !out.Withheld {
		out.Instead = &low
		return out, nil
	}
	if !out.Withheld {
		low.Instead = &out
	}
	return low, nil
}

// uneven is the share by which a length beside the changed one may be off what it is to be before that is mended too.
const uneven = 0.006

// steer takes an antenna whose elements are set together as it will be when each is what it is to be against the other:
// what was measured is carried on by the solver's difference between that and what was recorded.
func (x Subject) steer(ctx context.Context, e *twin.Engine, j *job) error {
	if len(j.knobs) != 1 || len(j.knobs[0].Parts) == 0 {
		return nil
	}
	knob := j.knobs[0]
	for i := range j.raises {
		s := twin.Setup{Built: x.Swept[len(x.Swept)-len(j.raises)+i].Built, Ground: x.Ground}
		even := s.With(knob, knob.Length(s.Built.Shape))
		off := 0.0
		for _, p := range knob.Parts {
			off = math.Max(off, 2*math.Abs(p.Length(even.Built.Shape)-p.Length(s.Built.Shape))/knob.Length(s.Built.Shape))
		}
		f, measured := j.raises[i].F[0], len(s.Built.Sizes) > len(even.Built.Sizes) // by halves of their own
		if f <= 0 || off < 1e-3 && !measured {
			continue
		}
		was, ok, err := e.Resonance(ctx, s, f, f*0.85, f*1.15)
		if err != nil {
			return err
		}
		is, ok2, err := e.Resonance(ctx, even, f, f*0.85, f*1.15)
		if err != nil {
			return err
		}
		if ok && ok2 {
			j.raises[i].F[0] *= is / was
		}
		j.uneven = i == len(j.raises)-1 && (off > uneven || measured)
	}
	return nil
}

// job observes the dips.
func (x Subject) job(ctx context.Context, e *twin.Engine) (job, error) {
	if len(x.Swept) == 0 {
		return job{}, ErrNothing
	}
	last := x.Swept[len(x.Swept)-1]
	j := job{setup: twin.Setup{Built: last.Built, Ground: x.Ground}}
	if j.knobs = family.Of(j.setup.Built.Shape).Knobs(); len(j.knobs) == 0 {
		return j, ErrTuned
	}
	x.Swept, j.changed = x.comparable(j.knobs)
	j.raises = make([]Raise, len(x.Swept))
	for _, k := range j.knobs {
		for i, s := range x.Swept {
			l := k.Length(s.Built.Shape)
			if l <= 0 {
				return j, fmt.Errorf("the length of the %s is not recorded", k.Label)
			}
			j.raises[i].Lengths = append(j.raises[i].Lengths, l)
		}
		if k.Radials {
			continue
		}
		b := band.Nearest(x.Region, k.F)
		if err := x.want(ctx, e, &j, near(k.F), b); err != nil {
			return j, err
		}
		g := len(j.goals) - 1
		j.goals[g] = x.goal(k.F, j.newest[g].reading)
		if _, exactly := x.asked(k.F); !exactly && (j.newest[g].good() || j.newest[g].fine(j.goals[g].F, x.Limit)) {
			// What is good all over, or where it is wanted as far as was read, is left, wherever its dip is.
			j.newest[g].left = true
			wide := math.Max(0.001, 3*j.newest[g].sure)
			j.goals[g].Lo = math.Min(j.goals[g].Lo, j.newest[g].f*(1-wide))
			j.goals[g].Hi = math.Max(j.goals[g].Hi, j.newest[g].f*(1+wide))
		}
	}
	if len(j.knobs) == 1 && family.Of(last.Built.Shape).Kind().OneForAll {
		// The call changes j, so it comes before j is returned.
		if err := x.harmonics(ctx, e, &j); err != nil {
			return j, err
		}
	}
	return j, nil
}

// ErrTuned says that an antenna is not trimmed at all.
var ErrTuned = errors.New("this antenna is set or tuned, not trimmed")

// want adds a goal, with its dips in every raise.
func (x Subject) want(ctx context.Context, e *twin.Engine, j *job, g Goal, b band.Band) error {
	j.goals = append(j.goals, g)
	for i, s := range x.Swept {
		o, err := x.observe(ctx, e, s, b, g.F)
		if err != nil {
			return err
		}
		j.raises[i].F, j.raises[i].Sure = append(j.raises[i].F, o.f), append(j.raises[i].Sure, o.sure)
		if i == len(x.Swept)-1 {
			j.newest = append(j.newest, o)
		}
	}
	return nil
}

// known reports whether the dip of any goal is known at the newest raise.
func (j job) known() bool {
	return slices.ContainsFunc(j.raises[len(j.raises)-1].F, func(f float64) bool { return f > 0 })
}

// way is the advice that leaves the radials as they are, or all else, and by what share the length that moves most is
// then off what it was at first.
func (x Subject) way(j job, prior Prior, radials bool) (Trim, float64, error) {
	prior.Still = make([]bool, len(j.knobs))
	now, wires := j.raises[len(j.raises)-1], len(j.knobs)
	if j.knobs[wires-1].Radials {
		wires--
	}
	for k, knob := range j.knobs {
		prior.Still[k] = knob.Radials != radials
		// One of several wires whose own band was not swept is left as it is.
		if wires > 1 && k < wires {
			prior.Still[k] = now.F[k] <= 0
		}
	}
	a, err := fewest(j.goals, j.raises, prior, wires)
	var lost []float64
	now.F = slices.Clone(now.F)
	for g, goal := range j.goals {
		if prior.Lost(g) {
			lost = append(lost, goal.F)
			now.F[g] = 0 // as if it had not been swept: nothing is foreseen of it
		}
	}
	if errors.Is(err, ErrNothing) && len(lost) > 0 {
		// Nothing follows from the dip that was measured: not even the rule of proportion, as where none was.
		return Trim{}, 0, fmt.Errorf("on %s MHz another wire carries the current, and its own has no hold of the dip. Sweep the other bands",
			quantity.ToKHz(lost[0]))
	}
	if err != nil {
		return Trim{}, 0, err
	}
	share := 0.0
	for k, c := range a.Change {
		if !prior.Still[k] {
			share = math.Max(share, math.Abs(math.Log((now.Lengths[k]-c)/j.raises[0].Lengths[k])))
		}
	}
	t := x.trim(j, now, a)
	t.Lost, t.Unswept = lost, len(t.Foreseen)+len(lost) < len(j.goals)
	return t, share, nil
}

// fewest is the advice that leaves every wire whose own band is where it may be, where that holds the bands there; otherwise all
// wires are changed together.
func fewest(goals []Goal, raises []Raise, prior Prior, wires int) (Advice, error) {
	now := raises[len(raises)-1]
	if wires < 2 || len(goals) < wires {
		return Advise(goals, raises, prior)
	}
	few := prior
	few.Still = slices.Clone(prior.Still)
	right := func(g int, f float64) bool { return f >= goals[g].Lo && f <= goals[g].Hi }
	left := 0
	for k := range wires {
		if !few.Still[k] && right(k, now.F[k]) {
			few.Still[k] = true
			left++
		}
	}
	if left == 0 || left == wires {
		return Advise(goals, raises, prior)
	}
	a, err := Advise(goals, raises, few)
	for k := range wires {
		if err != nil || now.F[k] > 0 && right(k, now.F[k]) && !right(k, a.Expect[k]) {
			return Advise(goals, raises, prior)
		}
	}
	return a, nil
}

// comparable leaves out revisions that differ from the newest in more than the knobs' lengths, and all before them,
// since what moved the resonance there was not a length. It says what has changed since, if anything.
func (x Subject) comparable(knobs []family.Knob) ([]Swept, *phrase.Changed) {
	last := len(x.Swept) - 1
	for i := last - 1; i >= 0; i-- {
		was, now := twin.Setup{Built: x.Swept[i].Built}, twin.Setup{Built: x.Swept[last].Built}
		for _, k := range knobs {
			was = was.With(k, k.Length(now.Built.Shape))
		}
		for _, d := range deployment.Differences(was.Built, now.Built, x.Units) {
			switch d.Field {
			case "wind", "power_w", "coax":
				continue // a sweep is referred to the antenna's end of the coax
			case "far_height":
				if math.Abs(was.Built.FarHeight().M-now.Built.FarHeight().M) < 0.3 {
					continue // an end comes up with what is folded
				}
			}
			return x.Swept[i+1:], &phrase.Changed{Label: d.Label, Was: d.A, Is: d.B}
		}
	}
	return x.Swept, nil
}

// harmonics adds the bands in which the same wire is several half-waves long and was swept with a dip: one length
// has to serve them all. Where its lowest band was not swept, the dip is looked for near a multiple of what is wanted.
func (x Subject) harmonics(ctx context.Context, e *twin.Engine, j *job) error {
	last, f, about := len(x.Swept)-1, j.knobs[0].F, 0.05
	at := j.raises[last].F[0]
	if at <= 0 {
		at, about = f, 0.08
	}
	for _, b := range band.All(x.Region) {
		n := math.Round(b.Centre() / f)
		own := band.Own(x.Segments, b.Name)
		if n < 2 || len(own) == 0 {
			continue
		}
		target := math.Min(math.Max(n*f, own[0].Lo), own[len(own)-1].Hi)
		o, err := x.observe(ctx, e, x.Swept[last], b, target)
		if err != nil {
			return err
		}
		if o.f <= 0 || o.sure > taken || o.reading.MinSWR > deep || math.Abs(o.f/(n*at)-1) > about {
			continue
		}
		if err := x.want(ctx, e, j, x.goal(target, o.reading), b); err != nil {
			return err
		}
	}
	return nil
}

// deep is the SWR up to which the lowest on a harmonic band is a dip that one can go by.
const deep = 5

// trim makes an advice of what was worked out, and the set-up that it proposes.
func (x Subject) trim(j job, now Raise, a Advice) Trim {
	setup, last := j.setup, j.knobs[len(j.knobs)-1]
	out := Trim{Wires: []Wire{}, Advice: phrase.Advice{Done: a.Done, Settled: a.Done, Foreseen: []phrase.Foreseen{}, Limit: x.Limit,
		Changed: j.changed,
		Shared:  len(j.goals) > len(j.knobs),
		Several: len(j.knobs) > 1 && !last.Radials, Winding: j.setup.Winding,
		Rough: slices.ContainsFunc(j.newest, func(o observed) bool { return o.sparse && o.f > 0 }), Reads: j.notes(a.Now)}}
	if a.Done && j.unsure() {
		out.Settled = false
	}
	if j.uneven && len(j.knobs) == 1 {
		j.uneven = differs(setup, j.knobs[0], j.knobs[0].Step(a.Change[0]))
	}
	before := 0.0
	for k, knob := range j.knobs {
		was := knob.Length(setup.Built.Shape)
		change := a.Change[k]
		if knob.Nested {
			// Links are counted from the feed: what is taken off a section moves all links beyond.
			change, before = change-before, change
		}
		change = knob.Step(change)
		if to := was - change; !knob.Turns() && knob.Bound(to) != to {
			// It goes no further: what it meets there is said, and what is left to do.
			out.End = &phrase.End{Label: knob.Label, Meets: knob.AtLeast, Short: to < knob.Least}
			change = was - knob.Bound(to)
			a.Change[k] = change
		}
		if change != 0 || j.uneven {
			out.act(setup, knob, change)
		}
	}
	for k, knob := range j.knobs {
		if c := knob.Step(a.Change[k]); c != 0 || j.uneven {
			setup = setup.With(knob, math.Round((knob.Length(setup.Built.Shape)-c)*1000)/1000)
		}
	}
	out.Built = setup.Built
	for g := range j.goals {
		if now.F[g] > 0 {
			is := now.F[g]
			if j.newest[g].sparse && a.Now[g] > 0 {
				is = a.Now[g]
			}
			out.was = append(out.was, antenna.Or(a.Now[g], is))
			out.Foreseen = append(out.Foreseen, phrase.Foreseen{F: j.goals[g].F, Now: is, Expect: a.Expect[g], Range: a.Range[g],
				Short: math.Round(1000*a.Short[g]) / 10})
		}
	}
	out.Shorter = slices.ContainsFunc(a.Change, func(c float64) bool { return c > 0 })
	out.PoleUp = last.Radials && a.Change[len(j.knobs)-1] != 0
	out.Unchoked = setup.Built.Choke.Place != "feed"
	out.uneven = j.uneven
	out.Done = out.Done && !j.uneven || len(out.Actions) == 0 && out.End == nil
	if out.End != nil && len(out.Actions) > 0 {
		out.Foreseen = []phrase.Foreseen{}
	}
	if out.End == nil && j.tooLittle(out) {
		// Less than the readings tell apart is not worth the way to the antenna.
		out.Done, out.Settled, out.Built, out.Actions, out.Labels, out.Wires = true, false, j.setup.Built, nil, nil, []Wire{}
	}
	return out
}

// differs reports whether any part of a length, so much shorter, is another than it was.
func differs(setup twin.Setup, knob family.Knob, change float64) bool {
	next := setup.With(knob, knob.Length(setup.Built.Shape)-change).Built
	return slices.ContainsFunc(knob.Parts, func(p family.Part) bool {
		return math.Abs(p.Length(next.Shape)-p.Length(setup.Built.Shape)) > 0.002
	})
}

// act adds the change of one length.
func (t *Trim) act(setup twin.Setup, knob family.Knob, change float64) {
	a := phrase.Action{Verb: phrase.Fold, Piece: knob.Label, Metres: math.Abs(change), Legs: knob.Legs, Radials: knob.Radials}
	if change < 0 {
		a.Verb = phrase.Add
	}
	switch {
	case knob.Turns():
		a.Verb, a.Metres, a.Turns = phrase.TakeOff, 0, math.Abs(change)
		if change < 0 {
			a.Verb = phrase.WindOn
		}
	case knob.Way == family.Slide:
		a.To = knob.Length(setup.Built.Shape) - change
		if a.Verb = phrase.SlideIn; change < 0 {
			a.Verb = phrase.PullOut
		}
	case len(knob.Parts) > 0:
		next := setup.With(knob, knob.Length(setup.Built.Shape)-change).Built
		for _, p := range knob.Parts {
			a.Parts = append(a.Parts, phrase.Part{Metres: p.Length(next.Shape) - p.Length(setup.Built.Shape), On: p.Label})
		}
	}
	length := quantity.Metres(change)
	if knob.Turns() {
		length = quantity.Length{}
	}
	t.Actions, t.Labels = append(t.Actions, a), append(t.Labels, knob.Label)
	wire := Wire{Label: knob.Label, Change: length}
	if a.To == 0 && !knob.Turns() && len(knob.Parts) == 0 {
		wire.to = knob.Length(setup.Built.Shape) - change
	}
	t.Wires = append(t.Wires, wire)
}
