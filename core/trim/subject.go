package trim

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"reed/core/band"
	"reed/core/deployment"
	"reed/core/quantity"
	"reed/core/sweep"
	"reed/core/twin"
)

// Swept is a revision as it was up, with its sweeps referred to the antenna's end of the coax, the newest last.
type Swept struct {
	Built deployment.Built
	Feeds []sweep.Curve
}

// read is what the newest of the sweeps that reach a band say of it.
func (x Subject) read(s Swept, b band.Band) (sweep.Reading, bool) {
	for i := len(s.Feeds) - 1; i >= 0; i-- {
		if r, ok := sweep.Read(s.Feeds[i], x.Region, b, band.Own(x.Segments, b.Name), x.Limit); ok && !r.AtEdge {
			return r, true
		}
	}
	return sweep.Reading{}, false
}

// Subject is an antenna that is being trimmed: its revisions with sweeps, the newest last, what counts, and
// the ground's ID.
type Subject struct {
	Swept    []Swept
	Ground   string
	Region   band.Region
	Segments []band.Segment
	Limit    float64 // the SWR that is good enough
	Imperial bool
}

// Wire is what is done to one length: Change in metres for each leg or wire, negative for adding.
type Wire struct {
	Label  string          `json:"label"`
	Change quantity.Length `json:"change"`
	Says   string          `json:"says"`
}

// Foreseen is what the next sweep should show at one goal: the dip and the 95 % range in hertz, and the chance in
// per cent that it ends above what can still be folded back.
type Foreseen struct {
	F      float64    `json:"hz"`
	Now    float64    `json:"now_hz"`
	Expect float64    `json:"expect_hz"`
	Range  [2]float64 `json:"range_hz"`
	Short  float64    `json:"short_percent"`
}

// What is changed, where either may be.
const (
	TheRadiator = "the radiator"
	TheRadials  = "the radials"
)

// Trim is the advice in words, with the set-up that it proposes. Where there are two ways to the same end, Way is
// what is changed by this one, and Instead the other.
type Trim struct {
	Headline string           `json:"headline"`
	Detail   string           `json:"detail"`
	Done     bool             `json:"done"`
	Wires    []Wire           `json:"wires"`
	Foreseen []Foreseen       `json:"foreseen"`
	Reason   string           `json:"reason"`
	Built    deployment.Built `json:"built"`
	Way      string           `json:"way,omitempty"`
	Instead  *Trim            `json:"instead,omitempty"`
}

// sureness of the solver's slopes, as a share of them: wires whose ends hang low answer by how low, and loaded
// ones by more than one thing.
func sureness(b deployment.Built) float64 {
	switch {
	case b.Trims() == "loaded":
		return 0.3
	case b.Variant == "inverted-v" || b.FarHeight.M > 0 && b.FarHeight.M*b.FrequencyHz < 0.08*299792458:
		return 0.14
	}
	return 0.08
}

// goal is where a resonance may lie so that the own segments stay good: as far to both sides as the dip is
// wide, and at least 0.3 % about the wanted frequency.
func (x Subject) goal(f float64, r sweep.Reading) Goal {
	g := Goal{F: f, Lo: f * 0.997, Hi: f * 1.003}
	if len(r.Own) == 0 {
		return g
	}
	if target, ok := r.Target(f); ok {
		g = Goal{F: target, Lo: target * 0.997, Hi: target * 1.003}
	}
	for _, w := range r.Widths {
		if w.Limit <= math.Max(x.Limit, 1.5) && !w.Open {
			lo, hi := r.Own[len(r.Own)-1].Hi-w.Hz/2, r.Own[0].Lo+w.Hz/2
			g.Lo, g.Hi = math.Min(g.Lo, math.Max(lo, g.F*0.99)), math.Max(g.Hi, math.Min(hi, g.F*1.01))
		}
	}
	return g
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

// job is what a subject comes to: a set-up, its lengths, where its resonances shall be, and what was measured.
type job struct {
	setup   twin.Setup
	knobs   []twin.Knob
	goals   []Goal
	raises  []Raise
	changed string // since the sweeps that are not counted
}

// Advise works out what to change: resonances read from every sweep, sensitivities from the solver. Where radials
// within reach can do it, both ways are told.
func (x Subject) Advise(ctx context.Context, e *twin.Engine, done func(step, of int)) (Trim, error) {
	j, err := x.job()
	if err != nil {
		return Trim{}, err
	}
	if done != nil {
		done(0, 1)
	}
	var wanted []float64
	for _, g := range j.goals {
		wanted = append(wanted, g.F)
	}
	built := j.setup.Built
	prior := Prior{Sure: sureness(built), Free: built.Slides()}
	if prior.Slope, err = e.Slopes(ctx, j.setup, wanted, j.knobs); err != nil {
		return Trim{}, err
	}
	for _, row := range prior.Slope {
		for k := range row {
			if !prior.Free {
				row[k] *= Folded
			}
		}
	}
	out, _, err := x.way(j, prior, false)
	if err != nil || out.Done || prior.Free || !j.knobs[len(j.knobs)-1].Radials || built.Radials.Height.M > Reach {
		return out, err
	}
	low, share, err := x.way(j, prior, true)
	first, most := radials(built)
	if err != nil || low.Done || share > most {
		return out, err
	}
	out.Way, low.Way = TheRadiator, TheRadials
	if share > first {
		out.Instead = &low
		return out, nil
	}
	low.Instead = &out
	return low, nil
}

// job reads the sweeps.
func (x Subject) job() (job, error) {
	if len(x.Swept) == 0 {
		return job{}, ErrNothing
	}
	last := x.Swept[len(x.Swept)-1]
	j := job{setup: twin.Setup{Built: last.Built, Ground: x.Ground}}
	if j.knobs = twin.Knobs(j.setup); len(j.knobs) == 0 {
		return j, fmt.Errorf("this antenna is set or tuned, not trimmed")
	}
	x.Swept, j.changed = x.comparable(j.knobs)
	j.raises = make([]Raise, len(x.Swept))
	for _, k := range j.knobs {
		for i, s := range x.Swept {
			l := k.Length(twin.Setup{Built: s.Built})
			if l <= 0 {
				return j, fmt.Errorf("the length of the %s is not recorded", k.Label)
			}
			j.raises[i].Lengths = append(j.raises[i].Lengths, l)
		}
		if k.Radials {
			continue
		}
		b := band.Nearest(x.Region, k.F)
		g := Goal{F: k.F, Lo: k.F * 0.997, Hi: k.F * 1.003}
		if newest, ok := x.read(last, b); ok {
			g = x.goal(k.F, newest)
		}
		x.want(&j, g, b)
	}
	if len(j.knobs) == 1 && last.Built.Family == "end-fed" {
		x.harmonics(&j)
	}
	return j, nil
}

// want adds a goal, with its dips in every raise.
func (x Subject) want(j *job, g Goal, b band.Band) {
	j.goals = append(j.goals, g)
	for i, s := range x.Swept {
		r, _ := x.read(s, b)
		j.raises[i].F = append(j.raises[i].F, r.MinAt)
	}
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
	a, err := Advise(j.goals, j.raises, prior)
	if err != nil {
		return Trim{}, 0, err
	}
	share := 0.0
	for k, c := range a.Change {
		if !prior.Still[k] {
			share = math.Max(share, math.Abs(math.Log((now.Lengths[k]-c)/j.raises[0].Lengths[k])))
		}
	}
	t := x.words(j.setup, j.knobs, j.goals, now, a)
	if j.changed != "" {
		t.Detail += fmt.Sprintf(" Earlier sweeps are not counted: %s.", j.changed)
	}
	return t, share, nil
}

// comparable leaves out revisions that differ from the newest in more than the knobs' lengths, and all before them,
// since what moved the resonance there was not a length. It says what has changed since, if anything.
func (x Subject) comparable(knobs []twin.Knob) ([]Swept, string) {
	last := len(x.Swept) - 1
	for i := last - 1; i >= 0; i-- {
		was, now := twin.Setup{Built: x.Swept[i].Built}, twin.Setup{Built: x.Swept[last].Built}
		for _, k := range knobs {
			was = k.Set(was, k.Length(now))
		}
		for _, d := range deployment.Differences(was.Built, now.Built, x.Imperial) {
			switch d.Field {
			case "wind", "power_w", "coax":
				continue // a sweep is referred to the antenna's end of the coax
			case "far_height":
				if math.Abs(was.Built.FarHeight.M-now.Built.FarHeight.M) < 0.3 {
					continue // an end comes up with what is folded
				}
			}
			return x.Swept[i+1:], fmt.Sprintf("%s was %s then and is %s now", d.Label, d.A, d.B)
		}
	}
	return x.Swept, ""
}

// harmonics adds the bands in which the same wire is several half-waves long and was swept with a dip: one length
// has to serve them all. Where its lowest band was not swept, the dip is looked for near a multiple of what is wanted.
func (x Subject) harmonics(j *job) {
	last, f, near := len(x.Swept)-1, j.knobs[0].F, 0.05
	at := j.raises[last].F[0]
	if at <= 0 {
		at, near = f, 0.08
	}
	for _, b := range band.All(x.Region) {
		n := math.Round(b.Centre() / f)
		r, ok := x.read(x.Swept[last], b)
		if !ok || n < 2 || len(r.Own) == 0 || !r.Clear() || math.Abs(r.MinAt/(n*at)-1) > near {
			continue
		}
		target := math.Min(math.Max(n*f, r.Own[0].Lo), r.Own[len(r.Own)-1].Hi)
		x.want(j, x.goal(target, r), b)
	}
}

// stands says where the resonances are when nothing is to be changed.
func (x Subject) stands(of []Foreseen) string {
	var at []string
	for _, f := range of {
		at = append(at, fmt.Sprintf("%s for %s MHz", quantity.ToKHz(f.Now), quantity.ToKHz(f.F)))
	}
	return fmt.Sprintf("The dip is at %s. What is left over SWR %.3g is the match or the band's width, not the length.", strings.Join(at, ", "), x.Limit)
}

// turns prints a number of turns, in halves.
func turns(n float64) string {
	if n == 1 {
		return "1 turn"
	}
	return fmt.Sprintf("%g turns", n)
}

// words says an advice, and makes the set-up that it proposes.
func (x Subject) words(setup twin.Setup, knobs []twin.Knob, goals []Goal, now Raise, a Advice) Trim {
	out := Trim{Done: a.Done, Wires: []Wire{}, Foreseen: []Foreseen{}, Built: setup.Built}
	print := func(m float64) string {
		if x.Imperial {
			return quantity.Imperial(m, 8)
		}
		return quantity.Metric(math.Max(math.Round(m*200)/200, 0.005), 5)
	}
	worst := 0.0
	before := 0.0
	var says []string
	for k, knob := range knobs {
		change := a.Change[k]
		if setup.Built.Family == "linked-dipole" {
			// Links are counted from the feed: what is taken off a section moves all links beyond.
			change, before = change-before, change
		}
		change = knob.Step(change)
		if change == 0 {
			continue
		}
		word := "fold back"
		if change < 0 {
			word = "add"
		}
		each := ""
		switch {
		case knob.Radials && knob.Legs > 1:
			each = fmt.Sprintf(" on each of the %d radials", knob.Legs)
		case knob.Radials:
			each = " on the radial"
		case knob.Legs == 2:
			each = " on each leg"
		}
		text := fmt.Sprintf("%s %s%s", word, print(math.Abs(change)), each)
		to := quantity.Metric(knob.Length(setup)-change, 1)
		if x.Imperial {
			to = quantity.Imperial(knob.Length(setup)-change, 16)
		}
		switch {
		case setup.Built.Slides() && change > 0:
			text = fmt.Sprintf("slide the whip in by %s, to %s", print(change), to)
		case setup.Built.Slides():
			text = fmt.Sprintf("pull the whip out by %s, to %s", print(-change), to)
		case setup.Built.Family == "rectangle":
			next := knob.Set(setup, knob.Length(setup)-change).Built
			text = fmt.Sprintf("%s %s on each driven tail and %s on each reflector tail", word,
				print(math.Abs(next.Size("driven_tail")-setup.Built.Size("driven_tail"))), print(math.Abs(next.Size("reflector_tail")-setup.Built.Size("reflector_tail"))))
		}
		label, length := knob.Label, quantity.Metres(change)
		if knob.Turns {
			text, length = fmt.Sprintf("take off %s", turns(change)), quantity.Length{}
			if change < 0 {
				text = fmt.Sprintf("wind on %s more", turns(-change))
			}
		}
		out.Wires = append(out.Wires, Wire{label, length, text})
	}
	for i, w := range out.Wires {
		if len(out.Wires) > 1 {
			out.Wires[i].Says = w.Label + ": " + w.Says
		}
		says = append(says, out.Wires[i].Says)
	}
	for k, knob := range knobs {
		if c := knob.Step(a.Change[k]); c != 0 {
			setup = knob.Set(setup, math.Round((knob.Length(setup)-c)*1000)/1000)
		}
	}
	out.Built, out.Reason = setup.Built, strings.Join(says, "; ")
	out.Reason = strings.NewReplacer("fold back", "folded back", "add ", "added ", "slide ", "slid ", "pull ", "pulled ", "take off", "took off", "wind on", "wound on").Replace(out.Reason)
	for g := range goals {
		if now.F[g] <= 0 {
			continue
		}
		worst = math.Max(worst, a.Short[g])
		out.Foreseen = append(out.Foreseen, Foreseen{goals[g].F, now.F[g], a.Expect[g], a.Range[g], math.Round(1000*a.Short[g]) / 10})
	}
	mhz := func(f float64) string { return quantity.MHz(math.Round(f/1e4) * 1e4) }
	switch {
	case !out.Done && len(out.Wires) == 0 && len(goals) > len(knobs):
		out.Done = true
		out.Headline = "Leave it: no length serves all of these bands better."
		out.Detail = x.stands(out.Foreseen)
		return out
	case out.Done || len(out.Wires) == 0:
		out.Done = true
		out.Headline = "Leave it: every resonance is where it may be."
		out.Detail = x.stands(out.Foreseen)
		return out
	case len(says) > 2:
		out.Headline = fmt.Sprintf("Change %d wires in one raise, then sweep again.", len(says))
	default:
		text := strings.Join(says, " and ")
		out.Headline = strings.ToUpper(text[:1]) + text[1:] + ", then sweep again."
	}
	var expects []string
	for _, f := range out.Foreseen {
		expects = append(expects, fmt.Sprintf("the dip near %s MHz, between %s and %s", mhz(f.Expect), mhz(f.Range[0]), mhz(f.Range[1])))
	}
	if len(expects) > 3 {
		expects = append(expects[:2], fmt.Sprintf("%d more as listed", len(out.Foreseen)-2))
	}
	chance := "under 1 in 100"
	if worst >= 0.01 {
		chance = fmt.Sprintf("%.0f in 100", 100*worst)
	}
	out.Detail = fmt.Sprintf("Expect %s; outside of that something else is wrong.", strings.Join(expects, "; "))
	shortens := slices.ContainsFunc(a.Change, func(c float64) bool { return c > 0 })
	switch {
	case setup.Built.Slides():
		out.Detail += " Mark it when you find it."
	case shortens && knobs[0].Turns:
		out.Detail += fmt.Sprintf(" That it ends too short: %s. Let the end hang before you cut it off.", chance)
	case shortens:
		out.Detail += fmt.Sprintf(" That it ends too short: %s. Fold and tie before you cut.", chance)
	default:
		out.Detail += fmt.Sprintf(" That it is too short still: %s. What is too much can be taken back.", chance)
	}
	if knobs[len(knobs)-1].Radials && a.Change[len(knobs)-1] != 0 {
		out.Detail += " The pole stays up."
		if setup.Built.Choke.Place != "feed" {
			out.Detail += " With no choke at the feed the coax becomes a radial as these leave a quarter-wave."
		}
	}
	if len(goals) > len(knobs) {
		out.Detail += " One length serves all these bands: this is the compromise between them."
	}
	if len(out.Foreseen) < len(goals) {
		out.Detail += " Bands that were not swept are left as they are: sweep them too."
	}
	return out
}
