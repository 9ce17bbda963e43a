// Package onair holds contacts: how one is typed in a line, what a duplicate is, and how far it is to a
// scheme's minimum.
package onair

import (
	"fmt"
	"regexp"
	"strings"
	"time"

	"reed/core/band"
	"reed/core/clock"
	"reed/core/entry"
	"reed/core/place"
)

// Field is a named value that is carried along unread, as an import gave it.
type Field struct {
	Name  string `json:"name"`
	Value string `json:"value"`
	Type  string `json:"type,omitempty"`
}

// Contact is one contact. Zero values mean unknown, but unknown seconds are marked by Seconds.
type Contact struct {
	ID           string    `json:"id"`
	OutingID     string    `json:"outing_id"`
	DeploymentID string    `json:"deployment_id,omitempty"`
	At           time.Time `json:"at"`
	Seconds      bool      `json:"seconds"` // the seconds of At are known
	End          time.Time `json:"end,omitzero"`
	Call         string    `json:"call"`
	Band         string    `json:"band,omitempty"`
	FreqHz       float64   `json:"freq_hz,omitempty"`
	Mode         string    `json:"mode,omitempty"`
	Submode      string    `json:"submode,omitempty"`
	Sent         string    `json:"sent,omitempty"`
	Received     string    `json:"received,omitempty"`
	PowerW       float64   `json:"power_w,omitempty"`
	Locator      string    `json:"locator,omitempty"`
	OtherRef     string    `json:"other_ref,omitempty"`
	OwnRef       string    `json:"own_ref,omitempty"`
	Name         string    `json:"name,omitempty"`
	Comment      string    `json:"comment,omitempty"`
	Operator     string    `json:"operator,omitempty"` // the call of who was at the key, where it is not the station's
	Extra        []Field   `json:"extra,omitempty"`
	Marks        []string  `json:"marks,omitempty"` // what was odd when it came in
	Line         string    `json:"line,omitempty"`  // as typed
	Batch        string    `json:"batch,omitempty"` // the import it came with
	Version      int       `json:"version"`
	Deleted      bool      `json:"deleted,omitempty"`
}

var callForm = regexp.MustCompile(`^[A-Z0-9]{1,4}/?[A-Z0-9]*(/[A-Z0-9]{1,4}){0,2}$`)

// IsCall reports whether s looks like a callsign, with or without strokes: letters and digits, at least
// one of each, 3 to 15 characters.
func IsCall(s string) bool {
	s = strings.ToUpper(s)
	return len(s) >= 3 && len(s) <= 15 && callForm.MatchString(s) &&
		strings.ContainsAny(s, "0123456789") && strings.ContainsAny(s, "ABCDEFGHIJKLMNOPQRSTUVWXYZ")
}

// Distance gives the distance in metres and the bearing from home when the other's locator is known.
func (c Contact) Distance(home place.Point) (metres, bearing float64, ok bool) {
	if len(c.Locator) < 4 {
		return 0, 0, false
	}
	loc := c.Locator
	if n := len(loc); n > 10 || n%2 == 1 {
		loc = loc[:min(n/2*2, 10)]
	}
	p, err := place.ParseLocator(loc)
	if err != nil {
		return 0, 0, false
	}
	return place.Distance(home, p), place.Bearing(home, p), true
}

// modes maps what people call a mode to the mode and submode of the ADIF specification.
var modes = map[string][2]string{
	"CW": {"CW", ""}, "SSB": {"SSB", ""}, "USB": {"SSB", "USB"}, "LSB": {"SSB", "LSB"}, "AM": {"AM", ""}, "FM": {"FM", ""},
	"FT8": {"FT8", ""}, "FT4": {"MFSK", "FT4"}, "JS8": {"MFSK", "JS8"}, "MFSK": {"MFSK", ""}, "RTTY": {"RTTY", ""}, "PSK": {"PSK", ""},
	"PSK31": {"PSK", "PSK31"}, "PSK63": {"PSK", "PSK63"}, "PSK125": {"PSK", "PSK125"}, "OLIVIA": {"OLIVIA", ""}, "HELL": {"HELL", ""},
	"JT65": {"JT65", ""}, "JT9": {"JT9", ""}, "Q65": {"MFSK", "Q65"}, "MSK144": {"MSK144", ""}, "SSTV": {"SSTV", ""}, "THOR": {"THOR", ""},
	"CONTESTI": {"CONTESTI", ""}, "DIGITALVOICE": {"DIGITALVOICE", ""}, "PKT": {"PKT", ""},
	"WSPR": {"WSPR", ""}, "FST4": {"MFSK", "FST4"}, "FST4W": {"MFSK", "FST4W"}, "JT4": {"JT4", ""}, "FSQ": {"MFSK", "FSQCALL"},
	"QRSS": {"CW", ""}, "ATV": {"ATV", ""}, "DOMINO": {"DOMINO", ""},
}

// ModeOf splits a mode as people say it into mode and submode. ok is false for an unknown one.
func ModeOf(s string) (mode, submode string, ok bool) {
	m, ok := modes[strings.ToUpper(s)]
	return m[0], m[1], ok
}

// ModeLabel is the mode as people say it.
func (c Contact) ModeLabel() string {
	if c.Submode != "" {
		return c.Submode
	}
	return c.Mode
}

// Bounds of a contact that was typed or corrected.
const (
	MostPower = 5000.0 // watts
	LeastFreq = 1e5    // hertz
	MostFreq  = 3e11
	mostExtra = 200
	mostValue = 20000
)

// Check says what in a corrected contact cannot be, at the time now. was is the contact as it stands: what an import
// brought and nobody changed, as a band above 6 m, stays.
func (c Contact) Check(was Contact, region band.Region, now time.Time) (out []entry.Fault) {
	bad := func(path, format string, args ...any) {
		out = append(out, entry.Fault{Path: path, Severity: "error", Text: fmt.Sprintf(format, args...)})
	}
	switch {
	case c.Call == "":
		bad("call", "the call is missing")
	case !IsCall(c.Call) && c.Call != was.Call:
		bad("call", "%q does not look like a call; write it like Q2TAV or Q7RUN/P", c.Call)
	}
	if clock.InFuture(c.At, now) {
		bad("at", "%s lies in the future; times are UTC", c.At.UTC().Format("2006-01-02 15:04"))
	}
	if c.Band != was.Band || c.FreqHz != was.FreqHz || was.ID == "" {
		c.checkBand(region, bad)
	}
	if !(c.PowerW >= 0 && c.PowerW <= MostPower) {
		bad("power_w", "%.4g W found; expected 0 to %.0f", c.PowerW, MostPower)
	}
	if _, err := place.ParseLocator(c.Locator); c.Locator != "" && c.Locator != was.Locator && err != nil {
		bad("locator", "%s", err)
	}
	if len(c.Extra) > mostExtra {
		bad("extra", "%d further fields found; at most %d are kept", len(c.Extra), mostExtra)
	}
	for _, x := range c.Extra {
		if len(x.Value) > mostValue {
			bad("extra", "%s is %d characters long; at most %d are kept", x.Name, len(x.Value), mostValue)
		}
	}
	return out
}

func (c Contact) checkBand(region band.Region, bad func(path, format string, args ...any)) {
	if !(c.FreqHz == 0 || c.FreqHz >= LeastFreq && c.FreqHz <= MostFreq) {
		bad("freq_hz", "%.6g MHz found; expected 0.1 to 300000", c.FreqHz/1e6)
		return
	}
	if _, ok := band.Named(region, c.Band); !ok {
		bad("band", "%q is not a band from 160 m to 6 m; write it like 40m", c.Band)
	} else if b, in := band.At(region, c.FreqHz); c.FreqHz > 0 && (!in || b.Name != c.Band) {
		bad("freq_hz", "%.6g MHz is not in %s", c.FreqHz/1e6, c.Band)
	}
}

// Before is when a station was worked last, and how often in all.
type Before struct {
	Times             int
	At                time.Time
	Band, Where, With string
}

// Says tells it in a sentence, empty where it was never worked.
func (b Before) Says(call string) string {
	if b.Times == 0 {
		return ""
	}
	often := "Worked once before"
	if b.Times > 1 {
		often = fmt.Sprintf("Worked %d times before, last", b.Times)
	}
	out := fmt.Sprintf("%s: %s at %s", often, b.At.UTC().Format(time.DateOnly), b.Where)
	if b.Band != "" {
		out += " on " + band.Said(b.Band)
	}
	if b.With != "" {
		out += " with " + b.With
	}
	return out + "."
}

// CountsFor reports whether a contact counts for a site reference of one's own, one of several perhaps.
func (c Contact) CountsFor(ref string) bool {
	for have := range strings.SplitSeq(c.OwnRef, ",") {
		if strings.EqualFold(strings.TrimSpace(have), strings.TrimSpace(ref)) {
			return true
		}
	}
	return false
}

// UseOf is the use of a band's segment that a mode belongs to: cw, phone or digital.
func UseOf(mode string) string {
	m, _, ok := ModeOf(mode)
	switch {
	case !ok || m == "CW":
		return "cw"
	case phone[m]:
		return "phone"
	}
	return "digital"
}
