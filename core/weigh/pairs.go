package weigh

import (
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/stat"

	"reed/core/onair"
)

// received are what a run sent and what was heard of it, brought to slots by their times, with clocks that are off allowed for.
func received(run onair.Run, reports []onair.Report) (sent []Sent, got []Reception) {
	off, ok := onair.ClockOff(reports)
	if !ok {
		off = 0
	}
	at := map[slotKey]int{}
	for _, s := range run.Slots {
		if s.By() == "" {
			continue
		}
		at[slotKey{s.At.UnixNano(), s.Band}] = len(sent)
		sent = append(sent, Sent{s.At, run.Sending().Seconds(), s.By(), s.Band, run.PowerW})
	}
	for _, r := range reports {
		if r.SNR == nil || r.SetAside != "" {
			continue
		}
		s, ok := run.SlotOf(r.At, r.Band, off)
		if !ok {
			continue
		}
		i := at[slotKey{s.At.UnixNano(), s.Band}]
		snr := *r.SNR
		if r.PowerW != nil && *r.PowerW > 0 { // the report knows better than the plan what was sent
			snr += decibels(run.PowerW) - decibels(*r.PowerW)
		}
		got = append(got, Reception{i, onair.BaseCall(r.Receiver), snr})
	}
	return sent, got
}

type slotKey struct {
	at   int64
	band string
}

// Running are the differences of a run's antennas against its first as they stand: on all bands together, then band by band.
func Running(run onair.Run, reports []onair.Report) (out []Verdict) {
	if len(run.Aerials) < 2 {
		return nil
	}
	c := compared(received(run, reports))
	for _, other := range run.Aerials[1:] {
		out = append(out, c.ofRun(run, run.Aerials[0], other)...)
	}
	return out
}

// ofRun compares two antennas of a run: on all its bands where there are several, then band by band.
func (c *comparison) ofRun(run onair.Run, one, other onair.Aerial) (out []Verdict) {
	c.names = map[string]string{one.Letter: one.Name, other.Letter: other.Name}
	if one.Name == other.Name { // revisions of one deployment
		c.names = nil
	}
	if len(run.Bands) > 1 {
		out = append(out, c.verdict(one.Letter, other.Letter, "", run.Bands))
	}
	for _, b := range run.Bands {
		out = append(out, c.verdict(one.Letter, other.Letter, b, []string{b}))
	}
	return out
}

// longEnough is an afternoon in minutes: what would take longer is not settled by going on.
const longEnough = 240.0

// byMeans fills the estimate from the mean of each station, by Student's t over them.
func (v *Verdict) byMeans(means []float64) {
	slices.Sort(means) // the order of a map is no order
	mean, sd := stat.MeanStdDev(means, nil)
	v.DB, v.Receivers, v.InTurn = &mean, len(means), true
	if n := float64(len(means)); n > 1 {
		half := quantile(n-1) * sd / math.Sqrt(n)
		lo, hi := mean-half, mean+half
		v.Lo, v.Hi = &lo, &hi
	}
}

// Evidence is what one kind of it says of two antennas, never mixed with another kind.
type Evidence struct {
	Strength string    `json:"strength"` // strong, some or weak
	Kind     string    `json:"kind"`
	RunID    string    `json:"run_id,omitempty"` // whose reports they are
	Says     string    `json:"says"`
	Parts    []Verdict `json:"parts,omitempty"`
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
		e = Evidence{Strength: "strong", Kind: "sent in turn, slot by slot", RunID: run.ID}
		e.Parts = compared(received(run, reports)).ofRun(run, *one, *other)
		e.Says = e.Parts[0].Says
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
		v := Verdict{A: one, B: other, Reports: 2 * count}
		v.byMeans(means)
		v.Says = v.sentence(one, other, "station", false)
		kind := fmt.Sprintf("%d pairs by patient stations, %d blind, S-units taken as 6 dB", count, blind)
		if hearing {
			kind = fmt.Sprintf("%d pairs of your own readings of stations heard, S-units taken as 6 dB", count)
		}
		out = append(out, Evidence{Strength: "some", Kind: kind, Says: v.Says, Parts: []Verdict{v}})
	}
	return out
}
