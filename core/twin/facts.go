package twin

import (
	"fmt"
	"math"

	"reed/core/phrase"
	"reed/core/quantity"
)

// facts are the figures of a band's forecast as they are shown.
func (b Band) facts() []phrase.Figure {
	out := []phrase.Figure{
		{Label: "SWR at " + quantity.ToKHz(b.F) + " MHz", Value: quantity.SWR(b.WantedSWR)},
		{Label: "lowest", Value: quantity.SWR(b.BestSWR), Why: "at " + quantity.ToKHz(b.BestF) + " MHz"},
	}
	if n := len(b.Curve); n > 1 && (b.BestF == b.Curve[0].F || b.BestF == b.Curve[n-1].F) {
		out[1].Why += ", where this window ends: the dip lies outside"
		if b.DipF < b.Curve[0].F || b.DipF > b.Curve[n-1].F {
			out[1].Why += ", at " + quantity.ToKHz(b.DipF) + " MHz"
		}
	}
	add := func(label, value, why string) { out = append(out, phrase.Figure{Label: label, Value: value, Why: why}) }
	if b.Setting != "" {
		add("set to", b.Setting, "")
	}
	if b.Spread != nil {
		add("radiated", fmt.Sprintf("%.0f to %.0f %%", 100*b.through()*b.Spread.Sky[0], 100*b.through()*b.Spread.Sky[1]),
			"of the radio's power, over the soil's range")
	} else {
		add("radiated", fmt.Sprintf("%.0f %%", 100*b.System()), "of the radio's power")
	}
	add("take-off", fmt.Sprintf("%.0f°", b.Pattern.TakeOff), fmt.Sprintf("%s dBi there", quantity.Signed(b.Pattern.Gain, 1)))
	label := "at that angle"
	for _, x := range []struct {
		over *float64
		says string
	}{{b.Pattern.OverDipole, "vs. a dipole at the same height"}, {b.Pattern.OverQuarter, "vs. a full quarter-wave"}} {
		if x.over != nil {
			add(label, quantity.Signed(*x.over, 1)+" dB", x.says)
			label = "and"
		}
	}
	if p := b.Pattern; p.NullDB < 0 {
		off := math.Mod(p.Null, 180)
		add("null", fmt.Sprintf("%.0f dB", p.NullDB), fmt.Sprintf("15 degrees up, %.0f degrees from the loop's plane", math.Min(off, 180-off)))
	}
	if b.CoaxCurrent > 0.02 {
		add("coax carries", fmt.Sprintf("%.0f %%", 100*b.CoaxCurrent), "of the wire's current, outside")
	}
	if b.Stay > 0 {
		add("safety distance", b.stays, "near fields, 50 % duty cycle; local rules come first")
	}
	return out
}

// shown puts a finished band's figures into words.
func (b Band) shown() Band {
	b.Says, b.Facts = quantity.SWR(b.WantedSWR), b.facts()
	return b
}
