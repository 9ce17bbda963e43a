package sweep

import (
	"slices"
	"testing"

	"reed/core/band"
	"reed/core/phrase"
)

func TestAReadingIsSaidInFigures(t *testing.T) {
	own := []band.Segment{{Band: "40m", Lo: 7.0e6, Hi: 7.2e6}}
	r := Reading{MinSWR: 1.234, MinAt: 7.0304e6, HasZ: true, R: 41.6, X: -12.4, Limit: 2, Coverage: 87, Measured: 100.4, Own: own,
		Resonances: []Resonance{{F: 7.05e6, R: 44, Kind: "series"}, {F: 7.3e6, R: 900, Kind: "parallel"}, {F: 7.4e6}},
		Widths:     []Width{{Limit: 1.5, Hz: 60e3}, {Limit: 2, Hz: 140e3, Open: true}}, Edges: []Edge{{F: 7e6, SWR: 1.31}, {F: 7.2e6, SWR: 34}}}
	want := []phrase.Figure{
		{Label: "lowest SWR", Value: "1.23", Why: "at 7.030 MHz"},
		{Label: "R and X there", Value: "42 − j12 Ω"},
		{Label: "resonant, X = 0", Value: "7.050", Why: "MHz, series, 44 Ω"},
		{Label: "and", Value: "7.300", Why: "MHz, parallel, 900 Ω"},
		{Label: "width under 2", Value: "over 140 kHz", Why: "under 1.5: 60 kHz"},
		{Label: "segment under 2", Value: "87 %", Why: "7.000: 1.31, 7.200: over 20"},
	}
	if got := Facts(r, Reading{}, ""); !slices.Equal(got, want) {
		t.Errorf("got\n%v\nwant\n%v", got, want)
	}
	t.Run("through a cable, and without phase at the radio", func(t *testing.T) {
		got := Facts(Reading{MinSWR: 1.5, Limit: 2}, Reading{MinSWR: 4.2, HasZ: true}, "10 m of RG-58")
		if got[1] != (phrase.Figure{Label: "at the feed point", Value: "4.20", Why: "without 10 m of RG-58"}) || got[2].Value != "not known" ||
			got[3].Value != "not known" || got[4].Value != "none" || got[5].Value != "none here" {
			t.Error(got)
		}
	})
	t.Run("R and X are the antenna's where the cable is known", func(t *testing.T) {
		got := Facts(Reading{HasZ: true, R: 30, X: 5, Limit: 2}, Reading{HasZ: true, R: 12, X: 80}, "a cable")
		if got[2].Value != "12 + j80 Ω" || got[3].Value != "nowhere here" {
			t.Error(got)
		}
	})
}
