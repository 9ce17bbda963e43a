package weigh

import (
	"fmt"
	"testing"
	"time"

	"reed/core/onair"
)

// What the answer of a million reports takes once they are read.
func BenchmarkAMillionReports(b *testing.B) {
	begun := time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC)
	const receivers, n = 400, 1_000_000
	run := onair.Run{Mode: "WSPR", PowerW: 0.2, Minutes: 5000, Bands: []string{"40m", "20m"},
		Aerials: []onair.Aerial{{Letter: "A"}, {Letter: "B"}}}
	var heard []Heard
	for j := range n / receivers {
		s := onair.PlannedSlot{At: begun.Add(time.Duration(j) * 2 * time.Minute), Band: []string{"40m", "20m"}[j/2%2],
			Letter: []string{"A", "B"}[j%2]}
		run.Slots = append(run.Slots, s)
		for k := range receivers {
			i := j*receivers + k
			d := 0
			if s.Letter == "A" {
				d = 2
			}
			heard = append(heard, Heard{At: s.At, Band: s.Band, Receiver: fmt.Sprintf("Q%d%c%c", k%10, 'A'+k%26, 'A'+k/26), Seconds: true,
				SNR: float64(-24 + (i*7+j*11)%13 + k%9 + d), DistanceM: 1e6, Bearing: 20})
		}
	}
	all := ReportsOf(heard)
	for b.Loop() {
		var p Pool
		p.Add(run, map[string]string{"A": "A", "B": "B"}, all, Filter{})
		if e := p.Evidence("A", "B"); e.Parts[0].Receivers == 0 {
			b.Fatal(e.Says)
		}
	}
}
