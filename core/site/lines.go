package site

import (
	"errors"
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"

	"reed/core/clock"
	"reed/core/entry"
	"reed/core/quantity"
)

// Bounds of what a site may hold.
const (
	mostLines   = 400
	mostPoints  = 500
	tallest     = 60.0   // metres; what is higher is asked about
	farthest    = 5000.0 // metres
	leastSquare = 0.25
)

// pace is the length of a pace in metres, as most people walk.
const pace = 0.75

const example = `write like "tree, 14 m at 230 degrees, 9 m high"`

var (
	comma   = regexp.MustCompile(`\s*(?:;|,\s)\s*`)
	named   = regexp.MustCompile(`\(([^()]*)\)`)
	byBy    = regexp.MustCompile(`^(.+?)\s+(?:by|x)\s+(.+?)(?:\s+towards\s+(\S+?)(?:\s*degrees|\s*°)?)?(?:\s+around\s+(.+))?$`)
	timed   = regexp.MustCompile(`^hours\s+(\d{1,2}:\d{2})\s+to\s+(\d{1,2}:\d{2})(?:\s+utc)?$`)
	angled  = regexp.MustCompile(`^(horizon|slope)[, ]+(\S+?)\s*(?:degrees|°)?\s+(?:at|towards)\s+(.+)$`)
	paced   = regexp.MustCompile(`^(\S+)\s+(?:paces?|steps?)$`)
	pointed = regexp.MustCompile(`^(.+?)\s*(?:\s(?:to the|towards))?\s+([nsew]{1,3}|(?:(?:north|south|east|west)[- ]?){1,3})$`)
	compass = []string{"n", "nne", "ne", "ene", "e", "ese", "se", "sse", "s", "ssw", "sw", "wsw", "w", "wnw", "nw", "nnw"}
)

// Read makes a map of lines, one thing a line: a kind, where it is, how high and wide. A bare number is in unit, metres where
// it is empty. Every fault names its line.
func Read(lines []string, unit string) (Map, []entry.Fault) {
	m := Map{Things: []Thing{}}
	var out []entry.Fault
	if unit == "" {
		unit = "m"
	}
	if len(lines) > mostLines {
		out = append(out, entry.Say("lines", "error", "%d lines are too many; the most is %d", len(lines), mostLines))
		lines = lines[:mostLines]
	}
	for i, line := range lines {
		path := "lines." + strconv.Itoa(i)
		text := strings.TrimSpace(line)
		if text == "" {
			continue
		}
		if done, err := m.rule(strings.ToLower(text), text); done || err != nil {
			if err != nil {
				out = append(out, entry.Say(path, "error", "%s", err))
			}
			continue
		}
		t, err := readThing(text, unit)
		if err != nil {
			out = append(out, entry.Say(path, "error", "%s", err))
			continue
		}
		t.Line, t.Stands = i, t.Height()
		faults := t.check(path)
		out = append(out, faults...)
		if !hasError(faults) {
			m.Things = append(m.Things, t)
		}
	}
	return m, append(out, m.beside()...)
}

func hasError(fs []entry.Fault) bool {
	for _, f := range fs {
		if f.Severity == "error" {
			return true
		}
	}
	return false
}

// rule reads a line that says what is allowed, or how the land lies.
func (m *Map) rule(low, text string) (bool, error) {
	switch low {
	case "no stakes", "no stakes allowed":
		m.Rules.NoStakes = true
		return true, nil
	case "no trees", "no ropes in trees", "nothing in trees":
		m.Rules.NoTrees = true
		return true, nil
	}
	if who, ok := strings.CutPrefix(low, "ask "); ok && who != "" {
		m.Rules.Ask = strings.TrimSpace(text[4:])
		return true, nil
	}
	if h := timed.FindStringSubmatch(low); h != nil {
		for _, t := range h[1:] {
			if _, err := clock.Parse(t); err != nil {
				return true, err
			}
		}
		m.Rules.From, m.Rules.Until = h[1], h[2]
		return true, nil
	}
	if a := angled.FindStringSubmatch(low); a != nil {
		up, err := entry.Number(a[2])
		if err != nil || up < 0 || up > 80 {
			return true, fmt.Errorf("%q is no angle; write like horizon 12 degrees at 200", a[2])
		}
		b, err := bearing(a[3])
		if err != nil {
			return true, err
		}
		if a[1] == "slope" {
			m.Slope = &Angle{b, up}
		} else {
			m.Horizon = append(m.Horizon, Angle{b, up})
		}
		return true, nil
	}
	return false, nil
}

// bearing reads degrees from north, or a point of the compass.
func bearing(text string) (float64, error) {
	s := strings.TrimSpace(strings.ToLower(text))
	s = strings.TrimSpace(strings.TrimSuffix(strings.TrimSuffix(s, "degrees"), "°"))
	long := strings.NewReplacer("north", "n", "east", "e", "south", "s", "west", "w", "-", "", " ", "").Replace(s)
	for i, name := range compass {
		if long == name {
			return float64(i) * 22.5, nil
		}
	}
	b, err := entry.Number(s)
	if err != nil || b < 0 || b > 360 {
		return 0, fmt.Errorf("%q is no bearing; write degrees from 0 to 360, or like SW", strings.TrimSpace(text))
	}
	return math.Mod(b, 360), nil
}

// spot reads "14 m at 230 degrees", or "here".
func spot(text, unit string) (Spot, error) {
	if strings.EqualFold(strings.TrimSpace(text), "here") {
		return Spot{}, nil
	}
	far, where, ok := strings.Cut(text, " at ")
	if !ok {
		// "25m east", "12 paces to the north-east", "30 m SW"
		p := pointed.FindStringSubmatch(strings.ToLower(strings.TrimSpace(text)))
		if p == nil {
			return Spot{}, fmt.Errorf("%q says no bearing; %s", strings.TrimSpace(text), example)
		}
		far, where = p[1], p[2]
	}
	far = strings.TrimSpace(far)
	if n := paced.FindStringSubmatch(strings.ToLower(far)); n != nil {
		steps, err := entry.Number(n[1])
		b, err2 := bearing(where)
		return Spot{}.Toward(b, steps*pace), errors.Join(err, err2)
	}
	l, err := quantity.ParseLength(far, unit)
	if err != nil {
		return Spot{}, err
	}
	b, err := bearing(where)
	return Spot{}.Toward(b, l.Value), err
}

// kindOf finds the kind that a text begins with; the longest name wins.
func kindOf(text string) (Kind, string, bool) {
	low := strings.ToLower(text)
	best, found, n := Kind{}, false, 0
	for _, k := range Kinds() {
		for _, w := range k.Words {
			if rest, ok := strings.CutPrefix(low, w); ok && len(w) > n && (rest == "" || strings.ContainsAny(rest[:1], " ,;")) {
				best, found, n = k, true, len(w)
			}
		}
	}
	if !found {
		return best, text, false
	}
	return best, strings.TrimLeft(text[n:], " ,;"), true
}

// names lists the first word of each kind.
func names() (out []string) {
	for _, k := range Kinds() {
		out = append(out, k.Words[0])
	}
	return out
}

// readThing reads one line.
func readThing(text, unit string) (Thing, error) {
	name := ""
	if q := named.FindStringSubmatchIndex(text); q != nil {
		name = strings.TrimSpace(text[q[2]:q[3]])
		text = strings.TrimSpace(text[:q[0]] + text[q[1]:])
	}
	k, rest, ok := kindOf(text)
	if !ok {
		first, _, _ := strings.Cut(text, ",")
		return Thing{}, fmt.Errorf("unknown object %q; begin with one of %s", strings.TrimSpace(first), strings.Join(names(), ", "))
	}
	t := Thing{Kind: k.ID, Name: name}
	for _, part := range comma.Split(rest, -1) {
		if part = strings.TrimSpace(part); part == "" {
			continue
		}
		if err := t.part(part, k, unit); err != nil {
			return t, err
		}
	}
	switch {
	case len(t.Points) == 0:
		return t, fmt.Errorf("where is it? %s", example)
	case k.Shape == AtSpot && len(t.Points) > 1:
		return t, fmt.Errorf("a %s stands at one spot; write a line for each", k.Name)
	case k.Shape == Along && len(t.Points) < 2:
		return t, fmt.Errorf("give a start and an end point, like \"%s, 12 m at 300 to 15 m at 60\"", k.Words[0])
	case k.Shape == Within && len(t.Points) < 3:
		return t, fmt.Errorf("write its size or its corners, like \"%s, 30 by 20 m\" or \"%s, 20 m at 300 to 20 m at 60 to 20 m at 180\"",
			k.Words[0], k.Words[0])
	}
	return t, nil
}

// part reads what stands between two commas.
func (t *Thing) part(part string, k Kind, unit string) error {
	low := strings.ToLower(part)
	number := func(suffix string) (float64, bool, error) {
		s, ok := strings.CutSuffix(low, suffix)
		if !ok {
			return 0, false, nil
		}
		l, err := quantity.ParseLength(strings.TrimSpace(s), unit)
		return l.Value, true, err
	}
	if v, ok, err := number(" high"); ok {
		t.High = v
		return err
	}
	if v, ok, err := number(" wide"); ok {
		t.Wide = v
		return err
	}
	if low == "metal" {
		t.Metal = true
		return nil
	}
	if box := byBy.FindStringSubmatch(low); box != nil && k.Shape == Within {
		return t.box(box, unit)
	}
	for _, p := range strings.Split(strings.ReplaceAll(low, " to the ", " "), " to ") {
		s, err := spot(p, unit)
		if err != nil {
			return err
		}
		if t.Points = append(t.Points, s); len(t.Points) > mostPoints {
			return fmt.Errorf("more than %d points; leave out every other", mostPoints)
		}
	}
	return nil
}

// box reads "30 by 20 m towards 45 around 12 m at 90": the first size runs towards the bearing, east where none is given.
func (t *Thing) box(m []string, unit string) error {
	// A unit at the end is that of both.
	if u := regexp.MustCompile(`[a-z'"]+$`).FindString(m[2]); u != "" && !regexp.MustCompile(`[a-z'"]$`).MatchString(m[1]) {
		m[1] += " " + u
	}
	a, err := quantity.ParseLength(m[1], unit)
	if err != nil {
		return err
	}
	b, err := quantity.ParseLength(m[2], unit)
	if err != nil {
		return err
	}
	way, middle := 90.0, Spot{}
	if m[3] != "" {
		if way, err = bearing(m[3]); err != nil {
			return err
		}
	}
	if m[4] != "" {
		if middle, err = spot(m[4], unit); err != nil {
			return err
		}
	}
	for _, c := range [][2]float64{{1, 1}, {1, -1}, {-1, -1}, {-1, 1}} {
		t.Points = append(t.Points, middle.Toward(way, c[0]*a.Value/2).Toward(way-90, c[1]*b.Value/2))
	}
	return nil
}

// check says what of one thing cannot be.
func (t Thing) check(path string) (out []entry.Fault) {
	k, _ := KindNamed(t.Kind)
	say := func(severity, format string, args ...any) {
		out = append(out, entry.Say(path, severity, format, args...))
	}
	for _, p := range t.Points {
		if m, _ := p.Polar(); m > farthest {
			say("error", "%s away is not on this site", quantity.Long(m))
			return out
		}
	}
	at, crosses := crossesItself(t.Points)
	switch {
	case k.Shape == Within && crosses:
		say("error", "its edge crosses itself at side %d; go round it once", at+1)
	case k.Shape == Within && square(t.Points) < leastSquare:
		say("error", "it surrounds nothing")
	case t.High > 1000:
		say("error", "%s is too high to be one", quantity.Long(t.High))
	case t.High > tallest:
		say("ask", "a %s of %s? Only few are over %s", k.Name, quantity.Long(t.High), quantity.Long(tallest))
	}
	if t.Kind == PowerLine && t.High == 0 {
		say("caution", "no height given: it counts as in reach of whatever falls, however low it stands")
	}
	return out
}

// beside says what of the things does not go together.
func (m Map) beside() (out []entry.Fault) {
	for _, t := range m.Things {
		k, _ := KindNamed(t.Kind)
		if k.Holds && len(m.Of(Area)) > 0 {
			if off := m.Outside(t.Points[0]); off > 0.5 {
				out = append(out, entry.Say("lines."+strconv.Itoa(t.Line), "ask",
					"it stands %s outside of the usable area: it can hold an end only if "+
						"a line may be thrown from within", quantity.Long(off)))
			}
		}
	}
	return out
}
