package quantity

import "fmt"

// SWR prints a standing wave ratio with honest digits: beyond 20 it is only known to be bad.
func SWR(v float64) string {
	switch {
	case v < 10:
		return fmt.Sprintf("%.1f", v)
	case v <= 20:
		return fmt.Sprintf("%.0f", v)
	}
	return "over 20"
}

// FineSWR keeps the second decimal, as an analyser gives it.
func FineSWR(v float64) string {
	if v < 10 {
		return fmt.Sprintf("%.2f", v)
	}
	return SWR(v)
}
