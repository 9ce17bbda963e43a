package weigh

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"gonum.org/v1/gonum/stat/distuv"

	"reed/core/numeric"
	"reed/core/onair"
	"reed/core/phrase"
)

// Pool holds the slots and reports of one or more occasions.
type Pool struct {
	sent     []Sent
	received []reception
	ears     []Ear          // who received, at its first reported place
	known    map[string]int // their places by their names
	added    int            // runs that were looked at
	runs     int            // of them, those that were heard
	aside    int
	// Log is the whole log's estimate of how days differ.
	Log Days
	// Hears says that it is of what antennas hear, by runs that listen; otherwise those that send count.
	Hears bool
}

// sampled is how many reports tell by how much clocks are off.
const sampled = 2000

// off is by how much clocks of those who heard a run are off.
func (a *Reports) off(mode string) time.Duration {
	var some []onair.Report
	for i := 0; i < len(a.Rows); i += 1 + len(a.Rows)/sampled {
		some = append(some, onair.Report{At: a.Rows[i].Time(), Seconds: a.Rows[i].Is(SecondsKnown), Mode: mode})
	}
	off, ok := onair.ClockOff(some)
	if !ok {
		return 0
	}
	return off
}

// ear is the place of a receiver among those of the pool.
func (p *Pool) ear(e Ear) int {
	if p.known == nil {
		p.known = map[string]int{}
	}
	k, ok := p.known[e.Receiver]
	if !ok {
		k = len(p.ears)
		p.known[e.Receiver], p.ears = k, append(p.ears, e)
	} else if p.ears[k].DistanceM < 0 && e.DistanceM >= 0 {
		p.ears[k] = e
	}
	return k
}

// slotKey is the part of a report that places it in a slot.
type slotKey struct {
	at   int64 // milliseconds
	band string
}

// Add adds a run and what was heard of it; names are the antennas by their letters, others do not count.
func (p *Pool) Add(run onair.Run, names map[string]string, all Reports, f Filter) {
	if run.Listen != p.Hears {
		return
	}
	f, run.PowerW = f.forRun(run)
	off, call := all.off(run.Mode), onair.BaseCall(run.Call)
	slots := map[slotKey]int{}
	for _, s := range run.Slots {
		name, ok := names[s.By()]
		if !ok || s.By() == "" || !f.slot(s.At, s.Band, run.PowerW) {
			continue
		}
		slots[slotKey{s.At.UnixMilli(), s.Band}] = len(p.sent)
		p.sent = append(p.sent, Sent{s.At, run.Sending().Seconds(), name, s.Band, run.PowerW, p.added})
	}
	p.added++
	const unseen, left = -1, -2
	ears := make([]int, len(all.Ears)) // their places in the pool
	for k := range ears {
		if ears[k] = unseen; !f.ear(all.Ears[k]) {
			ears[k] = left
		}
	}
	before := len(p.received)
	p.received = slices.Grow(p.received, len(all.Rows))
	// Reports of one slot mostly come together: its place is looked up once. So is the correction for a power.
	last, slot := Brief{At: math.MinInt64}, -1
	told, more := 0.0, 0.0
	for k := range all.Rows {
		r := &all.Rows[k]
		if !whose(p.Hears, call, r.Is(Own), r.Is(Others), all.Ears[r.Ear].By) || math.IsNaN(r.SNR) || !f.made(r.Is(Simulated)) ||
			ears[r.Ear] == left {
			continue
		}
		if r.At != last.At || r.Band != last.Band {
			last, slot = *r, -1
			if s, ok := run.SlotOf(r.Time(), all.Bands[r.Band], off); ok {
				if i, ok := slots[slotKey{s.At.UnixMilli(), s.Band}]; ok {
					slot = i
				}
			}
		}
		switch {
		case slot < 0:
			continue
		case r.Is(Aside):
			p.aside++
			continue
		case ears[r.Ear] == unseen:
			ears[r.Ear] = p.ear(all.Ears[r.Ear])
		}
		if r.PowerW != told {
			if told = r.PowerW; !p.Hears {
				more = toPlanned(run.PowerW, r.PowerW)
			}
		}
		p.received = append(p.received, reception{int32(slot), int32(ears[r.Ear]), r.SNR + more})
	}
	if len(p.received) > before {
		p.runs++
	}
}

// Beside adds a station that others heard while the run that was added last was sent, as if it were an antenna of that name: when it sent
// is known by who heard it.
func (p *Pool) Beside(run onair.Run, station string, all Reports, f Filter) {
	slot := run.Sending()
	f.LeastW, f.MostW = 0, 0 // the power is that of another
	slots := map[slotKey]int{}
	for k := range all.Rows {
		r := &all.Rows[k]
		e := all.Ears[r.Ear]
		at := r.Time().Round(slot)
		if !r.Is(Others) || r.Is(Aside) || e.By != station || math.IsNaN(r.SNR) || !f.made(r.Is(Simulated)) || !f.ear(e) ||
			!f.slot(at, all.Bands[r.Band], 0) {
			continue
		}
		key := slotKey{at.UnixMilli(), all.Bands[r.Band]}
		i, ok := slots[key]
		if !ok {
			i = len(p.sent)
			slots[key] = i
			p.sent = append(p.sent, Sent{at, slot.Seconds(), station, key.band, 0, p.added - 1})
		}
		p.received = append(p.received, reception{int32(i), int32(p.ear(e)), r.SNR + toPlanned(0, r.PowerW)})
	}
}

// toPlanned returns the decibels that bring a report of one power in watts to that of the plan: the report knows better than the plan what
// was sent. Where it is given in whole decibels over a milliwatt to which the plan's rounds, both say the same.
func toPlanned(planned, told float64) float64 {
	const watt, whole = 30, 0.01
	own, other := decibels(planned)+watt, decibels(told)+watt
	if told <= 0 || told == planned || planned > 0 && math.Abs(other-math.Round(other)) < whole && math.Round(own) == math.Round(other) {
		return 0
	}
	return own - other
}

// together says that both antennas sent on one occasion at least.
func (p *Pool) together(a, b string) bool {
	seen := map[int][2]bool{}
	for _, s := range p.sent {
		x := seen[s.Occasion]
		x[0], x[1] = x[0] || s.Antenna == a, x[1] || s.Antenna == b
		if seen[s.Occasion] = x; x[0] && x[1] {
			return true
		}
	}
	return false
}

// Reports are how many count.
func (p *Pool) Reports() int { return len(p.received) }

// Heard says that somebody heard any of it.
func (p *Pool) Heard() bool { return len(p.received) > 0 }

// Evidence compares two antennas of a pool by their names: on all bands where there are several, then band by band.
func (p *Pool) Evidence(a, b string) Evidence {
	together := p.together(a, b)
	if !together { // each on occasions of its own: a receiver is compared over them
		for i := range p.sent {
			p.sent[i].Occasion = 0
		}
	}
	c := compared(p.sent, p.ears, p.received)
	c.days, c.hears = p.Log, p.Hears
	e := Evidence{Strength: "strong", Kind: "sent in turn, slot by slot", Runs: p.runs, SetAside: p.aside, Hearing: p.Hears}
	switch {
	case p.Hears && together:
		e.Kind = "listened with in turn, slot by slot"
	case p.Hears:
		e.Strength, e.Kind = "weak", "listening on other occasions"
	case !together:
		e.Strength, e.Kind = "weak", "slots of other occasions"
	}
	both := c.pair(a, b)
	e.Parts, e.Receivers = both.parts(), both.receivers(p.ears)
	if e.Says = "Nothing was sent with both."; len(e.Parts) > 0 {
		e.Says = sentenceOf(e.Parts[0], e.Parts[1:])
	}
	if p.aside > 0 {
		e.Says += fmt.Sprintf(" %s set aside.", phrase.Count(p.aside, "report"))
	}
	return e
}

// Bands are the verdicts on an antenna against each of others, band by band, said by what they are called.
func (p *Pool) Bands(a string, others []string, called map[string]string) (out []Verdict) {
	c := compared(p.sent, p.ears, p.received)
	c.names = called
	for _, b := range others {
		for _, v := range c.pair(a, b).parts() {
			if v.Band != "" {
				out = append(out, v)
			}
		}
	}
	return out
}

// sentenceOf says what bands come to: the verdict on all, or band by band where they differ by more than luck, since a mean of both is
// that of neither.
func sentenceOf(all Verdict, bands []Verdict) string {
	var known []Verdict
	weights, sum, squares := 0.0, 0.0, 0.0
	for _, v := range bands {
		if v.Lo == nil || !v.InTurn {
			continue
		}
		known = append(known, v)
		w := 1 / math.Max(1e-6, math.Pow(*v.Hi-*v.Lo, 2)/16)
		weights, sum, squares = weights+w, sum+w**v.DB, squares+w**v.DB**v.DB
	}
	if len(known) < 2 || squares-sum*sum/weights <= (distuv.ChiSquared{K: float64(len(known) - 1)}).Quantile(0.99) {
		return all.Says
	}
	said := make([]string, len(known))
	for i, v := range known {
		said[i] = v.Says
	}
	return "It depends on the band. " + strings.Join(said, " ")
}

// parts are the verdicts on two antennas: on all bands together where there are several, then band by band, the longest wave first.
func (q *pairing) parts() (out []Verdict) {
	bands := slices.DeleteFunc(slices.Clone(q.bands), func(x *bandSlots) bool { return x.count[0]+x.count[1] == 0 })
	asked := make([][]*bandSlots, 0, len(bands)+1)
	if len(bands) > 1 {
		asked = append(asked, bands)
	}
	for i := range bands {
		asked = append(asked, bands[i:i+1])
	}
	out = make([]Verdict, len(asked))
	_ = numeric.Share(context.Background(), len(asked), func(i int) { // none of them stops
		name := ""
		if len(asked[i]) == 1 {
			name = asked[i][0].name
		}
		out[i] = q.verdict(name, asked[i])
	})
	return out
}

// ReceiverVerdict is the result of one receiver on two antennas, over the slots in which it listened.
type ReceiverVerdict struct {
	Receiver  string   `json:"receiver"`
	HeardA    int      `json:"heard_a"`
	OfA       int      `json:"of_a"`
	HeardB    int      `json:"heard_b"`
	OfB       int      `json:"of_b"`
	DB        *float64 `json:"difference_db"` // of the means of what was heard of each, band by band
	DistanceM *float64 `json:"distance_m"`
	Bearing   *float64 `json:"bearing"`
}

// receivers returns each receiver's result on both, those with most reports first.
func (q *pairing) receivers(ears []Ear) []ReceiverVerdict {
	where := map[string]Ear{}
	for _, e := range ears {
		where[e.Receiver] = e
	}
	out := []ReceiverVerdict{}
	weight, sum := 0.0, 0.0
	for i := range q.of { // by receiver, in their order
		x, name := &q.of[i], q.heard[i].receiver
		if i == 0 || q.heard[i-1].receiver != name {
			weight, sum = 0, 0
			out = append(out, ReceiverVerdict{Receiver: name})
		}
		v := &out[len(out)-1]
		v.HeardA, v.HeardB, v.OfA, v.OfB = v.HeardA+x.heard[0], v.HeardB+x.heard[1], v.OfA+x.of[0], v.OfB+x.of[1]
		if a, b := float64(x.heard[0]), float64(x.heard[1]); a > 0 && b > 0 { // bands are not mixed in a difference
			w := a * b / (a + b)
			weight, sum = weight+w, sum+w*(x.sum[0]/a-x.sum[1]/b)
			d := sum / weight
			v.DB = &d
		}
		if e, ok := where[name]; ok && e.DistanceM >= 0 {
			v.DistanceM = &e.DistanceM
		}
		if e, ok := where[name]; ok && e.Bearing >= 0 {
			v.Bearing = &e.Bearing
		}
	}
	out = slices.DeleteFunc(out, func(v ReceiverVerdict) bool { return v.HeardA+v.HeardB == 0 })
	slices.SortStableFunc(out, func(x, y ReceiverVerdict) int { return (y.HeardA + y.HeardB) - (x.HeardA + x.HeardB) })
	return out
}

// Running are the differences of a run's antennas against its first as they stand: on all bands together, then band by band.
func Running(run onair.Run, reports []onair.Report) (out []Verdict) {
	if len(run.Aerials) < 2 {
		return nil
	}
	heard := make([]Heard, len(reports))
	for i, r := range reports {
		heard[i] = HeardOf(r)
	}
	letters, named, twice := map[string]string{}, map[string]string{}, false
	for _, x := range run.Aerials {
		letters[x.Letter], named[x.Letter] = x.Letter, x.Name
		twice = twice || slices.ContainsFunc(run.Aerials, func(y onair.Aerial) bool { return x.Letter != y.Letter && x.Name == y.Name })
	}
	p := Pool{Hears: run.Listen}
	p.Add(run, letters, ReportsOf(heard), Filter{})
	c := compared(p.sent, p.ears, p.received)
	if c.hears = p.Hears; !twice { // revisions of one deployment are named by their letters
		c.names = named
	}
	for _, other := range run.Aerials[1:] {
		out = append(out, c.pair(run.Aerials[0].Letter, other.Letter).parts()...)
	}
	return out
}
