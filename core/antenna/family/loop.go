package family

import (
	"fmt"
	"math"

	"reed/core/antenna"
	"reed/core/circuit"
	"reed/core/entry"
	"reed/core/exposure"
	"reed/core/moment/earth"
	"reed/core/numeric"
	"reed/core/phrase"
	"reed/core/quantity"
)

func loop() Family {
	return Family{
		ID: "small-loop", Name: "Small transmitting loop", Short: "loop", Group: "directive", Multi: true, Trims: Settings,
		Ready:   "loop of tube",
		matters: []string{"radiator", "tube", "c_max"},
		Variants: []Variant{
			{ID: "upright", Name: "upright", Sketch: Sketch{Wire: "M57 6A17 17 0 1 0 63 6", Pole: "M60 40V46", Thin: "M57 3V9M63 3V9",
				Feed: [2]float64{60, 40}}},
			{ID: "flat", Name: "flat", Sketch: Sketch{Wire: "M56 12A34 9 0 1 0 64 12", Pole: "M60 30V46", Thin: "M56 9V15M64 9V15",
				Feed: [2]float64{60, 30}}},
		},
		Feeding: Aside, Tuning: Tuning{
			Above: "turn the dial to more capacitance", Below: "turn the dial to less capacitance",
			Lost: "the loop is tuned elsewhere. Turn the dial until the noise peaks, then sweep again",
		},
		electric: func(s antenna.Shape, f float64, e *antenna.Electric) {
			l := ring(s)
			e.Diameter, e.Knob, e.Coupled, e.Span = 2*l.Tube, "capacitor", true, 0.01
			e.At, e.Farads, e.Ohms = s.Radiator().M/2, l.Capacitance(f), l.ohms(f)
			if c, ok := coupling(s); ok {
				e.Link = antenna.Link{Mutual: c.Mutual(l.Around), Own: c.Own()}
			}
		},
		controls: func() []Control {
			return []Control{{Field: entry.Field{ID: "dial", Label: "Capacitor's dial", Kind: entry.Dial, Max: 10000},
				Edge: "the dial's own scale", law: loopLaw}}
		},
		mend: func(Match) string { return ": turn the coupling loop, or bend it to another size." },
		fields: func(antenna.Shape) []entry.Field {
			return append([]entry.Field{withHelp(askFor(""), "one setting for each, like 7.1 10.12 14.06"),
				askRadiator("radiator", "Around the loop", 20), askSize("tube", "Conductor", "outer diameter", 0.1),
				askAmount("c_min", "Capacitor from", "pF", 1, 5000), askAmount("c_max", "to", "pF", 2, 20000),
				askAmount("c_volts", "its rating", "V", 50, 50000), askAmount("c_esr", "its series resistance", "mohm", 0, 2000),
				withHelp(askAmount("c_beside", "Fixed one beside it", "pF", 0, 5000), "switched in parallel where more is needed")},
				append(askCoupling(), askLength("feed_height", "Lowest point, height", 20), askBearing)...)
		},
		plan: planLoop, layout: layLoop, hot: hotLoop,
		near: func(s antenna.Shape, powerW, f float64) float64 {
			amps, _ := ring(s).at(f, powerW)
			return exposure.Ring(s.Radiator().M/(2*math.Pi), amps, f)
		},
		dangers: func(s antenna.Shape, units quantity.System) []antenna.Danger {
			return []antenna.Danger{{Code: "loop-field", Title: "A strong field close to the loop",
				Text: "Never sit or stand within two diameters of it while you send, and never tune it by hand at more than a few watts: the " +
					"magnetic field beside a small loop is far above its share at a distance.",
				Figure: fmt.Sprintf("at least %s from its middle", units.Rough(math.Max(2, 2*s.Radiator().M/math.Pi)))}}
		},
	}
}

// Ring is a small loop of one turn: circumference and conductor radius in metres, series resistance of
// its capacitor and joints in ohms. Most is the farads that its capacitor reaches and Beside those of a fixed one, switched
// in parallel beyond that; 0 where neither is known.
type Ring struct{ Around, Tube, ESR, Most, Beside float64 }

// ohms is the series resistance of what tunes it to f: two capacitors of ESR each share the current as their farads do.
func (l Ring) ohms(f float64) float64 {
	c := l.Capacitance(f)
	if l.Beside <= 0 || c <= l.Most || c <= l.Beside {
		return l.ESR
	}
	share := l.Beside / c
	return l.ESR * (share*share + (1-share)*(1-share))
}

// L is its inductance in henries: mu0 r (ln(8r/a) - 2).
func (l Ring) L() float64 {
	r := l.Around / (2 * math.Pi)
	return numeric.Mu0 * r * (math.Log(8*r/l.Tube) - 2)
}

// angle is half of the way round in radians of the wave: the loop is a line of that length, shorted opposite its capacitor.
// The few per cent above that are the solver's, for loops up to 0.3 wavelengths round.
func (l Ring) angle(f float64) float64 {
	share := l.Around * f / numeric.Light
	return math.Pi * share * (1 + 0.7*share*share)
}

// Reactance returns the loop's reactance at its capacitor in ohms at f: that of a shorted line whose inductance is L.
func (l Ring) Reactance(f float64) float64 { return l.line() * math.Tan(l.angle(f)) }

// line is the characteristic impedance in ohms of the loop as a line.
func (l Ring) line() float64 { return 2 * l.L() * numeric.Light / l.Around }

// Radiation is its radiation resistance in ohms at the current opposite the capacitor, where it is highest: that of a
// level current, 20 pi^2 (C/lambda)^4. What the current's fall takes from it the charge gives back: within 3 % of the
// solver up to 0.3 wavelengths round.
func (l Ring) Radiation(f float64) float64 {
	return 20 * math.Pi * math.Pi * math.Pow(l.Around*f/numeric.Light, 4)
}

// Loss is the resistance in ohms of conductor (skin effect, copper), capacitor and joints, at the same current.
func (l Ring) Loss(f float64) float64 {
	t := l.angle(f)
	return circuit.SkinResistance(f, l.Around, l.Tube, circuit.CopperResistivity)*(1+math.Sin(2*t)/(2*t))/2 +
		l.ohms(f)*math.Pow(math.Cos(t), 2)
}

// Efficiency is the share of the power that is radiated in free space.
func (l Ring) Efficiency(f float64) float64 {
	return l.Radiation(f) / (l.Radiation(f) + l.Loss(f))
}

// Capacitance returns the farads that tune it to f; none where it is half a wave round.
func (l Ring) Capacitance(f float64) float64 {
	if l.angle(f) >= math.Pi/2 {
		return 0
	}
	return 1 / (2 * math.Pi * f * l.Reactance(f))
}

// Tuned is the frequency in hertz at which a capacitance in farads tunes it.
func (l Ring) Tuned(farads float64) float64 {
	half := numeric.Light / 2 / l.Around
	f, ok := numeric.Bisect(func(f float64) float64 { return l.Capacitance(f) - farads }, half/1000, half, 0)
	if !ok {
		return 0
	}
	return f
}

// Bandwidth is the width in hertz between the points where a match of 1 has become SWR 2.6 (half power of
// the loaded loop: matched source, so the loaded Q is half the loop's).
func (l Ring) Bandwidth(f float64) float64 {
	t := l.angle(f)
	cos2 := math.Pow(math.Cos(t), 2)
	slope := l.line() * (t/cos2 + math.Tan(t)) // of the whole reactance over the logarithm of frequency
	return f / (slope / 2 * cos2 / (2 * (l.Radiation(f) + l.Loss(f))))
}

// at is the highest current (rms amperes) and the peak voltage across the capacitor at a power in watts.
func (l Ring) at(f, powerW float64) (amps, volts float64) {
	amps = math.Sqrt(powerW / (l.Radiation(f) + l.Loss(f)))
	return amps, amps * l.line() * math.Sin(l.angle(f)) * math.Sqrt2
}

// usualTube is the diameter in metres of a loop's conductor that was not recorded.
const usualTube = 0.01

func ring(s antenna.Shape) Ring {
	tube := s.M("tube")
	if tube == 0 {
		tube = usualTube
	}
	return Ring{Around: s.Radiator().M, Tube: tube / 2, ESR: s.N("c_esr", 30) / 1000, Most: s.N("c_max", 250) * 1e-12,
		Beside: s.N("c_beside", 0) * 1e-12}
}

// hotLoop is the peak voltage across the capacitor on the band on which it is the highest.
func hotLoop(s antenna.Shape, powerW float64) (string, float64) {
	worst := 0.0
	for _, f := range s.All() {
		_, volts := ring(s).at(f, powerW)
		worst = math.Max(worst, volts)
	}
	return "the loop's capacitor", worst
}

func planLoop(r antenna.Request, _ antenna.Wire, _ earth.Ground) antenna.Plan {
	s := r.Shape
	all := s.All()
	s.Fill(antenna.Radiator, math.Min(4, 0.2*numeric.Light/all[0]))
	s.Fill("tube", usualTube)
	s.FillNumber("c_esr", 30)
	s.Fill(antenna.FeedHeight, 1)
	cMin, cMax := s.FillNumber("c_min", 10), s.FillNumber("c_max", 250)
	l := ring(s)
	beside := s.N("c_beside", 0)
	rating := s.FillNumber("c_volts", 3000)
	power := antenna.Or(r.PowerW, 10)
	p := antenna.Plan{}
	if l.Tube*8 > l.Around/(2*math.Pi) {
		p.Faults = append(p.Faults, antenna.FaultAt("tube", "error", "the conductor is too thick for a loop of this size"))
		l.Tube = l.Around / 60
	}
	t := antenna.Table{Title: "Settings and losses", Columns: []string{"MHz", "capacitor", "width to SWR 2.6", "radiates, ohm",
		"efficiency", "voltage", "current"},
		Estimates: []int{2, 3, 4, 5, 6},
		Note: fmt.Sprintf("At %s, the voltage as its peak. Joints, ground and things near it lose more: the real efficiency lies between "+
			"a half of these and these.", quantity.Watts(power))}
	picofarads := func(f float64) float64 { return antenna.Or(r.Setting(f).Farads, l.Capacitance(f)) * 1e12 }
	for _, f := range all {
		c := picofarads(f)
		amps, volts := l.at(f, power)
		eff := l.Efficiency(f)
		t.Rows = append(t.Rows, []string{quantity.ToKHz(f), fmt.Sprintf("%.0f pF", c), fmt.Sprintf("%.1f kHz", l.Bandwidth(f)/1e3),
			fmt.Sprintf("%.3f of %.3f", l.Radiation(f), l.Radiation(f)+l.Loss(f)), fmt.Sprintf("%.0f %%", 100*eff),
			fmt.Sprintf("%.0f V", tens(volts)), fmt.Sprintf("%.1f A", amps)})
		switch {
		case beside > 0 && c > cMax && c >= cMin+beside && c <= cMax+beside:
			t.Rows[len(t.Rows)-1][1] = fmt.Sprintf("%.0f + %.0f pF", beside, c-beside)
		case c < cMin || c > cMax:
			p.Faults = append(p.Faults, antenna.Say("c_max", "ask", "%s MHz wants %.0f pF, the capacitor goes from %.0f to %.0f pF",
				quantity.ToKHz(f), c, cMin, cMax))
		}
		if volts > rating {
			p.Faults = append(p.Faults, antenna.Say("c_volts", "ask", "%.0f V peak at %s on %s MHz: more than the capacitor's %.0f V. At most %s",
				two(volts), quantity.Watts(power), quantity.ToKHz(f), rating, quantity.Watts(two(power*math.Pow(rating/volts, 2)))))
		}
		if round := l.Around * f / numeric.Light; round > 0.25 {
			p.Faults = append(p.Faults, antenna.Say("radiator", "ask",
				"%s around is %.2f wavelengths on %s MHz: beyond 0.25 it is no small "+
					"loop any more: its current falls off, and the figures with it", say(r, l.Around), round,
				quantity.ToKHz(f)))
		}
	}
	hiF, loF := l.Tuned(cMin*1e-12), l.Tuned(cMax*1e-12)
	link, own := coupling(s)
	if !own {
		link = couplingFor(l, all[0])
	}
	if own && link.Tall > l.Around/math.Pi-2*link.Apart {
		p.Faults = append(p.Faults, antenna.Say("coupling", "error", "it does not fit into a loop %s across", say(r, l.Around/math.Pi)))
		link.Tall = l.Around / math.Pi / 5
	}
	if cMax+beside > cMax {
		loF = l.Tuned((cMax + beside) * 1e-12)
	}
	p.Figures = append([]phrase.Figure{
		figure("Diameter", say(r, l.Around/math.Pi), "of a round loop"), figure("Inductance", fmt.Sprintf("%.2f uH", l.L()*1e6),
			"mu0 r (ln(8r/a) - 2)"),
		figure("Tunes from", fmt.Sprintf("%s to %s MHz", quantity.ToKHz(math.Round(loF/1e4)*1e4), quantity.ToKHz(math.Round(hiF/1e4)*1e4)),
			"over the capacitor's range"),
	}, couplingFigures(r, s, l)...)
	p.Pieces = []antenna.Piece{exact("loop", "tube", 1, l.Around, allow("lugs at the capacitor", quantity.Metres(0.04))),
		exact("coupling loop", "coax or wire", 1, link.Round(), allow("leads", quantity.Metres(0.06)))}
	p.Shape, p.Tables = s, []antenna.Table{t}
	p.Sentence = fmt.Sprintf("A loop of %s around, %.0f pF on %s MHz",
		say(r, l.Around), picofarads(r.FrequencyHz), quantity.ToKHz(r.FrequencyHz))
	if r.Setting(r.FrequencyHz).Farads == 0 {
		p.Sentence += fmt.Sprintf(", about %.0f %% efficient", 100*l.Efficiency(r.FrequencyHz))
	}
	p.Sentence += "."
	_, volts := hotLoop(s, power)
	p.Expect = fmt.Sprintf("a dip only %.1f kHz wide, and up to %.0f V across the capacitor at %s: keep hands and head away while sending",
		l.Bandwidth(r.FrequencyHz)/1e3, tens(volts), quantity.Watts(power))
	p.Factor = antenna.Factor{Value: l.Around * r.FrequencyHz / numeric.Light, Lo: l.Around * r.FrequencyHz / numeric.Light * 0.99,
		Hi: l.Around * r.FrequencyHz / numeric.Light * 1.01, Why: []string{"share of a wavelength; it is tuned by its capacitor, not cut"}}
	p.Schools = []antenna.School{school("size", fmt.Sprintf("twice the conductor, %s", fine(r, 4*l.Tube)),
		fmt.Sprintf("%.0f %% on %s MHz instead of %.0f", 100*Ring{Around: l.Around, Tube: 2 * l.Tube, ESR: l.ESR}.Efficiency(all[len(all)-1]),
			quantity.ToKHz(all[len(all)-1]), 100*l.Efficiency(all[len(all)-1])), "heavier"),
		school("size", fmt.Sprintf("half as large again, %s", say(r, 1.5*l.Around)),
			fmt.Sprintf("%.0f %% on %s MHz", 100*Ring{Around: 1.5 * l.Around, Tube: l.Tube, ESR: l.ESR}.Efficiency(all[len(all)-1]),
				quantity.ToKHz(all[len(all)-1])),
			"the top band may be out of reach")}
	return p
}

func layLoop(s antenna.Shape) (antenna.Drawing, []antenna.Fault) {
	const n = 36
	radius := s.Radiator().M / (2 * math.Pi)
	// The drawn polygon has the loop's own length around.
	corner := s.Radiator().M / n / (2 * math.Sin(math.Pi/n))
	centre := s.FeedHeight().M + radius
	at := func(i int) antenna.Point {
		a := -math.Pi/2 + 2*math.Pi*float64(i)/n
		if s.Variant == "flat" {
			return antenna.Point{corner * math.Cos(a), corner * math.Sin(a), s.FeedHeight().M}
		}
		return antenna.Point{corner * math.Cos(a), 0, centre + corner*math.Sin(a)}
	}
	d := antenna.Drawing{Feed: at(0)}
	for i := range n {
		d.Lines = append(d.Lines, antenna.Line{Role: "loop", From: at(i), To: at(i + 1)})
	}
	d.Lines[n/4].Size = quantity.Metres(s.Radiator().M)
	d.Lines = append(d.Lines, antenna.Line{Role: "pole", From: antenna.Point{0, 0, 0},
		To: antenna.Point{0, 0, math.Max(s.FeedHeight().M, 0.01)}})
	if s.Variant == "flat" {
		d.View = "top"
	}
	d.Spots = []antenna.Spot{{Kind: "capacitor", At: at(n / 2), Text: "capacitor"}}
	return d, nil
}

// loopLaw: the dial is taken to turn the capacitance evenly; its zero and its scale come from two marks.
func loopLaw(s antenna.Shape) (antenna.Law, bool) {
	ring := ring(s)
	return antenna.Law{Of: plain, Against: func(hz float64) float64 { return ring.Capacitance(hz) * 1e12 }, Mean: [2]float64{0, 0},
		Spread: [2]float64{1000, 100}, Lo: 0, Hi: 10000, Read: 0.3, Rough: 0.5}, true
}
