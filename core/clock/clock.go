// Package clock reads times of day in UTC, and places them on the days that a stretch of time covers.
package clock

import (
	"fmt"
	"strings"
	"time"
)

// Ahead is how far a device's clock may run ahead before a time counts as being in the future.
const Ahead = 2 * time.Minute

// InFuture reports whether a time lies in the future, beyond what clocks differ.
func InFuture(at, now time.Time) bool { return at.After(now.Add(Ahead)) }

// Time is a time of day as minutes since midnight.
type Time int

const (
	day    = 24 * time.Hour
	layout = "15:04"
)

// Parse reads a time of day as hours and minutes, like 08:30.
func Parse(text string) (Time, error) {
	t, err := time.Parse(layout, strings.TrimSpace(text))
	if err != nil {
		return 0, fmt.Errorf("%q is not a time of day; write it like 17:30, in UTC", text)
	}
	return Time(t.Hour()*60 + t.Minute()), nil
}

// String prints the time as hours and minutes.
func (t Time) String() string { return fmt.Sprintf("%02d:%02d", int(t)/60, int(t)%60) }

// On returns the moment at which the clock shows t on the UTC day of a moment.
func (t Time) On(at time.Time) time.Time {
	return at.UTC().Truncate(day).Add(time.Duration(t) * time.Minute)
}

// From returns the first moment at or after another at which the clock shows t.
func (t Time) From(at time.Time) time.Time {
	on := t.On(at)
	if on.Before(at) {
		on = on.Add(day)
	}
	return on
}

// Until returns the last moment at or before another at which the clock shows t.
func (t Time) Until(at time.Time) time.Time {
	on := t.On(at)
	if on.After(at) {
		on = on.Add(-day)
	}
	return on
}

// Span is a stretch of every day between two times; it may run over midnight. One that ends when it begins is the whole day.
type Span struct{ From, Until Time }

// Covering returns the span's stretch that holds a moment; ok is false where none does.
func (s Span) Covering(at time.Time) (from, until time.Time, ok bool) {
	from = s.From.Until(at)
	until = s.Until.From(from)
	if !until.After(from) {
		until = until.Add(day)
	}
	return from, until, at.Before(until)
}

// Covers reports whether the span holds a whole stretch of time.
func (s Span) Covers(from, until time.Time) bool {
	_, end, ok := s.Covering(from)
	return ok && (s.From == s.Until || !until.After(end))
}
