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

// Ways to put up a loading stick beside one on radials.
const (
	onMetal = "mount" // on a vehicle or a rail
	asPair  = "pair"  // two as a dipole
)

func stick() Family {
	return Family{
		ID: "loading-stick", Name: "Loading stick with sliding tip", Short: "loading stick", Group: "upright, short", Trims: Loaded,
		Ready:   "loading stick",
		matters: []string{"coil_turns", "tip", "radials_count"},
		stands:  []string{"coil_turns"},
		wholes:  []whole{{antenna.Radiator, []string{"rod", "coil_length", "tip"}}, {antenna.LegB, []string{"rod", "coil_length", "tip"}}},
		Variants: []Variant{
			{ID: "ground-radials", Name: "on a ground stake, with radials", Sketch: Sketch{Wire: "M60 44V36q-5 -1.5 0 -3t0 -3t0 -3t0 -3t0 -3V17",
				Thin: "M60 17V4M60 45H30M60 45H90M60 45L40 49", Feed: [2]float64{60, 44}}},
			{ID: onMetal, Name: "on a vehicle or a rail", Sketch: Sketch{Wire: "M60 30V26q-5 -1.5 0 -3t0 -3t0 -3t0 -3V10",
				Thin: "M60 10V3M28 30H92M32 30V46M88 30V46", Feed: [2]float64{60, 30}}, Feeding: Whole},
			{ID: asPair, Name: "two as a dipole",
				Sketch: Sketch{Wire: "M60 16H50q-1.5 -5 -3 0t-3 0t-3 0t-3 0H28M60 16H70q1.5 -5 3 0t3 0t3 0t3 0H92", Thin: "M28 16H8M92 16H112",
					Pole: "M60 16V46", Feed: [2]float64{60, 16}}, Feeding: Whole},
		},
		Feeding: Radial, Trust: "The winding is modelled as a coil at its middle, and ground and metal as they usually are: expect " +
			"resonance within 4 %.",
		Why: "Line theory takes a good ground and the winding as a point; the solver has your radials, soil or metal, and the coil's own " +
			"capacitance.",
		fields: func(s antenna.Shape) []entry.Field {
			out := []entry.Field{withHelp(askFor(""), "one stick for each band"), askBuilt("radiator", "Whole stick")}
			if s.Variant == asPair {
				out = append(out, askBuilt("leg_b", "Second stick"))
			}
			out = append(out, withHelp(askLength("rod", "Rod below the winding", 3), "0 when it is wound from its foot"),
				askSize("coil_length", "Wound part", "length", 1.5),
				askSize("coil_former", "wound on", "outer diameter", 0.1), askSize("coil_wire", "with wire of", "bare diameter", 0.005),
				askAmount("coil_turns", "Turns", "", 1, 2000), askQ,
				askRadiator("tip", "Tip beyond the winding", 4), askLength("tip_least", "Tip, slid in until it meets the winding", 2),
				askLength("tip_full", "Tip, fully extended", 4),
				askSize("whip_radius", "Tip's diameter", "", 0.05), askFeed)
			switch s.Variant {
			case onMetal:
				return append(out, askLength("metal_long", "Metal under it, length", 20),
					withHelp(askLength("metal_wide", "and width", 5), "0 for a rail"), askBearing)
			case asPair:
				return append(out, askPole, askBearing)
			}
			return append(out, append(askRadials(s), askBearing)...)
		},
		plan: planStick, layout: layStick, hot: hotStick, electric: electricStick, mend: mendLoaded,
		knobs: func(s antenna.Shape) []Knob {
			parts := stickOf(&s)
			return []Knob{{Field: "tip", Piece: "tip", Label: "tip", Way: Slide, Least: parts.least, Most: parts.most, AtLeast: "the winding",
				Within: [2]float64{0.3, 3}}}
		},
		set:   setStick,
		wires: func(antenna.Shape) []string { return []string{"rod", "tip"} },
		controls: func() []Control {
			return []Control{{Field: entry.Field{ID: "tip", Label: "Tip beyond the winding", Kind: entry.Length, Max: 4},
				Edge: "the winding's top", law: tipLaw}}
		},
		dangers: func(s antenna.Shape, _ quantity.System) []antenna.Danger {
			if s.Variant != onMetal {
				return nil
			}
			return []antenna.Danger{{Code: "mount", Title: "The metal under it is half of the antenna",
				Text: "Nobody touches the vehicle or the rail while you send. Never drive off with it up, and look for wires overhead before you " +
					"raise it; ask whose rail it is."}}
		},
	}
}

// loadingStick is a stick taken apart: rod and tip as a line with the coil at the winding's middle, and the tip's ends.
type loadingStick struct {
	line        antenna.Shortened
	coil        circuit.Coil
	rod, tip    float64
	least, most float64
}

// stickOf fills in what was left open of a stick. Without turns they are those with which a tip half way out is
// resonant; without a tip it is the one that is resonant with the turns. The winding counts half to either side.
func stickOf(s *antenna.Shape) loadingStick {
	f := s.FrequencyHz
	x := loadingStick{rod: s.Fill("rod", 0.3), least: s.Fill("tip_least", 0.4)}
	x.most = math.Max(s.Fill("tip_full", x.least+0.9), x.least)
	wound := s.Fill("coil_length", 0.4)
	x.coil = circuit.Coil{Former: s.Fill("coil_former", 0.02), Wire: s.Fill("coil_wire", 0.0008), Length: wound}
	radius := s.Fill("whip_radius", 0.005) / 2
	x.line = antenna.Shortened{Lower: x.rod + wound/2, Radius: x.coil.Former / 2, Uppers: radius, Factor: 1}
	x.tip, x.coil.Turns = s.M("tip"), s.N("coil_turns", 0)
	if x.coil.Turns == 0 {
		x.tip = antenna.Or(x.tip, math.Round(500*(x.least+x.most))/1000)
		x.coil.Turns = math.Round(x.turnsFor(f, x.tip))
		s.PutNumber("coil_turns", x.coil.Turns)
		s.Fill("tip", x.tip)
	}
	if x.tip == 0 {
		// A longer tip wants less coil: what is left over falls with its length, up to a quarter-wave.
		const stub = 0.02
		tip, ok := numeric.Bisect(func(m float64) float64 { return x.left(f, m) }, stub, numeric.Light/f/4, 0)
		if !ok { // none serves: what is wrong is said of the plan
			tip = x.most
			if x.left(f, stub) < 0 && x.coil.SelfResonance() > f {
				tip = stub
			}
		}
		x.tip = math.Round(tip*1000) / 1000
		s.Fill("tip", x.tip)
	}
	x.line.Upper = x.tip + wound/2
	return x
}

// left is, in ohms, what a tip of a length leaves of the rods' reactance at f beyond the coil's own.
func (x loadingStick) left(f, tip float64) float64 {
	line := x.line
	line.Upper = tip + x.coil.Winding()/2
	return line.Reactance(f) - imag(x.coil.Z(f))
}

// turnsFor are the turns with which a tip of a length is resonant at f, the capacitance between them counted; none
// where it needs no coil.
func (x loadingStick) turnsFor(f, tip float64) float64 {
	with := func(turns float64) float64 {
		y := x
		y.coil.Turns = turns
		return y.left(f, tip)
	}
	// Up to its own resonance a winding shows ever more; the first turns that do are taken.
	last := 0.5
	for n := 1.0; n <= 2000; n *= 1.1 {
		if with(n) <= 0 {
			turns, _ := numeric.Bisect(with, last, n, 0)
			return turns
		}
		last = n
	}
	return 0
}

// setStick sets a length, and with the tip the whole stick, both alike.
func setStick(s antenna.Shape, id string, m float64) antenna.Shape {
	s = setLength(s, id, m)
	if id == "tip" {
		s = setLength(s, antenna.Radiator, s.M("rod")+s.M("coil_length")+m)
	}
	return s
}

func planStick(r antenna.Request, w antenna.Wire, g earth.Ground) antenna.Plan {
	s, f := r.Shape, r.FrequencyHz
	x := stickOf(&s)
	p := antenna.Plan{}
	whole := x.rod + x.coil.Winding() + x.tip
	s.Fill(antenna.Radiator, whole)
	sides, ground := 1.0, 0.0
	k := w.JacketFactor(numeric.Light / f / 4)
	switch s.Variant {
	case onMetal:
		s.Fill(antenna.FeedHeight, 1.5)
		s.Fill("metal_long", 4)
		s.Fill("metal_wide", 1.6)
		ground = 8
	case asPair:
		s.Fill(antenna.LegB, whole)
		s.Fill(antenna.FeedHeight, antenna.Or(s.PoleHeight().M, 3))
		s.Fill(antenna.PoleHeight, s.FeedHeight().M)
		sides = 2
	default:
		radials(&s, r, k, g)
		ground = screenLoss(g, f, whole, s.Radials())
		p.Pieces = append(p.Pieces, radialPieces(r, s)...)
		p.Schools = radialSchools(r, k, g)
		p.Faults = append(p.Faults, directionFaults(s)...)
	}
	p.Pieces = append([]antenna.Piece{exact("coil wire", "coil wire", int(sides), x.coil.WireLength(), allow("leads", quantity.Metres(0.1))),
		exact("tip", "tip", int(sides), x.tip)}, p.Pieces...)
	p.Shape = s
	p.Faults = append(p.Faults, stickFaults(r, x)...)
	rad, at := x.line.Radiation(f)
	res, q := coilLoss(x.coil, f)
	feed := sides*(rad+res*at*at) + ground
	share := sides * rad / feed
	p.Figures = []phrase.Figure{
		figure("Winding", fmt.Sprintf("%.0f turns", x.coil.Turns), fmt.Sprintf("%.3g uH over %s on %s, %s of wire; Q about %.0f",
			x.coil.L()*1e6, fine(r, x.coil.Winding()), fine(r, x.coil.Former), say(r, x.coil.WireLength()), two(q))),
		figure("Whole stick", say(r, whole), fmt.Sprintf("%.0f %% of a quarter-wave", 100*whole*4*f/numeric.Light)),
		x.sensitive(r),
		estimate("Radiates", fmt.Sprintf("%.1f of %.0f ohm", sides*rad, feed),
			decibels(10*math.Log10(share*0.7), 10*math.Log10(math.Min(share*1.2, 0.99)))+", in coil and ground"),
	}
	p.Sentence = fmt.Sprintf("Slide the tip to %s for %s MHz.", say(r, x.tip), quantity.ToKHz(f))
	p.Expect = fmt.Sprintf("about %.0f ohm at the foot; a match near 50 ohm without a coil across it is mostly loss", feed)
	kk := whole * 4 * f / numeric.Light
	p.Factor = antenna.Factor{Value: kk, Lo: kk * 0.96, Hi: kk * 1.04, Why: []string{"winding by line theory as a coil at its middle",
		"8 ohm are taken for the soil under a vehicle or rail", "the tip makes good what ground and metal move: sweep with it half way out"}}
	p.Schools = append(p.Schools,
		school("loading", "fixed stick, sliding tip", fmt.Sprintf("%.1f ohm radiate", sides*rad), "up in a minute; one band each, narrow"),
		school("loading", "full size or nothing", fmt.Sprintf("36 ohm, %s high", say(r, numeric.Light/f/4*0.96)),
			"wide and hardly any loss, needs the pole"))
	return p
}

// sensitive is how far a little of the tip moves the resonance.
func (x loadingStick) sensitive(r antenna.Request) phrase.Figure {
	little, label := aLittle(r)
	return figure(label+" of tip moves it", fmt.Sprintf("%.0f kHz", two(x.perMetre(r.FrequencyHz)*little/1e3)),
		"from the slope of the reactance")
}

// perMetre is how far in hertz a metre of tip moves the resonance.
func (x loadingStick) perMetre(f float64) float64 {
	byTip := (x.left(f, x.tip*1.01) - x.left(f, x.tip)) / (0.01 * x.tip)
	byHz := (x.left(f*1.001, x.tip) - x.left(f, x.tip)) / (0.001 * f)
	return math.Abs(byTip / byHz)
}

func stickFaults(r antenna.Request, x loadingStick) (out []antenna.Fault) {
	const slack = 1e-3
	f := r.FrequencyHz
	ask := func(path, severity, format string, args ...any) {
		out = append(out, antenna.Say(path, severity, format, args...))
	}
	switch {
	case x.coil.Turns <= 0 && x.line.Reactance(f) <= 0:
		ask("rod", "ask", "rod and tip are longer than a quarter-wave on %s MHz: no winding is needed, take a whip", quantity.ToKHz(f))
	case x.coil.Turns <= 0:
		ask("coil_former", "error", "no winding of this size makes it resonant on %s MHz; take a wider former or a longer tip", quantity.ToKHz(f))
	case x.coil.Crowded():
		ask("coil_length", "error", "%.0f turns of this wire do not fit on that length; take thinner wire or wind further", x.coil.Turns)
	case x.coil.SelfResonance() < f:
		ask("coil_former", "ask", "this winding is self-resonant near %s MHz, below %s MHz: space it wider or take a longer tip",
			quantity.ToKHz(math.Round(x.coil.SelfResonance()/1e5)*1e5), quantity.ToKHz(f))
	}
	switch {
	case x.tip < x.least-slack:
		ask("tip", "ask", "it would want a tip of %s, but at %s the tip meets the winding: take %s off", say(r, x.tip), say(r, x.least),
			turnsOff(x, f, x.least))
	case x.tip > x.most+slack:
		ask("tip", "ask", "it would want a tip of %s, which goes no further than %s: wind on %s", say(r, x.tip), say(r, x.most),
			turnsOff(x, f, x.most))
	}
	return out
}

// turnsOff is by how many turns the winding is off for a tip of a length.
func turnsOff(x loadingStick, f, tip float64) string {
	return phrase.Count(math.Max(1, math.Round(math.Abs(x.turnsFor(f, tip)-x.coil.Turns))), "turn")
}

func electricStick(s antenna.Shape, f float64, e *antenna.Electric) {
	x := stickOf(&s)
	e.At, e.Diameter = x.line.Lower, 2*x.line.Uppers
	e.Henries, e.Ohms, e.Across, e.Uncertain = x.coil.L(), x.coil.Resistance(f)/realQ, x.coil.SelfCapacitance(), computedQ
	ownQ(s, 2*math.Pi*f*e.Henries, e)
}

// tipLaw: the inductance that rods with a tip want stays that of the winding.
func tipLaw(s antenna.Shape) (antenna.Law, bool) {
	f := s.FrequencyHz
	x := stickOf(&s)
	if x.coil.Turns <= 0 {
		return antenna.Law{}, false
	}
	at := func(m, hz float64) float64 {
		line := x.line
		line.Upper = m + x.coil.Winding()/2
		return math.Log(math.Max(line.Reactance(hz)/(2*math.Pi*hz), 1e-10))
	}
	return antenna.Law{Of: at, Against: func(hz float64) float64 { return math.Log(hz / f) }, Mean: [2]float64{at(x.tip, f), 0},
		Spread: [2]float64{3, 0.1},
		Lo:     x.least, Hi: x.most, Read: 0.003, Rough: 0.004, Top: belowQuarter(x.rod + x.coil.Winding())}, true
}

// hotStick is the peak voltage across the winding, with no loss in the ground to share the power: the highest that it
// can be.
func hotStick(s antenna.Shape, powerW float64) (string, float64) {
	x := stickOf(&s)
	f := s.FrequencyHz
	if x.coil.Turns <= 0 {
		return "", 0
	}
	rad, at := x.line.Radiation(f)
	res, _ := coilLoss(x.coil, f)
	sides := float64(s.Legs())
	return "the winding's upper end and the tip", math.Sqrt(powerW/(sides*(rad+res*at*at))) * at * math.Abs(imag(x.coil.Z(f))) * math.Sqrt2
}

// stickLines are rod, winding and tip of a stick, of which the tip is labelled, since it slides.
func stickLines(l antenna.Line, rod, wound float64) (out []antenna.Line) {
	from, whole := l.From, l.Length()
	for _, at := range []float64{rod, rod + wound} {
		if at = math.Min(at, whole); at > 0.01 && whole-at > 0.01 {
			to := antenna.Between(l.From, l.To, at/whole)
			out, from = append(out, antenna.Line{Role: l.Role, From: from, To: to}), to
		}
	}
	tip := antenna.Line{Role: l.Role, From: from, To: l.To}
	tip.Size = quantity.Metres(tip.Length())
	return append(out, tip)
}

func layStick(s antenna.Shape) (antenna.Drawing, []antenna.Fault) {
	d, faults := antenna.Drawing{}, []antenna.Fault(nil)
	if s.Variant == asPair {
		d, faults = layDipole(s)
		d.Lines = antenna.Keep(d.Lines, func(l antenna.Line) bool { return l.Role != "string" })
	} else {
		d, faults = layVertical(s)
		d.Lines[0].To[2] = d.Feed[2] // what holds it ends at its foot
	}
	wound := s.M("coil_length")
	var lines []antenna.Line
	for _, l := range d.Lines {
		if l.Role != "radiator" || l.Length() <= 0 {
			lines = append(lines, l)
			continue
		}
		lines = append(lines, stickLines(l, s.M("rod"), wound)...)
		d.Spots = append(d.Spots, antenna.Spot{Kind: "winding", Text: fmt.Sprintf("%.0f turns", s.N("coil_turns", 0)),
			At: antenna.Between(l.From, l.To, math.Min(1, (s.M("rod")+wound/2)/l.Length()))})
	}
	d.Lines = lines
	if s.Variant == onMetal {
		// The metal as wires from the foot: along it, and to its corners where it is wide.
		x, y := s.M("metal_long")/2, s.M("metal_wide")/2
		ends := [][2]float64{{x, y}, {-x, y}, {x, -y}, {-x, -y}}
		if y == 0 {
			ends = ends[:2]
		}
		for _, to := range ends {
			d.Lines = append(d.Lines, antenna.Line{Role: "radial", From: d.Feed, To: antenna.Point{to[0], to[1], d.Feed[2]}})
		}
	}
	if total := s.M("rod") + wound + s.M("tip"); s.M("tip") > 0 && s.M(antenna.Radiator) > 0 &&
		math.Abs(total-s.M(antenna.Radiator)) > 0.03*total+0.03 {
		faults = append(faults, antenna.Say("tip", "ask", "rod, winding and tip make %s, not %s; which is wrong?", quantity.Long(total),
			quantity.Long(s.M(antenna.Radiator))))
	}
	if least := s.M("tip_least"); least > 0 && s.M("tip") > 0 && s.M("tip") < least-1e-3 {
		faults = append(faults, antenna.Say("tip", "ask", "the tip meets the winding at %s; %s cannot be", quantity.Long(least),
			quantity.Long(s.M("tip"))))
	}
	return d, faults
}
