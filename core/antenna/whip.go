package antenna

import (
	"fmt"
	"math"
	"strings"

	"reed/core/circuit"
	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/quantity"
)

func whip() Family {
	return Family{
		ID: "whip", Name: "Telescopic whip set by length", Short: "whip", Group: "upright", Multi: true, Trims: "settings",
		Variants: radialVariants,
		fields: func(s Shape) []entry.Field {
			out := []entry.Field{withHelp(askFor(""), "one setting for each, like 14.06 21.1 28.1"), askBuilt("radiator", "Whip out"), planOnly(askLength("whip_full", "Whip, all out", 12)),
				planOnly(askCount("whip_sections", "in sections", 20)), askSize("whip_radius", "Mean diameter", "", 0.1), askFeed}
			return append(out, append(askRadials(s.Variant == "raised-radials"), askBearing)...)
		},
		plan: planWhip, layout: layVertical,
	}
}

// tube is a wire of bare metal of a diameter.
func tube(diameter float64) Wire {
	return Wire{ID: "tube", Name: "bare tube", Radius: diameter / 2, Outer: diameter / 2, Permittivity: 1}
}

func planWhip(r Request, w Wire, g earth.Ground) Plan {
	s := r.Shape
	full := s.size("whip_full", 5.6)
	sections := s.number("whip_sections", 10)
	rod := tube(s.size("whip_radius", 0.008))
	p := Plan{}
	t := Table{Title: "Settings of the whip", Columns: []string{"MHz", "whip out", "sections", "expect"}, Note: "From the base insulator to the tip. Note the settings that you find: they hold for these radials and this coax."}
	for _, f := range s.All() {
		quarter := Light / f / 4
		l := endFactor(quarter, rod.Radius) * quarter
		if f == r.FrequencyHz {
			p.Factor = Factor{Value: l / quarter, Lo: l / quarter * 0.97, Hi: l / quarter * 1.03, Why: []string{fmt.Sprintf("end effect of a rod of %s", r.fine(2*rod.Radius)), "base fitting and radials move it by a few per cent"}}
		}
		if l > full {
			x := shortened{upper: full, uppers: rod.Radius, factor: 1}.reactance(f)
			t.Rows = append(t.Rows, []string{quantity.ToKHz(f), r.say(full), "all", fmt.Sprintf("too short: %.1f uH at the base", x/(2*math.Pi*f)*1e6)})
			p.Faults = append(p.Faults, fault("whip_full", "ask", fmt.Sprintf("a quarter-wave on %s MHz is %s, longer than the whip: load it, or leave the band out", quantity.ToKHz(f), r.say(l))))
			continue
		}
		t.Rows = append(t.Rows, []string{quantity.ToKHz(f), r.say(l), fmt.Sprintf("%.1f of %.0f", l/full*sections, sections), "36 ohm and the ground's loss"})
	}
	s.Radiator = lengthOr(s.Radiator, math.Min(full, p.Factor.Value*Light/r.FrequencyHz/4))
	k := endFactor(Light/r.FrequencyHz/4, w.EquivalentRadius()) * w.JacketFactor(Light/r.FrequencyHz/4)
	p.Expect = s.radials(r, k, g)
	p.Shape, p.Tables = s, []Table{t}
	p.Pieces = []Piece{exact("whip, out", "whip", 1, s.Radiator.M), piece(r, "radial", s.Radials.Count, s.Radials.Length.M, 1)}
	p.Sentence = fmt.Sprintf("Whip out to %s for %s MHz, %d radials of %s.", r.say(s.Radiator.M), quantity.ToKHz(r.FrequencyHz), s.Radials.Count, r.say(s.Radials.Length.M))
	p.Schools = append(radialSchools(r, k, g), School{"loading", "full size by length", "no coil, no coil loss", "bands down to a quarter-wave of the whip"}, School{"loading", "coil at the base", "1 to 10 dB on the low bands", "every band with one whip"})
	p.Faults = append(p.Faults, s.directionFaults()...)
	return p
}

func loadedWhip() Family {
	return Family{
		ID: "loaded-whip", Name: "Loaded whip with tapped or sliding coil", Short: "loaded whip", Group: "upright", Multi: true, Trims: "settings",
		Variants: radialVariants,
		fields: func(s Shape) []entry.Field {
			out := append([]entry.Field{withHelp(askFor(""), "one tap for each, like 7.1 10.12 14.06"), askBuilt("radiator", "Whole radiator")}, askLoaded(false)...)
			return append(append(out, askFeed), append(askRadials(s.Variant == "raised-radials"), askBearing)...)
		},
		plan: planLoadedWhip, layout: layLoadedWhip, hot: hotCoil,
	}
}

func askLoaded(pair bool) []entry.Field {
	mast := "Mast below the coil"
	if pair {
		mast = "Rod inside the coil"
	}
	return []entry.Field{withHelp(askLength("mast", mast, 10), "0 for a coil at the feed"), askLength("whip", "Whip beyond the coil", 12), askSize("whip_radius", "Mean diameter", "", 0.1),
		askSize("coil_former", "Coil on a former of", "outer diameter", 0.3), askSize("coil_wire", "wound with wire of", "bare diameter", 0.005), askSize("coil_length", "Winding", "length", 1)}
}

// loadedParts fills in what was left open of a loaded whip and builds its picture and its coil for the
// lowest frequency.
func (s *Shape) loadedParts(p *Plan) (shortened, circuit.Coil) {
	rod := s.size("whip_radius", 0.006) / 2
	x := shortened{lower: s.size("mast", 0), upper: s.size("whip", 2.5), radius: math.Max(rod, 0.008), uppers: rod, factor: 1}
	coil := circuit.Coil{Former: s.size("coil_former", 0.05), Wire: s.size("coil_wire", 0.001)}
	low := s.lowest()
	need := x.reactance(low) / (2 * math.Pi * low)
	coil.Pitch = coil.Wire * 2
	if need <= 0 {
		p.Faults = append(p.Faults, fault("whip", "ask", fmt.Sprintf("mast and whip are longer than a quarter-wave on %s MHz: no coil is needed, shorten the whip", quantity.ToKHz(low))))
		return x, coil
	}
	coil.Length = s.M("coil_length")
	// The coil's own capacitance raises what it shows: the winding is made for what is left.
	for range 6 {
		n, ok := coil.TurnsFor(need)
		if !ok {
			p.Faults = append(p.Faults, fault("coil_former", "error", fmt.Sprintf("%.3g uH cannot be wound on this former", need*1e6)))
			return x, coil
		}
		coil.Turns = n
		k := 1 - math.Pow(low/coil.SelfResonance(), 2)
		if k < 0.3 {
			p.Faults = append(p.Faults, fault("coil_former", "ask", fmt.Sprintf("the coil for %s MHz is near its own resonance; a longer whip or a wider former helps", quantity.ToKHz(low))))
			break
		}
		need = x.reactance(low) / (2 * math.Pi * low) * k
	}
	if coil.Crowded() {
		p.Faults = append(p.Faults, fault("coil_length", "error", fmt.Sprintf("%.0f turns of this wire do not fit on that winding", coil.Turns)))
	}
	coil.Length = coil.Winding()
	s.size("coil_length", coil.Length)
	return x, coil
}

// tapFor is the number of turns in circuit that show an inductance at f, the capacitance counted.
func tapFor(c circuit.Coil, f, henries float64) (float64, bool) {
	return bisect(func(n float64) float64 {
		part := c
		part.Turns, part.Length = n, c.Winding()*n/c.Turns
		l, _, _, ok := part.At(f)
		if !ok {
			return 1
		}
		return l - henries
	}, 0.05, c.Turns*1.0001)
}

// settings tabulates a loaded whip band by band: sides is 1 against ground and 2 for a pair, loss the
// ground's resistance in ohms by frequency.
func (p *Plan) settings(r Request, s *Shape, x shortened, coil circuit.Coil, sides float64, loss func(f float64) float64) {
	t := Table{Title: "Taps by band", Columns: []string{"MHz", "coil", "turns", "tap at", "Q", "radiates", "feed", "to the sky"},
		Note: "Tap from the end of the winding nearer the feed, the rest shorted or left open as you build it; a sliding contact stands at the same place."}
	strip := Strip{Title: "Taps of the coil", Edge: "the end of the winding nearer the feed", MM: coil.Winding() * 1000, Marks: []Mark{}}
	for i, f := range s.All() {
		l := x.reactance(f) / (2 * math.Pi * f)
		rad, at := x.radiation(f)
		if l <= 0 {
			t.Rows = append(t.Rows, []string{quantity.ToKHz(f), "none", "0", "none", "", fmt.Sprintf("%.1f ohm", sides*rad), "shorten the whip", ""})
			continue
		}
		n, ok := tapFor(coil, f, l)
		if !ok {
			t.Rows = append(t.Rows, []string{quantity.ToKHz(f), fmt.Sprintf("%.3g uH", l*1e6), "more than it has", "", "", fmt.Sprintf("%.1f ohm", sides*rad), "", ""})
			continue
		}
		part := coil
		part.Turns, part.Length = n, coil.Winding()*n/coil.Turns
		res, q := coilLoss(part, f)
		ground := loss(f)
		feed := sides*rad + sides*res*at*at + ground
		lost := func(share float64) float64 {
			return 10 * math.Log10(sides*rad/(sides*rad+sides*res*share*at*at+ground))
		}
		mm := n / coil.Turns * strip.MM
		t.Rows = append(t.Rows, []string{quantity.ToKHz(f), fmt.Sprintf("%.3g uH", l*1e6), fmt.Sprintf("%.1f", n), r.fine(mm / 1000), fmt.Sprintf("%.0f", two(q)), fmt.Sprintf("%.1f ohm", sides*rad),
			fmt.Sprintf("%.0f ohm", feed), decibels(lost(1.4), lost(0.8))})
		strip.Marks = append(strip.Marks, Mark{mm, quantity.ToKHz(f)})
		if i == len(s.All())-1 {
			amps := math.Sqrt(or(r.PowerW, 10) / feed)
			volts := amps * at * 2 * math.Pi * f * l * math.Sqrt2
			p.Figures = append(p.Figures, Figure{"Voltage across the coil", fmt.Sprintf("%.0f V peak", two(volts)), fmt.Sprintf("%s into %.0f ohm on %s MHz", quantity.Watts(or(r.PowerW, 10)), feed, quantity.ToKHz(f))})
			// A longer whip above means a smaller coil and less loss: said with its figure.
			longer := x
			longer.upper *= 1.5
			if l2 := longer.reactance(f) / (2 * math.Pi * f); l2 > 0 {
				rad2, at2 := longer.radiation(f)
				res2 := res * l2 / l
				gain := 10*math.Log10(rad2*sides/(sides*rad2+sides*res2*at2*at2+ground)) - lost(1)
				p.Schools = append(p.Schools, School{"loading", fmt.Sprintf("whip of %s instead of %s", r.say(longer.upper), r.say(x.upper)), fmt.Sprintf("%.1f dB more on %s MHz, %.3g uH instead of %.3g", gain, quantity.ToKHz(f), l2*1e6, l*1e6), "a smaller coil, less loss, more wind"})
			}
		}
	}
	p.Tables = append(p.Tables, t)
	if strip.MM > 0 && strip.MM <= 270 && len(strip.Marks) > 0 {
		p.Strips = append(p.Strips, strip)
	}
}

// decibels prints a range of losses with honest digits.
func decibels(lo, hi float64) string {
	if lo > -0.75 {
		return "under 1 dB lost"
	}
	if lo > -3 {
		return fmt.Sprintf("%.1f to %.1f dB", lo, math.Min(hi, -0.05))
	}
	if math.Round(lo) == math.Round(hi) {
		return fmt.Sprintf("%.0f dB", lo)
	}
	return fmt.Sprintf("%.0f to %.0f dB", lo, math.Min(hi, -0.6))
}

// hotCoil is the peak voltage across the loading coil on the lowest frequency, with no loss in the ground
// to share the power: the highest that it can be.
func hotCoil(s Shape, powerW float64) (string, float64) {
	s = s.copied()
	x, coil := s.loadedParts(&Plan{})
	f := s.lowest()
	need := x.reactance(f)
	if need <= 0 || coil.Turns <= 0 {
		return "", 0
	}
	rad, at := x.radiation(f)
	res, _ := coilLoss(coil, f)
	sides := float64(s.Legs())
	return "the coil's upper end and the whip's tip", math.Sqrt(powerW/(sides*(rad+res*at*at))) * at * need * math.Sqrt2
}

func planLoadedWhip(r Request, w Wire, g earth.Ground) Plan {
	s := r.Shape
	var p Plan
	x, coil := s.loadedParts(&p)
	s.Radiator = lengthOr(s.Radiator, x.lower+x.upper)
	k := w.JacketFactor(Light / r.FrequencyHz / 4)
	p.Expect = s.radials(r, k, g)
	p.settings(r, &s, x, coil, 1, func(f float64) float64 {
		if s.Variant == "raised-radials" {
			return 3
		}
		return screenLoss(g, f, s.Radiator.M, s.Radials)
	})
	if coil.Turns > 0 {
		p.Figures = append(p.Figures, Figure{"Coil for the lowest band", fmt.Sprintf("%.1f turns", coil.Turns), fmt.Sprintf("%.3g uH over %s on %s, %s of wire", coil.L()*1e6, r.fine(coil.Winding()), r.fine(coil.Former), r.say(coil.WireLength()))})
		p.Pieces = append(p.Pieces, exact("coil wire", "coil wire", 1, coil.WireLength(), Allowance{"leads", quantity.Metres(0.2)}))
	}
	p.Pieces = append(p.Pieces, piece(r, "radial", s.Radials.Count, s.Radials.Length.M, 1))
	p.Sentence = fmt.Sprintf("%.0f turns for %s MHz under a whip of %s, and a tap for each other band.", coil.Turns, quantity.ToKHz(s.lowest()), r.say(x.upper))
	p.Expect = "a low feed resistance that only loss brings near 50 ohm: see the table; a match at the base helps"
	p.Shape = s
	kk := (x.lower + x.upper) * 4 * r.FrequencyHz / Light
	p.Factor = Factor{Value: kk, Lo: kk * 0.97, Hi: kk * 1.03, Why: []string{"coil by line theory with average impedances of mast and whip", "the taps hold for these radials and this coax"}}
	p.Schools = append(p.Schools, radialSchools(r, k, g)...)
	if x.lower == 0 {
		up := x
		up.lower, up.upper = (x.lower+x.upper)/2, (x.lower+x.upper)/2
		f := s.lowest()
		r1, _ := x.radiation(f)
		r2, _ := up.radiation(f)
		p.Schools = append(p.Schools, School{"loading", "coil half way up", fmt.Sprintf("radiates %.1f ohm instead of %.1f, needs %.3g uH instead of %.3g", r2, r1, up.reactance(f)/(2*math.Pi*f)*1e6, x.reactance(f)/(2*math.Pi*f)*1e6), "better current below the coil; top-heavy"})
	}
	p.Faults = append(p.Faults, s.directionFaults()...)
	return p
}

func layLoadedWhip(s Shape) (Drawing, []Fault) {
	d, faults := layVertical(s)
	d.Spots = append(d.Spots, Spot{"coil", Point{d.Feed[0], d.Feed[1], d.Feed[2] + s.M("mast")}, "coil"})
	if total := s.M("mast") + s.M("whip"); total > 0 && s.Radiator.M > 0 && math.Abs(total-s.Radiator.M) > 0.03*total+0.05 {
		faults = append(faults, fault("whip", "ask", fmt.Sprintf("mast and whip make %s, not %s; which is wrong?", quantity.Metric(total, 10), quantity.Metric(s.Radiator.M, 10))))
	}
	return d, faults
}

func whipPair() Family {
	return Family{
		ID: "whip-pair", Name: "Pair of loaded whips as a dipole", Short: "whip pair", Group: "balanced", Multi: true, Trims: "settings",
		Variants: []Variant{{"flat", "flat"}, {"inverted-v", "in a V"}},
		fields: func(s Shape) []entry.Field {
			out := []entry.Field{withHelp(askFor(""), "one tap for each, like 14.06 21.1"), askBuilt("radiator", "First side"), askBuilt("leg_b", "Second side")}
			out = append(append(out, askLoaded(true)...), askFeed)
			if s.Variant == "inverted-v" {
				out = append(out, askApex)
			}
			return append(out, askBearing)
		},
		plan: planWhipPair, layout: layWhipPair, hot: hotCoil,
	}
}

func planWhipPair(r Request, _ Wire, _ earth.Ground) Plan {
	s := r.Shape
	var p Plan
	if s.Sizes["whip"].IsZero() {
		s.Put("whip", quantity.Metres(math.Min(2.5, 0.2*Light/s.lowest())))
	}
	x, coil := s.loadedParts(&p)
	s.Radiator, s.LegB = lengthOr(s.Radiator, x.lower+x.upper), lengthOr(s.LegB, x.lower+x.upper)
	s.FeedHeight = lengthOr(s.FeedHeight, or(s.PoleHeight.M, 3))
	s.PoleHeight = lengthOr(s.PoleHeight, s.FeedHeight.M)
	if s.Variant == "inverted-v" {
		s.ApexAngle = or(s.ApexAngle, 120)
	}
	// Each side as over a perfect ground: the pair radiates twice that.
	p.settings(r, &s, x, coil, 2, func(float64) float64 { return 0.5 })
	if coil.Turns > 0 {
		p.Figures = append(p.Figures, Figure{"Each coil for the lowest band", fmt.Sprintf("%.1f turns", coil.Turns), fmt.Sprintf("%.3g uH over %s on %s; wind both alike", coil.L()*1e6, r.fine(coil.Winding()), r.fine(coil.Former))})
		p.Pieces = append(p.Pieces, exact("coil wire", "coil wire", 2, coil.WireLength(), Allowance{"leads", quantity.Metres(0.2)}))
	}
	p.Pieces = append(p.Pieces, exact("whip", "whip", 2, x.upper))
	p.Shape = s
	p.Sentence = fmt.Sprintf("Two coils of %.0f turns, a whip of %s beyond each.", coil.Turns, r.say(x.upper))
	p.Expect = "a low resistance at the feed and a narrow band; set both sides alike, then move one a little for the match"
	kk := s.Total() * 2 * r.FrequencyHz / Light
	p.Factor = Factor{Value: kk, Lo: kk * 0.97, Hi: kk * 1.03, Why: []string{"coils by line theory; each side is half of a shortened dipole", "height and surroundings move it by a few per cent"}}
	return p
}

func layWhipPair(s Shape) (Drawing, []Fault) {
	d, faults := layDipole(s)
	d.Lines = keep(d.Lines, func(l Line) bool { return l.Role != "string" })
	for _, l := range d.Lines {
		if l.Role == "radiator" && l.Length() > 0 {
			d.Spots = append(d.Spots, Spot{"coil", between(l.From, l.To, math.Min(1, s.M("mast")/l.Length())), "coil"})
		}
	}
	return d, faults
}

func keep(lines []Line, good func(Line) bool) (out []Line) {
	for _, l := range lines {
		if good(l) {
			out = append(out, l)
		}
	}
	return out
}

func helix() Family {
	return Family{
		ID: "helix", Name: "Helix wound on a short pole", Short: "helix", Group: "upright", Trims: "loaded",
		Variants: radialVariants,
		fields: func(s Shape) []entry.Field {
			out := []entry.Field{askFor(""), askRadiator("radiator", "Wound length", 12), askSize("helix_diameter", "Wound on", "outer diameter of the pole", 0.3),
				withHelp(entry.Field{ID: "helix_turns", Label: "Turns", Kind: entry.Amount, Max: 5000, Only: "built"}, ""), askFeed}
			return append(out, append(askRadials(s.Variant == "raised-radials"), askBearing)...)
		},
		plan: planHelix, layout: layHelix,
	}
}

// HelixFactor is the velocity on a helix of n turns a metre and diameter d (m), against light, at a
// wavelength in metres: 1/sqrt(1 + 20 (nd)^2.5 (d/lambda)^0.5) (Kandoian and Sichak 1953).
func HelixFactor(n, d, lambda float64) float64 {
	return 1 / math.Sqrt(1+20*math.Pow(n*d, 2.5)*math.Sqrt(d/lambda))
}

// HelixTurns is the number of turns a metre that makes a length (m) a quarter-wave; 0 when it is longer
// than one already.
func HelixTurns(length, d, lambda float64) float64 {
	v := 4 * length / lambda
	if v >= 1 {
		return 0
	}
	return math.Pow((1/(v*v)-1)/(20*math.Sqrt(d/lambda)), 0.4) / d
}

func planHelix(r Request, w Wire, g earth.Ground) Plan {
	s := r.Shape
	lambda := Light / r.FrequencyHz
	length := lengthOr(s.Radiator, math.Min(2.5, lambda/8))
	s.Radiator = length
	d := s.size("helix_diameter", 0.03)
	n := HelixTurns(length.M, d, lambda)
	turns := s.N("helix_turns", n*length.M)
	n = turns / length.M
	s.PutNumber("helix_turns", math.Round(turns*10)/10)
	wireLength := math.Hypot(turns*math.Pi*(d+2*w.Outer), length.M)
	p := Plan{}
	if n == 0 {
		p.Faults = append(p.Faults, fault("radiator", "error", fmt.Sprintf("%s is a full quarter-wave on %s MHz already: no helix is needed", r.say(length.M), quantity.ToKHz(r.FrequencyHz))))
		wireLength = length.M
	}
	if n > 0 && 1/n < 2*w.Outer {
		p.Faults = append(p.Faults, fault("helix_diameter", "ask", fmt.Sprintf("%.0f turns of a wire %s thick do not fit on %s; a thicker pole or a longer winding does it", turns, r.fine(2*w.Outer), r.say(length.M))))
	}
	if n > 0 && n*d*d/lambda > 0.2 {
		p.Faults = append(p.Faults, fault("helix_diameter", "ask", "n d^2/lambda passes 0.2: the slow-wave formula is used outside its range"))
	}
	p.Expect = s.radials(r, w.JacketFactor(lambda/4), g)
	radiation := math.Pow(25.3*length.M/lambda, 2)
	pitch := length.M
	if turns > 0 {
		pitch = length.M / turns
	}
	res := 0.5 * circuit.SkinResistance(r.FrequencyHz, wireLength, w.Radius, circuit.CopperResistivity) // sinusoidal current: half of it counts
	ground := screenLoss(g, r.FrequencyHz, math.Max(length.M, 0.05*lambda), s.Radials)
	if s.Variant == "raised-radials" {
		ground = 3
	}
	eff := 10 * math.Log10(radiation/(radiation+res*1.5+ground))
	hi := 10 * math.Log10(radiation/(radiation+res+ground))
	p.Figures = []Figure{
		{"Turns", fmt.Sprintf("%.0f", turns), fmt.Sprintf("one every %s; trim by taking turns off the top", r.fine(pitch))},
		{"Wave on it", fmt.Sprintf("%.0f %% of light", 100*4*length.M/lambda), "slow-wave factor of Kandoian and Sichak, within about 5 %"},
		{"Radiation resistance", fmt.Sprintf("%.1f ohm", radiation), "(25.3 h/lambda)^2"},
		{"Wire and ground lose", fmt.Sprintf("%.1f and %.0f ohm", res, ground), ""},
		{"Reaches the sky", decibels(eff, hi), ""},
	}
	p.Pieces = []Piece{piece(r, "helix wire", 1, wireLength, 1), piece(r, "radial", s.Radials.Count, s.Radials.Length.M, 1)}
	p.Sentence = fmt.Sprintf("Wind %s of wire in %.0f turns on %s of pole.", r.say(wireLength), turns, r.say(length.M))
	p.Expect = fmt.Sprintf("about %.0f ohm with its losses, narrow; a whip above or a capacity hat widens it", radiation+res+ground)
	kk := 4 * length.M / lambda
	p.Factor = Factor{Value: kk, Lo: kk * 0.94, Hi: kk * 1.06, Why: []string{"slow wave on the helix", "the empirical formula is good to about 5 %"}}
	p.Shape = s
	p.Faults = append(p.Faults, s.directionFaults()...)
	p.Schools = []School{
		{"loading", "helix", fmt.Sprintf("radiates %.1f ohm", radiation), "loaded over its whole length; light, no separate coil"},
		{"loading", "full size or nothing", "36 ohm", fmt.Sprintf("%s of pole", r.say(lambda/4*0.96))},
	}
	strip := Strip{Title: "Turns of the helix", Edge: "the first turn", MM: math.Min(250, pitch*1000*20), Marks: []Mark{}}
	for i := 0.0; i*pitch*1000 <= strip.MM && pitch > 0.0005; i++ {
		if text := ""; int(i)%5 == 0 {
			text = fmt.Sprintf("%.0f", i)
			strip.Marks = append(strip.Marks, Mark{i * pitch * 1000, text})
		} else {
			strip.Marks = append(strip.Marks, Mark{i * pitch * 1000, ""})
		}
	}
	if turns > 0 {
		p.Strips = []Strip{strip}
	}
	return p
}

func layHelix(s Shape) (Drawing, []Fault) {
	d, faults := layVertical(s)
	d.Spots = append(d.Spots, Spot{"helix", between(d.Feed, Point{0, 0, d.Feed[2] + s.Radiator.M}, 0.5), strings.TrimSpace(fmt.Sprintf("%.0f turns", s.N("helix_turns", 0)))})
	return d, faults
}
