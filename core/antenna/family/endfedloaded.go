package family

import (
	"fmt"
	"math"

	"reed/core/antenna"
	"reed/core/circuit"
	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/numeric"
	"reed/core/phrase"
	"reed/core/quantity"
)

func endFedLoaded() Family {
	return Family{
		ID: "end-fed-loaded", Name: "End-fed, shortened with coil and tail", Short: "coil and tail", Group: "fed at the end", Multi: true,
		matters: []string{"coil_at", "coil_uh", "pole_height"},
		stands:  []string{"coil_uh"},
		wholes:  []whole{{antenna.Radiator, []string{"coil_at", "tail"}}},
		Trims:   Loaded,
		Variants: []Variant{
			{ID: "sloper", Name: "sloper", Sketch: Sketch{Wire: "M12 40L62 22q0 -8 4 -1.5q0 -8 4 -1.5q0 -8 4 -1.5L104 8", Pole: "M104 8V46",
				Thin: "M12 40L4 45", Feed: [2]float64{12, 40}}},
			{ID: "flat", Name: "flat", Sketch: Sketch{Wire: "M12 40L62 22q0 -8 4 -1.5q0 -8 4 -1.5q0 -8 4 -1.5L104 8", Pole: "M104 8V46",
				Thin: "M12 40L4 45", Feed: [2]float64{12, 40}}},
			{ID: "inverted-v", Name: "inverted V", Sketch: Sketch{Wire: "M12 40L62 22q0 -8 4 -1.5q0 -8 4 -1.5q0 -8 4 -1.5L104 8",
				Pole: "M104 8V46", Thin: "M12 40L4 45", Feed: [2]float64{12, 40}}},
		},
		Feeding: Counterpoise, Trust: trustEndFed, Why: "The coil's own capacitance and the counterpoise are in the solved tail.",
		knobs: knobsTailed, set: setTailed, electric: electricTailed, mend: mendEndFed,
		wires: func(antenna.Shape) []string { return []string{"coil_at", "tail"} },
		fields: func(antenna.Shape) []entry.Field {
			out := []entry.Field{withHelp(askFor(""), "the low band and its harmonics, like 7.1 14.1"), askBuilt("radiator", "Main wire and tail"),
				askLength("coil_at", "Main wire, feed to coil", 100), {ID: "tail", Label: "Tail beyond the coil", Kind: entry.Length, Max: 50,
					Only: "built"},
				askAmount("coil_uh", "Coil", "uH", 0.5, 500), askSize("coil_former", "Coil on a pipe of", "outer diameter", 0.2),
				askSize("coil_wire", "wound with wire of", "bare diameter", 0.005),
				withHelp(askAmount("coil_turns", "Its turns", "", 1, 1000), "of a coil that is wound already"),
				askSize("coil_length", "Winding", "length; turn to turn if left empty", 1), askQ,
				askFeed, askFar, askPole}
			return append(append(append(out, askCounterpoise()...), askTurns()...), askBearing)
		},
		plan: planEndFedLoaded, layout: layEndFedLoaded, hot: hotEnd,
	}
}

// tailed is an end-fed wire with a coil at the end of its main part and a tail behind: velocity factor k,
// wire radius a, coil in henries.
type tailed struct{ k, a, henries float64 }

// theta is the electrical angle of a length.
func (t tailed) theta(f, l float64) float64 { return 2 * math.Pi * l / t.k * f / numeric.Light }

// end is a tail's electrical angle and average impedance. A short one has its charge evenly along it, and none of the end
// effect of a half-wave; from a fifth of a wave on it is the end of any wire.
func (t tailed) end(f, l float64) (theta, z float64) {
	share := math.Min(math.Max((l*f/numeric.Light-0.08)/0.12, 0), 1)
	l = math.Max(l, 10*t.a)
	short, long := antenna.Short(l, t.a), antenna.Average(l, t.a)
	return t.theta(f, l) + 2*math.Pi*0.025*share, short + share*(long-short)
}

// behind is, in ohms, what the main wire sees at f behind its end: the coil, and the tail beyond it.
func (t tailed) behind(f, tail float64) float64 {
	theta, z := t.end(f, tail)
	return 2*math.Pi*f*t.henries - z/math.Tan(theta)
}

// excess is, in ohms, the coil's reactance and what the tail and the main wire ask for: zero when the
// whole is resonant as a half-wave at f (line theory: omega L = Za cot a + Zt cot t).
func (t tailed) excess(f, main, tail float64) float64 {
	return t.behind(f, tail) - antenna.Average(main, t.a)/math.Tan(t.theta(f, main))
}

// mainBand is the frequency on which the main wire of a wire with coil and tail is a half-wave by itself: the next
// above the lowest. ok is false where there is none; the lowest stands for it then.
func mainBand(s antenna.Shape) (hz float64, ok bool) {
	low := s.Lowest()
	hz = low
	for _, f := range s.All() {
		if f > low*1.3 {
			hz, ok = f, true
		}
	}
	return hz, ok
}

// tail fills in the coil where it was left open, and finds the tail that is resonant with it on the lowest frequency;
// t gets the coil.
func (t *tailed) tail(r antenna.Request, s *antenna.Shape, p *antenna.Plan, main, full float64) float64 {
	low := s.Lowest()
	coil, uh := tailCoil(s)
	if uh == 0 {
		// The coil that leaves a tail of a tenth of the full half-wave, and at least 60 cm.
		x := t.excess(low, main, math.Max(0.6, 0.1*full)) // with no coil
		uh = math.Round(math.Max(-x/(2*math.Pi*low)*1e6, 1)*10) / 10
	}
	if coil.Turns == 0 || s.N("coil_uh", 0) == 0 {
		s.PutNumber("coil_uh", math.Round(uh*100)/100)
	}
	t.henries = uh * 1e-6
	tail, ok := numeric.Bisect(func(x float64) float64 { return t.excess(low, main, x) }, 0.02, math.Max(full-main, 0.1), 0)
	if !ok {
		p.Faults = append(p.Faults, antenna.Say("coil_uh", "error", "with %.3g uH at %s no tail makes it resonant on %s MHz: %s", uh,
			say(r, main), quantity.ToKHz(low), tooMuch(t.excess(low, main, 0.02))))
		tail = 0.5
	}
	if given := r.M("tail"); given > 0 {
		tail = given
	}
	return tail
}

// sensitive is how far a little of the tail moves the resonance.
func (t tailed) sensitive(r antenna.Request, low, main, tail, full float64) phrase.Figure {
	share := math.Abs(t.excess(low, main, tail*1.01)-t.excess(low, main, tail)) / (0.01 * tail)
	shift := math.Abs(t.excess(low*1.001, main, tail)-t.excess(low, main, tail)) / (0.001 * low)
	little, label := aLittle(r)
	return figure(label+" of tail moves it", fmt.Sprintf("%.0f kHz", share/shift*little/1e3),
		"from the slope of the reactance; a plain wire would move "+fmt.Sprintf("%.0f kHz", low*little/full/1e3))
}

// above says what coil and tail do on the band on which the main wire is a half-wave by itself.
func (t tailed) above(p *antenna.Plan, high, tail float64) {
	up := t.behind(high, tail)
	p.Figures = append(p.Figures, estimate("On "+quantity.ToKHz(high)+" MHz", fmt.Sprintf("%.0f ohm behind the main wire", two(up)),
		"the coil holds the tail off; the main wire is the half-wave there"))
	if up < 1000 {
		p.Faults = append(p.Faults, antenna.Say("coil_uh", "ask",
			"on %s MHz the coil and tail are only %.0f ohm: they will pull that band; take a larger coil and a shorter tail",
			quantity.ToKHz(high), two(up)))
	}
}

func planEndFedLoaded(r antenna.Request, w antenna.Wire, _ earth.Ground) antenna.Plan {
	s := r.Shape
	low := s.Lowest()
	k := w.JacketFactor(numeric.Light / low / 4)
	t := tailed{k: k, a: w.EquivalentRadius()}
	all := s.All()
	p := antenna.Plan{}
	high, _ := mainBand(s)
	for _, f := range all {
		if n := f / high; high > low && f > high && math.Abs(n-math.Round(n)) > 0.05 {
			p.Faults = append(p.Faults, antenna.Say("frequency_hz", "ask",
				"%s MHz is no multiple of %s MHz, on which the main wire is a half-wave: a tuner would be needed there", quantity.ToKHz(f),
				quantity.ToKHz(high)))
		}
	}
	usual := 0.95 * k * numeric.Light / low / 2 * 0.6
	if high > low {
		usual = 0.95 * k * numeric.Light / high / 2
	}
	full := 0.95 * k * numeric.Light / low / 2
	if high > low {
		// The coil is no open end there: what it lets through makes the main wire longer by the angle of its reactance.
		trial := s
		tail := t.tail(r, &trial, &antenna.Plan{}, usual, full)
		if up := t.behind(high, tail); up > 0 {
			usual *= 1 + math.Atan(antenna.Average(usual, t.a)/up)/math.Pi/2 // by the solver half of it
		}
		t.henries = 0
	}
	main := s.Fill("coil_at", usual)
	tail := t.tail(r, &s, &p, main, full)
	s.Put("tail", antenna.LengthOr(s.Sizes["tail"], tail))
	s.Fill(antenna.Radiator, main+tail)
	hang(&s)
	if s.Primary() == 0 && s.Secondary() == 0 {
		s.PutNumber(antenna.PrimaryTurns, 2)
		s.PutNumber(antenna.SecondaryTurns, 14)
	}
	if !s.Said(antenna.CounterpoiseCount) {
		s.PutNumber(antenna.CounterpoiseCount, 1)
	}
	s.Fill(antenna.CounterpoiseLength, 0.05*numeric.Light/low)
	coil, uh := tailCoil(&s)
	wound := coil.Turns > 0
	if coil.Crowded() {
		p.Faults = append(p.Faults, antenna.Say("coil_length", "ask", "%.0f turns of this wire do not fit on that winding", coil.Turns))
	}
	if given := s.N("coil_uh", 0); wound && math.Abs(given/uh-1) > 0.1 && given > 0 {
		p.Faults = append(p.Faults, antenna.Say("coil_uh", "ask", "the winding makes %.3g uH, not %.3g; the winding is taken", uh, given))
	}
	if !wound || coil.Winding() > 1 {
		p.Faults = append(p.Faults, antenna.Say("coil_former", "error", "%.3g uH cannot be wound on %s in a metre; take a wider pipe", uh,
			fine(r, coil.Former)))
	}
	if !wound {
		p.Shape = s
		return p // of no coil there is nothing to say
	}
	tellCoil(&p, r, coil, []float64{low})
	p.Figures = append(p.Figures,
		figure("Whole length", say(r, main+tail), fmt.Sprintf("%.0f %% of the full half-wave of %s", 100*(main+tail)/full, say(r, full))),
		t.sensitive(r, low, main, tail, full))
	kk := 1 / full * (main + tail) * 0.95 * k
	p.Factor = antenna.Factor{Value: kk, Lo: kk * 0.95, Hi: kk * 1.05, Why: []string{fmt.Sprintf("jacket %.3f", k),
		fmt.Sprintf("coil of %.3g uH at %s", uh, say(r, main)), "a loaded wire is sensitive: cut the tail long and fold it back"}}
	if high > low {
		t.above(&p, high, tail)
	}
	p.Shape = s
	p.Pieces = []antenna.Piece{piece(r, "main wire", 1, main, 2), piece(r, "tail", 1, s.M("tail"), 2),
		piece(r, "counterpoise", s.Counterpoise().Count, s.Counterpoise().Length.M, 1),
		exact("coil wire", "coil wire", 1, coil.WireLength(), allow("leads", quantity.Metres(0.2)))}
	_, q := coilLoss(coil, low)
	p.Expect = fmt.Sprintf("an end of 2000 to 5000 ohm on %s MHz, narrower than full size; coil Q about %.0f", quantity.ToKHz(low), q)
	p.Schools = []antenna.School{
		school("loading", "coil and tail", fmt.Sprintf("%s long", say(r, main+tail)), "fits a small place; narrow and sensitive on the low band"),
		school("loading", "full size or nothing", fmt.Sprintf("%s long", say(r, full)), "wider and more forgiving, needs the room"),
	}
	return p
}

func layEndFedLoaded(s antenna.Shape) (antenna.Drawing, []antenna.Fault) {
	d, faults := layEndFed(s)
	main, tail := s.M("coil_at"), s.M("tail")
	if main > 0 {
		_, uh := tailCoil(&s)
		d.Spots = append(d.Spots, antenna.Spot{Kind: "coil", At: d.Along("radiator", main), Text: fmt.Sprintf("%.3g uH", uh)})
	}
	if tail > 0 && s.Radiator().M > 0 && math.Abs(main+tail-s.Radiator().M) > 0.02*s.Radiator().M+0.02 {
		faults = append(faults, antenna.Say("tail", "ask", "main wire %s and tail %s make %s, not %s; which is wrong?", quantity.Long(main),
			quantity.Long(tail), quantity.Long(main+tail), quantity.Long(s.Radiator().M)))
	}
	return d, faults
}

// knobsTailed are the tail for the lowest frequency and the main wire for the one on which it is a half-wave by itself.
func knobsTailed(s antenna.Shape) []Knob {
	out := []Knob{{Field: "tail", Piece: "tail", Label: "tail beyond the coil", F: s.Lowest(), High: true, Within: [2]float64{0.1, 2.2}}}
	if high, ok := mainBand(s); ok {
		out = append([]Knob{{Field: "coil_at", Piece: "main wire", Label: "main wire up to the coil", F: high, High: true}}, out...)
	}
	return out
}

// setTailed sets main wire or tail, and the whole with it.
func setTailed(s antenna.Shape, id string, m float64) antenna.Shape {
	s.Put(id, quantity.Metres(m))
	if id == "tail" || id == "coil_at" {
		s.Put(antenna.Radiator, quantity.Metres(s.M("coil_at")+s.M("tail")))
	}
	return s
}

func electricTailed(s antenna.Shape, f float64, e *antenna.Electric) {
	coil, uh := tailCoil(&s)
	e.At, e.Henries = s.M("coil_at"), uh*1e-6
	if coil.Turns > 0 && uh > 0 {
		// With the capacitance between its turns beside it the coil goes on working at and above its own resonance.
		e.Ohms, e.Across, e.Uncertain = coil.Resistance(f)/realQ, coil.SelfCapacitance(), computedQ
		ownQ(s, 2*math.Pi*f*e.Henries, e)
	}
}

// tailCoil is the coil as it was wound, or the one that would be for its inductance, and what it has in microhenries; no
// turns where it cannot be wound.
func tailCoil(s *antenna.Shape) (circuit.Coil, float64) {
	coil := circuit.Coil{Former: s.Fill("coil_former", 0.04), Wire: s.Fill("coil_wire", 0.001), Length: s.M("coil_length")}
	if coil.Length == 0 {
		coil.Pitch = coil.Wire * 1.15
	}
	uh := s.N("coil_uh", 0)
	if coil.Turns = s.N("coil_turns", 0); coil.Turns > 0 {
		return coil, coil.L() * 1e6
	}
	if uh > 0 {
		if n, ok := coil.TurnsFor(uh * 1e-6); ok {
			coil.Turns = n
		}
	}
	return coil, uh
}
