package weigh

import (
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/stat"

	"reed/core/onair"
)

// longEnough is an afternoon in minutes: what would take longer is not settled by going on.
const longEnough = 240.0

// Lead is the place of the evidence that is the headline: how they are heard, the strongest first, unless no more is known of that than
// what proves least. The list is sorted by its strength; -1 where it is empty.
func Lead(list []Evidence) int {
	at := slices.IndexFunc(list, func(e Evidence) bool { return !e.Hearing })
	if at < 0 || list[at].Strength == "weak" {
		return min(0, len(list)-1)
	}
	return at
}

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

// Evidence is the result of one kind of evidence on two antennas, never mixed with another kind.
type Evidence struct {
	Strength  string    `json:"strength"` // strong, some or weak
	Kind      string    `json:"kind"`
	Says      string    `json:"says"`
	Parts     []Verdict `json:"parts,omitempty"`
	Simulated bool      `json:"simulated,omitempty"`
	Hearing   bool      `json:"hearing,omitempty"`   // of what is heard with them, not of how they are heard
	Runs      int       `json:"runs,omitempty"`      // beacon runs that it comes from
	SetAside  int       `json:"set_aside,omitempty"` // reports that do not count
	// Receivers are those that heard, where slots were sent in turn.
	Receivers []ReceiverVerdict `json:"receivers,omitempty"`
}

// Patient compares two deployments, or groups of them, by pairs from patient stations: a station is the unit. What others said of
// one's sending and
// what one read of them are two things, since only the second is free of what differs in their noise.
func Patient(notes []onair.Note, a, b []string, one, other string) (out []Evidence) {
	for _, hearing := range []bool{false, true} {
		by := map[string][]float64{}
		count, blind := 0, 0
		for _, n := range notes {
			if n.Kind != onair.Pair || n.Value == nil || n.Hearing != hearing {
				continue
			}
			v := *n.Value
			switch {
			case slices.Contains(a, n.DeploymentID) && slices.Contains(b, n.OtherID):
			case slices.Contains(b, n.DeploymentID) && slices.Contains(a, n.OtherID):
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
		out = append(out, Evidence{Strength: "some", Hearing: hearing, Kind: kind, Says: v.Says, Parts: []Verdict{v}})
	}
	return out
}
