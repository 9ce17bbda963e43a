package family

import (
	"math"
	"strings"
	"testing"

	"reed/core/antenna"
	"reed/core/numeric"
	"reed/core/quantity"
)

// Raised radials carry a band's current only where they are an odd number of its quarter-waves: each band gets its own,
// unless those of another serve it or something was told of them.
func TestEveryBandHasRaisedRadials(t *testing.T) {
	for _, c := range []struct {
		family string
		mhz    []float64
		sets   int
	}{{"multi-vertical", []float64{10.12}, 1}, {"multi-vertical", []float64{10.12, 24.9}, 2}, {"helix", []float64{3.6, 7.1}, 2},
		{"whip", []float64{14.1, 18.1, 28.4}, 3}, {"loaded-whip", []float64{7.1, 21.2}, 1}, // three quarter-waves
		{"whip", []float64{14.1, 18.1, 21.2, 24.9, 28.4}, 5}} {
		r := antenna.Request{Shape: antenna.Shape{Family: c.family, Variant: "raised-radials", FrequencyHz: c.mhz[0] * 1e6}}
		for _, f := range c.mhz[1:] {
			r.More = append(r.More, f*1e6)
		}
		p := Design(r)
		sets := radialSets(p.Shape)
		if len(sets) != c.sets {
			t.Errorf("%s for %v: %d sets of radials, want %d", c.family, c.mhz, len(sets), c.sets)
		}
		for _, f := range c.mhz {
			served := false
			for _, set := range sets {
				quarters := set.Length.M * 4 * f * 1e6 / numeric.Light
				served = served || math.Abs(quarters-1) < 0.12 || math.Abs(quarters-3) < 0.25
			}
			if !served {
				t.Errorf("%s for %v: no radial serves %v MHz: %v", c.family, c.mhz, f, sets)
			}
		}
		pieces := 0
		for _, x := range p.Pieces {
			if strings.HasPrefix(x.Name, "radial") {
				pieces++
			}
		}
		if pieces != c.sets {
			t.Errorf("%s for %v: %d kinds of radials on the cut list, want %d", c.family, c.mhz, pieces, c.sets)
		}
	}
	told := antenna.Request{Shape: antenna.Shape{Family: "whip", Variant: "raised-radials", FrequencyHz: 14.1e6, More: []float64{18.1e6}}}
	told.PutNumber(antenna.RadialsCount, 3)
	if sets := radialSets(Design(told).Shape); len(sets) != 1 || sets[0].Count != 3 {
		t.Errorf("three radials were told: %v", sets)
	}
}

// A wire for bands of which one is no multiple of the lowest serves the others, and says so of that one alone.
func TestABandThatIsNoMultipleIsLeftOut(t *testing.T) {
	for _, c := range []struct {
		all  []float64
		left string
	}{{[]float64{14.1, 21.2, 28.4}, "21.200 MHz"}, {[]float64{7.05, 14.1, 18.1}, "18.100 MHz"}} {
		r := antenna.Request{Shape: antenna.Shape{Family: "end-fed", Variant: "sloper", FrequencyHz: c.all[0] * 1e6}}
		for _, f := range c.all[1:] {
			r.More = append(r.More, f*1e6)
		}
		p := Design(r)
		if halves := p.Shape.Radiator().M * 2 * c.all[0] * 1e6 / numeric.Light; math.Abs(halves-0.93) > 0.04 {
			t.Errorf("%v: %v half-waves of the lowest", c.all, halves)
		}
		said := 0
		for _, f := range p.Faults {
			if strings.Contains(f.Text, "no near multiple") {
				said++
				if !strings.HasPrefix(f.Text, c.left) {
					t.Errorf("%v: %s", c.all, f.Text)
				}
			}
		}
		if said != 1 {
			t.Errorf("%v: %d bands are called no multiple", c.all, said)
		}
	}
}

// An inverted V has room between its legs at every frequency, also where it is trimmed by a tenth.
func TestLegsOfAPlannedVDoNotLieAgainstEachOther(t *testing.T) {
	for _, kind := range []string{"end-fed", "random-wire", "end-fed-loaded"} {
		for _, mhz := range []float64{3.6, 7.1, 14.2, 21.2, 28.4, 50.2} {
			s := Design(antenna.Request{Shape: antenna.Shape{Family: kind, Variant: "inverted-v", FrequencyHz: mhz * 1e6}}).Shape
			leg, rise := 0.9*s.Radiator().M/2, s.PoleHeight().M-s.FeedHeight().M
			if rise > 0.8*leg {
				t.Errorf("%s for %v MHz: legs of %.2f m rise by %.2f m", kind, mhz, leg, rise)
			}
		}
	}
}

// Of wires on one feed one that is three or five quarter-waves long takes the current from that band's own: it is said.
func TestAWireThatTakesAnothersBandIsNamed(t *testing.T) {
	for _, c := range []struct {
		all   []float64
		named string
	}{{[]float64{7.1, 21.2}, "21.200 MHz"}, {[]float64{28.4, 14.1, 7.1}, ""}, {[]float64{3.6, 18.1, 7.1}, "18.100 MHz"},
		{[]float64{10.12, 24.9, 14.1}, ""}, {[]float64{7.05, 10.12, 28.4}, ""}} {
		r := antenna.Request{Shape: antenna.Shape{Family: "multi-vertical", Variant: "ground-radials", FrequencyHz: c.all[0] * 1e6}}
		for _, f := range c.all[1:] {
			r.More = append(r.More, f*1e6)
		}
		said := ""
		for _, f := range Design(r).Faults {
			if strings.Contains(f.Text, "quarter-waves long on") {
				said = f.Text
			}
		}
		if (said == "") != (c.named == "") || said != "" && !strings.Contains(said, "long on "+c.named) {
			t.Errorf("%v: %q, want %q named", c.all, said, c.named)
		}
	}
}

// Shorter raised radials go the way of the longer ones: none hangs straight down however low those end.
func TestShorterRaisedRadialsSlopeAsTheLongerOnes(t *testing.T) {
	s := Design(antenna.Request{Shape: antenna.Shape{Family: "multi-vertical", Variant: "raised-radials", FrequencyHz: 28.1e6,
		More: []float64{10.12e6}}}).Shape
	s.Put(antenna.FeedHeight, quantity.Metres(4.5))
	s.Put(antenna.RadialsHeight, quantity.Metres(1))
	d, faults := Of(s).Layout()
	if len(faults) > 0 {
		t.Fatal(faults)
	}
	var falls []float64
	for _, l := range d.Lines {
		if l.Role == "radial" {
			falls = append(falls, (l.From[2]-l.To[2])/l.Length())
		}
	}
	if len(falls) != 4 {
		t.Fatalf("%d radials, want four", len(falls))
	}
	for _, f := range falls {
		if math.Abs(f-falls[0]) > 0.01 {
			t.Errorf("fall by metre of wire: %.2f", falls)
		}
	}
}
