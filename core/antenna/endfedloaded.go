package antenna

import (
	"fmt"
	"math"

	"reed/core/circuit"
	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/quantity"
)

func endFedLoaded() Family {
	return Family{
		ID: "end-fed-loaded", Name: "End-fed, shortened with coil and tail", Short: "coil and tail", Group: "end-fed", Multi: true, Trims: "loaded",
		Variants: []Variant{{"sloper", "sloper"}, {"flat", "flat"}, {"inverted-v", "inverted V"}},
		fields: func(Shape) []entry.Field {
			out := []entry.Field{withHelp(askFor(""), "the low band and its harmonics, like 7.1 14.1"), askBuilt("radiator", "Main wire and tail"),
				askLength("coil_at", "Main wire, feed to coil", 100), {ID: "tail", Label: "Tail beyond the coil", Kind: entry.Length, Max: 50, Only: "built"},
				askAmount("coil_uh", "Coil", "uH", 0.5, 500), askSize("coil_former", "Coil on a pipe of", "outer diameter", 0.2), askSize("coil_wire", "wound with wire of", "bare diameter", 0.005),
				askFeed, askFar, askPole}
			return append(append(append(out, askCounterpoise()...), askTurns()...), askBearing)
		},
		plan: planEndFedLoaded, layout: layEndFedLoaded, hot: hotEnd,
	}
}

// tailed is an end-fed wire with a coil at the end of its main part and a tail behind: velocity factor k,
// wire radius a, coil in henries.
type tailed struct{ k, a, henries float64 }

// theta is the electrical angle of a length, the end effect counted when it is the outer end.
func (t tailed) theta(f, l float64, end bool) float64 {
	lambda := Light / f
	eff := l / t.k
	if end {
		eff += 0.025 * lambda * math.Min(1, l/(0.05*lambda))
	}
	return 2 * math.Pi * eff / lambda
}

// excess is, in ohms, the coil's reactance and what the tail and the main wire ask for: zero when the
// whole is resonant as a half-wave at f (line theory: omega L = Za cot a + Zt cot t).
func (t tailed) excess(f, main, tail float64) float64 {
	a, b := t.theta(f, main, false), t.theta(f, tail, true)
	return 2*math.Pi*f*t.henries - Average(main, t.a)/math.Tan(a) - Average(math.Max(tail, 10*t.a), t.a)/math.Tan(b)
}

// bisect finds a zero of a function between two ends; ok is false when it has the same sign at both.
func bisect(f func(float64) float64, lo, hi float64) (float64, bool) {
	a, b := f(lo), f(hi)
	if math.IsNaN(a) || math.IsNaN(b) || a*b > 0 {
		return 0, false
	}
	for range 100 {
		mid := (lo + hi) / 2
		if m := f(mid); m*a > 0 {
			lo = mid
		} else {
			hi = mid
		}
	}
	return (lo + hi) / 2, true
}

// MainBand is the frequency on which the main wire of a wire with coil and tail is a half-wave by itself: the next
// above the lowest. ok is false where there is none; the lowest stands for it then.
func (s Shape) MainBand() (hz float64, ok bool) {
	low := s.lowest()
	hz = low
	for _, f := range s.All() {
		if f > low*1.3 {
			hz, ok = f, true
		}
	}
	return hz, ok
}

func planEndFedLoaded(r Request, w Wire, _ earth.Ground) Plan {
	s := r.Shape
	low := s.lowest()
	k := w.JacketFactor(Light / low / 4)
	t := tailed{k: k, a: w.EquivalentRadius()}
	all := s.All()
	p := Plan{}
	high, _ := s.MainBand()
	for _, f := range all {
		if n := f / high; high > low && f > high && math.Abs(n-math.Round(n)) > 0.05 {
			p.Faults = append(p.Faults, fault("frequency_hz", "ask", fmt.Sprintf("%s MHz is no multiple of %s MHz, on which the main wire is a half-wave: a tuner would be needed there", quantity.ToKHz(f), quantity.ToKHz(high))))
		}
	}
	usual := 0.95 * k * Light / low / 2 * 0.6
	if high > low {
		usual = 0.95 * k * Light / high / 2
	}
	main := s.size("coil_at", usual)
	uh := s.N("coil_uh", 0)
	full := 0.95 * k * Light / low / 2
	if uh == 0 {
		// The coil that leaves a tail of a tenth of the full half-wave, and at least 60 cm.
		tail := math.Max(0.6, 0.1*full)
		x := t.excess(low, main, tail) // with no coil
		uh = math.Round(math.Max(-x/(2*math.Pi*low)*1e6, 1)*10) / 10
	}
	s.PutNumber("coil_uh", uh)
	t.henries = uh * 1e-6
	tail, ok := bisect(func(x float64) float64 { return t.excess(low, main, x) }, 0.02, math.Max(full-main, 0.1))
	if !ok {
		p.Faults = append(p.Faults, fault("coil_uh", "error", fmt.Sprintf("with %.3g uH at %s no tail makes it resonant on %s MHz: %s", uh, r.say(main), quantity.ToKHz(low), tooMuch(t.excess(low, main, 0.02)))))
		tail = 0.5
	}
	if !r.Sizes["tail"].IsZero() {
		tail = r.Sizes["tail"].M
	}
	s.Put("tail", lengthOr(s.Sizes["tail"], tail))
	s.Radiator = lengthOr(s.Radiator, main+tail)
	s.hang()
	if s.Primary == 0 && s.Secondary == 0 {
		s.Primary, s.Secondary = 2, 14
	}
	if s.Counterpoise.Count == 0 {
		s.Counterpoise.Count = 1
	}
	s.Counterpoise.Length = lengthOr(s.Counterpoise.Length, 0.05*Light/low)
	coil := circuit.Coil{Former: s.size("coil_former", 0.04), Wire: s.size("coil_wire", 0.001)}
	coil.Pitch = coil.Wire * 1.15
	turns, wound := coil.TurnsFor(t.henries)
	coil.Turns = turns
	if !wound || coil.Winding() > 1 {
		p.Faults = append(p.Faults, fault("coil_former", "error", fmt.Sprintf("%.3g uH cannot be wound on %s in a metre; take a wider pipe", uh, r.fine(coil.Former))))
	}
	if !wound {
		p.Shape = s
		return p // of no coil there is nothing to say
	}
	p.coil(r, coil, []float64{low})
	share := math.Abs(t.excess(low, main, tail*1.01)-t.excess(low, main, tail)) / (0.01 * tail)
	shift := math.Abs(t.excess(low*1.001, main, tail)-t.excess(low, main, tail)) / (0.001 * low)
	p.Figures = append(p.Figures,
		Figure{"Whole length", r.say(main + tail), fmt.Sprintf("%.0f %% of the full half-wave of %s", 100*(main+tail)/full, r.say(full))},
		Figure{"1 cm of tail moves it", fmt.Sprintf("%.0f kHz", share/shift*0.01/1e3), "from the slope of the reactance; a plain wire would move " + fmt.Sprintf("%.0f kHz", low*0.01/full/1e3)})
	kk := 1 / full * (main + tail) * 0.95 * k
	p.Factor = Factor{Value: kk, Lo: kk * 0.95, Hi: kk * 1.05, Why: []string{fmt.Sprintf("jacket %.3f", k), fmt.Sprintf("coil of %.3g uH at %s", uh, r.say(main)), "a loaded wire is sensitive: cut the tail long and fold it back"}}
	if high > low {
		x := tailed{k: k, a: t.a, henries: t.henries}
		up := 2*math.Pi*high*x.henries - Average(tail, t.a)/math.Tan(x.theta(high, tail, true))
		p.Figures = append(p.Figures, Figure{"On " + quantity.ToKHz(high) + " MHz", fmt.Sprintf("%.0f ohm behind the main wire", two(up)), "the coil holds the tail off; the main wire is the half-wave there"})
		if up < 1000 {
			p.Faults = append(p.Faults, fault("coil_uh", "ask", fmt.Sprintf("on %s MHz the coil and tail are only %.0f ohm: they will pull that band; take a larger coil and a shorter tail", quantity.ToKHz(high), two(up))))
		}
	}
	p.Shape = s
	p.Pieces = []Piece{piece(r, "main wire", 1, main, 2), piece(r, "tail", 1, s.M("tail"), 2), piece(r, "counterpoise", s.Counterpoise.Count, s.Counterpoise.Length.M, 1),
		exact("coil wire", "coil wire", 1, coil.WireLength(), Allowance{"leads", quantity.Metres(0.2)})}
	_, q := coilLoss(coil, low)
	p.Expect = fmt.Sprintf("an end of 2000 to 5000 ohm on %s MHz, narrower than full size; coil Q about %.0f", quantity.ToKHz(low), q)
	p.Schools = []School{
		{"loading", "coil and tail", fmt.Sprintf("%s long", r.say(main+tail)), "fits a small place; narrow and sensitive on the low band"},
		{"loading", "full size or nothing", fmt.Sprintf("%s long", r.say(full)), "wider and more forgiving, needs the room"},
	}
	return p
}

func tooMuch(excess float64) string {
	if excess > 0 {
		return "the coil is too large for this main wire"
	}
	return "the coil is too small"
}

// realQ is what a coil's Q is of the computed one, for formers, leads and weather: measured ones lie at 0.6 to 1 of it.
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

// coil adds what a coil is to a plan: turns, winding, Q, self-resonance and the strip to wind by.
func (p *Plan) coil(r Request, c circuit.Coil, at []float64) {
	p.Figures = append(p.Figures, Figure{"Coil", fmt.Sprintf("%.1f turns", c.Turns), fmt.Sprintf("%.3g uH; %s of winding on %s, %s of wire", c.L()*1e6, r.fine(c.Winding()), r.fine(c.Former), r.say(c.WireLength()))})
	for _, f := range at {
		if _, _, q, ok := c.At(f); ok {
			p.Figures = append(p.Figures, Figure{fmt.Sprintf("Q at %s MHz", quantity.ToKHz(f)), fmt.Sprintf("%.0f to %.0f", two(q*0.6), two(q)), fmt.Sprintf("skin effect and crowding; self-resonant near %s MHz", quantity.ToKHz(math.Round(c.SelfResonance()/1e5)*1e5))})
		} else {
			p.Faults = append(p.Faults, fault("coil_former", "ask", fmt.Sprintf("this coil is self-resonant near %s MHz, below %s MHz: space it wider or take a thinner former", quantity.ToKHz(math.Round(c.SelfResonance()/1e5)*1e5), quantity.ToKHz(f))))
		}
	}
	strip := Strip{Title: fmt.Sprintf("Coil of %.3g uH", c.L()*1e6), Edge: "the first turn", MM: c.Winding() * 1000, Marks: []Mark{}}
	step := 5.0
	if c.Turns > 80 {
		step = 10
	}
	for n := 0.0; n <= c.Turns; n += step {
		strip.Marks = append(strip.Marks, Mark{n / c.Turns * strip.MM, fmt.Sprintf("%.0f", n)})
	}
	if strip.MM <= 270 {
		p.Strips = append(p.Strips, strip)
	}
}

func layEndFedLoaded(s Shape) (Drawing, []Fault) {
	d, faults := layEndFed(s)
	main, tail := s.M("coil_at"), s.M("tail")
	if main > 0 {
		d.Spots = append(d.Spots, Spot{"coil", d.along("radiator", main), fmt.Sprintf("%.3g uH", s.N("coil_uh", 0))})
	}
	if tail > 0 && s.Radiator.M > 0 && math.Abs(main+tail-s.Radiator.M) > 0.02*s.Radiator.M+0.02 {
		faults = append(faults, fault("tail", "ask", fmt.Sprintf("main wire %s and tail %s make %s, not %s; which is wrong?", quantity.Metric(main, 10), quantity.Metric(tail, 10), quantity.Metric(main+tail, 10), quantity.Metric(s.Radiator.M, 10))))
	}
	return d, faults
}
