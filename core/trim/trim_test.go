package trim

import (
	"context"
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"sort"
	"strings"
	"testing"

	"reed/core/antenna"
	"reed/core/antenna/family"
	"reed/core/band"
	"reed/core/circuit"
	"reed/core/deployment"
	"reed/core/phrase"
	"reed/core/quantity"
	"reed/core/sweep"
	"reed/core/twin"
	"reed/internal/testsize"
)

// A truth is an antenna whose resonances answer to its lengths as the solver says of one hung otherwise than
// recorded, and lie off what the books say.
type truth struct {
	slope   [][]float64
	bend    float64 // further curvature, as a share of the slopes
	bias    []float64
	planned []float64 // lengths that the books give
	fold    float64   // how much of a folded length counts
}

func (h truth) resonances(lengths []float64, goals []Goal, rng *rand.Rand) []float64 {
	out := make([]float64, len(goals))
	for g := range goals {
		x := h.bias[g]
		for k, l := range lengths {
			d := math.Log(l / h.planned[k])
			x += h.slope[g][k] * d * (1 + h.bend*d)
		}
		out[g] = goals[g].F * math.Exp(x+0.0006*rng.NormFloat64())
	}
	return out
}

// apply changes lengths as a person does: a fold counts not quite whole, pliers are off by millimetres.
func (h truth) apply(lengths, change []float64, rng *rand.Rand) []float64 {
	out := make([]float64, len(lengths))
	for k, l := range lengths {
		c := change[k]
		if c > 0 {
			c *= h.fold
		}
		out[k] = l
		if c != 0 {
			out[k] = l - c + 0.003*rng.NormFloat64()
		}
	}
	return out
}

// strategy says by how much to shorten each wire.
type strategy func(goals []Goal, raises []Raise, prior Prior) ([]float64, bool)

func advised(goals []Goal, raises []Raise, prior Prior) ([]float64, bool) {
	a, err := Advise(goals, raises, prior)
	return a.Change, err == nil && !a.Done
}

// inside reports whether all resonances of the newest raise are in their ranges.
func inside(goals []Goal, raises []Raise) bool {
	f := raises[len(raises)-1].F
	for g, x := range goals {
		if f[g] < x.Lo || f[g] > x.Hi {
			return false
		}
	}
	return true
}

// own is the goal that a length is for, where it may be changed.
func own(k int, goals []Goal, prior Prior) (int, bool) {
	return min(k, len(goals)-1), !prior.still(k)
}

// product keeps each wire's own frequency times length constant.
func product(goals []Goal, raises []Raise, prior Prior) ([]float64, bool) {
	last := raises[len(raises)-1]
	out := make([]float64, len(last.Lengths))
	for k, l := range last.Lengths {
		if g, ok := own(k, goals, prior); ok {
			out[k] = l * (1 - last.F[g]/goals[g].F)
		}
	}
	return out, !inside(goals, raises)
}

// little cuts half a per cent at a time where it is too long, and adds where it is too short.
func little(goals []Goal, raises []Raise, prior Prior) ([]float64, bool) {
	last := raises[len(raises)-1]
	out := make([]float64, len(last.Lengths))
	for k, l := range last.Lengths {
		g, ok := own(k, goals, prior)
		switch {
		case !ok:
		case last.F[g] < goals[g].Lo:
			out[k] = 0.005 * l
		case last.F[g] > goals[g].Hi:
			out[k] = -0.005 * l
		}
	}
	return out, !inside(goals, raises)
}

// run trims one truth: the number of changes, whether one made a resonance pass above its range that had been
// below, and whether it came to an end within the most changes.
func run(h truth, goals []Goal, start []float64, prior Prior, s strategy, seed uint64) (changes int, over, done bool) {
	rng := rand.New(rand.NewPCG(seed, 5))
	lengths := start
	raises := []Raise{{Lengths: lengths, F: h.resonances(lengths, goals, rng)}}
	for changes = 0; changes < 25; changes++ {
		change, more := s(goals, raises, prior)
		if !more {
			return changes, over, true
		}
		before := raises[len(raises)-1].F
		lengths = h.apply(lengths, change, rng)
		f := h.resonances(lengths, goals, rng)
		for g := range goals {
			if before[g] <= goals[g].Hi && f[g] > goals[g].Hi*1.0005 && !prior.Lost(g) {
				over = true
			}
		}
		raises = append(raises, Raise{Lengths: lengths, F: f})
	}
	return changes, over, false
}

type kind struct {
	name, kind, variant string
	mhz                 []float64
	radials             bool // they are changed, and the radiator left
}

func (f kind) taken() (out []bool) {
	for _, x := range f.mhz {
		_, quarters := family.TakenBy(x, f.mhz)
		out = append(out, quarters > 0)
	}
	return out
}

func (f kind) request() antenna.Request {
	r := antenna.Request{Shape: antenna.Shape{Family: f.kind, Variant: f.variant, FrequencyHz: f.mhz[0] * 1e6}}
	for _, m := range f.mhz[1:] {
		r.More = append(r.More, m*1e6)
	}
	if strings.HasSuffix(f.name, "in a fan") {
		r.PutWord("wires_run", "fan")
	}
	return r
}

// The families that are tried.
var trimmed = []kind{
	{"dipole, flat", "dipole", "flat", []float64{14.1}, false},
	{"dipole, inverted V", "dipole", "inverted-v", []float64{7.1}, false},
	{"end-fed half-wave", "end-fed", "sloper", []float64{7.1}, false},
	{"quarter-wave, raised radials", "vertical", "raised-radials", []float64{14.1}, false},
	{"the same by its radials", "vertical", "raised-radials", []float64{14.1}, true},
	{"coil and tail", "end-fed-loaded", "sloper", []float64{14.1, 7.1}, false},
	{"helix, by its turns", "helix", "ground-radials", []float64{14.1}, false},
	{"linked dipole, 3 bands", "linked-dipole", "inverted-v", []float64{14.06, 10.12, 7.1}, false},
	{"rectangle beam", "rectangle", "level", []float64{14.1}, false},
	{"telescopic whip", "whip", "raised-radials", []float64{14.1}, false},
	{"four, the longest thrice one", "multi-vertical", "ground-radials", []float64{21.1, 14.1, 10.12, 7.1}, false},
	{"two, one thrice the other", "multi-vertical", "ground-radials", []float64{21.1, 7.1}, false},
	{"three verticals on spacers", "multi-vertical", "ground-radials", []float64{24.9, 14.1, 10.12}, false},
	// These two take as long as all the others: only at length.
	{"five verticals in a fan", "multi-vertical", "ground-radials", []float64{28.1, 21.1, 18.1, 14.1, 10.12}, false},
	{"four over raised radials", "multi-vertical", "raised-radials", []float64{28.1, 18.1, 14.1, 10.12}, false},
}

// long lists all kinds, or the share of them that is asked for.
func long(t *testing.T) []kind { return trimmed[:testsize.Long(t, len(trimmed))] }

// half lists every second of the kinds that are quick: each goes through one of the two simulations, and through both at length.
func half(from int) (out []kind) {
	for i := from; i < len(trimmed)-2; i += 2 {
		out = append(out, trimmed[i])
	}
	return out
}

// truths makes hidden truths of a family: slopes of a few ways to hang it by the solver, everything else by
// chance.
func truths(t *testing.T, f kind, n int) (prior Prior, goals []Goal, out []truth) {
	t.Helper()
	var e twin.Engine
	p := family.Design(f.request())
	s := twin.Setup{Built: deployment.Built{Shape: p.Shape}, Planned: true, Ground: "average"}
	knobs := family.Of(s.Built.Shape).Knobs()
	var wanted, planned []float64
	for _, k := range knobs {
		planned = append(planned, k.Length(s.Built.Shape))
		prior.Still = append(prior.Still, k.Radials != f.radials)
		if !k.Radials {
			wanted = append(wanted, k.F)
			goals = append(goals, Goal{k.F, k.F * 0.9955, k.F * 1.0045})
		}
	}
	slopes := func(s twin.Setup) [][]float64 {
		out, err := e.Slopes(context.Background(), s, wanted, knobs)
		if err != nil {
			t.Fatalf("%s: %v", f.name, err)
		}
		return out
	}
	s.Planned = false // what is recorded stays as it is
	prior.Slope, prior.Sure, prior.Apart = slopes(s), sureness(s.Built), f.kind == "multi-vertical"
	prior.Taken = f.taken()
	_, prior.Free = family.Of(s.Built.Shape).Slider()
	for _, row := range prior.Slope {
		for k := range row {
			row[k] *= Folded
		}
	}
	var library [][][]float64
	for _, g := range []string{"sea", "rock"} {
		for _, up := range []float64{-0.6, 2} {
			other := s
			other.Ground = g
			if f.variant != "ground-radials" && other.Built.FeedHeight().M+up > 0.6 {
				other.Built.Put(antenna.FeedHeight, quantity.Metres(other.Built.FeedHeight().M+up))
				if f.kind == "end-fed-loaded" || f.kind == "end-fed" {
					other.Built.Put(antenna.FeedHeight, s.Built.FeedHeight())
					other.Built.Put(antenna.FarHeight, quantity.Metres(s.Built.FarHeight().M+up))
					other.Built.Put(antenna.PoleHeight, quantity.Metres(s.Built.PoleHeight().M+up))
				} else if f.variant != "inverted-v" && other.Built.FarHeight().M > 0 {
					other.Built.Put(antenna.FarHeight, other.Built.FeedHeight())
				}
			}
			if up > 0 && other.Built.FeedHeight() == s.Built.FeedHeight() && other.Built.FarHeight() == s.Built.FarHeight() {
				continue // at the same heights it is the one before
			}
			library = append(library, slopes(other))
		}
	}
	rng := rand.New(rand.NewPCG(17, uint64(len(f.name))))
	t.Logf("%s: slopes %.2f, otherwise hung %.2f", f.name, prior.Slope, library)
	for range n {
		base := library[rng.IntN(len(library))]
		h := truth{planned: planned, fold: 0.88 + 0.12*rng.Float64(), bend: 0.5 * rng.NormFloat64()}
		common := 0.02 * rng.NormFloat64() // the tape
		for g := range goals {
			row := make([]float64, len(planned))
			for k := range row {
				row[k] = base[g][k] * (1 + 0.06*rng.NormFloat64())
			}
			h.slope = append(h.slope, row)
			h.bias = append(h.bias, common+0.012*rng.NormFloat64())
		}
		out = append(out, h)
	}
	return prior, goals, out
}

func median(v []int) int {
	sort.Ints(v)
	return v[len(v)/2]
}

func TestAdvisorBringsHiddenTruthsHome(t *testing.T) {
	testsize.SkipIfShort(t, "simulates trimming of every kind")
	trimHiddenTruths(t, 40, half(0))
}

func TestLongAdvisorBringsHiddenTruthsHome(t *testing.T) {
	trimHiddenTruths(t, testsize.Long(t, 300), long(t))
}

// trimHiddenTruths trims n hidden antennas of each kind with each strategy, and compares the strategies.
func trimHiddenTruths(t *testing.T, n int, kinds []kind) {
	t.Helper()
	report := []string{fmt.Sprintf("%-28s %-18s %7s %5s %11s", "family", "strategy", "median", "most", "overshoots")}
	for _, f := range kinds {
		prior, goals, list := truths(t, f, n)
		advisorMedian, advisorOver := 0, 0
		for _, s := range []struct {
			name string
			by   strategy
		}{{"advisor", advised}, {"constant product", product}, {"a little each", little}} {
			var changes []int
			over, lost, left := 0, 0, 0
			for i, h := range list {
				start := make([]float64, len(h.planned))
				for k, l := range h.planned {
					start[k] = l
					if !prior.still(k) {
						start[k] *= 1.03 // cut long
					}
				}
				if f.radials && math.Abs(math.Log(h.resonances(start, goals, rand.New(rand.NewPCG(uint64(i),
					5)))[0]/goals[0].F)) > 0.2*math.Abs(prior.Slope[0][1]) {
					left++ // further off than radials are offered for
					continue
				}
				c, o, done := run(h, goals, start, prior, s.by, uint64(i))
				changes = append(changes, c)
				if o {
					over++
				}
				if !done {
					lost++
				}
			}
			n := n - left
			m, most := median(changes), changes[len(changes)-1]
			report = append(report, fmt.Sprintf("%-28s %-18s %7d %5d %9.1f %% of %d", f.name, s.name, m, most, 100*float64(over)/float64(n), n))
			if s.name != "advisor" {
				if n >= 50 && advisorMedian > m && (over <= advisorOver || prior.Free) {
					t.Errorf("%s: %s is better: median %d, %d too short", f.name, s.name, m, over)
				}
				continue
			}
			advisorMedian, advisorOver = m, over
			wantMedian, wantMost := 2, 4
			if len(goals) > 1 {
				wantMedian = 3
			}
			// What slides is too short only until it is pulled out again.
			if m > wantMedian || most > wantMost || lost > 0 || float64(over) > 0.02*float64(n) && !prior.Free {
				t.Errorf("%s: median %d, most %d changes, %d of %d too short, %d never done", f.name, m, most, over, n, lost)
			}
		}
	}
	t.Log("\n" + strings.Join(report, "\n"))
}

// TestAdviceOnAntennasSolvedAtEveryCut has no slopes at all in its truths: the hidden antenna, hung at another
// height over another soil and of wires that are not as long as recorded, is solved anew after every change.
func TestAdviceOnAntennasSolvedAtEveryCut(t *testing.T) {
	testsize.SkipIfShort(t, "solves after every cut")
	trimSolved(t, 2, half(1))
}

func TestLongAdviceOnAntennasSolvedAtEveryCut(t *testing.T) {
	trimSolved(t, testsize.Long(t, 5), long(t))
}

// trimSolved trims n hidden antennas of each kind that are solved after every cut.
func trimSolved(t *testing.T, n int, kinds []kind) {
	t.Helper()
	ctx := context.Background()
	report := []string{fmt.Sprintf("%-28s %7s %5s %10s", "family", "median", "most", "too short")}
	for _, f := range kinds {
		var e twin.Engine
		p := family.Design(f.request())
		recorded := twin.Setup{Built: deployment.Built{Shape: p.Shape}, Ground: "average"}
		prior := Prior{Sure: sureness(recorded.Built), Apart: f.kind == "multi-vertical", Taken: f.taken()}
		var goals []Goal
		var wanted, start []float64
		knobs := family.Of(recorded.Built.Shape).Knobs()
		for _, k := range knobs {
			start = append(start, k.Length(recorded.Built.Shape))
			prior.Still = append(prior.Still, k.Radials != f.radials)
			if prior.Still[len(start)-1] {
				continue
			}
			start[len(start)-1] *= 1.03
			recorded = recorded.With(k, start[len(start)-1])
		}
		for _, k := range knobs {
			if !k.Radials {
				goals, wanted = append(goals, Goal{k.F, k.F * 0.9955, k.F * 1.0045}), append(wanted, k.F)
			}
		}
		slopes, err := e.Slopes(ctx, recorded, wanted, knobs)
		if err != nil {
			t.Fatalf("%s: %v", f.name, err)
		}
		for _, row := range slopes {
			for k := range row {
				row[k] *= Folded
			}
		}
		prior.Slope = slopes
		span := 0.12
		if knobs[0].Turns() {
			span = 0.2
		}
		var changes []int
		over := 0
		for i := range n {
			rng := rand.New(rand.NewPCG(uint64(i), 77))
			hidden := recorded
			hidden.Ground = []string{"sea", "wet", "rock", "average"}[i%4]
			if f.variant != "ground-radials" {
				up := 0.4 * rng.NormFloat64()
				for _, id := range []string{antenna.FeedHeight, antenna.FarHeight, antenna.RadialsHeight} {
					if h := hidden.Built.M(id); h > 0.5 {
						hidden.Built.Put(id, quantity.Metres(math.Max(0.3, h+up)))
					}
				}
			}
			tape := 0.01 * rng.NormFloat64()
			factor := make([]float64, len(knobs))
			for k := range factor {
				factor[k] = 1 + tape + 0.006*rng.NormFloat64()
			}
			fold := 0.88 + 0.12*rng.Float64()
			measure := func(lengths []float64) Raise {
				for k, knob := range knobs {
					hidden = hidden.With(knob, lengths[k]*factor[k])
				}
				r := Raise{Lengths: append([]float64{}, lengths...)}
				for _, f := range wanted {
					at, ok, err := e.Resonance(ctx, hidden, f, f*(1-span), f*(1+span))
					if err != nil {
						t.Fatal(err)
					}
					if !ok {
						at = 0
					}
					r.F = append(r.F, at*math.Exp(0.0006*rng.NormFloat64()))
				}
				return r
			}
			lengths := append([]float64{}, start...)
			raises := []Raise{measure(lengths)}
			changed, short := 0, false
			for ; changed < 8; changed++ {
				a, err := Advise(goals, raises, prior)
				if err != nil {
					t.Fatalf("%s, %d: %v", f.name, i, err)
				}
				if a.Done {
					break
				}
				before := raises[len(raises)-1].F
				for k, c := range a.Change {
					if c > 0 {
						c *= fold
					}
					if c != 0 {
						lengths[k] += -c + 0.003*rng.NormFloat64()
					}
				}
				raises = append(raises, measure(lengths))
				for g, now := range raises[len(raises)-1].F {
					short = short || before[g] <= goals[g].Hi && now > goals[g].Hi*1.0005 && !prior.Lost(g)
				}
			}
			if short {
				over++
			}
			changes = append(changes, changed)
		}
		m, most := median(changes), changes[len(changes)-1]
		report = append(report, fmt.Sprintf("%-28s %7d %5d %6d of %d", f.name, m, most, over, n))
		wantMedian := 2
		if len(goals) > 1 {
			wantMedian = 3
		}
		if m > wantMedian || most > 4 || over > 1 {
			t.Errorf("%s: median %d, most %d changes, %d of %d too short", f.name, m, most, over, n)
		}
	}
	t.Log("\n" + strings.Join(report, "\n"))
}

func TestAdviceForAPlainWire(t *testing.T) {
	goals := []Goal{{14.06e6, 14.0e6, 14.12e6}}
	prior := Prior{Slope: [][]float64{{-1}}, Sure: 0.05}
	long := Raise{Lengths: []float64{10.2}, F: []float64{13.7e6}}
	a, err := Advise(goals, []Raise{long}, prior)
	if err != nil || a.Done {
		t.Fatal(err, a)
	}
	whole := 10.2 * (1 - 13.7/14.06)
	if a.Change[0] <= 0.6*whole || a.Change[0] > whole*1.001 || a.Short[0] > MostShort {
		t.Errorf("change %v of %v, short %v", a.Change[0], whole, a.Short[0])
	}
	if a.Expect[0] < 13.9e6 || a.Range[0][0] > a.Expect[0] || a.Range[0][1] < a.Expect[0] {
		t.Errorf("expects %v within %v", a.Expect[0], a.Range[0])
	}
	// Less sure, it holds back more.
	prior.Sure = 0.3
	careful, _ := Advise(goals, []Raise{long}, prior)
	if careful.Change[0] >= a.Change[0] {
		t.Errorf("unsure it cuts %v, sure %v", careful.Change[0], a.Change[0])
	}
	// Too short: what is missing is added whole, since it can be folded.
	short, _ := Advise(goals, []Raise{{Lengths: []float64{9.9}, F: []float64{14.4e6}}}, prior)
	if missing := 9.9 * (1 - 14.4/14.06); math.Abs(short.Change[0]-missing) > 0.02*math.Abs(missing) {
		t.Errorf("adds %v, %v are missing", -short.Change[0], -missing)
	}
	// A second sweep teaches how this wire answers: it moved half as far as the prior says.
	second, _ := Advise(goals, []Raise{long, {Lengths: []float64{10.0}, F: []float64{13.7e6 * math.Exp(0.5*math.Log(10.2/10.0))}}}, prior)
	if left := 10.0 * (1 - math.Exp(-math.Log(14.06/13.836)/0.5)); second.Change[0] < 0.5*left {
		t.Errorf("after learning it cuts %v of about %v", second.Change[0], left)
	}
	if done, _ := Advise(goals, []Raise{{Lengths: []float64{10}, F: []float64{14.05e6}}}, prior); !done.Done || done.Change[0] != 0 {
		t.Errorf("in its range: %+v", done)
	}
	if _, err := Advise(goals, []Raise{{Lengths: []float64{10}, F: []float64{0}}}, prior); err == nil {
		t.Error("advice from nothing")
	}
}

// feed is the sweep that a set-up gives at the antenna's end of its coax, by the solver.
func feed(t *testing.T, e *twin.Engine, b deployment.Built, lo, hi float64) sweep.Curve {
	t.Helper()
	at, err := e.Curve(context.Background(), twin.Setup{Built: b, Ground: "average"}, lo, hi)
	if err != nil {
		t.Fatal(err)
	}
	var f []float64
	var g []complex128
	for x := lo; x <= hi; x += 1e4 {
		f, g = append(f, x), append(g, circuit.Gamma(at(x), sweep.Reference))
	}
	return curveOf(t, sweep.Complex, f, g)
}

func curveOf(t *testing.T, kind string, f []float64, gamma []complex128) sweep.Curve {
	t.Helper()
	s, _, _ := sweep.New(kind, f, gamma)
	curve, err := s.Curve()
	if err != nil {
		t.Fatal(err)
	}
	return curve
}

// A vertical's radials at knee height are folded with the pole up, when that is enough; the solver then finds the
// resonance where the advice says.
func TestRadialsWithinReachAreFoldedWithThePoleUp(t *testing.T) {
	var e twin.Engine
	p := family.Design(antenna.Request{Shape: antenna.Shape{Family: "vertical", Variant: "raised-radials",
		FrequencyHz: 14.06e6}.With(antenna.FeedHeight, quantity.Metres(1.5))})
	b := deployment.Built{Shape: p.Shape}
	b.PutNumber(antenna.RadialsCount, 3)
	b.Choke.Place = "feed"
	advise := func(b deployment.Built, more ...Swept) *Told {
		t.Helper()
		x := Subject{Swept: append(more, Swept{b, []sweep.Curve{feed(t, &e, b, 13e6, 15e6)}}), Ground: "average", Region: 1,
			Segments: band.DefaultSegments(1), Limit: 1.5}
		got, err := x.Advise(context.Background(), &e, nil)
		if err != nil {
			t.Fatal(err)
		}
		return got.Told(quantity.SI)
	}
	ends := func(b deployment.Built, f phrase.Foreseen) {
		t.Helper()
		at, ok, err := e.Resonance(context.Background(), twin.Setup{Built: b, Ground: "average"}, f.F, 13e6, 15e6)
		if err != nil || !ok || at < f.Range[0] || at > f.Range[1] {
			t.Errorf("at %v, foreseen %+v: %v", at, f, err)
		}
	}
	exact := feed(t, &e, b, 13e6, 15e6)
	r, _ := sweep.Read(exact, 1, band.Nearest(1, 14.06e6), band.Own(band.DefaultSegments(1), "20 m"), 1.5)
	much, little := b, b
	little.Put(antenna.Radiator, quantity.Metres(b.Radiator().M*r.MinAt/14.06e6*1.021))
	got := advise(little)
	if got.Way != "the radials" || got.Instead == nil || got.Instead.Way != "the radiator" ||
		!strings.Contains(got.Headline, "on each of the 3 radials") || !strings.Contains(got.More, "The pole stays up") {
		t.Fatalf("%+v", got)
	}
	if got.Built.Radiator() != little.Radiator() || got.Built.Radials().Length.M >= little.Radials().Length.M ||
		got.Instead.Built.Radials() != little.Radials() || got.Instead.Built.Radiator().M >= little.Radiator().M {
		t.Errorf("radials %v, radiator %v, instead %v, %v", got.Built.Radials(), got.Built.Radiator(), got.Instead.Built.Radials(),
			got.Instead.Built.Radiator())
	}
	ends(got.Built, got.Foreseen[0])
	ends(got.Instead.Built, got.Instead.Foreseen[0])
	// A radial has less of a hold on the dip than the radiator: more is folded.
	if got.Wires[0].Change.M < 1.5*got.Instead.Wires[0].Change.M {
		t.Errorf("%v and %v", got.Wires, got.Instead.Wires)
	}
	// Without a choke the radials' length matters more than one's arms.
	bare := little
	bare.Choke.Place = ""
	if got := advise(bare); got.Way == "the radials" {
		t.Errorf("%+v", got)
	}
	// Far off, the radiator comes first, and radials out of reach are let alone.
	much.Put(antenna.Radiator, quantity.Metres(little.Radiator().M*1.08))
	if got := advise(much); got.Way == "the radials" || got.Instead != nil || got.Built.Radials() != much.Radials() {
		t.Errorf("%+v", got)
	}
	high := little
	high.Put(antenna.FeedHeight, quantity.Metres(4))
	high.Put(antenna.RadialsHeight, quantity.Metres(3.5))
	if got := advise(high); got.Way != "" || got.Instead != nil {
		t.Errorf("%+v", got)
	}
	// Radials that were folded before are learned from: they moved the dip, not the radiator.
	again := advise(got.Built, Swept{little, []sweep.Curve{feed(t, &e, little, 13e6, 15e6)}})
	if !again.Done && math.Abs(again.Foreseen[0].Expect/14.06e6-1) > 0.006 {
		t.Errorf("%+v", again)
	}
}

// A helix is trimmed by its turns; of a wire with coil and tail the main wire is for the band that was swept, and the
// tail is left for the one that was not. Where nothing is to be done, it says how it stands.
func TestTurnsAndMainWires(t *testing.T) {
	testsize.SkipIfShort(t, "solves antennas")
	var e twin.Engine
	advise := func(b deployment.Built, lo, hi float64) *Told {
		t.Helper()
		x := Subject{Swept: []Swept{{b, []sweep.Curve{feed(t, &e, b, lo, hi)}}}, Ground: "average", Region: 1,
			Segments: band.DefaultSegments(1), Limit: 1.5}
		got, err := x.Advise(context.Background(), &e, nil)
		if err != nil {
			t.Fatal(err)
		}
		return got.Told(quantity.SI)
	}
	dip := func(b deployment.Built) float64 {
		t.Helper()
		at, ok, err := e.Resonance(context.Background(), twin.Setup{Built: b, Ground: "average"}, 14.06e6, 12.6e6, 15.5e6)
		if err != nil || !ok {
			t.Fatal(ok, err)
		}
		return at
	}
	p := family.Design(antenna.Request{Shape: antenna.Shape{Family: "helix", Variant: "ground-radials", FrequencyHz: 14.06e6}})
	helix := deployment.Built{Shape: p.Shape.WithNumber("helix_turns", math.Round(p.Shape.N("helix_turns", 0)*1.06))}
	got := advise(helix, 12.5e6, 15.5e6)
	before, after := dip(helix), dip(got.Built)
	off := helix.N("helix_turns", 0) - got.Built.N("helix_turns", 0)
	if got.Headline != fmt.Sprintf("Take off %s, then sweep again.", phrase.Count(off, "turn")) || off <= 0 ||
		got.Built.Radiator() != helix.Radiator() {
		t.Errorf("%+v", got)
	}
	if after <= before || after > 14.06e6*1.003 || math.Abs(after/got.Foreseen[0].Expect-1) > 0.02 ||
		!strings.Contains(got.Reason, "took off") {
		t.Errorf("from %v to %v, foreseen %+v", before, after, got.Foreseen)
	}
	p = family.Design(antenna.Request{Shape: antenna.Shape{Family: "end-fed-loaded", Variant: "sloper", FrequencyHz: 14.06e6,
		More: []float64{7.05e6}}})
	b := deployment.Built{Shape: p.Shape}
	b.Shape = b.With("coil_at", quantity.Metres((b.Radiator().M-b.M("tail"))*0.96))
	b.Put(antenna.Radiator, quantity.Metres(b.M("coil_at")+b.M("tail")))
	got = advise(b, 12.6e6, 15.6e6)
	if len(got.Wires) != 1 || !strings.HasPrefix(got.Headline, "Main wire up to the coil: add") || got.Built.M("tail") != b.M("tail") ||
		!strings.Contains(got.More, "sweep them too") {
		t.Fatalf("%+v", got)
	}
	if got.Built.M("coil_at") <= b.M("coil_at") || math.Abs(got.Built.M("coil_at")+got.Built.M("tail")-got.Built.Radiator().M) > 0.002 {
		t.Errorf("main wire %v, tail %v, whole %v", got.Built.M("coil_at"), got.Built.M("tail"), got.Built.Radiator().M)
	}
	if at := dip(got.Built); math.Abs(at/14.06e6-1) > 0.006 {
		t.Errorf("then at %v", at)
	}
	// Links are counted from the feed: one that moves makes the next section longer, and each is named.
	p = family.Design(antenna.Request{Shape: antenna.Shape{Family: "linked-dipole", Variant: "flat", FrequencyHz: 14.06e6,
		More: []float64{7.05e6}}})
	linked := deployment.Built{Shape: p.Shape}
	linked.Shape = linked.With(family.LinkID(0), quantity.Metres(linked.M(family.LinkID(0))*1.03))
	if got := advise(linked, 12.6e6, 15.6e6); len(got.Wires) != 2 || strings.Count(got.Headline, "eg up to its link for") != 2 ||
		!strings.Contains(got.Headline, "14.060") {
		t.Errorf("%+v", got)
	}
	if stays := advise(got.Built, 12.6e6, 15.6e6); !stays.Done || !strings.HasPrefix(stays.Headline, "No change needed") ||
		!strings.Contains(stays.Detail, "for 14.060 MHz") {
		t.Errorf("%+v", stays)
	}
}

// What was swept before the antenna was raised does not teach how its wires answer.
func TestSweepsOfAnotherSetUpAreNotCounted(t *testing.T) {
	var e twin.Engine
	p := family.Design(antenna.Request{Shape: antenna.Shape{Family: "dipole", Variant: "flat", FrequencyHz: 14.06e6}.With(antenna.FeedHeight,
		quantity.Metres(3))})
	low := deployment.Built{Shape: p.Shape}
	low.Put(antenna.Radiator, quantity.Metres(p.Shape.Radiator().M*1.03))
	low.Put(antenna.LegB, quantity.Metres(p.Shape.LegB().M*1.03))
	low.Put(antenna.FarHeight, low.FeedHeight())
	high := low
	high.Put(antenna.Radiator, quantity.Metres(low.Radiator().M-0.01))
	high.Put(antenna.LegB, quantity.Metres(low.Radiator().M-0.01))
	high.Put(antenna.FeedHeight, quantity.Metres(7))
	high.Put(antenna.FarHeight, quantity.Metres(7))
	windy := low
	windy.Wind = "fresh"
	x := Subject{Ground: "average", Region: 1, Segments: band.DefaultSegments(1), Limit: 1.5}
	advise := func(list ...deployment.Built) *Told {
		t.Helper()
		x.Swept = nil
		for _, b := range list {
			x.Swept = append(x.Swept, Swept{b, []sweep.Curve{feed(t, &e, b, 13e6, 15e6)}})
		}
		got, err := x.Advise(context.Background(), &e, nil)
		if err != nil {
			t.Fatal(err)
		}
		return got.Told(quantity.SI)
	}
	alone, after := advise(high), advise(low, high)
	if alone.Wires[0].Change != after.Wires[0].Change {
		t.Errorf("alone %v, after another height %v", alone.Wires[0], after.Wires[0])
	}
	if !strings.Contains(after.More, "Earlier sweeps are not counted: feed point was 3.00 m then and is 7.00 m now") {
		t.Error(after.More)
	}
	if got := advise(windy, low); strings.Contains(got.More, "not counted") {
		t.Error(got.More)
	}
}

func TestSubjectReadsSweepsAndProposesARevision(t *testing.T) {
	var e twin.Engine
	p := family.Design(antenna.Request{Shape: antenna.Shape{Family: "dipole", Variant: "flat", FrequencyHz: 14.06e6}})
	b := deployment.Built{Shape: p.Shape}
	b.Put(antenna.Radiator, quantity.Metres(p.Shape.Radiator().M*1.03))
	b.Put(antenna.LegB, quantity.Metres(p.Shape.LegB().M*1.03))
	curve := feed(t, &e, b, 13e6, 15e6)
	x := Subject{Swept: []Swept{{b, []sweep.Curve{curve}}}, Ground: "average", Region: 1, Segments: band.DefaultSegments(1), Limit: 1.5}
	advice, err := x.Advise(context.Background(), &e, nil)
	got := advice.Told(quantity.SI)
	if err != nil || got.Done || len(got.Wires) != 1 || !strings.Contains(got.Headline, "Fold back") ||
		!strings.Contains(got.Headline, "each leg") {
		t.Fatalf("%v %+v", err, got)
	}
	if c := b.Radiator().M - got.Built.Radiator().M; c < 0.03 || c > 0.2 || math.Abs(c-got.Wires[0].Change.M) > 0.002 ||
		got.Built.LegB() != got.Built.Radiator() {
		t.Errorf("folded by %v, said %v; legs %v and %v", c, got.Wires[0].Change.M, got.Built.Radiator().M, got.Built.LegB().M)
	}
	if !strings.Contains(got.Reason, "folded back") || len(got.Foreseen) != 1 || got.Foreseen[0].Short > 1 {
		t.Errorf("%q %+v", got.Reason, got.Foreseen)
	}
	settings := x
	settings.Swept = []Swept{{deployment.Built{Shape: antenna.Shape{Family: "small-loop", Variant: "upright", FrequencyHz: 14e6}},
		[]sweep.Curve{curve}}}
	if _, err := settings.Advise(context.Background(), &e, nil); err == nil {
		t.Error("a loop is trimmed")
	}
}

// An end-fed wire that was swept on 40 and on 20 m: one length for both, and what it foresees for both.
func TestOneWireOnItsHarmonicsIsACompromise(t *testing.T) {
	var e twin.Engine
	p := family.Design(antenna.Request{Shape: antenna.Shape{Family: "end-fed", Variant: "sloper", FrequencyHz: 7.1e6}})
	b := deployment.Built{Shape: p.Shape}
	b.Put(antenna.Radiator, quantity.Metres(p.Shape.Radiator().M*1.04))
	var feeds []sweep.Curve
	for _, span := range [][2]float64{{6.3e6, 7.7e6}, {12.6e6, 15.4e6}} {
		feeds = append(feeds, feed(t, &e, b, span[0], span[1]))
	}
	x := Subject{Ground: "average", Region: 1, Segments: band.DefaultSegments(1), Limit: 1.5}
	advise := func(feeds ...sweep.Curve) *Told {
		t.Helper()
		x.Swept = []Swept{{b, feeds}}
		got, err := x.Advise(context.Background(), &e, nil)
		if err != nil {
			t.Fatal(err)
		}
		return got.Told(quantity.SI)
	}
	one, both, upper := advise(feeds[0]), advise(feeds...), advise(feeds[1])
	// Swept on the upper band alone, it is trimmed by that.
	if len(upper.Foreseen) != 1 || upper.Foreseen[0].F < 14e6 || upper.Wires[0].Change.M <= 0 ||
		!strings.Contains(upper.More, "sweep them too") {
		t.Errorf("%+v", upper)
	}
	if len(one.Foreseen) != 1 || strings.Contains(one.More, "compromise") {
		t.Errorf("%+v", one)
	}
	if len(both.Foreseen) != 2 || both.Foreseen[1].F < 14e6 || both.Foreseen[1].F > 14.35e6 || !strings.Contains(both.More, "compromise") {
		t.Fatalf("%+v", both)
	}
	for _, f := range both.Foreseen {
		if math.Abs(math.Log(f.Expect/f.F)) >= math.Abs(math.Log(f.Now/f.F)) {
			t.Errorf("%v is foreseen no nearer: %+v", f.F, f)
		}
	}
	if one.Wires[0].Change.M <= 0 || both.Wires[0].Change.M <= 0 {
		t.Errorf("too long by 4 %%, yet %v and %v", one.Wires, both.Wires)
	}
}

// A tip that would have to go further in than the winding lets it goes that far, and what is left comes off the winding.
func TestATipIsTrimmedToItsEndAndNoFurther(t *testing.T) {
	p := family.Design(antenna.Request{Shape: antenna.Shape{Family: "loading-stick", Variant: "ground-radials", FrequencyHz: 14.06e6}})
	b := deployment.Built{Shape: p.Shape}
	j := job{setup: twin.Setup{Built: b}, knobs: family.Of(b.Shape).Knobs(), goals: []Goal{{F: 14.06e6}}, newest: make([]observed, 1)}
	for tip, want := range map[float64]struct {
		tip, change float64
		says        string
	}{
		0.85: {0.75, 0.1, "Slide the tip in by 10.0 cm, to 75.0 cm"},
		0.45: {0.40, 0.1, "Slide the tip in by 50 mm, to 40.0 cm"},
		0.40: {0.40, 0.1, "Tip at its end"},
		1.28: {1.30, -0.1, "Pull the tip out by 20 mm, to 1.300 m"},
	} {
		j.setup.Built.Shape = j.knobs[0].Set(b.Shape, tip)
		got := Subject{}.trim(j, Raise{Lengths: []float64{tip}, F: []float64{13.8e6}},
			Advice{Change: []float64{want.change}, Now: []float64{13.8e6}, Expect: []float64{14.06e6}, Range: [][2]float64{{14e6, 14.1e6}},
				Short: []float64{0}}).Told(quantity.SI)
		if !strings.HasPrefix(got.Headline, want.says) || math.Abs(got.Built.M("tip")-want.tip) > 1e-9 {
			t.Errorf("tip of %v: %q, %v", tip, got.Headline, got.Built.M("tip"))
		}
		if atEnd := want.tip == 0.40 || want.tip == 1.30; atEnd != strings.Contains(got.Detail, "winding") &&
			atEnd != strings.Contains(got.Detail, "wound on") {
			t.Errorf("tip of %v: %q", tip, got.Detail)
		}
	}
}

// One dip that somebody found is advised like a sweep, with more held back and a wider range.
func TestOneDipIsAdvisedLikeASweep(t *testing.T) {
	goals, prior := []Goal{{F: 10.12e6, Lo: 10.09e6, Hi: 10.15e6}}, Prior{Slope: [][]float64{{-0.95}}, Sure: 0.08}
	swept, err1 := Advise(goals, []Raise{{Lengths: []float64{14.2}, F: []float64{9.87e6}}}, prior)
	found, err2 := Advise(goals, []Raise{{Lengths: []float64{14.2}, F: []float64{9.87e6}, Sure: []float64{0.006}}}, prior)
	if err1 != nil || err2 != nil {
		t.Fatal(err1, err2)
	}
	wide := func(a Advice) float64 { return a.Range[0][1] - a.Range[0][0] }
	if found.Done || found.Change[0] <= 0 || found.Change[0] >= swept.Change[0] || wide(found) <= wide(swept) || found.Short[0] > MostShort {
		t.Errorf("by one dip %+v, by a sweep %+v", found, swept)
	}
}

// Of a rectangle whose reflector was cut short, measured between its knots, each element is brought to what it is to be:
// the dip comes to its place, and what goes backward is held off again.
func TestEachElementOfARectangleIsMended(t *testing.T) {
	var e twin.Engine
	p := family.Design(antenna.Request{Shape: antenna.Shape{Family: "rectangle", Variant: "level", FrequencyHz: 21.1e6}})
	b := deployment.Built{Shape: p.Shape, Coax: deployment.Coax{Type: "RG-58", Length: quantity.Metres(11)},
		Choke: deployment.Choke{Place: "feed"}}
	b.Put("driven_tail", quantity.Metres(b.M("driven_tail")+0.06))
	b.Put(antenna.Radiator, quantity.Metres(b.M("width")+2*b.M("driven_tail")))
	b.Put("reflector", quantity.Metres(b.M("width")+2*b.M("reflector_tail")-0.3))
	front := func(b deployment.Built) float64 {
		t.Helper()
		f, err := e.Forecast(t.Context(), twin.Setup{Built: b, Ground: "average"}, twin.Options{Region: 1, Coarse: true}, nil)
		if err != nil {
			t.Fatal(err)
		}
		x := f.Bands[0].Pattern
		top := int(math.Round(x.Direction/5)) % 72
		return x.Azimuth[top] - x.Azimuth[(top+36)%72]
	}
	x := Subject{Swept: []Swept{{b, []sweep.Curve{feed(t, &e, b, 19e6, 23e6)}}}, Ground: "average", Region: 1,
		Segments: band.DefaultSegments(1), Limit: 2}
	got, err := x.Advise(t.Context(), &e, nil)
	if err != nil {
		t.Fatal(err)
	}
	told := got.Told(quantity.SI)
	if !strings.Contains(told.Headline, "old back") || !strings.Contains(told.Headline, "dd ") ||
		!strings.Contains(told.Headline, "reflector tail") {
		t.Errorf("%q", told.Headline)
	}
	if was, now := front(b), front(got.Built); now < 14 || now < was+4 {
		t.Errorf("%.0f dB front to back before, %.0f after: %q", was, now, told.Headline)
	}
	at, ok, err := e.Resonance(t.Context(), twin.Setup{Built: got.Built, Ground: "average"}, 21.1e6, 19e6, 23e6)
	if err != nil || !ok || math.Abs(at/got.Foreseen[0].Expect-1) > 0.01 {
		t.Errorf("then at %v, foreseen %v", at, got.Foreseen)
	}
}

// Of two wires of which one is three quarter-waves long on the other's band, the other is left as it is, and why is said.
func TestAWireWhoseBandAnotherTakesIsLeft(t *testing.T) {
	testsize.SkipIfShort(t, "solves antennas")
	var e twin.Engine
	p := family.Design(antenna.Request{Shape: antenna.Shape{Family: "multi-vertical", Variant: "ground-radials", FrequencyHz: 7.1e6,
		More: []float64{21.2e6}}})
	b := deployment.Built{Shape: p.Shape}
	b.Put(antenna.Radiator, quantity.Metres(b.Radiator().M*1.04))
	x := Subject{Swept: []Swept{{b, []sweep.Curve{feed(t, &e, b, 6.5e6, 7.6e6), feed(t, &e, b, 19.5e6, 22.5e6)}}}, Ground: "average",
		Region: 1, Segments: band.DefaultSegments(1), Limit: 1.5}
	got, err := x.Advise(t.Context(), &e, nil)
	if err != nil {
		t.Fatal(err)
	}
	if len(got.Actions) != 1 || got.Actions[0].Verb != phrase.Fold || got.Labels[0] != "wire for 7.100 MHz" || got.Unswept ||
		len(got.Foreseen) != 1 || !strings.Contains(got.More(), "On 21.200 MHz another wire carries the current") {
		t.Errorf("%+v\n%s", got.Advice, got.More())
	}
	x.Swept[0].Feeds = x.Swept[0].Feeds[1:]
	if _, err := x.Advise(t.Context(), &e, nil); err == nil || errors.Is(err, ErrNothing) ||
		!strings.Contains(err.Error(), "on 21.200 MHz another wire") || !strings.Contains(err.Error(), "Sweep the other bands") {
		t.Errorf("with 21.2 MHz alone: %v", err)
	}
}
