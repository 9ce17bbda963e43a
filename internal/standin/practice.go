package standin

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"math/rand/v2"
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
	"reed/core/trim"
	"reed/core/twin"
)

// Practice is a game of trimming: an antenna that is up and too long, with hidden true figures, and a segment
// to bring it into. The same seed is the same game.
type Practice struct {
	Seed     uint64
	Region   band.Region
	Segments []band.Segment
	Limit    float64 // the SWR that is good enough
	Units    quantity.System
}

// MostRaises is how often a player may lower the antenna.
const MostRaises = 8

// start is the antenna as first raised, with its hidden figures.
type start struct {
	built    deployment.Built // as the tape says
	band     band.Band
	analyser Analyser
	grip     float64 // what a fold back takes of its length
}

// hang is an antenna that one can practise with.
type hang struct {
	family.Practice
	family string
}

// hangs lists what one can practise with, what goes up at its far end last.
func hangs() (out []hang) {
	for _, f := range family.Families() {
		for _, p := range f.Practice {
			out = append(out, hang{p, f.ID})
		}
	}
	slices.SortStableFunc(out, func(a, b hang) int { return cmp.Compare(a.Rise, b.Rise) })
	return out
}

// begin deals the game.
func (p Practice) begin(e *twin.Engine) (start, error) {
	rng := rand.New(rand.NewPCG(p.Seed, 2026))
	kinds := hangs()
	k := kinds[rng.IntN(len(kinds))]
	var bands []band.Band
	for _, name := range []string{"40m", "30m", "20m", "17m", "15m"} {
		if b, ok := band.Named(p.Region, name); ok && len(band.Own(p.Segments, name)) > 0 && b.Lo > k.LeastHz {
			bands = append(bands, b)
		}
	}
	if len(bands) == 0 {
		return start{}, fmt.Errorf("none of your segments lies between 40 and 15 m; choose one in Settings to practise on")
	}
	b := bands[rng.IntN(len(bands))]
	own := band.Own(p.Segments, b.Name)
	s := antenna.Shape{Family: k.family, Variant: k.Variant, FrequencyHz: (own[0].Lo + own[0].Hi) / 2}.
		With(antenna.FeedHeight, quantity.Metres(k.Height)).With(antenna.PoleHeight, quantity.Metres(9))
	if k.Rise > 0 {
		s.Put(antenna.FarHeight, quantity.Metres(math.Min(8, k.Height+k.Rise*numeric.Light/s.FrequencyHz)))
	}
	plan := family.Design(antenna.Request{Shape: s})
	if antenna.HasError(plan.Faults) {
		return start{}, fmt.Errorf("the antenna to practise on cannot be planned: %s", plan.Faults[0].Text)
	}
	built := deployment.Built{Shape: plan.Shape}
	long := 1.02 + 0.045*rng.Float64()
	round := func(m float64) quantity.Length { return quantity.Metres(math.Round(m*100) / 100) }
	built.Put(antenna.Radiator, round(built.Radiator().M*long))
	if built.LegB().M > 0 {
		built.Put(antenna.LegB, built.Radiator())
	}
	grounds := []string{"average", "sea", "rock"}
	out := start{band: b, grip: 0.88 + 0.12*rng.Float64(),
		analyser: Analyser{Seed: p.Seed, Noise: 0.0008, Ground: grounds[rng.IntN(len(grounds))], Engine: e}}
	if rng.IntN(2) == 0 {
		// Swept from the operator's chair.
		cables := []string{"RG-174", "RG-58", "RG-8X"}
		built.Coax = deployment.Coax{Type: cables[rng.IntN(len(cables))], Length: quantity.Metres(float64(5 + rng.IntN(11)))}
		built.Choke.Place = "feed"
	}
	out.built = built
	return out, nil
}

// cable is the coax that it is swept through.
func (s start) cable() (c circuit.Coax, metres float64, ok bool) {
	c, ok = s.built.Coax.Cable()
	return c, s.built.Coax.Length.M, ok && s.built.Coax.Length.M > 0
}

// Legs is on how many wires alike a move is made.
func (p Practice) Legs(e *twin.Engine) (int, error) {
	s, err := p.begin(e)
	return max(1, s.built.Legs()), err
}

// deal begins the game with an antenna that is not right already, a wide one is cut longer still, and whose dip the
// sweep shows. Where a cable so flatters it that it is not bad before its dip is out of sight, it is swept without.
func (p Practice) deal(ctx context.Context, e *twin.Engine) (start, error) {
	dealt, err := p.begin(e)
	for s, tries := dealt, 0; err == nil; tries++ {
		first, err := p.up(ctx, s, nil, 0)
		_, _, through := s.cable()
		longer := 1.025
		switch {
		case err != nil:
			return s, err
		case through && (first.reading.AtEdge || tries == 4):
			dealt.built.Coax, dealt.built.Choke = deployment.Coax{}, deployment.Choke{}
			s, tries = dealt, 0
			continue
		case first.reading.AtEdge && tries < 4:
			longer = 0.975
		case !first.in() || tries == 4:
			return s, nil
		}
		s.built.Put(antenna.Radiator, quantity.Metres(math.Round(s.built.Radiator().M*100*longer)/100))
		if s.built.LegB().M > 0 {
			s.built.Put(antenna.LegB, s.built.Radiator())
		}
	}
	return dealt, err
}

// with is the antenna after folds in metres of the whole radiator, negative for added: as the tape says, and as it
// acts.
func (s start) with(folds []float64) (told, acts deployment.Built) {
	sum, real := 0.0, 0.0
	for _, m := range folds {
		sum += m
		// What is unfolded was folded before: it gives back what it took.
		real += m * s.grip
	}
	return shortened(s.built, sum), shortened(s.built, real)
}

// shortened is a set-up with a change of its whole radiator in metres, negative for added wire, to the millimetre; two legs are
// changed alike.
func shortened(b deployment.Built, m float64) deployment.Built {
	by := func(l quantity.Length) quantity.Length {
		return quantity.Metres(math.Round((l.M-m/float64(b.Legs()))*1000) / 1000)
	}
	two := b.Legs() == 2
	b.Put(antenna.Radiator, by(b.Radiator()))
	if two {
		b.Put(antenna.LegB, by(b.LegB()))
	}
	return b
}

// Raised is one time that the antenna was up.
type Raised struct {
	Did    string          `json:"did"`
	Length quantity.Length `json:"length"` // of the radiator, by the tape; of each leg where there are two
	MinHz  float64         `json:"min_hz"`
	MinSWR float64         `json:"min_swr"`
	Says   string          `json:"says"`
	SWR    []float64       `json:"swr"`
}

// Judged is a move beside what the advisor would have done in its place: what either left to go, in hertz, by the
// truth that was hidden.
type Judged struct {
	Yours       string  `json:"yours"`
	Advisor     string  `json:"advisor"`
	YoursLeft   float64 `json:"yours_left_hz"`
	AdvisorLeft float64 `json:"advisor_left_hz"`
	Says        string  `json:"says"`
}

// Played is the game so far.
type Played struct {
	Title       string       `json:"title"`
	About       string       `json:"about"`
	Sentence    string       `json:"sentence"`
	Band        string       `json:"band"`
	Own         band.Segment `json:"own"`
	TargetHz    float64      `json:"target_hz"`
	Frequencies []float64    `json:"frequencies"`
	Raises      []Raised     `json:"raises"`
	Done        bool         `json:"done"`
	Judged      []Judged     `json:"judged"`
	Advisor     int          `json:"advisor_raises"` // how often it would have been up with the advisor alone, 0 before the end
	Truth       string       `json:"truth,omitempty"`
}

// state is the antenna up for the n-th time.
type state struct {
	told    deployment.Built
	curve   sweep.Curve // as swept
	feed    sweep.Curve // at the antenna's end of the cable
	reading sweep.Reading
	verdict phrase.Verdict
}

// up raises and sweeps it. take makes every sweep's noise its own.
func (p Practice) up(ctx context.Context, s start, folds []float64, take int) (state, error) {
	told, acts := s.with(folds)
	if acts.Radiator().M < 0.4*s.built.Radiator().M {
		return state{}, fmt.Errorf("that leaves %s of radiator; fold back less", p.Units.Long(acts.Radiator().M))
	}
	a := s.analyser
	a.Take = take
	cable, metres, through := s.cable()
	sw, err := a.Band(ctx, acts, through, p.Region, s.band)
	if err != nil {
		return state{}, err
	}
	c, err := sw.Curve()
	if err != nil {
		return state{}, err
	}
	out := state{told: told, curve: c, feed: c}
	if through {
		if out.feed, err = sw.AtFeed(cable, metres).Curve(); err != nil {
			return state{}, err
		}
	}
	own := band.Own(p.Segments, s.band.Name)[:1]
	out.reading, _ = sweep.Read(c, p.Region, s.band, own, p.Limit)
	out.verdict = sweep.Judge(out.reading, sweep.Of(told, s.built.FrequencyHz))
	return out, nil
}

// in reports whether nothing more is to be gained by length.
func (s state) in() bool { return s.verdict.Tone == "good" || s.verdict.Tone == "match" }

// advised returns what the advisor folds back after these raises, in metres of the whole radiator.
func (p Practice) advised(ctx context.Context, s start, seen []state) (float64, error) {
	x := trim.Subject{Ground: s.analyser.Ground, Region: p.Region, Segments: p.Segments, Limit: p.Limit, Units: p.Units}
	for _, v := range seen {
		x.Swept = append(x.Swept, trim.Swept{Built: v.told, Feeds: []sweep.Curve{v.feed}})
	}
	t, err := x.Advise(ctx, s.analyser.Engine, nil)
	if t.Instead != nil && t.Way == trim.TheRadials {
		t = *t.Instead // the game is played by the radiator
	}
	if err != nil || t.Done {
		return 0, err
	}
	last := seen[len(seen)-1].told
	return last.Total() - t.Built.Total(), nil
}

// Play plays folds in metres of the whole radiator, negative for added wire. With the game over, or given up, every
// move is judged beside the advisor's.
func (p Practice) Play(ctx context.Context, e *twin.Engine, folds []float64, giveUp bool, done func(step, of int)) (Played, error) {
	if done == nil {
		done = func(int, int) {}
	}
	s, err := p.deal(ctx, e)
	if err != nil {
		return Played{}, err
	}
	if len(folds) > MostRaises-1 {
		return Played{}, fmt.Errorf("%d times up at most", MostRaises)
	}
	fam, _ := family.Named(s.built.Family)
	own := band.Own(p.Segments, s.band.Name)[0]
	out := Played{Band: s.band.Name, Own: own, Frequencies: sweep.Axis(s.band, s.band.Lo*0.92), Raises: []Raised{}, Judged: []Judged{}}
	out.Title = fmt.Sprintf("%s for %s to %s MHz", fam.Name, quantity.ToKHz(own.Lo), quantity.ToKHz(own.Hi))
	var seen []state
	for i := 0; i <= len(folds); i++ {
		done(i, len(folds)+1)
		v, err := p.up(ctx, s, folds[:i], i)
		if err != nil {
			return Played{}, err
		}
		seen = append(seen, v)
		r := Raised{Did: "as cut", Length: v.told.Radiator(), MinHz: v.reading.MinAt, MinSWR: v.reading.MinSWR,
			Says: v.verdict.Words(p.Units).Detail}
		if i > 0 {
			r.Did = p.says(s, folds[i-1])
		}
		for _, x := range v.curve.Sample(out.Frequencies) {
			if math.IsNaN(x) {
				x = 0 // not swept there
			}
			r.SWR = append(r.SWR, x)
		}
		out.Raises = append(out.Raises, r)
		if v.in() {
			out.Done = true
			break
		}
	}
	last := seen[len(seen)-1]
	out.TargetHz, _ = last.reading.Target(s.built.FrequencyHz)
	up := len(seen)
	out.About = fmt.Sprintf("%s of wire by the tape, cut long. How much to fold back is for you to say; a fold counts for a little less "+
		"than its length.", p.Units.Long(s.built.Total()))
	if cable, metres, ok := s.cable(); ok {
		out.About += fmt.Sprintf(" Swept through %s of %s, which flatters it.", p.Units.Rough(metres), cable.Name)
	}
	switch {
	case out.Done && up == 1:
		out.Sentence = "It was right at the first sweep."
	case out.Done:
		out.Sentence = fmt.Sprintf("In your segment after lowering it %s.", times(up-1))
	case up == MostRaises:
		out.Done, out.Sentence = true, fmt.Sprintf("Up %d times and not in your segment yet. It is getting dark.", up)
	case giveUp:
		out.Done, out.Sentence = true, "Given up. This is how it was."
	case last.reading.MinAt > out.TargetHz:
		out.Sentence = fmt.Sprintf("Too short: the dip lies %.0f kHz above. Add wire, or unfold.", (last.reading.MinAt-out.TargetHz)/1e3)
	default:
		out.Sentence = fmt.Sprintf("The dip lies %.0f kHz below. How much do you fold back?", (out.TargetHz-last.reading.MinAt)/1e3)
	}
	if !out.Done {
		return out, nil
	}
	return out, p.judge(ctx, s, folds, seen, &out, done)
}

func times(n int) string {
	switch n {
	case 0:
		return "not once"
	case 1:
		return "once"
	}
	return fmt.Sprintf("%d times", n)
}

// says is a fold in words.
func (p Practice) says(s start, m float64) string {
	did := phrase.Action{Verb: phrase.Fold, Metres: math.Abs(m) / float64(s.built.Legs()), Legs: s.built.Legs(), StepMM: 10}
	if m < 0 {
		did.Verb = phrase.Add
	}
	return did.Done(p.Units)
}

// judge plays every move again as the advisor would have in its place, and a whole game as it would have.
func (p Practice) judge(ctx context.Context, s start, folds []float64, seen []state, out *Played, done func(step, of int)) error {
	steps := len(seen) + 3
	for i := 0; i+1 < len(seen); i++ {
		done(i, steps)
		fold, err := p.advised(ctx, s, seen[:i+1])
		if err != nil {
			return err
		}
		other, err := p.up(ctx, s, append(append([]float64{}, folds[:i]...), fold), i+1)
		if err != nil {
			return err
		}
		j := Judged{Yours: p.says(s, folds[i]), Advisor: p.says(s, fold), YoursLeft: seen[i+1].reading.MinAt - out.TargetHz,
			AdvisorLeft: other.reading.MinAt - out.TargetHz}
		if fold == 0 {
			j.Advisor = "leave it"
		}
		yours, its := math.Abs(j.YoursLeft), math.Abs(j.AdvisorLeft)
		switch {
		case j.YoursLeft > 0 && !seen[i+1].in():
			j.Says = "too far: wire that is cut does not come back"
		case seen[i+1].in() && yours > its:
			j.Says = "good enough"
		case yours <= its:
			j.Says = "as good or better"
		case yours < its+5e3:
			j.Says = "as good"
		case folds[i] < 0.6*fold:
			j.Says = "careful: it costs another lowering"
		default:
			j.Says = "less near"
		}
		out.Judged = append(out.Judged, j)
	}
	own, ownFolds := seen[:1:1], []float64{}
	for out.Advisor = 1; out.Advisor < MostRaises && !own[len(own)-1].in(); out.Advisor++ {
		done(min(len(seen)+out.Advisor, steps-1), steps)
		fold, err := p.advised(ctx, s, own)
		if err != nil || fold == 0 {
			return err
		}
		ownFolds = append(ownFolds, fold)
		v, err := p.up(ctx, s, ownFolds, out.Advisor)
		if err != nil {
			return err
		}
		own = append(own, v)
	}
	out.Truth = fmt.Sprintf("It acted %.1f %% longer than its tape over %s, and a fold counted for %.0f %% of its length. The advisor "+
		"alone would have lowered it %s.",
		100*(s.analyser.longer()-1), map[string]string{"average": "loam", "sea": "salt water", "rock": "rock"}[s.analyser.Ground], 100*s.grip,
		times(out.Advisor-1))
	return nil
}
