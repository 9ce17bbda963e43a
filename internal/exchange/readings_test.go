package exchange

import (
	"math"
	"strings"
	"testing"

	"reed/core/sweep"
)

func TestReadingsAreUnderstoodAsPeopleWriteThem(t *testing.T) {
	for _, c := range []struct {
		line string
		mhz  float64
		swr  float64
		note string // part of the echo, empty for none
	}{
		{"14.05 1.3", 14.05, 1.3, ""}, {"14.05 1.3:1", 14.05, 1.3, ""}, {"14.05 1.3 : 1", 14.05, 1.3, ""},
		{"14.05 1:1.3", 14.05, 1.3, ""},
		{"14,05 1,3:1", 14.05, 1.3, ""}, {"14.050 MHz SWR 1.3:1", 14.05, 1.3, ""}, {"14.200 SWR 2.6", 14.2, 2.6, ""},
		{"7.05: 1.4", 7.05, 1.4, ""}, {"7.05 swr=1.4", 7.05, 1.4, ""}, {"lowest 1.3 at 7.088", 7.088, 1.3, ""},
		{"1.3:1 @ 7.088 MHz", 7.088, 1.3, ""},
		{"14.05 >10", 14.05, 10, "SWR over 10"}, {"14.05 > 10", 14.05, 10, "SWR over 10"}, {"14.05 over 10", 14.05, 10, "SWR over 10"},
		{"14.05 10+", 14.05, 10, "SWR over 10"}, {"14.05 inf", 14.05, 20, "SWR over 20"}, {"14.05 off the scale", 14.05, 20, "SWR over 20"},
		{"20m 2.6", 14.175, 2.6, "the middle of the band"}, {"40M 1.8:1", 7.1, 1.8, "the middle of the band"},
		{"14.05 100", 14.05, 100, "is 1.00 meant?"}, {"14.05 130", 14.05, 130, "is 1.30 meant?"},
	} {
		t.Run(c.line, func(t *testing.T) {
			p, err := ParseReadings(c.line, ReadingOptions{})
			if err != nil {
				t.Fatal(err)
			}
			if p.Sweep.Kind != sweep.Magnitude || len(p.Sweep.F) != 1 {
				t.Fatalf("%+v", p.Sweep)
			}
			g := p.Sweep.Re[0]
			if swr := (1 + g) / (1 - g); math.Abs(p.Sweep.F[0]/1e6-c.mhz) > 0.0006 || math.Abs(swr/c.swr-1) > 1e-6 {
				t.Errorf("%.4f MHz, SWR %.3f", p.Sweep.F[0]/1e6, swr)
			}
			var notes []string
			for _, n := range p.Notes {
				if n.Field != "" {
					notes = append(notes, n.Text)
				}
			}
			if said := strings.Join(notes, "; "); c.note == "" != (said == "") || !strings.Contains(said, c.note) {
				t.Errorf("notes: %q", said)
			}
		})
	}
}

func TestReadingWithoutAFrequencyIsRefusedAtItsLine(t *testing.T) {
	for _, line := range []string{"off the scale on every band", "SWR 2.6", "1.3:1", ">10"} {
		if p, err := ParseReadings(line, ReadingOptions{}); err == nil {
			t.Errorf("%q is understood as %+v", line, p.Sweep)
		}
	}
}

// A line that is meant of every band is read once for each frequency that the antenna was made for, and an SWR alone where there is
// one. Each line is echoed.
func TestReadingsOfTheAntennasBandsAreEchoed(t *testing.T) {
	three := ReadingOptions{Wanted: []float64{14.06e6, 10.12e6, 7.03e6}}
	one := ReadingOptions{Wanted: []float64{14.06e6}}
	for _, c := range []struct {
		text string
		of   ReadingOptions
		echo []string
	}{
		{"off the scale on every band", three, []string{"14.060 MHz: SWR over 20", "10.120 MHz: SWR over 20", "7.030 MHz: SWR over 20"}},
		{"SWR 3 everywhere", three, []string{"14.060 MHz: SWR 3.0", "10.120 MHz: SWR 3.0", "7.030 MHz: SWR 3.0"}},
		{"2.6:1", one, []string{"14.060 MHz: SWR 2.6"}}, {">10", one, []string{"14.060 MHz: SWR over 10"}},
		{"14.05 1.3\nlowest 1.2 at 14.1\n7.1 45 -12", one, []string{"14.050 MHz: SWR 1.3", "14.100 MHz: SWR 1.2, the lowest",
			"7.100 MHz: R 45, X -12 ohm, SWR 1.3"}},
		{"14.2 over 10", one, []string{"14.200 MHz: SWR over 10"}},
	} {
		p, err := ParseReadings(c.text, c.of)
		if err != nil {
			t.Errorf("%q: %v", c.text, err)
			continue
		}
		if got := strings.Join(p.Echo, "; "); got != strings.Join(c.echo, "; ") {
			t.Errorf("%q is echoed as %q", c.text, got)
		}
	}
	if _, err := ParseReadings("2.6:1", three); err == nil {
		t.Error("an SWR without a band is taken where there are three")
	}
}

func FuzzReadings(f *testing.F) {
	f.Add("14.05 1.3:1\n20m >10\n7.1 45 -12")
	f.Fuzz(func(t *testing.T, text string) {
		p, err := ParseReadings(text, ReadingOptions{})
		if err != nil {
			return
		}
		for i, g := range p.Sweep.Re {
			if math.IsNaN(g) || g < -1.0001 || g > 1.0001 || p.Sweep.F[i] < 1e6 || p.Sweep.F[i] > 60e6 {
				t.Errorf("%q: point %d is %v at %v Hz", text, i, g, p.Sweep.F[i])
			}
		}
	})
}
