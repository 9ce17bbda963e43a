package family

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"reed/core/antenna"
	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/numeric"
	"reed/core/quantity"
)

func endFed() Family {
	return Family{
		ID: "end-fed", Name: "End-fed half-wave", Short: "end-fed", Group: "fed at the end", Multi: true, Trims: Wired,
		matters: []string{"pole_height", "far_height"},
		Variants: []Variant{
			{ID: "sloper", Name: "sloper", Sketch: Sketch{Wire: "M16 40L96 8", Pole: "M96 8V46", Thin: "M16 40L6 45", Feed: [2]float64{16, 40}}},
			{ID: "flat", Name: "flat", Sketch: Sketch{Wire: "M14 14H106", Pole: "M106 14V46", Thin: "M14 14V46", Feed: [2]float64{14, 14}}},
			{ID: "inverted-v", Name: "inverted V", Sketch: Sketch{Wire: "M12 40L58 8L108 34", Pole: "M58 8V46", Thin: "M12 40L4 45",
				Feed: [2]float64{12, 40}}},
			{ID: "upright", Name: "upright", Sketch: Sketch{Wire: "M60 41V4", Thin: "M60 41L44 46", Feed: [2]float64{60, 41}}},
		},
		Usual: true, Feeding: Counterpoise, OneForAll: true, Trust: trustEndFed,
		Why:      "The closed form knows no counterpoise and no ground; both move an end-fed wire by several per cent.",
		Practice: []Practice{{Variant: "sloper", Height: 1.5, Rise: 0.35}},
		knobs: func(antenna.Shape) []Knob {
			return []Knob{{Field: antenna.Radiator, Piece: "radiator", Label: "radiator", High: true}}
		},
		set: setEndFed, mend: mendEndFed,
		fields: func(s antenna.Shape) []entry.Field {
			out := []entry.Field{withHelp(askFor(""), "harmonic bands too, like 7.1 14.1 21.1"), askBuilt("radiator", "Radiator"), askFeed, askFar,
				askPole,
				planOnly(withHelp(askCount("half_waves", "Half-waves", 8), "on the first frequency"))}
			out = append(append(append(out, askCounterpoise()...), askTurns()...), askBearing)
			return append(out, askBends(s)...)
		},
		plan: planEndFed, layout: layEndFed, hot: hotEnd, fold: foldEnd,
	}
}

// hotEnd is the peak voltage at the end of a half-wave, with the higher of the usual end resistances.
func hotEnd(_ antenna.Shape, powerW float64) (string, float64) {
	return "the wire's end and the transformer's hot terminal", math.Sqrt(2 * powerW * EndResistance[1])
}

// EndResistance is the range in ohms in which a half-wave wire's end resistance usually lies.
var EndResistance = [2]float64{1800, 5000}

func planEndFed(r antenna.Request, w antenna.Wire, g earth.Ground) antenna.Plan {
	lambda := numeric.Light / r.FrequencyHz
	n := r.HalfWaves
	if n < 1 {
		n = 1
	}
	jacket := w.JacketFactor(float64(n) * lambda / 4)
	// n half-waves, of which only the two ends are shortened: (n-0.05) k c/2f.
	length := (float64(n) - 0.05) * jacket * lambda / 2
	whole := (float64(n) - 0.05) / float64(n) * jacket
	k := antenna.Factor{Value: whole, Lo: whole * 0.97, Hi: whole * 1.04, Why: []string{
		fmt.Sprintf("ends: %d half-wave less 0.05", n),
		fmt.Sprintf("jacket (permittivity %.2g) %.3f", w.Permittivity, jacket),
		"transformer and counterpoise move an end-fed wire by several per cent: cut long",
	}}
	s := r.Shape
	all := wants(r, jacket)
	if len(s.More) > 0 {
		length = compromise(all)
	}
	closed := length
	length = settle(&k, s.Radiator().M, closed)
	s.Fill(antenna.Radiator, length)
	hang(&s)
	if s.Primary() == 0 && s.Secondary() == 0 {
		s.PutNumber(antenna.PrimaryTurns, 2)
		s.PutNumber(antenna.SecondaryTurns, 14)
	}
	if !s.Said(antenna.CounterpoiseCount) {
		s.PutNumber(antenna.CounterpoiseCount, 1)
	}
	counterpoise := 0.05 * lambda
	s.Fill(antenna.CounterpoiseLength, counterpoise)
	ratio := s.Transforms()
	p := antenna.Plan{
		Shape: s, Factor: k,
		Expect: fmt.Sprintf("an end of %.0f to %.0f ohm; through %s the radio sees %.0f to %.0f ohm", EndResistance[0], EndResistance[1],
			s.Ratio(), EndResistance[0]/ratio, EndResistance[1]/ratio),
		Schools: []antenna.School{
			school("counterpoise", "a dedicated short wire", "0.05 wavelength, "+say(r, counterpoise), "the match depends on it; choke at the feed"),
			school("counterpoise", "the coax up to a choke", "at least "+say(r, counterpoise)+" of coax",
				"no extra wire; the coax radiates up to the choke"),
			school("counterpoise", "none", "only a tiny set, under about 5 W", "the set and you are the counterpoise; the resonance wanders"),
			school("transformer", "1:49", endMatch(49), "the usual first try"),
			school("transformer", "1:64", endMatch(64), "when R is low through 1:49: thin wire, high and clear"),
			school("transformer", "1:9", endMatch(9), "not for a half-wave: too high an end"),
		},
	}
	if len(s.More) > 0 {
		harmonics(&p, r, all, closed, length/closed)
	}
	p.Pieces = []antenna.Piece{piece(r, "radiator", 1, length, 2), piece(r, "counterpoise", s.Counterpoise().Count,
		s.Counterpoise().Length.M, 1)}
	return p
}

// endMatch is the SWR that the usual range of end resistances has through a ratio.
func endMatch(ratio float64) string {
	at := func(r float64) float64 { return math.Max(r/ratio/50, 50*ratio/r) }
	best := 1.0
	if mid := 50 * ratio; mid < EndResistance[0] || mid > EndResistance[1] {
		best = math.Min(at(EndResistance[0]), at(EndResistance[1]))
	}
	return fmt.Sprintf("SWR %.1f to %.1f", best, math.Max(at(EndResistance[0]), at(EndResistance[1])))
}

// want is a frequency with the whole number of half-waves that a wire is long there, and the length that it wants.
type want struct{ f, n, l float64 }

// wants returns the ideal length for each frequency by itself; the lowest takes a half-wave.
func wants(r antenna.Request, jacket float64) (out []want) {
	first := 0.95 * jacket * numeric.Light / r.Lowest() / 2
	for _, f := range r.All() {
		n := math.Max(1, math.Round(first*2*f/numeric.Light/jacket+0.05))
		out = append(out, want{f, n, (n - 0.05) * jacket * numeric.Light / f / 2})
	}
	return out
}

// compromise is the one length that serves several frequencies with the smallest largest error: those that want the most
// and the least are off by the same share.
func compromise(all []want) float64 {
	first := slices.MinFunc(all, func(a, b want) int { return cmp.Compare(a.f, b.f) }).l
	lo, hi := first, first
	for _, x := range all {
		if antenna.ServedWith(x.l, first) {
			lo, hi = math.Min(lo, x.l), math.Max(hi, x.l)
		}
	}
	return (lo + hi) / 2
}

// harmonics tabulates what each frequency would have wanted of the one wire that is the best by the closed form; the wire that
// is cut is share of it.
func harmonics(p *antenna.Plan, r antenna.Request, all []want, best, share float64) {
	base := r.Lowest()
	t := antenna.Table{Title: "One length for all bands", Columns: []string{"MHz", "half-waves", "ideal length", "resonates near", "off"},
		Note: "Harmonic bands want a little more wire for each half-wave: the length is the compromise with the smallest largest error."}
	for _, x := range all {
		at := x.f * x.l / best
		t.Rows = append(t.Rows, []string{quantity.ToKHz(x.f), fmt.Sprintf("%.0f", x.n), say(r, x.l*share), quantity.ToKHz(at),
			fmt.Sprintf("%+.1f %%", (at/x.f-1)*100)})
		if math.Abs(at/x.f-1) > 0.03 {
			p.Faults = append(p.Faults, antenna.Say("frequency_hz", "ask",
				"%s MHz is no near multiple of %s MHz: this wire would resonate at %s MHz. A tuner, links or another family serves it better",
				quantity.ToKHz(x.f), quantity.ToKHz(base), quantity.ToKHz(at)))
		}
	}
	p.Tables = append(p.Tables, t)
	p.Factor.Why = append(p.Factor.Why, fmt.Sprintf("compromise over %d frequencies", len(all)))
}

func layEndFed(s antenna.Shape) (antenna.Drawing, []antenna.Fault) {
	l, h, far, top := s.Radiator().M, s.FeedHeight().M, s.FarHeight().M, s.PoleHeight().M
	var faults []antenna.Fault
	feed := antenna.Point{0, 0, h}
	d := antenna.Drawing{Feed: feed}
	lines, wrong, bent := course(s, feed, l)
	switch {
	case bent:
		d.Lines, faults = append(masts(lines), lines...), wrong
	case s.Variant == "inverted-v":
		half := l / 2
		up, down := top-h, top-far
		if math.Abs(up) > half {
			faults = append(faults, antenna.CannotReach("pole_height", half, h, top))
			up = math.Copysign(half, up)
		}
		if math.Abs(down) > half {
			faults = append(faults, antenna.CannotReach("far_height", half, top, far))
			down = math.Copysign(half, down)
		}
		apex := antenna.Point{math.Sqrt(half*half - up*up), 0, h + up}
		end := antenna.Point{apex[0] + math.Sqrt(half*half-down*down), 0, apex[2] - down}
		d.Lines = append(d.Lines, antenna.Pole(apex[0], apex[2]), antenna.Line{Role: "radiator", From: feed, To: apex,
			Size: quantity.Metres(l)}, antenna.Line{Role: "radiator", From: apex, To: end}, antenna.Tie(apex, end))
	default:
		rise := far - h
		if s.Variant == "upright" && l > 0 {
			rise = l
			if s.FarHeight().Typed != "" && math.Abs(far-h-l) > 0.05*l+0.2 {
				faults = append(faults, antenna.Say("far_height", "ask", "an upright wire of %s from %s ends %s up, not %s; which is wrong?",
					quantity.Long(l), quantity.Long(h), quantity.Long(h+l), quantity.Long(far)))
			}
		}
		if math.Abs(rise) > l+1e-9 {
			faults = append(faults, antenna.CannotReach("far_height", l, h, far))
			rise = math.Copysign(l, rise)
		}
		end := antenna.Point{math.Sqrt(math.Max(0, l*l-rise*rise)), 0, h + rise}
		d.Lines = append(d.Lines, antenna.Pole(end[0], math.Max(end[2], top)),
			antenna.Line{Role: "radiator", From: feed, To: end, Size: quantity.Metres(l)})
	}
	d.Lines = append(d.Lines, counterpoise(s, feed)...)
	return d, faults
}

// counterpoise leads from the feed away from the wire to the height of its far end, on the ground where no height is given.
func counterpoise(s antenna.Shape, feed antenna.Point) []antenna.Line {
	c := s.Counterpoise()
	if c.Count <= 0 || c.Length.M <= 0 {
		return nil
	}
	fall := math.Max(-c.Length.M, math.Min(feed[2]-c.Height.M, c.Length.M))
	run := math.Sqrt(c.Length.M*c.Length.M - fall*fall)
	return []antenna.Line{{Role: "counterpoise", From: feed, To: antenna.Point{-run, 0, feed[2] - fall}}}
}

// trustEndFed is how far the forecast of a wire fed at its end holds.
const trustEndFed = "End-fed wires depend on transformer and coax: expect resonance within 2 % and SWR within a third."

// setEndFed sets a length; where the wire stands upright its end goes with it.
func setEndFed(s antenna.Shape, id string, m float64) antenna.Shape {
	s = setLength(s, id, m)
	if s.Variant == "upright" && s.FarHeight().Typed == "" {
		s.Put(antenna.FarHeight, quantity.Metres(s.M(antenna.FeedHeight)+s.M(antenna.Radiator)))
	}
	return s
}
