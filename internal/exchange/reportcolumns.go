package exchange

import (
	"math"
	"regexp"
	"slices"
	"strings"
	"unicode"

	"reed/core/onair"
	"reed/core/place"
)

// What a column of reception reports may hold.
const (
	asAt       = "at"
	asDate     = "date"
	asTime     = "time"
	asSender   = "sender"
	asReceiver = "receiver"
	asFrom     = "sender's locator"
	asLocator  = "receiver's locator"
	asFreq     = "frequency"
	asBand     = "band"
	asMode     = "mode"
	asSNR      = "snr"
	asPower    = "power"
	asDistance = "distance"
	asCall     = "call" // of one of the two
	asGrid     = "locator"
	asSubmode  = "submode"
)

// reportColumn is a column with what it holds and the unit that its name tells, empty without.
type reportColumn struct {
	name, holds, unit string
}

// wordsOf are the words of a column's name: parted at marks, blanks and capitals, in small letters.
func wordsOf(name string) (out []string) {
	var b strings.Builder
	last := ' '
	for _, r := range name {
		if unicode.IsUpper(r) && unicode.IsLower(last) || !unicode.IsLetter(r) && !unicode.IsDigit(r) {
			b.WriteByte(' ')
		}
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			b.WriteRune(unicode.ToLower(r))
		}
		last = r
	}
	for _, w := range strings.Fields(b.String()) {
		out = append(out, parted(w)...)
	}
	return out
}

// parted takes the side off a word like rxgrid or rcall.
func parted(w string) []string {
	for _, prefix := range []struct{ short, side string }{{"tx", "tx"}, {"rx", "rx"}, {"t", "tx"}, {"r", "rx"}} {
		if rest, ok := strings.CutPrefix(w, prefix.short); ok && len(rest) > 2 && (things[rest] == asCall || things[rest] == asGrid ||
			things[rest] == asPower) {
			return []string{prefix.side, rest}
		}
	}
	return []string{w}
}

// sides are the words that say whose a column is; things those that say what it holds.
var (
	sides = map[string]string{"tx": asSender, "sender": asSender, "transmitter": asSender, "sent": asSender, "heard": asSender,
		"from": asSender,
		"dx":   asSender, "beacon": asSender, "rx": asReceiver, "receiver": asReceiver, "receiving": asReceiver, "reporter": asReceiver,
		"spotter": asReceiver, "monitor": asReceiver, "listener": asReceiver, "skimmer": asReceiver, "by": asReceiver, "operator": asReceiver}
	things = map[string]string{"call": asCall, "callsign": asCall, "sign": asCall, "station": asCall, "loc": asGrid,
		"locator": asGrid, "grid": asGrid,
		"gridsquare": asGrid, "square": asGrid, "qth": asGrid, "mygridsquare": asGrid, "freq": asFreq, "frequency": asFreq, "qrg": asFreq,
		"band": asBand, "mode": asMode, "submode": asSubmode, "snr": asSNR, "sn": asSNR, "db": asSNR, "power": asPower, "pwr": asPower,
		"dbm": asPower, "watts": asPower, "distance": asDistance, "dist": asDistance, "km": asDistance, "miles": asDistance, "date": asDate,
		"time": asTime, "utc": asTime, "timestamp": asAt, "datetime": asAt, "at": asAt, "seconds": asAt, "epoch": asAt, "unix": asAt}
	units = map[string]string{"mhz": "MHz", "khz": "kHz", "hz": "Hz", "dbm": "dBm", "w": "W", "watt": "W", "watts": "W",
		"mw": "mW", "km": "km",
		"mi": "mi", "miles": "mi", "m": "m", "metres": "m", "meters": "m", "local": "local", "utc": "UTC", "gmt": "UTC", "z": "UTC", "ms": "ms"}
)

// columnOf says what a column holds by its name, empty where that tells nothing.
func columnOf(name string) reportColumn {
	c := reportColumn{name: name}
	side, what := "", ""
	words := wordsOf(name)
	plainWords := strings.FieldsFunc(strings.ToLower(name), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
	for i, w := range plainWords { // units have capitals inside
		if u, ok := units[w]; ok && (i > 0 || len(plainWords) == 1 || len(w) > 2) {
			c.unit = u
		}
		if _, ok := units[w]; ok && !slices.Contains(words, w) {
			words = append(words, w)
		}
	}
	sided := 0
	for _, w := range words {
		if s, ok := sides[w]; ok && (side == "" || w == "by") { // "heard by" is the receiver
			side = s
		}
		if _, ok := sides[w]; ok {
			sided++
		}
		if t, ok := things[w]; ok && (what == "" || what == asTime && t == asDate || what == asDate && t == asTime || what == asPower) {
			switch {
			case what == asDate && t == asTime, what == asTime && t == asDate:
				what = asAt
			case what == asPower && t != asPower:
			default:
				what = t
			}
		}
	}
	switch {
	case slices.Contains(words, "snr"), slices.Contains(words, "dbm") && what == asSNR:
		what = asSNR
		if slices.Contains(words, "dbm") {
			what = asPower
		}
	case what == "" && (c.unit == "MHz" || c.unit == "kHz" || c.unit == "Hz"):
		what = asFreq
	case what == "" && c.unit == "W":
		what = asPower
	case slices.Equal(words, []string{"s", "n"}), slices.Equal(words, []string{"s", "n", "db"}):
		what = asSNR
	case slices.Contains(words, "drift"), slices.Contains(words, "azimuth"), slices.Contains(words, "az"), slices.Contains(words, "id"),
		slices.Contains(words, "lat"), slices.Contains(words, "lon"), slices.Contains(words, "country"), slices.Contains(words, "dxcc"):
		return c
	}
	switch what {
	case asCall, "":
		if side != "" && (what == asCall || sided == len(words)) {
			c.holds = side
		} else if what == asCall {
			c.holds = asCall
		}
	case asGrid:
		c.holds = map[string]string{asSender: asFrom, asReceiver: asLocator, "": asGrid}[side]
	default:
		c.holds = what
	}
	return c
}

// holding is the first column that holds something, -1 where none does.
func holding(list []reportColumn, what string) int {
	return slices.IndexFunc(list, func(c reportColumn) bool { return c.holds == what })
}

// complete settles what was left open: the one call or locator without a side belongs to the side that has none.
func complete(list []reportColumn) {
	has := func(what string) bool { return holding(list, what) >= 0 }
	settle := func(open string, order ...string) {
		for i := range list {
			if list[i].holds != open {
				continue
			}
			list[i].holds = ""
			for _, x := range order {
				if !has(x) {
					list[i].holds = x
					break
				}
			}
		}
	}
	settle(asCall, asSender, asReceiver)
	// A locator without a side belongs to the call before it.
	side := ""
	for i := range list {
		switch list[i].holds {
		case asSender, asReceiver:
			side = list[i].holds
		case asGrid:
			if side == asSender && !has(asFrom) && has(asReceiver) {
				list[i].holds = asFrom
			}
		}
	}
	settle(asGrid, asLocator, asFrom)
	if has(asTime) && !has(asDate) && !has(asAt) {
		for i := range list {
			if list[i].holds == asTime {
				list[i].holds = asAt
			}
		}
	}
}

var (
	callCell  = regexp.MustCompile(`^<?[A-Za-z0-9/]{3,15}(-\d{1,2})?>?$`)
	hashed    = regexp.MustCompile(`^<\.{2,}>$|^<[^>]*\?+>$|^#\w+$`)
	floating  = regexp.MustCompile(`^[-+\x{2212}]?\d+(?:[.,]\d+)?$`)
	whole     = regexp.MustCompile(`^[-+\x{2212}]?\d+$`)
	dateLike  = regexp.MustCompile(`^\d{1,4}[-./]\d{1,2}[-./]\d{1,4}$|^(?:20)?[0-3]\d(?:0[1-9]|1[0-2])(?:[0-2]\d|3[01])$`)
	clockLike = regexp.MustCompile(`^\d{1,2}:\d{2}(:\d{2}(\.\d+)?)?Z?$|^[0-2]\d[0-5]\d([0-5]\d)?$`)
	bandCell  = regexp.MustCompile(`(?i)^\d{1,4}c?m$`)
)

// callLike reports whether a cell looks like a call, also in angle brackets or with a figure behind a dash.
func callLike(s string) bool {
	if hashed.MatchString(s) {
		return true
	}
	if !callCell.MatchString(s) || locatorForm.MatchString(s) || bandCell.MatchString(s) {
		return false
	}
	c, _ := bareCall(s)
	_, _, mode := onair.ModeOf(c)
	return onair.IsCall(c) && !mode
}

// bareCall is a call without angle brackets and without a figure behind a dash; changed says that it had them.
func bareCall(s string) (call string, changed bool) {
	call = strings.ToUpper(strings.Trim(strings.TrimSpace(s), "<>"))
	if i := strings.LastIndexByte(call, '-'); i > 0 {
		call = call[:i]
	}
	return call, call != strings.ToUpper(strings.TrimSpace(s))
}

// column describes the cells of a column, from a sample.
type sample struct {
	n, call, locator, at, date, clock, mode, band, number, negative int
	calls                                                           map[string]int
	lo, hi                                                          float64
}

func (s *sample) add(cell string) {
	if cell = strings.TrimSpace(cell); cell == "" {
		return
	}
	s.n++
	if s.calls == nil {
		s.calls = map[string]int{}
	}
	_, _, mode := onair.ModeOf(cell)
	v, numeric := plainNumber(cell)
	switch {
	case mode:
		s.mode++
	case bandCell.MatchString(cell):
		s.band++
	case locatorForm.MatchString(cell):
		s.locator++
	case dateLike.MatchString(cell):
		if s.date++; numeric {
			s.see(v)
		}
	case clockLike.MatchString(cell):
		s.clock++
		if numeric {
			s.see(v)
		}
	case numeric:
		s.see(v)
	case callLike(cell):
		s.call++
		c, _ := bareCall(cell)
		s.calls[onair.BaseCall(c)]++
	default:
		if _, ok := new(clockReader).read(cell); ok {
			s.at++
		}
	}
}

func (s *sample) see(v float64) {
	if s.number++; s.number == 1 {
		s.lo, s.hi = v, v
	}
	if v < 0 {
		s.negative++
	}
	s.lo, s.hi = math.Min(s.lo, v), math.Max(s.hi, v)
}

// guessed says what columns hold that have no names, by what their cells look like.
func guessed(rows [][]string) []reportColumn {
	wide := 0
	for _, r := range rows {
		wide = max(wide, len(r))
	}
	list, all := make([]reportColumn, wide), make([]sample, wide)
	for _, r := range rows {
		for i, c := range r {
			all[i].add(c)
		}
	}
	taken := map[string]bool{}
	take := func(what string, fits func(sample) bool) {
		for i, s := range all {
			if !taken[what] && list[i].holds == "" && s.n > 0 && fits(s) {
				list[i].holds, taken[what] = what, true
			}
		}
	}
	most := func(part func(sample) int) func(sample) bool {
		return func(s sample) bool { return 10*part(s) >= 8*s.n }
	}
	take(asAt, most(func(s sample) int { return s.at }))
	take(asAt, func(s sample) bool { return s.number == s.n && s.lo > 9e8 && s.hi < 2e16 })
	if !taken[asAt] {
		take(asDate, most(func(s sample) int { return s.date }))
		take(asTime, most(func(s sample) int { return s.clock }))
	}
	take(asMode, most(func(s sample) int { return s.mode }))
	take(asBand, most(func(s sample) int { return s.band }))
	var calls []int
	for i, s := range all {
		if list[i].holds == "" && 10*s.call >= 8*s.n && s.n > 0 {
			calls = append(calls, i)
		}
	}
	// Of two columns of calls the one with fewer stations is the sender: many heard one. Where there are as many, the first.
	if len(calls) == 1 { // a list of who heard one
		list[calls[0]].holds = asReceiver
	} else if len(calls) > 1 {
		sender := calls[0]
		if len(all[calls[1]].calls) < len(all[sender].calls) {
			sender = calls[1]
		}
		list[sender].holds = asSender
		for _, i := range calls {
			if i != sender {
				list[i].holds = asReceiver
				break
			}
		}
	}
	// A locator belongs to the call before it.
	side := ""
	for i, s := range all {
		switch {
		case list[i].holds == asSender || list[i].holds == asReceiver:
			side = list[i].holds
		case list[i].holds == "" && s.n > 0 && 10*s.locator >= 8*s.n:
			what := asLocator
			if side == asSender {
				what = asFrom
			}
			if !taken[what] {
				list[i].holds, taken[what] = what, true
			}
		}
	}
	numeric := func(s sample) bool { return 10*s.number >= 8*s.n }
	take(asFreq, func(s sample) bool {
		return numeric(s) && (s.lo >= 1.8 && s.hi < 148 && s.hi-s.lo < 60 && s.negative == 0 && s.lo != math.Trunc(s.lo) ||
			s.lo >= 1800 && s.hi < 6e4 && s.lo != math.Trunc(s.lo) || s.lo >= 1.8e6)
	})
	take(asSNR, func(s sample) bool { return numeric(s) && s.negative > 0 && s.lo >= -50 && s.hi <= 60 })
	if i, unit := distanceBy(list, rows); i >= 0 {
		list[i].holds, list[i].unit, taken[asDistance] = asDistance, unit, true
	}
	take(asDistance, func(s sample) bool { return numeric(s) && s.negative == 0 && s.hi > 360 && s.hi < 20040 })
	take(asSNR, func(s sample) bool { return numeric(s) && s.lo >= -50 && s.hi <= 60 && s.hi > s.lo })
	take(asPower, func(s sample) bool { return numeric(s) && s.lo > 0 && s.hi <= 1500 })
	return list
}

// distanceBy is the column whose numbers are the distances between the locators, in kilometres or miles; -1 where none is.
func distanceBy(list []reportColumn, rows [][]string) (column int, unit string) {
	from, to := holding(list, asFrom), holding(list, asLocator)
	if from < 0 || to < 0 {
		return -1, ""
	}
	for i, c := range list {
		if c.holds != "" {
			continue
		}
		for unit, scale := range map[string]float64{"km": 1e3, "mi": 1609.344} {
			agree, n := 0, 0
			for _, r := range rows {
				if max(i, from, to) >= len(r) {
					continue
				}
				v, ok := plainNumber(r[i])
				a, ok1 := onair.At(r[from])
				b, ok2 := onair.At(r[to])
				if !ok || !ok1 || !ok2 {
					continue
				}
				n++
				if d := place.Distance(a, b); math.Abs(v*scale-d) < 0.06*d+20e3 {
					agree++
				}
			}
			if n > 1 && agree*10 >= n*8 {
				return i, unit
			}
		}
	}
	return -1, ""
}

// plainNumber reads a number with a point or a comma, and whatever minus.
func plainNumber(s string) (float64, bool) {
	if !floating.MatchString(s) {
		return 0, false
	}
	v, err := decimal(strings.ReplaceAll(s, "\u2212", "-"))
	return v, err == nil
}
