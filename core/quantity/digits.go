package quantity

import "strconv"

// Digits rounds to significant digits, to the float that prints as them.
func Digits(v float64, n int) float64 {
	r, err := strconv.ParseFloat(strconv.FormatFloat(v, 'g', n, 64), 64)
	if err != nil {
		return v
	}
	return r
}
