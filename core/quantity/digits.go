package quantity

import (
	"math"
	"strconv"
	"strings"
)

// Digits rounds to significant digits, to the float that prints as them.
func Digits(v float64, n int) float64 {
	r, err := strconv.ParseFloat(strconv.FormatFloat(v, 'g', n, 64), 64)
	if err != nil {
		return v
	}
	return r
}

// Signed prints a figure with its sign, which a value that rounds to nothing does not have.
func Signed(v float64, decimals int) string {
	text := strconv.FormatFloat(math.Abs(v), 'f', decimals, 64)
	switch {
	case strings.Trim(text, "0.") == "":
		return text
	case v < 0:
		return "−" + text
	}
	return "+" + text
}
