package twin

import (
	"fmt"

	"reed/core/quantity"
)

// Shown is a band's forecast at the end of the coax where it is measured: SWR by frequency in hertz, the soil's range
// of it where that is known there, and a line of words.
type Shown struct {
	Curve []ShownPoint `json:"curve"`
	Low   []float64    `json:"low,omitempty"`
	High  []float64    `json:"high,omitempty"`
	Says  string       `json:"says"`
}

// ShownPoint is the SWR at a frequency in hertz.
type ShownPoint struct {
	F   float64 `json:"hz"`
	SWR float64 `json:"swr"`
}

// Shown is the forecast as an analyser sees it: through the coax at the radio, otherwise where the coax meets the
// antenna. The soil's range is computed at the radio, and holds at the antenna when nothing lies between.
func (b Band) Shown(s Setup, radio bool) Shown {
	out := Shown{}
	for _, p := range b.Curve {
		x := ShownPoint{F: p.F, SWR: p.FeedSWR}
		if radio {
			x.SWR = p.SWR
		}
		out.Curve = append(out.Curve, x)
	}
	_, known := s.Built.Coax.Cable()
	if b.Spread != nil && (radio || !known || s.Built.Coax.Length.M <= 0) {
		out.Low, out.High = b.Spread.Low, b.Spread.High
	}
	swr, f := b.FeedBest, b.FeedBestF
	if radio {
		swr, f = b.BestSWR, b.BestF
	}
	out.Says = fmt.Sprintf("Computed: %s at %s MHz, %.0f %% radiated.", quantity.FineSWR(swr), quantity.ToKHz(f), 100*b.System())
	return out
}
