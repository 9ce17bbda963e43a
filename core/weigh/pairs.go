package weigh

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"time"

	"gonum.org/v1/gonum/stat"
	"gonum.org/v1/gonum/stat/distuv"

	"reed/core/onair"
)

// Difference is by how many decibels one antenna of a run was heard stronger than another, on a band or on all (Band empty),
// with the interval in which it lies with 95 %, by Student's t over receivers: a receiver is the unit, since its reports share
// its noise and its path. Lo and Hi are nil with fewer than two receivers. It is a first form: silence is counted beside it, not in it.
type Difference struct {
	Band      string   `json:"band,omitempty"`
	A         string   `json:"a"`
	B         string   `json:"b"`
	DB        *float64 `json:"difference_db"`
	Lo        *float64 `json:"lo_db"`
	Hi        *float64 `json:"hi_db"`
	Receivers int      `json:"receivers"` // that heard both
	OnlyA     int      `json:"only_a"`
	OnlyB     int      `json:"only_b"`
	SlotsA    int      `json:"slots_a"`
	SlotsB    int      `json:"slots_b"`
	Pairs     int      `json:"pairs"`
	// Minutes more of the same that would halve the doubt enough to tell it from nothing; nil where it is told, or where no
	// afternoon would do.
	Minutes *float64 `json:"minutes_to_settle"`
	Says    string   `json:"says"`
}

// slotHeard is what one receiver heard of one slot, brought to a watt.
type slotHeard struct {
	at  time.Time
	snr float64
}

// heardIn sorts reports into receivers and letters by the slots that they belong to.
func heardIn(run onair.Run, reports []onair.Report, band string) map[string]map[string][]slotHeard {
	off, ok := onair.ClockOff(reports)
	if !ok {
		off = 0
	}
	out := map[string]map[string][]slotHeard{}
	for _, r := range reports {
		if r.SNR == nil || band != "" && r.Band != band {
			continue
		}
		s, ok := run.SlotOf(r.At, r.Band, off)
		if !ok {
			continue
		}
		watts := run.PowerW
		if r.PowerW != nil {
			watts = *r.PowerW
		}
		key := onair.BaseCall(r.Receiver) + "|" + r.Band
		if out[key] == nil {
			out[key] = map[string][]slotHeard{}
		}
		out[key][s.By()] = append(out[key][s.By()], slotHeard{s.At, *r.SNR - 10*math.Log10(watts)})
	}
	return out
}

// paired is the mean difference of one receiver over the slots of a and b that lie nearest to each other, each in one pair: the
// nearest two first, so that a and b turned round give the same.
func paired(a, b []slotHeard, within time.Duration) (mean float64, pairs int) {
	type couple struct {
		i, k  int
		apart time.Duration
		at    int64
	}
	var all []couple
	for i, x := range a {
		for k, y := range b {
			if d := x.at.Sub(y.at).Abs(); d <= within {
				all = append(all, couple{i, k, d, x.at.Unix() + y.at.Unix()})
			}
		}
	}
	slices.SortFunc(all, func(x, y couple) int { return cmp.Or(cmp.Compare(x.apart, y.apart), cmp.Compare(x.at, y.at)) })
	usedA, usedB := make([]bool, len(a)), make([]bool, len(b))
	sum := 0.0
	for _, c := range all {
		if !usedA[c.i] && !usedB[c.k] {
			usedA[c.i], usedB[c.k] = true, true
			sum += a[c.i].snr - b[c.k].snr
			pairs++
		}
	}
	if pairs == 0 {
		return 0, 0
	}
	return sum / float64(pairs), pairs
}

// Running are the differences of a run's antennas against its first as they stand: on all bands together, then band by band.
func Running(run onair.Run, reports []onair.Report) (out []Difference) {
	if len(run.Aerials) < 2 {
		return nil
	}
	bands := append([]string{""}, run.Bands...)
	if len(run.Bands) == 1 {
		bands = run.Bands
	}
	for _, other := range run.Aerials[1:] {
		for _, band := range bands {
			out = append(out, between(run, reports, band, run.Aerials[0], other))
		}
	}
	return out
}

func between(run onair.Run, reports []onair.Report, band string, one, other onair.Aerial) Difference {
	a, b := one.Letter, other.Letter
	d := Difference{Band: band, A: a, B: b}
	var first, last time.Time
	for _, s := range run.Slots {
		if band != "" && s.Band != band {
			continue
		}
		switch s.By() {
		case a:
			d.SlotsA++
		case b:
			d.SlotsB++
		}
	}
	var means []float64
	receivers := map[string]bool{}
	for key, by := range heardIn(run, reports, band) {
		for _, list := range by {
			for _, x := range list {
				if first.IsZero() || x.at.Before(first) {
					first = x.at
				}
				if x.at.After(last) {
					last = x.at
				}
			}
		}
		switch {
		case len(by[a]) == 0 && len(by[b]) == 0:
		case len(by[b]) == 0:
			d.OnlyA++
		case len(by[a]) == 0:
			d.OnlyB++
		default:
			if mean, n := paired(by[a], by[b], 3*run.Block()); n > 0 {
				means, d.Pairs = append(means, mean), d.Pairs+n
				receivers[key] = true
			}
		}
	}
	d.Receivers = len(receivers)
	d.judge(means, last.Sub(first)+run.Length(), cmp.Or(one.Name, a), cmp.Or(other.Name, b))
	return d
}

// longEnough is an afternoon in minutes: what would take longer is not settled by going on.
const longEnough = 240.0

// judge fills the estimate from each receiver's mean over so long a time.
func (d *Difference) judge(means []float64, lasted time.Duration, one, other string) {
	where := ""
	if d.Band != "" {
		where = " on " + d.Band
	}
	if len(means) == 0 {
		d.Says = fmt.Sprintf("No receiver has heard both yet%s; %d heard only %s, %d only %s.", where, d.OnlyA, d.A, d.OnlyB, d.B)
		return
	}
	slices.Sort(means) // the order of a map is no order
	mean, sd := stat.MeanStdDev(means, nil)
	d.DB = &mean
	if len(means) < 2 {
		d.Says = fmt.Sprintf("%+.1f dB for %s%s by one receiver, which proves nothing.", mean, d.A, where)
		return
	}
	n := float64(len(means))
	half := distuv.StudentsT{Mu: 0, Sigma: 1, Nu: n - 1}.Quantile(0.975) * sd / math.Sqrt(n)
	lo, hi := mean-half, mean+half
	d.Lo, d.Hi = &lo, &hi
	stronger, by := one, mean
	if mean < 0 {
		stronger, by = other, -mean
	}
	of := fmt.Sprintf("%d receivers", len(means))
	if lo > 0 || hi < 0 {
		d.Says = fmt.Sprintf("%s is %.1f dB stronger%s, by %s (%+.1f to %+.1f).", stronger, by, where, of, lo, hi)
		return
	}
	d.Says = fmt.Sprintf("Not told apart yet%s: %+.1f dB for %s, %+.1f to %+.1f by %s.", where, mean, d.A, lo, hi, of)
	if by > 0.1 {
		// The doubt falls with the root of the time, as long as it is fading and not the receivers that differ.
		if more := lasted.Minutes() * (math.Pow(half/by, 2) - 1); more > 0 && more <= longEnough {
			more = math.Ceil(more/5) * 5
			d.Minutes = &more
			d.Says += fmt.Sprintf(" If it is that much, about %.0f minutes more would show it.", more)
			return
		}
	}
	d.Says += " So small a difference is not settled in an afternoon."
}

// Evidence is what one kind of it says of two antennas, never mixed with another kind.
type Evidence struct {
	Strength string       `json:"strength"` // strong, some or weak
	Kind     string       `json:"kind"`
	Says     string       `json:"says"`
	Parts    []Difference `json:"parts,omitempty"`
}

// Alternated is what the slots of beacon runs say of two deployments that sent in turn: the newest run that has both; ok is
// false where there is none, or nobody heard it.
func Alternated(runs []onair.Run, heard func(onair.Run) ([]onair.Report, error), a, b string) (e Evidence, ok bool, err error) {
	for _, run := range runs {
		var one, other *onair.Aerial
		for i, x := range run.Aerials {
			switch x.DeploymentID {
			case a:
				one = &run.Aerials[i]
			case b:
				other = &run.Aerials[i]
			}
		}
		if one == nil || other == nil {
			continue
		}
		reports, err := heard(run)
		if err != nil {
			return e, false, err
		}
		if len(reports) == 0 {
			continue
		}
		e = Evidence{Strength: "strong", Kind: "sent in turn, slot by slot"}
		for _, band := range run.Bands {
			e.Parts = append(e.Parts, between(run, reports, band, *one, *other))
		}
		all := between(run, reports, "", *one, *other)
		if e.Says = all.Says; len(run.Bands) > 1 {
			e.Parts = append([]Difference{all}, e.Parts...)
		} else {
			e.Says = e.Parts[0].Says
		}
		return e, true, nil
	}
	return e, false, nil
}

// Patient is what pairs by patient stations say of two deployments: a station is the unit. What others said of one's sending and
// what one read of them are two things, since only the second is free of what differs in their noise.
func Patient(notes []onair.Note, a, b, one, other string) (out []Evidence) {
	for _, hearing := range []bool{false, true} {
		by := map[string][]float64{}
		count, blind := 0, 0
		for _, n := range notes {
			if n.Kind != onair.Pair || n.Value == nil || n.Hearing != hearing {
				continue
			}
			v := *n.Value
			switch {
			case n.DeploymentID == a && n.OtherID == b:
			case n.DeploymentID == b && n.OtherID == a:
				v = -v
			default:
				continue
			}
			by[onair.BaseCall(n.Call)] = append(by[onair.BaseCall(n.Call)], v)
			count++
			if n.Blind {
				blind++
			}
		}
		if count == 0 {
			continue
		}
		var means []float64
		for _, list := range by {
			means = append(means, stat.Mean(list, nil))
		}
		slices.Sort(means) // sums do not depend on the order of a map
		d := Difference{A: one, B: other, Receivers: len(means), Pairs: count}
		d.judge(means, 0, one, other)
		d.Minutes = nil
		kind := fmt.Sprintf("%d pairs by patient stations, %d blind, S-units taken as 6 dB", count, blind)
		if hearing {
			kind = fmt.Sprintf("%d pairs of your own readings of stations heard, S-units taken as 6 dB", count)
		}
		out = append(out, Evidence{Strength: "some", Kind: kind, Says: d.Says, Parts: []Difference{d}})
	}
	return out
}
