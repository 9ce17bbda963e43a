package family

import (
	"fmt"
	"math"
	"math/cmplx"

	"reed/core/antenna"
	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/numeric"
	"reed/core/quantity"
)

func random() Family {
	return Family{
		ID: "random-wire", Name: "Non-resonant wire", Short: "random wire", Group: "fed at the end", Multi: true, Trims: NoTrim,
		matters: []string{"room", "radiator", "pole_height"},
		Variants: []Variant{
			{ID: "sloper", Name: "sloper", Sketch: Sketch{Wire: "M14 40L52 20L80 16L110 8", Pole: "M110 8V46", Thin: "M14 40L4 45M14 40L20 46",
				Feed: [2]float64{14, 40}}},
			{ID: "flat", Name: "flat", Sketch: Sketch{Wire: "M14 40L52 20L80 16L110 8", Pole: "M110 8V46", Thin: "M14 40L4 45M14 40L20 46",
				Feed: [2]float64{14, 40}}},
			{ID: "inverted-v", Name: "inverted V", Sketch: Sketch{Wire: "M14 40L52 20L80 16L110 8", Pole: "M110 8V46",
				Thin: "M14 40L4 45M14 40L20 46", Feed: [2]float64{14, 40}}},
			{ID: "upright", Name: "upright", Sketch: Sketch{Wire: "M14 40L52 20L80 16L110 8", Pole: "M110 8V46", Thin: "M14 40L4 45M14 40L20 46",
				Feed: [2]float64{14, 40}}},
		},
		Feeding: Counterpoise, Trust: trustEndFed, Why: "Tried at five lengths within a tenth of the planned one, counterpoise and ground in.",
		knobs: func(antenna.Shape) []Knob { return []Knob{{Field: antenna.Radiator, Piece: "radiator"}} }, set: setEndFed,
		fields: func(s antenna.Shape) []entry.Field {
			out := []entry.Field{withHelp(askFor(""), "every band that the tuner shall reach"), planOnly(askLength("room", "Longest that fits", 60)),
				askRadiator("radiator", "Radiator", 100), askFeed, askFar, askPole}
			out = append(append(append(out, askCounterpoise()...), askTurns()...), askBearing)
			return append(out, askBends(s)...)
		},
		plan: planRandom, layout: layEndFed, fold: foldEnd,
		hot: func(s antenna.Shape, powerW float64) (string, float64) {
			w, _ := s.WireKind()
			worst := 0.0
			for _, f := range s.All() {
				// The power goes into R; the voltage stands across all of Z.
				z := antenna.EndFed(f, s.Radiator().M, w)
				worst = math.Max(worst, cmplx.Abs(z)*math.Sqrt(2*powerW/math.Max(real(z), 1)))
			}
			return "the transformer's hot terminal, more at the far end", worst
		},
	}
}

// Gap is a range of lengths in metres between forbidden ones, with its best length and the worst SWR
// over the wanted frequencies that a tuner behind the transformer would see there.
type Gap struct{ From, To, Best, Worst float64 }

// A length is forbidden where, behind the transformer, the SWR passes Forbidden, the most that portable
// tuners reach, or the impedance passes High ohm: five times the transformer's design, where its core has
// five times the voltage's square to bear and its loss passes what it was made for.
const (
	Forbidden = 10
	High      = 250
)

func forbidden(z complex128, ratio float64) bool {
	return cmplx.Abs(z)/ratio > High || antenna.SWR50(z/complex(ratio, 0)) > Forbidden
}

// Gaps finds the lengths of an end-fed non-resonant wire up to a longest one, between those that are
// forbidden on any wanted frequency: near every multiple of half a wave the end is too high, and how near
// follows from its computed impedance, not from a rule. The least length is an eighth of the longest wave.
func Gaps(all []float64, w antenna.Wire, ratio, longest float64) []Gap {
	var out []Gap
	least := numeric.Light / all[len(all)-1] / 8
	open := false
	for l := least; l <= longest+1e-9; l += 0.05 {
		worst, bad := 0.0, false
		for _, f := range all {
			z := antenna.EndFed(f, l, w)
			worst, bad = math.Max(worst, antenna.SWR50(z/complex(ratio, 0))), bad || forbidden(z, ratio)
		}
		if bad {
			open = false
			continue
		}
		if !open {
			out = append(out, Gap{From: l, Best: l, Worst: worst})
			open = true
		}
		g := &out[len(out)-1]
		g.To = l
		if worst < g.Worst {
			g.Best, g.Worst = l, worst
		}
	}
	return out
}

func worstSWR(all []float64, l float64, w antenna.Wire, ratio float64) (worst float64) {
	for _, f := range all {
		worst = math.Max(worst, antenna.SWR50(antenna.EndFed(f, l, w)/complex(ratio, 0)))
	}
	return worst
}

func planRandom(r antenna.Request, w antenna.Wire, _ earth.Ground) antenna.Plan {
	s := r.Shape
	if s.Primary() == 0 && s.Secondary() == 0 {
		s.PutNumber(antenna.PrimaryTurns, 9)
		s.PutNumber(antenna.SecondaryTurns, 27)
	}
	ratio := s.Transforms()
	all := s.All()
	room := s.Fill("room", math.Min(60, 0.6*numeric.Light/s.Lowest()))
	gaps := Gaps(all, w, ratio, room)
	var best Gap
	t := antenna.Table{Title: "Lengths in the gaps", Columns: []string{"from", "to", "best", "worst SWR at the tuner"},
		Estimates: []int{3},
		Note: fmt.Sprintf("Between these, some band sees over %d ohm (near half-waves) or SWR over %d through %s.",
			High, Forbidden, s.Ratio())}
	for _, g := range gaps {
		if best.Worst == 0 || g.Worst < best.Worst {
			best = g
		}
		t.Rows = append(t.Rows, []string{say(r, g.From), say(r, g.To), say(r, g.Best), fmt.Sprintf("%.1f", g.Worst)})
	}
	p := antenna.Plan{Factor: antenna.Factor{Value: 1, Lo: 0.95, Hi: 1.05,
		Why: []string{"no length here is resonant; it is chosen between the high ends", "SWR is a first estimate within a factor of two"}}}
	if best.Worst == 0 {
		best = Gap{Best: room, Worst: math.Inf(1)}
		for l := numeric.Light / s.Lowest() / 8; l <= room; l += 0.05 {
			if x := worstSWR(all, l, w, ratio); x < best.Worst {
				best.Best, best.Worst = l, x
			}
		}
		p.Faults = append(p.Faults, antenna.Say("room", "ask",
			"no length up to %s keeps clear of a high end on every band; fewer bands or more room would", say(r, room)))
	}
	s.Fill(antenna.Radiator, best.Best)
	chosen := worstSWR(all, s.Radiator().M, w, ratio)
	for _, f := range all {
		if z := antenna.EndFed(f, s.Radiator().M, w); !r.Radiator().IsZero() && forbidden(z, ratio) {
			p.Faults = append(p.Faults, antenna.Say("radiator", "ask", "%s is %.2f half-waves on %s MHz: near a high end, which few tuners match "+
				"through %s", say(r, s.Radiator().M), s.Radiator().M*2*f/numeric.Light, quantity.ToKHz(f), s.Ratio()))
		}
	}
	cp := counterpoiseFor(all, w)
	if !s.Said(antenna.CounterpoiseCount) {
		s.PutNumber(antenna.CounterpoiseCount, 1)
	}
	s.Fill(antenna.CounterpoiseLength, cp)
	bands := antenna.Table{Title: "Band by band", Columns: []string{"MHz", "half-waves", "wire's end", "SWR at the tuner"},
		Estimates: []int{2, 3}}
	for _, f := range all {
		z := antenna.EndFed(f, s.Radiator().M, w)
		bands.Rows = append(bands.Rows, []string{quantity.ToKHz(f), fmt.Sprintf("%.2f", s.Radiator().M*2*f/numeric.Light), ohms(z),
			fmt.Sprintf("%.1f", antenna.SWR50(z/complex(ratio, 0)))})
	}
	hang(&s)
	p.Shape, p.Tables = s, []antenna.Table{bands, t}
	p.Pieces = []antenna.Piece{piece(r, "radiator", 1, s.Radiator().M, 2),
		piece(r, "counterpoise", s.Counterpoise().Count, s.Counterpoise().Length.M, 1)}
	p.Expect = fmt.Sprintf("a worst SWR of %.1f at the tuner over %d bands, through %s", chosen, len(all), s.Ratio())
	p.Schools = []antenna.School{
		school("match", "any wire, 9:1 and tuner", fmt.Sprintf("SWR up to %.1f at the tuner", chosen),
			"every band at once; tuner and coax take their part"),
		school("match", "resonant, no tuner", "SWR under 2, no tuner", "one band or its harmonics"),
		school("counterpoise", "a dedicated wire", say(r, cp), "a fifth to two fifths of a wave on no wanted band an exact half"),
		school("counterpoise", "the coax up to a choke", "7 to 15 m of coax", "nothing more to carry; noise comes in with it"),
	}
	return p
}

// counterpoiseFor is the length in metres between 2 and 10 that stays furthest from every half-wave of the
// wanted frequencies, where a counterpoise takes no current.
func counterpoiseFor(all []float64, w antenna.Wire) float64 {
	best, least := 5.0, math.Inf(1)
	for l := 2.0; l <= 10; l += 0.05 {
		worst := 0.0
		for _, f := range all {
			z := antenna.EndFed(f, l, w)
			worst = math.Max(worst, math.Hypot(real(z), imag(z)))
		}
		if worst < least {
			best, least = l, worst
		}
	}
	return best
}

// hang fills in the heights of a wire fed at its end that were left open.
func hang(s *antenna.Shape) {
	s.Fill(antenna.FeedHeight, 1)
	switch s.Variant {
	case "flat":
		s.Fill(antenna.PoleHeight, s.FeedHeight().M)
		s.Fill(antenna.FarHeight, s.FeedHeight().M)
	case "upright":
		s.Fill(antenna.FarHeight, s.FeedHeight().M+s.Radiator().M)
		s.Fill(antenna.PoleHeight, s.FarHeight().M)
	case "inverted-v":
		// Legs at 100 degrees: steeper ones lie against each other.
		s.Fill(antenna.PoleHeight, math.Min(6, s.FeedHeight().M+0.32*s.Radiator().M))
		s.Fill(antenna.FarHeight, 1)
	default:
		top := math.Min(6, s.FeedHeight().M+0.9*s.Radiator().M)
		s.Fill(antenna.PoleHeight, antenna.Or(s.FarHeight().M, top))
		s.Fill(antenna.FarHeight, s.PoleHeight().M)
	}
}
