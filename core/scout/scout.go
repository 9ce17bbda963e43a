package scout

import (
	"context"
	"fmt"
	"maps"
	"math"
	"slices"
	"sort"
	"strings"
	"sync"

	"golang.org/x/sync/errgroup"

	"reed/core/antenna"
	"reed/core/deployment"
	"reed/core/entry"
	"reed/core/exposure"
	"reed/core/kit"
	"reed/core/place"
	"reed/core/quantity"
	"reed/core/site"
	"reed/core/twin"
)

// Case is the input of a ranking: a site, a purpose, the bag and recipes. An empty bag holds everything.
type Case struct {
	Site    site.Site
	Purpose Purpose
	Bag     []kit.Part
	Recipes []deployment.Recipe
	// Clocks are how many minutes each family took to set up before.
	Clocks map[string][]float64
	// Forgotten and Unused are the packing notes of earlier outings, the newest first.
	Forgotten, Unused []string
	Units             quantity.System
}

// Band is a candidate's result on a band: Relative in dBi of all the radio's power at the angles and bearings of the paths
// that carry, the mean over them.
type Band struct {
	MHz      float64 `json:"mhz"`
	Name     string  `json:"name"`
	Relative float64 `json:"relative_db"`
	TakeOff  float64 `json:"take_off"`
	Served   bool    `json:"served"`
	Open     bool    `json:"open"`
	// Stay is how far in metres people keep off its wires while one sends, 0 where it was not solved.
	Stay float64 `json:"stay_m,omitempty"`
}

// Points are the parts of its score, in decibels.
type Points struct {
	Signal  float64 `json:"signal"`
	Minutes float64 `json:"minutes"`
	Weight  float64 `json:"weight"`
	Wire    float64 `json:"wire"`
	Space   float64 `json:"space"`
	Trust   float64 `json:"trust"`
}

// Candidate is an antenna with its place and what speaks for it.
type Candidate struct {
	Name      string            `json:"name"`
	Family    string            `json:"family"`
	Variant   string            `json:"variant"`
	Recipe    string            `json:"recipe,omitempty"`
	Fits      bool              `json:"fits"`
	Score     float64           `json:"score"`
	Reasons   []string          `json:"reasons"`
	Placement *Placement        `json:"placement,omitempty"`
	Bands     []Band            `json:"bands"`
	Points    Points            `json:"points"`
	Minutes   float64           `json:"minutes"`
	KG        float64           `json:"kg"`
	WireM     float64           `json:"wire_m"`
	SquareM   float64           `json:"square_m"`
	Texts     map[string]string `json:"texts,omitempty"` // of its plan, to be carried to the next stage
	Parts     map[string]string `json:"parts,omitempty"`
	Solved    bool              `json:"solved"`
	from      *candidate
}

// Unfit is an antenna that does not fit, and why.
type Unfit struct {
	Name    string `json:"name"`
	Family  string `json:"family"`
	Variant string `json:"variant"`
	Cause   string `json:"cause"`
	Says    string `json:"says"`
	Helps   string `json:"helps,omitempty"`
	lacked  float64
}

// Answer is the whole judgement.
type Answer struct {
	Sentence   string        `json:"sentence"`
	Candidates []Candidate   `json:"candidates"`
	Unfit      []Unfit       `json:"unfit"`
	Hazards    []Hazard      `json:"hazards"`
	Hours      []BandHours   `json:"hours"`
	Day        Day           `json:"day"`
	Packing    []PackedGroup `json:"packing"`
	PackedKG   float64       `json:"packed_kg"` // what of it is weighed
	Map        site.Map      `json:"map"`
	Notes      []entry.Fault `json:"notes"`
	units      quantity.System
}

const (
	solvedMost = 14 // of the candidates that the solver looks at
	aroundHere = 40 // metres taken as free to either side where no area is given
	usualCarry = 15 // minutes of carrying in which a kilogram counts as a decibel
)

// middle is the place that bands are predicted for where none is given: the temperate north.
var middle = place.Point{Lat: 45, Lon: 0}

// Scout answers a case. done is called with how far it is.
func Scout(ctx context.Context, e *twin.Engine, c Case, done func(step, of int)) (Answer, error) {
	if faults := c.Faults(); len(faults) > 0 {
		return Answer{}, FaultsError(faults)
	}
	m, notes := c.Site.Check()
	at, err := place.ParsePosition(c.Site.Place)
	out := Answer{Candidates: []Candidate{}, Unfit: []Unfit{}, Hazards: []Hazard{}, Packing: []PackedGroup{}, Map: m, Notes: notes,
		units: c.Units}
	if err != nil {
		at = middle
		out.Notes = append(out.Notes, entry.Say("place", "ask", "no place given: times are for 45 degrees north at longitude 0"))
	}
	if len(m.Of(site.Area)) == 0 {
		out.Notes = append(out.Notes, entry.Say("lines", "ask", "no usable area given: %s to each side are taken as free",
			quantity.Long(aroundHere)))
	}
	out.Notes = entry.In(c.Units, append(out.Notes, c.Purpose.Check()...))
	out.Hours = c.Purpose.Hours(at, c.Site.Noise)
	g := c.ground(m)
	list := candidates(c, m)
	of := len(list) + solvedMost
	step := counter(done, of)
	var fitting []*Candidate
	for _, x := range list {
		if err := ctx.Err(); err != nil {
			return Answer{}, err
		}
		step()
		y, unfit := c.first(ctx, g, x)
		if unfit != nil {
			y = c.folded(ctx, g, x, *unfit)
			out.Unfit = append(out.Unfit, *unfit)
		}
		if y != nil {
			fitting = append(fitting, y)
		}
	}
	if err := ctx.Err(); err != nil {
		return Answer{}, err
	}
	var late []*Candidate
	fitting, late = c.chosen(fitting)
	for _, y := range late {
		out.Unfit = append(out.Unfit, Unfit{Name: y.Name, Family: y.Family, Variant: y.Variant, Cause: "estimate",
			Says: fmt.Sprintf("it fits, but a first estimate puts it behind the %d that are computed", len(fitting))})
	}
	if err := c.solve(ctx, e, g, fitting, out.Hours, step); err != nil {
		return Answer{}, err
	}
	for _, y := range fitting {
		c.judge(y)
		out.Candidates = append(out.Candidates, *y)
	}
	out.Candidates = Ranked(out.Candidates, c.Purpose.weights())
	if err := c.keepOff(ctx, out.Candidates); err != nil {
		return Answer{}, err
	}
	out.helps()
	out.finish(c, g, at)
	return out, nil
}

// Faults are the errors of site and purpose, by field; empty where it can be answered.
func (c Case) Faults() (out []entry.Fault) {
	_, notes := c.Site.Check()
	for _, f := range append(notes, c.Purpose.Check()...) {
		if f.Severity == "error" {
			out = append(out, f)
		}
	}
	return out
}

// Weighed is the answer by the case's weights: the same candidates in another order, and what follows from the first.
func (a Answer) Weighed(c Case) Answer {
	at, err := place.ParsePosition(c.Site.Place)
	if err != nil {
		at = middle
	}
	a.Candidates = Ranked(a.Candidates, c.Purpose.weights())
	a.finish(c, c.ground(a.Map), at)
	return a
}

// FaultsError is that something of the case cannot be.
type FaultsError []entry.Fault

func (f FaultsError) Error() string {
	for _, x := range f {
		if x.Severity == "error" {
			return x.Path + ": " + x.Text
		}
	}
	return "nothing is wrong"
}

// counter calls done with one more each time, from any goroutine.
func counter(done func(step, of int), of int) func() {
	var mu sync.Mutex
	n := 0
	return func() {
		mu.Lock()
		defer mu.Unlock()
		if n++; done != nil {
			done(min(n, of), of)
		}
	}
}

func (c Case) ground(m site.Map) ground {
	g := ground{m: m, limited: len(c.Bag) > 0, units: c.Units, foot: c.Purpose.Foot}
	for _, p := range c.Bag {
		if p.Kind == "pole" && !p.Deleted {
			g.poles++
		}
	}
	from, until := c.Purpose.window()
	for _, h := range c.Purpose.High {
		if t, ok := c.Purpose.at(h); ok {
			for _, day := range []int{-24, 0, 24} {
				high := t.Add(hours(day))
				g.wet = g.wet || high.After(from.Add(-hours(2))) && high.Before(until.Add(hours(2)))
			}
		}
	}
	g.lo, g.hi = site.Spot{-aroundHere, -aroundHere}, site.Spot{aroundHere, aroundHere}
	if areas := m.Of(site.Area); len(areas) > 0 {
		g.lo, g.hi, _ = site.Map{Things: areas}.Box()
	}
	g.sorted()
	return g
}

// first places a candidate before its gains are known; one that does not fit is returned with the reason.
func (c Case) first(ctx context.Context, g ground, x *candidate) (*Candidate, *Unfit) {
	unfit := &Unfit{Name: x.name, Family: x.family.ID, Variant: x.variant.ID}
	p := c.Purpose
	switch {
	case x.cannot != "":
		unfit.Cause, unfit.Says = "plan", x.cannot
		return nil, unfit
	case x.lacks != "":
		unfit.Cause, unfit.Says = "bag", x.lacks
		return nil, unfit
	case len(x.hz) == 0:
		unfit.Cause, unfit.Says = "bands", "it serves none of the wanted bands"
		return nil, unfit
	case p.MostKG > 0 && x.kg > p.MostKG:
		unfit.Cause, unfit.Says = "weight", fmt.Sprintf("it weighs %.1f kg with what holds it, and you want to carry %.1f", x.kg, p.MostKG)
		return nil, unfit
	case p.SetupMinutes > 0 && x.minutes > 1.25*p.SetupMinutes:
		unfit.Cause, unfit.Says = "minutes", fmt.Sprintf("it takes about %.0f minutes to set up, and you have %.0f", x.minutes, p.SetupMinutes)
		return nil, unfit
	}
	x.sought = g.search(ctx, x)
	if !x.sought.fits {
		unfit.Cause, unfit.Says, unfit.lacked = x.sought.fails.cause, g.stands(x, x.sought.fails), x.sought.fails.lack
		return nil, unfit
	}
	return &Candidate{Name: x.name, Family: x.family.ID, Variant: x.variant.ID, Recipe: x.recipe, Fits: true, Minutes: x.minutes, KG: x.kg,
		WireM: x.wireM, SquareM: math.Round(x.foot.square()), Texts: x.texts, Parts: x.parts, from: x}, nil
}

// chosen returns those that the solver computes: recipes, the best of each family by the first estimate, then second ones; and the rest.
func (c Case) chosen(list []*Candidate) (out, late []*Candidate) {
	sort.SliceStable(list, func(i, j int) bool {
		a, b := list[i], list[j]
		if (a.Recipe != "") != (b.Recipe != "") {
			return a.Recipe != ""
		}
		return a.from.quick > b.from.quick
	})
	count := map[string]int{}
	var seconds []*Candidate
	for _, x := range list {
		switch count[x.Family]++; {
		case x.Recipe != "" || count[x.Family] == 1:
			out = append(out, x)
		case count[x.Family] == 2:
			seconds = append(seconds, x)
		default:
			late = append(late, x)
		}
	}
	out = append(out, seconds...)
	n := min(len(out), solvedMost)
	return out[:n], append(late, out[n:]...)
}

// solve asks the solver what the candidates send where, and turns each to where that is most.
func (c Case) solve(ctx context.Context, e *twin.Engine, g ground, list []*Candidate, hours []BandHours, step func()) error {
	group, ctx := errgroup.WithContext(ctx)
	group.SetLimit(2)
	for _, y := range list {
		group.Go(func() error {
			defer step()
			return c.sends(ctx, e, g, y, hours)
		})
	}
	return group.Wait()
}

// beams solves a candidate on its bands; a band that cannot be solved is left out.
func (c Case) beams(ctx context.Context, e *twin.Engine, x *candidate) (map[float64]twin.Beam, error) {
	out := map[float64]twin.Beam{}
	for _, hz := range x.hz {
		b, err := e.Beam(ctx, twin.Setup{Built: x.built, Planned: true, Ground: c.Site.Ground, PowerW: c.Purpose.power(), Units: c.Units}, hz)
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		if err == nil {
			out[hz] = b
		}
	}
	return out, nil
}

// sends fills the bands of a candidate.
func (c Case) sends(ctx context.Context, e *twin.Engine, g ground, y *Candidate, hours []BandHours) error {
	x := y.from
	beams, err := c.beams(ctx, e, x)
	if err != nil {
		return err
	}
	y.Solved = len(beams) > 0
	heard := c.heard(g, hours, beams)
	var value [turns]float64
	for t := range value {
		value[t] = signal(heard(t))
	}
	l := g.best(x, x.sought, func(t int) float64 { return value[t] })
	y.Placement = g.placed(x, l)
	if y.Texts != nil {
		y.Texts = maps.Clone(y.Texts)
		y.Texts["bearing"] = fmt.Sprintf("%.0f", y.Placement.Bearing)
	}
	y.Bands = heard(turn(l.bearing))
	x.solved = beams
	if x.straight != nil {
		return c.costs(ctx, e, g, y, hours)
	}
	return ctx.Err()
}

// keptOff is the number of candidates whose safety distance is solved; the others get the far-field rule.
const keptOff = 3

// keepOff solves how far people keep off the first candidates while one sends.
func (c Case) keepOff(ctx context.Context, list []Candidate) error {
	group, ctx := errgroup.WithContext(ctx)
	group.SetLimit(2)
	for _, y := range list[:min(keptOff, len(list))] {
		for i, hz := range c.Purpose.hertz() {
			if b, ok := y.from.solved[hz]; ok {
				group.Go(func() (err error) {
					y.Bands[i].Stay, err = b.Stay(ctx, c.Purpose.power(), exposure.Duty)
					return err
				})
			}
		}
	}
	err := group.Wait()
	for _, y := range list {
		y.from.solved = nil // the kept answer holds no solver's work
	}
	return err
}

// costs says what folding took: the signal of the straight one, turned the best way, less that of the folded one.
func (c Case) costs(ctx context.Context, e *twin.Engine, g ground, y *Candidate, hours []BandHours) error {
	beams, err := c.beams(ctx, e, y.from.straight)
	if err != nil {
		return err
	}
	heard, most := c.heard(g, hours, beams), math.Inf(-1)
	for t := range turns {
		most = math.Max(most, signal(heard(t)))
	}
	y.from.cost = most - signal(y.Bands)
	return ctx.Err()
}

// heard gives the gains over the paths that carry, by where the antenna is turned to.
func (c Case) heard(g ground, hours []BandHours, beams map[float64]twin.Beam) func(turn int) []Band {
	paths := c.Purpose.paths()
	// Every angle and direction is asked of the solver's field once.
	gains := map[[3]float64]float64{}
	gain := func(hz, up float64, t int) float64 {
		key := [3]float64{hz, up, float64((t%turns + turns) % turns)}
		v, ok := gains[key]
		if !ok {
			v = beams[hz].Gain(up, key[2]*360/turns)
			gains[key] = v
		}
		return v
	}
	return func(t int) (out []Band) {
		for i, hz := range c.Purpose.hertz() {
			b := Band{MHz: hz / 1e6, Name: hours[i].Name, Relative: -missing, Open: hours[i].share() > 0}
			_, b.Served = beams[hz]
			sum, weight, angle := 0.0, 0.0, 0.0
			for k, path := range paths {
				tilt, rise, way := g.m.TiltAt(path.Bearing), g.m.RiseAt(path.Bearing), t-turn(math.Mod(path.Bearing, 360))
				for _, h := range hours[i].Hours {
					// The best of the ways over the path, by what it loses and by what the antenna sends at its angle.
					best, up := -missing, h.paths[k].TakeOff
					for _, x := range h.paths[k].Ways {
						if !b.Served {
							break
						}
						v := gain(hz, x.TakeOff+tilt, way) - x.DB - 2*math.Max(0, rise-x.TakeOff) // a ridge shades: two decibels a degree
						if v > best {
							best, up = v, x.TakeOff
						}
					}
					w := h.paths[k].Carries() + 1e-9
					sum, weight, angle = sum+w*best, weight+w, angle+w*up
				}
			}
			b.TakeOff = math.Round(angle / weight)
			if b.Served {
				b.Relative = math.Round(10*sum/weight) / 10
			}
			out = append(out, b)
		}
		return out
	}
}

// signal is the mean over the bands, those that carry counting for ten of the others.
func signal(bands []Band) float64 {
	sum, weight := 0.0, 0.0
	for _, b := range bands {
		w := 0.1
		if b.Open {
			w = 1
		}
		sum, weight = sum+w*b.Relative, weight+w
	}
	return sum / math.Max(weight, 1e-9)
}

// judge counts its points and says what speaks for it.
func (c Case) judge(y *Candidate) {
	carry := antenna.Or(c.Purpose.CarryMinutes, usualCarry) / usualCarry
	y.Points = Points{Signal: signal(y.Bands), Minutes: -y.Minutes / 5, Weight: -y.KG * carry, Wire: -y.WireM / 20, Space: -y.SquareM / 100,
		Trust: y.from.trust}
	var sent []string
	for _, b := range y.Bands {
		if !b.Served {
			sent = append(sent, b.Name+" not served")
			continue
		}
		sent = append(sent, fmt.Sprintf("%+.1f dBi on %s at %.0f degrees up", b.Relative, b.Name, b.TakeOff))
	}
	clock := "estimated"
	if y.from.clocked {
		clock = "by your clock"
	}
	if f := y.from; f.straight != nil {
		y.Reasons = append(y.Reasons, fmt.Sprintf("Straight it is %s short of room; with %s hanging down it fits, %.1f dB less.",
			c.Units.Long(math.Ceil(f.short*10)/10), c.Units.Long(f.folded), f.cost))
	}
	y.Reasons = append([]string{"Sends " + join(sent) + ", " + c.Purpose.targetSays() + ".",
		fmt.Sprintf("%.0f minutes to set up, %s; %.1f kg; %s of wire on %.0f m2.", y.Minutes, clock, y.KG, c.Units.Long(y.WireM), y.SquareM),
		strings.ToUpper(y.from.trustSays[:1]) + y.from.trustSays[1:] + "."}, y.Reasons...)
	if p := y.Placement; p.Support != "" {
		y.Reasons = append(y.Reasons, fmt.Sprintf("Stands by %s, %s.", article(p.Support), p.Says))
	}
	if y.from.lowered != "" {
		y.Reasons = append(y.Reasons, y.from.lowered)
	}
	y.Reasons = append(y.Reasons, y.Placement.Warnings...)
}

func article(s string) string {
	if strings.HasPrefix(s, "pole") {
		return "a " + s
	}
	return "the " + s
}

// score returns its score by some weights.
func (p Points) score(w Weights) float64 {
	return w.Signal*p.Signal + w.Minutes*p.Minutes + w.Weight*p.Weight + w.Wire*p.Wire + w.Space*p.Space + w.Trust*p.Trust
}

// Ranked orders candidates by some weights: no more than a sum each, so that it follows a finger.
func Ranked(list []Candidate, w Weights) []Candidate {
	out := slices.Clone(list)
	for i := range out {
		out[i].Score = math.Round(100*out[i].Points.score(w)) / 100
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].Score > out[j].Score })
	return out
}

// helps says of what does not fit what would.
func (a *Answer) helps() {
	for i, u := range a.Unfit {
		for _, y := range a.Candidates {
			if f := y.from; f.straight != nil && f.straight.name == u.Name {
				a.Unfit[i].Helps = fmt.Sprintf("fold %s of each free end down and it fits, %.1f dB less", a.units.Long(f.folded), f.cost)
				break
			}
			if y.Family == u.Family && y.Variant != u.Variant && y.from.recipe == "" {
				a.Unfit[i].Helps = fmt.Sprintf("%s fits, %+.1f dBi", lower(y.Name), signal(y.Bands))
				break
			}
		}
	}
}

func lower(s string) string { return strings.ToLower(s[:1]) + s[1:] }

// finish adds what follows from the first choice: dangers, the day, what to pack.
func (a *Answer) finish(c Case, g ground, at place.Point) {
	setup := 20.0
	if len(a.Candidates) == 0 {
		a.Sentence = "Nothing fits this site as described."
		if len(a.Unfit) > 0 {
			a.Sentence += " " + a.commonest()
		}
	} else {
		first := a.Candidates[0]
		setup = first.Minutes
		a.Sentence = fmt.Sprintf("Put up the %s: %s.", lower(first.Name), first.Placement.Says)
		if len(a.Candidates) > 1 {
			a.Sentence += fmt.Sprintf(" %.1f dB ahead of the next by your priorities.", first.Score-a.Candidates[1].Score)
		}
	}
	a.withAntenna()
	shut := true
	for _, b := range a.Hours {
		shut = shut && b.share() == 0
	}
	if shut {
		a.Sentence = "None of these bands carries " + c.Purpose.targetSays() + " in these hours. " + a.Sentence
	}
	a.Hazards = c.hazards(a, g, at)
	_, lasts := c.lasting()
	a.Day = c.Purpose.plan(at, a.Map.Rules, a.Hours, setup, lasts)
	a.Packing = c.packing(a)
	a.PackedKG = 0
	for _, g := range a.Packing {
		for _, p := range g.Items {
			a.PackedKG += p.Grams * float64(p.Count) / 1000
		}
	}
}

// withAntenna predicts the hours with the gain of the first choice, and without gain where nothing fits.
func (a *Answer) withAntenna() {
	a.Hours = slices.Clone(a.Hours)
	for i := range a.Hours {
		gain := 0.0
		if len(a.Candidates) > 0 && a.Candidates[0].Bands[i].Served {
			gain = a.Candidates[0].Bands[i].Relative
		}
		a.Hours[i] = a.Hours[i].with(gain)
	}
}

// commonest returns the most frequent reason for not fitting.
func (a *Answer) commonest() string {
	count := map[string]int{}
	best := a.Unfit[0]
	for _, u := range a.Unfit {
		if count[u.Cause]++; count[u.Cause] > count[best.Cause] {
			best = u
		}
	}
	return strings.ToUpper(best.Says[:1]) + best.Says[1:] + "."
}

// drawn returns the drawing of the first choice.
func (a *Answer) drawn() (antenna.Drawing, bool) {
	if len(a.Candidates) == 0 {
		return antenna.Drawing{}, false
	}
	return a.Candidates[0].from.drawing, true
}
