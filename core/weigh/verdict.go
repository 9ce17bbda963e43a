package weigh

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"reed/core/band"
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
	// Minutes more of the same until a difference of so many decibels would be told from none: the interval is that wide to
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

// Answer is what slots and reports say, pair by pair of antennas.
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

// Judge compares antennas by what was heard of their slots. Names are told apart as they stand; receivers too.
func Judge(sent []Sent, received []Reception) Answer {
	out := Answer{Bands: []Verdict{}, Uncontrolled: []string{}}
	var antennas []string
	for _, s := range sent {
		if !slices.Contains(antennas, s.Antenna) {
			antennas = append(antennas, s.Antenna)
		}
	}
	slices.Sort(antennas)
	c := compared(sent, received)
	names := sortedKeys(c.list)
	slices.SortFunc(names, longest)
	for i, a := range antennas {
		for _, b := range antennas[i+1:] {
			for _, name := range names {
				if v := c.verdict(a, b, name, []string{name}); v.SlotsA > 0 && v.SlotsB > 0 {
					out.Bands = append(out.Bands, v)
				}
			}
			var v Verdict
			if n := len(out.Bands); len(names) == 1 && n > 0 && out.Bands[n-1].A == a && out.Bands[n-1].B == b {
				v, v.Band = out.Bands[n-1], "" // one band is all
			} else {
				v = c.verdict(a, b, "", names)
			}
			if out.All == nil {
				out.All = &v
			}
			if len(antennas) > 2 {
				out.Others = append(out.Others, v)
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

// comparison is what was sent and heard, in order. Names are what antennas are called in sentences, by how they are told apart.
type comparison struct {
	sent  []Sent
	list  map[string][]int // by band, the places of its slots by rising time
	heard []heardBy
	names map[string]string
	days  Days
}

// compared brings what was sent and heard into order.
func compared(sent []Sent, received []Reception) *comparison {
	c := &comparison{sent: sent, list: map[string][]int{}}
	for i, s := range sent {
		c.list[s.Band] = append(c.list[s.Band], i)
	}
	place := make([]int, len(sent))
	for _, of := range c.list {
		slices.SortStableFunc(of, func(i, k int) int { return sent[i].At.Compare(sent[k].At) })
		for at, i := range of {
			place[i] = at
		}
	}
	c.heard = gather(sent, received, place)
	return c
}

// verdict compares two antennas on some bands, and says it under the name of one.
func (c *comparison) verdict(a, b, name string, bands []string) Verdict {
	v := c.between(a, b, bands)
	v.Band = name
	v.Says = v.sentence(cmp.Or(c.names[a], a), cmp.Or(c.names[b], b), "receiver", true)
	return v
}

// between compares two antennas on some bands.
func (c *comparison) between(a, b string, bands []string) Verdict {
	v := Verdict{A: a, B: b, Minutes: map[string]*float64{"1": nil, "2": nil, "3": nil}}
	of := map[string][]int{}
	for _, name := range bands {
		for _, i := range c.list[name] {
			switch c.sent[i].Antenna {
			case a:
				v.SlotsA++
			case b:
				v.SlotsB++
			default:
				continue
			}
			of[name] = append(of[name], i)
		}
	}
	if v.SlotsA == 0 || v.SlotsB == 0 {
		return v
	}
	p := planOf(c.sent, of, a)
	v.InTurn = p.blocks > 0
	if !v.InTurn {
		p = c.occasions(of)
	}
	bare := v
	units := c.units(&v, of, p, leastHeard)
	if len(units) < 2 { // better few than none
		v = bare
		units = c.units(&v, of, p, 1)
	}
	f := fit(units, p.blocks)
	if v.Receivers = len(f.receivers); !f.ok {
		return v
	}
	c.estimate(&v, f, p)
	if !v.InTurn {
		v.Minutes = map[string]*float64{"1": nil, "2": nil, "3": nil}
	}
	return v
}

// occasions are the stretches of slots of one antenna each, for antennas that were not sent in turn: they are compared as they
// stand, each a period of its own.
func (c *comparison) occasions(of map[string][]int) plan {
	p := plan{block: make([]int, len(c.sent)), period: make([]int, len(c.sent))}
	for i := range p.block {
		p.block[i], p.period[i] = -1, -1
	}
	for _, name := range sortedKeys(of) {
		last := -1
		for _, i := range of[name] {
			if last < 0 || c.sent[i].Antenna != c.sent[last].Antenna || c.sent[i].At.Sub(c.sent[last].At) >= blockBreak {
				p.periods++
			}
			p.block[i], p.period[i] = 0, p.periods-1
			last = i
		}
	}
	p.blocks = 1
	return p
}

// units are the receivers that count, by band, with what they heard of two antennas while they listened: from their first to their
// last report. Those two are left out, unless they are of the band's first or last slot: that a receiver is known to have listened
// then follows from its having heard, which would favour the stronger antenna.
func (c *comparison) units(v *Verdict, of map[string][]int, p plan, heardLeast int) (out []*unit) {
	var all [2]levels
	laid := map[string][]slotOf{}
	for band := range of {
		laid[band] = c.laid(v, band, p)
	}
	byReceiver := map[string]*[2]int{}
	for k := range c.heard {
		h := &c.heard[k]
		list := laid[h.band]
		if list == nil {
			continue
		}
		count := byReceiver[h.receiver]
		if count == nil {
			count = &[2]int{}
			byReceiver[h.receiver] = count
		}
		for i, s := range h.slots {
			if x := &list[s]; x.side >= 0 {
				count[x.side]++
				all[x.side].add(h.snr[i], x.power)
			}
		}
		if u := c.unit(v, h, list, p.periods, h.threshold(), heardLeast); u != nil {
			out = append(out, u)
		}
	}
	for _, n := range byReceiver {
		switch {
		case n[0]+n[1] == 0:
		case n[1] == 0:
			v.OnlyA++
		case n[0] == 0:
			v.OnlyB++
		}
	}
	meanA, middleA, reportsA := all[0].middle()
	meanB, middleB, reportsB := all[1].middle()
	if v.Reports = reportsA + reportsB; reportsA > 0 && reportsB > 0 {
		mean, middle := meanA-meanB, middleA-middleB
		v.NaiveDB, v.MedianDB = &mean, &middle
	}
	return out
}

// slotOf is what of a slot is asked for each receiver: whose it is, -1 of another, and where it stands.
type slotOf struct {
	side                    int
	occasion, block, period int
	power                   float64 // in decibels over a watt
}

// laid are a band's slots by rising time.
func (c *comparison) laid(v *Verdict, band string, p plan) []slotOf {
	out := make([]slotOf, len(c.list[band]))
	for at, i := range c.list[band] {
		x := &c.sent[i]
		out[at] = slotOf{sideOf(x.Antenna, v), x.Occasion, p.block[i], p.period[i], decibels(x.PowerW)}
	}
	return out
}

// levels counts reports by their strength: they are whole or half decibels mostly, so that there are few of a power.
type levels struct {
	of    []*atPower
	other []float64
}

type atPower struct {
	power float64
	count [levelSteps]int
}

// Bounds of the strengths that are counted, in quarters of a decibel.
const (
	levelLeast = -60.0
	levelSteps = 480
)

func (l *levels) add(snr, power float64) {
	at := (snr - levelLeast) * 4
	k := int(at)
	if at < 0 || k >= levelSteps || float64(k) != at {
		l.other = append(l.other, snr-power)
		return
	}
	for _, x := range l.of {
		if x.power == power {
			x.count[k]++
			return
		}
	}
	x := &atPower{power: power}
	x.count[k]++
	l.of = append(l.of, x)
}

// middle is the mean and the median of what was counted, and how many there were.
func (l *levels) middle() (mean, median float64, n int) {
	type level struct {
		at float64
		n  int
	}
	var all []level
	for _, x := range l.of {
		for k, n := range x.count {
			if n > 0 {
				all = append(all, level{levelLeast + float64(k)/4 - x.power, n})
			}
		}
	}
	for _, at := range l.other {
		all = append(all, level{at, 1})
	}
	slices.SortFunc(all, func(a, b level) int { return cmp.Compare(a.at, b.at) })
	sum := 0.0
	for _, x := range all {
		n, sum = n+x.n, sum+x.at*float64(x.n)
	}
	if n == 0 {
		return 0, 0, 0
	}
	nth := func(k int) float64 {
		for _, x := range all {
			if k -= x.n; k < 0 {
				return x.at
			}
		}
		return all[len(all)-1].at
	}
	return sum / float64(n), (nth((n-1)/2) + nth(n/2)) / 2, n
}

func sideOf(antenna string, v *Verdict) int {
	switch antenna {
	case v.A:
		return 0
	case v.B:
		return 1
	}
	return -1
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
		if slots[i].occasion == occasion {
			return true
		}
	}
	return false
}

// cellsBack is how far back a cell is looked for; two of the same are as good as one.
const cellsBack = 16

// unit is one receiver on a band, nil where it says nothing of the two.
func (c *comparison) unit(v *Verdict, h *heardBy, slots []slotOf, periods int, below float64, least int) *unit {
	from, until := h.slots[0], h.slots[len(h.slots)-1]
	// The occasion's own first and last slot tell that a receiver listened before it heard.
	if another(slots[:from], h.occasion) {
		from++
	}
	if another(slots[until+1:], h.occasion) {
		until--
	}
	u := &unit{receiver: h.receiver, cells: make([]cellOf, 0, min(2*periods, until-from+2))}
	type key struct {
		side, block, period int
		power               float64
	}
	var keys []key       // of the cells
	var last [2]struct { // of each side: a cell is mostly the one of the slot before
		key key
		k   int
	}
	last[0].k, last[1].k = -1, -1
	var sides [2]bool
	next := 0
	for s := from; s <= until; s++ {
		for next < len(h.slots) && h.slots[next] < s {
			next++
		}
		x := &slots[s]
		side, power := x.side, x.power
		if side < 0 || x.block < 0 || x.occasion != h.occasion {
			continue
		}
		is := key{side, x.block, x.period, power}
		k := last[side].k
		if k < 0 || last[side].key != is {
			// Time goes on from cell to cell: one that was is not far back.
			for k = len(keys) - 1; k >= 0 && k >= len(keys)-cellsBack && keys[k] != is; k-- {
			}
			if k < 0 || keys[k] != is {
				k = len(u.cells)
				keys = append(keys, is)
				u.cells = append(u.cells, cellOf{x: 0.5 - float64(side), block: x.block, period: x.period, below: below - power})
			}
			last[side].key, last[side].k = is, k
		}
		sides[side] = true
		listened, silent := &v.ListenedA, &v.SilentA
		if side == 1 {
			listened, silent = &v.ListenedB, &v.SilentB
		}
		*listened++
		if next < len(h.slots) && h.slots[next] == s {
			y := h.snr[next] - power
			cell := &u.cells[k]
			cell.n, cell.sum, cell.sq = cell.n+1, cell.sum+y, cell.sq+y*y
			u.heard++
		} else {
			u.cells[k].silent++
			*silent++
		}
	}
	if u.heard < least || !sides[0] || !sides[1] {
		return nil
	}
	return u
}
