package kit

import (
	"fmt"
	"math"

	"reed/core/circuit"
	"reed/core/phrase"
	"reed/core/quantity"
)

func aboutWire(p Part, units quantity.System) []phrase.Figure {
	w := p.Wire()
	out := []phrase.Figure{{Label: "Velocity factor", Value: fmt.Sprintf("%.3f", w.JacketFactor(5)),
		Why: "computed from the jacket, on 10 m of wire"}}
	if w.Factor > 0 {
		out[0].Why = "learned from sweeps"
	}
	return append(out, phrase.Figure{Label: "Weight of a metre", Value: fmt.Sprintf("%.1f g", w.Grams)})
}

func aboutTransformer(p Part, units quantity.System) []phrase.Figure {
	ratio := math.Pow(p.N("secondary", 1)/math.Max(p.N("primary", 1), 1), 2)
	out := []phrase.Figure{{Label: "Ratio", Value: fmt.Sprintf("1:%.3g", ratio), Why: fmt.Sprintf("%.0f ohm become 50", 50*ratio)}}
	for _, f := range []float64{3.6e6, 7.1e6, 14.1e6, 28.5e6} {
		if db, how := p.Loss(f, complex(50*ratio, 0)); how != "" {
			out = append(out, phrase.Figure{Label: quantity.MHz(f) + " MHz", Value: fmt.Sprintf("%.1f dB", db), Why: how})
		}
	}
	return out
}

func aboutLossy(c circuit.Coax, length float64) (out []phrase.Figure) {
	for _, f := range []float64{7.1e6, 14.1e6, 28.5e6} {
		out = append(out, phrase.Figure{Label: quantity.MHz(f) + " MHz", Value: fmt.Sprintf("%.2f dB", c.MatchedLoss(f, length)),
			Why: "matched"})
	}
	return out
}

func aboutCoax(p Part, units quantity.System) []phrase.Figure {
	c, ok := p.Line()
	if !ok {
		return nil
	}
	return aboutLossy(c, p.M("length"))
}

func aboutPole(p Part, units quantity.System) []phrase.Figure {
	if u := p.M("usable"); u > 0 {
		return []phrase.Figure{{Label: "Planned with", Value: units.Long(u), Why: "its usable height, not all of it"}}
	}
	return []phrase.Figure{{Label: "Planned with", Value: units.Long(p.M("length")),
		Why: "no usable height is given: a pole under load is never used at its full length"}}
}

func aboutCoil(p Part, units quantity.System) []phrase.Figure {
	c := p.Coil()
	if c.Turns <= 0 {
		return nil
	}
	return []phrase.Figure{{Label: "Inductance", Value: fmt.Sprintf("%.3g uH", c.L()*1e6)},
		{Label: "Self-resonance", Value: fmt.Sprintf("%.1f MHz", c.SelfResonance()/1e6)}}
}

func aboutBattery(p Part, units quantity.System) []phrase.Figure {
	wh := p.N("amp_hours", 0) * p.N("volts", 0)
	out := []phrase.Figure{{Label: "Energy", Value: fmt.Sprintf("%.0f Wh", wh)}}
	if p.N("fuse_a", 0) == 0 {
		out = append(out, phrase.Figure{Label: "Fuse", Value: "none recorded", Why: "put one at the battery: a short circuit in the bag burns"})
	}
	return out
}
