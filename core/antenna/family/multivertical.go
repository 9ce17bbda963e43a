package family

import (
	"fmt"
	"math"
	"slices"

	"reed/core/antenna"
	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/numeric"
	"reed/core/quantity"
)

func multiVertical() Family {
	return Family{
		ID: "multi-vertical", Name: "Several verticals on one feed", Short: "multi-band vertical", Group: "upright", Multi: true, Trims: Wired,
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
			out = append(out, entry.Field{ID: "wires_run", Label: "The wires run", Kind: entry.Choice, Options: []entry.Option{
				{ID: "parallel", Name: "parallel, on spacers round the pole"}, {ID: fanned, Name: "as a fan, ends apart"}}})
			if s.W("wires_run", "") == fanned {
				out = append(out, askLength("spread", "Ends apart", 10))
			} else {
				out = append(out, askSize("spacing", "Spacers hold them off", "from the pole's middle", 0.5))
			}
			out = append(out, askFeed, askPole)
			return append(out, append(askRadials(s), askBearing)...)
		},
		plan: planMulti, layout: layMulti,
	}
}

// WireID is the field of the i-th wire after the longest, counted from 0.
func WireID(i int) string { return fmt.Sprintf("wire_%d", i+2) }

// wireOf is the field of the wire for a frequency, one of those of a shape.
func wireOf(s antenna.Shape, f float64) string {
	all := s.All()
	i := slices.Index(all, f)
	if i == len(all)-1 {
		return antenna.Radiator
	}
	return WireID(len(all) - 2 - i)
}

// Grown adds to a record the wires of a plan that it lacks, each as long as the plan has it; its own wires stay as they are. added are
// the frequencies in hertz of those that came, rising; none where a wire serves no frequency of its own or where the plan has no more.
func (a Antenna) Grown(plan antenna.Shape) (out antenna.Shape, added []float64) {
	out = a.Shape
	if a.kind.ID != "multi-vertical" || plan.Family != a.Family {
		return out, nil
	}
	lengths := map[float64]quantity.Length{}
	for _, f := range plan.All() {
		if !slices.Contains(a.All(), f) {
			lengths[f] = quantity.Metres(plan.M(wireOf(plan, f)))
			added = append(added, f)
		}
	}
	if len(added) == 0 {
		return out, nil
	}
	for _, f := range a.All() {
		lengths[f] = a.Sizes[wireOf(a.Shape, f)]
	}
	slices.Sort(added)
	out.More = append(slices.Clone(a.More), added...)
	for f, l := range lengths {
		out.Put(wireOf(out, f), l)
	}
	return out, added
}

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

// TakenBy is the frequency among others whose wire is three or five quarter-waves long on f and takes the current from one
// of its own, and how many; none without.
func TakenBy(f float64, others []float64) (by float64, quarters int) {
	for _, low := range others {
		for _, n := range []int{3, 5} {
			if math.Abs(f/low/float64(n)-1) < 0.04 {
				return low, n
			}
		}
	}
	return 0, 0
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
	told := func(i int) float64 {
		if i == n-1 {
			return s.Radiator().M
		}
		return s.M(WireID(n - 2 - i))
	}
	k := alone[n-1] / (numeric.Light / all[n-1] / 4)
	p := antenna.Plan{Factor: antenna.Factor{Value: lengths[0] * 4 * all[0] / numeric.Light,
		Lo: lengths[0] * 4 * all[0] / numeric.Light * 0.94, Hi: lengths[0] * 4 * all[0] / numeric.Light * 1.05, Why: []string{
			"each wire is resonant with the others in parallel",
			"coupling through the air moves the short wires by several per cent more: cut them long, the highest band most"}},
		Provisional: "Coupling between the wires through the air is not in these lengths; trim the longest first, and all again after each."}
	settle(&p.Factor, told(0), lengths[0])
	t := antenna.Table{Title: "Together and alone", Columns: []string{"MHz", "together", "alone", "the others take", "expect"},
		Estimates: []int{4}}
	for i, f := range all {
		own, rest := 1/antenna.Mono(f, lengths[i], w), complex128(0)
		for j := range all {
			if j != i {
				rest += 1 / antenna.Mono(f, lengths[j], w)
			}
		}
		share := 100 * real(rest) / real(rest+own)
		length := antenna.Or(told(i), lengths[i])
		t.Rows = append(t.Rows, []string{quantity.ToKHz(f), say(r, length), say(r, alone[i]*length/lengths[i]), fmt.Sprintf("%.0f %%", share),
			fmt.Sprintf("SWR %.1f", antenna.SWR50(1/(own+rest)))})
		if off[i] {
			p.Faults = append(p.Faults, antenna.Say("frequency_hz", "ask",
				"on %s MHz the other wires pull more than one wire can make good; leave one of the near bands out", quantity.ToKHz(f)))
		}
		if by, quarters := TakenBy(f, all); quarters > 0 {
			p.Faults = append(p.Faults, antenna.Say("frequency_hz", "ask", "the wire for %s MHz is %d quarter-waves long on %s MHz and "+
				"takes the current there: one of its own changes little and cannot be trimmed. Leave %s MHz out and use the long wire",
				quantity.ToKHz(by), quarters, quantity.ToKHz(f), quantity.ToKHz(f)))
		}
		p.Pieces = append(p.Pieces, piece(r, "wire for "+quantity.ToKHz(f)+" MHz", 1, length, 1))
	}
	s.Fill(antenna.Radiator, lengths[n-1])
	for i := range n - 1 { // wire_2 is the next shorter than the longest
		s.Put(WireID(i), antenna.LengthOr(s.Sizes[WireID(i)], lengths[n-2-i]))
	}
	if s.W("wires_run", "") == fanned {
		s.Fill("spread", 0.3)
	} else {
		s.PutWord("wires_run", "parallel")
		s.Fill("spacing", spacers)
	}
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

// fanned wires lean apart; the others stand round the pole on spacers of so many metres.
const (
	fanned  = "fan"
	spacers = 0.08
)

func layMulti(s antenna.Shape) (antenna.Drawing, []antenna.Fault) {
	d, faults := layVertical(s)
	n := len(s.More)
	for i := range n {
		if l := s.M(WireID(i)); l > s.Radiator().M*1.001 && s.Radiator().M > 0 {
			faults = append(faults, antenna.Say(WireID(i), "ask", "wire %d of %s is longer than the longest, %s", i+2, quantity.Long(l),
				quantity.Long(s.Radiator().M)))
		}
	}
	if s.W("wires_run", "") == fanned {
		return layFan(s, d), faults
	}
	// All stand round the pole, the longest too; what is longer than the pole comes down again beside the others.
	top := s.Radiator().M
	if p := s.PoleHeight(); p.Typed != "" && p.M > d.Feed[2]+0.5 {
		top = math.Min(top, p.M-d.Feed[2])
		faults = slices.DeleteFunc(faults, func(f antenna.Fault) bool { return f.Path == antenna.PoleHeight })
	}
	rest := antenna.Keep(d.Lines, func(l antenna.Line) bool { return l.Role != "radiator" })
	d.Lines = nil
	for i := -1; i < n; i++ {
		l := s.Radiator().M
		if i >= 0 {
			l = s.M(WireID(i))
		}
		lines := onSpacers(d.Feed, l, top, antenna.Or(s.M("spacing"), spacers), i+1, n+1)
		if k := len(lines); k > 0 && lines[k-1].To[2] < 0.05 {
			faults = append(faults, antenna.Say(antenna.PoleHeight, "error",
				"a wire of %s that goes up %s and down again would end below the ground: a taller pole, or fold it otherwise",
				quantity.Long(l), quantity.Long(top)))
			lines[k-1].To[2] = 0.05
		}
		d.Lines = append(d.Lines, lines...)
	}
	d.Lines = append(d.Lines, rest...)
	return d, faults
}

// onSpacers is one of n wires of a length that stand round the pole up to a height over the feed, and come down from there.
func onSpacers(feed antenna.Point, l, top, off float64, i, n int) (out []antenna.Line) {
	if l <= 0 {
		return nil
	}
	at := func(turn, up float64) antenna.Point {
		sin, cos := math.Sincos(2 * math.Pi * turn / float64(n))
		return antenna.Point{feed[0] + off*cos, feed[1] + off*sin, feed[2] + up}
	}
	to := func(p antenna.Point) {
		from := feed
		if len(out) > 0 {
			from = out[len(out)-1].To
		}
		out = append(out, antenna.Line{Role: "radiator", From: from, To: p})
	}
	lead := off * math.Sqrt2 // from the feed outward and up to the circle
	if l < 2*lead {
		to(antenna.Point{feed[0], feed[1], feed[2] + l})
		return out
	}
	to(at(float64(i), off))
	up := math.Min(l-lead, top-off)
	to(at(float64(i), off+up))
	out[len(out)-1].Size = quantity.Metres(l)
	across := 2 * off * math.Sin(math.Pi/2/float64(n))
	if down := l - lead - up - across; down > 0.02 {
		to(at(float64(i)+0.5, off+up))
		to(at(float64(i)+0.5, off+up-down))
	}
	return out
}

// layFan leans the shorter wires apart, to both sides in turn.
func layFan(s antenna.Shape, d antenna.Drawing) antenna.Drawing {
	spread := s.M("spread")
	for i := range len(s.More) {
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
	}
	return d
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
