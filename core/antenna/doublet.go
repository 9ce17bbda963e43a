package antenna

import (
	"fmt"
	"math"
	"strconv"

	"reed/core/circuit"
	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/quantity"
)

func doublet() Family {
	return Family{
		ID: "doublet", Name: "Doublet with open line", Short: "doublet", Group: "balanced", Multi: true, Trims: "none",
		Variants: []Variant{{"flat", "flat"}, {"inverted-v", "inverted V"}},
		fields: func(s Shape) []entry.Field {
			out := []entry.Field{withHelp(askFor(""), "every band that the tuner shall reach"), askRadiator("radiator", "First leg", 100), askRadiator("leg_b", "Second leg", 100), askFeed}
			if s.Variant == "inverted-v" {
				out = append(out, askApex)
			}
			return append(out, askPole, lineChoice(), askLength("line_length", "Line", 60), askBearing)
		},
		plan: planDoublet, layout: layDoublet,
	}
}

func lineChoice() entry.Field {
	f := entry.Field{ID: "line", Label: "Kind of line", Kind: entry.Choice}
	for _, l := range circuit.OpenLines() {
		f.Options = append(f.Options, entry.Option{ID: l.ID, Name: l.Name})
	}
	return f
}

// balanced is the line of a shape; usual when none is named.
func (s Shape) balanced(usual string) circuit.Coax {
	l, ok := circuit.OpenLine(s.W("line", usual))
	if !ok {
		l, _ = circuit.OpenLine("window-450")
	}
	if vf := s.N("line_vf", 0); vf > 0 {
		l.VF = vf
	}
	return l
}

// worstEnd is the highest SWR (against 200 ohm, where a balanced tuner with a 4:1 works) at the lower end of
// a line over the wanted frequencies.
func worstEnd(all []float64, total float64, w Wire, line circuit.Coax, length float64) (worst float64) {
	for _, f := range all {
		z, _ := line.InputZ(CentreFed(f, total, w), f, length)
		worst = math.Max(worst, swr(z/4))
	}
	return worst
}

func planDoublet(r Request, w Wire, _ earth.Ground) Plan {
	s := r.Shape
	low := s.lowest()
	leg := endFactor(Light/low/4, w.EquivalentRadius()) * w.JacketFactor(Light/low/4) * Light / low / 4
	s.Radiator, s.LegB = lengthOr(s.Radiator, leg), lengthOr(s.LegB, or(s.Radiator.M, leg))
	s.FeedHeight = lengthOr(s.FeedHeight, or(s.PoleHeight.M, 7))
	s.PoleHeight = lengthOr(s.PoleHeight, s.FeedHeight.M)
	s.FarHeight = lengthOr(s.FarHeight, s.FeedHeight.M)
	if s.Variant == "inverted-v" {
		s.ApexAngle = or(s.ApexAngle, 120)
		s.FarHeight = quantity.Length{}
	}
	length := s.size("line_length", math.Max(s.FeedHeight.M+1, 8))
	line := s.balanced("window-450")
	s.PutWord("line", line.ID)
	all := s.All()
	t := Table{Title: "At the lower end of the line", Columns: []string{"MHz", "at the wire", "at the line's end", "SWR through 4:1", "line loses"},
		Note: "Impedances are a first estimate within a factor of two; the tuner must stand both ways."}
	for _, f := range all {
		zw := CentreFed(f, s.Total(), w)
		z, through := line.InputZ(zw, f, length)
		t.Rows = append(t.Rows, []string{quantity.ToKHz(f), ohms(zw), ohms(z), fmt.Sprintf("%.1f", swr(z/4)), fmt.Sprintf("%.2f dB", -10*math.Log10(through))})
	}
	now := worstEnd(all, s.Total(), w, line, length)
	best, bestAt := now, length
	for l := math.Max(s.FeedHeight.M, 4); l <= math.Max(s.FeedHeight.M, 4)+14; l += 0.1 {
		if x := worstEnd(all, s.Total(), w, line, l); x < best*0.98 {
			best, bestAt = x, l
		}
	}
	p := Plan{Shape: s, Factor: Factor{Value: 1, Lo: 0.9, Hi: 1.1, Why: []string{"a doublet need not be resonant: any length near half a wave on the lowest band does"}},
		Pieces: []Piece{piece(r, "leg", 2, s.Radiator.M, 1), exact("feed line", line.Name, 1, length, Allowance{"both ends stripped", quantity.Metres(0.05)})},
		Tables: []Table{t},
		Expect: fmt.Sprintf("a worst SWR of %.0f at the tuner over %d bands", now, len(all))}
	if bestAt != length {
		p.Figures = append(p.Figures, Figure{"A kinder length of line", r.say(bestAt), fmt.Sprintf("its worst SWR is %.1f instead of %.1f", best, now)})
	}
	p.Schools = []School{
		{"line", line.Name, fmt.Sprintf("worst SWR %.0f", now), "the present choice"},
		{"match", "any wire with line and tuner", "0.3 to 2 dB in line and tuner", "every band without lowering"},
		{"match", "resonant, no tuner", "coax loss only", "one band, or links"},
	}
	return p
}

func ohms(z complex128) string {
	x := imag(z)
	if math.Abs(x) < 0.5 {
		x = 0
	}
	sign := "+"
	if x < 0 {
		sign = "-"
	}
	plain := func(v float64) string { return strconv.FormatFloat(two(v), 'f', -1, 64) }
	return fmt.Sprintf("%s %sj%s ohm", plain(real(z)), sign, plain(math.Abs(x)))
}

// two rounds to two significant digits, which is all that closed forms are worth.
func two(v float64) float64 { return quantity.Digits(v, 2) }

func layDoublet(s Shape) (Drawing, []Fault) {
	d, faults := layDipole(s)
	h := s.FeedHeight.M
	if l := s.M("line_length"); l > 0 {
		down := math.Min(l, h)
		d.Lines = append(d.Lines, Line{Role: "line", From: d.Feed, To: Point{0, 0, h - down}, Size: quantity.Metres(l)})
		if l < h-1.5 {
			faults = append(faults, fault("line_length", "ask", fmt.Sprintf("the line of %s ends %s above the ground; where does the tuner hang?", quantity.Metric(l, 10), quantity.Metric(h-l, 10))))
		}
	}
	return d, faults
}
