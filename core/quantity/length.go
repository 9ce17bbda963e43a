// Package quantity reads and prints lengths, frequencies and powers the way people write them.
// Inside the program everything is SI; people's units exist only in this package.
package quantity

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
)

// Metres in one unit of each accepted name (definition: international yard and pound agreement 1959).
const (
	Inch = 0.0254
	Foot = 0.3048
)

// MaxLength is the longest length, in metres, that is read as a length at all.
const MaxLength = 1e6

// maxTyped is the longest text in bytes that is read as one quantity.
const maxTyped = 200

// Reading is a typed quantity as understood: its SI value and every guess that was needed.
type Reading struct {
	Value float64
	Notes []string
}

// SyntaxError says what part of a typed quantity was not understood and shows a form that is.
type SyntaxError struct {
	Text    string
	Problem string
	Example string
}

func (e *SyntaxError) Error() string {
	return fmt.Sprintf("%q: %s; write it like %s", e.Text, e.Problem, e.Example)
}

const lengthExample = `5.28 m, 528 cm or 16' 6 1/2"`

func lengthError(text, format string, args ...any) error {
	return &SyntaxError{Text: text, Problem: fmt.Sprintf(format, args...), Example: lengthExample}
}

var symbols = strings.NewReplacer(
	"\u2032\u2032", `"`, "''", `"`, "\u2019\u2019", `"`,
	"\u2032", "'", "\u2019", "'", "\u2018", "'", "\u00b4", "'", "\u2033", `"`, "\u201d", `"`, "\u201c", `"`,
	"\u2044", "/", "\u2215", "/", "\u00a0", " ", "\u2212", "-", "\u2013", "-", "\u2011", "-", "\t", " ",
	"\u00bd", " 1/2", "\u00bc", " 1/4", "\u00be", " 3/4",
	"\u215b", " 1/8", "\u215c", " 3/8", "\u215d", " 5/8", "\u215e", " 7/8",
	"\u2153", " 1/3", "\u2154", " 2/3",
)

// groupSpace is a thin or no-break space inside a number, as the SI brochure groups digits.
var groupSpace = regexp.MustCompile(`(\d)[\x{2009}\x{202f}](\d{3})`)

func normalise(text string) string {
	s := groupSpace.ReplaceAllString(text, "$1$2")
	return strings.TrimSpace(symbols.Replace(s))
}

var (
	// blankGroups are digits that are grouped by blanks, as the SI brochure writes them: 5 280, 14 200.
	blankGroups = regexp.MustCompile(`(^|[^0-9.,/])([0-9]{1,3})((?: [0-9]{3})+)([^0-9/]|$)`)
	// powers are numbers with a power of ten: 1e-3.
	powers = regexp.MustCompile(`(^|[^0-9A-Za-z.,])([0-9]+(?:[.,][0-9]+)?)[eE]([+-]?[0-9]{1,2})([^0-9A-Za-z.,]|$)`)
	// joined is the dash between feet and inches: 16'-6".
	joined = regexp.MustCompile(`('|ft\.?|feet|foot)\s*-\s*([0-9])`)
)

// plain writes numbers that are grouped by blanks, or have a power of ten, as plain ones, and says how they were read.
func plain(s string) (text string, notes []string) {
	s = powers.ReplaceAllStringFunc(s, func(all string) string {
		m := powers.FindStringSubmatch(all)
		v, err := strconv.ParseFloat(strings.Replace(m[2], ",", ".", 1)+"e"+m[3], 64)
		if err != nil {
			return all
		}
		return m[1] + strconv.FormatFloat(v, 'f', -1, 64) + m[4]
	})
	s = blankGroups.ReplaceAllStringFunc(s, func(all string) string {
		m := blankGroups.FindStringSubmatch(all)
		one := m[2] + strings.ReplaceAll(m[3], " ", "")
		notes = append(notes, m[2]+m[3]+" read as "+one)
		return m[1] + one + m[4]
	})
	return s, notes
}

const number = `[0-9][0-9.,]*|[.,][0-9]+`

var (
	term = regexp.MustCompile(`^\s*(?:([0-9]+)\s*/\s*([0-9]+)|(` + number +
		`)(?:(?:\s+|\s*-\s*)([0-9]+)\s*/\s*([0-9]+))?)\s*([A-Za-z]+\.?|'|")?`)
	unitNames = map[string]string{
		"m": "m", "metre": "m", "metres": "m", "meter": "m", "meters": "m", "mtr": "m",
		"mm": "mm", "millimetre": "mm", "millimetres": "mm", "millimeter": "mm", "millimeters": "mm",
		"cm": "cm", "centimetre": "cm", "centimetres": "cm", "centimeter": "cm", "centimeters": "cm",
		"dm": "dm", "km": "km",
		"'": "ft", "ft": "ft", "foot": "ft", "feet": "ft",
		`"`: "in", "in": "in", "inch": "in", "inches": "in",
		"yd": "yd", "yard": "yd", "yards": "yd",
	}
	unitMetres = map[string]float64{"m": 1, "mm": 1e-3, "cm": 1e-2, "dm": 0.1, "km": 1e3, "ft": Foot, "in": Inch, "yd": 3 * Foot}
)

// ParseLength reads a typed length. defaultUnit ("m", "cm", "mm", "ft" or "in") is the unit that a bare
// number takes. It returns metres, never negative, with a note for every guess. It reads metric and
// imperial forms, several units in falling order (16 ft 6 in), fractions, decimal commas and unicode
// primes. The error is a *SyntaxError that names the part that was not understood.
func ParseLength(text, defaultUnit string) (Reading, error) {
	s := normalise(text)
	if s == "" {
		return Reading{}, lengthError(text, "nothing was typed")
	}
	if len(s) > maxTyped {
		return Reading{}, lengthError(text[:20]+"...", "%d characters are too many", len(text))
	}
	if strings.HasPrefix(s, "-") {
		return Reading{}, lengthError(text, "a length cannot be negative")
	}
	var r Reading
	s, r.Notes = plain(joined.ReplaceAllString(strings.TrimPrefix(s, "+"), "$1 $2"))
	lastUnit, lastWhole := "", true
	for rest := s; strings.TrimSpace(rest) != ""; {
		m := term.FindStringSubmatch(rest)
		if m == nil {
			return Reading{}, lengthError(text, "%q is not a number with a unit", strings.TrimSpace(rest))
		}
		rest = rest[len(m[0]):]
		unit := defaultUnit
		switch {
		case m[6] != "":
			name := strings.TrimSuffix(m[6], ".")
			known, ok := unitNames[strings.ToLower(name)]
			if !ok {
				return Reading{}, lengthError(text, "%q is not a unit of length", m[6])
			}
			if name == "M" {
				r.Notes = append(r.Notes, "M read as metres")
			}
			unit = known
		case lastUnit == "ft":
			unit = "in"
		case lastUnit == "in" && lastWhole && m[1] != "":
			unit = "in" // the fraction behind the mark, as in 6"1/2
		case lastUnit != "":
			return Reading{}, lengthError(text, "%q has no unit after %s", strings.TrimSpace(m[0]), lastUnit)
		case strings.TrimSpace(rest) != "":
			return Reading{}, lengthError(text, "%q has no unit", strings.TrimSpace(m[0]))
		}
		if _, ok := unitMetres[unit]; !ok {
			return Reading{}, lengthError(text, "%q is not a unit of length", unit)
		}
		value, whole, note, err := termValue(m, unit)
		if err != nil {
			return Reading{}, lengthError(text, "%s", err.Error())
		}
		if note != "" {
			r.Notes = append(r.Notes, note)
		}
		if lastUnit != "" {
			if unitMetres[unit] >= unitMetres[lastUnit] && !(unit == "in" && lastUnit == "in" && m[1] != "" && m[6] == "") {
				return Reading{}, lengthError(text, "%s cannot follow %s", unit, lastUnit)
			}
			if !lastWhole {
				return Reading{}, lengthError(text, "a part of a %s and then more in %s contradict each other", lastUnit, unit)
			}
			if value*unitMetres[unit] >= unitMetres[lastUnit]*(1-1e-9) {
				r.Notes = append(r.Notes, fmt.Sprintf("%s %s is one %s or more; added up", trimFloat(value), unit, lastUnit))
			}
		}
		r.Value += value * unitMetres[unit]
		lastUnit, lastWhole = unit, whole
	}
	if r.Value > MaxLength {
		return Reading{}, lengthError(text, "longer than %.0f km", MaxLength/1e3)
	}
	return r, nil
}

func termValue(m []string, unit string) (value float64, whole bool, note string, err error) {
	num, den := m[1], m[2]
	if num == "" {
		num, den = m[4], m[5]
		value, note, err = parseNumber(m[3], unit == "mm" || unit == "Hz" || unit == "kHz")
		if err != nil {
			return 0, false, "", err
		}
	}
	whole = value == math.Trunc(value)
	if num == "" {
		return value, whole, note, nil
	}
	if !whole {
		return 0, false, "", fmt.Errorf("a decimal and a fraction in one number")
	}
	n, errN := strconv.ParseFloat(num, 64)
	d, errD := strconv.ParseFloat(den, 64)
	if errN != nil || errD != nil || d == 0 {
		return 0, false, "", fmt.Errorf("%s/%s is not a fraction", num, den)
	}
	if m[3] != "" && n >= d {
		return 0, false, "", fmt.Errorf("%s/%s after a whole number is not a proper fraction", num, den)
	}
	return value + n/d, false, note, nil
}

// parseNumber reads a number with a point or a comma. Where both stand, the last one is the decimal
// mark. A single comma is a decimal comma, except before exactly three digits of a unit so small that
// thousandths of it mean nothing (grouped); the note names the reading that was chosen.
func parseNumber(s string, smallUnit bool) (value float64, note string, err error) {
	bad := fmt.Errorf("%q is not a number", s)
	comma, point := strings.LastIndex(s, ","), strings.LastIndex(s, ".")
	commas, points := strings.Count(s, ","), strings.Count(s, ".")
	decimal := "."
	switch {
	case comma >= 0 && point >= 0:
		if comma > point {
			decimal = ","
		}
	case commas == 1:
		decimal = ","
		if len(s)-comma == 4 && comma > 0 && comma <= 3 && s[0] != '0' {
			if smallUnit {
				decimal, note = ".", "the comma in "+s+" read as grouping thousands"
			} else {
				note = "the comma in " + s + " read as a decimal comma"
			}
		}
	case points > 1:
		decimal = ","
	}
	group := ","
	if decimal == "," {
		group = "."
	}
	if strings.Count(s, decimal) > 1 {
		return 0, "", bad
	}
	head, tail, _ := strings.Cut(s, decimal)
	if strings.Contains(tail, group) {
		return 0, "", bad
	}
	parts := strings.Split(head, group)
	for i, p := range parts {
		if len(parts) > 1 && (len(p) > 3 || i > 0 && len(p) != 3 || p == "") {
			return 0, "", bad
		}
	}
	value, perr := strconv.ParseFloat(strings.Join(parts, "")+"."+tail+"0", 64)
	if perr != nil || math.IsInf(value, 0) {
		return 0, "", bad
	}
	return value, note, nil
}

func trimFloat(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }

// Metric prints metres to the given step in millimetres (1, 5, 10 ...): millimetres below 10 cm where they count,
// centimetres below 1 m, metres above. A step of zero or less prints to the millimetre.
func Metric(metres float64, stepMM int) string {
	if stepMM < 1 {
		stepMM = 1
	}
	mm := math.Round(metres*1000/float64(stepMM)) * float64(stepMM)
	if mm == 0 {
		mm = 0 // of nothing the sign is lost
	}
	switch a := math.Abs(mm); {
	case a < 100 && stepMM < 10:
		return fmt.Sprintf("%.0f mm", mm)
	case a < 1000 && stepMM >= 10:
		return fmt.Sprintf("%.0f cm", mm/10)
	case a < 1000:
		return fmt.Sprintf("%.1f cm", mm/10)
	case stepMM >= 10:
		return fmt.Sprintf("%.2f m", mm/1000)
	}
	return fmt.Sprintf("%.3f m", mm/1000)
}

// Imperial prints metres in feet and inches to the nearest 1/den inch (8, 16 or 32; anything else means
// 16), with the fraction reduced and carried, so that 12 inches never stand.
func Imperial(metres float64, den int) string {
	if den != 8 && den != 32 {
		den = 16
	}
	sign := ""
	if metres < 0 {
		sign, metres = "-", -metres
	}
	n := int64(math.Floor(metres/Inch*float64(den) + 0.5 + 1e-9)) // a half that floating point made a hair less still goes up
	if n == 0 {
		sign = ""
	}
	feet, rest := n/int64(12*den), n%int64(12*den)
	inches, num := rest/int64(den), rest%int64(den)
	d := int64(den)
	for num > 0 && num%2 == 0 {
		num, d = num/2, d/2
	}
	in := fmt.Sprintf(`%d"`, inches)
	switch {
	case num > 0 && inches == 0:
		in = fmt.Sprintf(`%d/%d"`, num, d)
	case num > 0:
		in = fmt.Sprintf(`%d %d/%d"`, inches, num, d)
	}
	if feet == 0 {
		return sign + in
	}
	return fmt.Sprintf("%s%d' %s", sign, feet, in)
}
