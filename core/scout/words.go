package scout

import (
	"fmt"
	"math"
	"strings"
)

func sayKM(km float64) string {
	if km < 10 {
		return fmt.Sprintf("%.1f km", km)
	}
	return fmt.Sprintf("%.0f km", km)
}

func degrees(d float64) string { return fmt.Sprintf("%.0f degrees", math.Mod(math.Round(d)+360, 360)) }

// join lists words with commas and an "and".
func join(words []string) string {
	if len(words) < 2 {
		return strings.Join(words, "")
	}
	return strings.Join(words[:len(words)-1], ", ") + " and " + words[len(words)-1]
}
