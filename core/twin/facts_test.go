package twin

import (
	"math"
	"slices"
	"testing"

	"reed/core/circuit"
	"reed/core/phrase"
)

func TestABandsForecastIsSaidInFigures(t *testing.T) {
	over := -0.04
	b := Band{F: 7.1e6, WantedSWR: 27, BestSWR: 1.44, BestF: 7.0523e6, Sky: 0.614, CoaxCurrent: 0.02,
		Pattern: Pattern{TakeOff: 32.4, Gain: -1.26, OverQuarter: &over}}
	want := []phrase.Figure{
		{Label: "SWR at 7.100 MHz", Value: "over 20"},
		{Label: "lowest", Value: "1.4", Why: "at 7.052 MHz"},
		{Label: "radiated", Value: "61 %", Why: "of the radio's power"},
		{Label: "take-off", Value: "32°", Why: "−1.3 dBi there"},
		{Label: "at that angle", Value: "0.0 dB", Why: "vs. a full quarter-wave"},
	}
	if got := b.shown(); got.Says != "over 20" || !slices.Equal(got.Facts, want) {
		t.Errorf("got\n%v\nwant\n%v", got.Facts, want)
	}
	// Of what the wires get the coax has taken half: to the sky is told of the radio's power.
	b.Budget = []circuit.Stage{{Name: "coax", DB: 10 * math.Log10(2)}, {Name: "ground", DB: -10 * math.Log10(b.Sky)}}
	b.Spread, b.Setting, b.CoaxCurrent = &Spread{Sky: [2]float64{0.4, 0.7}}, "1.20 m of whip", 0.31
	got := b.facts()
	for _, f := range []phrase.Figure{{Label: "set to", Value: "1.20 m of whip"},
		{Label: "radiated", Value: "20 to 35 %", Why: "of the radio's power, over the soil's range"},
		{Label: "coax carries", Value: "31 %", Why: "of the wire's current, outside"}} {
		if !slices.Contains(got, f) {
			t.Errorf("%v is missing in %v", f, got)
		}
	}
}
