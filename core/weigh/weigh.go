// Package weigh compares two deployments and says what the comparison does and does not prove.
package weigh

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"
	"time"

	"gonum.org/v1/gonum/stat"
	"gonum.org/v1/gonum/stat/distuv"

	"reed/core/band"
	"reed/core/circuit"
	"reed/core/deployment"
	"reed/core/numeric"
	"reed/core/onair"
	"reed/core/place"
	"reed/core/quantity"
	"reed/core/sweep"
)

// Side is one deployment with all that was recorded with it.
type Side struct {
	Name     string
	Letter   string // under which it is logged in its outing
	Ground   string
	Outing   string
	OutingID string
	SetUps   int // that it stands for, described by the newest; 0 for one
	Home     place.Point
	Built    deployment.Built
	Effort   deployment.Effort
	Contacts []Worked
	Readings map[string]sweep.Reading // by band, as measured at the feed or referred to it
	Centre   map[string]float64       // the frequency in hertz that stands for each band
	// Bands in the order in which they are shown.
	Bands []string
}

// Apart returns distinct names of two sides: by their outings, or by their letters, where both are called
// the same.
func Apart(a, b Side) (string, string) {
	switch {
	case a.Name != b.Name:
		return a.Name, b.Name
	case a.OutingID == b.OutingID || a.Outing == b.Outing:
		return strings.TrimSpace(a.Name + " " + a.Letter), strings.TrimSpace(b.Name + " " + b.Letter)
	}
	return a.Name + " of " + a.Outing, b.Name + " of " + b.Outing
}

// What a rate needs: eight contacts in half an hour. Below that a lucky minute is most of it.
const (
	ratedContacts = 8
	ratedHours    = 0.5
)

// Air sums up what one side did on the air. Rate is counted from gaps between contacts, so that n
// contacts in a time from first to last give n-1; its bounds hold the true rate 19 times in 20. Rated tells
// whether there is enough for one.
type Air struct {
	Contacts  int       `json:"contacts"`
	First     time.Time `json:"first,omitzero"`
	Last      time.Time `json:"last,omitzero"`
	Hours     float64   `json:"hours"`
	Gaps      int       `json:"-"` // between contacts, those of another day left out
	Rated     bool      `json:"rated"`
	PerHour   float64   `json:"per_hour"`
	RateLo    float64   `json:"rate_lo"`
	RateHi    float64   `json:"rate_hi"`
	Bunched   float64   `json:"-"`       // how many times more the contacts scatter than if each came by itself
	Located   int       `json:"located"` // contacts with a known distance
	MedianKm  float64   `json:"median_km"`
	FarKm     float64   `json:"far_km"`
	Farthest  string    `json:"farthest,omitempty"`
	PowerW    float64   `json:"power_w"`
	Bands     []string  `json:"bands"`
	Modes     []string  `json:"modes"`
	Uniform59 bool      `json:"uniform_59"` // every report received is the same best one
}

// Cell is one side in one band.
type Cell struct {
	Measured bool    `json:"measured"`
	MinSWR   float64 `json:"min_swr"` // inside the band
	MinAt    float64 `json:"min_at"`
	Coverage float64 `json:"coverage"`
	Width    string  `json:"width,omitempty"` // under an SWR of 2, empty where it is nowhere
	LossDB   float64 `json:"loss_db"`         // in the cable, with the mismatch where it was measured
	LossKind string  `json:"loss_kind"`
	Arrives  float64 `json:"arrives_percent"` // share of the power that leaves the cable
	Contacts int     `json:"contacts"`
	covers   bool    // enough of the segment was measured to go by Coverage
}

// Row is one band of the comparison.
type Row struct {
	Band string `json:"band"`
	A    Cell   `json:"a"`
	B    Cell   `json:"b"`
}

// Comparison is the whole answer.
type Comparison struct {
	Differences  []deployment.Difference `json:"differences"`
	Efforts      []deployment.Difference `json:"efforts"`
	Rows         []Row                   `json:"rows"`
	A            Air                     `json:"a"`
	B            Air                     `json:"b"`
	Headline     string                  `json:"headline"`
	Strength     string                  `json:"strength"` // none, weak or fair
	Reasons      []string                `json:"reasons"`
	Uncontrolled []string                `json:"uncontrolled"`
}

// Worked holds the compared values of a contact.
type Worked struct {
	At                                  time.Time
	Call, Band, Mode, Received, Locator string // the mode as it is said
	PowerW                              float64
	Home                                *place.Point // where it was worked from, if not from where the side is
}

// WorkedOf returns the compared values of a contact.
func WorkedOf(c onair.Contact) Worked {
	return Worked{c.At, c.Call, c.Band, c.ModeLabel(), c.Received, c.Locator, c.PowerW, nil}
}

// anotherDay is a gap between contacts over which nobody stayed: other outings of what stands for several are not counted through.
const anotherDay = 8 * time.Hour

func byTime(a, b Worked) int { return a.At.Compare(b.At) }

// Summarise reduces contacts, in any order, to what is compared.
func Summarise(contacts []Worked, home place.Point) Air {
	a := Air{Contacts: len(contacts), Bands: []string{}, Modes: []string{}}
	sorted := contacts
	if !slices.IsSortedFunc(sorted, byTime) {
		sorted = slices.SortedFunc(slices.Values(contacts), byTime)
	}
	var km, power []float64
	type path struct {
		locator string
		home    *place.Point
	}
	far := map[path]float64{} // kilometres, -1 for a locator that says nothing
	bands, modes, reports := map[string]bool{}, map[string]bool{}, map[string]int{}
	for i := range sorted {
		c := &sorted[i]
		d, known := far[path{c.Locator, c.Home}]
		if !known {
			from := home
			if c.Home != nil {
				from = *c.Home
			}
			d = -1
			if m, _, ok := (onair.Contact{Locator: c.Locator}).Distance(from); ok {
				d = m / 1000
			}
			far[path{c.Locator, c.Home}] = d
		}
		if d >= 0 {
			km = append(km, d)
			if d > a.FarKm {
				a.FarKm, a.Farthest = d, c.Call
			}
		}
		if c.Band != "" && !bands[c.Band] {
			bands[c.Band] = true
			a.Bands = append(a.Bands, c.Band)
		}
		if m := c.Mode; m != "" && !modes[m] {
			modes[m] = true
			a.Modes = append(a.Modes, m)
		}
		if c.PowerW > 0 {
			power = append(power, c.PowerW)
		}
		reports[c.Received]++
	}
	if n := len(sorted); n > 0 {
		a.First, a.Last = sorted[0].At, sorted[n-1].At
		breaks, used := 0, time.Duration(0)
		for i := 1; i < n; i++ {
			if gap := sorted[i].At.Sub(sorted[i-1].At); gap < anotherDay {
				used += gap
			} else {
				breaks++
			}
		}
		a.Gaps, a.Hours = n-1-breaks, used.Hours()
		a.Uniform59 = n > 2 && (reports["59"] == n || reports["599"] == n)
		if gaps := float64(a.Gaps); a.Gaps >= ratedContacts-1 && a.Hours >= ratedHours {
			a.Rated, a.PerHour = true, gaps/a.Hours
			a.Bunched = bunched(sorted)
			a.RateLo, a.RateHi = numeric.Poisson(gaps/a.Bunched, a.Hours/a.Bunched)
		}
	}
	if a.Located = len(km); a.Located > 0 {
		a.MedianKm = median(km)
	}
	if len(power) > 0 {
		a.PowerW = median(power)
	}
	return a
}

// Contacts come in bursts: a pile-up, a spot on the net, a band that opens. How many fall into a stretch of so many
// minutes scatters more than if each came by itself; usually so many times more, which counts as so many stretches seen.
const (
	stretch      = 20 * time.Minute
	usualBunched = 3.0
	usualWeight  = 4.0
)

// bunched is the scatter of contacts, in order of time, over stretches in which the antenna was in use, as a multiple of
// its mean (the index of dispersion), drawn towards what is usual; at least 1.
func bunched(contacts []Worked) float64 {
	in := map[int]float64{}
	for _, c := range contacts {
		in[int(c.At.Sub(contacts[0].At)/stretch)]++
	}
	var counts []float64
	for _, n := range in {
		counts = append(counts, n)
	}
	if len(counts) < 2 {
		return usualBunched
	}
	mean, variance := stat.MeanVariance(counts, nil)
	seen := float64(len(counts) - 1)
	return math.Max(1, (seen*variance/mean+usualWeight*usualBunched)/(seen+usualWeight))
}

func median(v []float64) float64 {
	sort.Float64s(v)
	if n := len(v); n%2 == 0 {
		return stat.Mean(v[n/2-1:n/2+1], nil)
	}
	return v[len(v)/2]
}

// RateRatio is the 95 % interval of B's rate over A's, given counts and times, by the exact binomial
// interval of the share (Clopper and Pearson 1934).
func RateRatio(countA, hoursA, countB, hoursB float64) (lo, hi float64) {
	n := countA + countB
	pLo, pHi := 0.0, 1.0
	if countB > 0 {
		pLo = distuv.Beta{Alpha: countB, Beta: n - countB + 1}.Quantile(0.025)
	}
	if countB < n {
		pHi = distuv.Beta{Alpha: countB + 1, Beta: n - countB}.Quantile(0.975)
	}
	odds := func(p float64) float64 {
		if p >= 1 {
			return math.Inf(1)
		}
		return p / (1 - p) * hoursA / hoursB
	}
	return odds(pLo), odds(pHi)
}

// CableLoss is the loss in dB in the recorded coax at f hertz: exact with the SWR at its load when
// loadSWR is at least 1, otherwise matched. ok is false when no coax is recorded.
func CableLoss(b deployment.Built, f, loadSWR float64) (dB float64, kind string, ok bool) {
	c, found := b.Coax.Cable()
	if !found || b.Coax.Length.M <= 0 || f <= 0 {
		return 0, "none recorded", false
	}
	m := c.MatchedLoss(f, b.Coax.Length.M)
	if loadSWR < 1 {
		return m, "matched", true
	}
	return circuit.TotalLoss(m, loadSWR), "with SWR", true
}

func cell(s Side, band string) Cell {
	var c Cell
	f, swr := s.Centre[band], 0.0
	if r, ok := s.Readings[band]; ok && r.InAt > 0 {
		c.Measured, c.MinSWR, c.MinAt, c.Coverage, c.covers = true, r.InSWR, r.InAt, r.Coverage, r.Known()
		f, swr = r.InAt, r.InSWR
		for _, w := range r.Widths {
			if w.Limit == 2 && w.Hz > 0 {
				c.Width = w.Says()
			}
		}
	}
	c.LossDB, c.LossKind, _ = CableLoss(s.Built, f, swr)
	c.Arrives = 100 * math.Pow(10, -c.LossDB/10)
	for i := range s.Contacts {
		if s.Contacts[i].Band == band {
			c.Contacts++
		}
	}
	return c
}

// Compare lays A and B side by side. It never claims a difference that the record cannot carry.
func Compare(a, b Side, units quantity.System) Comparison {
	out := Comparison{Differences: deployment.Differences(a.Built, b.Built, units),
		Efforts: deployment.Efforts(a.Effort, b.Effort, units), Rows: []Row{}, A: Summarise(a.Contacts, a.Home),
		B: Summarise(b.Contacts, b.Home)}
	for _, band := range a.Bands {
		row := Row{Band: band, A: cell(a, band), B: cell(b, band)}
		if row.A.Measured || row.B.Measured || row.A.Contacts+row.B.Contacts > 0 {
			out.Rows = append(out.Rows, row)
		}
	}
	out.Uncontrolled = uncontrolled(a, b, out.A, out.B)
	out.judge(a, b)
	return out
}

func uncontrolled(a, b Side, x, y Air) []string {
	out := []string{}
	for _, s := range []Side{a, b} {
		if s.SetUps > 1 {
			out = append(out, fmt.Sprintf("%s combines %d set-ups, of %s", s.Name, s.SetUps, s.Outing))
		}
	}
	if a.SetUps+b.SetUps == 0 && a.OutingID != b.OutingID && place.Distance(a.Home, b.Home) > 200 {
		out = append(out, fmt.Sprintf("other place: %.0f km apart", place.Distance(a.Home, b.Home)/1000))
	}
	if x.Contacts > 0 && y.Contacts > 0 {
		if d, e := x.First.UTC().Format(time.DateOnly), y.First.UTC().Format(time.DateOnly); d != e {
			out = append(out, fmt.Sprintf("other day: %s and %s", d, e))
		}
		mid := func(v Air) float64 {
			m := v.First.Add(v.Last.Sub(v.First) / 2).UTC()
			return float64(m.Hour()) + float64(m.Minute())/60
		}
		apart := math.Abs(mid(x) - mid(y))
		if apart = math.Min(apart, 24-apart); apart > 0.5 {
			out = append(out, fmt.Sprintf("other hour: about %.1f h apart in the day", apart))
		}
		if strings.Join(sorted(x.Bands), " ") != strings.Join(sorted(y.Bands), " ") {
			out = append(out, fmt.Sprintf("other bands: %s and %s", bands(x.Bands), bands(y.Bands)))
		}
		if strings.Join(sorted(x.Modes), " ") != strings.Join(sorted(y.Modes), " ") {
			out = append(out, fmt.Sprintf("other modes: %s and %s", list(x.Modes), list(y.Modes)))
		}
	}
	pa, pb := x.PowerW, y.PowerW
	if pa == 0 {
		pa = a.Built.PowerW
	}
	if pb == 0 {
		pb = b.Built.PowerW
	}
	switch {
	case pa > 0 && pb > 0 && math.Abs(math.Log(pa/pb)) > 0.05:
		out = append(out, fmt.Sprintf("other power: %.3g W and %.3g W, %.1f dB", pa, pb, math.Abs(10*math.Log10(pa/pb))))
	case pa == 0 || pb == 0:
		out = append(out, "power not recorded for both")
	}
	if x.Uniform59 || y.Uniform59 {
		out = append(out, "reports that are all 59 say nothing")
	}
	return out
}

// matches says what the sweeps tell apart, and on how many bands both were measured.
func (c *Comparison) matches(a, b Side) int {
	matched := 0
	for _, r := range c.Rows {
		if r.A.Measured && r.B.Measured {
			matched++
			better, worse := a.Name, b.Name
			d := r.A.Coverage - r.B.Coverage
			if d < 0 {
				better, worse = worse, better
			}
			if math.Abs(d) >= 5 && r.A.covers && r.B.covers {
				c.Reasons = append(c.Reasons, fmt.Sprintf("%s covers %.0f %% of your segment on %s, %s %.0f %%. That is the match, not "+
					"of the signal.",
					better, math.Max(r.A.Coverage, r.B.Coverage), band.Said(r.Band), worse, math.Min(r.A.Coverage, r.B.Coverage)))
			}
			if l := r.A.LossDB - r.B.LossDB; math.Abs(l) >= 0.3 {
				lossy := a.Name
				if l < 0 {
					lossy = b.Name
				}
				c.Reasons = append(c.Reasons, fmt.Sprintf("%s loses %.1f dB more in its cable on %s.", lossy, math.Abs(l), band.Said(r.Band)))
			}
		}
	}
	return matched
}

func (c *Comparison) judge(a, b Side) {
	c.Strength = "none"
	c.Reasons = []string{}
	matched := c.matches(a, b)
	switch {
	case c.A.Contacts == 0 && c.B.Contacts == 0 && matched == 0:
		c.Headline = "Nothing was measured on both yet."
		c.Reasons = append(c.Reasons, "Sweep both on one band, or log contacts with each in use.")
		return
	case c.A.Contacts == 0 || c.B.Contacts == 0:
		idle := a.Name
		if c.B.Contacts == 0 {
			idle = b.Name
		}
		if c.A.Contacts == 0 && c.B.Contacts == 0 {
			idle = "either"
		}
		c.Headline = fmt.Sprintf("The match can be compared; there is no on-air evidence yet for %s.", idle)
		return
	}
	if !c.A.Rated || !c.B.Rated {
		c.Headline = fmt.Sprintf("Too few contacts for a rate: each antenna needs %d over at least 30 minutes.", ratedContacts)
		return
	}
	lo, hi := RateRatio(float64(c.A.Gaps)/c.A.Bunched, c.A.Hours/c.A.Bunched, float64(c.B.Gaps)/c.B.Bunched,
		c.B.Hours/c.B.Bunched)
	c.Reasons = append([]string{fmt.Sprintf("%.1f contacts per hour (%.1f to %.1f) against %.1f (%.1f to %.1f).",
		c.A.PerHour, c.A.RateLo, c.A.RateHi, c.B.PerHour, c.B.RateLo, c.B.RateHi)}, c.Reasons...)
	faster, apart := "", true
	switch {
	case lo > 1:
		faster = b.Name
	case hi < 1:
		faster = a.Name
	default:
		apart = false
	}
	same := a.OutingID == b.OutingID && len(c.Uncontrolled) == 0
	switch {
	case !apart:
		c.Headline = fmt.Sprintf("No measurable difference between %s and %s in %d contacts.", a.Name, b.Name, c.A.Contacts+c.B.Contacts)
	case same:
		c.Strength = "weak"
		c.Headline = fmt.Sprintf("%s was faster, and luck alone does not explain it; the band may.", faster)
	default:
		c.Headline = fmt.Sprintf("%s was faster, but that does not prove a better antenna.", faster)
	}
	if len(c.Uncontrolled) > 0 {
		c.Reasons = append(c.Reasons, "To prove more: take turns every few minutes on one band, the same evening, at the same power.")
	}
}

func sorted(v []string) []string {
	out := append([]string(nil), v...)
	sort.Strings(out)
	return out
}

func bands(names []string) string {
	said := make([]string, len(names))
	for i, n := range names {
		said[i] = band.Said(n)
	}
	return list(said)
}

func list(v []string) string {
	if len(v) == 0 {
		return "none"
	}
	return strings.Join(v, ", ")
}
