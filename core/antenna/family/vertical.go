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

func vertical() Family {
	return Family{
		ID: "vertical", Name: "Quarter-wave vertical", Short: "vertical", Group: "upright", Trims: Wired,
		matters: []string{"radials_count", "radials_length"},
		Variants: []Variant{
			{ID: "ground-radials", Name: "radials on the ground",
				Sketch: Sketch{Wire: "M60 44V4", Thin: "M60 45H24M60 45H96M60 45L34 49M60 45L86 49", Feed: [2]float64{60, 44}}},
			{ID: "raised-radials", Name: "raised radials", Sketch: Sketch{Wire: "M60 30V3", Pole: "M60 30V46",
				Thin: "M60 30L26 40M60 30L94 40M60 30L42 43M60 30L78 43", Feed: [2]float64{60, 30}}},
		},
		Feeding: Radial, Why: "The closed form takes a good ground; the solver has your radials and soil.",
		Practice: []Practice{{Variant: "raised-radials", Height: 1.2, LeastHz: 10e6}},
		knobs: func(antenna.Shape) []Knob {
			return []Knob{{Field: antenna.Radiator, Piece: "radiator", Label: "radiator"}}
		}, mend: mendUpright,
		fields: func(s antenna.Shape) []entry.Field {
			out := []entry.Field{askFor(""), askBuilt("radiator", "Radiator"), askFeed, askPole}
			return append(out, append(askRadials(s), askBearing)...)
		},
		plan: planVertical, layout: layVertical,
	}
}

func planVertical(r antenna.Request, w antenna.Wire, g earth.Ground) antenna.Plan {
	lambda := numeric.Light / r.FrequencyHz
	half := lambda / 4
	k := antenna.EndFactor(half, w.EquivalentRadius()) * w.JacketFactor(half)
	f := antenna.Factor{Value: k, Lo: k * 0.975, Hi: k * 1.025, Why: []string{
		fmt.Sprintf("end effect of the wire's thickness %.3f", antenna.EndFactor(half, w.EquivalentRadius())),
		fmt.Sprintf("jacket (permittivity %.2g) %.3f", w.Permittivity, w.JacketFactor(half)),
		"the pole and the radials move it by a few per cent",
	}}
	s := r.Shape
	length := settle(&f, s.Radiator().M, k*lambda/4)
	s.Fill(antenna.Radiator, length)
	expect := radials(&s, r, k, g)
	s.Fill(antenna.PoleHeight, s.FeedHeight().M+s.Radiator().M)
	pieces := append([]antenna.Piece{piece(r, "radiator", 1, length, 1)}, radialPieces(r, s)...)
	return antenna.Plan{Shape: s, Factor: f, Pieces: pieces, Expect: expect, Schools: radialSchools(r, k, g), Faults: directionFaults(s)}
}

func layVertical(s antenna.Shape) (antenna.Drawing, []antenna.Fault) {
	h := s.FeedHeight().M
	feed, top := antenna.Point{0, 0, h}, antenna.Point{0, 0, h + s.Radiator().M}
	var faults []antenna.Fault
	if p := s.PoleHeight().M; p > 0 && s.PoleHeight().Typed != "" && top[2] > p+0.3 {
		faults = append(faults, antenna.Say("pole_height", "ask",
			"the radiator ends %s up, above the pole of %s; is its top folded, or a length wrong?",
			quantity.Long(top[2]), quantity.Long(p)))
	}
	d := antenna.Drawing{Feed: feed, Lines: []antenna.Line{antenna.Pole(0, math.Max(top[2], s.PoleHeight().M)),
		{Role: "radiator", From: feed, To: top, Size: quantity.Metres(s.Radiator().M)}}}
	return d, append(faults, layRadials(s, &d)...)
}
