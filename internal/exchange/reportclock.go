package exchange

import (
	"strings"
	"time"
)

// Orders of day and month.
const (
	dayFirst   = "day-month"
	monthFirst = "month-day"
)

var (
	yearFirstDates = []string{"2006-01-02", "2006-1-2", "2006/01/02", "2006/1/2", "2006.01.02", "20060102", "060102", "2 Jan 2006",
		"2-Jan-2006", "2-Jan-06",
		"Jan 2 2006", "Jan 2, 2006", "Mon, 2 Jan 2006"}
	dayFirstDates   = []string{"2/1/2006", "2.1.2006", "2-1-2006", "2/1/06", "2.1.06", "2-1-06"}
	monthFirstDates = []string{"1/2/2006", "1.2.2006", "1-2-2006", "1/2/06", "1.2.06", "1-2-06"}
	clockTimes      = []struct {
		layout  string
		seconds bool
	}{{"15:04:05", true}, {"15:04", false}, {"1504", false}, {"150405", true}, {"3:04:05 PM", true}, {"3:04 PM", false}, {"3:04:05PM", true},
		{"3:04PM", false}}
	clockZones = []struct {
		layout string
		zoned  bool
	}{{"", false}, {"Z07:00", true}, {" Z07:00", true}, {"-0700", true}, {" -0700", true}, {" MST", true}, {"MST", true}}
)

// instant is a moment as it was written. Zoned says that a zone stands with it.
type instant struct {
	at             time.Time
	seconds, zoned bool
}

// clockReader reads moments as one file writes them: the layout that was right last is tried first.
type clockReader struct {
	order string         // of day and month, day first where empty
	zone  *time.Location // where none stands with it, UTC where nil
	last  string
	kind  instant
	epoch bool // a whole number was read as seconds since 1970
}

// read reads a moment, and says whether it is one.
func (c *clockReader) read(text string) (instant, bool) {
	text = strings.Join(strings.Fields(text), " ")
	if text == "" || len(text) > 40 {
		return instant{}, false
	}
	zone := c.zone
	if zone == nil {
		zone = time.UTC
	}
	if c.last != "" {
		if t, err := time.ParseInLocation(c.last, text, zone); err == nil {
			return instant{t.UTC(), c.kind.seconds, c.kind.zoned}, true
		}
	}
	if out, ok := c.since1970(text); ok {
		return out, true
	}
	dates := append(append([]string{}, yearFirstDates...), dayFirstDates...)
	if c.order == monthFirst {
		dates = append(append([]string{}, yearFirstDates...), monthFirstDates...)
	}
	upper := strings.ReplaceAll(text, " utc", " UTC")
	for _, d := range dates {
		for _, join := range []string{" ", "T", ""} {
			if join == "" && d != "20060102" {
				continue
			}
			for _, h := range clockTimes {
				for _, z := range clockZones {
					layout := d + join + h.layout + z.layout
					if t, err := time.ParseInLocation(layout, upper, zone); err == nil && sensible(t) {
						c.last, c.kind = layout, instant{seconds: h.seconds, zoned: z.zoned}
						return instant{t.UTC(), h.seconds, z.zoned}, true
					}
				}
			}
		}
	}
	return instant{}, false
}

// sensible reports whether amateurs were on the air then.
func sensible(t time.Time) bool { return t.Year() >= 1950 && t.Year() < 2200 }

// since1970 reads seconds, milliseconds or microseconds since 1970, by their size.
func (c *clockReader) since1970(text string) (instant, bool) {
	v, ok := plainNumber(text)
	if !ok || v < 9e8 || whole.MatchString(text) && (len(text) == 14 || len(text) == 12) {
		return instant{}, false
	}
	switch {
	case v < 1e11:
	case v < 1e14:
		v /= 1e3
	case v < 1e17:
		v /= 1e6
	default:
		return instant{}, false
	}
	c.epoch = true
	return instant{time.UnixMilli(int64(v * 1000)).UTC(), true, true}, true
}

// dayAndTime joins a date and a time of two cells; a time that lost its first zero has it again.
func dayAndTime(date, clock string) string {
	clock = strings.TrimSpace(clock)
	if whole.MatchString(clock) && (len(clock) == 3 || len(clock) == 5) {
		clock = "0" + clock
	}
	return strings.TrimSpace(date) + " " + clock
}
