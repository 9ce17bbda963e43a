package weigh

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"gonum.org/v1/gonum/stat/distuv"

	"reed/core/numeric"
	"reed/core/onair"
	"reed/core/place"
)

// Heard is a reception report with what of it is weighed. Receiver is the base call; distance and bearing of less than 0, a power of
// 0, and a strength that is no number are not known.
type Heard struct {
	At        time.Time
	Band      string
	Receiver  string
	SNR       float64
	PowerW    float64
	DistanceM float64
	Bearing   float64
	Seconds   bool // of At are known
	Simulated bool
	SetAside  bool
}

// HeardOf is what is weighed of a report.
func HeardOf(r onair.Report) Heard {
	or := func(p *float64, unknown float64) float64 {
		if p == nil {
			return unknown
		}
		return *p
	}
	return Heard{At: r.At, Band: r.Band, Receiver: onair.BaseCall(r.Receiver), SNR: or(r.SNR, math.NaN()), PowerW: or(r.PowerW, 0),
		DistanceM: or(r.DistanceM, -1), Bearing: or(r.Bearing, -1), Seconds: r.Seconds, Simulated: r.Simulated, SetAside: r.SetAside != ""}
}

// Filter says which slots and receivers count; what is zero does not matter.
type Filter struct {
	Bands        []string
	FromHour     float64 // of the UTC day; where Until lies before From it goes over midnight
	UntilHour    float64
	LeastKm      float64
	MostKm       float64
	Toward       *float64 // degrees, with Within to each side, or Sector
	Within       float64
	Receiver     string
	LeastW       float64
	MostW        float64
	ExcludeReal  bool
	ExcludeDrawn bool // what was simulated
}

// Sector is how far to each side of a direction a receiver may lie, in degrees.
const Sector = 45.0

// Check says what of a filter cannot be.
func (f Filter) Check() (path, why string) {
	switch {
	case f.FromHour < 0 || f.FromHour > 24 || f.UntilHour < 0 || f.UntilHour > 24:
		return "from_hour", "hours of a UTC day are 0 to 24"
	case f.LeastKm < 0 || f.MostKm < 0 || f.MostKm > 0 && f.MostKm <= f.LeastKm:
		return "most_km", fmt.Sprintf("%.0f to %.0f km holds nobody", f.LeastKm, f.MostKm)
	case f.Toward != nil && !(*f.Toward >= 0 && *f.Toward <= 360):
		return "toward", "a direction is 0 to 360 degrees"
	}
	return "", ""
}

// Lets says whether what a receiver heard of a slot counts.
func (f Filter) Lets(at time.Time, band string, watts float64, h Heard) bool {
	return f.slot(at, band, watts) && f.receiver(&h)
}

func (f Filter) slot(at time.Time, band string, watts float64) bool {
	if len(f.Bands) > 0 && !slices.Contains(f.Bands, band) || f.LeastW > 0 && watts < f.LeastW || f.MostW > 0 && watts > f.MostW {
		return false
	}
	if f.FromHour == 0 && (f.UntilHour == 0 || f.UntilHour == 24) {
		return true
	}
	at = at.UTC()
	h, until := float64(at.Hour())+float64(at.Minute())/60, cmp.Or(f.UntilHour, 24)
	if f.FromHour <= until {
		return h >= f.FromHour && h < until
	}
	return h >= f.FromHour || h < until
}

func (f Filter) receiver(h *Heard) bool {
	if f.Receiver != "" && h.Receiver != onair.BaseCall(f.Receiver) || f.ExcludeReal && !h.Simulated || f.ExcludeDrawn && h.Simulated {
		return false
	}
	if km := h.DistanceM / 1000; (f.LeastKm > 0 || f.MostKm > 0) && (h.DistanceM < 0 || km < f.LeastKm || f.MostKm > 0 && km > f.MostKm) {
		return false
	}
	return f.Toward == nil || h.Bearing >= 0 && place.Apart(h.Bearing, *f.Toward) <= cmp.Or(f.Within, Sector)
}

// Pool is what was sent in turn on one or more occasions, and heard.
type Pool struct {
	sent     []Sent
	received []Reception
	at       map[string]*Heard // where each receiver is
	added    int               // runs that were looked at
	runs     int               // of them, those that were heard
	aside    int
	counted  int
	// Log is what the whole log says of how days differ.
	Log Days
}

// sampled is how many reports tell by how much clocks are off.
const sampled = 2000

// Add adds a run and what was heard of it; names are the antennas by their letters, others do not count.
func (p *Pool) Add(run onair.Run, names map[string]string, heard []Heard, f Filter) {
	var some []onair.Report
	for i := 0; i < len(heard); i += 1 + len(heard)/sampled {
		some = append(some, onair.Report{At: heard[i].At, Seconds: heard[i].Seconds, Mode: run.Mode})
	}
	off, ok := onair.ClockOff(some)
	if !ok {
		off = 0
	}
	if p.at == nil {
		p.at = map[string]*Heard{}
	}
	type key struct {
		at   int64
		band string
	}
	slots := map[key]int{}
	for _, s := range run.Slots {
		name, ok := names[s.By()]
		if !ok || s.By() == "" || !f.slot(s.At, s.Band, run.PowerW) {
			continue
		}
		slots[key{s.At.UnixNano(), s.Band}] = len(p.sent)
		p.sent = append(p.sent, Sent{s.At, run.Sending().Seconds(), name, s.Band, run.PowerW, p.added})
	}
	p.added++
	before := p.counted
	p.received = slices.Grow(p.received, len(heard))
	// Reports of one slot mostly come together: its place is looked up once.
	last, lastAt := key{-1, ""}, -1
	own := decibels(run.PowerW)
	for k := range heard {
		h := &heard[k]
		if math.IsNaN(h.SNR) || !f.receiver(h) {
			continue
		}
		if is := (key{h.At.UnixNano(), h.Band}); is != last {
			last, lastAt = is, -1
			if s, ok := run.SlotOf(h.At, h.Band, off); ok {
				if i, ok := slots[key{s.At.UnixNano(), s.Band}]; ok {
					lastAt = i
				}
			}
		}
		i := lastAt
		if i < 0 {
			continue
		}
		if h.SetAside {
			p.aside++
			continue
		}
		snr := h.SNR
		if h.PowerW > 0 && h.PowerW != run.PowerW { // the report knows better than the plan what was sent
			snr += own - decibels(h.PowerW)
		}
		if have, ok := p.at[h.Receiver]; !ok || have.DistanceM < 0 && h.DistanceM >= 0 {
			where := *h
			p.at[h.Receiver] = &where
		}
		p.counted++
		p.received = append(p.received, Reception{i, h.Receiver, snr})
	}
	if p.counted > before {
		p.runs++
	}
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
func (p *Pool) Reports() int { return p.counted }

// Heard says that somebody heard any of it.
func (p *Pool) Heard() bool { return p.counted > 0 }

// Evidence compares two antennas of a pool by their names: on all bands where there are several, then band by band.
func (p *Pool) Evidence(a, b string) Evidence {
	if !p.together(a, b) { // each on occasions of its own: a receiver is compared over them
		for i := range p.sent {
			p.sent[i].Occasion = 0
		}
	}
	c := compared(p.sent, p.received)
	c.days = p.Log
	e := Evidence{Strength: "strong", Kind: "sent in turn, slot by slot", Runs: p.runs, SetAside: p.aside}
	heard := make(chan []ReceiverVerdict, 1)
	go func() { heard <- c.receivers(a, b, p.at) }()
	e.Parts = c.parts(a, b)
	if e.Says = "Nothing was sent with both."; len(e.Parts) > 0 {
		e.Says = sentenceOf(e.Parts[0], e.Parts[1:])
	}
	if p.aside > 0 {
		e.Says += fmt.Sprintf(" %s set aside.", many(p.aside, "report"))
	}
	e.Receivers = <-heard
	return e
}

// Bands are the verdicts on an antenna against each of others, band by band, said by what they are called.
func (p *Pool) Bands(a string, others []string, called map[string]string) (out []Verdict) {
	c := compared(p.sent, p.received)
	c.names = called
	for _, b := range others {
		for _, v := range c.parts(a, b) {
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
func (c *comparison) parts(a, b string) (out []Verdict) {
	names := sortedKeys(c.list)
	slices.SortFunc(names, longest)
	names = slices.DeleteFunc(names, func(name string) bool {
		return !slices.ContainsFunc(c.list[name], func(i int) bool { return c.sent[i].Antenna == a || c.sent[i].Antenna == b })
	})
	asked := make([][]string, 0, len(names)+1)
	if len(names) > 1 {
		asked = append(asked, names)
	}
	for i := range names {
		asked = append(asked, names[i:i+1])
	}
	out = make([]Verdict, len(asked))
	_ = numeric.Share(context.Background(), len(asked), func(i int) { // none of them stops
		name := ""
		if len(asked[i]) == 1 {
			name = asked[i][0]
		}
		out[i] = c.verdict(a, b, name, asked[i])
	})
	return out
}

// ReceiverVerdict is what one receiver heard of two antennas, over the slots in which it listened.
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

// receivers are what each receiver heard of both, those that heard most first.
func (c *comparison) receivers(a, b string, at map[string]*Heard) []ReceiverVerdict {
	type sums struct {
		heard, of  [2]int
		db, weight float64
	}
	all := map[string]*sums{}
	laid := map[string][]slotOf{}
	never := plan{block: make([]int, len(c.sent)), period: make([]int, len(c.sent))}
	for i := range c.heard {
		h := &c.heard[i]
		s := all[h.receiver]
		if s == nil {
			s = &sums{}
			all[h.receiver] = s
		}
		list, ok := laid[h.band]
		if !ok {
			list = c.laid(&Verdict{A: a, B: b}, h.band, never)
			laid[h.band] = list
		}
		for k := h.slots[0]; k <= h.slots[len(h.slots)-1]; k++ {
			if x := &list[k]; x.side >= 0 && x.occasion == h.occasion {
				s.of[x.side]++
			}
		}
		var n, sum [2]float64 // of this band: bands are not mixed in a difference
		for i, k := range h.slots {
			if x := &list[k]; x.side >= 0 {
				s.heard[x.side]++
				n[x.side]++
				sum[x.side] += h.snr[i] - x.power
			}
		}
		if n[0] > 0 && n[1] > 0 {
			w := n[0] * n[1] / (n[0] + n[1])
			s.db, s.weight = s.db+w*(sum[0]/n[0]-sum[1]/n[1]), s.weight+w
		}
	}
	out := []ReceiverVerdict{}
	for _, name := range sortedKeys(all) {
		s := all[name]
		if s.heard[0]+s.heard[1] == 0 {
			continue
		}
		v := ReceiverVerdict{Receiver: name, HeardA: s.heard[0], OfA: s.of[0], HeardB: s.heard[1], OfB: s.of[1]}
		if s.weight > 0 {
			d := s.db / s.weight
			v.DB = &d
		}
		if h := at[name]; h != nil && h.DistanceM >= 0 {
			v.DistanceM = &h.DistanceM
		}
		if h := at[name]; h != nil && h.Bearing >= 0 {
			v.Bearing = &h.Bearing
		}
		out = append(out, v)
	}
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
	var p Pool
	p.Add(run, letters, heard, Filter{})
	c := compared(p.sent, p.received)
	if !twice { // revisions of one deployment are told apart by their letters
		c.names = named
	}
	for _, other := range run.Aerials[1:] {
		out = append(out, c.parts(run.Aerials[0].Letter, other.Letter)...)
	}
	return out
}
