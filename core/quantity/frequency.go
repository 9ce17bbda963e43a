package quantity

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
)

const frequencyExample = "7.032 MHz, 7032 kHz or 7032000 Hz"

var frequencyForm = regexp.MustCompile(`^(` + number + `)\s*([A-Za-z]*)\.?$`)

// ParseFrequency reads a typed frequency and returns hertz. defaultUnit ("MHz", "kHz" or "Hz") is what a
// bare number takes. Zero, negative and unreadable ones are a *SyntaxError. "M" and "k" alone stand for
// MHz and kHz; a small m is refused, since it could only mean metres or milli.
func ParseFrequency(text, defaultUnit string) (Reading, error) {
	fail := func(format string, args ...any) (Reading, error) {
		return Reading{}, &SyntaxError{Text: text, Problem: fmt.Sprintf(format, args...), Example: frequencyExample}
	}
	s := normalise(text)
	if s == "" {
		return fail("nothing was typed")
	}
	if strings.HasPrefix(s, "-") {
		return fail("a frequency cannot be negative")
	}
	s, notes := plain(s)
	m := frequencyForm.FindStringSubmatch(s)
	if m == nil {
		return fail("not a number with a unit")
	}
	unit := m[2]
	if unit == "" {
		unit = defaultUnit
	}
	scale := 0.0
	switch {
	case strings.EqualFold(unit, "mhz") || unit == "M":
		scale = 1e6
	case strings.EqualFold(unit, "khz") || strings.EqualFold(unit, "k"):
		scale = 1e3
	case strings.EqualFold(unit, "hz"):
		scale = 1
	case strings.EqualFold(unit, "ghz"):
		scale = 1e9
	default:
		return fail("%q is not a unit of frequency", unit)
	}
	v, note, err := parseNumber(m[1], scale <= 1e3)
	if err != nil {
		return fail("%v", err)
	}
	if v == 0 {
		return fail("a frequency of zero")
	}
	r := Reading{Value: v * scale, Notes: notes}
	if r.Value > 1e12 {
		return fail("more than 1000 GHz")
	}
	if note != "" {
		r.Notes = append(r.Notes, note)
	}
	return r, nil
}

// MHz prints hertz in megahertz with at least three and at most six decimals.
func MHz(hz float64) string {
	s := strconv.FormatFloat(math.Round(hz)/1e6, 'f', 6, 64)
	for strings.HasSuffix(s, "0") && len(s)-strings.Index(s, ".") > 4 {
		s = s[:len(s)-1]
	}
	return s
}

// ToKHz prints hertz in megahertz to the nearest kilohertz.
func ToKHz(hz float64) string { return MHz(math.Round(hz/1e3) * 1e3) }

// ParsePower reads a typed power such as 5W, 500 mW or 0.1 kW and returns watts. A bare number is watts.
func ParsePower(text string) (float64, error) {
	fail := func(problem string) (float64, error) {
		return 0, &SyntaxError{Text: text, Problem: problem, Example: "5 W or 500 mW"}
	}
	m := frequencyForm.FindStringSubmatch(normalise(text))
	if m == nil {
		return fail("not a number with a unit")
	}
	scale, ok := map[string]float64{"": 1, "W": 1, "w": 1, "mW": 1e-3, "mw": 1e-3, "kW": 1e3, "kw": 1e3}[m[2]]
	if !ok {
		return fail(fmt.Sprintf("%q is not a unit of power", m[2]))
	}
	v, _, err := parseNumber(m[1], false)
	if err != nil {
		return fail(err.Error())
	}
	if v*scale > 1e5 {
		return fail("more than 100 kW")
	}
	return v * scale, nil
}

// Watts prints a power with honest digits.
func Watts(w float64) string {
	switch {
	case w <= 0:
		return "0 W"
	case w < 0.9995:
		return strconv.FormatFloat(w*1000, 'g', 3, 64) + " mW"
	case w < 10:
		return strconv.FormatFloat(math.Round(w*10)/10, 'f', -1, 64) + " W"
	}
	return strconv.FormatFloat(w, 'f', 0, 64) + " W"
}

var frequencyUnit = regexp.MustCompile(`(?i)[0-9]\s*([kmg]?hz\.?|k)$`)

// IsFrequency reports whether a text ends with a unit of frequency, the bare k of kilohertz counted.
func IsFrequency(text string) bool { return frequencyUnit.MatchString(strings.TrimSpace(text)) }
