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

func whipPair() Family {
	return Family{
		ID: "whip-pair", Name: "Pair of loaded whips as a dipole", Short: "whip pair", Group: "fed in the middle", Multi: true, Trims: Settings,
		matters: []string{"whip", "coil_length", "feed_height"},
		wholes:  []whole{{antenna.Radiator, []string{"mast", "whip"}}, {antenna.LegB, []string{"mast", "whip"}}},
		Variants: []Variant{
			{ID: "flat", Name: "flat", Sketch: Sketch{Wire: "M14 20H40q2 -8 4 0t4 0t4 0H68q2 -8 4 0t4 0t4 0H106", Pole: "M60 20V46",
				Feed: [2]float64{60, 20}}},
			{ID: "inverted-v", Name: "in a V", Sketch: Sketch{Wire: "M20 36L60 18L100 36M38 24l6 6M76 30l6 -6", Pole: "M60 18V46",
				Feed: [2]float64{60, 18}}},
		},
		Feeding: Whole, Tuning: tuningWhip, set: setLegs, electric: electricLoaded, turns: turnsLoaded, controls: controlsLoaded,
		mend: mendLoaded,
		fields: func(s antenna.Shape) []entry.Field {
			out := []entry.Field{withHelp(askFor(""), "one tap for each, like 14.06 21.1"), askBuilt("radiator", "First side"),
				askBuilt("leg_b", "Second side")}
			out = append(append(out, askLoaded(true)...), askFeed)
			if s.Variant == "inverted-v" {
				out = append(out, askApex)
			}
			return append(out, askBearing)
		},
		plan: planWhipPair, layout: layWhipPair, hot: hotCoil,
	}
}

func planWhipPair(r antenna.Request, _ antenna.Wire, _ earth.Ground) antenna.Plan {
	s := r.Shape
	var p antenna.Plan
	if s.Sizes["whip"].IsZero() {
		s.Put("whip", quantity.Metres(math.Min(2.5, 0.2*numeric.Light/s.Lowest())))
	}
	x, coil := loadedParts(&s, &p, r.Setting(s.Lowest()).Henries)
	s.Fill(antenna.Radiator, x.Lower+x.Upper)
	s.Fill(antenna.LegB, x.Lower+x.Upper)
	s.Fill(antenna.FeedHeight, antenna.Or(s.PoleHeight().M, 3))
	s.Fill(antenna.PoleHeight, s.FeedHeight().M)
	if s.Variant == "inverted-v" {
		s.PutNumber(antenna.ApexAngle, antenna.Or(s.ApexAngle(), 120))
	}
	// Each side as over a perfect ground: the pair radiates twice that.
	settings(&p, r, &s, x, coil, 2, func(float64) float64 { return 0.5 })
	if coil.Turns > 0 {
		p.Figures = append(p.Figures, figure("Each coil", fmt.Sprintf("%.0f turns", coil.Turns),
			fmt.Sprintf("%.3g uH over %s on %s; wind both alike", coil.L()*1e6, fine(r, coil.Winding()), fine(r, coil.Former))))
		p.Pieces = append(p.Pieces, exact("coil wire", "coil wire", 2, coil.WireLength(), allow("leads", quantity.Metres(0.2))))
	}
	p.Pieces = append(p.Pieces, exact("whip", "whip", 2, x.Upper))
	p.Shape = s
	p.Sentence = fmt.Sprintf("Two coils of %.0f turns, a whip of %s beyond each.", coil.Turns, say(r, x.Upper))
	p.Expect = "a low resistance at the feed and a narrow band; set both sides alike, then move one a little for the match"
	kk := s.Total() * 2 * r.FrequencyHz / numeric.Light
	p.Factor = antenna.Factor{Value: kk, Lo: kk * 0.97, Hi: kk * 1.03,
		Why: []string{"coils by line theory; each side is half of a shortened dipole", "height and surroundings move it by a few per cent"}}
	return p
}

func layWhipPair(s antenna.Shape) (antenna.Drawing, []antenna.Fault) {
	d, faults := layDipole(s)
	d.Lines = antenna.Keep(d.Lines, func(l antenna.Line) bool { return l.Role != "string" })
	for _, l := range d.Lines {
		if l.Role == "radiator" && l.Length() > 0 {
			d.Spots = append(d.Spots, antenna.Spot{Kind: "coil", At: antenna.Between(l.From, l.To, math.Min(1, s.M("mast")/l.Length())),
				Text: "coil"})
		}
	}
	return d, faults
}
