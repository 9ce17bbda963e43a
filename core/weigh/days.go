package weigh

import (
	"math"
	"slices"
	"time"

	"gonum.org/v1/gonum/stat"
)

// Days is the log's estimate of how much signals differ from day to day: the sum of squares of what is common
// to all receivers, from so many pairs of days.
type Days struct {
	Squares float64
	Pairs   int
}

// sameEars is how many receivers have to have heard an antenna on both days for these to be compared.
const sameEars = 4

// Spread is the day-to-day spread in decibels, what is usual drawn together with what the log says.
func (d Days) Spread() float64 {
	return math.Sqrt((spreadDays*DaySpread*DaySpread + d.Squares) / (spreadDays + float64(d.Pairs)))
}

// free are the degrees of freedom of the spread.
func (d Days) free() float64 { return spreadDays + float64(d.Pairs) }

// Days learns from a pool how days differ: the same antenna, on one band, by the receivers that heard it on a day and on the next that it
// was sent. What was not heard is not counted, so that weak days are taken as somewhat stronger than they were.
func (p *Pool) Days() (d Days) {
	type key struct{ antenna, band string }
	type sums struct{ n, sum float64 }
	all := map[key]map[string]map[int32]*sums{} // by day and receiver
	for _, r := range p.received {
		s := &p.sent[r.slot]
		k, day := key{s.Antenna, s.Band}, s.At.UTC().Format(time.DateOnly)
		if all[k] == nil {
			all[k] = map[string]map[int32]*sums{}
		}
		if all[k][day] == nil {
			all[k][day] = map[int32]*sums{}
		}
		x := all[k][day][r.ear]
		if x == nil {
			x = &sums{}
			all[k][day][r.ear] = x
		}
		x.n, x.sum = x.n+1, x.sum+r.snr-decibels(s.PowerW)
	}
	for _, days := range all {
		names := sortedKeys(days)
		for i := 1; i < len(names); i++ {
			var diff []float64
			for who, x := range days[names[i]] {
				if y := days[names[i-1]][who]; y != nil {
					diff = append(diff, x.sum/x.n-y.sum/y.n)
				}
			}
			if len(diff) < sameEars {
				continue
			}
			slices.Sort(diff) // the order of a map is no order
			mean, variance := stat.MeanVariance(diff, nil)
			d.Squares += math.Max(0, mean*mean-variance/float64(len(diff))) / 2
			d.Pairs++
		}
	}
	return d
}
