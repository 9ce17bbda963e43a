// Package bench is the workbench beside the antennas: coil, transformer, cable, tuner and the cutting of
// radial wire. A tool is a list of fields and what they come to; no screen has to know it.
package bench

import (
	"fmt"
	"math"
	"sort"
	"strconv"
	"strings"

	"reed/core/antenna"
	"reed/core/circuit"
	"reed/core/entry"
	"reed/core/exposure"
	"reed/core/kit"
	"reed/core/moment/earth"
	"reed/core/numeric"
	"reed/core/phrase"
	"reed/core/quantity"
)

// Tool is one calculation. From is the kind of thing of the bag whose texts fill its fields.
type Tool struct {
	ID     string        `json:"id"`
	Name   string        `json:"name"`
	About  string        `json:"about"`
	From   string        `json:"from,omitempty"`
	Fields []entry.Field `json:"fields"`
	work   func(entry.Values, say) Answer
}

// Answer is a tool's result: the sentence first, then its figures, tables and strips to print.
type Answer struct {
	Sentence string          `json:"sentence"`
	Figures  []phrase.Figure `json:"figures"`
	Tables   []antenna.Table `json:"tables"`
	Strips   []antenna.Strip `json:"strips"`
	Faults   []entry.Fault   `json:"faults"`
	Drawing  antenna.Drawing `json:"drawing,omitzero"`
}

// say prints lengths in the reader's system.
type say struct{ units quantity.System }

func (s say) m(m float64) string  { return s.units.Long(m) }
func (s say) mm(m float64) string { return s.units.Small(m) }

func figure(label, value, why string) phrase.Figure {
	return phrase.Figure{Label: label, Value: value, Why: why}
}

func ask(path, format string, args ...any) entry.Fault {
	return entry.Fault{Path: path, Severity: "ask", Text: fmt.Sprintf(format, args...)}
}

func wrong(path, format string, args ...any) entry.Fault {
	return entry.Fault{Path: path, Severity: "error", Text: fmt.Sprintf(format, args...)}
}

var (
	frequencies = entry.Field{ID: "for", Label: "On", Kind: entry.Frequencies, Unit: "MHz", Usual: "7.1 14.1 28.5"}
	power       = entry.Field{ID: "power_w", Label: "Power", Kind: entry.Amount, Unit: "W", Max: 2000, Usual: "10"}
)

func amount(id, label, unit, usual string, lo, hi float64) entry.Field {
	return entry.Field{ID: id, Label: label, Kind: entry.Amount, Unit: unit, Usual: usual, Min: lo, Max: hi}
}

func size(id, label, usual string, most float64) entry.Field {
	return entry.Field{ID: id, Label: label, Kind: entry.Size, Unit: "mm", Usual: usual, Max: most}
}

// Tools lists the bench in its order.
func Tools() []Tool {
	core := entry.Field{ID: "core", Label: "Core", Kind: entry.Choice, Usual: circuit.Cores()[0].Name}
	for _, c := range circuit.Cores() {
		core.Options = append(core.Options, entry.Option{ID: c.ID, Name: c.Name})
	}
	ground := entry.Field{ID: "ground", Label: "Ground", Kind: entry.Choice, Usual: "Average soil, loam"}
	for _, g := range earth.Kinds() {
		ground.Options = append(ground.Options, entry.Option{ID: g.ID, Name: g.Name})
	}
	cable := func(id, label, usual string) entry.Field {
		f := entry.Field{ID: id, Label: label, Kind: entry.Choice, Usual: usual}
		for _, c := range append(circuit.Cables(), circuit.OpenLines()...) {
			f.Options = append(f.Options, entry.Option{ID: c.ID, Name: c.Name})
		}
		return f
	}
	mode := entry.Field{ID: "duty", Label: "Mode", Kind: entry.Choice, Usual: "CW",
		Options: []entry.Option{{ID: "cw", Name: "CW"}, {ID: "ssb", Name: "SSB"}, {ID: "digital", Name: "digital, key down"}}}
	return []Tool{
		{ID: "coil", Name: "Coil", From: "coil", work: coil,
			About: "Turns to microhenries and back, Q, self-resonance, loss and voltage, and what each tap gives.", Fields: []entry.Field{
				size("coil_former", "Former, outer diameter", "40 mm", 0.3), size("coil_wire", "Wire, bare diameter", "1 mm", 0.01),
				size("coil_pitch", "Pitch, turn to turn", "the wire and a tenth", 0.05), size("coil_length", "or the whole winding", "by the pitch", 1),
				amount("turns", "Turns", "", "", 0.5, 2000), amount("want_uh", "or wanted", "uH", "", 0.05, 2000),
				{ID: "for", Label: "On", Kind: entry.Frequencies, Unit: "MHz", Usual: "3.6 7.1 14.1"}, power,
				amount("current_at", "Current at the coil", "A", "into 35 ohm", 0, 100)}},
		{ID: "transformer", Name: "Transformer", From: "transformer", work: transformer,
			About: "Ratio from turns, which ratio for which load, and what the core bears and loses on each band.", Fields: []entry.Field{
				{ID: "primary", Label: "Primary turns", Kind: entry.Count, Max: 240, Usual: "3"},
				{ID: "secondary", Label: "Secondary turns", Kind: entry.Count, Max: 240, Usual: "21"}, core,
				{ID: "stack", Label: "Stacked cores", Kind: entry.Count, Max: 6, Usual: "1"},
				amount("load", "Load", "ohm", "50 times the ratio", 1, 20000), amount("leakage_uh", "Leakage", "uH", "0", 0, 10),
				amount("across_pf", "Capacitor across the primary", "pF", "0", 0, 1000),
				{ID: "for", Label: "On", Kind: entry.Frequencies, Unit: "MHz", Usual: "7.1 14.1 21.1 28.5"}, power, mode}},
		{ID: "cable", Name: "Cable", From: "coax", work: cables,
			About: "What arrives through the actual length with the actual SWR, and what another cable would change.", Fields: []entry.Field{
				cable("type", "Cable", "RG-58"), {ID: "length", Label: "Length", Kind: entry.Length, Max: 200, Usual: "15 m"},
				amount("swr", "SWR at the antenna", "", "2", 1, 100), cable("second", "beside", "RG-174"), cable("third", "and", "RG-213"),
				frequencies, power}},
		{ID: "tuner", Name: "Tuner", From: "tuner", work: tuner,
			About: "Whether a unit matches an impedance, where its settings are and what it loses.", Fields: []entry.Field{
				{ID: "network", Label: "Network", Kind: entry.Choice, Usual: kit.Networks[0].Name, Options: kit.Networks},
				amount("l_max", "Coil up to", "uH", "25", 0.1, 200), amount("c_min", "Capacitor from", "pF", "10", 0.1, 500),
				amount("c_max", "to", "pF", "1000", 5, 10000), amount("q_l", "Q of the coil", "", "100", 5, 1000),
				amount("r", "R", "ohm", "200", 0.1, 20000), amount("x", "X", "ohm", "0", -20000, 20000), frequencies, power}},
		{ID: "budget", Name: "Loss budget", work: budget, About: "Where the watts go between the radio's socket and the sky.",
			Fields: []entry.Field{
				{ID: "for", Label: "On", Kind: entry.Frequencies, Unit: "MHz", Usual: "7.1"}, power,
				amount("tuner_db", "Tuner loses", "dB", "0", 0, 30), cable("type", "Cable", "RG-58"),
				{ID: "length", Label: "Length", Kind: entry.Length, Max: 200, Usual: "15 m"},
				amount("swr", "SWR at the antenna", "", "1.5", 1, 100), amount("transformer_db", "Transformer loses", "dB", "0", 0, 30),
				amount("choke_db", "Choke loses", "dB", "0", 0, 30),
				amount("radiation", "Radiation resistance", "ohm", "36", 0.01, 10000), amount("coil_ohm", "Coil's resistance", "ohm", "0", 0, 1000),
				amount("wire_ohm", "Wire's resistance", "ohm", "0.5", 0, 1000), amount("ground_ohm", "Ground's resistance", "ohm", "10", 0, 10000)}},
		{ID: "radials", Name: "Radial wire", work: radials, About: "So many metres of radial wire for a vertical: cut how?",
			Fields: []entry.Field{
				{ID: "wire", Label: "Radial wire", Kind: entry.Length, Max: 2000, Usual: "40 m"},
				{ID: "height", Label: "Height of the vertical", Kind: entry.Length, Max: 30, Usual: "a quarter-wave"},
				{ID: "for", Label: "On", Kind: entry.Frequencies, Unit: "MHz", Usual: "7.1"}, ground}},
	}
}

// Work answers one tool from typed texts. Unknown tools are a fault.
func Work(id string, texts map[string]string, unit string) Answer {
	for _, t := range Tools() {
		if t.ID != id {
			continue
		}
		v, faults := entry.Read(t.Fields, texts, unit)
		if len(faults) > 0 {
			return Answer{Sentence: "One of these entries was not understood.", Faults: faults}.full()
		}
		return t.work(v, say{quantity.In(unit)}).full()
	}
	return Answer{Faults: []entry.Fault{wrong("tool", "%q is not on the bench", id)}}.full()
}

// full leaves no list nil, so that what reads it need not ask.
func (a Answer) full() Answer {
	if a.Figures == nil {
		a.Figures = []phrase.Figure{}
	}
	if a.Tables == nil {
		a.Tables = []antenna.Table{}
	}
	if a.Strips == nil {
		a.Strips = []antenna.Strip{}
	}
	if a.Faults == nil {
		a.Faults = []entry.Fault{}
	}
	return a
}

func wanted(v entry.Values, usual ...float64) []float64 {
	var out []float64
	for i := 0; ; i++ {
		f, ok := v.Numbers[entry.Nth("for", i)]
		if !ok {
			break
		}
		out = append(out, f)
	}
	if len(out) == 0 {
		out = usual
	}
	sort.Float64s(out)
	return out
}

func or(v, otherwise float64) float64 {
	if v == 0 {
		return otherwise
	}
	return v
}

// metres is a length that was typed, 0 too, or otherwise another.
func metres(v entry.Values, id string, otherwise float64) float64 {
	if l, typed := v.Sizes[id]; typed {
		return l.M
	}
	return otherwise
}

func two(v float64) string {
	r, err := strconv.ParseFloat(strconv.FormatFloat(v, 'g', 2, 64), 64)
	if err != nil {
		return strconv.FormatFloat(v, 'g', 2, 64)
	}
	return strconv.FormatFloat(r, 'f', -1, 64)
}

func coil(v entry.Values, s say) (a Answer) {
	c := circuit.Coil{Turns: v.N("turns", 0), Former: or(v.M("coil_former"), 0.04), Wire: or(v.M("coil_wire"), 0.001),
		Length: v.M("coil_length")}
	c.Pitch = or(v.M("coil_pitch"), c.Wire*1.1)
	if c.Pitch < c.Wire {
		a.Faults = append(a.Faults, wrong("coil_pitch", "a pitch of %s is less than the wire's %s", s.mm(c.Pitch), s.mm(c.Wire)))
		return a
	}
	want := v.N("want_uh", 0)
	if c.Turns == 0 {
		if want == 0 {
			want = 34
		}
		n, ok := c.TurnsFor(want * 1e-6)
		if !ok {
			a.Faults = append(a.Faults, wrong("want_uh", "%.3g uH cannot be wound on this former", want))
			return a
		}
		c.Turns = n
		a.Sentence = fmt.Sprintf("%.1f turns give %.3g uH.", n, want)
	} else {
		a.Sentence = fmt.Sprintf("%.3g turns are %.3g uH.", c.Turns, c.L()*1e6)
		if want > 0 {
			probe := c
			if n, ok := probe.TurnsFor(want * 1e-6); ok {
				a.Sentence += fmt.Sprintf(" %.3g uH would be %.1f turns.", want, n)
			}
		}
	}
	if c.Crowded() {
		a.Faults = append(a.Faults, wrong("coil_length", "%.1f turns of %s do not fit on %s", c.Turns, s.mm(c.Wire), s.mm(c.Winding())))
	}
	a.Figures = []phrase.Figure{
		figure("Inductance", fmt.Sprintf("%.3g uH", c.L()*1e6), "current sheet, Nagaoka's factor by Lundin's fit"),
		figure("Winding", s.mm(c.Winding()), fmt.Sprintf("mean diameter %s", s.mm(c.Mean()))),
		figure("Wire to wind", s.m(c.WireLength()), "and leads"),
		figure("Self-resonance", quantity.ToKHz(math.Round(c.SelfResonance()/1e5)*1e5)+" MHz", "Medhurst; one end near earth"),
	}
	watts := v.N("power_w", 10)
	// Fed as into 35 ohm, with its own loss in series: it never takes more than there is.
	current := func(loss float64) float64 { return or(v.N("current_at", 0), math.Sqrt(watts/(35+loss))) }
	amps := current(0)
	t := antenna.Table{Title: "On each frequency", Columns: []string{"MHz", "shows", "reactance", "Q", "loss resistance", "takes",
		"voltage"}, Note: fmt.Sprintf("With up to %.2g A in it. Q is computed for clean copper; formers, dirt and rain leave 0.6 to 1 of it.",
		amps)}
	for _, f := range wanted(v, 3.6e6, 7.1e6, 14.1e6) {
		l, r, q, ok := c.At(f)
		if !ok {
			t.Rows = append(t.Rows, []string{quantity.ToKHz(f), "no inductor", "", "", "", "", ""})
			a.Faults = append(a.Faults, ask("for", "on %s MHz the coil is at or above its self-resonance", quantity.ToKHz(f)))
			continue
		}
		x := 2 * math.Pi * f * l
		amps := current(r)
		t.Rows = append(t.Rows, []string{quantity.ToKHz(f), fmt.Sprintf("%.3g uH", l*1e6), two(x) + " ohm", two(q*0.6) + " to " + two(q),
			fmt.Sprintf("%.1f to %.1f ohm", r, r/0.6), quantity.Watts(amps * amps * r), two(amps*x*math.Sqrt2) + " V peak"})
	}
	taps := antenna.Table{Title: "Taps", Columns: []string{"turns in", "at", "inductance"}}
	strip := antenna.Strip{Title: fmt.Sprintf("Coil, %.3g uH", c.L()*1e6), Edge: "the first turn", MM: c.Winding() * 1000,
		Marks: []antenna.Mark{}}
	step := math.Max(1, math.Round(c.Turns/10))
	for n := step; n < c.Turns; n += step {
		mm := n / c.Turns * c.Winding()
		taps.Rows = append(taps.Rows, []string{fmt.Sprintf("%.0f", n), s.mm(mm), fmt.Sprintf("%.3g uH", c.Part(n)*1e6)})
		strip.Marks = append(strip.Marks, antenna.Mark{MM: mm * 1000, Text: fmt.Sprintf("%.0f", n)})
	}
	a.Tables = []antenna.Table{t, taps}
	if strip.MM <= 270 {
		a.Strips = []antenna.Strip{strip}
	}
	return a
}

func transformer(v entry.Values, s say) (a Answer) {
	core, _ := circuit.CoreNamed(v.W("core", circuit.Cores()[0].ID))
	t := circuit.Transformer{Core: core, Stack: int(v.N("stack", 1)), Primary: v.N("primary", 3), Secondary: v.N("secondary", 21),
		Leakage: v.N("leakage_uh", 0) * 1e-6, Across: v.N("across_pf", 0) * 1e-12}
	if t.Primary < 1 || t.Secondary < 1 {
		a.Faults = []entry.Fault{wrong("primary", "both windings need at least one turn")}
		return a
	}
	ratio := t.Ratio()
	load := complex(or(v.N("load", 0), 50*ratio), 0)
	watts := v.N("power_w", 10)
	duty := exposure.Keyed(v.W("duty", "cw"))
	a.Sentence = fmt.Sprintf("%.0f to %.0f turns are 1:%.3g: %.0f ohm become 50.", t.Primary, t.Secondary, ratio, 50*ratio)
	table := antenna.Table{Title: "On each band", Columns: []string{"MHz", "magnetising", "loses", "SWR", "in the core", "flux",
		"warmer by"}, Note: "Core by its data, still air, the duty of the mode. The rise is good to a factor of 1.5."}
	for _, f := range wanted(v, 7.1e6, 14.1e6, 21.1e6, 28.5e6) {
		w, tesla, kelvin := t.Heating(f, load, watts, duty)
		zm := t.Magnetising(f)
		abs := math.Hypot(real(zm), imag(zm))
		in := t.Input(f, load)
		g := circuit.Gamma(in, 50)
		table.Rows = append(table.Rows, []string{quantity.ToKHz(f), two(abs) + " ohm", fmt.Sprintf("%.2f dB", t.Loss(f, load)),
			fmt.Sprintf("%.2f", circuit.SWR(math.Hypot(real(g), imag(g)))), quantity.Watts(w), two(tesla*1000) + " mT", two(kelvin) + " K"})
		if t.MagnetisingTooLow(f, 50) && len(table.Rows) == 1 { // the lowest band decides on the turns
			a.Faults = append(a.Faults, ask("primary",
				"on %s MHz the primary is only %s ohm, under 4 times the source: %d turns at least, and as many times more on the secondary",
				quantity.ToKHz(f), two(abs), int(math.Ceil(t.Primary*math.Sqrt(200/abs)))))
		}
		if kelvin > 60 {
			a.Faults = append(a.Faults, ask("power_w",
				"at %s on %s MHz the core would grow some %s K warmer: it may crack or lose its permeability. Less power, a larger core or a "+
					"second one", quantity.Watts(watts), quantity.ToKHz(f), two(kelvin)))
		}
	}
	other := antenna.Table{Title: "Which ratio for which load", Columns: []string{"turns", "ratio", "is 50 ohm for", "under SWR 2 from", "to"}}
	for _, turns := range [][2]float64{{1, 2}, {1, 3}, {2, 12}, {2, 14}, {3, 21}, {3, 24}, {2, 18}} {
		r := math.Pow(turns[1]/turns[0], 2)
		other.Rows = append(other.Rows, []string{fmt.Sprintf("%.0f:%.0f", turns[0], turns[1]), fmt.Sprintf("1:%.3g", r),
			fmt.Sprintf("%.0f ohm", 50*r), fmt.Sprintf("%.0f", 25*r), fmt.Sprintf("%.0f ohm", 100*r)})
	}
	a.Tables = []antenna.Table{table, other}
	a.Figures = []phrase.Figure{figure("Core", core.Name, fmt.Sprintf("section %.0f mm2, path %.0f mm, mu %.0f", core.Area*1e6,
		core.Path*1e3, core.Mu)), figure("Two back to back", "measure both, halve it",
		"or end one in a resistor of the load's size and sweep the other winding")}
	return a
}

func cables(v entry.Values, s say) (a Answer) {
	length, swr, watts := metres(v, "length", 15), v.N("swr", 2), v.N("power_w", 10)
	find := func(id string) circuit.Coax {
		c, ok := circuit.Cable(id)
		if !ok {
			c, _ = circuit.OpenLine(id)
		}
		return c
	}
	list := []circuit.Coax{find(v.W("type", "RG-58")), find(v.W("second", "RG-174")), find(v.W("third", "RG-213"))}
	all := wanted(v, 7.1e6, 14.1e6, 28.5e6)
	for _, f := range all {
		t := antenna.Table{Title: quantity.ToKHz(f) + " MHz", Columns: []string{"cable", "weighs", "matched", "with this SWR", "arrives",
			"SWR at the radio"}}
		for i, c := range list {
			if i > 0 && c.ID == list[0].ID {
				continue
			}
			matched := c.MatchedLoss(f, length)
			total := circuit.TotalLoss(matched, swr)
			t.Rows = append(t.Rows, []string{c.Name, fmt.Sprintf("%.0f g", c.Grams*length), fmt.Sprintf("%.2f dB", matched),
				fmt.Sprintf("%.2f dB", total), quantity.Watts(watts * math.Pow(10, -total/10)), fmt.Sprintf("%.2f", circuit.SWRAtInput(matched, swr))})
		}
		a.Tables = append(a.Tables, t)
	}
	top := all[len(all)-1]
	first := circuit.TotalLoss(list[0].MatchedLoss(top, length), swr)
	a.Sentence = fmt.Sprintf("Through %s of %s, %s of %s arrive on %s MHz.", s.m(length), list[0].Name,
		quantity.Watts(watts*math.Pow(10, -first/10)), quantity.Watts(watts), quantity.ToKHz(top))
	if seen := circuit.SWRAtInput(list[0].MatchedLoss(top, length), swr); seen < swr*0.9 {
		a.Figures = append(a.Figures, figure("Your cable flatters you", fmt.Sprintf("SWR %.1f at the radio", seen),
			fmt.Sprintf("it is %.1f at the antenna; what is missing was lost on the way", swr)))
	}
	a.Figures = append(a.Figures, figure("Tables", "typical data", "of the cable's type; your own cable's data can stand in the bag"))
	return a
}

func tuner(v entry.Values, _ say) (a Answer) {
	u := circuit.Unit{Kind: v.W("network", "L"), LMin: 0.02e-6, LMax: v.N("l_max", 25) * 1e-6, CMin: v.N("c_min", 10) * 1e-12,
		CMax: v.N("c_max", 1000) * 1e-12, QL: v.N("q_l", 100), QC: 1000}
	if u.CMax <= u.CMin {
		a.Faults = []entry.Fault{wrong("c_max", "the capacitor ends at %.0f pF, below where it begins", u.CMax*1e12)}
		return a
	}
	z := complex(v.N("r", 200), v.N("x", 0))
	watts := v.N("power_w", 10)
	t := antenna.Table{Title: "Settings", Columns: []string{"MHz", "matches", "coil", "capacitor at the radio", "at the antenna", "SWR left",
		"loses", "goes on"}}
	reached := 0
	all := wanted(v, 7.1e6, 14.1e6, 28.5e6)
	pf := func(c float64) string {
		if c == 0 {
			return "out"
		}
		return fmt.Sprintf("%.0f pF", c*1e12)
	}
	for _, f := range all {
		set, ok, why := u.Match(z, f)
		says := "yes"
		if !ok {
			says = "no: " + why
		} else {
			reached++
		}
		t.Rows = append(t.Rows, []string{quantity.ToKHz(f), says, fmt.Sprintf("%.2f uH", set.L*1e6), pf(set.C1), pf(set.C2),
			fmt.Sprintf("%.2f", math.Min(set.SWR, 999)), fmt.Sprintf("%.2f dB", set.Loss), quantity.Watts(watts * math.Pow(10, -set.Loss/10))})
	}
	switch {
	case reached == len(all):
		a.Sentence = fmt.Sprintf("It matches %.0f %+.0fj ohm on all %d.", real(z), imag(z), len(all))
	case reached == 0:
		a.Sentence = fmt.Sprintf("It does not match %.0f %+.0fj ohm.", real(z), imag(z))
	default:
		a.Sentence = fmt.Sprintf("It matches %.0f %+.0fj ohm on %d of %d.", real(z), imag(z), reached, len(all))
	}
	a.Tables = []antenna.Table{t}
	return a
}

func budget(v entry.Values, s say) (a Answer) {
	f, watts := wanted(v, 7.1e6)[0], v.N("power_w", 10)
	c, ok := circuit.Cable(v.W("type", "RG-58"))
	if !ok {
		c, _ = circuit.OpenLine(v.W("type", ""))
	}
	length, swr := metres(v, "length", 15), v.N("swr", 1.5)
	matched := c.MatchedLoss(f, length)
	left := v.N("radiation", 36)
	coil, wire, ground := v.N("coil_ohm", 0), v.N("wire_ohm", 0.5), v.N("ground_ohm", 10)
	all := left + coil + wire + ground
	share := func(before, lost float64) float64 { return 10 * math.Log10(before/(before-lost)) }
	stages := circuit.Budget(watts, []circuit.Stage{
		{Name: "tuner", DB: v.N("tuner_db", 0)}, {Name: "cable, matched", DB: matched, Why: fmt.Sprintf("%s of %s", s.m(length), c.Name)},
		{Name: "cable, by its SWR", DB: circuit.TotalLoss(matched, swr) - matched, Why: fmt.Sprintf("SWR %.3g at the antenna", swr)},
		{Name: "transformer", DB: v.N("transformer_db", 0)}, {Name: "choke", DB: v.N("choke_db", 0)},
		{Name: "coil", DB: share(all, coil)}, {Name: "wire", DB: share(all-coil, wire)}, {Name: "ground", DB: share(all-coil-wire, ground)},
	})
	t := antenna.Table{Title: quantity.ToKHz(f) + " MHz, stage by stage", Columns: []string{"stage", "loses", "of the power", "left"}}
	before, worst := watts, stages[0]
	for _, x := range stages {
		t.Rows = append(t.Rows, []string{strings.TrimSpace(x.Name + " " + x.Why), fmt.Sprintf("%.2f dB", x.DB),
			fmt.Sprintf("%.0f %%", 100*(before-x.Watts)/watts), quantity.Watts(x.Watts)})
		if x.DB > worst.DB {
			worst = x
		}
		before = x.Watts
	}
	a.Sentence = fmt.Sprintf("%s of %s are radiated, %.1f dB less.", quantity.Watts(before), quantity.Watts(watts), circuit.SumDB(stages))
	a.Figures = []phrase.Figure{figure("Most is lost in the", worst.Name, fmt.Sprintf("%.1f dB", worst.DB)),
		figure("Half an S-unit", "3 dB", "is hard to hear; 6 dB is a whole one")}
	a.Tables = []antenna.Table{t}
	return a
}

// Cut is one way to cut radial wire: how many of which length (m), and the resistance in ohms that the
// ground then adds.
type Cut struct {
	Count        int
	Length, Loss float64
}

// CutRadials tries every count of equal radials, from 2 to 64, that a length of wire gives for a vertical of
// a height (m) over a ground at f hertz, none longer than 0.3 wavelength; the best is the one with the
// least added resistance. Earth and screen by the compensation theorem (see earth.Screen).
func CutRadials(g earth.Ground, f, height, wire float64) (all []Cut, best int) {
	for n := 2; n <= 64; n++ {
		l := math.Min(wire/float64(n), 0.3*numeric.Light/f)
		all = append(all, Cut{n, l, math.Max(0.5, real(earth.Screen(g, f, height, n, l, 0.0005)))})
		if all[len(all)-1].Loss < all[best].Loss-0.05 {
			best = len(all) - 1
		}
	}
	return all, best
}

func radials(v entry.Values, s say) (a Answer) {
	f := wanted(v, 7.1e6)[0]
	g, _ := earth.Kind(v.W("ground", "average"))
	wire, height := or(v.M("wire"), 40), or(v.M("height"), numeric.Light/f/4)
	all, best := CutRadials(g, f, height, wire)
	k := 2 * math.Pi * f / numeric.Light
	radiation := 40 * math.Pow(math.Tan(k*math.Min(height, numeric.Light/f/4)/2), 2) // sinusoidal current, 40 ohm at a quarter-wave
	b := all[best]
	share := func(c Cut) float64 { return radiation / (radiation + c.Loss) }
	a.Sentence = fmt.Sprintf("Cut %s of wire into %d radials of %s.", s.m(wire), b.Count, s.m(b.Length))
	t := antenna.Table{Title: "The same wire cut otherwise", Columns: []string{"radials", "each", "ground adds", "radiated",
		"against the best"}, Note: "A first answer by the screen over the earth; the loss of a raised set and the solver's own answer come " +
		"on top. Over good ground the choice hardly matters."}
	for _, n := range []int{2, 3, 4, 6, 8, 12, 16, 24, 32, 48, 64} {
		c := all[n-2]
		t.Rows = append(t.Rows, []string{fmt.Sprint(n), s.m(c.Length), two(c.Loss) + " ohm", fmt.Sprintf("%.0f %%", 100*share(c)),
			fmt.Sprintf("%.1f dB", 10*math.Log10(share(c)/share(b)))})
	}
	near := 0
	for _, c := range all {
		if 10*math.Log10(share(b)/share(c)) < 0.2 {
			near++
		}
	}
	a.Figures = []phrase.Figure{figure("Ground adds", two(b.Loss)+" ohm",
		fmt.Sprintf("to about %s ohm of radiation: %.0f %% radiated", two(radiation), 100*share(b))),
		figure("It is not critical", fmt.Sprintf("%d counts", near), "lie within 0.2 dB of the best"),
		figure("Raised instead", fmt.Sprintf("%d of %s", min(4, int(wire/(0.24*numeric.Light/f))), s.m(0.24*numeric.Light/f)),
			"two to four, half a metre up or more, cut to resonance: a few ohm")}
	if wire < 0.24*numeric.Light/f*2 {
		a.Figures = a.Figures[:2]
	}
	a.Tables = []antenna.Table{t}
	d := antenna.Drawing{View: "top"}
	for i := range b.Count {
		angle := 2 * math.Pi * float64(i) / float64(b.Count)
		l := antenna.Line{Role: "radial", To: antenna.Point{b.Length * math.Cos(angle), b.Length * math.Sin(angle), 0}}
		if i == 0 {
			l.Size = quantity.Metres(b.Length)
		}
		d.Lines = append(d.Lines, l)
	}
	a.Drawing = d
	return a
}
