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

func doublet() Family {
	return Family{
		ID: "doublet", Name: "Doublet with open line", Short: "doublet", Group: "fed in the middle", Multi: true, Trims: NoTrim,
		matters: []string{"radiator", "line", "line_length"},
		Variants: []Variant{
			{ID: "flat", Name: "flat", Sketch: Sketch{Wire: "M10 8H110", Thin: "M57 8V42M63 8V42M57 18H63M57 28H63M57 37H63",
				Feed: [2]float64{60, 42}}},
			{ID: "inverted-v", Name: "inverted V", Sketch: Sketch{Wire: "M12 28L60 8L108 28", Thin: "M57 9V42M63 9V42M57 18H63M57 28H63M57 37H63",
				Feed: [2]float64{60, 42}}},
		},
		Feeding: Aside, Why: "Tried at five lengths within a tenth of the planned one.",
		knobs: func(antenna.Shape) []Knob { return []Knob{{Field: antenna.Radiator, Piece: "leg"}} }, set: setLegs,
		electric: func(s antenna.Shape, _ float64, e *antenna.Electric) {
			e.OpenLine(balanced(s, "window-450"), s.M("line_length"))
			e.TransformsFrom = balunOf(s)
		},
		fields: func(s antenna.Shape) []entry.Field {
			out := []entry.Field{withHelp(askFor(""), "every band that the tuner shall reach"), askRadiator("radiator", "First leg", 100),
				askRadiator("leg_b", "Second leg", 100), askFeed}
			if s.Variant == "inverted-v" {
				out = append(out, askApex)
			}
			out = append(out, askEnds()...)
			out = append(append(out, askPole), askOwnLine(s)...)
			if balanced(s, "window-450").ID == rips {
				out = append(out, entry.Field{ID: "legs_from", Label: "The legs are", Kind: entry.Choice, Options: []entry.Option{
					{ID: "wire", Name: "of the wire that is chosen"}, {ID: "line", Name: "ripped from the end of the line"}}})
			}
			return append(out, askLength("line_length", "Line", 60), entry.Field{ID: "balun", Label: "At its lower end", Kind: entry.Choice,
				Options: []entry.Option{{ID: "4", Name: "a balun 4:1"}, {ID: "1", Name: "a balun 1:1"}, {ID: "none", Name: "straight into the tuner"}}},
				askBearing)
		},
		plan: planDoublet, layout: layDoublet, dangers: openLineDanger,
	}
}

// rips is the line whose two wires come apart by hand: legs and line can be one piece of it.
const rips = "pvc-twin"

// ripped is a doublet's line with the legs at its end in one piece, and how far it is ripped open.
func ripped(r antenna.Request, line circuit.Coax, length float64, leg antenna.Piece) (antenna.Piece, phrase.Figure) {
	return exact("line and legs in one", line.Name, 1, length, allow("the legs, ripped open", leg.Cut),
			allow("lower end stripped", quantity.Metres(0.05))),
		figure("Rip it open for", say(r, leg.Cut.M), "from one end; tie a knot or a cord round it where that ends, or it rips on in the wind")
}

// secondEnd is the field of the height of the second leg's end, where the ends hang at different heights.
const secondEnd = "far_height_2"

// askEnds are the heights of the ends of two legs.
func askEnds() []entry.Field {
	first := askFar
	first.Label = "First end, height"
	return []entry.Field{first, withHelp(askLength(secondEnd, "Second end, height", highest), "where the ends hang at different heights")}
}

// openLineDanger is the caution of an antenna that is fed through open line.
func openLineDanger(antenna.Shape, quantity.System) []antenna.Danger {
	return []antenna.Danger{{Code: "open-line", Title: "The open line carries as much voltage as the antenna",
		Text: "Keep it a hand's width away from metal and off the ground, do not coil it, and let nobody touch it while you send. In rain its " +
			"loss rises."}}
}

// balunOf is by how much the balun at the line's lower end divides its impedance.
func balunOf(s antenna.Shape) float64 {
	if s.W("balun", "4") == "4" {
		return 4
	}
	return 1
}

// worstEnd is the highest SWR behind the balun at the lower end of a line over the wanted frequencies.
func worstEnd(s antenna.Shape, w antenna.Wire, line circuit.Coax, length float64) (worst float64) {
	for _, f := range s.All() {
		z, _ := line.InputZ(antenna.CentreFed(f, s.Total(), w), f, length)
		worst = math.Max(worst, antenna.SWR50(z/complex(balunOf(s), 0)))
	}
	return worst
}

func planDoublet(r antenna.Request, w antenna.Wire, _ earth.Ground) antenna.Plan {
	s := r.Shape
	low := s.Lowest()
	leg := antenna.EndFactor(numeric.Light/low/4, w.EquivalentRadius()) * w.JacketFactor(numeric.Light/low/4) * numeric.Light / low / 4
	s.Fill(antenna.Radiator, leg)
	s.Fill(antenna.LegB, antenna.Or(s.Radiator().M, leg))
	s.Fill(antenna.FeedHeight, antenna.Or(s.PoleHeight().M, 7))
	s.Fill(antenna.PoleHeight, s.FeedHeight().M)
	s.Fill(antenna.FarHeight, s.FeedHeight().M)
	if s.Variant == "inverted-v" {
		s.PutNumber(antenna.ApexAngle, antenna.Or(s.ApexAngle(), 120))
		s.Put(antenna.FarHeight, quantity.Length{})
	}
	length := s.Fill("line_length", math.Max(s.FeedHeight().M+1, 8))
	line := balanced(s, "window-450")
	s.PutWord("line", line.ID)
	all := s.All()
	through := "SWR at the tuner"
	if balunOf(s) == 4 {
		through = "SWR through 4:1"
	}
	t := antenna.Table{Title: "At the lower end of the line", Columns: []string{"MHz", "at the wire", "at the line's end", through,
		"line loses"},
		Estimates: []int{1, 2, 3}, Note: "Impedances are a first estimate within a factor of two; the tuner must stand both ways."}
	for _, f := range all {
		zw := antenna.CentreFed(f, s.Total(), w)
		z, left := line.InputZ(zw, f, length)
		t.Rows = append(t.Rows, []string{quantity.ToKHz(f), ohms(zw), ohms(z), fmt.Sprintf("%.1f",
			antenna.SWR50(z/complex(balunOf(s), 0))), fmt.Sprintf("%.2f dB", -10*math.Log10(left))})
	}
	now := worstEnd(s, w, line, length)
	best, bestAt := now, length
	for l := math.Max(s.FeedHeight().M, 4); l <= math.Max(s.FeedHeight().M, 4)+14; l += 0.1 {
		if x := worstEnd(s, w, line, l); x < best*0.98 {
			best, bestAt = x, l
		}
	}
	p := antenna.Plan{Shape: s, Factor: antenna.Factor{Value: 1, Lo: 0.9, Hi: 1.1,
		Why: []string{"a doublet need not be resonant: any length near half a wave on the lowest band does"}},
		Pieces: []antenna.Piece{piece(r, "leg", 2, s.Radiator().M, 1), exact("feed line", line.Name, 1, length,
			allow("both ends stripped", quantity.Metres(0.05)))},
		Tables: []antenna.Table{t},
		Expect: fmt.Sprintf("a worst SWR of %.0f at the tuner over %d bands", now, len(all))}
	if line.ID == rips && s.W("legs_from", "") == "line" {
		one, open := ripped(r, line, length, p.Pieces[0])
		p.Pieces, p.Figures = []antenna.Piece{one}, append(p.Figures, open)
	}
	if quantity.SWR(best) != quantity.SWR(now) {
		p.Figures = append(p.Figures, figure("A kinder length of line", say(r, bestAt),
			fmt.Sprintf("its worst SWR is %.1f instead of %.1f", best, now)))
	}
	p.Schools = []antenna.School{
		school("line", line.Name, fmt.Sprintf("worst SWR %.0f", now), "the present choice"),
		school("match", "any wire with line and tuner", "0.3 to 2 dB in line and tuner", "every band without lowering"),
		school("match", "resonant, no tuner", "coax loss only", "one band, or links"),
	}
	return p
}

func layDoublet(s antenna.Shape) (antenna.Drawing, []antenna.Fault) {
	d, faults := layDipole(s)
	h := s.FeedHeight().M
	if l := s.M("line_length"); l > 0 {
		down := math.Min(l, h)
		d.Lines = append(d.Lines, antenna.Line{Role: "line", From: d.Feed, To: antenna.Point{0, 0, h - down}, Size: quantity.Metres(l)})
		if l < h-1.5 {
			faults = append(faults, antenna.Say("line_length", "ask", "the line of %s ends %s above the ground; where does the tuner hang?",
				quantity.Long(l), quantity.Long(h-l)))
		}
	}
	return d, faults
}
