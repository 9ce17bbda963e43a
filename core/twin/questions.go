package twin

import (
	"context"
	"fmt"
	"math"

	"reed/core/antenna"
	"reed/core/circuit"
	"reed/core/moment"
	"reed/core/numeric"
	"reed/core/quantity"
)

// Answer is the model's answer to a question on which practitioners disagree.
type Answer struct {
	Sentence string          `json:"sentence"`
	Tables   []antenna.Table `json:"tables"`
	Losses   []Losses        `json:"losses,omitempty"`
}

// Losses is where the power goes of an antenna on a band, from the radio's socket to the sky.
type Losses struct {
	Band   string          `json:"band"`
	Name   string          `json:"name"`
	PowerW float64         `json:"power_w"`
	Budget []circuit.Stage `json:"budget"`
}

// row solves one way on one frequency: SWR at the feed, R there, the share that reaches the sky and the share
// of that from the coax.
type row struct {
	r, swr, sky   float64
	coax, carries float64
	gain          float64 // dBi, the highest
}

func (e *Engine) row(ctx context.Context, s Setup, f float64) (row, error) {
	c, _, err := e.set(ctx, s, Options{mesh: 24}, f)
	if err != nil {
		return row{}, err
	}
	sol, err := moment.Solve(ctx, c.Model, f)
	if err != nil {
		return row{}, err
	}
	feed, _ := chain{setup: s, electric: c.Electric, couple: real(sol.Z)}.feed(f, sol.Z)
	out := row{r: real(feed), swr: swr(feed), sky: math.Max(0, sol.Average())}
	_, _, gain := sol.Strongest()
	out.gain = 10 * math.Log10(gain)
	out.coax, out.carries = coaxShare(c, sol)
	return out, nil
}

// coaxShare is the share of the sky's power that the coax's outside alone would send there, and its highest
// current over that of the antenna's wires.
func coaxShare(c Case, s *moment.Solution) (power, current float64) {
	rest, any := make([]bool, len(c.coax)), false
	for i, v := range c.coax {
		rest[i] = !v
		any = any || v
	}
	if !any {
		return 0, 0
	}
	own := s.Sky(c.coax)
	return own / math.Max(own+s.Sky(rest), 1e-9), s.Most(c.coax) / math.Max(s.Most(rest), 1e-12)
}

// Radials answers how so many metres of radial wire are best cut for a vertical: how many, how long, on the
// ground or raised, against the loss and the match; 0 metres stand for the usual 40.
func (e *Engine) Radials(ctx context.Context, s Setup, metres float64, done func(step, of int)) (Answer, error) {
	if metres == 0 {
		metres = 40
	}
	f := s.Built.FrequencyHz
	lambda := numeric.Light / f
	type cut struct {
		name   string
		raised bool
		n      int
		l      float64
	}
	var ways []cut
	for _, n := range []int{2, 4, 8, 16, 32, 60} {
		if l := metres / float64(n); l > 0.02*lambda && l < 0.6*lambda {
			ways = append(ways, cut{fmt.Sprintf("%d on the ground", n), false, n, math.Min(l, 0.35*lambda)})
		}
	}
	for n := 2; n <= 4; n++ {
		if l := 0.245 * lambda; l*float64(n) <= metres*1.02 {
			ways = append(ways, cut{fmt.Sprintf("%d raised, 2 m up", n), true, n, l})
		}
	}
	if len(ways) == 0 {
		return Answer{}, fmt.Errorf("%s of wire makes no two radials on %s MHz; 0.04 wavelengths is the least", s.Units.Rough(metres),
			quantity.ToKHz(f))
	}
	t := antenna.Table{Title: fmt.Sprintf("%s of radial wire on %s MHz", s.Units.Rough(metres), quantity.ToKHz(f)),
		Columns: []string{"way", "each", "R", "SWR", "wires radiate", "strongest"},
		Note:    "Low R with radials raised is no loss: it is matched, while R that soil adds is gone."}
	best, at := -99.0, ""
	for i, w := range ways {
		x := s
		x.Built.Variant = "ground-radials"
		x.Built.PutRadials(antenna.WireSet{Count: w.n, Length: quantity.Metres(w.l)})
		if w.raised {
			x.Built.Variant = "raised-radials"
			x.Built.Put(antenna.FeedHeight, quantity.Metres(2))
			x.Built.Put(antenna.RadialsHeight, quantity.Metres(2))
			x.Built.Put(antenna.RadialsHeight, quantity.Metres(1.5))
		}
		x.Planned = true
		got, err := e.row(ctx, x, f)
		if err != nil {
			return Answer{}, err
		}
		t.Rows = append(t.Rows, []string{w.name, s.Units.Long(w.l), fmt.Sprintf("%.0f ohm", got.r), quantity.SWR(got.swr),
			fmt.Sprintf("%.0f %%", 100*got.sky), fmt.Sprintf("%+.1f dBi", got.gain)})
		if got.gain > best {
			best, at = got.gain, fmt.Sprintf("%s of %s", w.name, s.Units.Long(w.l))
		}
		if done != nil {
			done(i+1, len(ways))
		}
	}
	return Answer{Sentence: fmt.Sprintf("Of %s of radial wire, %s sends the most: %+.1f dBi.", s.Units.Rough(metres), at, best),
		Tables: []antenna.Table{t}}, nil
}

// way is one way to feed an end-fed wire: as it is named in its table, and in the sentence.
type way struct {
	name, says string
	s          Setup
}

// fed is the set-up with another counterpoise, coax and place of the choke.
func (s Setup) fed(counterpoise, coax float64, choke string) Setup {
	s.Built.Coax.Length = quantity.Metres(coax)
	s.Built.Choke.Place = choke
	s.Built.Put(antenna.CounterpoiseLength, quantity.Metres(counterpoise))
	s.Built.PutNumber(antenna.CounterpoiseCount, 1)
	if counterpoise == 0 {
		s.Built.PutCounterpoise(antenna.WireSet{})
	}
	return s
}

// waySet are ways that are compared in one table.
type waySet struct {
	title string
	ways  []way
}

// feedings lists the ways to feed an end-fed wire: wires as counterpoise, lengths of coax, places of the choke.
func feedings(s Setup) []waySet {
	all := s.Built.All()
	lambda := numeric.Light / all[len(all)-1]
	coax, have := s.Built.Coax.Length.M, s.Built.Counterpoise().Length.M
	if coax <= 0 {
		coax = 10
	}
	if have == 0 {
		have = 0.05 * lambda
	}
	var lengths, lines []way
	for _, share := range []float64{0.02, 0.05, 0.1, 0.25} {
		l := s.Units.Long(share * lambda)
		lengths = append(lengths, way{fmt.Sprintf("%s, %.2g waves", l, share), "a counterpoise of " + l + " with the choke at the feed",
			s.fed(share*lambda, coax, "feed")})
	}
	for _, l := range []float64{3, 7.5, 10, 15} {
		lines = append(lines, way{s.Units.Rough(l), s.Units.Rough(l) + " of coax as the counterpoise, choked at the radio", s.fed(0, l, "radio")})
	}
	places := []way{{"no choke", "no choke", s.fed(have, coax, "")}, {"at the feed", "the choke at the feed", s.fed(have, coax, "feed")},
		{"at the radio", "the choke at the radio", s.fed(have, coax, "radio")}}
	return []waySet{
		{"A wire as counterpoise, choke at the feed: SWR by band", lengths},
		{"No wire, so much coax up to a choke at the radio: SWR by band", lines},
		{fmt.Sprintf("Where the choke goes, with %s of counterpoise and %s of coax: SWR by band", s.Units.Long(have), s.Units.Rough(coax)),
			places},
	}
}

// weighed is one way over all bands: its row, how good it is (less is better), and that in words.
type weighed struct {
	cells []string
	score float64
	says  string
}

func (e *Engine) weigh(ctx context.Context, w way, step func()) (weighed, error) {
	out := weighed{cells: []string{w.name}}
	worst, most, carries, sky := 0.0, 0.0, 0.0, 1.0
	for _, f := range w.s.Built.All() {
		got, err := e.row(ctx, w.s, f)
		if err != nil {
			return out, err
		}
		out.cells = append(out.cells, quantity.SWR(got.swr))
		worst, most, sky = math.Max(worst, got.swr), math.Max(most, got.coax), math.Min(sky, got.sky)
		carries = math.Max(carries, got.carries)
		step()
	}
	out.cells = append(out.cells, fmt.Sprintf("%.0f %%", 100*carries), share(most), fmt.Sprintf("%.0f %%", 100*sky))
	out.score = worst + 3*carries
	out.says = fmt.Sprintf("%s: SWR up to %s, and the coax carries %.0f %% of the wire's current", w.says, quantity.SWR(worst), 100*carries)
	return out, nil
}

// Counterpoise answers how long an end-fed wire's counterpoise and coax should be and where the choke goes:
// the SWR by band, and the share of the power that the coax sends.
func (e *Engine) Counterpoise(ctx context.Context, s Setup, done func(step, of int)) (Answer, error) {
	s.Planned = false
	sets := feedings(s)
	of, n := 0, 0
	for _, set := range sets {
		of += len(set.ways) * len(s.Built.All())
	}
	step := func() {
		if n++; done != nil {
			done(n, of)
		}
	}
	columns := []string{"way"}
	for _, f := range s.Built.All() {
		columns = append(columns, quantity.MHz(f))
	}
	columns = append(columns, "coax carries", "coax sends", "wires radiate")
	out, best := Answer{}, weighed{score: math.Inf(1)}
	for _, set := range sets {
		t := antenna.Table{Title: set.title, Columns: columns}
		for _, w := range set.ways {
			got, err := e.weigh(ctx, w, step)
			if err != nil {
				return Answer{}, err
			}
			t.Rows = append(t.Rows, got.cells)
			if got.score < best.score {
				best = got
			}
		}
		out.Tables = append(out.Tables, t)
	}
	out.Tables[len(out.Tables)-1].Note = "The coax carries: its highest current outside, over the wire's. The coax sends: its share of " +
		"the power in the sky. The band that is worst counts."
	out.Sentence = "Quietest and best matched here is " + best.says + "."
	return out, nil
}

// share prints a share of the power with honest digits.
func share(v float64) string {
	if v < 0.01 {
		return "under 1 %"
	}
	return fmt.Sprintf("%.0f %%", 100*v)
}
