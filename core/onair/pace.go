package onair

import (
	"fmt"
	"math"
	"time"

	"reed/core/numeric"
)

// Pace is how fast contacts come: how many in the last minutes, and the rate an hour with its 95 % interval.
type Pace struct {
	Minutes int     `json:"minutes"`
	Count   int     `json:"count"`
	PerHour float64 `json:"per_hour"`
	Lo      float64 `json:"lo_per_hour"`
	Hi      float64 `json:"hi_per_hour"`
	Says    string  `json:"says"`
}

// PaceOf is the pace by so many contacts in so many minutes. The interval takes contacts as independent of each other, which
// in a pile-up they are not: it is the least that is unsure.
func PaceOf(minutes, count int) Pace {
	hours := float64(minutes) / 60
	p := Pace{Minutes: minutes, Count: count, PerHour: float64(count) / hours}
	p.Lo, p.Hi = numeric.Poisson(float64(count), hours)
	p.Says = fmt.Sprintf("%.0f an hour, %.0f to %.0f", p.PerHour, math.Floor(p.Lo), math.Ceil(p.Hi))
	return p
}

// Paces are the stretches over which a rate is shown, in minutes.
var Paces = []int{10, 60}

// Since is when a stretch of minutes began.
func Since(now time.Time, minutes int) time.Time {
	return now.Add(-time.Duration(minutes) * time.Minute)
}
