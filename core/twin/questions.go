package twin

import (
	"context"
	"fmt"
	"math"

	"reed/core/antenna"
	"reed/core/moment"
	"reed/core/quantity"
)

// Answer is what the model says to a question on which practitioners disagree.
type Answer struct {
	Sentence string          `json:"sentence"`
	Tables   []antenna.Table `json:"tables"`
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
	lambda := antenna.Light / f
	type way struct {
		name   string
		raised bool
		n      int
		l      float64
	}
	var ways []way
	for _, n := range []int{2, 4, 8, 16, 32, 60} {
		if l := metres / float64(n); l > 0.02*lambda && l < 0.6*lambda {
			ways = append(ways, way{fmt.Sprintf("%d on the ground", n), false, n, math.Min(l, 0.35*lambda)})
		}
	}
	for n := 2; n <= 4; n++ {
		if l := 0.245 * lambda; l*float64(n) <= metres*1.02 {
			ways = append(ways, way{fmt.Sprintf("%d raised, 2 m up", n), true, n, l})
		}
	}
	if len(ways) == 0 {
		return Answer{}, fmt.Errorf("%s of wire makes no two radials on %s MHz; 0.04 wavelengths is the least", quantity.Metric(metres, 100), quantity.ToKHz(f))
	}
	t := antenna.Table{Title: fmt.Sprintf("%s of radial wire on %s MHz", quantity.Metric(metres, 100), quantity.ToKHz(f)), Columns: []string{"way", "each", "R", "SWR", "to the sky", "strongest"},
		Note: "Low R with radials raised is no loss: it is matched, while R that soil adds is gone."}
	best, at := -99.0, ""
	for i, w := range ways {
		x := s
		x.Built.Variant = "ground-radials"
		x.Built.Radials = antenna.WireSet{Count: w.n, Length: quantity.Metres(w.l)}
		if w.raised {
			x.Built.Variant = "raised-radials"
			x.Built.FeedHeight, x.Built.Radials.Height = quantity.Metres(2), quantity.Metres(2)
			x.Built.Radials.Height = quantity.Metres(1.5)
		}
		x.Planned = true
		got, err := e.row(ctx, x, f)
		if err != nil {
			return Answer{}, err
		}
		t.Rows = append(t.Rows, []string{w.name, quantity.Metric(w.l, 10), fmt.Sprintf("%.0f ohm", got.r), Ratio(got.swr), fmt.Sprintf("%.0f %%", 100*got.sky), fmt.Sprintf("%+.1f dBi", got.gain)})
		if got.gain > best {
			best, at = got.gain, fmt.Sprintf("%s of %s", w.name, quantity.Metric(w.l, 10))
		}
		if done != nil {
			done(i+1, len(ways))
		}
	}
	return Answer{Sentence: fmt.Sprintf("Of %s of radial wire, %s sends the most: %+.1f dBi.", quantity.Metric(metres, 100), at, best), Tables: []antenna.Table{t}}, nil
}

// Counterpoise answers how long an end-fed wire's counterpoise and coax should be and where the choke goes:
// the SWR by band, and the share of the power that the coax sends.
func (e *Engine) Counterpoise(ctx context.Context, s Setup, done func(step, of int)) (Answer, error) {
	all := s.Built.All()
	lowest := all[len(all)-1]
	lambda := antenna.Light / lowest
	s.Planned = false
	coax := s.Built.Coax.Length.M
	if coax <= 0 {
		coax = 10
	}
	type way struct {
		name, says string // in its table, and in the sentence
		s          Setup
	}
	with := func(counterpoise, coax float64, choke string) Setup {
		x := s
		x.Built.Coax.Length = quantity.Metres(coax)
		x.Built.Choke.Place = choke
		x.Built.Counterpoise.Length = quantity.Metres(counterpoise)
		x.Built.Counterpoise.Count = 1
		if counterpoise == 0 {
			x.Built.Counterpoise = antenna.WireSet{}
		}
		return x
	}
	have := s.Built.Counterpoise.Length.M
	if have == 0 {
		have = 0.05 * lambda
	}
	var lengths, lines, places []way
	for _, share := range []float64{0.02, 0.05, 0.1, 0.25} {
		lengths = append(lengths, way{fmt.Sprintf("%s, %.2g waves", quantity.Metric(share*lambda, 10), share), "a counterpoise of " + quantity.Metric(share*lambda, 10) + " with the choke at the feed", with(share*lambda, coax, "feed")})
	}
	for _, l := range []float64{3, 7.5, 10, 15} {
		lines = append(lines, way{quantity.Metric(l, 100), quantity.Metric(l, 100) + " of coax as the counterpoise, choked at the radio", with(0, l, "radio")})
	}
	places = []way{{"no choke", "no choke", with(have, coax, "")}, {"at the feed", "the choke at the feed", with(have, coax, "feed")}, {"at the radio", "the choke at the radio", with(have, coax, "radio")}}
	sets := []struct {
		title string
		ways  []way
	}{
		{"A wire as counterpoise, choke at the feed: SWR by band", lengths}, {"No wire, so much coax up to a choke at the radio: SWR by band", lines},
		{fmt.Sprintf("Where the choke goes, with %s of counterpoise and %s of coax: SWR by band", quantity.Metric(have, 10), quantity.Metric(coax, 100)), places},
	}
	of, n := 0, 0
	for _, set := range sets {
		of += len(set.ways) * len(all)
	}
	out := Answer{}
	var clean string
	least := math.Inf(1)
	for _, set := range sets {
		t := antenna.Table{Title: set.title, Columns: []string{"way"}}
		for _, f := range all {
			t.Columns = append(t.Columns, quantity.MHz(f))
		}
		t.Columns = append(t.Columns, "coax carries", "coax sends", "to the sky")
		for _, w := range set.ways {
			cells := []string{w.name}
			worst, most, carries, sky := 0.0, 0.0, 0.0, 1.0
			for _, f := range all {
				got, err := e.row(ctx, w.s, f)
				if err != nil {
					return Answer{}, err
				}
				cells = append(cells, Ratio(got.swr))
				worst, most, sky = math.Max(worst, got.swr), math.Max(most, got.coax), math.Min(sky, got.sky)
				carries = math.Max(carries, got.carries)
				n++
				if done != nil {
					done(n, of)
				}
			}
			cells = append(cells, fmt.Sprintf("%.0f %%", 100*carries), share(most), fmt.Sprintf("%.0f %%", 100*sky))
			t.Rows = append(t.Rows, cells)
			if score := worst + 3*carries; score < least {
				least, clean = score, fmt.Sprintf("%s: SWR up to %s, and the coax carries %.0f %% of the wire's current", w.says, Ratio(worst), 100*carries)
			}
		}
		out.Tables = append(out.Tables, t)
	}
	out.Tables[len(out.Tables)-1].Note = "The coax carries: its highest current outside, over the wire's. The coax sends: its share of the power in the sky. The band that is worst counts."
	out.Sentence = "Quietest and best matched here is " + clean + "."
	return out, nil
}

// share prints a share of the power with honest digits.
func share(v float64) string {
	if v < 0.01 {
		return "under 1 %"
	}
	return fmt.Sprintf("%.0f %%", 100*v)
}
