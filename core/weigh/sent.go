package weigh

import (
	"cmp"
	"slices"
	"time"
)

// Sent is one transmission: an antenna in a slot. Power of 0 is not known.
type Sent struct {
	At      time.Time
	Seconds float64
	Antenna string
	Band    string
	PowerW  float64
	// Occasion tells runs apart: whether a receiver listened to one says nothing of another.
	Occasion int
}

// Reception is one receiver's report of one slot, given by its place in the list of transmissions. SNR is in decibels.
type Reception struct {
	Slot     int
	Receiver string
	SNR      float64
}

// reception is the same with the receiver by its place in a list: it holds nothing that has to be followed.
type reception struct {
	slot, ear int32
	snr       float64
}

// eared are receptions with their receivers in a list.
func eared(received []Reception) (ears []Ear, out []reception) {
	var p Pool
	out = make([]reception, len(received))
	for i, r := range received {
		out[i] = reception{int32(r.Slot), int32(p.ear(Ear{r.Receiver, -1, -1, ""})), r.SNR}
	}
	return p.ears, out
}

// Told is a reception report as it comes, before it is known which slot it belongs to.
type Told struct {
	At       time.Time
	Band     string
	Receiver string
	SNR      float64
}

// slack is how far a report may lie outside its slot: decoders round to seconds, and clocks are off a little.
const slack = 10 * time.Second

// Match finds the slot of each report: the one in whose time it stands, or the nearest within the slack; unmatched counts those
// of none.
func Match(sent []Sent, told []Told) (out []Reception, unmatched int) {
	byBand := map[string][]int{}
	for i, s := range sent {
		byBand[s.Band] = append(byBand[s.Band], i)
	}
	for _, list := range byBand {
		slices.SortStableFunc(list, func(i, k int) int { return sent[i].At.Compare(sent[k].At) })
	}
	out = make([]Reception, 0, len(told))
	for _, r := range told {
		list := byBand[r.Band]
		at, _ := slices.BinarySearchFunc(list, r.At, func(i int, t time.Time) int {
			if sent[i].At.After(t) {
				return 1
			}
			return -1
		})
		best, off := -1, slack+1
		for _, k := range []int{at - 1, at} {
			if k < 0 || k >= len(list) {
				continue
			}
			s := sent[list[k]]
			end := s.At.Add(time.Duration(s.Seconds * float64(time.Second)))
			if d := max(s.At.Sub(r.At), r.At.Sub(end), 0); d < off {
				best, off = list[k], d
			}
		}
		if best < 0 {
			unmatched++
			continue
		}
		out = append(out, Reception{best, r.Receiver, r.SNR})
	}
	return out, unmatched
}

// Bounds of the stretches that are compared within themselves.
const (
	blockLeast  = 20 * time.Minute // long enough to hold a few turns, short enough for a band to stay as it is
	blockMost   = 120 * time.Minute
	blockBreak  = 45 * time.Minute // nothing was sent for so long: another stretch
	periodLeast = 10 * time.Minute // the turns that count as one draw of what all receivers share
	mostBlocks  = 60
	mostPeriods = 200
	// Two antennas that were changed only once cannot be separated from a drift of the band, unless the change is quick.
	oneChange = 15 * time.Minute
)

// chunk cuts a band's slots, by rising time, into stretches of at least a length that hold both antennas at least so many times,
// and change between them as often.
func chunk(sent []Sent, list []int, a string, least, most time.Duration, each int) (out [][]int) {
	var now []int
	count := map[bool]int{}
	changes := 0
	for _, i := range list {
		if len(now) > 0 {
			span, gap := sent[i].At.Sub(sent[now[0]].At), sent[i].At.Sub(sent[now[len(now)-1]].At)
			full := span >= least && count[true] >= each && count[false] >= each && changes >= each
			if full || span >= most || gap >= blockBreak {
				out, now = append(out, now), nil
				clear(count)
				changes = 0
			}
		}
		if len(now) > 0 && sent[i].Antenna != sent[now[len(now)-1]].Antenna {
			changes++
		}
		now = append(now, i)
		count[sent[i].Antenna == a]++
	}
	if len(now) == 0 {
		return out
	}
	// What is left over belongs to the stretch before, where it follows at once.
	if last := len(out) - 1; last >= 0 && (count[true] < each || count[false] < each || changes < each) &&
		sent[now[0]].At.Sub(sent[out[last][len(out[last])-1]].At) < blockBreak {
		out[last] = append(out[last], now...)
		return out
	}
	return append(out, now)
}

// inTurn says that a stretch holds both antennas in turn, so that what changes slowly is the same for both.
func inTurn(sent []Sent, list []int) bool {
	changes := 0
	for k := 1; k < len(list); k++ {
		if sent[list[k]].Antenna != sent[list[k-1]].Antenna {
			changes++
		}
	}
	return changes >= 2 || changes == 1 && sent[list[len(list)-1]].At.Sub(sent[list[0]].At) <= oneChange
}

// bandSlots are the slots of a band as they matter to two antennas. Blocks and periods are numbered from 0; a slot of neither antenna, or
// that no block holds in turn with the other, is of none (-1). Where no block holds both in turn, each stretch of one antenna is a
// period of its own, and all are of one block: they are compared as they stand.
type bandSlots struct {
	name            string
	slots           []slotOf // by rising time
	count           [2]int
	inTurn          bool
	blocks, periods int
}

// slotOf is the part of a slot that each receiver needs: whose it is, -1 of another, and its place.
type slotOf struct {
	side                    int8
	occasion, block, period int32
	power                   float64 // in decibels over a watt
}

// slotsOf lays blocks and periods over the slots of two antennas on a band.
func (c *comparison) slotsOf(a, b, band string) *bandSlots {
	x := &bandSlots{name: band, slots: make([]slotOf, len(c.list[band]))}
	var list []int
	for at, i := range c.list[band] {
		s := &c.sent[i]
		to := &x.slots[at]
		*to = slotOf{-1, int32(s.Occasion), -1, -1, decibels(s.PowerW)}
		switch s.Antenna {
		case a:
			to.side = 0
		case b:
			to.side = 1
		default:
			continue
		}
		x.count[to.side]++
		list = append(list, i)
	}
	if len(list) == 0 {
		return x
	}
	span := c.sent[list[len(list)-1]].At.Sub(c.sent[list[0]].At)
	least, turn := max(blockLeast, span/mostBlocks), max(periodLeast, span/mostPeriods)
	var turned []int
	for _, block := range chunk(c.sent, list, a, least, max(blockMost, 2*least), 2) {
		if !inTurn(c.sent, block) {
			continue
		}
		for _, i := range block {
			x.slots[c.place[i]].block = int32(x.blocks)
		}
		x.blocks++
		turned = append(turned, block...)
	}
	if x.inTurn = x.blocks > 0; !x.inTurn {
		x.apart(c, list)
		return x
	}
	for _, period := range chunk(c.sent, turned, a, turn, max(blockMost, 2*turn), 1) {
		for _, i := range period {
			x.slots[c.place[i]].period = int32(x.periods)
		}
		x.periods++
	}
	return x
}

// apart are the stretches of slots of one antenna each, for antennas that were not sent in turn.
func (x *bandSlots) apart(c *comparison, list []int) {
	last := -1
	for _, i := range list {
		if last < 0 || c.sent[i].Antenna != c.sent[last].Antenna || c.sent[i].At.Sub(c.sent[last].At) >= blockBreak {
			x.periods++
		}
		to := &x.slots[c.place[i]]
		to.block, to.period = 0, int32(x.periods-1)
		last = i
	}
	x.blocks = 1
}

func sortedKeys[V any](m map[string]V) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

// unit is one receiver on one band: what it heard of each slot in its listening time, brought to a watt. Its cells are those of the
// band, whatever they are put together with; its blocks and periods begin at numbers of their own there.
type unit struct {
	receiver      string // without the band
	cells         []cellOf
	block, period int32
	at            []stepOf // of each cell
	heard         int
	sometimes     bool // it is a station that is heard, of which nobody knows when it sent: silence says nothing
	sigma         float64
	mean          float64
}

// cellOf sums a unit's reports of one antenna in one period at one power: how many reports, their sum and sum of squares, and how
// many slots it did not hear although it listened, with the level below which it hears nothing.
type cellOf struct {
	x             float64 // +1/2 for a, -1/2 for b
	n, sum, sq    float64
	silent, below float64
	block, period int32
}

// stepOf is where a cell stands after the last step of a fit.
// Silent is how much lay below the threshold.
type stepOf struct{ m, z, lambda, score, weight, silent float64 }

// heardBy holds the reports of one receiver on one band on an occasion: the best of each slot, by rising time.
type heardBy struct {
	receiver, band string
	occasion       int
	slots          []int32 // places in the band's list
	snr            []float64
}

// gather sorts receptions by receiver, band and occasion; a slot heard twice by one receiver counts once, by its best report.
func (c *comparison) gather(ears []Ear, received []reception) (out []heardBy) {
	type group struct {
		band     string
		occasion int
	}
	groups, named := map[group]int32{}, []group{}
	of := make([]int32, len(c.sent)) // of each slot its group by number
	for i := range c.sent {
		g := group{c.sent[i].Band, c.sent[i].Occasion}
		k, ok := groups[g]
		if !ok {
			k = int32(len(named))
			groups[g], named = k, append(named, g)
		}
		of[i] = k
	}
	// By receiver first, in the order in which they came: each lies together then.
	from := make([]int, len(ears)+1)
	for i := range received {
		from[received[i].ear+1]++
	}
	for k := range ears {
		from[k+1] += from[k]
	}
	slot, snr := make([]int32, len(received)), make([]float64, len(received))
	next := slices.Clone(from)
	for i := range received {
		r := &received[i]
		at := next[r.ear]
		next[r.ear]++
		slot[at], snr[at] = r.slot, r.snr
	}
	// Then by group within each.
	slots, levels := make([]int32, len(received)), make([]float64, len(received))
	count := make([]int, len(groups))
	for k := range ears {
		var seen []int32
		for _, s := range slot[from[k]:from[k+1]] {
			if g := of[s]; count[g] == 0 {
				seen = append(seen, g)
			}
			count[of[s]]++
		}
		begin := from[k]
		for _, g := range seen {
			n := count[g]
			count[g], begin = begin, begin+n
		}
		for i := from[k]; i < from[k+1]; i++ {
			g := of[slot[i]]
			slots[count[g]], levels[count[g]] = int32(c.place[slot[i]]), snr[i]
			count[g]++
		}
		begin = from[k]
		for _, g := range seen {
			end := count[g]
			h := heardBy{ears[k].Receiver, named[g].band, named[g].occasion, slots[begin:end:end], levels[begin:end:end]}
			h.inOrder()
			out = append(out, h)
			count[g], begin = 0, end
		}
	}
	slices.SortFunc(out, func(x, y heardBy) int {
		return cmp.Or(cmp.Compare(x.receiver, y.receiver), cmp.Compare(x.band, y.band),
			cmp.Compare(x.occasion, y.occasion))
	})
	return out
}

// inOrder brings what was heard into the order of its slots.
func (h *heardBy) inOrder() {
	rising := true
	for i := 1; i < len(h.slots) && rising; i++ {
		rising = h.slots[i] > h.slots[i-1]
	}
	if rising {
		return
	}
	best := map[int32]float64{}
	for i, s := range h.slots {
		if v, ok := best[s]; !ok || h.snr[i] > v {
			best[s] = h.snr[i]
		}
	}
	h.slots, h.snr = h.slots[:0], h.snr[:0]
	for s := range best {
		h.slots = append(h.slots, s)
	}
	slices.Sort(h.slots)
	for _, s := range h.slots {
		h.snr = append(h.snr, best[s])
	}
}

// threshold is the level below which a receiver decodes nothing: its lowest report is the likeliest (Zuehlke 2003), less half of what
// reports may have been rounded by.
func (h *heardBy) threshold() float64 { return slices.Min(h.snr) - rounding }

// rounding is half of the half decibel by which rounding may have raised a report.
const rounding = 0.25

// leastHeard is how many reports a receiver needs to count, beside its first and its last: with fewer its mean is that of the moments
// in which it heard at all, which are those of the stronger antenna.
const leastHeard = 5
