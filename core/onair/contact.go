// Package onair holds contacts: how one is typed in a line, what a duplicate is, and how far it is to a
// scheme's minimum.
package onair

import (
	"regexp"
	"strings"
	"time"

	"reed/core/place"
)

// Field is a named value that is carried along unread, as an import gave it.
type Field struct {
	Name  string `json:"name"`
	Value string `json:"value"`
	Type  string `json:"type,omitempty"`
}

// Contact is one contact. Zero values mean unknown, but Unknown seconds are told by Seconds.
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
	"CONTESTI": {"CONTESTI", ""}, "DIGITALVOICE": {"DIGITALVOICE", ""}, "PKT": {"PKT", ""}, "ATV": {"ATV", ""}, "DOMINO": {"DOMINO", ""},
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
