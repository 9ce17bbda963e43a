package family

import (
	"fmt"
	"math"
	"strings"

	"reed/core/antenna"
	"reed/core/circuit"
	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/numeric"
	"reed/core/phrase"
	"reed/core/quantity"
)

func helix() Family {
	return Family{
		ID: "helix", Name: "Helix wound on a short pole", Short: "helix", Group: "upright, short", Multi: true, Trims: Loaded,
		matters: []string{"radiator", "helix_diameter", "radials_count"},
		Variants: []Variant{
			{ID: "ground-radials", Name: "radials on the ground", Sketch: Sketch{Wire: "M60 43q-9 -2 0 -4t0 -4t0 -4t0 -4t0 -4t0 -4t0 -4t0 -4V6",
				Pole: "M60 46V5", Thin: "M60 45H30M60 45H90", Feed: [2]float64{60, 44}}},
			{ID: "raised-radials", Name: "raised radials", Sketch: Sketch{Wire: "M60 43q-9 -2 0 -4t0 -4t0 -4t0 -4t0 -4t0 -4t0 -4t0 -4V6",
				Pole: "M60 46V5", Thin: "M60 45H30M60 45H90", Feed: [2]float64{60, 44}}},
		},
		Feeding: Radial, Trust: "A helix is modelled as a slow rod: expect resonance within 4 %.",
		Why:   "The slow-wave factor is for a helix alone; the solver adds its end and the ground.",
		knobs: knobsHelix, electric: electricHelix, mend: mendLoaded, wind: windHelix, fixes: map[string]string{"helix_wire": "helix_turns"},
		fields: func(s antenna.Shape) []entry.Field {
			out := []entry.Field{withHelp(askFor(""), "one tap for each band above the lowest, like 7.1 14.06"), askRadiator("radiator",
				"Wound length", 12),
				askSize("helix_diameter", "Wound on", "outer diameter of the pole", 0.3),
				withHelp(planOnly(askLength("helix_wire", "Wire at hand", 200)), "all of it is wound; the turns follow from it"),
				withHelp(entry.Field{ID: "helix_turns", Label: "Turns", Kind: entry.Amount, Max: 5000, Only: "built"}, "")}
			for i, f := range s.All()[:len(s.More)] {
				out = append(out, withHelp(entry.Field{ID: tapID(i), Label: "Turns in use on " + quantity.ToKHz(f) + " MHz", Kind: entry.Amount,
					Max: 5000, Only: "built"}, "counted from the top: a clip bridges those below"))
			}
			out = append(append(out, askFeed), askTurns()...)
			return append(out, append(askRadials(s), askBearing)...)
		},
		plan: planHelix, layout: layHelix,
	}
}

// HelixRod is the straight rod that a helix of n turns a metre and mean diameter d (m) is to a slow wave: its radius in
// metres, and what is to be added to each metre's inductance in henries. The winding's axial field is that of a current
// sheet, mu0 pi (nd)^2/4; what a wire has near itself beyond a sheet is that of a grid of wires, ln(s/2 pi a) with s
// between neighbours, which also holds back its charge. A wound polygon of 10 to 45 turns, solved, is met within 3 % of the
// turns.
func HelixRod(n, d float64, w antenna.Wire) (radius, henries float64) {
	if n <= 0 {
		return w.EquivalentRadius(), 0
	}
	pitch := 1 / n
	turn := math.Hypot(math.Pi*d, pitch)
	apart := pitch * math.Pi * d / turn
	grid := func(a float64) float64 { return math.Max(math.Log(apart/(2*math.Pi*a)), 0) }
	radius = d / 2 * math.Exp(-pitch/turn*grid(w.EquivalentRadius()))
	const each = numeric.Mu0 / (2 * math.Pi)
	return radius, math.Pow(n*d, 2)*numeric.Mu0*math.Pi/4 + each*(turn/pitch*grid(w.Radius)-pitch/turn*grid(w.EquivalentRadius()))
}

// HelixFactor is the velocity against light along the axis of a helix over a length in metres: that of a line with the
// average impedance of a short rod, 60 (ln(h/a) - 1) ohm.
func HelixFactor(n, d, length float64, w antenna.Wire) float64 {
	radius, henries := HelixRod(n, d, w)
	return 1 / math.Sqrt(1+henries*numeric.Light/(60*math.Max(math.Log(length/radius)-1, 0.5)))
}

// HelixTurns is the number of turns a metre that makes a length (m) a quarter-wave; 0 when it is longer
// than one already.
func HelixTurns(length, d, lambda float64, w antenna.Wire) float64 {
	v := 4 * length / lambda
	if v >= HelixFactor(0, d, length, w) {
		return 0
	}
	n, _ := numeric.Bisect(func(n float64) float64 { return HelixFactor(n, d, length, w) - v }, 1e-3, 1e4, 0)
	return n
}

// tapID is the field of the turns in use on the i-th band, the highest first; all are in use on the lowest.
func tapID(i int) string { return fmt.Sprintf("helix_turns_%d", i+1) }

// tapped are the turns in use at f hertz.
func tapped(s antenna.Shape, f float64) float64 {
	all, band := s.All(), 0
	for i := range all {
		if math.Abs(all[i]-f) < math.Abs(all[band]-f) {
			band = i
		}
	}
	whole := s.N("helix_turns", 0)
	if band == len(all)-1 {
		return whole
	}
	return math.Min(s.N(tapID(band), whole), whole)
}

// HelixTap is how many turns at the top of a winding of so many over a length are left for a shorter wave, the others
// bridged: a plain line below the wound one, both a quarter of the wave long together. It is 0 where the rod alone is too
// long.
func HelixTap(turns, length, d, lambda float64, w antenna.Wire) float64 {
	k := 2 * math.Pi / lambda
	factor := HelixFactor(turns/length, d, length, w)
	over := func(t float64) float64 {
		up := length * t / turns
		// The impedance of each is as its inductance: the wound one's is higher by 1/factor.
		return math.Tan(k*(length-up))*math.Tan(k*up/factor) - 1/factor
	}
	most := math.Min(1, factor*lambda/4/length) * turns
	t, ok := numeric.Bisect(over, 1e-3*turns, most*0.9999, 1e-3)
	if !ok {
		return 0
	}
	return t
}

// planTaps fills the turns in use on the bands above the lowest.
func planTaps(r antenna.Request, s *antenna.Shape, p *antenna.Plan, turns, d float64, w antenna.Wire) {
	all, length := s.All(), s.Radiator().M
	for i, f := range all[:len(all)-1] {
		t := HelixTap(turns, length, d+2*w.Outer, numeric.Light/f, w)
		if t == 0 {
			p.Faults = append(p.Faults, antenna.Say("for", "ask", "%s alone is too long for %s MHz: no tap serves it", say(r, length),
				quantity.ToKHz(f)))
			t = turns
		}
		s.FillNumber(tapID(i), math.Round(t*10)/10)
		p.Figures = append(p.Figures, figure("Tap for "+quantity.ToKHz(f)+" MHz", fmt.Sprintf("%.0f turns up", turns-s.N(tapID(i), turns)),
			fmt.Sprintf("a clip from there to the feed leaves %.1f turns in use", s.N(tapID(i), turns))))
	}
}

func planHelix(r antenna.Request, w antenna.Wire, g earth.Ground) antenna.Plan {
	s := r.Shape
	r.FrequencyHz = s.Lowest()
	lambda := numeric.Light / r.FrequencyHz
	length := antenna.LengthOr(s.Radiator(), math.Min(2.5, lambda/8))
	s.Put(antenna.Radiator, length)
	d := s.Fill("helix_diameter", 0.03)
	n := HelixTurns(length.M, d+2*w.Outer, lambda, w)
	turns := n * length.M
	if wire := s.M("helix_wire"); wire > length.M {
		turns = math.Sqrt(wire*wire-length.M*length.M) / (math.Pi * (d + 2*w.Outer))
	}
	turns = s.N("helix_turns", turns)
	n = turns / length.M
	s.PutNumber("helix_turns", math.Round(turns*10)/10)
	wireLength := wound(s, turns)
	p := antenna.Plan{}
	if wire := s.M("helix_wire"); wire > 0 && math.Abs(wireLength-wire) > 0.02*wire {
		p.Faults = append(p.Faults, antenna.Say("helix_wire", "ask",
			"%.0f turns take %s of wire, not %s", turns, say(r, wireLength), say(r, wire)))
	}
	if n == 0 {
		p.Faults = append(p.Faults, antenna.Say("radiator", "error", "%s is a full quarter-wave on %s MHz already: no helix is needed",
			say(r, length.M), quantity.ToKHz(r.FrequencyHz)))
		wireLength = length.M
	}
	if n > 0 && 1/n < 2*w.Outer {
		p.Faults = append(p.Faults, antenna.Say("helix_diameter", "ask",
			"%.0f turns of a wire %s thick do not fit on %s; a thicker pole or a longer winding does it", turns, fine(r, 2*w.Outer),
			say(r, length.M)))
	}
	p.Expect = radials(&s, r, w.JacketFactor(lambda/4), g)
	radiation := math.Pow(25.3*length.M/lambda, 2)
	pitch := length.M
	if turns > 0 {
		pitch = length.M / turns
	}
	res := 0.5 * circuit.SkinResistance(r.FrequencyHz, wireLength, w.Radius,
		circuit.CopperResistivity) // sinusoidal current: half of it counts
	ground := screenLoss(g, r.FrequencyHz, math.Max(length.M, 0.05*lambda), s.Radials())
	if s.Variant == "raised-radials" {
		ground = 3
	}
	eff := 10 * math.Log10(radiation/(radiation+res*1.5+ground))
	hi := 10 * math.Log10(radiation/(radiation+res+ground))
	p.Figures = []phrase.Figure{
		figure("Turns", fmt.Sprintf("%.0f", turns), fmt.Sprintf("one every %s; trim by taking turns off the top", fine(r, pitch))),
		figure("Wave on it", fmt.Sprintf("%.0f %% of light", 100*4*length.M/lambda),
			"winding as a current sheet and a grid of wires, within about 4 %"),
		estimate("Radiation resistance", fmt.Sprintf("%.1f ohm", radiation), "(25.3 h/lambda)^2"),
		estimate("Wire and ground lose", fmt.Sprintf("%.1f and %.0f ohm", res, ground), ""),
		estimate("The antenna radiates", decibels(eff, hi), ""),
	}
	if n > 0 {
		planTaps(r, &s, &p, turns, d, w)
	}
	p.Pieces = append([]antenna.Piece{piece(r, "helix wire", 1, wireLength, 1)}, radialPieces(r, s)...)
	p.Sentence = fmt.Sprintf("Wind %s of wire in %.0f turns on %s of pole.", say(r, wireLength), turns, say(r, length.M))
	p.Expect = fmt.Sprintf("about %.0f ohm with its losses, narrow; a whip above or a capacity hat widens it", radiation+res+ground)
	kk := 4 * length.M / lambda
	p.Factor = antenna.Factor{Value: kk, Lo: kk * 0.94, Hi: kk * 1.06, Why: []string{"slow wave on the helix",
		"the picture of the winding is good to about 4 %"}}
	p.Shape = s
	p.Faults = append(p.Faults, directionFaults(s)...)
	p.Schools = []antenna.School{
		school("loading", "helix", fmt.Sprintf("radiates %.1f ohm", radiation), "loaded over its whole length; light, no separate coil"),
		school("loading", "full size or nothing", "36 ohm", fmt.Sprintf("%s of pole", say(r, lambda/4*0.96))),
	}
	if turns > 0 {
		p.Strips = []antenna.Strip{turnStrip(pitch)}
	}
	return p
}

// turnStrip marks turns at their pitch in metres, every fifth with its number.
func turnStrip(pitch float64) antenna.Strip {
	strip := antenna.Strip{Title: "Turns of the helix", Edge: "the first turn", MM: math.Min(250, pitch*1000*20), Marks: []antenna.Mark{}}
	for i := 0; float64(i)*pitch*1000 <= strip.MM && pitch > 0.0005; i++ {
		mark := antenna.Mark{MM: float64(i) * pitch * 1000}
		if i%5 == 0 {
			mark.Text = fmt.Sprint(i)
		}
		strip.Marks = append(strip.Marks, mark)
	}
	return strip
}

// windHelix sets turns. Turns that are taken off the top of the winding are missing on every band.
func windHelix(s antenna.Shape, id string, turns float64) antenna.Shape {
	was := s.N(id, 0)
	s = s.WithNumber(id, turns)
	if id != "helix_turns" || was <= 0 {
		return s
	}
	for i := range s.More {
		if used := s.N(tapID(i), 0); used > 0 {
			s = s.WithNumber(tapID(i), math.Max(1, used+turns-was))
		}
	}
	return s
}

// tapFaults asks about turns in use that do not fall with the frequency, as of a winding that was changed since.
func tapFaults(s antenna.Shape) (out []antenna.Fault) {
	all := s.All()
	below := s.N("helix_turns", 0)
	for i := len(s.More) - 1; i >= 0; i-- {
		used := s.N(tapID(i), 0)
		if used <= 0 {
			continue
		}
		if used > below {
			out = append(out, antenna.Say(tapID(i), "ask", "%.3g turns are in use on %s MHz, more than the %.3g on the next lower band: "+
				"a higher band needs fewer", used, quantity.ToKHz(all[i]), below))
		}
		below = math.Min(below, used)
	}
	return out
}

func layHelix(s antenna.Shape) (antenna.Drawing, []antenna.Fault) {
	d, faults := layVertical(s)
	faults = append(faults, tapFaults(s)...)
	d.Spots = append(d.Spots, antenna.Spot{Kind: "winding", At: antenna.Between(d.Feed, antenna.Point{0, 0, d.Feed[2] + s.Radiator().M},
		0.5), Text: strings.TrimSpace(fmt.Sprintf("%.0f turns", s.N("helix_turns", 0)))})
	return d, faults
}

// knobsHelix are its turns: those in use on each band, and all.
func knobsHelix(s antenna.Shape) []Knob {
	var out []Knob
	for i, f := range s.All()[:len(s.More)] {
		out = append(out, Knob{Field: tapID(i), Piece: "helix wire", Label: "turns in use on " + quantity.ToKHz(f) + " MHz", F: f, Way: Wind,
			Within: [2]float64{0.5, 1.7}})
	}
	return append(out, Knob{Field: "helix_turns", Piece: "helix wire", Label: "turns", F: s.Lowest(), Way: Wind, Within: [2]float64{0.6, 1.6}})
}

// wound is the wire in metres of so many turns over its length.
func wound(s antenna.Shape, turns float64) float64 {
	return math.Hypot(turns*math.Pi*(s.M("helix_diameter")+2*s.Conductor().Outer), s.M(antenna.Radiator))
}

func electricHelix(s antenna.Shape, f float64, e *antenna.Electric) {
	d, turns := s.M("helix_diameter"), s.N("helix_turns", 0)
	w := s.Conductor()
	if l := s.Radiator().M; l > 0 && d > 0 && turns > 0 {
		radius, henries := HelixRod(turns/l, d+2*w.Outer, w)
		e.SpreadHenries, e.Diameter = henries, 2*radius
		e.SpreadOhms = circuit.SkinResistance(f, wound(s, turns), w.Radius, circuit.CopperResistivity) / l
		e.SpreadFrom = l * (1 - tapped(s, f)/turns)
	}
}
