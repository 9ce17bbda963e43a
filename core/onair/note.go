package onair

import (
	"fmt"
	"regexp"
	"strings"
	"time"

	"reed/core/band"
	"reed/core/clock"
	"reed/core/entry"
)

// Note is something seen or heard between contacts: a result too. It stands in the log by its time.
type Note struct {
	ID           string    `json:"id"`
	OutingID     string    `json:"outing_id"`
	DeploymentID string    `json:"deployment_id,omitempty"`
	At           time.Time `json:"at"`
	Kind         string    `json:"kind"`
	Band         string    `json:"band,omitempty"`
	Text         string    `json:"text,omitempty"` // as typed
	// Value is the typed number: dBm of noise, volts of a battery, whatever unit of a field-strength meter.
	Value *float64 `json:"value,omitempty"`
	Unit  string   `json:"unit,omitempty"`
	// Of a pair of reports by one patient station: who it was, and in decibels how much stronger the antenna in use was than
	// the other, which is named by its deployment.
	Call    string `json:"call,omitempty"`
	OtherID string `json:"other_id,omitempty"`
	// Hearing says that a pair is of readings of one's own meter, of a station that was heard on both.
	Hearing bool `json:"hearing,omitempty"`
	// Blind says that the order was drawn, and that the other station did not know which antenna was which.
	Blind   bool `json:"blind,omitempty"`
	Version int  `json:"version"`
	Deleted bool `json:"deleted,omitempty"`
}

// NoteKind is a kind of note. Asks says what is typed beside it, empty for none; Banded that it is of a band.
type NoteKind struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Key    string `json:"key"` // that begins it where nothing is being typed
	Asks   string `json:"asks,omitempty"`
	Like   string `json:"like,omitempty"`
	Banded bool   `json:"banded,omitempty"`
}

// Kinds of a note.
const (
	nothing   = "nothing-heard"
	volts     = "battery"
	feedback  = "rf-feedback"
	interfere = "interference"
	weather   = "weather"
	strength  = "field-strength"
)

// Kinds that antennas are weighed by: two of them by one patient station, and the noise floor on one.
const (
	Pair  = "pair"
	Noise = "noise"
)

// NoteKinds lists them.
func NoteKinds() []NoteKind {
	return []NoteKind{
		{nothing, "nothing heard", "n", "", "", true},
		{Noise, "noise floor", "f", "S-units or dBm", "S4, or -97 dBm", true},
		{volts, "battery", "v", "volts", "12.4", false},
		{feedback, "RF in microphone or computer", "r", "", "", true},
		{interfere, "interference", "i", "what it is like", "buzz each 20 kHz", true},
		{weather, "weather", "w", "as it is", "gusts, light rain", false},
		{Pair, "A/B report from one station", "p", "call and both reports, or both S-units that you read", "Q2TAV 579 559", true},
		{strength, "field strength", "m", "meter's reading and unit", "42 uA at the path", true},
	}
}

func noteKind(id string) (NoteKind, bool) {
	for _, k := range NoteKinds() {
		if k.ID == id {
			return k, true
		}
	}
	return NoteKind{}, false
}

var (
	sUnits  = regexp.MustCompile(`(?i)^s\s*([0-9])(?:\s*\+\s*(\d{1,2}))?(?:\s*db)?$`)
	levelIn = regexp.MustCompile(`(?i)^([-+\x{2212}]?\d+(?:[.,]\d+)?)\s*(dbm)$`)
	reading = regexp.MustCompile(`^([-+\x{2212}]?\d+(?:[.,]\d+)?)\s*(\S*)`)
)

// DBmOfS is the power in dBm of a reading in S-units at a meter that keeps to IARU Region 1's recommendation R.1 (1981): S9 is
// -73 dBm below 30 MHz, each unit below it 6 dB, and decibels over S9 above.
func DBmOfS(units, over float64) float64 { return -73 - 6*(9-units) + over }

// Read takes what was typed of a note apart, and says what of it cannot be. The paths are kind, band, text and at.
func (n Note) Read(region band.Region, now time.Time) (Note, []entry.Fault) {
	var out []entry.Fault
	bad := func(path, format string, args ...any) { out = append(out, entry.Say(path, "error", format, args...)) }
	n.Text, n.Value, n.Unit = strings.TrimSpace(n.Text), nil, ""
	k, ok := noteKind(n.Kind)
	if !ok {
		bad("kind", "%q is no kind of note", n.Kind)
		return n, out
	}
	if _, ok := band.Named(region, n.Band); k.Banded && !ok {
		bad("band", "on which band? Log a contact or press a band first")
	}
	if !k.Banded {
		n.Band = ""
	}
	if n.At.IsZero() || clock.InFuture(n.At, now) {
		bad("at", "its time is missing or lies in the future; times are UTC")
	}
	put := func(v float64, unit string) { n.Value, n.Unit = &v, unit }
	number := func(s string) float64 { v, _ := entry.Number(strings.ReplaceAll(s, "\u2212", "-")); return v }
	switch n.Kind {
	case Noise:
		if m := sUnits.FindStringSubmatch(n.Text); m != nil {
			put(DBmOfS(number(m[1]), number("0"+m[2])), "dBm")
		} else if m := levelIn.FindStringSubmatch(n.Text); m != nil && number(m[1]) >= -160 && number(m[1]) <= 0 {
			put(number(m[1]), "dBm")
		} else {
			bad("text", "%q is no noise floor; write S4, S9+10 or -97 dBm", n.Text)
		}
	case volts:
		m := reading.FindStringSubmatch(strings.TrimSuffix(strings.TrimSuffix(n.Text, "V"), "v"))
		if m == nil || number(m[1]) < 1 || number(m[1]) > 60 {
			bad("text", "%q is no battery; write volts like 12.4", n.Text)
		} else {
			put(number(m[1]), "V")
		}
	case strength:
		if m := reading.FindStringSubmatch(n.Text); m == nil {
			bad("text", "%q is no reading; write a number and its unit, like 42 uA at the path", n.Text)
		} else {
			put(number(m[1]), m[2])
		}
	case Pair:
		var why string
		if n.Call, n.Value, n.Hearing, why = pairOf(n.Text); why != "" {
			bad("text", "%s; write the call and both reports, like Q2TAV 579 559 or Q2TAV -12 -15, or what you read yourself, like "+
				"Q2TAV S7 S5", why)
		} else if n.Unit = "dB"; n.OtherID == "" || n.OtherID == n.DeploymentID {
			bad("text", "two antennas that are up are needed for a pair")
		}
	case interfere, weather:
		if n.Text == "" {
			bad("text", "say what it is like: %s", k.Like)
		}
	}
	if len(n.Text) > 500 {
		bad("text", "at most 500 characters are kept")
	}
	return n, out
}

// pairOf reads a call and two reports, and says by how many decibels the first was stronger: S-units of 6 dB, or decibels as
// they stand. Readings of one's own meter (S7) are of hearing.
func pairOf(text string) (call string, db *float64, hearing bool, why string) {
	words := strings.Fields(strings.ToUpper(text))
	if len(words) != 3 || !IsCall(words[0]) {
		return "", nil, false, fmt.Sprintf("%q is no pair", text)
	}
	a, kindA := strengthOf(words[1])
	b, kindB := strengthOf(words[2])
	if kindA == "" || kindA != kindB {
		return "", nil, false, fmt.Sprintf("%q and %q are no two reports of one kind", words[1], words[2])
	}
	d := a - b
	return words[0], &d, kindA == ownMeter, ""
}

// Kinds of a strength: measured by a program, given in a report, or read from the operator's meter.
const (
	measured = "measured"
	told     = "told"
	ownMeter = "own meter"
)

// strengthOf is a report's strength in decibels, and of which kind it is; empty for none.
func strengthOf(report string) (db float64, kind string) {
	if m := sUnits.FindStringSubmatch(report); m != nil {
		units, _ := entry.Number(m[1])
		over, _ := entry.Number("0" + m[2])
		return DBmOfS(units, over), ownMeter
	}
	switch {
	case levelReport.MatchString(report):
		if v, err := entry.Number(report); err == nil {
			return v, measured
		}
	case phoneReport.MatchString(report), keyedReport.MatchString(report):
		digits := strings.Trim(strings.ReplaceAll(report, "N", "9"), "RACKST")
		if len(digits) >= 2 && digits[1] >= '1' && digits[1] <= '9' {
			return 6 * float64(digits[1]-'0'), told
		}
	}
	return 0, ""
}

// Says is a note as it stands in the log.
func (n Note) Says() string {
	k, _ := noteKind(n.Kind)
	out := k.Name
	if n.Band != "" {
		out += " on " + band.Said(n.Band)
	}
	switch {
	case n.Kind == Noise && n.Value != nil && !strings.Contains(strings.ToLower(n.Text), "dbm"):
		out += fmt.Sprintf(": %s, about %.0f dBm", n.Text, *n.Value)
	case n.Kind == volts && n.Value != nil:
		out += fmt.Sprintf(": %.4g V", *n.Value)
	case n.Text != "":
		out += ": " + n.Text
	}
	if n.Hearing {
		out += ", as read here"
	}
	if n.Blind {
		out += ", blind"
	}
	return out
}
