package family

import (
	"fmt"
	"math"
	"strings"

	"reed/core/antenna"
	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/numeric"
	"reed/core/quantity"
)

func whip() Family {
	return Family{
		ID: "whip", Name: "Telescopic whip set by length", Short: "whip", Group: "upright, short", Multi: true, Trims: Settings,
		matters: []string{"whip_full", "radials_count", "radials_length"},
		Variants: []Variant{
			{ID: "ground-radials", Name: "radials on the ground", Sketch: Sketch{Wire: "M60 42V30M60.5 30V18M61 18V4",
				Thin: "M54 30H66M56 18H66M60 45H28M60 45H92", Feed: [2]float64{60, 42}}},
			{ID: "raised-radials", Name: "raised radials", Sketch: Sketch{Wire: "M60 42V30M60.5 30V18M61 18V4",
				Thin: "M54 30H66M56 18H66M60 45H28M60 45H92", Feed: [2]float64{60, 42}}},
		},
		Feeding: Radial, Tuning: tuningWhip,
		knobs: func(antenna.Shape) []Knob {
			return []Knob{{Field: antenna.Radiator, Piece: "whip, out", Label: "whip", Legs: 1, Way: Slide}}
		}, mend: mendUpright,
		electric: func(s antenna.Shape, _ float64, e *antenna.Electric) {
			e.Knob, e.Longest, e.Diameter = "length", s.M("whip_full"), antenna.Or(s.M("whip_radius"), 0.008)
			if bottom, top, sections := taper(s); sections > 1 {
				e.Diameter, e.Rods = math.Max(bottom, top), antenna.Tapered(0, s.Radiator().M, bottom, top, sections)
			}
		},
		controls: func() []Control {
			return []Control{
				{Field: entry.Field{ID: antenna.Radiator, Label: "Whip out", Kind: entry.Length, Max: 20}, Edge: "the base insulator's top",
					law: rodLaw},
				{Field: entry.Field{ID: "sections", Label: "Sections out", Kind: entry.Amount, Max: 30, Help: "parts of one as a decimal, like 6.5"},
					Edge: "the whip's foot", law: sectionLaw},
			}
		},
		fields: func(s antenna.Shape) []entry.Field {
			out := []entry.Field{withHelp(askFor(""), "one setting for each, like 14.06 21.1 28.1"), askBuilt("radiator", "Whip out"),
				planOnly(askLength("whip_full", "Whip, fully extended", 12)),
				askCount("whip_sections", "in sections", 20), askSize("whip_radius", "Mean diameter", "", 0.1)}
			out = append(append(out, askTaper()...), askFeed)
			return append(out, append(askRadials(s), askBearing)...)
		},
		plan: planWhip, layout: layVertical,
	}
}

// askTaper are the diameters of a rod that tapers.
func askTaper() []entry.Field {
	return []entry.Field{askSize("whip_bottom", "Diameter at its foot", "of a rod that tapers", 0.1), askSize("whip_top",
		"at its top", "", 0.1)}
}

// A telescopic rod's usual diameters in metres, at its foot and at its top.
const usualBottom, usualTop = 0.012, 0.004

// taper are the diameters of a rod at its foot and its top, and in how many sections it goes from one to the other; one
// where it is the same all along.
func taper(s antenna.Shape) (bottom, top float64, sections int) {
	bottom, top = s.M("whip_bottom"), s.M("whip_top")
	if bottom <= 0 || top <= 0 || bottom == top {
		return bottom, top, 1
	}
	return bottom, top, int(math.Max(2, s.N("whip_sections", 10)))
}

// rodOf is a whip's mean diameter, and by how much its taper lengthens it.
func rodOf(s *antenna.Shape, usual float64) (diameter, longer float64) {
	if s.M("whip_radius") == 0 && s.M("whip_bottom") == 0 && s.M("whip_top") == 0 {
		// Its thickness is not given: a uniform rod of the mean diameter would be 3 % too short.
		s.Fill("whip_bottom", usualBottom)
		s.Fill("whip_top", usualTop)
	}
	bottom, top, sections := taper(*s)
	if sections == 1 {
		return s.Fill("whip_radius", usual), 1
	}
	return (bottom + top) / 2, antenna.TaperFactor(2, bottom, top, sections)
}

// tube is a wire of bare metal of a diameter.
func tube(diameter float64) antenna.Wire {
	return antenna.Wire{ID: "tube", Name: "bare tube", Radius: diameter / 2, Outer: diameter / 2, Permittivity: 1}
}

func planWhip(r antenna.Request, w antenna.Wire, g earth.Ground) antenna.Plan {
	s := r.Shape
	full := s.Fill("whip_full", 5.6)
	sections := s.FillNumber("whip_sections", 10)
	mean, longer := rodOf(&s, 0.008)
	rod := tube(mean)
	p := antenna.Plan{}
	t := antenna.Table{Title: "Settings of the whip", Columns: []string{"MHz", "whip out", "sections", "expect"},
		Note: "From the base insulator to the tip. Note the settings that you find: they hold for these radials and this coax."}
	closed := func(f float64) float64 {
		quarter := numeric.Light / f / 4
		return antenna.EndFactor(quarter, rod.Radius) * quarter * longer
	}
	own := closed(r.FrequencyHz)
	k := own * 4 * r.FrequencyHz / numeric.Light
	p.Factor = antenna.Factor{Value: k, Lo: k * 0.97, Hi: k * 1.03,
		Why: []string{fmt.Sprintf("end effect of a rod of %s", fine(r, 2*rod.Radius)), "base fitting and radials move it by a few per cent"}}
	// What radials and soil ask for more on the band that it was solved for they ask for on the others.
	share := 1.0
	if told := s.Radiator().M; told > 0 && told < full {
		share = settle(&p.Factor, told, own) / own
	}
	for _, f := range s.All() {
		l := antenna.Or(r.Setting(f).Size.M, closed(f)*share)
		if l > full {
			x := antenna.Shortened{Upper: full, Uppers: rod.Radius, Factor: 1}.Reactance(f)
			t.Rows = append(t.Rows, []string{quantity.ToKHz(f), say(r, full), "all",
				fmt.Sprintf("too short: %.1f uH at the base", x/(2*math.Pi*f)*1e6)})
			p.Faults = append(p.Faults, antenna.Say("whip_full", "ask",
				"a quarter-wave on %s MHz is %s, longer than the whip: all out it works off resonance, with the SWR that the forecast tells; "+
					"a coil of %.1f uH at the base would tune it", quantity.ToKHz(f), say(r, l), x/(2*math.Pi*f)*1e6))
			continue
		}
		t.Rows = append(t.Rows, []string{quantity.ToKHz(f), say(r, l), fmt.Sprintf("%.1f of %.0f", l/full*sections, sections),
			"36 ohm and the ground's loss"})
	}
	s.Fill(antenna.Radiator, math.Min(full, own))
	k = antenna.EndFactor(numeric.Light/r.FrequencyHz/4, w.EquivalentRadius()) * w.JacketFactor(numeric.Light/r.FrequencyHz/4)
	p.Expect = radials(&s, r, k, g)
	p.Shape, p.Tables = s, []antenna.Table{t}
	p.Pieces = append([]antenna.Piece{exact("whip, out", "whip", 1, s.Radiator().M)}, radialPieces(r, s)...)
	over := "no radials"
	if sets := radialSets(s); len(sets) > 0 {
		var each []string
		for _, set := range sets {
			each = append(each, fmt.Sprintf("%d of %s", set.Count, say(r, set.Length.M)))
		}
		over = "radials: " + strings.Join(each, ", ")
	}
	p.Sentence = fmt.Sprintf("Whip out to %s for %s MHz, %s.", say(r, s.Radiator().M), quantity.ToKHz(r.FrequencyHz), over)
	p.Schools = append(radialSchools(r, k, g), school("loading", "full size by length", "no coil, no coil loss",
		"bands down to a quarter-wave of the whip"), school("loading", "coil at the base", "1 to 10 dB on the low bands",
		"every band with one whip"))
	p.Faults = append(p.Faults, directionFaults(s)...)
	return p
}

// rodLaw: a rod of full size is a share of the quarter-wave, less what fitting and leads add.
func rodLaw(s antenna.Shape) (antenna.Law, bool) {
	return antenna.Law{Of: plain, Against: quarterWave, Mean: [2]float64{-0.02, 0.955}, Spread: [2]float64{0.1, 0.03}, Lo: 0.05,
		Hi: antenna.Or(s.M("whip_full"), 20), Read: 0.003, Rough: 0.004}, true
}

func sectionLaw(s antenna.Shape) (antenna.Law, bool) {
	each := s.Fill("whip_full", 5.6) / s.FillNumber("whip_sections", 10)
	return antenna.Law{Of: plain, Against: quarterWave, Mean: [2]float64{0, 0.955 / each}, Spread: [2]float64{0.6, 0.1 / each}, Lo: 0,
		Hi: s.FillNumber("whip_sections", 10), Read: 0.05, Rough: 0.05}, true
}

// tuningWhip holds the instructions for setting a whip.
var tuningWhip = Tuning{Above: "lengthen the whip, or put turns in", Below: "shorten the whip, or take turns out of the coil"}
