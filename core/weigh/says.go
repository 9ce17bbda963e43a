package weigh

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"reed/core/band"
	"reed/core/phrase"
)

// sentence says a verdict of antennas by their names, by receivers or whatever the unit is; further says what would settle it.
func (v *Verdict) sentence(one, other, unit string, further bool) string {
	where := ""
	if v.Band != "" {
		where = " on " + band.Said(v.Band)
	}
	if v.DB == nil {
		if v.hears {
			return fmt.Sprintf("Nothing can be said yet%s: too few stations were heard with both.", where)
		}
		return fmt.Sprintf("Nothing can be said yet%s: no %s that listened to both heard enough; %d heard only %s, %d only %s.", where, unit,
			v.OnlyA, one, v.OnlyB, other)
	}
	of := phrase.Count(v.Receivers, unit)
	if v.Lo == nil {
		return fmt.Sprintf("%+.1f dB for %s%s by %s, which proves nothing.", *v.DB, one, where, of)
	}
	stronger, by, lo, hi := one, *v.DB, *v.Lo, *v.Hi
	if by < 0 {
		stronger, by, lo, hi = other, -by, -hi, -lo
	}
	apart := ""
	if !v.InTurn {
		turn := "sent"
		if v.hears {
			turn = "listened with"
		}
		apart = fmt.Sprintf(" They were not %s in turn: how days and hours differ is in that.", turn)
		if v.pairs > 0 {
			apart = fmt.Sprintf(" They were not %s in turn: days that differ by %.1f dB, as %s of your log say, are in that.", turn, v.days,
				phrase.Count(v.pairs, "pair of days"))
		}
	}
	if lo > 0 {
		if v.hears {
			return fmt.Sprintf("%s hears %.1f dB more over its noise%s, %.1f to %.1f by %s.%s", stronger, by, where, lo, hi, of, apart)
		}
		return fmt.Sprintf("%s is %.1f dB stronger%s, %.1f to %.1f by %s.%s", stronger, by, where, lo, hi, of, apart)
	}
	said := fmt.Sprintf("No difference found yet%s: %.1f dB for %s, but %.1f to %.1f by %s.%s", where, by, stronger, lo, hi, of, apart)
	if !v.InTurn || !further {
		return said
	}
	for _, db := range []string{"3", "2", "1"} {
		more := v.Minutes[db]
		switch {
		case more == nil || *more > longEnough:
			return said + fmt.Sprintf(" A difference of %s dB will not be settled in an afternoon.", db)
		case *more > 0:
			return said + fmt.Sprintf(" %.0f minutes more would show a difference of %s dB.", *more, db)
		}
	}
	return said + " They differ by less than a decibel, if at all."
}

// uncontrolled lists what was not the same for the antennas, or is not known.
func (c *comparison) uncontrolled(antennas []string) []string {
	out := []string{}
	power := map[string][]float64{}
	first, last, count := map[string]time.Time{}, map[string]time.Time{}, map[string]int{}
	unknown, overlap := false, false
	middle := map[string]float64{}
	for _, s := range c.sent {
		unknown = unknown || s.PowerW <= 0
		if s.PowerW > 0 && !slices.Contains(power[s.Antenna], s.PowerW) {
			power[s.Antenna] = append(power[s.Antenna], s.PowerW)
		}
		if at, ok := first[s.Antenna]; !ok || s.At.Before(at) {
			first[s.Antenna] = s.At
		}
		if s.At.After(last[s.Antenna]) {
			last[s.Antenna] = s.At
		}
		count[s.Antenna]++
		middle[s.Antenna] += s.At.Sub(c.sent[0].At).Minutes()
	}
	for _, list := range c.list {
		for k := 1; k < len(list); k++ {
			x, y := c.sent[list[k-1]], c.sent[list[k]]
			overlap = overlap || y.At.Before(x.At.Add(time.Duration(x.Seconds*float64(time.Second))))
		}
	}
	if unknown {
		out = append(out, "the power of some slots is not known; it is taken as the same")
	}
	if len(antennas) >= 2 {
		a, b := antennas[0], antennas[1]
		pa, pb := power[a], power[b]
		slices.Sort(pa)
		slices.Sort(pb)
		if !slices.Equal(pa, pb) && len(pa) > 0 && len(pb) > 0 {
			out = append(out, fmt.Sprintf("other power: %s W and %s W, brought to one", watts(pa), watts(pb)))
		}
		if n, m := count[a], count[b]; float64(max(n, m)) > 1.5*float64(min(n, m)) {
			out = append(out, fmt.Sprintf("%d slots of %s and %d of %s", n, a, m, b))
		}
		apart := middle[a]/float64(count[a]) - middle[b]/float64(count[b])
		switch {
		case first[a].UTC().Format(time.DateOnly) != first[b].UTC().Format(time.DateOnly):
			out = append(out, fmt.Sprintf("other days: %s from %s, %s from %s", a, first[a].UTC().Format(time.DateOnly), b,
				first[b].UTC().Format(time.DateOnly)))
		case math.Abs(apart) > 20:
			out = append(out, fmt.Sprintf("other hours: on average %.0f minutes apart", math.Abs(apart)))
		}
	}
	if overlap {
		out = append(out, "slots overlap in time on one band: a report may belong to either")
	}
	return append(out, "receivers are taken to listen from their first to their last report of a band")
}

func watts(of []float64) string {
	said := make([]string, len(of))
	for i, w := range of {
		said[i] = strconv.FormatFloat(w, 'g', 4, 64)
	}
	return strings.Join(said, ", ")
}

// Method says how a comparison on the air is worked out, for who reads it on paper.
func Method() []string {
	return []string{
		"Receivers and slots are the units, not reports: the reports of one receiver share its path and its noise.",
		"Slots are compared within blocks that hold both antennas in turn; powers are brought to one.",
		"A slot that a listening receiver did not report lay below its threshold, and counts as that. A receiver is taken to listen from its " +
			"first to its last report of a band; these two do not count themselves.",
		"The difference is that of a censored normal regression with a mean for each receiver and block. Its interval holds the truth 19 " +
			"times in 20: by receivers and by periods as clusters, with Student's t.",
		"The test flips the signs of the periods' scores: how often would luck alone differ as much, if both were the same?",
		"Kinds of evidence are not mixed: slots in turn are strong; pairs by patient stations, and a third antenna that took turns with each, " +
			"or a station that was heard beside each, are some; slots of other days and contacts are weak. What was simulated is said.",
		"Hearing is told by listening with both in turn: the stations that were heard are the units. When they sent is not known, so that " +
			"silence counts for nothing; reports are taken as drawn from what lies above one's own threshold (truncated normal regression).",
		"Where one did not listen in turn, hearing is what was heard of both, as a path is as good both ways, less the noise floors that were " +
			"read on each within half an hour.",
	}
}
