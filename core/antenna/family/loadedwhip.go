package family

import (
	"fmt"
	"math"

	"reed/core/antenna"
	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/numeric"
	"reed/core/quantity"
)

func loadedWhip() Family {
	return Family{
		ID: "loaded-whip", Name: "Loaded whip with tapped or sliding coil", Short: "loaded whip",
		matters: []string{"whip", "coil_length", "radials_count"},
		wholes:  []whole{{antenna.Radiator, []string{"mast", "whip"}}},
		Group:   "upright, short", Multi: true, Trims: Settings,
		Variants: []Variant{
			{ID: "ground-radials", Name: "radials on the ground", Sketch: Sketch{Wire: "M60 43V37q-8 -2 0 -4t0 -4t0 -4V4",
				Thin: "M60 45H28M60 45H92M60 45L38 49", Feed: [2]float64{60, 43}}},
			{ID: "raised-radials", Name: "raised radials", Sketch: Sketch{Wire: "M60 43V37q-8 -2 0 -4t0 -4t0 -4V4",
				Thin: "M60 45H28M60 45H92M60 45L38 49", Feed: [2]float64{60, 43}}},
		},
		Feeding: Radial, Tuning: tuningWhip, electric: electricLoaded, turns: turnsLoaded, controls: controlsLoaded, mend: mendLoaded,
		fields: func(s antenna.Shape) []entry.Field {
			out := append([]entry.Field{withHelp(askFor(""), "one tap for each, like 7.1 10.12 14.06"), askBuilt("radiator", "Whole radiator")},
				askLoaded(false)...)
			return append(append(out, askFeed), append(askRadials(s), askBearing)...)
		},
		plan: planLoadedWhip, layout: layLoadedWhip, hot: hotCoil,
	}
}

func planLoadedWhip(r antenna.Request, w antenna.Wire, g earth.Ground) antenna.Plan {
	s := r.Shape
	var p antenna.Plan
	x, coil := loadedParts(&s, &p, r.Setting(s.Lowest()).Henries)
	s.Fill(antenna.Radiator, x.Lower+x.Upper)
	k := w.JacketFactor(numeric.Light / r.FrequencyHz / 4)
	p.Expect = radials(&s, r, k, g)
	settings(&p, r, &s, x, coil, 1, func(f float64) float64 {
		if s.Variant == "raised-radials" {
			return 3
		}
		return screenLoss(g, f, s.Radiator().M, s.Radials())
	})
	if coil.Turns > 0 {
		p.Figures = append(p.Figures, figure("Coil", fmt.Sprintf("%.0f turns", coil.Turns),
			fmt.Sprintf("%.3g uH over %s on %s, %s of wire", coil.L()*1e6, fine(r, coil.Winding()), fine(r, coil.Former),
				say(r, coil.WireLength()))))
		p.Pieces = append(p.Pieces, exact("coil wire", "coil wire", 1, coil.WireLength(), allow("leads", quantity.Metres(0.2))))
	}
	p.Pieces = append(p.Pieces, radialPieces(r, s)...)
	p.Sentence = fmt.Sprintf("A coil of %.0f turns under a whip of %s, and a tap for each band.", coil.Turns, say(r, x.Upper))
	p.Expect = "a low feed resistance that only loss brings near 50 ohm: see the table; a match at the base helps"
	p.Shape = s
	kk := (x.Lower + x.Upper) * 4 * r.FrequencyHz / numeric.Light
	p.Factor = antenna.Factor{Value: kk, Lo: kk * 0.97, Hi: kk * 1.03,
		Why: []string{"coil by line theory with average impedances of mast and whip", "the taps hold for these radials and this coax"}}
	p.Schools = append(p.Schools, radialSchools(r, k, g)...)
	if x.Lower == 0 {
		up := x
		up.Lower, up.Upper = (x.Lower+x.Upper)/2, (x.Lower+x.Upper)/2
		f := s.Lowest()
		r1, _ := x.Radiation(f)
		r2, _ := up.Radiation(f)
		p.Schools = append(p.Schools, school("loading", "coil half way up",
			fmt.Sprintf("radiates %.1f ohm instead of %.1f, needs %.3g uH instead of %.3g", r2, r1, up.Reactance(f)/(2*math.Pi*f)*1e6,
				x.Reactance(f)/(2*math.Pi*f)*1e6), "better current below the coil; top-heavy"))
	}
	p.Faults = append(p.Faults, directionFaults(s)...)
	return p
}

func layLoadedWhip(s antenna.Shape) (antenna.Drawing, []antenna.Fault) {
	d, faults := layVertical(s)
	d.Spots = append(d.Spots, antenna.Spot{Kind: "coil", At: antenna.Point{d.Feed[0], d.Feed[1], d.Feed[2] + s.M("mast")}, Text: "coil"})
	if total := s.M("mast") + s.M("whip"); total > 0 && s.Radiator().M > 0 && math.Abs(total-s.Radiator().M) > 0.03*total+0.05 {
		faults = append(faults, antenna.Say("whip", "ask", "mast and whip make %s, not %s; which is wrong?", quantity.Long(total),
			quantity.Long(s.Radiator().M)))
	}
	return d, faults
}
