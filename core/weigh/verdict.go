package weigh

import (
	"cmp"
	"context"
	"math"
	"slices"
	"strings"

	"reed/core/band"
	"reed/core/numeric"
)

// Verdict is by how many decibels antenna A was heard stronger than B on a band, on all where Band is empty, with the interval in
// which it lies with 95 %. DB, Lo and Hi are nil where nothing can be said.
type Verdict struct {
	Band      string   `json:"band,omitempty"`
	A         string   `json:"a"`
	B         string   `json:"b"`
	DB        *float64 `json:"difference_db"`
	Lo        *float64 `json:"lo_db"`
	Hi        *float64 `json:"hi_db"`
	Receivers int      `json:"receivers"` // that count: those that listened to both and heard enough
	SlotsA    int      `json:"slots_a"`
	SlotsB    int      `json:"slots_b"`
	Reports   int      `json:"reports"`
	P         *float64 `json:"test_p"` // that what was heard would differ so much if they were the same
	OnlyA     int      `json:"only_a"` // receivers that heard only A
	OnlyB     int      `json:"only_b"`
	// Minutes more of the same until a difference of so many decibels would be significant: the interval is that wide to
	// each side. Nil where no time would do.
	Minutes map[string]*float64 `json:"minutes_to_settle"`
	// What people look at: the mean over reports of A less that of B, and the medians'. Both leave out what was not heard.
	NaiveDB  *float64 `json:"naive_db"`
	MedianDB *float64 `json:"median_db"`
	InTurn   bool     `json:"in_turn"` // alternated within the hour; otherwise widened by how days differ
	Says     string   `json:"says"`
	// Silent and Listened count, of the slots of each in which the receivers listened, those that were not heard.
	SilentA   int  `json:"silent_a"`
	SilentB   int  `json:"silent_b"`
	ListenedA int  `json:"listened_a"`
	ListenedB int  `json:"listened_b"`
	hears     bool // it is of hearing
	// Of how many pairs of days of the log, and what they say of a day, where days differ.
	pairs int
	days  float64
}

// Answer is the comparison by slots and reports, pair by pair of antennas.
type Answer struct {
	Bands        []Verdict `json:"bands"`
	All          *Verdict  `json:"all"`              // of the first two antennas
	Others       []Verdict `json:"others,omitempty"` // of all bands, where there are more than two antennas
	Sentence     string    `json:"sentence"`
	Uncontrolled []string  `json:"uncontrolled"`
}

// Spreads of what is common to all receivers of one occasion, in decibels, where two antennas were not sent in turn: from one day
// to another, and from one hour to another of a day. They are drawn together with the days that there are, counting for so many.
const (
	DaySpread  = 6.0
	hourSpread = 4.0
	spreadDays = 8.0
)

// Judge compares antennas by the reports of their slots. Names are compared as written, those of receivers too.
func Judge(sent []Sent, received []Reception) Answer { return judge(sent, received, false) }

func judge(sent []Sent, received []Reception, hears bool) Answer {
	out := Answer{Bands: []Verdict{}, Uncontrolled: []string{}}
	var antennas []string
	for _, s := range sent {
		if !slices.Contains(antennas, s.Antenna) {
			antennas = append(antennas, s.Antenna)
		}
	}
	slices.Sort(antennas)
	ears, told := eared(received)
	c := compared(sent, ears, told)
	c.hears = hears
	for i, a := range antennas {
		for _, b := range antennas[i+1:] {
			var all *Verdict
			list := c.pair(a, b).parts()
			for k := range list {
				v := &list[k]
				if v.Band == "" {
					all = v
				} else if v.SlotsA > 0 && v.SlotsB > 0 {
					out.Bands = append(out.Bands, *v)
				}
			}
			if all == nil { // one band is all
				one := list[0]
				one.Band, all = "", &one
			}
			if out.All == nil {
				out.All = all
			}
			if len(antennas) > 2 {
				out.Others = append(out.Others, *all)
			}
		}
	}
	switch {
	case out.All == nil:
		out.Sentence = "Slots of two antennas are needed to compare them."
	case len(out.Bands) == 1:
		out.Sentence = out.Bands[0].Says
	default:
		out.Sentence = sentenceOf(*out.All, slices.DeleteFunc(slices.Clone(out.Bands), func(v Verdict) bool {
			return v.A != out.All.A || v.B != out.All.B
		}))
	}
	out.Uncontrolled = c.uncontrolled(antennas)
	return out
}

// longest sorts bands by their wavelength.
func longest(a, b string) int {
	f := func(name string) float64 {
		if x, ok := band.Named(1, name); ok {
			return x.Lo
		}
		return math.Inf(1)
	}
	if d := f(a) - f(b); d != 0 {
		return int(math.Copysign(1, d))
	}
	return strings.Compare(a, b)
}

// comparison holds slots and reports in order. Names are the antennas' names in sentences, by their keys.
type comparison struct {
	sent  []Sent
	list  map[string][]int // by band, its slots by rising time
	place []int            // of each slot in the list of its band
	heard []heardBy
	names map[string]string
	days  Days
	// Hears says that it is of what antennas hear: in place of receivers stand the stations that were heard, of which nobody knows when
	// they sent.
	hears bool
}

// compared brings what was sent and heard into order.
func compared(sent []Sent, ears []Ear, received []reception) *comparison {
	c := &comparison{sent: sent, list: map[string][]int{}, place: make([]int, len(sent))}
	for i, s := range sent {
		c.list[s.Band] = append(c.list[s.Band], i)
	}
	for _, of := range c.list {
		slices.SortStableFunc(of, func(i, k int) int { return sent[i].At.Compare(sent[k].At) })
		for at, i := range of {
			c.place[i] = at
		}
	}
	c.heard = c.gather(ears, received)
	return c
}

// pairing is all that was heard of two antennas, band by band, as it goes into any verdict on them.
type pairing struct {
	*comparison
	a, b  string
	bands []*bandSlots // the longest wave first
	of    []heardOf    // beside who heard
	tally map[string]*[2]levels
}

// heardOf holds the reports of one receiver on one band of two antennas on an occasion. Of is in how many slots it listened, Heard
// in how many of them it heard, and Sum what it heard, in decibels for a watt. Listened and silent are of the slots that count.
type heardOf struct {
	heard, of        [2]int
	sum              [2]float64
	listened, silent [2]int
	unit             *unit // nil where it says nothing of the two
}

// shared is how many receivers are looked at as one piece: by their number alone, so that sums of them come out the same on every machine.
const shared = 100

// pair looks at what was heard of two antennas.
func (c *comparison) pair(a, b string) *pairing {
	q := &pairing{comparison: c, a: a, b: b, of: make([]heardOf, len(c.heard)), tally: map[string]*[2]levels{}}
	names := sortedKeys(c.list)
	slices.SortFunc(names, longest)
	at := map[string]int{}
	for i, name := range names {
		at[name] = i
		q.bands = append(q.bands, c.slotsOf(a, b, name))
	}
	below := q.thresholds()
	pieces := make([][][2]levels, (len(c.heard)+shared-1)/shared)
	_ = numeric.Share(context.Background(), len(pieces), func(k int) { // none of them stops
		pieces[k] = make([][2]levels, len(names))
		for i := k * shared; i < min((k+1)*shared, len(c.heard)); i++ {
			h := &c.heard[i]
			q.of[i] = h.reportsOf(q.bands[at[h.band]], below[i], c.hears, &pieces[k][at[h.band]])
		}
	})
	for i, name := range names {
		all := &[2]levels{}
		for _, piece := range pieces {
			for side := range all {
				all[side].join(&piece[i][side])
			}
		}
		q.tally[name] = all
	}
	return q
}

// thresholds are the levels below which each hears nothing: of a receiver the least that it reported, of one's own decoder the least of a
// band, whoever sent it.
func (c *comparison) thresholds() []float64 {
	out := make([]float64, len(c.heard))
	least := map[string]float64{}
	for i := range c.heard {
		h := &c.heard[i]
		out[i] = h.threshold()
		if v, ok := least[h.band]; !ok || out[i] < v {
			least[h.band] = out[i]
		}
	}
	if c.hears {
		for i := range out {
			out[i] = least[c.heard[i].band]
		}
	}
	return out
}

// placed is a band beside others: from which numbers on its blocks and periods go.
type placed struct {
	*bandSlots
	block, period int32
}

// verdict compares the two antennas on some bands, and says it under the name of one.
func (q *pairing) verdict(name string, bands []*bandSlots) Verdict {
	v := q.between(bands)
	v.Band = name
	unit := "receiver"
	if q.hears {
		unit = "station"
	}
	v.Says = v.sentence(cmp.Or(q.names[q.a], q.a), cmp.Or(q.names[q.b], q.b), unit, true)
	return v
}

// between compares the two antennas on some bands.
func (q *pairing) between(bands []*bandSlots) Verdict {
	v := Verdict{A: q.a, B: q.b, hears: q.hears, Minutes: map[string]*float64{"1": nil, "2": nil, "3": nil}}
	for _, x := range bands {
		v.SlotsA, v.SlotsB, v.InTurn = v.SlotsA+x.count[0], v.SlotsB+x.count[1], v.InTurn || x.inTurn
	}
	if v.SlotsA == 0 || v.SlotsB == 0 {
		v.InTurn = false
		return v
	}
	// Where some bands were sent in turn, only these count.
	in, blocks, periods := map[string]placed{}, int32(0), int32(0)
	for _, x := range bands {
		switch {
		case x.inTurn:
			in[x.name] = placed{x, blocks, periods}
			blocks += int32(x.blocks)
		case v.InTurn:
			continue
		default:
			in[x.name], blocks = placed{x, 0, periods}, 1
		}
		periods += int32(x.periods)
	}
	q.count(&v, bands)
	units := q.units(in, leastHeard)
	if len(units) < 2 { // better few than none
		units = q.units(in, 1)
	}
	for i := range q.of {
		if _, ok := in[q.heard[i].band]; ok {
			x := &q.of[i]
			v.ListenedA, v.ListenedB = v.ListenedA+x.listened[0], v.ListenedB+x.listened[1]
			v.SilentA, v.SilentB = v.SilentA+x.silent[0], v.SilentB+x.silent[1]
		}
	}
	f := fit(units, int(blocks))
	if v.Receivers = len(f.receivers); !f.ok {
		return v
	}
	q.estimate(&v, f, in)
	return v
}

// count fills in who heard only one of the two, how many reports there are, and what people look at.
func (q *pairing) count(v *Verdict, bands []*bandSlots) {
	asked := map[string]bool{}
	var all [2]levels
	for _, x := range bands {
		asked[x.name] = true
		for side := range all {
			all[side].join(&q.tally[x.name][side])
		}
	}
	var n [2]int
	only := func() {
		switch {
		case n[0]+n[1] == 0:
		case n[1] == 0:
			v.OnlyA++
		case n[0] == 0:
			v.OnlyB++
		}
		n = [2]int{}
	}
	for i := range q.of { // by receiver
		if i > 0 && q.heard[i].receiver != q.heard[i-1].receiver {
			only()
		}
		if asked[q.heard[i].band] {
			n[0], n[1] = n[0]+q.of[i].heard[0], n[1]+q.of[i].heard[1]
		}
	}
	only()
	a, b := &all[0], &all[1]
	if v.Reports = a.n + b.n; a.n > 0 && b.n > 0 {
		mean, middle := a.mean()-b.mean(), a.median()-b.median()
		v.NaiveDB, v.MedianDB = &mean, &middle
	}
}

// units are the receivers that heard at least so much on some bands, with what they heard there.
func (q *pairing) units(in map[string]placed, least int) (out []*unit) {
	for i := range q.of {
		u := q.of[i].unit
		x, ok := in[q.heard[i].band]
		if !ok || u == nil || u.heard < least {
			continue
		}
		here := *u
		here.block, here.period = x.block, x.period
		out = append(out, &here)
	}
	return out
}

// levels counts reports by their strength for a watt, in steps that are finer than what is said of them.
type levels struct {
	n     int
	sum   float64
	first int // the step of the first count
	count []int32
}

const (
	levelSteps = 100   // of a decibel
	levelMost  = 500.0 // what lies beyond counts as this
)

func (l *levels) add(y float64) {
	l.n, l.sum = l.n+1, l.sum+y
	*l.at(int(math.Round(math.Max(-levelMost, math.Min(levelMost, y)) * levelSteps)))++
}

// at is the count of a step.
func (l *levels) at(step int) *int32 {
	switch {
	case len(l.count) == 0:
		l.first, l.count = step, make([]int32, 1)
	case step < l.first:
		l.first, l.count = step, append(make([]int32, l.first-step, l.first-step+len(l.count)), l.count...)
	case step >= l.first+len(l.count):
		l.count = append(l.count, make([]int32, step-l.first-len(l.count)+1)...)
	}
	return &l.count[step-l.first]
}

// join adds what others counted.
func (l *levels) join(other *levels) {
	l.n, l.sum = l.n+other.n, l.sum+other.sum
	for k, n := range other.count {
		if n > 0 {
			*l.at(other.first + k) += n
		}
	}
}

func (l *levels) mean() float64 { return l.sum / float64(l.n) }

func (l *levels) median() float64 {
	nth := func(n int) float64 {
		k := 0
		for n -= int(l.count[0]); n >= 0; n -= int(l.count[k]) {
			k++
		}
		return float64(l.first+k) / levelSteps
	}
	return (nth((l.n-1)/2) + nth(l.n/2)) / 2
}

// decibels is a power over a watt; one that is not known is taken as a watt.
func decibels(watts float64) float64 {
	if watts <= 0 {
		return 0
	}
	return 10 * math.Log10(watts)
}

// another says that some of these slots are of an occasion.
func another(slots []slotOf, occasion int) bool {
	for i := range slots {
		if slots[i].occasion == int32(occasion) {
			return true
		}
	}
	return false
}

// cellsBack is how far back a cell is looked for; two of the same are as good as one.
const cellsBack = 16

// cellKey is the common key of the slots of a cell.
type cellKey struct {
	side          int8
	block, period int32
	power         float64
}

// reportsOf returns a receiver's reports of two antennas on a band while it listened: from its first to its last report. Those two are
// left out of what counts, unless they are of the band's first or last slot: that a receiver is known to have listened then follows from
// its having heard, which would favour the stronger antenna. Of a station that sends sometimes, nobody knows when, silence does not
// count.
func (h *heardBy) reportsOf(x *bandSlots, below float64, sometimes bool, tally *[2]levels) (out heardOf) {
	first, end := int(h.slots[0]), int(h.slots[len(h.slots)-1])
	from, until := first, end
	// The occasion's own first and last slot tell that a receiver listened before it heard.
	if another(x.slots[:from], h.occasion) {
		from++
	}
	if another(x.slots[until+1:], h.occasion) {
		until--
	}
	u := &unit{receiver: h.receiver, sometimes: sometimes, cells: make([]cellOf, 0, max(0, min(2*x.periods, until-from+2)))}
	var keys []cellKey   // of the cells
	var last [2]struct { // of each side: a cell is mostly the one of the slot before
		key cellKey
		k   int
	}
	last[0].k, last[1].k = -1, -1
	next := 0
	for s := first; s <= end; s++ {
		slot := &x.slots[s]
		heard := int(h.slots[next]) == s
		snr := h.snr[next]
		if heard {
			next++
		}
		side, power := slot.side, slot.power
		if sometimes && !heard || side < 0 || slot.occasion != int32(h.occasion) {
			continue
		}
		y := snr - power
		if out.of[side]++; heard {
			out.heard[side]++
			out.sum[side] += y
			tally[side].add(y)
		}
		if slot.block < 0 || s < from || s > until {
			continue
		}
		is := cellKey{side, slot.block, slot.period, power}
		k := last[side].k
		if k < 0 || last[side].key != is {
			// Time goes on from cell to cell: one that was is not far back.
			for k = len(keys) - 1; k >= 0 && k >= len(keys)-cellsBack && keys[k] != is; k-- {
			}
			if k < 0 || keys[k] != is {
				k = len(u.cells)
				keys = append(keys, is)
				u.cells = append(u.cells, cellOf{x: 0.5 - float64(side), block: slot.block, period: slot.period, below: below - power})
			}
			last[side].key, last[side].k = is, k
		}
		out.listened[side]++
		cell := &u.cells[k]
		if heard {
			cell.n, cell.sum, cell.sq = cell.n+1, cell.sum+y, cell.sq+y*y
			u.heard++
		} else {
			cell.silent++
			out.silent[side]++
		}
	}
	if u.heard > 0 && out.listened[0] > 0 && out.listened[1] > 0 {
		out.unit = u
	}
	return out
}
