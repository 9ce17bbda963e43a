package family

import (
	"math"

	"reed/core/antenna"
	"reed/core/circuit"
	"reed/core/entry"
)

// legsLine is a line made of the legs' own wire, two of it side by side.
const legsLine = "legs"

func lineChoice() entry.Field {
	f := entry.Field{ID: "line", Label: "Kind of line", Kind: entry.Choice}
	for _, l := range circuit.OpenLines() {
		f.Options = append(f.Options, entry.Option{ID: l.ID, Name: l.Name})
	}
	return f
}

// askOwnLine are the fields of a line that may also be made of the legs' wire, or be another one of a known impedance.
func askOwnLine(s antenna.Shape) []entry.Field {
	kind := lineChoice()
	kind.Options = append(kind.Options, entry.Option{ID: legsLine, Name: "two of the legs' wire, spaced"})
	out := []entry.Field{kind}
	if s.W("line", "") == legsLine {
		out = append(out, askSize("line_spacing", "Spaced by", "middle to middle", 0.5))
	}
	return append(out, withHelp(askAmount("line_z0", "Its impedance", "ohm", 20, 1200), "where it is known"),
		askAmount("line_vf", "Its velocity factor", "", 0.5, 1))
}

// balanced is the line of a shape; usual when none is named.
func balanced(s antenna.Shape, usual string) circuit.Coax {
	id := s.W("line", usual)
	l, ok := circuit.OpenLine(id)
	switch {
	case id == legsLine:
		l = pairOf(s.Conductor(), antenna.Or(s.M("line_spacing"), 0.1))
	case !ok:
		l, _ = circuit.OpenLine("window-450")
	}
	if z := s.N("line_z0", 0); z > 0 {
		l.Z0 = z
	}
	if vf := s.N("line_vf", 0); vf > 0 {
		l.VF = vf
	}
	return l
}

// pairOf is a line of two wires so many metres apart: 120 acosh(s/2a) ohm, its velocity that of the jackets, its loss that
// of the wires' skin.
func pairOf(w antenna.Wire, apart float64) circuit.Coax {
	apart = math.Max(apart, 2.2*w.Outer)
	inductive, capacitive := math.Acosh(apart/(2*w.Radius)), math.Acosh(apart/(2*w.EquivalentRadius()))
	z := 120 * math.Sqrt(inductive*capacitive)
	loss := func(f float64) float64 { // dB for 100 m
		return 100 * 8.685889638 * 2 * circuit.SkinResistance(f, 1, w.Radius, circuit.CopperResistivity) / (2 * z)
	}
	l := circuit.FromTwo(legsLine, z, math.Sqrt(capacitive/inductive), loss(10e6), loss(100e6), 2*w.Grams)
	l.Name = "line of the legs' wire"
	return l
}
