package family

import (
	"reed/core/antenna"
	"reed/core/circuit"
	"reed/core/entry"
)

func lineChoice() entry.Field {
	f := entry.Field{ID: "line", Label: "Kind of line", Kind: entry.Choice}
	for _, l := range circuit.OpenLines() {
		f.Options = append(f.Options, entry.Option{ID: l.ID, Name: l.Name})
	}
	return f
}

// balanced is the line of a shape; usual when none is named.
func balanced(s antenna.Shape, usual string) circuit.Coax {
	l, ok := circuit.OpenLine(s.W("line", usual))
	if !ok {
		l, _ = circuit.OpenLine("window-450")
	}
	if vf := s.N("line_vf", 0); vf > 0 {
		l.VF = vf
	}
	return l
}
