package antenna

import (
	"fmt"
	"math"

	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/quantity"
)

func multiVertical() Family {
	return Family{
		ID: "multi-vertical", Name: "Several verticals on one feed", Short: "multi", Group: "upright", Multi: true, Trims: "wire",
		Variants: radialVariants,
		fields: func(s Shape) []entry.Field {
			out := []entry.Field{withHelp(askFor(""), "one wire for each, like 7.1 14.06 21.1"), askBuilt("radiator", "Longest wire")}
			for i := range len(s.More) {
				f := askLength(WireID(i), fmt.Sprintf("Wire %d, next shorter", i+2), 100)
				f.Only = "built"
				out = append(out, f)
			}
			out = append(out, askLength("spread", "Wires spread, ends apart", 10), askFeed, askPole)
			return append(out, append(askRadials(s.Variant == "raised-radials"), askBearing)...)
		},
		plan: planMulti, layout: layMulti,
	}
}

// WireID is the field of the i-th wire after the longest, counted from 0.
func WireID(i int) string { return fmt.Sprintf("wire_%d", i+2) }

// together finds the lengths in metres, one for each frequency (falling), at which wires on one feed are
// resonant there with all others in parallel: each wire's susceptance cancels that of the others
// (impedances as open lines, without coupling through the air). off says which cannot.
func together(all []float64, alone []float64, w Wire) (lengths []float64, off []bool) {
	lengths, off = append([]float64{}, alone...), make([]bool, len(all))
	for range 12 {
		for i, f := range all {
			rest := 0.0
			for j := range all {
				if j != i {
					rest += imag(1 / mono(f, lengths[j], w))
				}
			}
			sum := func(l float64) float64 { return imag(1/mono(f, l, w)) + rest }
			// Around its own series resonance the susceptance falls steadily between plus and minus 1/2R.
			z := mono(f, alone[i], w)
			slope := imag(mono(f, alone[i]*1.001, w)-z) / (alone[i] * 0.001)
			reach := real(z) / slope
			l, ok := bisect(sum, alone[i]-reach, alone[i]+reach)
			off[i] = !ok
			if ok {
				lengths[i] = l
			}
		}
	}
	return lengths, off
}

func planMulti(r Request, w Wire, g earth.Ground) Plan {
	s := r.Shape
	all := s.All()
	alone := make([]float64, len(all))
	for i, f := range all {
		quarter := Light / f / 4
		alone[i] = endFactor(quarter, w.EquivalentRadius()) * w.JacketFactor(quarter) * quarter
	}
	lengths, off := together(all, alone, w)
	n := len(all)
	k := alone[n-1] / (Light / all[n-1] / 4)
	p := Plan{Factor: Factor{Value: lengths[0] * 4 * all[0] / Light, Lo: lengths[0] * 4 * all[0] / Light * 0.94, Hi: lengths[0] * 4 * all[0] / Light * 1.05, Why: []string{
		"each wire is resonant with the others in parallel", "coupling through the air moves the short wires by several per cent more: cut them long, the highest band most"}},
		Provisional: "Coupling between the wires through the air is not in these lengths; trim the longest first, and all again after each."}
	t := Table{Title: "Together and alone", Columns: []string{"MHz", "together", "alone", "the others take", "expect"}}
	for i, f := range all {
		own, rest := 1/mono(f, lengths[i], w), complex128(0)
		for j := range all {
			if j != i {
				rest += 1 / mono(f, lengths[j], w)
			}
		}
		share := 100 * real(rest) / real(rest+own)
		t.Rows = append(t.Rows, []string{quantity.ToKHz(f), r.say(lengths[i]), r.say(alone[i]), fmt.Sprintf("%.0f %%", share), fmt.Sprintf("SWR %.1f", swr(1/(own+rest)))})
		if off[i] {
			p.Faults = append(p.Faults, fault("frequency_hz", "ask", fmt.Sprintf("on %s MHz the other wires pull more than one wire can make good; leave one of the near bands out", quantity.ToKHz(f))))
		}
		p.Pieces = append(p.Pieces, piece(r, "wire for "+quantity.ToKHz(f)+" MHz", 1, lengths[i], 1))
	}
	s.Radiator = lengthOr(s.Radiator, lengths[n-1])
	for i := range n - 1 { // wire_2 is the next shorter than the longest
		s.Put(WireID(i), lengthOr(s.Sizes[WireID(i)], lengths[n-2-i]))
	}
	s.size("spread", 0.3)
	low := r
	low.FrequencyHz = all[n-1]
	p.Expect = s.radials(low, k, g)
	s.PoleHeight = lengthOr(s.PoleHeight, s.FeedHeight.M+s.Radiator.M)
	p.Pieces = append(p.Pieces, piece(r, "radial", s.Radials.Count, s.Radials.Length.M, 1))
	p.Shape, p.Tables = s, []Table{t}
	p.Schools = append(radialSchools(low, k, g), School{"several bands", "wires on one feed", fmt.Sprintf("%d wires, no loss", n), "all bands at once; each trim moves the others"},
		School{"several bands", "one whip set by length", "one radiator", "lowered for each band, always full size"})
	p.Faults = append(p.Faults, s.directionFaults()...)
	return p
}

func layMulti(s Shape) (Drawing, []Fault) {
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
		end := Point{side, 0, d.Feed[2] + math.Sqrt(l*l-side*side)}
		d.Lines = append(d.Lines, Line{Role: "radiator", From: d.Feed, To: end, Size: quantity.Metres(l)})
		if l > s.Radiator.M*1.001 && s.Radiator.M > 0 {
			faults = append(faults, fault(WireID(i), "ask", fmt.Sprintf("wire %d of %s is longer than the longest, %s", i+2, quantity.Metric(l, 10), quantity.Metric(s.Radiator.M, 10))))
		}
	}
	return d, faults
}
