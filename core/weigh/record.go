package weigh

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"reed/core/band"
	"reed/core/moment/earth"
	"reed/core/numeric"
)

// Stint is how a set-up was used on a band at an outing: so many contacts in so many hours, each hour that before a contact.
type Stint struct {
	DeploymentID string
	OutingID     string
	Band         string
	Contacts     int
	Hours        float64
}

// LongBreak is a gap between contacts, in minutes, after which it is not known what was done meanwhile.
const LongBreak = 60

// Turns is a run's result on antennas that took turns, by their groups' keys: each against the first.
type Turns struct {
	RunID, OutingID string
	Site            string // kind of ground
	Simulated       bool
	Verdicts        []Verdict // of single bands
}

// Rank is where antennas stand on a band at a kind of site, by contacts an hour or by decibels where they took turns.
type Rank struct {
	By        string   `json:"by"` // contacts, or turns
	Band      string   `json:"band"`
	Site      string   `json:"site"`      // empty for all
	SiteName  string   `json:"site_name"` // as it is said
	Simulated bool     `json:"simulated,omitempty"`
	Says      string   `json:"says"`
	Rows      []Ranked `json:"rows"`
	// Between are the spreads that were learned: between antennas, and between outings of one antenna; as factors of a rate, or in
	// decibels.
	Antennas float64 `json:"between_antennas"`
	Outings  float64 `json:"between_outings"`
}

// Ranked is one antenna of a rank: contacts an hour on an ordinary outing, or decibels over the mean of the antennas, with the interval
// that holds it with 95 %. Seen is the result of its own outings alone.
type Ranked struct {
	Key      string  `json:"key"`
	Name     string  `json:"name"`
	Level    float64 `json:"level"`
	Lo       float64 `json:"lo"`
	Hi       float64 `json:"hi"`
	Seen     float64 `json:"seen"`
	Best     float64 `json:"best"`
	Outings  int     `json:"outings"`
	Contacts int     `json:"contacts"`
	Hours    float64 `json:"hours"`
}

// What a rank is by.
const (
	byContacts = "contacts"
	byTurns    = "turns"
)

// Ranks says which antenna is the best by band and kind of site, all sites first, the longest wave first.
func Ranks(antennas []Group, stints []Stint, turns []Turns) (out []Rank) {
	type key struct {
		by, band, site string
		simulated      bool
	}
	of := map[key][]Showing{}
	worked := map[key]map[string]Stint{}
	antennaOf, sites := map[string]string{}, map[string]string{}
	names := map[string]string{}
	for _, g := range antennas {
		names[g.Key] = g.Name
		for _, s := range g.Members {
			antennaOf[s.ID], sites[s.ID] = g.Key, s.Site
		}
	}
	both := func(site string) []string {
		if site == "" {
			return []string{""}
		}
		return []string{"", site}
	}
	for _, s := range stints {
		at, ok := antennaOf[s.DeploymentID]
		if !ok || s.Hours <= 0 || s.Band == "" {
			continue
		}
		for _, site := range both(sites[s.DeploymentID]) {
			k := key{byContacts, s.Band, site, false}
			of[k] = append(of[k], Showing{Antenna: at, Occasion: s.OutingID, Contacts: float64(s.Contacts), Hours: s.Hours})
			if worked[k] == nil {
				worked[k] = map[string]Stint{}
			}
			sum := worked[k][at]
			sum.Contacts, sum.Hours = sum.Contacts+s.Contacts, sum.Hours+s.Hours
			worked[k][at] = sum
		}
	}
	for _, t := range turns {
		byBand := map[string][]Verdict{}
		for _, v := range t.Verdicts {
			byBand[v.Band] = append(byBand[v.Band], v)
		}
		for name, list := range byBand {
			for _, site := range both(t.Site) {
				k := key{byTurns, name, site, t.Simulated}
				of[k] = append(of[k], Levels(t.RunID, list)...)
			}
		}
	}
	for k, list := range of {
		if len(list) == 0 {
			continue
		}
		r := Rank{By: k.by, Band: k.band, Site: k.site, SiteName: "all sites", Simulated: k.simulated, Rows: []Ranked{}}
		if g, ok := earth.Kind(k.site); ok {
			r.SiteName = g.Name
		}
		usual, scale := UsualDecibels, func(v float64) float64 { return v }
		if k.by == byContacts {
			usual, scale = UsualRates, math.Exp
		}
		// What was drawn from a map has no order.
		slices.SortFunc(list, func(a, b Showing) int {
			return cmp.Or(cmp.Compare(a.Occasion, b.Occasion), cmp.Compare(a.Antenna, b.Antenna), cmp.Compare(a.Level, b.Level),
				cmp.Compare(a.Hours, b.Hours))
		})
		standings, spreads := Stand(mostShown(list), usual, k.by == byTurns)
		if len(standings) < 2 && (k.by == byTurns || k.site != "") {
			continue // an antenna alone is no better than another
		}
		if r.Antennas = scale(spreads.Antennas); k.by == byContacts {
			r.Outings = scale(spreads.Occasions)
		}
		for _, s := range standings {
			w := worked[k][s.Antenna]
			if k.by == byTurns { // what a run says is against others alone
				s.Seen = s.Level
			}
			r.Rows = append(r.Rows, Ranked{s.Antenna, names[s.Antenna], scale(s.Level), scale(s.Lo), scale(s.Hi), scale(s.Seen), s.Best,
				s.Occasions, w.Contacts, w.Hours})
		}
		r.Says = r.says(standings)
		out = append(out, r)
	}
	slices.SortFunc(out, func(a, b Rank) int {
		return cmp.Or(longest(a.Band, b.Band), cmp.Compare(b.By, a.By), cmp.Compare(a.Site, b.Site), cmp.Compare(yes(a.Simulated),
			yes(b.Simulated)))
	})
	return out
}

// mostRanked is how many antennas stand in a rank: those that were used most.
const mostRanked = 40

func mostShown(of []Showing) []Showing {
	used := map[string]float64{}
	for i := range of {
		_, weight := of[i].seen()
		used[of[i].Antenna] += weight
	}
	if len(used) <= mostRanked {
		return of
	}
	names := sortedKeys(used)
	slices.SortStableFunc(names, func(a, b string) int { return -cmp.Compare(used[a], used[b]) })
	return slices.DeleteFunc(of, func(s Showing) bool { return slices.Index(names, s.Antenna) >= mostRanked })
}

// First is the rank to look at first: of several antennas, settled before not, over all sites, what was really heard before what was
// simulated.
func First(of []Rank) (best *Rank) {
	worth := func(r *Rank) float64 {
		v := r.Rows[0].Best
		for _, lacks := range []struct {
			is bool
			by float64
		}{{len(r.Rows) < 2, 8}, {v < likely, 4}, {r.Simulated, 2}, {r.Site != "", 1}} {
			if lacks.is {
				v -= lacks.by
			}
		}
		return v
	}
	for i := range of {
		if best == nil || worth(&of[i]) > worth(best) {
			best = &of[i]
		}
	}
	return best
}

func yes(b bool) int {
	if b {
		return 1
	}
	return 0
}

// says tells the first of a rank.
func (r *Rank) says(of []Standing) string {
	figure := func(s Standing) string {
		return fmt.Sprintf("%+.1f dB against the average antenna, %+.1f to %+.1f", s.Level, s.Lo, s.Hi)
	}
	if r.By == byContacts {
		figure = func(s Standing) string {
			said := fmt.Sprintf("%.0f contacts per hour on a typical outing, %.0f to %.0f", math.Exp(s.Level), math.Exp(s.Lo), math.Exp(s.Hi))
			if seen := math.Exp(s.Seen); math.Abs(seen-math.Exp(s.Level)) > 0.15*math.Exp(s.Level) {
				said += fmt.Sprintf("; %.0f were seen", seen)
			}
			return said
		}
	}
	where := "On " + band.Said(r.Band)
	if r.Site != "" {
		where += ", " + strings.ToLower(r.SiteName)
	}
	if r.Simulated {
		where += ", simulated"
	}
	named := func(key string) string {
		for _, x := range r.Rows {
			if x.Key == key {
				return x.Name
			}
		}
		return key
	}
	return where + ": " + SaysBest(of, figure, named)
}

// Past is a set-up of an antenna with what was done with it.
type Past struct {
	ID       string     `json:"id"`
	Name     string     `json:"name"`
	OutingID string     `json:"outing_id"`
	Outing   string     `json:"outing"`
	Date     string     `json:"date"`
	Site     string     `json:"site"`
	Lesson   string     `json:"lesson,omitempty"`
	Bands    []PastBand `json:"bands"`
}

// PastBand is the use on a band: contacts, and the differences to others where it took turns.
type PastBand struct {
	Band     string  `json:"band"`
	Contacts int     `json:"contacts"`
	PerHour  float64 `json:"per_hour"` // 0 where it is not known
	Lo       float64 `json:"lo"`
	Hi       float64 `json:"hi"`
	// Beside are verdicts where this antenna is A.
	Beside []Verdict `json:"beside"`
}

// History lists an antenna's outings, the newest first.
func History(g Group, antennas []Group, stints []Stint, turns []Turns) []Past {
	out := []Past{}
	names := map[string]string{}
	for _, x := range antennas {
		names[x.Key] = x.Name
	}
	named := func(v Verdict) Verdict {
		v.A, v.B = names[v.A], names[v.B]
		return v
	}
	for _, s := range g.Members {
		p := Past{ID: s.ID, Name: s.Name, OutingID: s.OutingID, Outing: s.Outing, Date: s.Date, Site: s.Site, Lesson: s.Lesson,
			Bands: []PastBand{}}
		if x, ok := earth.Kind(s.Site); ok {
			p.Site = x.Name
		}
		at := func(name string) *PastBand {
			for i := range p.Bands {
				if p.Bands[i].Band == name {
					return &p.Bands[i]
				}
			}
			p.Bands = append(p.Bands, PastBand{Band: name, Beside: []Verdict{}})
			return &p.Bands[len(p.Bands)-1]
		}
		for _, x := range stints {
			if x.DeploymentID != s.ID || x.Band == "" {
				continue
			}
			b := at(x.Band)
			if b.Contacts += x.Contacts; x.Hours > 0 {
				b.PerHour = float64(x.Contacts) / x.Hours
				b.Lo, b.Hi = numeric.Poisson(float64(x.Contacts)/usualBunched, x.Hours/usualBunched)
			}
		}
		for _, t := range turns {
			if t.OutingID != s.OutingID {
				continue
			}
			for _, v := range t.Verdicts {
				switch {
				case v.DB == nil:
				case v.A == g.Key:
					b := at(v.Band)
					b.Beside = append(b.Beside, named(v))
				case v.B == g.Key:
					b := at(v.Band)
					b.Beside = append(b.Beside, named(v.turned()))
				}
			}
		}
		slices.SortFunc(p.Bands, func(a, b PastBand) int { return longest(a.Band, b.Band) })
		out = append(out, p)
	}
	slices.Reverse(out)
	return out
}

// turned is the same verdict from the other side.
func (v *Verdict) turned() Verdict {
	out := *v
	minus := func(x *float64) *float64 {
		if x == nil {
			return nil
		}
		y := -*x
		return &y
	}
	out.A, out.B, out.DB, out.Lo, out.Hi = v.B, v.A, minus(v.DB), minus(v.Hi), minus(v.Lo)
	out.SlotsA, out.SlotsB, out.OnlyA, out.OnlyB = v.SlotsB, v.SlotsA, v.OnlyB, v.OnlyA
	out.NaiveDB, out.MedianDB = minus(v.NaiveDB), minus(v.MedianDB)
	out.SilentA, out.SilentB, out.ListenedA, out.ListenedB = v.SilentB, v.SilentA, v.ListenedB, v.ListenedA
	return out
}
