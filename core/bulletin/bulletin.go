// Package bulletin reads weather, lightning and space weather as they are typed or pasted from a bulletin, one thing a line,
// and says what follows for those who put up a wire.
package bulletin

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strings"
	"time"

	"reed/core/clock"
	"reed/core/entry"
	"reed/core/sky"
)

// Bulletin holds forecast and observed weather and space weather. Values that it does not give are nil.
type Bulletin struct {
	// Simulated says that it was made up for practice, and is no bulletin of anybody.
	Simulated bool
	Wind      *float64 // m/s
	Gusts     *float64 // m/s
	Low, High *float64 // degrees C
	Rain      *float64 // share of 1
	Thunder   *float64 // share of 1
	Flashes   []Flash
	Sunspots  *float64
	Flux      *float64 // at 10.7 cm, solar flux units
	K         *float64 // planetary index, 0 to 9
}

// Flash is lightning seen or heard: a time of the UTC day, HH:MM, and how far off in kilometres.
type Flash struct {
	At string
	KM float64
}

// Bounds of the 30-minute rule: lightning nearer than Reach kilometres, heard within half a minute, keeps everything down for
// Wait after the last flash. Likely is the share from which a thunderstorm is reckoned with, Storm the K index from which the
// magnetic field is.
const (
	Reach  = 10.0
	Wait   = 30 * time.Minute
	Likely = 0.3
	Storm  = 5.0
)

const number = `(-?\d+(?:[.,]\d+)?)`

var (
	speeds  = `\s*(m/s|km/h|kn|kt|knots|mph)`
	windy   = regexp.MustCompile(`^wind\b[^\d-]*` + number + speeds + `(?:.*?\bgusts?\b[^\d-]*` + number + speeds + `)?$`)
	gusty   = regexp.MustCompile(`^gusts?\b[^\d-]*` + number + speeds + `$`)
	warm    = regexp.MustCompile(`^(?:temperature[^\d-]*)?` + number + `(?:\s*(?:to|\.\.)\s*` + number + `)?\s*(?:degrees\s*|°\s*)?(c|f)$`)
	rainy   = regexp.MustCompile(`^(?:rain|showers)\b[^\d-]*` + number + `\s*%$`)
	thunder = regexp.MustCompile(`^(?:thunder|thunderstorms?)\b[^\d-]*` + number + `\s*%$`)
	likely  = regexp.MustCompile(`^(?:thunder|thunderstorms?)\s+(none|unlikely|possible|likely|expected|warning)$`)
	flash   = regexp.MustCompile(`^(?:lightning|flash|thunder)\s+(?:at\s+)?(\d{1,2}:\d{2})(?:\s+utc)?\s*,?\s+` + number +
		`\s*(km|mi|miles|s)(?:\s+(?:off|away))?$`)
	flux      = regexp.MustCompile(`^(?:solar flux|flux|sfi|f10\.7)[^\d-]*` + number + `$`)
	spots     = regexp.MustCompile(`^(?:sunspots?(?: number)?|ssn)[^\d-]*` + number + `$`)
	planetary = regexp.MustCompile(`^(?:kp|k index|k-index|k)[^\d-]*` + number + `$`)
	separates = regexp.MustCompile(`\s*(?:;|\n|,\s+(?:and\s+)?|\.\s+|\.$)\s*`)
)

// Read reads a bulletin. What is not understood is said and left standing, since bulletins say more than is needed here; what
// cannot be is an error. All faults are of the one field.
func Read(text string) (Bulletin, []entry.Fault) {
	var b Bulletin
	var faults []entry.Fault
	var unread []string
	for _, line := range split(text) {
		switch err := b.take(strings.ToLower(line)); {
		case err == errUnread:
			unread = append(unread, line)
		case err != nil:
			faults = append(faults, entry.Say(Field, "error", "%s", err))
		}
	}
	if len(unread) > 0 {
		faults = append(faults, entry.Say(Field, "ask", "not understood, and so ignored: %q; write like wind 6 m/s gusts 11 m/s, "+
			"thunderstorms 40 %%, lightning 14:20 12 km, flux 140, K 3", strings.Join(unread, "; ")))
	}
	return b, faults
}

// Field is the path of the faults.
const Field = "bulletin"

var errUnread = fmt.Errorf("not understood")

// split takes a text apart where its sentences end; the comma in "lightning 14:20, 12 km" does not end one.
func split(text string) (out []string) {
	for _, s := range separates.Split(strings.TrimSpace(text), -1) {
		s = strings.Trim(s, " .\t\r")
		if s == "" {
			continue
		}
		last := len(out) - 1
		low := strings.ToLower(s)
		if last >= 0 && (strings.HasPrefix(low, "gust") && windy.MatchString(strings.ToLower(out[last])) ||
			flash.MatchString(strings.ToLower(out[last])+" "+low)) {
			out[last] += " " + s
			continue
		}
		out = append(out, s)
	}
	return out
}

// take reads one statement.
func (b *Bulletin) take(line string) error {
	put := func(to **float64, v, lo, hi float64, what string) error {
		if v < lo || v > hi {
			return fmt.Errorf("%s %.4g lies outside of %.4g to %.4g", what, v, lo, hi)
		}
		*to = &v
		return nil
	}
	at := func(m []string, i int) float64 { v, _ := entry.Number(m[i]); return v }
	if line == "simulated" || line == "practice" || strings.HasPrefix(line, "simulated ") {
		b.Simulated = true
		return nil
	}
	if m := windy.FindStringSubmatch(line); m != nil {
		if err := put(&b.Wind, speed(at(m, 1), m[2]), 0, 75, "wind of m/s"); err != nil || m[3] == "" {
			return err
		}
		return put(&b.Gusts, speed(at(m, 3), m[4]), 0, 100, "gusts of m/s")
	}
	if m := gusty.FindStringSubmatch(line); m != nil {
		return put(&b.Gusts, speed(at(m, 1), m[2]), 0, 100, "gusts of m/s")
	}
	if m := warm.FindStringSubmatch(line); m != nil {
		low := celsius(at(m, 1), m[3])
		high := low
		if m[2] != "" {
			high = celsius(at(m, 2), m[3])
		}
		if err := put(&b.Low, math.Min(low, high), -60, 60, "temperature of C"); err != nil {
			return err
		}
		return put(&b.High, math.Max(low, high), -60, 60, "temperature of C")
	}
	if m := rainy.FindStringSubmatch(line); m != nil {
		return put(&b.Rain, at(m, 1)/100, 0, 1, "a share of")
	}
	if m := thunder.FindStringSubmatch(line); m != nil {
		return put(&b.Thunder, at(m, 1)/100, 0, 1, "a share of")
	}
	if m := likely.FindStringSubmatch(line); m != nil {
		shares := map[string]float64{"unlikely": 0.1, "possible": 0.4, "likely": 0.7, "expected": 0.9, "warning": 1}
		return put(&b.Thunder, shares[m[1]], 0, 1, "a share of")
	}
	if m := flash.FindStringSubmatch(line); m != nil {
		return b.flashed(m[1], at(m, 2), m[3])
	}
	for _, x := range []struct {
		is     *regexp.Regexp
		to     **float64
		lo, hi float64
		what   string
	}{{flux, &b.Flux, 60, 400, "a solar flux of"}, {spots, &b.Sunspots, 0, 400, "a sunspot number of"}, {planetary, &b.K, 0, 9,
		"a K index of"}} {
		if m := x.is.FindStringSubmatch(line); m != nil {
			return put(x.to, at(m, 1), x.lo, x.hi, x.what)
		}
	}
	return errUnread
}

// flashed keeps a flash; its distance may be given by the seconds to its thunder, three to a kilometre.
func (b *Bulletin) flashed(at string, far float64, unit string) error {
	t, err := clock.Parse(at)
	if err != nil {
		return fmt.Errorf("%q is not a time of day; write like lightning 14:20 12 km", at)
	}
	switch unit {
	case "mi", "miles":
		far *= 1.609344
	case "s":
		far /= 3
	}
	if far < 0 || far > 500 {
		return fmt.Errorf("lightning %.4g km off lies outside of 0 to 500 km", far)
	}
	b.Flashes = append(b.Flashes, Flash{t.String(), far})
	return nil
}

func speed(v float64, unit string) float64 {
	switch unit {
	case "km/h":
		return v / 3.6
	case "kn", "kt", "knots":
		return v * 1852 / 3600
	case "mph":
		return v * 0.44704
	}
	return v
}

func celsius(v float64, unit string) float64 {
	if unit == "f" {
		return (v - 32) / 1.8
	}
	return v
}

// Blows is the wind in m/s that a pole has to bear, the gusts where they are given; ok is false without either.
func (b Bulletin) Blows() (ms float64, ok bool) {
	for _, v := range []*float64{b.Gusts, b.Wind} {
		if v != nil {
			return *v, true
		}
	}
	return 0, false
}

// Spots is the sunspot number, computed from the flux where only that is given.
func (b Bulletin) Spots() (n float64, ok bool) {
	switch {
	case b.Sunspots != nil:
		return *b.Sunspots, true
	case b.Flux != nil:
		return sky.Sunspots(*b.Flux), true
	}
	return 0, false
}

// Thunders reports whether a thunderstorm is to be reckoned with.
func (b Bulletin) Thunders() bool { return b.Thunder != nil && *b.Thunder >= Likely }

// Clear returns when the 30 minutes after the last flash within reach are over, of the flashes up to a moment, and how far the nearest
// was in kilometres; ok is false where there was none. A flash has a time of day alone: it is the last one before the moment.
func (b Bulletin) Clear(until time.Time) (clear time.Time, nearest float64, ok bool) {
	nearest = math.Inf(1)
	for _, f := range b.Flashes {
		t, err := clock.Parse(f.At)
		if err != nil || f.KM > Reach {
			continue
		}
		at := t.Until(until).Add(Wait)
		if !ok || at.After(clear) {
			clear = at
		}
		nearest, ok = math.Min(nearest, f.KM), true
	}
	return clear, nearest, ok
}

// Write is a bulletin as a text that reads back to it.
func (b Bulletin) Write() string {
	var out []string
	add := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	if b.Simulated {
		add("simulated")
	}
	if b.Wind != nil {
		add("wind %.4g m/s", *b.Wind)
	}
	if b.Gusts != nil {
		add("gusts %.4g m/s", *b.Gusts)
	}
	if b.Low != nil && b.High != nil {
		add("%.4g to %.4g C", *b.Low, *b.High)
	}
	if b.Rain != nil {
		add("rain %.4g %%", 100**b.Rain)
	}
	if b.Thunder != nil {
		add("thunderstorms %.4g %%", 100**b.Thunder)
	}
	flashes := slices.Clone(b.Flashes)
	slices.SortStableFunc(flashes, func(a, b Flash) int { return strings.Compare(a.At, b.At) })
	for _, f := range flashes {
		add("lightning %s %.4g km", f.At, f.KM)
	}
	if b.Sunspots != nil {
		add("sunspots %.4g", *b.Sunspots)
	}
	if b.Flux != nil {
		add("flux %.4g", *b.Flux)
	}
	if b.K != nil {
		add("K %.4g", *b.K)
	}
	return strings.Join(out, "\n")
}
