package weigh

import (
	"cmp"
	"maps"
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
	SilentA   int `json:"silent_a"`
	SilentB   int `json:"silent_b"`
	ListenedA int `json:"listened_a"`
	ListenedB int `json:"listened_b"`
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
	all := [2]levels{{}, {}}
	power := make([]float64, len(c.sent))
	for i, s := range c.sent {
		power[i] = decibels(s.PowerW)
	}
	byReceiver := map[string]*[2]int{}
	for k := range c.heard {
		h := &c.heard[k]
		if of[h.band] == nil {
			continue
		}
		list := c.list[h.band]
		count := byReceiver[h.receiver]
		if count == nil {
			count = &[2]int{}
			byReceiver[h.receiver] = count
		}
		for i, s := range h.slots {
			x := &c.sent[list[s]]
			side := sideOf(x.Antenna, v)
			if side < 0 {
				continue
			}
			count[side]++
			all[side][h.snr[i]-power[list[s]]]++
		}
		if u := c.unit(v, h, p, power, h.threshold(), heardLeast); u != nil {
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

// levels counts reports by their strength: they are whole decibels, so that there are few.
type levels map[float64]int

// middle is the mean and the median of what was counted, and how many there were.
func (l levels) middle() (mean, median float64, n int) {
	at := slices.Sorted(maps.Keys(l))
	sum := 0.0
	for _, v := range at {
		n, sum = n+l[v], sum+v*float64(l[v])
	}
	if n == 0 {
		return 0, 0, 0
	}
	nth := func(k int) float64 {
		for _, v := range at {
			if k -= l[v]; k < 0 {
				return v
			}
		}
		return at[len(at)-1]
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
func (c *comparison) another(slots []int, occasion int) bool {
	return slices.ContainsFunc(slots, func(i int) bool { return c.sent[i].Occasion == occasion })
}

// unit is one receiver on a band, nil where it says nothing of the two.
func (c *comparison) unit(v *Verdict, h *heardBy, p plan, powers []float64, below float64, least int) *unit {
	list := c.list[h.band]
	from, until := h.slots[0], h.slots[len(h.slots)-1]
	// The occasion's own first and last slot tell that a receiver listened before it heard.
	if c.another(list[:from], h.occasion) {
		from++
	}
	if c.another(list[until+1:], h.occasion) {
		until--
	}
	u := &unit{receiver: h.receiver, cells: make([]cellOf, 0, min(2*p.periods, until-from+2))}
	at := map[[4]int]int{}
	var last [2]struct { // of each side: a cell is mostly the one of the slot before
		key [4]int
		k   int
	}
	last[0].k, last[1].k = -1, -1
	var sides [2]bool
	next := 0
	for s := from; s <= until; s++ {
		for next < len(h.slots) && h.slots[next] < s {
			next++
		}
		x := &c.sent[list[s]]
		side := sideOf(x.Antenna, v)
		if side < 0 || p.block[list[s]] < 0 || x.Occasion != h.occasion {
			continue
		}
		power := powers[list[s]]
		key := [4]int{side, p.block[list[s]], p.period[list[s]], int(math.Round(power * 1000))}
		k := last[side].k
		if k < 0 || last[side].key != key {
			var ok bool
			if k, ok = at[key]; !ok {
				k = len(u.cells)
				at[key] = k
				u.cells = append(u.cells, cellOf{x: 0.5 - float64(side), block: key[1], period: key[2], below: below - power})
			}
			last[side].key, last[side].k = key, k
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
