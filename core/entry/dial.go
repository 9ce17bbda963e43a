package entry

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
)

// How a dial is marked, kept as a word beside its number: by numbers (no word), by letters, or as a switch with positions.
const (
	Letters   = "letters"
	Positions = "positions"
)

var (
	letter   = regexp.MustCompile(`^([A-Za-z])(?:[.,](\d))?$`)
	letters  = regexp.MustCompile(`^([A-Za-z])\s*-\s*([A-Za-z])$`)
	position = regexp.MustCompile(`^#\s*(\d+)$`)
)

// ParseDial reads what a dial or a switch stands at: a number, a letter (C, C.3 a little on, C-D half-way), or the position of
// a switch (#3). A letter counts from A as 1.
func ParseDial(text string) (n float64, marked string, err error) {
	text = strings.TrimSpace(text)
	at := func(s string) float64 { return float64(strings.ToUpper(s)[0]-'A') + 1 }
	if m := letter.FindStringSubmatch(text); m != nil {
		tenths, _ := strconv.ParseFloat("0"+m[2], 64)
		return at(m[1]) + tenths/10, Letters, nil
	}
	if m := letters.FindStringSubmatch(text); m != nil {
		a, b := at(m[1]), at(m[2])
		if b != a+1 {
			return 0, "", fmt.Errorf("%q found; half-way is between two letters that stand beside each other, like C-D", text)
		}
		return a + 0.5, Letters, nil
	}
	if m := position.FindStringSubmatch(text); m != nil {
		n, err := strconv.ParseFloat(m[1], 64)
		return n, Positions, err
	}
	if n, err = Number(text); err != nil {
		return 0, "", fmt.Errorf("%q is no reading of a dial; write it like 42, C, C-D, or #3 for a switch", text)
	}
	return n, "", nil
}

// WriteDial writes it as it is read off.
func WriteDial(n float64, marked string) string {
	if marked == Positions {
		return fmt.Sprintf("#%.0f", n)
	}
	if marked != Letters || n < 1 || n >= 27 {
		return strings.TrimSuffix(fmt.Sprintf("%.1f", n), ".0")
	}
	whole := int(n + 0.05)
	tenths := int((n-float64(whole))*10 + 0.5)
	a := string(rune('A' + whole - 1))
	switch {
	case tenths == 0:
		return a
	case tenths == 5 && whole < 26:
		return a + "-" + string(rune('A'+whole))
	}
	return fmt.Sprintf("%s.%d", a, tenths)
}
