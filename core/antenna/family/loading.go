package family

import (
	"fmt"
	"math"

	"reed/core/antenna"
	"reed/core/circuit"
	"reed/core/entry"
	"reed/core/numeric"
	"reed/core/quantity"
)

func askLoaded(pair bool) []entry.Field {
	mast := "Mast below the coil"
	if pair {
		mast = "Rod inside the coil"
	}
	out := []entry.Field{withHelp(askLength("mast", mast, 10), "0 for a coil at the feed"), askLength("whip", "Whip beyond the coil", 12),
		askSize("whip_radius", "Mean diameter", "", 0.1)}
	out = append(append(out, askTaper()...), withHelp(askCount("whip_sections", "in sections", 20), ""))
	return append(out, askSize("coil_former", "Coil on a former of", "outer diameter", 0.3),
		askSize("coil_wire", "wound with wire of", "bare diameter", 0.005),
		withHelp(askAmount("coil_turns", "Its turns", "", 1, 1000), "of a coil that is wound already"),
		askSize("coil_length", "Winding", "length", 1), askQ)
}

// askQ is the Q that a coil really has, where it was measured.
var askQ = withHelp(askAmount("coil_q", "Q of the coil", "", 5, 2000),
	"as measured; computed if left empty, which is the most that it can be")

// spare is the share of turns that a coil is wound with beyond those of its lowest band: the tap for that band is found by
// measuring, and may lie beyond where it was worked out to lie.
const spare = 0.04

// loadedParts fills in what was left open of a loaded whip and builds its picture and its coil: that which was wound, or one
// for the lowest frequency, of so many henries by the solver, or by line theory for none.
func loadedParts(s *antenna.Shape, p *antenna.Plan, henries float64) (antenna.Shortened, circuit.Coil) {
	mean, _ := rodOf(s, 0.006)
	rod := mean / 2
	x := antenna.Shortened{Lower: s.Fill("mast", 0), Upper: s.Fill("whip", 2.5), Radius: math.Max(rod, 0.008), Uppers: rod, Factor: 1}
	coil := circuit.Coil{Former: s.Fill("coil_former", 0.05), Wire: s.Fill("coil_wire", 0.001)}
	low := s.Lowest()
	henries = antenna.Or(henries, x.Reactance(low)/(2*math.Pi*low))
	coil.Pitch, coil.Length = coil.Wire*2, s.M("coil_length")
	wind := func() {
		if coil.Crowded() {
			p.Faults = append(p.Faults, antenna.Say("coil_length", "error", "%.0f turns of this wire do not fit on that winding", coil.Turns))
		}
		coil.Length = s.Fill("coil_length", coil.Winding())
	}
	if coil.Turns = s.N("coil_turns", 0); coil.Turns > 0 {
		wind()
		return x, coil
	}
	if henries <= 0 {
		p.Faults = append(p.Faults, antenna.Say("whip", "ask",
			"mast and whip are longer than a quarter-wave on %s MHz: no coil is needed, shorten the whip", quantity.ToKHz(low)))
		return x, coil
	}
	// The coil's own capacitance raises what it shows: the winding is made for what is left.
	need := henries
	for range 6 {
		n, ok := coil.TurnsFor(need)
		if !ok {
			p.Faults = append(p.Faults, antenna.Say("coil_former", "error", "%.3g uH cannot be wound on this former", need*1e6))
			return x, coil
		}
		coil.Turns = n
		k := 1 - math.Pow(low/coil.SelfResonance(), 2)
		if k < 0.3 {
			p.Faults = append(p.Faults, antenna.Say("coil_former", "ask",
				"the coil for %s MHz is near its own resonance; a longer whip or a wider former helps", quantity.ToKHz(low)))
			break
		}
		need = henries * k
	}
	more := coil
	if more.Turns = math.Ceil(coil.Turns * (1 + spare)); !more.Crowded() {
		coil = more
	}
	wind()
	s.PutNumber("coil_turns", coil.Turns)
	return x, coil
}

// LeastCoil is the inductance in henries below which a coil is bridged and the whip is drawn in instead: no tap is so near the end.
const LeastCoil = 60e-9

// AboveCoil is how far in metres the rod above a coil that is set is out, and how long what is below the coil is; ok is false without
// such a rod.
func (a Antenna) AboveCoil() (below, above float64, ok bool) {
	above = a.M("whip")
	return a.M("mast"), above, a.known && above > 0 && a.Electrics(a.FrequencyHz).Knob == "coil"
}

// WithAboveCoil is the shape with the rod above the coil so many metres out.
func (a Antenna) WithAboveCoil(m float64) antenna.Shape {
	return setLength(a.With("whip", quantity.Metres(m)), antenna.Radiator, a.M("mast")+m)
}

// upTo is a coil up to a tap.
func upTo(c circuit.Coil, turns float64) circuit.Coil {
	c.Turns, c.Length = turns, c.Winding()*turns/c.Turns
	return c
}

// tapFor is the part of a coil in circuit that shows an inductance at f, the capacitance counted.
func tapFor(c circuit.Coil, f, henries float64) (circuit.Coil, bool) {
	n, ok := numeric.Bisect(func(n float64) float64 {
		l, _, _, ok := upTo(c, n).At(f)
		if !ok {
			return 1
		}
		return l - henries
	}, 0.05, c.Turns*1.0001, 0)
	return upTo(c, n), ok
}

// settings tabulates a loaded whip band by band: sides is 1 against ground and 2 for a pair, loss the
// ground's resistance in ohms by frequency.
func settings(p *antenna.Plan, r antenna.Request, s *antenna.Shape, x antenna.Shortened, coil circuit.Coil, sides float64,
	loss func(f float64) float64) {
	t := antenna.Table{Title: "Taps by band", Columns: []string{"MHz", "coil", "turns", "tap at", "Q", "radiates, ohm", "efficiency"},
		Estimates: []int{5, 6},
		Note: "Tap from the end of the winding nearer the feed, the rest shorted or left open as you build it; a sliding contact stands at " +
			"the same place."}
	strip := antenna.Strip{Title: "Taps of the coil", Edge: "the end of the winding nearer the feed", MM: coil.Winding() * 1000,
		Marks: []antenna.Mark{}}
	for i, f := range s.All() {
		formed := x.Reactance(f) / (2 * math.Pi * f)
		l := antenna.Or(r.Setting(f).Henries, formed)
		rad, at := x.Radiation(f)
		if in := r.Setting(f).Size.M; in > 0 || l < LeastCoil {
			short := x
			short.Upper = antenna.Or(in, withoutCoil(x, f))
			rad, _ = short.Radiation(f)
			if short.Upper <= 0 {
				t.Rows = append(t.Rows, []string{quantity.ToKHz(f), "none", "", "the mast alone is too long", "", "", ""})
				continue
			}
			row := []string{quantity.ToKHz(f), "none, bridged", "0", "whip in to " + say(r, short.Upper), "", fmt.Sprintf("%.1f of %.0f",
				sides*rad, sides*rad+loss(f)), decibels(10*math.Log10(sides*rad/(sides*rad+loss(f))), -0.05)}
			t.Rows = append(t.Rows, row)
			continue
		}
		part, ok := tapFor(coil, f, l)
		if !ok {
			has := "under 0.1"
			if whole := shows(coil, f); whole < l {
				has = "more than it has"
				p.Faults = append(p.Faults, antenna.Say("coil_turns", "ask", "%s MHz wants %.3g uH, the whole coil shows %.3g uH",
					quantity.ToKHz(f), l*1e6, whole*1e6))
			}
			t.Rows = append(t.Rows, []string{quantity.ToKHz(f), fmt.Sprintf("%.3g uH", l*1e6), has, "", "", fmt.Sprintf("%.1f", sides*rad), ""})
			continue
		}
		res, q := coilLoss(part, f)
		ground := loss(f)
		feed := sides*rad + sides*res*at*at + ground
		lost := func(share float64) float64 {
			return 10 * math.Log10(sides*rad/(sides*rad+sides*res*share*at*at+ground))
		}
		t.Rows = append(t.Rows, []string{quantity.ToKHz(f), fmt.Sprintf("%.3g uH", l*1e6), fmt.Sprintf("%.1f", part.Turns),
			fine(r, part.Length), fmt.Sprintf("%.0f", two(q)), fmt.Sprintf("%.1f of %.0f", sides*rad, feed), decibels(lost(1.4), lost(0.8))})
		strip.Marks = append(strip.Marks, antenna.Mark{MM: part.Length * 1000, Text: quantity.ToKHz(f)})
		if i == len(s.All())-1 {
			power := antenna.Or(r.PowerW, 10)
			_, volts := hotCoil(*s, power)
			p.Figures = append(p.Figures, estimate("Voltage across the coil", fmt.Sprintf("up to %.0f V peak", tens(volts)),
				fmt.Sprintf("%s on %s MHz, were nothing lost in the ground", quantity.Watts(power), quantity.ToKHz(f))))
			// A longer whip above means a smaller coil and less loss: said with its figure.
			longer := x
			longer.Upper *= 1.5
			if l2 := longer.Reactance(f) / (2 * math.Pi * f); l2 > 0 {
				rad2, at2 := longer.Radiation(f)
				l2 *= l / formed
				res2 := res * l2 / l
				gain := 10*math.Log10(rad2*sides/(sides*rad2+sides*res2*at2*at2+ground)) - lost(1)
				p.Schools = append(p.Schools, school("loading", fmt.Sprintf("whip of %s instead of %s", say(r, longer.Upper), say(r, x.Upper)),
					fmt.Sprintf("%.1f dB more on %s MHz, %.3g uH instead of %.3g", gain, quantity.ToKHz(f), l2*1e6, l*1e6),
					"a smaller coil, less loss, more wind"))
			}
		}
	}
	p.Tables = append(p.Tables, t)
	if strip.MM > 0 && strip.MM <= 270 && len(strip.Marks) > 0 {
		p.Strips = append(p.Strips, strip)
	}
}

// withoutCoil is how far in metres the whip above a bridged coil is out at f, by line theory; 0 where what is below is too long.
func withoutCoil(x antenna.Shortened, f float64) float64 {
	const least = 0.05
	m, ok := numeric.Bisect(func(m float64) float64 {
		y := x
		y.Upper = m
		return y.Reactance(f)
	}, least, quarterWave(f), 0)
	if !ok {
		return 0
	}
	return m
}

// shows is the inductance that a coil shows at f, its capacitance counted; none at and above its own resonance.
func shows(c circuit.Coil, f float64) float64 {
	l, _, _, _ := c.At(f)
	return l
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
func hotCoil(s antenna.Shape, powerW float64) (string, float64) {
	x, coil := loadedParts(&s, &antenna.Plan{}, 0)
	f := s.Lowest()
	need := x.Reactance(f)
	if need <= 0 || coil.Turns <= 0 {
		return "", 0
	}
	if part, ok := tapFor(coil, f, need/(2*math.Pi*f)); ok {
		coil = part
	}
	rad, at := x.Radiation(f)
	res, _ := coilLoss(coil, f)
	sides := float64(s.Legs())
	return "the coil's upper end and the whip's tip", math.Sqrt(powerW/(sides*(rad+res*at*at))) * at * need * math.Sqrt2
}

func tooMuch(excess float64) string {
	if excess > 0 {
		return "the coil is too large for this main wire"
	}
	return "the coil is too small"
}

// realQ is the share of the computed Q that a coil reaches, for formers, leads and weather: measured ones lie at 0.6 to 1 of it.
const realQ = 0.8

// coilLoss is the series resistance in ohms and the Q at f, halved in Q for former, moisture and leads
// when it is not below self-resonance by a half.
func coilLoss(c circuit.Coil, f float64) (r, q float64) {
	_, r, q, ok := c.At(f)
	if !ok {
		// At and above its own resonance it is a resistance beside a capacitor: what it shows there.
		z := c.Z(f)
		return real(z), 0
	}
	return r / realQ, q * realQ
}

// tellCoil adds what a coil is to a plan: turns, winding, Q, self-resonance and the strip to wind by.
func tellCoil(p *antenna.Plan, r antenna.Request, c circuit.Coil, at []float64) {
	p.Figures = append(p.Figures, figure("Coil", fmt.Sprintf("%.1f turns", c.Turns),
		fmt.Sprintf("%.3g uH; %s of winding on %s, %s of wire", c.L()*1e6, fine(r, c.Winding()), fine(r, c.Former), say(r, c.WireLength()))))
	for _, f := range at {
		if _, _, q, ok := c.At(f); ok {
			p.Figures = append(p.Figures, figure(fmt.Sprintf("Q at %s MHz", quantity.ToKHz(f)), fmt.Sprintf("%.0f to %.0f", two(q*0.6), two(q)),
				fmt.Sprintf("skin effect and crowding; self-resonant near %s MHz", quantity.ToKHz(math.Round(c.SelfResonance()/1e5)*1e5))))
		} else {
			p.Faults = append(p.Faults, antenna.Say("coil_former", "ask",
				"this coil is self-resonant near %s MHz, below %s MHz: space it wider or take a thinner former",
				quantity.ToKHz(math.Round(c.SelfResonance()/1e5)*1e5), quantity.ToKHz(f)))
		}
	}
	strip := antenna.Strip{Title: fmt.Sprintf("Coil of %.3g uH", c.L()*1e6), Edge: "the first turn", MM: c.Winding() * 1000,
		Marks: []antenna.Mark{}}
	step := 5.0
	if c.Turns > 80 {
		step = 10
	}
	for n := 0.0; n <= c.Turns; n += step {
		strip.Marks = append(strip.Marks, antenna.Mark{MM: n / c.Turns * strip.MM, Text: fmt.Sprintf("%.0f", n)})
	}
	if strip.MM <= 270 {
		p.Strips = append(p.Strips, strip)
	}
}

// tapLaw: the part of the coil in circuit has to cancel the rods' reactance. Both go by their logarithms, so
// that a former or a rod taken a little wrong is a constant.
func tapLaw(s antenna.Shape) (antenna.Law, bool) {
	x, coil := loadedParts(&s, &antenna.Plan{}, 0)
	if coil.Turns <= 0 || coil.Winding() <= 0 {
		return antenna.Law{}, false
	}
	const none = 3e-9 // henries that leads and clips have without any turn
	density := coil.Turns / coil.Winding()
	return antenna.Law{
		Of: func(m, _ float64) float64 {
			return math.Log(math.Max(circuit.Solenoid(density*m, coil.Mean(), m), none))
		},
		Against: func(hz float64) float64 {
			// Where the rods are long enough no coil is wanted; a nanohenry stands for none.
			return math.Log(math.Max(x.Reactance(hz)/(2*math.Pi*hz), 1e-9))
		},
		Mean: [2]float64{0, 1}, Spread: [2]float64{1.5, 0.07}, Lo: 0.0002, Hi: coil.Winding(), Read: 0.001, Rough: 0.015, Joint: true,
	}, true
}

// beyondLaw: with the tap left alone, the inductance that the whip wants stays that of the coil.
func beyondLaw(s antenna.Shape) (antenna.Law, bool) {
	x, _ := loadedParts(&s, &antenna.Plan{}, 0)
	at := func(m, hz float64) float64 {
		x := x
		x.Upper = m
		return math.Log(math.Max(x.Reactance(hz)/(2*math.Pi*hz), 1e-10))
	}
	f := s.Lowest()
	return antenna.Law{Of: at, Against: func(hz float64) float64 { return math.Log(hz / f) }, Mean: [2]float64{at(s.M("whip"), f), 0},
		Spread: [2]float64{3, 0.1}, Lo: 0.1, Hi: antenna.Or(s.M("whip_full"), antenna.Or(s.M("whip"), 12)), Read: 0.003, Rough: 0.004,
		Top: belowQuarter(s.M("mast"))}, true
}

// belowQuarter is how long what is above a coil may be at a frequency: with what is below it less than a quarter-wave, from
// where on no coil is wanted, and the law has no answer.
func belowQuarter(below float64) func(hz float64) float64 {
	return func(hz float64) float64 { return 0.97*quarterWave(hz) - below }
}

// electricLoaded is the loading coil, the part of it in circuit at f.
func electricLoaded(s antenna.Shape, f float64, e *antenna.Electric) {
	x, coil := loadedParts(&s, &antenna.Plan{}, 0)
	e.At, e.Diameter, e.Knob = x.Lower, 2*x.Uppers, "coil"
	if bottom, top, sections := taper(s); sections > 1 {
		e.Diameter, e.Rods = math.Max(bottom, top), antenna.Tapered(x.Lower, x.Lower+x.Upper, bottom, top, sections)
		if x.Lower > 0 {
			e.Rods = append([]antenna.Rodding{{To: x.Lower, Diameter: bottom}}, e.Rods...)
		}
	}
	e.Henries = math.Max(x.Reactance(f), 0) / (2 * math.Pi * f)
	e.Ohms, e.Uncertain = 2*math.Pi*f*e.Henries/150, computedQ
	if part, ok := tapFor(coil, f, e.Henries); ok {
		e.Ohms, _ = coilLoss(part, f)
	}
	ownQ(s, 2*math.Pi*f*e.Henries, e)
}

// turnsLoaded are the turns of a loading coil up to its tap.
func turnsLoaded(s antenna.Shape, f, henries float64) (float64, bool) {
	_, coil := loadedParts(&s, &antenna.Plan{}, 0)
	if coil.Turns <= 0 {
		return 0, false
	}
	part, ok := tapFor(coil, f, henries)
	return part.Turns, ok
}

// computedQ are the shares of a computed coil's loss between which its real one lies: the computed one is the least, since
// formers, moisture, turns that touch and taps that are shorted only add to it.
var computedQ = [2]float64{realQ, 2.5 * realQ}

// ownQ takes the Q that a coil was measured to have, at a reactance in ohms.
func ownQ(s antenna.Shape, reactance float64, e *antenna.Electric) {
	if q := s.N("coil_q", 0); q > 0 {
		e.Ohms, e.Uncertain = reactance/q, [2]float64{0.85, 1.18}
	}
}

// controlsLoaded are the tap and the whip beyond the coil.
func controlsLoaded() []Control {
	return []Control{
		{Field: entry.Field{ID: "tap", Label: "Tap position", Kind: entry.Size, Unit: "mm", Max: 1.5},
			Edge: "the end of the winding nearer the feed",
			law:  tapLaw},
		{Field: entry.Field{ID: "whip", Label: "Whip beyond the coil", Kind: entry.Length, Max: 12}, Edge: "the coil's top", law: beyondLaw},
	}
}
