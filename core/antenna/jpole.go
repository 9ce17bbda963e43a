package antenna

import (
	"fmt"
	"math"

	"reed/core/circuit"
	"reed/core/entry"
	"reed/core/moment/earth"
	"reed/core/quantity"
)

func jPole() Family {
	return Family{
		ID: "j-pole", Name: "End-fed with quarter-wave matching section (J)", Short: "J", Group: "end-fed", Trims: "wire",
		Variants: []Variant{{"upright", "upright"}, {"sloper", "sloper"}, {"roll-up", "all of one line, to roll up"}},
		fields: func(Shape) []entry.Field {
			return []entry.Field{askFor(""), askBuilt("radiator", "Radiator"), lineChoice(), askAmount("line_vf", "Its velocity factor", "", 0.5, 1),
				askLength("stub", "Matching section", 30), askLength("tap", "Tap above the short", 10), entry.Field{ID: "gap", Label: "Gap", Kind: entry.Size, Unit: "mm", Max: 0.2},
				askLength("feed_height", "Tap up", 20), askFar, askPole, askBearing}
		},
		plan: planJ, layout: layJ, hot: func(_ Shape, powerW float64) (string, float64) {
			return "the open end of the matching section and the wire's far end", math.Sqrt(2 * powerW * EndResistance[1])
		},
	}
}

// Matching is a shorted section of line that feeds a high resistance at its open end: length of the
// section and height of the 50 ohm tap above the short, in metres.
type Matching struct{ Stub, Tap float64 }

// MatchEnd finds section and tap that turn a resistance at the open end into 50 ohm without reactance
// (line model). ok is false when that cannot be had, as when the line's impedance squared over the
// resistance passes 50 ohm: the answer is then the pair with the lowest SWR.
func MatchEnd(line circuit.Coax, f, end float64) (Matching, bool) {
	wave := line.VF * Light / f
	// A grid that closes in on the lowest SWR.
	best, low := Matching{wave / 4, wave / 40}, math.Inf(1)
	span := Matching{0.07 * wave, 0.022 * wave}
	for range 9 {
		at := best
		for i := -8.0; i <= 8; i++ {
			for j := -8.0; j <= 8; j++ {
				m := Matching{at.Stub + i/8*span.Stub, math.Max(at.Tap+j/8*span.Tap, 0.001*wave)}
				if x := swr(TapImpedance(line, f, complex(end, 0), m)); x < low && m.Tap < m.Stub {
					best, low = m, x
				}
			}
		}
		span.Stub, span.Tap = span.Stub/3, span.Tap/3
	}
	return best, low < 1.02
}

func planJ(r Request, w Wire, _ earth.Ground) Plan {
	s := r.Shape
	lambda := Light / r.FrequencyHz
	line := s.balanced("twin-300")
	s.PutWord("line", line.ID)
	s.PutNumber("line_vf", line.VF)
	k := 0.95 * w.JacketFactor(lambda/4)
	if s.Variant == "roll-up" {
		k *= 0.985 // one conductor with the line's webbing as its jacket
	}
	length := k * lambda / 2
	end := real(EndFed(r.FrequencyHz, 0.95*w.JacketFactor(lambda/4)*lambda/2, w))
	end = math.Min(math.Max(end, EndResistance[0]), EndResistance[1])
	m, ok := MatchEnd(line, r.FrequencyHz, end)
	p := Plan{Factor: Factor{Value: k, Lo: k * 0.97, Hi: k * 1.03, Why: []string{"half-wave less 0.05 for its ends", fmt.Sprintf("jacket %.3f", w.JacketFactor(lambda/4)), fmt.Sprintf("matching section shorter by the line's velocity factor %.2f", line.VF)}}}
	if !ok {
		p.Faults = append(p.Faults, fault("line", "ask", fmt.Sprintf("%s cannot turn %.0f ohm quite into 50: SWR %.1f at best; a line of lower impedance can", line.Name, two(end), swr(TapImpedance(line, r.FrequencyHz, complex(end, 0), m)))))
	}
	s.Radiator = lengthOr(s.Radiator, length)
	stub, tap := s.size("stub", m.Stub), s.size("tap", m.Tap)
	// Wet air holds about 0.5 kV a millimetre over a web; at least 12 mm for 50 W.
	gap := s.size("gap", math.Max(0.012, math.Sqrt(2*or(r.PowerW, 50)*end)/0.5e6))
	switch s.Variant {
	case "sloper":
		s.FeedHeight = lengthOr(s.FeedHeight, 1)
		s.PoleHeight = lengthOr(s.PoleHeight, or(s.FarHeight.M, math.Min(7, 0.8*s.Radiator.M+stub)))
		s.FarHeight = lengthOr(s.FarHeight, s.PoleHeight.M)
	default:
		s.FeedHeight = lengthOr(s.FeedHeight, math.Max(0.3, tap+0.2))
		s.FarHeight = lengthOr(s.FarHeight, s.FeedHeight.M-tap+stub+s.Radiator.M)
		s.PoleHeight = lengthOr(s.PoleHeight, s.FarHeight.M)
	}
	total := stub + gap + length
	if s.Variant == "roll-up" {
		p.Pieces = []Piece{exact("line", line.Name, 1, total, Allowance{"short, twisted and soldered", quantity.Metres(0.01)}, Allowance{"loop to hang it by", quantity.Metres(0.1)}, Allowance{"to trim", quantity.Metres(length * r.TrimPercent / 100)})}
	} else {
		p.Pieces = []Piece{piece(r, "radiator", 1, length, 2),
			exact("matching section", line.Name, 1, stub, Allowance{"short and joint, stripped", quantity.Metres(0.03)})}
	}
	high, _ := MatchEnd(line, r.FrequencyHz, EndResistance[1])
	lowEnd, _ := MatchEnd(line, r.FrequencyHz, EndResistance[0])
	p.Figures = []Figure{
		{"Matching section", r.fine(stub), fmt.Sprintf("a quarter-wave in this line is %s; the tap's reactance takes the rest", r.fine(line.VF*lambda/4))},
		{"Tap above the short", r.fine(tap), fmt.Sprintf("%s to %s for an end of %.0f to %.0f ohm: clip first, solder later", r.fine(high.Tap), r.fine(lowEnd.Tap), EndResistance[1], EndResistance[0])},
		{"Gap above the section", r.fine(gap), "in the conductor that does not carry the radiator; wide enough for the voltage"},
		{"Total from short to end", r.say(total), "section, gap and radiator"},
	}
	p.Strips = []Strip{{Title: "Foot of the matching section", Edge: "the short", MM: math.Ceil(lowEnd.Tap*100+1) * 10, Marks: []Mark{{high.Tap * 1000, fmt.Sprintf("%.0f ohm end", EndResistance[1])}, {tap * 1000, "tap"}, {lowEnd.Tap * 1000, fmt.Sprintf("%.0f ohm end", EndResistance[0])}}}}
	if p.Strips[0].MM > 270 {
		p.Strips = nil
	}
	p.Expect = fmt.Sprintf("50 ohm with an end of %.0f ohm; move the tap by a tenth when R is off, the radiator when the frequency is", two(end))
	p.Shape = s
	p.Schools = []School{
		{"match", "quarter-wave of line", fmt.Sprintf("%s of line, hardly any loss", r.say(stub)), "one band; the section hangs long on the low bands"},
		{"match", "transformer 1:49", "0.3 to 1.5 dB in the core", "any harmonic band; small"},
	}
	return p
}

func layJ(s Shape) (Drawing, []Fault) {
	stub, tap := s.M("stub"), s.M("tap")
	base := math.Max(0, s.FeedHeight.M-tap)
	feed := Point{0, 0, base + tap}
	top := Point{0, 0, base + stub}
	d := Drawing{Feed: feed, Lines: []Line{{Role: "line", From: Point{0, 0, base}, To: top, Size: quantity.Metres(stub)}}}
	var faults []Fault
	l := s.Radiator.M
	end := Point{0, 0, top[2] + l}
	if s.Variant == "sloper" {
		rise := s.FarHeight.M - top[2]
		if math.Abs(rise) > l {
			faults = append(faults, mutualFault("far_height", l, top[2], s.FarHeight.M))
			rise = math.Copysign(l, rise)
		}
		end = Point{math.Sqrt(math.Max(0, l*l-rise*rise)), 0, top[2] + rise}
	} else if p := s.PoleHeight; p.Typed != "" && end[2] > p.M+0.3 {
		faults = append(faults, fault("pole_height", "ask", fmt.Sprintf("it ends %s up, above the pole of %s", quantity.Metric(end[2], 10), quantity.Metric(p.M, 10))))
	}
	if stub > 0 && tap >= stub {
		faults = append(faults, fault("tap", "error", "the tap lies above the matching section"))
	}
	d.Lines = append(d.Lines, pole(end[0], math.Max(end[2], s.PoleHeight.M)), Line{Role: "radiator", From: top, To: end, Size: quantity.Metres(l)})
	d.Spots = []Spot{{"tap", feed, "tap"}, {"gap", top, "gap"}}
	return d, faults
}
