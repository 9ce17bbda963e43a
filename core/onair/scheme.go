package onair

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"
)

// Scheme is a rule for when a visit counts.
type Scheme struct {
	ID      string `json:"id"`
	Name    string `json:"name"`
	Minimum int    `json:"minimum"`
	PerDay  bool   `json:"per_day"`  // the minimum is for one UTC day, otherwise for the outing
	PerBand bool   `json:"per_band"` // a station counts again on another band or mode
}

// Schemes lists the rules that can be chosen.
func Schemes() []Scheme {
	return []Scheme{
		{"ten-a-day", "10 contacts in a UTC day", 10, true, true},
		{"four-stations", "4 different stations in a UTC day", 4, true, false},
		{"forty-four", "44 contacts over any days", 44, false, true},
		{"none", "no minimum", 0, false, true},
	}
}

// SchemeNamed finds a rule; the first stands in for an unknown one.
func SchemeNamed(id string) Scheme {
	for _, s := range Schemes() {
		if s.ID == id {
			return s
		}
	}
	return Schemes()[0]
}

// key is what makes two contacts the same: call, band, mode, UTC day and the other's site, since a
// station that moved to another site counts again.
func (s Scheme) key(c Contact) string {
	k := strings.ToUpper(c.Call) + "|" + c.OwnRef
	if s.PerDay {
		k += "|" + c.At.UTC().Format(time.DateOnly)
	}
	if s.PerBand {
		k += "|" + c.Band + "|" + c.Mode + "|" + c.OtherRef
	}
	return k
}

// Duplicates maps the id of each contact that counts nothing new to the id of the first of its kind.
// Contacts are taken in the order given, which should be that of time.
func (s Scheme) Duplicates(contacts []Contact) map[string]string {
	first, dup := map[string]string{}, map[string]string{}
	for _, c := range contacts {
		k := s.key(c)
		if id, ok := first[k]; ok {
			dup[c.ID] = id
			continue
		}
		first[k] = c.ID
	}
	return dup
}

// Repeats finds the contact of which another would be a duplicate, among those with the same station in rising time.
func (s Scheme) Repeats(c Contact, same []Contact) (first Contact, ok bool) {
	c.ID = ""
	of := s.Duplicates(append(slices.Clone(same), c))[c.ID]
	for _, x := range same {
		if x.ID == of && of != "" {
			return x, true
		}
	}
	return Contact{}, false
}

// Progress tells how far it is to the minimum.
type Progress struct {
	Scheme     Scheme    `json:"scheme"`
	Counted    int       `json:"counted"` // on the latest UTC day for a daily rule
	Missing    int       `json:"missing"`
	Duplicates int       `json:"duplicates"`
	Day        string    `json:"day,omitempty"`
	PerHour    float64   `json:"per_hour"`
	ETA        time.Time `json:"eta,omitzero"`
	Sentence   string    `json:"sentence"`
}

// Recent is the stretch over which the present rate is taken.
const Recent = 30 * time.Minute

// Counts is what a progress follows from: contacts that count, on the latest UTC day for a daily rule, duplicates over
// all, that day, and how many that count were made in the last stretch (Recent).
type Counts struct {
	Counted, Duplicates, Late int
	Day                       string
}

// Count computes the progress at the time now, from contacts in rising time.
func (s Scheme) Count(contacts []Contact, now time.Time) Progress {
	dup := s.Duplicates(contacts)
	n := Counts{Duplicates: len(dup)}
	if len(contacts) > 0 && s.PerDay {
		n.Day = contacts[len(contacts)-1].At.UTC().Format(time.DateOnly)
	}
	for _, c := range contacts {
		if dup[c.ID] != "" || s.PerDay && c.At.UTC().Format(time.DateOnly) != n.Day {
			continue
		}
		n.Counted++
		if !c.At.Before(now.Add(-Recent)) && !c.At.After(now) {
			n.Late++
		}
	}
	return s.Progress(n, now)
}

// Progress tells how far it is to the minimum at the time now.
func (s Scheme) Progress(n Counts, now time.Time) Progress {
	p := Progress{Scheme: s, Counted: n.Counted, Duplicates: n.Duplicates, Day: n.Day}
	late := n.Late
	p.Missing = max(0, s.Minimum-p.Counted)
	p.PerHour = float64(late) / Recent.Hours()
	switch {
	case s.Minimum == 0:
		p.Sentence = fmt.Sprintf("%d in the log.", p.Counted)
	case p.Missing == 0:
		p.Sentence = fmt.Sprintf("%d of %d: it counts.", p.Counted, s.Minimum)
	case p.Counted == 0:
		p.Sentence = fmt.Sprintf("%d to go.", p.Missing)
	case late >= 2:
		wait := time.Duration(math.Ceil(float64(p.Missing)/p.PerHour*60)) * time.Minute
		p.ETA = now.Add(wait)
		p.Sentence = fmt.Sprintf("%d of %d; %d more by about %s UTC at this rate.", p.Counted, s.Minimum, p.Missing, p.ETA.UTC().Format("15:04"))
		if s.PerDay && p.ETA.UTC().Format(time.DateOnly) != p.Day {
			p.Sentence = fmt.Sprintf("%d of %d; at this rate the UTC day ends first.", p.Counted, s.Minimum)
		}
	default:
		p.Sentence = fmt.Sprintf("%d of %d; %d to go.", p.Counted, s.Minimum, p.Missing)
	}
	return p
}
