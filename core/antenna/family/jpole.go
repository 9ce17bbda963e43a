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

func jPole() Family {
	return Family{
		ID: "j-pole", Name: "End-fed with quarter-wave matching section (J)", Short: "J-pole", Group: "fed at the end", Trims: Wired,
		matters: []string{"line", "feed_height"},
		Variants: []Variant{
			{ID: "upright", Name: "upright", Sketch: Sketch{Wire: "M64 4V44M56 26V44M56 44H64", Feed: [2]float64{60, 38}}},
			{ID: "sloper", Name: "sloper", Sketch: Sketch{Wire: "M22 24V44M14 24V44M14 44H22M22 24L108 7", Pole: "M108 7V46",
				Feed: [2]float64{18, 38}}},
			{ID: "roll-up", Name: "all of one line, to roll up", Sketch: Sketch{Wire: "M64 4V44M56 26V44M56 44H64M56 4V22",
				Thin: "M56 8H64M56 14H64M56 32H64", Feed: [2]float64{60, 38}}},
		},
		Feeding: Whole, Trust: "Match by line theory with the wire's solved end: expect resonance within 2 %.",
		Why: "The matching section carries a common current, which lengthens what is resonant.",
		knobs: func(antenna.Shape) []Knob {
			return []Knob{{Field: antenna.Radiator, Piece: "radiator", Label: "radiator", High: true}}
		},
		electric: func(s antenna.Shape, _ float64, e *antenna.Electric) {
			e.OpenLine(balanced(s, "twin-300"), 0)
			e.Matching = antenna.Matching{Stub: s.M("stub"), Tap: s.M("tap")}
			if s.Variant == "roll-up" {
				e.Wire = &webbed
			}
		},
		mend: func(m Match) string {
			if m.High() {
				return ": move the tap towards the shorted end."
			}
			return ": move the tap away from the shorted end."
		},
		fields: func(antenna.Shape) []entry.Field {
			return []entry.Field{askFor(""), askBuilt("radiator", "Radiator"), lineChoice(), askAmount("line_vf", "Its velocity factor", "", 0.5, 1),
				askLength("stub", "Matching section", 30), askLength("tap", "Tap above the short", 10),
				entry.Field{ID: "gap", Label: "Gap", Kind: entry.Size, Unit: "mm", Max: 2},
				askLength("feed_height", "Tap up", highest), askFar, askPole, askBearing}
		},
		plan: planJ, layout: layJ, dangers: openLineDanger, hot: func(_ antenna.Shape, powerW float64) (string, float64) {
			return "the open end of the matching section and the wire's far end", math.Sqrt(2 * powerW * EndResistance[1])
		},
	}
}

// webbed is one conductor of a ribbon line that goes on as the radiator: stranded copper of 0.9 mm, and as much of the web
// as loads it, as a jacket of polyethylene.
var webbed = antenna.Wire{ID: "web", Name: "one conductor of the line", Radius: 0.00045, Outer: 0.00075, Permittivity: 2.3}

// MatchEnd finds section and tap that turn a resistance at the open end into 50 ohm without reactance
// (line model). ok is false when that cannot be had, as when the line's impedance squared over the
// resistance passes 50 ohm: the answer is then the pair with the lowest SWR.
func MatchEnd(line circuit.Coax, f, end float64) (antenna.Matching, bool) {
	wave := line.VF * numeric.Light / f
	// A grid that closes in on the lowest SWR.
	best, low := antenna.Matching{Stub: wave / 4, Tap: wave / 40}, math.Inf(1)
	span := antenna.Matching{Stub: 0.07 * wave, Tap: 0.022 * wave}
	for range 9 {
		at := best
		for i := -8.0; i <= 8; i++ {
			for j := -8.0; j <= 8; j++ {
				m := antenna.Matching{Stub: at.Stub + i/8*span.Stub, Tap: math.Max(at.Tap+j/8*span.Tap, 0.001*wave)}
				if x := antenna.SWR50(antenna.TapImpedance(line, f, complex(end, 0), m)); x < low && m.Tap < m.Stub {
					best, low = m, x
				}
			}
		}
		span.Stub, span.Tap = span.Stub/3, span.Tap/3
	}
	return best, low < 1.02
}

func planJ(r antenna.Request, w antenna.Wire, _ earth.Ground) antenna.Plan {
	s := r.Shape
	lambda := numeric.Light / r.FrequencyHz
	line := balanced(s, "twin-300")
	s.PutWord("line", line.ID)
	s.PutNumber("line_vf", line.VF)
	if s.Variant == "roll-up" {
		w = webbed
	}
	k := 0.95 * w.JacketFactor(lambda/4)
	length := k * lambda / 2
	end := real(antenna.EndFed(r.FrequencyHz, k*lambda/2, w))
	end = math.Min(math.Max(end, EndResistance[0]), EndResistance[1])
	m, ok := MatchEnd(line, r.FrequencyHz, end)
	p := antenna.Plan{Factor: antenna.Factor{Value: k, Lo: k * 0.97, Hi: k * 1.03,
		Why: []string{"half-wave less 0.05 for its ends", fmt.Sprintf("jacket %.3f", w.JacketFactor(lambda/4)),
			fmt.Sprintf("matching section shorter by the line's velocity factor %.2f", line.VF)}}}
	if !ok {
		p.Faults = append(p.Faults, antenna.Say("line", "ask",
			"%s cannot turn %.0f ohm quite into 50; a line of lower impedance can", line.Name, two(end)))
	}
	length = settle(&p.Factor, s.Radiator().M, length)
	s.Fill(antenna.Radiator, length)
	stub, tap := s.Fill("stub", m.Stub), s.Fill("tap", m.Tap)
	// Wet air holds about 0.5 kV a millimetre over a web; at least 12 mm for 50 W.
	gap := s.Fill("gap", math.Max(0.012, math.Sqrt(2*antenna.Or(r.PowerW, 50)*end)/0.5e6))
	switch s.Variant {
	case "sloper":
		s.Fill(antenna.FeedHeight, 1)
		s.Fill(antenna.PoleHeight, antenna.Or(s.FarHeight().M, math.Min(7, 0.8*s.Radiator().M+stub)))
		s.Fill(antenna.FarHeight, s.PoleHeight().M)
	default:
		s.Fill(antenna.FeedHeight, math.Max(0.3, tap+0.2))
		s.Fill(antenna.FarHeight, s.FeedHeight().M-tap+stub+s.Radiator().M)
		s.Fill(antenna.PoleHeight, s.FarHeight().M)
	}
	total := stub + gap + length
	if s.Variant == "roll-up" {
		p.Pieces = []antenna.Piece{exact("line", line.Name, 1, total, allow("short, twisted and soldered", quantity.Metres(0.01)),
			allow("loop to hang it by", quantity.Metres(0.1)), allow("trim allowance", quantity.Metres(length*r.TrimPercent/100)))}
	} else {
		p.Pieces = []antenna.Piece{piece(r, "radiator", 1, length, 2),
			exact("matching section", line.Name, 1, stub, allow("short and joint, stripped", quantity.Metres(0.03)))}
	}
	high, _ := MatchEnd(line, r.FrequencyHz, EndResistance[1])
	lowEnd, _ := MatchEnd(line, r.FrequencyHz, EndResistance[0])
	p.Figures = []phrase.Figure{
		figure("Matching section", fine(r, stub), fmt.Sprintf("a quarter-wave in this line is %s; the tap's reactance takes the rest",
			fine(r, line.VF*lambda/4))),
		figure("Tap above the short", fine(r, tap), fmt.Sprintf("%s to %s for an end of %.0f to %.0f ohm: clip first, solder later",
			fine(r, high.Tap), fine(r, lowEnd.Tap), EndResistance[1], EndResistance[0])),
		figure("Gap above the section", fine(r, gap), "in the conductor that does not carry the radiator; wide enough for the voltage"),
		figure("Total from short to end", say(r, total), "section, gap and radiator"),
	}
	p.Strips = []antenna.Strip{{Title: "Foot of the matching section", Edge: "the short", MM: math.Ceil(lowEnd.Tap*100+1) * 10,
		Marks: []antenna.Mark{{MM: high.Tap * 1000, Text: fmt.Sprintf("%.0f ohm end", EndResistance[1])}, {MM: tap * 1000, Text: "tap"},
			{MM: lowEnd.Tap * 1000, Text: fmt.Sprintf("%.0f ohm end", EndResistance[0])}}}}
	if p.Strips[0].MM > 270 {
		p.Strips = nil
	}
	p.Tables = append(p.Tables, runningMeasure(r, s.Variant == "roll-up", stub, tap, gap, length))
	p.Expect = fmt.Sprintf("50 ohm with an end of %.0f ohm; move the tap by a tenth when R is off, the radiator when the frequency is",
		two(end))
	p.Shape = s
	p.Schools = []antenna.School{
		school("match", "quarter-wave of line", fmt.Sprintf("%s of line, hardly any loss", say(r, stub)),
			"one band; the section hangs long on the low bands"),
		school("match", "transformer 1:49", "0.3 to 1.5 dB in the core", "any harmonic band; small"),
	}
	return p
}

// runningMeasure lists every place of a J along one tape from the shorted end, and from its far end: each is measured twice, and both
// add up to the whole.
func runningMeasure(r antenna.Request, ribbon bool, stub, tap, gap, length float64) antenna.Table {
	whole := stub + length
	if ribbon {
		whole += gap
	}
	t := antenna.Table{Title: "Along one tape", Columns: []string{"place", "from the short", "from the far end"},
		Note: "Strip and mark the places before you cut. Measured from either end, the two figures of a place add up to " + say(r, whole) + "."}
	add := func(place string, at float64) {
		t.Rows = append(t.Rows, []string{place, fine(r, at), fine(r, whole-at)})
	}
	add("short, twisted and soldered", 0)
	add("tap, both conductors stripped", tap)
	if ribbon {
		add("gap begins, one conductor cut", stub)
		add("gap ends", stub+gap)
	} else {
		add("end of the section, joint to the radiator", stub)
	}
	add("far end, before the knot", whole)
	return t
}

func layJ(s antenna.Shape) (antenna.Drawing, []antenna.Fault) {
	stub, tap := s.M("stub"), s.M("tap")
	base := math.Max(0, s.FeedHeight().M-tap)
	feed := antenna.Point{0, 0, base + tap}
	top := antenna.Point{0, 0, base + stub}
	d := antenna.Drawing{Feed: feed, Lines: []antenna.Line{{Role: "line", From: antenna.Point{0, 0, base}, To: top,
		Size: quantity.Metres(stub)}}}
	var faults []antenna.Fault
	l := s.Radiator().M
	end := antenna.Point{0, 0, top[2] + l}
	if s.Variant == "sloper" {
		rise := s.FarHeight().M - top[2]
		if math.Abs(rise) > l {
			faults = append(faults, antenna.CannotReach("far_height", l, top[2], s.FarHeight().M))
			rise = math.Copysign(l, rise)
		}
		end = antenna.Point{math.Sqrt(math.Max(0, l*l-rise*rise)), 0, top[2] + rise}
	} else if p := s.PoleHeight(); p.Typed != "" && end[2] > p.M+0.3 {
		faults = append(faults, antenna.Say("pole_height", "ask", "it ends %s up, above the pole of %s", quantity.Long(end[2]),
			quantity.Long(p.M)))
	}
	if stub > 0 && tap >= stub {
		faults = append(faults, antenna.FaultAt("tap", "error", "the tap lies above the matching section"))
	}
	d.Lines = append(d.Lines, antenna.Pole(end[0], math.Max(end[2], s.PoleHeight().M)),
		antenna.Line{Role: "radiator", From: top, To: end, Size: quantity.Metres(l)})
	d.Spots = []antenna.Spot{{Kind: "tap", At: feed, Text: "tap"}, {Kind: "gap", At: top, Text: "gap"}}
	return d, faults
}
