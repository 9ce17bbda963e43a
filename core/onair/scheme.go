package onair

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"time"

	"reed/core/entry"
)

// Scheme is a rule for when a visit counts. It can be edited and added to.
type Scheme struct {
	ID      string `json:"id"`
	Name    string `json:"name"`
	Minimum int    `json:"minimum"`
	PerDay  bool   `json:"per_day"` // the minimum is for one UTC day, otherwise for the outing
	// Unique says when a station counts again: ByCall never, ByBand on another band, ByMode on another band or mode.
	Unique string `json:"unique"`
	// Sites counts a station again from another site of its own.
	Sites bool `json:"sites"`
	// References says that each of several site references of one's own needs the minimum for itself.
	References bool `json:"references"`
	// Operators says that each operator of the station needs the minimum for itself.
	Operators bool `json:"operators"`
	Version   int  `json:"version"`
	Deleted   bool `json:"deleted,omitempty"`
}

// What makes a station count again.
const (
	ByCall = "call"
	ByBand = "band"
	ByMode = "mode"
)

// MostMinimum is the largest minimum of a scheme.
const MostMinimum = 100000

// Schemes lists the rules to begin with.
func Schemes() []Scheme {
	return []Scheme{
		{ID: "ten-a-day", Name: "10 contacts in a UTC day", Minimum: 10, PerDay: true, Unique: ByMode, Sites: true, References: true},
		{ID: "four-stations", Name: "4 different stations in a UTC day", Minimum: 4, PerDay: true, Unique: ByCall, References: true},
		{ID: "forty-four", Name: "44 contacts over any days", Minimum: 44, Unique: ByMode, Sites: true, References: true},
		{ID: "none", Name: "no minimum", Unique: ByMode, Sites: true},
	}
}

// SchemeIn finds a rule among those that there are; the first stands in for an unknown one.
func SchemeIn(all []Scheme, id string) Scheme {
	if i := slices.IndexFunc(all, func(s Scheme) bool { return s.ID == id }); i >= 0 {
		return all[i]
	}
	return all[0]
}

// WithSchemes lays rules that were edited over those to begin with, and puts the new ones behind them; without those that were
// taken out, except where all is true: an outing may be counted by one.
func WithSchemes(edited []Scheme, all bool) []Scheme {
	out := Schemes()
	for _, e := range edited {
		if i := slices.IndexFunc(out, func(s Scheme) bool { return s.ID == e.ID }); i >= 0 {
			out[i] = e
		} else {
			out = append(out, e)
		}
	}
	return slices.DeleteFunc(out, func(s Scheme) bool { return s.Deleted && !all })
}

// Check says what in a scheme cannot be.
func (s Scheme) Check() (out []entry.Fault) {
	bad := func(path, format string, args ...any) { out = append(out, entry.Say(path, "error", format, args...)) }
	if strings.TrimSpace(s.Name) == "" || len(s.Name) > 100 {
		bad("name", "a rule needs a name of at most 100 characters, like \"10 contacts in a UTC day\"")
	}
	if s.Minimum < 0 || s.Minimum > MostMinimum {
		bad("minimum", "%d found; expected 0 to %d", s.Minimum, MostMinimum)
	}
	if !slices.Contains([]string{ByCall, ByBand, ByMode}, s.Unique) {
		bad("unique", "%q found; expected call, band or mode", s.Unique)
	}
	return out
}

// Rule says in words what counts.
func (s Scheme) Rule() string {
	out := "a station counts once"
	switch s.Unique {
	case ByBand:
		out += " on each band"
	case ByMode:
		out += " on each band in each mode"
	}
	if s.Sites {
		out += ", again from another site"
	}
	if s.PerDay {
		out += ", counted per UTC day"
	}
	if s.References {
		out += "; each of your references needs it"
	}
	if s.Operators {
		out += "; each operator needs it"
	}
	return out
}

// SameCount says that two rules count the same, whatever they are called and need.
func (s Scheme) SameCount(t Scheme) bool {
	t.ID, t.Name, t.Minimum, t.Version, t.Deleted = s.ID, s.Name, s.Minimum, s.Version, s.Deleted
	return s == t
}

// key returns the key of a contact; contacts with equal keys are duplicates.
func (s Scheme) key(c Contact) string {
	k := strings.ToUpper(c.Call)
	if s.PerDay {
		k += "|" + c.At.UTC().Format(time.DateOnly)
	}
	if s.Unique != ByCall {
		k += "|" + c.Band
	}
	if s.Unique == ByMode {
		k += "|" + c.Mode
	}
	if s.Sites {
		k += "|" + c.OtherRef
	}
	return k
}

// parts returns what a contact may count for: each of its references, and its operator.
func (s Scheme) parts(c Contact) []string {
	refs := []string{strings.ToUpper(c.OwnRef)}
	if s.References && strings.Contains(c.OwnRef, ",") {
		refs = refs[:0]
		for ref := range strings.SplitSeq(strings.ToUpper(c.OwnRef), ",") {
			if ref = strings.TrimSpace(ref); ref != "" && !slices.Contains(refs, ref) {
				refs = append(refs, ref)
			}
		}
	}
	if s.Operators {
		for i := range refs {
			refs[i] += by + strings.ToUpper(c.Operator)
		}
	}
	return refs
}

// by stands between a reference and an operator.
const by = " by "

// Counting says for each contact, by its id, what it counts something new for, in the order given, which should be that of time;
// and for one that counts nothing new the id of the first of its kind.
func (s Scheme) Counting(contacts []Contact) (counts map[string][]string, dup map[string]string) {
	first := map[string]string{}
	counts, dup = map[string][]string{}, map[string]string{}
	for _, c := range contacts {
		k, was := s.key(c), ""
		var fresh []string
		for _, part := range s.parts(c) {
			if id, ok := first[k+"|"+part]; ok {
				was = cmp.Or(was, id)
				continue
			}
			first[k+"|"+part] = c.ID
			fresh = append(fresh, part)
		}
		if counts[c.ID] = fresh; len(fresh) == 0 {
			dup[c.ID] = was
		}
	}
	return counts, dup
}

// Duplicates maps the id of each contact that counts nothing new to the id of the first of its kind.
func (s Scheme) Duplicates(contacts []Contact) map[string]string {
	_, dup := s.Counting(contacts)
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

// Part is how far one reference or operator is, where each needs the minimum for itself.
type Part struct {
	Name    string `json:"name"`
	Counted int    `json:"counted"`
	Missing int    `json:"missing"`
}

// Progress tells how far it is to the minimum.
type Progress struct {
	Scheme     Scheme    `json:"scheme"`
	Counted    int       `json:"counted"` // on the latest UTC day for a daily rule; of the part that lacks most
	Missing    int       `json:"missing"`
	Duplicates int       `json:"duplicates"`
	Parts      []Part    `json:"parts,omitempty"` // where there are several
	Day        string    `json:"day,omitempty"`
	PerHour    float64   `json:"per_hour"`
	ETA        time.Time `json:"eta,omitzero"`
	Sentence   string    `json:"sentence"`
}

// Recent is the stretch over which the present rate is taken.
const Recent = 30 * time.Minute

// Counts is the input of a progress: contacts that count, on the latest UTC day for a daily rule, by what they count for
// (Key), duplicates over all, that day, and how many that count were made in the last stretch (Recent).
type Counts struct {
	Counted          map[string]int
	Duplicates, Late int
	Day              string
}

// Add counts so many contacts that count for the same.
func (n *Counts) Add(key string, contacts int) {
	if n.Counted == nil {
		n.Counted = map[string]int{}
	}
	n.Counted[key] += contacts
}

// Key writes what a contact counts for as one text, as it is counted; empty for one that counts for nothing in particular.
func (s Scheme) Key(parts []string) string {
	switch {
	case s.References || len(parts) == 0:
		return strings.Join(parts, ",")
	case s.Operators: // a place of one's own counts anew, but it has no minimum of its own
		return parts[0][strings.LastIndex(parts[0], by):]
	}
	return ""
}

// Count computes the progress at the time now, from contacts in rising time.
func (s Scheme) Count(contacts []Contact, now time.Time) Progress {
	counts, dup := s.Counting(contacts)
	n := Counts{Duplicates: len(dup)}
	if len(contacts) > 0 && s.PerDay {
		n.Day = contacts[len(contacts)-1].At.UTC().Format(time.DateOnly)
	}
	for _, c := range contacts {
		if dup[c.ID] != "" || s.PerDay && c.At.UTC().Format(time.DateOnly) != n.Day {
			continue
		}
		n.Add(s.Key(counts[c.ID]), 1)
		if !c.At.Before(now.Add(-Recent)) && !c.At.After(now) {
			n.Late++
		}
	}
	return s.Progress(n, now)
}

// byPart adds up what counts for each reference and operator, in the order of their names.
func (s Scheme) byPart(n Counts) (out []Part) {
	sums := map[string]int{}
	for key, contacts := range n.Counted {
		for part := range strings.SplitSeq(key, ",") {
			sums[part] += contacts
		}
	}
	for _, name := range slices.Sorted(maps.Keys(sums)) {
		p := Part{Counted: sums[name], Missing: max(0, s.Minimum-sums[name])}
		ref, operator, _ := strings.Cut(name, by)
		if p.Name = cmp.Or(ref, "no reference"); s.Operators {
			operator = cmp.Or(operator, "yourself")
			if p.Name = operator; s.References && ref != "" {
				p.Name = ref + by + operator
			}
		}
		out = append(out, p)
	}
	return out
}

// Progress tells how far it is to the minimum at the time now.
func (s Scheme) Progress(n Counts, now time.Time) Progress {
	p := Progress{Scheme: s, Duplicates: n.Duplicates, Day: n.Day, Missing: s.Minimum}
	all := 0
	for _, contacts := range n.Counted {
		all += contacts
	}
	parts := s.byPart(n)
	for i, x := range parts {
		if i == 0 || x.Counted < p.Counted {
			p.Counted, p.Missing = x.Counted, x.Missing
		}
	}
	whose := ""
	if len(parts) > 1 {
		p.Parts = parts
		said := make([]string, len(parts))
		for i, x := range parts {
			said[i] = fmt.Sprintf("%d for %s", x.Counted, x.Name)
		}
		whose = " (" + strings.Join(said, ", ") + ")"
	}
	p.PerHour = float64(n.Late) / Recent.Hours()
	switch {
	case s.Minimum == 0:
		p.Counted = all
		p.Sentence = fmt.Sprintf("%d in the log.", all)
	case p.Missing == 0:
		p.Sentence = fmt.Sprintf("%d of %d%s: activation complete.", p.Counted, s.Minimum, whose)
	case p.Counted == 0 && whose == "":
		p.Sentence = fmt.Sprintf("%d to go.", p.Missing)
	case n.Late >= 2 && !s.Operators:
		wait := time.Duration(math.Ceil(float64(p.Missing)/p.PerHour*60)) * time.Minute
		p.ETA = now.Add(wait)
		p.Sentence = fmt.Sprintf("%d of %d%s; %d more by about %s UTC at this rate.", p.Counted, s.Minimum, whose, p.Missing,
			p.ETA.UTC().Format("15:04"))
		if s.PerDay && p.ETA.UTC().Format(time.DateOnly) != p.Day {
			p.Sentence = fmt.Sprintf("%d of %d%s; at this rate the UTC day ends first.", p.Counted, s.Minimum, whose)
		}
	default:
		p.Sentence = fmt.Sprintf("%d of %d%s; %d to go.", p.Counted, s.Minimum, whose, p.Missing)
	}
	return p
}
