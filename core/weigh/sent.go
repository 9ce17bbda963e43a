package weigh

import (
	"cmp"
	"slices"
	"time"
)

// Sent is what one antenna sent in one slot. Power of 0 is not known.
type Sent struct {
	At      time.Time
	Seconds float64
	Antenna string
	Band    string
	PowerW  float64
	// Occasion tells runs apart: whether a receiver listened to one says nothing of another.
	Occasion int
}

// Reception is what one receiver heard of one slot, given by its place in the list of what was sent. SNR is in decibels.
type Reception struct {
	Slot     int
	Receiver string
	SNR      float64
}

// Told is a reception report as it comes, before it is known which slot it belongs to.
type Told struct {
	At       time.Time
	Band     string
	Receiver string
	SNR      float64
}

// slack is how far a report may stand outside the slot that it is told of: decoders round to seconds, and clocks are off a little.
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
	// Two antennas that were changed once only are not told from the band that changes meanwhile, unless it is soon.
	oneChange = 15 * time.Minute
)

// plan says of each slot of two antennas in which block and period it lies; -1 where no block holds both in turn.
type plan struct {
	block, period   []int
	blocks, periods int
}

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

// planOf lays blocks and periods over the slots of two antennas; of is by band, each by rising time.
func planOf(sent []Sent, of map[string][]int, a string) plan {
	p := plan{block: make([]int, len(sent)), period: make([]int, len(sent))}
	for i := range p.block {
		p.block[i], p.period[i] = -1, -1
	}
	for _, band := range sortedKeys(of) {
		list := of[band]
		span := sent[list[len(list)-1]].At.Sub(sent[list[0]].At)
		least, turn := max(blockLeast, span/mostBlocks), max(periodLeast, span/mostPeriods)
		var turned []int
		for _, block := range chunk(sent, list, a, least, max(blockMost, 2*least), 2) {
			if !inTurn(sent, block) {
				continue
			}
			for _, i := range block {
				p.block[i] = p.blocks
			}
			p.blocks++
			turned = append(turned, block...)
		}
		for _, period := range chunk(sent, turned, a, turn, max(blockMost, 2*turn), 1) {
			for _, i := range period {
				p.period[i] = p.periods
			}
			p.periods++
		}
	}
	return p
}

func sortedKeys[V any](m map[string]V) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

// unit is one receiver on one band: what it heard of each slot in its listening time, brought to a watt.
type unit struct {
	receiver string // without the band
	cells    []cellOf
	heard    int
	sigma    float64
	mean     float64
}

// cellOf is what a unit heard of one antenna in one period at one power: how many reports, their sum and sum of squares, and how
// many slots it did not hear although it listened, with the level below which it hears nothing.
type cellOf struct {
	x             float64 // +1/2 for a, -1/2 for b
	block, period int
	n, sum, sq    float64
	silent, below float64
	m, z, lambda  float64 // of the last step
	score, weight float64
}

// heardBy is what one receiver on one band heard of an occasion: the best report of each slot, by rising time.
type heardBy struct {
	receiver, band string
	occasion       int
	slots          []int // places in the band's list
	snr            []float64
}

// gather sorts receptions by receiver and band; a slot heard twice by one receiver counts once, by its best report.
func gather(sent []Sent, received []Reception, place []int) []heardBy {
	type group struct {
		band     string
		occasion int
	}
	groups := map[group]int{}
	of := make([]int, len(sent)) // of each slot its group by number
	for i := range sent {
		g := group{sent[i].Band, sent[i].Occasion}
		k, ok := groups[g]
		if !ok {
			k = len(groups)
			groups[g] = k
		}
		of[i] = k
	}
	names := map[string]int{}
	at := map[[2]int]int{} // by the receiver's number and the group's
	var out []heardBy
	for i := range received {
		r := &received[i]
		who, ok := names[r.Receiver]
		if !ok {
			who = len(names)
			names[r.Receiver] = who
		}
		key := [2]int{who, of[r.Slot]}
		k, ok := at[key]
		if !ok {
			k = len(out)
			at[key] = k
			out = append(out, heardBy{receiver: r.Receiver, band: sent[r.Slot].Band, occasion: sent[r.Slot].Occasion})
		}
		h := &out[k]
		if n := len(h.slots); n > 0 && h.slots[n-1] == place[r.Slot] {
			h.snr[n-1] = max(h.snr[n-1], r.SNR)
			continue
		}
		h.slots, h.snr = append(h.slots, place[r.Slot]), append(h.snr, r.SNR)
	}
	for k := range out {
		out[k].inOrder()
	}
	slices.SortFunc(out, func(x, y heardBy) int {
		return cmp.Or(cmp.Compare(x.receiver, y.receiver), cmp.Compare(x.band, y.band),
			cmp.Compare(x.occasion, y.occasion))
	})
	return out
}

// inOrder brings what was heard into the order of its slots.
func (h *heardBy) inOrder() {
	if slices.IsSorted(h.slots) && len(slices.Compact(slices.Clone(h.slots))) == len(h.slots) {
		return
	}
	best := map[int]float64{}
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
