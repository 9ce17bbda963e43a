package deployment

import (
	"fmt"
	"time"

	"reed/core/clock"
)

// Clock is the time that setting up took: when it began, and when the antenna was up, tuned and on the air. A
// time that is not yet is zero.
type Clock struct {
	Begun time.Time `json:"begun,omitzero"`
	Up    time.Time `json:"up,omitzero"`
	Tuned time.Time `json:"tuned,omitzero"`
	OnAir time.Time `json:"on_air,omitzero"`
}

// ClockPart is one stretch of setting up.
type ClockPart struct {
	Name    string `json:"name"`
	Minutes int    `json:"minutes"`
	Text    string `json:"text"`
}

// steps are the moments in their order.
func (c Clock) steps() []time.Time { return []time.Time{c.Begun, c.Up, c.Tuned, c.OnAir} }

var parts = []string{"", "up", "tuned", "on air"}

// Check says what of it cannot be: moments out of order or in the future. The paths are begun, up, tuned, on_air.
func (c Clock) Check(now time.Time) (path, text string) {
	names := []string{"begun", "up", "tuned", "on_air"}
	last := time.Time{}
	for i, at := range c.steps() {
		if at.IsZero() {
			continue
		}
		switch {
		case i > 0 && c.Begun.IsZero():
			return names[i], "the clock was not started; start it first"
		case clock.InFuture(at, now):
			return names[i], at.UTC().Format("2006-01-02 15:04") + " lies in the future; times are UTC"
		case at.Before(last):
			return names[i], fmt.Sprintf("%s comes before %s; each moment follows the one before", at.UTC().Format("15:04"),
				last.UTC().Format("15:04"))
		case at.Sub(last) > 24*time.Hour && !last.IsZero():
			return names[i], "more than a day after the moment before"
		}
		last = at
	}
	return "", ""
}

// Parts are the stretches so far, each from the known moment before it.
func (c Clock) Parts() []ClockPart {
	out := []ClockPart{}
	last := c.Begun
	for i, at := range c.steps() {
		if i == 0 || at.IsZero() || last.IsZero() {
			continue
		}
		n := int(at.Sub(last).Round(time.Minute).Minutes())
		out = append(out, ClockPart{parts[i], n, fmt.Sprintf("%s after %d min", parts[i], n)})
		last = at
	}
	return out
}

// Minutes is how long setting up took in all, up to the last moment that is known; 0 without any.
func (c Clock) Minutes() int {
	last := time.Time{}
	for _, at := range c.steps() {
		if !at.IsZero() {
			last = at
		}
	}
	if c.Begun.IsZero() || !last.After(c.Begun) {
		return 0
	}
	return max(1, int(last.Sub(c.Begun).Round(time.Minute).Minutes()))
}
