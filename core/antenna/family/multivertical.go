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

func multiVertical() Family {
	return Family{
		ID: "multi-vertical", Name: "Several verticals on one feed", Short: "multi", Group: "upright", Multi: true, Trims: Wired,
		matters: []string{"radials_count", "radials_length"},
		Variants: []Variant{
			{ID: "ground-radials", Name: "radials on the ground", Sketch: Sketch{Wire: "M60 44V3M60 44L50 14M60 44L71 22",
				Thin: "M60 45H24M60 45H96M60 45L34 49M60 45L86 49", Feed: [2]float64{60, 44}}},
			{ID: "raised-radials", Name: "raised radials", Sketch: Sketch{Wire: "M60 32V3M60 32L51 10M60 32L70 17", Pole: "M60 32V46",
				Thin: "M60 32L26 40M60 32L94 40", Feed: [2]float64{60, 32}}},
		},
		Feeding: Radial, Why: "The closed form leaves out the coupling between the wires through the air; the solver has it.",
		knobs: knobsMulti, mend: mendUpright, electric: func(_ antenna.Shape, _ float64, e *antenna.Electric) { e.Together = true },
		wires: func(s antenna.Shape) (out []string) {
			for i := range s.More {
				out = append(out, WireID(i))
			}
			return out
		},
		fields: func(s antenna.Shape) []entry.Field {
			out := []entry.Field{withHelp(askFor(""), "one wire for each, like 7.1 14.06 21.1"), askBuilt("radiator", "Longest wire")}
			for i := range len(s.More) {
				f := askLength(WireID(i), fmt.Sprintf("Wire %d, next shorter", i+2), 100)
				f.Only = "built"
				out = append(out, f)
			}
			out = append(out, askLength("spread", "Wires spread, ends apart", 10), askFeed, askPole)
			return append(out, append(askRadials(s), askBearing)...)
		},
		plan: planMulti, layout: layMulti,
	}
}

// WireID is the field of the i-th wire after the longest, counted from 0.
func WireID(i int) string { return fmt.Sprintf("wire_%d", i+2) }

// together finds the lengths in metres, one for each frequency (falling), at which wires on one feed are
// resonant there with all others in parallel: each wire's susceptance cancels that of the others
// (impedances as open lines, without coupling through the air). off says which cannot.
func together(all []float64, alone []float64, w antenna.Wire) (lengths []float64, off []bool) {
	lengths, off = append([]float64{}, alone...), make([]bool, len(all))
	for range 12 {
		for i, f := range all {
			rest := 0.0
			for j := range all {
				if j != i {
					rest += imag(1 / antenna.Mono(f, lengths[j], w))
				}
			}
			sum := func(l float64) float64 { return imag(1/antenna.Mono(f, l, w)) + rest }
			// Around its own series resonance the susceptance falls steadily between plus and minus 1/2R.
			z := antenna.Mono(f, alone[i], w)
			slope := imag(antenna.Mono(f, alone[i]*1.001, w)-z) / (alone[i] * 0.001)
			reach := real(z) / slope
			l, ok := numeric.Bisect(sum, alone[i]-reach, alone[i]+reach, 0)
			off[i] = !ok
			if ok {
				lengths[i] = l
			}
		}
	}
	return lengths, off
}

func planMulti(r antenna.Request, w antenna.Wire, g earth.Ground) antenna.Plan {
	s := r.Shape
	all := s.All()
	alone := make([]float64, len(all))
	for i, f := range all {
		quarter := numeric.Light / f / 4
		alone[i] = antenna.EndFactor(quarter, w.EquivalentRadius()) * w.JacketFactor(quarter) * quarter
	}
	lengths, off := together(all, alone, w)
	n := len(all)
	k := alone[n-1] / (numeric.Light / all[n-1] / 4)
	p := antenna.Plan{Factor: antenna.Factor{Value: lengths[0] * 4 * all[0] / numeric.Light,
		Lo: lengths[0] * 4 * all[0] / numeric.Light * 0.94, Hi: lengths[0] * 4 * all[0] / numeric.Light * 1.05, Why: []string{
			"each wire is resonant with the others in parallel",
			"coupling through the air moves the short wires by several per cent more: cut them long, the highest band most"}},
		Provisional: "Coupling between the wires through the air is not in these lengths; trim the longest first, and all again after each."}
	t := antenna.Table{Title: "Together and alone", Columns: []string{"MHz", "together", "alone", "the others take", "expect"}}
	for i, f := range all {
		own, rest := 1/antenna.Mono(f, lengths[i], w), complex128(0)
		for j := range all {
			if j != i {
				rest += 1 / antenna.Mono(f, lengths[j], w)
			}
		}
		share := 100 * real(rest) / real(rest+own)
		t.Rows = append(t.Rows, []string{quantity.ToKHz(f), say(r, lengths[i]), say(r, alone[i]), fmt.Sprintf("%.0f %%", share),
			fmt.Sprintf("SWR %.1f", antenna.SWR50(1/(own+rest)))})
		if off[i] {
			p.Faults = append(p.Faults, antenna.Say("frequency_hz", "ask",
				"on %s MHz the other wires pull more than one wire can make good; leave one of the near bands out", quantity.ToKHz(f)))
		}
		p.Pieces = append(p.Pieces, piece(r, "wire for "+quantity.ToKHz(f)+" MHz", 1, lengths[i], 1))
	}
	s.Fill(antenna.Radiator, lengths[n-1])
	for i := range n - 1 { // wire_2 is the next shorter than the longest
		s.Put(WireID(i), antenna.LengthOr(s.Sizes[WireID(i)], lengths[n-2-i]))
	}
	s.Fill("spread", 0.3)
	low := r
	low.FrequencyHz = all[n-1]
	p.Expect = radials(&s, low, k, g)
	s.Fill(antenna.PoleHeight, s.FeedHeight().M+s.Radiator().M)
	p.Pieces = append(p.Pieces, radialPieces(r, s)...)
	p.Shape, p.Tables = s, []antenna.Table{t}
	p.Schools = append(radialSchools(low, k, g), school("several bands", "wires on one feed", fmt.Sprintf("%d wires, no loss", n),
		"all bands at once; each trim moves the others"),
		school("several bands", "one whip set by length", "one radiator", "lowered for each band, always full size"))
	p.Faults = append(p.Faults, directionFaults(s)...)
	return p
}

func layMulti(s antenna.Shape) (antenna.Drawing, []antenna.Fault) {
	d, faults := layVertical(s)
	spread, n := s.M("spread"), len(s.More)
	for i := range n {
		l := s.M(WireID(i))
		if l <= 0 {
			continue
		}
		side := float64(i/2+1) * spread
		if i%2 == 1 {
			side = -side
		}
		side = math.Min(math.Max(side, -l), l)
		end := antenna.Point{side, 0, d.Feed[2] + math.Sqrt(l*l-side*side)}
		d.Lines = append(d.Lines, antenna.Line{Role: "radiator", From: d.Feed, To: end, Size: quantity.Metres(l)})
		if l > s.Radiator().M*1.001 && s.Radiator().M > 0 {
			faults = append(faults, antenna.Say(WireID(i), "ask", "wire %d of %s is longer than the longest, %s", i+2, quantity.Long(l),
				quantity.Long(s.Radiator().M)))
		}
	}
	return d, faults
}

// knobsMulti are the wires, the shortest first.
func knobsMulti(s antenna.Shape) (out []Knob) {
	all := s.All()
	n := len(all)
	for i, f := range all {
		field := antenna.Radiator
		if i < n-1 {
			field = WireID(n - 2 - i)
		}
		name := "wire for " + quantity.ToKHz(f) + " MHz"
		out = append(out, Knob{Field: field, Piece: name, Label: name, F: f})
	}
	return out
}
