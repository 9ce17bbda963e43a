package deployment

import (
	"encoding/json"
	"strings"
	"time"

	"reed/core/clock"
	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/place"
)

// Outing is one visit to one place.
type Outing struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Date   string `json:"date"`            // YYYY-MM-DD, UTC
	Place  string `json:"place,omitempty"` // as typed: a locator or a position
	Ground string `json:"ground,omitempty"`
	Scheme string `json:"scheme,omitempty"`
	OwnRef string `json:"own_ref,omitempty"`
	Until  string `json:"until,omitempty"` // gate or tide, HH:MM UTC
	Notes  string `json:"notes,omitempty"`
	// Site is the id of a kept site, Purpose what it is for and Packed what of the packing list is ticked: those who scout
	// know what they mean.
	Site    string          `json:"site,omitempty"`
	Purpose json.RawMessage `json:"purpose,omitempty"`
	Packed  []string        `json:"packed,omitempty"`
	// Missing lists items that were missing there, Unused items that were not needed; one per line.
	Missing string `json:"missing,omitempty"`
	Unused  string `json:"unused,omitempty"`
	Version int    `json:"version"`
	Deleted bool   `json:"deleted,omitempty"`
}

// Check says what of an outing cannot be, by field: it needs a name and a day; place, ground and the time of the gate
// have to be what they say, where they are said.
func (o Outing) Check() (out []entry.Fault) {
	bad := func(path, format string, args ...any) { out = append(out, entry.Say(path, "error", format, args...)) }
	if strings.TrimSpace(o.Name) == "" {
		bad("name", "a name is missing; the place or the day will do")
	}
	if _, err := time.Parse(time.DateOnly, o.Date); err != nil {
		bad("date", "%q is not a date; write it like 2026-05-16", o.Date)
	}
	if o.Place != "" {
		if _, err := place.ParsePosition(o.Place); err != nil {
			bad("place", "%s", err)
		}
	}
	if _, ok := earth.Kind(o.Ground); o.Ground != "" && !ok {
		bad("ground", "%q is not a known kind of ground", o.Ground)
	}
	if _, err := clock.Parse(o.Until); o.Until != "" && err != nil {
		bad("until", "%s", err)
	}
	return out
}
